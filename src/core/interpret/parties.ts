/** Who a message is from and to: which columns of its sheet name persons, and which of them is the writer, the other side, the owner. */
import { isFullName } from '../called';
import type { Row, Value } from '../model';
import { saysWay } from '../way-words';
import { endsIn } from './addressees';
import { addressShare, isHandleLike } from './columns';
import type { Context } from './context';
import type { MessageReading } from './reading';
import { isPath } from './files';
import { threadKeyOf } from './flag-rule';
import { FROM_WHOM, TO_WHOM } from './party-words';
import { addressesIn } from './profile';
import { keyOf, placesBy } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { writesInOwnTalks } from './writer-in-rooms';

/** Two columns of which one and the same value stands in one or the other of every row: who wrote, and to whom. */
export function namedPair(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	known: readonly NonNullable<MessageReading['peer']>[],
	context: Context
): NonNullable<MessageReading['peer']>[] {
	if (known.some((p) => p.key !== null) || known.length > 1) return [];
	const recurs = (c: SheetColumn): boolean => {
		const p = c.profile;
		if (used.has(c) || c.column < 0 || p.time || p.many || p.reals > 0 || p.blobs > 0 || p.filled < sheet.sure.length * 0.9) return false;
		if (p.distinct.size < 2 || p.distinct.size > sheet.sure.length * 0.6 || p.mime > 0.2 || p.averageLength > 60) return false;
		return isPairName(c) || (isHandleLike(c) && p.averageLength > 3 && ![...p.distinct.keys()].some((v) => saysWay(String(v))));
	};
	const columns = sheet.columns.filter(recurs);
	for (const a of columns)
		for (const b of columns) {
			if (a === b || sheet.columns.indexOf(a) > sheet.columns.indexOf(b)) continue;
			const [owner] = ownersOfPair(sheet, a, b, context);
			// Where no name says it, the owner must write and be written to.
			if (owner === undefined || !([a, b].every(isPairName) || [a, b].every((c) => c.profile.distinct.has(owner)))) continue;
			const party = (value: SheetColumn): NonNullable<MessageReading['peer']> => ({
				value,
				key: null,
				confidence: 0.6,
				evidence: ['one and the same value stands in it or in the column beside it']
			});
			return [a, b].filter((c) => !known.some((k) => k.value === c)).map(party);
		}
	return [];
}

/** Whether a column's name says that it is one of sender and recipient. */
export const isPairName = (c: SheetColumn): boolean => {
	const name = c.name.split('.').at(-1)!;
	return PAIR_NAME.test(name) || isCalledFor(name, FROM_WHOM) || isCalledFor(name, TO_WHOM);
};
/** Whether a word other than one of two letters, which may mean anything, says it. */
const isCalledFor = (name: string, words: RegExp): boolean => name.length > 2 && words.test(name);
const PAIR_NAME =
	/^(from|to|src|dst|dest|sender|receiver|recipient|author|addressee|source|target|destination)([_.\s-]?(id|name|key|user|who|person|uid|addr|address))?$|send|recip|recei|author/i;

/**
 * A column of names in which each row has the other side or one and the same writer, and the column of that other side.
 * Among the other sides can be rooms, who write nothing themselves.
 */
export function writerBesidePeer(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	context: Context
): { peer: SheetColumn; writer: SheetColumn; owner: string | number; hasRooms: boolean } | null {
	const recurs = (c: SheetColumn): boolean =>
		!used.has(c) &&
		c.column >= 0 &&
		!c.profile.time &&
		!c.profile.many &&
		(c.profile.texts > 0 || areLargeNumbers(c)) &&
		c.profile.averageLength < 60 &&
		c.profile.distinct.size >= 2 &&
		c.profile.distinct.size <= sheet.sure.length * 0.6;
	// A column of those to whom it was written goes with the other side as that of the writers does.
	const columns = sheet.columns.filter(recurs);
	// In what names rooms as well as persons nobody writes.
	const canWrite = columns.filter((c) => !c.made?.either);
	const writers = [...canWrite.filter((c) => !TO_WHOM.test(c.name)), ...canWrite.filter((c) => TO_WHOM.test(c.name))];
	const fits = columns.flatMap((peer) =>
		writers.flatMap((writer) => {
			const only = peer === writer ? null : onlyOtherWriter(peer, writer, sheet, context);
			return only ? [{ peer, writer, ...only }] : [];
		})
	);
	// Seen from the other column a room writes where its members are: the owner is who writes most.
	const rows = sheet.sure.slice(0, ROOM_ROWS);
	const weigh = ({ writer, owner, hasRooms }: (typeof fits)[number]): number => {
		const writes = rows.filter((row) => keyOf(cell(row, writer, context.tables)) === owner).length;
		const said = (context.stated?.includes(owner) ? STATED : 0) - (hasNoAddress(owner, writer, sheet, context) ? NOBODY : 0);
		return (said + Number(hasRooms)) * rows.length + writes;
	};
	return fits.length === 0 ? null : fits.reduce((best, fit) => (weigh(fit) > weigh(best) ? fit : best));
}
/** What it weighs that one is stated to be the owner; and that a list of persons with addresses has none for one: a room's row. */
const STATED = 4;
const NOBODY = 2;

/** Whether the list that a column names persons of has addresses, and none for one of them. */
function hasNoAddress(who: string | number, column: SheetColumn, sheet: Sheet, { references, tables }: Context): boolean {
	const key = (references.get(sheet) ?? []).find((r) => r.from === column)?.key;
	const row = key?.sheet.rows.find((one) => keyOf(key.column ? cell(one, key.column, tables) : one.rowid) === who);
	const addresses = key?.sheet.columns.filter((c) => addressShare(c) > 0.4) ?? [];
	return row !== undefined && addresses.length > 0 && addresses.every((c) => keyOf(cell(row, c, tables)) === null);
}

/** Small numbers are states as well. */
const areLargeNumbers = ({ profile: p }: SheetColumn): boolean =>
	p.ints === p.filled && [...p.distinct.keys()].every((v) => typeof v === 'number' && Math.abs(v) >= SMALL);
const SMALL = 1000;

/** The one who writes where the other side does not, and whether there are rooms in which others do. */
function onlyOtherWriter(
	peer: SheetColumn,
	writer: SheetColumn,
	sheet: Sheet,
	{ tables }: Context
): { owner: string | number; hasRooms: boolean } | null {
	const rows = sheet.sure.slice(0, 2000);
	let same = 0;
	const others = new Set<string | number>();
	const inRooms = new Set<string | number>();
	for (const row of rows) {
		const [where, who] = [keyOf(cell(row, peer, tables)), keyOf(cell(row, writer, tables))];
		if (where === null || who === null) continue;
		if (where === who) same++;
		else if (writer.profile.distinct.has(where)) others.add(who);
		else inRooms.add(who);
	}
	const [owner] = others.size === 0 && inRooms.size === 1 ? inRooms : others;
	if (owner === undefined || others.size > 1 || same <= rows.length * 0.1 || same >= rows.length * 0.95) return null;
	const strangers = [...inRooms].filter((who) => who !== owner && !peer.profile.distinct.has(who));
	if (peer.profile.distinct.has(owner) || strangers.length > inRooms.size * STRANGERS) return null;
	// Of whom there is a conversation with himself one message elsewhere is one in a room.
	return { owner, hasRooms: inRooms.size > 1 || [...inRooms].some((who) => who !== owner && peer.profile.distinct.has(who)) };
}
/** Share of those who write in rooms that need not be known from a conversation of two. */
const STRANGERS = 0.5;

/** Whole numbers of nine to fifteen digits that recur and are no times: telephone numbers, or a service's own. */
export function isLongNumber(c: SheetColumn, sheet: Sheet): boolean {
	const p = c.profile;
	if (p.time || p.texts > 0 || p.blobs > 0 || p.reals > 0 || p.ints === 0 || p.many || p.filled < sheet.sure.length * 0.9) return false;
	if (/size|byte|len|dur|width|height|hash|time|date|stamp/i.test(c.name)) return false;
	return p.low >= 1e8 && p.high < 1e15 && p.distinct.size >= 2 && p.distinct.size <= sheet.sure.length * 0.6;
}

/** Values that recur and are written like names of persons. */
export function isNameLike(c: SheetColumn, sheet: Sheet): boolean {
	const p = c.profile;
	if (p.texts < p.filled || p.name < 0.8 || p.many || p.averageLength < 3 || p.uuid > 0.3 || p.mime > 0 || c.column < 0) return false;
	if (p.filled < sheet.sure.length * 0.9 || p.distinct.size < 2 || p.distinct.size > sheet.sure.length * 0.6) return false;
	const values = [...p.distinct.keys()].map(String);
	return values.filter((v) => /^[\p{Lu}\p{Lo}]/u.test(v) && !saysWay(v)).length > values.length * 0.8;
}

/** Whether the rows of one value have one party, for enough of the values: a thread's have, a running number's have not. */
export function holdsTogether(
	c: SheetColumn,
	parties: readonly NonNullable<MessageReading['peer']>[],
	sheet: Sheet,
	context: Context
): boolean {
	const party = parties.find((p) => addressShare(p.value) > 0.4 || p.key !== null);
	if (!party) return true;
	const perValue = new Map<string | number, { parties: Set<string | number>; rows: number }>();
	for (const row of sheet.sure.slice(0, 4000)) {
		const value = keyOf(cell(row, c, context.tables));
		const who = keyOf(cell(row, party.value, context.tables));
		if (value === null || who === null) continue;
		const seen = perValue.get(value);
		if (seen) {
			seen.parties.add(who);
			seen.rows++;
		} else perValue.set(value, { parties: new Set([who]), rows: 1 });
	}
	const several = [...perValue.values()].filter((v) => v.rows > 1);
	const together = several.filter((v) => v.parties.size === 1 || (v.parties.size === 2 && v.rows > 4));
	return several.length === 0 || together.length >= several.length * 0.4;
}

/** Whether rows of one value have fewer parties than rows of any: where nothing names any, it can be. */
export function isOfFew(c: SheetColumn, parties: readonly NonNullable<MessageReading['peer']>[], sheet: Sheet, context: Context): boolean {
	const [party, other] = parties.filter((p) => p.value !== c && (addressShare(p.value) > 0.4 || p.key !== null));
	if (!party) return true;
	// Of both ends it counts who they are together, whichever way a message went.
	const between = (row: Row): string | number | null => {
		const [one, two] = [party, other].map((end) => (end ? keyOf(cell(row, end.value, context.tables)) : null));
		return one === null || two === null ? (one ?? null) : [String(one), String(two)].sort().join(' ');
	};
	const all = new Map<string | number, number>();
	const perValue = new Map<string | number, { parties: Map<string | number, number>; rows: number }>();
	for (const row of sheet.sure.slice(0, 4000)) {
		const value = keyOf(cell(row, c, context.tables));
		const who = between(row);
		if (value === null || who === null) continue;
		all.set(who, (all.get(who) ?? 0) + 1);
		const seen = perValue.get(value) ?? { parties: new Map(), rows: 0 };
		seen.parties.set(who, (seen.parties.get(who) ?? 0) + 1);
		seen.rows++;
		perValue.set(value, seen);
	}
	// As many as so many rows taken at random would have: the number has nothing to do with them.
	const telling = [...perValue.values()].filter((v) => v.rows >= TELLING);
	const expected = telling.reduce((sum, v) => sum + all.size * (1 - (1 - 1 / all.size) ** v.rows), 0);
	const seen = telling.reduce((sum, v) => sum + v.parties.size, 0);
	return telling.length < 2 || seen < expected * AS_ANY || (!other && areTheirOwn(telling, all));
}

/**
 * Whether most of the rows are of values whose parties are, in so many rows, none of the others by no chance: these write
 * elsewhere. One and the same writes everywhere, beside others: where he does not, a value says which way it was.
 */
function areTheirOwn(
	values: readonly { parties: ReadonlyMap<string | number, number>; rows: number }[],
	all: ReadonlyMap<string | number, number>
): boolean {
	const isEverywhere = [...all.keys()].some((who) => values.every(({ parties }) => parties.has(who) && parties.size > 1));
	if (!isEverywhere) return false;
	const rows = [...all.values()].reduce((sum, n) => sum + n, 0);
	const own = values.filter((value) => {
		const elsewhere = rows - value.rows;
		const ofThese = [...value.parties].reduce((sum, [who, here]) => sum + all.get(who)! - here, 0);
		return elsewhere >= ELSEWHERE && (ofThese / elsewhere) ** value.rows < BY_CHANCE;
	});
	return own.reduce((sum, value) => sum + value.rows, 0) > rows / 2;
}
const ELSEWHERE = 8;
const BY_CHANCE = 0.001;
const TELLING = 3;
const AS_ANY = 0.75;

/** Whether a column often holds what the party's column of the same row holds: then it says who wrote, and no thread. */
export function repeatsParty(
	c: SheetColumn,
	parties: readonly NonNullable<MessageReading['peer']>[],
	sheet: Sheet,
	context: Context
): boolean {
	const rows = sheet.sure.slice(0, 2000);
	return parties.some((p) => {
		const same = rows.filter((row) => {
			const value = keyOf(cell(row, c, context.tables));
			return value !== null && value === keyOf(cell(row, p.value, context.tables));
		});
		return same.length > rows.length * 0.2;
	});
}

/** Whether the tables of a family each hold several parties: then they are boxes, not threads. */
export function mixedParties(sheet: Sheet, party: SheetColumn | null, context: Context): boolean {
	if (!party || !sheet.family) return false;
	const perTable = new Map<number, Set<string | number>>();
	for (const row of sheet.sure.slice(0, 5000)) {
		const key = keyOf(cell(row, party, context.tables));
		if (key === null || !row.tableKnown) continue;
		const set = perTable.get(row.table);
		if (set) set.add(key);
		else perTable.set(row.table, new Set([key]));
	}
	// Who writes in all of them is the owner, and none of the other sides.
	const everywhere = [...new Set([...perTable.values()].flatMap((s) => [...s]))].filter((who) =>
		[...perTable.values()].every((s) => s.has(who))
	);
	if (perTable.size >= OWN_TABLES && everywhere.length === 1) for (const s of perTable.values()) s.delete(everywhere[0]!);
	const sizes = [...perTable.values()].map((s) => s.size);
	// Several tables with one person each, and each another one, are theirs: one with more is a group's.
	const own = [...perTable.values()].filter((s) => s.size === 1);
	const persons = new Set(own.flatMap((s) => [...s]));
	if (own.length >= OWN_TABLES && persons.size === own.length && own.length > sizes.length / 2) return false;
	return sizes.length <= 6 && sizes.some((n) => n >= 3);
}

const OWN_TABLES = 3;

/**
 * The owner as a writer, where the party column holds who wrote rather than the other side: sent rows have one value,
 * which no received row has. It is told only where there is a thread to say whom the sent ones went to.
 */
export function ownWriter(reading: MessageReading, context: Context): string | number | null {
	const rule = reading.direction.value;
	if (rule.kind !== 'flag' || (!reading.thread && !reading.threadJoin)) return null;
	const sent = new Map<string | number, number>();
	const received = new Set<string | number>();
	for (const row of reading.sheet.sure.slice(0, 4000)) {
		const flag = keyOf(cell(row, rule.column, context.tables));
		const value = keyOf(cell(row, reading.peer!.value, context.tables));
		if (flag === null || value === null) continue;
		if (rule.out.includes(flag)) sent.set(value, (sent.get(value) ?? 0) + 1);
		else if (rule.in.includes(flag)) received.add(value);
	}
	const [only] = sent.keys();
	return sent.size === 1 && received.size >= 1 && !received.has(only!) && sent.get(only!)! > 2 ? only! : null;
}

/**
 * One party column is the peer, or the sender; two are sender and recipient, or a room and its writers, of whom the
 * owner is one.
 */
/** Whether two columns often name the same row of a list, by keys of their own: a conversation, and who wrote in it. Nobody writes to himself. */
function nameOneRow(sheet: Sheet, a: Party, b: Party, { tables }: Context): boolean {
	const [one, other] = [a.key, b.key];
	if (!one || !other || one === other || one.sheet !== other.sheet) return false;
	const [here, there] = [placesBy(one, LISTED, tables), placesBy(other, LISTED, tables)];
	const pairs = sheet.sure.slice(0, LISTED).flatMap((row) => {
		const [x, y] = [here.get(keyOf(cell(row, a.value, tables))), there.get(keyOf(cell(row, b.value, tables)))];
		return x === undefined || y === undefined ? [] : [x === y];
	});
	const same = pairs.filter((isSame) => isSame).length;
	return same >= SAME_LEAST && same > pairs.length * SAME;
}
const LISTED = 4000;
const SAME_LEAST = 3;
const SAME = 0.1;
type Party = NonNullable<MessageReading['peer']>;

/** Two columns of addresses of which each is a key of another list as well are known by what they are. */
function byAddress(parties: Party[]): Party[] {
	const [one, other] = parties;
	const areApart = one?.key && other?.key && one.key.sheet !== other.key.sheet && [one, other].every((p) => addressShare(p.value) > 0.6);
	return areApart ? parties.map((p) => ({ ...p, key: null })) : parties;
}

export function assignParties(reading: MessageReading, parties: MessageReading['peer'][], context: Context): void {
	const known = parties.filter((p) => p !== null).sort((a, b) => partyRank(b) - partyRank(a));
	const [first, second] = known.length > 2 ? (turnAbout(known, reading.sheet, context) ?? byAddress(known)) : byAddress(known);
	if (!first) return;
	const areEnds = second && !nameOneRow(reading.sheet, first, second, context);
	if (areEnds && second.key?.sheet === first.key?.sheet) {
		const byRooms = writerByRooms(reading, first, second, context);
		if (byRooms || ownersOfPair(reading.sheet, first.value, second.value, context).length > 0) {
			const [sender, recipient] = byRooms ?? writerFirst(reading.sheet, first, second);
			reading.sender = sender;
			reading.recipient = recipient;
			return;
		}
		const [from, to] = first.value.profile.filled < second.value.profile.filled ? [first, second] : [second, first];
		if (oneWhereWritten(reading.sheet, from.value, to.value, context)) {
			reading.sender = from;
			reading.recipient = to;
			return;
		}
	}
	const mail = areEnds ? endsOfMail([first, second]) : null;
	if (mail) {
		[reading.sender, reading.recipient] = mail;
		return;
	}
	// To whom it went, where that is said of what went to persons.
	const to = [first, second].find((p) => p?.value.made?.ofKind === 'any' && TO_WHOM.test(p.value.name));
	const from = [first, second].find((p) => p && p !== to && p.value.profile.filled >= reading.sheet.sure.length * 0.9);
	if (areEnds && to && from) {
		reading.sender = from;
		reading.recipient = to;
		return;
	}
	if (areEnds && oneOrTheOther(reading.sheet, first.value, second.value, context)) {
		const [sender, recipient] = writerFirst(reading.sheet, first, second);
		reading.sender = sender;
		reading.recipient = recipient;
		return;
	}
	if (second) {
		const [a, b] =
			reading.sheet.columns.indexOf(first.value) < reading.sheet.columns.indexOf(second.value) ? [first, second] : [second, first];
		for (const [peer, writer] of [
			[a, b],
			[b, a]
		] as const) {
			const owner = writer.value.made?.either ? null : ownerAmongWriters(reading.sheet, peer.value, writer.value, context);
			if (owner === null) continue;
			reading.peer = peer;
			reading.participant = writer;
			reading.ownParticipant = owner;
			return;
		}
	}
	reading.peer = first;
	if (!second) return;
	// Of two parties one that stands only in some rows is the writer in a group, and the other the group.
	const rows = reading.sheet.sure.length;
	const [sparse, full] = first.value.profile.filled < second.value.profile.filled ? [first, second] : [second, first];
	const isSparse = sparse.value.profile.filled < rows * 0.7 || writesInOwnTalks(sparse.value, full.value, reading.sheet, context.tables);
	if (!isSparse || full.value.profile.filled <= rows * 0.9) return;
	// A number of two or three values is a box rather than a group.
	if (full.value.profile.texts === 0 && full.value.profile.distinct.size < sparse.value.profile.distinct.size) return;
	reading.peer = full;
	// What names several at once is no writer, but all who are in the room.
	if (!namesSeveral(sparse.value)) reading.participant = sparse;
}

/** From whom and to whom, where both are so called, the latter often several at once, whom no list has as they stand there. */
function endsOfMail<P extends { value: SheetColumn; key: unknown }>(ends: readonly [P, P]): [P, P] | null {
	const called = ({ value }: P): string => value.name.replace(/ \([^)]*\)$/, '');
	const from = ends.find((one) => FROM_WHOM.test(called(one)) && !TO_WHOM.test(called(one)));
	const to = ends.find((one) => one !== from && TO_WHOM.test(called(one)));
	if (!from?.key || !to || to.key || addressShare(from.value) < 0.6) return null;
	const written = new Set([...to.value.profile.distinct.keys()].flatMap((value) => each(value)));
	return [...from.value.profile.distinct.keys()].some((who) => written.has(who)) ? [from, to] : null;
}

/** Two of several parties that name persons of one list, each message one of them in the one or the other: from whom, or to whom. */
function turnAbout<P extends { value: SheetColumn; key: { sheet: Sheet } | null }>(
	parties: readonly P[],
	sheet: Sheet,
	context: Context
): [P, P] | null {
	for (const [i, a] of parties.entries())
		for (const b of parties.slice(i + 1))
			if (a.key && a.key.sheet === b.key?.sheet && oneOrTheOther(sheet, a.value, b.value, context)) return [a, b];
	return null;
}

/** Whether each value of a column is a list of several addresses. */
const namesSeveral = ({ profile: p }: SheetColumn): boolean =>
	p.distinct.size > 0 && [...p.distinct.keys()].every((value) => typeof value === 'string' && addressesIn(value).length > 1);

/** Of two columns of persons that of the writers first, where rooms tell it: there several write, to one and the same. */
function writerByRooms<P extends { value: SheetColumn }>(reading: MessageReading, first: P, second: P, context: Context): [P, P] | null {
	const { sheet } = reading;
	if (!reading.thread && !reading.threadJoin) return null;
	const rows = sheet.sure.slice(0, ROOM_ROWS);
	const valuesOf = (c: SheetColumn): (string | number | null)[] => rows.map((row) => keyOf(cell(row, c, context.tables)));
	const rooms = rows.map((row) => threadKeyOf(reading, row, context));
	const [ends] = endsIn([first.value, second.value], rooms, valuesOf);
	if (!ends?.areTold) return null;
	return ends.from === first.value ? [first, second] : [second, first];
}

/** Of two columns of persons that of the writers first: by their names, else by their order. */
function writerFirst<P extends { value: SheetColumn }>(sheet: Sheet, first: P, second: P): [P, P] {
	const [a, b] = [first.value.name, second.value.name];
	const senderFirst = FROM_WHOM.test(a) || TO_WHOM.test(b) || sheet.columns.indexOf(first.value) < sheet.columns.indexOf(second.value);
	const swap = TO_WHOM.test(a) || (FROM_WHOM.test(b) && !FROM_WHOM.test(a));
	return swap || !senderFirst ? [second, first] : [first, second];
}

/** Whether each row names somebody in one of two columns alone: who wrote it to the owner, or whom he wrote it to. */
export function oneOrTheOther(sheet: Sheet, a: SheetColumn, b: SheetColumn, { tables }: Pick<Context, 'tables'>): boolean {
	const rows = sheet.sure.slice(0, 4000);
	const isNamed = (row: (typeof rows)[number], c: SheetColumn): boolean =>
		![null, 0].includes(keyOf(cell(row, c, tables)) as number | null);
	const [inA, inB] = [a, b].map((c) => rows.filter((row) => isNamed(row, c)).length) as [number, number];
	const once = rows.filter((row) => isNamed(row, a) !== isNamed(row, b)).length;
	const named = rows.filter((row) => isNamed(row, a) || isNamed(row, b)).length;
	const both = [...a.profile.distinct.keys()].filter((who) => b.profile.distinct.has(who)).length;
	return Math.min(inA, inB) >= ONCE_LEAST && once >= named * ONCE && named >= rows.length * NAMED_LEAST && both >= 1;
}
const ONCE = 0.97;
/** What the owner wrote in rooms names nobody. */
const NAMED_LEAST = 0.5;
const ONCE_LEAST = 3;

/** Whether rows that name a writer all have one and the same recipient, the owner, and the others several. */
function oneWhereWritten(sheet: Sheet, writer: SheetColumn, recipient: SheetColumn, context: Context): boolean {
	const written = new Map<string | number, number>();
	const others = new Set<string | number>();
	let rows = 0;
	for (const row of sheet.sure.slice(0, 4000)) {
		const to = keyOf(cell(row, recipient, context.tables));
		if (to === null) continue;
		if (keyOf(cell(row, writer, context.tables)) === null) others.add(to);
		else {
			rows++;
			written.set(to, (written.get(to) ?? 0) + 1);
		}
	}
	const [owner] = [...written].sort((a, b) => b[1] - a[1]);
	// A room in which several write is named in the owner's own messages as well.
	return owner !== undefined && rows > 3 && others.size > 1 && owner[1] >= rows * 0.95 && !others.has(owner[0]);
}

const HARDLY_ANY = 0.02;

/** Who wrote in each room, in how many rooms each did, and the share of rows that lack a room or a writer. */
function writersInRooms(
	sheet: Sheet,
	room: SheetColumn,
	writer: SheetColumn,
	{ tables }: Context
): { rooms: Map<string | number, Set<string | number>>; counts: Map<string | number, number>; partly: number } {
	const rooms = new Map<string | number, Set<string | number>>();
	const rows = sheet.sure.slice(0, 4000);
	let partly = 0;
	for (const row of rows) {
		const [where, who] = [keyOf(cell(row, room, tables)), keyOf(cell(row, writer, tables))];
		if (where === null || who === null) partly++;
		else rooms.set(where, (rooms.get(where) ?? new Set()).add(who));
	}
	const counts = new Map<string | number, number>();
	for (const writers of rooms.values()) for (const who of writers) counts.set(who, (counts.get(who) ?? 0) + 1);
	return { rooms, counts, partly: rows.length === 0 ? 0 : partly / rows.length };
}

/** Of writers beside rooms or other sides the one who writes in most of them, and is none of them himself. */
export function ownerAmongWriters(sheet: Sheet, peer: SheetColumn, writer: SheetColumn, context: Context): string | number | null {
	const { rooms, counts, partly } = writersInRooms(sheet, peer, writer, context);
	// Both stand in every row; of lost rows one can be gone.
	if (partly > HARDLY_ANY) return null;
	const [best, next] = [...counts].sort((x, y) => y[1] - x[1]);
	const known = [...counts.keys()].filter((who) => peer.profile.distinct.has(who)).length;
	if (!best || rooms.size < 3 || best[1] < rooms.size * 0.7 || (next && next[1] > best[1] * 0.6) || known < 2) return null;
	return peer.profile.distinct.has(best[0]) ? null : best[0];
}

/**
 * Of two columns the share of the first one's values beside which one and the same value of the second stands, where the
 * others stand beside fewer: writers in rooms, of whom the owner is in all. 0 where there is none.
 */
export function writesEverywhere(sheet: Sheet, room: SheetColumn, writer: SheetColumn, context: Context): number {
	const { rooms, counts } = writersInRooms(sheet, room, writer, context);
	const [best, next] = [...counts.values()].sort((x, y) => y - x);
	if (rooms.size < 2 || next === undefined) return 0;
	return best! >= rooms.size * EVERYWHERE && next <= best! - rooms.size * SELDOMER ? best! / rooms.size : 0;
}
const EVERYWHERE = 0.8;
const SELDOMER = 0.2;

const partyRank = (p: NonNullable<MessageReading['peer']>): number =>
	p.confidence + (/peer|address|handle|sender|from|author|person|contact|user|who/i.test(p.value.name) ? 0.3 : 0) + (p.key ? 0.1 : 0);

const each = (value: string | number | null): (string | number | null)[] => (typeof value === 'string' ? addressesIn(value) : [value]);

/** The one value that stands in one of two columns of (nearly) every row: the owner. */
export function ownerOfPair(sheet: Sheet, a: SheetColumn, b: SheetColumn, context: Pick<Context, 'tables'>): string | number | null {
	const rows = pairsOf(sheet, a, b, context);
	const [best] = rows ? byOften(rows) : [];
	return best && best[1] >= rows!.length * 0.9 ? best[0] : null;
}

/**
 * As `ownerOfPair`, where somebody has several numbers of his own, as a phone with two cards has: the few of whom (nearly)
 * every row has one, and hardly any two, beside more others than they are.
 */
export function ownersOfPair(
	sheet: Sheet,
	a: SheetColumn,
	b: SheetColumn,
	context: Pick<Context, 'tables' | 'sheets'>
): (string | number)[] {
	const owner = ownerOfPair(sheet, a, b, context);
	if (owner !== null) return [owner];
	const rows = pairsOf(sheet, a, b, context);
	if (!rows) return [];
	const owners: (string | number)[] = [];
	let left = rows;
	while (left.length > rows.length * NOT_OWN && owners.length < MOST_OWN) {
		const [next] = byOften(left);
		if (!next) return [];
		owners.push(next[0]);
		left = left.filter((ends) => !ends.includes(next[0]));
	}
	const others = new Set(rows.flat().filter((end) => !owners.includes(end)));
	const within = rows.filter((ends) => ends.filter((end) => owners.includes(end)).length > 1).length;
	if (left.length > rows.length * NOT_OWN || within > rows.length * NOT_OWN || others.size <= owners.length) return [];
	return areListedAlone(owners, context) || (others.size >= owners.length * 2 && [a, b].every(isPairName)) ? owners : [];
}

/** Whether some table lists just these: the accounts that a program knows. */
const areListedAlone = (owners: readonly (string | number)[], { sheets }: Pick<Context, 'sheets'>): boolean =>
	sheets.some((list) =>
		list.columns.some(({ profile: p }) => p.distinct.size === owners.length && owners.every((owner) => p.distinct.has(owner)))
	);

/** Numbers that somebody has, at most; share of the rows in which none of them may stand, or two. */
const MOST_OWN = 4;
const NOT_OWN = 0.03;

/** Who stands at the ends of each row; null where many rows have one and the same at both, or a column says nothing. */
function pairsOf(sheet: Sheet, a: SheetColumn, b: SheetColumn, { tables }: Pick<Context, 'tables'>): (string | number)[][] | null {
	// What is the same in every row is a state rather than somebody, unless its name says that it is.
	if ([a, b].some((c) => c.profile.distinct.size < 2 && !isPairName(c))) return null;
	const ends = sheet.sure.slice(0, 4000).map((row) => [a, b].map((c) => keyOf(cell(row, c, tables) as Value)));
	const named = ends.filter(([x, y]) => x !== null || y !== null);
	const different = named.filter(([x, y]) => x !== y).length;
	// Few write to themselves.
	if (named.length === 0 || different <= named.length * TO_OTHERS) return null;
	const pairs = (of: typeof ends): (string | number)[][] =>
		of.map(([x, y]) => [...new Set([...each(x!), ...each(y!)])].filter((end) => end !== null));
	const both = pairs(named.filter(([x, y]) => x !== null && y !== null));
	// Where most name both ends, and one who writes and is written to is in all of those, a row that lacks the other end is in a room.
	const [often] = byOften(both);
	const isOfBoth = often && often[1] >= both.length * 0.9 && [a, b].every((c) => c.profile.distinct.has(often[0]));
	// Or where the column says of each row that lacks it that it is in one.
	const least = [a, b].some((c) => c.made?.ofTwo) ? BOTH_LEAST : named.length * MOSTLY_BOTH;
	return isOfBoth && both.length >= least ? both : pairs(named);
}
const MOSTLY_BOTH = 0.5;
const BOTH_LEAST = 3;

const TO_OTHERS = 0.8;

/** Ends of rows with the number of rows that they stand in, the most first. */
function byOften(rows: readonly (readonly (string | number)[])[]): [string | number, number][] {
	const counts = new Map<string | number, number>();
	for (const end of rows.flat()) counts.set(end, (counts.get(end) ?? 0) + 1);
	return [...counts].sort((p, q) => q[1] - p[1]);
}

/**
 * The owner among those who write, where it is written to him, to others by him, or to rooms: whom nobody is but others
 * than he write to as well. What is written to nobody named is written to him. Null where nobody fits, or several do.
 * `group`: a column that names a room itself; to whom else it was written does not count there. `isOwner`: whom the user,
 * or the file, says it is: of two who talk and share a room, either could be.
 */
export function ownerBesideRooms(
	sheet: Sheet,
	from: SheetColumn,
	to: SheetColumn,
	group: SheetColumn | null,
	isOwner: (writer: string | number) => boolean,
	{ tables }: Pick<Context, 'tables'>
): { owner: string | number; rooms: ReadonlySet<string | number> } | null {
	const all = sheet.sure.slice(0, ROOM_ROWS);
	const rows = all
		.filter((row) => !group || keyOf(cell(row, group, tables)) === null)
		.map((row) => [keyOf(cell(row, from, tables)), keyOf(cell(row, to, tables))] as const);
	const writers = new Map<string | number, number>();
	for (const [by] of rows) if (by !== null) writers.set(by, (writers.get(by) ?? 0) + 1);
	if (writers.size < 2 || rows.some(([by]) => by === null)) return null;
	const fits = [...writers.keys()].slice(0, MOST_WRITERS).flatMap((owner) => {
		const rooms = new Set(rows.flatMap(([by, whom]) => (by !== owner && whom !== owner && whom !== null ? [whom] : [])));
		const isFit =
			[...rooms].every((room) => !writers.has(room)) &&
			rows.every(([by, whom]) => by !== owner || (whom !== null && whom !== owner)) &&
			// Somebody writes to him alone, and he to somebody.
			rows.some(([by, whom]) => by !== owner && (whom === owner || whom === null)) &&
			rows.some(([by, whom]) => by === owner && !rooms.has(whom!));
		return isFit ? [{ owner, rooms }] : [];
	});
	const meant = fits.filter(({ owner }) => isOwner(owner));
	return meant.length === 1 ? meant[0]! : fits.length === 1 ? fits[0]! : null;
}
const ROOM_ROWS = 4000;
const MOST_WRITERS = 200;

/** Share of an address's rows that must have one and the same name beside it. */
const SAME_NAME = 0.95;
const NAME_NAMED = /name|person|display|contact|alias|nick|title|who/i;

/** A column with the name of the other side beside its address: the same for all rows of one address. */
export function nameBeside(reading: MessageReading, context: Context): SheetColumn | null {
	const party = reading.peer ?? reading.sender;
	if (!party || party.key || reading.participant) return null;
	const { recipient, direction } = reading;
	const owners = direction.value.kind === 'sender' && direction.value.column === party.value ? direction.value.owner.map(String) : [];
	if (recipient && (reading.peer || recipient.key || owners.length === 0)) return null;
	const addressIn = (row: Row): string | number | null => {
		const who = keyOf(cell(row, party.value, context.tables));
		return recipient && owners.includes(String(who)) ? keyOf(cell(row, recipient.value, context.tables)) : who;
	};
	const rows = reading.sheet.sure.slice(0, 4000);
	const used = [reading.text.value, reading.time?.value, party.value, recipient?.value, reading.thread?.value];
	return ratherInFull(
		reading.sheet.columns.filter((c) => {
			const p = c.profile;
			if (used.includes(c) || c.column < 0 || p.texts < p.filled || p.name < 0.6 || p.averageLength < 2 || p.uuid > 0.3 || p.mime > 0)
				return false;
			if (isPath(c)) return false;
			if (p.distinct.size > party.value.profile.distinct.size + 1) return false;
			if (p.distinct.size < 3 && !NAME_NAMED.test(c.name)) return false;
			const names = new Map<string | number, Map<string | number, number>>();
			for (const row of rows) {
				const address = addressIn(row);
				const name = keyOf(cell(row, c, context.tables));
				if (address === null || name === null || address === name) continue;
				const counts = names.get(address) ?? new Map<string | number, number>();
				counts.set(name, (counts.get(name) ?? 0) + 1);
				names.set(address, counts);
			}
			const all = [...names.values()];
			const sum = (list: number[]): number => list.reduce((a, b) => a + b, 0);
			const most = sum(all.map((counts) => Math.max(...counts.values())));
			const stated = sum(all.map((counts) => sum([...counts.values()])));
			// What is said of all alike is what they are, not who.
			const called = new Set(all.map((counts) => [...counts].sort((x, y) => y[1] - x[1])[0]![0]));
			if (all.length > 2 && called.size === 1) return false;
			return stated > all.length && most >= stated * SAME_NAME;
		})
	);
}

/** Of columns that each say what somebody is called the first that mostly has full names, else the first. */
const ratherInFull = (columns: readonly SheetColumn[]): SheetColumn | null =>
	columns.find(({ profile: { distinct } }) => [...distinct.keys()].filter((name) => isFullName(String(name))).length * 2 > distinct.size) ??
	columns[0] ??
	null;

const GROUP_NAMED = /gr(ou)?p|room|chat|conv|thread|channel|circle|team/i;

/** A column that stands only in messages to several: the room they were written in. */
export function groupBeside(reading: MessageReading, context: Context): SheetColumn | null {
	const { sheet, recipient } = reading;
	// Whom a message is from, or to where it is the owner's.
	const peer = reading.peer ?? (recipient ? reading.sender : null);
	if (reading.thread || reading.threadJoin || !peer || reading.participant) return null;
	const used = [reading.text.value, reading.time?.value, peer.value, recipient?.value, reading.guid];
	const rows = sheet.sure.slice(0, 4000);
	return (
		sheet.columns.find((c) => {
			const p = c.profile;
			if (used.includes(c) || c.column < 0 || p.time || p.reals > 0 || p.many || p.prose > 0.3 || p.mime > 0 || p.filled === 0)
				return false;
			if (p.filled > rows.length * 0.7 || p.distinct.size > Math.max(1, p.filled * 0.5)) return false;
			let alone = 0;
			let without = 0;
			const writers = new Map<string | number, Set<string | number>>();
			for (const row of rows) {
				const room = keyOf(cell(row, c, context.tables));
				const who = keyOf(cell(row, peer.value, context.tables));
				if (who === null) {
					if (recipient && keyOf(cell(row, recipient.value, context.tables)) !== null) continue;
					alone++;
					if (room !== null) without++;
				} else if (room !== null) writers.set(room, (writers.get(room) ?? new Set()).add(who));
			}
			const several = [...writers.values()].filter((w) => w.size > 1).length;
			// Rows that name nobody are those with a room; or the name says so, and several write in one.
			if (alone > 0 && without >= alone * 0.9 && (writers.size === 0 || several > 0)) return p.texts > 0 || GROUP_NAMED.test(c.name);
			return GROUP_NAMED.test(c.name) && several > 0;
		}) ?? null
	);
}

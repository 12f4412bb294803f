/**
 * Who wrote in which conversation, where a store says who takes part in each: in the list of conversations (whom each is
 * with) or in a list of its own. A message names its conversation itself or a join does, and its writer by a key, a number
 * or an address. Small numbers are keys of anything; but that all writers are among those who take part is no chance.
 */
import { speaksOfPersons } from '../kind-words';
import type { Row } from '../model';
import { addressShare } from './columns';
import type { Context } from './context';
import { isPath } from './files';
import { listOfParties } from './listed-parties';
import { participantsOf } from './participants';
import { normalAddress } from './people';
import type { MessageReading } from './reading';
import { isNamedAlike, keyOf, type Key, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { isNamed } from './threads';

type Join = NonNullable<MessageReading['threadJoin']>;

export interface TakingPart {
	/** What names a message's conversation: a column of its own, or a join. */
	thread: Reference | null;
	join: Join | null;
	/** Whether conversations have no list of their own: `thread` leads to the list of those who take part then. */
	isUnlisted: boolean;
	writer: SheetColumn;
	/** The list of persons that the writer is named by the key of, or null. */
	persons: Key | null;
	/** Who takes part, where a list of its own says it. */
	members: { sheet: Sheet; room: SheetColumn; person: SheetColumn; personKey: Key | null } | null;
	/** Whom each conversation is with, where their list says it. */
	partner: { column: SheetColumn; key: Key | null } | null;
	/** Whether rows of conversations of two name the other side whoever wrote, as those of nobody's are in groups alone. */
	isPartner: boolean;
	/** Who writes in conversations that others only take part in, where the list leaves one out, or takes part in all. */
	owner: string | number | null;
}

const ROWS = 2000;
const LISTED_AT_MOST = 20_000;
/** Share of the rows whose writer must be among those who take part. */
const AGREE = 0.97;
const ROWS_LEAST = 8;
const WRITERS_LEAST = 3;
/** Share of a list's rows that must be conversations of these messages, where neither names nor long keys say that they are. */
const IN_USE = 0.25;
const SURELY = 0.7;
/** How unlikely it must be (natural logarithm of the odds) that the writers are so by chance. */
const NO_CHANCE = 3;
/** Shares: of the messages that must have a conversation; of a join's rows with a message of their own. */
const IN_SOME = 0.9;
const OWN_MESSAGE = 0.9;
/** Share of the messages, lost ones included, that a join must name. */
const JOINED = 0.4;
/** Conversations asked about, the likeliest first. */
const ASKED = 12;

/** What was found of each sheet of a store, whose keys are its own: a store's persons and its messages are read by it. */
const FOUND = new WeakMap<Context['keys'], Map<Sheet, TakingPart | null>>();

/**
 * How the messages of a sheet name conversations and writers, or null where nothing says who takes part, or something else
 * says it: a list of the participants of each conversation, or the message itself.
 */
export function takingPart(sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): TakingPart | null {
	const found = FOUND.get(context.keys) ?? new Map<Sheet, TakingPart | null>();
	FOUND.set(context.keys, found);
	if (!found.has(sheet)) {
		const isSaid =
			sheet.columns.some((c) => c.made?.inRooms) ||
			participantsOf(sheet, context) !== null ||
			listOfParties(sheet, used, context.tables) !== null;
		found.set(sheet, isSaid ? null : find(sheet, used, context));
	}
	return found.get(sheet)!;
}

function find(sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): TakingPart | null {
	const writers = sheet.columns.filter((c) => isWriter(c, sheet, context) && !used.has(c));
	if (writers.length === 0) return null;
	const identities = identitiesOf(context);
	let best: (TakingPart & { weight: number }) | null = null;
	for (const room of roomsOf(sheet, used, context)) {
		const written = room.of(sheet);
		if (written.filter((key) => key !== null).length < written.length * IN_SOME) continue;
		for (const list of listsOf(room, sheet, context))
			for (const writer of writers) {
				if (writer === room.thread?.from || (list.own && isListed(writer, room.key.sheet))) continue;
				for (const way of waysToCompare(writer, list.person, sheet, list.sheet, room.key.sheet, context, identities)) {
					const fit = fits(sheet, writer, written, list.members(way.member), way.writer, context);
					if (!fit) continue;
					const weight =
						Math.min(fit.odds, MUCH) +
						room.weight +
						(list.own ? 0 : 1) +
						(way.key ? KEYED : 0) +
						(fit.isSpanned ? SPANNED : 0) +
						((fit.owner ?? fit.everywhere) === null ? 0 : OWNED);
					if (best && weight <= best.weight) continue;
					const personKey = way.memberKey;
					best = {
						thread: room.thread,
						isUnlisted: room.isUnlisted ?? false,
						join: room.join,
						writer,
						persons: way.key,
						members: list.own ? null : { sheet: list.sheet, room: list.room!, person: list.person, personKey },
						partner: list.own ? { column: list.person, key: personKey } : null,
						isPartner: fit.isPartner,
						owner: fit.owner ?? fit.everywhere,
						weight
					};
				}
			}
	}
	return best;

	/** Whether a list of persons has those whom a column names. */
	function isListed(writer: SheetColumn, list: Sheet): boolean {
		return isNamed(list) && (context.references.get(sheet) ?? []).some((r) => r.from === writer && r.key.sheet === list);
	}
}

/** Who wrote beside a column of the other sides: whom that names, by whatever key or address, or one and the same other, the owner. */
export function writerBesideParty(
	sheet: Sheet,
	party: SheetColumn,
	used: ReadonlySet<SheetColumn>,
	context: Context
): { column: SheetColumn; owner: string | number } | null {
	const written = tellingRows(sheet).map((row) => keyOf(cell(row, party, context.tables)));
	const partners = new Set(written.filter((who) => who !== null));
	for (const column of sheet.columns) {
		if (column === party || used.has(column) || !isWriter(column, sheet, context)) continue;
		for (const way of waysToCompare(column, party, sheet, sheet, sheet, context, identitiesOf(context))) {
			const fit = fits(sheet, column, written, new Map([...partners].map((who) => [who, new Set([way.member(who)])])), way.writer, context);
			if (fit && fit.owner !== null) return { column, owner: fit.owner };
		}
	}
	return null;
}

/** Odds beyond which more of them say nothing more. */
const MUCH = 12;
const KEYED = 0.5;
/** Where one writes in nearly all conversations: of two columns that name each other's the other one is that of writers. */
const SPANNED = 2;
/** One who takes part in all of them, or writes in all and is listed in none, is the owner: no conversation is so. */
const OWNED = 3;

const isWriter = (c: SheetColumn, sheet: Sheet, { tables }: Context): boolean =>
	c.column >= 0 &&
	!c.profile.time &&
	!c.profile.many &&
	!isOwnNumber(c, sheet, tables) &&
	c.profile.reals === 0 &&
	c.profile.prose < 0.3 &&
	c.profile.averageLength < 100 &&
	c.profile.distinct.size >= 2 &&
	c.profile.distinct.size <= Math.max(3, c.profile.filled * 0.6);

interface Room {
	key: Key;
	thread: Reference | null;
	join: Join | null;
	weight: number;
	/** Whether nothing but the list of who takes part names them. */
	isUnlisted?: boolean;
	/** The conversation of each row. */
	of(sheet: Sheet): (string | number | null)[];
}

/** Rows in use tell it, where there are any: what is left of lost ones may be joined to nothing, or misread. */
function tellingRows({ sure }: Sheet): Row[] {
	const kept = sure.filter((row) => row.standing === 'kept');
	return (kept.length < ROWS_LEAST ? sure : kept).slice(0, ROWS);
}

/** What may name the conversations of a sheet's messages, the likeliest first. */
function roomsOf(sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): Room[] {
	const { tables, references } = context;
	const rows = tellingRows(sheet);
	const direct = (references.get(sheet) ?? [])
		.filter(
			(r) => r.inclusion >= AGREE && areInUse(r) && !used.has(r.from) && !isOwnNumber(r.from, sheet, tables) && canBeRooms(r.from, sheet)
		)
		.map((thread): Room => ({
			key: thread.key,
			thread,
			join: null,
			weight: weightOf(thread),
			of: () => rows.map((row) => keyOf(cell(row, thread.from, tables)))
		}));
	const joined = context.sheets.flatMap((list) => (list === sheet || list.columns.length > 5 ? [] : joinsOf(list, sheet, rows, context)));
	const unlisted = sheet.columns
		.filter((c) => !used.has(c) && c.column >= 0 && c.profile.texts > 0 && !c.profile.many && canBeRooms(c, sheet))
		.filter((c) => !direct.some((r) => r.thread!.from === c))
		.flatMap((c) => unlistedRooms(c, sheet, rows, context));
	return [...direct, ...joined, ...unlisted].sort((a, b) => b.weight - a.weight).slice(0, ASKED);
}

/** Conversations that have no list of their own, but are named in one of those who take part. */
function unlistedRooms(column: SheetColumn, sheet: Sheet, rows: readonly Row[], { sheets, tables }: Context): Room[] {
	const talks = [...column.profile.distinct.keys()];
	return sheets.flatMap((list) => {
		if (list === sheet || list.columns.length > PAIRS_AT_MOST) return [];
		const named = list.columns.find((c) => {
			const { texts, many, distinct } = c.profile;
			return c.column >= 0 && texts > 0 && !many && talks.filter((v) => distinct.has(v)).length >= talks.length * IN_SOME;
		});
		if (!named) return [];
		const key = { sheet: list, column: named, values: new Set(named.profile.distinct.keys()) };
		const thread = { from: column, key, confidence: SURELY, inclusion: 1, coverage: 1 };
		const of = (): (string | number | null)[] => rows.map((row) => keyOf(cell(row, column, tables)));
		return [{ key, thread, join: null, isUnlisted: true, weight: weightOf(thread), of }];
	});
}
/** Columns of a list of pairs, with what else it may say of them. */
const PAIRS_AT_MOST = 6;

const areInUse = ({ from, key, coverage, confidence }: Reference): boolean =>
	coverage >= IN_USE || confidence >= SURELY || isNamedAlike(from, key.sheet);

/** Nought is no conversation, nor anybody. */
const canBeRooms = ({ profile: p }: SheetColumn, { sure }: Sheet): boolean =>
	p.distinct.size >= 2 && p.filled - (p.distinct.get(0) ?? 0) >= sure.length * IN_SOME && p.distinct.size <= sure.length * 0.6;

/** Names, coverage and declarations speak for a list of conversations, names of its rows for one of persons. */
const weightOf = ({ from, key, confidence, coverage }: Reference): number =>
	confidence * 2 +
	coverage +
	Number(isNamedAlike(from, key.sheet)) -
	(isNamed(key.sheet) ? NAMED : 0) -
	(speaksOfPersons(key.sheet.name) ? CALLED : 0);
const NAMED = 2;
const CALLED = 1;

function joinsOf(list: Sheet, sheet: Sheet, rows: readonly Row[], { references, tables }: Context): Room[] {
	const refs = references.get(list) ?? [];
	const message = refs.find(
		(r) =>
			r.key.sheet === sheet &&
			r.inclusion >= AGREE &&
			r.coverage >= JOINED &&
			r.from.profile.distinct.size >= list.sure.length * OWN_MESSAGE
	);
	if (!message || list.columns.some((c) => c.profile.prose > 0.3)) return [];
	return refs
		.filter((r) => r.from !== message.from && r.key.sheet !== sheet && r.inclusion >= AGREE && areInUse(r) && canBeRooms(r.from, list))
		.map((thread) => ({
			key: thread.key,
			thread: null,
			join: { sheet: list, message: message.from, thread: thread.from, messageKey: message.key, threadKey: thread.key },
			weight: weightOf(thread),
			of: (): (string | number | null)[] => {
				const kept = list.rows.filter((row) => row.standing === 'kept');
				const byMessage = new Map(kept.map((row) => [keyOf(cell(row, message.from, tables)), keyOf(cell(row, thread.from, tables))]));
				const { column } = message.key;
				return rows.map((row) => byMessage.get(column ? keyOf(cell(row, column, tables)) : keyOf(row.rowid)) ?? null);
			}
		}));
}

type Members = Map<string | number, Set<string>>;
type Naming = (value: string | number) => string;

interface List {
	sheet: Sheet;
	room: SheetColumn | null;
	person: SheetColumn;
	/** Whether it is the list of conversations itself. */
	own: boolean;
	members(name: Naming): Members;
}

/** What may say who takes part in the conversations of a key: columns of their list, and lists of pairs. */
function listsOf({ key, isUnlisted }: Room, sheet: Sheet, context: Context): List[] {
	const { tables, references, sheets } = context;
	const list = (of: Sheet, room: SheetColumn | null, person: SheetColumn): List => ({
		sheet: of,
		room,
		person,
		own: of === key.sheet,
		members: (name) => {
			const members: Members = new Map();
			for (const row of of.rows.slice(0, LISTED_AT_MOST)) {
				if (row.standing !== 'kept') continue;
				const where = room ? keyOf(cell(row, room, tables)) : key.column ? keyOf(cell(row, key.column, tables)) : keyOf(row.rowid);
				const who = keyOf(cell(row, person, tables));
				if (where === null || who === null) continue;
				const known = members.get(where) ?? new Set();
				members.set(where, known.add(name(who)));
			}
			return members;
		}
	});
	if (isUnlisted)
		return key.sheet.columns.filter((c) => isParty(c) && c !== key.column).map((c) => ({ ...list(key.sheet, key.column, c), own: false }));
	const { rowidColumn, primaryKey } = tables[key.sheet.tables[0]!]!;
	const partners = key.sheet.columns.filter(
		(c) => isParty(c) && c !== key.column && c.column !== rowidColumn && !(primaryKey.length === 1 && primaryKey[0] === c.column)
	);
	const pairs = sheets.flatMap((of) => {
		if (of === sheet || of === key.sheet || of.columns.length > PAIRS_AT_MOST) return [];
		const rooms = (references.get(of) ?? []).filter(
			(r) => r.key === key && r.inclusion >= AGREE && !isOwnNumber(r.from, of, tables) && r.from.profile.distinct.size >= 2
		);
		return rooms.flatMap((r) => of.columns.filter((c) => isParty(c) && c !== r.from).map((c) => list(of, r.from, c)));
	});
	// Rows of a number and a key are those of persons; of an account's name and a number, of conversations.
	const isKeyedByAddress = key.column !== null && addressShare(key.column) > 0.6;
	const said = partners.filter((c) => !isKeyedByAddress || addressShare(c) > 0.6);
	return [...said.map((c) => list(key.sheet, null, c)), ...pairs];
}

const isParty = ({ column, profile: p }: SheetColumn): boolean =>
	column >= 0 && !p.time && p.reals === 0 && p.prose < 0.3 && p.averageLength < 100 && p.distinct.size >= 2;

interface Way {
	writer: Naming;
	member: Naming;
	key: Key | null;
	memberKey: Key | null;
}

/** How the values of two columns that name persons may be compared: as they are, or by the persons they are keys or addresses of. */
function waysToCompare(
	writer: SheetColumn,
	member: SheetColumn,
	sheet: Sheet,
	list: Sheet,
	talks: Sheet,
	{ references }: Context,
	identities: Identities
): Way[] {
	const keysBy = (of: Sheet, c: SheetColumn): Key[] =>
		(references.get(of) ?? [])
			.filter((r) => r.from === c && r.inclusion >= MOSTLY && identities.has(r.key) && r.key.sheet !== list && r.key.sheet !== talks)
			.sort((a, b) => asPersons(b) - asPersons(a))
			.map((r) => r.key);
	// An address says by itself who it is.
	const [ofWriter, ofMember] = [addressShare(writer) > 0.4 ? [] : keysBy(sheet, writer), keysBy(list, member)];
	const same = ofWriter.find((k) => ofMember.includes(k)) ?? ofWriter[0] ?? null;
	const plain: Naming = (value) => normalAddress(String(value));
	const ways: Way[] = [{ writer: plain, member: plain, key: same, memberKey: same ?? ofMember[0] ?? null }];
	const isAddressed = addressShare(member) > 0.4;
	for (const key of ofWriter) {
		const byKey = identities.by(key);
		if (isAddressed) ways.push({ writer: byKey, member: identities.byAddress, key, memberKey: null });
		for (const memberKey of ofMember) if (memberKey !== key) ways.push({ writer: byKey, member: identities.by(memberKey), key, memberKey });
	}
	return ways;
}
const MOSTLY = 0.9;
/** How surely a key is that of persons: names and addresses of their own speak for them. */
const asPersons = ({ key: { sheet }, confidence }: Reference): number =>
	confidence + (isNamed(sheet) ? PERSONS : 0) + (sheet.columns.some((c) => addressShare(c) > 0.6) ? PERSONS : 0);
const PERSONS = 0.15;

interface Fit {
	odds: number;
	owner: string | number | null;
	everywhere: string | number | null;
	isSpanned: boolean;
	isPartner: boolean;
}

/** Whether writers are among those who take part, and how little that can be chance; and the one who never is. */
function fits(
	sheet: Sheet,
	writer: SheetColumn,
	written: readonly (string | number | null)[],
	members: Members,
	name: Naming,
	{ tables }: Context
): Fit | null {
	const named = new Set<string | number>();
	const rowsOf = new Map<string | number, number>();
	const roomsOf = new Map<string | number | null, Set<string | number>>();
	const inRooms = [...new Set(written)].flatMap((room) => (room === null ? [] : [...(members.get(room) ?? [])]));
	const persons = new Set(inRooms).size;
	const met = new Set<string>();
	const outside = new Map<string | number, number>();
	let [inside, odds] = [0, 0];
	for (const [i, row] of tellingRows(sheet).entries()) {
		const [room, who] = [written[i] ?? null, keyOf(cell(row, writer, tables))];
		const names = room === null ? undefined : members.get(room);
		if (room !== null) {
			rowsOf.set(room, (rowsOf.get(room) ?? 0) + 1);
			roomsOf.set(who, (roomsOf.get(who) ?? new Set()).add(room));
		}
		if (who === null || who === 0 || !names) continue;
		const called = name(who);
		if (!names.has(called)) {
			outside.set(who, (outside.get(who) ?? 0) + 1);
			continue;
		}
		inside++;
		named.add(who);
		const pair = `${room} ${called}`;
		if (!met.has(pair)) odds -= Math.log(names.size / persons);
		met.add(pair);
	}
	const [owner] = [...outside].sort((a, b) => b[1] - a[1]);
	const others = [...outside.values()].reduce((a, b) => a + b, 0) - (owner?.[1] ?? 0);
	if (inside < ROWS_LEAST || odds < NO_CHANCE || others > inside * (1 - AGREE)) return null;
	// Of one or two small numbers it is chance still: kinds, boxes, states.
	if (named.size < WRITERS_LEAST && writer.profile.texts === 0) return null;
	const isOwner = owner !== undefined && owner[1] > inside * (1 - AGREE);
	// Who is a member elsewhere is not the owner.
	if (isOwner && inRooms.includes(name(owner[0]))) return null;
	const often = [...rowsOf].flatMap(([room, rows]) => (rows >= SPANNED_ROWS ? [room] : []));
	const isSpanned = [...roomsOf.values()].some((rooms) => often.filter((room) => rooms.has(room)).length > often.length * SPANNING);
	const lists = [...new Set(written)].flatMap((room) => (room === null ? [] : [members.get(room) ?? new Set<string>()]));
	const present = lists.length < ROOMS_LEAST ? [] : [...named].filter((who) => lists.every((names) => names.has(name(who))));
	const ofTwo = often.filter((room) => members.get(room)?.size === 1);
	const nameless = new Set([...(roomsOf.get(null) ?? []), ...(roomsOf.get(0) ?? [])]);
	const isPartner = nameless.size > 0 && ofTwo.length > 0 && ofTwo.filter((room) => nameless.has(room)).length < ofTwo.length * ANSWERED;
	return { odds, owner: isOwner ? owner[0] : null, everywhere: present.length === 1 ? present[0]! : null, isSpanned, isPartner };
}
/** Share of the conversations of two in which the owner must have written. */
const ANSWERED = 0.5;
const SPANNED_ROWS = 3;
const SPANNING = 0.8;
const ROOMS_LEAST = 3;

const ONE_EACH = 0.9;

/** Persons under one name, whether a key of theirs or an address names them. */
class Identities {
	private readonly names = new Map<string, string>();
	private readonly keys = new Map<Key, number>();
	readonly byAddress: Naming = (value) => this.find(`a:${normalAddress(String(value))}`);

	constructor({ sheets, keys, references, tables }: Context) {
		// Files have names as well.
		const areFiles = (s: Sheet): boolean => s.columns.some((c) => isPath(c) || c.profile.mime > 0.5);
		// An address that comes again is that of somebody who is met there, and not listed.
		const isOwn = (c: SheetColumn): boolean =>
			c.column >= 0 && addressShare(c) > 0.6 && c.profile.distinct.size >= c.profile.filled * ONE_EACH;
		const listed = sheets.filter((s) => s.rows.length <= LISTED_AT_MOST && (isNamed(s) || s.columns.some(isOwn)) && !areFiles(s));
		for (const key of keys) if (listed.includes(key.sheet)) this.keys.set(key, this.keys.size);
		for (const sheet of listed) {
			const own = keys.filter((k) => k.sheet === sheet);
			const addresses = sheet.columns.filter(isOwn);
			// Whose each is; the kinds of numbers are few.
			const isWhose = ({ from, key }: Reference): boolean =>
				this.keys.has(key) &&
				isNamed(key.sheet) &&
				!isOwnNumber(from, sheet, tables) &&
				from.profile.distinct.size * 2 > from.profile.filled;
			const onward = addresses.length > 0 ? (references.get(sheet) ?? []).filter(isWhose).slice(0, 1) : [];
			for (const row of sheet.rows) {
				if (row.standing !== 'kept') continue;
				const called = [
					...own.map((k) => this.called(k, k.column ? keyOf(cell(row, k.column, tables)) : keyOf(row.rowid))),
					...onward.map((r) => this.called(r.key, keyOf(cell(row, r.from, tables)))),
					...addresses.map((c) => cell(row, c, tables)).map((v) => (typeof v === 'string' && v !== '' ? `a:${normalAddress(v)}` : null))
				].filter((one) => one !== null);
				for (const one of called.slice(1)) this.join(called[0]!, one);
			}
		}
	}

	has(key: Key): boolean {
		return this.keys.has(key);
	}

	by(key: Key): Naming {
		return (value) => this.find(this.called(key, value)!);
	}

	private called(key: Key, value: string | number | null): string | null {
		return value === null ? null : `${this.keys.get(key)}:${value}`;
	}

	private find(name: string): string {
		let at = name;
		for (let next = this.names.get(at); next !== undefined && next !== at; next = this.names.get(at)) at = next;
		return at;
	}

	private join(a: string, b: string): void {
		const [one, other] = [this.find(a), this.find(b)];
		if (one !== other) this.names.set(other, one);
	}
}

const KNOWN = new WeakMap<Context['keys'], Identities>();

function identitiesOf(context: Context): Identities {
	const known = KNOWN.get(context.keys) ?? new Identities(context);
	KNOWN.set(context.keys, known);
	return known;
}

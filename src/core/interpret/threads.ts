/** Sheets of threads, what joins them to messages and persons, and columns that tell a thread. */
import { FILE_COLUMN } from '../harvest';
import type { Row, Table } from '../model';
import { saysWay } from '../way-words';
import { alwaysThere } from './always-there';
import { addressShare, bestTime, areCounted, areDigestKeys, areKeys, containsAddresses, isHandleLike, nameScore } from './columns';
import type { Context } from './context';
import { messageKeyOf } from './message-keys';
import type { MessageReading, PersonReading, ThreadReading } from './reading';
import { timeOf } from './time';
import { EMAIL, PHONE } from './profile';
import { isMeant, isNamedAlike, keyOf, keysIn, type Key, type Reference } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import type { ShownMessages } from './shows-messages';

/**
 * A sheet of threads rather than persons: a join leads from it to persons, or it points to them itself, or its rows
 * mostly have no title. A sheet with an address of its own in each row is one of persons, unless it stands before those.
 */
export function looksLikeThreads(sheet: Sheet, context: Context): boolean {
	if (memberList(sheet, context, null)) return true;
	if (hasOwnAddresses(sheet)) return !isNamed(sheet) && standsBeforePersons(sheet, context);
	// A row's own number is no reference, though others have the same.
	const { rowidColumn } = context.tables[sheet.tables[0]!]!;
	const own = (context.references.get(sheet) ?? []).some(
		(r) =>
			r.confidence > 0.6 &&
			r.key.sheet !== sheet &&
			r.from.column !== rowidColumn &&
			!(isHandle(r.from) && r.from.profile.filled >= sheet.sure.length * 0.8)
	);
	const joined = context.sheets.some((s) => {
		if (s === sheet || !isJoin(s, context)) return false;
		// The surest of each column: small numbers are keys of many a sheet.
		const all = (context.references.get(s) ?? []).filter((r) => r.confidence > 0.5);
		const refs = all.filter((r) => all.find((x) => x.from === r.from) === r);
		if (!refs.some((r) => r.key.sheet === sheet)) return false;
		// A join has two ends: the one whose rows all have a name is that of persons, where the other's have none.
		const others = refs.filter((r) => r.key.sheet !== sheet).map((r) => r.key.sheet);
		const keys = refs.map((r) => r.key.column);
		return others.length === 0 || !(isKnown(sheet, keys) && others.every((o) => !isKnown(o, keys)));
	});
	const untitled = sheet.columns.every(
		(c) => c.profile.texts === 0 || c.profile.filled < rowsThatSay(sheet) * 0.6 || c.profile.uuid > 0.6 || c.profile.json > 0.5
	);
	return own || joined || untitled || THREADS_NAMED.test(sheet.name) || gathersSeveral(sheet, context);
}

/**
 * Whether some rows of another sheet name one of these beside an address, several addresses under the same one, and the
 * addresses elsewhere without it: rooms. A person's several numbers stand with that person only.
 */
function gathersSeveral(sheet: Sheet, { sheets, references, tables }: Context): boolean {
	const isListed = sheets.some((list) =>
		(references.get(list) ?? []).some(
			({ from, key, confidence }) =>
				key.sheet === sheet &&
				confidence > 0.5 &&
				from.profile.distinct.size * 2 <= from.profile.filled &&
				list.columns.some((c) => c !== from && c.column >= 0 && addressShare(c) > 0.6 && c.profile.nulls === 0)
		)
	);
	return sheets.some((s) =>
		(references.get(s) ?? []).some(
			({ from, key, confidence }) =>
				key.sheet === sheet &&
				confidence > 0.5 &&
				s !== sheet &&
				from.profile.filled < s.sure.length * FILLED_IN_ALL &&
				s.columns.some(
					(c) => c !== from && c.column >= 0 && addressShare(c) > 0.6 && areMetApart(s.sure.slice(0, 3000), from, c, tables, isListed)
				)
		)
	);
}
const FILLED_IN_ALL = 0.95;

/** `isListed`: whether a list of its own gives most of the rooms several addresses. */
function areMetApart(rows: readonly Row[], room: SheetColumn, address: SheetColumn, tables: readonly Table[], isListed: boolean): boolean {
	const within = new Map<string | number, Set<string | number>>();
	const without = new Set<string | number>();
	const nameless = { within: 0, without: 0, all: 0 };
	for (const row of rows) {
		const [key, who] = [keyOf(cell(row, room, tables)), keyOf(cell(row, address, tables))];
		const isWithin = key !== null && key !== 0;
		if (isWithin) nameless.all++;
		if (who === null) nameless[isWithin ? 'within' : 'without']++;
		else if (!isWithin) without.add(who);
		else if (within.has(key)) within.get(key)!.add(who);
		else within.set(key, new Set([who]));
	}
	const rooms = [...within.values()];
	// The owner's own messages to a room name nobody; those to a person name that person.
	const isNameless = nameless.without === 0 && nameless.within > nameless.all * NAMELESS;
	if (rooms.filter((names) => names.size > 1).length <= rooms.length * MOST) return isNameless && isListed;
	if (isNameless) return true;
	const named = [...new Set(rooms.flatMap((names) => [...names]))];
	const apart = named.filter((who) => without.has(who) || rooms.filter((names) => names.has(who)).length > 1);
	return apart.length >= named.length * MOST;
}
const NAMELESS = 0.1;
const MOST = 0.5;

export const THREADS_NAMED = /thread|chat|conv|room|dialog|session|channel|^(?:[a-z]+_)?groups?$/i;

/** Whether another sheet's rows name those of this one in a column called for them, several the same. */
const isNamedByMany = (sheet: Sheet, { sheets, references }: Context): boolean =>
	sheets.some((s) =>
		(references.get(s) ?? []).some(
			(r) => r.key.sheet === sheet && r.confidence > 0.7 && !r.from.profile.unique && isNamedAlike(r.from, sheet)
		)
	);

/** An address of its own in most of the rows. */
const hasOwnAddresses = (sheet: Sheet): boolean =>
	sheet.columns.some((c) => addressShare(c) > 0.6 && c.profile.unique && c.profile.filled > rowsThatSay(sheet) * 0.6);

/**
 * Whether a join leads from a sheet's rows to those of a list of addresses, and another one from what belongs to them:
 * conversations can be called by the number of whom they are with.
 */
function standsBeforePersons(sheet: Sheet, context: Context): boolean {
	const joined = context.sheets.flatMap((join) => {
		if (join === sheet || !isJoin(join, context)) return [];
		const all = (context.references.get(join) ?? []).filter((r) => r.confidence > 0.5);
		const surest = all.filter((r) => all.find((x) => x.from === r.from) === r);
		const here = surest.find((r) => r.key.sheet === sheet);
		return here ? [{ here, others: surest.filter((r) => r.key.sheet !== sheet).map((r) => r.key.sheet) }] : [];
	});
	const toPersons = joined.find(({ others }) => others.some(hasOwnAddresses));
	if (!toPersons) return false;
	const isCalledSo = THREADS_NAMED.test(sheet.name) && isNamedByMany(sheet, context);
	return isCalledSo || joined.some((j) => j !== toPersons && !j.here.from.profile.unique && !j.others.some(hasOwnAddresses));
}

/** Rows with texts, where those have several: programs keep some rows empty, for those to come. */
function rowsThatSay(sheet: Sheet): number {
	const all = sheet.sure.length;
	const texts = sheet.columns.filter((c) => c.column >= 0 && c.path.length === 0 && c.profile.texts > 0).map((c) => c.column);
	if (all > FEW_LISTED || texts.length < 2) return all;
	const said = sheet.sure.map((row) => texts.filter((c) => typeof row.values[c] === 'string' && row.values[c] !== '').length);
	const some = said.filter((n) => n > 0).length;
	return some >= SAYING_LEAST && said.filter((n) => n > 1).length >= some * SAYING_MORE ? some : all;
}
const SAYING_LEAST = 3;
const SAYING_MORE = 0.7;
const FEW_LISTED = 500;

/** Whether (nearly) every row says who it is: by a name, or a handle that is no mere key. */
const isKnown = (sheet: Sheet, keys: readonly (SheetColumn | null)[]): boolean =>
	isNamed(sheet) || sheet.columns.some((c) => isHandle(c) && !keys.includes(c) && c.profile.filled >= rowsThatSay(sheet) * 0.8);

/** A handle of its own in each row: another list of the same persons can have it too. */
const isHandle = (c: SheetColumn): boolean => c.profile.unique && c.profile.uuid < 0.3 && isHandleLike(c);

/** Whether (nearly) every row has a name of its own. */
export const isNamed = (sheet: Sheet): boolean =>
	sheet.columns.some(
		(c) =>
			c.profile.texts > 0 &&
			c.profile.name > 0.6 &&
			c.profile.uuid < 0.3 &&
			c.profile.filled > rowsThatSay(sheet) * 0.8 &&
			c.profile.distinct.size > rowsThatSay(sheet) * 0.8 &&
			c.profile.token < 0.9 &&
			!areCounted(c) &&
			!containsAddresses(c)
	);

export function isJoin(sheet: Sheet, context: Context): boolean {
	// A row's own number is no reference, though others have the same.
	const { rowidColumn } = context.tables[sheet.tables[0]!]!;
	// Numbers or addresses of persons, each with its kind, join nothing.
	if (sheet.columns.some((c) => addressShare(c) > 0.6)) return false;
	// Nor does what has words of its own: a list of conversations with the last message of each.
	if (sheet.columns.some((c) => c.profile.texts > 0 && c.profile.prose > 0.5)) return false;
	const strong = (context.references.get(sheet) ?? []).filter((r) => r.confidence > 0.5 && r.from.column !== rowidColumn);
	// Two columns of persons alone join nothing: a conversation names whom it is with, and who takes part.
	const surest = [...new Set(strong.map((r) => r.from))].map((from) => strong.find((r) => r.from === from)!.key.sheet);
	return surest.length >= 2 && new Set(surest).size >= 2 && sheet.columns.filter((c) => c.profile.filled > 0).length <= 4;
}

const TALK_NAMED = /thread|chat|conv|room/i;

export function isThreadKey(c: SheetColumn, sheet: Sheet): boolean {
	const p = c.profile;
	if (p.time || p.many || p.reals > 0 || p.blobs > 0 || p.filled < sheet.sure.length * 0.9 || p.prose > 0.3) return false;
	if (p.distinct.size <= 8 && [...p.distinct.keys()].some((v) => typeof v === 'string' && saysWay(v))) return false;
	if (p.distinct.size < 3 || p.distinct.size > Math.max(3, sheet.sure.length * 0.4))
		return TALK_NAMED.test(c.name) && p.distinct.size <= sheet.sure.length * 0.6;
	return (
		(p.ints > 0 && /thread|chat|conv|room|peer|group/i.test(c.name)) ||
		(p.texts > 0 && (p.averageLength > 5 || TALK_NAMED.test(c.name)) && p.token > 0.9 && p.mime === 0 && p.path < 0.5) ||
		(p.ints > 0 && p.distinct.size >= 6)
	);
}

/** Share of the messages that a join must name: a chance likeness of numbers names few. */
const MOST_JOINED = 0.4;
/** Share of either table's rows that must have the other's, where rows are joined by nothing but their own numbers. */
const EACH_THE_OTHER = 0.95;
/** Share of the messages that are in a conversation, where some have gone to the bin. */
const EACH_JOINED = 0.85;

/** Whether what a list says of messages came after them, as that they were read did: a conversation has a message from the start. */
function isOfLater(list: Sheet, toMessage: Reference, sheet: Sheet, { tables }: Context): boolean {
	const [later, sent] = [bestTime(list, tables), bestTime(sheet, tables)];
	if (!later || !sent) return false;
	const times = new Map(sheet.sure.slice(0, COMPARED).map((row) => [messageKeyOf(row, toMessage.key.column, tables), row]));
	const pairs = list.sure.slice(0, COMPARED).flatMap((row) => {
		const of = times.get(messageKeyOf(row, toMessage.from, tables) ?? '');
		const [at, was] = [timeOf(cell(row, later.value, tables), later.reading), of && timeOf(cell(of, sent.value, tables), sent.reading)];
		return at === null || was === null || was === undefined ? [] : [at > was];
	});
	return pairs.length > 0 && pairs.filter((isLater) => isLater).length > pairs.length * MOST;
}
const COMPARED = 400;

/**
 * `toPersons`: where nothing in the row says with whom, a join may say it. `named`: the lists of persons that the row itself
 * names: another one that a join gives (nearly) each message to is one of conversations.
 */
export function findThreadJoin(
	sheet: Sheet,
	context: Context,
	personSheets: Set<Sheet>,
	toPersons: boolean,
	named: ReadonlySet<Sheet> = new Set()
): MessageReading['threadJoin'] {
	let ofOne: MessageReading['threadJoin'] = null;
	for (const join of context.sheets) {
		if (join === sheet || join.columns.length > 5) continue;
		const refs = context.references.get(join) ?? [];
		const toMessage = refs.find(
			(r) =>
				r.key.sheet === sheet &&
				r.from.profile.distinct.size > join.sure.length * 0.8 &&
				r.coverage > MOST_JOINED &&
				(isMeant(r, join, context.tables) || Math.min(r.inclusion, r.coverage) > EACH_THE_OTHER)
		);
		if (!toMessage) continue;
		const toThread = refs.find(
			(r) => r.from !== toMessage.from && r.key.sheet !== sheet && r.from.profile.distinct.size < join.sure.length * 0.8
		);
		if (toThread && isOfLater(join, toMessage, sheet, context)) continue;
		// A join says nothing of its own: lines of a log can be numbered as messages are.
		const own = join.columns.some((c) => c !== toMessage.from && c !== toThread?.from && c.profile.prose > 0.3);
		const list = toThread?.key.sheet;
		const isOfTalks = (): boolean =>
			named.size > 0 && !named.has(list!) && toMessage.coverage > EACH_JOINED && toMessage.from.profile.unique;
		if (!toThread || own || !(toPersons || !personSheets.has(list!) || looksLikeThreads(list!, context) || isOfTalks())) continue;
		const found = { sheet: join, message: toMessage.from, thread: toThread.from, messageKey: toMessage.key, threadKey: toThread.key };
		if (toThread.from.profile.distinct.size > 1) return found;
		// What is the same for all of them parts nothing, where something else does.
		ofOne ??= found;
	}
	return ofOne;
}

/** `named`: the columns by which messages name conversations. */
export function readThreadSheet(
	sheet: Sheet,
	context: Context,
	persons: PersonReading[],
	named: ReadonlySet<SheetColumn>,
	shown: ShownMessages
): ThreadReading {
	const personSheets = new Set(persons.map((p) => p.sheet));
	const { rowidColumn } = context.tables[sheet.tables[0]!]!;
	const list = memberList(sheet, context, personSheets);
	const toPersons = (context.references.get(sheet) ?? []).filter(
		(r) =>
			r.from !== list?.column &&
			// Where a list says who takes part, a conversation's own number is nobody's.
			!(list?.key && named.has(r.from)) &&
			personSheets.has(r.key.sheet) &&
			r.key.sheet !== sheet &&
			r.from.column !== rowidColumn
	);
	// One file for all conversations says of none whom it is with.
	const telling = toPersons.filter((r) => r.from.name !== FILE_COLUMN || r.from.profile.distinct.size > 1 || sheet.sure.length < 2);
	const ref = telling.find((r) => r.confidence > 0.5) ?? onlyPerson(sheet, telling);
	// Times in digits look like numbers of telephones.
	const address = sheet.columns.find((c) => addressShare(c) > 0.4 && c !== list?.column && c.profile.time === null);
	const titles = sheet.columns
		.filter(
			(c) =>
				c.profile.texts > 0 &&
				c.profile.name > 0.5 &&
				addressShare(c) < 0.3 &&
				c.profile.uuid < 0.3 &&
				c !== address &&
				c !== ref?.from &&
				!areKeys(c) &&
				!areDigestKeys(c) &&
				!containsAddresses(c)
		)
		.filter((c) => areOwn(c, sheet, context) && !shown.isIn(c, sheet))
		.sort((a, b) => nameScore(b) - nameScore(a));
	return {
		sheet,
		title: titles[0] ?? null,
		list,
		peer: ref ? { column: ref.from, key: ref.key } : address ? { column: address, key: null } : null
	};
}

/** Whether conversations can be called by a column's values: not all alike, nor of a few kinds. What is left of older rows repeats them. */
function areOwn(c: SheetColumn, { sure }: Sheet, { tables }: Context): boolean {
	const kept = sure.filter((row) => row.standing === 'kept');
	const values = (kept.length > 0 ? kept : sure).flatMap((row) => keyOf(cell(row, c, tables)) ?? []);
	const distinct = new Set(values).size;
	return values.length < 2 || (distinct > 1 && !(values.length >= KINDS_TOLD && distinct <= FEW_KINDS && distinct * 2 <= values.length));
}
const KINDS_TOLD = 4;
const FEW_KINDS = 3;

/** In a list of few the numbers of persons are as small as those of anything: the one column that has a number of its own for each row. */
function onlyPerson(sheet: Sheet, refs: readonly Reference[]): Reference | undefined {
	const own = refs.filter((r) => r.inclusion === 1 && r.from.profile.unique && r.from.profile.filled === sheet.sure.length);
	const untitled = sheet.columns.every((c) => c.profile.texts === 0 || c.profile.time !== null);
	return untitled && new Set(own.map((r) => r.from)).size === 1 ? own[0] : undefined;
}

const LONG_KEY = 5;

const areAddresses = (list: readonly string[]): boolean => list.every((one) => PHONE.test(one) || EMAIL.test(one));

/** A column of which each value lists keys of persons: several in some rows at least, or written as a list (JSON). */
function memberList(sheet: Sheet, context: Context, personSheets: ReadonlySet<Sheet> | null): ThreadReading['list'] {
	const rows = sheet.sure.slice(0, 500);
	const { primaryKey } = context.tables[sheet.tables[0]!]!;
	for (const column of sheet.columns) {
		const p = column.profile;
		if (column.column < 0 || p.time || p.blobs > 0 || (p.texts === 0 && p.json < 1) || p.prose > 0.3) continue;
		const isOwnKey = primaryKey.length === 1 && primaryKey[0] === column.column && column.path.length === 0;
		const lists = rows.map((row) => keysIn(cell(row, column, context.tables))).filter((list) => list.length > 0);
		if (lists.length < rows.length * 0.8 || !(p.json > 0.8 || lists.some((list) => list.length > 1))) continue;
		// Who takes part in all is the owner, who need not be on a list of persons.
		const owner = alwaysThere(lists);
		const known = (k: Key, v: string): boolean => v === owner || k.values.has(v) || k.values.has(Number(v));
		// Numbers of telephones are written in parts: those are short.
		if (p.phone > 0.3 && lists.some((list) => list.some((key) => key.length < LONG_KEY))) continue;
		// Keys put together of parts are a row's own.
		const key = context.keys.find(
			(k) =>
				!isOwnKey &&
				(personSheets?.has(k.sheet) ?? (k.sheet !== sheet && k.values.size > 1)) &&
				lists.filter((list) => list.every((v) => known(k, v))).length >= lists.length * 0.9
		);
		if (key) return { column, key };
		// Numbers and addresses themselves, where those of the persons are in no list.
		if (lists.some((list) => list.length > 1) && lists.every(areAddresses)) return { column, key: null };
	}
	return null;
}

/** What may name the conversations of a sheet's messages, and what may say who takes part in them: columns, joins, lists of pairs. */
import { speaksOfPersons } from '../kind-words';
import type { Row } from '../model';
import { addressShare } from './columns';
import type { Context } from './context';
import { NUMBERS, type Naming } from './identities';
import { joinsOnce } from './joins-once';
import type { MessageReading } from './reading';
import { isNamedAlike, keyOf, keysIn, type Key, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { isNamed } from './threads';

export type Join = NonNullable<MessageReading['threadJoin']>;

export interface Room {
	key: Key;
	thread: Reference | null;
	join: Join | null;
	weight: number;
	/** Whether nothing but the list of who takes part names them. */
	isUnlisted?: boolean;
	/** The conversation of each telling row. */
	written(): (string | number | null)[];
}

/** Rows that are asked. */
const ROWS = 600;
const LISTED_AT_MOST = 20_000;
export const ROWS_LEAST = 8;
/** Share of rows that must say the same. */
export const AGREE = 0.97;
/** Share of the messages that must have a conversation. */
export const IN_SOME = 0.9;
/** Share of a join's rows that must have a message of their own. */
const OWN_MESSAGE = 0.9;
/** Share of a list's rows that must be conversations of these messages, where neither names nor long keys say that they are. */
const IN_USE = 0.25;
const SURELY = 0.7;
/** Share of the messages, lost ones included, that a join must name. */
const JOINED = 0.4;
/** Conversations asked about, the likeliest first. */
const ASKED = 8;

/** Rows in use tell it, where there are any: what is left of lost ones may be joined to nothing, or misread. */
export function tellingRows({ sure }: Sheet): Row[] {
	const kept = sure.filter((row) => row.standing === 'kept');
	return (kept.length < ROWS_LEAST ? sure : kept).slice(0, ROWS);
}

/** What may name the conversations of a sheet's messages, the likeliest first. */
export function roomsOf(sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): Room[] {
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
			written: () => rows.map((row) => keyOf(cell(row, thread.from, tables)))
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
		const written = (): (string | number | null)[] => rows.map((row) => keyOf(cell(row, column, tables)));
		return [{ key, thread, join: null, isUnlisted: true, weight: weightOf(thread) - UNLISTED, written }];
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
/** Most conversations have a list of their own. */
const UNLISTED = 1;

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
			written: (): (string | number | null)[] => {
				const kept = list.rows.filter((row) => row.standing === 'kept');
				const byMessage = new Map(kept.map((row) => [keyOf(cell(row, message.from, tables)), keyOf(cell(row, thread.from, tables))]));
				const { column } = message.key;
				return rows.map((row) => byMessage.get(column ? keyOf(cell(row, column, tables)) : keyOf(row.rowid)) ?? null);
			}
		}));
}

export type Members = Map<string | number, Set<string>>;

export interface List {
	sheet: Sheet;
	room: SheetColumn | null;
	person: SheetColumn;
	/** The key by which `room` names conversations, where that is another than theirs. */
	by: Key | null;
	/** Whether it is the list of conversations itself. */
	own: boolean;
	/** Whether each value names all of those who take part. */
	isOfAll: boolean;
	members(name: Naming): Members;
}

/** What may say who takes part in the conversations of a key: columns of their list, and lists of pairs. */
export function listsOf({ key, isUnlisted }: Room, sheet: Sheet, context: Context): List[] {
	const { tables, references, sheets } = context;
	const roomOf = (row: Row, room: SheetColumn | null): string | number | null =>
		room ? keyOf(cell(row, room, tables)) : key.column ? keyOf(cell(row, key.column, tables)) : keyOf(row.rowid);
	const list = (of: Sheet, room: SheetColumn | null, person: SheetColumn, byOther: Key | null = null): List => {
		const isOfAll = listsAll(person, of, context);
		const whoIn = (row: Row): (string | number | null)[] =>
			isOfAll ? keysIn(cell(row, person, tables)).map(asStored) : [keyOf(cell(row, person, tables))];
		const known = new Map<Naming, Members>();
		const translated = byOther ? translation(byOther, key, tables) : null;
		const read = (name: Naming): Members => {
			const members: Members = new Map();
			for (const row of of.rows.slice(0, LISTED_AT_MOST)) {
				if (row.standing !== 'kept') continue;
				const named = roomOf(row, room);
				const where = translated && named !== null ? (translated.get(named) ?? null) : named;
				if (where === null) continue;
				for (const who of whoIn(row)) if (who !== null) members.set(where, (members.get(where) ?? new Set()).add(name(who)));
			}
			known.set(name, members);
			return members;
		};
		return { sheet: of, room, person, by: byOther, own: of === key.sheet, isOfAll, members: (name) => known.get(name) ?? read(name) };
	};
	if (isUnlisted)
		return key.sheet.columns.filter((c) => isParty(c) && c !== key.column).map((c) => ({ ...list(key.sheet, key.column, c), own: false }));
	const { rowidColumn, primaryKey } = tables[key.sheet.tables[0]!]!;
	const partners = key.sheet.columns.filter(
		(c) =>
			(isParty(c) || listsAll(c, key.sheet, context)) &&
			c !== key.column &&
			c.column !== rowidColumn &&
			!(primaryKey.length === 1 && primaryKey[0] === c.column && c.path.length === 0)
	);
	const pairs = sheets.flatMap((of) => {
		if (of === sheet || of === key.sheet || of.columns.length > PAIRS_AT_MOST) return [];
		const rooms = (references.get(of) ?? []).filter(
			(r) =>
				(r.key === key || (r.key.sheet === key.sheet && addressShare(r.from) < 0.4)) &&
				r.inclusion >= AGREE &&
				!isOwnNumber(r.from, of, tables) &&
				r.from.profile.distinct.size >= 2
		);
		return rooms.flatMap((r) =>
			of.columns
				.filter((c) => isParty(c) && !listsAll(c, of, context) && c !== r.from && joinsOnce(of, r.from, c, tables))
				.map((c) => list(of, r.from, c, r.key === key ? null : r.key))
		);
	});
	// Rows of a number and a key are those of persons; of an account's name and a number, of conversations.
	const isKeyedByAddress = key.column !== null && addressShare(key.column) > 0.6;
	const said = partners.filter((c) => !isKeyedByAddress || addressShare(c) > 0.6);
	return [...said.map((c) => list(key.sheet, null, c)), ...pairs];
}

/** What a list's rows are called by one key, by what they are called by another. */
function translation(from: Key, to: Key, tables: Context['tables']): Map<string | number, string | number> {
	const read = (row: Row, { column }: Key): string | number | null => (column ? keyOf(cell(row, column, tables)) : keyOf(row.rowid));
	return new Map(
		from.sheet.rows.slice(0, LISTED_AT_MOST).flatMap((row) => {
			const [one, other] = [read(row, from), read(row, to)];
			return row.standing === 'kept' && one !== null && other !== null ? [[one, other] as const] : [];
		})
	);
}

/** Whether a column's values are lists: of those who take part, say. */
function listsAll(column: SheetColumn, { sure }: Sheet, { tables }: Context): boolean {
	const { profile: p } = column;
	if (column.column < 0 || p.texts < p.filled) return false;
	const values = sure.slice(0, LISTS_ASKED).map((row) => cell(row, column, tables));
	if (p.json < ALL_LISTS)
		return values.every((v) => v === null || NUMBERS.test(String(v))) && values.some((v) => /\D/.test(String(v ?? '')));
	return values.filter((v) => typeof v === 'string' && /^\s*\[/.test(v)).length >= values.length * ALL_LISTS;
}
const ALL_LISTS = 0.8;
const LISTS_ASKED = 100;

/** Keys are texts in a list written down, and numbers where they are stored. */
const asStored = (key: string): string | number => (/^(?:0|[1-9]\d{0,14})$/.test(key) ? Number(key) : key);

/** A column that can name somebody. */
export const isParty = ({ column, profile: p }: SheetColumn): boolean =>
	column >= 0 && !p.time && p.reals === 0 && p.prose < 0.3 && p.averageLength < 100 && p.distinct.size >= 2;

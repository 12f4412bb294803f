/**
 * Who wrote as a number that a person has in one conversation alone, by a table with a row for each who takes part:
 * conversation, number, person. The messages get a column that says the person.
 */
import type { Row, Value } from '../model';
import { bestText } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { isMeant, keyOf, referencesOf, type Reference } from './refs';
import { cell, isOwnNumber, leaveAside, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';

const SURE = 0.5;
const LEAST = 10;
const NEARLY_ALL = 0.98;
const AS_SURE = 0.1;
const ROWS_AT_MOST = 50_000;
const HIGHEST = 1000;
const COLUMNS_AT_MOST = 6;
/** Rows of which two with the same pair may stand in a table that has each pair once: what was lost can be misread. */
const TWICE = 0.02;

interface Members {
	list: Sheet;
	room: Reference;
	number: SheetColumn;
	person: SheetColumn;
	/** Who it is, by conversation and number. */
	who: Map<string, Value | undefined>;
}

/** Adds the columns, to sheets of texts whose conversations have such members. */
export function openWritersByNumber(context: Context): void {
	const { sheets, keys, references, tables } = context;
	const written = sheets.filter((sheet) => !sheet.family && bestText(sheet) !== null);
	const rooms = new Set(written.flatMap((sheet) => surest(references.get(sheet) ?? []).map((r) => r.key)));
	const members = rooms.size === 0 ? [] : sheets.flatMap((list) => membersIn(list, rooms, context));
	for (const sheet of members.length > 0 ? written : []) {
		const found = surest(references.get(sheet) ?? []).flatMap((r) =>
			members.flatMap((m) => (r.key === m.room.key && m.list !== sheet ? (numbersIn(sheet, r, m, tables) ?? []) : []))
		)[0];
		if (!found) continue;
		const { column, made } = found;
		const profile = profileOf(sheet.sure, made.read, sampleOf(sheet.sure));
		sheet.columns.push({ name: `${column.name} (member)`, column: column.column, path: ['member'], made, profile });
		leaveAside(column);
		references.set(sheet, referencesOf(sheet, keys, tables));
	}
}

/** The references of each column that are about as sure as its surest. */
function surest(references: readonly Reference[]): Reference[] {
	const most = new Map<SheetColumn, number>();
	for (const { from, confidence } of references) most.set(from, Math.max(most.get(from) ?? 0, confidence));
	return references.filter((r) => r.confidence >= SURE && r.confidence >= most.get(r.from)! - AS_SURE);
}

/** Every way to read a table as one of such members. `rooms`: what may be the keys of conversations. */
function membersIn(list: Sheet, rooms: ReadonlySet<Reference['key']>, { references, tables }: Context): Members[] {
	if (list.family || list.columns.length > COLUMNS_AT_MOST || list.sure.length < 3 || list.sure.length > ROWS_AT_MOST) return [];
	const numbers = list.columns.filter((c) => {
		const { profile: p } = c;
		if (c.column < 0 || c.made || isOwnNumber(c, list, tables)) return false;
		return p.ints >= list.sure.length && p.low >= 0 && p.low <= 1 && p.high <= HIGHEST && p.distinct.size > 1 && !p.unique;
	});
	if (numbers.length === 0) return [];
	const refs = (references.get(list) ?? []).filter((r) => r.inclusion >= NEARLY_ALL && isMeant(r, list, tables));
	const known = new Map<string, Members['who'] | null>();
	return surest(refs)
		.filter((room) => rooms.has(room.key) && !room.from.profile.unique)
		.flatMap((room) =>
			numbers.flatMap((number) => {
				const person = refs.find((r) => r.from !== room.from && r.from !== number && r.key.sheet !== room.key.sheet)?.from;
				if (number === room.from || !person) return [];
				const what = [room.from, number, person].map((c) => list.columns.indexOf(c)).join();
				const who = known.has(what) ? known.get(what)! : pairsOf(list, room.from, number, person, tables);
				known.set(what, who);
				return who ? [{ list, room, number, person, who }] : [];
			})
		);
}

const pair = (room: unknown, number: unknown): string => `${String(room)} ${String(number)}`;

/** The persons by conversation and number; null where a pair stands for several. */
function pairsOf(
	list: Sheet,
	room: SheetColumn,
	number: SheetColumn,
	person: SheetColumn,
	tables: Context['tables']
): Members['who'] | null {
	const who: Members['who'] = new Map();
	const rows = [...list.sure.filter((row) => row.standing === 'kept'), ...list.sure.filter((row) => row.standing !== 'kept')];
	let twice = 0;
	for (const row of rows) {
		const key = pair(keyOf(cell(row, room, tables)), keyOf(cell(row, number, tables)));
		const one = cell(row, person, tables);
		if (!who.has(key)) who.set(key, one);
		else if (keyOf(who.get(key)) !== keyOf(one)) twice++;
	}
	return twice <= rows.length * TWICE ? who : null;
}

/** The column of a sheet of messages whose numbers are those of members of the row's conversation. */
function numbersIn(
	sheet: Sheet,
	room: Reference,
	{ number, person, who }: Members,
	tables: Context['tables']
): { column: SheetColumn; made: Made } | null {
	const rows = sheet.sure.filter((row) => keyOf(cell(row, room.from, tables)) !== null);
	for (const column of sheet.columns) {
		const { profile: p } = column;
		if (column === room.from || column.column < 0 || column.made || column.path.length > 0 || isOwnNumber(column, sheet, tables)) continue;
		if (p.texts > 0 || p.reals > 0 || p.ints < LEAST || p.low < number.profile.low || p.high > number.profile.high) continue;
		// Any flag fits where two take part: numbers beyond come up where there are more, and there only; or both are called alike.
		const isTold = p.high - p.low > 1 || column.name.toLowerCase() === number.name.toLowerCase();
		if (!isTold || p.distinct.size < 2 || person.profile.distinct.size < 2) continue;
		const of = (row: Row): Value | undefined => who.get(pair(keyOf(cell(row, room.from, tables)), keyOf(cell(row, column, tables))));
		let unknown = 0;
		if (rows.every((row) => of(row) !== undefined || ++unknown <= rows.length * (1 - NEARLY_ALL)))
			return { column, made: { read: of, writer: true } };
	}
	return null;
}

/**
 * A column whose keys are those of two tables: to whom a message went, a person or a room. Each table's keys get a column of
 * their own, so that each is one table's alone.
 */
import type { Row, Table, Value } from '../model';
import { bestText, recurs } from './columns';
import { profileOf } from './profile';
import { keyOf, type Key } from './refs';
import { cell, leaveAside, sampleOf, type Sheet, type SheetColumn } from './sheet';

/** Keys that differ, of both tables and of the one that has fewer; how many may be of neither, those being the first one's. */
const LEAST = 4;
const OF_SECOND = 1;
const OF_NEITHER = 0.1;
const LONGEST = 80;
const COMES_BACK = 0.6;

interface Two {
	first: Key;
	second: Key;
}

/** Adds the columns to sheets of texts. `keys`: of all sheets. */
export function openKeysOfTwo(sheets: readonly Sheet[], keys: readonly Key[], tables: readonly Table[]): void {
	const listed = keys.filter(
		({ column, sheet }) =>
			column !== null && !column.made && column.profile.texts === column.profile.filled && isOfRows(column, sheet, tables)
	);
	for (const sheet of sheets) {
		if (listed.length < 2 || !bestText(sheet)) continue;
		for (const column of sheet.columns.filter(
			(c) => recurs(c, sheet) && c.profile.distinct.size >= LEAST && c.profile.averageLength < LONGEST
		)) {
			const two = twoIn(column, sheet, listed);
			if (two && isWrittenTo(column, two, sheet, tables)) split(sheet, column, two, tables);
		}
	}
}

/** Whether a table's rows are told apart by a column: a setting's value can be a key as well, of something else. */
function isOfRows(column: SheetColumn, { tables: of }: Sheet, tables: readonly Table[]): boolean {
	const { primaryKey } = tables[of[0]!]!;
	return primaryKey.length === 0 || (primaryKey.length === 1 && (primaryKey[0] === column.column || KEY_NAMED.test(column.name)));
}
const KEY_NAMED = /(?:id|key|guid|address|number|no|handle)$/i;

/** The table that has most of a column's keys, and another that has (nearly) all others, none of which is the first one's. */
function twoIn({ profile }: SheetColumn, sheet: Sheet, keys: readonly Key[]): Two | null {
	const values = [...profile.distinct.keys()];
	const found = keys
		.filter((key) => key.sheet !== sheet)
		.map((key) => ({ key, in: values.filter((v) => key.values.has(v)) }))
		.filter((one) => one.in.length >= OF_SECOND)
		.sort((a, b) => b.in.length - a.in.length);
	const [first] = found;
	if (!first || first.in.length + values.length * OF_NEITHER >= values.length) return null;
	const others = values.filter((v) => !first.key.values.has(v));
	const second = found.find(
		({ key, in: of }) =>
			key.sheet !== first.key.sheet && of.every((v) => others.includes(v)) && of.length >= others.length - values.length * OF_NEITHER
	);
	return second ? { first: first.key, second: second.key } : null;
}

/** Rows to a person from which it is told, and share of them. */
const ROWS = 4000;
const TO_PERSONS = 3;
const NEARLY_ALL = 0.97;

/**
 * Whether messages go to whom the column names: another one has persons of the same list, in each row another than the one
 * it went to, and one of both is always the same. What says whom a conversation is with has no such column beside it.
 */
function isWrittenTo(column: SheetColumn, { first, second }: Two, sheet: Sheet, tables: readonly Table[]): boolean {
	const rows = sheet.sure.slice(0, ROWS);
	const ends = (c: SheetColumn): [string | number | null, string | number | null][] =>
		rows.flatMap((row) => {
			const [to, from] = [keyOf(cell(row, column, tables)), keyOf(cell(row, c, tables))];
			return to === null || second.values.has(to) ? [] : [[from, to]];
		});
	return sheet.columns.some((c) => {
		const p = c.profile;
		if (c === column || c.column < 0 || c.made || p.filled < rows.length * NEARLY_ALL || p.distinct.size > sheet.sure.length * COMES_BACK)
			return false;
		const pairs = ends(c);
		if (pairs.length < TO_PERSONS || ![...p.distinct.keys()].some((who) => first.values.has(who))) return false;
		const among = pairs.filter(([from, to]) => from !== null && from !== to);
		const counts = new Map<string | number, number>();
		for (const end of among.flat()) if (end !== null) counts.set(end, (counts.get(end) ?? 0) + 1);
		return among.length >= pairs.length * NEARLY_ALL && Math.max(0, ...counts.values()) >= pairs.length * NEARLY_ALL;
	});
}

function split(sheet: Sheet, column: SheetColumn, { first, second }: Two, tables: readonly Table[]): void {
	const add = (key: Key, isMeant: (value: string | number) => boolean): void => {
		const read = (row: Row): Value | undefined => {
			const value = keyOf(cell(row, column, tables));
			return value !== null && isMeant(value) ? value : undefined;
		};
		const profile = profileOf(sheet.sure, read, sampleOf(sheet.sure));
		sheet.columns.push({
			name: `${column.name} (${key.sheet.name})`,
			column: column.column,
			path: [key.sheet.name],
			made: { read, ofTwo: true },
			profile
		});
	};
	add(first, (value) => !second.values.has(value));
	add(second, (value) => second.values.has(value));
	leaveAside(column);
}

/**
 * Times that are counted from another row's: seconds or milliseconds since the beginning of a day or a conversation, which
 * stand in a table of their own. The messages get a column that reads the sum.
 */
import type { Row } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { keyOf, type Reference } from './refs';
import { cell, isOwnNumber, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';
import { numberIn, timeOf } from './time';

const SURE = 0.6;
const PROSE = 0.3;
const LEAST = 12;
/** Share of neighbours, within a day or a conversation, of which the later number must be the higher; of rows that must have one. */
const RISING = 0.98;
const NEARLY_ALL = 0.95;
const DIFFERENT = 0.6;
const DAY = 86_400_000;
/** Milliseconds over which a conversation goes on, at most: numbers beyond are of a smaller unit. */
const LONGEST = 3 * 365 * DAY;

/** Adds the columns, to sheets of texts that have no time. */
export function openCountedOn(context: Context): void {
	const { sheets, tables, references } = context;
	for (const sheet of sheets) {
		const text = sheet.family ? null : bestText(sheet);
		if (!text || text.value.profile.prose < PROSE || bestTime(sheet, tables)) continue;
		for (const reference of references.get(sheet) ?? []) {
			const column = reference.confidence < SURE ? null : countedFrom(reference, sheet, context);
			if (!column) continue;
			sheet.columns.push(column);
			break;
		}
	}
}

function countedFrom({ from, key }: Reference, sheet: Sheet, { tables }: Context): SheetColumn | null {
	const start =
		key.sheet === sheet
			? null
			: key.sheet.columns.find((c) => c.profile.time !== null && c.profile.filled >= key.sheet.sure.length * NEARLY_ALL);
	if (!start) return null;
	const starts = new Map<string | number, number>();
	for (const row of key.sheet.rows) {
		const [k, at] = [keyOf(key.column ? cell(row, key.column, tables) : row.rowid), timeOf(cell(row, start, tables), start.profile.time!)];
		if (k !== null && at !== null) starts.set(k, at);
	}
	const startOf = (row: Row): number | undefined => starts.get(keyOf(cell(row, from, tables)) ?? '');
	const offset = sheet.columns.find(
		(c) => c !== from && isOffset(c, sheet) && !isOwnNumber(c, sheet, tables) && rises(c, startOf, sheet, tables)
	);
	if (!offset) return null;
	const { high } = offset.profile;
	const areDays = [...starts.values()].every((at) => at % DAY === 0);
	const areSeconds =
		high < DAY / 1000 || (!areDays && high * 1000 <= LONGEST && !areThousandths(offset, { from, key }, start, sheet, tables));
	const unit = areSeconds ? 1000 : 1;
	if (areDays && high * unit >= DAY) return null;
	const made: Made = {
		read: (row) => {
			const [at, more] = [startOf(row), numberIn(cell(row, offset, tables))];
			return at === undefined || more === null ? undefined : at + more * unit;
		}
	};
	const profile = profileOf(sheet.sure, made.read, sampleOf(sheet.sure));
	if (profile.time?.label !== MILLISECONDS) return null;
	return { name: `${start.name} and ${offset.name}`, column: offset.column, path: [start.name], made, profile };
}

/**
 * Whether numbers that can be seconds are thousandths: all are whole seconds so, or as seconds they go on long after what
 * they are counted from has ended.
 */
function areThousandths(
	offset: SheetColumn,
	{ from, key }: Pick<Reference, 'from' | 'key'>,
	start: SheetColumn,
	sheet: Sheet,
	tables: Context['tables']
): boolean {
	const numbers = [...offset.profile.distinct.keys()].map(Number);
	if (numbers.filter((n) => n > 0).every((n) => n % 1000 === 0)) return true;
	const timesIn = (row: Row, c: SheetColumn): number | null => timeOf(cell(row, c, tables), c.profile.time!);
	const isEnd = (c: SheetColumn): boolean =>
		c !== start && c.profile.time !== null && key.sheet.sure.every((row) => (timesIn(row, c) ?? Infinity) >= (timesIn(row, start) ?? 0));
	const end = key.sheet.columns.find(isEnd);
	if (!end) return false;
	const spans = new Map<string | number, number>();
	for (const row of key.sheet.rows) {
		const [k, first, last] = [keyOf(key.column ? cell(row, key.column, tables) : row.rowid), timesIn(row, start), timesIn(row, end)];
		if (k !== null && first !== null && last !== null) spans.set(k, last - first);
	}
	const beyond = sheet.sure.filter((row) => {
		const [span, n] = [spans.get(keyOf(cell(row, from, tables)) ?? ''), numberIn(cell(row, offset, tables))];
		return span !== undefined && n !== null && n * 1000 > span + DAY;
	});
	return beyond.length > sheet.sure.length * BEYOND;
}
const BEYOND = 0.1;

const MILLISECONDS = 'milliseconds since 1970';

const isOffset = ({ column, made, body, profile: p }: SheetColumn, sheet: Sheet): boolean =>
	column >= 0 &&
	!made &&
	!body &&
	p.texts === 0 &&
	p.blobs === 0 &&
	p.low >= 0 &&
	p.high > 1 &&
	p.filled >= sheet.sure.length * NEARLY_ALL &&
	p.filled >= LEAST &&
	p.distinct.size >= p.filled * DIFFERENT;

/** Whether the numbers rise from row to row, counted anew in each day or conversation: sizes and counts go up and down. */
function rises(column: SheetColumn, startOf: (row: Row) => number | undefined, sheet: Sheet, tables: Context['tables']): boolean {
	const last = new Map<number, number>();
	let [all, rising, known] = [0, 0, 0];
	const rows = sheet.sure.filter((row) => row.standing === 'kept' && row.rowid !== null).sort((a, b) => Number(a.rowid) - Number(b.rowid));
	for (const row of rows) {
		const [start, n] = [startOf(row), numberIn(cell(row, column, tables))];
		if (start === undefined || n === null) continue;
		known++;
		const before = last.get(start);
		last.set(start, n);
		if (before === undefined) continue;
		all++;
		if (n >= before) rising++;
	}
	// Of rows that each begin anew nothing is told; numbers that go on through all are no such.
	return known >= rows.length * NEARLY_ALL && all >= LEAST && rising >= all * RISING && last.size > 1 && startsAnew(rows, column, tables);
}

/** Whether the numbers, taken over all rows, go down again. */
function startsAnew(rows: readonly Row[], column: SheetColumn, tables: Context['tables']): boolean {
	const numbers = rows.map((row) => numberIn(cell(row, column, tables)) ?? 0);
	return numbers.some((n, i) => i > 0 && n < numbers[i - 1]!);
}

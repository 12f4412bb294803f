/**
 * Messages that a table keeps in segments, as they were sent: a row each with its number and how many there are. The rows
 * of one message, which are alike in all else, become one row with the whole text and the places of all.
 */
import { addSighting, betterGrade, betterStanding, plainRow, withBook, type Harvested } from '../harvest';
import { put } from '../lists';
import type { Row, Table, Value } from '../model';
import { isWriting } from './profile';

/** Rows it is told by; those of messages in several segments, and segments of one, at least and at most. */
const ROWS = 4000;
const OF_SEVERAL = 4;
const MOST_SEGMENTS = 255;
/** Share of the rows that follow each other as segments, and of the texts that must be writing. */
const NEARLY_ALL = 0.9;
const WRITTEN = 0.4;

interface Segmented {
	/** The number of a segment, counted from `first`; how many there are; what it says. */
	part: number;
	parts: number;
	text: number;
	first: 0 | 1;
	/** What the segments of one message have alike. */
	alike: number[];
}

/** The store with one row for each message that its tables keep in segments; the store itself where they keep none so. */
export function openSegments(harvest: Harvested): Harvested {
	const joined = new Map<number, Row[]>();
	for (const table of harvest.tables) {
		const rows = harvest.book.rowsOf(table.index);
		const found = segmentedIn(table, rows);
		if (found) joined.set(table.index, join(rows, found));
	}
	if (joined.size === 0) return harvest;
	const { book } = harvest;
	const whole = [...joined.values()].flat();
	const size = [...joined.keys()].reduce((sum, table) => sum - book.rowsOf(table).length, book.size) + whole.length;
	return withBook(harvest, harvest.tables, {
		size,
		get rows() {
			return [...book.rows.filter((row) => !joined.has(row.table)), ...whole];
		},
		rowsOf: (table) => joined.get(table) ?? book.rowsOf(table)
	});
}

/** The columns of a table in segments; null where it has none. */
function segmentedIn(table: Table, all: readonly Row[]): Segmented | null {
	if (table.index === 0 || /^sqlite_/i.test(table.name) || table.columns.length < 4) return null;
	const rows = inOrder(all.filter((row) => row.standing === 'kept')).slice(0, ROWS);
	if (rows.length < OF_SEVERAL) return null;
	const columns = [...table.columns.keys()].filter((c) => c !== table.rowidColumn);
	const counts = columns.filter((c) => rows.every((row) => isCount(row.values[c])));
	for (const parts of counts)
		for (const part of counts) {
			const first = part === parts ? null : firstOf(rows, part, parts);
			if (first === null) continue;
			const text = columns.find((c) => holdsWriting(rows, c));
			const pairs = rows.flatMap((row, i): [Row, Row][] => {
				const next = rows[i + 1];
				return next && follows(row, next, part, parts) ? [[row, next]] : [];
			});
			const many = rows.filter((row) => number(row, parts) > 1).length;
			const starts = rows.filter((row) => number(row, parts) > 1 && number(row, part) === first).length;
			if (text === undefined || many < OF_SEVERAL || starts === 0 || pairs.length < (many - starts) * NEARLY_ALL) continue;
			if (!areComplete(rows, part, parts, first, starts) || !areFull(pairs, text)) continue;
			const others = columns.filter((c) => c !== part && c !== parts && c !== text);
			const alike = others.filter((c) => pairs.filter(([a, b]) => a.values[c] === b.values[c]).length >= pairs.length * NEARLY_ALL);
			if (alike.length > 0) return { part, parts, text, first, alike };
		}
	return null;
}

const isCount = (value: Value | undefined): boolean =>
	typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= MOST_SEGMENTS;

const number = (row: Row, column: number): number => Number(row.values[column]);

/** What segments are counted from, where one column counts those that the other says there are. */
function firstOf(rows: readonly Row[], part: number, parts: number): 0 | 1 | null {
	const several = rows.filter((row) => number(row, parts) > 1);
	if (several.length < OF_SEVERAL || new Set(several.map((row) => number(row, part))).size < 2) return null;
	const isFrom = (first: 0 | 1): boolean =>
		rows.every((row) => number(row, part) >= first && number(row, part) < Math.max(1, number(row, parts)) + first);
	return isFrom(1) ? 1 : isFrom(0) ? 0 : null;
}

const follows = (a: Row, b: Row, part: number, parts: number): boolean =>
	number(a, parts) > 1 && number(b, parts) === number(a, parts) && number(b, part) === number(a, part) + 1;

/** Whether where the first of so many stands the others follow, for nearly all. */
function areComplete(rows: readonly Row[], part: number, parts: number, first: number, starts: number): boolean {
	const complete = rows.filter((row, i) => {
		const count = number(row, parts);
		if (count < 2 || number(row, part) !== first) return false;
		for (let k = 1; k < count; k++) if (!rows[i + k] || !follows(rows[i + k - 1]!, rows[i + k]!, part, parts)) return false;
		return true;
	});
	return complete.length >= starts * NEARLY_ALL;
}

/** Whether all segments but the last of each are as long as segments are: a text goes on in the next where one is full. */
function areFull(pairs: readonly (readonly [Row, Row])[], text: number): boolean {
	const lengths = pairs.map(([row]) => String(row.values[text]).length);
	const full = Math.max(...lengths) * FULL;
	return lengths.filter((length) => length >= full).length >= lengths.length * NEARLY_ALL;
}
const FULL = 0.8;

function holdsWriting(rows: readonly Row[], column: number): boolean {
	const texts = rows.map((row) => row.values[column]);
	return texts.every((text) => typeof text === 'string') && texts.filter(isWriting).length >= texts.length * WRITTEN;
}

const inOrder = (rows: readonly Row[]): Row[] => [...rows].sort((a, b) => Number(a.rowid ?? Infinity) - Number(b.rowid ?? Infinity));

/** One row for each message. A number that comes again begins another one: they are given out again and again. */
function join(rows: readonly Row[], found: Segmented): Row[] {
	const { part, parts, first, alike } = found;
	const groups = new Map<string, Row[][]>();
	const out: Row[][] = [];
	for (const row of inOrder(rows)) {
		if (!isCount(row.values[parts]) || !isCount(row.values[part]) || number(row, parts) <= 1) {
			out.push([row]);
			continue;
		}
		const key = JSON.stringify([parts, ...alike].map((c) => String(row.values[c])));
		const open = groups.get(key)?.find((group) => group.every((one) => number(one, part) !== number(row, part)));
		if (open) open.push(row);
		else {
			const begun = [row];
			put(groups, key, begun);
			out.push(begun);
		}
	}
	return out.map((group) => (group.length === 1 && number(group[0]!, parts) <= 1 ? group[0]! : wholeOf(group, found, first)));
}

/** The row of all segments of a message; where one is missing its text ends before it, and is a part. */
function wholeOf(group: readonly Row[], { part, parts, text }: Segmented, first: number): Row {
	const sorted = [...group].sort((a, b) => number(a, part) - number(b, part));
	const next = sorted.findIndex((row, i) => number(row, part) !== first + i);
	const there = next < 0 ? sorted : next === 0 ? [sorted[0]!] : sorted.slice(0, next);
	const [head] = there;
	const row: Row = { ...plainRow(head!), values: [...head!.values], sightings: [...head!.sightings] };
	row.values[text] = there.map((one) => (typeof one.values[text] === 'string' ? one.values[text] : '')).join('');
	row.furtherNumbers = sorted.flatMap((one) => (one === head || one.rowid === null ? [] : [one.rowid]));
	for (const one of sorted) {
		if (one === head) continue;
		if (betterStanding(row.standing, one.standing) === row.standing) row.standing = one.standing;
		if (betterGrade(row.grade, one.grade) === row.grade) row.grade = one.grade;
		for (const sighting of one.sightings) addSighting(row, sighting);
	}
	if (there.length < number(head!, parts)) {
		row.grade = 'fragment';
		row.cut = text;
	}
	return row;
}

/**
 * Record numbers that a destroyed cell header took along, told from the order of times or of places. Where a table hands
 * out its numbers in the order of time, and the rows found between two known ones are exactly as many as the numbers
 * missing there, each has its own. The same holds for the order of cells on a page: the engine puts each below the one
 * before it.
 */
import type { Row, Table } from '../model';
import type { MessageReading } from './reading';
import { cell, type Sheet } from './sheet';
import { timeOf } from './time';

/** Share of neighbours that must be in order for the inference to hold. */
const IN_ORDER = 0.97;

export function inferNumbers(sheet: Sheet, time: MessageReading['time'], tables: readonly Table[]): Map<Row, number> {
	const numbers = new Map<Row, number>();
	if (!time || !sheet.rows.some((r) => r.rowid === null)) return numbers;
	for (const table of sheet.tables) {
		const known: { n: number; at: number }[] = [];
		const unnumbered: { row: Row; at: number }[] = [];
		for (const row of sheet.rows) {
			if (row.table !== table) continue;
			const at = timeOf(cell(row, time.value, tables), time.reading);
			if (typeof row.rowid === 'number') known.push({ n: row.rowid, at: at ?? NaN });
			else if (row.rowid === null && row.tableKnown && at !== null) unnumbered.push({ row, at });
		}
		if (unnumbered.length > 0 && !tables[table]!.withoutRowid) assign(known, unnumbered, numbers);
	}
	return numbers;
}

/** Numbers of the rows that have lost them, from the places of a table's rows in its file; those in `given` are known. */
export function numbersByPlace(rows: readonly Row[], given: ReadonlyMap<Row, number> = new Map()): Map<Row, number> {
	const found = new Map<Row, number>();
	if (!rows.some((r) => r.rowid === null && r.tableKnown && !given.has(r))) return found;
	const places: { row: Row; n: number | null; file: number; offset: number }[] = [];
	for (const row of rows) {
		const [seen] = row.sightings;
		const n = typeof row.rowid === 'number' ? row.rowid : (given.get(row) ?? null);
		if (seen && (n !== null || (row.rowid === null && row.tableKnown))) places.push({ row, n, file: seen.file, offset: seen.offset });
	}
	places.sort((a, b) => a.file - b.file || b.offset - a.offset);
	if (!inOrder(places)) return found;
	const taken = new Set(places.flatMap((p) => (p.n === null ? [] : [p.n])));
	let between: Row[] = [];
	let before: { n: number; file: number } | null = null;
	for (const { row, n, file } of places) {
		if (n === null) {
			between.push(row);
			continue;
		}
		if (before && before.file === file && between.length > 0 && n - before.n - 1 === between.length) {
			const from = before.n + 1;
			if (between.every((_, i) => !taken.has(from + i))) between.forEach((r, i) => found.set(r, from + i));
		}
		between = [];
		before = { n, file };
	}
	return found;
}

/** Whether cells that lie one below the other mostly follow each other by number as well. */
function inOrder(places: readonly { n: number | null; file: number; offset: number }[]): boolean {
	const known = places.filter((p) => p.n !== null);
	let near = 0;
	let up = 0;
	for (let i = 1; i < known.length; i++) {
		const [a, b] = [known[i - 1]!, known[i]!];
		if (a.file !== b.file || a.offset - b.offset > NEAR) continue;
		near++;
		if (b.n! > a.n!) up++;
	}
	return near >= 5 && up >= near * IN_PLACE;
}

/** Bytes within which two cells are likely on one page; and the share of such that must be in order, page ends being among them. */
const NEAR = 1000;
const IN_PLACE = 0.9;

function assign(known: { n: number; at: number }[], unnumbered: { row: Row; at: number }[], numbers: Map<Row, number>): void {
	known.sort((a, b) => a.n - b.n);
	unnumbered.sort((a, b) => a.at - b.at);
	let ordered = 0;
	let pairs = 0;
	for (let i = 1; i < known.length; i++) {
		if (Number.isNaN(known[i]!.at) || Number.isNaN(known[i - 1]!.at)) continue;
		pairs++;
		if (known[i]!.at >= known[i - 1]!.at) ordered++;
	}
	if (pairs < 5 || ordered < pairs * IN_ORDER) return;
	let next = 0;
	// A table counts from one.
	const all = [{ n: 0, at: -Infinity }, ...known];
	for (let i = 1; i < all.length; i++) {
		const [before, after] = [all[i - 1]!, all[i]!];
		const missing = after.n - before.n - 1;
		while (next < unnumbered.length && unnumbered[next]!.at < before.at) next++;
		const first = next;
		while (next < unnumbered.length && unnumbered[next]!.at <= after.at) next++;
		if (missing > 0 && next - first === missing)
			for (let k = 0; k < missing; k++) numbers.set(unnumbered[first + k]!.row, before.n + 1 + k);
	}
}

/**
 * Record numbers that a destroyed cell header took along, told from the order of times. Where a table hands out its
 * numbers in the order of time, and the rows found between two known ones are exactly as many as the numbers missing
 * there, each has its own.
 */
import type { Row, Table } from '../model';
import type { MessageReading } from './reading';
import { cell } from './sheet';
import { timeOf } from './time';

/** Share of neighbours that must be in order for the inference to hold. */
const IN_ORDER = 0.97;

export function inferNumbers(m: MessageReading, tables: readonly Table[]): Map<Row, number> {
	const numbers = new Map<Row, number>();
	const { time } = m;
	if (!time || !m.sheet.rows.some((r) => r.rowid === null)) return numbers;
	for (const table of m.sheet.tables) {
		const known: { n: number; at: number }[] = [];
		const unnumbered: { row: Row; at: number }[] = [];
		for (const row of m.sheet.rows) {
			if (row.table !== table) continue;
			const at = timeOf(cell(row, time.value, tables), time.reading);
			if (typeof row.rowid === 'number') known.push({ n: row.rowid, at: at ?? NaN });
			else if (row.rowid === null && row.tableKnown && at !== null) unnumbered.push({ row, at });
		}
		if (unnumbered.length > 0 && !tables[table]!.withoutRowid) assign(known, unnumbered, numbers);
	}
	return numbers;
}

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
	for (let i = 1; i < known.length; i++) {
		const [before, after] = [known[i - 1]!, known[i]!];
		const missing = after.n - before.n - 1;
		while (next < unnumbered.length && unnumbered[next]!.at < before.at) next++;
		const first = next;
		while (next < unnumbered.length && unnumbered[next]!.at <= after.at) next++;
		if (missing > 0 && next - first === missing)
			for (let k = 0; k < missing; k++) numbers.set(unnumbered[first + k]!.row, before.n + 1 + k);
	}
}

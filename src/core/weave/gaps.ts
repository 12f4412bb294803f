/**
 * Record numbers that existed and were seen nowhere. A number counts as having existed where the store's sequence
 * says so, or where its neighbours on both sides exist and the table hands out numbers one after the other.
 */
import type { Gap } from '../model';
import type { Family } from './captures';
import type { WovenStore } from './weave';
import type { Woven } from './woven';

/** Share of a table's number range that must be known before its numbers count as handed out in order. */
const DENSE = 0.02;

/** Gaps of a store over all its captures: a number that any of them shows is no gap. Tables and sequence are the newest's. */
export function findGaps(
	family: Family,
	stores: readonly WovenStore[],
	messages: readonly Woven[],
	/** Messages of the same threads that only other sources hold. */
	elsewhere: readonly Woven[] = []
): Gap[] {
	const gaps: Gap[] = [];
	const store = stores[family.captures.at(-1)!.store]!;
	const tables = new Set(store.reading.messages.flatMap((m) => m.sheet.tables));
	for (const index of tables) {
		const table = store.harvest.tables[index]!;
		if (table.withoutRowid || table.dropped || table.inferred) continue;
		const known = new Set<number>();
		let sequence = 0;
		const own = new Map<number, number>();
		for (const capture of family.captures) {
			const { harvest } = stores[capture.store]!;
			const same = harvest.tables.find((t) => t.name === table.name && !t.dropped);
			if (!same) continue;
			own.set(capture.store, same.index);
			sequence = Math.max(sequence, harvest.sequences.get(table.name) ?? 0);
			for (const row of harvest.book.rowsOf(same.index)) {
				// A number that only an index repeats was seen without its row; one of which nothing is left that says
				// anything (it became no message, below) was seen, and what it was the number of is as lost.
				const told = row.standing === 'kept' || row.grade !== 'fragment';
				if (typeof row.rowid === 'number' && told && row.sightings.some((s) => s.method !== 'index-entry')) known.add(row.rowid);
			}
		}
		const ours = messages.filter((m) => own.get(m.store) === m.recordTable);
		for (const m of ours) if (m.record !== null) known.add(m.record);
		gaps.push(
			...gapsOfTable(
				store.name,
				table.name,
				known,
				sequence,
				ours.filter((m) => m.first.row.tableKnown),
				elsewhere,
				tables.size > 1 && store.reading.messages.some((m) => m.sheet.family && m.sheet.tables.includes(index))
			)
		);
	}
	return gaps;
}

function gapsOfTable(
	store: string,
	table: string,
	known: Set<number>,
	sequence: number,
	messages: Woven[],
	elsewhere: readonly Woven[],
	ownThread: boolean
): Gap[] {
	const numbers = [...known].sort((a, b) => a - b);
	if (numbers.length === 0 && sequence === 0) return [];
	const lowest = numbers[0] ?? sequence + 1;
	const highest = numbers.at(-1) ?? 0;
	const range = highest - Math.min(lowest, 1) + 1;
	if (sequence === 0 && (numbers.length < 3 || numbers.length / range < DENSE)) return [];
	if (stride(numbers) > 1) return [];
	const byRecord = new Map<number, Woven>();
	for (const m of messages) if (m.record !== null && !m.earlierWordingOf && !byRecord.has(m.record)) byRecord.set(m.record, m);
	// Rows found without their number take up numbers too: they are told by their time.
	const unnumbered = [...messages.filter((m) => m.record === null), ...elsewhere]
		.filter((m) => m.first.sentAt !== null && !m.earlierWordingOf)
		.map((m) => m.first.sentAt!)
		.sort((a, b) => a - b);
	const taken = new Array<boolean>(unnumbered.length).fill(false);
	const runs: { from: number; to: number; why: Gap['why'] }[] = [];
	// A store can have begun above 1 (moved from another device): a long run before the first number proves nothing.
	const leading = lowest - 1 <= numbers.length * (sequence > 0 ? 3 : 1);
	if (lowest > 1 && leading) runs.push({ from: 1, to: lowest - 1, why: sequence > 0 ? 'sequence' : 'neighbours' });
	for (let i = 1; i < numbers.length; i++)
		if (numbers[i]! > numbers[i - 1]! + 1) runs.push({ from: numbers[i - 1]! + 1, to: numbers[i]! - 1, why: 'neighbours' });
	if (sequence > highest) runs.push({ from: Math.max(1, highest + 1), to: sequence, why: 'sequence' });
	const gaps: Gap[] = [];
	const sorted = numbers;
	for (const run of runs) {
		const left = neighbour(byRecord, sorted, run.from, -1);
		const right = neighbour(byRecord, sorted, run.to, 1);
		const after = left?.first.sentAt ?? null;
		const before = right?.first.sentAt ?? null;
		const width = run.to - run.from + 1;
		let inside = 0;
		for (
			let i = lowerBound(unnumbered, after ?? -Infinity);
			i < unnumbered.length && unnumbered[i]! <= (before ?? Infinity) && inside < width;
			i++
		) {
			if (taken[i]) continue;
			taken[i] = true;
			inside++;
		}
		const count = width - inside;
		if (count <= 0) continue;
		const threads = [...new Set([left?.thread, right?.thread].filter((t): t is string => t !== undefined))];
		gaps.push({ store, table, from: run.from, to: run.to, count, after, before, why: run.why, threads, certainThread: ownThread });
	}
	return gaps;
}

function lowerBound(sorted: readonly number[], value: number): number {
	let low = 0;
	let high = sorted.length;
	while (low < high) {
		const middle = (low + high) >> 1;
		if (sorted[middle]! < value) low = middle + 1;
		else high = middle;
	}
	return low;
}

/** The nearest message with a time below `from` or above it; looks at a bounded number of records. */
function neighbour(byRecord: Map<number, Woven>, numbers: readonly number[], from: number, step: 1 | -1): Woven | null {
	let i = step < 0 ? lowerBound(numbers, from) - 1 : lowerBound(numbers, from + 1);
	for (let looked = 0; looked < 200 && i >= 0 && i < numbers.length; looked++, i += step) {
		const message = byRecord.get(numbers[i]!);
		if (message?.first.sentAt) return message;
	}
	return null;
}

/** The step between a table's numbers where it is not one. */
function stride(numbers: readonly number[]): number {
	let g = 0;
	for (let i = 1; i < numbers.length && g !== 1; i++) {
		let a = numbers[i]! - numbers[i - 1]!;
		let b = g;
		while (b) [a, b] = [b, a % b];
		g = a;
	}
	return g || 1;
}

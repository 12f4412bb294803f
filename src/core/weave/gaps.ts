/**
 * Record numbers that existed and were seen nowhere. A number counts as having existed where the store's sequence
 * says so, or where its neighbours on both sides exist and the table hands out numbers one after the other.
 */
import { tableListsOf } from '../interpret';
import type { Gap, Table } from '../model';
import { storesOf, type Family } from './families';
import { hasNumbers, lowerBound, numberOf, SharedNumbers } from './shared-numbers';
import { TableNames } from './table-names';
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
	const tables = new Set([...store.reading.messages.flatMap((m) => m.sheet.tables), ...emptied(store)]);
	const names = new TableNames(family, stores);
	const shared = new SharedNumbers(family, stores);
	const listed = new Map(storesOf(family).map((its) => [its, listedIn(stores[its]!)]));
	const spans = spansOf(store, messages, names);
	const counted = new Set<string>();
	for (const index of tables) {
		const table = store.harvest.tables[index]!;
		if (!hasNumbers(table) || table.dropped || table.inferred) continue;
		const known = new Set<number>();
		let sequence = 0;
		const own = new Map<number, number>();
		for (const its of storesOf(family)) {
			const { harvest } = stores[its]!;
			const same = harvest.tables.find((t) => names.of(its, t.index) === table.name && !t.dropped);
			if (!same) continue;
			own.set(its, same.index);
			sequence = Math.max(sequence, harvest.sequences.get(same.name) ?? 0, listed.get(its)?.get(same.name) ?? 0);
			for (const row of harvest.book.rowsOf(same.index)) {
				// A number that only an index repeats was seen without its row; one of which nothing is left that says
				// anything (it became no message, below) was seen, and what it was the number of is as lost.
				const told = row.standing === 'kept' || row.grade !== 'fragment';
				const number = numberOf(row, table);
				if (number !== null && told && row.sightings.some((s) => s.method !== 'index-entry')) known.add(number);
				for (const further of row.furtherNumbers ?? []) known.add(Number(further));
			}
		}
		for (const m of messages)
			if (own.has(m.store) && names.of(m.store, m.recordTable) === table.name && m.record !== null) known.add(m.record);
		const sharing = shared.with(known, (other) => isNext(spans.get(table.name), spans.get(other)));
		const named = new Set([table.name, ...sharing.map((s) => s.table)]);
		// What is missing of a count that several tables of messages share is missing once.
		if ([...named].some((name) => counted.has(name))) continue;
		counted.add(table.name);
		for (const { numbers } of sharing) for (const number of numbers) known.add(number);
		const ours = messages.flatMap((woven): Numbered[] => {
			const its = stores[woven.store]!.harvest.tables[woven.recordTable]!;
			return named.has(names.of(woven.store, woven.recordTable)) && hasNumbers(its)
				? [{ woven, number: woven.record ?? numberOf(woven.first.row, its) }]
				: [];
		});
		gaps.push(
			...gapsOfTable(
				store.name,
				table.name,
				known,
				sequence,
				ours.filter((m) => m.woven.first.row.tableKnown),
				elsewhere,
				tables.size > 1 && store.reading.messages.some((m) => m.sheet.family && m.sheet.tables.includes(index))
			)
		);
	}
	return gaps;
}

/** What a table's messages in use go from and to. Tables of which the store itself says how far their numbers went have numbers of their own. */
interface Span {
	/** Its columns. */
	declared: string;
	numbers: [number, number];
	/** ms UTC. */
	times: [number, number];
}

function spansOf({ harvest: { tables, sequences } }: WovenStore, messages: readonly Woven[], names: TableNames): Map<string, Span> {
	const spans = new Map<string, Span>();
	for (const { store, record, recordTable, standing, first } of messages) {
		const name = names.of(store, recordTable);
		const table = tables.find((t) => t.name === name && !t.dropped);
		if (record === null || first.sentAt === null || standing !== 'kept' || !table || sequences.has(name)) continue;
		const known = spans.get(name);
		if (!known) spans.set(name, { declared: declarationOf(table), numbers: [record, record], times: [first.sentAt, first.sentAt] });
		else
			for (const [span, value] of [
				[known.numbers, record],
				[known.times, first.sentAt]
			] as const) {
				span[0] = Math.min(span[0], value);
				span[1] = Math.max(span[1], value);
			}
	}
	return spans;
}

const declarationOf = ({ columns }: Table): string => JSON.stringify(columns.map(({ name, type }) => [name.toLowerCase(), type]));

/** Whether of two tables declared alike one goes on where the other ended, in numbers as in time: each month has its own. */
function isNext(a: Span | undefined, b: Span | undefined): boolean {
	if (!a || !b || a.declared !== b.declared) return false;
	const isBefore = (x: Span, y: Span): boolean => x.numbers[1] < y.numbers[0] && x.times[1] <= y.times[0];
	return isBefore(a, b) || isBefore(b, a);
}

/** The highest number that each table gave out, as a list that the program keeps of its tables says. */
const listedIn = ({ harvest }: WovenStore): ReadonlyMap<string, number> =>
	new Map(tableListsOf(harvest).flatMap(({ highest }) => [...highest]));

/** A message with its number in its table, where that is left. */
interface Numbered {
	woven: Woven;
	number: number | null;
}

/** Tables declared as those of which each is one thread's, that have given out numbers and of which no row is left. */
function emptied(store: WovenStore): number[] {
	const { tables, sequences, book } = store.harvest;
	const perThread = new Set(store.reading.messages.filter((m) => m.sheet.family).map((m) => declarationOf(tables[m.sheet.tables[0]!]!)));
	return tables
		.filter((t) => !t.dropped && (sequences.get(t.name) ?? 0) > 0 && book.rowsOf(t.index).length === 0 && perThread.has(declarationOf(t)))
		.map((t) => t.index);
}

function gapsOfTable(
	store: string,
	table: string,
	known: Set<number>,
	sequence: number,
	messages: readonly Numbered[],
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
	for (const { woven, number } of messages)
		if (number !== null && !woven.earlierWordingOf && !byRecord.has(number)) byRecord.set(number, woven);
	// Rows found without their number take up numbers too: they are told by their time.
	const unnumbered = [...messages.filter((m) => m.number === null).map((m) => m.woven), ...elsewhere]
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

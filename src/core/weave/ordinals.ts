/**
 * Numbers that a store gives its messages beside their record numbers: one after the other in each thread, or over all
 * of them. They outlive what renumbers the records. A number that no row has is a message that was seen nowhere.
 */
import { cell, type MessageReading, type SheetColumn } from '../interpret';
import type { Gap, Row, Table } from '../model';
import { messagesOf, valueAcross } from './across';
import type { WovenStore } from './weave';
import { isOfNoThread, type Woven } from './woven';

/** Messages with a number from which a column says anything; share of them that must have one. */
const ENOUGH = 12;
const NEARLY_ALL = 0.95;
/** Share of the numbers between the lowest and the highest that must be known: a count that other things share has more holes. */
const DENSE = 0.7;
/** Share of the numbers that must rise with the time. */
const RISING = 0.98;

interface Numbered {
	message: Woven;
	number: number;
}

/**
 * `store`: the newest of `stores` that is a capture of the messages' store. `numbered`: gaps told from record numbers. What
 * they count already is not counted again.
 */
export function ordinalGaps(store: WovenStore, stores: readonly WovenStore[], messages: readonly Woven[], numbered: readonly Gap[]): Gap[] {
	const left = numbered.map((gap) => ({ gap, count: gap.count }));
	return store.reading.messages.flatMap((reading) => {
		const runs = ordinalsOf(reading, messagesOf(messages, reading), store.tables, stores);
		return runs.flatMap((run) => {
			const gap: Gap = { ...run, store: store.name, table: reading.sheet.name };
			for (const known of left) {
				if (gap.count === 0 || !isSameStretch(known.gap, gap)) continue;
				const counted = Math.min(gap.count, known.count);
				known.count -= counted;
				gap.count -= counted;
			}
			return gap.count > 0 ? [gap] : [];
		});
	});
}

const isSameStretch = (a: Gap, b: Gap): boolean =>
	(a.after ?? -Infinity) <= (b.before ?? Infinity) && (b.after ?? -Infinity) <= (a.before ?? Infinity);

type Run = Omit<Gap, 'store' | 'table'>;

function ordinalsOf(reading: MessageReading, own: readonly Woven[], tables: readonly Table[], stores: readonly WovenStore[]): Run[] {
	for (const column of reading.sheet.columns) {
		if (!canNumber(column, reading, tables)) continue;
		const known = own.flatMap((message): Numbered[] => {
			const number = valueAcross(message, column, stores);
			return typeof number === 'number' && message.first.sentAt !== null ? [{ message, number }] : [];
		});
		if (known.length < Math.max(ENOUGH, own.length * NEARLY_ALL)) continue;
		const others = numbersOfOthers(reading.sheet.rows, own, column, tables);
		const withNumber = new Set(known.map((k) => k.message));
		const loose = new Set(own.filter((m) => !withNumber.has(m) && m.first.sentAt !== null));
		for (const groups of [[known], byThread(known)])
			if (areNumbered(groups)) return groups.flatMap((group) => missing(group, others, loose));
	}
	return [];
}

/** Whole numbers that are no time, no key and no record number, of one sheet that is no table per thread. */
function canNumber(column: SheetColumn, reading: MessageReading, tables: readonly Table[]): boolean {
	const { sheet } = reading;
	const parties = [reading.thread, reading.peer, reading.sender, reading.recipient, reading.participant].map((p) => p?.value);
	return (
		column.column >= 0 &&
		column.profile.ints >= Math.max(ENOUGH, column.profile.filled * NEARLY_ALL) &&
		!column.profile.time &&
		!parties.includes(column) &&
		reading.replyTo?.column !== column &&
		column.column !== tables[sheet.tables[0]!]!.rowidColumn
	);
}

function byThread(known: readonly Numbered[]): Numbered[][] {
	const threads = new Map<string, Numbered[]>();
	for (const one of known) {
		const list = threads.get(one.message.thread);
		if (list) list.push(one);
		else threads.set(one.message.thread, [one]);
	}
	return [...threads.values()];
}

/** Whether in each group the numbers are all different, rise with the time, and leave out few. */
function areNumbered(groups: readonly Numbered[][]): boolean {
	let [pairs, rising, count, range] = [0, 0, 0, 0];
	for (const group of groups) {
		group.sort((a, b) => a.message.first.sentAt! - b.message.first.sentAt! || a.number - b.number);
		if (new Set(group.map((g) => g.number)).size < group.length) return false;
		for (let i = 1; i < group.length; i++) {
			pairs++;
			if (group[i]!.number > group[i - 1]!.number) rising++;
		}
		const numbers = group.map((g) => g.number).sort((a, b) => a - b);
		count += numbers.length;
		range += numbers.at(-1)! - numbers[0]! + 1;
	}
	return pairs >= ENOUGH && rising >= pairs * RISING && count >= range * DENSE;
}

/** Numbers of rows that are no messages (system lines, calls), and how many have each: they take up numbers too. */
function numbersOfOthers(rows: readonly Row[], own: readonly Woven[], column: SheetColumn, tables: readonly Table[]): Map<number, number> {
	const ours = new Set(own.map((w) => w.first.row));
	const others = new Map<number, number>();
	for (const row of rows) {
		const number = ours.has(row) ? null : cell(row, column, tables);
		if (typeof number === 'number') others.set(number, (others.get(number) ?? 0) + 1);
	}
	return others;
}

/** `loose`: messages that were found without their number: each takes up one between whose neighbours it was sent. */
function missing(group: readonly Numbered[], others: Map<number, number>, loose: Set<Woven>): Run[] {
	const sorted = [...group].sort((a, b) => a.number - b.number);
	const runs: Run[] = [];
	const add = (from: number, to: number, left: Woven | null, right: Woven | null): void => {
		let count = 0;
		for (let number = from; number <= to; number++) {
			const other = others.get(number) ?? 0;
			if (other > 0) others.set(number, other - 1);
			else count++;
		}
		const threads = [...new Set([left?.thread, right?.thread].filter((t) => t !== undefined))];
		const [after, before] = [left?.first.sentAt ?? null, right?.first.sentAt ?? null];
		for (const m of loose) {
			const at = m.first.sentAt!;
			if (count === 0) break;
			if (at < (after ?? -Infinity) || at > (before ?? Infinity)) continue;
			if (!isOfNoThread(m.first) && !threads.includes(m.thread)) continue;
			loose.delete(m);
			count--;
		}
		if (count > 0) runs.push({ from, to, count, after, before, why: 'numbering', threads, certainThread: threads.length === 1 });
	};
	const [first] = sorted;
	// Counting begins at 0 or at 1; what begins far above began elsewhere.
	if (first && first.number > 1 && first.number <= sorted.length) add(1, first.number - 1, null, first.message);
	for (let i = 1; i < sorted.length; i++) {
		const [a, b] = [sorted[i - 1]!, sorted[i]!];
		if (b.number > a.number + 1) add(a.number + 1, b.number - 1, a.message, b.message);
	}
	return runs;
}

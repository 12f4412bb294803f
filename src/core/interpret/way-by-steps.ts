/**
 * The way by how far a message got, where numbers count its steps, those of each way by themselves (2, 3, 4; 10, 11): in most
 * conversations there are both, and what was sent has more of them, since it has farther to go. A last resort.
 */
import type { Context } from './context';
import { flag } from './direction-rules';
import { ROWS, threadKeyOf } from './flag-rule';
import type { DirectionRule, Guess, MessageReading } from './reading';
import { keyOf } from './refs';
import { cell, type SheetColumn } from './sheet';

/** Numbers of steps at least and at most, how far those of one way lie from each other, and those of two. */
const VALUES = [3, 12] as const;
const HIGHEST = 1000;
const NEAR = 2;
const APART = 4;
/** Share of the rows that go either way, and of the conversations of so many rows that have both. */
const EITHER = 0.15;
const ROWS_LEAST = 4;
const TALKS_LEAST = 2;
const MOST_TALKS = 0.8;

export function wayBySteps(reading: MessageReading, context: Context): Guess<DirectionRule> | null {
	if (!reading.thread && !reading.peer) return null;
	const parts = [reading.thread, reading.peer, reading.sender, reading.participant, reading.time].map((part) => part?.value);
	for (const column of reading.sheet.columns) {
		const ways = parts.includes(column) ? null : stepsIn(column);
		if (!ways || !takeTurns(column, new Set(ways.out), reading, context)) continue;
		const evidence = [`its numbers are steps of two ways, apart from each other: that of ${ways.out.join(', ')} has more of them`];
		return { value: flag(column, ways.out, ways.in), confidence: 0.55, evidence };
	}
	return null;
}

/** The numbers of a column as the steps of two ways, of which the one with more is that of what was sent. */
function stepsIn({ column, path, made, profile: p }: SheetColumn): { out: number[]; in: number[] } | null {
	const isNumbered =
		column >= 0 && path.length === 0 && !made && !p.time && p.ints > 0 && p.ints === p.filled && p.low >= 0 && p.high <= HIGHEST;
	if (!isNumbered || p.distinct.size < VALUES[0] || p.distinct.size > VALUES[1]) return null;
	const values = [...p.distinct.keys()].map(Number).sort((a, b) => a - b);
	const gaps = values.slice(1).map((value, i) => value - values[i]!);
	const wide = gaps.flatMap((gap, i) => (gap >= APART ? [i] : []));
	if (wide.length !== 1 || gaps.some((gap) => gap > NEAR && gap < APART)) return null;
	const [low, high] = [values.slice(0, wide[0]! + 1), values.slice(wide[0]! + 1)];
	if (low.length === high.length) return null;
	return low.length > high.length ? { out: low, in: high } : { out: high, in: low };
}

function takeTurns(column: SheetColumn, out: ReadonlySet<number>, reading: MessageReading, context: Context): boolean {
	const talks = new Map<string, { out: number; in: number }>();
	let [sent, all] = [0, 0];
	for (const row of reading.sheet.sure.slice(0, ROWS)) {
		const value = keyOf(cell(row, column, context.tables));
		if (typeof value !== 'number') continue;
		const key = threadKeyOf(reading, row, context);
		const talk = talks.get(key) ?? { out: 0, in: 0 };
		talks.set(key, talk);
		all++;
		if (out.has(value)) {
			sent++;
			talk.out++;
		} else talk.in++;
	}
	const long = [...talks.values()].filter((talk) => talk.out + talk.in >= ROWS_LEAST);
	const both = long.filter((talk) => talk.out > 0 && talk.in > 0).length;
	return Math.min(sent, all - sent) >= all * EITHER && long.length >= TALKS_LEAST && both >= long.length * MOST_TALKS;
}

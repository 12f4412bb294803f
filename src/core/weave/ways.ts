/**
 * Which way messages went, put right by another copy of the same conversations, with the same persons: where a store's
 * columns only hint at it, a store that says it tells for each of their values which way it is.
 */
import { put } from '../lists';
import type { Direction } from '../model';
import { keyOf } from '../interpret';
import type { Woven } from './woven';

/** How sure a way must be to put another right, and up to which one can be. */
const SURE = 0.82;
const HINTED = 0.8;
/** Messages that both hold, and share of them that must go the way that their mark says. */
const LEAST = 5;
const ALL_OTHERWISE = 0.95;
/** ms by which two clocks can differ. */
const APART = 600_000;

/** What messages have that are said to go one way: a flag's value, or the way itself; with how many are told to go which way. */
type Told = Map<string | number, Record<Direction, number>>;

/** `perFamily`: the messages of each family of stores. */
export function putWaysRight(perFamily: readonly (readonly Woven[])[]): void {
	const sure = new Map<string, Woven[]>();
	for (const m of perFamily.flat()) if (canTell(m) && m.first.reading.direction.confidence >= SURE) put(sure, m.first.text!, m);
	if (sure.size === 0) return;
	for (const messages of perFamily) {
		// The captures of a store are read alike.
		const bySheet = new Map<string, Woven[]>();
		for (const m of messages)
			if (m.first.direction !== null && m.first.reading.direction.confidence <= HINTED) put(bySheet, m.first.reading.sheet.name, m);
		for (const hinted of bySheet.values()) {
			const told = toldBy(sure, hinted);
			const ways = told && waysOf(told);
			if (ways) for (const m of hinted) m.first = { ...m.first, direction: ways.get(markOf(m)) ?? m.first.direction };
		}
	}
}

const canTell = ({ first: { direction, text, sentAt, group } }: Woven): boolean =>
	direction !== null && text !== null && sentAt !== null && !group;

/** What a message's row has where its way is told from: a flag's value as it is stored, or what is made of it. */
function markOf({ first: { row, reading, direction } }: Woven): string | number {
	const rule = reading.direction.value;
	const isStored = rule.kind === 'flag' && !rule.bit && !rule.column.made && rule.column.path.length === 0;
	return (isStored ? keyOf(row.values[rule.column.column]) : null) ?? direction!;
}

/** Which way the messages that a sure store has too went there, by their marks. */
function toldBy(sure: ReadonlyMap<string, readonly Woven[]>, hinted: readonly Woven[]): Told {
	const told: Told = new Map();
	for (const m of hinted.filter(canTell)) {
		const others = (sure.get(m.first.text!) ?? []).filter(
			(o) => Math.abs(o.first.sentAt! - m.first.sentAt!) <= APART && areWithTheSame(o, m)
		);
		// What was said in both directions says nothing.
		const [way, ...more] = new Set(others.map((o) => o.first.direction!));
		if (way === undefined || more.length > 0) continue;
		const counts = told.get(markOf(m)) ?? { in: 0, out: 0 };
		counts[way]++;
		told.set(markOf(m), counts);
	}
	return told;
}

/** The way of each mark; null where too few are told, or those with one mark went both ways: it is no mark of it. */
function waysOf(told: Told): Map<string | number, Direction> | null {
	let [all, most] = [0, 0];
	const ways = new Map<string | number, Direction>();
	for (const [mark, counts] of told) {
		all += counts.in + counts.out;
		most += Math.max(counts.in, counts.out);
		ways.set(mark, counts.in > counts.out ? 'in' : 'out');
	}
	return all >= LEAST && most >= all * ALL_OTHERWISE ? ways : null;
}

/** Whether two messages are of conversations with the same person: by the address, or by the name where two programs have others. */
const areWithTheSame = (a: Woven, b: Woven): boolean => a.thread === b.thread || (nameOf(a) !== null && nameOf(a) === nameOf(b));

const nameOf = ({ first }: Woven): string | null => first.correspondent?.name ?? null;

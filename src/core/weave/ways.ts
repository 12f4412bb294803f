/**
 * Which way messages went, put right by another copy of the same conversations: where a store's columns only hint at it, and
 * a store that says it has all of what both hold the other way round, though both are with the same persons, the hint was wrong.
 */
import { put } from '../lists';
import type { Direction } from '../model';
import type { MessageReading } from '../interpret';
import type { Woven } from './woven';

/** How sure a way must be to put another right, and up to which one can be. */
const SURE = 0.82;
const HINTED = 0.8;
/** Messages that both hold, and share of them that must go the other way. */
const LEAST = 5;
const ALL_OTHERWISE = 0.95;
/** ms by which two clocks can differ. */
const APART = 600_000;

/** `perFamily`: the messages of each family of stores. */
export function putWaysRight(perFamily: readonly (readonly Woven[])[]): void {
	const sure = new Map<string, Woven[]>();
	const hinted = new Map<MessageReading, Woven[]>();
	for (const messages of perFamily)
		for (const m of messages) {
			const { reading, direction, text, sentAt, group } = m.first;
			if (direction === null || text === null || sentAt === null || group) continue;
			const { confidence } = reading.direction;
			if (confidence >= SURE) put(sure, text, m);
			else if (confidence <= HINTED) put(hinted, reading, m);
		}
	const wrong = new Set<MessageReading>();
	for (const [reading, messages] of hinted) {
		let [same, otherwise] = [0, 0];
		for (const m of messages) {
			const others = (sure.get(m.first.text!) ?? []).filter(
				(o) => Math.abs(o.first.sentAt! - m.first.sentAt!) <= APART && areWithTheSame(o, m)
			);
			// What was said in both directions says nothing.
			const ways = new Set(others.map((o) => o.first.direction));
			if (ways.size !== 1) continue;
			if (ways.has(m.first.direction)) same++;
			else otherwise++;
		}
		if (otherwise >= LEAST && otherwise >= (same + otherwise) * ALL_OTHERWISE) wrong.add(reading);
	}
	if (wrong.size === 0) return;
	// The captures of a store are read alike.
	for (const messages of perFamily) {
		if (!messages.some((m) => wrong.has(m.first.reading))) continue;
		for (const m of messages) if (m.first.reading.direction.confidence <= HINTED) turn(m);
	}
}

/** Whether two messages are of conversations with the same person: by the address, or by the name where two programs have others. */
const areWithTheSame = (a: Woven, b: Woven): boolean => a.thread === b.thread || (nameOf(a) !== null && nameOf(a) === nameOf(b));

const nameOf = ({ first }: Woven): string | null => first.correspondent?.name ?? null;

function turn(m: Woven): void {
	const { direction } = m.first;
	if (direction !== null) m.first = { ...m.first, direction: turned(direction) };
}

const turned = (direction: Direction): Direction => (direction === 'in' ? 'out' : 'in');

/** Messages that a program keeps in two tables at once: in that which it used before, and in the one that it uses now. */
import type { Woven } from './woven';
import { isInUse } from './woven';

/** Messages that two tables must have in common. */
const COMMON = 3;

/** Each message once; what the smaller table has of it is one more place where it was seen. */
export function joinKeptTwice(messages: Woven[]): Woven[] {
	const tables = new Map<number, Woven[]>();
	for (const m of messages) {
		if (!isInUse(m) || m.earlierWordingOf || m.first.sentAt === null || !m.first.text) continue;
		const of = tables.get(m.first.row.table);
		if (of) of.push(m);
		else tables.set(m.first.row.table, [m]);
	}
	if (tables.size < 2) return messages;
	const joined = new Set<Woven>();
	const largestFirst = [...tables.values()].sort((a, b) => b.length - a.length);
	for (const [i, larger] of largestFirst.entries())
		for (const smaller of largestFirst.slice(i + 1)) {
			if (larger[0]!.first.reading === smaller[0]!.first.reading) continue;
			const pairs = pairsOf(
				larger.filter((m) => !joined.has(m)),
				smaller.filter((m) => !joined.has(m))
			);
			if (pairs.length < COMMON) continue;
			for (const [one, other] of pairs) {
				one.absorb(other.first, other.thread);
				joined.add(other);
			}
		}
	return messages.filter((m) => !joined.has(m));
}

const key = ({ first, thread }: Woven): string => `${first.sentAt}|${first.direction}|${thread}|${first.text}`;

/** Two of one moment, conversation, way and text, each once. */
function pairsOf(larger: readonly Woven[], smaller: readonly Woven[]): [Woven, Woven][] {
	const open = new Map<string, Woven[]>();
	for (const m of larger) {
		const of = open.get(key(m));
		if (of) of.push(m);
		else open.set(key(m), [m]);
	}
	return smaller.flatMap((m): [Woven, Woven][] => {
		const one = open.get(key(m))?.shift();
		return one ? [[one, m]] : [];
	});
}

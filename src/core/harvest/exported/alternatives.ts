/** Items of which each says the same under one of two names, by what it is: `received.text`, or `sent.message.text`. */
import type { Item } from './items';

/** What a field with the text of a message is called. */
const SAID = /^(?:text|body|message|msg|content|caption)$/i;
/** Share of the items that must have one of the two, and items by which the fields are known. */
const HAVE_ONE = 0.8;
const SAMPLE = 2000;
const DEEPEST = 24;
/** Names of fields before a part, at most: more are keys rather than names. */
const MOST_PREFIXES = 200;

/** Gives the fields of such items, in all lists, one name; a field beside them keeps which of the two it was. */
export function joinAlternatives(item: Item, depth = 0): void {
	if (depth > DEEPEST) return;
	for (const items of item.lists.values()) {
		const pair = alternativesOf(items);
		if (pair) for (const one of items) rename(one, pair);
		for (const one of items) joinAlternatives(one, depth + 1);
	}
}

type Pair = [kept: string, other: string];

function alternativesOf(items: readonly Item[]): Pair | null {
	if (items.length < 2) return null;
	const sample = items.slice(0, SAMPLE);
	// Where an item says something: what stands before the name of its text.
	const said = new Map<string, Set<Item>>();
	for (const one of sample)
		for (const [name, value] of one.fields) {
			const dot = name.lastIndexOf('.');
			if (dot < 0 || typeof value !== 'string' || !SAID.test(name.slice(dot + 1))) continue;
			const prefix = name.slice(0, dot);
			const of = said.get(prefix);
			if (of) of.add(one);
			else if (said.size < MOST_PREFIXES) said.set(prefix, new Set([one]));
		}
	const prefixes = [...said.keys()];
	for (const [i, a] of prefixes.entries())
		for (const b of prefixes.slice(i + 1)) {
			const [inA, inB] = [said.get(a)!, said.get(b)!];
			if (a.startsWith(`${b}.`) || b.startsWith(`${a}.`) || inA.size + inB.size < sample.length * HAVE_ONE) continue;
			if ([...inA].some((one) => hasUnder(one, b)) || [...inB].some((one) => hasUnder(one, a))) continue;
			if (namesUnder(inA, a).filter((name) => namesUnder(inB, b).includes(name)).length > 1) return [a, b];
		}
	return null;
}

const hasUnder = (one: Item, prefix: string): boolean => [...one.fields.keys()].some((name) => name.startsWith(`${prefix}.`));
const namesUnder = (items: ReadonlySet<Item>, prefix: string): string[] => [
	...new Set(
		[...items].flatMap((one) => [...one.fields.keys()].filter((n) => n.startsWith(`${prefix}.`)).map((n) => n.slice(prefix.length)))
	)
];

function rename(one: Item, [kept, other]: Pair): void {
	const isOther = hasUnder(one, other);
	if (!isOther && !hasUnder(one, kept)) return;
	const fields = [...one.fields];
	one.fields.clear();
	for (const [name, value] of fields)
		one.fields.set(isOther && name.startsWith(`${other}.`) ? `${kept}${name.slice(other.length)}` : name, value);
	one.fields.set(`${kept} (as)`, isOther ? other : kept);
}

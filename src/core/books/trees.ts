/** Trees of other formats as entries, and where each of them stands in its text, in UTF-16 units. */
import type { Node } from 'jsonc-parser';
import type { Item } from '../harvest';
import { HOLDS, type Entry, type Place } from '../people';

const DEEPEST = 24;

export type Places = WeakMap<object, Place>;

/** A value of JSON or YAML. `base`: where its tree's places count from. */
export function entryOfNode(node: Node, base: number, places: Places, depth = 0): Entry {
	const inner = depth > DEEPEST ? [] : (node.children ?? []);
	const placed = <T extends object>(entry: T): T => {
		places.set(entry, { offset: base + node.offset, length: node.length });
		return entry;
	};
	if (node.type === 'array') return placed(inner.map((child) => entryOfNode(child, base, places, depth + 1)));
	if (node.type !== 'object') return (node.value ?? null) as Entry;
	const fields = inner.flatMap(({ children: [key, value] = [] }) =>
		key && value ? [[String(key.value), entryOfNode(value, base, places, depth + 1)] as const] : []
	);
	return placed(Object.fromEntries(fields));
}

/** An item: its fields by the last word of their names, its lists as they are. */
export function entryOfItem(item: Item, places: Places, depth = 0): Entry {
	const entry: { [key: string]: Entry } = {};
	const add = (name: string, value: Entry): void => {
		const words = name.split('.');
		// What holds the value says nothing; what it is in does.
		const key = words.findLast((word) => !HOLDS.test(word)) ?? name;
		const unique = Object.hasOwn(entry, key) ? `${key} ${Object.keys(entry).length}` : key;
		entry[unique] = value;
	};
	for (const [name, value] of item.fields)
		add(name, typeof value === 'string' || typeof value === 'number' ? value : typeof value === 'bigint' ? String(value) : null);
	if (depth < DEEPEST)
		for (const [name, list] of item.lists)
			add(
				name,
				list.map((one) => entryOfItem(one, places, depth + 1))
			);
	places.set(entry, { offset: item.from, length: item.to - item.from });
	return entry;
}

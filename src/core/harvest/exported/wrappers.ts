/** Elements that hold nothing but one list (`<participants><participant/>…`): what they hold stands where they do. */
import type { Item } from './items';

/** Takes such items away, at every depth. */
export function withoutWrappers(root: Item): void {
	const wrappers = new Set<string>();
	const others = new Set<string>();
	const look = (item: Item, path: string): void => {
		for (const [name, items] of item.lists) {
			const own = `${path}/${name}`;
			const isWrapper = items.length === 1 && items.every((one) => one.fields.size === 0 && one.lists.size === 1);
			(isWrapper ? wrappers : others).add(own);
			for (const one of items) look(one, own);
		}
	};
	look(root, '');
	const open = (item: Item, path: string): void => {
		for (const [name, items] of [...item.lists]) {
			const own = `${path}/${name}`;
			for (const one of items) open(one, own);
			if (!wrappers.has(own) || others.has(own)) continue;
			item.lists.set(name, [...items[0]!.lists.values()][0]!);
		}
	};
	open(root, '');
}

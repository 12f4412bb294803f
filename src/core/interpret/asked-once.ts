/** What is found of a store's things and asked for again and again: kept as long as the store's keys are, by which it is known. */
import type { Context } from './context';

export class AskedOnce<K extends object, T> {
	private readonly stores = new WeakMap<Context['keys'], Map<K, T>>();

	/** What is known of a thing; `find` is called the first time. */
	of(thing: K, { keys }: Context, find: () => T): T {
		const store = this.stores.get(keys) ?? new Map<K, T>();
		this.stores.set(keys, store);
		if (!store.has(thing)) store.set(thing, find());
		return store.get(thing)!;
	}
}

/** What a file of records holds, whatever its format: items with fields, and lists of items in them. */
import type { Value } from '../../model';
import type { Sides } from './page-sides';

export interface Item {
	fields: Map<string, Value>;
	/** Lists inside, by name. */
	lists: Map<string, Item[]>;
	/** Stretch of the text, in UTF-16 units. */
	from: number;
	to: number;
	/** Of a page the ways that its classes stand for, where that is told. */
	sides?: Sides;
	/** Places of the text at which it is not what it should be, or ends too early. */
	broken?: number[];
}

/** A media type (RFC 6838), as the values of exports state it. */
export const MEDIA_TYPE = /^(text|image|audio|video|application)\/[\w.+-]+$/i;

export const DEEPEST = 24;
/** Items of one file, at most. */
export const MOST_ITEMS = 2_000_000;

export const item = (from: number, to: number): Item => ({ fields: new Map(), lists: new Map(), from, to });

export function addTo(map: Map<string, Item[]>, name: string, value: Item): void {
	const list = map.get(name);
	if (list) list.push(value);
	else map.set(name, [value]);
}

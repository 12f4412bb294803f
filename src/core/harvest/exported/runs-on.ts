/** Messages of a page that follow one of the same writer and do not name him again. */
import type { Value } from '../../model';
import type { Item } from './items';
import { WAY_FIELD } from './page-sides';

/** Words of classes that say which way a message went: what has no writer there is the owner's own. */
const WAY = /^(out(going|box)?|in(coming|box)?|sent|received|me|mine|own|self|from-?me|by-?me|right|left)$/i;
/** Share of the items that may lack the writer, and must. */
const LACKING = { least: 0.02, most: 0.9 };
/** Distinct values among so many, up to which they come back. */
const COMES_BACK = 0.6;

/** Fills the writer in from the item before where a list names him only when he changes. */
export function continued(items: readonly Item[]): void {
	const names = new Set(items.flatMap((i) => [...i.fields.keys()]));
	const writers = [...names].filter((name) => name !== '@class' && name !== '(day)' && isWriter(items, name));
	// Where every item has a name, it needs none of the one before.
	if (writers.some((name) => items.every((i) => i.fields.has(name)))) return;
	for (const name of writers) {
		const lacking = items.filter((i) => !i.fields.has(name));
		if (lacking.length < items.length * LACKING.least || lacking.length > items.length * LACKING.most) continue;
		const named = items.filter((i) => i.fields.has(name));
		const told = haveOwnClass(lacking, named);
		if (writers.length > 1 && !told) continue;
		// Where both kinds have a class of their own, one of them is the owner's messages: nobody wrote on.
		if (told && haveOwnClass(named, lacking)) continue;
		let last: Value | undefined;
		for (const one of items) {
			if (one.fields.has(name)) last = one.fields.get(name);
			else if (last !== undefined && one.fields.get(WAY_FIELD) !== 'out' && !classesOf(one).some((c) => WAY.test(c)))
				one.fields.set(name, last);
		}
	}
}

const classesOf = (item: Item): string[] => String(item.fields.get('@class') ?? '').split(/\s+/);

/** Whether each of these items has a class that none of the others has. */
function haveOwnClass(own: readonly Item[], others: readonly Item[]): boolean {
	const known = new Set(others.flatMap(classesOf));
	return own.every((one) => classesOf(one).some((c) => c !== '' && !known.has(c)));
}

/** Whether a field's values are written like names or numbers of persons, and come back. */
function isWriter(items: readonly Item[], name: string): boolean {
	if (name.includes('@')) return false;
	const values = items.flatMap((i) => (i.fields.has(name) ? [String(i.fields.get(name))] : []));
	const distinct = new Set(values);
	if (values.length < 2 || distinct.size > Math.max(2, values.length * COMES_BACK)) return false;
	return values.every((v) => v.length <= 60 && /^[\p{Lu}\p{Lo}+~@]|^[\d ()+-]{6,}$/u.test(v) && !/\d[:.]\d/.test(v));
}

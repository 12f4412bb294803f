/**
 * A list in which things of several kinds follow each other, as a program's log of all it keeps has them: accounts, persons
 * and rooms before the messages. Those that have hardly a field of the messages become lists of their own.
 */
import type { Item } from './items';

const KIND = /^(?:@|_)?(?:type|kind|record|record_?type|object|entity|class|event)$/i;
const KINDS_AT_MOST = 16;
const LONGEST_WORD = 32;
const SAMPLE = 5000;
/** Share of a kind's fields that the commonest kind may have too, if it is more than one. */
const SHARED = 0.25;
/** What the kind is called that is the owner's, of which there is one. */
const OWN = /^(?:my_?)?(?:account|self|me|owner|profile|user_?info)$/i;

/**
 * The first of a file's lines that says what the others belong to: it has none of their fields, but for what names it or
 * says of which kind it is. What it says is said of the file.
 */
export function takeHeadingLine(root: Item): void {
	const [name, [heading, ...others]] = [...root.lists][0] ?? ['', []];
	if (root.lists.size !== 1 || root.fields.size > 0 || !heading || others.length === 0) return;
	const usual = fieldsOf(others);
	const own = [...fieldsOf([heading])].filter((f) => !NAMES_ITSELF.test(f));
	if (own.length === 0 || own.some((f) => usual.has(f))) return;
	for (const [field, value] of heading.fields) root.fields.set(field, value);
	for (const [list, items] of heading.lists) root.lists.set(list === name ? `${list} (${name})` : list, items);
	root.lists.set(name, others);
}
const NAMES_ITSELF = /^(?:@|_)?(?:id|uuid|guid|key|type|kind|version|v)$/i;

/** Parts the lists of a document. */
export function partKinds(root: Item): void {
	for (const [name, items] of [...root.lists]) {
		const field = kindFieldOf(items);
		if (field === null) continue;
		const kinds = new Map<string, Item[]>();
		for (const one of items) {
			const kind = String(one.fields.get(field));
			const of = kinds.get(kind);
			if (of) of.push(one);
			else kinds.set(kind, [one]);
		}
		const [, most] = [...kinds].sort((a, b) => b[1].length - a[1].length)[0]!;
		const usual = fieldsOf(most);
		const isApart = (of: readonly Item[]): boolean => {
			const own = [...fieldsOf(of)].filter((f) => f !== field);
			return of !== most && own.length > 0 && own.filter((f) => usual.has(f)).length <= Math.max(1, own.length * SHARED);
		};
		const apart = [...kinds].filter(([, of]) => isApart(of));
		if (apart.length === 0) continue;
		const away = new Set(apart.flatMap(([, of]) => of));
		root.lists.set(
			name,
			items.filter((one) => !away.has(one))
		);
		for (const alike of joined(apart)) {
			for (const [kind, of] of alike) if (OWN.test(kind) && of.length === 1 && alike.length > 1) of[0]!.fields.set('self', 1);
			// Persons are called by the kind of which there are several.
			const [kind] = alike.reduce((a, b) => (b[1].length > a[1].length ? b : a));
			const free = root.lists.has(kind) ? `${kind} (${name})` : kind;
			root.lists.set(
				free,
				alike.flatMap(([, of]) => of)
			);
		}
	}
}

const fieldsOf = (items: readonly Item[]): Set<string> =>
	new Set(items.slice(0, SAMPLE).flatMap((one) => [...one.fields.keys(), ...one.lists.keys()]));

/** The field that says of each item of which kind it is. */
function kindFieldOf(items: readonly Item[]): string | null {
	const sample = items.slice(0, SAMPLE);
	if (sample.length < 3) return null;
	for (const field of sample[0]!.fields.keys()) {
		if (!KIND.test(field)) continue;
		const words = new Set<string>();
		const isWord = (one: Item): boolean => {
			const word = one.fields.get(field);
			if (typeof word !== 'string' || word === '' || word.length > LONGEST_WORD || /\s/.test(word)) return false;
			return words.add(word).size <= KINDS_AT_MOST;
		};
		if (items.every(isWord) && words.size > 1) return field;
	}
	return null;
}

/** Kinds with the same fields, together: the owner's account, and the persons he knows. */
function joined(kinds: readonly [string, Item[]][]): [string, Item[]][][] {
	const groups = new Map<string, [string, Item[]][]>();
	for (const kind of kinds) {
		const key = [...fieldsOf(kind[1])].sort().join('\0');
		groups.set(key, [...(groups.get(key) ?? []), kind]);
	}
	return [...groups.values()];
}

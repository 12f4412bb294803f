/**
 * Messages that are made of parts, each with its media type, as those are that carry pictures: their text is taken out of
 * the parts of text, the others are the message's files.
 */
import type { Value } from '../../model';
import { MEDIA_TYPE, type Item } from './items';

const TEXT = /^text\/(plain|html)$/i;
/** What says how a message's parts are shown together. */
const LAYOUT = /^application\/smil/i;
/** What a message's files are put under. */
const FILES = '(files)';
const DEEPEST = 3;
const PARTS_AT_MOST = 200;

type Part = Map<string, Value>;

/** What some programs call their parts instead of by a media type. */
const KIND = /(^|\.)(type|kind)$/i;
const KIND_OF_TEXT = /^(text|plain)$/i;
const KIND_OF_FILE = /^(image|photo|picture|file|video|audio|voice|document|attachment|sticker)$/i;

/** Whole messages have a kind as well, but more fields, and a time. */
const FIELDS_OF_A_PART = 4;
const isMoment = (value: Value): boolean =>
	(typeof value === 'number' && value > 1e8) || (typeof value === 'string' && /^\d{4}-\d\d-\d\d|^\d{9,}$/.test(value));

const typeOf = (part: Part): string | null => {
	const isTimed = [...part.values()].some(isMoment);
	// What has a time, and a file with a type within it, is a message that the file was sent with.
	for (const [name, value] of part)
		if (typeof value === 'string' && MEDIA_TYPE.test(value) && !(isTimed && name.includes('.'))) return value;
	if (part.size > FIELDS_OF_A_PART || isTimed) return null;
	for (const [name, value] of part) {
		if (!KIND.test(name) || typeof value !== 'string') continue;
		if (KIND_OF_TEXT.test(value)) return 'text/plain';
		if (KIND_OF_FILE.test(value)) return value;
	}
	return null;
};

/** Takes the parts of all items apart. Messages made of parts join those of a list beside theirs that are not, where they are alike. */
export function takePartsOut(root: Item): void {
	const whole = listsOfWholes(root);
	for (const list of root.lists.values()) for (const one of list) visit(one, whole, 0);
	joinAlike(root, 0);
}

/** The lists of which some have a time and no type: what stands in those are messages, however few of them in one place. */
function listsOfWholes(root: Item): Set<string> {
	const found = new Set<string>();
	const look = (item: Item, depth: number): void => {
		for (const [name, items] of item.lists) {
			if (items.some(({ fields }) => typeOf(fields) === null && [...fields.values()].some(isMoment))) found.add(name);
			if (depth < 100) for (const one of items) look(one, depth + 1);
		}
	};
	look(root, 0);
	return found;
}

function joinAlike(item: Item, depth: number): void {
	const lists = [...item.lists].sort((a, b) => b[1].length - a[1].length);
	for (const [name, items] of lists) {
		const made = items.some((i) => i.fields.has(FILES));
		const plain = made && lists.find(([other, list]) => other !== name && list.length >= items.length && areAlike(list, items));
		if (!plain) continue;
		const names = namesFor(plain[1], items);
		for (const one of items) rename(one, names);
		for (const one of items) plain[1].push(one);
		plain[1].sort((a, b) => a.from - b.from);
		item.lists.delete(name);
		break;
	}
	if (depth < 100) for (const items of item.lists.values()) for (const one of items) joinAlike(one, depth + 1);
}

/** Fields that two lists of messages share at least. */
const SHARED = 2;
const namesOf = (items: readonly Item[]): Set<string> => new Set(items.slice(0, 500).flatMap((i) => [...i.fields.keys()]));
const valuesOf = (items: readonly Item[], name: string): Set<string> =>
	new Set(items.slice(0, 2000).flatMap((i) => (i.fields.has(name) ? [String(i.fields.get(name))] : [])));

function areAlike(list: readonly Item[], made: readonly Item[]): boolean {
	const names = namesOf(list);
	const shared = [...namesOf(made)].filter((name) => names.has(name));
	return shared.length >= SHARED && [...names].some((name) => SAID.test(name));
}

const SAID = /^(text|body|message|content|words)$/i;
/** A field with no more values than these tells kinds or ways. */
const FLAG = 6;

/** What fields of messages made of parts are called in the list that they join: their text, and flags of the same values. */
function namesFor(list: readonly Item[], made: readonly Item[]): Map<string, string> {
	const names = namesOf(list);
	const own = namesOf(made);
	const missing = [...names].filter((name) => !own.has(name));
	const out = new Map<string, string>();
	for (const name of own) {
		if (names.has(name) || name === FILES) continue;
		const values = valuesOf(made, name);
		const same = SAID.test(name)
			? missing.find((other) => SAID.test(other))
			: values.size <= FLAG && missing.find((other) => isWithin(values, valuesOf(list, other)));
		if (same && ![...out.values()].includes(same)) out.set(name, same);
	}
	return out;
}

const isWithin = (values: ReadonlySet<string>, all: ReadonlySet<string>): boolean =>
	all.size <= FLAG && [...values].every((v) => all.has(v));

function rename(item: Item, names: ReadonlyMap<string, string>): void {
	for (const [from, to] of names) {
		if (!item.fields.has(from)) continue;
		item.fields.set(to, item.fields.get(from)!);
		item.fields.delete(from);
	}
}

function visit(item: Item, whole: ReadonlySet<string>, depth: number): void {
	const lists = [...item.lists].filter(([name, items]) => !whole.has(name) && items.every((i) => isHolder(i, 0)));
	const parts = [...lists.flatMap(([, items]) => items.flatMap((i) => partsIn(i, 0))), ...ownParts(item)];
	if (parts.length > 0 && parts.length <= PARTS_AT_MOST && parts.every((p) => typeOf(p) !== null)) {
		for (const [name] of lists) item.lists.delete(name);
		settle(item, parts);
		takeFrom(item);
	} else if (depth < 100) for (const items of item.lists.values()) for (const one of items) visit(one, whole, depth + 1);
}

/** Assigned numbers of the header fields of a multimedia message (WAP-209, section 7.1): Bcc, Cc, From, To. */
const ENDS: ReadonlySet<number> = new Set([129, 130, 137, 151]);
const FROM = 137;

/** Who sent a multimedia message, out of the list of its ends, each with the number of its header field. */
function takeFrom(item: Item): void {
	if (item.fields.has('from')) return;
	for (const [name, items] of item.lists) {
		const ends = items.flatMap((i) => partsIn(i, 0));
		const fieldOf = (end: Part): number => Number(end.get('type'));
		if (ends.length === 0 || ends.length > PARTS_AT_MOST || !ends.every((end) => ENDS.has(fieldOf(end)) && end.has('address'))) continue;
		const from = ends.find((end) => fieldOf(end) === FROM)?.get('address');
		if (from !== undefined) item.fields.set('from', from);
		item.lists.delete(name);
		return;
	}
}

/** An item that is a part, or has nothing but parts in it. */
function isHolder(item: Item, depth: number): boolean {
	if (typeOf(item.fields) !== null) return item.lists.size === 0;
	return (
		depth < DEEPEST && item.fields.size === 0 && item.lists.size > 0 && [...item.lists.values()].flat().every((i) => isHolder(i, depth + 1))
	);
}

function partsIn(item: Item, depth: number): Part[] {
	if (item.fields.size > 0 || depth > DEEPEST) return [item.fields];
	return [...item.lists.values()].flat().flatMap((i) => partsIn(i, depth + 1));
}

/** One part alone, whose fields stand in the message under a name of their own; they are taken out of it. */
function ownParts(item: Item): Part[] {
	const groups = new Map<string, Part>();
	for (const [name, value] of item.fields) {
		const dot = name.lastIndexOf('.');
		if (dot < 0) continue;
		const group = groups.get(name.slice(0, dot)) ?? new Map<string, Value>();
		groups.set(name.slice(0, dot), group.set(name.slice(dot + 1), value));
	}
	const typed = [...groups].filter(([name, part]) => typeOf(part) !== null && /part|attach|file|media|content|body/i.test(name));
	for (const [group, part] of typed) for (const name of part.keys()) item.fields.delete(`${group}.${name}`);
	return typed.map(([, part]) => part);
}

/** The text of a part: what is neither its type nor a name of it. */
function textOf(part: Part): string {
	const named = ['text', 'body', 'content', 'value', 'data', '#text'].find((n) => typeof part.get(n) === 'string' && part.get(n) !== '');
	return named === undefined ? '' : String(part.get(named));
}

function settle(item: Item, parts: readonly Part[]): void {
	const texts = parts.filter((p) => TEXT.test(typeOf(p)!)).map(textOf);
	const files = parts.filter((p) => !TEXT.test(typeOf(p)!) && !LAYOUT.test(typeOf(p)!));
	const text = texts.filter((t) => t !== '').join('\n');
	const own = [...item.fields].find(([name, value]) => /^(text|body)$/i.test(name) && value !== '' && value !== null);
	if (text !== '' && !own) item.fields.set('text', text);
	else if (text !== '' && text !== own?.[1]) item.fields.set('(text of its parts)', text);
	if (files.length > 0) item.fields.set(FILES, JSON.stringify(files.map((f) => Object.fromEntries(f))));
}

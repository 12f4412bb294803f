/**
 * Property lists (XML, document type 1.0; binary, "bplist00") as items, where they hold lists of things. Entities beyond
 * XML's own five are never resolved.
 */
import type { Element } from 'domhandler';
import { DomUtils } from 'htmlparser2';
import type { Node } from 'jsonc-parser';
import { openArchive } from '../../unwrap/plist/archived';
import { readPlist, type PlistValue } from '../../unwrap/plist/plist';
import { unclosed } from './breakage';
import type { Item } from './items';
import { elements, parseMarkup } from './markup';
import { itemsOf } from './tree';

const DEEPEST = 100;
/** Of the tree that archived objects make. */
const MOST_NODES = 2_000_000;

/** A property list in XML, each item with its place in the text. */
export function readPlistText(text: string): Item | null {
	// Objects of an archive lie apart from what names them, as those of a binary list do.
	if (text.includes('<key>$archiver</key>')) return readBinaryPlist(new TextEncoder().encode(text));
	const plist = elements(parseMarkup(text, true)).find((el) => el.name === 'plist');
	const value = plist && elements(plist)[0];
	const node = value && nodeOf(value, 0);
	const root = node ? itemsOf([{ node, offset: 0 }], text.length, false) : null;
	if (root) root.broken = unclosed(text);
	return root;
}

export const isBinaryPlist = (head: Uint8Array): boolean => new TextDecoder('latin1').decode(head.subarray(0, 8)) === 'bplist00';

/** A binary property list; its objects lie apart from what names them, so that the file is the place of each item. */
export function readBinaryPlist(bytes: Uint8Array): Item | null {
	const list = readPlist(bytes);
	const value = list === null ? null : (openArchive(list, MOST_NODES) ?? list);
	const node = value === null ? null : nodeOfValue(value, bytes.length);
	return node ? itemsOf([{ node, offset: 0 }], bytes.length, false) : null;
}

function nodeOf(el: Element, depth: number): Node {
	const offset = el.startIndex ?? 0;
	const place = { offset, length: (el.endIndex ?? offset) + 1 - offset };
	const inner = depth < DEEPEST ? elements(el) : [];
	if (el.name === 'array')
		return holding(
			{ type: 'array', ...place },
			inner.map((one) => nodeOf(one, depth + 1))
		);
	if (el.name === 'dict')
		return holding(
			{ type: 'object', ...place },
			inner.flatMap((key, i) => {
				const value = inner[i + 1];
				if (key.name !== 'key' || !value || value.name === 'key') return [];
				const named = { offset: key.startIndex ?? 0, length: (value.endIndex ?? 0) + 1 - (key.startIndex ?? 0) };
				return [property(DomUtils.textContent(key), nodeOf(value, depth + 1), named)];
			})
		);
	return { ...scalar(valueOf(el)), ...place };
}

function valueOf(el: Element): string | number | boolean {
	const text = DomUtils.textContent(el);
	if (el.name === 'true' || el.name === 'false') return el.name === 'true';
	if (el.name === 'integer' || el.name === 'real') {
		const number = Number(text);
		return text.trim() !== '' && Number.isFinite(number) ? number : text;
	}
	return el.name === 'data' ? text.replace(/\s+/g, '') : text;
}

/** A value that holds others as a tree; the file, of so many bytes, is the place of all of it. */
export function nodeOfValue(value: PlistValue, length: number): Node {
	const place = { offset: 0, length };
	if (Array.isArray(value))
		return holding(
			{ type: 'array', ...place },
			value.map((one) => nodeOfValue(one, length))
		);
	if (value instanceof Date) return { ...scalar(Number.isNaN(value.getTime()) ? '' : value.toISOString()), ...place };
	if (value instanceof Uint8Array) return { ...scalar(inBase64(value)), ...place };
	if (value !== null && typeof value === 'object')
		return holding(
			{ type: 'object', ...place },
			Object.entries(value).map(([name, one]) => property(name, nodeOfValue(one, length), place))
		);
	return { ...scalar(value), ...place };
}

type Place = Pick<Node, 'offset' | 'length'>;

function holding(node: Node, children: Node[]): Node {
	for (const child of children) (child as { parent: Node }).parent = node;
	return Object.assign(node, { children });
}

const property = (name: string, value: Node, place: Place): Node =>
	holding({ type: 'property', ...place }, [{ type: 'string', ...place, value: name }, value]);

const scalar = (value: string | number | boolean | null): Pick<Node, 'type' | 'value'> => ({
	type: typeof value === 'string' ? 'string' : typeof value === 'number' ? 'number' : typeof value === 'boolean' ? 'boolean' : 'null',
	value
});

const CHUNK = 8192;
function inBase64(bytes: Uint8Array): string {
	const letters: string[] = [];
	for (let at = 0; at < bytes.length; at += CHUNK) letters.push(String.fromCharCode(...bytes.subarray(at, at + CHUNK)));
	return globalThis.btoa(letters.join(''));
}

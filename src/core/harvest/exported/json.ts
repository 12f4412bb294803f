/** JSON (RFC 8259) and lines of JSON as items. A file that is cut gives what stands before the cut. */
import { parseTree, printParseErrorCode, type ParseError } from 'jsonc-parser';
import type { Item } from './items';
import { findStamp } from './stamps';
import { takeHeadingLine } from './kinds-apart';
import { itemsOf, type Tree } from './tree';

export function readJson(text: string): Item | null {
	const broken: number[] = [];
	const lines = isLines(text);
	const root = itemsOf(jsonTrees(text, broken), text.length, lines);
	if (!root) return null;
	if (lines) takeHeadingLine(root);
	root.broken = broken;
	return root;
}

/** A document that is an entry of its own, as a line of many is. */
export function readJsonEntry(text: string): Item | null {
	const root = itemsOf(jsonTrees(text), text.length, true);
	const entries = root?.lists.get('records');
	if (!root || !entries) return root;
	root.lists.delete('records');
	root.lists.set('entries', entries);
	return root;
}

const isLines = (text: string): boolean => /^\s*\{[^\n]*\}\s*\n\s*\{/.test(text);

/** Places kept at which a text is broken. */
const MOST_PLACES = 100;
/** What programs write for no value, in their own languages. */
const WORDS = /^(?:NaN|-?Infinity|undefined|None|True|False|nil)$/;

/** One document, or one a line. `broken` takes the places at which they are none, in UTF-16 units. */
export function* jsonTrees(text: string, broken: number[] = []): Generator<Tree> {
	const read = (part: string, from: number): Tree['node'] | undefined => {
		const errors: ParseError[] = [];
		const node = parseTree(part, errors, { allowTrailingComma: true });
		let isWord = false;
		for (const { error, offset, length } of errors) {
			const code = printParseErrorCode(error);
			// Then a value is missed, where the word stands in place of one.
			const isOfWord = isWord && code === 'ValueExpected';
			isWord = code === 'InvalidSymbol' && WORDS.test(part.slice(offset, offset + length));
			if (isWord || isOfWord || code === 'InvalidCommentToken' || broken.length >= MOST_PLACES) continue;
			broken.push(from + offset + length);
		}
		return node;
	};
	if (!isLines(text)) {
		const node = read(text, 0);
		if (node) yield { node, offset: 0 };
		return;
	}
	let at = 0;
	for (const line of text.split('\n')) {
		const node = line.trim() === '' ? undefined : read(line, at);
		if (node?.type === 'object') yield { node, offset: at };
		at += line.length + 1;
	}
}

/** Lines that end with an object, behind what a program logs of when and by what it was written. */
function loggedIn(line: string): { head: string; object: string; at: number } | null {
	const at = line.indexOf('{');
	const [head, object] = [line.slice(0, Math.max(0, at)), line.slice(at).trimEnd()];
	return at > 0 && /\d/.test(head) && object.endsWith('}') ? { head, object, at } : null;
}
const LEAST = 3;
/** Share of a log's lines. */
const SOME = 0.2;

/** Whether the beginning of a text is a log some of whose lines hold objects. */
export function isJsonLog(start: string): boolean {
	const lines = start.split('\n').filter((line) => line.trim() !== '');
	const logged = lines.filter((line) => loggedIn(line) !== null).length;
	return logged >= LEAST && logged >= lines.length * SOME;
}

/** The objects of a log, each with when its line was written and what else the line says. */
export function readJsonLog(text: string): Item | null {
	const heads = new Map<number, string>();
	const trees: Tree[] = [];
	let at = 0;
	for (const line of text.split('\n')) {
		const found = loggedIn(line);
		if (found) {
			const errors: ParseError[] = [];
			const node = parseTree(found.object, errors);
			const offset = at + found.at;
			if (node?.type === 'object' && errors.length === 0 && node.children!.length > 1) {
				trees.push({ node, offset });
				heads.set(offset, found.head);
			}
		}
		at += line.length + 1;
	}
	const root = itemsOf(trees, text.length, true);
	for (const one of root?.lists.get('records') ?? []) {
		const head = heads.get(one.from) ?? '';
		const stamp = findStamp(head);
		if (!stamp) continue;
		one.fields.set('logged', head.slice(stamp.from, stamp.to));
		one.fields.set('logged as', (head.slice(0, stamp.from) + head.slice(stamp.to)).replace(/\s+/g, ' ').trim());
	}
	return root;
}

/** JSON (RFC 8259) and lines of JSON as items. A file that is cut gives what stands before the cut. */
import { parseTree, printParseErrorCode, type ParseError } from 'jsonc-parser';
import type { Item } from './items';
import { itemsOf, type Tree } from './tree';

export function readJson(text: string): Item | null {
	const broken: number[] = [];
	const root = itemsOf(jsonTrees(text, broken), text.length, isLines(text));
	if (root) root.broken = broken;
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

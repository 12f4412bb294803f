/** JSON (RFC 8259) and lines of JSON as items. A file that is cut gives what stands before the cut. */
import { parseTree } from 'jsonc-parser';
import type { Item } from './items';
import { itemsOf, type Tree } from './tree';

export const readJson = (text: string): Item | null => itemsOf(jsonTrees(text), text.length, isLines(text));

const isLines = (text: string): boolean => /^\s*\{[^\n]*\}\s*\n\s*\{/.test(text);

/** One document, or one a line. */
export function* jsonTrees(text: string): Generator<Tree> {
	if (!isLines(text)) {
		const node = parseTree(text, [], { allowTrailingComma: true });
		if (node) yield { node, offset: 0 };
		return;
	}
	let at = 0;
	for (const line of text.split('\n')) {
		const node = line.trim() === '' ? undefined : parseTree(line);
		if (node?.type === 'object') yield { node, offset: at };
		at += line.length + 1;
	}
}

import { parseTree, type Node } from 'jsonc-parser';

/** What is there of JSON, whole or not. Lists within lists without end exhaust the parser: such are no document. */
export function treeOf(text: string): Node | undefined {
	try {
		return parseTree(text);
	} catch (error) {
		if (error instanceof RangeError) return undefined;
		throw error;
	}
}

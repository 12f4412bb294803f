/** YAML (1.2.2) as items: one document, or several one after the other, each of which is a row. */
import type { Node } from 'jsonc-parser';
import { isAlias, isMap, isScalar, isSeq, parseAllDocuments, type Node as YamlNode, type Scalar } from 'yaml';
import { DEEPEST, MOST_ITEMS, type Item } from './items';
import { itemsOf, type Tree } from './tree';

/** Characters of a file, at most: the parser keeps a hundred times as much. */
const LONGEST = 8 << 20;
/** A document's mark or its directives (6.8, 9.1). */
const BEGINS = /^(?:%YAML\s|---[ \t]*\r?\n)/;

export const isYaml = (start: string, name: string): boolean => /\.ya?ml$/i.test(name) || BEGINS.test(start);

export function readYaml(text: string): Item | null {
	const broken: number[] = [];
	const trees = yamlTrees(text, broken);
	const root = itemsOf(trees, text.length, trees.length > 1 && trees.every(({ node }) => node.type === 'object'));
	// What writes it ends each line: a value without quotes says by nothing else where it ends.
	if (broken.length === 0 && /[^\s"'\]}]$/.test(text)) broken.push(text.length);
	if (root) root.broken = broken;
	return root;
}

type Open = { -readonly [key in keyof Node]: Node[key] };

/** The documents of a text, as far as each can be read. `broken` takes where one can be read no further. */
export function yamlTrees(text: string, broken: number[] = []): Tree[] {
	if (text.length > LONGEST) return [];
	const documents = parseAllDocuments(text, { keepSourceTokens: false, logLevel: 'silent', uniqueKeys: false });
	if (!Array.isArray(documents)) return [];
	let nodes = 0;
	const nodeOf = (value: YamlNode | null, parent: Node | undefined, depth: number): Node | null => {
		// What is named elsewhere is not written out again: so nothing can grow.
		if (value === null || isAlias(value) || depth > DEEPEST * 2 || nodes++ > MOST_ITEMS) return null;
		const [from, to] = value.range ?? [0, 0];
		const node: Open = { type: 'null', offset: from, length: to - from, parent };
		if (isScalar(value)) return Object.assign(node, scalarOf(value));
		if (isSeq(value)) {
			node.type = 'array';
			node.children = value.items.flatMap((item) => nodeOf(item as YamlNode, node, depth + 1) ?? []);
		} else if (isMap(value)) {
			node.type = 'object';
			node.children = value.items.flatMap(({ key, value: own }) => {
				if (!isScalar(key)) return [];
				const property: Open = { type: 'property', offset: key.range?.[0] ?? from, length: 0, parent: node };
				const named: Node = {
					type: 'string',
					offset: property.offset,
					length: 0,
					value: String(key.source ?? key.value),
					parent: property
				};
				const held = nodeOf(own as YamlNode | null, property, depth + 1) ?? {
					type: 'null',
					offset: property.offset,
					length: 0,
					value: null
				};
				property.length = held.offset + held.length - property.offset;
				property.children = [named, held];
				return [property];
			});
		}
		return node;
	};
	return documents.flatMap(({ contents, errors: [error] }) => {
		if (error) broken.push(error.pos[0]);
		const node = nodeOf(contents, undefined, 0);
		return node ? [{ node, offset: 0 }] : [];
	});
}

/** Digits that are more than a number can keep, or begin with a sign or nought, are as they are written. */
function scalarOf({ value, source }: Scalar): Pick<Node, 'type' | 'value'> {
	if (typeof value === 'number') {
		const written = source ?? String(value);
		const isKept = String(value) === written;
		return isKept || /^-?\d*\.\d+$/.test(written) ? { type: 'number', value } : { type: 'string', value: written };
	}
	if (typeof value === 'boolean') return { type: 'boolean', value };
	return value === null || value === undefined ? { type: 'null', value: null } : { type: 'string', value: String(value) };
}

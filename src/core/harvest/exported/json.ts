/** JSON (RFC 8259) and lines of JSON as items. A file that is cut gives what stands before the cut. */
import { parseTree, type Node } from 'jsonc-parser';
import type { Value } from '../../model';
import { addTo, DEEPEST, item, MOST_ITEMS, type Item } from './items';

const ROOT = 'records';

export function readJson(text: string): Item | null {
	const root = item(0, text.length);
	let count = 0;
	let base = 0;
	const stretch = (node: Node): Item => item(base + node.offset, base + node.offset + node.length);
	const scalar = (node: Node): Value => (typeof node.value === 'boolean' ? Number(node.value) : (node.value as Value));
	const isScalar = (node: Node): boolean => node.type !== 'object' && node.type !== 'array';

	const fill = (into: Item, node: Node, prefix: string, depth: number): void => {
		if (depth > DEEPEST) return;
		for (const property of node.children ?? []) {
			const [key, value] = property.children ?? [];
			if (!key || !value) continue;
			const name = prefix + String(key.value);
			if (isScalar(value)) into.fields.set(name, scalar(value));
			else if (value.type === 'array') list(into, value, name, depth + 1);
			else if (isMap(value) || isMapOfTexts(value)) {
				for (const entry of value.children ?? []) {
					const [k, v] = entry.children ?? [];
					if (!k || !v || count++ > MOST_ITEMS) continue;
					const one = stretch(entry);
					one.fields.set('key', String(k.value));
					if (isScalar(v)) one.fields.set('value', scalar(v));
					else if (v.type === 'array') list(one, v, `${name}.items`, depth + 1);
					else fill(one, v, '', depth + 1);
					addTo(into.lists, name, one);
				}
			} else fill(into, value, `${name}.`, depth + 1);
		}
	};
	const list = (into: Item, node: Node, name: string, depth: number): void => {
		const children = node.children ?? [];
		if (children.length > 0 && children.every(isScalar)) {
			into.fields.set(
				name,
				children.every((c) => typeof c.value === 'string') ? inOrder(children) : JSON.stringify(children.map((c) => c.value))
			);
			return;
		}
		// Text in runs, some of them marked up, is one text.
		if (children.some((c) => c.type === 'string')) {
			into.fields.set(name, children.map(runOf).join(''));
			return;
		}
		const columns = columnsOf(node);
		for (const child of children) {
			if (columns && child.type === 'array' && child.children!.length <= columns.length && count++ <= MOST_ITEMS) {
				const row = stretch(child);
				child.children!.forEach((c, i) => isScalar(c) && row.fields.set(columns[i]!, scalar(c)));
				addTo(into.lists, name, row);
			}
			if (child.type !== 'object' || count++ > MOST_ITEMS) continue;
			const one = stretch(child);
			fill(one, child, '', depth + 1);
			addTo(into.lists, name, one);
		}
	};

	for (const { node, offset } of documents(text)) {
		base = offset;
		if (node.type === 'array') list(root, node, ROOT, 0);
		else if (node.type === 'object') {
			if (offset > 0 || root.lists.has(ROOT) || isLines(text)) {
				const one = stretch(node);
				fill(one, node, '', 0);
				addTo(root.lists, ROOT, one);
			} else if (isMap(node)) {
				const holder: Node = {
					type: 'object',
					offset: 0,
					length: text.length,
					children: [
						{ type: 'property', offset: 0, length: text.length, children: [{ type: 'string', offset: 0, length: 0, value: ROOT }, node] }
					]
				};
				fill(root, holder, '', 0);
			} else fill(root, node, '', 0);
		}
	}
	return root.fields.size + root.lists.size > 0 ? root : null;
}

/** Rows of one width: what their columns are called beside them, or numbers. */
function columnsOf(node: Node): string[] | null {
	const rows = (node.children ?? []).filter((c) => c.type === 'array');
	const width = rows[0]?.children?.length ?? 0;
	if (rows.length < 2 || width < 2 || rows.length < node.children!.length || rows.some((r) => r.children!.length !== width)) return null;
	const holder = node.parent?.parent;
	for (const property of holder?.type === 'object' ? (holder.children ?? []) : []) {
		const list = property.children?.[1];
		if (list?.type === 'array' && list.children!.length === width && list.children!.every((c) => c.type === 'string'))
			return list.children!.map((c) => String(c.value));
	}
	return Array.from({ length: width }, (_, i) => `column ${i + 1}`);
}

const inOrder = (children: readonly Node[]): string => JSON.stringify(children.map((c) => c.value as string));
const runOf = (node: Node): string => {
	if (node.type === 'string') return node.value as string;
	const text = node.children?.find((p) => p.children?.[0]?.value === 'text')?.children?.[1]?.value as unknown;
	return typeof text === 'string' ? text : '';
};

/** An object whose names are keys of things (numbers, addresses, names of people), not names of fields. */
function isMap(node: Node): boolean {
	const entries = node.children ?? [];
	if (entries.length === 0 || !entries.every((e) => e.children?.[1]?.type === 'object' || e.children?.[1]?.type === 'array')) return false;
	return entries.filter((e) => /[\d+@ .:/-]/.test(String(e.children![0]!.value))).length > entries.length / 2;
}

/** An object that gives a text to each of several keys that look alike: numbers, addresses, letters with a number. */
function isMapOfTexts(node: Node): boolean {
	const entries = node.children ?? [];
	const keys = entries.map((e) => String(e.children?.[0]?.value));
	if (entries.length < 2 || !entries.every((e) => e.children?.[1]?.type === 'string')) return false;
	const [first] = keys;
	const shape = (key: string): string => key.replace(/\d+/g, '0').toLowerCase();
	return (
		keys.every((k) => /^\+?\d[\d ().-]{5,}$|^[^\s@]+@[^\s@]+$/.test(k)) ||
		(/\d/.test(first!) && keys.every((k) => shape(k) === shape(first!)))
	);
}

const isLines = (text: string): boolean => /^\s*\{[^\n]*\}\s*\n\s*\{/.test(text);

/** One document, or one a line. */
function* documents(text: string): Generator<{ node: Node; offset: number }> {
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

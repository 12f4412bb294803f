/** Values that hold others (lists, and values by name) as items, whatever they are written in. */
import type { Node } from 'jsonc-parser';
import type { Value } from '../../model';
import { addTo, DEEPEST, item, MOST_ITEMS, type Item } from './items';

const ROOT = 'records';

/** A document as a tree; `offset`: where in its text the tree's places count from, in UTF-16 units. */
export interface Tree {
	node: Node;
	offset: number;
}

/**
 * Items of values that hold others, each document a tree with places in a text of so many units. `isLines`: each document
 * is a row.
 */
export function itemsOf(documents: Iterable<Tree>, length: number, isLines: boolean): Item | null {
	const root = item(0, length);
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
			else if (isOfColumns(value)) byColumns(into, value, name);
			else if (isMapOfDays(value)) {
				for (const { children: [day, list_] = [] } of value.children!) {
					const before = into.lists.get(name)?.length ?? 0;
					list(into, list_!, name, depth + 1);
					for (const one of into.lists.get(name)?.slice(before) ?? []) one.fields.set('day', String(day!.value));
				}
			} else if (isMap(value) || isMapOfTexts(value)) {
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
		const isText = children.length > 0 && runsElsewhere(node);
		if (children.length > 0 && children.every(isScalar) && !isText) {
			into.fields.set(
				name,
				children.every((c) => typeof c.value === 'string') ? inOrder(children) : JSON.stringify(children.map((c) => c.value))
			);
			return;
		}
		// Text in runs, some of them marked up, is one text.
		if (isText || children.some((c) => c.type === 'string')) {
			into.fields.set(name, children.map(runOf).join(''));
			return;
		}
		const columns = columnsOf(node);
		if (columns) name = calledBeside(node) ?? name;
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

	/** Things of which each property is a list of all their values: a row is where its longest text stands. */
	const byColumns = (into: Item, node: Node, name: string): void => {
		const columns = node.children!.map(({ children: [key, values] = [] }) => ({ key: String(key!.value), cells: values!.children! }));
		for (const [i] of columns[0]!.cells.entries()) {
			if (count++ > MOST_ITEMS) return;
			const cells = columns.map(({ key, cells }) => ({ key, cell: cells[i]! }));
			const longest = cells.reduce((a, b) => (textLength(b.cell) > textLength(a.cell) ? b : a));
			const row = stretch(longest.cell);
			for (const { key, cell } of cells) {
				if (isScalar(cell)) row.fields.set(key, scalar(cell));
				else if (cell.type === 'array') list(row, cell, key, DEEPEST - 1);
				else fill(row, cell, `${key}.`, DEEPEST - 1);
			}
			addTo(into.lists, name, row);
		}
	};

	/** Whether a list stands where others of its kind have one text: runs of text, or a single one. */
	const plain = new Map<Node, Map<string, boolean>>();
	const runsElsewhere = (node: Node): boolean => {
		const key = node.parent?.children?.[0]?.value as unknown;
		const all = node.parent?.parent?.parent;
		if (typeof key !== 'string' || all?.type !== 'array' || !node.children!.every((c) => c.type === 'string' || c.type === 'object'))
			return false;
		let known = plain.get(all);
		if (!known) plain.set(all, (known = new Map()));
		let is = known.get(key);
		if (is === undefined) known.set(key, (is = all.children!.some((one) => valueOf(one, key)?.type === 'string')));
		return is;
	};

	for (const { node, offset } of documents) {
		base = offset;
		if (node.type === 'array') list(root, node, ROOT, 0);
		else if (node.type === 'object') {
			if (offset > 0 || root.lists.has(ROOT) || isLines) {
				const one = stretch(node);
				fill(one, node, '', 0);
				addTo(root.lists, ROOT, one);
			} else if (isOfColumns(node)) byColumns(root, node, ROOT);
			else if (isMap(node)) {
				const holder: Node = {
					type: 'object',
					offset: 0,
					length,
					children: [{ type: 'property', offset: 0, length, children: [{ type: 'string', offset: 0, length: 0, value: ROOT }, node] }]
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
	// The last one may be cut.
	const isOfWidth = (r: Node, i: number): boolean => r.children!.length === width || (i === rows.length - 1 && r.children!.length < width);
	if (rows.length < 2 || width < 2 || rows.length < node.children!.length || !rows.every(isOfWidth)) return null;
	const holder = node.parent?.parent;
	for (const property of holder?.type === 'object' ? (holder.children ?? []) : []) {
		const list = property.children?.[1];
		if (list?.type === 'array' && list.children!.length === width && list.children!.every((c) => c.type === 'string'))
			return list.children!.map((c) => String(c.value));
	}
	return Array.from({ length: width }, (_, i) => `column ${i + 1}`);
}

/** What rows in columns are called where a name stands beside them: tables one after the other. */
function calledBeside(node: Node): string | null {
	const holder = node.parent?.parent;
	if (holder?.type !== 'object' || holder.parent?.type !== 'array') return null;
	const name = ['name', 'table', 'title'].map((key) => valueOf(holder, key)).find((value) => value?.type === 'string');
	return name ? String(name.value) : null;
}

/** The value of an object's property. */
const valueOf = (node: Node, key: string): Node | undefined =>
	node.type === 'object' ? node.children!.find((p) => p.children?.[0]?.value === key)?.children?.[1] : undefined;

const inOrder = (children: readonly Node[]): string => JSON.stringify(children.map((c) => c.value as string));
/** What the text of a run is called. */
const RUN = ['text', 'value', 'content', 'insert', 'body'];
const runOf = (node: Node): string => {
	if (node.type === 'string') return node.value as string;
	const text = RUN.map((key) => valueOf(node, key)).find((value) => value?.type === 'string');
	return text ? (text.value as string) : '';
};

/** An object whose names are keys of things (numbers, addresses, names of people), not names of fields. */
function isMap(node: Node): boolean {
	const entries = node.children ?? [];
	if (entries.length === 0 || !entries.every((e) => e.children?.[1]?.type === 'object' || e.children?.[1]?.type === 'array')) return false;
	return entries.filter((e) => /[\d+@ .:/-]/.test(String(e.children![0]!.value))).length > entries.length / 2;
}

const textLength = (node: Node): number => (node.type === 'string' ? node.length : 0);

/** Three lists of one length, or more, most of them of plain values, and nothing else. */
function isOfColumns(node: Node): boolean {
	const lists = (node.children ?? []).map((p) => p.children?.[1]);
	const length = lists[0]?.children?.length ?? 0;
	if (node.type !== 'object' || lists.length < 3 || length < 2 || !lists.every((l) => l?.type === 'array' && l.children!.length === length))
		return false;
	return lists.filter((l) => l!.children!.every((c) => c.type !== 'array' && c.type !== 'object')).length * 2 > lists.length;
}

const DAY = /^(?:\d{4}[-./]\d{1,2}[-./]\d{1,2}|\d{1,2}[-./]\d{1,2}[-./]\d{4})$/;
/** An object that has a list of things for each of several days. */
const isMapOfDays = (node: Node): boolean =>
	(node.children ?? []).length > 0 &&
	node.children!.every(
		({ children: [day, list] = [] }) =>
			DAY.test(String(day?.value)) && list?.type === 'array' && list.children!.every((c) => c.type === 'object')
	);

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

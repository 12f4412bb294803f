/**
 * Stores of nodes and edges: one table has everything, each row with a label for what it is (a person, a chat, a message),
 * and another one says which of them belong together and how. Each label becomes a table of its own, with a column for
 * each kind of edge of which its rows have one; what joins several to several becomes a table of pairs.
 */
import { plainColumn, plainTable, plainRow, withoutRows, withTables, type Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';
import { numbersByPlace } from './numbers';
import { keyOf } from './refs';

const ROWS = 5000;
/** Of each node there are several. */
const EDGES_READ = 40_000;
const LEAST = 12;
const LABELS_AT_MOST = 16;
const LONGEST_WORD = 32;
const NEARLY_ALL = 0.95;
const ONE_EACH = 0.98;
/** Edges of one kind between two labels, at least. */
const EDGES_LEAST = 3;
/** Share of the rows that must have a sentence for a label to be of messages. */
const WRITTEN = 0.3;

type Key = string | number;

interface Nodes {
	table: Table;
	rows: readonly Row[];
	label: number;
	/** What a row is known by. */
	keyIn(row: Row): Key | null;
	/** Of the rows in use, by key. */
	labels: ReadonlyMap<Key, string>;
}

interface Edges {
	table: Table;
	rows: readonly Row[];
	from: number;
	to: number;
	/** What kind an edge is of; null where all are of one. */
	kind: number | null;
}

/** Edges of one kind from rows of one label to those of another. */
interface Bundle {
	kind: string;
	from: string;
	to: string;
	pairs: { row: Row; from: Key; to: Key }[];
}

/** The store with a table for each label; the store itself where it is none of nodes and edges. */
export function openGraphs(harvest: Harvested): Harvested {
	for (const table of harvest.tables) {
		const nodes = nodesIn(table, harvest);
		const edges = nodes && edgesOf(nodes, harvest);
		if (nodes && edges) return opened(harvest, nodes, edges);
	}
	return harvest;
}

function nodesIn(table: Table, harvest: Harvested): Nodes | null {
	if (table.index === 0 || /^sqlite_/i.test(table.name)) return null;
	const key = table.rowidColumn >= 0 ? null : table.primaryKey.length === 1 ? table.primaryKey[0]! : undefined;
	if (key === undefined) return null;
	const rows = harvest.book.rowsOf(table.index);
	const kept = keptOf(rows, ROWS);
	if (kept.length < LEAST) return null;
	// Asked for where a row has lost its number, and only of what is a graph.
	let numbers: Map<Row, number> | null = null;
	const numberOf = (row: Row): number | undefined => (numbers ??= numbersByPlace(rows)).get(row);
	const keyIn = (row: Row): Key | null => keyOf(key === null ? (row.rowid ?? numberOf(row)) : row.values[key]);
	for (const label of table.columns.keys()) {
		if (label === key || label === table.rowidColumn) continue;
		const words = new Set(kept.map((row) => wordOf(row.values[label])));
		if (words.size < 2 || words.size > LABELS_AT_MOST || words.has(null)) continue;
		const written = [...words].filter((word) => areWritten(kept.filter((row) => row.values[label] === word)));
		// Folders are words too; but where all is written there is not all that a store has.
		if (written.length > 0 && written.length < words.size) return { table, rows, label, keyIn, labels: labelsOf(rows, label, keyIn) };
	}
	return null;
}

/** The label of each row by its key; of those in use, where a key was given out again. */
function labelsOf(rows: readonly Row[], label: number, keyIn: Nodes['keyIn']): Map<Key, string> {
	const labels = new Map<Key, string>();
	for (const row of rows) {
		const [own, word] = [keyIn(row), wordOf(row.values[label])];
		if (own !== null && word !== null && (row.standing === 'kept' || !labels.has(own))) labels.set(own, word);
	}
	return labels;
}

/** The first rows that are in use. */
function keptOf(rows: readonly Row[], most: number): Row[] {
	const kept: Row[] = [];
	for (const row of rows) {
		if (row.standing === 'kept') kept.push(row);
		if (kept.length === most) break;
	}
	return kept;
}

const wordOf = (value: Value | undefined): string | null =>
	typeof value === 'string' && value !== '' && value.length <= LONGEST_WORD && !/\s/.test(value) ? value : null;

const SENTENCE = /\p{L}+\s+\p{L}+\s+\p{L}/u;
const BEGINNING = 400;
const areWritten = (rows: readonly Row[]): boolean =>
	rows.filter((row) => row.values.some((v) => typeof v === 'string' && SENTENCE.test(v.slice(0, BEGINNING)))).length >
	rows.length * WRITTEN;

/** The table whose rows join those of `nodes`: two columns of their keys, and perhaps a word for what an edge says. */
function edgesOf(nodes: Nodes, harvest: Harvested): Edges | null {
	const { table: of, labels } = nodes;
	for (const table of harvest.tables) {
		if (table === of || table.index === 0) continue;
		const rows = harvest.book.rowsOf(table.index);
		const kept = keptOf(rows, EDGES_READ);
		if (kept.length < LEAST) continue;
		const ends = [...table.columns.keys()].filter((c) => c !== table.rowidColumn && areKeys(kept, c, labels));
		const [from, to] = ends;
		if (ends.length !== 2 || !joinSeveral(kept, from!, to!, labels) || !joinMost(kept, ends, nodes)) continue;
		const kind = [...table.columns.keys()].find((c) => !ends.includes(c) && areWords(kept, c)) ?? null;
		const edges: Edges = { table, rows, from: from!, to: to!, kind };
		if (areOfOneLabel(kept, edges, labels)) return edges;
	}
	return null;
}

/** Whether values are nearly all keys of nodes: what an edge names can be deleted since. */
function areKeys(rows: readonly Row[], c: number, labels: ReadonlyMap<Key, string>): boolean {
	const named = rows.map((row) => keyOf(row.values[c]));
	return named.filter((key) => key !== null && labels.has(key)).length > rows.length * (2 * NEARLY_ALL - 1);
}

/** Whether edges of each kind begin, or end, at nodes of one label: keys that mean rows of another table do neither. */
function areOfOneLabel(rows: readonly Row[], { from, to, kind }: Edges, labels: ReadonlyMap<Key, string>): boolean {
	const kinds = new Map<string, Row[]>();
	for (const row of rows) {
		const word = kind === null ? '' : (wordOf(row.values[kind]) ?? '');
		const of = kinds.get(word);
		if (of) of.push(row);
		else kinds.set(word, [row]);
	}
	const isOne = (of: readonly Row[], c: number): boolean => {
		const counts = new Map<string | undefined, number>();
		for (const row of of) {
			const label = labels.get(keyOf(row.values[c]) ?? '');
			if (label !== undefined) counts.set(label, (counts.get(label) ?? 0) + 1);
		}
		const all = [...counts.values()].reduce((sum, n) => sum + n, 0);
		return Math.max(...counts.values(), 0) >= all * NEARLY_ALL;
	};
	return [...kinds.values()].every((of) => of.length < EDGES_LEAST || isOne(of, from) || isOne(of, to));
}

/** Whether nodes of several labels are joined on either side: rows of a list join those of two. */
function joinSeveral(rows: readonly Row[], from: number, to: number, labels: ReadonlyMap<Key, string>): boolean {
	const labelsAt = (c: number): Set<string> => new Set(rows.flatMap((row) => labels.get(keyOf(row.values[c]) ?? '') ?? []));
	return labelsAt(from).size > 1 || labelsAt(to).size > 1;
}

/** Whether (nearly) all nodes are joined: small numbers of some other list's are keys of few. */
function joinMost(edges: readonly Row[], ends: readonly number[], { rows, keyIn }: Nodes): boolean {
	const joined = new Set(edges.flatMap((row) => ends.map((c) => keyOf(row.values[c]))));
	const kept = keptOf(rows, ROWS);
	return kept.filter((row) => joined.has(keyIn(row))).length >= kept.length * JOINED;
}
const JOINED = 0.8;

const areWords = (rows: readonly Row[], c: number): boolean => {
	const words = new Set(rows.map((row) => wordOf(row.values[c])));
	return !words.has(null) && words.size <= LABELS_AT_MOST;
};

function bundlesOf({ labels }: Nodes, { rows, from, to, kind }: Edges): Bundle[] {
	const found = new Map<string, Bundle>();
	for (const row of rows) {
		const [a, b] = [keyOf(row.values[from]), keyOf(row.values[to])];
		const [one, other] = [labels.get(a ?? ''), labels.get(b ?? '')];
		const word = kind === null ? '' : wordOf(row.values[kind]);
		if (a === null || b === null || one === undefined || other === undefined || word === null) continue;
		const name = [word, one, other].join('\u0000');
		const bundle = found.get(name) ?? { kind: word, from: one, to: other, pairs: [] };
		found.set(name, bundle);
		bundle.pairs.push({ row, from: a, to: b });
	}
	return [...found].sort(([a], [b]) => (a < b ? -1 : 1)).flatMap(([, bundle]) => (bundle.pairs.length >= EDGES_LEAST ? [bundle] : []));
}

/** Of each row the one that it is joined to, where (nearly) all rows have but one; what is in use goes first. */
function onlyOnes(bundle: Bundle, end: 'from' | 'to'): Map<Key, Key> | null {
	const other = end === 'from' ? 'to' : 'from';
	const kept = bundle.pairs.filter(({ row }) => row.standing === 'kept');
	if (new Set(kept.map((pair) => pair[end])).size < kept.length * ONE_EACH) return null;
	const ones = new Map<Key, Key>();
	for (const pair of [...kept, ...bundle.pairs]) if (!ones.has(pair[end])) ones.set(pair[end], pair[other]);
	return ones;
}

function opened(harvest: Harvested, nodes: Nodes, edges: Edges): Harvested {
	const { table, label, keyIn } = nodes;
	const words = [...new Set(nodes.labels.values())].sort();
	const nameOf = (word: string): string => `${table.name}: ${word}`;
	const first = harvest.tables.length;
	const tables: Table[] = words.map((word, i) => ({ ...table, index: first + i, name: nameOf(word), columns: [...table.columns] }));
	const added: Map<Key, Key>[][] = words.map(() => []);
	const pairs: Row[][] = [];
	for (const bundle of bundlesOf(nodes, edges)) {
		const addTo = (word: string, target: string, ones: Map<Key, Key>): void => {
			const at = words.indexOf(word);
			tables[at]!.columns.push({ ...plainColumn(bundle.kind || target), references: nameOf(target) });
			added[at]!.push(ones);
		};
		const [outward, inward] = [onlyOnes(bundle, 'from'), onlyOnes(bundle, 'to')];
		if (outward) addTo(bundle.from, bundle.to, outward);
		else if (inward) addTo(bundle.to, bundle.from, inward);
		else {
			const index = first + tables.length;
			const made = plainTable(index, `${edges.table.name}: ${bundle.kind || `${bundle.from}, ${bundle.to}`}`, [bundle.from, bundle.to]);
			made.columns[0]!.references = nameOf(bundle.from);
			made.columns[1]!.references = nameOf(bundle.to);
			tables.push(made);
			pairs.push(bundle.pairs.map(({ row, from, to }) => ({ ...plainRow(row), table: index, rowid: null, cut: -1, values: [from, to] })));
		}
	}
	const rowsOf = (word: string, i: number): Row[] =>
		nodes.rows.flatMap((row) => {
			const own = keyIn(row);
			// What lost its label is looked at as the rows that the edges say it is one of, or as none.
			const is = wordOf(row.values[label]) ?? (own === null ? undefined : nodes.labels.get(own));
			const joined = own === null ? [] : added[i]!.map((ones) => ones.get(own) ?? null);
			return is === word ? [{ ...plainRow(row), table: first + i, values: [...row.values, ...joined] }] : [];
		});
	const made = words.map(rowsOf);
	const moved = new Set([...nodes.rows, ...edges.rows]);
	return withTables(withoutRows(harvest, moved), tables, [...made, ...pairs]);
}

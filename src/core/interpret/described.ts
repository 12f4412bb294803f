/**
 * Persons and conversations that messages' documents describe again and again: whom a message is from as an object of its
 * own (`{"from":{"id":7,"first_name":"Noor"},"text":…}`), which is the same in each message of hers. Each sort becomes a
 * table, a thing a row, as if the program had one; the messages name its rows by their keys.
 */
import { plainTable, withBook, withTables, type Harvested } from '../harvest';
import type { Described, Row, Table, Value } from '../model';
import { profileOfValues } from './profile';
import { keyOf } from './refs';
import { at, isFields, jsonOf, plain } from './stored';

/** Documents from which it is told; how deep things are sought in them; fields they have at most, and sorts of them. */
const DOCUMENTS = 400;
const DEEPEST = 4;
const MOST_FIELDS = 30;
const MOST_SORTS = 8;
/** Fewest documents that describe something, share of the values that must be documents, and of a thing's fields that must be as before. */
const LEAST = 4;
const MOSTLY = 0.8;
const SAME = 0.97;
/** Share of the documents that describe what another has described. */
const AGAIN = 0.2;
/** Share of a column's texts that must be names, and share of the keys that another table has where it lists them. */
const NAMED = 0.6;
const LISTED = 0.8;
const LIST_ROWS = 5000;

const KEY_NAMED = /^_?(?:id|pk|key|uid|uuid|guid|user_?(?:id|key)|handle|username|address|number|phone|jid|email)$/i;

type Thing = Record<string, unknown>;

/** The store with a table for each sort of thing that is described; the store itself where none are. */
export function openDescribed(harvest: Harvested): Harvested {
	const tables: Table[] = [];
	const made: Row[][] = [];
	const described = new Map<Table, Described>();
	for (const table of harvest.tables) {
		const rows = harvest.book.rowsOf(table.index);
		for (const column of table.index === 0 ? [] : table.columns.keys()) {
			const sorts = sortsIn(rows, column).filter((sort) => !isListed(sort, table, harvest));
			if (sorts.length === 0) continue;
			described.set(table, { column, things: [] });
			for (const alike of byKeys(sorts)) {
				const name = [table.name, ...alike[0]!.path].join('.');
				const index = harvest.tables.length + tables.length;
				const fields = [...new Set(alike.flatMap((sort) => sort.fields))];
				tables.push({ ...plainTable(index, name, [alike[0]!.key, ...fields]), primaryKey: [0], withoutRowid: true });
				made.push(rowsOf(rows, column, alike, fields, index));
				described.get(table)!.things.push(...alike.map(({ path, key }) => ({ path, key, table: name })));
			}
			break;
		}
	}
	if (tables.length === 0) return harvest;
	const own = harvest.tables.map((table) => (described.has(table) ? { ...table, described: described.get(table)! } : table));
	return withTables(withBook(harvest, own, harvest.book), tables, made);
}

interface Sort {
	path: string[];
	key: string;
	fields: string[];
	keys: ReadonlySet<string | number>;
}

function sortsIn(rows: readonly Row[], column: number): Sort[] {
	const used = rows.filter((row) => row.standing === 'kept').slice(0, DOCUMENTS);
	const values = used.map((row) => row.values[column]).filter((value) => value !== null && value !== undefined);
	if (values.length < LEAST || !values.slice(0, LEAST).some(canBeDocument)) return [];
	const documents = values.map(jsonOf).filter(isFields);
	if (documents.length < values.length * MOSTLY) return [];
	return pathsOf(documents)
		.flatMap((path) => sortAt(documents, path) ?? [])
		.slice(0, MOST_SORTS);
}

const canBeDocument = (value: Value | undefined): boolean =>
	typeof value === 'string' ? /^\s*\{/.test(value) : value instanceof Uint8Array && value[0] === 0x7b;

/** Where documents have things within them. */
function pathsOf(documents: readonly Thing[]): string[][] {
	const paths = new Map<string, string[]>();
	const visit = (thing: Thing, path: string[]): void => {
		if (path.length >= DEEPEST) return;
		for (const [key, value] of Object.entries(thing).slice(0, MOST_FIELDS)) {
			if (!isFields(value)) continue;
			const own = [...path, key];
			paths.set(own.join('\0'), own);
			visit(value, own);
		}
	};
	for (const document of documents) visit(document, []);
	return [...paths.values()];
}

/** What is described at a path, by the field that it is known by; null where what stands there is something else. */
function sortAt(documents: readonly Thing[], path: string[]): Sort | null {
	const things = documents.map((document) => at(document, path)).filter(isFields);
	if (things.length < LEAST) return null;
	const names = [...new Set(things.flatMap((thing) => Object.keys(thing)))].slice(0, MOST_FIELDS);
	const fields = names.filter((name) => things.some((thing) => isPlain(thing[name])) && things.every((thing) => !isFields(thing[name])));
	const isInAll = (name: string): boolean => things.every((thing) => keyOf(plain(thing[name])) !== null);
	const keys = fields.filter(isInAll).sort((a, b) => Number(KEY_NAMED.test(b)) - Number(KEY_NAMED.test(a)));
	const key = keys.find((name) => tellsAll(things, name, fields));
	if (key === undefined) return null;
	const others = fields.filter((name) => name !== key);
	const called = others.some((name) => {
		const p = profileOfValues(things.map((thing) => plain(thing[name])));
		return p.texts > 0 && p.name > NAMED && p.mime < 1 - NAMED && p.path < 1 - NAMED && p.time === null;
	});
	return called ? { path, key, fields: others, keys: new Set(things.map((thing) => keyOf(plain(thing[key]))!)) } : null;
}

const isPlain = (value: unknown): boolean => typeof value === 'string' || typeof value === 'number';

/** Whether who has the same in one field has it in the others, and several come again. */
function tellsAll(things: readonly Thing[], key: string, fields: readonly string[]): boolean {
	const known = new Map<string, Thing>();
	let [again, same] = [0, 0];
	for (const thing of things) {
		const own = String(thing[key]);
		const before = known.get(own);
		if (before) {
			again++;
			if (fields.every((name) => String(before[name] ?? '') === String(thing[name] ?? ''))) same++;
		}
		known.set(own, thing);
	}
	return known.size > 1 && again >= things.length * AGAIN && same >= again * SAME;
}

/** Whether another table of the store has the keys too: there they are listed. */
function isListed({ keys }: Sort, table: Table, { tables, book }: Harvested): boolean {
	return tables.some((other) => {
		if (other === table || other.index === 0) return false;
		const rows = book.rowsOf(other.index);
		if (rows.length === 0 || rows.length > LIST_ROWS || rows.length > book.rowsOf(table.index).length) return false;
		return [...other.columns.keys()].some((c) => {
			const values = new Set(rows.map((row) => keyOf(row.values[c])));
			return [...keys].filter((key) => values.has(key)).length >= keys.size * LISTED;
		});
	});
}

/** Sorts of one key are one list: a conversation of two is known by whom it is with. */
function byKeys(sorts: readonly Sort[]): Sort[][] {
	const groups: Sort[][] = [];
	for (const sort of sorts) {
		const isOfThese = (group: readonly Sort[]): boolean =>
			group.some(({ keys }) => {
				const both = [...sort.keys].filter((key) => keys.has(key)).length;
				return both >= BOTH_LEAST && both >= Math.min(keys.size, sort.keys.size) * BOTH;
			});
		const group = groups.find(isOfThese);
		if (group) group.push(sort);
		else groups.push([sort]);
	}
	return groups;
}
const BOTH_LEAST = 2;
const BOTH = 0.5;

/** Each thing once, as it was described last; what only lost documents describe is lost as they are. */
function rowsOf(rows: readonly Row[], column: number, sorts: readonly Sort[], fields: readonly string[], table: number): Row[] {
	const known = new Map<string | number, Row>();
	for (const row of rows) {
		const document = jsonOf(row.values[column]);
		for (const { path, key } of sorts) {
			const thing = at(document, path);
			const own = isFields(thing) ? keyOf(plain(thing[key])) : null;
			if (own === null || !isFields(thing)) continue;
			const before = known.get(own);
			if (before && (row.standing !== 'kept' || before.sightings[0] === row.sightings[0])) continue;
			const { tableKnown, standing, grade, sightings } = row;
			const values = [own, ...fields.map((name, i) => plain(thing[name]) ?? before?.values[i + 1])];
			known.set(own, { table, tableKnown, rowid: null, values, standing, grade, cut: -1, sightings: [...sightings] });
		}
	}
	return [...known.values()];
}

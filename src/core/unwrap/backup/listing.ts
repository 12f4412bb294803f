/**
 * What a file lists, entry by entry: rows of a table, entries of fields (a property list, JSON, XML), or lines of digests
 * and paths. What an entry's values mean is told by `naming.ts`.
 */
import { bytesToHex } from '@noble/hashes/utils.js';
import Papa from 'papaparse';
import { CachedSource, isText, type ByteSource } from '../../bytes';
import { hasMagic, StoreHarvest } from '../../harvest';
import type { Row, Table, Value } from '../../model';
import { isFields, readFields, type Dict, type Fields } from './fields';

export type Cell = string | number | Date | Uint8Array;

/** An entry's values by what they are called. */
export interface Entry {
	get(name: string): Cell | undefined;
	has(name: string): boolean;
	keys(): Iterable<string>;
	values(): Iterable<Cell>;
}

type Cells = Map<string, Cell>;

/** What an entry has for the keys under which it and those around it stand. */
export const OWN_KEY = '\u0000key';
export const GROUP_KEY = '\u0000group';

export interface Listing {
	/** `table`: rows of a database, which can be a program's own; the others are of files that are nothing but a list. */
	kind: 'table' | 'fields' | 'lines';
	entries: Entry[];
	/** Names that stand for numbers of rows elsewhere: of which column, and by which number. */
	areas: NumberedAreas[];
	/** Words somebody said, among the fields: an export of conversations can state the digests of its files. */
	sentences: number;
	/** Of a table: the database, and which of its tables. */
	table?: { harvest: StoreHarvest; index: number };
}

export interface NumberedAreas {
	column: string;
	names: Map<number, string>;
	/** Whether little but areas can be numbered so. */
	sure: boolean;
}

const LIST_AT_MOST = 512 << 20;
const LINES_AT_MOST = 64 << 20;
const ENTRIES_AT_MOST = 2_000_000;
const DEEPEST = 12;

/** Every list in a file. `isHash`: whether a value can be the name of a stored file. */
export function listingsIn(source: ByteSource, isHash: (value: string) => boolean): Listing[] {
	if (source.size > LIST_AT_MOST || source.size === 0) return [];
	if (hasMagic(source.read(0, 100))) return tablesIn(source, isHash);
	const fields = readFields(source);
	const entries = fields === null ? [] : entriesOf(fields, isHash);
	if (entries.length > 0) return [{ kind: 'fields', entries, areas: [], sentences: isProperties(source) ? 0 : sentencesIn(fields) }];
	const lines = linesIn(source, isHash);
	const said = lines.reduce((sum, entry) => sum + [...entry.values()].filter((cell) => typeof cell === 'string' && isSaid(cell)).length, 0);
	return lines.length > 0 ? [{ kind: 'lines', entries: lines, areas: [], sentences: said }] : [];
}

/** Property lists are no exports of conversations. */
const isProperties = (source: ByteSource): boolean => /^bplist0|<plist[\s>]/.test(new TextDecoder('latin1').decode(source.read(0, 400)));

/** Tables with the names of stored files in them: of the others, which can be large, nothing is made. */
function tablesIn(source: ByteSource, isHash: (value: string) => boolean): Listing[] {
	const harvest = new StoreHarvest({ sources: [new CachedSource(source)], db: 0, wal: -1, journal: -1 });
	for (const step of harvest.run('used')) void step;
	return harvest.tables.flatMap((table): Listing[] => {
		const rows = harvest.book.rowsOf(table.index);
		if (!rows.slice(0, LOOKED_AT).some(({ values }) => values.some((v) => namesHash(cellOf(v), isHash)))) return [];
		const places = new Map(table.columns.map(({ name }, c) => [name, c]));
		const entries = rows.map((row) => new RowEntry(row, places));
		return [{ kind: 'table', entries, areas: numberedAreas(harvest, table, rows), sentences: 0, table: { harvest, index: table.index } }];
	});
}

const LOOKED_AT = 400;
const namesHash = (cell: Cell | null, isHash: (value: string) => boolean): boolean => typeof cell === 'string' && isHash(cell);

const DIGEST_BYTES = new Set([16, 20, 32, 64]);

/** A list can have some hundred thousand rows: an entry only looks at its own. */
class RowEntry implements Entry {
	constructor(
		private readonly row: Row,
		private readonly places: ReadonlyMap<string, number>
	) {}

	get(name: string): Cell | undefined {
		const place = this.places.get(name);
		return place === undefined ? undefined : (cellOf(this.row.values[place]) ?? undefined);
	}

	has(name: string): boolean {
		return this.get(name) !== undefined;
	}

	keys(): Iterable<string> {
		return [...this.places.keys()].filter((name) => this.has(name));
	}

	values(): Iterable<Cell> {
		return [...this.places.keys()].flatMap((name) => this.get(name) ?? []);
	}
}

/** A value as a cell, a digest's bytes as digits to the base of 16. */
function cellOf(value: Value | undefined): Cell | null {
	if (typeof value === 'string' || typeof value === 'number') return value;
	if (!(value instanceof Uint8Array)) return null;
	return DIGEST_BYTES.has(value.length) ? bytesToHex(value) : value;
}

const MOST_AREAS = 5000;
/** Fewer numbers may be the kinds of the entries, unless the column is called as the table of areas is. */
const FEWEST_AREAS = 3;
const plainName = (name: string): string =>
	name
		.toLowerCase()
		.replace(/[^a-z]/g, '')
		.replace(/(id|key|no|s)$/, '');
const isCalledAs = (column: string, table: string): boolean => plainName(column).length > 2 && plainName(column) === plainName(table);

/** The columns whose every value is the number of a row in another, smaller table of names. */
function numberedAreas(harvest: StoreHarvest, list: Table, rows: readonly Row[]): NumberedAreas[] {
	return harvest.tables.flatMap((table): NumberedAreas[] => {
		const others = table.index === list.index ? [] : harvest.book.rowsOf(table.index);
		if (others.length === 0 || others.length > MOST_AREAS || others.length >= rows.length) return [];
		const name = table.columns.findIndex((_, c) => others.every((r) => typeof r.values[c] === 'string' && r.values[c] !== ''));
		if (name < 0) return [];
		const names = new Map(others.map((r) => [Number(r.rowid), r.values[name] as string]));
		return list.columns.flatMap((column, c): NumberedAreas[] => {
			if (!rows.every((r) => typeof r.values[c] === 'number' && names.has(r.values[c]))) return [];
			const used = new Set(rows.map((r) => r.values[c])).size;
			const sure = isCalledAs(column.name, table.name) || used >= Math.max(FEWEST_AREAS, names.size * 0.5);
			return [{ column: column.name, names, sure }];
		});
	});
}

/** Entries that name a file by its hash, or stand under it; maps of one to the other give an entry for each pair. */
function entriesOf(fields: Fields, isHash: (value: string) => boolean): Entry[] {
	const found: Entry[] = [];
	const visit = (value: Fields, key: string, depth: number, group: string | null): void => {
		if (depth > DEEPEST || found.length >= ENTRIES_AT_MOST) return;
		if (Array.isArray(value)) for (const inner of value) visit(inner, key, depth + 1, group);
		if (!isFields(value)) return;
		const pairs = Object.entries(value);
		const texts = pairs.filter((pair): pair is [string, string] => typeof pair[1] === 'string');
		const isMap = texts.length > 1 && texts.every(([k, v]) => isHash(k) !== isHash(v));
		const named = !isMap && (isHash(key) || texts.some(([, text]) => isHash(text)));
		if (isMap)
			for (const [k, v] of texts)
				found.push(
					withGroup(
						new Map<string, Cell>([
							['hash', isHash(k) ? k : v],
							['path', isHash(k) ? v : k]
						]),
						group
					)
				);
		else if (named) found.push(withGroup(withKey(cellsOf(value), key, isHash), group));
		// A digest may be the device's own number, and the list lie within.
		const groups = depth > 0 && pairs.every(([k, v]) => isFields(v) && !isHash(k) && !isPath(k));
		for (const [k, inner] of pairs) if (typeof inner === 'object') visit(inner, k, depth + 1, groups ? k : group);
	};
	visit(fields, '', 0, null);
	return found;
}

/** What can be a path where it is a key. */
const isPath = (key: string): boolean => key.includes('/') || /.\.\w{1,8}$/.test(key);

const withKey = (entry: Cells, key: string, isHash: (value: string) => boolean): Cells =>
	isHash(key) || isPath(key) ? entry.set(OWN_KEY, key) : entry;
const withGroup = (entry: Cells, group: string | null): Cells => (group === null ? entry : entry.set(GROUP_KEY, group));

/** The values of an entry, those of its own inner fields among them. */
function cellsOf(fields: Dict, within = ''): Cells {
	const entry: Cells = new Map();
	for (const [key, value] of Object.entries(fields)) {
		const name = within === '' ? key : `${within}.${key}`;
		if (typeof value === 'string' || typeof value === 'number' || value instanceof Date || value instanceof Uint8Array) {
			const cell = value instanceof Uint8Array ? cellOf(value) : value;
			if (cell !== null) entry.set(name, cell);
		} else if (within === '' && isFields(value)) for (const [inner, cell] of cellsOf(value, key)) entry.set(inner, cell);
	}
	return entry;
}

/** Several words; what ends as a file's name does, or has strokes, is no sentence. */
const isSaid = (text: string): boolean => /\S\s+\S+\s+\S/.test(text) && !/\/|\.\w{1,8}$/.test(text);

function sentencesIn(fields: Fields): number {
	let left = FIELDS_ASKED;
	const visit = (value: Fields, depth: number): number => {
		if (left-- <= 0 || depth > DEEPEST) return 0;
		if (typeof value === 'string') return isSaid(value) ? 1 : 0;
		const inner = Array.isArray(value) ? value : isFields(value) ? Object.values(value) : [];
		return inner.reduce<number>((sum, one) => sum + visit(one, depth + 1), 0);
	};
	return visit(fields, 0);
}
const FIELDS_ASKED = 200_000;

const HEAD = 4096;
/** A digest and a path, as the ordinary programs for checking digests write them. */
const CHECKED = /^\\?([0-9a-f]{32,128})\s+\*?(\S.*)$/i;
const MOSTLY = 0.9;

/** Lines of digests and paths, or of values between separators, with or without a first line of what they are called. */
function linesIn(source: ByteSource, isHash: (value: string) => boolean): Entry[] {
	const head = source.read(0, HEAD);
	if (source.size > LINES_AT_MOST || !isText(head, 0, head.length, 'utf8', 4)) return [];
	const text = new TextDecoder().decode(head);
	if (!text.split(/[\s,;|"]+/).some(isHash)) return [];
	const lines = new TextDecoder()
		.decode(source.read(0, source.size))
		.split(/\r?\n/)
		.filter((line) => line !== '');
	const checked = lines.flatMap((line) => CHECKED.exec(line) ?? []).length / 3;
	if (checked >= lines.length * MOSTLY)
		return lines.flatMap((line) => {
			const found = CHECKED.exec(line);
			return found
				? [
						new Map<string, Cell>([
							['hash', found[1]!],
							['path', found[2]!]
						])
					]
				: [];
		});
	const { data } = Papa.parse<string[]>(lines.join('\n'));
	const [first, ...rest] = data;
	if (!first || first.length < 2) return [];
	const isHeading = !first.some(isHash);
	const names = first.map((name, i) => (isHeading && name !== '' ? name : `${i}`));
	return (isHeading ? rest : data)
		.filter((values) => values.length === first.length && values.some(isHash))
		.map((values) => new Map(values.map((value, i): [string, Cell] => [names[i]!, /^\d{1,15}$/.test(value) ? Number(value) : value])));
}

/**
 * A sheet is what interpretation works on: the rows of one table, or of all tables of one shape, with the columns
 * they store and those found inside stored JSON. Lost rows are in it beside those in use.
 */
import type { Row, Table, Value } from '../model';
import type { Harvested } from '../harvest';
import { bodyText, readBody, type BodyReading } from './body';
import { readTimes, type TimeReading } from './time';

export interface SheetColumn {
	/** As shown: the declared name, or name and path inside JSON. */
	name: string;
	/** Declared table column, or −1 for the table's own name. */
	column: number;
	/** Path inside the stored JSON; empty for the value itself. */
	path: string[];
	/** How its values become text, where they are not plain. */
	body?: BodyReading;
	references?: string;
	profile: Profile;
}

export interface Profile {
	/** Values that are not null, absent or empty. */
	filled: number;
	nulls: number;
	ints: number;
	reals: number;
	texts: number;
	blobs: number;
	distinct: Map<string | number, number>;
	/** Whether there were more distinct values than are kept. */
	many: boolean;
	unique: boolean;
	low: number;
	high: number;
	averageLength: number;
	/** Shares (0–1) of the texts that look like … */
	phone: number;
	email: number;
	uuid: number;
	token: number;
	path: number;
	mime: number;
	prose: number;
	name: number;
	json: number;
	time: TimeReading | null;
}

export interface Sheet {
	index: number;
	/** Tables it holds, by index into the store's tables. */
	tables: number[];
	name: string;
	columns: SheetColumn[];
	rows: Row[];
	/** Those of them from which the columns are judged: the whole ones, unless they are too few. */
	sure: Row[];
	/** Whether the rows of several tables stand together, the table's name being a column. */
	family: boolean;
}

const DISTINCT_KEPT = 20_000;
const SAMPLE = 3000;
const SURE = 20;

/** Sheets of a store, those with rows only. Engine-owned tables are left out. */
export function sheetsOf(harvest: Harvested): Sheet[] {
	const groups = new Map<string, Table[]>();
	for (const table of harvest.tables) {
		if (table.index === 0 || /^sqlite_/i.test(table.name) || harvest.book.rowsOf(table.index).length === 0) continue;
		const key = JSON.stringify([table.withoutRowid, table.columns.map((c) => [c.name.toLowerCase(), c.type])]);
		const list = groups.get(key);
		if (list) list.push(table);
		else groups.set(key, [table]);
	}
	const sheets: Sheet[] = [];
	for (const tables of [...groups.values()].flatMap((g) => alike(g, harvest))) {
		const all = tables.flatMap((t) => harvest.book.rowsOf(t.index));
		const kinds = kindsOf(all, tables[0]!);
		for (const { rows, label } of kinds) sheets.push(sheetOf(sheets.length, tables, rows, label, harvest));
	}
	return sheets;
}

function sheetOf(index: number, tables: readonly Table[], rows: Row[], label: string, harvest: Harvested): Sheet {
	const whole = rows.filter((r) => r.grade === 'whole');
	const sure = whole.length >= Math.min(SURE, rows.length * 0.2) ? whole : rows;
	const family = tables.length > 1;
	const names = tables.map((t) => t.name).join(', ');
	const sheet: Sheet = {
		index,
		tables: tables.map((t) => t.index),
		name: (label ? `${names}: ${label}` : names).slice(0, 80),
		columns: [],
		rows,
		sure,
		family
	};
	const first = tables[0]!;
	const sample = sampleOf(sure);
	first.columns.forEach((c, i) => {
		const column: SheetColumn = { name: c.name, column: i, path: [], profile: profileOf(sure, (r) => r.values[i], sample) };
		if (c.references) column.references = c.references;
		sheet.columns.push(column);
		if (column.profile.json > 0.8) expandJson(sheet, column, sample);
		else openBody(sheet, column, sample);
	});
	if (family || /\d{4,}|[0-9a-f]{24,}|@/i.test(first.name)) {
		sheet.columns.push({ name: '(table)', column: -1, path: [], profile: profileOf(sure, (r) => harvest.tables[r.table]!.name, sample) });
	}
	return sheet;
}

/** So many rows make a kind of their own; fewer go with the largest. */
const KIND_ROWS = 2;
const KINDS_AT_MOST = 12;
/** Share of fields that two rows of one kind have in common. */
const FIELDS_ALIKE = 0.5;

/** Rows of one table by the fields of their stored JSON: a table of keys and values can hold persons beside messages. */
function kindsOf(rows: Row[], table: Table): { rows: Row[]; label: string }[] {
	const one = [{ rows, label: '' }];
	const sample = sampleOf(rows).slice(0, 400);
	const looks = (row: Row, c: number): boolean => typeof row.values[c] === 'string' && /^\s*\{.*\}\s*$/s.test(row.values[c]);
	const column = table.columns.findIndex((_, c) => sample.filter((r) => looks(r, c)).length > sample.length * 0.8);
	if (column < 0 || rows.length < 2 * KIND_ROWS) return one;
	const kinds: { fields: Set<string>; rows: Row[] }[] = [];
	const loose: Row[] = [];
	for (const row of rows) {
		const value = jsonOf(row, column);
		if (value === null || typeof value !== 'object') {
			loose.push(row);
			continue;
		}
		const fields = Object.keys(value);
		const kind = kinds.find((k) => fields.filter((f) => k.fields.has(f)).length >= Math.max(k.fields.size, fields.length) * FIELDS_ALIKE);
		if (kind) kind.rows.push(row);
		else if (kinds.length < KINDS_AT_MOST) kinds.push({ fields: new Set(fields), rows: [row] });
		else loose.push(row);
	}
	const large = kinds.filter((k) => k.rows.length >= KIND_ROWS).sort((a, b) => b.rows.length - a.rows.length);
	if (large.length < 2) return one;
	large[0]!.rows.push(...loose, ...kinds.filter((k) => !large.includes(k)).flatMap((k) => k.rows));
	return large.map((k) => ({ rows: k.rows, label: [...k.fields].slice(0, 4).join(', ') }));
}

/** Rows from which a table's likeness can be told. */
const TELLING_ROWS = 4;
const EMPTY = '-';

/**
 * Tables declared alike need not hold alike: a table of persons and one of rooms can both be (text, text). Those
 * whose columns hold the same sorts of values stay together; one with hardly a row goes with the largest.
 */
function alike(tables: Table[], harvest: Harvested): Table[][] {
	if (tables.length === 1) return [tables];
	const groups: { sorts: string[]; tables: Table[] }[] = [];
	const few: Table[] = [];
	for (const table of tables) {
		const rows = harvest.book.rowsOf(table.index).slice(0, 200);
		if (rows.length < TELLING_ROWS) {
			few.push(table);
			continue;
		}
		const sorts = table.columns.map((_, i) => sortOf(rows.map((r) => r.values[i])));
		// A column that is empty here says nothing against one that is not.
		const group = groups.find((g) => g.sorts.every((sort, i) => sort === sorts[i] || sort === EMPTY || sorts[i] === EMPTY));
		if (!group) groups.push({ sorts, tables: [table] });
		else {
			group.tables.push(table);
			group.sorts = group.sorts.map((sort, i) => (sort === EMPTY ? sorts[i]! : sort));
		}
	}
	const sorted = groups.map((g) => g.tables).sort((a, b) => b.length - a.length);
	// Tables of numbers alone join others; two of them have nothing in common but that.
	const written = (t: Table): boolean =>
		harvest.book
			.rowsOf(t.index)
			.slice(0, 200)
			.some((r) => r.values.some((v) => typeof v === 'string' || (typeof v === 'object' && v !== null)));
	if (!tables.some(written)) return tables.map((t) => [t]);
	if (sorted.length === 0) return [few];
	sorted[0]!.push(...few);
	return sorted.map((g) => g.sort((a, b) => a.index - b.index));
}

/** What sort of values these mostly are. */
function sortOf(values: readonly (Value | undefined)[]): string {
	const filled = values.filter((v) => v !== null && v !== undefined && v !== '');
	if (filled.length === 0) return EMPTY;
	const texts = filled.filter((v): v is string => typeof v === 'string');
	if (texts.length < filled.length * 0.5) return typeof filled[0] === 'object' ? 'blob' : 'number';
	const most = (test: RegExp): boolean => texts.filter((t) => test.test(t)).length > texts.length * 0.6;
	return most(UUID) ? 'id' : most(EMAIL) ? 'address' : most(PHONE) ? 'number as text' : 'text';
}

function sampleOf(rows: Row[]): Row[] {
	if (rows.length <= SAMPLE) return rows;
	const step = rows.length / SAMPLE;
	return Array.from({ length: SAMPLE }, (_, i) => rows[Math.floor(i * step)]!);
}

const parsed = new WeakMap<Row, Map<number, unknown>>();

/** The stored JSON of a row's column, parsed once; undefined where it is none. */
function jsonOf(row: Row, column: number): unknown {
	let cache = parsed.get(row);
	if (!cache) parsed.set(row, (cache = new Map()));
	if (cache.has(column)) return cache.get(column);
	const value = row.values[column];
	let result: unknown;
	const text = typeof value === 'string' ? value : value && typeof value === 'object' ? new TextDecoder().decode(value) : '';
	if (/^\s*[[{]/.test(text) && text.length < 4_000_000) {
		try {
			result = JSON.parse(text);
		} catch {
			result = undefined;
		}
	}
	cache.set(column, result);
	return result;
}

function at(value: unknown, path: string[]): unknown {
	let here = value;
	for (const step of path) {
		if (here === null || typeof here !== 'object') return undefined;
		here = (here as Record<string, unknown>)[step];
	}
	return here;
}

const plain = (value: unknown): Value | undefined =>
	value === null || typeof value === 'string' || typeof value === 'number'
		? value
		: typeof value === 'boolean'
			? Number(value)
			: value === undefined
				? undefined
				: JSON.stringify(value);

/** The value of a sheet's column in a row. */
export function cell(row: Row, column: SheetColumn, tables: readonly Table[]): Value | undefined {
	if (column.column < 0) return tables[row.table]!.name;
	if (column.body) return bodyOf(row, column);
	if (column.path.length === 0) return row.values[column.column];
	return plain(at(jsonOf(row, column.column), column.path));
}

const bodies = new WeakMap<Row, Map<number, string | null>>();

/** The text of a row's body, read once. */
function bodyOf(row: Row, column: SheetColumn): string | null | undefined {
	const value = row.values[column.column];
	if (value === undefined) return undefined;
	let cache = bodies.get(row);
	if (!cache) bodies.set(row, (cache = new Map()));
	let text = cache.get(column.column);
	if (text === undefined) cache.set(column.column, (text = bodyText(value, column.body!)));
	return text;
}

/** A column whose values hold texts in another form gets a second one that reads them. */
function openBody(sheet: Sheet, column: SheetColumn, sample: Row[]): void {
	const p = column.profile;
	if (p.time || p.filled === 0 || (p.texts > 0 && p.averageLength < 4)) return;
	if (p.uuid > 0.5 || p.phone > 0.3 || p.email > 0.3) return;
	const body = readBody(sample.map((r) => r.values[column.column]));
	if (!body) return;
	const opened: SheetColumn = { name: column.name, column: column.column, path: [], body, profile: p };
	opened.profile = profileOf(sheet.sure, (r) => bodyOf(r, opened) ?? null, sample);
	sheet.columns.push(opened);
	// What is read by the second column is no text of its own any more.
	if (body.kind === 'markup' || body.kind === 'base64') column.profile = { ...p, prose: 0, name: 0, texts: 0 };
}

function expandJson(sheet: Sheet, column: SheetColumn, sample: Row[]): void {
	const paths = new Map<string, string[]>();
	const collect = (value: unknown, path: string[]): void => {
		// A list is one value (the members of a room, say), not columns.
		if (value === null || typeof value !== 'object' || Array.isArray(value) || path.length > 4 || paths.size > 60) return;
		for (const [key, inner] of Object.entries(value).slice(0, 40)) {
			const own = [...path, key];
			if (inner !== null && typeof inner === 'object') collect(inner, own);
			else paths.set(own.join('\u0000'), own);
		}
	};
	for (const row of sample.slice(0, 400)) collect(jsonOf(row, column.column), []);
	for (const path of paths.values()) {
		sheet.columns.push({
			name: `${column.name}.${path.join('.')}`,
			column: column.column,
			path,
			profile: profileOf(sheet.sure, (r) => plain(at(jsonOf(r, column.column), path)), sample)
		});
	}
}

export const PHONE = /^\+?[\d][\d\s().\-/]{4,22}\d$/;
const EMAIL = /^[^\s@<>]+@[^\s@<>]+\.[^\s@<>]{2,}$/;
const UUID = /^\{?[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}\}?$|^[0-9a-f]{16,64}$/i;
const PATH = /^(?:[a-z]+:\/\/|[\w .~-]*\/[\w .~/-]+$)|^[^\s/]+\.[a-z0-9]{2,5}$/i;
/** RFC 6838 with the top-level types that are registered. */
const MIME = /^(application|audio|font|haptics|image|message|model|multipart|text|video)\/[a-z0-9][a-z0-9!#$&^_.+-]*$/i;

/**
 * What a column's values are like. Forms are judged on a sample; values are counted over all rows, except those of
 * long texts, which are no keys.
 */
export function profileOf(rows: readonly Row[], get: (row: Row) => Value | undefined, sample: readonly Row[]): Profile {
	const p = emptyProfile();
	const values = sample.map(get);
	judgeForms(p, values);
	const counted = p.averageLength > 48 || p.prose > 0.5 ? sample : rows;
	for (const row of counted) count(p, get(row), row);
	if (counted !== rows) {
		const scale = rows.length / Math.max(1, sample.length);
		for (const key of ['filled', 'nulls', 'ints', 'reals', 'texts', 'blobs'] as const) p[key] = Math.round(p[key] * scale);
		p.many = p.distinct.size > sample.length * 0.9;
	}
	if (p.filled > 0) p.time = readTimes(values);
	return p;
}

const emptyProfile = (): Profile => ({
	filled: 0,
	nulls: 0,
	ints: 0,
	reals: 0,
	texts: 0,
	blobs: 0,
	distinct: new Map(),
	many: false,
	unique: true,
	low: Infinity,
	high: -Infinity,
	averageLength: 0,
	phone: 0,
	email: 0,
	uuid: 0,
	token: 0,
	path: 0,
	mime: 0,
	prose: 0,
	name: 0,
	json: 0,
	time: null
});

function count(p: Profile, value: Value | undefined, row: Row): void {
	if (value === null || value === undefined) {
		p.nulls++;
		return;
	}
	p.filled++;
	if (typeof value === 'object') {
		p.blobs++;
		return;
	}
	if (typeof value === 'string') p.texts++;
	else {
		const n = Number(value);
		if (Number.isInteger(n)) p.ints++;
		else p.reals++;
		if (n < p.low) p.low = n;
		if (n > p.high) p.high = n;
	}
	if (p.many && !p.unique) return;
	const key = typeof value === 'bigint' ? String(value) : typeof value === 'string' && value.length > 80 ? value.slice(0, 80) : value;
	const seen = p.distinct.get(key);
	if (seen !== undefined) {
		p.distinct.set(key, seen + 1);
		if (row.standing === 'kept') p.unique = false;
	} else if (p.distinct.size < DISTINCT_KEPT) p.distinct.set(key, 1);
	else p.many = true;
}

function judgeForms(p: Profile, values: readonly (Value | undefined)[]): void {
	const texts = values.filter((v): v is string => typeof v === 'string' && v.length > 0);
	if (texts.length === 0) {
		const blobs = values.filter((v): v is Uint8Array => v !== null && typeof v === 'object');
		if (blobs.length > 0) p.json = blobs.filter((b) => b[0] === 0x7b && b.at(-1) === 0x7d).length / blobs.length;
		return;
	}
	const share = (test: (t: string) => boolean): number => texts.filter(test).length / texts.length;
	p.averageLength = texts.reduce((sum, t) => sum + t.length, 0) / texts.length;
	p.phone = share((t) => PHONE.test(t));
	p.email = share((t) => EMAIL.test(t));
	p.uuid = share((t) => UUID.test(t));
	p.path = share((t) => PATH.test(t) && !MIME.test(t) && !/\s\S+\s/.test(t));
	p.mime = share((t) => MIME.test(t));
	p.json = share((t) => /^\s*[[{].*[\]}]\s*$/s.test(t));
	p.token = share((t) => /^[\w.:@+\-=/]+$/.test(t) && t.length < 80);
	p.prose = share(isProse);
	p.name = share((t) => t.length <= 40 && /^\p{L}/u.test(t) && t.split(/\s+/).length <= 4 && !/[.!?…,:;]\s|[!?…]$/u.test(t));
}

/** Writing meant to be read: words with spaces, or a script that has none. */
function isProse(text: string): boolean {
	if (/[\u3040-\u30ff\u3400-\u9fff\u0e00-\u0e7f]/.test(text)) return true;
	if (/\p{Extended_Pictographic}/u.test(text)) return true;
	return /\p{L}{2,}[,.!?…:;'’]?\s+\S*[\p{L}\p{N}]/u.test(text) && !/^\s*[[{<]/.test(text);
}

/** Which columns are keys into which sheets: found from the values, the schema's own words being one more hint. */
import { put } from '../lists';
import type { Table, Value } from '../model';
import type { Profile } from './profile';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

export interface Key {
	sheet: Sheet;
	/** Column whose values are the keys, or null for the rowid. */
	column: SheetColumn | null;
	values: Set<string | number>;
}

export interface Reference {
	from: SheetColumn;
	key: Key;
	/** 0–1: how sure. */
	confidence: number;
	/** Share of the column's distinct values that are keys there, and of the keys that are used. */
	inclusion: number;
	coverage: number;
}

const KEYS_KEPT = 60_000;

export const keyOf = (value: Value | undefined): string | number | null =>
	value === null || value === undefined || value === ''
		? null
		: typeof value === 'bigint'
			? String(value)
			: typeof value === 'object'
				? hex(value)
				: value;

/** The texts of a list (JSON). */
export function textsIn(value: Value | undefined): string[] {
	if (typeof value !== 'string' || !value.startsWith('[')) return [];
	try {
		const list: unknown = JSON.parse(value);
		return Array.isArray(list) ? list.filter((one): one is string => typeof one === 'string') : [];
	} catch {
		return [];
	}
}

/** Keys in a list of them, written one after the other. */
export const keysIn = (value: Value | undefined): string[] =>
	typeof value === 'string'
		? value
				.replace(/^[[{(]|[\])}]$/g, '')
				.split(/[\s,;|]+/)
				.map((part) => part.replace(/^"|"$/g, ''))
				.filter((part) => part !== '')
		: typeof value === 'number'
			? [String(value)]
			: [];

function hex(bytes: Uint8Array): string {
	let out = 'x';
	for (let i = 0; i < Math.min(bytes.length, 64); i++) out += bytes[i]!.toString(16).padStart(2, '0');
	return out;
}

/** Everything a sheet's rows can be named by: the rowid and each unique column. */
export function keysOf(sheet: Sheet, tables: readonly Table[]): Key[] {
	const keys: Key[] = [];
	const rowids = new Set<string | number>();
	if (!sheet.family || isNumberedThrough(sheet))
		for (const row of sheet.rows)
			if (row.rowid !== null && rowids.size < KEYS_KEPT) rowids.add(typeof row.rowid === 'bigint' ? String(row.rowid) : row.rowid);
	const { rowidColumn, primaryKey } = tables[sheet.tables[0]!]!;
	// Large numbers can look like times: what is declared the key is one.
	const isDeclared = (c: SheetColumn): boolean => c.path.length === 0 && !c.made && primaryKey.length === 1 && primaryKey[0] === c.column;
	if (rowids.size > 0) keys.push({ sheet, column: null, values: rowids });
	for (const column of sheet.columns) {
		if (column.column === rowidColumn && column.path.length === 0) continue;
		const p = column.profile;
		if (!p.unique || p.filled < 1 || p.reals > 0 || p.averageLength > 120 || p.json > 0.5 || (p.time && !isDeclared(column))) continue;
		if (p.filled < sheet.sure.length * 0.5) continue;
		const values = new Set<string | number>();
		let again = 0;
		for (const row of sheet.rows) {
			const key = keyOf(cell(row, column, tables));
			if (key === null || values.size >= KEYS_KEPT) continue;
			if (values.has(key) && row.standing === 'kept') again++;
			values.add(key);
		}
		// Bytes are not counted with the other values: whether each is a row's own shows here.
		if (p.blobs > 0 && again > values.size * AGAIN) continue;
		keys.push({ sheet, column, values });
	}
	return keys;
}

/** Share of a column's bytes that can come again in rows in use, and be their keys: what is left of lost rows can stand there. */
const AGAIN = 0.05;

/** Whether the tables of one shape share one run of numbers: no number is in use in two of them. */
function isNumberedThrough({ rows }: Sheet): boolean {
	const tableOf = new Map<number | bigint, number>();
	for (const { rowid, table, standing } of rows) {
		if (rowid === null || standing !== 'kept') continue;
		if ((tableOf.get(rowid) ?? table) !== table) return false;
		tableOf.set(rowid, table);
	}
	return tableOf.size >= NUMBERED_LEAST;
}
const NUMBERED_LEAST = 10;

/** What is often written short in names, whole; and the one of whom a word says many. */
const WHOLE: readonly [RegExp, string][] = [
	[/msg/g, 'message'],
	[/grp/g, 'group'],
	[/usr/g, 'user'],
	[/people/g, 'person']
];
const inWhole = (name: string): string => WHOLE.reduce((whole, [short, long]) => whole.replace(short, long), name);

const stem = (name: string): string =>
	inWhole(name.toLowerCase())
		.replace(/[^a-z0-9]/g, '')
		.replace(/(ids?|keys?|refs?|fk|rowid|guid|uuid)$/, '');

function nameHint(column: SheetColumn, sheet: Sheet): number {
	const a = stem(column.name.split('.').at(-1)!);
	const b = stem(sheet.name);
	if (a.length < 3 || b.length < 3) return a === b && a.length === 2 ? 0.25 : 0;
	const singular = b.replace(/(ies|es|s)$/, '');
	const isWithin = a === b || a === singular || a.includes(singular) || (b.includes(a) && !ANY_TABLES.test(a));
	return isWithin || isCalledAfterSign(a, b) ? 0.25 : 0;
}

/** Whether both begin with the sign that all names of a store have, the tables' with more before it than the columns'. */
const isCalledAfterSign = (column: string, table: string): boolean =>
	column.length > SIGNED && column[0] === table[0] && table.endsWith(column.slice(1));
const SIGNED = 6;
/** What columns of any table are called, and parts of what many tables are. */
const ANY_TABLES = /^(type|kind|state|status|flags?|code|mode|class|level|date|time|name|text|data|value|read|sent)$/;

/** Whether a column is called as the key of what a sheet lists, and nothing else: where all rows name the first of them, that says so. */
function isCalledKeyOf({ name }: SheetColumn, sheet: Sheet): boolean {
	const [own, listed] = [stem(name.split('.').at(-1)!), stem(sheet.name)];
	return /[a-z](?:_?id|ID|Id)$/.test(name) && own.length > 2 && [listed, listed.replace(/(ies|es|s)$/, '')].includes(own);
}

/** Whether a column is called for what a sheet lists. */
export const isNamedAlike = (column: SheetColumn, sheet: Sheet): boolean => nameHint(column, sheet) > 0;

/** The numbers without a sign, where they are all keys and none with one is, whatever the sign: those are of another list. */
function positiveAlone(values: readonly (string | number)[], key: Key): number[] | null {
	const numbers = values.filter((v) => typeof v === 'number');
	const [negative, positive] = [numbers.filter((n) => n < 0), numbers.filter((n) => n > 0)];
	const areOthers = negative.every((n) => !isKey(key, n) && !isKey(key, -n));
	const areMany = positive.length >= FEW_KEYS && positive.length >= key.values.size * USED;
	return areOthers && areMany && positive.every((n) => isKey(key, n)) ? positive : null;
}

/** Share of a list's keys that must be named. */
const USED = 0.5;

/** Share of the rows (not only of the distinct values) whose value is a key there; null where values were not counted. */
function weightedInclusion(values: readonly (string | number)[], p: Profile, key: Key, signed: boolean): number | null {
	let inside = 0;
	let all = 0;
	for (const value of values) {
		const count = (p.distinct.get(value) ?? 0) + (signed && typeof value === 'number' ? (p.distinct.get(-value) ?? 0) : 0);
		all += count;
		if (isKey(key, value)) inside += count;
	}
	return all === 0 ? null : inside / all;
}

/** Whether all values are keys but one: the owner is often not among the persons. A number must be that of many rows. */
function butForOne(values: readonly (string | number)[], inside: number, p: Profile, key: Key): boolean {
	if (inside < 3 || inside !== values.length - 1) return false;
	if (p.texts >= p.filled) return p.averageLength < 60;
	const other = values.find((v) => !isKey(key, v))!;
	return inside >= key.values.size * 0.8 && (p.distinct.get(other) ?? 0) > p.filled * OWNERS;
}
const OWNERS = 0.3;
const BUT_FOR_ONE = 0.9;

/** Small numbers in (nearly) all rows: a lost row misread must not hide it. */
function isEnumeration(p: Profile): boolean {
	if (p.texts > 0 || p.many || p.blobs > 0) return false;
	let small = 0;
	let all = 0;
	for (const [value, count] of p.distinct) {
		all += count;
		if (typeof value === 'number' && value >= -1 && value <= 4) small += count;
	}
	return small >= all * 0.97;
}

/** Whether a value is one of the keys, or the same number written otherwise: as text, or not. */
function isKey(key: Key, d: string | number): boolean {
	if (key.values.has(d)) return true;
	if (typeof d === 'number') return hasOf(key, 'string') && key.values.has(String(d));
	return hasOf(key, 'number') && /^\d{1,15}$/.test(d) && key.values.has(Number(d));
}

const typesOfKeys = new WeakMap<Key, Set<string>>();

/** Whether any of the keys are such: asked of every key and every column of a store. */
function hasOf(key: Key, type: 'string' | 'number'): boolean {
	let types = typesOfKeys.get(key);
	if (!types) typesOfKeys.set(key, (types = new Set([...key.values].map((value) => typeof value))));
	return types.has(type);
}

/** Share of the rows whose key must be known; of those whose key is declared or named as one. */
const KEYS_KNOWN = 0.7;
const LEFT_BEHIND = 0.3;
const FEW = 5;

/** At which place of a key's list stands the row that each of its values names; of so many rows at most. */
export const placesBy = ({ sheet, column }: Key, most: number, tables: readonly Table[]): Map<string | number | null, number> =>
	new Map(sheet.sure.slice(0, most).map((row, i) => [column ? keyOf(cell(row, column, tables)) : keyOf(row.rowid), i]));

/** Whether all values that a column has in rows in use are keys, and those are several, among rows that are lost. */
function allInUse(column: SheetColumn, sheet: Sheet, key: Key, tables: readonly Table[]): boolean {
	if (column.profile.texts > 0 || column.profile.blobs > 0) return false;
	let values = usedIn.get(column);
	if (!values) {
		const kept = sheet.rows.filter((row) => row.standing === 'kept').slice(0, ROWS_IN_USE);
		values = new Set(kept.map((row) => keyOf(cell(row, column, tables))).filter((v): v is string | number => v !== null && v !== 0));
		usedIn.set(column, values);
	}
	return values.size >= FEW && [...values].every((v) => isKey(key, v));
}
const usedIn = new WeakMap<SheetColumn, Set<string | number>>();
const ROWS_IN_USE = 4000;
const IN_USE = 0.9;

/** Share of a column's numbers that can be fractions read out of lost bytes: two numbers in a row are easily found there. */
const MISREAD = 0.1;

/** The references of a sheet's columns, the surest for each column first. */
export function referencesOf(sheet: Sheet, keys: readonly Key[], tables: readonly Table[]): Reference[] {
	const found: Reference[] = [];
	const called = keysByName(keys, tables);
	for (const column of sheet.columns) {
		const p = column.profile;
		if (
			p.filled === 0 ||
			(p.time && !isCounted(p)) ||
			p.reals > p.filled * MISREAD ||
			(p.averageLength > 120 && p.texts > 0) ||
			p.prose > 0.5
		)
			continue;
		const own = new Set<string | number>();
		if (p.blobs > 0)
			for (const row of sheet.rows) {
				const k = keyOf(cell(row, column, tables));
				if (k !== null && own.size < 5000) own.add(k);
			}
		const distinct = p.blobs > 0 ? [...own] : [...p.distinct.keys()].slice(0, 5000);
		for (const key of keys) {
			if (key.sheet === sheet && (key.column === column || key.column === null)) continue;
			if (key.sheet === sheet) continue;
			const declared =
				column.references !== undefined && key.sheet.tables.some((t) => tables[t]!.name.toLowerCase() === column.references!.toLowerCase());
			if (!declared && key.column === null && isNumberedHere(key.sheet, tables)) continue;
			// Nought and one alone are a flag, whatever key one is.
			const isFlag = p.ints > 0 && p.texts === 0 && p.low >= 0 && p.high <= 1;
			const isOther =
				key.values.size > 2
					? !(p.low === 1 && isCalledKeyOf(column, key.sheet))
					: p.low === 0 && p.high === 1 && nameHint(column, key.sheet) === 0;
			if (!declared && isFlag && isOther) continue;
			// Keys can stand with a sign that tells the direction.
			const signed = p.ints > 0 && p.low < 0 && p.high > 0;
			const relevant =
				(signed ? positiveAlone(distinct, key) : null) ??
				distinct
					.filter((d) => d !== 0 && (d !== -1 || signed))
					.map((d) => (signed && typeof d === 'number' && !isKey(key, d) ? Math.abs(d) : d));
			if (relevant.length === 0) continue;
			let inside = 0;
			for (const d of relevant) if (isKey(key, d)) inside++;
			const known = butForOne(relevant, inside, p, key)
				? BUT_FOR_ONE
				: (weightedInclusion(relevant, p, key, signed) ?? inside / relevant.length);
			// Rows are lost with what they name: those in use say it, where they are enough.
			const inclusion = known < IN_USE && known > LEFT_BEHIND && allInUse(column, sheet, key, tables) ? IN_USE : known;
			const coverage = inside / key.values.size;
			if (p.time && (inclusion < KEYS_NOT_TIMES || relevant.length < FEW_KEYS)) continue;
			const named = nameHint(column, key.sheet);
			// What belonged to rows that are gone is often left behind.
			if (inclusion < (declared || (named > 0 && relevant.length >= FEW) ? LEFT_BEHIND : KEYS_KNOWN)) continue;
			let confidence = inclusion * 0.4;
			if (declared) confidence += 0.5;
			confidence += named;
			if (typeof relevant[0] === 'string' && (p.averageLength > 4 || relevant.every(isNumberedWord))) confidence += 0.35;
			else
				confidence +=
					Math.min(0.3, coverage * 0.3) +
					(relevant.length >= 5 ? 0.1 : 0) -
					(relevant.length <= 3 && key.values.size > 6 && named === 0 ? 0.25 : 0);
			// One, two, three … are as well the kinds of anything.
			// Of a table that holds everything each number is that of one row, whatever it is.
			const isOfAll = key.column === null && key.sheet.tables[0] === sheet.tables[0];
			if (isEnumeration(p) && !declared && named === 0 && !isOfAll) confidence -= inclusion < 0.95 ? 0.3 : 0.2;
			if (named === 0 && isCalledAsKey(column, key, called)) confidence += CALLED_AS_KEY;
			// A number that the table itself gives no column for is seldom what others name its rows by.
			if (key.column === null && !declared && key.sheet.tables.every((t) => tables[t]!.rowidColumn < 0 && tables[t]!.primaryKey.length > 0))
				confidence -= 0.35;
			// Nor one that the table gives no name to.
			else if (isNameless(key, tables) && !declared && named === 0) confidence -= NAMELESS;
			found.push({ from: column, key, confidence: Math.min(1, confidence), inclusion, coverage });
		}
	}
	// Numbers that are all keys of one sheet, and come again and again, are no times, though they could be read as such.
	for (const { from } of found) if (from.profile.time && comesAgain(from.profile)) from.profile = { ...from.profile, time: null };
	// A list of one is not what several values name, where another has them all.
	const isOfOne = ({ from, key, inclusion, confidence }: Reference): boolean =>
		key.values.size === 1 &&
		inclusion < 1 &&
		found.some((r) => r.from === from && r.key !== key && r.inclusion === 1 && r.confidence > confidence - OF_ONE);
	return found.filter((r) => !isOfOne(r)).sort((a, b) => b.confidence - a.confidence);
}
/** What it says that a column's name ends as that of a list's key does, where no other list has a key called so. */
const CALLED_AS_KEY = 0.15;
const ANY_KEY = /^(?:_?id|key|no|nr|num(?:ber)?|pk|oid|n)$/i;

/** Lists with more than one row by what their number is called, where that is said of it. */
function keysByName(keys: readonly Key[], tables: readonly Table[]): Map<string, Key[]> {
	const called = new Map<string, Key[]>();
	for (const key of keys) {
		const table = tables[key.sheet.tables[0]!]!;
		const name = (key.column?.name ?? table.columns[table.rowidColumn]?.name ?? '').toLowerCase();
		if (name !== '' && !ANY_KEY.test(name) && key.values.size > 1) put(called, name, key);
	}
	return called;
}

/** `from_uid` beside a list of users whose number is called `uid`. */
function isCalledAsKey({ name, profile }: SheetColumn, key: Key, called: ReadonlyMap<string, readonly Key[]>): boolean {
	const last = /[a-z\d]+$/.exec(name.toLowerCase())?.[0] ?? '';
	const of = called.get(last);
	return profile.ints > 0 && of?.length === 1 && of[0] === key;
}

/** How much less sure another list may be than one that has a single row. */
const OF_ONE = 0.3;

/** Whether the numbers of a sheet's rows were given here, as entries of an export have none: only where one stands in another they are meant. */
const isNumberedHere = ({ rows, tables: of }: Sheet, tables: readonly Table[]): boolean =>
	rows[0]?.sightings[0]?.method === 'exported' && of.every((t) => tables[t]!.rowidColumn < 0);

/** Whether a value is made as a key is, of letters and digits. */
const isNumberedWord = (value: string | number): boolean => typeof value === 'string' && /^(?=.*\p{L})(?=.*\d)\S+$/u.test(value);

/** Share of a column's rows, read as times, that must be keys for it to be one of keys, and the fewest that differ. */
const KEYS_NOT_TIMES = 0.98;
const FEW_KEYS = 3;
const isCounted = (p: Profile): boolean => !p.many && p.ints > 0;
const comesAgain = (p: Profile): boolean => isCounted(p) && p.distinct.size <= p.filled * 0.5;

/** Whether the schema says whose rows a column names. */
export const isDeclared = ({ from, key }: Pick<Reference, 'from' | 'key'>, tables: readonly Table[]): boolean =>
	from.references !== undefined && key.sheet.tables.some((t) => tables[t]!.name.toLowerCase() === from.references!.toLowerCase());

/** Whether a sheet's own numbers have no column: nothing that the program wrote can well refer to them. */
export const isNameless = (key: Key, tables: readonly Table[]): boolean =>
	key.column === null && key.sheet.tables.every((t) => tables[t]!.rowidColumn < 0);
const NAMELESS = 0.2;

/** Rows of any two tables are numbered alike: their own numbers name those of the other only where something says so. */
export const isMeant = ({ from, key }: Reference, sheet: Sheet, tables: readonly Table[]): boolean =>
	!isOwnNumber(from, sheet, tables) || from.references !== undefined || isNamedAlike(from, key.sheet) || isNamedAsKey(from, key, tables);

/** Whether both tables' own numbers have one name, and most tables' another. */
function isNamedAsKey({ name }: SheetColumn, key: Key, tables: readonly Table[]): boolean {
	const names = tables.flatMap(({ rowidColumn, columns }) => (rowidColumn < 0 ? [] : [columns[rowidColumn]!.name.toLowerCase()]));
	const { rowidColumn, columns } = tables[key.sheet.tables[0]!]!;
	if (key.column !== null || rowidColumn < 0 || columns[rowidColumn]!.name.toLowerCase() !== name.toLowerCase()) return false;
	return names.filter((one) => one === name.toLowerCase()).length <= names.length / 2;
}

const SURE = 0.7;
const LIKELY = 0.5;

/** A column that is called as another sheet's is, which surely is a key, is a key to the same: few of its rows need to say so. */
export function raiseNamesakes(references: ReadonlyMap<Sheet, Reference[]>, tables: readonly Table[]): void {
	// Nearly every table's own number is called alike.
	const named = [...references].flatMap(([sheet, list]) => list.filter((r) => r.from.column !== tables[sheet.tables[0]!]!.rowidColumn));
	const sure = named.filter((r) => r.confidence >= SURE);
	for (const one of named)
		if (one.confidence < LIKELY && one.inclusion === 1 && sure.some((s) => s.key === one.key && s.from.name === one.from.name))
			one.confidence = LIKELY;
	for (const list of references.values()) list.sort((a, b) => b.confidence - a.confidence);
}

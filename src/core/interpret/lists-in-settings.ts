/**
 * Lists that a program keeps as single values among its settings: all persons under `contacts`, all conversations under
 * `chats`. What another table names by its keys becomes a table of its own, an entry a row.
 */
import { addSighting, betterGrade, betterStanding, plainRow, plainTable, withBook, withTables, type Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';
import { haveAlike } from './kinds-of-documents';
import { keyOf } from './refs';
import { at, jsonOf, plain } from './stored';

/** A table of settings has few rows, and few columns. */
const SETTINGS_AT_MOST = 500;
const COLUMNS_AT_MOST = 6;
/** Rows of it, those of earlier states included. */
const STATES_AT_MOST = 10_000;
const LONGEST_NAME = 80;
const LEAST = 2;
const FIELDS_AT_MOST = 40;
const ALIKE = 0.8;
/** Rows of another table that must name entries, and share of its values that must. */
const NAMING_LEAST = 6;
const NAMING = 0.9;
const ROWS = 1000;
const LISTS_AT_MOST = 30;

type Entry = Record<string, unknown>;

interface SettingsList {
	table: Table;
	/** Rows that have the list, or had it, by its name among the settings. */
	rows: Row[];
	name: string;
	value: number;
	path: string[];
	fields: string[];
	/** The field that tells the entries apart, and is named elsewhere. */
	key: string;
}

/** The store with a table for each such list; the store itself where it keeps none so. */
export function openListsInSettings(harvest: Harvested): Harvested {
	const found = harvest.tables.flatMap((table) => listsIn(table, harvest)).slice(0, LISTS_AT_MOST);
	if (found.length === 0) return harvest;
	const first = harvest.tables.length;
	const tables = found.map((list, i): Table => ({
		...plainTable(first + i, [list.table.name, list.name, ...list.path].join('.'), list.fields),
		primaryKey: [list.fields.indexOf(list.key)],
		withoutRowid: true
	}));
	const ofSettings = new Set(found.map(({ table }) => table));
	const own = harvest.tables.map((table) => (ofSettings.has(table) ? { ...table, settings: true as const } : table));
	return withTables(
		withBook(harvest, own, harvest.book),
		tables,
		found.map((list, i) => rowsOf(list, first + i))
	);
}

function listsIn(table: Table, harvest: Harvested): SettingsList[] {
	if (table.index === 0 || /^sqlite_/i.test(table.name) || table.columns.length > COLUMNS_AT_MOST) return [];
	const rows = harvest.book.rowsOf(table.index);
	if (rows.length > STATES_AT_MOST) return [];
	const kept = rows.filter((row) => row.standing === 'kept');
	if (kept.length === 0 || kept.length > SETTINGS_AT_MOST) return [];
	const columns = [...table.columns.keys()];
	const name = columns.find((c) => isName(kept, c));
	if (name === undefined) return [];
	const value = columns.find((c) => c !== name && kept.some((row) => looksListed(row.values[c])));
	if (value === undefined) return [];
	const documents = kept.map((row) => jsonOf(row.values[value]));
	return kept.flatMap((row, i) => {
		const called = row.values[name] as string;
		const document = documents[i];
		if (isOneOfMany(document, documents)) return [];
		return listPaths(document).flatMap((path): SettingsList[] => {
			const list = entriesAt(document, path);
			const fields = [...new Set(list.flatMap((one) => Object.keys(one)))].slice(0, FIELDS_AT_MOST);
			if (list.length < LEAST || !list.every((one) => haveAlike(Object.keys(one), new Set(fields)))) return [];
			const key = fields.find((field) => isNamedElsewhere(list, field, table, harvest));
			const own = rows.filter((one) => one.values[name] === called);
			return key === undefined ? [] : [{ table, rows: own, name: called, value, path, fields, key }];
		});
	});
}

/** Whether many documents are made alike: each is a thing among others, or a page of them, and no setting, whatever it lists. */
function isOneOfMany(document: unknown, all: readonly unknown[]): boolean {
	const fields = new Set(fieldsOf(document));
	return fields.size > 0 && all.filter((one) => haveAlike(fieldsOf(one), fields)).length >= MANY;
}

/** The fields of a document, or of what it is a list of. */
function fieldsOf(document: unknown): string[] {
	const one: unknown = Array.isArray(document) ? document[0] : document;
	return isEntry(one) ? Object.keys(one) : [];
}
const MANY = 8;

/** Whether a column has a word for each row, another one in each. */
function isName(rows: readonly Row[], c: number): boolean {
	const names = rows.map((row) => row.values[c]);
	const areWords = names.every((one) => typeof one === 'string' && one !== '' && one.length <= LONGEST_NAME && !/[\s{[]/.test(one));
	return areWords && new Set(names).size === names.length;
}

const looksListed = (value: Value | undefined): boolean =>
	(typeof value === 'string' && /^\s*[[{][^]*\{/.test(value.slice(0, BEGINNING))) || (value instanceof Uint8Array && value[0] === OPENING);
const BEGINNING = 2000;
const OPENING = 0x5b;

/** Where a document has lists: it is one itself, or has them as fields. */
function listPaths(document: unknown): string[][] {
	if (Array.isArray(document)) return [[]];
	if (!isEntry(document)) return [];
	return Object.entries(document)
		.slice(0, FIELDS_AT_MOST)
		.flatMap(([field, one]) => (Array.isArray(one) ? [[field]] : []));
}

const isEntry = (value: unknown): value is Entry => value !== null && typeof value === 'object' && !Array.isArray(value);

function entriesAt(document: unknown, path: readonly string[]): Entry[] {
	const list = at(document, path);
	const entries = Array.isArray(list) ? list.filter(isEntry) : [];
	return Array.isArray(list) && entries.length >= list.length * ALIKE ? entries : [];
}

/** Whether a field tells the entries apart, and (nearly) all values of a column in another table are among its values. */
function isNamedElsewhere(list: readonly Entry[], field: string, own: Table, harvest: Harvested): boolean {
	const keys = new Set(list.map((one) => keyOf(plain(one[field]))));
	// Small numbers are keys of anything.
	const canBeKeys = [...keys].every((key) => (typeof key === 'string' ? key.length > 1 : typeof key === 'number' && key >= LARGE));
	if (keys.size < list.length || !canBeKeys) return false;
	return harvest.tables.some((table) => {
		if (table === own || table.index === 0) return false;
		const rows = harvest.book
			.rowsOf(table.index)
			.slice(0, ROWS)
			.filter((row) => row.standing === 'kept');
		return [...table.columns.keys()].some((c) => {
			const named = rows.flatMap((row) => keyOf(row.values[c]) ?? []);
			// The owner is often not among the persons.
			const [others] = [...countsOf(named.filter((key) => !keys.has(key)))].sort((a, b) => b[1] - a[1]);
			const known = named.filter((key) => keys.has(key)).length;
			const all = named.length - (others?.[1] ?? 0);
			return known >= NAMING_LEAST && known >= all * NAMING;
		});
	});
}
const LARGE = 1000;

function countsOf(keys: readonly (string | number)[]): Map<string | number, number> {
	const counts = new Map<string | number, number>();
	for (const key of keys) counts.set(key, (counts.get(key) ?? 0) + 1);
	return counts;
}

/** The entries, each once by what it says; those that only an earlier state of the value has are there no more. */
function rowsOf({ rows, value, path, fields }: SettingsList, table: number): Row[] {
	const known = new Map<string, Row>();
	const inUseFirst = [...rows].sort((a, b) => Number(b.standing === 'kept') - Number(a.standing === 'kept'));
	for (const row of inUseFirst)
		for (const entry of entriesAt(jsonOf(row.values[value]), path)) {
			const values = fields.map((field) => plain(entry[field]));
			const content = JSON.stringify(values.map(String));
			const same = known.get(content);
			if (same) {
				same.standing = betterStanding(same.standing, row.standing);
				same.grade = betterGrade(same.grade, row.grade);
				for (const sighting of row.sightings) addSighting(same, sighting);
			} else known.set(content, { ...plainRow(row), table, rowid: null, cut: -1, values, sightings: [...row.sightings] });
		}
	return [...known.values()];
}

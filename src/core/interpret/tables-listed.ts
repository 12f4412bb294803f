/**
 * A table for each conversation, and a list of those that names the tables, or what their names end with: the messages get
 * a column of that key.
 */
import { TABLE_NAME } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import type { Key } from './refs';
import { cell, sampleOf, type Made, type Sheet } from './sheet';

/** Letters from which an ending says which table it is, and share of the tables that must be listed. */
const ENDING = 3;
const LISTED = 0.9;
const TABLES_LEAST = 2;
const ROWS = 20_000;

/** Adds the columns, and what they name, to sheets of several tables. */
export function openTablesListed(context: Context): void {
	const { sheets, references } = context;
	for (const sheet of sheets) {
		if (!sheet.family || sheet.tables.length < TABLES_LEAST || !sheet.columns.some((c) => c.column === TABLE_NAME)) continue;
		for (const list of sheets) {
			const found = list.family || list === sheet ? null : listing(list, sheet, context);
			if (!found) continue;
			const { key, named } = found;
			const made: Made = { read: (row) => named.get(row.table), ofTable: true };
			const profile = profileOf(sheet.sure, made.read, sampleOf(sheet.sure));
			const column = { name: `(table) in ${list.name}`, column: TABLE_NAME, path: [list.name], made, profile };
			sheet.columns.push(column);
			const reference = { from: column, key, confidence: 1, inclusion: 1, coverage: named.size / key.values.size };
			references.set(sheet, [reference, ...(references.get(sheet) ?? [])]);
			break;
		}
	}
}

/** The key of a list by whose values tables are called, and which of them each is. */
function listing(list: Sheet, sheet: Sheet, { keys, tables }: Context): { key: Key; named: Map<number, string> } | null {
	for (const key of keys) {
		const { column } = key;
		if (key.sheet !== list || !column || column.profile.texts < column.profile.filled) continue;
		const values = new Map<string, string>();
		for (const row of list.rows.slice(0, ROWS)) {
			const value = cell(row, column, tables);
			if (typeof value === 'string' && value.length >= ENDING) values.set(value.toLowerCase(), value);
		}
		const named = new Map(sheet.tables.flatMap((table) => endOf(tables[table]!.name, values).map((value) => [table, value] as const)));
		const areOneEach = new Set(named.values()).size === named.size;
		if (named.size >= Math.max(TABLES_LEAST, sheet.tables.length * LISTED) && areOneEach) return { key, named };
	}
	return null;
}

/** The longest of the values, by their small letters, that a name ends with. */
function endOf(name: string, values: ReadonlyMap<string, string>): string[] {
	const small = name.slice(-LONGEST).toLowerCase();
	for (let at = 0; at <= small.length - ENDING; at++) {
		const value = values.get(small.slice(at));
		if (value !== undefined) return [value];
	}
	return [];
}
/** Letters of a name that are looked at. */
const LONGEST = 200;

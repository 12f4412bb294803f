/** Columns whose values are lists (JSON) of things with fields: files, earlier wordings, reactions. Each list makes rows. */
import type { Row, Table, Value } from '../model';
import { profileOf } from './profile';
import { cell, sampleOf, type Sheet, type SheetColumn } from './sheet';
import { isFields, jsonOf, plain } from './stored';

/** A column of lists, and its entries as a sheet. */
export interface ListColumn {
	column: SheetColumn;
	/** Names of the fields, in the order of the rows made of them. */
	fields: string[];
	/** Of the entries seen, to judge them by. */
	entries: Sheet;
}

const SAMPLED = 400;
const ENTRIES_AT_MOST = 100;
const FIELDS_AT_MOST = 30;
const DEEPEST = 3;
/** Share of a column's values that must be JSON. */
const JSON = 0.5;

/** What an entry that is a text alone has it under. */
const ALONE = 'text';

export function listColumns(sheet: Sheet, tables: readonly Table[]): ListColumn[] {
	return sheet.columns.flatMap((column): ListColumn[] => {
		if (column.profile.json < JSON || column.column < 0) return [];
		const entries = filled(sheet, column, tables).flatMap((row) => entriesOf(cell(row, column, tables)));
		const fields = [...new Set(entries.slice(0, SAMPLED).flatMap((e) => Object.keys(e)))].slice(0, FIELDS_AT_MOST);
		if (fields.length === 0) return [];
		const rows = entries.map((e) => rowOf(e, fields));
		const inner: Sheet = { ...sheet, rows, sure: rows, family: false, columns: [] };
		inner.columns = fields.map((name, i) => ({ name, column: i, path: [], profile: profileOf(rows, (r) => r.values[i], sampleOf(rows)) }));
		return [{ column, fields, entries: inner }];
	});
}

/** Some of the rows that have a list: few may. */
const filled = (sheet: Sheet, column: SheetColumn, tables: readonly Table[]): readonly Row[] =>
	column.profile.filled > sheet.sure.length * 0.5
		? sampleOf(sheet.sure)
		: sheet.sure.filter((row) => typeof cell(row, column, tables) === 'string').slice(0, SAMPLED);

/** The rows that a row's list makes. */
export const entriesIn = (row: Row, { column, fields }: Pick<ListColumn, 'column' | 'fields'>, tables: readonly Table[]): Row[] =>
	entriesOf(cell(row, column, tables)).map((e) => rowOf(e, fields));

function entriesOf(value: Value | undefined): Record<string, unknown>[] {
	const list = jsonOf(value);
	if (!Array.isArray(list)) return [];
	return list.slice(0, ENTRIES_AT_MOST).flatMap((e): Record<string, unknown>[] => {
		if (typeof e === 'string') return [{ [ALONE]: e }];
		return isFields(e) ? [flat(e, '', 0)] : [];
	});
}

/** An entry's fields, those of things within it by where they stand (`insert.file.name`). */
function flat(entry: Record<string, unknown>, within: string, depth: number): Record<string, unknown> {
	const fields = Object.entries(entry).slice(0, FIELDS_AT_MOST);
	return Object.fromEntries(
		fields.flatMap(([key, value]): [string, unknown][] =>
			isFields(value) && depth < DEEPEST ? Object.entries(flat(value, `${within}${key}.`, depth + 1)) : [[within + key, value]]
		)
	);
}

const rowOf = (entry: Record<string, unknown>, fields: readonly string[]): Row => ({
	table: 0,
	tableKnown: false,
	rowid: null,
	values: fields.map((f) => plain(entry[f])),
	standing: 'kept',
	grade: 'whole',
	cut: -1,
	sightings: []
});

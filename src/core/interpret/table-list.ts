/** A table in which a program keeps, for each of its tables, the highest number it gave out: its own sequence. */
import type { Harvested } from '../harvest';
import type { Row, Table } from '../model';

/** Fewest tables it lists, and letters from which an ending of a table's name says which it is. */
const LEAST = 2;
const LONGEST_LIST = 500;
const ENDING = 3;

export interface TableList {
	table: Table;
	/** Whether it says more of them in words, as a list of conversations does that have a table each. */
	saysMore: boolean;
	/** By the name of each table it lists. */
	highest: ReadonlyMap<string, number>;
}

/** The lists of a store's own tables. What they name is nobody. */
export function tableListsOf(harvest: Harvested): TableList[] {
	const tables = harvest.tables.filter((t) => t.index > 0 && !t.dropped && !/^sqlite_/i.test(t.name));
	const called = new Map(tables.map((t) => [t.name.toLowerCase(), t]));
	return tables.flatMap((table) => {
		const rows = harvest.book.rowsOf(table.index).filter((row) => row.standing === 'kept');
		if (rows.length < LEAST || rows.length > LONGEST_LIST) return [];
		for (const column of table.columns.keys()) {
			const named = allNamed(rows, column, called);
			if (!named || named.includes(table) || new Set(named).size < rows.length) continue;
			const areAlike = new Set(named.map((t) => JSON.stringify(t.columns.map((c) => [c.name.toLowerCase(), c.type])))).size === 1;
			const saysMore =
				areAlike && rows.some((row) => row.values.some((value, c) => c !== column && typeof value === 'string' && value !== ''));
			const highest = highestIn(rows, named, table, harvest);
			// Rows of writing that come from several tables, one from each, are what was put aside there.
			if (highest.size === 0 && !saysMore && rows.every((row) => row.values.some((value, c) => c !== column && isWriting(value)))) continue;
			return [{ table, highest, saysMore }];
		}
		return [];
	});
}

const isWriting = (value: unknown): boolean => typeof value === 'string' && /\p{L}+\s+\p{L}+\s+\p{L}/u.test(value);

/** The tables that a column's values name, or null where one names none. */
function allNamed(rows: readonly Row[], column: number, called: ReadonlyMap<string, Table>): Table[] | null {
	const named: Table[] = [];
	for (const row of rows) {
		const one = tableCalled(row.values[column], called);
		if (!one) return null;
		named.push(one);
	}
	return named;
}

/** The one table that a value is the name of, or the end of the name. `called`: tables by their names in lower case. */
function tableCalled(value: unknown, called: ReadonlyMap<string, Table>): Table | null {
	if (typeof value !== 'string' || value.length < ENDING) return null;
	const name = value.toLowerCase();
	const exact = called.get(name);
	if (exact) return exact;
	const ending = [...called].filter(([own]) => own.endsWith(name));
	return ending.length === 1 ? ending[0]![1] : null;
}

/** The numbers of the first column of which each is at least the highest in use in its table, and one is as high. */
function highestIn(rows: readonly Row[], named: readonly Table[], list: Table, harvest: Harvested): Map<string, number> {
	const inUse = named.map((t) => harvest.book.rowsOf(t.index).reduce((most, row) => (isHigher(row, most) ? Number(row.rowid) : most), 0));
	for (const column of list.columns.keys()) {
		const numbers = rows.map((row) => row.values[column]);
		if (!numbers.every((n, i): n is number => typeof n === 'number' && Number.isInteger(n) && n >= inUse[i]!)) continue;
		if (numbers.some((n, i) => n > 0 && n === inUse[i])) return new Map(named.map((t, i) => [t.name, numbers[i] as number]));
	}
	return new Map();
}

const isHigher = (row: Row, most: number): boolean => row.standing === 'kept' && row.rowid !== null && Number(row.rowid) > most;

/** A table in which a program keeps, for each of its tables, the highest number it gave out: its own sequence. */
import type { Harvested } from '../harvest';
import type { Row, Table } from '../model';

/** Fewest tables it lists, and letters from which an ending of a table's name says which it is. */
const LEAST = 2;
const LONGEST_LIST = 500;
const ENDING = 3;

export interface TableList {
	table: Table;
	/** By the name of each table it lists. */
	highest: ReadonlyMap<string, number>;
}

/** The lists of a store's own tables. What they name is nobody. */
export function tableListsOf(harvest: Harvested): TableList[] {
	const tables = harvest.tables.filter((t) => t.index > 0 && !t.dropped && !/^sqlite_/i.test(t.name));
	return tables.flatMap((table) => {
		const rows = harvest.book.rowsOf(table.index).filter((row) => row.standing === 'kept');
		if (rows.length < LEAST || rows.length > LONGEST_LIST) return [];
		for (const column of table.columns.keys()) {
			const named = rows.map((row) => tableCalled(row.values[column], tables));
			if (named.some((one) => one === null || one === table) || new Set(named).size < rows.length) continue;
			return [{ table, highest: highestIn(rows, named as Table[], table, harvest) }];
		}
		return [];
	});
}

/** The one table that a value is the name of, or the end of the name. */
function tableCalled(value: unknown, tables: readonly Table[]): Table | null {
	if (typeof value !== 'string' || value.length < ENDING) return null;
	const name = value.toLowerCase();
	const exact = tables.find((t) => t.name.toLowerCase() === name);
	if (exact) return exact;
	const ending = tables.filter((t) => t.name.toLowerCase().endsWith(name));
	return ending.length === 1 ? ending[0]! : null;
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

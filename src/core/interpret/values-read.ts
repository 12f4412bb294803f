/** A store whose values are read otherwise than they are stored; where each was seen stays as it is. */
import { plainRow, withBook, type Harvested } from '../harvest';
import type { Row, Value } from '../model';

/** `read`: what the value in a row's column says; the value itself where that is what it says. */
export function withValuesRead(
	harvest: Harvested,
	read: (row: Row, value: Value | undefined, column: number) => Value | undefined
): Harvested {
	const readRow = (row: Row): Row => {
		const values = row.values.map((value, column) => read(row, value, column));
		if (values.every((value, column) => value === row.values[column])) return row;
		return {
			...plainRow(row),
			moreSightings: row.moreSightings,
			rest: row.rest,
			tableByPage: row.tableByPage,
			tableByLooks: row.tableByLooks,
			values
		};
	};
	const opened = new Map(harvest.tables.map(({ index }) => [index, harvest.book.rowsOf(index).map(readRow)]));
	const rowsOf = (table: number): readonly Row[] => opened.get(table) ?? [];
	return withBook(harvest, harvest.tables, {
		get size() {
			return harvest.book.size;
		},
		get rows() {
			return harvest.tables.flatMap((table) => rowsOf(table.index));
		},
		rowsOf
	});
}

/**
 * Messages whose texts stand in files of their own, which their rows name by path: the rows get what the files say, lost rows
 * too, as long as the file is there.
 */
import { plainRow, withBook, type Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';
import { profileOfValues } from './profile';

const SAMPLE = 60;
const LEAST = 8;
/** Share of the rows that must name a file, and of those files that must be there. */
const MOSTLY = 0.8;
const PROSE = 0.3;
const LONGEST_PATH = 400;
/** Letters of texts in all that are read so. */
const MOST_LETTERS = 64 << 20;

/** `textAt`: what the text file at a path says, as the store names it; null where there is none. */
export function openTextsInFiles(harvest: Harvested, textAt: (path: string) => string | null): Harvested {
	const named = harvest.tables.flatMap((table) => {
		const column = pathsOfTexts(table, harvest.book.rowsOf(table.index), textAt);
		return column === null ? [] : [{ table: table.index, column }];
	});
	if (named.length === 0) return harvest;
	let left = MOST_LETTERS;
	const filled = new Map<Row, Row>();
	const tables = [...harvest.tables];
	for (const { table, column } of named) {
		const { columns } = harvest.tables[table]!;
		const width = columns.length;
		const added = { ...columns[column]!, name: `${columns[column]!.name} (text)` };
		tables[table] = { ...harvest.tables[table]!, columns: [...columns, added] };
		for (const row of harvest.book.rowsOf(table)) {
			const path = row.values[column];
			const text = left > 0 && typeof path === 'string' && row.cut !== column ? textAt(path) : null;
			if (text !== null) left -= text.length;
			// Of a file that is gone the row still says that there was one.
			const own = Array.from({ length: width }, (_, c) => (c === column && text !== null ? null : row.values[c]));
			filled.set(row, { ...plainRow(row), values: [...own, text] });
		}
	}
	const asFilled = (rows: readonly Row[]): Row[] => rows.map((row) => filled.get(row) ?? row);
	const { book } = harvest;
	return withBook(harvest, tables, {
		get size() {
			return book.size;
		},
		get rows() {
			return asFilled(book.rows);
		},
		rowsOf: (table) => asFilled(book.rowsOf(table))
	});
}

/** The column of a table with times and no texts of its own whose values nearly all name text files; null where there is none. */
function pathsOfTexts(table: Table, rows: readonly Row[], textAt: (path: string) => string | null): number | null {
	if (table.index === 0) return null;
	const sample = rows.filter((row) => row.standing === 'kept').slice(0, SAMPLE);
	if (sample.length < LEAST) return null;
	const valuesOf = (c: number): (Value | undefined)[] => sample.map((row) => row.values[c]);
	const column = table.columns.findIndex((_, c) => {
		const paths = valuesOf(c).filter(
			(v): v is string => typeof v === 'string' && v !== '' && v.length <= LONGEST_PATH && !/\s{2}|\n/.test(v)
		);
		if (paths.length < sample.length * MOSTLY || new Set(paths).size < paths.length || !/[./\\]/.test(paths[0]!)) return false;
		return paths.filter((path) => textAt(path) !== null).length >= paths.length * MOSTLY;
	});
	if (column < 0) return null;
	const others = [...table.columns.keys()].filter((c) => c !== column).map((c) => profileOfValues(valuesOf(c)));
	return others.some((p) => p.time !== null) && !others.some((p) => p.prose > PROSE && p.time === null) ? column : null;
}

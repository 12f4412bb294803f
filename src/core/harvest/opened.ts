/** A store with other rows or more tables than it was found with: what is read out of its values. */
import type { Row, Table } from '../model';
import type { Harvested, Rows } from './harvested';

export function withBook(harvest: Harvested, tables: Table[], book: Rows): Harvested {
	const { sequences, account, notes, encoding, changeCounter, log, engineVersion } = harvest;
	return {
		tables,
		book,
		sequences,
		account,
		notes,
		encoding,
		changeCounter,
		log: log ?? null,
		engineVersion,
		run: (reach) => harvest.run(reach)
	};
}

/** The store with tables behind its own; `rows`: of each of them. */
export function withTables(harvest: Harvested, added: readonly Table[], rows: readonly (readonly Row[])[]): Harvested {
	const first = harvest.tables.length;
	const all = rows.flat();
	return withBook(harvest, [...harvest.tables, ...added], {
		get size() {
			return harvest.book.size + all.length;
		},
		get rows() {
			return [...harvest.book.rows, ...all];
		},
		rowsOf: (table) => (table < first ? harvest.book.rowsOf(table) : (rows[table - first] ?? []))
	});
}

/** The store without some of its rows, which stand elsewhere. */
export function withoutRows(harvest: Harvested, moved: ReadonlySet<Row>): Harvested {
	const { book } = harvest;
	const left = (rows: readonly Row[]): Row[] => rows.filter((row) => !moved.has(row));
	return withBook(harvest, harvest.tables, {
		get size() {
			return book.size - moved.size;
		},
		get rows() {
			return left(book.rows);
		},
		rowsOf: (table) => left(book.rowsOf(table))
	});
}

/** Reads a cell again when its values are asked for, and puts a record's values in the order of its table's declaration. */
import type { Method, Table, Value } from '../../model';
import type { HarvestedRow, RowPlace, RowReader } from '../row';
import type { Database } from './database';
import { readRecord } from './record';
import { storedOrder } from './schema';
import { readVarint, varintLength } from './varint';
import type { PageAt } from './view';

/** Reads cells of table leaves that lie wholly on their page, again and at any time. */
export class CellReader implements RowReader {
	private readonly inOrder: ReturnType<typeof declaredOrder>;

	constructor(
		table: Table,
		private readonly db: Database
	) {
		this.inOrder = declaredOrder(table);
	}

	values(row: HarvestedRow): (Value | undefined)[] {
		const bytes = this.db.files.sources[row.place.file]!.read(row.place.offset + row.start, row.length);
		readVarint(bytes, 0, bytes.length);
		let record = varintLength;
		readVarint(bytes, record, bytes.length);
		record += varintLength;
		// Null only where the file changed under us: then nothing is known of it any more.
		const stored = readRecord(bytes, record, bytes.length, this.db.encoding) ?? [];
		return this.inOrder(stored, row.rowid!);
	}
}

/** Where a row of a page lies. */
export const placeOf = (at: PageAt, page: number, method: Method, reader: RowReader | null = null): RowPlace => ({
	file: at.file,
	offset: at.offset,
	page,
	frame: at.frame,
	method,
	reader
});

/**
 * Puts a record's values in the declared order of its table, in place where that is the stored order (it nearly always
 * is): the rowid's column filled in, columns added since then with their default.
 */
export function declaredOrder(table: Table): (stored: (Value | undefined)[], rowid: number | bigint) => (Value | undefined)[] {
	const order = storedOrder(table);
	const { columns, rowidColumn } = table;
	const plain = order.every((c, k) => c === k) && order.length === columns.length;
	if (plain) {
		return (stored, rowid) => {
			for (let k = stored.length; k < columns.length; k++) stored.push(columns[k]!.defaultValue);
			if (stored.length > columns.length) stored.length = columns.length;
			if (rowidColumn >= 0) stored[rowidColumn] = rowid;
			return stored;
		};
	}
	return (stored, rowid) => {
		const values: (Value | undefined)[] = columns.map(() => undefined);
		for (let k = 0; k < order.length; k++) {
			const c = order[k]!;
			values[c] = c === rowidColumn ? rowid : k < stored.length ? stored[k] : columns[c]!.defaultValue;
		}
		return values;
	};
}

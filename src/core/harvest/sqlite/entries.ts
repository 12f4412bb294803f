/** Entries of indexes (section 2.5): they repeat some values of a row, and its number. */
import type { Standing, Table, Value } from '../../model';
import { HarvestedRow, type RowPlace } from '../row';
import type { Found } from './carve/found';
import type { Shape } from './shape';

/** An index's entry as part of the row it repeats: some values, and the rowid. */
export function entryRow(
	found: Found,
	entry: NonNullable<Shape['entryOf']>,
	tables: readonly Table[],
	place: RowPlace,
	standing: Standing
): HarvestedRow {
	const table = tables[entry.table]!;
	const values: (Value | undefined)[] = table.columns.map(() => undefined);
	const rowid = found.values.at(-1);
	const known = !table.withoutRowid && (typeof rowid === 'number' || typeof rowid === 'bigint') ? rowid : null;
	entry.columns.forEach((c, k) => {
		if (c >= 0) values[c] = found.values[k];
	});
	if (table.rowidColumn >= 0 && known !== null) values[table.rowidColumn] = known;
	const cut = found.cut >= 0 ? (entry.columns[found.cut] ?? -1) : -1;
	return new HarvestedRow(
		table.index,
		true,
		known,
		values,
		cut,
		standing,
		'fragment',
		{ ...place, method: 'index-entry' },
		found.start,
		found.end - found.start
	);
}

/** An entry with a number that its table is far from, or with nothing that is the table's, is a chance likeness. */
export function saysSomething(entry: HarvestedRow, shape: Shape): boolean {
	if (entry.rowid === null) return entry.values.some((v) => v !== undefined);
	return (
		shape.rows === 0 ||
		(entry.rowid >= Math.min(shape.lowRowid, 1) &&
			entry.rowid <= Math.max(shape.highRowid * 4, shape.highRowid + Math.max(FURTHER, shape.rows * 50)))
	);
}
const FURTHER = 1000;

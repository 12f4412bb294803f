/** Columns that count: the rows of each conversation, say. */
import type { Table } from '../model';
import type { Sheet, SheetColumn } from './sheet';

/**
 * The column that counts rows within what the rest of the primary key names, a conversation mostly: its small numbers are
 * keys of anything, and name nothing. Null where the last column of the key does not.
 */
export function counterOf(sheet: Sheet, tables: readonly Table[]): SheetColumn | null {
	const { primaryKey, columns } = tables[sheet.tables[0]!]!;
	// What has nothing but its key joins two things, and counts nothing.
	const last = primaryKey.length < 2 || primaryKey.length === columns.length ? undefined : primaryKey.at(-1);
	const column = sheet.columns.find((c) => c.column === last && c.path.length === 0);
	if (!column || column.profile.ints < column.profile.filled || column.profile.low > 1 || column.profile.time) return null;
	const ends = new Map<string, { rows: number; high: number }>();
	for (const row of sheet.sure) {
		const number = Number(row.values[last!]);
		const of = primaryKey
			.slice(0, -1)
			.map((c) => `${typeof row.values[c]}:${String(row.values[c])}`)
			.join('|');
		const end = ends.get(of) ?? { rows: 0, high: 0 };
		ends.set(of, { rows: end.rows + 1, high: Math.max(end.high, number) });
	}
	const counted = [...ends.values()].filter(({ rows, high }) => high <= rows * COUNTED_APART + FEW_COUNTED).length;
	return counted >= ends.size * MOSTLY_COUNTED ? column : null;
}
/** Numbers given out to numbers left: where more than half were deleted it is still a count. */
const COUNTED_APART = 4;
const FEW_COUNTED = 8;
const MOSTLY_COUNTED = 0.8;

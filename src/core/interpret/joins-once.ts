/** Whether a list has (nearly) each pair of two columns' values once: who takes part in a conversation does so once. Calls come again. */
import type { Table } from '../model';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const ROWS = 4000;
const ONCE = 0.9;

/** What was found of two columns, of which many a sheet of messages asks. */
const FOUND = new WeakMap<SheetColumn, WeakMap<SheetColumn, boolean>>();

export function joinsOnce(sheet: Sheet, thread: SheetColumn, person: SheetColumn, tables: readonly Table[]): boolean {
	const found = FOUND.get(thread) ?? new WeakMap<SheetColumn, boolean>();
	FOUND.set(thread, found);
	const known = found.get(person);
	if (known !== undefined) return known;
	const rows = sheet.rows.filter((row) => row.standing === 'kept').slice(0, ROWS);
	const pairs = new Set(rows.map((row) => `${keyOf(cell(row, thread, tables))}|${keyOf(cell(row, person, tables))}`));
	const isOnce = rows.length > 0 && pairs.size >= rows.length * ONCE;
	found.set(person, isOnce);
	return isOnce;
}

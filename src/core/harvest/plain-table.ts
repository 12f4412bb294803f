/** Tables of what declares none: exports, keys and values, lists in documents. Columns have names alone. */
import type { Column, Table } from '../model';

export const plainColumn = (name: string): Column => ({ name, type: '', notNull: false, virtual: false, defaultValue: null });

export const plainTable = (index: number, name: string, columns: readonly string[]): Table => ({
	index,
	name,
	rootPage: 0,
	columns: columns.map(plainColumn),
	rowidColumn: -1,
	primaryKey: [],
	withoutRowid: false,
	autoIncrement: false,
	dropped: false
});

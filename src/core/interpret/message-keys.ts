/** Messages by what other tables name them with: their texts and times. */
import type { Row, Table } from '../model';
import type { Context } from './context';
import type { MessageReading } from './reading';
import { keyOf, type Reference } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';

/** What a message is known by: its record number, or the value of a column. */
export const messageKeyOf = (row: Row, key: SheetColumn | null, tables: readonly Table[]): string | null => {
	const value = key ? keyOf(cell(row, key, tables)) : keyOf(row.rowid);
	return value === null ? null : String(value);
};

const textsByKey = new WeakMap<MessageReading, Map<SheetColumn | null, Map<string, string | null>>>();

/** The texts of a sheet's messages in use by one of their keys. */
export function textsOf(m: MessageReading, key: SheetColumn | null, tables: readonly Table[]): Map<string, string | null> {
	let byColumn = textsByKey.get(m);
	if (!byColumn) textsByKey.set(m, (byColumn = new Map()));
	let map = byColumn.get(key);
	if (map) return map;
	byColumn.set(key, (map = new Map()));
	for (const row of m.sheet.rows) {
		const k = messageKeyOf(row, key, tables);
		const text = cell(row, m.text.value, tables);
		if (k !== null && !map.has(k)) map.set(k, typeof text === 'string' ? text : null);
	}
	return map;
}

/** The times of a sheet's messages by one of their keys, ms UTC. */
export function timesOf(m: MessageReading, key: SheetColumn | null, tables: readonly Table[]): Map<string, number> {
	const times = new Map<string, number>();
	for (const row of m.sheet.rows) {
		const k = messageKeyOf(row, key, tables);
		const at = timeOf(cell(row, m.time!.value, tables), m.time!.reading);
		if (k !== null && at !== null && !times.has(k)) times.set(k, at);
	}
	return times;
}

/** The columns of a sheet that may name messages, the surest first. */
export const toMessages = (sheet: Sheet, m: MessageReading, context: Context): Reference[] =>
	namesIn(sheet, context).filter((r) => r.key.sheet === m.sheet && r.confidence > 0.4);

/** What a sheet's rows name: of events it is known where they name what they are about. */
export const namesIn = (sheet: Sheet, { references }: Context): Reference[] =>
	(references.get(sheet) ?? []).filter((r) => !sheet.about || r.from === sheet.about);

/** The messages of one table in all captures of its store, and what their rows hold in any of them. */
import { cell, type MessageReading, type SheetColumn } from '../interpret';
import type { Value } from '../model';
import type { WovenStore } from './weave';
import type { Woven } from './woven';

/** Whether two readings, perhaps of two captures, are of one table. */
const isSameTable = (a: MessageReading, b: MessageReading): boolean => a === b || a.sheet.name === b.sheet.name;

/** The messages of a reading's table, those that only older captures have among them; without earlier wordings. */
export const messagesOf = (messages: readonly Woven[], reading: MessageReading): Woven[] =>
	messages.filter((w) => !w.earlierWordingOf && isSameTable(w.first.reading, reading));

/** What a column holds for a message, in the first capture that says so. */
export function valueAcross(message: Woven, column: SheetColumn, stores: readonly WovenStore[]): Value | undefined {
	for (const { first, store } of [message, ...message.copies]) {
		const own = first.reading.sheet.columns.find((c) => c === column || (c.name === column.name && c.column === column.column));
		const { sheet } = first.reading;
		if (!own || !sheet.tables.includes(first.row.table)) continue;
		const value = cell(first.row, own, stores[store]!.tables);
		if (value !== null && value !== undefined) return value;
	}
	return undefined;
}

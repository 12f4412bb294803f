/** Where a table keeps each wording of a message in a row of its own, with the time at which it was written, the message was sent at the first. */
import type { Row, Value } from '../model';
import { bestTime } from './columns';
import type { Context } from './context';
import { rowsByMessage } from './rows-of-messages';
import { cell, type SheetColumn } from './sheet';
import { timeOf } from './time';

/** Makes the time of the rows that count that of the first row of their message. */
export function openFirstTimes({ sheets, tables }: Context): void {
	for (const earlier of sheets) {
		if (!earlier.earlierOf) continue;
		const { sheet, from, key } = earlier.earlierOf;
		const time = bestTime(sheet, tables);
		if (!time || time.value.made) continue;
		const own: SheetColumn = { ...time.value };
		const versions = rowsByMessage({ list: earlier, messages: sheet, key: from, own: key }, tables);
		const at = (row: Row): number => timeOf(cell(row, own, tables), time.reading) ?? Infinity;
		const first = (row: Row): Row => versions(row).reduce((one, other) => (at(other) < at(one) ? other : one), row);
		time.value.made = { read: (row): Value | undefined => cell(first(row), own, tables) };
	}
}

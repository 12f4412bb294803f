/** Lists of conversations show how each one's last message begins: that is what nobody and no conversation is called. */
import type { Table } from '../model';
import type { MessageReading } from './reading';
import { cell, type Sheet, type SheetColumn } from './sheet';

/** Letters from which a beginning is that of one message. */
const TELLING = 12;
/** Share of a column's texts that must be messages, or how they begin; and how many. */
const MANY = 0.3;
const LEAST = 2;
const READ = 20_000;

/** Finds the columns whose texts are those of messages. */
export class ShownMessages {
	private readonly whole = new Set<string>();
	private readonly beginnings = new Set<string>();

	constructor(
		messages: readonly MessageReading[],
		private readonly tables: readonly Table[]
	) {
		for (const { sheet, text } of messages)
			for (const row of sheet.sure.slice(0, READ)) {
				const value = cell(row, text.value, tables);
				if (typeof value !== 'string' || value === '') continue;
				this.whole.add(value);
				this.beginnings.add(value.slice(0, TELLING));
			}
	}

	isIn(column: SheetColumn, { rows }: Sheet): boolean {
		const texts = rows.slice(0, READ).flatMap((row) => {
			const value = cell(row, column, this.tables);
			return typeof value === 'string' && value !== '' ? [value] : [];
		});
		const shown = texts.filter((t) => this.whole.has(t) || (t.length >= TELLING && this.beginnings.has(t.slice(0, TELLING))));
		return shown.length >= LEAST && shown.length >= texts.length * MANY;
	}
}

/** Tables of which each message has several rows, and what the messages get from them: columns of their own. */
import type { Row, Table } from '../model';
import { bestTime } from './columns';
import { inferNumbers, numbersByPlace } from './numbers';
import { profileOf } from './profile';
import { keyOf } from './refs';
import { cell, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';

export interface RowsOfMessages {
	list: Sheet;
	messages: Sheet;
	/** The list's column that names messages, by their number or by `own`. */
	key: SheetColumn;
	own: SheetColumn | null;
}

/** The list's rows of a message: those in use of one in use, and of a lost one what was lost with it. */
export function rowsByMessage({ list, messages, key, own }: RowsOfMessages, tables: readonly Table[]): (row: Row) => readonly Row[] {
	const kept = new Map<string | number, Row[]>();
	const lost = new Map<string | number, Row[]>();
	for (const row of list.rows) {
		const k = keyOf(cell(row, key, tables));
		if (k === null) continue;
		const into = row.standing === 'kept' ? kept : lost;
		const known = into.get(k);
		if (known) known.push(row);
		else into.set(k, [row]);
	}
	const numbers = isNumber(own, messages, tables) && lost.size > 0 ? numbersLost(messages, tables) : null;
	const keyIn = (row: Row): string | number | null => keyOf(own ? cell(row, own, tables) : row.rowid) ?? numbers?.get(row) ?? null;
	const inUse = new Set(messages.rows.flatMap((row) => (row.standing === 'kept' ? (keyIn(row) ?? []) : [])));
	return (row) => {
		const k = keyIn(row);
		if (k === null) return [];
		const [ofKept, ofLost] = [kept.get(k) ?? [], lost.get(k) ?? []];
		if (row.standing === 'kept') return ofKept.length > 0 ? ofKept : ofLost;
		return ofLost.length > 0 || inUse.has(k) ? ofLost : ofKept;
	};
}

const isNumber = (own: SheetColumn | null, { tables: [first] }: Sheet, tables: readonly Table[]): boolean =>
	own === null || (own.path.length === 0 && own.column === tables[first!]!.rowidColumn);

/** Numbers that lost rows of messages had. */
function numbersLost(messages: Sheet, tables: readonly Table[]): Map<Row, number> {
	const byTime = inferNumbers(messages, bestTime(messages, tables), tables);
	return new Map([...byTime, ...numbersByPlace(messages.rows, byTime)]);
}

/** The column is one of the message's key, read otherwise. */
export function addColumn({ messages, own }: RowsOfMessages, name: string, made: Made, tables: readonly Table[]): void {
	const column = own?.column ?? Math.max(0, tables[messages.tables[0]!]!.rowidColumn);
	const added: SheetColumn = { name, column, path: [name], made, profile: messages.columns[0]!.profile };
	added.profile = profileOf(messages.sure, (row) => made.read(row), sampleOf(messages.sure));
	messages.columns.push(added);
}

/**
 * A newer version of a program often moves its messages into a new table and drops the old one, whose rows are left on freed
 * pages. They are the new table's messages under the numbers they have there, as they were then.
 */
import type { Context } from './context';
import type { Candidate } from './correspondence-sheets';
import type { MessageReading } from './reading';
import { readAsRepeated, type KeptElsewhere } from './repeated';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import type { Row, Value } from '../model';

const ROWS = 2000;
const ROWS_LEAST = 5;
/** Share of the rows under one number whose text must be the same, and whose values of two columns. */
const SAME_TEXT = 0.6;
const SAME = 0.9;

/** Whether nothing of a table is in use. */
export const isGone = ({ rows }: Sheet): boolean => rows.every((row) => row.standing !== 'kept');

/** The tables of messages that are gone, of which another one in use has the rows. */
export function movedTables(said: readonly Candidate[], context: Context): KeptElsewhere[] {
	const inUse = said.filter(({ sheet }) => !isGone(sheet));
	return said.flatMap((from) => {
		const { time } = from;
		if (!time || !isGone(from.sheet) || from.sheet.family) return [];
		let best: { to: Sheet; pairs: Pair[]; same: number } | null = null;
		for (const to of inUse) {
			const pairs = pairsOf(from.sheet, to.sheet);
			const textIn = (row: Row, { text }: Candidate): Value | undefined => cell(row, text.value, context.tables);
			const same = pairs.filter(({ was, is }) => textIn(was, from) === textIn(is, to)).length;
			if (pairs.length >= ROWS_LEAST && same >= pairs.length * SAME_TEXT && same > (best?.same ?? 0)) best = { to: to.sheet, pairs, same };
		}
		if (!best) return [];
		const { to, pairs } = best;
		const held = new Map<SheetColumn, SheetColumn | null>();
		const own = (column: SheetColumn): SheetColumn | null => {
			if (!held.has(column)) held.set(column, heldBefore(column, from.sheet, pairs, context));
			return held.get(column)!;
		};
		return [{ sheet: from.sheet, of: to, text: from.text.value, time, own }];
	});
}

interface Pair {
	was: Row;
	is: Row;
}

/** Rows that have one number in both. */
function pairsOf(from: Sheet, to: Sheet): Pair[] {
	const byNumber = new Map(to.rows.flatMap((row) => (row.standing === 'kept' && row.rowid !== null ? [[row.rowid, row]] : [])));
	return from.rows.flatMap((was) => {
		const is = was.tableKnown && was.rowid !== null ? byNumber.get(was.rowid) : undefined;
		return is ? [{ was, is }] : [];
	});
}

/** The column of the old table whose values are those of a column of the new one, row by row. */
function heldBefore(column: SheetColumn, from: Sheet, pairs: readonly Pair[], { tables }: Context): SheetColumn | null {
	if (column.made || column.aside) return null;
	const values = pairs.slice(0, ROWS).map(({ was, is }) => ({ was, value: keyOf(cell(is, column, tables)) }));
	const written = values.filter(({ value }) => value !== null);
	let best: { column: SheetColumn; same: number } | null = null;
	for (const other of from.columns) {
		if (other.column < 0 || other.made) continue;
		const same = written.filter(({ was, value }) => keyOf(cell(was, other, tables)) === value).length;
		if (same > 0 && same >= written.length * SAME && same > (best?.same ?? 0)) best = { column: other, same };
	}
	return best?.column ?? null;
}

/** Their reading: as that of the new table's, where the old one's columns held what says where each belongs; null where not. */
export function readMoved({ sheet, text, time, own }: KeptElsewhere, m: MessageReading): MessageReading | null {
	const reading = readAsRepeated(sheet, text, time, m, own);
	const isTold = !!(reading.thread ?? reading.peer ?? reading.sender) && !!m.thread === !!reading.thread;
	return isTold && reading.direction.value.kind !== 'unknown' ? reading : null;
}

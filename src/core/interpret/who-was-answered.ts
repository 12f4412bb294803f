/** Columns that say whose message a row answers, beside the one that names that message: he wrote that, and not this. */
import type { Row } from '../model';
import type { Context } from './context';
import { keyOf } from './refs';
import { isParty } from './rooms-and-members';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const ROWS = 4000;
const LEAST = 3;
/** Share of the rows that answer, at most; share of them that must name the answered one's writer, and of all that must have one. */
const MOST = 0.8;
const AGREE = 0.9;

export function whoWasAnswered(sheet: Sheet, { tables }: Context): Set<SheetColumn> {
	const found = new Set<SheetColumn>();
	const rows = sheet.sure.slice(0, ROWS);
	const stored = sheet.columns.filter((c) => c.column >= 0 && !c.made && !c.body && c.profile.blobs === 0);
	const seldom = stored.filter((c) => c.profile.filled >= LEAST && c.profile.filled <= rows.length * MOST);
	const [named, full] = [seldom.filter(isParty), stored.filter((c) => isParty(c) && c.profile.filled >= rows.length * AGREE)];
	if (named.length === 0 || full.length === 0) return found;
	const byKey = rowsByKey(sheet, rows, tables);
	const answers = seldom.filter((c) => c.profile.prose === 0 && !isOwnNumber(c, sheet, tables));
	for (const who of named)
		for (const answered of answers)
			if (who !== answered && !found.has(who) && full.some((writer) => writer !== who && areTheirs(who, answered, writer))) found.add(who);
	return found;

	/** Whether a column holds who wrote the row that another one names, wherever either is filled. */
	function areTheirs(who: SheetColumn, answered: SheetColumn, writer: SheetColumn): boolean {
		let [all, theirs] = [0, 0];
		for (const row of rows) {
			const [name, key] = [keyOf(cell(row, who, tables)), keyOf(cell(row, answered, tables))];
			const original = key === null ? undefined : byKey.get(String(key));
			// What was answered can be gone.
			if (key === null ? name === null : name !== null && !original) continue;
			all++;
			if (original && name !== null && keyOf(cell(original, writer, tables)) === name) theirs++;
		}
		return theirs >= LEAST && theirs >= all * AGREE;
	}
}

/** Rows by their number, or by the key of their table. */
function rowsByKey(sheet: Sheet, rows: readonly Row[], tables: Context['tables']): Map<string, Row> {
	const { primaryKey } = tables[sheet.tables[0]!]!;
	const found = new Map<string, Row>();
	for (const row of rows) {
		const key = primaryKey.length === 1 ? row.values[primaryKey[0]!] : null;
		for (const name of [row.rowid, key]) if (typeof name === 'number' || typeof name === 'string') found.set(String(name), row);
	}
	return found;
}

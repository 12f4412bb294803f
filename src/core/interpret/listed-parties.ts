/** Messages whose own row lists all who take part in their conversation, the owner among them. */
import type { Table } from '../model';
import { addressesIn, EMAIL, PHONE } from './profile';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const ROWS = 2000;
/** Share of the values that must be lists, and of the rows whose writer must be in theirs. */
const MOSTLY = 0.9;

/** The numbers and addresses in a value that is a list of several and of nothing else; else none. */
export function partiesListed(value: unknown): string[] {
	const parts = typeof value === 'string' ? addressesIn(value) : [];
	return parts.length > 1 && parts.every((part) => PHONE.test(part) || EMAIL.test(part)) ? parts : [];
}

export interface ListOfParties {
	column: SheetColumn;
	/** Who is in every list: the owner. Null where that are several, or nobody. */
	owner: string | null;
}

/** The column that lists who takes part: who writes is in the list, or somebody is in all of them. */
export function listOfParties(sheet: Sheet, used: ReadonlySet<SheetColumn>, tables: readonly Table[]): ListOfParties | null {
	for (const column of sheet.columns) {
		const p = column.profile;
		if (used.has(column) || column.column < 0 || p.texts === 0 || p.texts < p.filled || p.time || p.many) continue;
		// A profile knows how values begin: who takes part stands in the rows.
		const stored = sheet.sure.slice(0, ROWS).map((row) => keyOf(cell(row, column, tables)));
		const filled = stored.filter((value) => value !== null);
		const whole = filled.map(partiesListed).filter((list) => list.length > 1);
		if (whole.length === 0 || whole.length < filled.length * MOSTLY) continue;
		const everywhere = whole[0]!.filter((one) => whole.every((list) => list.includes(one)));
		const owner = new Set(whole.map(String)).size > 1 && everywhere.length === 1 ? everywhere[0]! : null;
		if (owner !== null || writesWithin(sheet, column, tables)) return { column, owner };
	}
	return null;
}

function writesWithin(sheet: Sheet, list: SheetColumn, tables: readonly Table[]): boolean {
	const rows = sheet.sure.slice(0, ROWS).filter((row) => partiesListed(cell(row, list, tables)).length > 0);
	return sheet.columns.some((writer) => {
		if (writer === list || writer.column < 0 || writer.profile.texts < rows.length * MOSTLY) return false;
		const within = rows.filter((row) => {
			const who = keyOf(cell(row, writer, tables));
			return typeof who === 'string' && partiesListed(cell(row, list, tables)).includes(who);
		});
		return within.length >= rows.length * MOSTLY;
	});
}

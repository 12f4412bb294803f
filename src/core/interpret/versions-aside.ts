/** Texts aside of which a message has several, one for each time it was written anew: the last one counts. */
import { shareWithin } from '../likeness';
import type { Row, Table } from '../model';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const VERSIONS_NAMED = /edit|revis|version|histor|wording|fassung/i;
const NEARLY_ALL = 0.95;
const ALIKE = 0.6;
const MOSTLY = 0.6;

interface Texts {
	sheet: Sheet;
	text: SheetColumn;
	/** By the key of their message. */
	rows: ReadonlyMap<string, readonly Row[]>;
}

/** `column`: counts a message's texts, or says when each was written. `own`: the number that the message says is the one that counts. */
export interface VersionColumn {
	column: SheetColumn;
	own: SheetColumn | null;
}

/** How versions of messages' texts are told; null where several texts of a message are its parts. `keyIn`: a message's key. */
export function versionIn(texts: Texts, messages: Sheet, keyIn: (row: Row) => string, tables: readonly Table[]): VersionColumn | null {
	const kept = new Map([...texts.rows].map(([key, rows]) => [key, rows.filter((row) => row.standing === 'kept')]));
	const several = [...kept.values()].filter((rows) => rows.length > 1);
	if (several.length === 0) return null;
	const own = texts.sheet.columns.filter((c) => c.column >= 0 && c.path.length === 0 && c !== texts.text && c.profile.texts === 0);
	const differs = (c: SheetColumn): boolean =>
		several.every((rows) => new Set(rows.map((row) => keyOf(cell(row, c, tables)) ?? '')).size === rows.length);
	const differing = own.filter(differs);
	const time = differing.find((c) => c.profile.time) ?? null;
	const areAlike = areWordings(texts, several, tables);
	// Parts of a message are counted as well, and written at once.
	if (time === null && !areAlike) return null;
	for (const column of differing.filter((c) => !c.profile.time && c.profile.ints > 0)) {
		const counted = messages.columns.find((c) => c.column >= 0 && saysWhich(c, column, kept, messages, keyIn, tables));
		if (counted) return { column, own: counted };
	}
	return areAlike && time ? { column: time, own: null } : null;
}

/** Whether each message has a number that one of its texts has, and some with several another one than the first. */
function saysWhich(
	own: SheetColumn,
	column: SheetColumn,
	kept: ReadonlyMap<string, readonly Row[]>,
	{ rows: messages }: Sheet,
	keyIn: (row: Row) => string,
	tables: readonly Table[]
): boolean {
	if (own.profile.ints === 0 || own.profile.unique) return false;
	const numbers = (row: Row): number[] => (kept.get(keyIn(row)) ?? []).map((one) => Number(cell(one, column, tables)));
	const rows = messages.filter((row) => row.standing === 'kept' && numbers(row).length > 0);
	const said = rows.filter((row) => numbers(row).includes(Number(cell(row, own, tables))));
	const later = said.filter((row) => Number(cell(row, own, tables)) > Math.min(...numbers(row)));
	return said.length >= rows.length * NEARLY_ALL && later.length > 0;
}

/** Whether texts of a message are wordings of one: they are called so, or mostly alike. */
function areWordings({ sheet, text }: Texts, several: readonly (readonly Row[])[], tables: readonly Table[]): boolean {
	if (VERSIONS_NAMED.test(sheet.name)) return true;
	const alike = several.filter((rows) => {
		const [one, other] = rows.map((row) => String(cell(row, text, tables)));
		return shareWithin(one!, other!) > ALIKE;
	});
	return alike.length > several.length * MOSTLY;
}

/** Of a message's texts the one that it says counts, or the last. */
export function versionOf(message: Row, rows: readonly Row[], { column, own }: VersionColumn, tables: readonly Table[]): Row[] {
	const number = (row: Row): number => Number(cell(row, column, tables)) || 0;
	const said = own && rows.find((row) => number(row) === Number(cell(message, own, tables)));
	const [last] = [...rows].sort((a, b) => number(b) - number(a));
	return said ? [said] : last ? [last] : [];
}

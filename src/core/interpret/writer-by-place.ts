/** Who wrote as a place in the list of those who take part in the conversation, which stands in the conversation's row. */
import type { Row } from '../model';
import { bestText } from './columns';
import type { Context } from './context';
import { addressesIn, profileOf } from './profile';
import { keyOf, type Reference } from './refs';
import { cell, isOwnNumber, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';

const SURE = 0.6;
const LEAST = 10;
const LISTS_LEAST = 3;
const MOSTLY = 0.9;
/** What such a column is called, where no list is longer than two and any flag would fit. */
const NAMED = /index|idx|position|place|slot|ordinal/i;

/** Adds the columns, to sheets of texts whose conversations have such lists. */
export function openWritersByPlace(context: Context): void {
	for (const sheet of context.sheets) {
		if (sheet.family || !bestText(sheet)) continue;
		const refs = context.references.get(sheet) ?? [];
		const found = refs.filter((r) => refs.find((x) => x.from === r.from) === r).map((r) => placesIn(r, sheet, context));
		const places = found.find((one) => one !== null);
		if (!places) continue;
		const { column, made } = places;
		const profile = profileOf(sheet.sure, made.read, sampleOf(sheet.sure));
		sheet.columns.push({ name: `${column.name} (member)`, column: column.column, path: ['member'], made, profile });
		column.profile = { ...column.profile, filled: 0, ints: 0, distinct: new Map() };
		context.references.set(
			sheet,
			(context.references.get(sheet) ?? []).filter((r) => r.from !== column)
		);
	}
}

function placesIn({ from, key, confidence }: Reference, sheet: Sheet, { tables }: Context): { column: SheetColumn; made: Made } | null {
	if (confidence < SURE || key.sheet === sheet) return null;
	const lists = key.sheet.columns.map((c) => listsOf(c, key.sheet, key.column, tables)).find((found) => found !== null);
	if (!lists) return null;
	const listOf = (row: Row): readonly string[] | undefined => lists.get(keyOf(cell(row, from, tables)) ?? '');
	for (const column of sheet.columns) {
		const { profile: p } = column;
		if (column === from || column.column < 0 || column.made || column.path.length > 0 || isOwnNumber(column, sheet, tables)) continue;
		if (p.texts > 0 || p.reals > 0 || p.ints < LEAST || p.low < 0 || p.high > 1000 || p.distinct.size < 2) continue;
		const first = p.low > 0 ? 1 : 0;
		const rows = sheet.sure.filter((row) => listOf(row));
		const at = (row: Row): number => Number(cell(row, column, tables)) - first;
		if (rows.length < sheet.sure.length * MOSTLY || !rows.every((row) => at(row) >= 0 && at(row) < listOf(row)!.length)) continue;
		// Where there are several to write to, more than two places come up, and there only.
		const isTold = rows.some((row) => at(row) > 1) || NAMED.test(column.name);
		if (isTold) return { column, made: { read: (row) => listOf(row)?.[at(row)], writer: true } };
	}
	return null;
}

/** The addresses that a column lists, two or more to nearly each row, by the keys of the rows; null where it lists none. */
function listsOf(
	column: SheetColumn,
	sheet: Sheet,
	key: SheetColumn | null,
	tables: Context['tables']
): Map<string | number, string[]> | null {
	if (column.profile.texts < LISTS_LEAST || column.made) return null;
	const lists = new Map<string | number, string[]>();
	for (const row of sheet.rows) {
		const [k, text] = [keyOf(key ? cell(row, key, tables) : row.rowid), cell(row, column, tables)];
		const list = typeof text === 'string' ? addressesIn(text) : [];
		if (k !== null && list.length > 1) lists.set(k, list);
	}
	return lists.size >= Math.max(LISTS_LEAST, sheet.sure.length * MOSTLY) ? lists : null;
}

/** Numbers and addresses of persons that stand in one value: a list as JSON, or a whole card (vCard). */
import type { Table } from '../model';
import { isVcard, readVcards } from '../people';
import { EMAIL, PHONE } from './profile';
import { addressShare } from './columns';
import type { Context } from './context';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { jsonOf } from './stored';

const ROWS = 400;
const MOST_LEAVES = 200;
const DEEPEST = 4;
/** Share of the values that must be lists or cards, and of the addresses that must stand in one row alone. */
const MOSTLY = 0.6;
const ONCE = 0.9;

/** The numbers and addresses within a value that is a list of them. */
export function addressesListed(value: unknown): string[] {
	const out: string[] = [];
	const visit = (v: unknown, depth: number): void => {
		if (out.length >= MOST_LEAVES || depth > DEEPEST) return;
		if (typeof v === 'string') {
			if (PHONE.test(v) || EMAIL.test(v)) out.push(v);
		} else if (v !== null && typeof v === 'object') for (const inner of Object.values(v)) visit(inner, depth + 1);
	};
	visit(value, 0);
	return out;
}

/** Columns whose values list numbers or addresses, those of one person each. */
function listsOfAddresses(sheet: Sheet, tables: readonly Table[]): SheetColumn[] {
	return sheet.columns.filter((column) => {
		if (column.column < 0 || column.profile.texts === 0) return false;
		let values = 0;
		let lists = 0;
		const rowsOf = new Map<string, number>();
		for (const row of sheet.sure.slice(0, ROWS)) {
			const value = cell(row, column, tables);
			if (value === null || value === undefined || value === '') continue;
			values++;
			const json = jsonOf(value);
			if (json === undefined) continue;
			lists++;
			for (const address of new Set(addressesListed(json))) rowsOf.set(address, (rowsOf.get(address) ?? 0) + 1);
		}
		const once = [...rowsOf.values()].filter((n) => n === 1).length;
		return lists > 0 && lists >= values * MOSTLY && rowsOf.size > 0 && once >= rowsOf.size * ONCE;
	});
}

/** Columns whose values list one person's numbers and addresses, not those who take part in something. */
export const listsOfOwnAddresses = (sheet: Sheet, context: Context): SheetColumn[] =>
	listsOfAddresses(sheet, context.tables).filter((column) => !listsMembers(column, sheet, context));

const MEMBERS_NAMED = /member|participant|recipient|people|attend|users$/i;
const WRITERS_LEAST = 3;

/** Whether those listed are members: one writes under another row's key as well, or several under the key of the row that lists them. */
function listsMembers(column: SheetColumn, sheet: Sheet, { sheets, references, tables }: Context): boolean {
	if (MEMBERS_NAMED.test(column.name.split('.').at(-1)!)) return true;
	return sheets.some((s) =>
		(references.get(s) ?? []).some(({ from, key, confidence }) => {
			if (s === sheet || key.sheet !== sheet || confidence <= 0.5) return false;
			const lists = new Map<string | number | null, string[]>();
			for (const row of sheet.rows)
				lists.set(key.column ? keyOf(cell(row, key.column, tables)) : keyOf(row.rowid), addressesListed(jsonOf(cell(row, column, tables))));
			const listed = new Set([...lists.values()].flat());
			const writers = s.columns.filter((c) => c !== from && c.column >= 0 && addressShare(c) > MOSTLY);
			return writers.some((writer) => {
				const met = new Map<string | number, Set<string>>();
				for (const row of s.sure.slice(0, ROWS * 8)) {
					const [room, who] = [keyOf(cell(row, from, tables)), cell(row, writer, tables)];
					if (room === null || typeof who !== 'string' || !listed.has(who)) continue;
					if (!lists.get(room)?.includes(who)) return true;
					met.set(room, (met.get(room) ?? new Set()).add(who));
				}
				return [...met.values()].some((names) => names.size >= WRITERS_LEAST);
			});
		})
	);
}

/** A column of whole cards. */
export function cardsColumn(sheet: Sheet, tables: readonly Table[]): SheetColumn | null {
	const isCards = (column: SheetColumn): boolean => {
		if (column.column < 0 || column.profile.texts < sheet.sure.length * MOSTLY) return false;
		const values = sheet.sure.slice(0, ROWS).map((row) => cell(row, column, tables));
		return values.filter((v) => typeof v === 'string' && isVcard(v)).length >= values.length * MOSTLY;
	};
	return sheet.columns.find(isCards) ?? null;
}

/** Name and addresses of the card in a value, or null. */
export function cardIn(value: unknown): { name: string | null; addresses: string[] } | null {
	const [card] = typeof value === 'string' && isVcard(value) ? readVcards(value) : [];
	return card ? { name: card.name, addresses: [...card.numbers, ...card.emails, ...card.handles] } : null;
}

/** Numbers and addresses of persons that stand in one value: a list as JSON, or a whole card (vCard). */
import type { Table } from '../model';
import { isVcard, readVcards } from '../people';
import { EMAIL, PHONE } from './profile';
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
export function listsOfAddresses(sheet: Sheet, tables: readonly Table[]): SheetColumn[] {
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

/** Names that a list has in small letters only, to be searched by, where the rest of the row has them as they are written. */
import type { Row, Table, Value } from '../model';
import { cell, type Sheet, type SheetColumn } from './sheet';

const ROWS = 200;
const MOSTLY = 0.8;
const LONGEST = 1 << 16;
const utf8 = new TextDecoder();

/** Signs that part a name from what follows it, where nothing does. */
const EMPTY_END = /[;,|/]+$/;

/** The column of bytes that has nearly all names of `name` in other letters; null where the names are as they are written. */
export function casedIn(name: SheetColumn, sheet: Sheet, tables: readonly Table[]): SheetColumn | null {
	const rows = sheet.sure.slice(0, ROWS).flatMap((row) => {
		const text = cell(row, name, tables);
		return typeof text === 'string' && text.replace(EMPTY_END, '') !== '' ? [{ row, text }] : [];
	});
	if (rows.length === 0 || rows.some(({ text }) => text !== text.toLowerCase())) return null;
	const has = (c: SheetColumn): boolean =>
		rows.filter(({ row, text }) => casedBy(text, cell(row, c, tables)) !== null).length >= rows.length * MOSTLY;
	return sheet.columns.find((c) => c.column !== name.column && c.path.length === 0 && c.profile.blobs > 0 && has(c)) ?? null;
}

/** A name as its row's bytes write it, word by word; null where they do not have it. */
export function cased(name: string, row: Row, column: SheetColumn, tables: readonly Table[]): string | null {
	return casedBy(name, cell(row, column, tables));
}

function casedBy(name: string, value: Value | undefined): string | null {
	if (!(value instanceof Uint8Array) || value.length > LONGEST) return null;
	const text = utf8.decode(value);
	const words = name
		.replace(EMPTY_END, '')
		.split(' ')
		.map((word) => wordIn(text, word));
	return words.includes(null) || words.every((word) => word === word!.toLowerCase()) ? null : words.join(' ');
}

/** A word as it stands where one begins, or with a capital anywhere. */
function wordIn(text: string, word: string): string | null {
	if (word === '') return null;
	const small = text.toLowerCase();
	const isAligned = small.length === text.length;
	for (let at = small.indexOf(word); isAligned && at >= 0; at = small.indexOf(word, at + 1))
		if (!/[\p{L}\p{N}]/u.test(text[at - 1] ?? ' ')) return text.slice(at, at + word.length);
	const [first = ''] = word;
	const capital = first.toUpperCase() + word.slice(first.length);
	return capital !== word && text.includes(capital) ? capital : null;
}

/**
 * Numbers of persons within the bytes of messages, where they stand at the same place in all: who wrote, in stores that
 * keep a message as its program sends it. Only what a list's own large numbers bear out is taken for one.
 */
import type { Row, Value } from '../model';
import { bestText } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { keyOf, type Key } from './refs';
import { cell, sampleOf, type Sheet, type SheetColumn } from './sheet';

/** Bytes from a value's beginning in which such a number is sought, and how it may be written. */
const WITHIN = 64;
const WIDTHS = [4, 8] as const;
const ROWS = 2000;
/** Small numbers are keys of anything. */
const SMALL = 1000;
const LEAST = 3;
const ROWS_LEAST = 8;
/** Share of the rows that must name one of the list. */
const MOSTLY = 0.95;
const SURE = 0.6;

/** Adds the columns, with the references to the lists that they name. */
export function openNumbersInBytes(context: Context): void {
	for (const sheet of context.sheets) {
		const text = bestText(sheet)?.value;
		if (!text?.body || text.body.kind !== 'inside-binary' || sheet.family) continue;
		const rows = sheet.sure.filter((row) => row.values[text.column] instanceof Uint8Array).slice(0, ROWS);
		if (rows.length < ROWS_LEAST) continue;
		for (const key of context.keys.filter((k) => k.sheet !== sheet && isOfLarge(k))) addNamed(sheet, text.column, rows, key, context);
	}
}

const isOfLarge = ({ values }: Key): boolean =>
	values.size >= LEAST && [...values].every((v) => typeof v === 'number' && Math.abs(v) >= SMALL);

function addNamed(sheet: Sheet, column: number, rows: readonly Row[], key: Key, { references, tables }: Context): void {
	for (const width of WIDTHS)
		for (let at = 0; at + width <= WITHIN; at++)
			for (const isLittle of [true, false]) {
				const read = (row: Row): Value | undefined => numberAt(row.values[column], at, width, isLittle);
				const named = namedBy(rows, read, key);
				if (!named || new Set(named).size < LEAST) continue;
				if (
					sheet.columns.some((c) => c.column >= 0 && c.profile.ints > 0 && rows.every((row) => keyOf(cell(row, c, tables)) === read(row)))
				)
					continue;
				const name = `${tables[sheet.tables[0]!]!.columns[column]!.name} (bytes ${at} to ${at + width - 1})`;
				const profile = profileOf(sheet.sure, read, sampleOf(sheet.sure));
				const from: SheetColumn = { name, column, path: [`${at}`], made: { read }, profile };
				sheet.columns.push(from);
				const reference = {
					from,
					key,
					confidence: SURE,
					inclusion: named.length / rows.length,
					coverage: new Set(named).size / key.values.size
				};
				references.set(sheet, [...(references.get(sheet) ?? []), reference]);
			}
}

/** The numbers of the list that rows name; null as soon as too many name none of it. */
function namedBy(rows: readonly Row[], read: (row: Row) => Value | undefined, { values }: Key): number[] | null {
	const named: number[] = [];
	for (const [i, row] of rows.entries()) {
		const n = read(row);
		if (typeof n === 'number' && values.has(n)) named.push(n);
		else if (i + 1 - named.length > rows.length * (1 - MOSTLY)) return null;
	}
	return named;
}

function numberAt(value: Value | undefined, at: number, width: 4 | 8, isLittle: boolean): number | undefined {
	if (!(value instanceof Uint8Array) || value.length < at + width) return undefined;
	const view = new DataView(value.buffer, value.byteOffset + at, width);
	if (width === 4) return view.getUint32(0, isLittle);
	const wide = view.getBigInt64(0, isLittle);
	return wide >= -MOST && wide <= MOST ? Number(wide) : undefined;
}
const MOST = BigInt(Number.MAX_SAFE_INTEGER);

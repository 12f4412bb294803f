/**
 * Files whose bytes stand in a table of their own, in one row each or in several pieces: the rows that state the files get
 * their bytes.
 */
import { mediaTypeOf } from '../bytes';
import { joinedBytes } from '../harvest';
import type { Row } from '../model';
import { bestText } from './columns';
import type { Context } from './context';
import { fileColumns } from './files';
import { isMeant, type Reference } from './refs';
import { addColumn, rowsByMessage, type RowsOfMessages } from './rows-of-messages';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const SURE = 0.5;
/** Files that are looked at, and share of them that must begin as files do. */
const LOOKED_AT = 100;
const MOSTLY = 0.8;
/** Pieces of one file, at most. */
const MOST_PIECES = 1 << 16;
const PROSE = 0.3;

/** Adds the columns; the tables that hold nothing but bytes. */
export function openBytesBeside(context: Context): Set<Sheet> {
	const found = new Set<Sheet>();
	for (const list of context.sheets) {
		const bytes = list.columns.find((c) => c.column >= 0 && c.path.length === 0 && !c.made && c.profile.blobs > 0);
		if (!bytes || bestText(list)) continue;
		// Small numbers are those of other rows too: it is the rows of which (nearly) each has bytes.
		const references = (context.references.get(list) ?? []).toSorted((a, b) => b.coverage - a.coverage || distinctIn(b) - distinctIn(a));
		const opened = references.some((r) => isMeant(r, list, context.tables) && r.confidence >= SURE && open(list, bytes, r, context));
		if (opened || sharersOf(list, context).some((shared) => open(list, bytes, shared, context))) found.add(list);
	}
	return found;
}

const distinctIn = ({ from }: Reference): number => from.profile.distinct.size;

/** The sheets that state files and whose rows in use have the very numbers that those of a table of bytes have. */
function sharersOf(list: Sheet, { sheets, tables }: Context): Pick<Reference, 'from' | 'key'>[] {
	const from = list.columns.find((c) => isOwnNumber(c, list, tables));
	if (!from) return [];
	const numbers = new Set(list.sure.map((row) => row.rowid));
	return sheets.flatMap((sheet) => {
		const isShared = sheet !== list && sheet.sure.length === numbers.size && sheet.sure.every((row) => numbers.has(row.rowid));
		return isShared && numbers.size >= SHARED_LEAST && fileColumns(sheet, tables)
			? [{ from, key: { sheet, column: null } as Reference['key'] }]
			: [];
	});
}
const SHARED_LEAST = 3;

function open(list: Sheet, bytes: SheetColumn, { from, key }: Pick<Reference, 'from' | 'key'>, { tables }: Context): boolean {
	if (key.sheet === list) return false;
	const rowsOf: RowsOfMessages = { list, messages: key.sheet, key: from, own: key.column };
	const rows = rowsByMessage(rowsOf, tables);
	const looked = key.sheet.sure
		.slice(0, LOOKED_AT)
		.map(rows)
		.filter((of) => of.length > 0);
	const areWhole = looked.every((of) => of.length === 1);
	// Whole files that name messages are files of those, stated where they are.
	if (looked.length === 0 || (areWhole && (bestText(key.sheet)?.value.profile.prose ?? 0) > PROSE)) return false;
	const order = areWhole ? null : orderIn(list, looked, [from, bytes], tables);
	if (!areWhole && !order) return false;
	const joined = (row: Row): Uint8Array | null => joinedOf(rows(row), bytes, order);
	const known = looked.filter((of) => {
		const value = joinedOf(of, bytes, order);
		return value !== null && mediaTypeOf(value.subarray(0, 16)) !== null;
	});
	if (known.length < looked.length * MOSTLY) return false;
	addColumn(rowsOf, `${list.name}.${bytes.name}`, { read: joined, bytes: true }, tables);
	return true;
}

/** The column that numbers a file's pieces: whole numbers, no two of one file alike; else the rows' own numbers. */
function orderIn(
	list: Sheet,
	looked: readonly (readonly Row[])[],
	except: readonly SheetColumn[],
	tables: Context['tables']
): ((row: Row) => number) | null {
	const numbers = list.columns.filter(
		(c) =>
			!except.includes(c) && c.column >= 0 && c.path.length === 0 && !c.made && c.profile.ints === c.profile.filled && c.profile.ints > 0
	);
	const differs = (of: readonly Row[], at: (row: Row) => number): boolean => new Set(of.map(at)).size === of.length;
	// Lengths differ too: what numbers pieces begins alike for all files.
	const orders = numbers
		.map((c) => ({ low: c.profile.low, high: c.profile.high, at: (row: Row): number => Number(cell(row, c, tables)) }))
		.filter(({ at }) => looked.every((of) => differs(of, at)))
		.sort((a, b) => a.high - b.high);
	if (orders.length > 0) return orders[0]!.at;
	const byRow = (row: Row): number => Number(row.rowid ?? NaN);
	return looked.every((of) => differs(of, byRow)) ? byRow : null;
}

function joinedOf(rows: readonly Row[], bytes: SheetColumn, order: ((row: Row) => number) | null): Uint8Array | null {
	if (rows.length === 0 || rows.length > MOST_PIECES) return null;
	const ordered = order ? rows.toSorted((a, b) => order(a) - order(b)) : rows;
	const pieces = ordered.map((row) => row.values[bytes.column]);
	// With a piece missing it is not the file.
	if (!pieces.every((piece): piece is Uint8Array => piece instanceof Uint8Array) || ordered.some((row) => row.cut === bytes.column))
		return null;
	return joinedBytes(pieces);
}

/**
 * What the rows of a table look like, from its declaration and from the rows in use: the measure by which freed
 * bytes are taken for a row or not. Tables of the same shape (a table per contact, say) share one.
 */
import { bytesOfStored, oddities, type Encoding } from '../../bytes';
import type { Table, Value } from '../../model';
import { readMagnitude, scanned, sizeOfSerialType } from './record';
import { storedOrder } from './schema';

export const NULL = 1;
export const INT = 2;
export const REAL = 4;
export const TEXT = 8;
export const BLOB = 16;
const ANY = 31;

/** As many columns as the engine lets a table have by default (limits, section 3). */
export const MOST_COLUMNS = 2000;

/** Rows that must have been seen before observation narrows the declaration. */
export const ENOUGH = 8;

/** First bytes of a blob that are looked at: a count can stand before what all have alike. */
export const LEADS = 4;

export interface Shape {
	tables: number[];
	/** Record column → table column. */
	order: number[];
	/** Storage classes that the declaration lets a column hold (datatypes, section 3). */
	declared: number[];
	seen: number[];
	/** Whether the integers 0 (bit 0) and 1 (bit 1), which take no bytes, were seen. */
	bare: number[];
	low: number[];
	high: number[];
	shortest: number[];
	longest: number[];
	/** The first bytes of each column's blobs, `LEADS` of a column: −1 where none was seen, −2 where they differ. */
	leads: number[];
	/** The sizes of each column's blobs, until there are more than `FEW_SIZES`. */
	blobSizes: number[][];
	/** What the texts of a column have that UTF-8 has not, or writing (see `oddities`). */
	oddities: number[];
	/** The lowest and highest byte with which texts and blobs of each column begin, in rows without rowids; 0x80 for letters beyond ASCII. */
	lowestLead: number[];
	highestLead: number[];
	/** Rows seen. */
	rows: number;
	/** Fewest columns seen in a record: older rows of a table that has grown have fewer. */
	fewest: number;
	/** Record column that is the rowid and therefore stored as null, or -1. */
	rowidAt: number;
	lowRowid: number;
	highRowid: number;
	withoutRowid: boolean;
	/** For the entries of an index: table column of each indexed value (−1 where it is none), the rowid's being last. */
	entryOf?: { table: number; columns: number[] };
}

/** Storage class of a serial type. */
export const classOfSerialType = (type: number): number =>
	type === 0 ? NULL : type === 7 ? REAL : type < 10 ? INT : type % 2 ? TEXT : BLOB;

/** Section 3.1 "Determination Of Column Affinity", as the classes it lets be stored. */
function classesOfType(type: string, notNull: boolean): number {
	const nullable = notNull ? 0 : NULL;
	if (type.includes('INT')) return nullable | INT | REAL;
	// A blob in a text column is possible and rare: it counts only once one was seen.
	if (/CHAR|CLOB|TEXT/.test(type)) return nullable | TEXT;
	if (type === '' || type.includes('BLOB')) return ANY & (notNull ? ~NULL : ANY);
	if (/REAL|FLOA|DOUB/.test(type)) return nullable | INT | REAL;
	return nullable | INT | REAL | TEXT;
}

export function shapeOf(table: Table): Shape {
	const order = storedOrder(table);
	return {
		...blank(order),
		tables: [table.index],
		declared: order.map((i) => {
			const { type, notNull } = table.columns[i]!;
			// The key of a table without rowids cannot be null, whatever is declared (WITHOUT ROWID, section 2.0).
			return i === table.rowidColumn ? NULL : classesOfType(type, notNull || (table.withoutRowid && table.primaryKey.includes(i)));
		}),
		rowidAt: order.indexOf(table.rowidColumn),
		withoutRowid: table.withoutRowid
	};
}

/** A shape of which no row was seen yet. */
function blank(order: number[]): Shape {
	const column = (value: number): number[] => order.map(() => value);
	return {
		tables: [],
		order,
		declared: column(ANY),
		seen: column(0),
		bare: column(0),
		low: column(Infinity),
		high: column(-Infinity),
		shortest: column(Infinity),
		longest: column(0),
		leads: order.flatMap(() => Array<number>(LEADS).fill(-1)),
		blobSizes: order.map(() => []),
		oddities: column(0),
		lowestLead: column(Infinity),
		highestLead: column(-Infinity),
		rows: 0,
		fewest: order.length,
		rowidAt: -1,
		lowRowid: Infinity,
		highRowid: -Infinity,
		withoutRowid: false
	};
}
/** Two tables share a shape where declaration and storage order are the same. */
export const shapeKey = (table: Table): string =>
	JSON.stringify([
		table.withoutRowid,
		table.primaryKey.length && table.withoutRowid ? table.primaryKey : table.rowidColumn,
		table.columns.map((c) => [c.name, c.type, c.notNull, c.virtual])
	]);

/** Bytes that a text takes as it is stored. */
const sizeOfText = (text: string, encoding: Encoding): number =>
	encoding !== 'utf8' ? text.length * 2 : /^[\x00-\x7f]*$/.test(text) ? text.length : encoder.encode(text).length;
const encoder = new TextEncoder();

/** Rows whose texts are looked into. */
const LOOKED_INTO = 40;

function odditiesOf(text: string, encoding: Encoding): number {
	if (encoding !== 'utf8' || /^[\x20-\x7e]*$/.test(text)) return 0;
	const bytes = bytesOfStored(text);
	return oddities(bytes, 0, bytes.length);
}

/** Takes a row that is certain into account. `values` in declared order. Lengths of texts are in bytes, as they are stored. */
export function learn(
	shape: Shape,
	rowid: number | bigint | null,
	values: (Value | undefined)[],
	stored: number,
	encoding: Encoding
): void {
	shape.rows++;
	if (stored < shape.fewest) shape.fewest = stored;
	if (rowid !== null) {
		const n = Number(rowid);
		if (n < shape.lowRowid) shape.lowRowid = n;
		if (n > shape.highRowid) shape.highRowid = n;
	}
	for (let k = 0; k < stored; k++) {
		if (k === shape.rowidAt) {
			shape.seen[k]! |= NULL;
			continue;
		}
		const value = values[shape.order[k]!];
		if (value === null || value === undefined) shape.seen[k]! |= NULL;
		else if (typeof value === 'string') {
			shape.seen[k]! |= TEXT;
			const size = sizeOfText(value, encoding);
			if (size < shape.shortest[k]!) shape.shortest[k] = size;
			if (size > shape.longest[k]!) shape.longest[k] = size;
			if (shape.rows <= LOOKED_INTO) shape.oddities[k]! |= odditiesOf(value, encoding);
			if (size > 0) learnLeads(shape, k, Math.min(value.charCodeAt(0), 0x80));
		} else if (typeof value === 'object') {
			shape.seen[k]! |= BLOB;
			if (value.length < shape.shortest[k]!) shape.shortest[k] = value.length;
			if (value.length > shape.longest[k]!) shape.longest[k] = value.length;
			learnLead(shape, k, value, 0, value.length);
			learnSize(shape.blobSizes[k]!, value.length);
			if (value.length > 0) learnLeads(shape, k, value[0]!);
		} else {
			const n = Number(value);
			shape.seen[k]! |= Number.isInteger(n) ? INT : REAL;
			if (n === 0) shape.bare[k]! |= 1;
			else if (n === 1) shape.bare[k]! |= 2;
			if (n < shape.low[k]!) shape.low[k] = n;
			if (n > shape.high[k]!) shape.high[k] = n;
		}
	}
}

function learnLeads({ withoutRowid, lowestLead, highestLead }: Shape, column: number, byte: number): void {
	if (!withoutRowid) return;
	if (byte < lowestLead[column]!) lowestLead[column] = byte;
	if (byte > highestLead[column]!) highestLead[column] = byte;
}

function learnLead({ leads }: Shape, column: number, b: Uint8Array, from: number, to: number): void {
	for (let k = column * LEADS, at = from; k < (column + 1) * LEADS && at < to; k++, at++) {
		const known = leads[k]!;
		if (known !== b[at] && known !== -2) leads[k] = known === -1 ? b[at]! : -2;
	}
}

/** Keys of several tables' rows in one column are of a few sizes. */
export const FEW_SIZES = 3;

function learnSize(sizes: number[], size: number): void {
	if (sizes.length <= FEW_SIZES && !sizes.includes(size)) sizes.push(size);
}

/** Which of the first bytes of a column's blobs is the same in all of them, and not 0; −1 where none is. */
export function leadAt({ leads }: Shape, column: number): number {
	for (let k = 0; k < LEADS; k++) if (leads[column * LEADS + k]! > 0) return k;
	return -1;
}

/**
 * As `learn`, from the record last scanned: nothing but its numbers is read. Returns the largest magnitude among the numbers, the first
 * column's left out (see `contentKeys`).
 */
export function learnScanned(shape: Shape, rowid: number | bigint, b: Uint8Array): number {
	const { types, count } = scanned;
	const { seen, bare, low, high, shortest, longest } = shape;
	shape.rows++;
	if (count < shape.fewest) shape.fewest = count;
	const number = Number(rowid);
	if (number < shape.lowRowid) shape.lowRowid = number;
	if (number > shape.highRowid) shape.highRowid = number;
	const most = Math.min(count, shape.order.length);
	let at = scanned.body;
	let largest = 0;
	for (let k = 0; k < most; k++) {
		const type = types[k]!;
		if (type >= 12) {
			const size = (type - 12) >> 1;
			seen[k]! |= type & 1 ? TEXT : BLOB;
			if (size < shortest[k]!) shortest[k] = size;
			if (size > longest[k]!) longest[k] = size;
			if ((type & 1) === 0) {
				learnLead(shape, k, b, at, at + size);
				learnSize(shape.blobSizes[k]!, size);
			}
			if (type & 1 && shape.rows <= LOOKED_INTO) shape.oddities[k]! |= oddities(b, at, at + size);
			at += size;
			continue;
		}
		if (type === 0 || k === shape.rowidAt) {
			seen[k]! |= NULL;
			at += sizeOfSerialType(type);
			continue;
		}
		const n = readMagnitude(b, at, type);
		at += sizeOfSerialType(type);
		seen[k]! |= Number.isInteger(n) ? INT : REAL;
		if (n === 0) bare[k]! |= 1;
		else if (n === 1) bare[k]! |= 2;
		if (n < low[k]!) low[k] = n;
		if (n > high[k]!) high[k] = n;
		if (k > 0 && n > largest) largest = n;
		else if (k > 0 && -n > largest) largest = -n;
	}
	return largest;
}

/** Whether a column of this shape can hold a value of this serial type. */
export function allows(shape: Shape, column: number, type: number): boolean {
	const cls = classOfSerialType(type);
	if (shape.rows >= ENOUGH) {
		const seen = shape.seen[column]!;
		if (cls & seen) return true;
		// A null is possible wherever the declaration does not forbid it; a real column holds whole numbers as integers.
		if (cls === NULL) return (shape.declared[column]! & NULL) !== 0;
		if (cls === INT && seen & REAL) return true;
		if (cls === REAL && seen & INT) return (shape.declared[column]! & REAL) !== 0 && (seen & TEXT) === 0;
		// A column that has only ever been null says nothing.
		return seen === NULL && (cls & shape.declared[column]!) !== 0 && column !== shape.rowidAt;
	}
	return (cls & shape.declared[column]!) !== 0;
}

/** How well a number fits what the column has held: 1 in range, 0 unknown, below 0 outside, −1 to −2 by how far. */
export function fitsRange(shape: Shape, column: number, n: number): number {
	const low = shape.low[column]!;
	const high = shape.high[column]!;
	if (shape.rows < ENOUGH || low > high) return 0;
	const slack = Math.max((high - low) * 0.5, Math.abs(high) * 0.02, 4);
	if (n >= low - slack && n <= high + slack) return 1;
	// A few rows show what is usual, not what is possible.
	return shape.rows < 40 ? 0 : -1 - Math.min(1, (n < low ? low - n : n - high) / (high - low + 1));
}

/** The shape of an index's entries: any values, then the rowid, until entries have been learned from. */
export function entryShape(table: number, columns: number[], count: number): Shape {
	const shape = blank(Array.from({ length: count }, (_, k) => k));
	shape.declared[count - 1] = INT;
	return { ...shape, withoutRowid: true, entryOf: { table, columns } };
}

/**
 * The same of an index on a table without rowids (WITHOUT ROWID, section 4: its entries end with the primary key). They are
 * known as entries, so that none is taken for a row of the table, and say nothing of their own.
 */
export const keyedEntryShape = (table: number, count: number): Shape => ({
	...blank(Array.from({ length: count }, (_, k) => k)),
	withoutRowid: true,
	entryOf: { table, columns: Array.from({ length: count }, () => -1) }
});

/** A letter takes so many bytes at most (two where it takes two units of UTF-16, four bytes in UTF-8). */
const BYTES_OF_LETTER = 3;

/** Bytes that the values stored behind one of a table's columns take at most, by the rows seen. */
export function bytesBehind(shape: Shape, column: number): number {
	let bytes = 0;
	for (let k = shape.order.indexOf(column) + 1; k < shape.order.length; k++) {
		if (k === shape.rowidAt) continue;
		const seen = shape.seen[k]!;
		const number = seen & REAL ? 8 : seen & INT ? bytesOfInteger(Math.max(Math.abs(shape.low[k]!), Math.abs(shape.high[k]!))) : 0;
		bytes += Math.max(number, seen & (TEXT | BLOB) ? shape.longest[k]! * BYTES_OF_LETTER : 0);
	}
	return bytes;
}

/** Section 2.1 "Record Format": integers are stored in 1, 2, 3, 4, 6 or 8 bytes. */
const bytesOfInteger = (magnitude: number): number => [1, 2, 3, 4, 6].find((bytes) => magnitude < 2 ** (8 * bytes - 1)) ?? 8;

/**
 * The end of a cell whose head is gone: a page that became an interior one has its pointers where the last cell of the
 * leaf it was began (section 1.6). What is left are the record's last values. They are taken only where they prove
 * themselves: the last text of the table, with what can stand behind it, up to where another cell begins; before it a
 * number that one of that column can be, or the beginning that all texts of that column have.
 */
import { isText, type Encoding } from '../../../bytes';
import type { Value } from '../../../model';
import { readMagnitude, readValue, scanned, scanRecord, sizeOfSerialType } from '../record';
import { allows, ENOUGH, INT, NULL, REAL, TEXT, type Shape } from '../shape';

export interface Tail {
	/** Within the page: from the first value that is whole. */
	start: number;
	/** In record order; undefined where lost. */
	values: (Value | undefined)[];
}

/** The shortest text that is sought, and bytes of its column's values from which on it is one of writing. */
const SHORTEST = 8;
const WRITTEN = 16;
/** How much smaller a number may be than the smallest in use: a share of it. */
const OLDER = 0.05;
/** A number that is as large tells that it is one of its column. */
const TELLING = 2 ** 24;
/** Ways in which the values behind the text can be stored that are tried, at most. */
const WAYS_AT_MOST = 64;
const LONGEST_NUMBER = 8;
const SIZES: readonly [number, number][] = [
	[1, 1],
	[2, 2],
	[3, 3],
	[4, 4],
	[5, 6],
	[6, 8]
];

/** The columns of a table's texts behind which nothing stands but few numbers, or texts that can be none. */
export function lastTexts(shape: Shape): number[] {
	if (shape.rows < ENOUGH) return [];
	const { seen, longest } = shape;
	const canBeNone = (k: number): boolean => (seen[k]! & ~(NULL | INT)) === 0 || (seen[k]! & NULL) !== 0;
	const columns: number[] = [];
	for (let k = seen.length - 1; k > 0; k--) {
		if (seen[k]! & TEXT && longest[k]! >= WRITTEN) columns.push(k);
		if (!canBeNone(k)) break;
	}
	return columns;
}

/**
 * The record of `shape` (section 2.1) in [from, end) of a page of which only what stood before it is gone: its length and its
 * number. It ends where another cell begins.
 */
export function recordUpTo(b: Uint8Array, from: number, end: number, shape: Shape, encoding: Encoding): Tail | null {
	const count = shape.order.length;
	for (let start = from; start + count < end; start++) {
		const body = start + b[start]!;
		if (b[start]! <= count || b[start]! > count * 2 + 1 || body >= end || !scanRecord(b, start, end) || scanned.count !== count) continue;
		const types = Array.from(scanned.types.subarray(0, count));
		if (body + types.reduce((sum, type) => sum + sizeOfSerialType(type), 0) !== end || !types.every((type, k) => allows(shape, k, type)))
			continue;
		const values: (Value | undefined)[] = [];
		let at = body;
		for (const [k, type] of types.entries()) {
			const to = at + sizeOfSerialType(type);
			if (type >= 13 && type % 2 === 1 && !isText(b, at, to, encoding, shape.oddities[k])) break;
			values.push(k === shape.rowidAt ? undefined : readValue(b, at, type, encoding));
			at = to;
		}
		if (values.length === count) return { start, values };
	}
	return null;
}

/** A column of texts: how all of them begin, if they do. */
export interface Texts {
	column: number;
	lead: Uint8Array | null;
	encoding: Encoding;
}

/** The end of a cell of `shape` in [from, end) of a page, where another cell begins at `end`. */
export function tailOf(b: Uint8Array, from: number, end: number, shape: Shape, texts: Texts): Tail | null {
	const { column, lead, encoding } = texts;
	// In two bytes a letter nearly any bytes are text: where it begins only its beginning says.
	if (end - from < SHORTEST || (encoding !== 'utf8' && !lead)) return null;
	let found: Tail | null = null;
	for (const behind of waysBehind(shape, column)) {
		const to = end - behind.reduce((sum, type) => sum + sizeOf(type), 0);
		if (to - from < SHORTEST) continue;
		const values = valuesBehind(b, to, behind, shape, column);
		const text = values && textUpTo(b, from, to, shape, texts);
		if (!text) continue;
		// Two ways in which the bytes can be read: nothing says which.
		if (found) return null;
		found = { start: text.start, values: [...text.values, ...values] };
	}
	return found;
}

const sizeOf = (type: number): number => SIZES.find(([t]) => t === type)?.[1] ?? 0;

/** Serial types that the columns behind the text can have. */
function waysBehind(shape: Shape, text: number): number[][] {
	let ways: number[][] = [[]];
	for (let k = text + 1; k < shape.order.length; k++) {
		const types = typesIn(shape, k);
		ways = ways.flatMap((way) => types.map((type) => [...way, type]));
		if (ways.length > WAYS_AT_MOST) return [];
	}
	return ways;
}

/** Of numbers those that are no longer than the column's; 0 for whatever takes no bytes. */
function typesIn(shape: Shape, k: number): number[] {
	const { seen, low, high } = shape;
	const types = emptyIn(shape, k).length > 0 ? [0] : [];
	const most = Math.max(Math.abs(low[k]!), Math.abs(high[k]!));
	if ((seen[k]! & INT) === 0 || most <= 1) return types;
	return [...types, ...SIZES.filter((_, i) => i === 0 || 2 ** (8 * SIZES[i - 1]![1] - 1) <= most).map(([type]) => type)];
}

/** What a column's values can be that take no bytes: null, nought, one. */
const emptyIn = ({ seen, bare }: Shape, k: number): Value[] => [
	...(seen[k]! & NULL ? [null] : []),
	...(bare[k]! & 1 ? [0] : []),
	...(bare[k]! & 2 ? [1] : [])
];

/** Null where one of them is none of its column's; undefined for what takes no bytes and can be several things. */
function valuesBehind(b: Uint8Array, at: number, types: readonly number[], shape: Shape, text: number): (Value | undefined)[] | null {
	const values: (Value | undefined)[] = [];
	for (const [i, type] of types.entries()) {
		const k = text + 1 + i;
		const empty = emptyIn(shape, k);
		if (type === 0) values.push(empty.length === 1 ? empty[0] : undefined);
		else {
			const n = readMagnitude(b, at, type);
			if (n < shape.low[k]! || n > shape.high[k]!) return null;
			values.push(readValue(b, at, type, 'utf8'));
		}
		at += sizeOf(type);
	}
	return values;
}

/** The text that ends at `to`, with the number before it, or with the beginning that all have. */
function textUpTo(b: Uint8Array, from: number, to: number, shape: Shape, { column, lead, encoding }: Texts): Tail | null {
	const step = encoding === 'utf8' ? 1 : 2;
	const lost = (n: number): undefined[] => new Array<undefined>(n).fill(undefined);
	let run = Math.max(from, to - shape.longest[column]! * 2);
	run += (to - run) % step;
	while (run < to && !isText(b, run, to, encoding, shape.oddities[column])) run += step;
	// Letters in the midst of a text can be a number of that size as well: it stands where the text begins.
	const last = lead ? to - lead.length : Math.min(to - SHORTEST, run + LONGEST_NUMBER);
	for (let start = run; start <= last; start += step) {
		if ((step === 1 && isWithinLetter(b[start]!)) || (lead && !lead.every((byte, i) => b[start + i] === byte))) continue;
		const text = readValue(b, start, 13 + 2 * (to - start), encoding);
		const before = numberBefore(b, from, start, shape, column - 1);
		if (before) return { start: before.start, values: [...lost(column - 1), before.value, text] };
		if (lead) return { start, values: [...lost(column), text] };
	}
	return null;
}

/** A number that ends at `to` and that only one of this column is so large as. */
function numberBefore(b: Uint8Array, from: number, to: number, shape: Shape, k: number): { start: number; value: Value } | null {
	if (k < 0 || (shape.seen[k]! & (INT | REAL)) === 0 || shape.low[k]! < TELLING) return null;
	const real: [number, number][] = shape.seen[k]! & REAL ? [[7, 8]] : [];
	for (const [type, size] of [...real, ...SIZES.filter(([, bytes]) => bytes >= 4)]) {
		// Letters alone are as well the end of a text.
		const n = to - size < from || b.subarray(to - size, to).every(isPlainLetter) ? NaN : readMagnitude(b, to - size, type);
		// What is lost is older than what is left.
		if (!(n >= shape.low[k]! * (1 - OLDER) && n <= shape.high[k]!)) continue;
		return { start: to - size, value: readValue(b, to - size, type, 'utf8') };
	}
	return null;
}

const isPlainLetter = (byte: number): boolean => byte >= 0x20 && byte < 0x7f;

/** RFC 3629, section 3: the second byte of a letter, or a later one. */
const isWithinLetter = (byte: number): boolean => (byte & 0xc0) === 0x80;

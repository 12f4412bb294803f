/**
 * Weighs values against what the columns of a table have held: how surely bytes are a row of it. What a weighing found on
 * the way stands in variables until the next one, since nearly every place is refused and an object each would cost more.
 */
import { type Encoding, isCutText, isText } from '../../../bytes';
import { readMagnitude, sizeOfSerialType } from '../record';
import {
	BLOB,
	classOfSerialType,
	ENOUGH,
	FEW_SIZES,
	fitsRange,
	INT,
	leadAt,
	LEADS,
	MOST_COLUMNS,
	NULL,
	REAL,
	type Shape,
	TEXT
} from '../shape';

/** Taken off for an integer stored longer than the engine would (older files keep 0 and 1 in a byte, so it is not refused). */
const NOT_SHORTEST = 1.5;

/** A number outside what its column has held; and up to so much more the further it is. */
const OUTSIDE = -3;
const FURTHER = 2;

/** The smallest real that a column of whole numbers is thought to hold. */
const SMALLEST_REAL = 1e-9;

/** A null in a column that has had none. */
const NEVER_NULL = -6;

/** The byte that all blobs of the column have at one place of their beginning. */
const LEAD = 2;

/** What the beginning of a blob speaks for its column, or against it. */
function begins(shape: Shape, column: number, b: Uint8Array, at: number): number {
	const place = leadAt(shape, column);
	return place < 0 ? 0 : b[at + place] === shape.leads[column * LEADS + place] ? LEAD : -LEAD;
}

/** A text or blob of another length, where all of the column's have one. */
const OTHER_LENGTH = -4;

export const types = new Int32Array(MOST_COLUMNS);
export let weighedCut = -1;
export let weighedComplete = true;
export let weighedBadAt = -1;

/** Where the first blob starts that begins as those of its column do. */
export let weighedBlobAt = -1;

/** What the values that are not null weigh: nulls prove nothing. */
export let weighedProof = 0;

/**
 * Weighs the values at `body` up to `limit` against the shape. NaN where a value cannot be one of this shape's. Sets
 * what is cut, whether all is there, and the first text that is none.
 */
export function weigh(b: Uint8Array, body: number, limit: number, count: number, shape: Shape, encoding: Encoding): number {
	let score = 0;
	let at = body;
	weighedCut = -1;
	weighedComplete = true;
	weighedBadAt = -1;
	weighedBlobAt = -1;
	let nulls = 0;
	for (let k = 0; k < count; k++) {
		const type = types[k]!;
		const size = sizeOfSerialType(type);
		const cls = classOfSerialType(type);
		if (at + size > limit) {
			weighedComplete = false;
			const left = limit - at;
			if (cls === TEXT && left >= 3 && weighedCut < 0) {
				if (isCutText(b, at, limit, encoding, shape.oddities[k])) {
					weighedCut = k;
					score += Math.min(left, 10) * 0.5 + longText(left, shape, encoding);
				} else if (weighedBadAt < 0 && encoding === 'utf8') weighedBadAt = at;
			} else if (cls === BLOB && left >= CUT_BLOB && weighedCut < 0 && begins(shape, k, b, at) > 0) {
				weighedCut = k;
				score += LEAD + Math.min(longestRun(b, at, limit), 10) * 0.5;
			}
			at += size;
			continue;
		}
		if (cls === TEXT) {
			if (!isText(b, at, at + size, encoding, shape.oddities[k])) {
				if (weighedBadAt < 0) weighedBadAt = at;
			} else {
				score += Math.min(size, 12) * 0.5;
				if (shape.rows >= 40 && size > shape.longest[k]! * 4 + 200) score -= 2;
				if (size !== shape.longest[k] && isOneLength(shape, k)) score += OTHER_LENGTH;
				else if (isTooShort(shape, k, size)) score += OTHER_LENGTH;
			}
		} else if (cls === INT || cls === REAL) {
			const value = readMagnitude(b, at, type);
			if (cls === REAL && !Number.isFinite(value)) return NaN;
			// Letters read as a real are nearly nought, which is in any range.
			const isChance = cls === REAL && value !== 0 && Math.abs(value) < SMALLEST_REAL && (shape.seen[k]! & REAL) === 0;
			const fit = isChance ? -1 : fitsRange(shape, k, value);
			if (cls === INT && !isShortest(type, value)) score -= NOT_SHORTEST;
			score += fit > 0 ? (size >= 3 ? 4 : 1) : fit < 0 ? OUTSIDE + (fit + 1) * FURTHER : size >= 3 ? 1 : 0.5;
		} else if (cls === NULL) {
			if ((shape.seen[k]! & NULL) !== 0 || shape.rows < ENOUGH / 2) nulls++;
			else score += NEVER_NULL;
		}
		// Keys are often blobs of one length.
		else {
			score += sizeOfBlob(shape, k, size);
			// Many forms begin with one and the same byte.
			const likeness = size >= LEADS ? begins(shape, k, b, at) : 0;
			score += likeness;
			if (weighedBlobAt < 0 && size >= CUT_BLOB && likeness > 0) weighedBlobAt = at;
		}
		at += size;
	}
	weighedProof = score;
	return score + nulls * 0.3;
}

/**
 * What a long text that is cut weighs beyond its beginning: what is no text hardly goes on for so long. Not on index pages,
 * whose cells have so small a head that one beginning a byte off is read as well.
 */
function longText(size: number, shape: Shape, encoding: Encoding): number {
	if (encoding !== 'utf8' || shape.withoutRowid || shape.entryOf) return 0;
	return Math.min(Math.max(size - 10, 0), LONG_TEXT) * 0.05;
}
const LONG_TEXT = 80;

/** Bytes of a blob that is cut from which its beginning is one like those of its column. */
const CUT_BLOB = 8;

/** The longest run of letters in [from, to), bytes. */
function longestRun(b: Uint8Array, from: number, to: number): number {
	let longest = 0;
	for (let at = from, run = 0; at < to; at++) {
		run = b[at]! >= 0x20 && b[at] !== 0x7f ? run + 1 : 0;
		if (run > longest) longest = run;
	}
	return longest;
}

/** Whether all texts of a column have one length: keys and the like have. */
const isOneLength = (shape: Shape, k: number): boolean =>
	shape.shortest[k] === shape.longest[k] && (shape.rows >= 40 ? shape.longest[k]! > 8 : shape.rows >= 4 && shape.longest[k]! >= 16);

/** What the size of a blob speaks for its column, or against it: the more, the fewer sizes it has held. */
function sizeOfBlob(shape: Shape, k: number, size: number): number {
	const sizes = shape.blobSizes[k]!;
	if (shape.rows < 40 || sizes.length > FEW_SIZES) return 0.5;
	if (sizes.length > 1) return sizes.includes(size) ? 1.5 : -1.5;
	return shape.shortest[k] === shape.longest[k] && size !== shape.longest[k] ? OTHER_LENGTH : 0.5;
}

/** A text far shorter than any the column has held. */
const isTooShort = (shape: Shape, k: number, size: number): boolean =>
	shape.rows >= 4 && size * 3 < shape.shortest[k]! && shape.shortest[k]! >= 8;

/** The smallest number of magnitude that an integer type of so many bytes is used for: below it a shorter one is. */
const SHORTEST_FROM = [0, 0, 2 ** 7, 2 ** 15, 2 ** 23, 2 ** 31, 2 ** 47];

/** The engine stores an integer in the shortest type that holds it (section 2.1); 0 and 1 in none at all. */
function isShortest(type: number, value: number): boolean {
	if (type === 1) return value !== 0 && value !== 1;
	if (type < 2 || type > 6) return true;
	const from = SHORTEST_FROM[type]!;
	return value >= from || value < -from;
}

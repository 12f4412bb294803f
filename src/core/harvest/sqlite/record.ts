/**
 * Records (SQLite file format, section 2.1 "Record Format"): a header of varints (its own size, then a serial type
 * for each column), then the values.
 *
 * | serial type | bytes | value |
 * |---|---|---|
 * | 0 | 0 | null |
 * | 1 2 3 4 5 6 | 1 2 3 4 6 8 | big-endian signed integer |
 * | 7 | 8 | IEEE 754 double |
 * | 8, 9 | 0 | the integers 0 and 1 |
 * | 10, 11 | – | reserved, never in a file |
 * | even, 12 and up | (n − 12) / 2 | blob |
 * | odd, 13 and up | (n − 13) / 2 | text |
 *
 * Example: `03 01 13 05 61 62 63` is a header of 3 bytes, an integer 5 and the text "abc".
 */
import { decodeStored, decodeText, readF64Be, readI64Be, type Encoding } from '../../bytes';
import type { Value } from '../../model';
import { readVarint, varintLength } from './varint';

const FIXED = [0, 1, 2, 3, 4, 6, 8, 8, 0, 0, NaN, NaN];

/** Bytes a value of this serial type takes in the body; NaN for the reserved types. */
export const sizeOfSerialType = (type: number): number => (type < 12 ? FIXED[type]! : type % 2 ? (type - 13) / 2 : (type - 12) / 2);

/** The value of this serial type at `o`. The caller has checked that its bytes are there. */
export function readValue(b: Uint8Array, o: number, type: number, encoding: Encoding): Value {
	switch (type) {
		case 0:
			return null;
		case 1:
			return (b[o]! << 24) >> 24;
		case 2:
			return (((b[o]! << 8) | b[o + 1]!) << 16) >> 16;
		case 3:
			return (((b[o]! << 16) | (b[o + 1]! << 8) | b[o + 2]!) << 8) >> 8;
		case 4:
			return (b[o]! << 24) | (b[o + 1]! << 16) | (b[o + 2]! << 8) | b[o + 3]!;
		case 5: {
			const high = (((b[o]! << 8) | b[o + 1]!) << 16) >> 16;
			return high * 4294967296 + (((b[o + 2]! << 24) | (b[o + 3]! << 16) | (b[o + 4]! << 8) | b[o + 5]!) >>> 0);
		}
		case 6:
			return readI64Be(b, o);
		case 7:
			return readF64Be(b, o);
		case 8:
			return 0;
		case 9:
			return 1;
		default: {
			const size = sizeOfSerialType(type);
			return type % 2 ? decodeStored(b, o, o + size, encoding) : b.slice(o, o + size);
		}
	}
}

/** The number of serial type 1 to 9 at `o`, beyond 2^53 the nearest that there is: enough to compare magnitudes by. */
export function readMagnitude(b: Uint8Array, o: number, type: number): number {
	if (type >= 8) return type - 8;
	if (type === 7) return readF64Be(b, o);
	const size = FIXED[type]!;
	let value = (b[o]! << 24) >> 24;
	for (let i = 1; i < size; i++) value = value * 256 + b[o + i]!;
	return value;
}

/**
 * All values of the record in [start, end), or null where it is no record. A header that claims more than there is
 * gives null: cut records are the carver's business.
 */
export function readRecord(b: Uint8Array, start: number, end: number, encoding: Encoding): (Value | undefined)[] | null {
	const headerSize = readVarint(b, start, end);
	if (!(headerSize >= 1) || start + headerSize > end) return null;
	const headerEnd = start + headerSize;
	let at = start + varintLength;
	let body = headerEnd;
	const values: (Value | undefined)[] = [];
	while (at < headerEnd) {
		let type = b[at]!;
		if (type < 0x80) at++;
		else {
			type = readVarint(b, at, headerEnd);
			if (varintLength === 0) return null;
			at += varintLength;
		}
		const size = sizeOfSerialType(type);
		if (!(body + size <= end)) return null;
		values.push(readValue(b, body, type, encoding));
		body += size;
	}
	return values;
}

/** Serial types of the record last scanned, and where its body starts: valid until the next scan. */
export const scanned = { types: new Int32Array(2048), count: 0, body: 0 };

/**
 * Goes through the header of the record in [start, end) without reading its values, into `scanned`. False where it is
 * no record, or has more columns than the engine can be built for by default (limits, section 3).
 */
export function scanRecord(b: Uint8Array, start: number, end: number): boolean {
	const headerSize = readVarint(b, start, end);
	if (!(headerSize >= 1) || start + headerSize > end) return false;
	const headerEnd = start + headerSize;
	const { types } = scanned;
	let at = start + varintLength;
	let body = headerEnd;
	let count = 0;
	while (at < headerEnd) {
		let type = b[at]!;
		if (type < 0x80) at++;
		else {
			type = readVarint(b, at, headerEnd);
			if (varintLength === 0 || type > 0x7fffffff) return false;
			at += varintLength;
		}
		body += type < 12 ? FIXED[type]! : (type - 12) >> 1;
		if (!(body <= end) || count >= types.length) return false;
		types[count++] = type;
	}
	scanned.count = count;
	scanned.body = headerEnd;
	return true;
}

/** What is left of a record that ends early: the values that are whole, `undefined` for the lost, and which is cut. */
export function readCutRecord(b: Uint8Array, encoding: Encoding): { values: (Value | undefined)[]; cut: number } | null {
	const headerSize = readVarint(b, 0, b.length);
	if (!(headerSize >= 1) || headerSize > b.length) return null;
	const values: (Value | undefined)[] = [];
	let cut = -1;
	let body = headerSize;
	for (let at = varintLength; at < headerSize;) {
		const type = readVarint(b, at, headerSize);
		if (varintLength === 0) return null;
		at += varintLength;
		const size = sizeOfSerialType(type);
		if (body + size <= b.length) values.push(readValue(b, body, type, encoding));
		else if (type >= 13 && type % 2 && body < b.length) {
			cut = values.length;
			values.push(decodeText(b, body, b.length, encoding).replace(/\ufffd+$/, ''));
		} else values.push(undefined);
		body += size;
	}
	return { values, cut };
}

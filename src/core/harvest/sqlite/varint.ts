/**
 * Variable-length integers (SQLite file format, section 1.6 "B-tree Pages": 1 to 9 bytes, big-endian, seven bits
 * a byte, the ninth byte whole). Example: 0x81 0x00 is 128.
 */

/** Bytes the last `readVarint` took; 0 where the bytes ended within it. */
export let varintLength = 0;

/** The varint at `o`, before `end`. NaN where it is cut. Precise up to 2^53; larger ones come from `readBigVarint`. */
export function readVarint(b: Uint8Array, o: number, end: number): number {
	if (o >= end) {
		varintLength = 0;
		return NaN;
	}
	let byte = b[o]!;
	if (byte < 0x80) {
		varintLength = 1;
		return byte;
	}
	let value = byte & 0x7f;
	for (let i = 1; i < 8; i++) {
		if (o + i >= end) {
			varintLength = 0;
			return NaN;
		}
		byte = b[o + i]!;
		value = value * 128 + (byte & 0x7f);
		if (byte < 0x80) {
			varintLength = i + 1;
			return value;
		}
	}
	if (o + 8 >= end) {
		varintLength = 0;
		return NaN;
	}
	varintLength = 9;
	return value * 256 + b[o + 8]!;
}

/** A signed 64-bit varint, exact: a number where safe, else a bigint. `varintLength` is set as by `readVarint`. */
export function readSignedVarint(b: Uint8Array, o: number, end: number): number | bigint {
	const value = readVarint(b, o, end);
	if (varintLength < 8 || Number.isNaN(value)) return value;
	const length = varintLength;
	let exact = 0n;
	for (let i = 0; i < length; i++) {
		exact = i === 8 ? (exact << 8n) | BigInt(b[o + i]!) : (exact << 7n) | BigInt(b[o + i]! & 0x7f);
	}
	exact = BigInt.asIntN(64, exact);
	varintLength = length;
	const number = Number(exact);
	return Number.isSafeInteger(number) ? number : exact;
}

/** How many bytes a varint of this value takes. */
export function sizeOfVarint(value: number): number {
	let size = 1;
	for (let rest = value; rest >= 128 && size < 9; size++) rest = Math.floor(rest / 128);
	return size;
}

/** Reader names say width and byte order. Callers check bounds; a read past the end gives NaN or 0 never silently: see `has`. */

/** Whether `length` bytes are there at `offset`. The one bounds check. */
export const has = (bytes: Uint8Array, offset: number, length: number): boolean =>
	offset >= 0 && length >= 0 && offset + length <= bytes.length;

export const readU16Be = (b: Uint8Array, o: number): number => (b[o]! << 8) | b[o + 1]!;

export const readU16Le = (b: Uint8Array, o: number): number => b[o]! | (b[o + 1]! << 8);

export const readU32Be = (b: Uint8Array, o: number): number => ((b[o]! << 24) | (b[o + 1]! << 16) | (b[o + 2]! << 8) | b[o + 3]!) >>> 0;

export const readU32Le = (b: Uint8Array, o: number): number => ((b[o + 3]! << 24) | (b[o + 2]! << 16) | (b[o + 1]! << 8) | b[o]!) >>> 0;

const scratch = new DataView(new ArrayBuffer(8));

/** A big-endian IEEE 754 double (8 bytes). */
export function readF64Be(b: Uint8Array, o: number): number {
	for (let i = 0; i < 8; i++) scratch.setUint8(i, b[o + i]!);
	return scratch.getFloat64(0);
}

/** A big-endian two's complement integer of 8 bytes: a number where it is safe, else a bigint. */
export function readI64Be(b: Uint8Array, o: number): number | bigint {
	const high = readU32Be(b, o) | 0;
	const low = readU32Be(b, o + 4);
	const value = high * 4294967296 + low;
	return Number.isSafeInteger(value) ? value : (BigInt(high) << 32n) | BigInt(low);
}

/** Bytes packed as one stream: gzip (RFC 1952), zlib (RFC 1950), Zstandard (RFC 8878), and DEFLATE alone (RFC 1951). */
import { Gunzip, Inflate, inflateSync, Unzlib, unzlibSync } from 'fflate';
import { Decompress as Unzstd } from 'fzstd';
import { joined } from './joined';
import { readU16Le } from './read';

export type Packing = 'gzip' | 'zlib' | 'zstd' | 'deflate';

/** Those by which bytes are tried, the surest first: DEFLATE alone has nothing at its head that says so. */
export const PACKINGS: readonly Packing[] = ['gzip', 'zlib', 'zstd', 'deflate'];

/** A stream that unpacks what is pushed to it. `take` is given each part, and whether it is the last; it may be given none. */
export function unpackerOf(
	packing: Packing,
	take: (part: Uint8Array, isLast: boolean) => void
): { push(bytes: Uint8Array, isLast: boolean): unknown } {
	switch (packing) {
		case 'gzip':
			return new Gunzip(take);
		case 'zlib':
			return new Unzlib(take);
		case 'zstd':
			return new Unzstd((part, isLast) => take(part, isLast ?? false));
		case 'deflate':
			return new Inflate(take);
	}
}

/** What a value of so many bytes at most unpacks to, and whether it came to its end; null where it is not packed so. */
export function unpacked(packing: Packing, bytes: Uint8Array, most: number): { bytes: Uint8Array; isWhole: boolean } | null {
	if (!beginsAs(packing, bytes)) return null;
	const small = bytes.length <= SMALL ? atOnce(packing, bytes) : undefined;
	if (small !== undefined) return small && { bytes: small, isWhole: true };
	const parts: Uint8Array[] = [];
	let length = 0;
	let isWhole = false;
	const stream = unpackerOf(packing, (part, isLast) => {
		length += part.length;
		if (length > most) throw new RangeError('unpacks to more than it may');
		parts.push(part);
		isWhole ||= isLast;
	});
	try {
		stream.push(bytes, true);
	} catch {
		return null;
	}
	return { bytes: joined(parts), isWhole };
}

/** What few bytes unpack to, null where they cannot be, undefined where that is not known here. A stream makes room for each anew. */
function atOnce(packing: Packing, bytes: Uint8Array): Uint8Array | null | undefined {
	const unpack = packing === 'deflate' ? inflateSync : packing === 'zlib' ? unzlibSync : undefined;
	try {
		const found = unpack?.(bytes, { out: roomForOne });
		// Where there is no more room it is left off without a word.
		return found && found.length < roomForOne.length ? found.slice() : undefined;
	} catch {
		return null;
	}
}
const SMALL = 4096;
const roomForOne = new Uint8Array(1 << 16);

/** Whether bytes begin as what is packed so does: to unpack what is not takes long, and most values are not. */
export function beginsAs(packing: Packing, b: Uint8Array): boolean {
	switch (packing) {
		case 'gzip':
			return b[0] === 0x1f && b[1] === 0x8b && b[2] === DEFLATED;
		case 'zlib':
			return b.length > 2 && (b[0]! & 15) === DEFLATED && ((b[0]! << 8) | b[1]!) % 31 === 0 && beginsAsDeflate(b, 2);
		case 'zstd':
			return b[0] === 0x28 && b[1] === 0xb5 && b[2] === 0x2f && b[3] === 0xfd;
		case 'deflate':
			return beginsAsDeflate(b, 0);
	}
}
/** RFC 1952, section 2.3.1, and RFC 1950, section 2.2: the compression method. */
const DEFLATED = 8;

/** The head of a block (RFC 1951, sections 3.2.3 to 3.2.7). */
function beginsAsDeflate(b: Uint8Array, from: number): boolean {
	if (from >= b.length) return false;
	const type = (b[from]! >> 1) & 3;
	if (type === STORED) return from + 5 <= b.length && (readU16Le(b, from + 1) ^ readU16Le(b, from + 3)) === 0xffff;
	return type === FIXED || (type === DYNAMIC && hasCodeLengths(b, from));
}
const [STORED, FIXED, DYNAMIC] = [0, 1, 2];

/** Whether the code for the lengths of codes leaves no bits over and has no more than there are (section 3.2.7). */
function hasCodeLengths(b: Uint8Array, from: number): boolean {
	const bits = (at: number, count: number): number =>
		(((b[from + (at >> 3)] ?? 0) | ((b[from + (at >> 3) + 1] ?? 0) << 8)) >> (at & 7)) & ((1 << count) - 1);
	if (bits(3, 5) > MOST_LITERALS - 257 || bits(8, 5) > MOST_DISTANCES - 1) return false;
	let filled = 0;
	for (let i = 0, codes = bits(13, 4) + 4; i < codes; i++) {
		const length = bits(17 + 3 * i, 3);
		if (length > 0) filled += 128 >> length;
	}
	return filled === 128;
}
const MOST_LITERALS = 286;
const MOST_DISTANCES = 30;

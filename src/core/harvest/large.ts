/**
 * Files that a program keeps in its database (pictures, films), too large to be held: the beginning stands for one, and all
 * of it is read again when it is asked for. What does not begin as a file does may be packed text, and is held whole.
 */
import { concatBytes } from '@noble/hashes/utils.js';
import { mediaTypeOf } from '../bytes';

interface Large {
	/** Bytes in all. */
	length: number;
	read: () => Uint8Array | null;
}

/** Files from so many bytes on are held by their beginning, which is so long. */
const LARGE = 1 << 18;
const BEGINNING = 1 << 12;

const known = new WeakMap<Uint8Array, Large>();

/** The beginning of a file that is too large, or a copy of the value. `read`: gives it again; null where it cannot be read any more. */
export function held(value: Uint8Array, read: () => Uint8Array | null): Uint8Array {
	// A small one would keep all of the payload it lies in.
	if (value.length < LARGE || mediaTypeOf(value.subarray(0, 16)) === null) return value.slice();
	return beginningOf(value, read);
}

/** The beginning of a value of any kind, for which there is no room. */
export function beginningOf(value: Uint8Array, read: () => Uint8Array | null): Uint8Array {
	const beginning = new Uint8Array(value.subarray(0, BEGINNING));
	known.set(beginning, { length: value.length, read });
	return beginning;
}

/** Whether a payload of so many bytes can have such a value. */
export const canBeLarge = (payload: number): boolean => payload >= LARGE;

/** All bytes of a value. */
export const wholeBytes = (value: Uint8Array): Uint8Array => known.get(value)?.read() ?? value;

/** How many those are. */
export const bytesIn = (value: Uint8Array): number => known.get(value)?.length ?? value.length;

/** Bytes that were stored in pieces, one behind the other: they are put together when they are asked for. */
export function joinedBytes(pieces: readonly Uint8Array[]): Uint8Array {
	const [first = new Uint8Array(), ...more] = pieces;
	if (more.length === 0) return first;
	const joined = new Uint8Array(first.subarray(0, BEGINNING));
	const read = (): Uint8Array => concatBytes(...pieces.map(wholeBytes));
	known.set(joined, { length: pieces.reduce((sum, piece) => sum + bytesIn(piece), 0), read });
	return joined;
}

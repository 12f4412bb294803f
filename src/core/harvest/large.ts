/**
 * Bytes of a value too large to be held: its beginning stands for it, and all of it is read again when it is asked for
 * (pictures and films that a program keeps in its database).
 */
interface Large {
	/** Bytes in all. */
	length: number;
	read: () => Uint8Array | null;
}

/** Values from so many bytes on are held by their beginning, which is so long. */
const LARGE = 1 << 18;
const BEGINNING = 1 << 12;

const known = new WeakMap<Uint8Array, Large>();

/** The beginning of a value that is too large, or a copy of it. `read`: gives it again; null where it cannot be read any more. */
export function held(value: Uint8Array, read: () => Uint8Array | null): Uint8Array {
	// A small one would keep all of the payload it lies in.
	if (value.length < LARGE) return value.slice();
	const beginning = value.slice(0, BEGINNING);
	known.set(beginning, { length: value.length, read });
	return beginning;
}

/** Whether a payload of so many bytes can have such a value. */
export const canBeLarge = (payload: number): boolean => payload >= LARGE;

/** All bytes of a value. */
export const wholeBytes = (value: Uint8Array): Uint8Array => known.get(value)?.read() ?? value;

/** How many those are. */
export const bytesIn = (value: Uint8Array): number => known.get(value)?.length ?? value.length;

/**
 * A block of a LevelDB table ("table_format", and the comments of `block_builder`): entries, each with what its key shares
 * with the one before, then the offsets of the entries that share nothing, and how many those are.
 *
 * | entry | | | end of the block | |
 * |---|---|---|---|---|
 * | varint | bytes shared with the key before | | 4 each | offsets of restarts |
 * | varint | bytes of its own | | 4 | how many |
 * | varint | length of the value | | | behind it, packed or not: |
 * | … | its own bytes, the value | | 1 | 0 plain, 1 Snappy, 2 Zstandard |
 * | | | | 4 | sum of the block and the byte before |
 */
import { Cursor, readU32Le, unpacked, unsnap, type ByteSource } from '../../bytes';
import { hasSum } from './checksum';

export interface Handle {
	offset: number;
	size: number;
}

export interface BlockEntry {
	key: Uint8Array;
	value: Uint8Array;
	/** Where it lies within the block, unpacked. */
	from: number;
	to: number;
	isCut: boolean;
}

export interface Block {
	bytes: Uint8Array;
	/** Whether it lies there as it is read, so that its entries have places of their own. */
	isPlain: boolean;
	isSound: boolean;
	/** Bytes of the file that it takes, with what stands behind it. */
	taken: number;
}

export const TRAILER = 5;
/** Blocks are some kilobytes; one that holds a large value is as large as that. */
const LARGEST = 64 << 20;
const [PLAIN, SNAPPY, ZSTANDARD] = [0, 1, 2];

/** The block that a handle names; null where nothing of it can be read. */
export function blockAt(source: ByteSource, { offset, size }: Handle): Block | null {
	if (size > LARGEST || offset >= source.size) return null;
	const stored = source.read(offset, size + TRAILER);
	const isThere = stored.length === size + TRAILER;
	const isSound = isThere && hasSum(readU32Le(stored, size + 1), stored.subarray(0, size + 1));
	const packed = stored.subarray(0, size);
	const taken = stored.length;
	const type = isThere ? stored[size]! : null;
	if (type === PLAIN) return { bytes: packed, isPlain: true, isSound, taken };
	if (type === ZSTANDARD) {
		const block = unpacked('zstd', packed, LARGEST);
		return block && { bytes: block.bytes, isPlain: false, isSound, taken };
	}
	const unsnapped = unsnap(packed, LARGEST);
	if (unsnapped && (type === SNAPPY || unsnapped.bytes.length > 0))
		return { bytes: unsnapped.bytes, isPlain: false, isSound: isSound && unsnapped.isWhole, taken };
	return type === null ? { bytes: packed, isPlain: true, isSound: false, taken } : null;
}

/**
 * A block whose size nobody states, in a table that has lost its index; null where none that has its sum begins there.
 * `most`: bytes in which its end is sought.
 */
export function blockFrom(source: ByteSource, offset: number, most = LARGEST): Block | null {
	for (let window = Math.min(WINDOW, most); ; window = Math.min(window * 16, most)) {
		const bytes = source.read(offset, window);
		const size = sizeOfSnapped(bytes, most) ?? sizeOfPlain(bytes);
		const block = size === null ? null : blockAt(source, { offset, size });
		if (block?.isSound) return block;
		if (window >= most || bytes.length < window) return null;
	}
}
export const WINDOW = 64 << 10;

function sizeOfSnapped(bytes: Uint8Array, most: number): number | null {
	const unsnapped = unsnap(bytes, most);
	return unsnapped?.isWhole && unsnapped.bytes.length > 0 && bytes[unsnapped.read] === SNAPPY ? unsnapped.read : null;
}

function sizeOfPlain(bytes: Uint8Array): number | null {
	const { end } = entriesIn(bytes);
	for (let at = end, restarts = 0; at + 4 <= bytes.length; at += 4, restarts++) {
		const number = readU32Le(bytes, at);
		if (restarts > 0 && number === restarts && bytes[at + 4] === PLAIN) return at + 4;
		if (number > end) return null;
	}
	return null;
}

/** The entries of a block, as far as they can be read, and where the last one ends. */
export function entriesIn(bytes: Uint8Array): { entries: BlockEntry[]; end: number } {
	const entries: BlockEntry[] = [];
	const cursor = new Cursor(bytes);
	let key: Uint8Array = new Uint8Array(0);
	let end = 0;
	while (cursor.left > 0) {
		const [from, shared, own, length] = [cursor.at, cursor.varint(), cursor.varint(), cursor.varint()];
		// No key is without bytes: here the restarts begin.
		if (cursor.isPast || shared > key.length || shared + own === 0 || own > cursor.left) break;
		const whole = new Uint8Array(shared + own);
		whole.set(key.subarray(0, shared));
		whole.set(cursor.take(own), shared);
		key = whole;
		const value = cursor.take(length);
		entries.push({ key, value, from, to: cursor.at, isCut: cursor.isPast });
		end = cursor.at;
	}
	return { entries, end };
}

/**
 * Snappy's raw format (its public format description): the length unpacked as a varint, then elements. Read here rather
 * than by a library, since of a block whose index or end is gone it must be told where it ends, and what is left of it.
 *
 * | lowest bits of the tag | element |
 * |---|---|
 * | 0 | literal: length − 1 in the tag's upper six bits, or (60 to 63) in the next one to four bytes |
 * | 1 | copy: length − 4 in three bits, offset in three bits and a byte |
 * | 2 | copy: length − 1 in six bits, offset in two bytes |
 * | 3 | copy: length − 1 in six bits, offset in four bytes |
 */
import { Cursor } from './cursor';

export interface Unsnapped {
	bytes: Uint8Array;
	/** Packed bytes that were read. */
	read: number;
	/** Whether all is there. */
	isWhole: boolean;
}

/** What the packed bytes hold; null where they are none. `most`: bytes unpacked at most. */
export function unsnap(packed: Uint8Array, most: number): Unsnapped | null {
	const from = new Cursor(packed);
	const length = from.varint();
	// No element makes more than 64 bytes of three, so that a length that lies takes no memory.
	if (from.isPast || length > most || length > packed.length * GROWS_AT_MOST) return null;
	const out = new Uint8Array(length);
	let at = 0;
	while (at < length) {
		const element = elementAt(from);
		if (!element) break;
		if (element.offset === 0) {
			const literal = from.take(Math.min(element.length, length - at));
			out.set(literal, at);
			at += literal.length;
			if (from.isPast) break;
		} else {
			if (element.offset > at || at + element.length > length) break;
			for (let i = 0; i < element.length; i++, at++) out[at] = out[at - element.offset]!;
		}
	}
	return { bytes: out.subarray(0, at), read: from.at, isWhole: at === length };
}

const GROWS_AT_MOST = 24;

/** The next element: `offset` 0 where its bytes follow. */
function elementAt(from: Cursor): { length: number; offset: number } | null {
	const tag = from.u8();
	const upper = tag >> 2;
	let element;
	if ((tag & 3) === 0) element = { length: 1 + (upper < LONG_LITERAL ? upper : wide(from, upper - LONG_LITERAL + 1)), offset: 0 };
	else if ((tag & 3) === 1) element = { length: 4 + (upper & 7), offset: ((tag >> 5) << 8) | from.u8() };
	else element = { length: 1 + upper, offset: wide(from, (tag & 3) === 2 ? 2 : 4) };
	const isCopy = (tag & 3) !== 0;
	return from.isPast || (isCopy && element.offset === 0) ? null : element;
}

const LONG_LITERAL = 60;

function wide(from: Cursor, bytes: number): number {
	let value = 0;
	for (let i = 0, scale = 1; i < bytes; i++, scale *= 256) value += from.u8() * scale;
	return value;
}

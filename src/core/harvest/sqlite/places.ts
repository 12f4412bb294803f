/**
 * Where in free bytes a cell can begin: one pass over them, before anything is weighed. Two kinds of places are noted:
 * *headers*, where the header of a record of a known shape stands (section 2.1), and *blocks*, where four bytes can be
 * a freeblock's header (section 1.6). Nearly every byte is refused by the marks (marks.wat); here the rest is looked at.
 */
import type { ShapeIndex } from './compiled';
import { MARKS } from './marks.wasm';

export interface Places {
	/** Offsets within the bytes, ascending; only the first `headerCount` are of this pass. Valid until the next pass. */
	headers: Int32Array;
	headerCount: number;
	blocks: Int32Array;
	blockCount: number;
}

/** Where things lie in the memory of the marks, in bytes. */
const SETS_AT = 0x10100;
const MARKS_AT = 0x10200;
/** As many bytes as a page has at most. */
const LONGEST = 65_536;
/** A freeblock with a cell in it that has lost its first four bytes is no shorter. */
const SMALLEST_BLOCK = 6;

const { mark, memory } = new WebAssembly.Instance(new WebAssembly.Module(MARKS)).exports as unknown as {
	mark: (from: number, to: number, highest: number) => number;
	memory: { buffer: ArrayBuffer };
};
const held = new Uint8Array(memory.buffer);
/** In twos: where sixteen bytes begin, and which of them are marked. */
const marks = new Uint32Array(memory.buffer, MARKS_AT, (LONGEST / 16) * 2 + 2);
let setsOf: ShapeIndex | null = null;
/** The page that lies there now: most pages have several stretches that are free. */
let heldPage: Uint8Array | null = null;

const places: Places = { headers: new Int32Array(LONGEST), headerCount: 0, blocks: new Int32Array(LONGEST), blockCount: 0 };

/** All places in [from, to) of a page (65,536 bytes at most, never changed) of which `usable` bytes are used. */
export function findPlaces(b: Uint8Array, from: number, to: number, usable: number, shapes: ShapeIndex): Places {
	if (setsOf !== shapes) {
		held.set(shapes.sizes, SETS_AT);
		held.set(shapes.firsts, SETS_AT + shapes.sizes.length);
		setsOf = shapes;
	}
	if (heldPage !== b) {
		held.set(b);
		heldPage = b;
	}
	const noted = mark(from & ~15, to, (usable - 1) >> 8);
	places.headerCount = 0;
	places.blockCount = 0;
	for (let i = 0; i < noted; i++) {
		const at = marks[i * 2]!;
		const both = marks[i * 2 + 1]!;
		noteHeaders(b, at, both & 0xffff, from, to, shapes);
		noteBlocks(b, at, both >>> 16, from, to, usable);
	}
	return places;
}

/** The lowest bit that is set. */
const lowest = (bits: number): number => 31 - Math.clz32(bits & -bits);

function noteHeaders(b: Uint8Array, at: number, marked: number, from: number, to: number, shapes: ShapeIndex): void {
	for (let bits = marked; bits !== 0; bits &= bits - 1) {
		const o = at + lowest(bits);
		// Bytes outside of what is looked at are marked by what happened to stand there.
		if (o < from || o + 1 >= to) continue;
		if (shapes.begins[(b[o]! << 8) | b[o + 1]!] !== 0 && shapes.isHeader(b, o, to)) places.headers[places.headerCount++] = o;
	}
}

function noteBlocks(b: Uint8Array, at: number, marked: number, from: number, to: number, usable: number): void {
	for (let bits = marked; bits !== 0; bits &= bits - 1) {
		const o = at + lowest(bits);
		if (o < from || o + 3 >= to) continue;
		const next = (b[o]! << 8) | b[o + 1]!;
		const size = (b[o + 2]! << 8) | b[o + 3]!;
		if (size < SMALLEST_BLOCK || o + size > usable || (next !== 0 && (next <= o + 3 || next >= usable))) continue;
		places.blocks[places.blockCount++] = o;
	}
}

/** A set of bytes as the marks read it: two tables of 16 bytes (see marks.wat). */
export function setOfBytes(bytes: Iterable<number>): Uint8Array {
	const tables = new Uint8Array(32);
	for (const byte of bytes) tables[(byte >> 7) * 16 + (byte & 15)]! |= 1 << ((byte >> 4) & 7);
	return tables;
}

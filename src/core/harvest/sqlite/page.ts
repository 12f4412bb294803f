/**
 * B-tree pages (SQLite file format, section 1.6).
 *
 * | offset | size | meaning |
 * |---|---|---|
 * | 0 | 1 | 2 interior index, 5 interior table, 10 leaf index, 13 leaf table |
 * | 1 | 2 | first freeblock, or 0 |
 * | 3 | 2 | number of cells |
 * | 5 | 2 | start of the cell content area (0 means 65536) |
 * | 7 | 1 | fragmented free bytes |
 * | 8 | 4 | right-most child (interior pages only) |
 *
 * Then the cell pointer array, unallocated space, and the cell content area. On page 1 all of it starts at 100.
 */
import { readU16Be, readU32Be } from '../../bytes';
import { readVarint, varintLength } from './varint';

export const INTERIOR_INDEX = 2;
export const INTERIOR_TABLE = 5;
export const LEAF_INDEX = 10;
export const LEAF_TABLE = 13;

export interface PageHeader {
	type: number;
	/** Where the page header starts: 100 on page 1, else 0. */
	start: number;
	firstFreeblock: number;
	cellCount: number;
	contentStart: number;
	rightChild: number;
	/** End of the cell pointer array. */
	pointersEnd: number;
}

/** The b-tree page header, or null where these bytes are no b-tree page. */
export function readPageHeader(page: Uint8Array, pageNumber: number, usable: number): PageHeader | null {
	const start = pageNumber === 1 ? 100 : 0;
	if (page.length < start + 12) return null;
	const type = page[start]!;
	if (type !== LEAF_TABLE && type !== LEAF_INDEX && type !== INTERIOR_TABLE && type !== INTERIOR_INDEX) return null;
	const interior = type === INTERIOR_TABLE || type === INTERIOR_INDEX;
	const cellCount = readU16Be(page, start + 3);
	const pointersEnd = start + (interior ? 12 : 8) + cellCount * 2;
	if (pointersEnd > usable) return null;
	return {
		type,
		start,
		firstFreeblock: readU16Be(page, start + 1),
		cellCount,
		contentStart: readU16Be(page, start + 5) || 65536,
		rightChild: interior ? readU32Be(page, start + 8) : 0,
		pointersEnd
	};
}

/** Offset of cell `i` within the page, or -1 where the pointer points outside the content area. */
export function cellPointer(page: Uint8Array, header: PageHeader, i: number, usable: number): number {
	const at = header.pointersEnd - header.cellCount * 2 + i * 2;
	const pointer = readU16Be(page, at);
	return pointer >= header.pointersEnd && pointer < usable ? pointer : -1;
}

/** How much of a payload lies on the page itself (section 1.6, "overflow pages"): table leaves and index pages differ. */
export function localPayload(payload: number, usable: number, tableLeaf: boolean): number {
	const most = tableLeaf ? usable - 35 : Math.floor(((usable - 12) * 64) / 255) - 23;
	if (payload <= most) return payload;
	const least = Math.floor(((usable - 12) * 32) / 255) - 23;
	const size = least + ((payload - least) % (usable - 4));
	return size <= most ? size : least;
}

/** Length in bytes of the cell at `at`, or -1 where it does not fit on the page. At least 4, as the engine allots. */
export function cellLength(page: Uint8Array, at: number, type: number, usable: number): number {
	let cursor = at;
	if (type === INTERIOR_TABLE || type === INTERIOR_INDEX) cursor += 4;
	if (type === INTERIOR_TABLE) {
		readVarint(page, cursor, usable);
		return varintLength && cursor + varintLength <= usable ? cursor + varintLength - at : -1;
	}
	const payload = readVarint(page, cursor, usable);
	if (varintLength === 0) return -1;
	cursor += varintLength;
	if (type === LEAF_TABLE) {
		readVarint(page, cursor, usable);
		if (varintLength === 0) return -1;
		cursor += varintLength;
	}
	const local = localPayload(payload, usable, type === LEAF_TABLE);
	const end = cursor + local + (local < payload ? 4 : 0);
	return end <= usable ? Math.max(4, end - at) : -1;
}

/** More than the bytes of a page. */
const SPAN = 131072;

/** Where the cells of the page in hand start and end. */
let starts = new Int32Array(1024);
let ends = new Int32Array(1024);

/** Sorts the spans noted by where they start: as one number each, which sorts fast. */
function sortSpans(count: number): void {
	const spans = new Float64Array(count);
	for (let i = 0; i < count; i++) spans[i] = starts[i]! * SPAN + ends[i]!;
	spans.sort();
	for (let i = 0; i < count; i++) {
		starts[i] = Math.floor(spans[i]! / SPAN);
		ends[i] = spans[i]! % SPAN;
	}
}

/**
 * Pointers of cells that are gone stay behind the array when it shrinks, or when the page becomes an interior one: where
 * they end. Those that point into the content area are told by that; older ones by following each other downwards, or being the same.
 */
function afterStalePointers(page: Uint8Array, header: PageHeader, usable: number): number {
	let at = header.pointersEnd;
	while (at + 2 <= header.contentStart) {
		const pointer = readU16Be(page, at);
		if (pointer < header.contentStart || pointer > usable - 4) break;
		at += 2;
	}
	let end = at;
	for (let last = usable; end + 2 <= header.contentStart; end += 2) {
		const pointer = readU16Be(page, end);
		// As often as cells were deleted, the last pointer stays behind once more.
		if ((pointer > last - 4 && pointer !== last) || (end > at && pointer < last - FURTHEST_CELL) || pointer < end) break;
		last = pointer;
	}
	return end - at >= 2 * FOLLOWING ? end : at;
}

/** So many pointers in a row, each a cell's length below the one before, are no chance. */
const FOLLOWING = 6;
const FURTHEST_CELL = 1024;

/** The stretches of a b-tree page that no live cell uses, after its header and pointers: [from, to) in page bytes. */
export function freeRanges(page: Uint8Array, header: PageHeader, usable: number): { from: number; to: number }[] {
	// Last pointer first: rows added in order lie one below the other, and then there is nothing to sort.
	if (starts.length < header.cellCount) {
		starts = new Int32Array(header.cellCount * 2);
		ends = new Int32Array(header.cellCount * 2);
	}
	let count = 0;
	let sorted = true;
	for (let i = header.cellCount - 1; i >= 0; i--) {
		const at = cellPointer(page, header, i, usable);
		if (at < 0) continue;
		const length = cellLength(page, at, header.type, usable);
		if (length <= 0) continue;
		if (count > 0 && at < starts[count - 1]!) sorted = false;
		starts[count] = at;
		ends[count++] = at + length;
	}
	if (!sorted) sortSpans(count);
	const free: { from: number; to: number }[] = [];
	let cursor = afterStalePointers(page, header, usable);
	for (let i = 0; i < count; i++) {
		const from = starts[i]!;
		const to = ends[i]!;
		if (from > cursor) free.push({ from: cursor, to: from });
		if (to > cursor) cursor = to;
	}
	if (cursor < usable) free.push({ from: cursor, to: usable });
	return free;
}

/** Where the first byte from `from` on is that is not zero, or at most 3 bytes before it; the length where there is none. */
export function firstUsed(bytes: Uint8Array, from: number): number {
	let at = from;
	while (at < bytes.length && ((bytes.byteOffset + at) & 3) !== 0) if (bytes[at++] !== 0) return at - 1;
	const words = (bytes.length - at) >> 2;
	const wide = new Uint32Array(bytes.buffer, bytes.byteOffset + at, words);
	let i = 0;
	// Eight at a time: of an image of a disk this sees nearly every byte.
	while (
		i + 8 <= words &&
		(wide[i]! | wide[i + 1]! | wide[i + 2]! | wide[i + 3]! | wide[i + 4]! | wide[i + 5]! | wide[i + 6]! | wide[i + 7]!) === 0
	)
		i += 8;
	for (; i < words; i++) if (wide[i] !== 0) return at + i * 4;
	for (at += words * 4; at < bytes.length; at++) if (bytes[at] !== 0) return at;
	return bytes.length;
}

/** Whether a page holds nothing but zeros. */
export const isBlank = (bytes: Uint8Array): boolean => firstUsed(bytes, 0) === bytes.length;

/** A cell as it was written: payload length, rowid, record header and values all agree with each other and with a table. */
import { sizeOfSerialType } from '../record';
import { MOST_COLUMNS, type Shape } from '../shape';
import { readSignedVarint, readVarint, varintLength } from '../varint';
import type { CarveContext } from './found';
import { isLikelier, LEAST, PREFERRED, settle, type Weighed } from './settle';
import { types } from './weigh';

/** Seven bits of nothing, and more to come (section 1.6 "variable-length integers"). */
const EMPTY_BYTE = 0x80;

/** Where the parts of the cell last scanned lie; its types stand in `types`. Set by `scanCell`. */
const scannedCell = { rowidAt: 0, header: 0, body: 0, payload: 0, count: 0 };

/** Whether payload length, record header and serial types at `o` agree with each other to the byte. `to` is where the free stretch ends. */
function scanCell(b: Uint8Array, o: number, to: number, { shapes, index }: CarveContext): boolean {
	let h = o;
	let payload = b[h++]!;
	// The engine writes no varint longer than it must be: one that begins so is the byte before a cell, and the cell.
	if (payload === EMPTY_BYTE) return false;
	if (payload >= 0x80) {
		payload = readVarint(b, o, to);
		if (varintLength === 0 || varintLength > 5) return false;
		h = o + varintLength;
	}
	if (payload < shapes.smallestHeader) return false;
	const rowidAt = h;
	if (!index) {
		while (h < to && b[h]! >= 0x80 && h - rowidAt < 8) h++;
		h++;
		if (b[rowidAt] === EMPTY_BYTE && h - rowidAt < 9) return false;
	}
	if (h >= to) return false;
	let headerSize = b[h]!;
	let at = h + 1;
	if (headerSize >= 0x80) {
		headerSize = readVarint(b, h, to);
		at = h + varintLength;
		if (!(headerSize <= shapes.largestHeader)) return false;
	} else if (shapes.headerFits[headerSize] === 0) return false;
	const body = h + headerSize;
	if (headerSize > payload || body > to) return false;
	let count = 0;
	let size = headerSize;
	while (at < body) {
		let type = b[at]!;
		if (type < 0x80) at++;
		else if (type === EMPTY_BYTE) return false;
		else {
			type = readVarint(b, at, body);
			if (varintLength === 0) return false;
			at += varintLength;
		}
		if (type === 10 || type === 11 || count >= MOST_COLUMNS || type > 0x7fffffff) return false;
		types[count++] = type;
		size += sizeOfSerialType(type);
		if (size > payload) return false;
	}
	if (size !== payload) return false;
	scannedCell.rowidAt = rowidAt;
	scannedCell.header = h;
	scannedCell.body = body;
	scannedCell.payload = payload;
	scannedCell.count = count;
	return true;
}

/** Whether a cell of one of the tables was once begun at `o`: its head is whole, whatever has become of its values. */
export function isHeadOfCell(b: Uint8Array, o: number, to: number, ctx: CarveContext): boolean {
	if (!scanCell(b, o, to, ctx)) return false;
	const { count } = scannedCell;
	return count >= HEAD_PROVES && (ctx.shapes.byCount[count] ?? []).some((compiled) => compiled.allowsAll(types, 0, count));
}
/** Whether a cell of one of the tables, of few columns perhaps, stands at `o` and ends at `end`: the engine takes new cells from the end of a free block. */
export function isCellUpTo(b: Uint8Array, o: number, end: number, ctx: CarveContext): boolean {
	if (!scanCell(b, o, end, ctx)) return false;
	const { header, payload, count } = scannedCell;
	return header + payload === end && (ctx.shapes.byCount[count] ?? []).some((compiled) => compiled.allowsAll(types, 0, count));
}

/** Columns from which a head proves a cell: fewer types and lengths can agree by chance. */
export const HEAD_PROVES = 4;

/** A cell as it was written, starting at `o`, or null. */
export function wholeCellAt(b: Uint8Array, o: number, to: number, ctx: CarveContext): Weighed | null {
	if (!scanCell(b, o, to, ctx)) return null;
	const { rowidAt, header, body, payload, count } = scannedCell;
	const candidates = ctx.shapes.byCount[count];
	if (!candidates) return null;
	const rowid = ctx.index ? null : readSignedVarint(b, rowidAt, to);
	let best: Weighed | null = null;
	for (const compiled of candidates) {
		if (!compiled.allowsAll(types, 0, count) || (rowid !== null && !rowidFits(compiled.shape, rowid))) continue;
		const found = settle(b, { start: o, h: header, body, payload, count, shape: compiled.shape, rowid, headless: false }, to, ctx);
		if (!found) continue;
		if (found.score >= 0 && compiled.shape === ctx.preferred) found.score += PREFERRED;
		else if (found.score >= 0 && found.score < LEAST.entry && compiled.shape.entryOf) continue;
		if (!best || isLikelier(found, best)) best = found;
	}
	return best;
}

function rowidFits(shape: Shape, rowid: number | bigint): boolean {
	if (typeof rowid === 'bigint') return shape.highRowid > 2 ** 53 || shape.lowRowid < -(2 ** 53) || shape.rows === 0;
	if (rowid < 0) return shape.lowRowid < 0;
	return shape.rows < 20 || rowid <= Math.max(shape.highRowid * 4, shape.highRowid + 1_000_000);
}

/** A cell as it was written: payload length, rowid, record header and values all agree with each other and with a table. */
import { sizeOfSerialType } from '../record';
import { MOST_COLUMNS, type Shape } from '../shape';
import { readSignedVarint, readVarint, varintLength } from '../varint';
import type { CarveContext } from './found';
import { isLikelier, LEAST, PREFERRED, settle, type Weighed } from './settle';
import { types } from './weigh';

/** Seven bits of nothing, and more to come (section 1.6 "variable-length integers"). */
const EMPTY_BYTE = 0x80;

/** A cell as it was written, starting at `o`, or null. `to` is where the free stretch ends. */
export function wholeCellAt(b: Uint8Array, o: number, to: number, ctx: CarveContext): Weighed | null {
	const { shapes } = ctx;
	let h = o;
	let payload = b[h++]!;
	// The engine writes no varint longer than it must be: one that begins so is the byte before a cell, and the cell.
	if (payload === EMPTY_BYTE) return null;
	if (payload >= 0x80) {
		payload = readVarint(b, o, to);
		if (varintLength === 0 || varintLength > 5) return null;
		h = o + varintLength;
	}
	if (payload < shapes.smallestHeader) return null;
	const rowidAt = h;
	if (!ctx.index) {
		while (h < to && b[h]! >= 0x80 && h - rowidAt < 8) h++;
		h++;
		if (b[rowidAt] === EMPTY_BYTE && h - rowidAt < 9) return null;
	}
	if (h >= to) return null;
	let headerSize = b[h]!;
	let at = h + 1;
	if (headerSize >= 0x80) {
		headerSize = readVarint(b, h, to);
		at = h + varintLength;
		if (!(headerSize <= shapes.largestHeader)) return null;
	} else if (shapes.headerFits[headerSize] === 0) return null;
	const bodyAt = h + headerSize;
	if (headerSize > payload || bodyAt > to) return null;
	let count = 0;
	let size = headerSize;
	while (at < bodyAt) {
		let type = b[at]!;
		if (type < 0x80) at++;
		else if (type === EMPTY_BYTE) return null;
		else {
			type = readVarint(b, at, bodyAt);
			if (varintLength === 0) return null;
			at += varintLength;
		}
		if (type === 10 || type === 11 || count >= MOST_COLUMNS || type > 0x7fffffff) return null;
		types[count++] = type;
		size += sizeOfSerialType(type);
		if (size > payload) return null;
	}
	if (size !== payload) return null;
	const candidates = shapes.byCount[count];
	if (!candidates) return null;
	const rowid = ctx.index ? null : readSignedVarint(b, rowidAt, to);
	let best: Weighed | null = null;
	for (const compiled of candidates) {
		if (!compiled.allowsAll(types, 0, count) || (rowid !== null && !rowidFits(compiled.shape, rowid))) continue;
		const found = settle(b, { start: o, h, body: bodyAt, payload, count, shape: compiled.shape, rowid, headless: false }, to, ctx);
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

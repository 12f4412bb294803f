/**
 * Finds rows in bytes that no cell pointer names: freeblocks, unallocated space, freed pages.
 *
 * A freed cell keeps its bytes, except that its first four become a freeblock's header (section 1.6: next freeblock,
 * size) unless it was joined to a block in front of it. So at each place two things are tried:
 *
 * - *a cell as it was written*: payload length, rowid, record header and values all agree with each other and with
 *   the shape of a table;
 * - *a cell without its first four bytes*: where these four are a freeblock's header, what they covered (payload
 *   length, rowid, header size, perhaps the first serial type) is rebuilt from the shape and the block's size.
 *
 * A value that is not what its type says, or a cell into which a newer one was written, is never passed on as whole.
 */
import { isCutText, isText, readU16Be, readU32Be, type Encoding } from '../../bytes';
import type { Grade, Value } from '../../model';
import { localPayload } from './page';
import { readValue, sizeOfSerialType } from './record';
import { allows, classOfSerialType, fitsRange, INT, NULL, REAL, TEXT, type Shape } from './shape';
import { readSignedVarint, readVarint, sizeOfVarint, varintLength } from './varint';

export interface Found {
	/** Within the page. */
	start: number;
	end: number;
	shape: Shape;
	rowid: number | bigint | null;
	/** In record order; undefined where lost. */
	values: (Value | undefined)[];
	/** Record column of which only the beginning is left, or -1. */
	cut: number;
	grade: Grade;
	score: number;
	/** Serial types as read or rebuilt, and where the body starts: to cut it again where another cell overlaps it. */
	types: number[];
	body: number;
}

export interface CarveContext {
	usable: number;
	encoding: Encoding;
	/** Shapes by number of record columns. */
	shapes: ShapeIndex;
	/** Reads the rest of an overflowing payload; null where its pages are gone or in use. */
	overflow: (local: Uint8Array, size: number, first: number) => { payload: Uint8Array; complete: boolean };
	/** The shape of the table that owns the page, tried first. */
	preferred: Shape | null;
	/** Cells as index pages hold them (no rowid): those of WITHOUT ROWID tables. */
	index: boolean;
}

export class ShapeIndex {
	readonly byCount: Shape[][] = [];
	readonly all: Shape[];
	/** Largest and smallest header that any shape's record has. */
	readonly smallest: number;
	readonly largest: number;

	constructor(shapes: Shape[], withoutRowid = false) {
		this.all = shapes.filter((s) => s.order.length > 0 && s.withoutRowid === withoutRowid);
		for (const shape of this.all) {
			const fewest = Math.max(1, Math.min(shape.fewest, shape.order.length));
			for (let n = fewest; n <= shape.order.length; n++) (this.byCount[n] ??= []).push(shape);
		}
		const counts = this.byCount.map((list, n) => (list ? n : 0)).filter((n) => n > 0);
		this.smallest = counts.length ? Math.min(...counts) + 1 : 0;
		this.largest = counts.length ? Math.max(...counts) * 4 + 2 : 0;
	}
}

const MAX_COLUMNS = 2000;
const typeBuffer = new Array<number>(MAX_COLUMNS).fill(0);

/** Serial types in [at, end) into `typeBuffer` from `from` on; how many in all, or -1. */
function readTypes(b: Uint8Array, at: number, end: number, from: number): number {
	let n = from;
	let cursor = at;
	while (cursor < end) {
		const type = readVarint(b, cursor, end);
		if (varintLength === 0 || n >= MAX_COLUMNS || type === 10 || type === 11) return -1;
		cursor += varintLength;
		typeBuffer[n++] = type;
	}
	return n;
}

interface Evaluated {
	values: (Value | undefined)[];
	score: number;
	cut: number;
	complete: boolean;
	/** First byte that is not what its type says, or -1. */
	badAt: number;
}

/**
 * Reads the values at `body` up to `limit` and weighs them against the shape. Null where a type does not fit the
 * shape. Text that is no text sets `badAt`.
 */
function evaluate(b: Uint8Array, body: number, limit: number, types: readonly number[], count: number, shape: Shape, encoding: Encoding): Evaluated | null {
	let score = 0;
	let at = body;
	let cut = -1;
	let complete = true;
	let badAt = -1;
	const values: (Value | undefined)[] = [];
	for (let k = 0; k < count; k++) {
		const type = types[k]!;
		if (!allows(shape, k, type)) return null;
		const size = sizeOfSerialType(type);
		const cls = classOfSerialType(type);
		if (at >= limit && size > 0) {
			complete = false;
			values.push(undefined);
			at += size;
			continue;
		}
		if (at + size > limit) {
			complete = false;
			const whole = limit - at;
			if (cls === TEXT && whole >= 3 && isCutText(b, at, limit, encoding)) {
				cut = k;
				const even = encoding === 'utf8' ? whole : whole - (whole % 2);
				values.push(cutTextAt(b, at, at + even, encoding));
				score += Math.min(whole, 10) * 0.5;
			} else values.push(undefined);
			at += size;
			continue;
		}
		if (cls === TEXT) {
			if (!isText(b, at, at + size, encoding)) {
				if (badAt < 0) badAt = at;
			} else {
				score += Math.min(size, 12) * 0.5;
				if (shape.rows >= 40 && size > shape.longest[k]! * 4 + 200) score -= 2;
				if (shape.rows >= 40 && shape.shortest[k] === shape.longest[k] && shape.longest[k]! > 8 && encoding === 'utf8' && size !== shape.longest[k]) score -= 4;
			}
		}
		const value = readValue(b, at, type, encoding);
		if (cls === INT || cls === REAL) {
			const fit = fitsRange(shape, k, Number(value));
			score += fit > 0 ? (size >= 3 ? 4 : 1) : fit < 0 ? -3 : size >= 3 ? 1 : 0.5;
			if (cls === REAL && !Number.isFinite(value)) return null;
		} else if (cls === NULL) score += 0.3;
		else if (cls !== TEXT) score += 0.5;
		values.push(value);
		at += size;
	}
	return { values, score, cut, complete, badAt };
}

function cutTextAt(b: Uint8Array, from: number, to: number, encoding: Encoding): string {
	let end = to;
	if (encoding === 'utf8') {
		// Step back over a last character that is not whole.
		let back = 1;
		while (back <= 4 && end - back >= from && (b[end - back]! & 0xc0) === 0x80) back++;
		const lead = b[end - back] ?? 0;
		const need = lead >= 0xf0 ? 4 : lead >= 0xe0 ? 3 : lead >= 0xc0 ? 2 : 1;
		if (need > back) end -= back;
	}
	return readValue(b, from, 13 + (end - from) * 2, encoding) as string;
}

const WHOLE_AT_LEAST = 2.5;
const FRAGMENT_AT_LEAST = 6;
const HEADLESS_AT_LEAST = 5;

/** A cell as it was written, starting at `o`, or null. `to` is where the free stretch ends. */
function wholeCellAt(b: Uint8Array, o: number, to: number, ctx: CarveContext): Found | null {
	const payload = readVarint(b, o, to);
	if (!(payload >= ctx.shapes.smallest)) return null;
	let h = o + varintLength;
	if (varintLength > 5) return null;
	let rowid: number | bigint | null = null;
	if (!ctx.index) {
		rowid = readSignedVarint(b, h, to);
		if (varintLength === 0) return null;
		h += varintLength;
	}
	if (h >= to) return null;
	const headerSize = readVarint(b, h, to);
	if (!(headerSize >= ctx.shapes.smallest && headerSize <= ctx.shapes.largest) || headerSize > payload || h + headerSize > to) return null;
	const count = readTypes(b, h + varintLength, h + headerSize, 0);
	const shapes = count > 0 ? ctx.shapes.byCount[count] : undefined;
	if (!shapes) return null;
	let bodySize = 0;
	for (let k = 0; k < count; k++) bodySize += sizeOfSerialType(typeBuffer[k]!);
	if (headerSize + bodySize !== payload) return null;
	const types = typeBuffer.slice(0, count);
	return bestShape(shapes, ctx, (shape) => {
		if (rowid !== null && !rowidFits(shape, rowid)) return null;
		return settle(b, o, h + headerSize, h, payload, to, types, shape, rowid, ctx);
	});
}

function rowidFits(shape: Shape, rowid: number | bigint): boolean {
	if (typeof rowid === 'bigint') return shape.highRowid > 2 ** 53 || shape.lowRowid < -(2 ** 53) || shape.rows === 0;
	if (rowid < 0) return shape.lowRowid < 0;
	return shape.rows < 20 || rowid <= Math.max(shape.highRowid * 4, shape.highRowid + 1_000_000);
}

function bestShape(shapes: Shape[], ctx: CarveContext, attempt: (shape: Shape) => Found | null): Found | null {
	let best: Found | null = null;
	for (const shape of shapes) {
		const found = attempt(shape);
		if (!found) continue;
		if (shape === ctx.preferred) found.score += 3;
		if (!best || found.score > best.score) best = found;
	}
	return best;
}

/** Weighs a cell whose header is known. Its payload may overflow, be cut by `to`, or be whole. */
function settle(b: Uint8Array, start: number, body: number, h: number, payload: number, to: number, types: number[], shape: Shape, rowid: number | bigint | null, ctx: CarveContext): Found | null {
	const local = localPayload(payload, ctx.usable, !ctx.index);
	const make = (e: Evaluated, end: number, grade: Grade): Found => ({ start, end, shape, rowid, values: e.values, cut: e.cut, grade, score: e.score, types, body });
	if (local < payload) {
		const end = h + local + 4;
		if (end > to) return null;
		const chain = ctx.overflow(b.subarray(h, h + local), payload, readU32Be(b, h + local));
		const e = evaluate(chain.payload, body - h, chain.payload.length, types, types.length, shape, ctx.encoding);
		if (!e || e.badAt >= 0 || e.score < WHOLE_AT_LEAST) return null;
		return make(e, end, e.complete && chain.complete ? 'whole' : 'fragment');
	}
	const end = Math.max(h + payload, start + 4);
	const e = evaluate(b, body, Math.min(h + payload, to), types, types.length, shape, ctx.encoding);
	if (!e) return null;
	if (e.badAt >= 0) return { ...make(e, Math.min(end, to), 'fragment'), score: -e.badAt };
	if (end > to) return e.score >= FRAGMENT_AT_LEAST && e.values.some((v) => v !== undefined && v !== null) ? make(e, to, 'fragment') : null;
	return e.score >= (rowid === null && !ctx.index ? 1 : WHOLE_AT_LEAST) ? make(e, end, 'whole') : null;
}

/** A cell whose first four bytes became a freeblock's header, starting at `s`, or null. */
function headlessCellAt(b: Uint8Array, s: number, to: number, ctx: CarveContext): Found | null {
	if (s + 8 > to) return null;
	const next = readU16Be(b, s);
	const size = readU16Be(b, s + 2);
	if (size < 6 || s + size > ctx.usable || (next !== 0 && (next <= s + 3 || next >= ctx.usable))) return null;
	const limit = Math.min(to, s + size);
	const candidates = ctx.preferred ? [ctx.preferred, ...ctx.shapes.all.filter((x) => x !== ctx.preferred)] : ctx.shapes.all;
	let best: Found | null = null;
	const consider = (found: Found | null): void => {
		if (!found || found.score < 0) return;
		if (found.shape === ctx.preferred) found.score += 3;
		const rest = s + size - found.end;
		if (rest >= 0 && rest <= 3) found.score += 4;
		if (found.score < HEADLESS_AT_LEAST) return;
		if (!best || found.score > best.score) best = found;
	};
	if (ctx.index) {
		headlessIndexCells(b, s, limit, size, ctx, consider);
		return best;
	}
	// Payload length and rowid took four bytes or more: the header's own size is still there.
	for (let h = s + 4; h <= s + 8 && h < limit; h++) {
		// Bytes between the covered four and the header are the end of the rowid: all but the last go on.
		if (h > s + 4 && b[h - 1]! >= 0x80) continue;
		if (h > s + 5 && b[h - 2]! < 0x80) break;
		const headerSize = readVarint(b, h, limit);
		if (!(headerSize >= ctx.shapes.smallest && headerSize <= ctx.shapes.largest) || h + headerSize > to) continue;
		const count = readTypes(b, h + varintLength, h + headerSize, 0);
		const shapes = count > 0 ? ctx.shapes.byCount[count] : undefined;
		if (!shapes) continue;
		const types = typeBuffer.slice(0, count);
		const payload = headerSize + types.reduce((sum, t) => sum + sizeOfSerialType(t), 0);
		if (sizeOfVarint(payload) >= h - s) continue;
		for (const shape of shapes) consider(rebuilt(b, s, h + headerSize, h, payload, limit, types, shape, ctx));
	}
	for (const shape of candidates) {
		// Three bytes: the header's size is gone, all serial types are there.
		const fewest = Math.max(1, Math.min(shape.fewest, shape.order.length));
		for (let count = shape.order.length; count >= fewest; count--) {
			const all = typesFrom(b, s + 4, limit, 0, count);
			if (all > 0) {
				const types = typeBuffer.slice(0, count);
				const headerSize = all - (s + 4) + 1;
				const payload = headerSize + types.reduce((sum, t) => sum + sizeOfSerialType(t), 0);
				const lengths = sizeOfVarint(payload);
				if (lengths <= 2) consider(rebuilt(b, s, all, s + 3, payload, limit, types, shape, ctx));
			}
			// Two bytes: the first serial type is gone as well, or the first byte of it.
			if (count < 2) continue;
			for (const first of firstTypes(b, s, shape, size)) {
				const from = first.wide ? s + 5 : s + 4;
				const end = typesFrom(b, from, limit, 1, count);
				if (end <= 0) continue;
				typeBuffer[0] = first.type;
				const types = typeBuffer.slice(0, count);
				const payload = end - (s + 2) + types.reduce((sum, t) => sum + sizeOfSerialType(t), 0);
				if (payload < 128) consider(rebuilt(b, s, end, s + 2, payload, limit, types, shape, ctx));
			}
		}
	}
	return best;
}

/**
 * Cells of index pages have no rowid: the four covered bytes are the payload length (one byte or two), the header's
 * size and the first one or two serial types. A cell of an interior page begins with its child's page number, so
 * there the four bytes cover nothing else.
 */
function headlessIndexCells(b: Uint8Array, s: number, limit: number, size: number, ctx: CarveContext, consider: (found: Found | null) => void): void {
	const child = wholeCellAt(b, s + 4, limit, ctx);
	if (child && child.score >= 0) consider({ ...child, start: s });
	for (const shape of ctx.shapes.all) {
		const count = shape.order.length;
		for (const lost of [1, 2]) {
			if (count < lost) continue;
			for (const first of coveredTypes(shape, 0, size)) {
				for (const second of lost === 2 ? coveredTypes(shape, 1, size) : [null]) {
					const end = typesFrom(b, s + 4, limit, lost, count);
					if (end <= 0) break;
					typeBuffer[0] = first;
					if (second !== null) typeBuffer[1] = second;
					const types = typeBuffer.slice(0, count);
					const headerSize = end - (s + 4) + lost + 1;
					const payload = headerSize + types.reduce((sum, t) => sum + sizeOfSerialType(t), 0);
					if (sizeOfVarint(payload) !== 3 - lost) continue;
					consider(rebuilt(b, s, end, s + 3 - lost, payload, limit, types, shape, ctx));
				}
			}
		}
	}
}

/** One-byte serial types that the shape lets a lost column have had. */
function coveredTypes(shape: Shape, column: number, blockSize: number): number[] {
	const types = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9].filter((t) => allows(shape, column, t));
	if (allows(shape, column, 13)) {
		const fixed = shape.rows > 10 && shape.shortest[column] === shape.longest[column] ? shape.longest[column]! : -1;
		for (let length = 0; length <= Math.min(57, blockSize); length++) if (fixed < 0 || length === fixed) types.push(13 + length * 2);
	}
	return types;
}

/** Reads exactly `count` types (those from index `from` on); where they end, or -1. */
function typesFrom(b: Uint8Array, at: number, limit: number, from: number, count: number): number {
	let cursor = at;
	for (let k = from; k < count; k++) {
		const type = readVarint(b, cursor, limit);
		if (varintLength === 0 || type === 10 || type === 11 || type > 2_000_000_000) return -1;
		cursor += varintLength;
		typeBuffer[k] = type;
	}
	return cursor;
}

/** What a lost first serial type can have been. */
function firstTypes(b: Uint8Array, s: number, shape: Shape, blockSize: number): { type: number; wide: boolean }[] {
	if (shape.rowidAt === 0) return [{ type: 0, wide: false }];
	const list: { type: number; wide: boolean }[] = [];
	for (const type of [0, 1, 2, 3, 4, 5, 6, 7, 8, 9]) if (allows(shape, 0, type)) list.push({ type, wide: false });
	if (allows(shape, 0, 13) || allows(shape, 0, 12)) {
		const most = Math.min(57, Math.max(0, blockSize - 4));
		const fixed = shape.rows > 10 && shape.shortest[0] === shape.longest[0] ? shape.longest[0]! : -1;
		for (let length = 0; length <= most; length++) {
			if (fixed >= 0 && length !== fixed) continue;
			list.push({ type: (allows(shape, 0, 13) ? 13 : 12) + length * 2, wide: false });
		}
		// A two-byte type: only its first byte is gone, and the payload's size (below 128) leaves two values for it.
		const second = b[s + 4]!;
		if (second < 0x80) for (const high of [1, 2]) if (allows(shape, 0, high * 128 + second)) list.push({ type: high * 128 + second, wide: true });
	}
	return list;
}

function rebuilt(b: Uint8Array, s: number, body: number, h: number, payload: number, limit: number, types: number[], shape: Shape, ctx: CarveContext): Found | null {
	for (let k = 0; k < types.length; k++) if (!allows(shape, k, types[k]!)) return null;
	const found = settle(b, s, body, h, payload, limit, types, shape, null, ctx);
	if (!found) return null;
	if (found.grade === 'whole') found.grade = 'rebuilt';
	return found;
}

/** Cuts a found cell at `limit`, where a newer one begins. Null where nothing of worth is left. */
function cutAt(b: Uint8Array, found: Found, limit: number, ctx: CarveContext): Found | null {
	if (found.body >= limit) return null;
	const e = evaluate(b, found.body, limit, found.types, found.types.length, found.shape, ctx.encoding);
	if (!e || e.badAt >= 0 || e.score < FRAGMENT_AT_LEAST) return null;
	return { ...found, values: e.values, cut: e.cut, end: limit, grade: 'fragment', score: e.score };
}

/** All rows found in [from, to) of a page, in order of place, none overlapping another. */
export function carve(b: Uint8Array, from: number, to: number, ctx: CarveContext): Found[] {
	if (to - from < 6 || ctx.shapes.all.length === 0) return [];
	const clean: Found[] = [];
	const damaged: Found[] = [];
	for (let o = from; o + 4 <= to; o++) {
		// A long stretch of zeros is common and holds nothing.
		if (b[o] === 0 && b[o + 1] === 0 && b[o + 2] === 0 && b[o + 3] === 0) continue;
		const found = (b[o] !== 0 ? wholeCellAt(b, o, to, ctx) : null) ?? headlessCellAt(b, o, to, ctx);
		if (!found) continue;
		if (found.score < 0) damaged.push(found);
		else clean.push(found);
	}
	const kept = resolveOverlaps(b, clean, ctx);
	for (const found of damaged) {
		const newer = kept.filter((k) => k.start > found.body && k.start < found.end && k.start <= -found.score + 64).map((k) => k.start);
		const cut = newer.length ? cutAt(b, found, Math.min(...newer), ctx) : null;
		if (cut && !kept.some((k) => k.start < cut.end && k.end > cut.start)) kept.push(cut);
	}
	return kept.sort((a, z) => a.start - z.start);
}

/**
 * A cell that starts inside another's proper text is a chance likeness (a header's control bytes cannot be text). One
 * that starts elsewhere inside and reaches its end was written over it later: the older one is cut there.
 */
function resolveOverlaps(b: Uint8Array, found: Found[], ctx: CarveContext): Found[] {
	const kept: Found[] = [];
	for (const current of found) {
		const before = kept.at(-1);
		if (!before || before.end <= current.start) {
			kept.push(current);
			continue;
		}
		// In UTF-16 any bytes can pass for text: there a proven cell inside a text is what overwrote it.
		const proven = ctx.encoding !== 'utf8' && current.grade === 'whole';
		if (!proven && (insideText(before, current.start) || current.end < before.end || current.grade === 'fragment')) continue;
		kept.pop();
		const cut = cutAt(b, before, current.start, ctx);
		if (cut) kept.push(cut);
		kept.push(current);
	}
	return kept;
}

/** Whether an offset lies inside a text of a cell that read as proper text throughout. */
function insideText(found: Found, offset: number): boolean {
	let at = found.body;
	for (let k = 0; k < found.types.length; k++) {
		const size = sizeOfSerialType(found.types[k]!);
		if (offset >= at && offset < at + size) return found.types[k]! >= 13 && found.types[k]! % 2 === 1 && found.cut !== k;
		at += size;
	}
	return false;
}

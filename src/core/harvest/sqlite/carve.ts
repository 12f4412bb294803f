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
 * Nearly every place is refused after a few bytes; only what passes the cheap tests is weighed, and only what passes
 * the weighing is decoded.
 */
import { isCutText, isText, readU16Be, readU32Be, type Encoding } from '../../bytes';
import type { Grade, Value } from '../../model';
import { CompiledShape, ShapeIndex } from './compiled';
import { localPayload } from './page';
import { findPlaces } from './places';
import { readMagnitude, readValue, sizeOfSerialType } from './record';
import { BLOB, classOfSerialType, ENOUGH, fitsRange, INT, MOST_COLUMNS, NULL, REAL, TEXT, type Shape } from './shape';
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
	types: ArrayLike<number>;
	body: number;
}

export interface CarveContext {
	usable: number;
	encoding: Encoding;
	shapes: ShapeIndex;
	/** Reads the rest of an overflowing payload, as far as its pages are there and not in use. */
	overflow: (local: Uint8Array, size: number, first: number) => { payload: Uint8Array; complete: boolean };
	/** The shape of the table that owns the page. */
	preferred: Shape | null;
	/** Cells as index pages hold them (no rowid): those of WITHOUT ROWID tables. */
	index: boolean;
}

/** What a cell must weigh to be taken. The fewer of its own bytes prove it, the more its values must. */
const LEAST = { whole: 2.5, entry: 8, fragment: 6, headless: 5, headlessFragment: 9 };
const PREFERRED = 3;
const LITTLE_KNOWN = 7;
const FILLS_ITS_BLOCK = 4;
/** A cell that fills its block and weighs so much is not looked into any more. */
const BEYOND_DOUBT = 16;
/** Taken off for an integer stored longer than the engine would (older files keep 0 and 1 in a byte, so it is not refused). */
const NOT_SHORTEST = 1.5;
const FOLLOWED = 2;
/** A table of so few rows has lost few: taken off on pages that are not its own. */
const FEW = 20;
const FEW_HAVE_LOST = 8;
/** A number outside what its column has held; and up to so much more the further it is. */
const OUTSIDE = -3;
const FURTHER = 2;
/** A null in a column that has had none. */
const NEVER_NULL = -6;
/** The byte with which all blobs of the column begin. */
const LEAD = 2;
/** A text or blob of another length, where all of the column's have one. */
const OTHER_LENGTH = -4;
const HEADER_THERE = 3;
const TYPES_THERE = 2;
/** Two readings of one place that weigh nearly the same: what differs between them is not known. */
const AS_GOOD = 0.8;
/** A record's header lies no further behind the beginning of its cell: payload length and rowid are varints. */
const BEFORE_HEADER = 14;

const types = new Int32Array(MOST_COLUMNS);
let weighedCut = -1;
let weighedComplete = true;
let weighedBadAt = -1;
/** Where the first blob starts that begins as those of its column do. */
let weighedBlobAt = -1;
/** What the values that are not null weigh: nulls prove nothing. */
let weighedProof = 0;

/**
 * Weighs the values at `body` up to `limit` against the shape. NaN where a value cannot be one of this shape's. Sets
 * what is cut, whether all is there, and the first text that is none.
 */
function weigh(b: Uint8Array, body: number, limit: number, count: number, shape: Shape, encoding: Encoding): number {
	let score = 0;
	let at = body;
	weighedCut = -1;
	weighedComplete = true;
	weighedBadAt = -1;
	weighedBlobAt = -1;
	let nulls = 0;
	for (let k = 0; k < count; k++) {
		const type = types[k]!;
		const size = sizeOfSerialType(type);
		const cls = classOfSerialType(type);
		if (at + size > limit) {
			weighedComplete = false;
			const left = limit - at;
			if (cls === TEXT && left >= 3 && weighedCut < 0) {
				if (isCutText(b, at, limit, encoding)) {
					weighedCut = k;
					score += Math.min(left, 10) * 0.5;
				} else if (weighedBadAt < 0 && encoding === 'utf8') weighedBadAt = at;
			} else if (cls === BLOB && left >= CUT_BLOB && weighedCut < 0 && shape.lead[k]! > 0 && b[at] === shape.lead[k]) {
				weighedCut = k;
				score += LEAD + Math.min(longestRun(b, at, limit), 10) * 0.5;
			}
			at += size;
			continue;
		}
		if (cls === TEXT) {
			if (!isText(b, at, at + size, encoding)) {
				if (weighedBadAt < 0) weighedBadAt = at;
			} else {
				score += Math.min(size, 12) * 0.5;
				if (shape.rows >= 40 && size > shape.longest[k]! * 4 + 200) score -= 2;
				if (encoding === 'utf8' && size !== shape.longest[k] && isOneLength(shape, k)) score += OTHER_LENGTH;
				else if (isTooShort(shape, k, size)) score += OTHER_LENGTH;
			}
		} else if (cls === INT || cls === REAL) {
			const value = readMagnitude(b, at, type);
			if (cls === REAL && !Number.isFinite(value)) return NaN;
			const fit = fitsRange(shape, k, value);
			if (cls === INT && !isShortest(type, value)) score -= NOT_SHORTEST;
			score += fit > 0 ? (size >= 3 ? 4 : 1) : fit < 0 ? OUTSIDE + (fit + 1) * FURTHER : size >= 3 ? 1 : 0.5;
		} else if (cls === NULL) {
			if ((shape.seen[k]! & NULL) !== 0 || shape.rows < ENOUGH / 2) nulls++;
			else score += NEVER_NULL;
		}
		// Keys are often blobs of one length.
		else {
			score += shape.rows >= 40 && shape.shortest[k] === shape.longest[k] && size !== shape.longest[k] ? OTHER_LENGTH : 0.5;
			// Many forms begin with one and the same byte.
			if (size > 3 && shape.lead[k]! > 0) score += b[at] === shape.lead[k] ? LEAD : -LEAD;
			if (weighedBlobAt < 0 && size >= CUT_BLOB && shape.lead[k]! > 0 && b[at] === shape.lead[k]) weighedBlobAt = at;
		}
		at += size;
	}
	weighedProof = score;
	return score + nulls * 0.3;
}

/** Bytes of a blob that is cut from which its beginning is one like those of its column. */
const CUT_BLOB = 8;
/** Bytes of a blob that prove it by themselves. */
const BLOB_HEAD = 24;

/** The longest run of letters in [from, to), bytes. */
function longestRun(b: Uint8Array, from: number, to: number): number {
	let longest = 0;
	for (let at = from, run = 0; at < to; at++) {
		run = b[at]! >= 0x20 && b[at] !== 0x7f ? run + 1 : 0;
		if (run > longest) longest = run;
	}
	return longest;
}

/** Whether all texts of a column have one length: keys and the like have. */
const isOneLength = (shape: Shape, k: number): boolean =>
	shape.shortest[k] === shape.longest[k] && (shape.rows >= 40 ? shape.longest[k]! > 8 : shape.rows >= 4 && shape.longest[k]! >= 16);

/** A text far shorter than any the column has held. */
const isTooShort = (shape: Shape, k: number, size: number): boolean =>
	shape.rows >= 4 && size * 3 < shape.shortest[k]! && shape.shortest[k]! >= 8;

/** The smallest number of magnitude that an integer type of so many bytes is used for: below it a shorter one is. */
const SHORTEST_FROM = [0, 0, 2 ** 7, 2 ** 15, 2 ** 23, 2 ** 31, 2 ** 47];

/** The engine stores an integer in the shortest type that holds it (section 2.1); 0 and 1 in none at all. */
function isShortest(type: number, value: number): boolean {
	if (type === 1) return value !== 0 && value !== 1;
	if (type < 2 || type > 6) return true;
	const from = SHORTEST_FROM[type]!;
	return value >= from || value < -from;
}

function valuesAt(
	b: Uint8Array,
	body: number,
	limit: number,
	cellTypes: Int32Array,
	cut: number,
	encoding: Encoding
): (Value | undefined)[] {
	let at = body;
	const values: (Value | undefined)[] = [];
	for (let k = 0; k < cellTypes.length; k++) {
		const type = cellTypes[k]!;
		const size = sizeOfSerialType(type);
		const left = limit - at;
		if (size <= left) values.push(readValue(b, at, type, encoding));
		else if (k !== cut) values.push(undefined);
		else if (classOfSerialType(type) === BLOB) values.push(b.slice(at, limit));
		else values.push(cutTextAt(b, at, at + (encoding === 'utf8' ? left : left - (left % 2)), encoding));
		at += size;
	}
	return values;
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

/** A cell as weighed; its values are decoded only when it is taken. A negative score marks one with a text that is none (see `damaged`). */
interface Weighed {
	start: number;
	end: number;
	shape: Shape;
	rowid: number | bigint | null;
	grade: Grade;
	score: number;
	types: Int32Array;
	body: number;
	cut: number;
	/** Where the values are read from: the page, or the payload put together from its overflow pages. */
	from: Uint8Array;
	fromBody: number;
	limit: number;
	/** A cell that fills the block it was freed into: nothing newer lies in it. */
	fills: boolean;
	/** Where the first text starts that is none, or -1. */
	bad: number;
	/** Leading columns whose values another reading, as good, has otherwise: they count as lost. */
	unsure: number;
}

function taken(w: Weighed, encoding: Encoding): Found {
	const values = valuesAt(w.from, w.fromBody, w.limit, w.types, w.cut, encoding);
	for (let k = 0; k < w.unsure; k++) if (k !== w.shape.rowidAt) values[k] = undefined;
	return {
		start: w.start,
		end: w.end,
		shape: w.shape,
		rowid: w.rowid,
		values,
		cut: w.cut,
		grade: w.grade,
		score: w.score,
		types: w.types,
		body: w.body
	};
}

/** A cell being settled: what is known of it before its values are weighed. Its types stand in `types`. */
interface Attempt {
	start: number;
	/** Where the record's header and its body start. */
	h: number;
	body: number;
	payload: number;
	count: number;
	shape: Shape;
	rowid: number | bigint | null;
	headless: boolean;
}

const weighed = (a: Attempt, end: number, grade: Grade, score: number, from: Uint8Array, fromBody: number, limit: number): Weighed => ({
	start: a.start,
	end,
	shape: a.shape,
	rowid: a.rowid,
	grade,
	score,
	types: types.slice(0, a.count),
	body: a.body,
	cut: weighedCut,
	from,
	fromBody,
	limit,
	fills: false,
	bad: -1,
	unsure: 0
});

/** Weighs an attempt. The payload may overflow, be cut at `to`, or be whole. */
function settle(b: Uint8Array, a: Attempt, to: number, ctx: CarveContext): Weighed | null {
	const { h, body, payload, count, shape, headless } = a;
	const local = localPayload(payload, ctx.usable, !ctx.index);
	if (local < payload) return settleOverflowing(b, a, local, to, ctx);
	const end = Math.max(h + payload, a.start + 4);
	const limit = Math.min(h + payload, to);
	const score = weigh(b, body, limit, count, shape, ctx.encoding);
	if (Number.isNaN(score)) return null;
	if (weighedBadAt >= 0) return damaged(b, a, weighedBadAt, weighedBadAt, Math.min(end, to), ctx);
	// What stands behind a blob fits nothing: it can be what was written over the end of the blob.
	if (weighedBlobAt >= 0 && score < LEAST.whole) return damaged(b, a, weighedBlobAt, weighedBlobAt + BLOB_HEAD, Math.min(end, to), ctx);
	if (weighedProof < 1) return null;
	if (end > to) return score >= leastOfFragment(headless, shape) ? weighed(a, to, 'fragment', score, b, body, limit) : null;
	return score >= (headless ? 1 : LEAST.whole) ? weighed(a, end, headless ? 'rebuilt' : 'whole', score, b, body, limit) : null;
}

/**
 * A cell in whose texts or blobs something newer lies. What comes before `until` must prove it; how far the value that
 * starts at `bad` goes shows when what was written over it is known. Scores between −1 and 0, the more is proven the
 * higher.
 */
function damaged(b: Uint8Array, a: Attempt, bad: number, until: number, end: number, ctx: CarveContext): Weighed | null {
	// In UTF-16 any bytes can pass for text: there no block's size alone proves where a cell's values lie.
	if (a.shape.entryOf || (a.headless && ctx.encoding !== 'utf8')) return null;
	const score = weigh(b, a.body, Math.min(until, end), a.count, a.shape, ctx.encoding);
	if (!(score >= leastOfFragment(a.headless, a.shape))) return null;
	return { ...weighed(a, end, a.headless ? 'rebuilt' : 'fragment', -1 / (1 + score), b, a.body, end), bad };
}

/** What a fragment must weigh. Where hardly any row is known, more of the values must speak for it. */
const leastOfFragment = (headless: boolean, shape: Shape): number =>
	(headless ? LEAST.headlessFragment : LEAST.fragment) + (shape.rows < 8 ? LITTLE_KNOWN : 0);

function settleOverflowing(b: Uint8Array, a: Attempt, local: number, to: number, ctx: CarveContext): Weighed | null {
	const end = a.h + local + 4;
	if (end > to) return null;
	// The local part first: most chance likenesses fall here, without a page being read.
	if (Number.isNaN(weigh(b, a.body, a.h + local, a.count, a.shape, ctx.encoding)) || weighedBadAt >= 0) return null;
	const chain = ctx.overflow(b.subarray(a.h, a.h + local), a.payload, readU32Be(b, a.h + local));
	const score = weigh(chain.payload, a.body - a.h, chain.payload.length, a.count, a.shape, ctx.encoding);
	if (!(score >= LEAST.whole) || weighedBadAt >= 0) return null;
	return weighed(
		a,
		end,
		weighedComplete && chain.complete ? (a.headless ? 'rebuilt' : 'whole') : 'fragment',
		score,
		chain.payload,
		a.body - a.h,
		chain.payload.length
	);
}

/** Seven bits of nothing, and more to come (section 1.6 "variable-length integers"). */
const EMPTY_BYTE = 0x80;

/** A cell as it was written, starting at `o`, or null. `to` is where the free stretch ends. */
function wholeCellAt(b: Uint8Array, o: number, to: number, ctx: CarveContext): Weighed | null {
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

/** Of two that weigh the same the one of the larger table: it has lost more. */
const isLikelier = (a: Weighed, b: Weighed): boolean => a.score - b.score > prior(b.shape) - prior(a.shape);
const prior = (shape: Shape): number => Math.min(1.5, Math.log10(shape.rows + 1) * 0.5);

function rowidFits(shape: Shape, rowid: number | bigint): boolean {
	if (typeof rowid === 'bigint') return shape.highRowid > 2 ** 53 || shape.lowRowid < -(2 ** 53) || shape.rows === 0;
	if (rowid < 0) return shape.lowRowid < 0;
	return shape.rows < 20 || rowid <= Math.max(shape.highRowid * 4, shape.highRowid + 1_000_000);
}

/** A freed cell's record header, where it is still there, stands no further behind the cell's beginning: three bytes of length, nine of rowid. */
const HEADER_WITHIN = 12;
/** From here on the byte before the header can be the ninth of a rowid, which has all eight bits. */
const AFTER_NINTH = 10;

/** The best of the ways in which one place can be a cell without its first four bytes. */
class Headless {
	best: Weighed | null = null;
	/** The best of those in which something newer lies. */
	private overwritten: Weighed | null = null;
	private readonly limit: number;

	constructor(
		private readonly b: Uint8Array,
		private readonly s: number,
		/** The size that the freeblock's header states. */
		private readonly size: number,
		to: number,
		/** Whether the record's header can be one that is still there. */
		private readonly hasHeader: boolean,
		private readonly ctx: CarveContext
	) {
		this.limit = Math.min(to, s + size);
	}

	find(): Weighed | null {
		const { ctx } = this;
		for (const compiled of ctx.shapes.all) {
			if (ctx.index) this.ofIndexPage(compiled);
			else for (let count = compiled.count; count >= compiled.fewest; count--) this.ofTable(compiled, count);
		}
		if (ctx.index) this.ofInteriorPage();
		return this.best ?? this.overwritten;
	}

	/** Whether what comes after a cell is the beginning of another that was freed before it. */
	private followed(end: number): boolean {
		const { b, ctx } = this;
		if (end + 4 > this.limit) return false;
		const next = readU16Be(b, end);
		const size = readU16Be(b, end + 2);
		return size >= 4 && end + size <= ctx.usable && (next === 0 || (next > end && next < ctx.usable));
	}

	/** `proven`: how much of the header is still there, in points. */
	private consider(found: Weighed | null, proven: number): void {
		if (!found) return;
		if (found.score < 0) {
			if (!this.overwritten || found.score > this.overwritten.score) this.overwritten = found;
			return;
		}
		if (found.shape === this.ctx.preferred) found.score += PREFERRED;
		else if (found.shape.rows < FEW) found.score -= FEW_HAVE_LOST;
		const rest = this.s + this.size - found.end;
		if (rest >= 0 && rest <= 3 && found.grade !== 'fragment') {
			found.score += rest === 0 ? FILLS_ITS_BLOCK : FILLS_ITS_BLOCK - 1;
			found.fills = true;
		} else if (this.followed(found.end)) found.score += FOLLOWED;
		// One value alone, and nothing around it that agrees: any text would do.
		if (!found.fills && found.shape !== this.ctx.preferred && valued(found.types) < 2) return;
		found.score += proven;
		if (found.score < LEAST.headless) return;
		const { best } = this;
		if (!best || isLikelier(found, best)) {
			found.unsure =
				best && best.end === found.end && best.score > found.score - AS_GOOD ? Math.max(best.unsure, differing(best, found)) : 0;
			this.best = found;
		} else if (best.end === found.end && found.score > best.score - AS_GOOD) best.unsure = Math.max(best.unsure, differing(best, found));
	}

	private settle(h: number, body: number, payload: number, count: number, compiled: CompiledShape): void {
		const covered = h - this.s;
		const proven = this.ctx.index ? 0 : covered >= 4 ? HEADER_THERE : covered === 3 ? TYPES_THERE : 0;
		this.consider(
			settle(this.b, { start: this.s, h, body, payload, count, shape: compiled.shape, rowid: null, headless: true }, this.limit, this.ctx),
			proven
		);
	}

	private ofTable(compiled: CompiledShape, count: number): void {
		const { b, s, limit } = this;
		if (this.hasHeader) this.headerStillThere(compiled, count);
		// With its header there and its block filled it is no other cell of this table with less of a header.
		if (this.best?.fills && this.best.score >= BEYOND_DOUBT && this.best.shape === compiled.shape) return;
		// Three bytes: the header's size is gone, all serial types are there.
		const end = typesOf(b, s + 4, limit, compiled, 0, count);
		if (end > 0) {
			const payload = end - (s + 3) + bodySize(count);
			if (sizeOfVarint(payload) <= 2) this.settle(s + 3, end, payload, count, compiled);
		}
		if (count < 2) return;
		// Two bytes: the first serial type is gone as well, or the first byte of it.
		this.firstTypeGone(s + 4, compiled.coveredTypes(0), compiled, count);
		// A type of two bytes: the payload's size (below 128) leaves two values for the byte that is gone.
		const second = b[s + 4]!;
		if (second >= 0x80 || compiled.shape.rowidAt === 0) return;
		for (const type of [128 + second, 256 + second]) if (compiled.allows(0, type)) this.firstTypeGone(s + 5, [type], compiled, count);
	}

	/** Payload length and rowid took four bytes or more: the header's own size is still there. */
	private headerStillThere(compiled: CompiledShape, count: number): void {
		const { b, s, limit } = this;
		for (let h = s + 4; h <= s + HEADER_WITHIN && h < limit; h++) {
			// Bytes between the covered four and the header are the end of the rowid: all but the last go on.
			if (h > s + 4 && h < s + AFTER_NINTH && b[h - 1]! >= 0x80) continue;
			if (h > s + 5 && b[h - 2]! < 0x80) return;
			const headerSize = b[h]!;
			if (headerSize <= count || headerSize > count * 5 + 2) continue;
			const end = typesOf(b, h + 1, limit, compiled, 0, count);
			if (end !== h + headerSize) continue;
			const payload = headerSize + bodySize(count);
			if (sizeOfVarint(payload) < h - s) this.settle(h, end, payload, count, compiled);
		}
	}

	private firstTypeGone(from: number, first: readonly number[], compiled: CompiledShape, count: number): void {
		const { b, s, size, limit } = this;
		const end = typesOf(b, from, limit, compiled, 1, count);
		if (end <= 0) return;
		types[0] = 0;
		const rest = bodySize(count);
		const run = first.length > 1 ? plainRun(b, end, limit) : 0;
		for (const type of first) {
			// A lost text begins the body: it can be no longer than what reads as text there.
			if (run < 64 && type >= 13 && type % 2 === 1 && (type - 13) / 2 > run && first.length > 1) continue;
			types[0] = type;
			const payload = end - (s + 2) + rest + sizeOfSerialType(type);
			// A payload of two bytes' length would have left the header's size; one beyond the block is no candidate
			// where the length of the lost value is open.
			if (payload < 128 && (first.length === 1 || 2 + payload <= size)) this.settle(s + 2, end, payload, count, compiled);
		}
	}

	/**
	 * Cells of index pages have no rowid: the four covered bytes are the payload length (one byte or two), the
	 * header's size and the first one or two serial types.
	 */
	private ofIndexPage(compiled: CompiledShape): void {
		const { b, s, limit } = this;
		const { count } = compiled;
		for (let lost = 1; lost <= 2 && lost <= count; lost++) {
			const end = typesOf(b, s + 4, limit, compiled, lost, count);
			if (end <= 0) continue;
			for (const first of compiled.coveredTypes(0)) {
				for (const second of lost === 2 ? compiled.coveredTypes(1) : NOTHING_MORE) {
					types[0] = first;
					if (lost === 2) types[1] = second;
					const payload = end - (s + 4) + lost + 1 + bodySize(count);
					// With all types gone nothing but the block's size says what was there.
					const rest = s + this.size - (s + 3 - lost + payload);
					if (lost === count && compiled.shape !== this.ctx.preferred && (rest < 0 || rest > 3)) continue;
					if (sizeOfVarint(payload) === 3 - lost) this.settle(s + 3 - lost, end, payload, count, compiled);
				}
			}
		}
	}

	/** A cell of an interior index page begins with its child's page number: the four bytes cover nothing else. */
	private ofInteriorPage(): void {
		const found = wholeCellAt(this.b, this.s + 4, this.limit, this.ctx);
		if (found && found.score >= 0) this.consider({ ...found, start: this.s }, HEADER_THERE);
	}
}

/** Values that take bytes. */
const valued = (cellTypes: Int32Array): number => cellTypes.reduce((n, type) => n + Number(sizeOfSerialType(type) > 0), 0);

const NOTHING_MORE = [0];

/** Bytes from `at` on that are no control characters, up to 64. */
function plainRun(b: Uint8Array, at: number, limit: number): number {
	let n = 0;
	while (n < 64 && at + n < limit && (b[at + n]! >= 0x20 || b[at + n] === 9 || b[at + n] === 10 || b[at + n] === 13)) n++;
	return n;
}

/** Leading columns in which two readings of the same bytes differ; 0 where they differ throughout. */
function differing(a: Weighed, b: Weighed): number {
	if (a.types.length !== b.types.length || a.shape !== b.shape) return 0;
	let last = 0;
	for (let k = 0; k < a.types.length; k++) if (a.types[k] !== b.types[k]) last = k + 1;
	return last <= 2 ? last : 0;
}

/** Three letters of UTF-16 in a row where a freeblock's header and the first serial types would stand: the middle of a text. */
const isWithinText = (b: Uint8Array, s: number): boolean =>
	b[s] === 0 && b[s + 2] === 0 && b[s + 4] === 0 && isLetter(b[s + 1]!) && isLetter(b[s + 3]!) && isLetter(b[s + 5]!);
const isLetter = (byte: number): boolean => byte >= 0x20 && byte < 0x7f;

/**
 * A cell whose first four bytes became a freeblock's header, starting at `s` (a block's place), or null. `header`: the next
 * place from `s + 4` on where a record's header stands.
 */
function headlessCellAt(b: Uint8Array, s: number, to: number, header: number, ctx: CarveContext): Weighed | null {
	if (s + 8 > to || (ctx.encoding !== 'utf8' && isWithinText(b, s))) return null;
	return new Headless(b, s, readU16Be(b, s + 2), to, header <= s + HEADER_WITHIN, ctx).find();
}

/** Reads serial types into `types` as long as the shape allows them; where they end, or -1. */
function typesOf(b: Uint8Array, at: number, limit: number, compiled: CompiledShape, from: number, count: number): number {
	let cursor = at;
	for (let k = from; k < count; k++) {
		if (cursor >= limit) return -1;
		let type = b[cursor]!;
		if (type < 0x80) cursor++;
		else {
			type = readVarint(b, cursor, limit);
			if (varintLength === 0 || type > 0x7fffffff) return -1;
			cursor += varintLength;
		}
		if (!compiled.allows(k, type)) return -1;
		types[k] = type;
	}
	return cursor;
}

function bodySize(count: number): number {
	let size = 0;
	for (let k = 0; k < count; k++) size += sizeOfSerialType(types[k]!);
	return size;
}

/** Cuts a cell at `limit`, where a newer one begins. Null where nothing of worth is left. */
function cutAt(b: Uint8Array, found: Weighed, limit: number, ctx: CarveContext): Weighed | null {
	if (found.body >= limit || found.from !== b) return null;
	types.set(found.types);
	const score = weigh(b, found.body, limit, found.types.length, found.shape, ctx.encoding);
	if (!(score >= (found.grade === 'rebuilt' ? LEAST.headlessFragment : LEAST.fragment)) || weighedBadAt >= 0) return null;
	return { ...found, cut: weighedCut, end: limit, limit, grade: 'fragment', score };
}

/** The cell that a page's own pointer names: exactly at `start`, within `end`. */
export function carveCell(b: Uint8Array, start: number, end: number, ctx: CarveContext): Found | null {
	const found = wholeCellAt(b, start, end, ctx);
	return found && found.score >= 0 ? taken(found, ctx.encoding) : null;
}

/** The first place from `least` on, of those from the `i`th on; or Infinity. */
function firstFrom(list: Int32Array, i: number, count: number, least: number): number {
	for (let k = i; k < count; k++) if (list[k]! >= least) return list[k]!;
	return Infinity;
}

/** All rows found in [from, to) of a page, in order of place, none overlapping another. */
export function carve(b: Uint8Array, from: number, to: number, ctx: CarveContext): Found[] {
	if (to - from < 6 || ctx.shapes.all.length === 0) return [];
	const clean: Weighed[] = [];
	const overwritten: Weighed[] = [];
	let text: { from: number; to: number } | null = null;
	const { headers, headerCount, blocks, blockCount } = findPlaces(b, from, to, ctx.usable, ctx.shapes);
	let [h, k] = [0, 0];
	for (let o = from; o + 4 <= to; o++) {
		if (text && o >= text.from && o < text.to) {
			o = text.to - 1;
			continue;
		}
		while (h < headerCount && headers[h]! <= o) h++;
		while (k < blockCount && blocks[k]! < o) k++;
		const header = h < headerCount ? headers[h]! : Infinity;
		const block = k < blockCount ? blocks[k]! : Infinity;
		const nearest = Math.min(block, header - BEFORE_HEADER);
		if (nearest > o) {
			if (nearest === Infinity) break;
			o = nearest - 1;
			continue;
		}
		const found =
			(b[o] !== 0 && header - o <= BEFORE_HEADER ? wholeCellAt(b, o, to, ctx) : null) ??
			(block === o ? headlessCellAt(b, o, to, firstFrom(headers, h, headerCount, o + 4), ctx) : null);
		if (!found) continue;
		if (found.score < 0) overwritten.push(found);
		else {
			const before = clean.at(-1);
			// A likeness that begins inside a surer cell says nothing of what comes after that.
			const within = before !== undefined && found.start < before.end && found.grade !== 'whole' && found.score <= before.score;
			clean.push(found);
			if (within) continue;
			if (found.fills && found.score >= BEYOND_DOUBT) o = found.end - 1;
			// No cell begins inside proper text: a header's control bytes cannot be text.
			else if (ctx.encoding === 'utf8' && found.from === b) text = longestText(found);
		}
	}
	const kept = resolveOverlaps(b, clean, ctx);
	const cuts = overwritten.map((found) => cutAt(b, found, whereOverwritten(b, found, kept, ctx), ctx)).filter((cut) => cut !== null);
	for (const cut of cuts.sort((x, y) => y.score - x.score)) if (!kept.some((k) => k.start < cut.end && k.end > cut.start)) kept.push(cut);
	return kept.sort((a, z) => a.start - z.start).map((w) => taken(w, ctx.encoding));
}

/** The bytes with which a newer cell begins that can pass for letters: payload length and rowid. */
const LIKE_LETTERS = 4;

/** Where what was written over a cell begins: at a newer cell, where one was found; else a little before the text stops being one. */
function whereOverwritten(b: Uint8Array, found: Weighed, kept: readonly Weighed[], ctx: CarveContext): number {
	let newer = found.end;
	for (const k of kept) if (k.start > found.body && k.start < newer) newer = k.start;
	if (newer < found.end) return newer;
	// In UTF-16 any bytes can pass for text.
	if (ctx.encoding !== 'utf8') return found.bad;
	let [text, none] = [found.bad, found.end];
	while (none - text > 1) {
		const middle = (text + none) >> 1;
		if (isCutText(b, found.bad, middle, ctx.encoding)) text = middle;
		else none = middle;
	}
	return Math.max(found.bad, text - LIKE_LETTERS);
}

/** Where the longest whole text of a cell lies; all of its texts are proper ones. */
function longestText(found: Weighed): { from: number; to: number } {
	let at = found.fromBody;
	let best = { from: 0, to: 0 };
	for (let k = 0; k < found.types.length; k++) {
		const type = found.types[k]!;
		const size = sizeOfSerialType(type);
		if (type >= 13 && type % 2 === 1 && at + size <= found.limit && size > best.to - best.from) best = { from: at, to: at + size };
		at += size;
	}
	return best;
}

const isSurer = (a: Weighed, b: Weighed): boolean =>
	(a.grade === 'whole') === (b.grade === 'whole') ? a.score > b.score : a.grade === 'whole';

/**
 * A cell that starts inside another's proper text is a chance likeness (a header's control bytes cannot be text). One
 * that starts elsewhere inside and reaches its end was written over it later: the older one is cut there.
 */
function resolveOverlaps(b: Uint8Array, found: Weighed[], ctx: CarveContext): Weighed[] {
	const kept: Weighed[] = [];
	for (const current of found) {
		const before = kept.at(-1);
		if (!before || before.end <= current.start) {
			kept.push(current);
			continue;
		}
		// In UTF-16 any bytes can pass for text: there a proven cell inside a text is what overwrote it.
		const proven = current.grade === 'whole' && (ctx.encoding !== 'utf8' || isWrittenOver(before, current));
		if (!proven && (insideText(before, current.start) || current.end < before.end || current.grade === 'fragment')) continue;
		// One that begins in the other's header reads the same bytes another way.
		if (current.start < before.body) {
			if (isSurer(current, before)) kept[kept.length - 1] = current;
			continue;
		}
		// What was written over an older cell would show in its texts: they read as proper ones to their end.
		if (current.grade !== 'whole' && (current.score <= before.score || (before.grade === 'whole' && ctx.encoding === 'utf8'))) continue;
		kept.pop();
		const cut = cutAt(b, before, current.start, ctx);
		if (cut) kept.push(cut);
		kept.push(current);
	}
	return kept;
}

/** A whole cell that weighs so much was written where it stands, whatever else lies around it. */
const SURELY_WRITTEN = 6;

/** Whether a whole cell that begins in another's values was written over it: any bytes can be part of a blob. */
const isWrittenOver = (older: Weighed, newer: Weighed): boolean =>
	newer.score >= SURELY_WRITTEN &&
	(insideBlob(older, newer.start) || (newer.score > older.score && newer.start > older.body && !insideText(older, newer.start)));

/** Whether an offset lies inside a blob of a cell. */
function insideBlob(found: Weighed, offset: number): boolean {
	let at = found.body;
	for (const type of found.types) {
		const size = sizeOfSerialType(type);
		if (offset < at + size) return offset > at && type >= 12 && type % 2 === 0;
		at += size;
	}
	return false;
}

/** Whether an offset lies inside a text of a cell that read as proper text throughout. */
function insideText(found: Weighed, offset: number): boolean {
	let at = found.body;
	for (let k = 0; k < found.types.length; k++) {
		const size = sizeOfSerialType(found.types[k]!);
		if (offset >= at && offset < at + size) return found.types[k]! >= 13 && found.types[k]! % 2 === 1 && found.cut !== k;
		at += size;
	}
	return false;
}

/** Of cells that overlap the surer ones; in order of place. */
export function surest(found: Found[]): Found[] {
	const kept: Found[] = [];
	const weight = (f: Found): number => f.score + (f.grade === 'whole' && f.score >= PROVEN ? WHOLE_COUNTS : 0);
	for (const cell of [...found].sort((a, b) => weight(b) - weight(a)))
		if (!kept.some((k) => k.start < cell.end && k.end > cell.start)) kept.push(cell);
	return kept.sort((a, b) => a.start - b.start);
}
const PROVEN = 8;
const WHOLE_COUNTS = 10;

/** A cell of which payload, header and table are known: whether its values prove it, whole, cut, or overwritten in part. */
import { type Encoding, readU32Be } from '../../../bytes';
import type { Grade, Value } from '../../../model';
import { localPayload } from '../page';
import { readValue, sizeOfSerialType } from '../record';
import { BLOB, classOfSerialType, type Shape } from '../shape';
import type { CarveContext, Found, GoesOn } from './found';
import { types, weigh, weighedBadAt, weighedBlobAt, weighedCut, weighedProof } from './weigh';

/** What a cell must weigh to be taken. The fewer of its own bytes prove it, the more its values must. */
export const LEAST = { whole: 2.5, entry: 8, fragment: 6, headless: 5, headlessFragment: 9 };
/** A cell that fills its block and weighs so much is not looked into any more, unless much of it can be any bytes. */
export const isBeyondDoubt = (w: Weighed): boolean => w.fills && w.score >= BEYOND_DOUBT && !hasLongBlob(w);
export const BEYOND_DOUBT = 16;

/** Bytes of a blob in which another cell can lie. */
const LONG_BLOB = 24;
const hasLongBlob = (w: Weighed): boolean => w.types.some((type) => type >= 12 + 2 * LONG_BLOB && type % 2 === 0);
export const PREFERRED = 3;
const LITTLE_KNOWN = 7;

/** Bytes of a blob that prove it by themselves. */
const BLOB_HEAD = 24;

/** A cell as weighed; its values are decoded only when it is taken. A negative score marks one with a text that is none (see `damaged`). */
export interface Weighed {
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
	/** Of a cell that overflows: what is needed to follow its chain again. */
	goesOn: GoesOn | null;
	/** Leading columns whose values another reading, as good, has otherwise: they count as lost. */
	unsure: number;
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
	/** What a freeblock's header and what follows say for it, in points: a fragment needs so much less. */
	around?: number;
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
	goesOn: null,
	unsure: 0
});

/** Weighs an attempt. The payload may overflow, be cut at `to`, or be whole. */
export function settle(b: Uint8Array, a: Attempt, to: number, ctx: CarveContext): Weighed | null {
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
	if (end > to) return score >= leastOfFragment(a) ? weighed(a, to, 'fragment', score, b, body, limit) : null;
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
	if (!(score >= leastOfFragment(a))) return null;
	return { ...weighed(a, end, a.headless ? 'rebuilt' : 'fragment', -1 / (1 + score), b, a.body, end), bad };
}

/** What a fragment must weigh. Where hardly any row is known, more of the values must speak for it. */
const leastOfFragment = ({ headless, shape, around }: Attempt): number =>
	(headless ? LEAST.headlessFragment : LEAST.fragment) + (shape.rows < 8 ? LITTLE_KNOWN : 0) - (around ?? 0);

/**
 * A cell that overflows. A chain followed to its end is of it where its values are what they should be; of one that
 * breaks, or is another's by now, only what lies on this page is sure (see `FreedChains`).
 */
function settleOverflowing(b: Uint8Array, a: Attempt, local: number, to: number, ctx: CarveContext): Weighed | null {
	const { h, body, count, shape } = a;
	const end = h + local + 4;
	const limit = Math.min(h + local, to);
	// The local part first: most chance likenesses fall here, without a page being read.
	const here = weigh(b, body, limit, count, shape, ctx.encoding);
	if (Number.isNaN(here)) return null;
	if (weighedBadAt >= 0) return damaged(b, a, weighedBadAt, weighedBadAt, Math.min(end, to), ctx);
	if (end > to) return here >= leastOfFragment(a) ? weighed(a, to, 'fragment', here, b, body, limit) : null;
	const first = readU32Be(b, h + local);
	const goesOn = { local: b.subarray(h, limit), body: body - h, size: a.payload, types, shape, first, pages: [], broke: 0 };
	const chain = ctx.overflow(goesOn.local, a.payload, first);
	const { payload, pages } = chain;
	const score = weigh(payload, body - h, payload.length, count, shape, ctx.encoding);
	const agreed = score >= LEAST.whole && weighedBadAt < 0;
	if (chain.complete && agreed) {
		const found = weighed(a, end, a.headless ? 'rebuilt' : 'whole', score, payload, body - h, payload.length);
		return { ...found, goesOn: { ...goesOn, types: found.types, pages } };
	}
	// Pages that are another's by now say nothing for it: its own must do.
	if (!(weigh(b, body, limit, count, shape, ctx.encoding) >= (agreed ? LEAST.whole : leastOfFragment(a)))) return null;
	const found = weighed(a, end, 'fragment', here, b, body, limit);
	return { ...found, goesOn: { ...goesOn, types: found.types, broke: chain.complete ? first : chain.broke } };
}

/** Of two that weigh the same the one of the larger table: it has lost more. */
export const isLikelier = (a: Weighed, b: Weighed): boolean => a.score - b.score > prior(b.shape) - prior(a.shape);
const prior = (shape: Shape): number => Math.min(1.5, Math.log10(shape.rows + 1) * 0.5);

export function valuesAt(
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

export function cutTextAt(b: Uint8Array, from: number, to: number, encoding: Encoding): string {
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

export function taken(w: Weighed, encoding: Encoding): Found {
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
		body: w.body,
		goesOn: w.goesOn && { ...w.goesOn, local: w.goesOn.local.slice() }
	};
}

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
import { findPlaces } from '../places';
import { BEFORE_HEADER, type CarveContext, type Found } from './found';
import { headlessCellAt } from './headless';
import { cutAt, LIKE_LETTERS, longestText, resolveOverlaps, whereOverwritten, withoutOverwrittenEnds } from './overlaps';
import { isBeyondDoubt, taken, type Weighed } from './settle';
import { HEAD_PROVES, isHeadOfCell, wholeCellAt } from './whole-cell';

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

/** A cell of an interior page begins with its child's page number (section 1.6). */
const CHILD = 4;
const beginsWithChild = (b: Uint8Array, payload: number): boolean => payload >= CHILD && b[payload - CHILD] === 0;

/** All rows found in [from, to) of a page, in order of place, none overlapping another. */
export function carve(b: Uint8Array, from: number, to: number, ctx: CarveContext): Found[] {
	if (to - from < 6 || ctx.shapes.all.length === 0) return [];
	const clean: Weighed[] = [];
	const overwritten: Weighed[] = [];
	let text: { from: number; to: number } | null = null;
	const { headers, headerCount, blocks, blockCount } = findPlaces(b, from, to, ctx.usable, ctx.shapes);
	let [h, k] = [0, 0];
	/** Where the values begin of the last cell whose head is whole and whose values are not. */
	let headed = 0;
	for (let o = from; o + 4 <= to; o++) {
		// The first bytes of a cell behind it, its length and its number, can be letters.
		if (text && o >= text.from && o < text.to - LIKE_LETTERS) {
			o = text.to - LIKE_LETTERS - 1;
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
		const whole = b[o] !== 0 && header - o <= BEFORE_HEADER ? wholeCellAt(b, o, to, ctx) : null;
		const found =
			whole ??
			(block === o && o >= headed
				? headlessCellAt(b, o, to, firstFrom(headers, h, headerCount, o + 4), clean.at(-1)?.end === o, ctx)
				: null);
		// Where a whole head stands, its values overwritten, no freed cell lies.
		if (!found || (found !== whole && isHeadOfCell(b, o, to, ctx))) continue;
		if (found.score < 0) {
			overwritten.push(found);
			// Nor within it.
			if (found === whole && found.types.length >= HEAD_PROVES) headed = found.body;
		} else {
			const before = clean.at(-1);
			// A likeness that begins inside a surer cell says nothing of what comes after that.
			const within = before !== undefined && found.start < before.end && found.grade !== 'whole' && found.score <= before.score;
			clean.push(found);
			if (within) continue;
			if (isBeyondDoubt(found)) o = found.end - 1;
			// No cell begins inside proper text: a header's control bytes cannot be text.
			else if (ctx.encoding === 'utf8' && found.from === b) text = longestText(found);
		}
	}
	if (clean.length === 0 && overwritten.length === 0) return [];
	const heads = headers.subarray(0, headerCount);
	const kept = withoutOverwrittenEnds(b, resolveOverlaps(b, clean, ctx), heads, ctx);
	const ended = overwritten.flatMap((found) => {
		const end = whereOverwritten(b, found, kept, ctx);
		return cutAt(b, found, end, ctx) ?? (ctx.index && beginsWithChild(b, end) ? cutAt(b, found, end - CHILD, ctx) : null) ?? [];
	});
	const cuts = withoutOverwrittenEnds(b, ended, heads, ctx);
	for (const cut of cuts.sort((x, y) => y.score - x.score)) if (!kept.some((k) => k.start < cut.end && k.end > cut.start)) kept.push(cut);
	return kept.sort((a, z) => a.start - z.start).map((w) => taken(w, ctx.encoding));
}

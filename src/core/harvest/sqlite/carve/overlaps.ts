/** Of cells that overlap: which stands, which was written over and is cut there, and where. */
import { isCutText } from '../../../bytes';
import { firstReached } from '../../../sorted';
import { sizeOfSerialType } from '../record';
import { BEFORE_HEADER, type CarveContext, type Found } from './found';
import { isBeyondDoubt, LEAST, type Weighed } from './settle';
import { types, weigh, weighedBadAt, weighedCut } from './weigh';
import { isCellUpTo, isHeadOfCell } from './whole-cell';

/** Cuts a cell at `limit`, where a newer one begins. Null where nothing of worth is left. */
export function cutAt(b: Uint8Array, found: Weighed, limit: number, ctx: CarveContext): Weighed | null {
	if (found.body >= limit || found.from !== b) return null;
	types.set(found.types);
	const score = weigh(b, found.body, limit, found.types.length, found.shape, ctx.encoding);
	if (!(score >= (found.grade === 'rebuilt' ? LEAST.headlessFragment : LEAST.fragment)) || weighedBadAt >= 0) return null;
	return { ...found, cut: weighedCut, end: limit, limit, grade: 'fragment', score, goesOn: null };
}

/** The bytes with which a newer cell begins that can pass for letters: payload length and rowid. */
export const LIKE_LETTERS = 4;

/** Where what was written over a cell begins: at a newer cell, where one was found; else a little before the text stops being one. */
export function whereOverwritten(b: Uint8Array, found: Weighed, kept: readonly Weighed[], ctx: CarveContext): number {
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
export function longestText(found: Weighed): { from: number; to: number } {
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
export function resolveOverlaps(b: Uint8Array, found: Weighed[], ctx: CarveContext): Weighed[] {
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
		// What was written over an older cell would show in its texts, where it began in them: they read as proper ones to their end.
		const shows = before.grade === 'whole' && ctx.encoding === 'utf8' && !isFreedBehindTexts(before, current);
		if (current.grade !== 'whole' && (current.score <= before.score || shows)) continue;
		kept.pop();
		const cut = cutAt(b, before, current.start, ctx);
		if (cut) kept.push(cut);
		kept.push(current);
	}
	return kept;
}

/** Whether a cell that fills the block it was freed into begins in the numbers behind another's last text. */
function isFreedBehindTexts(older: Weighed, newer: Weighed): boolean {
	const last = older.types.findLastIndex((type) => type >= 12);
	const texts = older.types.subarray(0, last + 1).reduce((sum, type) => sum + sizeOfSerialType(type), older.body);
	return newer.fills && newer.start >= texts && newer.end > older.end;
}

/** A whole cell that weighs so much was written where it stands, whatever else lies around it. */
const SURELY_WRITTEN = 6;

/** Whether a whole cell that begins in another's values was written over it: any bytes can be part of a blob. */
const isWrittenOver = (older: Weighed, newer: Weighed): boolean =>
	newer.score >= SURELY_WRITTEN &&
	(insideBlob(older, newer.start) ||
		(newer.score > older.score && newer.start > older.body && !insideText(older, newer.start)) ||
		// Its first bytes passed for the older one's last letters.
		(newer.score > older.score &&
			(newer.end > older.end || insideBlob(older, newer.body)) &&
			newer.start > older.body &&
			!insideText(older, newer.start + LIKE_LETTERS)));

/**
 * A newer cell that was itself overwritten is no cell any more, but where its head stands within an older one, the older
 * one ends. In UTF-16 nearly any bytes are text: there what follows must be of another writing than what comes before.
 * `headers`: where a record's header can begin, in order.
 */
export function withoutOverwrittenEnds(b: Uint8Array, found: Weighed[], headers: Int32Array, ctx: CarveContext): Weighed[] {
	return found.flatMap((cell) => {
		const doubtful = cell.from === b && !isBeyondDoubt(cell);
		const end = doubtful ? headWithin(b, cell, headers, ctx) : -1;
		const left = end < 0 ? (cell.from === b && withoutInteriorEnd(b, cell, ctx)) || cell : cutAt(b, cell, end, ctx);
		if (!left || ctx.encoding === 'utf8') return left ?? [];
		return withoutOtherLetters(b, left, ctx.encoding === 'utf16le');
	});
}

/**
 * A cell of an interior table page (section 1.6: a child's page number in four bytes, then a rowid) that was written over
 * another's last bytes begins with zeros, which pass for the end of a number. Two of them, one behind the other, prove it.
 */
function withoutInteriorEnd(b: Uint8Array, cell: Weighed, ctx: CarveContext): Weighed | null {
	for (let o = cell.limit - 4; o < cell.limit; o++) {
		if (o <= cell.body || b[o] !== 0) continue;
		const next = afterInteriorCell(b, o, ctx.usable);
		if (next > 0 && afterInteriorCell(b, next, ctx.usable) > 0)
			return { ...cell, cut: insideBlob(cell, o) ? lastStored(cell) : -1, end: o, limit: o, grade: 'fragment', goesOn: null };
	}
	return null;
}

/** The last value that takes bytes. */
const lastStored = (cell: Weighed): number => cell.types.findLastIndex((type) => sizeOfSerialType(type) > 0);

/** Where the interior cell that stands at `o` ends, or -1: of a database of fewer pages than take three bytes. */
function afterInteriorCell(b: Uint8Array, o: number, usable: number): number {
	if (o + 5 > usable || b[o] !== 0 || b[o + 1] !== 0 || (b[o + 2] === 0 && b[o + 3]! < 2)) return -1;
	let at = o + 4;
	if (b[at] === 0) return -1;
	while (at < o + 12 && at < usable && b[at]! >= 0x80) at++;
	return at < usable ? at + 1 : -1;
}

/** Where another cell's head stands within the values of one, or -1. */
function headWithin(b: Uint8Array, cell: Weighed, headers: Int32Array, ctx: CarveContext): number {
	if (ctx.encoding !== 'utf8') return headWithinTexts(b, cell, ctx);
	const first = firstReached(headers.length, (k) => headers[k]! > cell.body + 1);
	for (let i = first; i < headers.length && headers[i]! < cell.limit + BEFORE_HEADER; i++)
		for (let o = Math.max(cell.body + 1, headers[i]! - BEFORE_HEADER); o < Math.min(headers[i]!, cell.limit); o++)
			if (isHeadOfCell(b, o, ctx.usable, ctx)) return o;
	return -1;
}

/** Letters that the first bytes of a cell can pass for: payload length and rowid; and those that its header can as well. */
const FIRST_LETTERS = 3;
const HEAD_LETTERS = 8;

/** A cell whose cut text ends in letters of another writing gives them up: they can be the first bytes of a cell that is gone again. */
function withoutOtherLetters(b: Uint8Array, cell: Weighed, little: boolean): Weighed {
	if (cell.cut < 0 || cell.from !== b) return cell;
	let from = cell.body;
	for (let k = 0; k < cell.cut; k++) from += sizeOfSerialType(cell.types[k]!);
	const end = cell.limit - ((cell.limit - from) % 2);
	const isOther = (at: number): boolean => isOtherWriting(b, from, at, at + 2, little);
	for (let n = HEAD_LETTERS; n > 0; n--) {
		const middle = end - 2 * n;
		if (middle <= from || !isOther(middle)) continue;
		// A word in another writing is of one; bytes that are no text are of several.
		const others = new Set<number>();
		for (let at = middle; at < end; at += 2) if (isOther(at)) others.add(writingOf(b[at + (little ? 1 : 0)]!));
		if (n <= FIRST_LETTERS || others.size > 1) return { ...cell, limit: middle };
	}
	return cell;
}

/** Where another cell's head stands within one's texts in UTF-16, or -1. */
function headWithinTexts(b: Uint8Array, cell: Weighed, ctx: CarveContext): number {
	let at = cell.body;
	for (const type of cell.types) {
		const end = Math.min(at + sizeOfSerialType(type), cell.limit);
		if (type >= 13 && type % 2 === 1) {
			for (let o = at; o < end; o++)
				if (
					(isHeadOfCell(b, o, ctx.usable, ctx) || isCellUpTo(b, o, cell.end, ctx)) &&
					isOtherWriting(b, at, o, end, ctx.encoding === 'utf16le')
				)
					return o;
		}
		at = end;
	}
	return -1;
}

/** Whether letters of [middle, end) are of a writing of which none is in [from, middle), all of one text in UTF-16. */
function isOtherWriting(b: Uint8Array, from: number, middle: number, end: number, little: boolean): boolean {
	const before = new Set<number>();
	const high = little ? 1 : 0;
	const cut = middle - ((middle - from) % 2);
	for (let at = from; at < cut; at += 2) before.add(writingOf(b[at + high]!));
	for (let at = cut; at + 1 < end; at += 2) {
		const writing = writingOf(b[at + high]!);
		if (!ANYWHERE.has(writing) && !before.has(writing)) return true;
	}
	return false;
}

/** Signs and emoji stand in any writing. */
const ANYWHERE = new Set([0, 0x20, 0x21, 0x22, 0x23, 0x25, 0x26, 0x27, 0x2b, 0x30, 0xd8, 0xfe, 0xff]);

/** A writing by the high byte of its letters: those of Chinese, Hangul and of pairs take many. */
const writingOf = (high: number): number =>
	high >= 0x4e && high <= 0x9f ? 0x4e : high >= 0xac && high <= 0xd7 ? 0xac : high >= 0xd8 && high <= 0xdf ? 0xd8 : high;

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

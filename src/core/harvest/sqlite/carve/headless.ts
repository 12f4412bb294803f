/**
 * A cell whose first four bytes became a freeblock's header (section 1.6): payload length, rowid, header size, perhaps the
 * first serial types are rebuilt from the shape of the table and the size of the block.
 */
import { readU16Be } from '../../../bytes';
import type { CompiledShape } from '../compiled';
import { sizeOfSerialType } from '../record';
import { readVarint, sizeOfVarint, varintLength } from '../varint';
import { localPayload } from '../page';
import type { CarveContext } from './found';
import { BEYOND_DOUBT, isLikelier, LEAST, PREFERRED, settle, type Weighed } from './settle';
import { types } from './weigh';
import { isHeadOfCell, wholeCellAt } from './whole-cell';

const FILLS_ITS_BLOCK = 4;

/** How much of an overflowing payload lies on the page depends on all of its length: that it fills the block is no chance. */
const GOES_ON_FROM_ITS_END = 4;

const FOLLOWED = 2;
/** A block is as long as what was freed into it: what does not fill it was joined by another. */
const FOLLOWED_BY_NOTHING = 4;

/** A table of so few rows has lost few: taken off on pages that are not its own. */
const FEW = 20;
const FEW_HAVE_LOST = 8;
const HEADER_THERE = 3;
const TYPES_THERE = 2;

/** Two readings of one place that weigh nearly the same: what differs between them is not known. */
const AS_GOOD = 0.8;

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
		/** Whether another cell ends here. */
		private readonly follows: boolean,
		private readonly ctx: CarveContext
	) {
		this.limit = Math.min(to, s + size);
	}

	find(): Weighed | null {
		const { ctx } = this;
		for (const compiled of ctx.shapes.all) {
			if (ctx.index) {
				this.ofIndexPage(compiled);
				this.ofIndexPageWide(compiled);
			} else for (let count = compiled.count; count >= compiled.fewest; count--) this.ofTable(compiled, count);
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

	/** Whether what comes after a cell is another as it was written. */
	private followedByHead(found: Weighed): boolean {
		const there = isHeadOfCell(this.b, found.end, this.limit, this.ctx);
		// The types looked at stand where those of the reading stood, of which more may be tried.
		types.set(found.types);
		return there;
	}

	/** Whether what comes after a cell is another of the same table as it was written. */
	private followedByAlike(found: Weighed): boolean {
		const next = wholeCellAt(this.b, found.end, this.limit, this.ctx);
		types.set(found.types);
		return next !== null && next.score >= 0 && next.grade === 'whole' && next.shape === found.shape;
	}

	/** `proven`: how much of the header is still there, in points. */
	private consider(found: Weighed | null, proven: number): void {
		if (!found) return;
		if (found.score < 0) {
			if (!this.overwritten || found.score > this.overwritten.score) this.overwritten = found;
			return;
		}
		if (found.shape.entryOf) found.score -= RARE * rarity(found);
		else if (this.ctx.index && isUnlikeOthers(found)) found.score -= UNLIKE;
		if (found.shape === this.ctx.preferred) found.score += PREFERRED;
		else if (found.shape.rows < FEW) found.score -= FEW_HAVE_LOST;
		const rest = this.s + this.size - found.end;
		// One that goes on elsewhere ends on its page where its payload's length says, however much of the rest is lost.
		const goesOn = found.goesOn !== null;
		if (rest >= 0 && rest <= 3 && (found.grade !== 'fragment' || goesOn)) {
			found.score += (rest === 0 ? FILLS_ITS_BLOCK : FILLS_ITS_BLOCK - 1) + (goesOn ? GOES_ON_FROM_ITS_END : 0);
			found.fills = true;
		} else if (this.followed(found.end)) found.score += FOLLOWED;
		else if (rest > 3 && !this.followedByHead(found) && !this.followedByAlike(found)) {
			if (isAmidLetters(this.b, found.end)) return;
			found.score -= FOLLOWED_BY_NOTHING;
		}
		// One value alone, and nothing around it that agrees: any text would do.
		if (!found.fills && found.shape !== this.ctx.preferred && valued(found.types) < 2 && !this.followedByAlike(found)) return;
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
		const around = this.saysAround(h, payload, proven);
		const attempt = { start: this.s, h, body, payload, count, shape: compiled.shape, rowid: null, headless: true, around };
		this.consider(settle(this.b, attempt, this.limit, this.ctx), proven);
	}

	/** What speaks for a cell whose values are overwritten: that it fills the block, or stands right before or behind another. */
	private saysAround(h: number, payload: number, proven: number): number {
		const local = localPayload(payload, this.ctx.usable, !this.ctx.index);
		const end = h + local + (local < payload ? 4 : 0);
		if (this.ctx.index) return 0;
		if (end === this.s + this.size) return FILLS_ITS_BLOCK;
		return this.follows || this.followed(end) ? FOLLOWED + proven : 0;
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
		const own = compiled.shape === this.ctx.preferred;
		for (let lost = 1; lost <= 2 && lost <= count; lost++) {
			const end = typesOf(b, s + 4, limit, compiled, lost, count);
			if (end <= 0) continue;
			for (const first of compiled.coveredTypes(0, own)) {
				for (const second of lost === 2 ? compiled.coveredTypes(1, own) : NOTHING_MORE) {
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

	/**
	 * The same where a lost serial type takes two bytes, as that of a text or blob of 58 bytes and more does: how long it is
	 * says the block's size, which up to three bytes can have been joined to.
	 */
	private ofIndexPageWide(compiled: CompiledShape): void {
		const { b, s } = this;
		const second = b[s + 4]!;
		// Payload length, header size and both bytes of the first type are covered.
		this.wideFirst(compiled, s + 1, s + 4, -1);
		if (second >= 0x80) return;
		// A payload length of two bytes: the second byte of the type is still there.
		this.wideFirst(compiled, s + 2, s + 5, second);
		if (compiled.count < 2) return;
		const end = typesOf(b, s + 5, this.limit, compiled, 2, compiled.count);
		if (end <= 0 || !compiled.allows(1, 128 + second)) return;
		for (const first of compiled.coveredTypes(0, compiled.shape === this.ctx.preferred)) {
			[types[0], types[1]] = [first, 128 + second];
			const payload = end - (s + 1) + bodySize(compiled.count);
			if (payload < 128) this.settle(s + 1, end, payload, compiled.count, compiled);
		}
	}

	/** `at`: where the types that are left begin; `left`: the second byte of the first column's type, or -1 where it is lost as well. */
	private wideFirst(compiled: CompiledShape, h: number, at: number, left: number): void {
		const { b, s, size, limit } = this;
		const { count } = compiled;
		const end = typesOf(b, at, limit, compiled, 1, count);
		if (end <= 0) return;
		types[0] = 0;
		const others = bodySize(count);
		const tryType = (type: number): void => {
			types[0] = type;
			const payload = end - h + sizeOfSerialType(type) + others;
			if (compiled.allows(0, type) && sizeOfVarint(payload) === h - s) this.settle(h, end, payload, count, compiled);
		};
		const { shortest, longest } = compiled.shape;
		// Where blocks were joined nothing says where this one ended: what is left of the type does, or that all are of one length.
		if (left >= 0) for (let high = 1; high <= HIGHEST && high << 7 <= longest[0]! * 2 + 13; high++) tryType((high << 7) | left);
		const fixed = left < 0 && shortest[0] === longest[0] && longest[0]! >= WIDE_FROM ? longest[0]! : -1;
		if (fixed > 0) for (const type of [13 + 2 * fixed, 12 + 2 * fixed]) tryType(type);
		for (let joined = 0; left < 0 && joined <= 3; joined++) {
			const long = size - joined - (end - s) - others;
			if (long >= WIDE_FROM && long !== fixed) for (const type of [13 + 2 * long, 12 + 2 * long]) tryType(type);
		}
	}

	/** A cell of an interior index page begins with its child's page number: the four bytes cover nothing else. */
	private ofInteriorPage(): void {
		const found = wholeCellAt(this.b, this.s + 4, this.limit, this.ctx);
		if (found && found.score >= 0) this.consider({ ...found, start: this.s }, HEADER_THERE);
	}
}

/** Whether plain letters stand before and behind an offset: a cell begins with numbers, of which no six are all letters. */
function isAmidLetters(b: Uint8Array, at: number): boolean {
	for (let k = at - 2; k < at + 6; k++) if (!(b[k]! >= 0x20 && b[k]! < 0x7f)) return false;
	return true;
}

/**
 * How few of an index's entries have a record number stored in as few bytes as this one's, 0 to 1: where all types are gone a
 * number of two bytes and a text's last letters are told apart by little else.
 */
function rarity({ shape, types: of }: Weighed): number {
	const type = of.at(-1)!;
	const most = type >= 8 ? 1 : 2 ** (8 * sizeOfSerialType(type) - 1);
	return Math.max(0, 1 - (most * FEW_SO_SHORT) / Math.max(1, shape.high[of.length - 1]!));
}
const FEW_SO_SHORT = 50;
const RARE = 5;

/**
 * Whether a leading value, whose type can be lost, is a text far longer than any of its column, or the text behind it begins
 * otherwise than those of its column do, as documents do (`{`): where one ends and the next begins little else tells.
 */
function isUnlikeOthers({ shape, types: of, from, fromBody, limit }: Weighed): boolean {
	if (shape.rows < TELLING_ROWS) return false;
	let at = fromBody;
	for (let k = 0; k < LOST_AT_MOST && k + 1 < of.length; k++) {
		const size = sizeOfSerialType(of[k]!);
		if (isTextType(of[k]!) && size > shape.longest[k]! * 2 + 8) return true;
		at += size;
		const [low, high] = [shape.lowestLead[k + 1]!, shape.highestLead[k + 1]!];
		const isTold = of[k + 1]! > 13 && at < limit && high < 0x100 && high - low <= LEADS_APART && !(isTextType(of[k + 1]!) && high >= 0x80);
		if (isTold && (from[at]! < low || from[at]! > high)) return true;
	}
	return false;
}
const isTextType = (type: number): boolean => type > 13 && type % 2 === 1;
/** Leading columns whose types a freeblock's header can have covered. */
const LOST_AT_MOST = 2;
const TELLING_ROWS = 20;
/** Documents of one form begin with one byte, or a few next to each other: how many fields they have. */
const LEADS_APART = 4;
const UNLIKE = 6;

/** Values that take bytes. */
const valued = (cellTypes: Int32Array): number => cellTypes.reduce((n, type) => n + Number(sizeOfSerialType(type) > 0), 0);

const NOTHING_MORE = [0];
/** The shortest text or blob whose serial type takes two bytes. */
const WIDE_FROM = 58;
/** First bytes of a type of two that are tried where that is lost: longer texts are seldom what an index begins with. */
const HIGHEST = 8;

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
const isLetter = (byte: number): boolean => (byte >= 0x20 && byte < 0x7f) || byte >= 0xa0;

/**
 * A cell whose first four bytes became a freeblock's header, starting at `s` (a block's place), or null. `header`: the next
 * place from `s + 4` on where a record's header stands; `follows`: whether another cell ends at `s`.
 */
export function headlessCellAt(b: Uint8Array, s: number, to: number, header: number, follows: boolean, ctx: CarveContext): Weighed | null {
	if (s + 8 > to || (ctx.encoding !== 'utf8' && isWithinText(b, s))) return null;
	return new Headless(b, s, readU16Be(b, s + 2), to, header <= s + HEADER_WITHIN, follows, ctx).find();
}

/** Reads serial types into `types` as long as the shape allows them; where they end, or -1. */
function typesOf(b: Uint8Array, at: number, limit: number, compiled: CompiledShape, from: number, count: number): number {
	let cursor = at;
	for (let k = from; k < count; k++) {
		if (cursor >= limit) return -1;
		let type = b[cursor]!;
		if (type < 0x80) cursor++;
		// The engine writes no varint longer than it must be.
		else if (type === 0x80) return -1;
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

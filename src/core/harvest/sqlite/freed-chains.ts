/**
 * Chains of overflow pages that freed cells lead to (section 1.5 "Cell Payload Overflow Pages"). A page that is freed
 * keeps its bytes until it is used again, and then another row's stand there: so once all cells are found it is settled
 *
 * - *whose each page is*, where two cells lead to it: whose values behind the pages are what they should be, or whose
 *   payload ends where the page's text does; the other has what lies on its own page, and no more;
 * - *what of a broken chain is left*: where a page of it was used again or became a trunk of the free list (whose head
 *   is overwritten, section 1.5), the pages behind still are a chain by themselves. It is the cell's where it ends as
 *   the payload must, to the byte, and fits no other cell, and the cell no other chain; and where either the trunk is
 *   the page that the cell leads to and all behind it is there, or the time in it is one that a row of the cell's
 *   number can have.
 */
import { isCutText, readU32Be, type Encoding } from '../../bytes';
import type { Row, Value } from '../../model';
import type { GoesOn } from './carve/found';
import { cutTextAt } from './carve/settle';
import { types, weigh, weighedBadAt, weighedComplete } from './carve/weigh';
import { readValue, sizeOfSerialType } from './record';
import { BLOB, classOfSerialType, TEXT, type Shape } from './shape';
import type { PageView } from './view';

/** A row found in freed space whose payload overflows. */
interface Overflowing extends GoesOn {
	row: Row;
}

/** What of a payload is left before and behind a hole, as if the hole were blank. */
interface Mended {
	payload: Uint8Array;
	holeFrom: number;
	holeTo: number;
	/** Pages the end was read from. */
	pages: number[];
	/** Whether the cell's own chain leads to them: to a trunk, and by that to the pages freed right after it. */
	isNext: boolean;
}

/** Whether a row can have what was found for it, by its number. */
type FitsRow = (found: Settled) => boolean;

/** The values of a payload with a hole, in record order, and what of its text is left behind it. */
export interface WithHole {
	values: (Value | undefined)[];
	cut: number;
	rest: { text: string; lost: number } | null;
}

/** What is left of a row, its record being of `shape`. */
export interface Settled {
	row: Row;
	shape: Shape;
	left: WithHole;
	/** The page that what stands behind the break begins on, or 0. */
	restOn: number;
}
const settled = ({ row, shape }: Overflowing, left: WithHole, restOn = 0): Settled => ({ row, shape, left, restOn });

/** What values behind a text add to what is known where they are a table's: a number that fits its column, or more. */
const PROVES = 3;
const BLANK = 0x20;
/** Chains are followed no further than that, in pages. */
const CHAIN_AT_MOST = 65_536;
/** Cells that are settled with each other, a page's bytes being kept of each; of more a chain that ends well is taken as it is. */
const CELLS_AT_MOST = 20_000;
/** Cells with a broken chain: of more nothing is proven. */
const BROKEN_AT_MOST = 2000;
/** Bytes of payloads that are put together to try them: beyond that it is not known what else would fit, and nothing is proven. */
const LAID_AT_MOST = 128 << 20;
/** Cells that one is compared with that lead to the same pages. */
const RIVALS_AT_MOST = 64;
/** Letters behind a text from which it goes on. */
const GOES_ON = 4;

export class FreedChains {
	/** Pages of chains that are a cell's. */
	readonly owned = new Set<number>();
	private readonly found: Overflowing[] = [];
	private laidBytes = 0;

	/** `isFree`: whether nothing uses a page now; `isTrunk`: whether it is one of the free list. */
	constructor(
		private readonly db: { readonly current: PageView; readonly usable: number; readonly encoding: Encoding },
		private readonly isFree: (page: number) => boolean,
		private readonly isTrunk: (page: number) => boolean
	) {}

	/** A cell that was taken as `row`, or as another sighting of it. */
	add(row: Row, goesOn: GoesOn): void {
		if (this.found.length < CELLS_AT_MOST) this.found.push({ ...goesOn, row });
		else for (const page of goesOn.pages) this.owned.add(page);
	}

	/** Settles whose the pages are. Gives what is left of rows that had been read otherwise; of one row the later counts. */
	settle(fitsRow: FitsRow): Settled[] {
		const less = new Set(this.contested());
		const out: Settled[] = [];
		for (const one of this.found) {
			if (!less.has(one)) for (const page of one.pages) this.owned.add(page);
			else {
				// Nothing behind its own page is sure.
				one.broke = one.first;
				const payload = new Uint8Array(one.size);
				payload.set(one.local);
				out.push(settled(one, this.withHole(one, { payload, holeFrom: one.local.length, holeTo: one.size, pages: [], isNext: false })));
			}
		}
		const broken = this.found.filter((one) => one.row.grade === 'fragment' || less.has(one));
		out.push(...this.mended(distinct(broken), fitsRow));
		this.found.length = 0;
		return out;
	}

	/** Cells whose chain is another's by now. */
	private contested(): Overflowing[] {
		const leading = new Map<number, Set<Row>>();
		for (const { row, pages } of this.found) {
			for (const page of pages) {
				const rows = leading.get(page);
				if (rows) rows.add(row);
				else leading.set(page, new Set([row]));
			}
		}
		const sure = new Map<Row, number>();
		const surety = (one: Overflowing): number => {
			const known = sure.get(one.row) ?? this.surety(one);
			sure.set(one.row, known);
			return known;
		};
		const byRow = new Map(this.found.map((one) => [one.row, one]));
		return this.found.filter((one) => {
			const rivals = rivalsOf(one, leading);
			return [...rivals].some((row) => !isVersionOf(byRow.get(row)!, one) && surety(byRow.get(row)!) >= surety(one));
		});
	}

	/** How surely a chain that was followed to its end is a cell's: 2 by the values behind the text, 1 by where the text ends. */
	private surety(one: Overflowing): number {
		if (one.row.standing !== 'remnant') return 3;
		const payload = this.payloadOf(one);
		if (this.gain(one, payload) >= PROVES) return 2;
		return this.endsThere(one, one.pages.at(-1)!) ? 1 : 0;
	}

	private payloadOf({ local, size, pages }: Overflowing): Uint8Array {
		const payload = new Uint8Array(size);
		payload.set(local);
		this.fill(payload, local.length, pages);
		return payload;
	}

	/** Writes what pages hold into a payload, from `at` on. */
	private fill(payload: Uint8Array, at: number, pages: readonly number[]): void {
		let to = at;
		for (const page of pages) {
			const bytes = this.db.current.read(page)!;
			payload.set(bytes.subarray(4, 4 + Math.min(payload.length - to, this.db.usable - 4)), to);
			to += this.db.usable - 4;
		}
	}

	/** What all of a payload weighs beyond what its beginning does; NaN where its values are not what they should be. */
	private gain(one: Overflowing, payload: Uint8Array): number {
		types.set(one.types);
		const count = one.types.length;
		const whole = weigh(payload, one.body, payload.length, count, one.shape, this.db.encoding);
		if (Number.isNaN(whole) || weighedBadAt >= 0 || !weighedComplete) return NaN;
		return whole - weigh(one.local, one.body, one.local.length, count, one.shape, this.db.encoding);
	}

	/** Whether the payload ends where the last page's text does: no letters follow. */
	private endsThere({ local, size }: GoesOn, last: number): boolean {
		const each = this.db.usable - 4;
		const end = 4 + ((size - local.length - 1) % each) + 1;
		const bytes = this.db.current.read(last)!;
		if (end >= this.db.usable) return true;
		return bytes[end] === 0 || !isCutText(bytes, end, Math.min(end + GOES_ON, this.db.usable), this.db.encoding);
	}

	// ── ends of broken chains ────────────────────────────────────────────────────────────────────────────────

	private mended(broken: readonly Overflowing[], fitsRow: FitsRow): Settled[] {
		if (broken.length === 0 || broken.length > BROKEN_AT_MOST) return [];
		const chains = this.looseChains();
		const fits = new Map<number, number>();
		const candidates = broken.map((one) => {
			const all = this.candidates(one, chains).filter((mended) => mended.isNext || fitsRow(settled(one, this.withHole(one, mended))));
			for (const mended of all) for (const page of mended.pages) fits.set(page, (fits.get(page) ?? 0) + 1);
			return all;
		});
		if (this.laidBytes > LAID_AT_MOST) return [];
		return broken.flatMap((of, i) => {
			const [mended, ...others] = candidates[i]!;
			if (!mended || others.length > 0 || mended.pages.some((page) => fits.get(page)! > 1)) return [];
			for (const page of mended.pages) this.owned.add(page);
			return [settled(of, this.withHole(of, mended), mended.pages[0])];
		});
	}

	/** Chains of free pages that no page leads to, by their length in pages; each ends where the engine ends one. */
	private looseChains(): Map<number, number[][]> {
		const next = new Map<number, number>();
		for (let page = 2; page <= this.db.current.pageCount; page++) {
			if (!this.isFree(page) || this.owned.has(page)) continue;
			const bytes = this.db.current.read(page);
			const to = bytes ? readU32Be(bytes, 0) : NaN;
			if (to === 0 || (to <= this.db.current.pageCount && this.isFree(to) && !this.owned.has(to))) next.set(page, to);
		}
		const led = new Map<number, number>();
		for (const to of next.values()) led.set(to, (led.get(to) ?? 0) + 1);
		const out = new Map<number, number[][]>();
		for (const head of next.keys()) {
			if (led.has(head)) continue;
			const pages: number[] = [];
			let here = head;
			// Of two pages that lead to one, one does so no more: what stands behind is nobody's. So no page is gone through twice.
			while (here !== 0 && next.has(here) && (led.get(here) ?? 0) < 2 && pages.length < CHAIN_AT_MOST) {
				pages.push(here);
				here = next.get(here)!;
			}
			if (here !== 0) continue;
			const list = out.get(pages.length);
			if (list) list.push(pages);
			else out.set(pages.length, [pages]);
		}
		return out;
	}

	/** The ways in which the end of a broken chain can still be there. */
	private candidates(one: Overflowing, chains: ReadonlyMap<number, number[][]>): Mended[] {
		const each = this.db.usable - 4;
		const need = Math.ceil((one.size - one.local.length) / each);
		if (one.broke <= 0 || need < 1 || need > CHAIN_AT_MOST || one.size > Math.min(LAID_AT_MOST, this.db.current.pageCount * this.db.usable))
			return [];
		const before = this.before(one);
		const lost = before.length;
		const trunk = this.isTrunk(one.broke) ? this.leftOfTrunk(one.broke) : this.db.usable;
		const out: Mended[] = [];
		const consider = (pages: readonly number[], atPage: number, skip: number): void => {
			const mended = this.laid(one, before, pages, atPage, skip);
			if (mended) out.push({ ...mended, isNext: skip > 0 });
		};
		if (trunk < this.db.usable && lost === need - 1) consider([one.broke], lost, trunk - 4);
		for (const [length, alike] of chains) {
			if (length >= need - lost) continue;
			const behind = length === need - lost - 1;
			for (const pages of alike) {
				if (this.laidBytes > LAID_AT_MOST) return [];
				// Directly behind a trunk, what is left of the trunk's own page is part of it.
				if (behind && trunk < this.db.usable) consider([one.broke, ...pages], lost, trunk - 4);
				else consider(pages, need - length, 0);
			}
		}
		return out;
	}

	/** Pages of the chain before the one where it breaks. */
	private before(one: Overflowing): number[] {
		const pages = new Set<number>();
		for (let page = one.first; page !== one.broke && pages.size < CHAIN_AT_MOST;) {
			const bytes = this.isFree(page) && !this.owned.has(page) && !pages.has(page) ? this.db.current.read(page) : null;
			if (!bytes) break;
			pages.add(page);
			page = readU32Be(bytes, 0);
		}
		return [...pages];
	}

	/** Where on a trunk page what was there before begins: behind the list of leaves, entries taken off it included. */
	private leftOfTrunk(page: number): number {
		const bytes = this.db.current.read(page);
		if (!bytes) return this.db.usable;
		let at = 8 + Math.min(readU32Be(bytes, 4), this.db.usable / 4) * 4;
		while (at + 4 <= this.db.usable && readU32Be(bytes, at) > 0 && readU32Be(bytes, at) <= this.db.current.pageCount) at += 4;
		return Math.min(at, this.db.usable);
	}

	/** The payload with `pages` as those from the `atPage`th on, `skip` bytes of the first left out; null where that proves nothing. */
	private laid(
		one: Overflowing,
		before: readonly number[],
		pages: readonly number[],
		atPage: number,
		skip: number
	): Omit<Mended, 'isNext'> | null {
		const each = this.db.usable - 4;
		this.laidBytes += one.size;
		const payload = new Uint8Array(one.size).fill(BLANK);
		payload.set(one.local);
		this.fill(payload, one.local.length, before);
		const holeFrom = Math.min(one.size, one.local.length + before.length * each);
		const from = one.local.length + atPage * each;
		this.fill(payload, from, pages);
		const holeTo = from + skip;
		if (holeTo >= one.size) return null;
		payload.fill(BLANK, holeFrom, this.afterCutLetter(payload, holeTo));
		const gain = this.gain(one, payload);
		const last = pages.at(-1)!;
		const letters = payload[one.size - 1] !== 0;
		if (!(gain >= PROVES || (gain > 0 && letters && this.endsExactly(one, last)))) return null;
		return { payload, holeFrom, holeTo, pages: [...pages] };
	}

	/** Whether nothing was ever written behind the payload's last byte. */
	private endsExactly(one: GoesOn, last: number): boolean {
		const end = 4 + ((one.size - one.local.length - 1) % (this.db.usable - 4)) + 1;
		const bytes = this.db.current.read(last)!;
		return end < this.db.usable && bytes.subarray(end, Math.min(end + 8, this.db.usable)).every((byte) => byte === 0);
	}

	private afterCutLetter(payload: Uint8Array, from: number): number {
		let at = from;
		if (this.db.encoding === 'utf8') while (at < from + 3 && at < payload.length && (payload[at]! & 0xc0) === 0x80) at++;
		return at;
	}

	private withHole(one: GoesOn, { payload, holeFrom, holeTo }: Mended): WithHole {
		const out: WithHole = { values: [], cut: -1, rest: null };
		let at = one.body;
		for (const [k, type] of one.types.entries()) {
			const end = at + sizeOfSerialType(type);
			if (end <= holeFrom || at >= holeTo) out.values.push(readValue(payload, at, type, this.db.encoding));
			else if (at >= holeFrom) out.values.push(undefined);
			else {
				out.values.push(this.cutValue(payload, at, holeFrom, type));
				out.cut = k;
				if (classOfSerialType(type) === TEXT && end > holeTo) out.rest = this.restOf(payload, at, holeFrom, holeTo, end);
			}
			at = end;
		}
		return out;
	}

	private cutValue(payload: Uint8Array, from: number, to: number, type: number): Value | undefined {
		if (classOfSerialType(type) === BLOB) return payload.slice(from, to);
		return classOfSerialType(type) === TEXT ? cutTextAt(payload, from, to - this.odd(to - from), this.db.encoding) : undefined;
	}

	/** In UTF-16 a hole can begin or end within a letter. */
	private odd = (length: number): number => (this.db.encoding === 'utf8' ? 0 : length % 2);

	private restOf(payload: Uint8Array, from: number, holeFrom: number, holeTo: number, end: number): WithHole['rest'] {
		const start = this.afterCutLetter(payload, holeTo) + this.odd(holeTo - from);
		if (start >= end) return null;
		const head = cutTextAt(payload, from, holeFrom - this.odd(holeFrom - from), this.db.encoding);
		const text = readValue(payload, start, 13 + (end - start) * 2, this.db.encoding) as string;
		return { text, lost: start - from - this.bytesOf(head) };
	}

	private bytesOf = (text: string): number => (this.db.encoding === 'utf8' ? new TextEncoder().encode(text).length : text.length * 2);
}

/** Other cells that lead to pages of one; as many as it is compared with. */
function rivalsOf(one: Overflowing, leading: ReadonlyMap<number, ReadonlySet<Row>>): Set<Row> {
	const rivals = new Set<Row>();
	for (const page of one.pages) {
		for (const row of leading.get(page)!) {
			if (row !== one.row) rivals.add(row);
			if (rivals.size >= RIVALS_AT_MOST) return rivals;
		}
	}
	return rivals;
}

/** Versions of one row lead to one chain: what lies on their own pages ends alike. */
function isVersionOf(a: GoesOn, b: GoesOn): boolean {
	const length = Math.min(a.local.length - a.body, b.local.length - b.body, SAME_END);
	return a.size === b.size && a.local.slice(-length).every((byte, i) => byte === b.local.at(i - length));
}
const SAME_END = 32;

/** Copies of one cell lead to one chain. */
function distinct(found: readonly Overflowing[]): Overflowing[] {
	const seen = new Set<Row>();
	return found.filter(({ row }) => !seen.has(row) && seen.add(row));
}

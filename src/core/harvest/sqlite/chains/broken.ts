/**
 * What of a broken chain is left: where a page of it was used again or became a trunk of the free list (whose head is
 * overwritten, section 1.5), the pages behind still are a chain by themselves. It is the cell's where it ends as the
 * payload must, to the byte, and fits no other cell, and the cell no other chain; and where either the trunk is the page
 * that the cell leads to and all behind it is there, or the time in it is one that a row of the cell's number can have.
 */
import { readU32Be } from '../../../bytes';
import { PROVES } from './contested';
import { settled, type FitsRow, type Overflowing, type Settled } from './overflowing';
import type { ChainDatabase, Mended, Payloads } from './payloads';
import { asUtf8, sampleOf, Seams } from './seams';
import { textsOf } from './overflowing';

const BLANK = 0x20;
/** Bytes of a text on either side of a seam. */
const AROUND = 128;
/** Odds from which a text goes on so surely that a chain is taken that no pointer leads to. */
const SURELY = 100;
/** Of so many chains one fits a row's time by chance seldom. */
const FEW = 8;
/** Chains are followed no further than that, in pages. */
const CHAIN_AT_MOST = 65_536;
/** Cells with a broken chain: of more nothing is proven. */
const BROKEN_AT_MOST = 2000;
/** Bytes of payloads that are put together to try them: beyond that it is not known what else would fit, and nothing is proven. */
const LAID_AT_MOST = 128 << 20;
/** Bytes of pages that are kept while they are looked at. */
const LAST_PAGES_AT_MOST = 32 << 20;

export class BrokenChains {
	private laidBytes = 0;
	private readonly lastPages = new Map<number, Uint8Array>();

	/** `isFree`: pages that nothing uses and no cell owns; `own`: takes a page for a cell's. */
	constructor(
		private readonly db: ChainDatabase,
		private readonly payloads: Payloads,
		private readonly isFree: (page: number) => boolean,
		private readonly isTrunk: (page: number) => boolean,
		private readonly own: (page: number) => void
	) {}

	/** `texts`: what the store's texts in use are like. */
	mended(broken: readonly Overflowing[], fitsRow: FitsRow, texts: () => string[]): Settled[] {
		this.lastPages.clear();
		if (broken.length === 0 || broken.length > BROKEN_AT_MOST) return [];
		const chains = this.looseChains();
		const fits = new Map<number, number>();
		const seams = broken.some(({ inUse }) => inUse) ? new Seams(sampleOf(texts())) : null;
		const candidates = broken.map((one) => {
			const found = one.inUse ? this.candidatesInUse(one, one.inUse, chains, fitsRow, seams!) : this.candidates(one, chains, fitsRow);
			const all = found.filter((mended) => mended.isNext || fitsRow(settled(one, this.payloads.withHole(one, mended))));
			for (const mended of all) for (const page of mended.pages) fits.set(page, (fits.get(page) ?? 0) + 1);
			return all;
		});
		if (this.laidBytes > LAID_AT_MOST) return [];
		return broken.flatMap((of, i) => {
			const [mended, ...others] = candidates[i]!;
			if (!mended || others.length > 0 || mended.pages.some((page) => fits.get(page)! > 1)) return [];
			for (const page of mended.pages) this.own(page);
			return [settled(of, this.payloads.withHole(of, mended), mended.pages[0])];
		});
	}

	/** Chains of free pages that no page leads to, by their length in pages; each ends where the engine ends one. */
	private looseChains(): Map<number, number[][]> {
		const next = new Map<number, number>();
		for (let page = 2; page <= this.db.current.pageCount; page++) {
			if (!this.isFree(page)) continue;
			const bytes = this.db.current.read(page);
			const to = bytes ? readU32Be(bytes, 0) : NaN;
			if (to === 0 || (to <= this.db.current.pageCount && this.isFree(to))) next.set(page, to);
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
	private candidates(one: Overflowing, chains: ReadonlyMap<number, number[][]>, fitsRow: FitsRow): Mended[] {
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
				else if (this.canEndOn(one, pages.at(-1)!, before.length, fitsRow)) consider(pages, need - length, 0);
			}
		}
		return out;
	}

	/**
	 * The same of a row in use. If only a pointer of it is wrong, all of the rest is there, and the text goes on in it; if a
	 * page is lost, the rest is one of few chains of the length. The time on its last page must be the row's either way.
	 */
	private candidatesInUse(
		one: Overflowing,
		{ own, lost }: NonNullable<Overflowing['inUse']>,
		chains: ReadonlyMap<number, number[][]>,
		fitsRow: FitsRow,
		seams: Seams
	): Mended[] {
		const each = this.db.usable - 4;
		const length = Math.ceil((one.size - one.local.length) / each) - own.length - lost;
		const alike = chains.get(length) ?? [];
		if (length < 1 || (lost > 0 && alike.length > FEW)) return [];
		const out: Mended[] = [];
		for (const pages of alike) {
			if (this.laidBytes > LAID_AT_MOST) return [];
			if (!this.canEndOn(one, pages.at(-1)!, own.length, fitsRow)) continue;
			const mended = this.laid(one, own, pages, own.length + lost, 0);
			if (mended && (lost > 0 || this.goesOn(one, mended, seams))) out.push({ ...mended, isNext: false });
		}
		return out;
	}

	/** Whether the text surely goes on where a wrong pointer is put right. */
	private goesOn({ body, types }: Overflowing, { payload, holeTo: seam }: Omit<Mended, 'isNext'>, seams: Seams): boolean {
		const text = textsOf(body, types).find(({ from, to }) => from < seam && seam < to);
		if (!text) return false;
		const at = this.db.encoding === 'utf8' ? seam : seam + ((seam - text.from) % 2);
		const part = (from: number, to: number): Uint8Array => asUtf8(payload.subarray(from, to), this.db.encoding);
		return seams.odds(part(Math.max(text.from, at - AROUND), at), part(at, Math.min(text.to, at + AROUND))) >= SURELY;
	}

	/** Whether what stands behind the text on a payload's last page is what a row of the cell's number can have; true where nothing of that stands there. */
	private canEndOn(one: Overflowing, page: number, before: number, fitsRow: FitsRow): boolean {
		const each = this.db.usable - 4;
		const length = ((one.size - one.local.length - 1) % each) + 1;
		const values = this.payloads.lastValues(one, this.lastPage(page).subarray(4, 4 + length), one.local.length + before * each);
		return values === null || fitsRow(settled(one, { values, cut: -1, rest: null }));
	}

	/** The last page of a chain: asked for with every cell. */
	private lastPage(page: number): Uint8Array {
		const known = this.lastPages.get(page);
		if (known) return known;
		const bytes = this.db.current.read(page)!.slice();
		if (this.lastPages.size * this.db.usable < LAST_PAGES_AT_MOST) this.lastPages.set(page, bytes);
		return bytes;
	}

	/** Pages of the chain before the one where it breaks. */
	private before(one: Overflowing): number[] {
		const pages = new Set<number>();
		for (let page = one.first; page !== one.broke && pages.size < CHAIN_AT_MOST;) {
			const bytes = this.isFree(page) && !pages.has(page) ? this.db.current.read(page) : null;
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
		this.payloads.fill(payload, one.local.length, before);
		const holeFrom = Math.min(one.size, one.local.length + before.length * each);
		const from = one.local.length + atPage * each;
		this.payloads.fill(payload, from, pages);
		const holeTo = from + skip;
		if (holeTo >= one.size) return null;
		if (holeTo > holeFrom) payload.fill(BLANK, holeFrom, this.payloads.afterCutLetter(payload, holeTo));
		const gain = this.payloads.gain(one, payload);
		const last = pages.at(-1)!;
		const letters = payload[one.size - 1] !== 0;
		if (!(gain >= PROVES || (gain > 0 && (one.inUse || (letters && this.payloads.endsExactly(one, last)))))) return null;
		return { payload, holeFrom, holeTo, pages: [...pages] };
	}
}

/**
 * Freed cells whose chain leads into another's text: a page of it was used again by a row whose own cell is gone, and
 * the pages behind are as many as there should be, so that nothing but the text tells. Where the seam of two pages lies
 * within a text, that must go on there.
 */
import { isCutText, readU32Be } from '../../../bytes';
import { sizeOfSerialType } from '../record';
import { classOfSerialType, TEXT } from '../shape';
import type { Overflowing } from './overflowing';
import type { ChainDatabase, Payloads } from './payloads';
import { asUtf8, likely, SAMPLE, sampleOf, Seams, shareRight } from './seams';
import { cutLetter } from './stray';

/** A chain ends where it should by chance so many times seldomer than because it is the cell's. */
const ENDS_WELL = 4;
/** Bytes of a text on either side of a seam. */
const AROUND = 128;
/** A chain is another's from where that is likelier than not. */
const RATHER = 0.5;

interface Span {
	from: number;
	to: number;
}

export class PartedChains {
	private readonly each: number;

	/** `found`: cells whose chain was followed to its end. */
	constructor(
		private readonly db: ChainDatabase,
		private readonly payloads: Payloads,
		private readonly isFree: (page: number) => boolean,
		private readonly found: readonly Overflowing[]
	) {
		this.each = db.usable - 4;
	}

	/** Of each cell whose chain is rather another's from some page on, how many of its pages are its own. `texts`: others of the store. */
	settle(texts: readonly string[]): Map<Overflowing, number> {
		const seams = new Seams([...sampleOf(texts), ...this.sample()]);
		const leading = this.othersLeading();
		const odds = this.found.map((one) => this.oddsOf(one, seams, leading));
		const right = shareRight(odds.flatMap((of) => of.map(([own]) => [own! * ENDS_WELL])));
		const out = new Map<Overflowing, number>();
		this.found.forEach((one, i) => {
			const at = odds[i]!.findIndex(([own, ...others]) => {
				const sum = others.reduce((s, o) => s + o, own! * ENDS_WELL);
				return likely(own! * ENDS_WELL, sum, 1, right) < RATHER;
			});
			if (at >= 0) out.set(one, at);
		});
		return out;
	}

	/** For each page of a chain the odds of its text going on there, and those of others that lead to it. */
	private oddsOf(one: Overflowing, seams: Seams, leading: ReadonlyMap<number, Uint8Array[]>): number[][] {
		if (one.row.standing !== 'remnant') return [];
		const payload = this.payloads.of(one);
		const texts = textsOf(one);
		return one.pages.map((page, i) => {
			const seam = one.local.length + i * this.each;
			const text = texts.find(({ from, to }) => from < seam && seam < to);
			if (!text) return [1];
			const at = this.wholeLetter(text, seam);
			const after = this.utf8(payload, at, Math.min(text.to, at + AROUND));
			const before = this.utf8(payload, Math.max(text.from, at - AROUND), at);
			return [seams.odds(before, after), ...(leading.get(page) ?? []).map((tail) => seams.odds(tail, after))];
		});
	}

	/** A letter of UTF-16 that a seam parts counts with what stands before it. */
	private wholeLetter = (text: Span, seam: number): number => (this.db.encoding === 'utf8' ? seam : seam + ((seam - text.from) % 2));

	private utf8 = (payload: Uint8Array, from: number, to: number): Uint8Array => asUtf8(payload.subarray(from, to), this.db.encoding);

	/** What the texts are like between their seams. */
	private sample(): Uint8Array[] {
		const out: Uint8Array[] = [];
		let bytes = 0;
		for (const one of this.found) {
			const payload = this.payloads.of(one);
			for (const text of textsOf(one)) {
				let from = text.from;
				for (let seam = one.local.length; from < text.to; seam += this.each) {
					if (seam <= from) continue;
					const to = Math.min(text.to, this.wholeLetter(text, seam));
					out.push(this.utf8(payload, from, to));
					from = to;
				}
			}
			if ((bytes += one.size) > SAMPLE) break;
		}
		return out;
	}

	/** Ends of pages of text that nothing uses and no chain has, by the page each leads to. */
	private othersLeading(): Map<number, Uint8Array[]> {
		const { db } = this;
		const out = new Map<number, Uint8Array[]>();
		// In UTF-16 a page can begin and end within a letter.
		if (db.encoding !== 'utf8') return out;
		const own = new Set(this.found.flatMap(({ pages }) => [...pages]));
		for (let page = 2; page <= db.current.pageCount; page++) {
			if (!this.isFree(page) || own.has(page)) continue;
			const bytes = db.current.read(page);
			const next = bytes ? readU32Be(bytes, 0) : 0;
			if (!bytes || !own.has(next) || !isCutText(bytes, cutLetter(bytes, 4), db.usable, db.encoding)) continue;
			const tail = bytes.slice(db.usable - AROUND, db.usable);
			const list = out.get(next);
			if (list) list.push(tail);
			else out.set(next, [tail]);
		}
		return out;
	}
}

/** Where in a payload texts are stored. */
function textsOf({ body, types }: Overflowing): Span[] {
	const out: Span[] = [];
	let at = body;
	for (const type of types) {
		const to = at + sizeOfSerialType(type);
		if (classOfSerialType(type) === TEXT) out.push({ from: at, to });
		at = to;
	}
	return out;
}

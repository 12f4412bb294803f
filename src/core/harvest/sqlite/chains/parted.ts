/**
 * Cells whose chain leads into another's text: a page of it was used again by a row whose own cell is gone, or a pointer
 * is damaged, and the pages behind are as many as there should be, so that nothing but the text tells. Where the seam of
 * two pages lies within a text, that must go on there.
 */
import { isCutText, readU32Be } from '../../../bytes';
import type { Standing } from '../../../model';
import { textsOf, type Overflowing, type Span } from './overflowing';
import type { ChainDatabase, Payloads } from './payloads';
import { asUtf8, likely, SAMPLE, sampleOf, Seams, shareRight } from './seams';
import { cutLetter } from './stray';

/** A chain ends where it should by chance so many times seldomer than because it is the cell's. */
const ENDS_WELL = 4;
/** Bytes of a text on either side of a seam. */
const AROUND = 128;
/** A chain is another's from where that is likelier than not. */
export const RATHER = 0.5;
/** Bytes of a text by which it is told that it is shifted by one, and by how much more familiar it is then (a logarithm). */
const SHIFT_LEAST = 8;
const SHIFTED = 1.5;
/** Bytes by which what stands before a seam is told from what does elsewhere. */
const TOLD_BY = 32;

export class PartedChains {
	private readonly each: number;

	/** `found`: cells whose chain was followed to its end; where they are in use also `broken` ones, as far as they lead. */
	constructor(
		private readonly db: ChainDatabase,
		private readonly payloads: Payloads,
		private readonly isFree: (page: number) => boolean,
		private readonly found: readonly Overflowing[],
		private readonly standing: Standing = 'remnant',
		private readonly broken: ReadonlySet<Overflowing> = new Set()
	) {
		this.each = db.usable - 4;
	}

	/** Of each cell whose chain is rather another's from some page on, how many of its pages are its own. `texts`: others of the store. */
	settle(texts: readonly string[]): Map<Overflowing, number> {
		const out = new Map<Overflowing, number>();
		this.likelihoods(texts).of.forEach((pages, i) => {
			const at = pages.findIndex((likelihood) => likelihood < RATHER);
			if (at >= 0) out.set(this.found[i]!, at);
		});
		return out;
	}

	/** How likely each page of each chain is the one that goes on with the text; and the share of pointers that are right, at least `atLeast`. */
	likelihoods(texts: readonly string[], atLeast = 0): { of: number[][]; right: number } {
		const seams = new Seams([...sampleOf(texts), ...this.sample()]);
		const leading = this.leading();
		const odds = this.found.map((one) => this.oddsOf(one, seams, leading));
		const right = Math.max(atLeast, shareRight(odds.flatMap((of) => of.map(([own]) => [own!]))));
		const of = odds.map((pages) =>
			pages.map(([own, ...others]) =>
				likely(
					own!,
					others.reduce((sum, o) => sum + o, own!),
					1,
					right
				)
			)
		);
		return { of, right };
	}

	/** For each page of a chain the odds of its text going on there, and those of others that lead to it. */
	private oddsOf(one: Overflowing, seams: Seams, leading: ReadonlyMap<number, ReadonlyMap<string, Leading>>): number[][] {
		if (one.row.standing !== this.standing) return [];
		const payload = this.payloads.of(one);
		const texts = textsOf(one.body, one.types);
		return one.pages.map((page, i) => {
			const seam = one.local.length + i * this.each;
			const text = texts.find(({ from, to }) => from < seam && seam < to);
			if (!text) return [this.broken.has(one) ? 1 : ENDS_WELL];
			const at = this.wholeLetter(text, seam);
			const after = this.utf8(payload, at, Math.min(text.to, at + AROUND));
			const before = this.utf8(payload, Math.max(text.from, at - AROUND), at);
			const own = toldBy(payload.subarray(0, seam));
			const others = [...(leading.get(page) ?? [])].filter(([tail]) => tail !== own);
			if (this.isShifted(payload, at, Math.min(text.to, at + AROUND), seams)) return [0];
			return [
				seams.odds(before, after) * (this.broken.has(one) ? 1 : ENDS_WELL),
				...others.map(([, { tail, weight }]) => seams.odds(tail, after) * weight)
			];
		});
	}

	/** A letter of UTF-16 that a seam parts counts with what stands before it. */
	private wholeLetter = (text: Span, seam: number): number => (this.db.encoding === 'utf8' ? seam : seam + ((seam - text.from) % 2));

	/** Whether what follows a seam is text of UTF-16, but not from there on: by one byte it is another's. */
	private isShifted(payload: Uint8Array, from: number, to: number, seams: Seams): boolean {
		if (this.db.encoding === 'utf8') return false;
		const familiar = (shift: number): number => seams.familiar(this.utf8(payload, from + shift, to - ((to - from) % 2) - shift));
		return to - from > SHIFT_LEAST && familiar(1) > familiar(0) + SHIFTED;
	}

	private utf8 = (payload: Uint8Array, from: number, to: number): Uint8Array => asUtf8(payload.subarray(from, to), this.db.encoding);

	/** What the texts are like between their seams. */
	private sample(): Uint8Array[] {
		const out: Uint8Array[] = [];
		let bytes = 0;
		for (const one of this.found) {
			const payload = this.payloads.of(one);
			for (const text of textsOf(one.body, one.types)) {
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

	/** What leads to each page: the other cells, and pages of text that nothing uses and no chain has. */
	private leading(): Map<number, Map<string, Leading>> {
		const { db } = this;
		const out = new Map<number, Map<string, Leading>>();
		// In UTF-16 a page can begin and end within a letter.
		if (db.encoding !== 'utf8') return out;
		const add = (page: number, tail: Uint8Array, weight: number): void => {
			const tails = out.get(page) ?? new Map<string, Leading>();
			out.set(page, tails);
			const key = toldBy(tail);
			tails.set(key, { tail, weight: Math.max(weight, tails.get(key)?.weight ?? 0) });
		};
		for (const one of this.found) {
			const payload = this.payloads.of(one);
			one.pages.forEach((page, i) => {
				const seam = one.local.length + i * this.each;
				add(page, payload.slice(Math.max(0, seam - AROUND), seam), this.broken.has(one) ? 1 : ENDS_WELL);
			});
		}
		for (let page = 2; page <= db.current.pageCount; page++) {
			if (!this.isFree(page)) continue;
			const bytes = db.current.read(page);
			const next = bytes ? readU32Be(bytes, 0) : 0;
			if (!bytes || !out.has(next) || !isCutText(bytes, cutLetter(bytes, 4), db.usable, db.encoding)) continue;
			add(next, bytes.slice(db.usable - AROUND, db.usable), 1);
		}
		return out;
	}
}

/** The end of what leads to a page, and how much likelier than by chance it does. */
interface Leading {
	tail: Uint8Array;
	weight: number;
}

const toldBy = (tail: Uint8Array): string => String.fromCharCode(...tail.subarray(-TOLD_BY));

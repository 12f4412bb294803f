/**
 * Overflow pages whose cell is overwritten: the end of a long text lies on them, and nothing says whose row it was.
 * Each is four bytes with the number of the next page (section 1.5 "Cell Payload Overflow Pages"), then the text.
 * They are told by holding nothing but text, and are put in order by those numbers. The result is a fragment.
 */
import { decodeText, isCutText, Pieces, readU32Be, type Encoding } from '../../bytes';
import type { Row } from '../../model';
import { HarvestedRow } from '../row';
import type { PageAt, PageView } from './view';

export interface StrayText {
	/** First page of what is left of the chain. */
	at: PageAt;
	page: number;
	/** Bytes on that page. */
	length: number;
	text: string;
}

interface StrayPage {
	page: number;
	next: number;
	/** Bytes of text behind the four of the pointer, a cut first letter left out. */
	from: number;
	to: number;
}

/** Letters from which a text speaks for itself. */
const LEAST = 40;
const CHAIN_AT_MOST = 65_536;
/** Share of letters, blanks and common signs in writing. */
const WRITING = 0.85;

/** Bytes of UTF-8 that go on with a letter begun on the page before. */
function cutLetter(bytes: Uint8Array, from: number): number {
	let at = from;
	while (at < from + 3 && (bytes[at]! & 0xc0) === 0x80) at++;
	return at;
}

/** The page as one of a chain of text, or null. The text of the last page ends where older bytes begin. */
function textPage(bytes: Uint8Array, page: number, usable: number, pages: number, encoding: Encoding): StrayPage | null {
	const next = readU32Be(bytes, 0);
	if (next > pages) return null;
	const from = cutLetter(bytes, 4);
	let to = usable;
	if (!isCutText(bytes, from, to, encoding)) {
		// Halving finds how far it is text: what follows the end of a text is older, and seldom text by itself.
		let low = from;
		let high = usable;
		while (high - low > 1) {
			const middle = (low + high) >> 1;
			if (isCutText(bytes, from, middle, encoding)) low = middle;
			else high = middle;
		}
		to = low;
		if (next !== 0) return null;
	}
	return to - from < LEAST ? null : { page, next, from, to };
}

function isWriting(text: string): boolean {
	let written = 0;
	for (const c of text) if (/[\p{L}\p{M}\p{N}\s.,;:!?'’"“”()\-–—\p{Extended_Pictographic}]/u.test(c)) written++;
	return /\s/.test(text) && !/^\s*[[{<]/.test(text) && written >= [...text].length * WRITING;
}

/** Letters given up at the end of a text written without blanks. */
const UNSURE = 12;

/** Where a text ends cannot be told from what follows it (further values, older bytes): the last word is given up. */
function withoutEnd(text: string): string {
	const blank = text.slice(-4 * UNSURE).search(/\s\S*$/);
	return blank < 0 ? text.slice(0, -UNSURE) : text.slice(0, text.length - Math.min(text.length, 4 * UNSURE) + blank);
}

/** Numbers and stated times end in digits and their marks: the end of one can stand before the text, for want of a limit. */
const VALUE_END = /^[\d:.+\-T]*(?:[\d:.]{2}|\dZ|[+-]\d\d:?\d\d)(?=\p{L})/u;

/** A page's text without what may be the end of the value stored before it. */
export const withoutValueBefore = (text: string): string => text.replace(VALUE_END, '');

/** Texts of chains that no cell leads to. `free`: pages that nothing uses and no cell found claims. */
export function strayTexts(free: readonly number[], view: PageView, usable: number, encoding: Encoding): StrayText[] {
	// In UTF-16 a page can begin in the middle of a letter, and either reading is text: nothing proves which.
	if (encoding !== 'utf8') return [];
	const pages = new Map<number, StrayPage>();
	for (const page of free) {
		const bytes = view.read(page);
		const found = bytes && textPage(bytes, page, usable, view.pageCount, encoding);
		if (found) pages.set(page, found);
	}
	// A page that was used again has a pointer of before and one of since leading to it: nothing tells which text goes on there.
	const leading = new Map<number, number>();
	for (const { next } of pages.values()) leading.set(next, (leading.get(next) ?? 0) + 1);
	const goesOnAt = (page: number): boolean => leading.get(page) === 1;
	const taken = new Set<StrayPage>();
	const chainFrom = (head: StrayPage): StrayPage[] => {
		const chain: StrayPage[] = [];
		let here: StrayPage | undefined = head;
		while (here && !taken.has(here) && chain.length < CHAIN_AT_MOST) {
			taken.add(here);
			chain.push(here);
			here = goesOnAt(here.next) ? pages.get(here.next) : undefined;
		}
		return chain;
	};
	const chains = [...pages.values()].filter(({ page }) => !goesOnAt(page)).map(chainFrom);
	// What is left leads round in a circle, as no text does: each page stands by itself.
	for (const page of pages.values()) if (!taken.has(page)) chains.push([page]);
	return chains.flatMap((chain) => textOfChain(chain, view, encoding) ?? []);
}

function textOfChain(chain: readonly StrayPage[], view: PageView, encoding: Encoding): StrayText | null {
	const [head] = chain;
	const at = head && view.locate(head.page);
	if (!head || !at) return null;
	// Within the chain a cut letter is whole again; only the first page's is lost.
	const parts = chain.map((page) => view.read(page.page)!.subarray(page === head ? page.from : 4, page.to));
	const whole = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
	let to = 0;
	for (const part of parts) {
		whole.set(part, to);
		to += part.length;
	}
	const text = withoutEnd(decodeText(whole, 0, whole.length, encoding).replace(/\ufffd+$/, ''));
	return isWriting(text) ? { at, page: head.page, length: head.to, text } : null;
}

/** The one table and column that long texts are of, with those known; null where there are several, or none. */
export function longTexts(rows: readonly Row[], usable: number): { table: number; column: number; known: string[] } | null {
	// Section 1.5: at least so much of an overflowing payload stays on its page.
	const least = Math.floor(((usable - 12) * 32) / 255) - 23;
	const known: string[] = [];
	let place: { table: number; column: number } | null = null;
	for (const row of rows) {
		if (row instanceof HarvestedRow && row.length < least) continue;
		for (let column = 0; column < row.values.length; column++) {
			const value = row.values[column];
			if (typeof value !== 'string' || value.length < usable / 2) continue;
			if (place && (place.table !== row.table || place.column !== column)) return null;
			place = { table: row.table, column };
			known.push(value);
		}
	}
	return place && { ...place, known };
}

/** Letters by which a text is known again. */
const TOLD_BY = 200;

/** Those of the texts that known ones have in them, by their beginnings. */
export function textsWithin(found: readonly StrayText[], known: readonly string[]): Set<StrayText> {
	const pieces = new Pieces<StrayText>();
	for (const stray of found) pieces.add(stray.text.slice(0, TOLD_BY), stray);
	const within = new Set<StrayText>();
	for (const text of known) pieces.eachIn(text, (stray) => within.add(stray));
	return within;
}

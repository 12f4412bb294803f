/**
 * Overflow pages whose cell is overwritten: the end of a long text lies on them, and nothing says whose row it was.
 * Each is four bytes with the number of the next page (section 1.5 "Cell Payload Overflow Pages"), then the text.
 * They are told by holding nothing but text, and are put in order by those numbers where the text goes on so. The result
 * is a fragment.
 */
import { decodeText, isCutText, joined, Pieces, readU32Be, type Encoding } from '../../../bytes';
import type { Row } from '../../../model';
import { HarvestedRow } from '../../row';
import type { PageAt, PageView } from '../view';
import { asUtf8, likely, SAMPLE, sampleOf, Seams, shareRight, someOf } from './seams';

export interface StrayText {
	/** First page of what is left of the chain. */
	at: PageAt;
	page: number;
	/** Where it begins and ends on that page, bytes. */
	from: number;
	to: number;
	text: string;
}

interface StrayPage {
	page: number;
	next: number;
	/** Bytes of text behind the four of the pointer, a cut first letter left out. */
	from: number;
	to: number;
	/** Whether nothing was written behind `to`, so that what is stored ends there. */
	ends: boolean;
}

/** What the store's long texts are like. */
export interface LongTexts {
	table: number;
	column: number;
	known: string[];
}

/** Letters from which a text speaks for itself. */
const LEAST = 40;
const CHAIN_AT_MOST = 65_536;
/** Share of letters, blanks and common signs in writing. */
const WRITING = 0.85;
/** Of writing without blanks, so many letters are of scripts that have none. */
const WITHOUT_BLANKS = 0.5;
/** Share of letters that other texts of the store have, from which UTF-16 is read from the right byte on. */
const KNOWN_LETTERS = 0.7;
/** A page is taken for the next of a chain where it is at least so likely. */
const SURE = 0.99;

/** Bytes of UTF-8 that go on with a letter begun on the page before. */
export function cutLetter(bytes: Uint8Array, from: number): number {
	let at = from;
	while (at < from + 3 && (bytes[at]! & 0xc0) === 0x80) at++;
	return at;
}

/** Bytes of half a letter. */
const oddByte = (length: number, encoding: Encoding): number => (encoding === 'utf8' ? 0 : length % 2);

/** How far from `from` on the page is text: what follows the end of a text is older, and seldom text by itself. */
function endOfText(bytes: Uint8Array, from: number, usable: number, encoding: Encoding): number {
	if (isCutText(bytes, from, usable, encoding)) return usable;
	let low = from;
	let high = usable;
	while (high - low > 1) {
		const middle = (low + high) >> 1;
		if (isCutText(bytes, from, middle, encoding)) low = middle;
		else high = middle;
	}
	return low - oddByte(low - from, encoding);
}

/** The page as one of a chain of text, or null. */
function textPage(
	bytes: Uint8Array,
	page: number,
	usable: number,
	pages: number,
	encoding: Encoding,
	isLetter: (c: string) => boolean
): StrayPage | null {
	const next = readU32Be(bytes, 0);
	if (next > pages) return null;
	const from = encoding === 'utf8' ? cutLetter(bytes, 4) : firstByte(bytes, usable, encoding, isLetter);
	if (from < 0) return null;
	const to = endOfText(bytes, from, usable, encoding);
	const ends = to === usable || bytes[to] === 0;
	// Text that goes on elsewhere fills its page. The last letters of one are told by what leads to them.
	if (to === from || (to - from < LEAST && !ends) || (next !== 0 && to < usable)) return null;
	return { page, next, from, to, ends };
}

/** In UTF-16 a page can begin in the middle of a letter, and either reading is text: the right one has letters the store has. */
function firstByte(bytes: Uint8Array, usable: number, encoding: Encoding, isLetter: (c: string) => boolean): number {
	const share = (from: number): number => {
		const letters = [...decodeText(bytes, from, Math.min(usable, from + 4 * LEAST), encoding)];
		return letters.filter(isLetter).length / (letters.filter((c) => c !== '\0').length || 1);
	};
	const [even, odd] = [share(4), share(5)];
	if (Math.max(even, odd) < KNOWN_LETTERS || Math.min(even, odd) >= KNOWN_LETTERS) return -1;
	return even > odd ? 4 : 5;
}

/** Scripts whose words have no blanks between them. */
const HAS_NO_BLANKS = /[\u0e00-\u0fff\u1000-\u109f\u1780-\u17ff\u2e80-\ua4cf\uf900-\ufaff\uff00-\uffef]|[\u{20000}-\u{3ffff}]/u;

function isWriting(text: string): boolean {
	let written = 0;
	let without = 0;
	let all = 0;
	for (const c of text) {
		all++;
		if (/[\p{L}\p{M}\p{N}\s.,;:!?'’"“”()\-–—，。！？、：；\p{Extended_Pictographic}]/u.test(c)) written++;
		if (HAS_NO_BLANKS.test(c)) without++;
	}
	return (/\s/.test(text) || without >= all * WITHOUT_BLANKS) && !/^\s*[[{<]/.test(text) && written >= all * WRITING;
}

/** JSON (RFC 8259), and a piece of it: names with their values, or the writing in one. */
export const areDocuments = (texts: readonly string[]): boolean => texts.length > 0 && texts.every((text) => /^\s*[[{]/.test(text));
const isPartOfDocument = (text: string): boolean => isWriting(text) || /"\s*[:,\]}]/.test(text);

/** Letters given up at the end of a text written without blanks. */
const UNSURE = 12;

/** Where older bytes follow, the end of a text cannot be told from them: the last word is given up. */
function withoutEnd(text: string): string {
	const blank = text.slice(-4 * UNSURE).search(/\s\S*$/);
	return blank < 0 ? text.slice(0, -UNSURE) : text.slice(0, text.length - Math.min(text.length, 4 * UNSURE) + blank);
}

/** Numbers and stated times end in digits and their marks: the end of one can stand before the text, for want of a limit. */
const VALUE_END = /^[\d:.+\-T]*(?:[\d:.]{2}|\dZ|[+-]\d\d:?\d\d)(?=\p{L})/u;

/** A page's text without what may be the end of the value stored before it. */
export const withoutValueBefore = (text: string): string => text.replace(VALUE_END, '');

/**
 * Texts of chains that no cell leads to. `free`: pages that nothing uses and no cell found claims; `known`: long texts
 * of the store; `behind`: bytes that can be stored behind such a text in its row.
 */
export function strayTexts(
	free: readonly number[],
	view: PageView,
	usable: number,
	encoding: Encoding,
	known: readonly string[],
	behind: number
): StrayText[] {
	const letters = new Set(encoding === 'utf8' ? [] : someOf(known).join(''));
	const pages = new Map<number, StrayPage>();
	for (const page of free) {
		const bytes = view.read(page);
		const found = bytes && textPage(bytes, page, usable, view.pageCount, encoding, (c) => letters.has(c));
		if (found) pages.set(page, found);
	}
	const next = joins(pages, view, encoding, known);
	const led = new Set(next.values());
	const taken = new Set<StrayPage>();
	const chainFrom = (head: StrayPage): StrayPage[] => {
		const chain: StrayPage[] = [];
		let here: StrayPage | undefined = head;
		while (here && !taken.has(here) && chain.length < CHAIN_AT_MOST) {
			taken.add(here);
			chain.push(here);
			here = next.get(here);
		}
		return chain;
	};
	const chains = [...pages.values()].filter((page) => !led.has(page)).map(chainFrom);
	// What is left leads round in a circle, as no text does: each page stands by itself.
	for (const page of pages.values()) if (!taken.has(page)) chains.push([page]);
	const isText = areDocuments(known) ? isPartOfDocument : isWriting;
	return chains.flatMap((chain) => textOfChain(chain, view, encoding, behind, isText) ?? []);
}

/**
 * Which page each goes on with. A page that was used again is led to by a pointer of before, which leads to another's
 * text: so a pointer counts only as far as the text fits at the seam, and as most of the store's pointers are right.
 */
function joins(
	pages: ReadonlyMap<number, StrayPage>,
	view: PageView,
	encoding: Encoding,
	known: readonly string[]
): Map<StrayPage, StrayPage> {
	/** As UTF-8. A letter of UTF-16 that goes on on the next page is whole with that page's first byte. */
	const bytesOf = (page: StrayPage, next?: StrayPage): Uint8Array => {
		const bytes = view.read(page.page)!;
		if (encoding === 'utf8') return bytes.subarray(4, page.to);
		const letters = [...bytes.subarray(page.from, page.to), ...(next && page.from % 2 ? [view.read(next.page)![4]!] : [])];
		return asUtf8(Uint8Array.from(letters), encoding);
	};
	const telling = [...pages.values()].filter(({ from, to }) => to - from >= LEAST);
	const each = Math.ceil(telling.reduce((bytes, { from, to }) => bytes + to - from, 0) / SAMPLE);
	const some = telling.filter((_, i) => i % each === 0);
	const seams = new Seams([...sampleOf(known), ...some.map((page) => bytesOf(page))]);
	const leading = new Map<StrayPage, { page: StrayPage; odds: number }[]>();
	for (const page of pages.values()) {
		const next = pages.get(page.next);
		if (!next || next === page) continue;
		const odds = next.from % 2 === page.from % 2 || encoding === 'utf8' ? seams.odds(bytesOf(page, next), bytesOf(next)) : 0;
		const list = leading.get(next);
		if (list) list.push({ page, odds });
		else leading.set(next, [{ page, odds }]);
	}
	const right = shareRight([...leading.values()].map((list) => list.map(({ odds }) => odds)));
	const out = new Map<StrayPage, StrayPage>();
	for (const [next, list] of leading) {
		const sum = list.reduce((s, { odds }) => s + odds, 0);
		for (const { page, odds } of list) if (likely(odds, sum, list.length, right) >= SURE) out.set(page, next);
	}
	return out;
}

function textOfChain(
	chain: readonly StrayPage[],
	view: PageView,
	encoding: Encoding,
	behind: number,
	isText: (text: string) => boolean
): StrayText | null {
	const [head] = chain;
	const last = chain.at(-1)!;
	const at = head && view.locate(head.page);
	if (!head || !at) return null;
	// Within the chain a cut letter is whole again; only the first page's is lost. In UTF-16 a letter's half can go over a seam.
	const parts = chain.map((page) => view.read(page.page)!.subarray(page === head ? page.from : 4, page.to));
	const whole = joined(parts);
	// The values behind the text can stand at the end, and read as letters.
	const end = Math.max(0, whole.length - behind);
	const decoded = decodeText(whole, 0, end - oddByte(end, encoding), encoding).replace(/\ufffd+$/, '');
	const text = last.ends ? decoded : withoutEnd(decoded);
	// Values behind the text can take all that there is.
	return whole.length >= LEAST && text !== '' && isText(text) ? { at, page: head.page, from: 4, to: head.to, text } : null;
}

/** Bytes of a page, in some state of it, that nothing uses. */
export interface UnusedRange {
	page: number;
	at: PageAt;
	bytes: Uint8Array;
	from: number;
	to: number;
}

/** Letters of pieces that are held at one time: a log repeats its documents with each of its states. */
const BATCH = 1 << 23;

/** Pieces of documents (JSON) in bytes that nothing uses, some at a time: an older chain went over those pages. UTF-8 only. */
export function* documentsWithin(ranges: Iterable<UnusedRange>): Generator<StrayText[]> {
	let found: StrayText[] = [];
	let letters = 0;
	for (const { page, at, bytes, from, to } of ranges) {
		for (let start = from; start + LEAST < to;) {
			const first = cutLetter(bytes, start);
			const end = endOfText(bytes, first, to, 'utf8');
			const text = end - first < LEAST ? '' : decodeText(bytes, first, end, 'utf8').replace(/\ufffd+$/, '');
			if (text !== '' && isPartOfDocument(text)) {
				found.push({ at, page, from: first, to: end, text });
				letters += text.length;
			}
			start = Math.max(end, first) + 1;
		}
		if (letters < BATCH) continue;
		yield found;
		[found, letters] = [[], 0];
	}
	yield found;
}

/** The one table and column that long texts are of, with those known; null where there are several, or none. */
export function longTexts(rows: readonly Row[], usable: number): LongTexts | null {
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

/** Those of the texts that known ones have in them, by their beginnings; of documents, whose states begin alike, by their ends as well. */
export function textsWithin(found: readonly StrayText[], known: readonly string[]): Set<StrayText> {
	const within = partsWithin(found, known, (text) => text.slice(0, TOLD_BY));
	return areDocuments(known) ? partsWithin([...within], known, (text) => text.slice(-TOLD_BY)) : within;
}

function partsWithin(found: readonly StrayText[], known: readonly string[], part: (text: string) => string): Set<StrayText> {
	const pieces = new Pieces<StrayText>();
	for (const stray of found) pieces.add(part(stray.text), stray);
	const within = new Set<StrayText>();
	for (const text of known) pieces.eachIn(text, (stray) => within.add(stray));
	return within;
}

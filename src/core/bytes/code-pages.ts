/**
 * Texts in the code pages of before Unicode (WHATWG Encoding, sections 9 to 14). Which one a file is written in stands
 * nowhere in it: a library tells it from how often letters follow each other in each language.
 */
import { analyse } from 'chardet';
import { alphabetShare, LATIN_PAGES, type LatinPage } from './alphabets';

/** What the library calls one, and the code page that has all of its letters and more. */
const CODE_PAGES = {
	'ISO-8859-1': 'windows-1252',
	'windows-1252': 'windows-1252',
	'windows-1250': 'windows-1250',
	'ISO-8859-2': 'iso-8859-2',
	'windows-1251': 'windows-1251',
	'KOI8-R': 'koi8-r',
	'ISO-8859-5': 'iso-8859-5',
	'ISO-8859-7': 'iso-8859-7',
	'windows-1253': 'windows-1253',
	'ISO-8859-9': 'windows-1254',
	'windows-1254': 'windows-1254',
	'ISO-8859-8': 'windows-1255',
	'windows-1255': 'windows-1255',
	'ISO-8859-6': 'iso-8859-6',
	'windows-1256': 'windows-1256',
	Shift_JIS: 'shift_jis',
	'EUC-JP': 'euc-jp',
	GB18030: 'gb18030',
	Big5: 'big5',
	'EUC-KR': 'euc-kr'
} as const;

export type CodePage = (typeof CODE_PAGES)[keyof typeof CODE_PAGES] | LatinPage;

/** Those whose letters take two bytes and more, with the bytes of the letters that are in none of the usual pairs. */
const WIDE: Partial<Record<CodePage, number>> = { shift_jis: 2, 'euc-jp': 3, gb18030: 4, big5: 2, 'euc-kr': 2 };
/** From 0 to 100: how sure the library must be of one of these, and how much surer of any than of Windows-1252. */
const WIDE_SURE = 50;
const SURER = 5;

/** The code page of bytes that are no Unicode; Windows-1252 where nothing else is likelier. */
export function codePageOf(bytes: Uint8Array): CodePage {
	const words = tellingWords(bytes);
	const found = analyse(words).flatMap(({ name, confidence }) => {
		const page = CODE_PAGES[name as keyof typeof CODE_PAGES] as CodePage | undefined;
		return page && confidence >= (page in WIDE ? WIDE_SURE : 0) && canBe(words, page) ? [{ page, confidence }] : [];
	});
	if (areOfOtherScript(words)) {
		const other = found.find((f) => !isLatin(f.page));
		if (other) return withItsSigns(other.page, bytes);
	}
	const western = found.find((f) => f.page === 'windows-1252')?.confidence ?? 0;
	const [best] = found;
	if (!best || best.confidence < western + SURER) return latinPageOf(words, 'windows-1252');
	return isLatin(best.page) ? latinPageOf(words, best.page) : withItsSigns(best.page, bytes);
}

/** Whether most words of several letters have none of ASCII: in a language with Latin letters few are without. */
function areOfOtherScript(words: Uint8Array): boolean {
	const each = String.fromCharCode(...words.subarray(0, JUDGED_AT_ONCE))
		.split(' ')
		.filter((word) => word.length > 1);
	return each.filter((word) => /^[^a-z]*[\x80-\xff]{2}[^a-z]*$/i.test(word)).length > each.length * 0.5;
}
const JUDGED_AT_ONCE = 8 << 10;

const isLatin = (page: CodePage): page is LatinPage => (LATIN_PAGES as CodePage[]).includes(page);

/**
 * Of the pages with Latin letters the one whose letters belong to one language. Where several do, the likelier one by the
 * library, which needs some letters to tell.
 */
function latinPageOf(words: Uint8Array, byLibrary: LatinPage): LatinPage {
	const judged = words.subarray(0, JUDGED);
	const letters = new Set(judged.filter((byte) => byte >= 0x80)).size;
	const likely = letters < LETTERS_LEAST ? 'windows-1252' : byLibrary;
	const share = (page: LatinPage): number => alphabetShare(new Set(decodeCodePage(judged, page).split(' ')), page) ?? 1;
	const fitting = LATIN_PAGES.map((page) => ({ page, share: share(page) + (page === likely ? PREFERRED : 0) }));
	return fitting.reduce((best, one) => (one.share > best.share ? one : best)).page;
}
/** How much more of the letters must fit another page than the likely one. */
const PREFERRED = 0.15;
const LETTERS_LEAST = 2;

/** The words that are not in ASCII alone: marks and labels of a format are English, whatever was written. */
function tellingWords(bytes: Uint8Array): Uint8Array {
	const words: number[] = [];
	for (let from = 0, at = 0; at <= bytes.length; at++) {
		if (at < bytes.length && !isBetweenWords(bytes[at]!)) continue;
		const word = bytes.subarray(from, at);
		if (word.some((byte) => byte >= 0x80)) words.push(...word.subarray(0, WORD_LONGEST), 0x20);
		from = at + 1;
	}
	return Uint8Array.from(words);
}
const isBetweenWords = (byte: number): boolean => byte <= 0x20 || (byte < 0x40 && !(byte >= 0x30 && byte <= 0x39));
const WORD_LONGEST = 4096;

const OF_OTHER_SCRIPT = /(?!\p{Script=Latin})\p{L}/u;
const IN_ANOTHER_SCRIPT = /^[^\p{Script=Latin}]*(?:(?!\p{Script=Latin})\p{L}){2}[^\p{Script=Latin}]*$/u;
/** A capital within a word, and what is no letter there. */
const ODD = /(?!\p{Script=Latin})\p{Ll}(?!\p{Script=Latin})\p{Lu}|\ufffd/u;
const MOST_ODD = 0.1;

/** Whether words can be in this code page: not if they mix Latin letters with those of another script, stand alone in it, or have what is no letter. */
function canBe(words: Uint8Array, page: CodePage): boolean {
	const decoded = decodeCodePage(words.subarray(0, JUDGED), page).split(' ');
	const foreign = decoded.filter((word) => word.length > 1 && OF_OTHER_SCRIPT.test(word));
	const whole = foreign.filter((word) => IN_ANOTHER_SCRIPT.test(word));
	const isWritten = isLatin(page) || (whole.length > 0 && whole.length * 2 >= foreign.length);
	return isWritten && decoded.filter((word) => ODD.test(word)).length <= decoded.length * MOST_ODD;
}
const JUDGED = 64 << 10;

/** Where Windows puts signs that the standard of that language has not, its own page. */
function withItsSigns(page: CodePage, bytes: Uint8Array): CodePage {
	const has = (from: number, to: number): number => bytes.filter((byte) => byte >= from && byte <= to).length;
	// A capital alpha with its accent stands at 0xa2 in one, at 0xb6 in the other.
	if (page === 'iso-8859-7' && (has(0x80, 0x9f) > 0 || has(0xa2, 0xa2) > has(0xb6, 0xb6))) return 'windows-1253';
	return page;
}

/** What Windows-1252 has in place of the controls of Latin-1, as which some hosts decode it. */
const LETTERS = '€\x81‚ƒ„…†‡ˆ‰Š‹Œ\x8dŽ\x8f\x90‘’“”•–—˜™š›œ\x9džŸ';
const FIRST = 0x80;

/** The letters of Windows-1252: no text that people wrote has the controls of Latin-1. */
export const westernLetters = (text: string): string => text.replace(/[\x80-\x9f]/g, (c) => LETTERS[c.charCodeAt(0) - FIRST]!);

const decoders = new Map<string, TextDecoder>();

/** The text of bytes in an encoding, by any of its names (WHATWG Encoding, section 4.2); bytes that are no letter become U+FFFD. Throws RangeError where there is none of that name. */
export function decodeCodePage(bytes: Uint8Array, name: string): string {
	let decoder = decoders.get(name);
	if (!decoder) decoders.set(name, (decoder = new TextDecoder(name)));
	const text = decoder.decode(bytes);
	return decoder.encoding === 'windows-1252' ? westernLetters(text) : text;
}

const LEADS = [0x81, 0xfe] as const;
const TRAILS = [0x40, 0xfe] as const;
const LINE = 0x0a;
const pairs = new Map<CodePage, ReadonlySet<string>>();

/** The letters of a code page that are written in two bytes. */
function pairsOf(page: CodePage): ReadonlySet<string> {
	let known = pairs.get(page);
	if (!known) {
		const bytes: number[] = [];
		for (let lead = LEADS[0]; lead <= LEADS[1]; lead++)
			for (let trail = TRAILS[0]; trail <= TRAILS[1]; trail++) bytes.push(lead, trail, LINE);
		const letters = decodeCodePage(Uint8Array.from(bytes), page).split('\n');
		pairs.set(page, (known = new Set(letters.filter((l) => [...l].length === 1 && l !== '\ufffd'))));
	}
	return known;
}

/** Letters of Japanese in half width, which Shift_JIS writes in one byte. */
const HALF_WIDTH = /[\uff61-\uff9f]/;

/** Bytes that a text takes in a code page. */
export function sizeInCodePage(text: string, page: CodePage): number {
	const others = WIDE[page];
	if (others === undefined) return text.length;
	const two = pairsOf(page);
	let size = 0;
	for (const letter of text) {
		if (letter < '\x80' || (page === 'shift_jis' && HALF_WIDTH.test(letter))) size++;
		else size += two.has(letter) ? 2 : others;
	}
	return size;
}

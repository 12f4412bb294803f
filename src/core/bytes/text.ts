import { joined } from './joined';

export type Encoding = 'utf8' | 'utf16le' | 'utf16be';

const loose: Record<Encoding, TextDecoder> = {
	utf8: new TextDecoder('utf-8', { ignoreBOM: true }),
	utf16le: new TextDecoder('utf-16le', { ignoreBOM: true }),
	utf16be: new TextDecoder('utf-16be', { ignoreBOM: true })
};
const SHORT = 32;
const codes: number[] = new Array(SHORT).fill(0);

/** Text at [start, end). Bytes that are no text become U+FFFD, never nothing. Short ASCII goes a faster way. */
export function decodeText(bytes: Uint8Array, start: number, end: number, encoding: Encoding): string {
	const length = end - start;
	if (length <= 0) return '';
	if (encoding === 'utf8' && length <= SHORT) {
		let i = 0;
		let all = 0;
		while (i < length) {
			const c = bytes[start + i]!;
			all |= c;
			codes[i++] = c;
		}
		if (all < 0x80) {
			return String.fromCharCode.apply(null, length === SHORT ? codes : codes.slice(0, length));
		}
	}
	return loose[encoding].decode(bytes.subarray(start, end));
}

/**
 * Whether [start, end) is well-formed text: valid UTF-8 or UTF-16 and free of control characters other than
 * tab, line feed, carriage return. Used as evidence that freed bytes are what they seem. `but`: what UTF-8 may have all the
 * same, `CONTROLS`, `LETTERS` or both.
 */
export function isText(bytes: Uint8Array, start: number, end: number, encoding: Encoding, but = 0): boolean {
	return encoding === 'utf8' ? isUtf8Text(bytes, start, end, false, but) : isUtf16Text(bytes, start, end, encoding === 'utf16le');
}

/** As `isText`, but the last character may be cut (the value goes on where nothing is left). */
export function isCutText(bytes: Uint8Array, start: number, end: number, encoding: Encoding, but = 0): boolean {
	return encoding === 'utf8'
		? isUtf8Text(bytes, start, end, true, but)
		: isUtf16Text(bytes, start, end - ((end - start) % 2), encoding === 'utf16le', true);
}

/** Control characters but nought within: some programs write them between the parts of a text. Letters of a code page: old ones write those. */
export const CONTROLS = 1;
export const LETTERS = 2;

/** Which of the two a text has. */
export function oddities(b: Uint8Array, start: number, end: number): number {
	let found = 0;
	for (let i = start; i < end; i++) if (isControl(b[i]!)) found = CONTROLS;
	const isOdd = !isUtf8Text(b, start, end, false, CONTROLS) && isUtf8Text(b, start, end, false, CONTROLS | LETTERS);
	return isOdd ? found | LETTERS : found;
}

/** Some programs store the nought with which their texts end. */
function areNought(b: Uint8Array, from: number, to: number): boolean {
	for (let i = from; i < to; i++) if (b[i] !== 0) return false;
	return true;
}

const isControl = (c: number): boolean => c < 0x20 && c !== 9 && c !== 10 && c !== 13;

function isUtf8Text(b: Uint8Array, start: number, end: number, mayBeCut: boolean, but: number): boolean {
	for (let i = start; i < end;) {
		const c = b[i]!;
		if (c === 0) return (but & CONTROLS) !== 0 && areNought(b, i, end);
		if (c >= 0x20 && c < 0x7f) {
			i++;
			continue;
		}
		if (c < 0x80) {
			if (c === 0x7f || (isControl(c) && (but & CONTROLS) === 0)) return false;
			i++;
			continue;
		}
		const size = letterAt(b, i, end);
		if (size > 0) i += size;
		else if (but & LETTERS) i++;
		else return mayBeCut && isBegun(b, i, end);
	}
	return true;
}

/** Bytes that begin a letter of more than one, and how many it has. */
const sizeFrom = (c: number): number => (c >= 0xc2 && c < 0xe0 ? 2 : c >= 0xe0 && c < 0xf0 ? 3 : c >= 0xf0 && c < 0xf5 ? 4 : 0);
const isLater = (c: number | undefined): boolean => c !== undefined && (c & 0xc0) === 0x80;

/** Bytes of the letter beyond ASCII that stands there, 0 where none does. One beyond 16 bits may be written as its two surrogates (CESU-8). */
function letterAt(b: Uint8Array, at: number, end: number): number {
	const c = b[at]!;
	const size = sizeFrom(c);
	if (size === 0 || at + size > end) return 0;
	for (let k = 1; k < size; k++) if (!isLater(b[at + k])) return 0;
	const second = b[at + 1]!;
	if (c === 0xed && second >= 0xa0) return isPair(b, at, end) ? 6 : 0;
	// Written longer than it need be, or beyond the last letter there is (Unicode, 3.9).
	if ((c === 0xe0 && second < 0xa0) || (c === 0xf0 && second < 0x90) || (c === 0xf4 && second >= 0x90)) return 0;
	// C1 controls.
	return c === 0xc2 && second < 0xa0 ? 0 : size;
}

/** Unicode Technical Report 26, section 3. */
const isPair = (b: Uint8Array, at: number, end: number): boolean =>
	at + 6 <= end &&
	b[at] === 0xed &&
	(b[at + 1]! & 0xf0) === 0xa0 &&
	b[at + 3] === 0xed &&
	(b[at + 4]! & 0xf0) === 0xb0 &&
	isLater(b[at + 2]) &&
	isLater(b[at + 5]);

/** Whether the bytes up to the end are the beginning of a letter. */
function isBegun(b: Uint8Array, at: number, end: number): boolean {
	if (at + sizeFrom(b[at]!) <= end) return false;
	for (let k = at + 1; k < end; k++) if (!isLater(b[k])) return false;
	return true;
}

/** Where a byte that is part of no letter stands in a text that was decoded by `decodeStored`: 0xdc00 and the byte. */
const ODD = 0xdc00;

/**
 * A stored text: as `decodeText`; in UTF-8 a letter written as two surrogates is that letter, and a byte that is part of
 * none is kept as a surrogate by itself, so that whoever knows the code page can read it (see `bytesOfStored`).
 */
export function decodeStored(bytes: Uint8Array, start: number, end: number, encoding: Encoding): string {
	const text = decodeText(bytes, start, end, encoding);
	if (encoding !== 'utf8' || !text.includes('\ufffd')) return text;
	let out = '';
	let from = start;
	const plain = (to: number): string => loose.utf8.decode(bytes.subarray(from, to));
	for (let at = start; at < end;) {
		const isPlain = bytes[at]! < 0x80;
		const size = isPlain ? 1 : letterAt(bytes, at, end) || (isControlOf(bytes, at, end) ? 2 : 0);
		if (size === 6 || size === 0) {
			out += plain(at) + (size === 6 ? letterOfPair(bytes, at) : String.fromCharCode(ODD + bytes[at]!));
			from = at + (size || 1);
		}
		at += size || 1;
	}
	return out + plain(end);
}

/** A C1 control, which is a letter of UTF-8, though nobody writes it. */
const isControlOf = (b: Uint8Array, at: number, end: number): boolean =>
	b[at] === 0xc2 && at + 1 < end && b[at + 1]! >= 0x80 && b[at + 1]! < 0xa0;

const letterOfPair = (b: Uint8Array, at: number): string => {
	const unit = (o: number): number => ((b[o]! & 0x0f) << 12) | ((b[o + 1]! & 0x3f) << 6) | (b[o + 2]! & 0x3f);
	return String.fromCharCode(unit(at), unit(at + 3));
};

/** The bytes of a text that `decodeStored` decoded from UTF-8. */
export function bytesOfStored(text: string): Uint8Array {
	const parts = text.split(/([\udc80-\udcff])/u);
	return joined(parts.map((part, i) => (i % 2 ? Uint8Array.of(part.charCodeAt(0) - ODD) : new TextEncoder().encode(part))));
}

/** High bytes of scripts and signs that are seldom written beside another script; how much such a one counts. */
const SELDOM: readonly [number, number][] = [
	[0x07, 0x08],
	[0x18, 0x1d],
	[0x28, 0x2f],
	[0x31, 0x33],
	[0xa0, 0xab]
];
const RARE = 2;

function isUtf16Text(b: Uint8Array, start: number, end: number, little: boolean, mayBeCut = false): boolean {
	if ((end - start) % 2) return false;
	const blocks = new Set<number>();
	let swapped = 0;
	let rare = false;
	for (let i = start; i < end; i += 2) {
		const unit = little ? b[i]! | (b[i + 1]! << 8) : (b[i]! << 8) | b[i + 1]!;
		if (unit < 0x20 && unit !== 9 && unit !== 10 && unit !== 13) return false;
		if (unit === 0xfffe || unit === 0xffff || (unit >= 0x7f && unit < 0xa0)) return false;
		if (unit >= 0xdc00 && unit < 0xf900) return false; // lone surrogates and private use
		const high = unit >> 8;
		// Latin letters read from the wrong byte on: a script of its own has hardly any such.
		if (high > 0x20 && (unit & 0xff) === 0 && ++swapped > 2 && swapped > (end - start) / 6) return false;
		rare ||= high > 0 && SELDOM.some(([from, to]) => high >= from && high <= to);
		// Writing keeps to one script or two; bytes that are no text jump between many.
		if (high > 0 && high < 0xd8 && high !== 0x20 && (high < 0x25 || high > 0x27) && high !== 0x30)
			blocks.add(high >= 0x4e && high <= 0x9f ? 0x4e : high >= 0xac ? 0xac : high <= 2 ? 1 : high);
		if (blocks.size + (rare ? RARE : 0) > 3) return false;
		if (unit >= 0xd800 && unit < 0xdc00) {
			if (i + 3 >= end) return mayBeCut;
			const next = little ? b[i + 2]! | (b[i + 3]! << 8) : (b[i + 2]! << 8) | b[i + 3]!;
			if (next < 0xdc00 || next >= 0xe000) return false;
			i += 2;
		}
	}
	return true;
}

/** The bytes of a text as a store of that encoding keeps them. */
export function encodeText(text: string, encoding: Encoding): Uint8Array {
	if (encoding === 'utf8') return new TextEncoder().encode(text);
	const out = new Uint8Array(text.length * 2);
	for (let i = 0; i < text.length; i++) {
		const unit = text.charCodeAt(i);
		const low = encoding === 'utf16le' ? 0 : 1;
		out[i * 2 + low] = unit & 0xff;
		out[i * 2 + 1 - low] = unit >> 8;
	}
	return out;
}

/** Where `needle` starts in `haystack` at or after `from`, or -1. */
export function indexOfBytes(haystack: Uint8Array, needle: Uint8Array, from = 0): number {
	if (needle.length === 0) return -1;
	const first = needle[0]!;
	for (let i = haystack.indexOf(first, from); i >= 0 && i + needle.length <= haystack.length; i = haystack.indexOf(first, i + 1)) {
		let k = 1;
		while (k < needle.length && haystack[i + k] === needle[k]) k++;
		if (k === needle.length) return i;
	}
	return -1;
}

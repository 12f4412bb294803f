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
 * tab, line feed, carriage return. Used as evidence that freed bytes are what they seem. `controls`: in UTF-8 such
 * characters are let pass, but for nought: some programs write them between the parts of a text.
 */
export function isText(bytes: Uint8Array, start: number, end: number, encoding: Encoding, controls = false): boolean {
	return encoding === 'utf8' ? isUtf8Text(bytes, start, end, false, controls) : isUtf16Text(bytes, start, end, encoding === 'utf16le');
}

/** As `isText`, but the last character may be cut (the value goes on where nothing is left). */
export function isCutText(bytes: Uint8Array, start: number, end: number, encoding: Encoding, controls = false): boolean {
	return encoding === 'utf8'
		? isUtf8Text(bytes, start, end, true, controls)
		: isUtf16Text(bytes, start, end - ((end - start) % 2), encoding === 'utf16le', true);
}

/** Whether a text has control characters but for those that writing has. */
export const hasControls = (b: Uint8Array, start: number, end: number): boolean => {
	for (let i = start; i < end; i++) if (isControl(b[i]!)) return true;
	return false;
};

const isControl = (c: number): boolean => c < 0x20 && c !== 9 && c !== 10 && c !== 13;

function isUtf8Text(b: Uint8Array, start: number, end: number, mayBeCut: boolean, controls: boolean): boolean {
	for (let i = start; i < end;) {
		const c = b[i]!;
		if (c >= 0x20 && c < 0x7f) {
			i++;
			continue;
		}
		if (c < 0x80) {
			if (c === 0x7f || (isControl(c) && (c === 0 || !controls))) return false;
			i++;
			continue;
		}
		const more = c >= 0xc2 && c < 0xe0 ? 1 : c >= 0xe0 && c < 0xf0 ? 2 : c >= 0xf0 && c < 0xf5 ? 3 : 0;
		if (more === 0) return false;
		if (i + more >= end && !(mayBeCut || i + more < end)) return false;
		for (let k = 1; k <= more; k++) {
			if (i + k >= end) return mayBeCut;
			if ((b[i + k]! & 0xc0) !== 0x80) return false;
		}
		if (more === 2 && c === 0xe0 && b[i + 1]! < 0xa0) return false;
		if (more === 2 && c === 0xed && b[i + 1]! >= 0xa0) return false;
		if (more === 3 && c === 0xf0 && b[i + 1]! < 0x90) return false;
		if (more === 1 && c === 0xc2 && b[i + 1]! < 0xa0) return false; // C1 controls
		i += more + 1;
	}
	return true;
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

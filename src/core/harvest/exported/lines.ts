/** A text file as lines that know where their bytes lie. */
import { codePageOf, decodeCodePage, decodeText, isText, isCutText, sizeInCodePage, type CodePage, type Encoding } from '../../bytes';

export type TextEncoding = Encoding | CodePage;

export const isUnicode = (encoding: TextEncoding): encoding is Encoding =>
	encoding === 'utf8' || encoding === 'utf16le' || encoding === 'utf16be';

export interface TextLine {
	/** Without its line break. */
	text: string;
	/** Of its bytes in the file, line break included. */
	offset: number;
	length: number;
}

export interface TextFile {
	encoding: TextEncoding;
	lines: TextLine[];
}

const SAMPLE = 1 << 16;
/** Share of control characters in a text, at most, and bytes that show what a file is. */
const CONTROLS = 0.002;
const SHOWS = 1024;

/** 1 for each byte that no text has: control characters that neither part lines nor set type. */
const IS_CONTROL = Uint8Array.from({ length: 256 }, (_, byte) => Number(byte < 0x20 && ![0, 9, 10, 12, 13, 27].includes(byte)));

/** How a file's bytes are text, or null where they are none. A byte order mark decides; else what is well-formed. */
export function textEncodingOf(bytes: Uint8Array): TextEncoding | null {
	if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf16le';
	if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf16be';
	const sample = bytes.subarray(0, SAMPLE);
	const cut = sample.length < bytes.length;
	if (cut ? isCutText(sample, 0, sample.length, 'utf8') : isText(sample, 0, sample.length, 'utf8')) return 'utf8';
	let [even, odd, controls] = [0, 0, 0];
	const most = sample.length * CONTROLS;
	for (let i = 0; i < sample.length; i++) {
		const byte = sample[i]!;
		if (byte !== 0) controls += IS_CONTROL[byte]!;
		else if ((i & 1) === 0) even++;
		else odd++;
		// Most files are no text, and show it soon.
		if (controls > most && i >= SHOWS && even < i * 0.1 && odd < i * 0.1) return null;
	}
	if (odd > sample.length * 0.3 && even < sample.length * 0.05) return 'utf16le';
	if (even > sample.length * 0.3 && odd < sample.length * 0.05) return 'utf16be';
	if (even + odd > 0 || controls > most) return null;
	// Mostly well-formed: damaged in places, and still what it is.
	const loose = new TextDecoder().decode(sample);
	const broken = loose.split('\ufffd').length - 1;
	const wide = loose.replace(/[\x00-\x7f\ufffd]/g, '').length;
	return wide > broken * 4 ? 'utf8' : codePageOf(sample);
}

export function decode(bytes: Uint8Array, from: number, to: number, encoding: TextEncoding): string {
	return isUnicode(encoding) ? decodeText(bytes, from, to, encoding) : decodeCodePage(bytes.subarray(from, to), encoding);
}

/** The whole of a text, without its byte order mark. */
export const wholeText = (bytes: Uint8Array, encoding: TextEncoding): string =>
	decode(bytes, 0, bytes.length, encoding).replace(/^\ufeff/, '');

const encoder = new TextEncoder();
/** Bytes that a stretch of a text takes in its file. */
export function sizeIn(encoding: TextEncoding, text: string): number {
	if (encoding === 'utf8') return encoder.encode(text).length;
	return isUnicode(encoding) ? text.length * 2 : sizeInCodePage(text, encoding);
}

/** The lines of a text; at most `most` of them. */
export function linesOf(bytes: Uint8Array, encoding: TextEncoding, most = Infinity): TextLine[] {
	const wide = encoding === 'utf16le' || encoding === 'utf16be';
	const unit = wide ? 2 : 1;
	const low = encoding === 'utf16be' ? 1 : 0;
	const lines: TextLine[] = [];
	let start = 0;
	while (start < bytes.length && lines.length < most) {
		let end = start;
		while (end + unit <= bytes.length && !(bytes[end + low] === 10 && (!wide || bytes[end + 1 - low] === 0))) end += unit;
		const next = Math.min(bytes.length, end + unit);
		let text = decode(bytes, start, Math.min(end, bytes.length), encoding);
		if (start === 0) text = text.replace(/^\ufeff/, '');
		lines.push({ text: text.endsWith('\r') ? text.slice(0, -1) : text, offset: start, length: next - start });
		start = next;
	}
	return lines;
}

/** Where in the file's bytes places of its text lie. */
export function byteOffsets(text: string, places: readonly number[], bytes: Uint8Array, encoding: TextEncoding): Map<number, number> {
	const sorted = [...new Set(places)].sort((a, b) => a - b);
	const out = new Map<number, number>();
	const wide = encoding === 'utf16le' || encoding === 'utf16be';
	let counted = 0;
	let offset = bytes[0] === 0xef && bytes[1] === 0xbb ? 3 : wide && (bytes[0] === 0xff || bytes[0] === 0xfe) ? 2 : 0;
	for (const place of sorted) {
		offset += sizeIn(encoding, text.slice(counted, place));
		counted = place;
		out.set(place, Math.min(offset, bytes.length));
	}
	return out;
}

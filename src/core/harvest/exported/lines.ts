/** A text file as lines that know where their bytes lie. */
import { decodeText, isText, isCutText, type Encoding } from '../../bytes';

export type TextEncoding = Encoding | 'windows-1252';

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

/** How a file's bytes are text, or null where they are none. A byte order mark decides; else what is well-formed. */
export function textEncodingOf(bytes: Uint8Array): TextEncoding | null {
	if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf16le';
	if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf16be';
	const sample = bytes.subarray(0, SAMPLE);
	const cut = sample.length < bytes.length;
	if (cut ? isCutText(sample, 0, sample.length, 'utf8') : isText(sample, 0, sample.length, 'utf8')) return 'utf8';
	const zeros = [0, 0];
	let controls = 0;
	for (let i = 0; i < sample.length; i++) {
		if (sample[i] === 0) zeros[i & 1]!++;
		else if (sample[i]! < 0x20 && ![9, 10, 12, 13, 27].includes(sample[i]!)) controls++;
	}
	if (zeros[1]! > sample.length * 0.3 && zeros[0]! < sample.length * 0.05) return 'utf16le';
	if (zeros[0]! > sample.length * 0.3 && zeros[1]! < sample.length * 0.05) return 'utf16be';
	if (zeros[0]! + zeros[1]! > 0 || controls > sample.length * 0.002) return null;
	// Mostly well-formed: damaged in places, and still what it is.
	const loose = new TextDecoder().decode(sample);
	const odd = loose.split('\ufffd').length - 1;
	const wide = loose.replace(/[\x00-\x7f\ufffd]/g, '').length;
	return wide > odd * 4 ? 'utf8' : 'windows-1252';
}

const western = new TextDecoder('windows-1252');

export function decode(bytes: Uint8Array, from: number, to: number, encoding: TextEncoding): string {
	return encoding === 'windows-1252' ? western.decode(bytes.subarray(from, to)) : decodeText(bytes, from, to, encoding);
}

/** The whole of a text, without its byte order mark. */
export const wholeText = (bytes: Uint8Array, encoding: TextEncoding): string =>
	decode(bytes, 0, bytes.length, encoding).replace(/^\ufeff/, '');

const encoder = new TextEncoder();
/** Bytes that a stretch of a text takes in its file. */
export function sizeIn(encoding: TextEncoding, text: string): number {
	if (encoding === 'utf8') return encoder.encode(text).length;
	return encoding === 'windows-1252' ? text.length : text.length * 2;
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

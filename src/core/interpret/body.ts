/**
 * Bodies that are not plain text: markup, escaped, compressed, base64, binary with the text inside. Which it is is decided over a
 * sample of the column's values; each value is then read that way, or not at all.
 */
import { decodeText, isCutText, isText, PACKINGS, unpacked, type Packing } from '../bytes';
import type { Value } from '../model';
import { escapeOf, unescape, type Escape } from './escaped';
import { stripMarkup } from './markup';
import { mostOf } from './most-of';
import { isRichText, richText } from '../harvest';

export type BodyKind =
	| Escape
	| 'rich-text'
	| 'text-bytes'
	| 'utf16-bytes'
	| 'utf16be-bytes'
	| 'hex'
	| 'markup'
	| 'zlib'
	| 'gzip'
	| 'deflate'
	| 'zstd'
	| 'base64'
	| 'inside-binary';

/** How the length of a text inside binary is written, and where the text starts in most values. */
export interface BodyReading {
	kind: BodyKind;
	/** For `inside-binary`: the form of length that fits most often. */
	length?: LengthForm;
	/** For `inside-binary`: the bytes that stand before that length in nearly all values, where there are such. */
	before?: readonly number[];
	/** For `markup`, `zlib` …: what the unpacked bytes are, where they are no plain text. */
	inner?: BodyReading;
}

/**
 * `ber`: X.690, section 8.1.3. `marked-le`: a byte, or 0x81 and two of them, or 0x82 and four, the least first. `fe-u24le`:
 * a byte, or 0xfe and three. `fd-u16le`: a byte, or 0xfd and two, or 0xfe and four.
 */
type LengthForm = 'u8' | 'varint' | 'u16be' | 'u16le' | 'u32be' | 'u32le' | 'ber' | 'marked-le' | 'fe-u24le' | 'fd-u16le';
const LENGTHS: readonly LengthForm[] = ['varint', 'u32be', 'u32le', 'u16be', 'u16le', 'u8', 'ber', 'marked-le', 'fe-u24le', 'fd-u16le'];
/** Unpacked bytes of one body, at most: a small value must not become a huge one. */
const UNPACKED_AT_MOST = 16 << 20;
const utf8 = new TextDecoder('utf-8', { ignoreBOM: true });

/** Bytes of text from which the rest of a value that is cut says something. */
const CUT_LEAST = 4;

/** What a value unpacks to; null where it is not packed so, or is more than a message has. */
export function inflate(packing: Packing, bytes: Uint8Array): Uint8Array | null {
	const found = unpacked(packing, bytes, UNPACKED_AT_MOST);
	return found?.isWhole ? found.bytes : null;
}

const MARKUP = /^\s*<[a-z!?][^>]*>[\s\S]*<\/[a-z][\w:]*>\s*$|<(?:b|i|p|div|span|br|a|body|em|strong)\b[^>]*>[\s\S]*<\//i;
export const BASE64 = /^[A-Za-z0-9+/_-]{8,}={0,2}$/;

export function fromBase64(text: string): Uint8Array | null {
	const clean = text.replace(/\s/g, '').replaceAll('-', '+').replaceAll('_', '/').replace(/=+$/, '');
	if (clean.length % 4 === 1 || !/^[A-Za-z0-9+/]*$/.test(clean)) return null;
	return Uint8Array.from(atob(clean), (c) => c.charCodeAt(0));
}

const HEX = /^(?:[0-9a-f]{2})+$/i;

/** Bytes written as two digits each; of a value that is cut those that are whole. */
const fromHex = (text: string): Uint8Array => Uint8Array.from(text.match(/[0-9a-f]{2}/gi) ?? [], (pair) => parseInt(pair, 16));

interface Inside {
	form: LengthForm;
	start: number;
	end: number;
}

function lengthAt(b: Uint8Array, o: number, form: LengthForm): { length: number; size: number } | null {
	const left = b.length - o;
	switch (form) {
		case 'u8':
			return left >= 1 ? { length: b[o]!, size: 1 } : null;
		case 'u16be':
			return left >= 2 ? { length: (b[o]! << 8) | b[o + 1]!, size: 2 } : null;
		case 'u16le':
			return left >= 2 ? { length: (b[o + 1]! << 8) | b[o]!, size: 2 } : null;
		case 'u32be':
			return left >= 4 ? { length: ((b[o]! << 24) | (b[o + 1]! << 16) | (b[o + 2]! << 8) | b[o + 3]!) >>> 0, size: 4 } : null;
		case 'u32le':
			return left >= 4 ? { length: ((b[o + 3]! << 24) | (b[o + 2]! << 16) | (b[o + 1]! << 8) | b[o]!) >>> 0, size: 4 } : null;
		case 'ber':
		case 'marked-le': {
			const first = b[o]!;
			if (first < 0x80) return { length: first, size: 1 };
			const bytes = form === 'ber' ? first - 0x80 : (first - 0x80) * 2;
			if (bytes < 1 || bytes > 4 || left <= bytes) return null;
			let length = 0;
			for (let i = 0; i < bytes; i++) length = length * 256 + b[form === 'ber' ? o + 1 + i : o + bytes - i]!;
			return { length, size: 1 + bytes };
		}
		case 'fe-u24le':
		case 'fd-u16le': {
			const first = b[o]!;
			const bytes = form === 'fe-u24le' ? (first === 0xfe ? 3 : 0) : first === 0xfd ? 2 : first === 0xfe ? 4 : 0;
			if (bytes === 0) return first < 0xfd ? { length: first, size: 1 } : null;
			if (left <= bytes) return null;
			let length = 0;
			for (let i = bytes; i > 0; i--) length = length * 256 + b[o + i]!;
			return { length, size: 1 + bytes };
		}
		default: {
			let length = 0;
			for (let i = 0, scale = 1; i < 5 && o + i < b.length; i++, scale *= 128) {
				length += (b[o + i]! & 0x7f) * scale;
				if (b[o + i]! < 0x80) return { length, size: i + 1 };
			}
			return null;
		}
	}
}

/** Bytes of a value that are looked through. */
const LOOKED_THROUGH = 65_536;

const standsBehind = (b: Uint8Array, o: number, before: readonly number[]): boolean =>
	o >= before.length && before.every((byte, i) => b[o - before.length + i] === byte);

/** The longest text that a length of this form stands in front of, exactly; behind `before`, if there is one. */
const textInside = (b: Uint8Array, form: LengthForm, before: readonly number[] = []): Inside | null =>
	textBehind(b, form, before) ?? (before.length > 0 ? textBehind(b, form, []) : null);

function textBehind(b: Uint8Array, form: LengthForm, before: readonly number[]): Inside | null {
	let best: Inside | null = null;
	for (let o = 0; o < Math.min(b.length, LOOKED_THROUGH); o++) {
		if (!standsBehind(b, o, before)) continue;
		const at = lengthAt(b, o, form);
		// A message without a text still has its place.
		if (!at || (at.length === 0 && (before.length === 0 || best))) continue;
		const start = o + at.size;
		const end = start + at.length;
		if (end > b.length || (best && at.length <= best.end - best.start)) continue;
		if (isText(b, start, end, 'utf8')) best = { form, start, end };
	}
	return best;
}

/** The text that a length stands in front of which goes beyond the bytes that are left: the longest such. */
function cutInside(b: Uint8Array, form: LengthForm, before: readonly number[] = []): Inside | null {
	for (let o = 0; o < Math.min(b.length, LOOKED_THROUGH); o++) {
		if (!standsBehind(b, o, before)) continue;
		const at = lengthAt(b, o, form);
		const start = at ? o + at.size : b.length;
		if (at && start < b.length && start + at.length > b.length && at.length < 1 << 24 && isCutText(b, start, b.length, 'utf8'))
			return { form, start, end: b.length };
	}
	return null;
}

const NOTHING = new Uint8Array(0);

function bytesOf(value: Value | undefined): Uint8Array | null {
	return value !== null && value !== undefined && typeof value === 'object' ? value : null;
}

/**
 * A stored value as the text people saw, or null where it cannot be read that way. `isCut`: the value is only the
 * beginning of what was stored.
 */
export function bodyText(value: Value | undefined, reading: BodyReading, isCut = false): string | null {
	if (reading.kind === 'markup') return typeof value === 'string' ? stripMarkup(value) : null;
	if (reading.kind === 'rich-text') return richText(typeof value === 'string' ? value : (asText(bytesOf(value) ?? NOTHING, isCut) ?? ''));
	if (reading.kind === 'references' || reading.kind === 'percent' || reading.kind === 'quoted-printable') {
		// Of an escape that is cut nobody knows what it was.
		const whole = typeof value === 'string' && isCut ? value.replace(/(?:&[#\w]{0,8}|[%=].?)$/, '') : value;
		return typeof whole === 'string' ? unescape(reading.kind, whole) : null;
	}
	if (reading.kind === 'base64') {
		// Four letters are three bytes: what is left of a group says nothing.
		const whole = typeof value === 'string' && isCut ? value.slice(0, value.length - (value.length % 4)) : value;
		const decoded = typeof whole === 'string' ? fromBase64(whole) : null;
		return decoded ? (reading.inner ? bodyText(decoded, reading.inner, isCut) : asText(decoded, isCut)) : null;
	}
	if (reading.kind === 'hex') {
		const decoded = typeof value === 'string' && (isCut || HEX.test(value)) ? fromHex(value) : null;
		return decoded ? (reading.inner ? bodyText(decoded, reading.inner, isCut) : asText(decoded, isCut)) : null;
	}
	const bytes = bytesOf(value);
	if (!bytes) return typeof value === 'string' ? value : null;
	switch (reading.kind) {
		case 'text-bytes':
			return asText(bytes, isCut);
		case 'utf16-bytes':
		case 'utf16be-bytes': {
			const encoding = reading.kind === 'utf16-bytes' ? 'utf16le' : 'utf16be';
			const whole = isCut ? bytes.subarray(0, bytes.length - (bytes.length % 2)) : bytes;
			if (whole.length % 2 !== 0) return null;
			return isText(whole, 0, whole.length, encoding) ? decodeText(whole, 0, whole.length, encoding) : null;
		}
		case 'inside-binary': {
			const form = reading.length ?? 'varint';
			const [whole, cut] = [textInside(bytes, form, reading.before), isCut ? cutInside(bytes, form, reading.before) : null];
			const inside = cut && (!whole || cut.end - cut.start > whole.end - whole.start) ? cut : whole;
			if (!inside || (isCut && inside.end - inside.start < CUT_LEAST)) return null;
			return asText(bytes.subarray(inside.start, inside.end), inside === cut);
		}
		default: {
			// Where a packed value is cut, its last bytes may be another's: nothing in it is certain.
			const inside = isCut ? null : inflate(reading.kind, bytes);
			if (!inside) return null;
			if (!reading.inner) return asText(inside);
			return reading.inner.kind === 'markup' ? bodyText(asText(inside), reading.inner) : bodyText(inside, reading.inner);
		}
	}
}

/** Whether the text inside a binary value that is cut is there to its end. */
export const isWholeInside = (value: Value | undefined, reading: BodyReading): boolean =>
	reading.kind === 'inside-binary' && bodyText(value, reading) === bodyText(value, reading, true);

/** Of bytes that are cut, a last letter that is not whole is left out. */
function asText(b: Uint8Array, isCut = false): string | null {
	if (isText(b, 0, b.length, 'utf8')) return utf8.decode(b).replace(/^\ufeff/, '');
	return isCut && isCutText(b, 0, b.length, 'utf8') ? utf8.decode(b).replace(/\ufffd+$/, '') : null;
}

/** Nearly any bytes are letters of UTF-16: writing has several, and signs and rare scripts seldom. */
function isWritten(text: string | null): boolean {
	if (text === null || text === '') return false;
	const all = [...text];
	const common = all.filter((c) => /[\p{L}\p{M}\p{N}\p{P}\p{Z}\p{S}\n]/u.test(c)).length;
	return common >= all.length * 0.9 && new Set(all).size >= Math.min(4, all.length / 3);
}

/** What can be told for sure of bytes that nearly any letters are the base64 of. */
const INSIDE_BASE64: readonly BodyKind[] = ['utf16-bytes', 'utf16be-bytes', 'gzip', 'zlib', 'zstd'];

/** Blobs that say how those of a column are to be read in which texts stand as well. */
const MIXED_LEAST = 3;
/** What one value is told by: it has a sum of what is in it. */
const SURE_ALONE: readonly BodyKind[] = ['zlib', 'gzip', 'zstd'];

/** How a column's values are to be read, or null where they are plain (or nothing that can be read). */
export function readBody(values: readonly (Value | undefined)[]): BodyReading | null {
	const filled = values.filter((v) => v !== null && v !== undefined && v !== '' && (typeof v !== 'object' || v.length > 0)).slice(0, 300);
	if (filled.length === 0) return null;
	const most = (test: (v: Value | undefined) => boolean): boolean => mostOf(filled, 0.8, (v) => (test(v) ? v : null)) !== null;
	const texts = filled.filter((v): v is string => typeof v === 'string');
	const blobs = filled.filter((v) => typeof v === 'object');
	// Long ones packed, short ones as they are: those are read as texts whatever the reading.
	const mixed = texts.length > 0 && texts.length + blobs.length >= filled.length * 0.9 ? readBody(blobs) : null;
	if (mixed && (blobs.length >= MIXED_LEAST || SURE_ALONE.includes(mixed.kind))) return mixed;
	if (texts.length >= filled.length * 0.9) {
		if (most((v) => typeof v === 'string' && MARKUP.test(v))) return { kind: 'markup' };
		if (most((v) => typeof v === 'string' && isRichText(v))) return { kind: 'rich-text' };
		if (most((v) => typeof v === 'string' && BASE64.test(v) && v.length % 4 === 0)) {
			if (most((v) => bodyText(v, { kind: 'base64' }) !== null)) return { kind: 'base64' };
			const inner = readBody(texts.map(fromBase64));
			const reading: BodyReading | null = inner && INSIDE_BASE64.includes(inner.kind) ? { kind: 'base64', inner } : null;
			// Plain words are base64 too, of rare signs.
			const isSure = (v: Value | undefined): boolean => /[\x20-\x7e]/.test(bodyText(v, reading!) ?? '');
			if (reading && (most(isSure) || !reading.inner!.kind.startsWith('utf16'))) return reading;
		}
		if (most((v) => typeof v === 'string' && HEX.test(v))) return readHex(texts);
		const escape = escapeOf(texts);
		return escape && { kind: escape };
	}
	if (blobs.length < filled.length) return null;
	for (const kind of PACKINGS) {
		// Nearly any bytes are nothing, packed.
		const inflated = mostOf(filled as Uint8Array[], 0.8, (v) => {
			const inside = inflate(kind, v);
			return inside && inside.length > 0 ? inside : null;
		});
		if (!inflated) continue;
		const plain = inflated.map((inside) => asText(inside)).filter((t) => t !== null);
		if (plain.length >= filled.length * 0.7)
			return plain.filter((t) => MARKUP.test(t)).length > plain.length * 0.8 ? { kind, inner: { kind: 'markup' } } : { kind };
		const inner = readBody(inflated);
		return inner ? { kind, inner } : null;
	}
	if (most((v) => isRichText(asText((v as Uint8Array).subarray(0, 16), true) ?? ''))) return { kind: 'rich-text' };
	if (most((v) => asText(v as Uint8Array) !== null)) return { kind: 'text-bytes' };
	for (const kind of ['utf16-bytes', 'utf16be-bytes'] as const) if (most((v) => isWritten(bodyText(v, { kind })))) return { kind };
	return insideBinary(filled as Uint8Array[]);
}

const LENGTHS_LEAST = 3;

/** Texts written as digits of their bytes; null where those are no writing: digests and keys are written so too. */
function readHex(texts: readonly string[]): BodyReading | null {
	// What is written differs in length: digits that all are as many are keys.
	const lengths = new Set(texts.map((text) => text.length)).size;
	if (lengths < Math.min(LENGTHS_LEAST, new Set(texts).size)) return null;
	// Of one or two it cannot be told; and nearly any bytes are letters of two bytes each.
	const wide: BodyReading[] = lengths < LENGTHS_LEAST ? [] : [{ kind: 'utf16be-bytes' }, { kind: 'utf16-bytes' }];
	const inners: (BodyReading | undefined)[] = [undefined, ...wide];
	for (const inner of inners) {
		const reading: BodyReading = inner ? { kind: 'hex', inner } : { kind: 'hex' };
		if (texts.filter((text) => isWritten(bodyText(text, reading))).length >= texts.length * 0.8) return reading;
	}
	return null;
}

/** Letters of all values' bytes that the texts must make; fewer where one and the same stands before each. */
const TEXTS = 0.3;
const TEXTS_MARKED = 0.03;
/** Share of the values that must have a text behind the same bytes, and of those texts that must differ. */
const MARKED = 0.9;
const VARIED = 0.5;
/** Values that such bytes are told from, at least and at most, and how far into each. */
const MARKED_SEEN = 8;
const MARKED_SAMPLED = 60;
const READ_SAMPLED = 1000;
const MARKED_WITHIN = 4096;

interface Candidate extends Pick<BodyReading, 'before'> {
	form: LengthForm;
	letters: number;
	/** Values in which there is a text of this form. */
	read: number;
}

/** Another form makes longer texts, or reads more of the values and loses nothing: lengths that need more bytes are seldom. */
const isBetter = (a: Candidate, b: Candidate): boolean => b.letters > a.letters * 1.02 || (b.read > a.read && b.letters >= a.letters);

/** The form of length whose texts, over all values, are longest; those that stand behind the same bytes in each come first. */
function insideBinary(values: readonly Uint8Array[]): BodyReading | null {
	const all = values.reduce((sum, v) => sum + v.length, 0);
	const better = (a: Candidate | null, b: Candidate | null): Candidate | null => (b && (!a || isBetter(a, b)) ? b : a);
	const sample = spread(values, MARKED_SAMPLED);
	const more = spread(values, READ_SAMPLED);
	const marked = LENGTHS.map((form) => behindTheSame(sample, form))
		.map((found) => found && overMore(found, more, values.length))
		.reduce(better, null);
	const longest = LENGTHS.map((form) => anywhere(values, form)).reduce(better, null);
	if (marked && marked.letters >= all * TEXTS_MARKED) return { kind: 'inside-binary', length: marked.form, before: marked.before! };
	return longest && longest.letters >= all * TEXTS ? { kind: 'inside-binary', length: longest.form } : null;
}

function anywhere(values: readonly Uint8Array[], form: LengthForm): Candidate | null {
	const found = mostOf(values, 0.8, (value) => textInside(value, form));
	return found && { form, letters: found.reduce((sum, { start, end }) => sum + end - start, 0), read: found.length };
}

/** What a candidate reads of more values than it was told from; its letters are those of all `count`. */
function overMore(found: Candidate, values: readonly Uint8Array[], count: number): Candidate {
	const texts = values.map((value) => textBehind(value, found.form, found.before!)).filter((inside) => inside !== null);
	const letters = texts.reduce((sum, { start, end }) => sum + end - start, 0);
	return { ...found, letters: (letters * count) / values.length, read: texts.length };
}

/** As many of the values as that, from all over them. */
function spread<T>(values: readonly T[], most: number): readonly T[] {
	const step = values.length / most;
	return step <= 1 ? values : Array.from({ length: most }, (_, i) => values[Math.floor(i * step)]!);
}

/** The bytes behind which a text that varies stands in nearly all values: those of all whose texts are longest. */
function behindTheSame(values: readonly Uint8Array[], form: LengthForm): Candidate | null {
	if (values.length < MARKED_SEEN) return null;
	let best: Candidate | null = null;
	for (const bytes of [2, 1]) {
		const texts = new Map<number, Map<number, string>>();
		for (const [i, value] of values.entries())
			for (let o = bytes; o < Math.min(value.length, MARKED_WITHIN); o++) {
				const at = lengthAt(value, o, form);
				const start = at ? o + at.size : 0;
				if (!at || at.length === 0 || start + at.length > value.length || !isText(value, start, start + at.length, 'utf8')) continue;
				const before = bytes === 2 ? (value[o - 2]! << 8) | value[o - 1]! : value[o - 1]!;
				const seen = texts.get(before) ?? new Map<number, string>();
				texts.set(before, seen);
				const text = utf8.decode(value.subarray(start, start + at.length));
				if (text.length > (seen.get(i)?.length ?? 0)) seen.set(i, text);
			}
		for (const [before, seen] of texts) {
			if (seen.size < values.length * MARKED || new Set(seen.values()).size < seen.size * VARIED) continue;
			const letters = [...seen.values()].reduce((sum, text) => sum + text.length, 0);
			if (!best || letters > best.letters)
				best = { form, letters, read: seen.size, before: bytes === 2 ? [before >> 8, before & 0xff] : [before] };
		}
		if (best) return best;
	}
	return best;
}

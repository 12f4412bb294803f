/**
 * Values in the wire format of protocol buffers (its public encoding guide): fields, each a tag (number and type) and a
 * value. The format does not say whether bytes of a stated length are a text, bytes or fields of their own: that is
 * decided for each field over a sample of the column's values.
 *
 * | type | value | | type | value |
 * |---|---|---|---|---|
 * | 0 | varint | | 2 | length as a varint, then so many bytes |
 * | 1 | 8 bytes, little-endian | | 5 | 4 bytes, little-endian |
 */
import { isCutText, isText } from '../bytes';
import type { Value } from '../model';

/** What the bytes of each field are, by the numbers on the way to it, joined by dots; '' is the value itself. */
export type WireReading = ReadonlyMap<string, 'fields' | 'text' | 'bytes'>;
export interface WireFields {
	[number: string]: Value | WireFields;
}

interface Field {
	number: number;
	value: number | bigint | Uint8Array;
}

const DEPTH = 8;
const MOST_FIELDS = 2000;
const LARGEST_NUMBER = 5000;
const SAMPLE = 300;
/** Values from which the format can be told at all. */
const LEAST = 3;
const utf8 = new TextDecoder('utf-8', { ignoreBOM: true });

/** The fields of a value, or null where it is none in this format. `cut`: the last one's end may be missing. */
function fieldsOf(b: Uint8Array, cut: boolean): Field[] | null {
	const out: Field[] = [];
	const view = new DataView(b.buffer, b.byteOffset, b.length);
	let at = 0;
	const varint = (): number | bigint | null => {
		const from = at;
		let value = 0;
		for (let scale = 1; at < b.length && at - from < 7; scale *= 128) {
			const byte = b[at++]!;
			value += (byte & 0x7f) * scale;
			if (byte < 0x80) return value;
		}
		let large = BigInt(value);
		for (let i = 7n; at < b.length && i < 10n; i++) {
			const byte = b[at++]!;
			large |= BigInt(byte & 0x7f) << (7n * i);
			if (byte < 0x80) return small(BigInt.asIntN(64, large));
		}
		return null;
	};
	while (at < b.length) {
		const tag = Number(varint() ?? 0);
		const number = Math.floor(tag / 8);
		if (number < 1 || number > LARGEST_NUMBER || out.length >= MOST_FIELDS) return cut ? out : null;
		const type = tag % 8;
		if (type === 0) {
			const value = varint();
			if (value === null) return cut ? out : null;
			out.push({ number, value });
		} else if (type === 1 || type === 5) {
			const size = type === 1 ? 8 : 4;
			if (at + size > b.length) return cut ? out : null;
			out.push({ number, value: type === 1 ? eightBytes(view, at) : fourBytes(view, at) });
			at += size;
		} else if (type === 2) {
			const length = Number(varint() ?? -1);
			if (length < 0 || (length > b.length - at && !cut)) return cut ? out : null;
			const end = Math.min(b.length, at + length);
			out.push({ number, value: b.subarray(at, end) });
			at = end;
		} else return cut ? out : null;
	}
	return out;
}

const small = (n: bigint): number | bigint => (n >= -(2n ** 53n) && n <= 2n ** 53n ? Number(n) : n);
const looksReal = (n: number): boolean => Number.isFinite(n) && Math.abs(n) > 1e-5 && Math.abs(n) < 1e15;
function eightBytes(view: DataView, at: number): number | bigint {
	const real = view.getFloat64(at, true);
	return looksReal(real) ? real : small(view.getBigInt64(at, true));
}
function fourBytes(view: DataView, at: number): number {
	const real = view.getFloat32(at, true);
	return looksReal(real) && !Number.isInteger(real) ? real : view.getInt32(at, true);
}

/** How a column's values are to be read, or null where they are not in this format. */
export function readWire(values: readonly (Value | undefined)[]): WireReading | null {
	const filled = values.filter((v) => v !== null && v !== undefined).slice(0, SAMPLE);
	const blobs = filled.filter((v): v is Uint8Array => typeof v === 'object' && v.length > 1);
	if (blobs.length < LEAST || blobs.length < filled.length * 0.9) return null;
	const reading = new Map<string, 'fields' | 'text' | 'bytes'>();
	if (!areFields(blobs)) return null;
	judge(blobs, '', reading, 0);
	return [...reading.values()].includes('text') ? reading : null;
}

const parses = (b: Uint8Array): boolean => (fieldsOf(b, false)?.length ?? 0) > 0;
/** Control characters that no text has: short tags and lengths are such, once in a while at least. */
const hasControl = (b: Uint8Array): boolean => b.some((c) => c < 0x20 && c !== 9 && c !== 10 && c !== 13);
const areFields = (values: readonly Uint8Array[]): boolean =>
	values.filter(parses).length >= values.length * 0.97 && values.filter(hasControl).length > Math.min(values.length * 0.1, 5);

function judge(values: readonly Uint8Array[], path: string, reading: Map<string, 'fields' | 'text' | 'bytes'>, depth: number): void {
	const filled = values.filter((v) => v.length > 0);
	if (filled.length === 0) return;
	if (depth < DEPTH && areFields(filled)) {
		reading.set(path, 'fields');
		const inner = new Map<number, Uint8Array[]>();
		for (const value of filled)
			for (const field of fieldsOf(value, false) ?? [])
				if (typeof field.value === 'object') inner.set(field.number, [...(inner.get(field.number) ?? []), field.value]);
		for (const [number, own] of inner) judge(own.slice(0, SAMPLE), path === '' ? `${number}` : `${path}.${number}`, reading, depth + 1);
		return;
	}
	const texts = filled.filter((v) => isText(v, 0, v.length, 'utf8')).length;
	reading.set(path, texts >= filled.length * 0.9 ? 'text' : 'bytes');
}

/** A value's fields by their numbers; of one that stands several times texts are joined by line breaks, else the first counts. */
export function decodeWire(bytes: Uint8Array, reading: WireReading, cut: boolean, path = ''): WireFields | null {
	const fields = fieldsOf(bytes, cut);
	if (!fields) return null;
	const out: WireFields = {};
	for (const { number, value } of fields) {
		const own = path === '' ? `${number}` : `${path}.${number}`;
		const decoded = typeof value === 'object' ? decodeBytes(value, own, reading, cut) : value;
		const known = out[number];
		if (known === undefined) out[number] = decoded;
		else if (typeof known === 'string' && typeof decoded === 'string') out[number] = `${known}\n${decoded}`;
	}
	return out;
}

function decodeBytes(value: Uint8Array, path: string, reading: WireReading, cut: boolean): Value | WireFields {
	const kind = reading.get(path);
	if (kind === 'fields') return decodeWire(value, reading, cut, path);
	if (kind !== 'text' || !(cut ? isCutText : isText)(value, 0, value.length, 'utf8')) return value;
	// Of a text that was cut, the last character may not be whole.
	return utf8.decode(value).replace(/\uFFFD$/, '');
}

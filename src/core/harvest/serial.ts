/** Values as bytes of their own: CBOR (RFC 8949) and MessagePack (its public specification), read by libraries, and objects of a script engine. */
import { decode as decodeMessagePack } from '@msgpack/msgpack';
import { decode as decodeCbor } from 'cbor2';
import { openClone } from './structured-clone';

export type Serial = 'clone' | 'cbor' | 'msgpack';
export const SERIALS: readonly Serial[] = ['clone', 'cbor', 'msgpack'];

/** First bytes of a map or a list (RFC 8949, sections 3.1 and 3.4; the formats "map" and "array"). */
const BEGINS: Record<Exclude<Serial, 'clone'>, (first: number) => boolean> = {
	cbor: (first) => first >= 0x80 && first <= 0xdb,
	msgpack: (first) => (first >= 0x80 && first <= 0x9f) || (first >= 0xdc && first <= 0xdf)
};
const LONGEST = 1 << 20;
const DEEPEST = 32;

/** The map or list that the bytes are, to their last one; undefined where they are none, or more than `longest`. Keys become texts, times ms. */
export function openSerial(kind: Serial, bytes: Uint8Array, longest = LONGEST): object | undefined {
	if (kind === 'clone') return openClone(bytes, longest);
	if (bytes.length < 2 || bytes.length > longest || !BEGINS[kind](bytes[0]!)) return undefined;
	try {
		const most = bytes.length;
		const value: unknown =
			kind === 'cbor'
				? decodeCbor(bytes, { maxDepth: DEEPEST })
				: decodeMessagePack(bytes, { useBigInt64: true, maxStrLength: most, maxBinLength: most, maxArrayLength: most, maxMapLength: most });
		const opened = plainly(value, 0);
		return opened !== null && typeof opened === 'object' && !(opened instanceof Uint8Array) ? opened : undefined;
	} catch {
		return undefined;
	}
}

/** What the libraries give as what JSON could hold, and bytes. */
function plainly(value: unknown, depth: number): unknown {
	if (typeof value === 'bigint') return Number.isSafeInteger(Number(value)) ? Number(value) : value;
	if (value === null || typeof value !== 'object' || value instanceof Uint8Array) return typeof value === 'function' ? null : value;
	if (depth > DEEPEST) return null;
	if (Array.isArray(value)) return value.map((inner) => plainly(inner, depth + 1));
	if (value instanceof Date) return value.getTime();
	const entries = value instanceof Map ? [...value] : Object.entries(value);
	// What carries a tag that nobody here knows is what it carries.
	if ('contents' in value && 'tag' in value) return plainly(value.contents, depth + 1);
	return Object.fromEntries(entries.map(([key, inner]) => [String(key), plainly(inner, depth + 1)]));
}

/**
 * Values as bytes of their own: CBOR (RFC 8949), MessagePack and BSON (their public specifications), read by libraries, and
 * objects of a script engine.
 */
import { decode as decodeMessagePack } from '@msgpack/msgpack';
import { Binary, Decimal128, deserialize as decodeBson, Long, ObjectId } from 'bson';
import { decode as decodeCbor } from 'cbor2';
import { openClone } from './structured-clone';

export type Serial = 'clone' | 'bson' | 'cbor' | 'msgpack';
export const SERIALS: readonly Serial[] = ['clone', 'bson', 'cbor', 'msgpack'];

/** Whether bytes begin as a map or a list does (RFC 8949, sections 3.1 and 3.4; the formats "map" and "array"; `document`, which states its length). */
const BEGINS: Record<Exclude<Serial, 'clone'>, (bytes: Uint8Array, first: number) => boolean> = {
	bson: (bytes) => bytes.length === bsonLength(bytes) && bytes.at(-1) === 0,
	cbor: (_, first) => first >= 0x80 && first <= 0xdb,
	msgpack: (_, first) => (first >= 0x80 && first <= 0x9f) || (first >= 0xdc && first <= 0xdf)
};
/** Bytes that a document of BSON states to take, itself included ("document"). */
export const bsonLength = (bytes: Uint8Array, at = 0): number =>
	at + 4 > bytes.length ? 0 : new DataView(bytes.buffer, bytes.byteOffset + at, 4).getInt32(0, true);

const LONGEST = 1 << 20;
const DEEPEST = 32;

/** The map or list that the bytes are, to their last one; undefined where they are none, or more than `longest`. Keys become texts, times ms. */
export function openSerial(kind: Serial, bytes: Uint8Array, longest = LONGEST): object | undefined {
	if (kind === 'clone') return openClone(bytes, longest);
	if (bytes.length < 2 || bytes.length > longest || !BEGINS[kind](bytes, bytes[0]!)) return undefined;
	try {
		const most = bytes.length;
		const value: unknown =
			kind === 'bson'
				? decodeBson(bytes, { promoteBuffers: true, promoteValues: true })
				: kind === 'cbor'
					? decodeCbor(bytes, { maxDepth: DEEPEST })
					: decodeMessagePack(bytes, {
							useBigInt64: true,
							maxStrLength: most,
							maxBinLength: most,
							maxArrayLength: most,
							maxMapLength: most
						});
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
	if (value instanceof ObjectId) return new Uint8Array(value.id);
	if (value instanceof Binary) return new Uint8Array(value.buffer.subarray(0, value.position));
	if (value instanceof Decimal128) return value.toString();
	if (value instanceof Long) return plainly(value.toBigInt(), depth);
	const entries = value instanceof Map ? [...value] : Object.entries(value);
	// What carries a tag that nobody here knows is what it carries.
	if ('contents' in value && 'tag' in value) return plainly(value.contents, depth + 1);
	return Object.fromEntries(entries.map(([key, inner]) => [String(key), plainly(inner, depth + 1)]));
}

/**
 * Files of CBOR (RFC 8949), MessagePack or BSON as items. What reads them does not say where in a file a value lies: its place
 * is the file, or of BSON, which is written one document after the other, the document.
 */
import { bytesToHex } from '@noble/hashes/utils.js';
import type { PlistValue } from '../../unwrap/plist/plist';
import { bsonLength, openSerial } from '../serial';
import type { Item } from './items';
import { nodeOfValue } from './plist';
import { itemsOf, type Tree } from './tree';

/** The tag by which a file says that it is CBOR (RFC 8949, section 3.4.6). */
const SELF_DESCRIBED = [0xd9, 0xd9, 0xf7];
const ENDING = /\.(?:cbor|msgpack|mpack|mpk|bson)$/i;

export const isPackedValues = (name: string, head: Uint8Array): boolean =>
	ENDING.test(name) || SELF_DESCRIBED.every((byte, i) => head[i] === byte);

export function readPackedValues(bytes: Uint8Array): Item | null {
	const documents = documentsOf(bytes);
	if (documents.length > 0) return itemsOf(documents, bytes.length, true);
	for (const kind of ['cbor', 'msgpack'] as const) {
		const value = openSerial(kind, bytes, bytes.length);
		if (value) return itemsOf([{ node: nodeOfValue(withoutLarge(value), bytes.length), offset: 0 }], bytes.length, false);
	}
	return null;
}

/** Documents of BSON, one after the other: what is whole of a file that breaks off, and none where it does not begin so. */
function documentsOf(bytes: Uint8Array): Tree[] {
	const documents: Tree[] = [];
	for (let at = 0; at < bytes.length;) {
		const length = bsonLength(bytes, at);
		const value = length < SHORTEST || at + length > bytes.length ? undefined : openSerial('bson', bytes.subarray(at, at + length), length);
		if (!value) break;
		documents.push({ node: nodeOfValue(withoutLarge(value), length), offset: at });
		at += length;
	}
	return documents;
}
const KEY = 12;
/** Bytes of a document without fields. */
const SHORTEST = 5;

/** Numbers that are more than a number can keep, and keys of twelve bytes ("ObjectId"), as they are written. */
function withoutLarge(value: unknown): PlistValue {
	if (value instanceof Uint8Array && value.length === KEY) return bytesToHex(value);
	if (typeof value === 'bigint') return String(value);
	if (Array.isArray(value)) return value.map(withoutLarge);
	if (value === null || typeof value !== 'object' || value instanceof Uint8Array) return (value ?? null) as PlistValue;
	return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withoutLarge(inner)]));
}

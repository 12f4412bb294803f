/** Files of CBOR (RFC 8949) or MessagePack as items; what reads them does not say where in a file a value lies: its place is the file. */
import type { PlistValue } from '../../unwrap/plist/plist';
import { openSerial, SERIALS } from '../serial';
import type { Item } from './items';
import { nodeOfValue } from './plist';
import { itemsOf } from './tree';

/** The tag by which a file says that it is CBOR (RFC 8949, section 3.4.6). */
const SELF_DESCRIBED = [0xd9, 0xd9, 0xf7];
const ENDING = /\.(?:cbor|msgpack|mpack|mpk)$/i;

export const isPackedValues = (name: string, head: Uint8Array): boolean =>
	ENDING.test(name) || SELF_DESCRIBED.every((byte, i) => head[i] === byte);

export function readPackedValues(bytes: Uint8Array): Item | null {
	for (const kind of SERIALS) {
		const value = openSerial(kind, bytes, bytes.length);
		if (value) return itemsOf([{ node: nodeOfValue(withoutLarge(value), bytes.length), offset: 0 }], bytes.length, false);
	}
	return null;
}

/** Numbers that are more than a number can keep, as they are written. */
function withoutLarge(value: unknown): PlistValue {
	if (typeof value === 'bigint') return String(value);
	if (Array.isArray(value)) return value.map(withoutLarge);
	if (value === null || typeof value !== 'object' || value instanceof Uint8Array) return (value ?? null) as PlistValue;
	return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withoutLarge(inner)]));
}

/** Files of fields: property lists and JSON (RFC 8259), as one kind of value. */
import type { ByteSource } from '../../bytes';
import { readPlist, type PlistValue } from '../plist/plist';

export type Fields = PlistValue;

const AT_MOST = 64 << 20;

/** The fields of a whole file; null where it has none, or is longer than such files are. */
export function readFields(source: ByteSource): Fields {
	if (source.size > AT_MOST) return null;
	const head = source.read(0, 64);
	return isJson(head) ? readJson(source.read(0, source.size)) : readPlist(source.read(0, source.size));
}

export const isJson = (head: Uint8Array): boolean => /^\ufeff?\s*[[{]/.test(new TextDecoder().decode(head));

function readJson(bytes: Uint8Array): Fields {
	try {
		return JSON.parse(new TextDecoder().decode(bytes)) as Fields;
	} catch {
		return null;
	}
}

export const isFields = (value: Fields): value is { [key: string]: Fields } =>
	value !== null && typeof value === 'object' && !Array.isArray(value) && !(value instanceof Date) && !(value instanceof Uint8Array);

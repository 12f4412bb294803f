/** Which tables the entries of one key space are, and how keys and values are read as those of rows. */
import { decodeText, isText } from '../../bytes';
import type { Value } from '../../model';
import type { FileElsewhere } from '../structured-clone';

/** Where an entry belongs: a table by its place among the layout's, and its values in that table's columns. */
export interface Placed {
	table: number;
	values: Value[];
}

export interface KeyLayout {
	readonly tables: readonly { name: string; columns: readonly string[] }[];
	/** The key under which an entry's files are listed. */
	listOf?(key: Uint8Array): Uint8Array | null;
	/** The files that such a list has. */
	filesIn?(key: Uint8Array, value: Uint8Array): FileElsewhere[];
	/** Null where an entry only helps to find others. */
	place(key: Uint8Array, value: Uint8Array): Placed | null;
}

/** The one table of keys that programs order as they like. */
export const PLAIN_LAYOUT: KeyLayout = {
	tables: [{ name: 'entries', columns: ['key', 'value'] }],
	place: (key, value) => ({ table: 0, values: [keyValue(key), textOrBytes(value)] })
};

/** Signs that set the parts of a key off, in one that is a text otherwise. */
const SET_OFF = new Set([0, 1, 0x1f, 0xff]);

function keyValue(key: Uint8Array): Value {
	const bare = key.filter((byte) => !SET_OFF.has(byte));
	return bare.length > 0 && bare.length >= key.length / 2 && isText(bare, 0, bare.length, 'utf8')
		? decodeText(key, 0, key.length, 'utf8')
		: key;
}

/** A value as text where it is one: in UTF-8, or behind a byte that says how it is written (0 UTF-16, 1 Latin-1). */
export function textOrBytes(value: Uint8Array): Value {
	if (isText(value, 0, value.length, 'utf8')) return decodeText(value, 0, value.length, 'utf8');
	if (value.length < 2) return value;
	if (value[0] === 0 && isText(value, 1, value.length, 'utf16le')) return decodeText(value, 1, value.length, 'utf16le');
	if (value[0] === 1 && value.subarray(1).every(isLatin)) return String.fromCharCode(...value.subarray(1, LATIN_LONGEST));
	return value;
}
const LATIN_LONGEST = 60_000;
const isLatin = (byte: number, i: number): boolean =>
	i < LATIN_LONGEST && (byte >= 0xa0 || (byte >= 0x20 && byte < 0x7f) || byte === 9 || byte === 10 || byte === 13);

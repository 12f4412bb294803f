/**
 * The key space of a browser's object stores (the standard is the Indexed Database API; how its keys are kept is not part of
 * it). Numbers are of as many bytes as the first one says, the lowest first.
 *
 * | key | | behind it | entry |
 * |---|---|---|---|
 * | 1 | sizes of the three numbers: 3 bits, 3 bits, 2 bits, each less one | 201, texts | database: its number |
 * | … | database, object store, index | 50, store, what | object store: what 0, its name |
 * | | with index 1: | a key | object: version, then the object |
 * | | with index 3: | a key | files of an object |
 *
 * A key is a byte for its kind: 1 text (UTF-16, highest byte first, behind its length), 2 date, 3 number (doubles), 4 list, 6 bytes.
 */
import { Cursor, decodeText } from '../../bytes';
import type { Value } from '../../model';
import type { FileElsewhere } from '../structured-clone';
import type { KeyLayout } from './key-layout';

/** What the order of such keys is called in the manifest. */
const ORDER = /^idb_cmp\d$/;
const [OBJECTS, FILES] = [1, 3];
const [DATABASE_NAME, STORE_ENTRY, STORE_NAME] = [201, 50, 0];
const LIKELY = 0.95;
const DEEPEST = 16;

interface Prefix {
	database: number;
	store: number;
	index: number;
	rest: Cursor;
}

/** Whether the keys are such: as the manifest says, or by nearly all of them. */
export const areIndexed = (order: string, keys: readonly Uint8Array[]): boolean =>
	ORDER.test(order) ||
	(order === '' && keys.length > 0 && keys.filter((k) => k[0] === 0 && prefixOf(k) !== null).length >= keys.length * LIKELY);

function prefixOf(key: Uint8Array): Prefix | null {
	const cursor = new Cursor(key);
	const sizes = cursor.u8();
	const number = (bytes: number): number => {
		let value = 0;
		for (let i = 0, scale = 1; i < bytes; i++, scale *= 256) value += cursor.u8() * scale;
		return value;
	};
	const [database, store, index] = [number((sizes >> 5) + 1), number(((sizes >> 2) & 7) + 1), number((sizes & 3) + 1)];
	return cursor.isPast ? null : { database, store, index, rest: cursor };
}

/**
 * The object stores as tables, called as the entries about them say. `entries`: all, newest first; `folder`: what the store's folder is called.
 */
export function layoutOfIndexed(entries: readonly { key: Uint8Array; value: Uint8Array }[], folder: string): KeyLayout {
	const databases = new Map<number, string>();
	const stores = new Map<string, ObjectStore>();
	const know = (database: number, store: number): ObjectStore => {
		const id = `${database} ${store}`;
		const known = stores.get(id) ?? { database, store, name: null, parts: 0 };
		stores.set(id, known);
		return known;
	};
	for (const { key, value } of entries) {
		const prefix = prefixOf(key);
		if (!prefix) continue;
		const { database, store, index, rest } = prefix;
		if (database !== 0 && store !== 0) {
			const own = know(database, store);
			if (index === OBJECTS) own.parts = Math.max(own.parts, partsOf(keyIn(rest, 0)).length);
		}
		if (store !== 0 || index !== 0) continue;
		const type = rest.u8();
		if (database === 0 && type === DATABASE_NAME) {
			wideText(rest);
			const name = wideText(rest);
			const number = numberIn(value);
			if (!databases.has(number)) databases.set(number, name);
		} else if (database !== 0 && type === STORE_ENTRY) {
			const own = rest.varint();
			if (rest.u8() === STORE_NAME && !rest.isPast) know(database, own).name ??= decodeText(value, 0, value.length, 'utf16be');
		}
	}
	const sorted = [...stores.values()].sort((a, b) => a.database - b.database || a.store - b.store);
	const nameOf = ({ database, store, name }: ObjectStore): string =>
		`${databases.size > 1 ? `${databases.get(database) ?? database}.` : ''}${name ?? `store ${store}`}`;
	const partNames = Array.from({ length: MOST_PARTS }, (_, i) => `key ${i + 1}`);
	const places = new Map(sorted.map(({ database, store }, i) => [`${database} ${store}`, i]));
	return {
		tables: sorted.map((one) => ({ name: nameOf(one), columns: ['key', 'value', ...partNames.slice(0, one.parts)] })),
		listOf: (key) => {
			const prefix = prefixOf(key);
			if (!prefix || prefix.index !== OBJECTS) return null;
			const list = Uint8Array.from(key);
			list[prefix.rest.at - 1] = FILES;
			return list;
		},
		filesIn: (key, value) => filesIn(`${folder.replace(/leveldb$/, 'blob')}/${prefixOf(key)!.database.toString(16)}`, value),
		place: (key, value) => {
			const prefix = prefixOf(key);
			const table = prefix && places.get(`${prefix.database} ${prefix.store}`);
			if (table === null || table === undefined) return null;
			const own = keyIn(prefix!.rest, 0);
			if (own === undefined || prefix!.rest.isPast) return null;
			const parts = partsOf(own).slice(0, sorted[table]!.parts);
			return prefix!.index === OBJECTS ? { table, values: [textOf(own), value, ...parts] } : null;
		}
	};
}

interface ObjectStore {
	database: number;
	store: number;
	name: string | null;
	/** Of how many parts its keys are, where they are lists. */
	parts: number;
}

type Key = Value | Key[];
const MOST_PARTS = 6;

/** The parts of a key that is a list. */
const partsOf = (key: Key | undefined): Value[] =>
	Array.isArray(key) && key.length <= MOST_PARTS ? key.map((part) => (Array.isArray(part) ? textOf(part) : part)) : [];

const textOf = (key: Key): Value => (Array.isArray(key) ? JSON.stringify(key) : key);

/** A number as a value: its bytes, the lowest first. */
const numberIn = (value: Uint8Array): number => value.reduceRight((sum, byte) => sum * 256 + byte, 0);

function wideText(cursor: Cursor): string {
	const bytes = cursor.take(cursor.varint() * 2);
	return decodeText(bytes, 0, bytes.length, 'utf16be');
}

/** A key as a value of its own; undefined where it is none. */
function keyIn(cursor: Cursor, depth: number): Key | undefined {
	const type = cursor.u8();
	if (type === 1) return wideText(cursor);
	if (type === 2 || type === 3) return cursor.f64();
	if (type === 6) return cursor.sized();
	if (type !== 4 || depth > DEEPEST) return undefined;
	const parts: Key[] = [];
	for (let left = cursor.varint(); left > 0; left--) {
		const part = keyIn(cursor, depth + 1);
		if (part === undefined || cursor.isPast) return undefined;
		parts.push(part);
	}
	return parts;
}

/**
 * An object's files, each: a byte that says whether it has a name, its number, its type, its size, and its name and the time
 * of its last change where it has one. It lies in a folder beside the store, under the number's second byte and the number.
 */
function filesIn(folder: string, value: Uint8Array): FileElsewhere[] {
	const cursor = new Cursor(value);
	const files: FileElsewhere[] = [];
	while (cursor.left > 0) {
		const isNamed = cursor.u8() === 1;
		const number = cursor.varint();
		const type = wideText(cursor);
		const size = cursor.varint();
		const name = isNamed ? wideText(cursor) : '';
		if (isNamed) cursor.varint();
		if (cursor.isPast) break;
		const part = (Math.floor(number / 256) % 256).toString(16).padStart(2, '0');
		const path = `${folder}/${part}/${number.toString(16)}`;
		files.push({ path, size, ...(type ? { type } : {}), ...(name ? { name } : {}) });
	}
	return files;
}

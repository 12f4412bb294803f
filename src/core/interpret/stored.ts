/**
 * Values that hold values: JSON, property lists, CBOR, MessagePack, BSON, fields in the wire format of protocol buffers, and
 * records written as one text; packed, or written in digits to the base of 64.
 */
import { getNodeValue, type Node } from 'jsonc-parser';
import type { Row, Value } from '../model';
import { PACKINGS, type Packing } from '../bytes';
import { BASE64, fromBase64, inflate } from './body';
import { openComposed, readComposed, type Composed } from './composed';
import { treeOf } from './json-tree';
import { isListed, listedIn } from './listed-objects';
import { mostOf } from './most-of';
import { openSerial, SERIALS, type Serial } from '../harvest';
import { decodeWire, readWire, type WireReading } from './wire';

/** How a column's values are opened. */
export type Stored =
	| { kind: 'json' }
	| { kind: 'plist' }
	| { kind: 'serial'; as: Serial }
	| { kind: 'wire'; reading: WireReading }
	| { kind: 'packed'; by: Packing; inner: Stored }
	| { kind: 'digits'; inner: Stored }
	| Composed;

/** How a column's values are to be opened, or null where they hold none. `json`: share of them that look like it. */
export function readStored(values: readonly (Value | undefined)[], json: number): Stored | null {
	const composed = readComposed(values);
	if (composed) return composed;
	if (json > 0.8) return { kind: 'json' };
	if (areListed(values)) return { kind: 'plist' };
	const serial = serialOf(values);
	if (serial) return { kind: 'serial', as: serial };
	const reading = readWire(values);
	return reading ? { kind: 'wire', reading } : (readPacked(values) ?? readDigits(values));
}

/** Documents as bytes, those in digits to the base of 64 (RFC 4648, section 4): nearly any bytes are digests, and those no documents. */
function readDigits(values: readonly (Value | undefined)[]): Stored | null {
	const texts = values.filter((v): v is string => typeof v === 'string' && v !== '');
	if (texts.length < DIGITS_LEAST || texts.length < values.filter((v) => v !== null && v !== undefined).length * MOSTLY) return null;
	const bytes = mostOf(texts, MOSTLY, (text) => (BASE64.test(text) ? fromBase64(text) : null));
	if (!bytes) return null;
	const json = bytes.filter((b) => typeof jsonOf(b) === 'object').length / bytes.length;
	const inner = readStored(bytes, json);
	return inner && inner.kind !== 'digits' ? { kind: 'digits', inner } : null;
}
const DIGITS_LEAST = 3;

/** Share of the values that must unpack. */
const MOSTLY = 0.8;

function readPacked(values: readonly (Value | undefined)[]): Stored | null {
	const bytes = values.filter((v): v is Uint8Array => v instanceof Uint8Array && v.length > 0);
	if (bytes.length === 0 || bytes.length < values.filter((v) => v !== null && v !== undefined).length * MOSTLY) return null;
	for (const by of PACKINGS) {
		const unpacked = mostOf(bytes, MOSTLY, (b) => inflate(by, b));
		if (!unpacked) continue;
		const json = unpacked.filter((b) => typeof jsonOf(b) === 'object').length / unpacked.length;
		const inner = readStored(unpacked, json);
		return inner && inner.kind !== 'packed' ? { kind: 'packed', by, inner } : null;
	}
	return null;
}

/** The form in which nearly all values are maps or lists with texts in them, or of fields with names, to the last byte. */
function serialOf(values: readonly (Value | undefined)[]): Serial | undefined {
	const filled = values.filter((v) => v !== null && v !== undefined);
	const bytes = filled.filter((v): v is Uint8Array => v instanceof Uint8Array && v.length > 1);
	if (bytes.length < filled.length * MOSTLY) return undefined;
	return SERIALS.find(
		(kind) => bytes.length >= SERIAL_LEAST[kind] && mostOf(bytes, MOSTLY, (b) => (hasText(openSerial(kind, b)) ? b : null)) !== null
	);
}
/** Values from which a form can be told: two begin as many a value does. */
const SERIAL_LEAST: Record<Serial, number> = { clone: 1, bson: 1, cbor: 3, msgpack: 3 };
const hasText = (value: unknown): boolean =>
	typeof value === 'string' ||
	(value !== null &&
		typeof value === 'object' &&
		!(value instanceof Uint8Array) &&
		(Object.values(value).some(hasText) || (!Array.isArray(value) && Object.keys(value).some(isCalled))));
/** What a field is called by; some forms number theirs. */
const isCalled = (field: string): boolean => /\p{L}/u.test(field);

function areListed(values: readonly (Value | undefined)[]): boolean {
	const filled = values.filter((v) => v !== null && v !== undefined);
	return filled.length > 0 && filled.filter((v) => typeof v === 'object' && isListed(v)).length > filled.length * 0.8;
}

const JSON_AT_MOST = 16_000_000;
const opened = new WeakMap<Row, Map<string, unknown>>();

/** What a row's column holds, opened once in each way; undefined where it cannot be. */
export function openStored(row: Row, column: number, how: Stored): unknown {
	let cache = opened.get(row);
	if (!cache) opened.set(row, (cache = new Map()));
	const key = `${column} ${wayOf(how)}`;
	if (cache.has(key)) return cache.get(key);
	const result = opensAs(how, row.values[column], row.cut === column) ?? cutOf(row, column, how);
	cache.set(key, result);
	return result;
}

/** Rows of one table can be kept in several ways: what all of them are taken for first need not be what each is. */
function wayOf(how: Stored): string {
	const inner = how.kind === 'packed' || how.kind === 'digits' ? wayOf(how.inner) : '';
	return `${how.kind} ${how.kind === 'packed' ? how.by : how.kind === 'serial' ? how.as : ''} ${inner}`;
}

function opensAs(how: Stored, value: Value | undefined, isCut: boolean): unknown {
	if (how.kind === 'json') return jsonOf(value);
	if (isComposed(how)) return isCut ? undefined : openComposed(how, value, false)?.fields;
	if (how.kind === 'digits') {
		const bytes = typeof value === 'string' && !isCut ? fromBase64(value) : null;
		return bytes ? opensAs(how.inner, bytes, false) : undefined;
	}
	if (!value || typeof value !== 'object') return undefined;
	if (how.kind === 'wire') return decodeWire(value, how.reading, isCut) ?? undefined;
	if (how.kind === 'plist') return listedIn(value);
	if (how.kind === 'serial') return isCut ? undefined : openSerial(how.as, value);
	// Where a packed value is cut, its last bytes may be another's: nothing in it is certain.
	const unpacked = isCut ? null : inflate(how.by, value);
	return unpacked ? opensAs(how.inner, unpacked, false) : undefined;
}

/** Whether bytes begin as an object or a list does; blanks may stand before it. */
function canBeJson(bytes: Uint8Array): boolean {
	let at = bytes[0] === 0xef ? 3 : 0;
	while (at < bytes.length && (bytes[at] === 0x20 || (bytes[at]! >= 9 && bytes[at]! <= 13))) at++;
	return bytes[at] === 0x7b || bytes[at] === 0x5b;
}

export function jsonOf(value: Value | undefined): unknown {
	const text =
		typeof value === 'string' ? value : value && typeof value === 'object' && canBeJson(value) ? new TextDecoder().decode(value) : '';
	if (!/^\s*[[{]/.test(text) || text.length >= JSON_AT_MOST) return undefined;
	try {
		return JSON.parse(text);
	} catch {
		return undefined;
	}
}

/** The keys that lead to the text in which a value ends that is cut; of each row one. */
const endings = new WeakMap<Row, readonly string[]>();

/** Whether what stands at a path in a row's cut value is only the beginning of what stood there. */
export const isEnding = (row: Row, path: readonly string[]): boolean => {
	const ending = endings.get(row);
	return ending !== undefined && ending.length === path.length && ending.every((key, i) => key === path[i]);
};

const COMPOSED: ReadonlySet<Stored['kind']> = new Set<Composed['kind']>(['listed', 'element', 'headed', 'parted', 'pairs', 'alternating']);
export const isComposed = (how: Stored): how is Composed => COMPOSED.has(how.kind);

/** A value as it was before it was packed or written in digits; undefined where it cannot be opened so. */
export function unpacked(how: Stored, value: Value | undefined): Value | undefined {
	if (how.kind === 'digits') return typeof value === 'string' ? (fromBase64(value) ?? undefined) : undefined;
	if (how.kind !== 'packed') return value;
	const inner = value && typeof value === 'object' ? inflate(how.by, value) : null;
	return inner ? unpacked(how.inner, inner) : undefined;
}

/** Whether values are letters, each with a head and a body, packed or not. */
export const areLetters = (how: Stored): boolean =>
	how.kind === 'headed' || ((how.kind === 'packed' || how.kind === 'digits') && areLetters(how.inner));

/** Whether the values are texts that people never saw as they are stored. */
export const isWritten = (how: Stored): boolean => how.kind === 'digits' || isComposed(how);

/** Whether of a value that is cut it is known which of its fields are whole. */
export const knowsItsEnd = (how: Stored): boolean => how.kind === 'json' || isComposed(how);

/** What is whole of a value that is cut, and the text in which it ends, noted as such. */
function cutOf(row: Row, column: number, how: Stored): unknown {
	if (row.cut !== column) return undefined;
	if (how.kind === 'json') return cutJsonOf(row, column);
	const found = isComposed(how) ? openComposed(how, row.values[column], true) : null;
	if (found?.ending) endings.set(row, found.ending);
	return found?.fields;
}

/**
 * JSON (RFC 8259) of which only the beginning is left: what is whole, and the text in which it ends, noted as such. Of a
 * number that ends there nobody knows how it went on, nor of a text in a list of things.
 */
function cutJsonOf(row: Row, column: number): unknown {
	const text = row.values[column];
	if (typeof text !== 'string') return undefined;
	return cutJson(text, (path) => endings.set(row, path));
}

/** What is whole of JSON that breaks off. `endsIn`: told the path of the text in which it ends. */
export function cutJson(text: string, endsIn?: (path: readonly string[]) => void): unknown {
	if (!/^\s*\{/.test(text) || text.length >= JSON_AT_MOST) return undefined;
	const root = treeOf(text);
	if (!root) return undefined;
	const path: string[] = [];
	let last = lastOf(root);
	let [within, inList]: [Node, boolean] = [root, false];
	while (last) {
		if (within.type === 'array') path.push(String(within.children!.length - 1));
		inList ||= within.type === 'array';
		within = last;
		if (last.type === 'property') path.push(String(last.children![0]!.value));
		last = lastOf(last);
	}
	const value: unknown = getNodeValue(root);
	if (within.type === 'property' || within.offset + within.length < text.trimEnd().length) return value;
	const holder = at(value, path.slice(0, -1)) as Record<string, unknown>;
	if (within.type === 'string' && !inList && endsIn) {
		endsIn(path);
		holder[path.at(-1)!] = (within.value as string).replace(/[\ud800-\udbff]$/, '');
	} else if (within.type !== 'object' && within.type !== 'array') delete holder[path.at(-1)!];
	return value;
}

/** The last thing inside a node; of a name without a value nothing. */
const lastOf = (node: Node): Node | undefined => (node.type === 'property' ? node.children?.[1] : node.children?.at(-1));

/** Whether a value has fields by name, as an object of a document has. */
export const isFields = (value: unknown): value is Record<string, unknown> =>
	value !== null && typeof value === 'object' && !Array.isArray(value) && !(value instanceof Uint8Array);

/** What lies at a path inside. */
export function at(value: unknown, path: readonly string[]): unknown {
	let here = value;
	for (const step of path) {
		if (here === null || typeof here !== 'object') return undefined;
		here = (here as Record<string, unknown>)[step];
	}
	return here;
}

/** A value from inside as one that a column could hold. */
export const plain = (value: unknown): Value | undefined =>
	value === null || typeof value === 'string' || typeof value === 'number' || typeof value === 'bigint' || value instanceof Uint8Array
		? value
		: typeof value === 'boolean'
			? Number(value)
			: value === undefined
				? undefined
				: JSON.stringify(value, (_, inner: unknown) =>
						typeof inner === 'bigint' ? String(inner) : inner instanceof Uint8Array ? `${inner.length} bytes` : inner
					);

/** Paths of the values inside, over a sample, as lists of steps. A list is one value (the members of a room, say). */
export function pathsIn(values: readonly unknown[]): string[][] {
	const paths = new Map<string, string[]>();
	const collect = (value: unknown, path: string[]): void => {
		if (value === null || typeof value !== 'object' || Array.isArray(value) || path.length > DEEPEST || paths.size > MOST_PATHS) return;
		for (const [key, inner] of Object.entries(value).slice(0, MOST_FIELDS)) {
			const own = [...path, key];
			if (inner !== null && typeof inner === 'object' && !Array.isArray(inner) && !(inner instanceof Uint8Array)) collect(inner, own);
			else paths.set(own.join('\u0000'), own);
		}
	};
	for (const value of values) collect(value, []);
	return [...paths.values()];
}

const DEEPEST = 7;
const MOST_PATHS = 60;
const MOST_FIELDS = 40;

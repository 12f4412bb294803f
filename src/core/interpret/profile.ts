/** What the values of a column are like: sorts, forms, range, how many differ. */
import { isZoneName } from '../zones';
import { isSurnameFirst } from '../called';
import { isWhenInDigits } from '../in-digits';
import { MEDIA_TYPE } from '../bytes';
import type { Row, Value } from '../model';
import { readTimes, type TimeReading } from './time';

export interface Profile {
	/** Values that are not null, absent or empty. */
	filled: number;
	nulls: number;
	ints: number;
	reals: number;
	texts: number;
	blobs: number;
	distinct: Map<string | number, number>;
	/** Whether there were more distinct values than are kept. */
	many: boolean;
	unique: boolean;
	low: number;
	high: number;
	averageLength: number;
	/** Shares (0–1) of the texts that look like … */
	phone: number;
	email: number;
	/** … an address, or a list of several. */
	addresses: number;
	uuid: number;
	token: number;
	path: number;
	mime: number;
	prose: number;
	name: number;
	json: number;
	/** Share of all values that are as long as a digest, and written as one: hex, base64 or bytes. */
	digest: number;
	time: TimeReading | null;
}

const DISTINCT_KEPT = 20_000;

/** Whether a text is an emoji or a few, and nothing else: digits are parts of some. */
export const isSign = (text: string): boolean =>
	/^(?:\p{Extended_Pictographic}|\p{Emoji_Component}){1,8}$/u.test(text) && !/^\d+$/.test(text);

export const PHONE = /^(?:tel:)?(?:\+|\(\+?)?\d[\d\s().\-/]{4,22}\d$/i;
/** Digits of a number with those that lead abroad (E.164, section 6). */
const DIGITS_AT_MOST = 17;
export const EMAIL = /^(?![a-z]+:\/\/)[^\s@<>]+@[^\s@<>]+\.[^\s@<>]{2,}$/;
export const UUID = /^\{?[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}\}?$|^[0-9a-f]{16,64}$/i;
/** Digits alone are dates, whatever stands between them. */
const PATH = /^(?:[a-z]+:\/\/|(?=[^\n]*[a-z_])[\w .~-]*\/[\w .~/-]+$)|^(?!@)[^\s/]+\.(?=\d*[a-z])[a-z0-9]{2,5}$/i;
/** From a drive, a share or the root, two folders deep at least. */
const ABSOLUTE_PATH = /^(?:[a-z]:|\\\\[^\\\n]+|~|\.{1,2})?(?:[\\/][^\\/\n:*?"<>|]{1,200}){3,}$/i;
/** Within a folder, to a file with an ending. */
const RELATIVE_PATH = /^(?:[^\\/\n:*?"<>|]{1,100}[\\/]){1,40}[^\\/\n:*?"<>|]{1,100}\.[a-z\d]{2,5}$/i;
/** A file's name, and its path, may have blanks, if its ending is that of one people send. */
export const FILE_NAME =
	/^(?:[a-z]{2,12}:\/\/|[a-z]:)?[^\n:*?"<>|]{1,300}\.(?:7z|aac|amr|avi|bmp|caf|csv|docx?|eml|flac|gif|gz|hei[cf]|html?|ics|jpe?g|json|m4[av]|mkv|mov|mp[34]|od[pst]|og[agv]|opus|pdf|png|pptx?|rtf|svg|tar|tiff?|txt|vcf|wav|web[mp]|wma|xlsx?|xml|zip|3gpp?)$/i;
/** MD5, SHA-1 or SHA-256 in hex, or in base64 (RFC 4648) with its padding. */
const DIGEST = /^(?:[\da-f]{32}|[\da-f]{40}|[\da-f]{64}|[\w+/-]{22}==|[\w+/-]{27}=|[\w+/-]{43}=)$/i;
const DIGEST_BYTES = [16, 20, 32];

/**
 * What a column's values are like. Forms are judged on a sample; values are counted over all rows, except those of
 * long texts, which are no keys.
 */
export function profileOf(rows: readonly Row[], get: (row: Row) => Value | undefined, sample: readonly Row[]): Profile {
	const p = emptyProfile();
	const values = sample.map(get);
	judgeForms(p, values);
	const counted = p.averageLength > 48 || p.prose > 0.5 ? sample : rows;
	for (const row of counted) count(p, get(row), row);
	if (counted !== rows) {
		const scale = rows.length / Math.max(1, sample.length);
		for (const key of ['filled', 'nulls', 'ints', 'reals', 'texts', 'blobs'] as const) p[key] = Math.round(p[key] * scale);
		p.many = p.distinct.size > sample.length * 0.9;
	}
	if (p.filled > 0) p.time = readTimes(values);
	return p;
}

/** What values by themselves are like, as those of a column in use. */
export function profileOfValues(values: readonly (Value | undefined)[]): Profile {
	const rows = values.map((value): Row => ({
		table: 0,
		tableKnown: false,
		rowid: null,
		values: [value],
		standing: 'kept',
		grade: 'whole',
		cut: -1,
		sightings: []
	}));
	return profileOf(rows, (row) => row.values[0], rows);
}

const emptyProfile = (): Profile => ({
	filled: 0,
	nulls: 0,
	ints: 0,
	reals: 0,
	texts: 0,
	blobs: 0,
	distinct: new Map(),
	many: false,
	unique: true,
	low: Infinity,
	high: -Infinity,
	averageLength: 0,
	phone: 0,
	email: 0,
	addresses: 0,
	uuid: 0,
	token: 0,
	path: 0,
	mime: 0,
	prose: 0,
	name: 0,
	json: 0,
	digest: 0,
	time: null
});

/** What stands for a value among the distinct ones: of a long text how it begins. */
export const distinctKey = (value: string | number | bigint): string | number =>
	typeof value === 'bigint' ? String(value) : typeof value === 'string' && value.length > KEY_LETTERS ? value.slice(0, KEY_LETTERS) : value;
const KEY_LETTERS = 80;

function count(p: Profile, value: Value | undefined, row: Row): void {
	// An empty text names nobody and says nothing (see `keyOf`).
	if (value === null || value === undefined || value === '') {
		p.nulls++;
		return;
	}
	p.filled++;
	if (typeof value === 'object') {
		p.blobs++;
		return;
	}
	if (typeof value === 'string') p.texts++;
	else {
		const n = Number(value);
		if (Number.isInteger(n)) p.ints++;
		else p.reals++;
		if (n < p.low) p.low = n;
		if (n > p.high) p.high = n;
	}
	if (p.many && !p.unique) return;
	const key = distinctKey(value);
	const seen = p.distinct.get(key);
	if (seen !== undefined) {
		p.distinct.set(key, seen + 1);
		if (row.standing === 'kept') p.unique = false;
	} else if (p.distinct.size < DISTINCT_KEPT) p.distinct.set(key, 1);
	else p.many = true;
}

function judgeForms(p: Profile, values: readonly (Value | undefined)[]): void {
	const texts = values.filter((v): v is string => typeof v === 'string' && v.length > 0);
	const blobs = values.filter((v): v is Uint8Array => v !== null && typeof v === 'object');
	if (texts.length === 0) {
		p.digest = blobs.length === 0 ? 0 : blobs.filter((b) => DIGEST_BYTES.includes(b.length)).length / blobs.length;
		if (blobs.length > 0) p.json = blobs.filter((b) => b[0] === 0x7b && b.at(-1) === 0x7d).length / blobs.length;
		return;
	}
	// A state or a name stands in many rows, and is judged once.
	const counts = new Map<string, number>();
	for (const t of texts) counts.set(t, (counts.get(t) ?? 0) + 1);
	const share = (test: (t: string) => boolean): number => {
		let passed = 0;
		for (const [t, n] of counts) if (test(t)) passed += n;
		return passed / texts.length;
	};
	p.averageLength = texts.reduce((sum, t) => sum + t.length, 0) / texts.length;
	p.phone = share((t) => PHONE.test(t) && !isWhenInDigits(t) && t.replace(/\D/g, '').length <= DIGITS_AT_MOST);
	p.email = share((t) => EMAIL.test(t));
	p.addresses = p.phone + p.email + share((t) => addressesIn(t).length > 1);
	p.uuid = share((t) => UUID.test(t));
	const isPath = areHandles(texts) ? (t: string): boolean => isPathLike(t) && !BARE.test(t) : isPathLike;
	p.path = share(isPath);
	p.mime = share((t) => MEDIA_TYPE.test(t));
	// Rich text begins with a brace too.
	p.json = share((t) => /^\s*(?:\[|\{(?!\\)).*[\]}]\s*$/s.test(t));
	p.digest = share((t) => DIGEST.test(t));
	p.token = share((t) => /^[!#$~]?[\w.:@+\-=/]+$/.test(t) && t.length < 80);
	p.prose = share((t) => isWriting(t) && !isPath(t));
	p.name = share(isNameLike);
}

/** Up to four words; a short one with a full stop in front is a title or an initial, as a capital letter with one is anywhere; a family's name may come first. */
function isNameLike(text: string): boolean {
	if (isSurnameFirst(text)) return text.length <= 40;
	const plain = text.replace(/^(?:\p{L}{1,4}\.\s)+/u, '').replace(/(?<=\s\p{Lu})\.(?=\s\p{Lu})/gu, '');
	return text.length <= 40 && /^\p{L}/u.test(plain) && plain.split(/\s+/).length <= 4 && !/[.!?…,:;]\s|[!?…]$/u.test(plain);
}

/** The addresses of a list of them (as text, or JSON), or the text itself where it is no such list. */
export function addressesIn(text: string): string[] {
	if (!/[;,|~]/.test(text) && text[0] !== '[') return [text];
	const parts = text
		.replace(/^\[|\]$/g, '')
		.split(/[;,|~]/)
		.map((part) => part.trim().replace(/^"|"$/g, ''))
		.filter((part) => part !== '');
	return parts.length > 0 && parts.every((part) => PHONE.test(part) || EMAIL.test(part)) ? parts : [text];
}

/** A written date with something behind it: "2025/01/14 19h35" is no path. */
const DATED = /^\d{1,4}([./-])\d{1,2}\1\d{1,4}[\sT,]/;
const isPathLike = (t: string): boolean => !isZoneName(t) && isPathWritten(t);
const isPathWritten = (t: string): boolean =>
	(PATH.test(t) && !DATED.test(t) && !MEDIA_TYPE.test(t) && !/\s\S+\s/.test(t)) ||
	ABSOLUTE_PATH.test(t) ||
	((RELATIVE_PATH.test(t) || FILE_NAME.test(t)) && !DATED.test(t));

/** Two words with a full stop between them: a file's name, or a person's (`greta.ferro`). */
const BARE = /^[\p{L}\p{M}\d_-]+\.[\p{L}\p{M}\d]{2,5}$/u;
/** Whether of texts that may be names of files hardly two end alike, or as files do: those of persons. */
function areHandles(texts: readonly string[]): boolean {
	const bare = new Set(texts.filter((t) => BARE.test(t)));
	if (bare.size === 0 || [...bare].some((t) => FILE_NAME.test(t))) return false;
	const endings = new Set([...bare].map((t) => t.slice(t.indexOf('.') + 1)));
	// One or two that end in a long word no kind of file is called by are names already.
	const comeBack = texts.length > bare.size || [...endings].every((e) => e.length > LONG_ENDING);
	return endings.size > bare.size * ENDINGS_DIFFER && comeBack;
}
const ENDINGS_DIFFER = 0.6;
const LONG_ENDING = 3;

/** Writing meant to be read: words with spaces, or a script that has none. */
export function isWriting(text: string): boolean {
	if (/[\u3040-\u30ff\u3400-\u9fff\u0e00-\u0e7f]/.test(text)) return true;
	if (/\p{Extended_Pictographic}/u.test(text)) return true;
	return /\p{L}{2,}[,.!?…:;'’]?\s+\S*[\p{L}\p{N}]/u.test(text) && !/^\s*[[{<]/.test(text);
}

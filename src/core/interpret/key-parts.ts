/**
 * Keys put together of several parts ("message:+447700900123:00017"): a part that recurs says whose the row is, and one
 * that is a time when it was.
 */
import type { Row, Value } from '../model';
import { readTimes } from './time';

/** Rows from which it is told, and share of them that must be made alike. */
const ROWS = 2000;
const LEAST = 8;
/** The same of a table's own keys. */
const LEAST_OWN = 3;
const NEARLY_ALL = 0.95;
const MOSTLY_ONCE = 0.8;
/** Share of the rows up to which different values recur. */
const RECURRING = 0.5;
const SEPARATORS = [':', '/', '|', '#', '~', '_', '!', ';', '\u0000', ' ', '-', '.'] as const;
/** Of these one sets off a word alone: they stand in numbers and in keys by chance, too. */
const WEAK = ['-', '.'];
const MOST_PARTS = 8;
/** A number that a part is; longer ones are times, or numbers of telephones. */
const NUMBER = /^(?:0|[1-9]\d{0,8})$/;

/** A number or an address, as such. */
const ADDRESS = /^\+\d{7,15}$|^[^@\s]+@[^@\s]+\.[^@\s]+$/;

export interface KeyPart {
	column: number;
	/** Its place in the key, from 0. */
	index: number;
	read(row: Row): string | number | undefined;
}

/** How a column's keys are made: the parts of those looked at, and how a row's are taken apart. */
interface Keys {
	separator: string;
	alike: readonly (readonly string[])[];
	partsOf(row: Row): readonly string[] | null;
}

/**
 * The parts of a column's keys that recur, or are whom each is of; null where its values are no such keys, or come twice.
 * `isOwnKey`: it is the table's key; `areWritten`: somebody wrote in the rows, and nothing is called by them.
 */
export function keyParts(rows: readonly Row[], column: number, isOwnKey: boolean, areWritten = true): KeyPart[] | null {
	const keys = keysIn(rows, column, isOwnKey ? LEAST_OWN : LEAST);
	return (
		keys &&
		indexesOf(keys).flatMap((index) => {
			const parts = keys.alike.map((key) => key[index]!);
			const distinct = new Set(parts).size;
			const tells = distinct > 1 && (distinct <= parts.length * RECURRING || parts.every((part) => ADDRESS.test(part)));
			return tells || (isOwnKey && !areWritten && namesItsRows(keys, index)) ? [partOf(keys, column, index)] : [];
		})
	);
}

/** Whether a part is what rows are called by elsewhere: all that a key has behind a word which is the same for all of them. */
function namesItsRows({ separator, alike }: Keys, index: number): boolean {
	if (!PATHS.includes(separator) || index !== 1 || alike[0]!.length !== 2 || alike.length > NAMED_AT_MOST) return false;
	const areNames = alike.every(([word, name]) => word === alike[0]![0] && /\p{L}/u.test(word!) && /\p{L}/u.test(name!));
	return areNames && new Set(alike.map(([, name]) => name)).size === alike.length;
}
const NAMED_AT_MOST = 2000;
const PATHS = ['/', ':', '|', '#'];

/** The part of a column's keys that is a time of each row's own, or null. */
export function timeInKeys(rows: readonly Row[], column: number): KeyPart | null {
	const keys = keysIn(rows, column, LEAST);
	const index = indexesOf(keys).find((i) => {
		const parts = keys!.alike.map((key) => key[i]!);
		return new Set(parts).size > parts.length * RECURRING && readTimes(parts) !== null;
	});
	return index === undefined ? null : partOf(keys!, column, index);
}

const indexesOf = (keys: Keys | null): number[] => [...(keys?.alike[0]?.keys() ?? [])];

function partOf({ alike, partsOf }: Keys, column: number, index: number): KeyPart {
	// What names rows by their numbers does so as a number.
	const areNumbers = alike.every((key) => NUMBER.test(key[index]!));
	const read = (row: Row): string | number | undefined => {
		const part = partsOf(row)?.[index];
		return part !== undefined && areNumbers && NUMBER.test(part) ? Number(part) : part;
	};
	return { column, index, read };
}

/** How nearly all of a column's values are put together, or null. */
function keysIn(rows: readonly Row[], column: number, least: number): Keys | null {
	const inUse = rows.filter((row) => row.standing === 'kept');
	const telling = (inUse.length >= least ? inUse : rows).slice(0, ROWS);
	const stored = telling.flatMap((row) => keyOf(row.values[column]) ?? []);
	// What was edited is there twice, under one key.
	const keys = [...new Set(stored)];
	if (stored.length < Math.max(least, telling.length * NEARLY_ALL) || keys.length < stored.length * MOSTLY_ONCE) return null;
	for (const separator of SEPARATORS) {
		// One row may stand for itself: the owner's own, among persons.
		const first = keys.slice(0, 2).find((key) => key.includes(separator));
		if (first === undefined) continue;
		const split = keys.map((key) => key.split(separator));
		const length = first.split(separator).length;
		const alike = split.filter((parts) => parts.length === length && !parts.some((part) => /\s/.test(part)));
		if (length > MOST_PARTS || alike.length < Math.min(keys.length * NEARLY_ALL, Math.max(LEAST_OWN, keys.length - 1))) continue;
		if (separator === ' ' && areWords(alike)) continue;
		if (WEAK.includes(separator) && !(length === 2 && alike.every(([word]) => word === alike[0]![0] && /^\p{L}+$/u.test(word!)))) continue;
		const partsOf = (row: Row): readonly string[] | null => {
			const parts = keyOf(row.values[column])?.split(separator);
			return parts?.length === length && row.cut !== column ? parts : null;
		};
		return { separator, alike, partsOf };
	}
	return null;
}

/** A key as it is read: bytes as well, where they are letters. */
function keyOf(value: Value | undefined): string | null {
	if (typeof value === 'string') return value === '' ? null : value;
	if (!(value instanceof Uint8Array) || value.length === 0 || value.length > LONGEST || !value.every(isLetter)) return null;
	return String.fromCharCode(...value);
}
const LONGEST = 400;
const isLetter = (byte: number): boolean => byte === 0 || (byte >= 0x20 && byte < 0x7f);

/** Names and sayings have blanks between their words too: of keys all parts have digits, but for a word before them. */
const areWords = (alike: readonly (readonly string[])[]): boolean =>
	[...alike[0]!.keys()].some((i) => {
		const parts = alike.map((key) => key[i]!);
		const isWordBefore = i === 0 && parts.every((part) => part === parts[0]);
		return !isWordBefore && parts.filter((part) => /\d/.test(part)).length < parts.length * NEARLY_ALL;
	});

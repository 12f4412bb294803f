/**
 * Tables that only grow: a message is posted in one row, and later rows of other kinds say what became of it (edited,
 * removed, read, reacted to). Each kind becomes a sheet of its own, as if the program had a table for it.
 */
import type { Row, Table, Value } from '../model';
import { saysWay } from '../way-words';
import { at, jsonOf, openStored, pathsIn, plain } from './stored';

const ROWS = 4000;
const KINDS_AT_MOST = 12;
const LONGEST_WORD = 24;
/** Rows of later kinds from which a table is one of events, and share of them that must name what was posted. */
const LATER_LEAST = 4;
const NAMING = 0.9;
/** Share of the posts that must have a key of their own. */
const ONE_EACH = 0.98;

type Word = string | number;

/** A value of a row: a column's, or one inside the JSON it holds. */
export interface Place {
	column: number;
	path: string[];
}

interface Events {
	kind: number;
	posted: Word;
	/** Where an event names the row it is about, if not by a key that both have. */
	target: Place | null;
	/** Where both have a key: in a column, or within what they hold. */
	key?: Place;
}

export interface EventRows {
	rows: Row[];
	label: string;
	/** Of events after the fact: where they name the row they are about, by its number or key; or by the key that it has in the same place. */
	target?: Place;
	sameKey?: Place;
}

/** A table's rows by the kind of event, the posts first; null where it is no table of events. */
export function eventsOf(rows: readonly Row[], table: Table): EventRows[] | null {
	const found = logIn(rows, table);
	if (!found) return null;
	const kinds = new Map<Word, Row[]>([[found.posted, []]]);
	for (const row of rows) {
		// What lost its kind is looked at as a post.
		const value = wordOf(row.values[found.kind]) ?? found.posted;
		const list = kinds.get(value);
		if (list) list.push(row);
		else kinds.set(value, [row]);
	}
	const { target, key } = found;
	if (!target) {
		const sameKey = (word: Word): Pick<EventRows, 'sameKey'> => (key && AFTERWARDS.test(String(word)) ? { sameKey: key } : {});
		return [...kinds].map(([label, of]) => ({ rows: of, label: String(label), ...(label === found.posted ? {} : sameKey(label)) }));
	}
	// Only what is said of other rows stands apart: the rest is messages, and lines of the program's own.
	const after = [...kinds].filter(([label, of]) => label !== found.posted && isAfterwards(label, of) && areAbout(of, target));
	const apart = new Set(after.map(([label]) => label));
	const posts = [...kinds].flatMap(([label, of]) => (apart.has(label) ? [] : of));
	return [{ rows: posts, label: String(found.posted) }, ...after.map(([label, of]) => ({ rows: of, label: String(label), target }))];
}

/** Whether nearly all rows name another one. */
const areAbout = (rows: readonly Row[], target: Place): boolean =>
	rows.filter((row) => isNaming(valueAt(row, target))).length >= rows.length * NAMING;

function logIn(rows: readonly Row[], table: Table): Events | null {
	const sure: Row[] = [];
	for (const row of rows) {
		if (row.standing === 'kept') sure.push(row);
		if (sure.length === ROWS) break;
	}
	if (sure.length < 2 * LATER_LEAST) return null;
	const columns = [...table.columns.keys()].filter((c) => c !== table.rowidColumn);
	// Properties of persons stand in rows of their kinds as well: events have a time each.
	if (!columns.some((c) => growsIn(sure, c))) return null;
	for (const kind of columns) {
		const words = wordsIn(sure, kind);
		if (!words) continue;
		const areNumbers = [...words].every((word) => typeof word === 'number');
		for (const key of columns.filter((c) => c !== kind)) {
			// Numbers are kinds of anything, and numbers keys of anything.
			if (areNumbers && (sure.some((row) => typeof row.values[key] === 'number') || countWithin(sure, kind, key))) continue;
			const place = { column: key, path: [] };
			const posted = postsOf(sure, kind, place, words);
			if (posted !== null) return { kind, posted, target: null, key: place };
		}
		// An event that is kept whole can have the key in what it holds.
		for (const key of columns.filter((c) => c !== kind).flatMap((c) => placesInside(sure, c))) {
			const posted = areNumbers ? null : postsOf(sure, kind, key, words);
			if (posted !== null) return { kind, posted, target: null, key };
		}
		// What is only answered to by signs is read as it stands: nothing changes it.
		if (![...words].some((word) => CHANGES.test(String(word)))) continue;
		const others = columns.filter((c) => c !== kind);
		const targets = [...others.map((column): Place => ({ column, path: [] })), ...others.flatMap((c) => placesInside(sure, c))];
		for (const posted of words)
			for (const target of targets) if (isNamedAfter(sure, { kind, posted, target }, others, words)) return { kind, posted, target };
	}
	return null;
}

/** Whether numbers count the rows of each key: those of a conversation's messages, and no kinds. */
function countWithin(rows: readonly Row[], number: number, key: number): boolean {
	const numbers = new Map<Value, Set<Value>>();
	for (const { values } of rows) {
		const known = numbers.get(values[key]!) ?? new Set();
		numbers.set(values[key]!, known);
		if (known.has(values[number]!)) return false;
		known.add(values[number]!);
	}
	const highest = (of: ReadonlySet<Value>): number => Math.max(...[...of].map(Number));
	const counted = [...numbers.values()].filter((of) => of.size >= COUNTED_LEAST && highest(of) <= of.size * COUNTED);
	return counted.length > 1;
}
const COUNTED_LEAST = 3;
/** Numbers of rows that are gone are passed over. */
const COUNTED = 1.5;

/** The values inside what a column holds, where that is JSON. */
function placesInside(rows: readonly Row[], column: number): Place[] {
	const sample = rows.slice(0, OPENED).filter((row) => jsonOf(row.values[column]) !== undefined);
	if (sample.length < Math.min(rows.length, OPENED) / 2) return [];
	return pathsIn(sample.map((row) => openStored(row, column, { kind: 'json' }))).map((path) => ({ column, path }));
}
const OPENED = 400;

const valueAt = (row: Row, { column, path }: Place): Value | undefined =>
	path.length === 0 ? row.values[column] : plain(at(openStored(row, column, { kind: 'json' }), path));

/** Whether a kind of event that comes after the fact names an earlier post each time, and posts seldom name anything there. */
function isNamedAfter(
	rows: readonly Row[],
	{ kind, posted, target }: Events & { target: Place },
	columns: readonly number[],
	words: ReadonlySet<Word>
): boolean {
	const posts = rows.filter((row) => row.values[kind] === posted);
	const isEmpty = (row: Row): boolean => !isNaming(valueAt(row, target));
	if (posts.length < LATER_LEAST || posts.filter(isEmpty).length < posts.length * ANSWERS) return false;
	const keysOf = (of: readonly Row[], column: number | null): Map<Value, number> =>
		new Map(
			of.flatMap((row): [Value, number][] => {
				const key = column === null ? Number(row.rowid ?? NaN) : row.values[column];
				return isKey(key) ? [[key!, Number(row.rowid ?? NaN)]] : [];
			})
		);
	const keyed = [null, ...columns.filter((c) => c !== target.column || target.path.length > 0)]
		.map((column) => ({ posted: keysOf(posts, column), all: keysOf(rows, column) }))
		.filter((keys) => keys.posted.size >= posts.length * ONE_EACH);
	return [...words].some((word) => {
		const later = rows.filter((row) => row.values[kind] === word);
		if (word === posted || later.length < LATER_LEAST || !isAfterwards(word, later)) return false;
		if (!areSpread(later.map((row) => valueAt(row, target) ?? ''))) return false;
		return keyed.some((keys) => {
			// What an event is about may have been deleted since.
			const known = later.filter((row) => keys.all.has(valueAt(row, target) ?? ''));
			const naming = known.filter((row) => (keys.posted.get(valueAt(row, target)!) ?? NaN) < Number(row.rowid ?? NaN));
			return known.length >= later.length * THERE && naming.length >= known.length * NAMING;
		});
	});
}
/** Whether values are those of many rows, one after the other: persons and rooms are named again and again. */
function areSpread(values: readonly Value[]): boolean {
	if (new Set(values).size < Math.max(LATER_LEAST, values.length * SPREAD)) return false;
	if (values.some((v) => typeof v !== 'number')) return true;
	return values.filter((v, i) => i > 0 && v! >= values[i - 1]!).length >= (values.length - 1) * ORDERED;
}
const SPREAD = 0.5;
const ORDERED = 0.7;

/** Share of the events whose row must still be there. */
const THERE = 0.5;
/** Share of the posts that name no other. */
const ANSWERS = 0.5;

const isNaming = (value: Value | undefined): boolean => value !== null && value !== undefined && value !== '' && value !== 0;

/** Whether a column's values differ, and mostly grow from row to row: a time. */
function growsIn(rows: readonly Row[], column: number): boolean {
	const values = rows.map((row) => row.values[column]);
	if (!values.every((v) => (typeof v === 'number' ? v > LEAST_TIME : typeof v === 'string' && /^\d/.test(v)))) return false;
	const grown = values.filter((v, i) => i > 0 && v! >= values[i - 1]!).length;
	return new Set(values).size > rows.length / 2 && grown >= (rows.length - 1) * NAMING;
}
const LEAST_TIME = 1e8;

/** The few words of a column of kinds, one in every row. */
function wordsIn(rows: readonly Row[], column: number): Set<Word> | null {
	const words = new Set<Word>();
	for (const row of rows) {
		const word = wordOf(row.values[column]);
		if (word === null || words.add(word).size > KINDS_AT_MOST) return null;
	}
	return words.size > 1 && ![...words].some((word) => saysWay(String(word))) ? words : null;
}

const wordOf = (value: Value | undefined): Word | null =>
	typeof value === 'number' || (typeof value === 'string' && value !== '' && value.length <= LONGEST_WORD && !/\s/.test(value))
		? value
		: null;

/** The kind of which each row has a key of its own that the rows of all other kinds name, several of them again. */
function postsOf(rows: readonly Row[], kind: number, key: Place, words: ReadonlySet<Word>): Word | null {
	const keyOf = new Map(rows.map((row) => [row, valueAt(row, key)]));
	// Within what an event holds a short word can be a key, too.
	const canBeKey = (value: Value | undefined): value is Value => (key.path.length > 0 ? isNaming(value) : isKey(value));
	for (const posted of words) {
		const posts = rows.filter((row) => row.values[kind] === posted);
		if (posts.length < LATER_LEAST) continue;
		const keys = new Set(posts.map((row) => keyOf.get(row)).filter(canBeKey));
		if (keys.size < posts.length * ONE_EACH) continue;
		const named = new Set(rows.flatMap((row) => (keys.has(keyOf.get(row)!) ? [row.values[kind]] : [])));
		const others = rows.filter((row) => row.values[kind] !== posted);
		// One that is called a change, and names a post by a long key, says it; what names none is of other things then.
		const areChanges = [...named].every((word) => word === posted || CHANGES.test(String(word))) && [...keys].every(isLongKey);
		const later = areChanges ? others.filter((row) => named.has(row.values[kind])) : others;
		const naming = later.filter((row) => keys.has(keyOf.get(row)!));
		// Words after the fact: what an event names was posted before it.
		if (later.length < (areChanges ? 1 : LATER_LEAST) || naming.length < later.length * NAMING || !followPosts(posts, naming, keyOf))
			continue;
		// Conversations are counted alike too, and in each of them somebody writes.
		const saysAfter = (word: Word): boolean => {
			const of = later.filter((row) => row.values[kind] === word);
			return isAfterwards(word, of) && (AFTERWARDS.test(String(word)) || !countsByItself(of, keyOf));
		};
		if ([...words].some((word) => word !== posted && saysAfter(word))) return posted;
	}
	return null;
}

/** Whether a kind of event is something that becomes of a message: called so, or without a word. */
const isAfterwards = (word: Word, rows: readonly Row[]): boolean =>
	AFTERWARDS.test(String(word)) ||
	!rows.some((row) => row.values.some((value) => typeof value === 'string' && /\p{L}\s+\p{L}/u.test(value)));
const CHANGES = /edit|chang|updat|revis|amend|correct|replac|delet|remov|retract|revok|redact|unsend/i;
const AFTERWARDS = new RegExp(`${CHANGES.source}|react|read|seen|deliver|receipt`, 'i');

/** Whether the rows are numbered 1, 2, 3 …: by a table of their own. Some stand there from other captures as well. */
function countsByItself(rows: readonly Row[], keyOf: Keys): boolean {
	const numbers = rows.toSorted((a, b) => Number(a.rowid ?? 0) - Number(b.rowid ?? 0)).map((row) => Number(keyOf.get(row)));
	const rises = numbers.every((n, i) => n >= (numbers[i - 1] ?? 0));
	return rises && numbers.at(-1)! <= Math.max(LATER_LEAST, new Set(numbers).size) * COUNTED;
}

const isKey = (value: Value | undefined): boolean => (typeof value === 'string' ? value.length > 5 : typeof value === 'number');

const isLongKey = (value: Value | undefined): boolean => typeof value === 'string' && value.length >= LONG_KEY;
const LONG_KEY = 16;

/** By what each row is known, or names another. */
type Keys = ReadonlyMap<Row, Value | undefined>;

/** Whether (nearly) all rows stand behind those that they name. */
function followPosts(posts: readonly Row[], later: readonly Row[], keyOf: Keys): boolean {
	const at = new Map(posts.map((row) => [keyOf.get(row), Number(row.rowid ?? NaN)]));
	const told = later.filter((row) => Number(row.rowid ?? NaN) > (at.get(keyOf.get(row)) ?? NaN));
	return told.length >= later.length * NAMING;
}

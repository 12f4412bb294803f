/**
 * Messages of which a table keeps what they said before in rows of their own: with each edit one more row, which has the
 * message's key as well (a document's revisions), or names the row that counts. The rows that no longer count become a sheet
 * of their own, as if the program had a table for them.
 */
import { shareWithin } from '../likeness';
import type { Row, Table, Value } from '../model';
import { jsonOf } from './stored';
import { parseTimeText } from './time';

/** Rows from which it is told; rows of one message, at most; messages that must have several, at least. */
const SAMPLED = 20_000;
const WRITING_SOUGHT = 200;
const VERSIONS_AT_MOST = 40;
const EDITED_LEAST = 2;
/** Share of the messages that can have several rows, and of those that name another. */
const EDITED_MOST = 0.5;
/** Share of the pairs that must be of one time, and share of those with other writing that must be alike. */
const SAME_TIME = 0.95;
const ALIKE_PAIRS = 0.6;
/** How much of the shorter wording is in the longer one. */
const ALIKE = 0.5;
/** Numbers that can be times of the last decades: in seconds, ms and µs, of whatever epoch. How deep documents are looked into. */
const TIMES = [
	[2e8, 2.2e9],
	[2e11, 2.2e12],
	[2e14, 2.2e15]
] as const;
const DEEPEST = 3;
const FIELDS_AT_MOST = 64;

export interface Versions {
	current: Row[];
	earlier: Row[];
	/** The columns by which an earlier row names the one that counts; null for that one's record number. */
	names: { from: number; key: number | null };
}

type Key = string | number;
type Pair = readonly [earlier: Row, current: Row];

/**
 * The rows that count and those that did before; null where none are of one message. `rows`: those of other captures of the
 * store too, which say as well how it keeps them; `own`: rows of the store itself.
 */
export function versionsWithin(rows: readonly Row[], own: ReadonlySet<Row>, table: Table): Versions | null {
	const kept = rows.filter((row) => row.standing === 'kept');
	const used = eachOnce(kept).slice(0, SAMPLED);
	if (used.length < 2 * EDITED_LEAST || !used.slice(0, WRITING_SOUGHT).some(hasWriting)) return null;
	const columns = [...table.columns.keys()].filter((c) => c !== table.rowidColumn);
	const ownKept = kept.filter((row) => own.has(row));
	for (const column of columns) {
		// Two can be written at one time.
		if (isTime(used[0]!.values[column] ?? null)) continue;
		const last = lastOfEach(used, column);
		if (!last || !areVersions(pairsBy(used, (row) => last.get(keyIn(row, column) ?? '')))) continue;
		const current = lastBy(ownKept, column);
		return parted(rows, { from: column, key: column }, (row) => current.get(keyIn(row, column) ?? ''));
	}
	const names = namedRows(used, columns, table);
	if (!names) return null;
	const current = rowsByKey(ownKept, names.key);
	return parted(rows, names, (row) => current.get(keyIn(row, names.from) ?? ''));
}

/** Rows of several captures, each once. */
const eachOnce = (rows: readonly Row[]): Row[] => [...new Map(rows.map((row) => [row.rowid ?? row, row])).values()];

/** Rows by whether they are what counts of their message. */
function parted(rows: readonly Row[], names: Versions['names'], currentOf: (row: Row) => Row | undefined): Versions {
	const found: Versions = { current: [], earlier: [], names };
	for (const row of rows) {
		const current = currentOf(row);
		(current && current.rowid !== row.rowid ? found.earlier : found.current).push(row);
	}
	return found;
}

/** The last row of each key that a column has. */
function lastBy(rows: readonly Row[], column: number): Map<Key, Row> {
	const last = new Map<Key, Row>();
	for (const row of rows) {
		const key = keyIn(row, column);
		const known = key === null ? undefined : last.get(key);
		if (key !== null && (!known || Number(row.rowid) > Number(known.rowid))) last.set(key, row);
	}
	return last;
}

/** As above, where a few keys come again; null where none do, or too many. */
function lastOfEach(rows: readonly Row[], column: number): Map<Key, Row> | null {
	if (rows.some((row) => keyIn(row, column) === null)) return null;
	const last = lastBy(rows, column);
	const more = rows.length - last.size;
	return more >= EDITED_LEAST && more <= last.size * EDITED_MOST ? last : null;
}

/** Rows by their key; `key`: its column, null for the record number. */
function rowsByKey(rows: readonly Row[], key: number | null): Map<Key, Row> {
	const found = new Map<Key, Row>();
	for (const row of rows) {
		const own = key === null ? numberOf(row) : keyIn(row, key);
		if (own !== null) found.set(own, row);
	}
	return found;
}

function pairsBy(rows: readonly Row[], currentOf: (row: Row) => Row | undefined): Pair[] | null {
	const times = new Map<Row, number>();
	const pairs: Pair[] = [];
	for (const row of rows) {
		const current = currentOf(row);
		if (!current || current === row) continue;
		const n = (times.get(current) ?? 0) + 1;
		if (n > VERSIONS_AT_MOST) return null;
		times.set(current, n);
		pairs.push([row, current]);
	}
	return pairs;
}

/** The columns by which rows name others of their table as what counts in their place. */
function namedRows(rows: readonly Row[], columns: readonly number[], table: Table): Versions['names'] | null {
	const keys = columns.filter((c) => table.primaryKey.length === 1 && table.primaryKey[0] === c);
	for (const key of [...keys, null]) {
		const byKey = rowsByKey(rows, key);
		for (const from of columns) {
			if (from === key) continue;
			const naming = rows.filter((row) => (keyIn(row, from) ?? 0) !== 0);
			if (naming.length === 0 || naming.length > rows.length * EDITED_MOST) continue;
			const named = (row: Row): Row | undefined => byKey.get(keyIn(row, from) ?? '');
			// What counted can be deleted, and what it said before left.
			const left = naming.filter((row) => named(row) === undefined).length;
			if (left <= naming.length * LEFT && areVersions(pairsBy(naming, named), ORIGINAL_NAMED.test(table.columns[from]!.name)))
				return { from, key };
		}
	}
	return null;
}
const LEFT = 0.3;
/** What names the row that counts: there an edit can leave nothing of what was said. */
const ORIGINAL_NAMED = /origin|edit|revis|version|replac|supersed|previous|amend|correct/i;

/** Whether the two of each pair are of one time, and say alike where not the same; `isNamed`: no matter what they say. */
function areVersions(pairs: readonly Pair[] | null, isNamed = false): boolean {
	if (!pairs || pairs.length === 0) return false;
	let [same, other, alike] = [0, 0, 0];
	for (const [earlier, current] of pairs.slice(0, SAMPLED / 100)) {
		const [a, b] = [fieldsOf(earlier), fieldsOf(current)];
		if ([...a].some(([field, value]) => isTime(value) && b.get(field) === value)) same++;
		const wordings = [...a].flatMap(([field, value]) => {
			const now = b.get(field);
			return typeof value === 'string' && typeof now === 'string' && value !== '' && now !== '' && value !== now && isWriting(value, now)
				? [{ value, now }]
				: [];
		});
		if (wordings.length > 0) other++;
		if (wordings.some(({ value, now }) => shareWithin(value, now) >= ALIKE)) alike++;
	}
	const seen = Math.min(pairs.length, SAMPLED / 100);
	// What is called for it can be of the time of each edit.
	const isOfOneTime = same >= seen * SAME_TIME;
	if (other === 0 || (!isOfOneTime && !isNamed)) return false;
	if (!isOfOneTime) return other >= seen * ALIKE_PAIRS && alike >= other * ALIKE_PAIRS;
	return followOn(pairs) || (other >= seen * ALIKE_PAIRS && (isNamed || alike >= other * ALIKE_PAIRS));
}

/** Whether the earlier one of each pair ends at the very time at which the other begins, which has no end: whatever they say. */
function followOn(pairs: readonly Pair[]): boolean {
	const seen = pairs.slice(0, SAMPLED / 100);
	const [first] = seen;
	if (!first || seen.length < EDITED_LEAST) return false;
	const ends = (end: number, begin: number): boolean =>
		seen.filter(([{ values: a }, { values: b }]) => isTime(a[end] ?? null) && a[end] === b[begin] && isNothing(b[end])).length >=
		seen.length * SAME_TIME;
	const [earlier, current] = first;
	const columns = [...earlier.values.keys()];
	return columns.some((end) => isNothing(current.values[end]) && columns.some((begin) => begin !== end && ends(end, begin)));
}
const isNothing = (value: Value | undefined): boolean => value === null || value === undefined || value === 0 || value === '';

/** What a row says: its values, and those in its documents. */
function fieldsOf(row: Row): Map<string, Value> {
	const found = new Map<string, Value>();
	for (const [column, value] of row.values.entries()) {
		const document = jsonOf(value);
		if (document && typeof document === 'object') collect(document, String(column), found, 0);
		else if (value !== null && value !== undefined) found.set(String(column), value);
	}
	return found;
}

function collect(value: unknown, path: string, into: Map<string, Value>, depth: number): void {
	if (into.size >= FIELDS_AT_MOST || depth > DEEPEST) return;
	if (typeof value === 'string' || typeof value === 'number') into.set(path, value);
	else if (value && typeof value === 'object' && !Array.isArray(value))
		for (const [key, inner] of Object.entries(value)) collect(inner, `${path}.${key}`, into, depth + 1);
}

const isTime = (value: Value | null): boolean =>
	typeof value === 'number'
		? TIMES.some(([from, to]) => value >= from && value <= to)
		: typeof value === 'string' && parseTimeText(value) !== null;

/** Whether one of two wordings is more than a key: words with blanks, or in letters beyond those of keys. */
const isWriting = (a: string, b: string): boolean => [a, b].some((text) => /\p{L}.*\s.*\p{L}|[^\x00-\x7f]/su.test(text));

const hasWriting = (row: Row): boolean => [...fieldsOf(row).values()].some((value) => typeof value === 'string' && isWriting(value, ''));

const numberOf = (row: Row): Key | null => (typeof row.rowid === 'number' ? row.rowid : null);

function keyIn(row: Row, column: number): Key | null {
	const value = row.values[column];
	return (typeof value === 'string' && value !== '') || typeof value === 'number' ? value : null;
}

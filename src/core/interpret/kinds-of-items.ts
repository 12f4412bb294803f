/**
 * Entries of several kinds in one list of an export: messages, and among them who joined, reactions, calls. A word says of
 * which kind each is; those in which never anything is written, and which state no file, are no messages.
 */
import { FILE_COLUMN } from '../harvest';
import type { Row, Table, Value } from '../model';
import { FILE_NAME } from './profile';

/** Entries from which it is told, fewest of them, and kinds at most. */
const ROWS = 4000;
const LEAST = 4;
const KINDS_AT_MOST = 12;
const LONGEST_WORD = 32;
/** Entries that a kind has, on average: what differs from entry to entry is none. */
const ENTRIES_OF_A_KIND = 3;
/** Share of a kind's entries that have the text, where it is one of messages. */
const MOSTLY = 0.5;
const STATES_FILES = /file|photo|picture|image|media|attach|url|uri|path|mime|sticker|voice|video|audio|document/i;

/** The entries of an export's list that are no messages by their kind; `text`: the column of what was written. */
export function otherItems(rows: readonly Row[], text: number, table: Table): ReadonlySet<Row> {
	const none = new Set<Row>();
	if (rows.length < LEAST || text < 0 || rows[0]!.sightings[0]?.method !== 'exported') return none;
	const sample = rows.slice(0, ROWS);
	for (const kind of table.columns.keys()) {
		const words = kind === text ? null : wordsIn(sample, kind);
		if (!words) continue;
		const of = (word: string): Row[] => sample.filter((row) => row.values[kind] === word);
		const apart = [...words].filter((word) => isApart(of(word), sample, text, table));
		const areMessages = (entries: readonly Row[]): boolean =>
			entries.filter((row) => isThere(row.values[text])).length >= entries.length * MOSTLY;
		if (apart.length === 0 || ![...words].some((word) => !apart.includes(word) && areMessages(of(word)))) continue;
		const away = new Set<Value | undefined>(apart);
		return new Set(rows.filter((row) => away.has(row.values[kind])));
	}
	return none;
}

/** Whether entries have never a text nor a file, but say something that those with a text do not. */
function isApart(of: readonly Row[], all: readonly Row[], text: number, table: Table): boolean {
	if (of.some((row) => isThere(row.values[text]))) return false;
	const fields = [...table.columns.keys()].filter(
		(c) => table.columns[c]!.name !== FILE_COLUMN && of.some((row) => isThere(row.values[c]))
	);
	const states = (c: number): boolean =>
		STATES_FILES.test(table.columns[c]!.name) || of.some((row) => typeof row.values[c] === 'string' && FILE_NAME.test(row.values[c]));
	if (fields.some(states)) return false;
	const written = all.filter((row) => isThere(row.values[text]));
	return fields.some((c) => written.every((row) => !isThere(row.values[c])));
}

/** The words of a column that has one of a few in each entry. */
function wordsIn(rows: readonly Row[], column: number): Set<string> | null {
	const words = new Set<string>();
	for (const row of rows) {
		const value = row.values[column];
		if (typeof value !== 'string' || value === '' || value.length > LONGEST_WORD || /\s/.test(value)) return null;
		words.add(value);
		if (words.size > KINDS_AT_MOST) return null;
	}
	return words.size > 1 && words.size * ENTRIES_OF_A_KIND <= rows.length ? words : null;
}

const isThere = (value: Value | undefined): boolean => value !== undefined && value !== null && value !== '';

/**
 * Entries of several kinds in one list of an export: messages, and among them who joined, reactions, calls. A word says of
 * which kind each is; those in which never anything is written, and which state no file, stand apart from the messages.
 */
import { FILE_COLUMN } from '../harvest';
import type { Row, Table, Value } from '../model';
import { FILE_NAME } from './profile';

/** Entries, share of them that must be in sentences where they are written, and kinds at most. */
const ROWS = 4000;
const LEAST = 4;
const WRITTEN = 0.3;
const KINDS_AT_MOST = 12;
const LONGEST_WORD = 32;
/** Share of a kind's entries that have the text, where it is one of messages. */
const MOSTLY = 0.5;
const STATES_FILES = /file|photo|picture|image|media|attach|url|uri|path|mime|sticker|voice|video|audio|document/i;

export interface ItemKind {
	rows: Row[];
	label: string;
}

/** The entries of an export by kind, the messages first; null where all are of one. */
export function kindsOfItems(rows: readonly Row[], table: Table): ItemKind[] | null {
	if (rows.length < LEAST || rows[0]!.sightings[0]?.method !== 'exported') return null;
	const sample = rows.slice(0, ROWS);
	const columns = [...table.columns.keys()];
	const text = columns
		.map((c) => ({ c, written: sample.filter((row) => isWriting(row.values[c])).length }))
		.sort((a, b) => b.written - a.written)[0];
	if (!text || text.written === 0) return null;
	const filled = sample.filter((row) => isThere(row.values[text.c])).length;
	if (text.written < filled * WRITTEN) return null;
	for (const kind of columns) {
		if (kind === text.c) continue;
		const words = wordsIn(sample, kind);
		const apart =
			words &&
			[...words].filter((word) =>
				isApart(
					sample.filter((row) => row.values[kind] === word),
					sample,
					text.c,
					table
				)
			);
		if (!apart || apart.length === 0) continue;
		const others = words.size - apart.length;
		const isMessages = (word: Value): boolean => {
			const of = sample.filter((row) => row.values[kind] === word);
			return of.filter((row) => isThere(row.values[text.c])).length >= of.length * MOSTLY;
		};
		if (others === 0 || ![...words].some(isMessages)) continue;
		const away = new Set<Value | undefined>(apart);
		return [
			{ rows: rows.filter((row) => !away.has(row.values[kind])), label: '' },
			...apart.map((word) => ({ rows: rows.filter((row) => row.values[kind] === word), label: word }))
		];
	}
	return null;
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
	return words.size > 1 ? words : null;
}

const isThere = (value: Value | undefined): boolean => value !== undefined && value !== null && value !== '';
const isWriting = (value: Value | undefined): boolean => typeof value === 'string' && /\p{L}\s+\p{L}/u.test(value);

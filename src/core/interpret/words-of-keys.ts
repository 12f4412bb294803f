/**
 * Entries of several kinds in one table of keys and values, told by what their keys begin with (`msg:`, `!people!`): what is
 * no document (an index, a counter) stands apart from what is.
 */
import type { Row, Table } from '../model';
import { fieldsOfDocuments, haveAlike, kindsOfDocuments } from './kinds-of-documents';

/** What a key begins with: a word, set off from what follows, or with a number behind it. */
const WORD = /^[!/_.#~:]*(?:(\p{L}[\p{L}\d-]{0,30})[\p{P}\p{S}\0]|(\p{L}{1,30})\d{4,}$)/u;
const MOST_WORDS = 24;
const MOST_FIRST_BYTES = 8;
/** Share of the keys that must begin with words that come again, and how often one comes. */
const MOSTLY = 0.9;
const AGAIN = 2;

interface Entries {
	rows: Row[];
	label: string;
}

/** Rows of one table by the words of their keys, and those of one word by their documents. */
export const kindsOfEntries = (rows: Row[], table: Table): Entries[] =>
	byWord(rows, table).flatMap((group) =>
		kindsOfDocuments(group.rows, table).map((kind) => ({ ...kind, label: [group.label, kind.label].filter((l) => l !== '').join(', ') }))
	);

function byWord(rows: Row[], table: Table): Entries[] {
	const whole = [{ rows, label: '' }];
	const [key, ...more] = table.primaryKey;
	if (key === undefined || more.length > 0 || key === table.rowidColumn) return whole;
	const areBytes = (row: Row): boolean => row.values[key] instanceof Uint8Array;
	const [texts, bytes] = [rows.filter((row) => !areBytes(row)), rows.filter(areBytes)];
	const kinds = [
		...groupsBy(texts, (row) => row.values[key], wordOf, MOST_WORDS),
		...groupsBy(bytes, (row) => String(row.values[key]), firstOf, MOST_FIRST_BYTES)
	];
	return kinds.length > 1 ? joined(kinds, table) : whole;
}

/** Rows by what their keys begin with, where nearly all begin with one of a few; else all as one. */
function groupsBy(rows: Row[], keyOf: (row: Row) => unknown, beginOf: (key: unknown) => string, most: number): Entries[] {
	const groups = new Map<string, { rows: Row[]; keys: Set<unknown> }>();
	const keys = new Set<unknown>();
	for (const row of rows) {
		const key = keyOf(row);
		const begin = beginOf(key);
		const own = groups.get(begin) ?? { rows: [], keys: new Set() };
		groups.set(begin, own);
		own.rows.push(row);
		// A key that is written again and again is one all the same.
		own.keys.add(key);
		keys.add(key);
	}
	const again = [...groups].filter(([begin, own]) => begin !== '' && own.keys.size >= AGAIN);
	const covered = again.reduce((sum, [, own]) => sum + own.keys.size, 0);
	if (again.length === 0 || again.length > most || covered < keys.size * MOSTLY) return rows.length > 0 ? [{ rows, label: '' }] : [];
	const others = [...groups].filter(([begin]) => !again.some(([word]) => word === begin)).flatMap(([, own]) => own.rows);
	return [...again.map(([label, own]) => ({ rows: own.rows, label })), ...(others.length > 0 ? [{ rows: others, label: '' }] : [])];
}

function wordOf(key: unknown): string {
	const found = typeof key === 'string' ? WORD.exec(key) : null;
	return found?.[1] ?? found?.[2] ?? '';
}

/** The first byte of a key of bytes (its numbers, written out), as a letter where it is one. */
function firstOf(key: unknown): string {
	const first = Number.parseInt(key as string, 10);
	return first > 0x20 && first < 0x7f ? String.fromCharCode(first) : Number.isNaN(first) ? '' : `byte ${first}`;
}

/** Words whose documents are made alike are one kind: those of each conversation may begin with its name. */
function joined(groups: readonly Entries[], table: Table): Entries[] {
	const kinds: (Entries & { fields: Set<string> | null })[] = [];
	for (const { label, rows } of groups) {
		const fields = fieldsOfDocuments(rows.slice(0, LOOKED_AT), table);
		const same = fields && kinds.find((k) => k.fields && haveAlike(fields, k.fields));
		if (same) same.rows.push(...rows);
		else kinds.push({ label, rows: [...rows], fields });
	}
	return kinds;
}
const LOOKED_AT = 200;

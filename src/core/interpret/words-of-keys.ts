/**
 * Entries of several kinds in one table of keys and values, told by what their keys begin with (`msg:`, `!people!`): what is
 * no document (an index, a counter) stands apart from what is.
 */
import type { Row, Table } from '../model';
import { fieldsOfDocuments, haveAlike, kindsOfDocuments } from './kinds-of-documents';

/** What a key begins with: a word, set off from what follows. */
const WORD = /^[!/_.#~:]*(\p{L}[\p{L}\d-]{0,30})[\p{P}\p{S}\0]/u;
const MOST_WORDS = 24;
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
	const groups = new Map<string, Row[]>();
	for (const row of rows) {
		const word = wordOf(row.values[key]);
		groups.set(word, [...(groups.get(word) ?? []), row]);
		if (groups.size > MOST_WORDS * 4) return whole;
	}
	const again = [...groups].filter(([word, own]) => word !== '' && own.length >= AGAIN);
	const covered = again.reduce((sum, [, own]) => sum + own.length, 0);
	if (again.length < 2 || again.length > MOST_WORDS || covered < rows.length * MOSTLY) return whole;
	const others = [...groups].filter(([word, own]) => word === '' || own.length < AGAIN).flatMap(([, own]) => own);
	return [...joined(again, table), ...(others.length > 0 ? [{ rows: others, label: '' }] : [])];
}

function wordOf(key: unknown): string {
	return typeof key === 'string' ? (WORD.exec(key)?.[1] ?? '') : '';
}

/** Words whose documents are made alike are one kind: those of each conversation may begin with its name. */
function joined(groups: readonly [string, Row[]][], table: Table): Entries[] {
	const kinds: (Entries & { fields: Set<string> | null })[] = [];
	for (const [label, rows] of groups) {
		const fields = fieldsOfDocuments(rows.slice(0, LOOKED_AT), table);
		const same = fields && kinds.find((k) => k.fields && haveAlike(fields, k.fields));
		if (same) same.rows.push(...rows);
		else kinds.push({ label, rows: [...rows], fields });
	}
	return kinds;
}
const LOOKED_AT = 200;

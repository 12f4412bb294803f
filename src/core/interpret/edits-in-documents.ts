/**
 * Rows that are documents, and some of which say within them that they change another row of the table: a word for it, and
 * beside that the other one's key. However few, they become a sheet of their own, as events after the fact do.
 */
import type { Row, Table, Value } from '../model';
import type { EventRows, Place } from './event-log';
import { at, jsonOf, openStored, pathsIn, plain } from './stored';

const ROWS = 4000;
const LEAST = 4;
/** Rows from which it is told whether a column holds documents. */
const SAMPLED = 60;
/** Share of the rows that must be documents; and of them that may change another, and of those that must name one there before. */
const MOSTLY = 0.8;
const CHANGING = 0.4;
const NAMING = 0.5;
/** Share of the rows that have a key of their own: a row that was seen twice has it twice. */
const EACH_ITS_OWN = 0.7;
const KEY_LONG = 6;
const CHANGED = /^(?:\w+[._-])?(?:edit|chang|updat|revis|amend|correct|replac)\w*$/i;

/** A table's rows, those that change others apart; null where there are none such. */
export function editsInDocuments(rows: readonly Row[], table: Table): EventRows[] | null {
	// What was changed may be lost, with what changed it.
	const [kept, lost] = [rows.filter((row) => row.standing === 'kept').slice(0, ROWS), rows.filter((row) => row.standing !== 'kept')];
	if (kept.length < LEAST) return null;
	for (const column of table.columns.keys()) {
		const sample = kept.slice(0, SAMPLED);
		if (sample.filter((row) => jsonOf(row.values[column]) !== undefined).length < sample.length * MOSTLY) continue;
		const found = targetIn([...kept, ...lost.slice(0, ROWS)], column, table);
		if (!found) continue;
		const isChange = (row: Row): boolean => isWord(valueAt(row, found.word)) && isKey(valueAt(row, found.target));
		const [changes, posts] = [rows.filter(isChange), rows.filter((row) => !isChange(row))];
		return [
			{ rows: posts, label: '' },
			{ rows: changes, label: 'changes', target: found.target }
		];
	}
	return null;
}

const isWord = (value: Value | undefined): boolean => typeof value === 'string' && CHANGED.test(value);
const isKey = (value: Value | undefined): value is string => typeof value === 'string' && value.length >= KEY_LONG;

const valueAt = (row: Row, { column, path }: Place): Value | undefined => plain(at(openStored(row, column, { kind: 'json' }), path));

/** Where the word stands, and the key of the row that is changed, which lies before. */
function targetIn(rows: readonly Row[], column: number, table: Table): { word: Place; target: Place } | null {
	const opened = new Map(rows.map((row) => [row, openStored(row, column, { kind: 'json' })]));
	const places = pathsIn([...opened.values()]).filter((path) => path.length > 1);
	const inside = (row: Row, path: readonly string[]): Value | undefined => plain(at(opened.get(row), path));
	for (const word of places) {
		const changes = rows.filter((row) => isWord(inside(row, word)));
		if (changes.length === 0 || changes.length > rows.length * CHANGING) continue;
		const parent = word.slice(0, -1).join('\0');
		for (const target of places.filter((path) => path !== word && path.slice(0, -1).join('\0') === parent)) {
			const named = changes.map((row) => ({ row, key: inside(row, target) }));
			if (named.every(({ key }) => isKey(key)) && nameEarlier(named, rows, table, column))
				return { word: { column, path: word }, target: { column, path: target } };
		}
	}
	return null;
}

/** Whether rows name others of the table by a key of theirs, which lie before them; what was changed may be gone. */
function nameEarlier(
	named: readonly { row: Row; key: Value | undefined }[],
	rows: readonly Row[],
	table: Table,
	documents: number
): boolean {
	for (const column of table.columns.keys()) {
		if (column === documents) continue;
		const byKey = new Map(rows.map((row) => [row.values[column], row]));
		if (byKey.size < rows.length * EACH_ITS_OWN) continue;
		const known = named.flatMap(({ row, key }) => (byKey.has(key!) ? [{ row, of: byKey.get(key!)! }] : []));
		if (known.length < named.length * NAMING || known.length === 0) continue;
		if (known.every(({ row, of }) => row.rowid === null || of.rowid === null || of.rowid < row.rowid)) return true;
	}
	return false;
}

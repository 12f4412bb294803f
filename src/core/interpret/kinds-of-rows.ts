/**
 * A table that holds everything a program keeps: persons, rooms and messages, with a word for what each row is, and columns
 * that name other rows of the same table. Each kind becomes a sheet of its own; those in which people write stay together.
 */
import type { Row, Table, Value } from '../model';
import { FILE_NAME } from './profile';
import type { EventRows } from './event-log';

const ROWS = 5000;
const LEAST = 12;
const KINDS_AT_MOST = 16;
const LONGEST_WORD = 32;
/** Rows of a kind, of which there are several, at the mean. */
const RECUR = 2;
/** Letters of a value that are looked at: of any more the time would grow by their square. */
const BEGINNING = 400;
/** Share of the numbers that must be those of rows, and of a kind's numbers that must be of one kind. */
const NEARLY_ALL = 0.9;
const ONE_KIND = 0.95;
/** Share of a kind's rows that must have a text or a file for it to be one of messages. */
const WRITTEN = 0.3;

/** A table's rows by their kind, the messages first; null where it is no such table. */
export function kindsOfRows(rows: readonly Row[], table: Table): EventRows[] | null {
	const sample = rows.filter(({ standing }) => standing === 'kept').slice(0, ROWS);
	const key = table.rowidColumn >= 0 ? null : table.primaryKey.length === 1 ? table.primaryKey[0]! : undefined;
	if (sample.length < LEAST || key === undefined) return null;
	const columns = [...table.columns.keys()].filter((c) => c !== table.rowidColumn && c !== key);
	const idOf = (row: Row): Value => (key === null ? row.rowid : row.values[key]!);
	for (const column of columns) {
		const kinds = kindsIn(sample, column);
		if (!kinds) continue;
		const kindOf = new Map(sample.map((row) => [idOf(row), row.values[column] as string]));
		const written = new Set([...kinds].flatMap(([kind, of]) => (areWritten(of, columns, column) ? [kind] : [])));
		const besides = columns.filter((c) => c !== column);
		for (const kind of [...written]) if (belongsToOthers(kind, besides, kinds, kindOf, written)) written.delete(kind);
		const names =
			besides.some((c) => namesOthers(c, columns, kinds, kindOf, written)) ||
			// Where columns mean something else in each kind, messages that name rows of two others tell it.
			new Set(besides.flatMap((c) => kindNamed(c, kinds, kindOf, written) ?? [])).size > 1;
		if (written.size === 0 || written.size === kinds.size || !names) continue;
		const label = [...written].join(', ');
		const of = (isIt: (kind: Value | undefined) => boolean): Row[] => rows.filter((row) => isIt(row.values[column]));
		const others = [...kinds.keys()].filter((kind) => !written.has(kind));
		// What lost its kind is looked at as a message.
		const messages = of((kind) => !others.includes(kind as string));
		return [{ rows: messages, label }, ...others.map((one) => ({ rows: of((kind) => kind === one), label: one }))];
	}
	return null;
}

/** The rows by the few words of a column that has one in every row. */
function kindsIn(rows: readonly Row[], column: number): Map<string, Row[]> | null {
	const kinds = new Map<string, Row[]>();
	for (const row of rows) {
		const kind = row.values[column];
		// Numbers are kinds of anything.
		if (typeof kind !== 'string' || kind === '' || kind.length > LONGEST_WORD || /\s/.test(kind) || FILE_NAME.test(kind)) return null;
		const of = kinds.get(kind);
		if (of) of.push(row);
		else if (kinds.size === KINDS_AT_MOST) return null;
		else kinds.set(kind, [row]);
	}
	return kinds.size > 1 && kinds.size <= rows.length / RECUR ? kinds : null;
}

/** Whether many of a kind's rows have sentences, or name a file. */
function areWritten(rows: readonly Row[], columns: readonly number[], kind: number): boolean {
	const isIt = (value: Value | undefined): boolean => {
		const text = typeof value === 'string' ? value.slice(0, BEGINNING) : '';
		return /\p{L}+\s+\p{L}+\s+\p{L}/u.test(text) || (text.includes('/') && FILE_NAME.test(text));
	};
	return columns.some((c) => c !== kind && rows.filter((row) => isIt(row.values[c])).length >= rows.length * WRITTEN);
}

/** Whether (nearly) each row of a kind names one of another kind in which people write, and no two the same: the files of messages. */
function belongsToOthers(
	kind: string,
	columns: readonly number[],
	kinds: ReadonlyMap<string, readonly Row[]>,
	kindOf: ReadonlyMap<Value, string>,
	written: ReadonlySet<string>
): boolean {
	const rows = kinds.get(kind)!;
	return columns.some((c) => {
		const named = rows.map(({ values }) => values[c]).filter((value) => value !== null && value !== undefined);
		const [first] = named.map((value) => kindOf.get(value)).filter((of) => of !== undefined);
		return (
			first !== undefined &&
			first !== kind &&
			written.has(first) &&
			named.filter((value) => kindOf.get(value) === first).length >= rows.length * NEARLY_ALL &&
			new Set(named).size >= named.length * MOSTLY_ONCE
		);
	});
}
const MOSTLY_ONCE = 0.7;

/** The kind, in which nobody writes, of which a column of nearly all messages names rows, several the same. */
function kindNamed(
	column: number,
	kinds: ReadonlyMap<string, readonly Row[]>,
	kindOf: ReadonlyMap<Value, string>,
	written: ReadonlySet<string>
): string | null {
	const named: (string | undefined)[] = [];
	const values = new Set<Value>();
	let all = 0;
	for (const kind of written)
		for (const { values: own } of kinds.get(kind)!) {
			all++;
			const value = own[column];
			if (value === null || value === undefined || value === '') continue;
			named.push(kindOf.get(value));
			values.add(value);
		}
	const known = named.filter((kind) => kind !== undefined);
	if (named.length < all * NEARLY_ALL || known.length < named.length * NEARLY_ALL || values.size > named.length / 2) return null;
	const [first] = known;
	if (first === undefined || written.has(first) || known.filter((kind) => kind === first).length < known.length * ONE_KIND) return null;
	return first;
}

/** Whether a column of nearly all messages names rows of such a kind, which are no messages themselves. */
function namesOthers(
	column: number,
	columns: readonly number[],
	kinds: ReadonlyMap<string, readonly Row[]>,
	kindOf: ReadonlyMap<Value, string>,
	written: ReadonlySet<string>
): boolean {
	const first = kindNamed(column, kinds, kindOf, written);
	if (first === null) return false;
	const targets = kinds.get(first)!;
	const isIn = (row: Row, c: number): boolean => ![null, undefined, ''].includes(row.values[c] as string | null | undefined);
	const share = (rows: readonly Row[], c: number): number => rows.filter((row) => isIn(row, c)).length / rows.length;
	const messages = [...written].flatMap((kind) => kinds.get(kind)!);
	// What they are in names nothing there itself, and has a name, as no message has.
	const hasName = columns.some((c) => c !== column && share(targets, c) >= NAMED && share(messages, c) <= 1 - NEARLY_ALL);
	return targets.length > 1 && share(targets, column) <= 1 - NEARLY_ALL && hasName;
}
/** Share of the persons, or of the rooms, that must have one. */
const NAMED = 0.5;

/**
 * One column for what was written and for where a file lies, and another one that says which of the two it is, by a word or
 * a number of its own: `text` beside what somebody wrote, `image` beside `media/5d/5d3d4a.png`.
 */
import type { Row, Value } from '../model';

const ROWS = 2000;
const KINDS_AT_MOST = 12;
const TEXTS_LEAST = 3;
/** Files from which a number of any kind says it; a column called for kinds says it of one. */
const FILES_LEAST = 2;
const KIND_NAMED = /kind|type|sort|class|mime|format/i;
const LONGEST = 400;
/** A path of a folder at least, or of a device's own scheme; an address of a page is writing. */
const FILE = /^(?!https?:)(?:[a-z]{3,10}:\/\/)?[^\s"<>|*?]*[\\/][^\s"<>|*?\\/]+\.[A-Za-z0-9]{2,5}$/;

export interface TextOrFile {
	column: number;
	isFile(row: Row): boolean;
}

const statesFile = (value: Value | undefined): boolean => typeof value === 'string' && value.length <= LONGEST && FILE.test(value);
const isKindValue = (value: Value | undefined): value is string | number =>
	(typeof value === 'string' && value.length > 0 && value.length <= 40) || (typeof value === 'number' && Number.isInteger(value));

/** The column of a table's rows that holds both; null where none does. `names`: of the columns. */
export function textOrFile(rows: readonly Row[], names: readonly string[]): TextOrFile | null {
	const telling = rows.filter((row) => row.standing === 'kept').slice(0, ROWS);
	for (const column of names.keys()) {
		const filled = telling.filter((row) => typeof row.values[column] === 'string' && row.values[column] !== '');
		const files = filled.filter((row) => statesFile(row.values[column]));
		const written = filled.filter((row) => /\S\s+\S/.test(row.values[column] as string));
		if (files.length === 0 || filled.length - files.length < TEXTS_LEAST || written.length === 0) continue;
		for (const kind of names.keys()) {
			const kinds = kind === column ? null : fileKinds(filled, column, kind);
			if (!kinds || (files.length < FILES_LEAST && !KIND_NAMED.test(names[kind]!))) continue;
			const isFile = (row: Row): boolean => {
				const value = row.values[kind];
				// Of a lost row what says it can be gone.
				return isKindValue(value) ? kinds.has(value) : statesFile(row.values[column]);
			};
			return { column, isFile };
		}
	}
	return null;
}

/** The kinds all of whose rows state a file, where no other's does; null where a kind has both. */
function fileKinds(rows: readonly Row[], column: number, kind: number): Set<string | number> | null {
	const paths = new Map<string | number, boolean>();
	for (const row of rows) {
		const value = row.values[kind];
		if (!isKindValue(value)) return null;
		const is = statesFile(row.values[column]);
		if ((paths.get(value) ?? is) !== is) return null;
		paths.set(value, is);
		if (paths.size > KINDS_AT_MOST) return null;
	}
	const of = [...paths].flatMap(([value, is]) => (is ? [value] : []));
	return of.length > 0 && of.length < paths.size ? new Set(of) : null;
}

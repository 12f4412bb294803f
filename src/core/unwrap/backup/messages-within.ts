/** Whether the tables of a database hold messages: it is a program's own then, whatever files it lists. */
import type { Row, Value } from '../../model';

const utf8 = new TextDecoder();

/** Rows of a table from which it can be told what they are. */
const FEWEST_MESSAGES = 4;
/** Times in any unit and epoch are larger; numbers of rows, sizes and flags mostly are not. */
const LIKE_TIME = 5e8;

/** Whether one of the tables has sentences, and times beside them: in its own rows, or in those of another that has as many. */
export function holdsMessages(tables: readonly (readonly Row[])[]): boolean {
	const dated = datedRows(tables);
	return tables.some((rows) => rows.length >= FEWEST_MESSAGES && rows.length <= dated && mostHave(rows, isSentence, 0.3));
}

/** Whether some table has rows enough that mostly have a time. */
export const hasDatedRows = (tables: readonly (readonly Row[])[]): boolean => datedRows(tables) >= FEWEST_MESSAGES;

/** How many rows the largest table has whose rows mostly have a time. */
const datedRows = (tables: readonly (readonly Row[])[]): number =>
	Math.max(0, ...tables.filter((rows) => mostHave(rows, isTime, 0.8)).map((rows) => rows.length));

/** Whether one column of the rows has such a value in at least this share of them. */
function mostHave(rows: readonly Row[], test: (v: Value | undefined) => boolean, least: number): boolean {
	const sample = rows.slice(0, 400);
	return sample.length > 0 && sample[0]!.values.some((_, c) => sample.filter((row) => test(row.values[c])).length >= sample.length * least);
}
/** Several words, or some letters of a script that puts no blanks between them. */
const SENTENCE = /[^\s/]\s+[^\s/]+\s+[^\s/]|[\p{sc=Han}\p{sc=Hira}\p{sc=Kana}\p{sc=Thai}\p{sc=Lao}\p{sc=Khmr}\p{sc=Mymr}]{6}/u;
/** The same among bytes, of which any may pass for blanks: by letters alone. */
const SENTENCE_WITHIN = /\p{L}{2} \p{L}+ \p{L}|[\p{sc=Han}\p{sc=Hira}\p{sc=Kana}\p{sc=Thai}\p{sc=Lao}\p{sc=Khmr}\p{sc=Mymr}]{6}/u;
const WITHIN_AT_MOST = 4096;
const isSentence = (v: Value | undefined): boolean =>
	v && typeof v === 'object'
		? SENTENCE_WITHIN.test(utf8.decode(v.subarray(0, WITHIN_AT_MOST)))
		: SENTENCE.test(typeof v === 'string' ? v : '');
const isTime = (v: Value | undefined): boolean =>
	typeof v === 'number' ? v > LIKE_TIME : /^\d{4}-\d\d-\d\d/.test(typeof v === 'string' ? v : '');

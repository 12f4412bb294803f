/** Numbers that stand for words of a small table of their own (folders, states): the messages get a column that reads the words. */
import { saysWay } from '../way-words';
import type { Context } from './context';
import { addressShare, bestText, bestTime } from './columns';
import { DELETED_WORD } from './deleted-flag';
import { profileOf } from './profile';
import { isNamedAlike, keyOf, type Reference } from './refs';
import { cell, isOwnNumber, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';

const MOST_WORDS = 24;
const LONGEST = 24;
const WORDS_LEAST = 2;
const NEARLY_ALL = 0.95;

/** Adds the columns, where the words say which way a message went, or that it was put away; the tables of words. */
export function openLookups(context: Context): Set<Sheet> {
	const found = new Set<Sheet>();
	for (const sheet of context.sheets) {
		if (sheet.family || !bestTime(sheet, context.tables) || !bestText(sheet)) continue;
		for (const { from, key } of (context.references.get(sheet) ?? []).filter((r) => isLookup(r, sheet, context))) {
			const word = wordsOf(key.sheet);
			if (!word || sheet.columns.some((c) => c.column === from.column && c.made)) continue;
			found.add(key.sheet);
			const byKey = new Map(
				key.sheet.rows.map((row) => [
					keyOf(key.column ? cell(row, key.column, context.tables) : row.rowid),
					cell(row, word, context.tables)
				])
			);
			const made: Made = { read: (row) => byKey.get(keyOf(cell(row, from, context.tables))), words: true };
			const profile = profileOf(sheet.sure, made.read, sampleOf(sheet.sure));
			sheet.columns.push({ name: `${from.name} (${word.name})`, column: from.column, path: [word.name], made, profile });
		}
	}
	return found;
}

const isLookup = ({ from, key, inclusion }: Reference, sheet: Sheet, { tables }: Context): boolean =>
	key.sheet !== sheet &&
	key.sheet.sure.length <= MOST_WORDS &&
	inclusion >= NEARLY_ALL &&
	from.column >= 0 &&
	!from.profile.many &&
	!isOwnNumber(from, sheet, tables) &&
	isNamedAlike(from, key.sheet);

/** The column of words of which several say a way, or that something was put away. */
const wordsOf = (sheet: Sheet): SheetColumn | undefined =>
	// Persons can be called so too ("Me").
	sheet.columns.some((c) => addressShare(c) > 0.4)
		? undefined
		: sheet.columns.find(
				({ profile: p, column }) =>
					column >= 0 &&
					p.texts > 0 &&
					p.texts === p.filled &&
					p.averageLength <= LONGEST &&
					[...p.distinct.keys()].filter((v) => saysWay(String(v)) || DELETED_WORD.test(String(v))).length >= WORDS_LEAST
			);

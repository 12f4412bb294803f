/** Whose device it is, as a flag in the list of persons says: one of them is marked as oneself, or one for each account. */
import type { Context } from './context';
import type { Writer } from './named-owner';
import type { DirectionRule, Guess } from './reading';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const SELF_NAMED = /(^|_|is_?)(self|me|mine|myself|own|owner)$|is_?(self|me|mine|owner)|^own(er)?_?|_me_|local_?user|current_?user/i;

/** The column of a list of persons by which one is marked as oneself: nought or empty for the others. */
export function selfFlag(sheet: Sheet): SheetColumn | undefined {
	return sheet.columns.find(
		(c) =>
			c.column >= 0 &&
			SELF_NAMED.test(c.name.split('.').at(-1)!) &&
			c.profile.texts === 0 &&
			c.profile.ints > 0 &&
			c.profile.low >= 0 &&
			c.profile.high === 1
	);
}

/** The rule by which messages of the person so marked are those sent, if a column that names writers leads there. */
export function flaggedOwner(writers: readonly (Writer | null | undefined)[], { tables }: Context): Guess<DirectionRule> | null {
	for (const writer of writers) {
		const made = writer?.value.made?.owner ?? null;
		const owner = (made === null ? (writer?.key ? markedIn(writer.key) : []) : [made]).filter((o) => writer!.value.profile.distinct.has(o));
		if (writer && owner.length > 0)
			return {
				value: { kind: 'sender', column: writer.value, owner },
				confidence: 0.96,
				evidence: [`the list of persons marks ${owner.length === 1 ? 'one' : 'some'} of them as oneself: the owner`]
			};
	}
	return null;

	/** One of the rows, or one for each of the owner's few accounts. */
	function markedIn({ sheet, column }: NonNullable<Writer['key']>): (string | number)[] {
		const flag = selfFlag(sheet);
		if (!flag) return [];
		const kept = sheet.rows.filter((row) => row.standing === 'kept');
		const marked = kept.filter((row) => cell(row, flag, tables) === 1);
		const areFew = marked.length === 1 ? kept.length > 1 : marked.length <= ACCOUNTS_AT_MOST && marked.length * 2 < kept.length;
		return areFew ? marked.flatMap((row) => keyOf(column ? cell(row, column, tables) : row.rowid) ?? []) : [];
	}
}
/** Accounts that one owner has in one store. */
export const ACCOUNTS_AT_MOST = 8;

/** Whose device it is, as a flag in the list of persons says: one of them, and no other, is marked as oneself. */
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
		const owner = writer?.value.made?.owner ?? (writer?.key ? markedIn(writer.key) : null);
		if (writer && owner !== null && writer.value.profile.distinct.has(owner))
			return {
				value: { kind: 'sender', column: writer.value, owner: [owner] },
				confidence: 0.96,
				evidence: ['the list of persons marks one of them as oneself: the owner']
			};
	}
	return null;

	function markedIn({ sheet, column }: NonNullable<Writer['key']>): string | number | null {
		const flag = selfFlag(sheet);
		if (!flag) return null;
		const kept = sheet.rows.filter((row) => row.standing === 'kept');
		const marked = kept.filter((row) => cell(row, flag, tables) === 1);
		return marked.length === 1 && kept.length > 1 ? keyOf(column ? cell(marked[0]!, column, tables) : marked[0]!.rowid) : null;
	}
}

/** Whose device it is, as a flag in the list of persons says: one of them is marked as oneself, or one for each account. */
import type { Context } from './context';
import type { Writer } from './named-owner';
import type { DirectionRule, Guess } from './reading';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const SELF_NAMED = /(^|_|is_?)(self|me|mine|myself|own|owner)$|is_?(self|me|mine|owner)|^own(er)?_?|_me_|local_?user|current_?user/i;

/** The column of a list of persons by which one is marked as oneself: nought or empty for the others. */
function selfFlag(sheet: Sheet): SheetColumn | undefined {
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

/** What a column says of the person who is marked as oneself, in all rows of his; null where none or several are. */
export function markedAsOneself(list: Sheet, person: SheetColumn, { tables }: Pick<Context, 'tables'>): string | number | null {
	const flag = selfFlag(list);
	const marked = flag ? list.rows.filter((row) => row.standing === 'kept' && cell(row, flag, tables) === 1) : [];
	const persons = new Set(marked.map((row) => keyOf(cell(row, person, tables))));
	return persons.size === 1 ? [...persons][0]! : null;
}

/** The rule by which messages of the person so marked are those sent, if a column that names writers leads there. */
export function flaggedOwner(writers: readonly (Writer | null | undefined)[], { tables }: Context): Guess<DirectionRule> | null {
	for (const writer of writers) {
		const made = writer?.value.made?.owner ?? null;
		const owner = (made === null ? (writer?.key ? markedIn(writer.key) : []) : [made]).filter((o) => canBe(writer!.value, o));
		if (writer && owner.length > 0)
			return {
				value: { kind: 'sender', column: writer.value, owner },
				confidence: 0.96,
				evidence: [
					`${writer.value.made?.ownerWhy ?? `the list of persons marks ${owner.length === 1 ? 'one' : 'some'} of them as oneself`}: the owner`
				]
			};
	}
	return null;

	/** Whether a column names the one: keys of bytes are not among the values that were counted. */
	function canBe({ profile }: SheetColumn, who: string | number): boolean {
		return profile.blobs > 0 || profile.distinct.has(who);
	}

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
/**
 * The one row of a list of persons that numbers of nought and one mark, whatever they are called, and whether they are called
 * so; null where none or several are.
 */
export function markedAlone(
	{ sheet, column }: NonNullable<Writer['key']>,
	{ tables }: Pick<Context, 'tables'>
): { who: string | number; isCalledSo: boolean } | null {
	const kept = sheet.rows.filter((row) => row.standing === 'kept');
	if (kept.length < MARKED_LEAST || kept.length > MARKED_MOST) return null;
	const self = selfFlag(sheet);
	const isFlag = (c: SheetColumn): boolean =>
		c.column >= 0 && c.path.length === 0 && c.profile.ints > 0 && c.profile.low >= 0 && c.profile.high === 1;
	const marked = new Set(
		(self ? [self] : sheet.columns.filter(isFlag)).flatMap((flag) => {
			const rows = kept.filter((row) => cell(row, flag, tables) === 1);
			return rows.length === 1 ? rows : [];
		})
	);
	const [row] = marked;
	const who = row && marked.size === 1 ? keyOf(column ? cell(row, column, tables) : row.rowid) : null;
	return who === null ? null : { who, isCalledSo: self !== undefined };
}
const MARKED_LEAST = 3;
const MARKED_MOST = 2000;

/** Accounts that one owner has in one store. */
export const ACCOUNTS_AT_MOST = 8;

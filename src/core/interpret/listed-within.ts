/** What a message lists of itself in its own row: wordings it had before, and reactions to it. */
import type { Row, Standing, Table } from '../model';
import { addressShare, textScore } from './columns';
import { entriesIn, listColumns, type ListColumn } from './lists';
import type { Party } from './people';
import { isSign } from './profile';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';

/** An earlier wording of a message, and until when it stood: ms UTC, or null where nothing says. */
export interface Wording {
	text: string;
	at: number | null;
}

export interface ListedWordings extends ListColumn {
	text: SheetColumn;
	time: SheetColumn | null;
}

export interface ListedReactions extends ListColumn {
	what: SheetColumn;
	who: SheetColumn | null;
	time: SheetColumn | null;
}

const EDIT_NAMED =
	/(?<!cr)edit|revis|histor|version|previous|earlier|original|wording|fassung|bearbeit|fr[uü]her|ancien|anterior|precedent/i;
const REACTION_NAMED = /react|emoji|emotic|like|reakt/i;
/** Letters of a text that is a wording; what is shorter throughout is a sign. */
const LETTERS = 5;
const SIGN = 12;

const timeIn = (entries: Sheet): SheetColumn | null => entries.columns.find((c) => c.profile.time) ?? null;
const named = (names: RegExp, { column, fields }: ListColumn): boolean => names.test(column.name) || fields.some((f) => names.test(f));

/** Lists of texts with their times, or called for what they are; persons within are somebody else's words. */
export const listedWordings = (sheet: Sheet, tables: readonly Table[]): ListedWordings[] =>
	listColumns(sheet, tables).flatMap((list) => {
		const { entries } = list;
		if (entries.columns.some((c) => addressShare(c) > 0.4)) return [];
		const ranked = entries.columns
			.map((column) => ({ column, score: textScore(column, entries.sure.length).score }))
			.filter(({ column, score }) => score > 0.6 && column.profile.averageLength > LETTERS)
			.sort((a, b) => b.score - a.score);
		const text = ranked[0]?.column;
		const time = timeIn(entries);
		return text && (named(EDIT_NAMED, list) || (time !== null && text.profile.prose > 0.3)) ? [{ ...list, text, time }] : [];
	});

/** Lists of signs, each with who made it, or called for what they are. */
export const listedReactions = (sheet: Sheet, tables: readonly Table[]): ListedReactions[] =>
	listColumns(sheet, tables).flatMap((list) => {
		const columns = list.entries.columns.filter((c) => c.profile.texts > 0 && !c.profile.time);
		const what = columns.find((c) => c.profile.averageLength <= SIGN && addressShare(c) < 0.4 && c.profile.uuid < 0.5);
		const who = columns.find((c) => c !== what && (addressShare(c) > 0.4 || c.profile.token > 0.8)) ?? null;
		return what && (areSigns(what) || named(REACTION_NAMED, list)) ? [{ ...list, what, who, time: timeIn(list.entries) }] : [];
	});

const areSigns = ({ profile: p }: SheetColumn): boolean => [...p.distinct.keys()].every((v) => isSign(String(v)));

export const wordingsIn = (row: Row, list: ListedWordings, tables: readonly Table[]): Wording[] =>
	entriesIn(row, list, tables).flatMap((entry) => {
		const text = cell(entry, list.text, tables);
		return typeof text === 'string' && text !== '' ? [{ text, at: timeWithin(entry, list.time, tables) }] : [];
	});

/** As an `Attached`: `who` by its text, which the caller knows how to find. */
export const reactionsIn = (
	row: Row,
	list: ListedReactions,
	party: (address: string) => Party | null,
	tables: readonly Table[]
): { what: string; who: Party | null; at: number | null; standing: Standing }[] =>
	entriesIn(row, list, tables).flatMap((entry) => {
		const what = cell(entry, list.what, tables);
		const who = list.who ? keyOf(cell(entry, list.who, tables)) : null;
		if (typeof what !== 'string' || what === '') return [];
		return [{ what, who: who === null ? null : party(String(who)), at: timeWithin(entry, list.time, tables), standing: row.standing }];
	});

const timeWithin = (entry: Row, time: SheetColumn | null, tables: readonly Table[]): number | null =>
	time ? timeOf(cell(entry, time, tables), time.profile.time!) : null;

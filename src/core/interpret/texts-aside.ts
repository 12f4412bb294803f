/** Messages whose texts stand in another table of their store: the sheets that get a column for them. */
import type { Table } from '../model';
import { LIKELY_KEY, SURE_KEY, asideColumn } from './aside';
import { addressShare, bestText, bestTime } from './columns';
import type { Context } from './context';
import { repeatsTexts } from './correspondence-sheets';
import type { Guess } from './reading';
import { type Reference, isMeant } from './refs';
import type { Sheet, SheetColumn } from './sheet';

const inUse = (sheet: Sheet): number => sheet.rows.filter((row) => row.standing === 'kept').length;

/** Gives sheets of messages whose texts stand in another one a column that reads them; those others. `strings`: already read. */
export function readTextsAside(context: Context, strings: ReadonlySet<Sheet>): Set<Sheet> {
	const found = new Set(strings);
	const { sheets, references, tables } = context;
	const timed = new Map(sheets.map((s) => [s, bestTime(s, tables) !== null]));
	const texts = sheets.flatMap((sheet) => {
		const text = timed.get(sheet) ? null : bestText(sheet);
		return text && !hasNamesAndAddresses(sheet, text.value) ? [{ sheet, text: text.value }] : [];
	});
	// Where messages have their texts in their own rows, another sheet's need surer keys to have theirs elsewhere.
	const least = sheets.some((s) => timed.get(s) && isWriting(bestText(s), s)) ? SURE_KEY : LIKELY_KEY;
	// What messages with texts of their own name again and again is their conversations, and its texts what those are called.
	const areNamedByMessages = (list: Sheet): boolean =>
		sheets.some((s) => {
			const { length } = s.sure;
			if (s === list || !timed.get(s) || !isWriting(bestText(s), s)) return false;
			const isOfSeveral = (r: Reference): boolean => r.from.profile.distinct.size <= length * SEVERAL_EACH;
			const isTo = (r: Reference): boolean => r.key.sheet === list && r.confidence > SURE_KEY && isMeant(r, s, tables);
			return (references.get(s) ?? []).some((r) => isTo(r) && isOfSeveral(r) && r.from.profile.filled > length * PROSE);
		});
	for (const sheet of sheets) {
		if (!timed.get(sheet) || texts.length === 0 || bestText(sheet)) continue;
		for (const one of texts) {
			const column = one.sheet === sheet || found.has(one.sheet) ? null : asideColumn(sheet, one, references, tables, least);
			if (!column || repeatsOwnTexts(one, sheets, tables) || areNamedByMessages(one.sheet)) continue;
			sheet.columns.push(column);
			found.add(one.sheet);
			break;
		}
	}
	return found;
}

/** Whether texts are those of messages that have them in their own rows: a text index. */
const repeatsOwnTexts = (one: { sheet: Sheet; text: SheetColumn }, sheets: readonly Sheet[], tables: readonly Table[]): boolean =>
	sheets.some((sheet) => {
		if (sheet === one.sheet || inUse(sheet) < inUse(one.sheet) * PROSE || !bestTime(sheet, tables)) return false;
		const text = bestText(sheet)?.value;
		return text !== undefined && !text.aside && repeatsTexts(one, { sheet, text }, tables);
	});

/** Persons, each with a name and a number of their own. */
const hasNamesAndAddresses = (sheet: Sheet, names: SheetColumn): boolean =>
	names.profile.name > 0.6 && sheet.columns.some((c) => c !== names && addressShare(c) > 0.6 && c.profile.unique);

/** Rows from which texts say that they are somebody's messages, and share of them that must read as sentences. */
const WRITINGS = 6;

const PROSE = 0.5;

/** Conversations have more messages than this, in conversations for each. */
const SEVERAL_EACH = 0.5;

const isWriting = (text: Guess<SheetColumn> | null, sheet: Sheet): boolean =>
	text !== null && sheet.sure.length >= WRITINGS && text.value.profile.prose > PROSE;

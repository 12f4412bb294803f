/** Messages whose texts stand in another table of their store: the sheets that get a column for them. */
import type { Table } from '../model';
import { LIKELY_KEY, SURE_KEY, asideColumn } from './aside';
import { addressShare, bestText, bestTime } from './columns';
import type { Context } from './context';
import { repeatsTexts } from './correspondence-sheets';
import type { Guess } from './reading';
import { messageKeyOf } from './message-keys';
import { type Reference, isMeant, isNamedAlike, keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';

const inUse = (sheet: Sheet): number => sheet.rows.filter((row) => row.standing === 'kept').length;

/** Gives sheets of messages whose texts stand in another one a column that reads them; those others. `strings`: already read. */
export function readTextsAside(context: Context, strings: ReadonlySet<Sheet>): Set<Sheet> {
	const found = new Set(strings);
	const { sheets, references, tables } = context;
	const timed = new Map(sheets.map((s) => [s, bestTime(s, tables) !== null]));
	const texts = sheets.flatMap((sheet) => {
		const text = timed.get(sheet) && !repeatsItsTime(sheet, context) ? null : bestText(sheet);
		return text && !hasNamesAndAddresses(sheet, text.value) ? [{ sheet, text: text.value }] : [];
	});
	// Where messages have their texts in their own rows, another sheet's need surer keys to have theirs elsewhere.
	const written = sheets.filter((s) => timed.get(s) && isWriting(bestText(s), s));
	const leastFor = (sheet: Sheet): number => (written.some((s) => s.sure.length >= sheet.sure.length * AS_MANY) ? SURE_KEY : LIKELY_KEY);
	// What messages with texts of their own name again and again is their conversations, and its texts what those are called.
	const areNamedByMessages = (list: Sheet): boolean =>
		sheets.some((s) => {
			const { length } = s.sure;
			if (s === list || !timed.get(s) || !isWriting(bestText(s), s)) return false;
			const isOfSeveral = (r: Reference): boolean => r.from.profile.distinct.size <= length * SEVERAL_EACH;
			const isTo = (r: Reference): boolean => r.key.sheet === list && r.confidence > SURE_KEY && isMeant(r, s, tables);
			return (references.get(s) ?? []).some((r) => isTo(r) && isOfSeveral(r) && r.from.profile.filled > length * PROSE);
		});
	if (texts.length === 0) return found;
	// What several tables have a part of is told by the one that says most of it (whom it is from, and to whom), or was first.
	const names = (sheet: Sheet): number => {
		const told = (references.get(sheet) ?? []).filter((r) => r.confidence > SURE_KEY && isMeant(r, sheet, tables));
		return new Set(told.flatMap(({ from }) => (from.profile.unique || from.profile.many ? [] : [from]))).size;
	};
	const begins = (sheet: Sheet): number => {
		const time = bestTime(sheet, tables);
		const times = time ? sheet.sure.slice(0, TIMES_READ).flatMap((row) => timeOf(cell(row, time.value, tables), time.reading) ?? []) : [];
		return times.reduce((first, at) => Math.min(first, at), Infinity);
	};
	const timedSheets = sheets.filter((sheet) => timed.get(sheet)).map((sheet) => ({ sheet, names: names(sheet), from: begins(sheet) }));
	/** How sure the surest key is between two sheets, in tenths. */
	const keyed = (sheet: Sheet, of: Sheet): number => {
		const between = [
			...(references.get(of) ?? []).filter((r) => r.key.sheet === sheet),
			...(references.get(sheet) ?? []).filter((r) => r.key.sheet === of)
		];
		return Math.round(between.reduce((most, r) => Math.max(most, r.confidence), 0) * 10);
	};
	const given = new Set<Sheet>();
	for (const one of texts) {
		const order = timedSheets
			.filter(({ sheet }) => sheet !== one.sheet && !given.has(sheet))
			.map((t) => ({ ...t, keyed: keyed(t.sheet, one.sheet) }))
			.sort((x, y) => y.keyed - x.keyed || y.names - x.names || x.from - y.from);
		if (found.has(one.sheet) || repeatsOwnTexts(one, sheets, tables) || areNamedByMessages(one.sheet)) continue;
		for (const { sheet } of order) {
			const column = bestText(sheet) ? null : asideColumn(sheet, one, references, tables, leastFor(sheet));
			if (!column) continue;
			sheet.columns.push(column);
			given.add(sheet);
			found.add(one.sheet);
			break;
		}
	}
	return found;
}

/** Whether a sheet's time is that of the row which each of its rows names, and which has no text of its own: parts of messages. */
function repeatsItsTime(sheet: Sheet, { references, tables }: Context): boolean {
	const time = bestTime(sheet, tables)?.value;
	// A time that is counted from that of the row named is its own.
	if (!time || time.made) return false;
	return (references.get(sheet) ?? []).some((r) => {
		const whole = r.key.sheet;
		if (r.confidence < LIKELY_KEY || whole === sheet || !isMeant(r, sheet, tables) || !bestTime(whole, tables) || bestText(whole))
			return false;
		if (isNamedBack(r, sheet, tables)) return false;
		const times = whole.columns.filter((c) => c.column >= 0 && c.profile.time);
		const rows = new Map(whole.sure.map((row) => [messageKeyOf(row, r.key.column, tables), row]));
		const read = sheet.sure.slice(0, TIMES_READ);
		const pairs = read.flatMap((row) => {
			const of = rows.get(messageKeyOf(row, r.from, tables));
			return of ? [{ row, of }] : [];
		});
		const same = pairs.filter(({ row, of }) => times.some((c) => keyOf(cell(of, c, tables)) === keyOf(cell(row, time, tables))));
		// What was written anew has the time of that beside the one it was first written at.
		const named = new Set(pairs.map(({ of }) => of));
		const first = new Set(same.map(({ of }) => of));
		// Every part is of a message: what only some of a table's rows have is a further thing of theirs, as a file.
		// Of a page, whose first and last time it says, they are far more than a message has parts.
		const areFewEach = pairs.length <= named.size * PARTS_EACH;
		return areFewEach && pairs.length >= Math.max(WRITINGS, read.length * PARTS) && first.size >= named.size * SAME_TIME;
	});
}

/** Whether it is the other's column that is called after this sheet, and names its rows by their key: what happened to each. */
function isNamedBack({ from, key }: Reference, sheet: Sheet, tables: readonly Table[]): boolean {
	const { primaryKey } = tables[sheet.tables[0]!]!;
	const isOwnKey = primaryKey.length === 1 && primaryKey[0] === from.column && from.path.length === 0;
	return isOwnKey && key.column !== null && isNamedAlike(key.column, sheet);
}

const TIMES_READ = 500;
const SAME_TIME = 0.95;
const PARTS = 0.5;
const PARTS_EACH = 4;
/** Share of a sheet's rows that another one must have for its texts to be the messages'. */
const AS_MANY = 0.3;

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

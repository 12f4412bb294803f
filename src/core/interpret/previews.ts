/**
 * A list of conversations often shows the last message of each. Where most of what a column shows are messages of their
 * conversations, the rest were: deleted since, and left standing there, or in what is left of older rows of the list.
 */
import type { Row, Table } from '../model';
import type { Understood } from './messages';
import type { MessageReading } from './reading';
import { keyOf, type Key } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';

/** A text that a conversation's row shows. */
export interface Preview {
	row: Row;
	text: string;
	/** Only the beginning of the message. */
	cut: boolean;
	/** ms UTC, where the row says it. */
	at: number | null;
	/** A message of the conversation, whose own conversation it is; null where the row lost which it was. */
	beside: Understood | null;
	/** The message whose text it would be. */
	reading: MessageReading;
}

/** Share of the conversations whose text must be one of theirs, and the fewest of them. */
const MOSTLY = 0.6;
const FEWEST = 3;
/** Letters from which a beginning is that of one message. */
const CUT_LEAST = 20;
/** Times within so many ms are the same: some keep seconds. */
const SAME_TIME = 2000;
/** Words that a text must have where no time says that it is later than all that are known: less can be a label. */
const WORDS = 3;

interface Talk {
	messages: Understood[];
	/** Texts of all its rows, those that are no messages included. */
	texts: string[];
	newest: Understood;
}

/** The texts that the list of a sheet's conversations shows. `others`: rows of the sheet that are no messages. */
export function previewsOf(m: MessageReading, all: readonly Understood[], others: readonly Row[], tables: readonly Table[]): Preview[] {
	const role = [m.thread, m.peer].find((r) => r?.key);
	if (!role?.key || role.key.sheet === m.sheet) return [];
	const talks = talksBy(role.value, m, all, others, tables);
	const { sheet } = role.key;
	return sheet.columns.flatMap((column) => {
		if (column.column < 0 || column.profile.texts < FEWEST || column.profile.time) return [];
		const shown = shownIn(sheet, column, role.key!, talks, tables);
		const kept = shown.filter((s) => s.row.standing === 'kept');
		const matched = kept.filter((s) => s.of !== null);
		if (matched.length === 0 || matched.length < kept.length * MOSTLY) return [];
		const time = timeBeside(sheet, matched, tables);
		// Of few conversations what their rows showed before tells it, or that the time is the message's as well.
		const least = time && matched.length === kept.length ? 1 : FEWEST;
		if (shown.filter((s) => s.of !== null).length < least) return [];
		const cutAt = Math.max(0, ...matched.filter((s) => s.of!.text !== s.text).map((s) => s.text.length)) || longestOfSeveral(shown);
		return shown.flatMap(({ row, text, talk, of }): Preview[] => {
			const at = time ? timeOf(cell(row, time, tables), time.profile.time!) : null;
			const cut = of !== null ? of.text !== text : text.length === cutAt;
			const made = { row, text, cut, at, beside: of ?? talk?.newest ?? null, reading: m };
			return of !== null || (talk ? isMessage(made, talk, shown) : isDated(made, all)) ? [made] : [];
		});
	});
}

/** Letters of the longest texts shown, where several long ones end there alike: all are cut so. */
function longestOfSeveral(shown: readonly Shown[]): number {
	const texts = [...new Set(shown.map((s) => s.text))];
	const longest = Math.max(0, ...texts.map((text) => text.length));
	return longest >= CUT_LEAST && texts.filter((text) => text.length === longest).length > 1 ? longest : 0;
}

function talksBy(
	column: SheetColumn,
	m: MessageReading,
	all: readonly Understood[],
	others: readonly Row[],
	tables: readonly Table[]
): Map<string, Talk> {
	const talks = new Map<string, Talk>();
	for (const u of all) {
		const key = keyOf(cell(u.row, column, tables));
		if (key === null) continue;
		const talk = talks.get(String(key));
		if (!talk) talks.set(String(key), { messages: [u], texts: u.text === null ? [] : [u.text], newest: u });
		else {
			talk.messages.push(u);
			if (u.text !== null) talk.texts.push(u.text);
			if ((u.sentAt ?? 0) > (talk.newest.sentAt ?? 0)) talk.newest = u;
		}
	}
	for (const row of others) {
		const talk = talks.get(String(keyOf(cell(row, column, tables))));
		const text = cell(row, m.text.value, tables);
		if (talk && typeof text === 'string') talk.texts.push(text);
	}
	return talks;
}

interface Shown {
	row: Row;
	text: string;
	/** The conversation of its row, where that is known; every row in use has one. */
	talk: Talk | null;
	/** The message it is. */
	of: Understood | null;
}

function shownIn(sheet: Sheet, column: SheetColumn, key: Key, talks: ReadonlyMap<string, Talk>, tables: readonly Table[]): Shown[] {
	const keyIn = (row: Row): string | number | null => (key.column ? keyOf(cell(row, key.column, tables)) : keyOf(row.rowid));
	const known = keysBySame(sheet, column, keyIn, tables);
	return sheet.rows.flatMap((row): Shown[] => {
		if (!row.tableKnown || row.grade === 'fragment') return [];
		const k = keyIn(row) ?? known(row);
		const talk = k === null ? undefined : talks.get(String(k));
		const text = cell(row, column, tables);
		if (typeof text !== 'string' || text === '') return [];
		if (!talk) return row.standing === 'remnant' && k === null ? [{ row, text, talk: null, of: null }] : [];
		const of =
			talk.messages.find((u) => u.text === text) ?? talk.messages.find((u) => text.length >= CUT_LEAST && u.text?.startsWith(text));
		return [{ row, text, talk, of: of ?? null }];
	});
}

/** Share of the lost rows that must have a value there which a row in use has. */
const RECURS = 0.8;

/**
 * The key of a row that has lost it, by another column of the list that is each conversation's own and stays the same: whom
 * it is with, say. What counts or dates its messages goes on, and is none.
 */
function keysBySame(
	sheet: Sheet,
	shown: SheetColumn,
	keyIn: (row: Row) => string | number | null,
	tables: readonly Table[]
): (row: Row) => string | number | null {
	const kept = sheet.rows.filter((row) => row.standing === 'kept' && keyIn(row) !== null);
	const lost = sheet.rows.filter((row) => row.standing !== 'kept' && keyIn(row) === null);
	for (const column of lost.length > 0 ? sheet.columns : []) {
		if (column === shown || column.column < 0 || column.profile.time) continue;
		const keys = new Map(kept.map((row) => [keyOf(cell(row, column, tables)), keyIn(row)]));
		if (keys.has(null) || keys.size < kept.length || keys.size < 2) continue;
		const values = lost.map((row) => keyOf(cell(row, column, tables))).filter((value) => value !== null);
		if (values.length === 0 || values.filter((value) => keys.has(value)).length < values.length * RECURS) continue;
		return (row) => keys.get(keyOf(cell(row, column, tables))) ?? null;
	}
	return () => null;
}

/** The column of the list with the time of the message shown. */
const timeBeside = (sheet: Sheet, matched: readonly Shown[], tables: readonly Table[]): SheetColumn | null =>
	sheet.columns.find((c) => {
		if (!c.profile.time) return false;
		const same = matched.filter(({ row, talk, text }) => {
			const at = timeOf(cell(row, c, tables), c.profile.time!);
			return at !== null && talk?.messages.some((u) => u.text === text && Math.abs((u.sentAt ?? 0) - at) < SAME_TIME);
		});
		return same.length >= matched.length * MOSTLY;
	}) ?? null;

/** Whether a text of a conversation that nothing names any more says when it was written, between the messages that are known. */
function isDated({ text, at }: Preview, all: readonly Understood[]): boolean {
	if (at === null || text.split(/\s+/).length < WORDS) return false;
	const times = all.flatMap((u) => u.sentAt ?? []);
	return times.some((time) => time - YEAR <= at) && times.some((time) => time + YEAR >= at);
}
/** ms of a year. */
const YEAR = 365 * 86_400_000;

/** Whether what is shown, and is none of the conversation's texts, was a message of it, and no label of one without a text. */
function isMessage({ text, at }: Preview, talk: Talk, shown: readonly Shown[]): boolean {
	if (talk.texts.includes(text) || shown.some((s) => s.text === text && s.talk !== talk)) return false;
	if (at !== null) return !talk.messages.some((u) => Math.abs((u.sentAt ?? 0) - at) < SAME_TIME);
	return text.split(/\s+/).length >= WORDS && talk.newest.text !== null;
}

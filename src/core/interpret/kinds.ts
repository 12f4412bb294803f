/** Rows that are of another kind than messages, and those that the store itself marks deleted. */
import type { Row, Table } from '../model';
import type { Context } from './context';
import { withoutNames } from './names-within';
import type { MessageReading } from './reading';
import { isSign } from './profile';
import { keyOf } from './refs';
import { cell, type SheetColumn } from './sheet';

export const NOT_A_MESSAGE =
	/^(?:(?:call|calls|voip|missed|notice|notification|info|event|join|leave|status|meta|service|control|receipt|reaction|typing)|(?:system|sys)(?:[_.-][a-z]+)*)$/i;

/** What the rows of one kind hold. */
interface Kind {
	rows: number;
	/** Rows with writing, or signs that people send. */
	prose: number;
	texts: string[];
	/** Rows of which all columns that name other messages are filled, by column. */
	naming: Map<SheetColumn, number>;
}

const KINDS_AT_MOST = 12;
/** What says no more than the way is no kind. */
const WAYS = 2;
const ROWS = 8000;
const TEXTS_KEPT = 300;

/**
 * A column that says of what kind a row is: where rows with one of its values never hold writing while others do, hold
 * lines that a program made of persons' names, or signs alone and name another message, or the value itself names
 * something that is no message.
 */
export function findOtherKinds(reading: MessageReading, names: readonly string[], context: Context): MessageReading['otherKinds'] {
	const direction = reading.direction.value;
	const without = withoutNames(names, SOMEBODY);
	const lineOf = (text: string): string => without(text).replace(FULL_NAME, SOMEBODY);
	for (const column of reading.sheet.columns) {
		const p = column.profile;
		if (column === reading.text.value || column.column < 0 || p.time || p.many || p.distinct.size > KINDS_AT_MOST) continue;
		// A word in some rows, and nothing in those of messages.
		const isMark = p.distinct.size === 1 && p.texts === p.filled && p.filled < reading.sheet.sure.length * MOST_OTHERS;
		if (p.distinct.size < 2 && !isMark) continue;
		const saysWay = 'column' in direction && direction.column === column;
		if ((saysWay && p.distinct.size <= WAYS) || isPart(column, reading)) continue;
		// What a message states of a file is no kind of row, nor is a document.
		if (p.mime > 0.3 || p.path > 0.3 || p.json > 0.3) continue;
		const kinds = kindsIn(column, reading, context);
		const words = wordsOf(column, reading, context);
		const some = [...kinds.values()].some((k) => k.rows >= 5 && k.prose > k.rows * 0.7);
		const silent = keysWhere(
			kinds,
			(k, kind) => (!isMark && k.rows >= 4 && k.prose < k.rows * 0.05) || NOT_A_MESSAGE.test(words.get(kind) ?? String(kind))
		);
		// Where rows of one kind hold none, the few of another that hold nothing at all are no messages either.
		if (silent.length > 0) silent.push(...keysWhere(kinds, (k, kind) => k.texts.length === 0 && !silent.includes(kind)));
		const lines = keysWhere(kinds, (k) => areLinesOfNames(k, lineOf, reading.sheet.sure.length));
		lines.push(...rareLines(kinds, lines, lineOf, reading.sheet.sure.length));
		const signs = keysWhere(kinds, (k) => reacts(k, reading.sheet.sure.length) !== null);
		const others = [...new Set([...silent, ...lines, ...signs])];
		if ((!some && !isMark) || others.length === 0 || (others.length >= kinds.size && !isMark)) continue;
		const evidence: string[] = [];
		if (silent.length > 0) evidence.push(`rows with ${silent.join(', ')} hold no writing`);
		if (lines.length > 0) evidence.push(`rows with ${lines.join(', ')} hold the same few lines, of names`);
		if (signs.length > 0) evidence.push(`rows with ${signs.join(', ')} are signs, and name the message they are for`);
		const named = signs.length > 0 ? reacts(kinds.get(signs[0]!)!, reading.sheet.sure.length) : null;
		if (named) reading.reactions = { to: named, kinds: { column, values: signs } };
		return { value: { column, values: others }, confidence: 0.7, evidence };
	}
	reading.reactions ??= reactionsByName(reading, context) ?? undefined;
	return null;
}

/** What a short list of words says each value of a column stands for. */
function wordsOf(column: SheetColumn, { sheet }: MessageReading, { references, tables }: Context): Map<string | number, string> {
	const list = (references.get(sheet) ?? []).find(
		({ from, key, inclusion }) => from === column && inclusion >= ALL_LISTED && key.sheet.rows.length <= WORDS_AT_MOST
	)?.key;
	const word = list?.sheet.columns.find((c) => c.column >= 0 && c.profile.texts > 0 && [...c.profile.distinct.keys()].every(isWord));
	if (!list || !word) return new Map();
	return new Map(
		list.sheet.rows.flatMap((row) => {
			const [key, said] = [list.column ? keyOf(cell(row, list.column, tables)) : keyOf(row.rowid), cell(row, word, tables)];
			return key !== null && typeof said === 'string' ? [[key, said] as const] : [];
		})
	);
}
const ALL_LISTED = 0.95;
const WORDS_AT_MOST = 40;
const isWord = (value: string | number): boolean => typeof value === 'string' && /^[a-z][a-z_-]{1,23}$/i.test(value);

/** Where no kind says it: a column that is filled in rows of a sign each, and in no other. An answer has words as well. */
function reactionsByName(reading: MessageReading, { tables }: Context): NonNullable<MessageReading['reactions']> | null {
	const { sheet, text } = reading;
	for (const to of sheet.columns.filter((c) => namesFew(c, reading) && !ANSWER_NAMED.test(c.name))) {
		const rows = sheet.sure.slice(0, ROWS).filter((row) => keyOf(cell(row, to, tables)) !== null);
		const areSigns = rows.every((row) => {
			const value = cell(row, text.value, tables);
			return typeof value === 'string' && isSign(value);
		});
		if (rows.length >= SIGNS_LEAST && areSigns) return { to, kinds: null };
	}
	return null;
}
const SIGNS_LEAST = 4;
/** Columns of answers, of which all can be signs by chance. */
const ANSWER_NAMED = /repl|quot|answer|in_?resp|antw|zitat|r[ée]pon|respuesta|rispost/i;

/** Whether a row is a reaction to another message. */
export function isReaction(row: Row, { reactions, text }: MessageReading, tables: readonly Table[]): boolean {
	if (!reactions) return false;
	const { kinds, to } = reactions;
	if (kinds) return kinds.values.includes(keyOf(cell(row, kinds.column, tables)) ?? '');
	const value = cell(row, text.value, tables);
	return keyOf(cell(row, to, tables)) !== null && typeof value === 'string' && isSign(value);
}

/** Whether a column says who or in which conversation: in one of these too all may be without words. */
const isPart = (c: SheetColumn, m: MessageReading): boolean =>
	[m.thread, m.peer, m.sender, m.recipient, m.participant].some((part) => part?.value === c);

const keysWhere = (kinds: ReadonlyMap<string | number, Kind>, is: (k: Kind, kind: string | number) => boolean): (string | number)[] =>
	[...kinds].filter(([kind, k]) => is(k, kind)).map(([kind]) => kind);

function kindsIn(column: SheetColumn, reading: MessageReading, context: Context): Map<string | number, Kind> {
	const { sheet, text } = reading;
	const naming = sheet.columns.filter((c) => c !== column && namesFew(c, reading));
	const kinds = new Map<string | number, Kind>();
	for (const row of sheet.sure.slice(0, ROWS)) {
		const key = keyOf(cell(row, column, context.tables));
		if (key === null) continue;
		let kind = kinds.get(key);
		if (!kind) kinds.set(key, (kind = { rows: 0, prose: 0, texts: [], naming: new Map() }));
		kind.rows++;
		const value = cell(row, text.value, context.tables);
		if (typeof value === 'string' && /\p{L}{2}|\p{Extended_Pictographic}|[\u3040-\u9fff]/u.test(value)) kind.prose++;
		if (typeof value === 'string' && value !== '' && kind.texts.length < TEXTS_KEPT) kind.texts.push(value);
		for (const c of naming) if (keyOf(cell(row, c, context.tables)) !== null) kind.naming.set(c, (kind.naming.get(c) ?? 0) + 1);
	}
	return kinds;
}

/** A column that is filled in some rows alone, with what names one row of the sheet: its number or key. */
function namesFew(c: SheetColumn, { sheet, text, time, guid }: MessageReading): boolean {
	const p = c.profile;
	if (c === text.value || c === time?.value || c === guid || c.column < 0 || p.time || p.reals > 0 || p.filled === 0) return false;
	if (p.filled > sheet.sure.length * 0.5 || p.prose > 0.3) return false;
	return p.texts > 0 ? p.uuid > 0.8 || p.token > 0.9 : p.low >= 0 && p.distinct.size > Math.min(2, p.filled * 0.3);
}

/** Share of a sheet's rows that are reactions, or a program's own lines, at most. */
const MOST_OTHERS = 0.4;

/** The column in which all rows of a kind name a message, if they hold nothing but a sign each; or null. */
function reacts(k: Kind, rows: number): SheetColumn | null {
	if (k.rows > rows * MOST_OTHERS || k.texts.length < k.rows || !k.texts.every(isSign)) return null;
	return [...k.naming].find(([, n]) => n === k.rows)?.[0] ?? null;
}

const LINES_LEAST = 3;
/** Share of such lines that differ, at most: where each has a name, and where some have none. */
const REPEATED = 0.7;
const REPEATED_NAMELESS = 0.6;
/** What stands for a name. */
const SOMEBODY = '\u0000';
/** A name in full, as a line begins with one that no list has. */
const FULL_NAME = /^\p{Lu}[\p{L}'’-]+ \p{Lu}[\p{L}'’-]+(?= \p{Ll})/u;

/** A text as a line without its names. */
type LineOf = (text: string) => string;

/** Whether the lines of a kind are few but for the names in them: one has each of them, or some, and the others are lines as well. */
function areLinesOfNames(k: Pick<Kind, 'rows' | 'texts'>, lineOf: LineOf, rows: number): boolean {
	if (k.texts.length < LINES_LEAST || k.rows > rows * MOST_OTHERS) return false;
	const lines = k.texts.map(lineOf);
	const named = lines.filter((line) => line.includes(SOMEBODY)).length;
	const differ = new Set(lines).size;
	if (named === lines.length) return differ <= Math.max(1, lines.length * REPEATED);
	return named > 0 && differ <= lines.length * REPEATED_NAMELESS && lines.every((line) => /\S\s+\S/.test(line));
}

/**
 * Rare kinds of which each has too few lines to tell, where all of them together, and those of which it is known, are such
 * lines. Each is one of somebody named, or comes again: what somebody wrote is neither.
 */
function rareLines(
	kinds: ReadonlyMap<string | number, Kind>,
	known: readonly (string | number)[],
	lineOf: LineOf,
	rows: number
): (string | number)[] {
	const rare = [...kinds].filter(([kind, k]) => known.includes(kind) || (k.rows <= rows * RARE && k.texts.length === k.rows));
	const counts = new Map<string, number>();
	for (const line of rare.flatMap(([, k]) => k.texts.map(lineOf))) counts.set(line, (counts.get(line) ?? 0) + 1);
	const isLine = (text: string): boolean => lineOf(text).includes(SOMEBODY) || counts.get(lineOf(text))! > 1;
	const able = rare.filter(([kind, k]) => known.includes(kind) || k.texts.every(isLine));
	const texts = able.flatMap(([, k]) => k.texts);
	const areLines = able.length > 1 && areLinesOfNames({ rows: texts.length, texts }, lineOf, rows);
	return areLines ? able.flatMap(([kind]) => (known.includes(kind) ? [] : [kind])) : [];
}
const RARE = 0.15;

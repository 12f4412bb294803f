/**
 * Texts kept aside: a table of messages without texts, and one of texts without times whose rows name those of the first
 * or are named by them (a message in parts, texts in a table of their own). The first gets a column that reads them.
 */
import type { Row, Table, Value } from '../model';
import { numbersByPlace } from './numbers';
import { profileOf } from './profile';
import { isMeant, keyOf, type Key, type Reference } from './refs';
import { cell, sampleOf, type Sheet, type SheetColumn } from './sheet';
import { versionIn, versionOf, type VersionColumn } from './versions-aside';

/** Column number of a column whose values stand in another table. */
export const ASIDE = -2;

export interface Aside {
	sheet: Sheet;
	text: SheetColumn;
	/** Column of the messages that leads there; null for their record number. */
	own: SheetColumn | null;
	/** Column of the texts' table by which its rows are found; null for their record number. */
	key: SheetColumn | null;
	rows: ReadonlyMap<string, readonly Row[]>;
	/** Column of the media type of each part, where the table has parts of other types as well. */
	type: SheetColumn | null;
	/** How the versions of a message's text are told, where it has several; null where several are its parts. */
	version: VersionColumn | null;
}

/** Whether a row of the texts' table has a text that people saw: how a message is laid out is a part of it too. */
export function isTextPart(row: Row, { type }: Pick<Aside, 'type'>, tables: readonly Table[]): boolean {
	const stated = type ? cell(row, type, tables) : null;
	return typeof stated !== 'string' || /^text\//i.test(stated);
}

/** How sure a key must be: of texts anywhere, and where other messages have theirs in their own rows. */
export const LIKELY_KEY = 0.4;
export const SURE_KEY = 0.75;
const EACH_THE_OTHER = 0.9;
const AS_SURE = 0.15;

/** Share of a table's texts that may belong to one and the same message (its parts). */
const ONE_TO_ONE = 0.6;
/** Share of messages that name a text of their own, where they name them: titles are named again and again. */
const ONE_EACH = 0.8;

/** The column that reads `texts` for the rows of `messages`, if their keys say, at least so surely, that each has its own. */
export function asideColumn(
	messages: Sheet,
	texts: { sheet: Sheet; text: SheetColumn },
	references: ReadonlyMap<Sheet, readonly Reference[]>,
	tables: readonly Table[],
	least: number
): SheetColumn | null {
	if (messages.family || texts.sheet.family) return null;
	// Rows of any two tables are numbered alike: it says something where nothing else could have the texts, where it is named
	// so, or where each has the other.
	const isChance = (r: Reference, of: Sheet): boolean =>
		(least >= SURE_KEY || r.key.column !== null) && Math.min(r.inclusion, r.coverage) < EACH_THE_OTHER && !isMeant(r, of, tables);
	const there = (references.get(texts.sheet) ?? []).filter(
		(r) =>
			r.key.sheet === messages &&
			r.from !== texts.text &&
			!isChance(r, texts.sheet) &&
			r.confidence > least &&
			r.coverage > 0.3 &&
			eachOfFew(r.from, texts, tables)
	);
	const back = (references.get(messages) ?? []).filter(
		(r) =>
			r.key.sheet === texts.sheet &&
			r.key.column !== texts.text &&
			!isChance(r, messages) &&
			r.confidence > least &&
			r.coverage > 0.3 &&
			(r.from.profile.many || isOneEach(r.from, messages))
	);
	// The rows' own numbers fit as well, where hardly a message is without a text: what else leads there is meant.
	const surest = there[0]?.confidence ?? back[0]?.confidence ?? 0;
	const meant = (list: readonly Reference[], of: Sheet): Reference | undefined =>
		list.find((r) => isMeant(r, of, tables) && r.confidence >= surest - AS_SURE);
	const [toMessages, toTexts] = [meant(there, texts.sheet), meant(back, messages)];
	const first = toMessages ?? (toTexts ? undefined : there[0]);
	if (first) return columnAside(messages, texts, first.key.column, first.from, tables);
	const second = toTexts ?? back[0];
	return second ? columnAside(messages, texts, second.from, second.key.column, tables) : null;
}

/** Whether (nearly) each message has a text of its own, those that are written: there can be pictures and calls besides. */
const isOneEach = ({ made, profile: p }: SheetColumn, { sure }: Sheet): boolean =>
	p.distinct.size > (made ? Math.max(p.filled, sure.length * WRITTEN_LEAST) : sure.length) * ONE_EACH;
const WRITTEN_LEAST = 0.4;

const typeIn = (sheet: Sheet): SheetColumn | null => sheet.columns.find((c) => c.profile.mime > TYPES) ?? null;
const TYPES = 0.5;

/** Whether texts are of a message each, or of few: rows without a text (the other parts of a message) say nothing of it. */
function eachOfFew(key: SheetColumn, { sheet, text }: { sheet: Sheet; text: SheetColumn }, tables: readonly Table[]): boolean {
	if (key.profile.many) return true;
	const type = typeIn(sheet);
	const written = sheet.sure.filter((row) => typeof cell(row, text, tables) === 'string' && isTextPart(row, { type }, tables));
	return new Set(written.map((row) => keyOf(cell(row, key, tables)))).size > written.length * ONE_TO_ONE;
}

/** The column that reads the texts in `sheet` for the rows of `messages`: `own` and `key` name each other, or the record number where null. */
export function columnAside(
	messages: Sheet,
	{ sheet, text }: { sheet: Sheet; text: SheetColumn },
	own: SheetColumn | null,
	key: Key['column'],
	tables: readonly Table[]
): SheetColumn {
	const rows = new Map<string, Row[]>();
	const type = typeIn(sheet);
	const numbered = key === null || key.column === tables[sheet.tables[0]!]!.rowidColumn;
	const numbers = numbered ? numbersByPlace(sheet.rows) : null;
	for (const row of sheet.rows) {
		const k = keyOf(numbers ? (row.rowid ?? numbers.get(row)) : cell(row, key!, tables));
		if (k === null || typeof cell(row, text, tables) !== 'string' || !isTextPart(row, { type }, tables)) continue;
		const list = rows.get(String(k));
		if (list) list.push(row);
		else rows.set(String(k), [row]);
	}
	const keyIn = (row: Row): string => String(keyOf(own ? cell(row, own, tables) : row.rowid));
	const aside: Aside = { sheet, text, own, key, rows, type, version: versionIn({ sheet, text, rows }, messages, keyIn, tables) };
	const column: SheetColumn = { name: `${sheet.name}.${text.name}`, column: ASIDE, path: [], aside, profile: text.profile };
	column.profile = profileOf(messages.sure, (r) => textAside(asideOf(r, aside, null, tables), aside, tables), sampleOf(messages.sure));
	return column;
}

/** The rows with the texts of a message, or the one of the version that counts. `number`: its record number, where the row has lost it. */
export function asideOf(row: Row, aside: Aside, number: number | null, tables: readonly Table[]): readonly Row[] {
	const key = keyOf(aside.own ? cell(row, aside.own, tables) : row.rowid) ?? (aside.own ? null : number);
	const found = key === null ? [] : (aside.rows.get(String(key)) ?? []);
	const kept = found.filter((r) => r.standing === 'kept');
	const inUse = kept.length > 0 ? kept : found;
	return aside.version ? versionOf(row, inUse, aside.version, tables) : inUse;
}

/** Of a message's text rows those that make its text: its parts where they are in use; of a lost key, which can have been used again, one. */
export function partsOf(rows: readonly Row[]): readonly Row[] {
	if (rows.every((r) => r.standing === 'kept')) return rows;
	const whole = rows.find((r) => r.grade === 'whole');
	return whole ? [whole] : rows.slice(0, 1);
}

/** The text that those rows make: parts one below the other. */
export function textAside(rows: readonly Row[], aside: Aside, tables: readonly Table[]): Value | undefined {
	const texts = partsOf(rows).map((r) => cell(r, aside.text, tables));
	return texts.filter((t) => typeof t === 'string' && t !== '').join('\n') || undefined;
}

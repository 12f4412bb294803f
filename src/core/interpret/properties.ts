/**
 * Tables of properties: each row says one thing of a message, by its name (`text`, `client`, `lang`), as programs keep
 * them that want no columns. The messages get a column for each name.
 */
import { MEDIA_TYPE } from '../bytes';
import type { Row, Table, Value } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { isMeant, keyOf } from './refs';
import { addColumn, rowsByMessage, type RowsOfMessages } from './rows-of-messages';
import { cell, sampleOf, type Sheet, type SheetColumn } from './sheet';

const NAMES_AT_MOST = 40;
const LONGEST_NAME = 32;
/** Rows to a name, at least and on average; share of the rows whose name stands once with a message. */
const ROWS_LEAST = 3;
const ONCE = 0.95;
/** Properties that a message has on average, at least. */
const SEVERAL = 1.8;
const PROSE = 0.3;
/** Share of the rows that must name a message. */
const NAMING = 0.5;

/** `name`: of what a row says; `value`: what it says. */
export interface Properties extends RowsOfMessages {
	name: SheetColumn;
	value: SheetColumn;
}

/** Adds the columns to sheets that have a time and no text of their own; the tables of properties. */
export function openProperties(context: Context): Map<Sheet, Properties> {
	const { tables } = context;
	const opened = new Map<Sheet, Properties>();
	for (const list of context.sheets) {
		const found = propertiesIn(list, context);
		if (!found) continue;
		opened.set(list, found);
		const { name, value } = found;
		const rows = rowsByMessage(found, tables);
		for (const word of wordsOf(name)) {
			const read = (row: Row): Value | undefined => {
				const said = rows(row).find((r) => cell(r, name, tables) === word);
				return said && cell(said, value, tables);
			};
			addColumn(found, `${list.name}.${word}`, { read }, tables);
		}
		for (const part of [name, value]) part.profile = { ...part.profile, prose: 0, name: 0, texts: 0 };
	}
	return opened;
}

const wordsOf = ({ profile }: SheetColumn): string[] =>
	[...profile.distinct].flatMap(([word, rows]) => (typeof word === 'string' && rows >= ROWS_LEAST ? [word] : []));

function propertiesIn(list: Sheet, context: Context): Properties | null {
	const { tables, references } = context;
	if (list.family) return null;
	const own = list.columns.filter((c) => c.column >= 0 && c.path.length === 0 && !c.made && !c.body);
	const refs = (references.get(list) ?? []).filter(
		(r) => r.inclusion > NAMING && isMeant(r, list, tables) && lacksText(r.key.sheet, context)
	);
	for (const { from, key } of refs)
		for (const name of own.filter((c) => c !== from && areNames(c, list)))
			for (const value of own) {
				const found = { list, messages: key.sheet, key: from, own: key.column, name, value };
				if (value !== from && value !== name && saysOnce(found, tables)) return found;
			}
	return null;
}

/** Messages that have a time, and nothing to read. */
function lacksText(sheet: Sheet, { tables }: Context): boolean {
	const text = bestText(sheet);
	return !sheet.family && bestTime(sheet, tables) !== null && (text === null || text.value.profile.prose < PROSE);
}

const areNames = ({ profile: p }: SheetColumn, list: Sheet): boolean =>
	p.texts === p.filled &&
	p.filled === list.sure.length &&
	!p.many &&
	p.distinct.size >= 2 &&
	p.distinct.size <= NAMES_AT_MOST &&
	p.filled >= p.distinct.size * ROWS_LEAST &&
	[...p.distinct.keys()].every((v) => String(v).length <= LONGEST_NAME && !/\s\S+\s/.test(String(v)) && !MEDIA_TYPE.test(String(v)));

/** Whether each name stands once with a message, and under one of them is writing. */
function saysOnce({ list, key, name, value }: Properties, tables: readonly Table[]): boolean {
	const kept = list.sure.filter((row) => row.standing === 'kept');
	const said = new Set(kept.map((row) => `${keyOf(cell(row, key, tables))}|${cell(row, name, tables) as string}`));
	const owners = new Set(kept.map((row) => keyOf(cell(row, key, tables)))).size;
	// Parts of messages have a kind each, and most messages one part.
	if (kept.length < owners * SEVERAL || owners === 0 || said.size < kept.length * ONCE) return false;
	return wordsOf(name).some((word) => {
		const rows = list.sure.filter((row) => cell(row, name, tables) === word);
		return profileOf(rows, (row) => cell(row, value, tables), sampleOf(rows)).prose > PROSE;
	});
}

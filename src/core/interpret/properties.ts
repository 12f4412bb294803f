/**
 * Tables of properties: each row says one thing of a message, by its name (`text`, `client`, `lang`), as programs keep
 * them that want no columns. The messages get a column for each name.
 */
import { MEDIA_TYPE } from '../media-type';
import type { Row, Table } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { isMeant, keyOf, type Reference } from './refs';
import { cell, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';

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

interface Properties {
	list: Sheet;
	of: Reference;
	name: SheetColumn;
	value: SheetColumn;
}

/** Adds the columns to sheets that have a time and no text of their own; the tables of properties. */
export function openProperties(context: Context): Set<Sheet> {
	const opened = new Set<Sheet>();
	for (const list of context.sheets) {
		const found = propertiesIn(list, context);
		if (!found) continue;
		opened.add(list);
		const { of, name, value } = found;
		for (const word of wordsOf(name)) {
			const rows = rowsOf(found, word, context.tables);
			const made: Made = { read: (row) => rows(row, value) };
			const target = of.key.sheet;
			const profile = profileOf(target.sure, made.read, sampleOf(target.sure));
			const column = of.key.column?.column ?? Math.max(0, context.tables[target.tables[0]!]!.rowidColumn);
			target.columns.push({ name: `${list.name}.${word}`, column, path: [word], made, profile });
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
	for (const of of refs)
		for (const name of own.filter((c) => c !== of.from && areNames(c, list)))
			for (const value of own) {
				const found = { list, of, name, value };
				if (value !== of.from && value !== name && saysOnce(found, tables)) return found;
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
function saysOnce({ list, of, name, value }: Properties, tables: readonly Table[]): boolean {
	const kept = list.sure.filter((row) => row.standing === 'kept');
	const said = new Set(kept.map((row) => `${keyOf(cell(row, of.from, tables))}|${cell(row, name, tables) as string}`));
	const owners = new Set(kept.map((row) => keyOf(cell(row, of.from, tables)))).size;
	// Parts of messages have a kind each, and most messages one part.
	if (kept.length < owners * SEVERAL || owners === 0 || said.size < kept.length * ONCE) return false;
	return wordsOf(name).some((word) => {
		const rows = list.sure.filter((row) => cell(row, name, tables) === word);
		return profileOf(rows, (row) => cell(row, value, tables), sampleOf(rows)).prose > PROSE;
	});
}

/** What the rows under a name say of a message: those in use of one in use, and of a lost one what is left. */
function rowsOf(
	{ list, of, name }: Properties,
	word: string,
	tables: readonly Table[]
): (row: Row, value: SheetColumn) => Row['values'][number] | undefined {
	const [kept, lost] = [new Map<string | number, Row>(), new Map<string | number, Row>()];
	for (const row of list.rows) {
		const key = cell(row, name, tables) === word ? keyOf(cell(row, of.from, tables)) : null;
		if (key !== null) (row.standing === 'kept' ? kept : lost).set(key, row);
	}
	return (row, value) => {
		const key = keyOf(of.key.column ? cell(row, of.key.column, tables) : row.rowid);
		if (key === null) return undefined;
		const said = row.standing === 'kept' ? kept.get(key) : (lost.get(key) ?? kept.get(key));
		return said && cell(said, value, tables);
	};
}

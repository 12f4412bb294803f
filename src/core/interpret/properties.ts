/**
 * Tables of properties: each row says one thing of a message, by its name (`text`, `client`, `lang`), as programs keep
 * them that want no columns. The messages get a column for each name.
 */
import { MEDIA_TYPE } from '../bytes';
import type { Row, Table, Value } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { FILE_NAME, profileOf } from './profile';
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
		const found = areParts(list) ? null : (propertiesIn(list, context) ?? propertiesOfFiles(list, context));
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

/** Parts of messages (RFC 2046) have a type each, and names that their files had. */
const areParts = (list: Sheet): boolean => list.columns.some(({ profile: p }) => p.mime > MOSTLY && p.filled > list.sure.length * MOSTLY);

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

/** What rows say thing by thing of the files that messages name by a key of their own: its name, its size. */
function propertiesOfFiles(list: Sheet, { sheets, tables }: Context): Properties | null {
	if (list.family) return null;
	const own = list.columns.filter((c) => c.column >= 0 && c.path.length === 0 && !c.made && !c.body);
	const names = own.filter((c) => areNames(c, list));
	for (const name of names)
		for (const value of own.filter((c) => c !== name && c.profile.texts > 0 && saysFiles(c, name, list, tables)))
			for (const key of own.filter((c) => c !== name && c !== value && comesAgain(c))) {
				const keys = new Set(list.rows.map((row) => keyOf(cell(row, key, tables))));
				for (const messages of sheets.filter((s) => s !== list && !s.family && bestTime(s, tables) !== null)) {
					const from = messages.columns.find((c) => namesEach(c, messages, keys, tables));
					const found = from && { list, messages, key, own: from, name, value };
					if (found && standsOnce(found, tables)) return found;
				}
			}
	return null;
}

const comesAgain = ({ profile: p }: SheetColumn): boolean => p.distinct.size > 0 && !p.many && p.distinct.size * SEVERAL <= p.filled;

/** Whether under one of the names are names of files. */
const saysFiles = (value: SheetColumn, name: SheetColumn, list: Sheet, tables: readonly Table[]): boolean =>
	wordsOf(name).some((word) => {
		const said = list.sure.flatMap((row) => (cell(row, name, tables) === word ? [cell(row, value, tables)] : []));
		return said.filter((v) => typeof v === 'string' && (FILE_NAME.test(v) || MEDIA_TYPE.test(v))).length > said.length * MOSTLY;
	});
const MOSTLY = 0.8;

/** Whether a column has keys of files, each of a message of its own, and nothing else. */
function namesEach(c: SheetColumn, messages: Sheet, keys: ReadonlySet<string | number | null>, tables: readonly Table[]): boolean {
	if (c.column < 0 || c.path.length > 0 || c.profile.time || c.profile.reals + c.profile.blobs > 0) return false;
	const named = messages.sure.flatMap((row) => keyOf(cell(row, c, tables)) ?? []);
	const known = named.filter((value) => keys.has(value));
	return known.length >= ROWS_LEAST && known.length >= named.length * MOSTLY && new Set(known).size >= known.length * MOSTLY;
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
function saysOnce(found: Properties, tables: readonly Table[]): boolean {
	const { list, name, value } = found;
	if (!standsOnce(found, tables)) return false;
	return wordsOf(name).some((word) => {
		const rows = list.sure.filter((row) => cell(row, name, tables) === word);
		return profileOf(rows, (row) => cell(row, value, tables), sampleOf(rows)).prose > PROSE;
	});
}

function standsOnce({ list, key, name }: Properties, tables: readonly Table[]): boolean {
	const kept = list.sure.filter((row) => row.standing === 'kept');
	const said = new Set(kept.map((row) => `${keyOf(cell(row, key, tables))}|${cell(row, name, tables) as string}`));
	const owners = new Set(kept.map((row) => keyOf(cell(row, key, tables)))).size;
	// Parts of messages have a kind each, and most messages one part.
	return owners > 0 && kept.length >= owners * SEVERAL && said.size >= kept.length * ONCE;
}

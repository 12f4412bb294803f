/**
 * Strings kept once: a table of nothing but numbered texts, which columns of several other tables name (the text of a
 * message, a person's number and name, a room's title, a file's name). Those columns are read as what they name.
 */
import { MEDIA_TYPE } from '../bytes';
import type { Row, Table, Value } from '../model';
import { columnAside } from './aside';
import { FILE_NAME, profileOf, type Profile } from './profile';
import { keyOf } from './refs';
import { cell, isOwnNumber, sampleOf, type Sheet, type SheetColumn } from './sheet';

/** Fewer strings are a list of something else. */
const STRINGS_LEAST = 20;
const NEARLY_ALL = 0.95;
/** Of the strings so many must be named: earlier wordings can be left that no row names any more. */
const NAMED = 0.6;
const COLUMNS_LEAST = 3;
const SHEETS_LEAST = 2;
/** Shares of the texts behind a column by which it is all of addresses, or what people wrote. */
const OF_ONE_SORT = 0.9;
const WRITTEN = 0.3;

/** Texts by the numbers of their rows; null where two have had one. */
type Strings = ReadonlyMap<string | number, string | null>;

interface Naming {
	sheet: Sheet;
	column: SheetColumn;
	read(row: Row): Value | undefined;
	profile: Profile;
}

/**
 * Opens the tables of strings among `sheets`: columns that name their rows give the texts instead, and what messages say is
 * read from there with its place. Returns those tables, in which are left only the texts of messages and what nothing names.
 */
export function openStringTables(sheets: readonly Sheet[], tables: readonly Table[], isTimed: (sheet: Sheet) => boolean): Set<Sheet> {
	const found = new Set<Sheet>();
	for (const strings of sheets) {
		const text = textOf(strings, tables);
		if (!text) continue;
		const byNumber = stringsOf(strings, text, tables);
		const naming = sheets.flatMap((sheet) => (sheet === strings || sheet.family ? [] : namesIn(sheet, strings, byNumber, tables)));
		const meant = alikeNamed(naming, strings, tables).find((group) => isTableOfStrings(group, strings));
		if (!meant) continue;
		openOne({ strings, text, byNumber }, meant, isTimed, tables);
		found.add(strings);
	}
	return found;
}

/** The one column beside the rows' own number, all texts; null where there are others. */
function textOf(sheet: Sheet, tables: readonly Table[]): SheetColumn | null {
	const [table, ...rest] = sheet.tables;
	if (rest.length > 0 || sheet.sure.length < STRINGS_LEAST || tables[table!]!.rowidColumn < 0) return null;
	const stored = sheet.columns.filter((c) => c.path.length === 0 && !c.made && !c.body && !isOwnNumber(c, sheet, tables));
	const [text, ...others] = stored;
	if (!text || others.some((c) => c.profile.filled > 0)) return null;
	return text.profile.texts >= text.profile.filled * NEARLY_ALL ? text : null;
}

/** Texts by number: those in use first; of lost ones those whose number no other has had. */
function stringsOf(sheet: Sheet, text: SheetColumn, tables: readonly Table[]): Strings {
	const kept = new Map<string | number, string>();
	const lost = new Map<string | number, string | null>();
	for (const row of sheet.rows) {
		const [key, value] = [keyOf(row.rowid), cell(row, text, tables)];
		if (key === null || typeof value !== 'string') continue;
		if (row.standing === 'kept') kept.set(key, value);
		else lost.set(key, lost.has(key) && lost.get(key) !== value ? null : value);
	}
	return new Map([...lost, ...kept]);
}

/** The columns whose numbers are all numbers of strings. */
function namesIn(sheet: Sheet, strings: Sheet, byNumber: Strings, tables: readonly Table[]): Naming[] {
	return sheet.columns.flatMap((column) => {
		const { profile: p } = column;
		if (column.column < 0 || column.path.length > 0 || column.made || column.body || isOwnNumber(column, sheet, tables)) return [];
		if (p.filled === 0 || p.ints < p.filled * NEARLY_ALL || (column.references && !declares(column, strings, tables))) return [];
		// The strings of lost rows are mostly lost as well.
		const numbers = new Set(sheet.rows.flatMap((row) => (row.standing === 'kept' ? (keyOf(row.values[column.column]) ?? []) : [])));
		if (numbers.size === 0 || [...numbers].filter((n) => byNumber.has(n)).length < numbers.size * NEARLY_ALL) return [];
		const read = (row: Row): Value | undefined => {
			const number = keyOf(row.values[column.column]);
			return number === null ? row.values[column.column] : (byNumber.get(number) ?? undefined);
		};
		return [{ sheet, column, read, profile: profileOf(sheet.sure, read, sampleOf(sheet.sure)) }];
	});
}

const declares = (column: SheetColumn, strings: Sheet, tables: readonly Table[]): boolean =>
	column.references?.toLowerCase() === tables[strings.tables[0]!]!.name.toLowerCase();

/** The columns that are declared to name strings, or whose names end alike: numbers of rows are small and the same in any two tables. */
function alikeNamed(naming: readonly Naming[], strings: Sheet, tables: readonly Table[]): Naming[][] {
	const groups = new Map<string, Naming[]>();
	for (const one of naming) {
		const end = /(?:_|(?<=[a-z\d])(?=[A-Z]))([A-Za-z]+)$/.exec(one.column.name)?.[1]?.toLowerCase();
		const key = declares(one.column, strings, tables) ? '' : end;
		if (key === undefined) continue;
		const group = groups.get(key);
		if (group) group.push(one);
		else groups.set(key, [one]);
	}
	return [...groups.values()];
}

/** Whether columns of several tables name nearly all strings, one of them addresses alone, one of them what people wrote. */
function isTableOfStrings(group: readonly Naming[], strings: Sheet): boolean {
	if (group.length < COLUMNS_LEAST || new Set(group.map((one) => one.sheet)).size < SHEETS_LEAST) return false;
	if (!group.some(({ profile: p }) => p.phone + p.email >= OF_ONE_SORT) || !group.some(isWritten)) return false;
	const named = new Set(group.flatMap(({ column }) => [...column.profile.distinct.keys()]));
	const kept = strings.rows.filter((row) => row.standing === 'kept');
	return kept.filter((row) => named.has(keyOf(row.rowid)!)).length >= kept.length * NAMED;
}

const isWritten = ({ profile }: Naming): boolean => profile.prose >= WRITTEN;

function openOne(
	{ strings, text, byNumber }: { strings: Sheet; text: SheetColumn; byNumber: Strings },
	naming: readonly Naming[],
	isTimed: (sheet: Sheet) => boolean,
	tables: readonly Table[]
): void {
	const said = naming.filter((one) => isTimed(one.sheet) && isWritten(one));
	const others = naming.filter((one) => !said.includes(one));
	const [ofMessages, ofOthers] = [said, others].map((list) => new Set(list.flatMap((one) => one.sheet.rows.map((r) => numberIn(r, one)))));
	const isLeft = (row: Row): boolean => {
		const [number, value] = [keyOf(row.rowid), String(cell(row, text, tables) ?? '')];
		// A number can have been a lost text's before it was this one's; but two numbers are easily read out of lost bytes.
		const isOfAnother = row.standing !== 'kept' && number !== null && byNumber.get(number) !== value;
		if (isOfAnother && row.grade === 'fragment') return false;
		if (number !== null && ofMessages!.has(number)) return true;
		return !FILE_NAME.test(value) && !MEDIA_TYPE.test(value) && (number === null || isOfAnother || !ofOthers!.has(number));
	};
	const sure = new Set(strings.sure);
	strings.rows = strings.rows.filter(isLeft).filter(isWholeAmong(strings.rows, text, tables));
	strings.sure = strings.rows.filter((row) => sure.has(row));
	text.profile = profileOf(strings.sure, (row) => cell(row, text, tables), sampleOf(strings.sure));
	for (const { column, read, profile } of others) {
		column.made = { read };
		column.profile = profile;
		delete column.references;
	}
	for (const { sheet, column } of said) {
		sheet.columns.push(columnAside(sheet, { sheet: strings, text }, column, null, tables));
		column.profile = { ...column.profile, time: null };
	}
}

const numberIn = (row: Row, { column }: Naming): string | number | null => keyOf(row.values[column.column]);

/** Letters that are looked through, at most, for parts of words. */
const LOOKED_THROUGH = 400_000_000;

/** Tells the rows that are lost and whose text is only a part of another's, from or to the middle of a word: each string stands once. */
function isWholeAmong(rows: readonly Row[], text: SheetColumn, tables: readonly Table[]): (row: Row) => boolean {
	const texts = [...new Set(rows.map((row) => cell(row, text, tables)).filter((t) => typeof t === 'string'))];
	const all = `\n${texts.join('\n')}\n`;
	const lost = rows.filter((row) => row.standing !== 'kept').length;
	if (lost * all.length > LOOKED_THROUGH) return () => true;
	const isLetter = (at: number): boolean => /[\p{L}\p{N}]/u.test(all.charAt(at));
	return (row) => {
		const one = cell(row, text, tables);
		if (row.standing === 'kept' || typeof one !== 'string' || one === '') return true;
		for (let at = all.indexOf(one); at >= 0; at = all.indexOf(one, at + 1)) {
			const end = at + one.length;
			if ((isLetter(at) && isLetter(at - 1)) || (isLetter(end - 1) && isLetter(end))) return false;
		}
		return true;
	};
}

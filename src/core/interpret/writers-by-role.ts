/**
 * Who wrote as the part that a person has in the conversation ("buyer", "seller"): the conversation's row, or the message's
 * own, has a column for each part. The messages get a column that says the person.
 */
import type { Row, Value } from '../model';
import { addressShare, bestText } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { keyOf, referencesOf } from './refs';
import { cell, leaveAside, sampleOf, type Sheet, type SheetColumn } from './sheet';

const SURE = 0.5;
const WORDS = 6;
const NEARLY_ALL = 0.95;
const LONGEST = 24;

/** Where the columns for the parts stand: the rows of this sheet, found for each message. */
interface Place {
	sheet: Sheet;
	rowOf(row: Row): Row | undefined;
}

/** Adds the columns, to sheets of texts. */
export function openWritersByRole(context: Context): void {
	const { sheets, keys, references, tables } = context;
	for (const sheet of sheets) {
		const words = sheet.family || !bestText(sheet) ? [] : sheet.columns.filter((c) => areWords(c, sheet));
		const places = words.length === 0 ? [] : [{ sheet, rowOf: (row: Row) => row }, ...listsOf(sheet, context)];
		const found = words.flatMap((word) => places.flatMap((place) => partsOf(word, place, context) ?? []))[0];
		if (!found) continue;
		const { word, place, parts } = found;
		const read = (row: Row): Value | undefined => {
			const part = parts.get(String(cell(row, word, tables)).toLowerCase());
			const of = part && place.rowOf(row);
			return of && cell(of, part, tables);
		};
		const profile = profileOf(sheet.sure, read, sampleOf(sheet.sure));
		const made = { read, writer: true as const };
		sheet.columns.push({ name: `${word.name} (person)`, column: word.column, path: ['person'], made, profile });
		leaveAside(word);
		references.set(sheet, referencesOf(sheet, keys, tables));
	}
}

const areWords = ({ profile: p, ...c }: SheetColumn, { sure }: Sheet): boolean =>
	c.column >= 0 &&
	!c.made &&
	p.texts === p.filled &&
	p.filled >= sure.length * NEARLY_ALL &&
	p.distinct.size > 1 &&
	p.distinct.size <= WORDS &&
	p.averageLength <= LONGEST;

/** The lists whose rows the messages name. */
function listsOf(sheet: Sheet, { references, tables }: Context): Place[] {
	return (references.get(sheet) ?? [])
		.filter((r) => r.confidence >= SURE && r.key.sheet !== sheet)
		.map(({ from, key }) => {
			const rows = new Map<string | number, Row>();
			for (const row of key.sheet.rows) {
				const k = keyOf(key.column ? cell(row, key.column, tables) : row.rowid);
				if (k !== null && (row.standing === 'kept' || !rows.has(k))) rows.set(k, row);
			}
			return { sheet: key.sheet, rowOf: (row: Row) => rows.get(keyOf(cell(row, from, tables)) ?? '') };
		});
}

/** The columns of persons by the words that they are called for; null where a word has none. */
function partsOf(
	word: SheetColumn,
	place: Place,
	{ references }: Context
): { word: SheetColumn; place: Place; parts: Map<string, SheetColumn> } | null {
	const named = new Set((references.get(place.sheet) ?? []).flatMap((r) => (r.inclusion >= NEARLY_ALL ? [r.from] : [])));
	const persons = place.sheet.columns.filter((c) => c !== word && c.column >= 0 && !c.made && (named.has(c) || addressShare(c) > SURE));
	const parts = new Map<string, SheetColumn>();
	for (const value of word.profile.distinct.keys()) {
		const called = persons.filter((c) => isCalledFor(c.name, String(value)));
		if (called.length !== 1) return null;
		parts.set(String(value).toLowerCase(), called[0]!);
	}
	return new Set(parts.values()).size === parts.size ? { word, place, parts } : null;
}

/** Whether a column's name is the word, or the word with what a key is called. */
function isCalledFor(name: string, word: string): boolean {
	const plain = (text: string): string => text.toLowerCase().replace(/[^\p{L}\d]/gu, '');
	const [column, called] = [plain(name), plain(word)];
	return (
		called.length > 2 &&
		column.startsWith(called) &&
		/^(id|key|ref|no|uid|guid|uuid|user|userid|person|personid|number|phone|address|mail|email)?$/.test(column.slice(called.length))
	);
}

/**
 * Address books kept as entries: a row for each name, number and address of a person, told apart by a kind, and joined
 * by the person's key. All of them stand in one column.
 */
import { FILE_COLUMN } from '../harvest';
import type { Row } from '../model';
import type { Context } from './context';
import { EMAIL, PHONE } from './profile';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

export interface PersonEntries {
	sheet: Sheet;
	/** The person's key, the kind of the entry, and what it says. */
	owner: SheetColumn;
	kind: SheetColumn;
	value: SheetColumn;
	/** Of the kinds, as text: the one that holds names, and those that hold numbers and addresses. */
	name: string;
	addresses: ReadonlySet<string>;
}

const ROWS = 4000;
const MOST_KINDS = 40;
/** Kinds come back: of more than these few each has two entries on average. */
const FEW_KINDS = 4;
/** Share of a kind's entries that must be names, or addresses. */
const NEARLY_ALL = 0.8;
/** Share of the persons who have a name, and have one alone. */
const MOST_PERSONS = 0.6;
const ENTRIES_AT_MOST = 20;

const isName = (text: string): boolean =>
	/\p{L}/u.test(text) && !/\d{3}|[@/\\{}<>]/.test(text) && text.length <= 60 && text.split(/\s+/).length <= 6;

/** Seconds and milliseconds since 1970, of this century: when an entry was changed, not a number to call. */
const COUNTED = /^1[0-9]{9}(?:[0-9]{3})?$/;

interface Kind {
	rows: number;
	names: number;
	addresses: number;
	owners: Set<string>;
	said: Set<string>;
}

/** Different names of persons are those of persons; of few, those that are written so: one word for all is a program's. */
function areNames({ said, owners }: Kind): boolean {
	if (said.size < owners.size * MOST_PERSONS) return false;
	return said.size >= SEVERAL || [...said].filter((name) => /[\p{Lu}\p{Lo}]/u.test(name)).length >= said.size * MOST_PERSONS;
}
const SEVERAL = 3;

/** The sheet as such entries, or null. */
export function personEntriesIn(sheet: Sheet, context: Context): PersonEntries | null {
	const rows = sheet.sure.slice(0, ROWS);
	const stored = sheet.columns.filter((c) => c.column >= 0);
	const values = stored.filter((c) => {
		const share = (c.profile.phone + c.profile.email) * c.profile.texts;
		return c.profile.texts >= rows.length * MOST_PERSONS && share > c.profile.texts * 0.2 && share < c.profile.texts * 0.95;
	});
	const most = Math.min(MOST_KINDS, Math.max(FEW_KINDS, rows.length / 2));
	// Of an exported list each item has a key of its own, and that is no kind.
	const isExport = sheet.columns.some((c) => c.name === FILE_COLUMN);
	const others = stored.filter((c) => !c.profile.time);
	const kinds = others.filter(({ profile: { filled, distinct } }) => {
		const comesBack = !isExport || distinct.size < rows.length;
		return filled >= rows.length * 0.95 && distinct.size >= 2 && distinct.size <= most && comesBack;
	});
	const owners = others.filter((c) => {
		const many = c.profile.distinct.size;
		return c.profile.filled >= rows.length * 0.95 && many >= 1 && many < rows.length && many * ENTRIES_AT_MOST >= rows.length;
	});
	for (const value of values)
		for (const kind of kinds)
			for (const owner of owners) {
				if (new Set([value, kind, owner]).size < 3) continue;
				const found = read(rows, owner, kind, value, context);
				if (found) return { sheet, owner, kind, value, ...found };
			}
	return null;
}

function read(
	rows: readonly Row[],
	owner: SheetColumn,
	kind: SheetColumn,
	value: SheetColumn,
	{ tables }: Context
): Pick<PersonEntries, 'name' | 'addresses'> | null {
	const kinds = new Map<string, Kind>();
	const persons = new Set<string>();
	for (const row of rows) {
		const text = cell(row, value, tables);
		const [of, who] = [keyOf(cell(row, kind, tables)), keyOf(cell(row, owner, tables))];
		if (typeof text !== 'string' || of === null || who === null) continue;
		persons.add(String(who));
		let known = kinds.get(String(of));
		if (!known) kinds.set(String(of), (known = { rows: 0, names: 0, addresses: 0, owners: new Set(), said: new Set() }));
		known.rows++;
		known.owners.add(String(who));
		known.said.add(text);
		if ((PHONE.test(text) && !COUNTED.test(text)) || EMAIL.test(text)) known.addresses++;
		else if (isName(text)) known.names++;
	}
	const all = [...kinds];
	const addresses = new Set(all.filter(([, k]) => k.addresses >= k.rows * NEARLY_ALL).map(([of]) => of));
	const [name] = all
		.filter(
			([, k]) =>
				k.names >= k.rows * NEARLY_ALL &&
				k.owners.size >= persons.size * MOST_PERSONS &&
				k.owners.size >= k.rows * NEARLY_ALL &&
				areNames(k)
		)
		.sort(([, a], [, b]) => b.owners.size - a.owners.size);
	return name && addresses.size > 0 ? { name: name[0], addresses } : null;
}

/** Each person with the rows that say something of it. */
export function personsOf(entries: PersonEntries, tables: Context['tables']): { name: string | null; addresses: string[]; rows: Row[] }[] {
	const persons = new Map<string, { name: string | null; addresses: string[]; rows: Row[] }>();
	for (const row of entries.sheet.rows) {
		const text = cell(row, entries.value, tables);
		const [kind, who] = [keyOf(cell(row, entries.kind, tables)), keyOf(cell(row, entries.owner, tables))];
		if (typeof text !== 'string' || text.trim() === '' || kind === null || who === null) continue;
		let person = persons.get(String(who));
		if (!person) persons.set(String(who), (person = { name: null, addresses: [], rows: [] }));
		if (String(kind) === entries.name) person.name ??= text.trim();
		else if (entries.addresses.has(String(kind))) person.addresses.push(text.trim());
		else continue;
		person.rows.push(row);
	}
	return [...persons.values()];
}

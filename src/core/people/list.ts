/** Address books as lists: values in columns (RFC 4180, other delimiters too), or pasted lines with a name and a number. */
import Papa from 'papaparse';
import { speaksOfOthers } from '../kind-words';
import { add, isEmail, isNumber, joined, MOST_CARDS, utf8Size, withoutScheme, type Card, type SizeOf } from './card';
import { headingOf, type Heading } from './headings';

const HANDLE = /^[^\s@]{3,60}$/;
const NAME_LONGEST = 80;
/** Share of the rows, or lines, that must be a person's. */
const MOSTLY = 0.7;
/** Share of the persons who have a number or an address, where headings say what the list is. */
const SOME = 0.3;

/** A list with names and numbers or addresses; null where it is none. */
export function readList(text: string, sizeOf: SizeOf = utf8Size): Card[] | null {
	const bare = text.replace(/^\ufeff/, '');
	const rows = ruledRows(bare, sizeOf) ?? rowsOf(bare, sizeOf);
	return isOfOthers(rows) ? null : (readColumns(rows) ?? readLines(bare, sizeOf));
}

/** The persons of rows of values in columns; null where they are none. */
export const readRows = (rows: readonly ListRow[]): Card[] | null => (isOfOthers(rows) ? null : readColumns(rows));

/** Whether the headings of a table speak of something else, and of no persons. */
function isOfOthers([first]: readonly ListRow[]): boolean {
	if (!first || first.cells.length < 2 || first.cells.some((c) => addressesIn(c).length > 0)) return false;
	return first.cells.some(speaksOfOthers) && !first.cells.some((c) => OF_PERSONS.has(headingOf(c)));
}
const OF_PERSONS: ReadonlySet<Heading | null> = new Set(['name', 'given', 'family', 'address', 'organisation']);

export interface ListRow {
	cells: string[];
	offset: number;
	length: number;
}

function rowsOf(text: string, sizeOf: SizeOf): ListRow[] {
	const rows: ListRow[] = [];
	let from = 0;
	let offset = 0;
	Papa.parse<string[]>(text, {
		skipEmptyLines: 'greedy',
		preview: MOST_CARDS,
		step: ({ data, meta }) => {
			const length = sizeOf(text.slice(from, meta.cursor));
			rows.push({ cells: data.map((c) => c.trim()), offset, length });
			from = meta.cursor;
			offset += length;
		}
	});
	return rows;
}

/** A table with upright strokes around its cells, and a line of strokes under its headings; null where it is none. */
function ruledRows(text: string, sizeOf: SizeOf): ListRow[] | null {
	const rows: ListRow[] = [];
	let offset = 0;
	for (const whole of text.match(/[^\n]*\n|[^\n]+$/g) ?? []) {
		const length = sizeOf(whole);
		const line = whole.trim();
		if (/^\|.*\|$/.test(line) && !/^[|:\s-]+$/.test(line))
			rows.push({
				cells: line
					.slice(1, -1)
					.split(/(?<!\\)\|/)
					.map((c) => c.trim()),
				offset,
				length
			});
		else if (line !== '' && rows.length > 0 && !/^[|:\s-]+$/.test(line)) break;
		offset += length;
	}
	return rows.length > 2 ? rows : null;
}

function readColumns(rows: readonly ListRow[]): Card[] | null {
	const [first] = rows;
	if (!first || rows.filter((r) => r.cells.length > 1).length < rows.length * MOSTLY) return null;
	const headed = first.cells.every((c) => addressesIn(c).length === 0);
	const headings = headed ? first.cells.map(headingOf) : [];
	const isNamed = headings.some((h) => h === 'name' || h === 'given' || h === 'family');
	const body = headed ? rows.slice(1) : rows;
	const names = isNamed ? null : namelessColumns(body, headings);
	const cards: Card[] = [];
	for (const row of body) {
		const card = cardOf(row, headings);
		card.name = names
			? names
					.map((i) => row.cells[i] ?? '')
					.filter(isName)
					.join(' ') || null
			: nameUnder(row.cells, headings);
		const reached = card.numbers.length + card.emails.length + card.handles.length > 0;
		if (card.name !== null && (reached || isNamed)) cards.push(card);
	}
	const reached = cards.filter((c) => c.numbers.length + c.emails.length + c.handles.length > 0).length;
	if (cards.length < Math.max(1, body.length * MOSTLY) || reached < Math.max(1, cards.length * SOME)) return null;
	return headed ? cards : joined(cards);
}

function cardOf(row: ListRow, headings: readonly (Heading | null)[]): Card {
	const card: Card = { name: null, numbers: [], emails: [], handles: [], offset: row.offset, length: row.length };
	row.cells.forEach((cell, i) => {
		if (headings[i] === 'aside') return;
		const found = addressesIn(cell);
		for (const a of found) add(isEmail(a) ? card.emails : card.numbers, a);
		if (found.length === 0 && headings[i] === 'address' && HANDLE.test(cell)) add(card.handles, cell);
	});
	return card;
}

/** The numbers and addresses that fill a cell: one, or several with a sign between them. */
function addressesIn(cell: string): string[] {
	const parts = cell.split(/\s*(?:::+|[;|\n]|,(?=\s*[+\d(])|\s\/\s)\s*/).map(withoutScheme);
	const found = parts.filter((p) => isNumber(p) || isEmail(p));
	return found.length === parts.filter((p) => p !== '').length ? found : [];
}

const isName = (text: string): boolean => /\p{L}/u.test(text) && text.length < NAME_LONGEST;

/** A row's name by its headings: whole, else put together from its parts, else the organisation's. */
function nameUnder(cells: readonly string[], headings: readonly (Heading | null)[]): string | null {
	const under = (...wanted: Heading[]): string[] =>
		wanted.flatMap((w) => cells.filter((c, i) => headings[i] === w && isName(c) && addressesIn(c).length === 0));
	const [whole] = under('name');
	return whole ?? (under('given', 'middle', 'family').join(' ') || under('organisation')[0]) ?? null;
}

/** Where no heading says which columns are the names: the first with letters, and the next where both hold single words. */
function namelessColumns(rows: readonly ListRow[], headings: readonly (Heading | null)[]): number[] {
	const width = Math.max(...rows.map((r) => r.cells.length));
	const lettered = Array.from({ length: width }, (_, i) => i).filter((i) => {
		if (headings[i] === 'aside' || headings[i] === 'address' || headings[i] === 'organisation') return false;
		const values = rows.map((r) => r.cells[i] ?? '').filter((c) => c !== '');
		const names = values.filter((c) => isName(c) && addressesIn(c).length === 0);
		return names.length > 0 && names.length >= values.length * MOSTLY && values.length >= rows.length * MOSTLY;
	});
	const single = (i: number): boolean => rows.filter((r) => !/\s/.test(r.cells[i] ?? '')).length >= rows.length * MOSTLY;
	const [first, second] = lettered;
	if (first === undefined) return [];
	return second === first + 1 && single(first) && single(second) ? [first, second] : [first];
}

/** What separates a name from its number in a pasted line, and what stands before both. */
const SEPARATORS = /^[\s:;,=|<>()[\]"'•*·–—-]+|[\s:;,=|<>()[\]"'•*·–—-]+$/g;
const IN_LINE = /(?:tel:|\+|\(\+?)?\d(?:(?!\s{2})[\s().\-/]{0,2}\d){5,24}|[^\s@<>,;:"'()]+@[^\s@<>,;:"'()]+\.[^\s@<>,;:"'()]{2,}/g;
const WORDS_OF_A_NAME = 7;

function readLines(text: string, sizeOf: SizeOf): Card[] | null {
	const cards: Card[] = [];
	let lines = 0;
	let offset = 0;
	for (const whole of text.match(/[^\n]*\n|[^\n]+$/g)?.slice(0, MOST_CARDS) ?? []) {
		const length = sizeOf(whole);
		const line = whole.trim();
		if (line !== '') {
			lines++;
			const card = lineCard(line, offset, length);
			if (card) cards.push(card);
		}
		offset += length;
	}
	return cards.length >= Math.max(1, lines * MOSTLY) ? joined(cards) : null;
}

function lineCard(line: string, offset: number, length: number): Card | null {
	if (line.length > 200) return null;
	const found = (line.match(IN_LINE) ?? []).map((a) => withoutScheme(a.trim())).filter((a) => isNumber(a) || isEmail(a));
	if (found.length === 0) return null;
	let name = line;
	for (const a of found) name = name.replace(a, ' ');
	name = name
		.replace(/\b(?:tel|mailto):/gi, ' ')
		.replace(SEPARATORS, '')
		.replace(/\s+/g, ' ')
		.replace(SEPARATORS, '');
	if (!isName(name) || /^\d+[.,]\d/.test(name) || name.split(' ').length > WORDS_OF_A_NAME) return null;
	return { name, numbers: found.filter((a) => !isEmail(a)), emails: found.filter(isEmail), handles: [], offset, length };
}

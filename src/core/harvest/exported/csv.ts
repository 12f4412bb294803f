/** Values in columns (RFC 4180, any delimiter the library knows) as items. */
import Papa from 'papaparse';
import { isFullName } from '../../called';
import { isNumber } from '../../people/card';
import { addTo, item, MOST_ITEMS, type Item } from './items';

/** A line in front of the values by which spreadsheets are told what divides them. */
const DIVIDED_BY = /^sep=(.)\r?\n/i;

export function readCsv(text: string): Item | null {
	const rows: CellRow[] = [];
	const told = DIVIDED_BY.exec(text);
	// Where the whole file was made to end its lines so, the breaks within a value are no other.
	const isAllCrlf = text.includes('\r\n') && !/(?<!\r)\n/.test(text);
	const start = told?.[0].length ?? 0;
	let from = start;
	let isCut = false;
	Papa.parse<string[]>(text.slice(start), {
		skipEmptyLines: 'greedy',
		delimiter: told?.[1] ?? '',
		step: ({ data, meta, errors }) => {
			isCut ||= errors.some(({ code }) => code === 'MissingQuotes');
			rows.push({ cells: isAllCrlf ? data.map((cell) => cell.replace(/\r\n/g, '\n')) : data, from, to: start + meta.cursor });
			from = start + meta.cursor;
			if (rows.length > MOST_ITEMS) return;
		}
	});
	const last = rows.at(-1);
	isCut ||= last !== undefined && !/\n\s*$/.test(text) && last.cells.length < rows[0]!.cells.length;
	const root = sectionsOf(rows, text.length) ?? itemsOfRows(rows, text.length);
	if (root && isCut) root.broken = [text.length];
	return root;
}

const SECTIONS = 12;
/** What a section is called, in a row of its own. */
const SECTION = /^[[#*\s]*\p{L}[\p{L}\s_-]{2,40}[\]#*:\s]*$/u;

/** Several tables one below the other, each under its name and with headings of its own; null where there is but one. */
function sectionsOf(rows: readonly CellRow[], length: number): Item | null {
	const filled = (row: CellRow | undefined): string[] => (row?.cells ?? []).filter((c) => c.trim() !== '');
	const starts = rows.flatMap((row, i) => {
		const isName = filled(row).length === 1 && SECTION.test(filled(row)[0]!);
		const isHeaded = filled(rows[i + 1]).length > 1 && rows[i + 1]!.cells.length === rows[i + 2]?.cells.length;
		return isName && isHeaded ? [i] : [];
	});
	const names = starts.map((i) => filled(rows[i])[0]!.replace(/^[[#*\s]+|[\]#*:\s]+$/g, ''));
	if (starts[0] !== 0 || starts.length < 2 || starts.length > SECTIONS || new Set(names).size < names.length) return null;
	const root = item(0, length);
	for (const [k, i] of starts.entries()) {
		const list = itemsOfRows(rows.slice(i + 1, starts[k + 1] ?? rows.length), length)?.lists.get('rows');
		if (!list) return null;
		root.lists.set(names[k]!.toLowerCase(), list);
	}
	return root;
}

/** A row of values in columns, and where it stands in its text. */
export interface CellRow {
	cells: string[];
	from: number;
	to: number;
}

/** Rows as items, by the names of their columns where the first one that is no heading has such. `length`: of the text they stand in. */
export function itemsOfRows(rows: CellRow[], length: number): Item | null {
	const width = Math.max(0, ...rows.slice(0, 50).map((r) => r.cells.length));
	// A line or two can stand before the values and say whose they are.
	while (width > 2 && rows.length > 2 && rows[0]!.cells.filter((c) => c !== '').length < 2) rows.shift();
	if (rows.length < 2 || width < 2) return null;
	const head = rows[0]!.cells.map((c) => c.trim());
	// A head names each column once and says nothing that is a value.
	const headed = head.every((c) => c !== '' && !/\d{3}/.test(c) && c.length < 60) && new Set(head).size === head.length;
	const root = item(0, length);
	const body = headed ? rows.slice(1) : rows;
	const writers = headed ? writersAbove(head, body) : [];
	for (const row of body) {
		if (row.cells.length < 2) continue;
		const one = item(row.from, row.to);
		const said = writers.find((i) => (row.cells[i] ?? '') !== '');
		row.cells.slice(0, 200).forEach((c, i) => {
			if (!writers.includes(i)) one.fields.set((headed ? head[i] : undefined) ?? `column ${i + 1}`, c);
		});
		if (said !== undefined) one.fields.set('writer', head[said]!).set('text', row.cells[said]!);
		if (writers.length === 0 || said !== undefined) addTo(root.lists, 'rows', one);
	}
	return root.lists.size > 0 ? root : null;
}

/** The columns that are called as persons are, where each row has a text under one of them: who said it. None where they are not. */
function writersAbove(head: readonly string[], rows: readonly CellRow[]): number[] {
	const columns = head.flatMap((name, i) => (isFullName(name) || isNumber(name) ? [i] : []));
	if (columns.length < 2 || columns.length === head.length || rows.length < 2) return [];
	const filled = rows.filter((row) => columns.filter((i) => (row.cells[i] ?? '') !== '').length === 1).length;
	const isUsed = (i: number): boolean => rows.some((row) => (row.cells[i] ?? '') !== '');
	return filled >= rows.length * NEARLY_ALL && columns.filter(isUsed).length > 1 ? columns : [];
}
const NEARLY_ALL = 0.97;

const ROWS_TRIED = 40;

/** Whether the beginning of a text is rows of one width of at least three, as values in columns are. */
export function inColumns(start: string): boolean {
	const { data } = Papa.parse<string[]>(start, { skipEmptyLines: 'greedy', preview: ROWS_TRIED });
	// The last one may be cut.
	const widths = data.slice(0, Math.max(2, data.length - 1)).map((row) => row.length);
	return widths.length >= 2 && widths[0]! >= 3 && widths.every((w) => w === widths[0]);
}

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
	const start = told?.[0].length ?? 0;
	let from = start;
	let isCut = false;
	Papa.parse<string[]>(text.slice(start), {
		skipEmptyLines: 'greedy',
		delimiter: told?.[1] ?? '',
		step: ({ data, meta, errors }) => {
			isCut ||= errors.some(({ code }) => code === 'MissingQuotes');
			rows.push({ cells: data, from, to: start + meta.cursor });
			from = start + meta.cursor;
			if (rows.length > MOST_ITEMS) return;
		}
	});
	const last = rows.at(-1);
	isCut ||= last !== undefined && !/\n\s*$/.test(text) && last.cells.length < rows[0]!.cells.length;
	const root = itemsOfRows(rows, text.length);
	if (root && isCut) root.broken = [text.length];
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
	const writers = headed ? writersAbove(head, body) : null;
	if (writers) {
		for (const row of body) {
			const one = item(row.from, row.to);
			const said = writers.find((i) => row.cells[i] !== undefined && row.cells[i] !== '');
			if (said === undefined) continue;
			head.forEach((name, i) => writers.includes(i) || one.fields.set(name, row.cells[i] ?? ''));
			one.fields.set('writer', head[said]!).set('text', row.cells[said]!);
			addTo(root.lists, 'rows', one);
		}
		return root.lists.size > 0 ? root : null;
	}
	for (const row of headed ? rows.slice(1) : rows) {
		if (row.cells.length < 2) continue;
		const one = item(row.from, row.to);
		row.cells.slice(0, 200).forEach((c, i) => one.fields.set((headed ? head[i] : undefined) ?? `column ${i + 1}`, c));
		addTo(root.lists, 'rows', one);
	}
	return root.lists.size > 0 ? root : null;
}

/** The columns that are called as persons are, where each row has a text under one of them: who said it. */
function writersAbove(head: readonly string[], rows: readonly CellRow[]): number[] | null {
	const columns = head.flatMap((name, i) => (isFullName(name) || isNumber(name) ? [i] : []));
	if (columns.length < 2 || columns.length === head.length || rows.length < 2) return null;
	const filled = rows.filter((row) => columns.filter((i) => (row.cells[i] ?? '') !== '').length === 1).length;
	const isUsed = (i: number): boolean => rows.some((row) => (row.cells[i] ?? '') !== '');
	return filled >= rows.length * NEARLY_ALL && columns.filter(isUsed).length > 1 ? columns : null;
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

/**
 * Spreadsheets as rows of values: SpreadsheetML (ECMA-376, part 1, section 18: the parts of a workbook), OpenDocument
 * (part 3, section 9), and workbooks in one file of XML. What cells calculate is taken as it was calculated last.
 */
import type { Element } from 'domhandler';
import { DomUtils } from 'htmlparser2';
import type { CellRow } from './csv';
import { elements, elementsWithin, parseMarkup } from './markup';

const MOST_CELLS = 1000;
const local = (el: Element): string => el.name.slice(el.name.indexOf(':') + 1);
const named = (el: Element, name: string): Element[] => elements(el).filter((c) => local(c) === name);
const attribute = (el: Element, name: string): string | undefined =>
	Object.entries(el.attribs).find(([key]) => key === name || key.endsWith(`:${name}`))?.[1];
const within = (text: string, name: string): Element[] => elementsWithin(parseMarkup(text, true).children, (el) => local(el) === name);

/** What a sheet's cells name in other parts of the workbook. */
export interface WorkbookParts {
	/** Texts that cells name by number (18.4.8). */
	strings: readonly string[];
	/** Which styles of cells show a number as a date (18.8.10, 18.8.30). */
	dateStyles: ReadonlySet<number>;
	/** Whether days are counted from 1904 (18.2.28). */
	from1904: boolean;
}

/** The texts of the shared strings part; of each its runs, without how they are read aloud. */
export const sharedStrings = (text: string): string[] => within(text, 'si').map(runsOf);

const runsOf = (el: Element): string =>
	elements(el)
		.filter((c) => local(c) !== 'rPh')
		.map((c) => (local(c) === 't' ? DomUtils.textContent(c) : runsOf(c)))
		.join('');

/** Formats of numbers that are dates without a code of their own (18.8.30). */
const DATE_FORMATS = new Set([14, 15, 16, 17, 18, 19, 20, 21, 22, 27, 30, 36, 45, 46, 47, 50, 57]);

export function dateStyles(text: string): Set<number> {
	const own = new Map(within(text, 'numFmt').map((f) => [Number(attribute(f, 'numFmtId')), attribute(f, 'formatCode') ?? '']));
	const isDate = (id: number): boolean => {
		const code = own.get(id)?.replace(/"[^"]*"|\\.|\[[^\]]*\]/g, '');
		return code === undefined ? DATE_FORMATS.has(id) : /[dyhs]/i.test(code);
	};
	const styles = within(text, 'cellXfs')[0];
	return new Set((styles ? elements(styles) : []).flatMap((xf, i) => (isDate(Number(attribute(xf, 'numFmtId') ?? 0)) ? [i] : [])));
}

/** Sheets in order: what they are called, and where they lie in the package. */
export function sheetsOfWorkbook(workbook: string, relations: string): { name: string; path: string }[] {
	const targets = new Map(within(relations, 'Relationship').map((r) => [attribute(r, 'Id'), attribute(r, 'Target') ?? '']));
	return within(workbook, 'sheet').flatMap((sheet) => {
		const id = Object.entries(sheet.attribs).find(([key]) => key.endsWith(':id'))?.[1];
		const target = targets.get(id)?.replace(/^\/?(?:xl\/)?/, '');
		return target ? [{ name: attribute(sheet, 'name') ?? '', path: `xl/${target}` }] : [];
	});
}

export const isFrom1904 = (workbook: string): boolean =>
	within(workbook, 'workbookPr').some((w) => /^(1|true)$/.test(attribute(w, 'date1904') ?? ''));

/** The rows of a worksheet part. */
export function rowsOfSheet(text: string, parts: WorkbookParts): CellRow[] {
	return within(text, 'row').map((row) => {
		const cells: string[] = [];
		for (const cell of named(row, 'c')) {
			const at = columnOf(attribute(cell, 'r'), cells.length);
			while (cells.length < at) cells.push('');
			cells.push(valueOf(cell, parts));
		}
		return placed(row, cells);
	});
}

const placed = (el: Element, cells: string[]): CellRow => ({ cells, from: el.startIndex ?? 0, to: (el.endIndex ?? 0) + 1 });

/** Column of a reference like "AB12", from 0. */
function columnOf(reference: string | undefined, otherwise: number): number {
	const letters = /^[A-Z]{1,3}/.exec(reference ?? '')?.[0];
	const column = letters ? [...letters].reduce((sum, c) => sum * 26 + c.charCodeAt(0) - 64, 0) - 1 : otherwise;
	return Math.min(Math.max(column, otherwise), MOST_CELLS);
}

function valueOf(cell: Element, { strings, dateStyles, from1904 }: WorkbookParts): string {
	const type = attribute(cell, 't');
	if (type === 'inlineStr') return named(cell, 'is').map(runsOf).join('');
	const value = named(cell, 'v')
		.map((v) => DomUtils.textContent(v))
		.join('');
	if (type === 's') return strings[Number(value)] ?? '';
	if (value === '' || type === 'str' || type === 'b' || type === 'e') return value;
	if (type === 'd') return value;
	return dateStyles.has(Number(attribute(cell, 's') ?? -1)) ? dateOf(Number(value), from1904) : value;
}

/** Days from the last of 1899, or from the first of 1904, in ms. */
const EPOCH = Date.UTC(1899, 11, 30);
const EPOCH_1904 = Date.UTC(1904, 0, 1);
function dateOf(days: number, from1904: boolean): string {
	const at = new Date((from1904 ? EPOCH_1904 : EPOCH) + Math.round(days * 86_400) * 1000);
	return Number.isNaN(at.getTime()) ? String(days) : at.toISOString().slice(0, 19);
}

/** The tables of an OpenDocument spreadsheet's content. */
export function tablesOfDocument(text: string): { name: string; rows: CellRow[] }[] {
	return within(text, 'table').map((table) => ({
		name: attribute(table, 'name') ?? '',
		rows: elementsWithin(table.children, (el) => local(el) === 'table-row').map((row) => {
			const cells: string[] = [];
			for (const cell of elements(row).filter((c) => /^(?:covered-)?table-cell$/.test(local(c)))) {
				const times = Number(attribute(cell, 'number-columns-repeated') ?? 1);
				const value = documentValue(cell);
				for (let i = 0; i < times && cells.length < MOST_CELLS; i++) cells.push(value);
			}
			while (cells.at(-1) === '') cells.pop();
			return placed(row, cells);
		})
	}));
}

function documentValue(cell: Element): string {
	const type = attribute(cell, 'value-type');
	if (type === 'date') return attribute(cell, 'date-value') ?? '';
	if (type === 'float') return attribute(cell, 'value') ?? '';
	return named(cell, 'p').map(lineOf).join('\n');
}

/** A paragraph's text; several blanks, tabs and breaks stand as elements. */
export const lineOf = (el: Element): string =>
	el.children
		.map((c) => {
			if (c.type === 'text') return c.data;
			if (c.type !== 'tag') return '';
			if (local(c) === 's') return ' '.repeat(Math.min(Number(attribute(c, 'c') ?? 1), MOST_CELLS));
			if (local(c) === 'tab') return '\t';
			return local(c) === 'line-break' ? '\n' : lineOf(c);
		})
		.join('');

/** The worksheets of a workbook that is one file of XML. */
export function worksheetsOf(text: string): { name: string; rows: CellRow[] }[] {
	return within(text, 'Worksheet').map((sheet) => ({
		name: attribute(sheet, 'Name') ?? '',
		rows: elementsWithin(sheet.children, (el) => local(el) === 'Row').map((row) => {
			const cells: string[] = [];
			for (const cell of named(row, 'Cell')) {
				const at = Math.min(Number(attribute(cell, 'Index') ?? cells.length + 1) - 1, MOST_CELLS);
				while (cells.length < at) cells.push('');
				const data = named(cell, 'Data')[0];
				const value = data ? DomUtils.textContent(data) : '';
				cells.push(attribute(data ?? cell, 'Type') === 'DateTime' ? value.replace(/\.000$/, '') : value);
			}
			return placed(row, cells);
		})
	}));
}

/**
 * Documents as lines of text: WordprocessingML (ECMA-376, part 1, section 17: paragraphs, runs, breaks, tables) and
 * OpenDocument text (part 3, section 5). What was struck out while changes were tracked is left out.
 */
import type { Document, Element } from 'domhandler';
import { isTag } from 'domhandler';
import { elements, parseMarkup } from './markup';
import { lineOf } from './spreadsheet';

const DEEPEST = 100;
const local = (el: Element): string => el.name.slice(el.name.indexOf(':') + 1);

/** The text of the main part of a word processor's package: a line to each paragraph, and to each row of a table. */
export const textOfWord = (text: string): string => linesWithin(parseMarkup(text, true), 'p', 'tr', 'tc', wordText).join('\n');
/** The same of an OpenDocument's content. */
export const textOfOpenDocument = (text: string): string =>
	linesWithin(parseMarkup(text, true), 'p', 'table-row', 'table-cell', (el) => lineOf(el)).join('\n');

function linesWithin(
	node: Document | Element,
	paragraph: string,
	row: string,
	cell: string,
	textOf: (el: Element) => string,
	depth = 0
): string[] {
	if (depth > DEEPEST) return [];
	return elements(node).flatMap((el) => {
		const name = local(el);
		if (name === paragraph || (name === 'h' && paragraph === 'p')) return [textOf(el)];
		const inner = linesWithin(el, paragraph, row, cell, textOf, depth + 1);
		// What a cell says over several lines goes on in the row's.
		if (name === cell) return [inner.join('\n')];
		return name === row ? [inner.join('\t')] : inner;
	});
}

function wordText(el: Element, depth = 0): string {
	if (depth > DEEPEST) return '';
	return elements(el)
		.map((c) => {
			const name = local(c);
			if (name === 't') return c.children.map((t) => ('data' in t ? t.data : '')).join('');
			if (name === 'br' || name === 'cr') return '\n';
			if (name === 'tab') return '\t';
			return name === 'del' || name === 'pPr' || name === 'rPr' || !isTag(c) ? '' : wordText(c, depth + 1);
		})
		.join('');
}

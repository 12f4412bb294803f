/** A page that holds one message alone: its title, what its head says of it (HTML, 4.2.5 "meta"), and each part of its body, as one item. */
import { isTag, type Document, type Element } from 'domhandler';
import { fields } from './html';
import { addTo, item, type Item } from './items';
import { elements, parseMarkup, readText } from './markup';
import { findStamp } from './stamps';

const PARTS_LEAST = 3;
const PARTS_MOST = 40;
const DEEPEST = 8;
/** Names of what a head says that are of the program and not of what is written. */
const OF_PROGRAM = /^(?:viewport|generator|robots|theme-color|color-scheme|format-detection|referrer)$/i;
const NAMES = { columns: new Map<Element, string>(), heads: new Map<string, number>(), apart: new Set<string>() };

export function readSinglePage(text: string): Item | null {
	const document = parseMarkup(text, false);
	const body = first(document, 'body');
	if (!body) return null;
	const page = item(0, text.length);
	for (const el of elements(first(document, 'head') ?? document)) {
		const { name = '', property = '', content = '' } = el.attribs;
		const called = name || property;
		if (el.name === 'title') page.fields.set('title', readText([el]));
		else if (el.name === 'meta' && called !== '' && content !== '' && !OF_PROGRAM.test(called)) page.fields.set(called, content);
	}
	fields(page, body, 0, NAMES);
	const { size } = page.fields;
	const isTimed = [...page.fields.values()].some((value) => typeof value === 'string' && findStamp(value) !== null);
	if (size < PARTS_LEAST || size > PARTS_MOST || !isTimed) return null;
	const root = item(0, text.length);
	addTo(root.lists, 'page', page);
	return root;
}

function first(node: Document | Element, name: string, depth = 0): Element | null {
	for (const el of depth > DEEPEST ? [] : elements(node)) {
		const found = el.name === name ? el : first(el, name, depth + 1);
		if (found && isTag(found)) return found;
	}
	return null;
}

/**
 * XML and HTML as items. In XML an element with attributes or elements in it is an item; in HTML items are what stands
 * several times in one place. Entities of a document type are not expanded, so none can grow.
 */
import { DomUtils, parseDocument } from 'htmlparser2';
import { isTag, isText, type ChildNode, type Document, type Element } from 'domhandler';
import { addTo, DEEPEST, item, MOST_ITEMS, type Item } from './items';
import { dateHeading, plainLine } from './stamps';

const { textContent } = DomUtils;
const parse = (text: string, xmlMode: boolean): Document =>
	parseDocument(text, { xmlMode, withStartIndices: true, withEndIndices: true, decodeEntities: true });
const elements = (node: { children: ChildNode[] }): Element[] => node.children.filter(isTag);
const local = (name: string): string => name.slice(name.indexOf(':') + 1);
const stretch = (el: Element): Item => item(el.startIndex ?? 0, (el.endIndex ?? el.startIndex ?? 0) + 1);

export function readXml(text: string): Item | null {
	const root = item(0, text.length);
	let count = 0;
	const fill = (into: Item, el: Element, prefix: string, depth: number): void => {
		for (const [name, value] of Object.entries(el.attribs)) into.fields.set(prefix + local(name), value);
		const inner = elements(el);
		const names = new Map<string, number>();
		for (const child of inner) names.set(child.name, (names.get(child.name) ?? 0) + 1);
		if (depth > DEEPEST || count > MOST_ITEMS) return;
		for (const child of inner) {
			const name = prefix + local(child.name);
			const plain = elements(child).length === 0 && Object.keys(child.attribs).length === 0;
			const many = names.get(child.name)! > 1;
			if (plain && !many) into.fields.set(name, written(child));
			else if (!many && into !== root && elements(child).length === 0) {
				if (written(child) !== '') into.fields.set(name, written(child));
				fill(into, child, `${name}.`, depth + 1);
			} else {
				count++;
				const one = stretch(child);
				if (elements(child).length === 0 && written(child) !== '') one.fields.set('text', written(child));
				fill(one, child, '', depth + 1);
				addTo(into.lists, name, one);
			}
		}
	};
	for (const el of elements(parse(text, true))) fill(root, el, '', 0);
	return root.fields.size + root.lists.size > 0 ? root : null;
}

/** The text of an element of XML, as it stands. */
const written = (el: Element): string => textContent(el).trim();

const INLINE = new Set([
	'b',
	'i',
	'u',
	's',
	'em',
	'strong',
	'a',
	'span',
	'br',
	'img',
	'code',
	'font',
	'small',
	'mark',
	'sub',
	'sup',
	'wbr',
	'bdi',
	'bdo',
	'time'
]);
const SKIPPED = new Set(['script', 'style', 'head', 'noscript', 'template', 'svg']);
const BLOCK = new Set(['p', 'div', 'li', 'tr', 'h1', 'h2', 'h3', 'h4', 'blockquote', 'pre', 'section']);
/** So many alike in one place are a list. */
const ALIKE = 3;

export function readHtml(text: string): Item | null {
	const root = item(0, text.length);
	let day = '';
	const visit = (node: Document | Element, path: string, depth: number): void => {
		if (depth > 200) return;
		const inner = elements(node).filter((e) => !SKIPPED.has(e.name));
		const groups = new Map<string, Element[]>();
		for (const el of inner) {
			const list = groups.get(el.name);
			if (list) list.push(el);
			else groups.set(el.name, [el]);
		}
		for (const el of inner) {
			const here = `${path}/${el.name}`;
			const heading = innerText(el).trim();
			if (heading.length < 60 && dateHeading(plainLine(heading))) day = heading;
			if (isList(groups.get(el.name)!) && !INLINE.has(el.name) && heading !== '') {
				const one = stretch(el);
				if (day !== '' && day !== heading) one.fields.set('(day)', day);
				fields(one, el, '', 0);
				if (one.fields.size > 1) addTo(root.lists, `${groupName(node)}${el.name}`, one);
			}
			visit(el, here, depth + 1);
		}
	};
	visit(parse(text, false), '', 0);
	// What is a part of another list's items is none of its own, where that one says more.
	const lists = [...root.lists].filter(([, items]) => items.length >= ALIKE).sort((a, b) => richness(b[1]) - richness(a[1]));
	root.lists = new Map(lists.slice(0, 3));
	return root.lists.size > 0 ? root : null;
}

/** Several of one kind; those that each have a class of their own are the parts of one thing. */
function isList(group: readonly Element[]): boolean {
	const classes = new Set(group.map((e) => e.attribs['class'] ?? ''));
	return group.length >= ALIKE && (classes.size < group.length || classes.has(''));
}

const groupName = (node: Document | Element): string =>
	isTag(node) && node.attribs['class'] ? `${node.attribs['class'].split(/\s+/)[0]} ` : '';

function richness(items: readonly Item[]): number {
	const often = new Map<string, number>();
	for (const i of items.slice(0, 500)) for (const name of i.fields.keys()) often.set(name, (often.get(name) ?? 0) + 1);
	const shared = [...often.values()].filter((n) => n > Math.min(items.length, 500) * 0.6).length;
	return Math.min(shared, 6) * Math.log2(items.length + 1);
}

const TOLD = /^(title|datetime|href|src|alt|value|data-.+)$/;

/** Fields of a repeated element: each part with text of its own, by its element and class, and what attributes tell. */
function fields(into: Item, el: Element, prefix: string, depth: number): void {
	const set = (name: string, value: string): void => {
		let free = name;
		for (let n = 2; into.fields.has(free) && n < 40; n++) free = `${name} ${n}`;
		if (value.trim() !== '') into.fields.set(free, value);
	};
	const own = `${prefix}${el.name}${el.attribs['class'] ? `.${el.attribs['class'].split(/\s+/)[0]}` : ''}`;
	for (const [name, value] of Object.entries(el.attribs)) if (TOLD.test(name)) set(`${own}@${name}`, value);
	if (depth === 0 && el.attribs['class']) set('@class', el.attribs['class']);
	const parts = elements(el);
	const leaf = parts.every((p) => INLINE.has(p.name) && !p.attribs['class'] && elements(p).every((e) => INLINE.has(e.name)));
	if (leaf || depth > DEEPEST) {
		set(own, innerText(el));
		for (const p of parts) for (const [name, value] of Object.entries(p.attribs)) if (TOLD.test(name)) set(`${p.name}@${name}`, value);
		return;
	}
	const loose = el.children
		.filter((c) => isText(c) || (isTag(c) && INLINE.has(c.name) && !c.attribs['class']))
		.map((c) => (isText(c) ? c.data : isTag(c) ? (c.name === 'br' ? '\n' : innerText(c)) : ''))
		.join('');
	set(own, squeeze(loose));
	for (const p of parts) if (!(INLINE.has(p.name) && !p.attribs['class']) || p.name === 'time') fields(into, p, '', depth + 1);
}

const squeeze = (text: string): string =>
	text
		.replace(/[ \t\r\n]*\u0001[ \t\r\n]*/g, '\n')
		.replace(/[ \t]+/g, ' ')
		.trim();

/** The text of an element as a reader sees it: blanks as one, breaks as lines. */
export function innerText(el: { children: ChildNode[] }): string {
	const out: string[] = [];
	const walk = (node: ChildNode, depth: number): void => {
		if (isText(node)) out.push(node.data.replace(/[ \t\r\n]+/g, ' '));
		else if (isTag(node) && depth < 200 && !SKIPPED.has(node.name)) {
			if (node.name === 'br') out.push('\u0001');
			else {
				if (BLOCK.has(node.name) && out.length > 0) out.push('\u0001');
				for (const child of node.children) walk(child, depth + 1);
			}
		} else if (!isTag(node) && 'children' in node && depth < 200) for (const child of node.children) walk(child, depth + 1);
	};
	for (const child of el.children) walk(child, 0);
	return squeeze(out.join(''));
}

/** A page as lines of text. */
export const textOfHtml = (text: string): string => innerText(parse(text, false));

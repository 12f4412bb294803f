/** Elements of markup, and their text as a reader sees it. Entities of a document type are not expanded. */
import { isTag, isText, type ChildNode, type Document, type Element } from 'domhandler';
import { DomUtils, parseDocument } from 'htmlparser2';
import { item, type Item } from './items';
import { baseOf } from '../../paths';

/** A text of elements within elements without end, for which the parser's time grows with their square, is read as none. */
export const parseMarkup = (text: string, xmlMode: boolean): Document =>
	parseDocument(xmlMode && isTooDeep(text) ? '' : text, { xmlMode, withStartIndices: true, withEndIndices: true, decodeEntities: true });

const TOO_DEEP = 5000;
function isTooDeep(text: string): boolean {
	let depth = 0;
	for (const [tag] of text.matchAll(/<\/?[a-z_][^<>]*>/gi)) {
		if (tag[1] === '/') depth--;
		else if (!tag.endsWith('/>')) depth++;
		if (depth > TOO_DEEP) return true;
	}
	return false;
}

export const elements = (node: { children: ChildNode[] }): Element[] => node.children.filter(isTag);

/** An item of what an element takes of the text; `last`: where it ends with another element. */
export const stretch = (el: Element, last = el): Item => item(el.startIndex ?? 0, (last.endIndex ?? last.startIndex ?? 0) + 1);

/** Elements that stand within a line. */
export const INLINE = new Set(
	'b i u s em strong a span br img code font small mark sub sup wbr bdi bdo time q cite del ins kbd abbr var audio video'.split(' ')
);
export const SKIPPED = new Set('script style head noscript template svg'.split(' '));
const BLOCK = new Set('p div li tr h1 h2 h3 h4 blockquote pre section article dt dd'.split(' '));
const DEEPEST = 200;
/** Elements within others, of which a test holds; what lies deeper than any page's is passed over. */
export function elementsWithin(nodes: readonly ChildNode[], test: (el: Element) => boolean): Element[] {
	const found: Element[] = [];
	const walk = (inner: readonly ChildNode[], depth: number): void => {
		for (const node of inner) {
			if (!isTag(node)) continue;
			if (test(node)) found.push(node);
			if (depth < DEEPEST) walk(node.children, depth + 1);
		}
	};
	walk(nodes, 0);
	return found;
}

/** Stands for a line break until blanks are squeezed. */
const BREAK = '\u0001';

const squeeze = (text: string): string =>
	text
		.replace(/[ \t\r\n]*\u0001[ \t\r\n]*/g, '\n')
		.replace(/[ \t]+/g, ' ')
		.trim();

/** The text of nodes as a reader sees it: blanks as one, breaks as lines; the name of a file beside it that is linked is none. */
export function readText(nodes: readonly ChildNode[]): string {
	const out: string[] = [];
	const walk = (node: ChildNode, depth: number): void => {
		if (isText(node)) out.push(node.data.replace(/[ \t\r\n]+/g, ' '));
		else if (isTag(node) && depth < DEEPEST && !SKIPPED.has(node.name) && !isLinkedName(node)) {
			if (node.name === 'br') out.push(BREAK);
			else {
				if (BLOCK.has(node.name) && out.length > 0) out.push(BREAK);
				for (const child of node.children) walk(child, depth + 1);
			}
		} else if (!isTag(node) && 'children' in node && depth < DEEPEST) for (const child of node.children) walk(child, depth + 1);
	};
	for (const node of nodes) walk(node, 0);
	return squeeze(out.join(''));
}

/** A link to a file beside the page that shows nothing but the file's name or path. */
function isLinkedName(el: Element): boolean {
	const href = el.attribs['href'];
	if (el.name !== 'a' || !href || /^[a-z][a-z0-9+.-]*:|^[#?]/i.test(href)) return false;
	const shown = el.children
		.map((c) => (isText(c) ? c.data : '\u0000'))
		.join('')
		.trim();
	return shown === href || shown === baseOf(href) || shown === plainHref(href) || shown === baseOf(plainHref(href));
}

/** A link's path as the file is called (RFC 3986, section 2.1); as written where that is no text. */
export function plainHref(href: string): string {
	try {
		return decodeURIComponent(href);
	} catch {
		return href;
	}
}

/** A page as lines of text. `headed`: with its headings. */
export function textOfHtml(text: string, headed = true): string {
	const page = parseMarkup(text, false);
	if (!headed) for (const el of elementsWithin(page.children, (one) => /^h[1-6]$/.test(one.name))) DomUtils.removeElement(el);
	return readText([page]);
}

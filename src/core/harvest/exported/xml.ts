/**
 * XML as items: an element with attributes or elements in it is one. Entities of a document type are not expanded, so
 * none can grow.
 */
import type { Document, Element } from 'domhandler';
import { DomUtils, ElementType } from 'htmlparser2';
import { unclosed } from './breakage';
import { addTo, DEEPEST, item, MOST_ITEMS, type Item } from './items';
import { elements, elementsWithin, parseMarkup, readText, stretch } from './markup';

const local = (name: string): string => name.slice(name.indexOf(':') + 1);

export function readXml(text: string): Item | null {
	const root = item(0, text.length);
	const document = parseMarkup(text, true);
	const lists = repeating(document);
	let count = 0;
	const fill = (into: Item, el: Element, prefix: string, depth: number): void => {
		for (const [name, value] of Object.entries(el.attribs)) if (!/^xmlns\b/.test(name)) into.fields.set(prefix + local(name), value);
		const inner = elements(el);
		if (depth > DEEPEST || count > MOST_ITEMS) return;
		if (into !== root && isWriting(inner)) {
			into.fields.set(prefix + inner[0]!.name, isPlain(inner) ? written(inner[0]!) : readText(el.children));
			return;
		}
		for (const child of inner) {
			const name = prefix + local(child.name);
			const plain = elements(child).length === 0 && Object.keys(child.attribs).length === 0;
			const many = lists.has(`${el.name}/${child.name}`);
			if (plain && !many) into.fields.set(name, written(child));
			else if (!many && into !== root && isRecord(child, lists, 0)) {
				if (hasText(child)) into.fields.set(name, written(child));
				fill(into, child, `${name}.`, depth + 1);
			} else {
				count++;
				const one = stretch(child);
				if (hasText(child)) one.fields.set('text', written(child));
				fill(one, child, '', depth + 1);
				addTo(into.lists, name, one);
			}
		}
	};
	for (const el of elements(document)) fill(root, el, '', 0);
	root.broken = unclosed(text);
	return root.fields.size + root.lists.size > 0 ? root : null;
}

/** Which elements stand more than once in one of the same name: each is one of a list, also where it is alone. */
function repeating(document: Document): Set<string> {
	const out = new Set<string>();
	const walk = (el: Element, depth: number): void => {
		const seen = new Set<string>();
		for (const child of elements(el)) {
			if (seen.has(child.name)) out.add(`${el.name}/${child.name}`);
			seen.add(child.name);
			if (depth < DEEPEST) walk(child, depth + 1);
		}
	};
	for (const el of elements(document)) walk(el, 0);
	return out;
}

const RECORD_DEPTH = 3;

/** An element with single values in it, and no lists. */
const isRecord = (el: Element, lists: ReadonlySet<string>, depth: number): boolean =>
	depth < RECORD_DEPTH && elements(el).every((c) => !lists.has(`${el.name}/${c.name}`) && isRecord(c, lists, depth + 1));

/** Whether text stands in an element itself; elements may stand among it. */
const hasText = (el: Element): boolean => el.children.some((node) => node.type === ElementType.Text && node.data.trim() !== '');

/** The text of an element of XML, as it stands; of one that is marked up as a page is, with lines where a reader sees them. */
const written = (el: Element): string =>
	elementsWithin(el.children, (one) => BREAKS.test(one.name)).length > 0 && isMarkup(el)
		? readText(el.children)
		: asWritten(DomUtils.textContent(el));

/** Text without the lines and indents that its tags stand on; blanks of a text on the tags' own line are its own. */
const asWritten = (text: string): string => (/^[ \t]*\r?\n|\n[ \t]*$|^\S*\s*$|^\s*\S*$/.test(text) ? text.trim() : text);
const BREAKS = /^(?:br|p|div)$/;

/** Whether all that stands in an element is marked up as a page is. */
const isMarkup = (el: Element, depth = 0): boolean =>
	depth < DEEPEST && elements(el).every((c) => (WITHIN_LINES.has(c.name) || PARAGRAPHS.has(c.name)) && isMarkup(c, depth + 1));
/** Elements of pages that stand within a line, and are called as no field is. */
const WITHIN_LINES = new Set('b i u s em strong a br font small sub sup span'.split(' '));
/** Elements of pages that hold text, and are called as no field is. */
const PARAGRAPHS = new Set(['html', 'body', 'div', 'span', 'p', 'blockquote']);
/** Whether the elements in one are its text, in paragraphs and marked-up stretches. */
const isWriting = (inner: readonly Element[]): boolean =>
	inner.length > 0 && inner.every((c) => c.name === 'br' || (PARAGRAPHS.has(c.name) && isBare(c) && isMarkup(c)));
/** Whether what is written is one element without any in it, that holds no part of a page: its lines are as they stand. */
const isPlain = ([one, ...more]: readonly Element[]): boolean =>
	more.length === 0 && elements(one!).length === 0 && (one!.name === 'body' || one!.children.some((c) => c.type === ElementType.CDATA));
/** Whether an element states nothing but how it looks. */
const isBare = (el: Element): boolean => Object.keys(el.attribs).every((name) => /^(?:style|class|dir|(?:xml:)?lang|xmlns.*)$/.test(name));

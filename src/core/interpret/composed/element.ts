/** Elements of XML (1.0, fifth edition), one a value, whose attributes and inner elements are fields of a record. */
import { XMLParser } from 'fast-xml-parser';
import { entitiesIn } from '../markup';
import type { Opened } from './composed';

const SAMPLE = 200;
const MOSTLY = 0.9;
const FEWEST = 2;
const LONGEST = 200_000;
const DEEPEST = 12;
const ELEMENT = /^\s*(?:<\?xml[^>]*>\s*)?<([a-z][\w.:-]*)(?:\s[^<>]*)?(?:\/>|>[\s\S]*<\/\1>)\s*$/i;
/** What is written in these is a text with its looks. */
const OF_PAGES = /^<(?:html|body|div|span|p|a|b|i|u|s|em|strong|font|br|ul|ol|li|table|tr|td|pre|code|h[1-6]|blockquote|img)[\s>/]/i;
export const TEXT = 'text';

/** Whether nearly all are elements with several fields each, and none is a piece of a page. */
export function areElements(texts: readonly string[]): boolean {
	const sample = texts.slice(0, SAMPLE);
	if (!sample[0]!.trimStart().startsWith('<')) return false;
	const isElement = (text: string): boolean => text.length < LONGEST && ELEMENT.test(text) && !OF_PAGES.test(text.trimStart());
	const elements = sample.filter(isElement);
	if (elements.length < sample.length * MOSTLY) return false;
	const several = elements.filter((text) => Object.keys(openElement(text, false)?.fields ?? {}).length >= FEWEST);
	return several.length >= elements.length * MOSTLY;
}

const parser = new XMLParser({
	ignoreAttributes: false,
	attributeNamePrefix: '',
	preserveOrder: true,
	parseTagValue: false,
	parseAttributeValue: false,
	trimValues: false,
	cdataPropName: '#cdata',
	// What a document declares as its own is not put in; what every document knows is resolved here.
	processEntities: false
});
const ATTRIBUTES = ':@';
const WRITTEN = '#text';
/** Section 2.7: what is written in it is nothing but text. */
const CDATA = '#cdata';

type Node = Record<string, unknown>;

export function openElement(text: string, isCut: boolean): Opened | null {
	if (text.length > LONGEST) return null;
	const closed = isCut ? close(text) : { text, open: null };
	if (!closed) return null;
	try {
		const root = (parser.parse(closed.text) as Node[]).find((node) => !nameOf(node).startsWith('?') && nameOf(node) !== WRITTEN);
		if (!root) return null;
		const fields = fieldsOf(root, 0);
		const record = typeof fields !== 'string' ? fields : fields === '' ? {} : { [TEXT]: fields };
		return { fields: record, ...(closed.open ? { ending: endingIn(record, closed.open.slice(1)) } : {}) };
	} catch {
		return null;
	}
}

const nameOf = (node: Node): string => Object.keys(node).find((key) => key !== ATTRIBUTES) ?? '';

/** An element's text, where it has nothing else; its attributes and elements by their names. */
function fieldsOf(node: Node, depth: number): string | Record<string, unknown> {
	const inside = node[nameOf(node)];
	const nodes = Array.isArray(inside) ? (inside as Node[]) : [];
	const attributes = Object.entries((node[ATTRIBUTES] ?? {}) as Record<string, unknown>).map(
		([name, value]) => [name, entitiesIn(String(value))] as const
	);
	const isText = (one: Node): boolean => nameOf(one) === WRITTEN || nameOf(one) === CDATA;
	const elements = nodes.filter((one) => !isText(one));
	const isMixed = nodes.some((one) => isText(one) && textIn([one], depth).trim() !== '');
	if (elements.length === 0 || isMixed || depth > DEEPEST) {
		const written = textIn(nodes, 0);
		const said = written.trim() === '' ? '' : written;
		return attributes.length === 0 ? said : { ...Object.fromEntries(attributes), ...(said === '' ? {} : { [TEXT]: said }) };
	}
	const fields = new Map<string, unknown>(attributes);
	for (const element of elements) {
		const [name, value] = [nameOf(element), fieldsOf(element, depth + 1)];
		const known = fields.get(name);
		if (Array.isArray(known)) known.push(value);
		else fields.set(name, known === undefined ? value : [known, value]);
	}
	return Object.fromEntries(fields);
}

/** All that is written within, in its order. */
function textIn(nodes: readonly Node[], depth: number): string {
	if (depth > DEEPEST) return '';
	return nodes
		.map((node) => {
			const name = nameOf(node);
			if (name === WRITTEN) return entitiesIn(String(node[WRITTEN]));
			const inside = node[name];
			if (name === CDATA) return (inside as Node[]).map((one) => String(one[WRITTEN])).join('');
			return /^br$/i.test(name) ? '\n' : Array.isArray(inside) ? textIn(inside as Node[], depth + 1) : '';
		})
		.join('');
}

/** A text that breaks off, with what is open closed; `open`: the names of the elements in whose text it ends, or null. */
function close(text: string): { text: string; open: string[] | null } | null {
	const from = text.lastIndexOf('<![CDATA[');
	const isWithin = from >= 0 && !text.includes(']]>', from);
	const before = isWithin ? text.slice(0, from) : text;
	// Of a tag that is not ended nothing is taken.
	const tag = before.indexOf('<', before.lastIndexOf('>') + 1);
	const begun = tag < 0 ? before : before.slice(0, tag);
	const open = openIn(begun);
	if (!open) return null;
	// An escape that is cut is no letter; nor is what may be the end of a section.
	const whole = isWithin ? text.replace(/\]{1,2}$/, '') + ']]>' : begun === text ? text.replace(/&[#\w]{0,8}$/, '') : begun;
	const isClosing = !isWithin && tag >= 0 && before.startsWith('</', tag);
	const ends = open.map((name) => `</${name}>`).reverse();
	return { text: whole + ends.join(''), open: isClosing ? null : open };
}

/** The elements that are open at the end of a text; null where nothing is, or too much. */
function openIn(text: string): string[] | null {
	const open: string[] = [];
	const tags = withoutSections(text).matchAll(/<(\/?)([a-z][\w.:-]*)(?![\w.:-])[^<>]*?(\/?)>/gi);
	for (const [, closes, name, isEmpty] of tags) {
		if (closes) open.pop();
		else if (!isEmpty) open.push(name!);
		if (open.length > DEEPEST) return null;
	}
	return open.length > 0 ? open : null;
}

function withoutSections(text: string): string {
	let out = '';
	let from = 0;
	for (let at = text.indexOf('<![CDATA['); at >= 0; at = text.indexOf('<![CDATA[', from)) {
		const end = text.indexOf(']]>', at);
		if (end < 0) break;
		out += text.slice(from, at);
		from = end + 3;
	}
	return out + text.slice(from);
}

/** The path of the text in the elements of these names, within a record. */
function endingIn(record: Record<string, unknown>, names: readonly string[]): string[] {
	const path: string[] = [];
	let here: unknown = record;
	for (const name of names) {
		if (here === null || typeof here !== 'object') break;
		path.push(name);
		here = (here as Record<string, unknown>)[name];
		if (Array.isArray(here)) {
			path.push(String(here.length - 1));
			here = here.at(-1);
		}
	}
	return here !== null && typeof here === 'object' ? [...path, TEXT] : path;
}

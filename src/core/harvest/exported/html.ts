/**
 * HTML as items: what stands several times in one place, as rows of a table, parts of a list or terms and what is said of
 * them do. No class or element is known; what the parts of each are is told by where they stand.
 */
import { isTag, isText, type ChildNode, type Document, type Element } from 'domhandler';
import { DEEPEST, item, type Item } from './items';
import { elements, elementsWithin, INLINE, parseMarkup, plainHref, readText, SKIPPED, stretch } from './markup';
import { tellSides, type Sides } from './page-sides';
import { continued } from './runs-on';
import { dateHeading, findStamp, findTime, plainLine } from './stamps';

/** The field of the heading under which an item stands, where they stand under several. */
export const HEADING_FIELD = '(heading)';

/** What parts are called: cells by their table's first row; and how many parts lines begin with, by name. */
interface Names {
	columns: ReadonlyMap<Element, string>;
	heads: ReadonlyMap<string, number>;
	/** Parts, by name, of which most have no words of their own between the elements within their line. */
	apart: ReadonlySet<string>;
}

/** So many alike in one place are a list. */
const ALIKE = 3;
/** Lists of one page that are kept, and how deep one is looked for. */
const LISTS = 3;
const DEEPEST_LIST = 200;

/** The text of each element, read once: it is asked for at every level. */
const texts = new WeakMap<Element, string>();

function textOf(el: Element): string {
	let text = texts.get(el);
	if (text === undefined) texts.set(el, (text = readText([el])));
	return text;
}

/** What repeats: one element, or a term with what is said of it. */
interface Entry {
	parts: Element[];
	/** The heading of a day that stands before it, and any other heading; '' where there is none. */
	day: string;
	heading: string;
}

/** Characters at the end of a page in which it is closed. */
const LAST = 4096;

/** `further`: where a further page of the same export begins: there what is alike on the pages before it may stand alone. */
export function readHtml(text: string, further = Infinity, known?: Sides): Item | null {
	const lists = new Map<string, Entry[]>();
	let day = '';
	let heading = '';
	const columns = new Map<Element, string>();
	/** Places whose elements are rows though they stand there alone. */
	const rows = new Set<string>();
	const enter = (name: string, parts: Element[]): void => {
		const entry = { parts, day, heading };
		const list = lists.get(name);
		if (list) list.push(entry);
		else lists.set(name, [entry]);
	};
	/** Places at which several alike stand, by the elements around them; whether one stood at such a place alone. */
	const places = new Set<string>();
	const alone = new Set<string>();
	const visit = (node: Document | Element, depth: number, path = ''): void => {
		if (depth > DEEPEST_LIST) return;
		const inner = elements(node).filter((e) => !SKIPPED.has(e.name));
		const alike = listNames(inner);
		const isFurther = inner.length > 0 && (inner[0]!.startIndex ?? 0) >= further;
		const terms = isTag(node) && node.name === 'dl' ? termsOf(inner, isFurther ? 1 : ALIKE) : pairsOf(inner);
		const byFirst = new Map(terms.map((parts) => [parts[0]!, parts]));
		for (const el of inner) {
			const date = dayOf(el);
			if (date !== '') day = date;
			else if (HEADING.test(el.name)) heading = textOf(el).slice(0, LONGEST_HEADING);
			if (el.name === 'table') nameColumns(el, columns);
			if (el.name === 'dl' && alike.has('dl')) nameTerms(el, columns);
			const place = `${path}/${el.name}.${classOf(el)}`;
			const term = byFirst.get(el);
			if (term) enter(`${groupName(node)}${term.map((e) => e.name).join(' ')}`, term);
			else if (terms.length === 0 && date === '' && !columns.has(el) && !INLINE.has(el.name)) {
				const name = `${groupName(node)}${el.name}`;
				if (alike.has(el.name)) places.add(place);
				else if (ROW.test(el.name)) alone.add(place);
				const isOne = alike.has(el.name) || (isFurther && lists.has(name)) || rows.has(place);
				if (isOne && textOf(el) !== '') enter(name, [el]);
			}
			const before = heading;
			visit(el, depth + 1, place);
			// A heading within one of several alike is none of the next one's, unless there is nothing else in it.
			if (alike.has(el.name) && textOf(el) !== heading) heading = before;
		}
	};
	const document = parseMarkup(text, false);
	visit(document, 0);
	// A day on which little was written has a row or two where others have several.
	for (const place of places) if (alone.has(place)) rows.add(place);
	if (rows.size > 0) {
		lists.clear();
		day = heading = '';
		visit(document, 0);
	}
	const root = item(0, text.length);
	// What is a part of another list's items is none of its own, where that one says more.
	const found = [...lists].map(([name, entries]) => [name, itemsOf(entries, columns)] as const);
	const best = found.filter(([, items]) => items.length >= ALIKE).sort((a, b) => richness(b[1]) - richness(a[1]));
	for (const [name, items] of best)
		if (root.lists.size < LISTS && ![...root.lists.values()].some((richer) => arePartsOf(items, richer) || arePartsOf(richer, items)))
			root.lists.set(name, items);
	for (const items of root.lists.values()) {
		root.sides ??= tellSides(items, stylesOf(document), known) ?? undefined;
		continued(items);
	}
	// Pages may leave out what closes their elements: cut within one they are cut.
	if (/[^>\s]\s*$/.test(text) || (/<html[\s>]/i.test(text) && !/<\/html\s*>/i.test(text.slice(-LAST)))) root.broken = [text.length];
	return root.lists.size > 0 ? root : null;
}

/** The style sheets that stand in a page. */
const stylesOf = (document: Document): string =>
	elementsWithin(document.children, (el) => el.name === 'style')
		.flatMap((el) => el.children.filter(isText).map((node) => node.data))
		.join('\n');

/** Whether the items of one list lie within those of another; both in order of place. */
function arePartsOf(items: readonly Item[], others: readonly Item[]): boolean {
	let inside = 0;
	let o = 0;
	for (const one of items) {
		while (o < others.length && others[o]!.to < one.to) o++;
		if (o < others.length && others[o]!.from <= one.from) inside++;
	}
	return inside >= items.length * MOSTLY;
}

/** The title of a page and the first heading in it that is no date: what further pages of one export share. */
export function headingOfPage(text: string): string {
	const found = [...text.slice(0, PAGE_HEAD).matchAll(/<(title|h[1-6])\b[^>]*>([\s\S]{0,300}?)<\/\1>/gi)].map((m) =>
		readText([parseMarkup(m[2]!, false)])
	);
	return found
		.filter((t) => t !== '' && !dateHeading(plainLine(t)))
		.slice(0, 2)
		.join('\n');
}
const PAGE_HEAD = 1 << 16;

/** The names of which there are several of one kind. */
function listNames(inner: readonly Element[]): Set<string> {
	const groups = new Map<string, Element[]>();
	for (const el of inner) {
		const list = groups.get(el.name);
		if (list) list.push(el);
		else groups.set(el.name, [el]);
	}
	return new Set([...groups].filter(([, group]) => isList(group)).map(([name]) => name));
}

/** The terms of a list of them, each with what is said of it; none where they are too few. */
function termsOf(inner: readonly Element[], least: number): Element[][] {
	const terms: Element[][] = [];
	for (const el of inner) {
		if (el.name === 'dt') terms.push([el]);
		else if (el.name === 'dd') terms.at(-1)?.push(el);
	}
	return terms.length >= least ? terms : [];
}

/** Letters of the first of two that make one message: who and when. */
const LONGEST_HEAD = 160;

/** Elements that take turns, the first of each two with a date and the second without: what was said under who said it, and when. */
function pairsOf(inner: readonly Element[]): Element[][] {
	if (inner.length < ALIKE * 2) return [];
	const own = inner.filter((e) => textOf(e) !== '' && dayOf(e) === '');
	if (own.length < ALIKE * 2) return [];
	const [a, b] = [formOf(own[0]!, 0), formOf(own[1]!, 0)];
	if (a === b) return [];
	const pairs: Element[][] = [];
	for (let i = 0; i + 1 < own.length; i++) {
		if (formOf(own[i]!, 0) !== a || formOf(own[i + 1]!, 0) !== b) continue;
		pairs.push([own[i]!, own[i + 1]!]);
		i++;
	}
	const dated = (e: Element): boolean => findStamp(plainLine(textOf(e))) !== null;
	const heads = pairs.filter(([head]) => textOf(head!).length <= LONGEST_HEAD && dated(head!));
	const said = pairs.filter(([, words]) => dated(words!));
	const turns = pairs.length * 2 >= own.length * MOSTLY && heads.length >= pairs.length * MOSTLY;
	return turns && said.length <= pairs.length * (1 - MOSTLY) + 1 ? pairs : [];
}

/** What an element is made of, down to its parts' parts. */
const formOf = (el: Element, depth: number): string =>
	`${el.name}.${classOf(el)}(${
		depth < 3
			? [
					...new Set(
						elements(el)
							.filter((e) => !INLINE.has(e.name))
							.map((e) => formOf(e, depth + 1))
					)
				].join()
			: ''
	})`;

const HEADING = /^(h[1-6]|caption|summary|legend)$/;
const LONGEST_HEADING = 200;
/** Entries under one heading, on average, from which headings are those of conversations. */
const UNDER_ONE = 2;

/** What the columns of a table are called in its first row, by cell; that row itself is put in as well. */
function nameColumns(table: Element, columns: Map<Element, string>): void {
	const rows = elements(table).flatMap((e) =>
		e.name === 'tr' ? [e] : /^t(head|body|foot)$/.test(e.name) ? elements(e).filter((r) => r.name === 'tr') : []
	);
	const [first, ...rest] = rows;
	const names = first ? elements(first).map(textOf) : [];
	if (
		!first ||
		names.length < 2 ||
		!elements(first).every((c) => c.name === 'th') ||
		new Set(names).size < names.length ||
		names.includes('')
	)
		return;
	columns.set(first, '');
	for (const row of rest) for (const [i, cell] of elements(row).entries()) if (names[i] !== undefined) columns.set(cell, names[i]);
}

/** What is said in a list of terms, one of several, is called as its terms are. */
function nameTerms(list: Element, columns: Map<Element, string>): void {
	const terms = termsOf(
		elements(list).filter((e) => !SKIPPED.has(e.name)),
		2
	);
	const names = terms.map(([term]) => textOf(term!).replace(/\s*:$/, ''));
	if (names.some((name) => name === '' || name.length > LONGEST_TERM) || new Set(names).size < names.length) return;
	for (const [i, [, said]] of terms.entries()) if (said) columns.set(said, names[i]!);
}
const LONGEST_TERM = 40;
const ROW = /^(?:li|tr|div|p|article|section)$/;

/** The text of an element that is a date and nothing else, as headings of days are; else ''. */
function dayOf(el: Element): string {
	const text = textOf(el);
	return text.length < 60 && dateHeading(plainLine(text)) ? text : '';
}

/** Several of one kind; those that each have a class of their own are the parts of one thing. */
function isList(group: readonly Element[]): boolean {
	const classes = new Set(group.map((e) => e.attribs['class'] ?? ''));
	return group.length >= ALIKE && (classes.size < group.length || classes.has(''));
}

const classOf = (el: Element): string => el.attribs['class']?.trim().split(/\s+/)[0] ?? '';

const groupName = (node: Document | Element): string => (isTag(node) && classOf(node) ? `${classOf(node)} ` : '');

function richness(items: readonly Item[]): number {
	const often = new Map<string, number>();
	for (const i of items.slice(0, 500)) for (const name of i.fields.keys()) often.set(name, (often.get(name) ?? 0) + 1);
	const shared = [...often.values()].filter((n) => n > Math.min(items.length, 500) * 0.6).length;
	return Math.min(shared, 6) * Math.log2(items.length + 1);
}

function itemsOf(entries: readonly Entry[], columns: ReadonlyMap<Element, string>): Item[] {
	const parts = entries.flatMap((e) => e.parts);
	const names = { columns, heads: headsOf(parts), apart: apartIn(parts) };
	const headings = new Set(entries.map(({ heading }) => heading));
	const headed = headings.size > 1 && headings.size * UNDER_ONE <= entries.length;
	const items: Item[] = [];
	for (const { parts, day, heading } of entries) {
		const one = stretch(parts[0]!, parts.at(-1));
		if (day !== '') one.fields.set('(day)', day);
		if (headed) one.fields.set(HEADING_FIELD, heading);
		for (const part of parts) fields(one, part, 0, names);
		if (one.fields.size > 1) items.push(one);
	}
	return withOwnClasses(items);
}

const CLASS = '@class';

/** Leaves of the items' classes those that not all of them have. */
function withOwnClasses(items: Item[]): Item[] {
	const classes = items.map((i) =>
		String(i.fields.get(CLASS) ?? '')
			.split(/\s+/)
			.filter((c) => c !== '')
	);
	const common = classes[0]?.filter((c) => classes.every((list) => list.includes(c))) ?? [];
	items.forEach((one, i) => {
		const own = classes[i]!.filter((c) => !common.includes(c)).join(' ');
		if (own !== '') one.fields.set(CLASS, own);
		else one.fields.delete(CLASS);
	});
	return items;
}

// ── parts within a line ────────────────────────────────────────────────────────────────────────────────────

/** Share of the elements of one name that must begin alike. */
const MOSTLY = 0.9;

const isPlainInline = (el: Element): boolean =>
	INLINE.has(el.name) && !el.attribs['class'] && elements(el).every((e) => INLINE.has(e.name));
/** An element in which there are but words, and elements that stand within a line and have no class. */
const isLine = (el: Element): boolean => elements(el).every(isPlainInline);
const isMedia = (el: Element): boolean => /^(br|img|a|audio|video|wbr)$/.test(el.name);

const nameOf = (part: ChildNode): string => (isTag(part) ? part.name : 'written');

/** Signs around a date or a time. */
const AROUND = /[\s()[\]<>|·•,:–—-]/g;

/** A date with its time, or a time, and nothing else. */
function isWhenAlone(text: string): boolean {
	const plain = plainLine(text);
	const when = findStamp(plain) ?? findTime(plain);
	return when !== null && (plain.slice(0, when.from) + plain.slice(when.to)).replace(AROUND, '') === '';
}

/** The marked-up words with which a line begins, and a date or a time before them; none after any other words. */
function headOf(el: Element): ChildNode[] {
	const head: ChildNode[] = [];
	for (const child of el.children) {
		if (isText(child)) {
			if (!/[\p{L}\p{N}]/u.test(child.data)) continue;
			if (head.length > 0 || !isWhenAlone(child.data)) break;
			head.push(child);
		} else if (isTag(child)) {
			if (child.name === 'br') continue;
			if (isMedia(child)) break;
			head.push(child);
		}
	}
	return head;
}

/** By name: with how many marked-up parts nearly all lines of that name begin, and these alike. */
function headsOf(els: readonly Element[]): Map<string, number> {
	const lines = new Map<string, string[][]>();
	const walk = (el: Element, depth: number): void => {
		if (isLine(el)) {
			const list = lines.get(partName(el, depth)) ?? [];
			lines.set(partName(el, depth), list);
			list.push(headOf(el).map(nameOf));
		} else if (depth < DEEPEST) for (const child of elements(el)) walk(child, depth + 1);
	};
	for (const el of els) walk(el, 0);
	const out = new Map<string, number>();
	for (const [name, heads] of lines) {
		let length = 0;
		for (let k = 0; ; k++) {
			const usual = heads.find((h) => h[k] !== undefined)?.[k];
			if (usual === undefined || heads.filter((h) => h[k] === usual).length < heads.length * MOSTLY) break;
			length = k + 1;
		}
		if (heads.length >= ALIKE && length > 0) out.set(name, length);
	}
	return out;
}

/** Whether elements within a line have no words between them: each is a part by itself. */
const areApart = (el: Element): boolean => el.children.every((c) => !isText(c) || !/[\p{L}\p{N}]/u.test(c.data));

/** The names of parts whose elements are mostly apart: in one whose words are but a sign they are none for that. */
function apartIn(els: readonly Element[]): Set<string> {
	const counts = new Map<string, [apart: number, all: number]>();
	const walk = (el: Element, depth: number): void => {
		if (isLine(el) || depth > DEEPEST) return;
		const count = counts.get(partName(el, depth)) ?? [0, 0];
		counts.set(partName(el, depth), count);
		count[1]++;
		if (areApart(el)) count[0]++;
		for (const child of elements(el)) walk(child, depth + 1);
	};
	for (const el of els) walk(el, 0);
	return new Set([...counts].filter(([, [apart, all]]) => apart * 2 > all).map(([name]) => name));
}

/** What stands between a head and what is said, on the same line. */
const SEPARATOR = /^[ \t]*[:–—|·•,>\]-]?[ \t]*/;

// ── fields ─────────────────────────────────────────────────────────────────────────────────────────────────

/** Attributes that name a file beside the page, and how those begin that name anything else (RFC 3986, section 3.1). */
const LINK = /^(href|src)$/;
const SCHEME = /^[a-z][a-z0-9+.-]*:/i;
const TOLD = /^(title|datetime|href|src|alt|value|data-.+)$/;

/** The name of a part: its element and class; that of what repeats differs with the way, and stands in a field of its own. */
const partName = (el: Element, depth: number): string => `${el.name}${depth > 0 && classOf(el) ? `.${classOf(el)}` : ''}`;

/** An element that stands within a line, and those in it. */
const withinLine = (el: Element, depth = 0): Element[] =>
	depth > DEEPEST ? [el] : [el, ...elements(el).flatMap((e) => withinLine(e, depth + 1))];

/** Fields of a repeated element: each part with text of its own, by its element and class, and what attributes tell. */
export function fields(into: Item, el: Element, depth: number, names: Names): void {
	const set = (name: string, value: string): void => {
		let free = name;
		for (let n = 2; into.fields.has(free) && n < 40; n++) free = `${name} ${n}`;
		if (value.trim() !== '') into.fields.set(free, value);
	};
	const told = (of: Element, name: string): void => {
		for (const [attribute, value] of Object.entries(of.attribs))
			if (TOLD.test(attribute)) set(`${name}@${attribute}`, LINK.test(attribute) && !SCHEME.test(value) ? plainHref(value) : value);
	};
	const own = names.columns.get(el) || partName(el, depth);
	told(el, own);
	if (depth === 0 && el.attribs['class']) set(CLASS, el.attribs['class']);
	const apart = names.apart.has(partName(el, depth)) && areApart(el);
	if ((isLine(el) && !apart) || depth > DEEPEST) {
		const head = headOf(el).slice(0, names.heads.get(partName(el, depth)) ?? 0);
		for (const part of head) set(`${own} ${nameOf(part)}`, readText([part]));
		const rest = readText(el.children.filter((c) => !head.includes(c)));
		set(own, head.length > 0 ? rest.replace(SEPARATOR, '') : rest);
		for (const part of elements(el).flatMap((e) => withinLine(e))) told(part, part.name);
		return;
	}
	const isOfLine = (c: ChildNode): boolean => isText(c) || (isTag(c) && INLINE.has(c.name) && !c.attribs['class']);
	if (!apart) set(own, readText(el.children.filter(isOfLine)));
	for (const part of elements(el)) {
		if (!isOfLine(part) || part.name === 'time') fields(into, part, depth + 1, names);
		else {
			if (apart && !isMedia(part)) set(`${own} ${part.name}`, readText([part]));
			for (const one of withinLine(part)) told(one, one.name);
		}
	}
}

/**
 * Texts of which some are no text: what else was sent (a file, a place, a card) as an element of XML in the same column,
 * and a column beside it that says of what kind a row is. Such a row says what its element's text says, and states what
 * the attributes do.
 */
import { XMLParser } from 'fast-xml-parser';
import type { Row, Value } from '../model';
import { PLAIN_XML } from '../xml-options';

const ROWS = 3000;
const LEAST = 2;
/** Share of the texts up to which elements are not the way that all are written. */
const MOST = 0.6;
const MOST_KINDS = 12;
/** Share of rows of other kinds that may look like it, and of these that may not. */
const STRAY = 0.02;
const LONGEST = 100_000;
const MOST_ATTRIBUTES = 20;
const DEEPEST = 8;

const ELEMENT = /^\s*(?:<\?xml[^>]*>\s*)?<([a-z][\w.-]*)(?:\s[^<>]*)?(?:\/>|>[\s\S]*<\/\1>)\s*$/i;
const BEGINS = /^\s*<([a-z][\w.-]*)[\s>/]/i;
const isElement = (value: Value | undefined): value is string =>
	typeof value === 'string' && value.length < LONGEST && value.trimStart().startsWith('<') && ELEMENT.test(value);

interface Opened {
	text: string;
	attributes: Map<string, string>;
}

export interface Payloads {
	/** What a row says: its text, or that of its element; null where it says nothing. */
	said: (row: Row) => Value | undefined;
	/** The attributes that come again, by their element's name and their own. */
	attributes: { name: string; read: (row: Row) => string | undefined }[];
}

/** `read`: the texts; `columns`: how many columns there are, any of which may say the kind. */
export function payloadsIn(rows: readonly Row[], read: (row: Row) => Value | undefined, columns: number): Payloads | null {
	const sample = rows.slice(0, ROWS);
	const texts = sample.filter((row) => typeof read(row) === 'string' && read(row) !== '');
	const elements = texts.filter((row) => isElement(read(row)));
	if (elements.length < LEAST || elements.length > texts.length * MOST) return null;
	const plain = texts.filter((row) => !isElement(read(row)));
	for (let column = 0; column < columns; column++) {
		const kinds = kindsOf(elements, plain, column);
		if (kinds) return reader(elements, read, (row) => kinds.has(row.values[column]));
	}
	return null;
}

/** The values that rows with an element have in a column, where those without have others. */
function kindsOf(elements: readonly Row[], plain: readonly Row[], column: number): Set<Value | undefined> | null {
	const isKind = (value: Value | undefined): boolean => typeof value === 'number' || (typeof value === 'string' && value.length < 24);
	if (![...elements, ...plain].every((row) => isKind(row.values[column]))) return null;
	const kinds = new Set(elements.map((row) => row.values[column]));
	const others = new Set(plain.map((row) => row.values[column]));
	if (kinds.size > MOST_KINDS || others.size > MOST_KINDS) return null;
	const strays = plain.filter((row) => kinds.has(row.values[column])).length;
	return strays <= plain.length * STRAY ? kinds : null;
}

function reader(elements: readonly Row[], read: (row: Row) => Value | undefined, isOfKind: (row: Row) => boolean): Payloads {
	const cache = new WeakMap<Row, Opened | null>();
	const opened = (row: Row): Opened | null => {
		let known = cache.get(row);
		if (known === undefined) {
			const value = read(row);
			cache.set(row, (known = isOfKind(row) && isElement(value) ? open(value) : null));
		}
		return known;
	};
	const names = new Map<string, number>();
	for (const row of elements) for (const name of opened(row)?.attributes.keys() ?? []) names.set(name, (names.get(name) ?? 0) + 1);
	const often = [...names].filter(([, n]) => n >= LEAST).slice(0, MOST_ATTRIBUTES);
	const roots = new Set(elements.flatMap((row) => BEGINS.exec(String(read(row)))?.[1] ?? []));
	return {
		said: (row) => {
			const element = opened(row);
			if (element) return element.text || null;
			const value = read(row);
			// Of an element that is cut nobody knows what it says.
			const begun = row.cut >= 0 && typeof value === 'string' ? BEGINS.exec(value)?.[1] : undefined;
			return begun !== undefined && roots.has(begun) ? undefined : value;
		},
		attributes: often.map(([name]) => ({ name, read: (row) => opened(row)?.attributes.get(name) }))
	};
}

const ATTRIBUTE = '@';
const TEXT = '#text';

function open(text: string): Opened | null {
	const parser = new XMLParser({
		...PLAIN_XML,
		attributeNamePrefix: ATTRIBUTE,
		textNodeName: TEXT,
		trimValues: true,
		alwaysCreateTextNode: true
	});
	try {
		const found: Opened = { text: '', attributes: new Map() };
		collect(parser.parse(text), '', found, 0);
		return found;
	} catch {
		return null;
	}
}

function collect(node: unknown, element: string, into: Opened, depth: number): void {
	if (depth > DEEPEST || node === null || typeof node !== 'object') return;
	for (const [key, value] of Object.entries(node as Record<string, unknown>)) {
		if (key === TEXT && typeof value === 'string') into.text = [into.text, value].filter((t) => t !== '').join('\n');
		else if (key.startsWith(ATTRIBUTE)) {
			const name = `${element}.${key.slice(ATTRIBUTE.length)}`;
			if (typeof value === 'string' && value !== '' && !into.attributes.has(name)) into.attributes.set(name, value);
		} else for (const one of Array.isArray(value) ? value.slice(0, 200) : [value]) collect(one, key, into, depth + 1);
	}
}

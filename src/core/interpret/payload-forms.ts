/** How what is no text is written in a column of texts: as an element of XML, or as a document of JSON. */
import { XMLParser } from 'fast-xml-parser';
import type { Value } from '../model';
import { PLAIN_XML } from '../xml-options';
import { FILE_NAME, profileOfValues } from './profile';

export interface OpenedPayload {
	/** What it says as a text; empty where it says nothing. */
	text: string;
	/** What else it states, by where it stands in it. */
	fields: Map<string, string>;
}

export interface PayloadForm {
	is(value: Value | undefined): value is string;
	/** What a payload of the kind begins with, whole or cut; undefined where the text is none. */
	begins(text: string): string | undefined;
	open(text: string): OpenedPayload | null;
	/** Which of the fields says what the sender wrote, where that is no text of its own. */
	said(opened: readonly OpenedPayload[]): string | null;
}

const LONGEST = 100_000;
const DEEPEST = 8;
const ITEMS_AT_MOST = 200;
const canBe = (value: Value | undefined): value is string => typeof value === 'string' && value.length < LONGEST;

const ELEMENT = /^\s*(?:<\?xml[^>]*>\s*)?<([a-z][\w.-]*)(?:\s[^<>]*)?(?:\/>|>[\s\S]*<\/\1>)\s*$/i;
const BEGINS = /^\s*<([a-z][\w.-]*)[\s>/]/i;
const ATTRIBUTE = '@';
const TEXT = '#text';

const ELEMENTS: PayloadForm = {
	is: (value): value is string => canBe(value) && value.trimStart().startsWith('<') && ELEMENT.test(value),
	begins: (text) => BEGINS.exec(text)?.[1],
	open(text) {
		const parser = new XMLParser({
			...PLAIN_XML,
			attributeNamePrefix: ATTRIBUTE,
			textNodeName: TEXT,
			trimValues: true,
			alwaysCreateTextNode: true
		});
		try {
			const found: OpenedPayload = { text: '', fields: new Map() };
			collectElement(parser.parse(text), '', found, 0);
			return found;
		} catch {
			return null;
		}
	},
	said: () => null
};

function collectElement(node: unknown, element: string, into: OpenedPayload, depth: number): void {
	if (depth > DEEPEST || node === null || typeof node !== 'object') return;
	const entries = Object.entries(node as Record<string, unknown>);
	for (const [key, value] of entries) {
		// With a size or a number beside it a file's name is what the element is of, and nothing that was said.
		if (key === TEXT && typeof value === 'string' && FILE_NAME.test(value) && entries.length > 1) into.fields.set(`${element}.name`, value);
		else if (key === TEXT && typeof value === 'string') into.text = [into.text, value].filter((t) => t !== '').join('\n');
		else if (key.startsWith(ATTRIBUTE)) {
			const name = `${element}.${key.slice(ATTRIBUTE.length)}`;
			if (typeof value === 'string' && value !== '' && !into.fields.has(name)) into.fields.set(name, value);
		} else for (const one of Array.isArray(value) ? value.slice(0, ITEMS_AT_MOST) : [value]) collectElement(one, key, into, depth + 1);
	}
}

const CAPTION_NAMED = /(?:^|[._-])(?:caption|text|body|message|comment|msg)$/i;
const WRITTEN = 0.3;

const DOCUMENTS: PayloadForm = {
	is: (value): value is string => canBe(value) && documentOf(value) !== null,
	begins: (text) => (/^\s*(?:\{\s*"|\[\s*["[{\d])/.test(text) ? text.trimStart()[0] : undefined),
	open(text) {
		const document = documentOf(text);
		if (document === null) return null;
		const fields = new Map<string, string>();
		collectFields(document, '', fields, 0);
		return { text: '', fields };
	},
	said(opened) {
		const names = [...new Set(opened.flatMap(({ fields }) => [...fields.keys()]))];
		const called = names.find((name) => CAPTION_NAMED.test(name));
		if (called !== undefined) return called;
		const written = names.flatMap((name) => {
			const values = opened.flatMap(({ fields }) => fields.get(name) ?? []);
			const { prose, path, mime } = profileOfValues(values);
			return prose > WRITTEN && path + mime < WRITTEN && !values.some((v) => FILE_NAME.test(v)) ? [{ name, prose }] : [];
		});
		return written.sort((a, b) => b.prose - a.prose)[0]?.name ?? null;
	}
};

/** A map or a list of several things; null for anything else. */
function documentOf(text: string): object | null {
	if (!/^\s*[[{]/.test(text)) return null;
	try {
		const value: unknown = JSON.parse(text);
		return value !== null && typeof value === 'object' && Object.keys(value).length > 1 ? value : null;
	} catch {
		return null;
	}
}

function collectFields(value: unknown, name: string, into: Map<string, string>, depth: number): void {
	if (value === null || value === undefined || depth > DEEPEST || into.size > ITEMS_AT_MOST) return;
	if (typeof value === 'object')
		for (const [key, one] of Object.entries(value)) collectFields(one, name === '' ? key : `${name}.${key}`, into, depth + 1);
	else if (value !== '') into.set(name, String(value));
}

export const PAYLOAD_FORMS: readonly PayloadForm[] = [ELEMENTS, DOCUMENTS];

/** Names with their values, one after the other: `from=%2B44…&text=The+boiler` (URL Standard, 5), or a pair on each line. */
import type { Opened } from './composed';
import { areOfFiles, areOfMessages, areOfTexts } from './fields';

export interface Pairs {
	kind: 'pairs';
	by: '&' | '\n' | ';';
}

const SIGNS = ['&', '\n', ';'] as const;
const FEWEST = 3;
const MOST = 40;
const MOSTLY = 0.95;
const SAMPLE = 200;
/** The media type application/x-www-form-urlencoded (URL Standard, 5). */
const FORM = /^[\w.-]+=[^\s&=]*(?:&[\w.%-]+=[^\s&=]*)+$/;
const PAIR = /^\s*([A-Za-z][\w.-]{0,40})\s*[=:]\s?([\s\S]*)$/;

export function pairsIn(texts: readonly string[]): Pairs | null {
	const sample = texts.slice(0, SAMPLE);
	for (const by of SIGNS) {
		if (!sample[0]!.includes(by)) continue;
		const records = sample.map((text) => namesAndValues(text, by)).filter((fields) => fields !== null);
		if (records.length < sample.length * MOSTLY) continue;
		const names = [...new Set(records.flatMap((fields) => Object.keys(fields)))];
		const common = names.filter((name) => records.filter((fields) => Object.hasOwn(fields, name)).length >= records.length * MOSTLY);
		const values = common.map((name) => records.map((fields) => fields[name]));
		if (common.length < FEWEST) continue;
		// Nobody writes so as forms are sent: then the time can stand elsewhere.
		const areForms = by === '&' && sample.every((text) => FORM.test(text));
		if (areOfMessages(values) || areOfFiles(values) || (areForms && areOfTexts(values))) return { kind: 'pairs', by };
	}
	return null;
}

/** The pairs of a text; null where there are too few, or too many, or something else. */
function namesAndValues(text: string, by: Pairs['by']): Record<string, string> | null {
	const parts = text.split(by);
	if (parts.length > MOST * 4) return null;
	const fields = new Map<string, string>();
	let last = '';
	for (const part of parts) {
		const [, name, value] = PAIR.exec(part) ?? [];
		// What is no pair goes on with the value before it.
		if (name === undefined && last === '') return null;
		if (name === undefined || fields.has(name)) fields.set(last, `${fields.get(last)}${by}${part}`);
		else fields.set((last = name), by === '&' ? decoded(value!) : value!);
	}
	return fields.size >= FEWEST && fields.size <= MOST ? Object.fromEntries(fields) : null;
}

function decoded(value: string): string {
	try {
		return decodeURIComponent(value.replaceAll('+', ' '));
	} catch {
		return value;
	}
}

export function openPairs(text: string, { by }: Pairs, isCut: boolean): Opened | null {
	const fields = namesAndValues(isCut ? withoutEnd(text, by) : text, by);
	if (!fields || !isCut) return fields && { fields };
	return { fields, ending: [Object.keys(fields).at(-1)!] };
}

/** Without what may be the beginning of a name, or of a letter's escape. */
function withoutEnd(text: string, by: Pairs['by']): string {
	const last = text.lastIndexOf(by);
	const begun = last >= 0 && /^\s*[\w.-]*$/.test(text.slice(last + 1)) ? text.slice(0, last) : text;
	return by === '&' ? withoutPartOfLetter(begun.replace(/%.?$/, '')) : begun;
}

/** A letter is up to four bytes, each written by itself. */
function withoutPartOfLetter(text: string): string {
	let start = text.length;
	while (start >= 3 && ESCAPE.test(text.slice(start - 3, start))) start -= 3;
	for (let end = text.length, bytes = 0; end > start && bytes < 4; end -= 3, bytes++)
		if (decoded(text.slice(start, end)) !== text.slice(start, end)) return text.slice(0, end);
	return text.slice(0, start);
}
const ESCAPE = /^%[\da-f]{2}$/i;

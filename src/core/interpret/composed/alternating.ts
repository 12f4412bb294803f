/** Names and their values by turns, with one sign between all of them: `FILE_NAME<tab>lift.jpg<tab>FILE_SIZE<tab>1204`. */
import type { Opened } from './composed';
import { areOfFiles, areOfMessages } from './fields';

export interface Alternating {
	kind: 'alternating';
	by: string;
}

const SIGNS = ['\t', '\u001f', '\u0001', '|', '\n', ';'];
const MOST = 60;
const MOSTLY = 0.95;
const SAMPLE = 200;
/** Records that must have two names or more, and how often a name comes back on average. */
const LEAST = 2;
const COME_BACK = 1.5;
const NAME = /^[A-Za-z][\w.-]{0,40}$/;

export function alternatingIn(texts: readonly string[]): Alternating | null {
	const sample = texts.slice(0, SAMPLE);
	for (const by of SIGNS) {
		if (!sample[0]!.includes(by)) continue;
		const records = sample.map((text) => namesAndValues(text, by)).filter((fields) => fields !== null);
		if (records.length < sample.length * MOSTLY || records.filter((fields) => fields.size > 1).length < LEAST) continue;
		const names = new Set(records.flatMap((fields) => [...fields.keys()]));
		if (records.reduce((sum, fields) => sum + fields.size, 0) < names.size * COME_BACK) continue;
		const columns = [...names].map((name) => records.map((fields) => fields.get(name)));
		if (areOfMessages(columns) || areOfFiles(columns)) return { kind: 'alternating', by };
	}
	return null;
}

/** The values by their names; null where something stands in the place of a name that is none, or one stands twice. */
function namesAndValues(text: string, by: string): Map<string, string> | null {
	const parts = text.split(by);
	// What ends with a sign has a last value that is empty, or nothing behind it.
	if (parts.length % 2 === 1 && parts.at(-1) === '') parts.pop();
	if (parts.length < 2 || parts.length > MOST * 2) return null;
	const fields = new Map<string, string>();
	for (let i = 0; i < parts.length; i += 2) {
		if (!NAME.test(parts[i]!) || fields.has(parts[i]!)) return null;
		fields.set(parts[i]!, parts[i + 1] ?? '');
	}
	return fields;
}

export function openAlternating(text: string, { by }: Alternating, isCut: boolean): Opened | null {
	if (!isCut) {
		const fields = namesAndValues(text, by);
		return fields && { fields: Object.fromEntries(fields) };
	}
	// Of the last part nobody knows how it went on: a name is left out, a value is what is left of it.
	const parts = text.split(by);
	const fields = namesAndValues(parts.slice(0, parts.length - (parts.length % 2)).join(by), by);
	const last = fields ? [...fields.keys()].at(-1) : undefined;
	return fields && last !== undefined
		? { fields: Object.fromEntries(fields), ...(parts.length % 2 === 0 ? { ending: [last] } : {}) }
		: null;
}

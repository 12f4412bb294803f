/** Parts between signs, as a log's lines have them: `2025-01-10T11:05:42Z|OUT|+44…|The boiler is cold`. */
import type { Opened } from './composed';
import { profileOfValues } from '../profile';
import { areOfMessages } from './fields';

/** `written`: the part that may have the sign within; `within`: whether it has in some. */
export interface Parted {
	kind: 'parted';
	by: string;
	parts: number;
	written: number;
	within: boolean;
}

/** Signs that people seldom write come first. */
const SIGNS = ['\u001f', '\u001e', '\u0001', '\t', '|', '¦', ';', '~', '^', ','];
const FEWEST = 3;
const MOST = 20;
const MOSTLY = 0.95;
const SAMPLE = 200;

export function partsIn(texts: readonly string[]): Parted | null {
	const sample = texts.slice(0, SAMPLE);
	for (const by of SIGNS) {
		if (!sample[0]!.includes(by)) continue;
		const counts = sample.map((text) => text.split(by).length).sort((a, b) => a - b);
		const parts = counts[Math.floor(counts.length * (1 - MOSTLY))]!;
		if (parts < FEWEST || parts > MOST) continue;
		const plain = sample.map((text) => text.split(by)).filter((found) => found.length === parts);
		if (plain.length < sample.length * LEAST_PLAIN) continue;
		const columns = Array.from({ length: parts }, (_, i) => plain.map((found) => found[i]));
		if (!areOfMessages(columns)) continue;
		const prose = columns.map((column) => profileOfValues(column)).map((p) => (p.time ? 0 : p.prose * p.averageLength));
		return { kind: 'parted', by, parts, written: prose.indexOf(Math.max(...prose)), within: plain.length < sample.length };
	}
	return null;
}
/** Share of the records that must have no such sign but between their parts. */
const LEAST_PLAIN = 0.5;

export function openParted(text: string, { by, parts, written, within }: Parted, isCut: boolean): Opened | null {
	const found = text.split(by);
	if (isCut) return fieldsOfCut(found, written, within);
	const more = found.length - parts;
	if (more < 0) return null;
	if (more > 0) found.splice(written, more + 1, found.slice(written, written + more + 1).join(by));
	return { fields: byPlace(found) };
}

const byPlace = (parts: readonly string[]): Record<string, string> => Object.fromEntries(parts.map((part, i) => [String(i + 1), part]));

/** Of what ends anywhere but in the text nobody knows whether it is whole; nor where a text ends that may go on behind a sign. */
function fieldsOfCut(found: readonly string[], written: number, within: boolean): Opened {
	const last = found.length - 1;
	if (last === written || (last > written && within))
		return { fields: byPlace(found.slice(0, written + 1)), ending: [String(written + 1)] };
	return { fields: byPlace(found.slice(0, last)) };
}

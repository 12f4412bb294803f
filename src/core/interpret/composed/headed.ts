/**
 * A head of lines, each a name and what it says, and a body below an empty line (RFC 5322, section 2.1): what programs
 * keep that handle mail, or that write so. Of a body in several parts the one that is plain text is read (RFC 2046, 5.1).
 */
import { bodyText } from '../body';
import type { Opened } from './composed';

const NAMED = /^([A-Za-z][\w-]{0,60}):[ \t]?(.*)$/;
const SAMPLE = 200;
const MOSTLY = 0.9;
const FEWEST = 2;
const DEEPEST = 4;
export const BODY = 'body';

export interface Letter {
	head: Record<string, string>;
	body: string | null;
}

/** Whether nearly all have two names in common at their heads, and something below. */
export function areHeaded(texts: readonly string[]): boolean {
	const sample = texts.slice(0, SAMPLE);
	if (!NAMED.test(sample[0]!.split(/\r?\n/, 1)[0]!)) return false;
	const letters = sample.map(letterOf).filter((letter) => letter !== null && letter.body !== null);
	if (letters.length < sample.length * MOSTLY) return false;
	const counts = new Map<string, number>();
	for (const letter of letters) for (const name of Object.keys(letter!.head)) counts.set(name, (counts.get(name) ?? 0) + 1);
	return [...counts.values()].filter((n) => n >= letters.length * MOSTLY).length >= FEWEST;
}

/** Head and body; the body is null where the text has none any more. Null where it begins with no head. */
export function letterOf(text: string): Letter | null {
	const head = new Map<string, string>();
	let at = 0;
	let last = '';
	while (at < text.length) {
		const end = text.indexOf('\n', at);
		const line = text.slice(at, end < 0 ? undefined : end).replace(/\r$/, '');
		at = end < 0 ? text.length : end + 1;
		const [, name, value] = NAMED.exec(line) ?? [];
		if (line === '' && last !== '') return { head: Object.fromEntries(head), body: text.slice(at) };
		if (name !== undefined) {
			last = name;
			if (!head.has(name)) head.set(name, value!);
		} else if (/^[ \t]/.test(line) && last !== '') head.set(last, `${head.get(last)} ${line.trim()}`);
		else return null;
	}
	return last === '' ? null : { head: Object.fromEntries(head), body: null };
}

export function openHeaded(text: string, isCut: boolean): Opened | null {
	const letter = letterOf(text);
	if (!letter) return null;
	if (letter.body !== null) {
		const said = saidIn(letter.head, letter.body, 0, isCut);
		return { fields: { ...letter.head, [BODY]: said }, ...(isCut ? { ending: [BODY] } : {}) };
	}
	if (!isCut) return { fields: { ...letter.head } };
	// Its last line may go on.
	delete letter.head[Object.keys(letter.head).at(-1)!];
	return { fields: letter.head };
}

export const field = (head: Record<string, string>, name: string): string =>
	head[Object.keys(head).find((key) => key.toLowerCase() === name) ?? ''] ?? '';

/** What a body says: decoded (RFC 2045, section 6), markup as text. */
function saidIn(head: Record<string, string>, body: string, depth: number, isCut: boolean): string | null {
	const type = field(head, 'content-type');
	const boundary = boundaryOf({ head });
	if (boundary !== null && depth < DEEPEST) return partOf(body, boundary, depth, isCut);
	const how = field(head, 'content-transfer-encoding').trim().toLowerCase();
	const decoded =
		how === 'base64' || how === 'quoted-printable' ? bodyText(how === 'base64' ? digitsOf(body) : body, { kind: how }, isCut) : body;
	const text = (decoded ?? body).replaceAll('\r\n', '\n').replace(/\n$/, '');
	return /^text\/html/i.test(type) ? bodyText(text, { kind: 'markup' }) : text;
}

/** Digits to the base of 64 as far as they go: of a letter that has lost its head the next part stands behind them. */
const digitsOf = (body: string): string => body.split(/\r?\n--/, 1)[0]!.replace(/\s/g, '');

/** What stands between a body's parts, where it has several (RFC 2046, section 5.1.1). */
export const boundaryOf = ({ head }: Pick<Letter, 'head'>): string | null =>
	/^multipart\/.*\bboundary="?([^";]+)/i.exec(field(head, 'content-type'))?.[1] ?? null;

export const partsOf = (body: string, boundary: string): Letter[] =>
	body
		.split(`--${boundary}`)
		.slice(1)
		.flatMap((part) => letterOf(part.replace(/^[ \t]*\r?\n/, '').replace(/\r?\n$/, '')) ?? []);

function partOf(body: string, boundary: string, depth: number, isCut: boolean): string | null {
	const letters = partsOf(body, boundary);
	const told = (test: RegExp): Letter | undefined =>
		letters.find(({ head, body: own }) => own !== null && test.test(field(head, 'content-type')));
	const chosen = told(/^text\/plain/i) ?? told(/^text\//i) ?? told(/^multipart\//i);
	return chosen ? saidIn(chosen.head, chosen.body!, depth + 1, isCut && chosen === letters.at(-1)) : null;
}

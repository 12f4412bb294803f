/** Files that a letter encloses (MIME, RFC 2045 and RFC 2046), where letters are kept whole as values of a store. */
import { decodeWords } from 'postal-mime';
import { beginningOf, bytesIn, wholeBytes } from '../../harvest';
import type { Value } from '../../model';
import { fromBase64 } from '../body';
import { boundaryOf, field, letterOf, partsOf, type Letter } from './headed';

/** A file in a letter: its bytes, or their beginning (see `wholeBytes`). */
export interface Enclosed {
	name: string | null;
	/** Media type. */
	type: string | null;
	bytes: Uint8Array;
}

const DEEPEST = 6;
const MOST = 200;
/** Letters of one value, at most. */
const LONGEST = 64 << 20;

/** The files that a letter encloses; none where its value is no letter. */
export function enclosedIn(value: Value | undefined): Enclosed[] {
	const bytes = (): Uint8Array | null => {
		if (typeof value === 'string') return value.length > LONGEST ? null : new TextEncoder().encode(value);
		return value instanceof Uint8Array && bytesIn(value) <= LONGEST ? wholeBytes(value) : null;
	};
	const parts = (): Letter[] => {
		const own = bytes();
		return own ? filesOf(lettersOf(own)) : [];
	};
	return parts().map((part, i) => ({
		name: nameOf(part),
		type: typeOf(part),
		bytes: beginningOf(bytesOf(part), () => {
			const again = parts()[i];
			return again ? bytesOf(again) : null;
		})
	}));
}

/** A letter for each byte: what is no text keeps its bytes so, as by no decoder in a browser. */
function lettersOf(bytes: Uint8Array): string {
	const letters: string[] = [];
	for (let at = 0; at < bytes.length; at += CHUNK) letters.push(String.fromCharCode(...bytes.subarray(at, at + CHUNK)));
	return letters.join('');
}
const CHUNK = 8192;

const bytesOfLetters = (letters: string): Uint8Array => Uint8Array.from(letters, (c) => c.charCodeAt(0));

function filesOf(text: string): Letter[] {
	const letter = letterOf(text);
	const found: Letter[] = [];
	const collect = (one: Letter, depth: number): void => {
		if (one.body === null || depth > DEEPEST || found.length >= MOST) return;
		const boundary = boundaryOf(one);
		if (boundary !== null) for (const part of partsOf(one.body, boundary)) collect(part, depth + 1);
		else if (depth > 0 && isFile(one)) found.push(one);
	};
	if (letter) collect(letter, 0);
	return found;
}

/** What is called so, or has a name, or is no text (RFC 2183, section 2). */
const isFile = (part: Letter): boolean =>
	/^\s*attachment/i.test(field(part.head, 'content-disposition')) ||
	nameOf(part) !== null ||
	!/^(?:text|multipart)\//i.test(typeOf(part) ?? 'text/');

const typeOf = ({ head }: Letter): string | null =>
	/^\s*([\w.+-]+\/[\w.+-]+)/.exec(field(head, 'content-type'))?.[1]?.toLowerCase() ?? null;

/** A name as it is stated: as words in a code page (RFC 2047), or with one and percent signs (RFC 2231, section 4). */
function nameOf({ head }: Letter): string | null {
	const stated = `${field(head, 'content-disposition')}; ${field(head, 'content-type')}`;
	const coded = /\b(?:file)?name\*0?\*?\s*=\s*"?utf-8'[^']*'([^";]+)/i.exec(stated)?.[1];
	if (coded !== undefined) {
		try {
			return decodeURIComponent(coded.trim());
		} catch {
			return coded.trim();
		}
	}
	const [, quoted, bare] = /\b(?:file)?name\s*=\s*(?:"((?:[^"\\]|\\.)*)"|([^\s;]+))/i.exec(stated) ?? [];
	const name = (quoted?.replace(/\\(.)/g, '$1') ?? bare ?? '').trim();
	return name === '' ? null : decodeWords(new TextDecoder().decode(bytesOfLetters(name)));
}

function bytesOf({ head, body }: Letter): Uint8Array {
	const how = field(head, 'content-transfer-encoding').trim().toLowerCase();
	const plain = body ?? '';
	if (how === 'base64') return fromBase64(/^[\sA-Za-z0-9+/=]*/.exec(plain)![0]) ?? new Uint8Array();
	const text =
		how === 'quoted-printable'
			? plain.replace(/=\r?\n/g, '').replace(/=([\dA-F]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)))
			: plain;
	return bytesOfLetters(text);
}

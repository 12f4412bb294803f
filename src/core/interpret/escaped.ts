/**
 * Texts whose letters are written by others, as what passes through forms, pages and mails is: references of HTML (its
 * standard, section 13.5), percent-encoding (RFC 3986, section 2.1), quoted-printable (RFC 2045, section 6.7).
 */
import { entitiesIn } from './markup';

export type Escape = 'references' | 'percent' | 'quoted-printable';

const utf8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
/** Values that must be written so, at least. */
const LEAST = 2;
/** Share of texts of several words that must have a blank written so: those of one word need none. */
const MOSTLY = 0.5;

const REFERENCE = /&(?:#x[\da-f]{1,6}|#\d{1,7}|[a-z]{2,8}\d{0,2});/i;
const REFERENCES = new RegExp(REFERENCE.source, 'gi');
const PERCENT = /^(?:[^\s%<>"{}|\\^`\u0080-\uffff]|%[\da-f]{2})+$/i;
const IS_LINK = /^[a-z][a-z\d+.-]*:\/\//i;
const QUOTED = /=(?:[\dA-F]{2}|\r?\n)/g;

/** A person or a room named by a key in angle brackets. */
const NAMED = /<[@#!][\w|.-]+>/g;

/** How nearly all of a column's texts are written, or null where they are plain. */
export function escapeOf(texts: readonly string[]): Escape | null {
	const having = (test: RegExp): string[] => texts.filter((t) => test.test(t));
	const references = having(REFERENCE);
	const areKnown = references.every((t) => !REFERENCE.test(entitiesIn(t.replaceAll(/&amp;/gi, ''))));
	// Whom a text names can stand in signs that are written so elsewhere.
	const hasRaw = (t: string): boolean => /[&<>]/.test(t.replace(NAMED, '').replace(REFERENCES, ''));
	const times = references.reduce((sum, t) => sum + (t.match(REFERENCES)?.length ?? 0), 0);
	if ((references.length >= LEAST || times > LEAST) && areKnown && !texts.some(hasRaw)) return 'references';
	const percent = having(/%[\da-f]{2}/i);
	const arePercent = percent.length >= Math.max(LEAST, texts.length * MOSTLY) && texts.every((t) => PERCENT.test(t) && !IS_LINK.test(t));
	if (arePercent && percent.every((t) => unescape('percent', t) !== null)) return 'percent';
	const quoted = having(/=[\dA-F]{2}/);
	const areQuoted = quoted.length >= LEAST && texts.every((t) => !/[\u0080-\uffff]/.test(t) && !t.replace(QUOTED, '').includes('='));
	return areQuoted && quoted.every((t) => unescape('quoted-printable', t) !== null) ? 'quoted-printable' : null;
}

/** The text itself; null where it is not written so. */
export function unescape(how: Escape, text: string): string | null {
	if (how === 'references') return entitiesIn(text);
	try {
		if (how === 'percent') return decodeURIComponent(/%20/.test(text) ? text : text.replaceAll('+', ' '));
		const bytes: number[] = [];
		for (const [, hex, letter] of text.replace(/=\r?\n/g, '').matchAll(/=([\dA-F]{2})|([\s\S])/g))
			bytes.push(hex === undefined ? letter!.charCodeAt(0) & 0xff : parseInt(hex, 16));
		return utf8.decode(Uint8Array.from(bytes));
	} catch {
		return null;
	}
}

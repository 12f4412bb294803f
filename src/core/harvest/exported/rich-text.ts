/**
 * Rich Text Format (the specification's version 1.9.1): the text of a document without its looks. Of destinations that
 * hold no text of it (section "Destinations": fonts, colours, pictures, what `\*` marks) nothing is read.
 */
import { decodeCodePage } from '../../bytes';

const BEGINS = /^\s*\{\\rtf\d?/;
export const isRichText = (text: string): boolean => BEGINS.test(text);

const ASIDE = new Set(
	'fonttbl colortbl stylesheet info pict object header footer footnote fldinst listtable generator themedata'.split(' ')
);
/** Control words that stand for signs. */
const SIGNS: Record<string, string> = {
	par: '\n',
	line: '\n',
	tab: '\t',
	emdash: '—',
	endash: '–',
	lquote: '‘',
	rquote: '’',
	ldblquote: '“',
	rdblquote: '”',
	bullet: '•',
	emspace: '\u2003',
	enspace: '\u2002'
};
/** A control word with its number and blank, a control symbol, a brace, or letters. */
const TOKEN = /\\([a-z]{1,32})(-?\d{1,10})? ?|\\'([\da-f]{2})|\\([^a-z'])|([{}])|([^\\{}\r\n]+)|[\r\n]+/gi;
const DEEPEST = 200;

interface Group {
	isAside: boolean;
	/** Characters behind a letter of Unicode that stand for it where nobody knows it (`\uc`). */
	stand: number;
}

/** The text that people saw; null where it is none in this form. */
export function richText(rtf: string): string | null {
	if (!isRichText(rtf)) return null;
	const page = `windows-${/\\ansicpg(\d{3,5})/.exec(rtf)?.[1] ?? '1252'}`;
	const groups: Group[] = [{ isAside: false, stand: 1 }];
	let [text, skip] = ['', 0];
	for (const [, word, number, hex, symbol, brace, letters] of rtf.matchAll(TOKEN)) {
		const group = groups.at(-1)!;
		if (brace === '{') {
			if (groups.length > DEEPEST) return null;
			groups.push({ ...group });
		} else if (brace === '}') {
			if (groups.length > 1) groups.pop();
		} else if (symbol === '*' || (word && ASIDE.has(word))) group.isAside = true;
		else if (word === 'uc') group.stand = Number(number ?? 1);
		else if (group.isAside) continue;
		else if (word === 'u') {
			text += String.fromCharCode(Number(number) & 0xffff);
			skip = group.stand;
		} else if (skip > 0 && (hex !== undefined || letters !== undefined)) {
			const rest = (letters ?? ' ').slice(skip);
			skip = Math.max(0, skip - (letters ?? ' ').length);
			text += letters === undefined ? '' : rest;
		} else if (hex !== undefined) text += letterOf(parseInt(hex, 16), page);
		else if (word !== undefined) text += SIGNS[word] ?? '';
		else if (symbol !== undefined)
			text += symbol === '~' ? '\u00a0' : symbol === '_' ? '\u2011' : symbol === '-' ? '' : /[\\{}]/.test(symbol) ? symbol : '';
		else if (letters !== undefined) text += letters;
	}
	return text.replace(/\n$/, '');
}

function letterOf(byte: number, page: string): string {
	try {
		return decodeCodePage(Uint8Array.of(byte), page);
	} catch {
		return decodeCodePage(Uint8Array.of(byte), 'windows-1252');
	}
}

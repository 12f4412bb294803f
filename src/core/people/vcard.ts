/** Cards: vCard 2.1, 3.0 (RFC 2426) and 4.0 (RFC 6350). Only names, numbers and addresses are taken. */
import { decodeCodePage } from '../bytes';
import { add, MOST_CARDS, utf8Size, type Card, type SizeOf } from './card';

export const isVcard = (text: string): boolean => /^\s*(\ufeff)?BEGIN:VCARD/i.test(text);

/** Every card of a text. One that does not end is taken as far as it goes. */
export function readVcards(text: string, sizeOf: SizeOf = utf8Size): Card[] {
	const cards: Card[] = [];
	const starts = [...text.matchAll(/^BEGIN:VCARD\s*$/gim)].slice(0, MOST_CARDS);
	let offset = 0;
	let counted = 0;
	for (const [i, start] of starts.entries()) {
		const next = starts[i + 1]?.index ?? text.length;
		const body = text.slice(start.index, next);
		offset += sizeOf(text.slice(counted, start.index));
		counted = start.index;
		const card = readCard(body);
		if (card) cards.push({ ...card, offset, length: sizeOf(body.trimEnd()) });
	}
	return cards;
}

function readCard(body: string): Omit<Card, 'offset' | 'length'> | null {
	// Folded lines go on with a blank; quoted-printable ones of 2.1 after a "=" at the end.
	const lines = body
		.replace(/=\r?\n(?=[^\r\n]*)/g, (soft, at: number) =>
			/ENCODING=QUOTED-PRINTABLE|;QUOTED-PRINTABLE/i.test(lineAround(body, at)) ? '' : soft
		)
		.replace(/\r?\n[ \t]/g, '')
		.split(/\r?\n/);
	let formatted: string | null = null;
	let parts: string | null = null;
	let organisation: string | null = null;
	const numbers: string[] = [];
	const emails: string[] = [];
	const handles: string[] = [];
	for (const line of lines) {
		const m = /^(?:[\w-]+\.)?([A-Za-z-]+)((?:;[^:]*)?):([\s\S]*)$/.exec(line);
		if (!m) continue;
		const [, property, parameters, raw] = m as unknown as [string, string, string, string];
		const value = /QUOTED-PRINTABLE/i.test(parameters) ? unquote(raw, parameters) : raw;
		switch (property.toUpperCase()) {
			case 'FN':
				formatted = unescape(value).trim() || null;
				break;
			case 'N': {
				const [family = '', given = '', middle = ''] = split(value);
				parts = [given, middle, family].filter(Boolean).join(' ').trim() || null;
				break;
			}
			case 'ORG':
				organisation = split(value).filter(Boolean).join(', ') || null;
				break;
			case 'TEL':
				add(numbers, unescape(value).replace(/^tel:/i, ''));
				break;
			case 'EMAIL':
				add(emails, unescape(value).replace(/^mailto:/i, ''));
				break;
			case 'IMPP':
			case 'X-HANDLE':
			case 'NICKNAME':
				add(handles, unescape(value).replace(/^[a-z]+:/i, ''));
				break;
		}
	}
	const name = formatted ?? parts ?? organisation;
	return name || numbers.length > 0 || emails.length > 0 ? { name, numbers, emails, handles } : null;
}

function lineAround(text: string, at: number): string {
	let from = text.lastIndexOf('\n', at - 1) + 1;
	// The property is named on the first of the lines that belong together.
	while (from > 1 && /=\r?$/.test(text.slice(text.lastIndexOf('\n', from - 2) + 1, from - 1))) from = text.lastIndexOf('\n', from - 2) + 1;
	return text.slice(from, at);
}

const split = (value: string): string[] => value.split(/(?<!\\);/).map((v) => unescape(v).trim());
const unescape = (value: string): string => value.replace(/\\([nN,;\\:])/g, (_, c: string) => (c.toLowerCase() === 'n' ? '\n' : c));

/** A value in quoted-printable (RFC 2045, section 6.7), of the code page that its parameters name. */
export function unquote(value: string, parameters: string): string {
	const bytes: number[] = [];
	for (let i = 0; i < value.length; i++) {
		const hex = value[i] === '=' ? value.slice(i + 1, i + 3) : '';
		if (/^[0-9a-f]{2}$/i.test(hex)) {
			bytes.push(parseInt(hex, 16));
			i += 2;
		} else bytes.push(value.charCodeAt(i) & 0xff);
	}
	const charset = /CHARSET=([\w-]+)/i.exec(parameters)?.[1] ?? 'utf-8';
	try {
		return decodeCodePage(Uint8Array.from(bytes), charset);
	} catch {
		return new TextDecoder().decode(Uint8Array.from(bytes));
	}
}

/** Address books as LDIF (RFC 2849), with the attributes of persons of RFC 4519, RFC 4524 and RFC 2798. */
import { add, isEmail, isNumber, MOST_CARDS, withoutScheme, type Card, type SizeOf } from './card';

/** A version, comments, or at once the name of the first entry (RFC 2849, section 2). */
export const isLdif = (text: string): boolean => /^(?:(?:#[^\n]*|version:[^\n]*|\s*)\r?\n)*dn::? ?\S/i.test(text.slice(0, BEGINNING));
const BEGINNING = 4096;

const NUMBERS = /(?:phone|telephonenumber|mobile|pager|cell)$/i;
const MAILS = /^(?:mail|rfc822mailbox|.*email.*|.*mail2)$/i;

/** The persons of a text; entries of other kinds (groups, units) have no number and no address of their own. */
export function readLdif(text: string, sizeOf: SizeOf): Card[] {
	const cards: Card[] = [];
	let offset = 0;
	for (const whole of text.match(/(?:[^\r\n]+\r?\n|[^\r\n]+$)+(?:\s*\n)*|\s+/g) ?? []) {
		const length = sizeOf(whole);
		const card = whole.trim() === '' || cards.length >= MOST_CARDS ? null : cardOf(whole);
		if (card) cards.push({ ...card, offset, length: sizeOf(whole.trimEnd()) });
		offset += length;
	}
	return cards;
}

function cardOf(entry: string): Omit<Card, 'offset' | 'length'> | null {
	const card = { name: null as string | null, numbers: [] as string[], emails: [] as string[], handles: [] as string[] };
	const said = new Map<string, string>();
	const isGroup = /^objectclass: ?group/im.test(entry);
	// A line that begins with a blank goes on with the one before it.
	for (const line of entry.replace(/\r?\n /g, '').split(/\r?\n/)) {
		const [, name, form, value] = /^([\w.-]+)(?:;[\w;-]+)*:([:<]?) *(.*)$/.exec(line) ?? [];
		if (name === undefined || form === '<') continue;
		const text = (form === ':' ? fromBase64(value!) : value!).trim();
		const key = name.toLowerCase();
		if (text === '' || key === 'dn') continue;
		if (MAILS.test(key) && isEmail(text)) add(card.emails, text);
		else if (NUMBERS.test(key) && isNumber(withoutScheme(text))) add(card.numbers, withoutScheme(text));
		else if (!said.has(key)) said.set(key, text);
	}
	const parts = ['givenname', 'sn'].flatMap((key) => said.get(key) ?? []).join(' ');
	card.name = said.get('cn') ?? said.get('displayname') ?? (parts || (said.get('o') ?? null));
	return card.name !== null && !isGroup && card.numbers.length + card.emails.length > 0 ? card : null;
}

function fromBase64(text: string): string {
	try {
		return new TextDecoder().decode(Uint8Array.from(atob(text.replace(/\s/g, '')), (c) => c.charCodeAt(0)));
	} catch {
		return '';
	}
}

import { isDateInDigits } from '../in-digits';

/** A person as an address book gives it, whatever its form, and what counts as a number or an address there. */
export interface Card {
	name: string | null;
	numbers: string[];
	emails: string[];
	handles: string[];
	/** Bytes in the file: where the card starts and how long it is. */
	offset: number;
	length: number;
}

/** Bytes of a stretch of the text in its file. */
export type SizeOf = (text: string) => number;
const encoder = new TextEncoder();
export const utf8Size: SizeOf = (text) => encoder.encode(text).length;

export const MOST_CARDS = 200_000;

const EMAIL = /^[^\s@<>,;]+@[^\s@<>,;]+\.[^\s@<>,;]{2,}$/;
const NUMBER = /^(?:\+|\(\+?)?\d[\d\s().\-/]{4,24}\d$/;
/** A date with the beginning of its time, as it stands in front of a colon. */
const MOMENT = /^(?:\d{1,2}[./-]\d{1,2}[./-](?:19|20)\d\d|(?:19|20)\d\d[./-]\d{1,2}[./-]\d{1,2})\s\d{1,2}$/;
/** Less than one, as what is measured is written. */
const FRACTION = /^0\.\d+$/;
/** Fewer digits are no number that says whose it is. */
const DIGITS = 6;

export const isEmail = (text: string): boolean => text.length < 320 && EMAIL.test(text);
export const isNumber = (text: string): boolean =>
	text.length < 40 &&
	NUMBER.test(text) &&
	!isDateInDigits(text) &&
	![MOMENT, FRACTION].some((other) => other.test(text)) &&
	text.replace(/\D/g, '').length >= DIGITS;

/** Without the scheme of a link: `tel:`, `mailto:`. */
export const withoutScheme = (text: string): string => text.trim().replace(/^(?:tel|mailto|sms|smsto):/i, '');

/** Adds to a list what is not in it yet. */
export function add(list: string[], value: string): void {
	const bare = value.trim();
	if (bare && !list.includes(bare)) list.push(bare);
}

/** Cards of one name in a list that has nothing but names and numbers are one person's. */
export function joined(cards: readonly Card[]): Card[] {
	const byName = new Map<string | null, Card>();
	const out: Card[] = [];
	for (const card of cards) {
		const known = card.name === null ? undefined : byName.get(card.name);
		if (!known) {
			byName.set(card.name, card);
			out.push(card);
			continue;
		}
		for (const n of card.numbers) add(known.numbers, n);
		for (const e of card.emails) add(known.emails, e);
		for (const h of card.handles) add(known.handles, h);
	}
	return out;
}

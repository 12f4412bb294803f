/** What an address book is, and its persons: told from its first bytes, the name deciding only where these leave it open. */
import type { Card, SizeOf } from './card';
import { readBlocks } from './blocks';
import { headingOf } from './headings';
import { isLdif, readLdif } from './ldif';
import { readList } from './list';
import { isVcard, readVcards } from './vcard';

/** A text with how many bytes a stretch of it takes in its file. */
export interface BookText {
	/** Without a byte order mark, which `start` counts. */
	text: string;
	sizeOf: SizeOf;
	start: number;
}

/** The persons of a text; none where it is no address book. */
export function readBook(book: BookText, name: string): Card[] {
	return cardsOf(book, name).map((card) => ({ ...card, offset: card.offset + book.start }));
}

function cardsOf({ text, sizeOf }: BookText, name: string): Card[] {
	if (isVcard(text)) return readVcards(text, sizeOf);
	if (isLdif(text)) return readLdif(text, sizeOf);
	if (!/\.(csv|tsv|tab|txt|text|lst|md|markdown)$|^[^.]+$/i.test(name) || !mayBeList(text)) return [];
	return readList(text, sizeOf) ?? readBlocks(text, sizeOf) ?? [];
}

/** Something like a number or an address. A folder can have tens of thousands of files: those without are passed over at once. */
export const REACHED_BY = /\d(?:[\s()./-]{0,3}\d){5}|\w@\w/;
const BEGINNING = 8192;
/** Share of a list's first lines that must have one. */
const SOME = 0.2;

function mayBeList(text: string): boolean {
	const lines = text
		.slice(0, BEGINNING)
		.split('\n')
		.filter((line) => line.trim() !== '');
	// Handles look like any word: there a heading must say what they are.
	const headed = lines[0]?.split(/[,;\t]/).some((cell) => headingOf(cell.replaceAll('"', '')) === 'address') ?? false;
	return headed || lines.filter((line) => REACHED_BY.test(line)).length >= lines.length * SOME;
}

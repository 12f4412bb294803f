/** Address books among the files of a case. */
import { sizeIn, textEncodingOf, wholeText } from './harvest';
import { isVcard, readBook, readEntries, type Card } from './people';
import { readPlist, type GivenFile } from './unwrap';

const BOOK_AT_MOST = 64 << 20;
/** The same for a list whose name does not say what it is. */
const PASTED_AT_MOST = 1 << 20;

/** Address books among the files: cards, lists, entries of JSON or of a property list. */
export function readBooks(files: readonly GivenFile[], stores: ReadonlySet<number>): { file: number; cards: Card[] }[] {
	return files.flatMap((f, file) => {
		if (stores.has(file) || f.opened || f.source.size > BOOK_AT_MOST || f.source.size < 12) return [];
		const cards = cardsIn(f);
		return cards.length > 0 ? [{ file, cards }] : [];
	});
}

/** Only files that may be one by their name or their first bytes are read. */
export function cardsIn(file: GivenFile): Card[] {
	const { source, name } = file;
	const head = source.read(0, 200);
	const encoding = textEncodingOf(head);
	const begins = encoding === null ? '' : wholeText(head, encoding);
	const isList = new TextDecoder().decode(head.subarray(0, 8)) === 'bplist00' || /^\s*<[\s\S]*\bplist\b/.test(begins);
	if (isList) return readEntries(readPlist(source.read(0, source.size)), source.size);
	const isNamed = /\.(csv|tsv|tab|txt|text|lst|json)$/i.test(name) || (!name.includes('.') && source.size <= PASTED_AT_MOST);
	if (encoding === null || !(isVcard(begins) || isNamed)) return [];
	const bytes = source.read(0, source.size);
	const whole = textEncodingOf(bytes);
	if (whole === null) return [];
	const text = wholeText(bytes, whole);
	const sizeOf = (part: string): number => sizeIn(whole, part);
	return readBook({ text, sizeOf, start: source.size - sizeOf(text) === sizeOf('\ufeff') ? sizeOf('\ufeff') : 0 }, name);
}

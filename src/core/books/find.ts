/** Address books among the files of a case. */
import {
	jsonTrees,
	readHtml,
	readXml,
	sizeIn,
	textEncodingOf,
	wholeText,
	yamlTrees,
	type Item,
	type TextEncoding,
	type Tree
} from '../harvest';
import { headingOf, isLdif, isVcard, REACHED_BY, readBook, readEntries, type Card, type Entry } from '../people';
import { inBytes } from './in-bytes';
import { readPlist, type GivenFile } from '../unwrap';
import { entryOfItem, entryOfNode, type Places } from './trees';

const BOOK_AT_MOST = 64 << 20;
/** The same for a list whose name does not say what it is. */
const PASTED_AT_MOST = 1 << 20;
/** Bytes from which is told what a file is. */
const HEAD = 4096;
/** Characters in which a marked-up file must show that it names persons. */
const SHOWN_WITHIN = 1 << 16;

/** Address books among the files: cards, lists, entries of JSON, YAML, XML or a property list, tables of pages. */
export function readBooks(files: readonly GivenFile[], stores: ReadonlySet<number>): { file: number; cards: Card[] }[] {
	return files.flatMap((f, file) => {
		if (stores.has(file) || f.opened || f.source.size > BOOK_AT_MOST || f.source.size < 12) return [];
		const cards = cardsIn(f);
		return cards.length > 0 ? [{ file, cards }] : [];
	});
}

/** Only files that may be one by their name or their first bytes are read whole. */
export function cardsIn(file: GivenFile): Card[] {
	const { source, name } = file;
	const head = source.read(0, HEAD);
	const encoding = textEncodingOf(head);
	const begins = encoding === null ? '' : wholeText(head, encoding);
	if (new TextDecoder().decode(head.subarray(0, 8)) === 'bplist00' || /^\s*<[\s\S]*\bplist\b/.test(begins))
		return readEntries(readPlist(source.read(0, source.size)), { offset: 0, length: source.size });
	if (encoding === null) return [];
	const read = readerOf(begins, name, source.size);
	if (!read) return [];
	const bytes = source.read(0, source.size);
	const whole = textEncodingOf(bytes);
	return whole === null ? [] : read(wholeText(bytes, whole), { bytes, encoding: whole, name });
}

interface TextBytes {
	bytes: Uint8Array;
	encoding: TextEncoding;
	name: string;
}
type ReadCards = (text: string, file: TextBytes) => Card[];

function readerOf(begins: string, name: string, size: number): ReadCards | null {
	if (isVcard(begins) || isLdif(begins)) return readText;
	if (/^\s*</.test(begins)) return /<html[\s>]|<!doctype html|^\s*<(?:table|div|body)\b/i.test(begins) ? readPage : readMarkup;
	if (/\.ya?ml$/i.test(name)) return readTrees(yamlTrees);
	const isNamed = /\.(csv|tsv|tab|txt|text|lst|md|markdown|json)$/i.test(name) || (!name.includes('.') && size <= PASTED_AT_MOST);
	if (!isNamed) return null;
	return /^\s*[[{]/.test(begins) ? readTrees(jsonTrees) : readText;
}

const readText: ReadCards = (text, { bytes, encoding, name }) => {
	const sizeOf = (part: string): number => sizeIn(encoding, part);
	return readBook({ text, sizeOf, start: bytes.length - sizeOf(text) === sizeOf('\ufeff') ? sizeOf('\ufeff') : 0 }, name);
};

const readTrees =
	(treesOf: (text: string) => Iterable<Tree>): ReadCards =>
	(text, file) => {
		if (!REACHED_BY.test(text)) return [];
		const places: Places = new WeakMap();
		const documents = [...treesOf(text)].map(({ node, offset }) => entryOfNode(node, offset, places));
		return cardsOf(documents.length === 1 ? documents[0]! : documents, text, file, places);
	};

/** Elements, or attributes, that are called as what names persons. */
const readMarkup: ReadCards = (text, file) => {
	if (!REACHED_BY.test(text)) return [];
	const called = new Set(
		[...text.slice(0, SHOWN_WITHIN).matchAll(/[<\s](?:[\w-]+:)?([\p{L}_][\p{L}\d_-]*)(?=[\s>=])/gu)].map(([, name]) => name!)
	);
	return namesPersons(called) ? ofItem(readXml(text), text, file) : [];
};

/** Cells that are headings of columns with names. */
const readPage: ReadCards = (text, file) => {
	const cells = new Set(
		[...text.slice(0, SHOWN_WITHIN).matchAll(/<t[hd][^>]*>(?:<\/?\w+[^>]*>|\s)*([^<>]{1,40})/gi)].map(([, cell]) => cell!.trim())
	);
	return namesPersons(cells) && REACHED_BY.test(text) ? ofItem(readHtml(text), text, file) : [];
};

function namesPersons(called: ReadonlySet<string>): boolean {
	const says = new Set([...called].map(headingOf));
	return (says.has('name') || says.has('given') || says.has('family')) && says.has('address');
}

function ofItem(item: Item | null, text: string, file: TextBytes): Card[] {
	const places: Places = new WeakMap();
	return item ? cardsOf(entryOfItem(item, places), text, file, places) : [];
}

/** The persons of entries, each with the bytes in which it stands. */
function cardsOf(entry: Entry, text: string, { bytes, encoding }: TextBytes, places: Places): Card[] {
	const whole = { offset: 0, length: text.length };
	const cards = readEntries(entry, whole, (one) => (one !== null && typeof one === 'object' ? places.get(one) : undefined));
	return inBytes(cards, text, bytes, encoding);
}

/**
 * Texts of old programs, which wrote the letters of a code page into stores that say they are UTF-8. Which page it is is
 * told from the texts of a store in use together. A text that is no UTF-8 in a store of UTF-8 is damaged: what is no
 * letter of it stays a sign that says so.
 */
import { bytesOfStored, codePageOf, decodeCodePage, joined, type CodePage } from '../bytes';
import type { Harvested } from '../harvest';
import type { Value } from '../model';
import { withValuesRead } from './values-read';

/** Texts in use that must be so, at least, and their share of those in use that are not all ASCII. */
const LEAST = 3;
const MOSTLY = 0.5;
const ROWS = 20_000;
/** Bytes from which the page is told. */
const TOLD_FROM = 1 << 16;

const isOdd = (value: Value | undefined): value is string =>
	typeof value === 'string' && !value.isWellFormed() && /[\udc80-\udcff]/u.test(value);

/** The store with its texts as they were meant; the store itself where they are as it says. */
export function openCodePaged(harvest: Harvested): Harvested {
	const { oddlyWritten } = harvest;
	const page = oddlyWritten && oddlyWritten.size > 0 && harvest.encoding === 'utf8' ? pageOf(harvest, oddlyWritten) : null;
	if (!page) return harvest;
	return withValuesRead(harvest, (_row, value) => (isOdd(value) ? decodeCodePage(bytesOfStored(value), page) : value));
}

/** The page in which a store's texts are written; null where most are UTF-8. */
function pageOf({ book }: Harvested, among: ReadonlySet<number>): CodePage | null {
	const texts: Uint8Array[] = [];
	let unicode = 0;
	let size = 0;
	for (const row of [...among].flatMap((table) => book.rowsOf(table).slice(0, ROWS)))
		for (const value of row.standing === 'kept' ? row.values : []) {
			if (typeof value !== 'string' || ASCII.test(value)) continue;
			if (!isOdd(value)) unicode++;
			else if (size < TOLD_FROM) {
				const bytes = bytesOfStored(`${value}\n`);
				texts.push(bytes);
				size += bytes.length;
			}
		}
	return texts.length >= LEAST && texts.length >= (texts.length + unicode) * MOSTLY ? codePageOf(joined(texts)) : null;
}
const ASCII = /^[\x00-\x7f]*$/;

/** Rows looked up by what they hold: their largest number, their longest text. */
import type { Row } from '../model';
import { Chains } from './chains';
import { agrees, isButForItsEnd, isButForItsLastByte, isButForItsLastLetters, isTelling, PREFIX, sharesItsOwn } from './compare';

/** Rows that one text can be the longest of, and still tell them: an account's own name is that of all. */
const SHARED_BY_FEW = 8;
/** Rows with the same key that a lost row is compared with, at most. */
const COMPARE_LIMIT = 4000;

/** By what a row without a rowid is looked up. The first stored column may be lost, so it is left out. */
interface ContentKeys {
	/** The largest number, mostly a time, which few rows share. */
	number: number;
	/** The next largest, for rows that have lost the largest; 0 where there is none that tells. */
	second: number;
	/** A hash of the length and the first letters of the longest text, or the longest bytes. */
	full: number;
	/** A hash of the first letters alone, for texts that are cut; 0 where there are too few. */
	prefix: number;
}

/** A row's keys, from its values. */
export function contentKeys(row: Row): ContentKeys {
	let text: Text = '';
	let cut: Text = '';
	let number = 0;
	let second = 0;
	const { values } = row;
	for (let k = 1; k < values.length; k++) {
		const value = values[k];
		if (typeof value === 'string' || value instanceof Uint8Array) {
			if (k === row.cut) cut = value;
			else if (value.length > text.length) text = value;
		} else if (typeof value === 'number' || typeof value === 'bigint') {
			const n = Math.abs(Number(value));
			if (n > number) {
				second = number;
				number = n;
			} else if (n > second && n < number) second = n;
		}
	}
	const longest = cut.length > 0 ? cut : text;
	return {
		number: numberKey(number),
		second: numberKey(second),
		full: (Math.imul(text.length, 2654435761) + hashOf(text)) | 0,
		prefix: longest.length >= PREFIX ? hashOf(longest) : 0
	};
}

/** A row that is looked for among those known; its keys are made when first asked for, and once. */
export class Sought {
	private made: ContentKeys | null = null;

	constructor(readonly row: Row) {}

	get keys(): ContentKeys {
		return (this.made ??= contentKeys(this.row));
	}
}

/** Whether a row known is the one sought. Functions of both, since a closure made for each row costs more than it does. */
export type Fits = (known: Row, sought: Row) => boolean;

export const fits: Fits = (known, sought) =>
	agrees(known, sought) || isButForItsEnd(known, sought) || isButForItsLastByte(known, sought) || isButForItsLastLetters(known, sought);
// A part that has a number gives it to a row that has none only where what they share is that row's own.
export const fitsWithoutNumber: Fits = (known, sought) =>
	fits(known, sought) && (known.rowid === null || known.grade !== 'fragment' || sharesItsOwn(known, sought));
export const givesNumber: Fits = (known, sought) =>
	known.rowid === null &&
	(agrees(known, sought) || isButForItsLastByte(known, sought)) &&
	(sought.grade !== 'fragment' || sharesItsOwn(known, sought));

/** Programs keep texts as bytes, too. */
type Text = string | Uint8Array;

/** Of the first letters, or bytes. */
function hashOf(text: Text): number {
	let hash = 7;
	for (let i = 0; i < PREFIX && i < text.length; i++)
		hash = (Math.imul(hash, 31) + (typeof text === 'string' ? text.charCodeAt(i) : text[i]!)) | 0;
	return hash;
}

/** The key of a largest number; 0 where it tells nothing. */
export const numberKey = (largest: number): number => (isTelling(largest) ? largest : 0);

/** Rows by what they hold. */
export class ContentChains {
	readonly full = new Chains();
	readonly prefix = new Chains();
	readonly second = new Chains();

	constructor(readonly rows: readonly Row[]) {}

	/** Adds the next of the rows. */
	add(keys: ContentKeys): void {
		this.full.add(keys.full);
		this.prefix.add(keys.prefix);
		this.second.add(keys.second);
	}

	find({ row, keys }: Sought, fit: Fits): Row | null {
		const part =
			row.grade === 'fragment'
				? (among(this.rows, this.prefix, keys.prefix, row, fit) ?? among(this.rows, this.second, keys.number, row, fit))
				: null;
		return part ?? among(this.rows, this.full, keys.full, row, fit, SHARED_BY_FEW);
	}
}

/** Rows by their index. */
export interface RowList {
	at(i: number): Row | undefined;
}

/** The first of the rows with this key that fits. `few`: where more rows than so many have the key, it says nothing. */
export function among(rows: RowList, chains: Chains, hash: number, sought: Row, fit: Fits, few = Infinity): Row | null {
	let i = chains.first(hash);
	if (few < Infinity) {
		let more = i;
		for (let n = 0; n < few && more >= 0; n++) more = chains.after(more);
		if (more >= 0) return null;
	}
	for (let compared = 0; i >= 0 && compared < COMPARE_LIMIT; i = chains.after(i), compared++) {
		const row = rows.at(i)!;
		if (fit(row, sought)) return row;
	}
	return null;
}

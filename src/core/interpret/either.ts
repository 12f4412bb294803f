/** Texts that stand in one column or in another of the same row: what was written, and what was written to a picture; plain, or with its looks. */
import type { Row, Value } from '../model';
import type { SheetColumn } from './sheet';

const ROWS = 2000;
/** Share of texts that read as sentences. */
const WRITTEN = 0.3;
/** Rows, and share of them, that have a text in the second column alone. */
const ALONE = 3;
const ALONE_SHARE = 0.03;
/** Of the rows that have one in both so many may differ. */
const DIFFER = 0.02;
const CAPTION_NAMED = /caption|subtitle|beschrift|bildtext|l[ée]gende|didascal/i;

export interface Either {
	first: SheetColumn;
	second: SheetColumn;
}

/**
 * Two columns of which the second has the text where the first has none. What stands plainly in a column of its own may be
 * anything else of a message, unless its name says that it is a caption.
 */
export function eitherOf(
	columns: readonly SheetColumn[],
	rows: readonly Row[],
	read: (row: Row, column: SheetColumn) => Value | undefined
): Either | null {
	const written = columns.filter((c) => c.column >= 0 && c.profile.texts > 0 && c.profile.prose > WRITTEN && !c.made && !c.aside);
	const sample = rows.slice(0, ROWS);
	for (const first of written) {
		if (first.body || CAPTION_NAMED.test(lastOf(first))) continue;
		const isOfOneThing = (c: SheetColumn): boolean => c !== first && parentOf(c) === parentOf(first) && CAPTION_NAMED.test(lastOf(c));
		const isBeside = (c: SheetColumn): boolean => c.column !== first.column && (isInside(c) || CAPTION_NAMED.test(c.name));
		const second = written.find((c) => (first.path.length > 0 ? isOfOneThing(c) : isBeside(c)) && fills(c, first));
		if (second) return { first, second };
	}
	return null;

	function fills(second: SheetColumn, first: SheetColumn): boolean {
		let [alone, both, differ] = [0, 0, 0];
		for (const row of sample) {
			const [a, b] = [read(row, first), read(row, second)];
			if (typeof b !== 'string' || b === '') continue;
			if (typeof a !== 'string' || a === '') alone++;
			else {
				both++;
				if (a !== b) differ++;
			}
		}
		return alone >= Math.max(ALONE, sample.length * ALONE_SHARE) && differ <= both * DIFFER;
	}
}

/** Where in a document something stands, and what it is called there. */
const parentOf = ({ column, path }: SheetColumn): string => [column, ...path.slice(0, -1)].join('.');
const lastOf = ({ name, path }: SheetColumn): string => path.at(-1) ?? name;

const isInside = (c: SheetColumn): boolean => c.path.length > 0 || c.body !== undefined;

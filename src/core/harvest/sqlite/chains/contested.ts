/** Freed cells of which several lead to one page: whose it is by now. */
import type { Row } from '../../../model';
import { isVersionOf, type Overflowing } from './overflowing';
import type { Payloads } from './payloads';

/** What values behind a text add to what is known where they are a table's: a number that fits its column, or more. */
export const PROVES = 3;
/** Cells that one is compared with that lead to the same pages. */
const RIVALS_AT_MOST = 64;

/** Cells whose chain is another's by now. */
export function contested(found: readonly Overflowing[], payloads: Payloads): Overflowing[] {
	const leading = new Map<number, Set<Row>>();
	for (const { row, pages } of found) {
		for (const page of pages) {
			const rows = leading.get(page);
			if (rows) rows.add(row);
			else leading.set(page, new Set([row]));
		}
	}
	const sure = new Map<Row, number>();
	const surety = (one: Overflowing): number => {
		const known = sure.get(one.row) ?? suretyOf(one, payloads);
		sure.set(one.row, known);
		return known;
	};
	const byRow = new Map(found.map((one) => [one.row, one]));
	return found.filter((one) => {
		const rivals = rivalsOf(one, leading);
		return [...rivals].some((row) => !isVersionOf(byRow.get(row)!, one) && surety(byRow.get(row)!) >= surety(one));
	});
}

/** How surely a chain that was followed to its end is a cell's: 2 by the values behind the text, 1 by where the text ends. */
function suretyOf(one: Overflowing, payloads: Payloads): number {
	if (one.row.standing !== 'remnant') return 3;
	const payload = payloads.of(one);
	if (payloads.gain(one, payload) >= PROVES) return 2;
	return payloads.endsThere(one, one.pages.at(-1)!) ? 1 : 0;
}

/** Other cells that lead to pages of one; as many as it is compared with. */
function rivalsOf(one: Overflowing, leading: ReadonlyMap<number, ReadonlySet<Row>>): Set<Row> {
	const rivals = new Set<Row>();
	for (const page of one.pages) {
		for (const row of leading.get(page)!) {
			if (row !== one.row) rivals.add(row);
			if (rivals.size >= RIVALS_AT_MOST) return rivals;
		}
	}
	return rivals;
}

/** Documents that are pages of a longer one: of the same thing in several rows, which are counted, or called for their days. */
import type { Row, Table } from '../model';
import { keyOf } from './refs';

const LEAST = 3;
const MOSTLY = 0.8;
const DAY = /^\d{4}[-./]?\d{2}(?:[-./]?\d{2})?$/;

/** The column of a table that says what a row's document is a page of; null where each is a whole. `document`: the documents' column. */
export function columnOfWhole(table: Table, rows: readonly Row[], document: number): number | null {
	const kept = rows.filter((row) => row.standing === 'kept');
	if (kept.length < LEAST) return null;
	const columns = [...table.columns.keys()].filter((c) => c !== document && c !== table.rowidColumn);
	for (const whole of columns) {
		const wholes = new Set(kept.map((row) => keyOf(row.values[whole])));
		// Where each has but its first page yet, nothing else may be what its row is known by.
		const areSeveral = wholes.size <= kept.length * MOSTLY || (wholes.size <= kept.length && table.primaryKey.length !== 1);
		if (wholes.has(null) || !areSeveral) continue;
		// Of one thing alone the key of the table says that its rows are that thing's.
		const canBe = (page: number): boolean =>
			wholes.size > 1 || (table.primaryKey.length === 2 && table.primaryKey[0] === whole && table.primaryKey[1] === page);
		if (columns.some((page) => page !== whole && canBe(page) && arePages(kept, whole, page))) return whole;
	}
	return null;
}

function arePages(rows: readonly Row[], whole: number, page: number): boolean {
	const pages = new Map<string | number | null, unknown[]>();
	for (const row of rows) {
		const of = keyOf(row.values[whole]);
		pages.set(of, [...(pages.get(of) ?? []), row.values[page]]);
	}
	const lists = [...pages.values()];
	if (lists.some((list) => new Set(list).size < list.length)) return false;
	const all = lists.flat();
	if (all.every((one) => typeof one === 'string' && DAY.test(one))) return true;
	if (!all.every((one) => typeof one === 'number' && Number.isInteger(one))) return false;
	return lists.filter((list) => areCounted(list as number[])).length >= lists.length * MOSTLY;
}

/** Whether numbers are counted from nought or one. */
function areCounted(numbers: readonly number[]): boolean {
	const [first, last] = [Math.min(...numbers), Math.max(...numbers)];
	return (first === 0 || first === 1) && last - first === numbers.length - 1;
}

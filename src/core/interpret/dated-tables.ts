/** Tables of one kind that a program begins anew with each year, month or day, and calls after it. */
import type { Table } from '../model';

/** A year, with a month perhaps, and a day: `2025`, `2025_03`, `20250317`, `03_2025`. */
const DATED = /^(?:(?:19|20)\d\d(?:[_-]?(?:0?[1-9]|1[0-2])(?:[_-]?(?:0?[1-9]|[12]\d|3[01]))?)?|(?:0?[1-9]|1[0-2])[_-]?(?:19|20)\d\d)$/;

/** Whether all that tells these tables' names apart is a date: what each holds is from then, and of whatever conversation. */
export function areDated(tables: readonly Pick<Table, 'name'>[]): boolean {
	const [first] = tables;
	if (!first) return false;
	const stem = stemOf(first.name);
	return stem !== null && tables.every(({ name }) => stemOf(name) === stem);
}

/** A name without the date at its end; null where none stands there. */
function stemOf(name: string): string | null {
	const digits = /[_-]?(\d[\d_-]*)$/.exec(name);
	return digits && DATED.test(digits[1]!) ? name.slice(0, digits.index).toLowerCase() : null;
}

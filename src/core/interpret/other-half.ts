/**
 * What was received in one table and what was sent in another: declared alike, whatever the columns are called, and
 * numbered through, so that no number is in use in both.
 */
import type { Table } from '../model';
import type { Context } from './context';
import type { Reference } from './refs';
import { isOwnNumber, type Sheet, type SheetColumn } from './sheet';

interface Written {
	sheet: Sheet;
	text: { value: SheetColumn };
	time: { value: SheetColumn } | null;
}

const LEAST = 5;
const SURE = 0.4;

export function isOtherHalf(a: Written, b: Written, { tables, references }: Context): boolean {
	// Earlier wordings and answers are declared alike too, and name what they belong to.
	const names = (one: Written, other: Written): boolean => {
		const refs = references.get(one.sheet) ?? [];
		const isSurest = (r: Reference): boolean => refs.find((x) => x.from === r.from) === r;
		return refs.some((r) => r.key.sheet === other.sheet && r.confidence > SURE && isSurest(r) && !isOwnNumber(r.from, one.sheet, tables));
	};
	if (names(a, b) || names(b, a)) return false;
	const [first, second] = [a, b].map(({ sheet }) => tables[sheet.tables[0]!]!);
	if (a.sheet.family || b.sheet.family || first!.rowidColumn < 0 || !areDeclaredAlike(first!, second!)) return false;
	const isPlaced = (one: SheetColumn | undefined, other: SheetColumn | undefined): boolean =>
		one !== undefined && other !== undefined && one.column === other.column && one.path.join() === other.path.join();
	if (!isPlaced(a.text.value, b.text.value) || !isPlaced(a.time?.value, b.time?.value)) return false;
	if (a.time!.value.profile.time?.label !== b.time!.value.profile.time?.label) return false;
	const [ours, theirs] = [a, b].map(({ sheet }) => numbersOf(sheet));
	if (ours!.size < LEAST || theirs!.size < LEAST) return false;
	return [...theirs!].every((number) => !ours!.has(number)) && overlap([...ours!], [...theirs!]);
}

const areDeclaredAlike = (a: Table, b: Table): boolean =>
	a.rowidColumn === b.rowidColumn &&
	a.columns.length === b.columns.length &&
	a.columns.every((column, i) => column.type.toLowerCase() === b.columns[i]!.type.toLowerCase());

const numbersOf = (sheet: Sheet): Set<number> =>
	new Set(sheet.rows.flatMap((row) => (row.standing === 'kept' && row.rowid !== null ? [Number(row.rowid)] : [])));

/** Whether the numbers of both lie among each other, and not one's behind the other's. */
function overlap(a: readonly number[], b: readonly number[]): boolean {
	const [lowA, highA, lowB, highB] = [lowest(a), highest(a), lowest(b), highest(b)];
	return lowA < highB && lowB < highA;
}
const lowest = (numbers: readonly number[]): number => numbers.reduce((low, n) => Math.min(low, n), Infinity);
const highest = (numbers: readonly number[]): number => numbers.reduce((high, n) => Math.max(high, n), -Infinity);

/** Numbers that several tables of a store are given out of one count: what one has is missing in the other, and no gap. */
import type { Row, Table } from '../model';
import { firstReached } from '../sorted';
import type { Family } from './families';
import type { WovenStore } from './weave';

/** Numbers of a table from which on its count can be another's too; times that they must take turns. */
const FEW_NUMBERS = 5;
const TURNS = 3;
/** Tables that list what was deleted: their numbers are those of rows that existed. */
const GRAVES = /delet|remov|tomb|trash|purge|expunge|wiped/i;

/** The number a row was given: its rowid or, where it has none, the one whole number that is its key. */
export function numberOf(row: Row, table: Table): number | null {
	const value = table.withoutRowid ? row.values[table.primaryKey[0]!] : row.rowid;
	return typeof value === 'number' && Number.isInteger(value) ? value : null;
}

interface Numbers {
	/** The table's name: the same in all captures. */
	table: string;
	numbers: number[];
}

export class SharedNumbers {
	private lists: Numbers[] | null = null;

	constructor(
		private readonly family: Family,
		private readonly stores: readonly WovenStore[]
	) {}

	/**
	 * Tables that have none of the numbers known of another, and stand between them again and again. `goesOn`: whether a
	 * table's numbers are those before or behind the other's.
	 */
	with(known: ReadonlySet<number>, goesOn: (table: string) => boolean): readonly Numbers[] {
		if (known.size < FEW_NUMBERS) return [];
		const sorted = [...known].sort((a, b) => a - b);
		const isWhole = sorted.at(-1)! - sorted[0]! + 1 === sorted.length;
		this.lists ??= this.numbersOfTables();
		return this.lists.filter(
			({ table, numbers }) => (goesOn(table) || (!isWhole && takesTurns(numbers, sorted))) && numbers.every((n) => !known.has(n))
		);
	}

	private numbersOfTables(): Numbers[] {
		return this.family.captures.flatMap(({ store }) => {
			const { harvest } = this.stores[store]!;
			return harvest.tables
				.filter((t) => t.index > 0 && !t.dropped && !/^sqlite_/i.test(t.name) && !GRAVES.test(t.name) && hasNumbers(t))
				.map((t) => ({ table: t.name, numbers: harvest.book.rowsOf(t.index).flatMap((row) => numberOf(row, t) ?? []) }))
				.filter(({ numbers }) => numbers.length > 0);
		});
	}
}

/** Whether a table's rows have a number each: a rowid, or a key of one column. */
export const hasNumbers = (table: Table): boolean => !table.withoutRowid || table.primaryKey.length === 1;

/** Whether numbers stand between those of a sorted list, in several places. */
function takesTurns(numbers: readonly number[], sorted: readonly number[]): boolean {
	const places = new Set(numbers.map((n) => lowerBound(sorted, n)).filter((i) => i > 0 && i < sorted.length));
	return places.size >= TURNS;
}

/** Where `value` stands in a sorted list, or would. */
export function lowerBound(sorted: readonly number[], value: number): number {
	return firstReached(sorted.length, (i) => sorted[i]! >= value);
}

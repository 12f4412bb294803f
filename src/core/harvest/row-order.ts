/** Rows are numbered as they come, and mostly say when they came: whether a time is one that a row of its number can have. */
import type { Row, Value } from '../model';
import { firstReached } from '../sorted';
import { TELLING } from './compare';

/** Rows from which an order is told, the share of them that must keep it, and how many on each side a row is compared with. */
const ROWS_LEAST = 12;
const IN_ORDER = 0.95;
const NEIGHBOURS = 3;

interface Numbered {
	rowid: number;
	values: readonly (Value | undefined)[];
}

export class RowOrder {
	private readonly rows: Numbered[];
	/** The column that grows with the rows' numbers, or -1. */
	private readonly column: number;
	/** The share of rows that keep the order. */
	private kept = 0;

	/** `rows`: of one table; parts of rows are left out. */
	constructor(rows: readonly Row[]) {
		this.rows = rows
			.filter((row): row is Row & { rowid: number } => typeof row.rowid === 'number' && row.grade !== 'fragment')
			.map(({ rowid, values }) => ({ rowid, values }))
			.sort((a, b) => a.rowid - b.rowid);
		this.column = this.growing();
	}

	/** The share of rows that are out of order, if there is one. */
	get outOfOrder(): number {
		return 1 - this.kept;
	}

	private at(i: number, column: number): number {
		const value = this.rows[i]?.values[column];
		return typeof value === 'number' || typeof value === 'bigint' ? Number(value) : NaN;
	}

	private growing(): number {
		const count = this.rows.length;
		if (count < ROWS_LEAST) return -1;
		for (let column = 0; column < this.rows[0]!.values.length; column++) {
			let kept = 0;
			for (let i = 1; i < count; i++) if (this.at(i, column) >= this.at(i - 1, column)) kept++;
			// Record numbers themselves say nothing.
			if (kept < (count - 1) * IN_ORDER || !(this.at(0, column) > TELLING)) continue;
			this.kept = kept / count;
			return column;
		}
		return -1;
	}

	/** Whether a row of this number can have these values; false where nothing says so. */
	fits(rowid: number | bigint | null, values: readonly (Value | undefined)[]): boolean {
		const between = this.between(rowid, values);
		return between !== null && between.value >= between.low && between.value <= between.high;
	}

	/** Whether the rows before or behind say that a row of this number can hardly have these values. */
	contradicts(rowid: number | bigint | null, values: readonly (Value | undefined)[]): boolean {
		const between = this.between(rowid, values);
		if (!between) return false;
		const { value, low, high } = between;
		return (low < Infinity && value < low) || (high > -Infinity && value > high);
	}

	/** A row's value in the column that grows, with the least of those before and the largest of those behind; ±Infinity where there is none. */
	private between(
		rowid: number | bigint | null,
		values: readonly (Value | undefined)[]
	): { value: number; low: number; high: number } | null {
		const value = values[this.column];
		if (this.column < 0 || typeof rowid !== 'number' || (typeof value !== 'number' && typeof value !== 'bigint')) return null;
		const after = firstReached(this.rows.length, (i) => this.rows[i]!.rowid > rowid);
		let [low, high] = [Infinity, -Infinity];
		for (let n = 0; n < NEIGHBOURS; n++) {
			low = Math.min(low, ...known(this.at(after - 1 - n, this.column)));
			high = Math.max(high, ...known(this.at(after + n, this.column)));
		}
		return { value: Number(value), low, high };
	}
}

const known = (value: number): number[] => (Number.isNaN(value) ? [] : [value]);

/** Rows whose payload overflows, and what is settled of them. */
import type { Row, Value } from '../../../model';
import type { GoesOn } from '../carve/found';
import { sizeOfSerialType } from '../record';
import { classOfSerialType, TEXT, type Shape } from '../shape';

/** A row whose payload overflows. */
export interface Overflowing extends GoesOn {
	row: Row;
	/** Of a row in use whose chain breaks: the pages that are its own, and how many behind them are certainly lost. */
	inUse?: { own: readonly number[]; lost: number };
}

/** Whether a row can have what was found for it, by its number. */
export type FitsRow = (found: Settled) => boolean;

/** The values of a payload with a hole, in record order, and what of its text is left behind it. */
export interface WithHole {
	values: (Value | undefined)[];
	cut: number;
	rest: { text: string; lost: number } | null;
}

/** What is left of a row, its record being of `shape`. */
export interface Settled {
	row: Row;
	shape: Shape;
	left: WithHole;
	/** The page that what stands behind the break begins on, or 0. */
	restOn: number;
}
export const settled = ({ row, shape }: Overflowing, left: WithHole, restOn = 0): Settled => ({ row, shape, left, restOn });

/** Versions of one row lead to one chain: what lies on their own pages ends alike. */
export function isVersionOf(a: GoesOn, b: GoesOn): boolean {
	const length = Math.min(a.local.length - a.body, b.local.length - b.body, SAME_END);
	return a.size === b.size && a.local.slice(-length).every((byte, i) => byte === b.local.at(i - length));
}
const SAME_END = 32;

/** Copies of one cell lead to one chain. */
export function distinct(found: readonly Overflowing[]): Overflowing[] {
	const seen = new Set<Row>();
	return found.filter(({ row }) => !seen.has(row) && seen.add(row));
}

/** A row's values with those of its record put where they belong. */
export function inColumns(row: Row, shape: Shape, record: readonly (Value | undefined)[]): (Value | undefined)[] {
	const values = [...row.values];
	record.forEach((value, k) => {
		if (k !== shape.rowidAt) values[shape.order[k]!] = value;
	});
	return values;
}

/** Bytes of a payload. */
export interface Span {
	from: number;
	to: number;
}

/** Where in a payload texts are stored: its record's body and serial types. */
export function textsOf(body: number, types: Iterable<number>): Span[] {
	const out: Span[] = [];
	let at = body;
	for (const type of types) {
		const to = at + sizeOfSerialType(type);
		if (classOfSerialType(type) === TEXT) out.push({ from: at, to });
		at = to;
	}
	return out;
}

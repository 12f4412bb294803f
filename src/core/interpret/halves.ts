/** Times of 64 bits that stand as two numbers of 32, in columns called for the high half and the low one. */
import type { Value } from '../model';
import type { SheetColumn } from './sheet';

const HIGH = /(?:^|[_.])(?:hi|high|upper|msb|hoch)(?:$|[_.])|hi(?:gh)?$|^high|High/;
const LOW = /(?:^|[_.])(?:lo|low|lower|lsb)(?:$|[_.])|lo(?:w)?$|^low|Low/;
const HALF = 2 ** 32;

const areWhole = ({ profile: p }: SheetColumn, low: number, high: number): boolean =>
	p.ints > 0 && p.ints === p.filled && p.low >= low && p.high <= high;

/** The columns of both halves; null where there are none. */
export function halvesIn(columns: readonly SheetColumn[]): { high: SheetColumn; low: SheetColumn } | null {
	const high = columns.find((c) => HIGH.test(c.name) && areWhole(c, 1, HALF / 2));
	const low = columns.find((c) => c !== high && LOW.test(c.name) && areWhole(c, -HALF / 2, HALF));
	return high && low ? { high, low } : null;
}

/** Both halves as one number; the low one may have been stored with a sign. */
export const wholeOf = (high: Value | undefined, low: Value | undefined): bigint | undefined =>
	typeof high === 'number' && typeof low === 'number' ? BigInt(high) * BigInt(HALF) + BigInt(low >>> 0) : undefined;

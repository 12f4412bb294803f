/**
 * Times within keys: those of UUIDs of version 1, 6 and 7 (RFC 9562, sections 5.1, 5.6, 5.7), and of keys of the same make
 * that are written otherwise: 48 bits of milliseconds and 80 of chance in base 32, four bytes of seconds and eight others;
 * and numbers of 64 bits with milliseconds or seconds since 1970 in the upper ones, and a maker and a count below.
 */
import type { Row, Value } from '../model';
import { areCountedKeys } from './time';

const ROWS = 1000;
const LEAST = 8;
const NEARLY_ALL = 0.98;
const EARLIEST = Date.UTC(2000, 0, 1);
const LATEST = Date.UTC(2036, 0, 1);

const UUID_TEXT = /^([0-9a-f]{8})-?([0-9a-f]{4})-?([0-9a-f])([0-9a-f]{3})-?([89ab][0-9a-f]{3})-?([0-9a-f]{12})$/i;
const BASE32 = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';
const BASE32_TEXT = /^[0-7][0-9A-HJKMNP-TV-Z]{25}$/i;
const SECONDS_TEXT = /^[0-9a-f]{24}$/i;
/** 15 October 1582, from which versions 1 and 6 count units of 100 ns. */
const Y1582 = Date.UTC(1582, 9, 15);

type Reader = (value: string) => number | null;

/** Numbers of 64 bits, in decimals. */
const LONG_NUMBER = /^[1-9]\d{17,18}$/;
/** Milliseconds above 22 bits are seconds above 32 by their size as well: those change by 1024 of them. */
const IN_SECOND = 1023n;
const FEW_OF_MANY = 6;

/** Reads what is above the lower bits of long numbers, of so many ms each. */
const above =
	(bits: bigint, unit: number): Reader =>
	(value) =>
		LONG_NUMBER.test(value) ? Number(BigInt(value) >> bits) * unit : null;

/** How numbers hold a time, where their lower bits are a maker's and a count; none where those are any. */
function readersOf(keys: readonly string[]): readonly Reader[] {
	if (!keys.every((key) => LONG_NUMBER.test(key)) || !areCountedKeys(keys)) return [];
	const parts = new Set(keys.map((key) => (BigInt(key) >> 22n) & IN_SECOND));
	return parts.size * FEW_OF_MANY <= keys.length ? [above(32n, 1000)] : [above(22n, 1)];
}

const READERS: readonly Reader[] = [
	(value) => {
		const m = UUID_TEXT.exec(value);
		if (!m) return null;
		const [, low, mid, version, high] = m as unknown as string[];
		if (version === '7') return parseInt(low! + mid!, 16);
		if (version !== '1' && version !== '6') return null;
		const ticks = BigInt(`0x${version === '1' ? high! + mid! + low! : low! + mid! + high!}`);
		return Number(ticks / 10_000n) + Y1582;
	},
	(value) => (BASE32_TEXT.test(value) ? [...value.slice(0, 10).toUpperCase()].reduce((n, c) => n * 32 + BASE32.indexOf(c), 0) : null),
	(value) => (SECONDS_TEXT.test(value) ? parseInt(value.slice(0, 8), 16) * 1000 : null)
];

const asText = (value: Value | undefined): string | null =>
	typeof value === 'string'
		? value
		: typeof value === 'bigint'
			? String(value)
			: value !== null && typeof value === 'object' && (value.length === 16 || value.length === 12)
				? Array.from(value, (byte) => byte.toString(16).padStart(2, '0')).join('')
				: null;

const isTime = (at: number | null): at is number => at !== null && at >= EARLIEST && at <= LATEST;

/** Reads the time, ms UTC, that each of a column's keys holds; null where they are no keys with a time in them. */
export function timesInKeys(rows: readonly Row[], column: number): { read(row: Row): number | undefined } | null {
	const keys = rows.slice(0, ROWS).flatMap((row) => asText(row.values[column]) ?? []);
	if (keys.length < Math.max(LEAST, Math.min(rows.length, ROWS) * NEARLY_ALL) || new Set(keys).size < keys.length) return null;
	for (const read of [...READERS, ...readersOf(keys)]) {
		const times = keys.map(read).filter(isTime);
		if (times.length < keys.length * NEARLY_ALL) continue;
		return {
			read: (row) => {
				const key = row.cut === column ? null : asText(row.values[column]);
				const at = key === null ? null : read(key);
				return isTime(at) ? at : undefined;
			}
		};
	}
	return null;
}

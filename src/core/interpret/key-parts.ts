/** Keys put together of several parts ("message:+447700900123:00017"): a part that recurs says whose the row is. */
import type { Row } from '../model';

/** Rows from which it is told, and share of them that must be made alike. */
const ROWS = 2000;
const LEAST = 8;
const NEARLY_ALL = 0.95;
const MOSTLY_ONCE = 0.8;
/** Share of the rows up to which different values recur. */
const RECURRING = 0.5;
const SEPARATORS = [':', '/', '|', '#', '~', '_'] as const;
const MOST_PARTS = 8;

export interface KeyPart {
	column: number;
	/** Its place in the key, from 0. */
	index: number;
	read(row: Row): string | undefined;
}

/** The parts of a column's keys that recur; none where its values are no such keys, or come twice. */
export function keyParts(rows: readonly Row[], column: number): KeyPart[] {
	const inUse = rows.filter((row) => row.standing === 'kept');
	const telling = (inUse.length >= LEAST ? inUse : rows).slice(0, ROWS);
	const stored = telling.flatMap((row) => {
		const value = row.values[column];
		return typeof value === 'string' && value !== '' ? [value] : [];
	});
	// What was edited is there twice, under one key.
	const keys = [...new Set(stored)];
	if (stored.length < Math.max(LEAST, telling.length * NEARLY_ALL) || keys.length < stored.length * MOSTLY_ONCE) return [];
	for (const separator of SEPARATORS) {
		const split = keys.map((key) => key.split(separator));
		const length = split[0]!.length;
		const alike = split.filter((parts) => parts.length === length && !parts.some((part) => /\s/.test(part)));
		if (length < 2 || length > MOST_PARTS || alike.length < keys.length * NEARLY_ALL) continue;
		return Array.from({ length }, (_, index) => index)
			.filter((index) => {
				const distinct = new Set(alike.map((parts) => parts[index])).size;
				return distinct > 1 && distinct <= alike.length * RECURRING;
			})
			.map((index) => ({
				column,
				index,
				read: (row) => {
					const value = row.values[column];
					const parts = typeof value === 'string' ? value.split(separator) : [];
					return parts.length === length && row.cut !== column ? parts[index] : undefined;
				}
			}));
	}
	return [];
}

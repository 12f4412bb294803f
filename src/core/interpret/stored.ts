/** Values that hold values: JSON, and fields in the wire format of protocol buffers. */
import type { Row, Value } from '../model';
import { decodeWire, readWire, type WireReading } from './wire';

/** How a column's values are opened. */
export type Stored = { kind: 'json' } | { kind: 'wire'; reading: WireReading };

/** How a column's values are to be opened, or null where they hold none. `json`: share of them that look like it. */
export function readStored(values: readonly (Value | undefined)[], json: number): Stored | null {
	if (json > 0.8) return { kind: 'json' };
	const reading = readWire(values);
	return reading ? { kind: 'wire', reading } : null;
}

const JSON_AT_MOST = 4_000_000;
const opened = new WeakMap<Row, Map<number, unknown>>();

/** What a row's column holds, opened once; undefined where it cannot be. */
export function openStored(row: Row, column: number, how: Stored): unknown {
	let cache = opened.get(row);
	if (!cache) opened.set(row, (cache = new Map()));
	if (cache.has(column)) return cache.get(column);
	const result = how.kind === 'json' ? jsonOf(row.values[column]) : wireOf(row, column, how.reading);
	cache.set(column, result);
	return result;
}

export function jsonOf(value: Value | undefined): unknown {
	const text = typeof value === 'string' ? value : value && typeof value === 'object' ? new TextDecoder().decode(value) : '';
	if (!/^\s*[[{]/.test(text) || text.length >= JSON_AT_MOST) return undefined;
	try {
		return JSON.parse(text);
	} catch {
		return undefined;
	}
}

function wireOf(row: Row, column: number, reading: WireReading): unknown {
	const value = row.values[column];
	return value && typeof value === 'object' ? (decodeWire(value, reading, row.cut === column) ?? undefined) : undefined;
}

/** What lies at a path inside. */
export function at(value: unknown, path: readonly string[]): unknown {
	let here = value;
	for (const step of path) {
		if (here === null || typeof here !== 'object') return undefined;
		here = (here as Record<string, unknown>)[step];
	}
	return here;
}

/** A value from inside as one that a column could hold. */
export const plain = (value: unknown): Value | undefined =>
	value === null || typeof value === 'string' || typeof value === 'number' || typeof value === 'bigint' || value instanceof Uint8Array
		? value
		: typeof value === 'boolean'
			? Number(value)
			: value === undefined
				? undefined
				: JSON.stringify(value);

/** Paths of the values inside, over a sample, as lists of steps. A list is one value (the members of a room, say). */
export function pathsIn(values: readonly unknown[]): string[][] {
	const paths = new Map<string, string[]>();
	const collect = (value: unknown, path: string[]): void => {
		if (value === null || typeof value !== 'object' || Array.isArray(value) || path.length > DEEPEST || paths.size > MOST_PATHS) return;
		for (const [key, inner] of Object.entries(value).slice(0, MOST_FIELDS)) {
			const own = [...path, key];
			if (inner !== null && typeof inner === 'object' && !Array.isArray(inner) && !(inner instanceof Uint8Array)) collect(inner, own);
			else paths.set(own.join('\u0000'), own);
		}
	};
	for (const value of values) collect(value, []);
	return [...paths.values()];
}

const DEEPEST = 4;
const MOST_PATHS = 60;
const MOST_FIELDS = 40;

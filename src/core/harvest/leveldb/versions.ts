/** All that was written to the keys of a store, and the rows that come of it. */
import crc32c from 'crc-32/crc32c.js';
import type { Row, Sighting, Standing, Value } from '../../model';

/** A value that was written to a key, and where that was seen. */
export interface Version {
	value: Uint8Array | null;
	sequence: number;
	isCut: boolean;
	/** Its bytes have their sum. */
	isSound: boolean;
	/** It stands in a file in use, in a batch that was ended. */
	isLive: boolean;
	seen: Sighting[];
}

/** All that was written to one key. */
export interface Kept {
	key: Uint8Array;
	versions: Version[];
	/** By their numbers, where they are many. */
	numbered?: Map<number, Version>;
}
const MANY_VERSIONS = 16;

/** The write of a number that a key is known to have had. */
export function versionOf(kept: Kept, sequence: number): Version | undefined {
	if (kept.versions.length < MANY_VERSIONS) return kept.versions.find((v) => v.sequence === sequence);
	kept.numbered ??= new Map(kept.versions.map((v) => [v.sequence, v]));
	return kept.numbered.get(sequence);
}

/** A key as what a map is asked by. */
export function nameOf(key: Uint8Array): string {
	let name = '';
	for (const byte of key) name += String.fromCharCode(byte);
	return name;
}

export const sameBytes = (a: Uint8Array | null, b: Uint8Array | null): boolean =>
	a === b || (a !== null && b !== null && a.length === b.length && a.every((byte, i) => byte === b[i]));

export interface Merged {
	value: Uint8Array;
	all: Version[];
}

/** The values of a key, each once, newest first; those written more than once with all that wrote it. */
export function merged(versions: readonly Version[]): Merged[] {
	const out = new Map<number, Merged[]>();
	for (const version of versions) {
		if (version.value === null) continue;
		const sum = crc32c.buf(version.value);
		const alike = out.get(sum) ?? [];
		const same = alike.find((o) => sameBytes(o.value, version.value));
		if (same) same.all.push(version);
		else out.set(sum, [...alike, { value: version.value, all: [version] }]);
	}
	return [...out.values()].flat();
}

const VALUE_COLUMN = 1;

export function rowOf(table: number, values: Value[], versions: readonly Version[], standing: Standing): Row {
	const isWhole = versions.some((v) => v.isSound && !v.isCut);
	const grade = isWhole ? 'whole' : 'fragment';
	const sightings = versions.flatMap((v, i) => v.seen.map((s): Sighting => ({ ...s, standing: i === 0 ? standing : 'dropped' })));
	const cut = versions.every((v) => v.isCut) ? VALUE_COLUMN : -1;
	const row: Row = { table, tableKnown: true, rowid: null, values, cut, standing, grade, sightings: sightings.slice(0, SIGHTINGS_KEPT) };
	if (sightings.length > SIGHTINGS_KEPT) row.moreSightings = sightings.length - SIGHTINGS_KEPT;
	return row;
}
const SIGHTINGS_KEPT = 24;

/**
 * Which values of a list's entries are the hash that a file is stored by, its path, the area that the path is in, and
 * when it was changed. Where the hash is the digest of area and path, that is proof; else their looks tell.
 */
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { MEDIA_TYPE } from '../../bytes';
import { baseOf } from '../../paths';
import { readPlist } from '../plist/plist';
import { isFields, type Fields } from './fields';
import { GROUP_KEY, OWN_KEY, type Cell, type Entry, type Listing } from './listing';
import { momentIn } from './stated';
import { hashNamed } from './stored-names';

export interface Named {
	hash: string;
	path: string;
	/** When it was changed last, ms UTC, and how many bytes it has, where the list says so. */
	modified: number | null;
	size: number | null;
}

const SAMPLE = 400;
const MOST_COLUMNS = 60;
/** Share of the entries that must have a hash, and in a table that must have one in that very column. */
const MOSTLY = 0.9;
/** The same of those that have a text there, and of those texts that must look like paths. */
const TEXTS = 0.6;
const PATHS = 0.3;

/** What the entries of a list name; null where they name none of the files that are there. */
export function namesOf(listing: Listing, stored: ReadonlyMap<string, { source: { size: number } }>): Named[] | null {
	const hash = hashColumn(listing, stored);
	if (hash === null) return null;
	const entries = listing.entries.filter((entry) => hashAt(entry, hash) !== null);
	const sample = entries.slice(0, SAMPLE);
	const columns = columnsOf(sample).filter((c) => c !== hash);
	const texts = columns.filter((c) => isOfPathsOrAreas(sample, c));
	const proven = provenBy(listing, sample, hash, texts);
	const path = proven?.path ?? pathColumn(listing, sample, hash, texts);
	if (path === null) return null;
	const area = proven ? proven.area : areaColumn(listing, sample, path, texts);
	const name = proven ? null : nameColumn(sample, path, texts);
	const modified = modifiedColumn(sample, columns);
	const size = sizeColumn(sample, hash, columns, stored);
	return entries.flatMap((entry): Named[] => {
		const own = textAt(entry, path);
		if (own === '') return [];
		const within = area ? area(entry) : '';
		const parts = [within, own, name === null ? '' : textAt(entry, name)].filter((part) => part !== '');
		const bytes = size === null ? undefined : entry.get(size);
		return [
			{
				hash: hashAt(entry, hash)!,
				path: parts.join('/'),
				modified: modified ? modified(entry) : null,
				size: typeof bytes === 'number' ? bytes : null
			}
		];
	});
}

/**
 * Whether entries state, beside the hash and what the file is called, that it lies under that hash: a program's own table
 * of what it keeps does, and a list need not.
 */
export function statesWhere(listing: Listing, stored: ReadonlyMap<string, unknown>): boolean {
	const hash = hashColumn(listing, stored);
	const sample = listing.entries.slice(0, SAMPLE);
	if (hash === null || shareOf(sample, hash, hasStrokes) > PATHS) return false;
	return columnsOf(sample).some(
		(c) =>
			c !== hash &&
			shareOf(sample, c, hasStrokes) > PATHS &&
			sample.filter((e) => hashAt(e, c) !== null && hashAt(e, c) === hashAt(e, hash)).length > sample.length * PATHS
	);
}

const textAt = (entry: Entry, column: string): string => {
	const cell = entry.get(column);
	return typeof cell === 'string' ? cell : '';
};
const hashAt = (entry: Entry, column: string): string | null => hashNamed(textAt(entry, column));

const columnsOf = (sample: readonly Entry[]): string[] => [...new Set(sample.flatMap((entry) => [...entry.keys()]))].slice(0, MOST_COLUMNS);

const shareOf = (sample: readonly Entry[], column: string, test: (text: string) => boolean): number =>
	sample.filter((entry) => typeof entry.get(column) === 'string' && test(textAt(entry, column))).length / sample.length;
const different = (sample: readonly Entry[], column: string): number => new Set(sample.map((entry) => entry.get(column))).size;
const hasStrokes = (text: string): boolean => /[/\\]/.test(text);
const hasEnding = (text: string): boolean => /[^.]\.\w{1,8}$/.test(text);

/** The column of which most values name files that are there; those of a list that holds more than it has are many. */
function hashColumn({ kind, entries }: Listing, stored: ReadonlyMap<string, unknown>): string | null {
	const sample = entries.slice(0, SAMPLE);
	const lengths = new Set([...stored.keys()].map((hash) => hash.length));
	const found = columnsOf(sample)
		.map((column) => ({ column, share: shareOf(sample, column, (text) => lengths.has(hashNamed(text)?.length ?? 0)) }))
		.filter(({ share }) => share > (kind === 'table' ? MOSTLY : 0))
		.map(({ column }) => ({
			column,
			there: entries.filter((entry) => stored.has(hashAt(entry, column) ?? '')).length,
			places: shareOf(sample, column, hasStrokes)
		}))
		.filter(({ there }) => there > 0)
		.sort((a, b) => b.there - a.there || a.places - b.places);
	return found[0]?.column ?? null;
}

const DATE = /^\d{4}-\d\d-\d\d/;
const isPlain = (text: string): boolean => text !== '' && !DATE.test(text) && !MEDIA_TYPE.test(text) && !/^[\d.,:+-]*$/.test(text);

function isOfPathsOrAreas(sample: readonly Entry[], column: string): boolean {
	const texts = sample.map((entry) => entry.get(column)).filter((cell): cell is string => typeof cell === 'string' && cell !== '');
	if (texts.length === 0 || (column !== OWN_KEY && column !== GROUP_KEY && texts.length < sample.length * PATHS)) return false;
	return texts.filter((text) => isPlain(text) && hashNamed(text) === null).length > texts.length * 0.5;
}

const DIGESTS: Record<number, (bytes: Uint8Array) => Uint8Array> = { 32: md5, 40: sha1, 64: sha256 };
/** What stands between area and path where a digest is taken of both. */
const BETWEEN = ['-', '/', ':', '|', '', '\\', '_', '\u0000'];
const PROOFS = 3;

type AreaOf = (entry: Entry) => string;

/** The path, and perhaps the area, of which the hashes are the digests. */
function provenBy(
	listing: Listing,
	sample: readonly Entry[],
	hash: string,
	texts: readonly string[]
): { path: string; area: AreaOf | null } | null {
	const proofs = sample.filter((entry) => texts.some((c) => textAt(entry, c) !== '')).slice(-PROOFS);
	const digestOf = DIGESTS[(proofs[0] && hashAt(proofs[0], hash)?.length) ?? 0];
	if (!digestOf || proofs.length === 0) return null;
	const holds = (of: (entry: Entry) => string): boolean =>
		proofs.every((entry) => bytesToHex(digestOf(utf8ToBytes(of(entry)))) === hashAt(entry, hash));
	const areas = areasIn(listing, texts);
	for (const path of texts) {
		if (holds((entry) => textAt(entry, path))) return { path, area: null };
		for (const { column, area } of areas)
			if (column !== path && BETWEEN.some((between) => holds((entry) => area(entry) + between + textAt(entry, path))))
				return { path, area };
	}
	return null;
}

const areasIn = (listing: Listing, texts: readonly string[]): { column: string; area: AreaOf }[] => [
	...texts.map((column) => ({ column, area: (entry: Entry): string => textAt(entry, column) })),
	...listing.areas.map(({ column, names }) => ({ column, area: numbered(column, names) }))
];
const numbered =
	(column: string, names: ReadonlyMap<number, string>): AreaOf =>
	(entry) =>
		names.get(entry.get(column) as number) ?? '';

/** Of the columns with strokes the one whose texts differ most: areas can have strokes too. */
function pathColumn(listing: Listing, sample: readonly Entry[], hash: string, texts: readonly string[]): string | null {
	const own = texts.find((c) => c === OWN_KEY);
	const withStrokes = texts
		.filter((c) => shareOf(sample, c, hasStrokes) > PATHS || c === own)
		.toSorted((a, b) => different(sample, b) - different(sample, a));
	if (withStrokes.length > 0) return withStrokes[0]!;
	// A program's table of files can have their names, and where each lies; a list that says where has their paths.
	if (listing.kind === 'table' && shareOf(sample, hash, hasStrokes) > PATHS) return null;
	const named = texts.find((c) => shareOf(sample, c, hasEnding) > PATHS && shareOf(sample, c, () => true) > TEXTS);
	return named ?? (listing.kind === 'table' ? null : (texts.toSorted((a, b) => different(sample, b) - different(sample, a))[0] ?? null));
}

/** Where the path is only that of the folder: the column of names in it. */
function nameColumn(sample: readonly Entry[], path: string, texts: readonly string[]): string | null {
	if (different(sample, path) > sample.length * REPEATED || shareOf(sample, path, hasEnding) > PATHS) return null;
	return texts.find((c) => c !== path && shareOf(sample, c, hasEnding) > 0.5 && different(sample, c) > different(sample, path)) ?? null;
}
const REPEATED = 0.7;

const AREA_KEY = /domain|area|space|container|volume/i;
/** Words for what an entry is, and for what has become of it. */
const KIND =
	/^(file|folder|dir(ectory)?|link|symlink|regular|new|changed|same|unchanged|deleted|added|modified|copied|stored|ok|none|gzip|raw)$/i;
/** Share of the first folders of paths that must each be of one area alone. */
const OF_ONE = 0.75;

/** The column of the area that a path is in: called so, or of few names of which each has its own first folders. */
function areaColumn(listing: Listing, sample: readonly Entry[], path: string, texts: readonly string[]): AreaOf | null {
	const few = texts.filter(
		(c) =>
			c !== path &&
			shareOf(sample, c, (text) => !isPartOf(text)) > TEXTS &&
			different(sample, c) <= Math.max(FEW, sample.length * 0.5) &&
			!sample.every((entry) => baseOf(textAt(entry, path)).includes(textAt(entry, c)))
	);
	const called = few.find((c) => AREA_KEY.test(c)) ?? few.find((c) => c === GROUP_KEY);
	const column = called ?? few.find((c) => isOfFolders(sample, c, path));
	if (column !== undefined) return (entry) => textAt(entry, column);
	const areas = listing.areas.find(({ sure }) => sure);
	return areas ? numbered(areas.column, areas.names) : null;
}
const FEW = 40;
const isPartOf = (text: string): boolean => KIND.test(text);

function isOfFolders(sample: readonly Entry[], column: string, path: string): boolean {
	const areas = new Map<string, Set<string>>();
	for (const entry of sample) {
		const first = textAt(entry, path).split(/[/\\]/)[0]!;
		const known = areas.get(first);
		if (known) known.add(textAt(entry, column));
		else areas.set(first, new Set([textAt(entry, column)]));
	}
	const all = new Set([...areas.values()].flatMap((of) => [...of]));
	const isEnding = sample.every((entry) =>
		textAt(entry, path)
			.toLowerCase()
			.endsWith(`.${textAt(entry, column).toLowerCase()}`)
	);
	const named = sample.filter((entry) => /[./]/.test(textAt(entry, column))).length >= sample.length * PATHS;
	return !isEnding && (named || (all.size > 1 && [...areas.values()].filter((of) => of.size === 1).length >= areas.size * OF_ONE));
}

const CHANGED = /modif|mtime|chang|edit/i;
const TIMED = /date|time|stamp/i;

/** When a file was changed: as its column is called, or the only one of moments. */
function modifiedColumn(sample: readonly Entry[], columns: readonly string[]): ((entry: Entry) => number | null) | null {
	const momentAt = (entry: Entry, column: string): number | null => momentOf(entry.get(column));
	const moments = columns.filter((c) => sample.some((e) => e.has(c)) && sample.every((e) => !e.has(c) || momentAt(e, c) !== null));
	const column =
		moments.find((c) => CHANGED.test(c)) ?? moments.find((c) => TIMED.test(c)) ?? (moments.length === 1 ? moments[0] : undefined);
	return column === undefined ? null : (entry) => momentAt(entry, column);
}

function momentOf(cell: Cell | undefined): number | null {
	if (cell === undefined) return null;
	if (!(cell instanceof Uint8Array)) return momentIn('date', cell);
	const inner = changedIn(readPlist(cell), 0);
	return inner === null ? null : momentIn('date', inner);
}

/** The value that stands under such a key in a property list of a file's properties. */
function changedIn(fields: Fields, depth: number): Fields {
	if (depth > 6) return null;
	if (Array.isArray(fields)) return fields.map((inner) => changedIn(inner, depth + 1)).find((found) => found !== null) ?? null;
	if (!isFields(fields)) return null;
	const own = Object.entries(fields).find(([key, value]) => CHANGED.test(key) && momentIn('date', value) !== null);
	return own
		? own[1]
		: (Object.values(fields)
				.map((inner) => changedIn(inner, depth + 1))
				.find((found) => found !== null) ?? null);
}

/** The column of numbers that are the sizes of the files that are there. */
function sizeColumn(
	sample: readonly Entry[],
	hash: string,
	columns: readonly string[],
	stored: ReadonlyMap<string, { source: { size: number } }>
): string | null {
	const there = sample.flatMap((entry) => {
		const file = stored.get(hashAt(entry, hash)!);
		return file ? [{ entry, size: file.source.size }] : [];
	});
	return columns.find((c) => there.length > 0 && there.every(({ entry, size }) => entry.get(c) === size)) ?? null;
}

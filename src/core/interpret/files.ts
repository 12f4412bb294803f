/** Which columns of a sheet state files: their paths, names, media types, sizes and digests; also where a value is a list of such. */
import { mediaTypeOf } from '../bytes';
import { bytesIn } from '../harvest';
import type { Row, Table, Value } from '../model';
import { contentBytes } from './content-bytes';
import { listColumns, type ListColumn } from './lists';
import type { AttachmentReading, MessageReading } from './reading';
import { profileOf } from './profile';
import { cell, sampleOf, type Sheet, type SheetColumn } from './sheet';

export type FileColumns = AttachmentReading['columns'];

export const isPath = (c: SheetColumn): boolean =>
	c.profile.texts > 0 &&
	!c.profile.time &&
	(c.profile.path > 0.5 || isFileNamed(c)) &&
	c.profile.mime < 0.3 &&
	c.profile.email < 0.3 &&
	c.profile.digest < 0.5;
/** A column of files by its name, whose values are single words. */
const isFileNamed = (c: SheetColumn): boolean => FILE_NAMED.test(c.name) && c.profile.token > 0.9 && c.profile.averageLength > 5;
const FILE_NAMED = /file_?(name|path|uri|url)$|(^|_)path$/i;
export const isMime = (c: SheetColumn): boolean => c.profile.texts > 0 && c.profile.mime > 0.5;

/** Whether one column's values are made of another's. */
const readsColumn = (made: SheetColumn, c: SheetColumn): boolean =>
	made.name === c.name && made.column === c.column && made.path.join() === c.path.join();

const SELF = /(?:^|\.)_?(?:links\.)?self(?:\.href)?$/i;

/** The key of a row, which can have strokes, and names no file where it has no ending: `message/17`. */
function isKeyOfRow(c: SheetColumn, sheet: Sheet, tables: readonly Table[]): boolean {
	// What refers to itself, as resources do (RFC 8288, relation "self").
	if (SELF.test(c.name)) return true;
	const { primaryKey } = tables[sheet.tables[0]!]!;
	const isPrimary = c.path.length === 0 && primaryKey.length === 1 && primaryKey[0] === c.column;
	if (!isPrimary && !(KEY_NAMED.test(c.name) && isEachOnes(c, sheet))) return false;
	return haveNoEndings(c);
}

function haveNoEndings(c: SheetColumn): boolean {
	const values = [...c.profile.distinct.keys()].slice(0, 200);
	return values.filter((v) => /\.\w{2,5}$/.test(String(v))).length < values.length * 0.5;
}

const KEY_NAMED = /(?:^|[_. -])(?:id|key|guid|uuid)$/i;
/** Whether every row has a value, and each its own. */
const isEachOnes = ({ profile: p }: SheetColumn, { sure }: Sheet): boolean =>
	p.filled >= sure.length && (p.many || p.distinct.size >= sure.length);

/** Whether most values state folders as well as a name. */
const hasStrokes = ({ profile: p }: SheetColumn): boolean => {
	const values = [...p.distinct.keys()].slice(0, 200);
	return values.filter((v) => /[\\/]/.test(String(v))).length > values.length * 0.5;
};

const SIZE_NAMED = /size|bytes|length|len$/i;
export const isSizeNamed = (c: SheetColumn): boolean => SIZE_NAMED.test(c.name);
const DIGEST_NAMED = /hash|sha|md5|digest|sum/i;
/** Bytes: numbers that go so high are no counts of things. */
const LARGE = 20_000;

/** Share of files that have a name of their own; of a few, where one is a third. */
const NAMES_DIFFER = 0.3;
const FEW_DIFFER = 0.5;
const FEW_FILES = 10;

/** A name of a file stands where a file is stated: no more names than so many times the files. */
const NAMES_BESIDE = 1.5;

/** What the columns of the messages themselves say of files. */
export function filesOfMessages(m: MessageReading, tables: readonly Table[]): FileColumns | null {
	if (m.files !== undefined) return m.files;
	const parties = [m.peer, m.sender, m.recipient, m.participant, m.thread].map((party) => party?.value);
	// What a column is parted into is read there.
	const parted = m.sheet.columns.filter(
		(c) => c.path.length === 0 && !c.made?.stated && parties.some((p) => p?.made && p.column === c.column)
	);
	const taken = [m.text.value, m.time?.value, ...parties, ...parted, m.guid ?? undefined];
	const keys = m.sheet.columns.filter((c) => isPath(c) && isEachOnes(c, m.sheet) && haveNoEndings(c));
	return fileColumns(m.sheet, tables, m.text.value.profile.filled > m.sheet.sure.length / 2 ? [...taken, ...keys] : taken);
}

/** What a sheet's rows say of files: `null` where they say nothing. */
export function fileColumns(sheet: Sheet, tables: readonly Table[], except: readonly (SheetColumn | undefined)[] = []): FileColumns | null {
	const isTaken = (c: SheetColumn): boolean => except.some((e) => e === c || (e?.made !== undefined && readsColumn(e, c)));
	const free = sheet.columns.filter((c) => !isTaken(c) && c.column >= 0 && !isKeyOfRow(c, sheet, tables));
	const paths = free.filter((c) => isPath(c) && !isMime(c));
	const mime = free.find(isMime) ?? null;
	const placed = paths.filter(hasStrokes);
	const first = [...placed, ...paths].find((c) => /path|uri|url|local|file/i.test(c.name)) ?? placed[0] ?? paths[0] ?? null;
	const other = first && placed.find((c) => c !== first && standApart(first, c, sheet, tables));
	const path = first && other ? eitherOf(first, other, sheet, tables) : first;
	const content = contentIn(sheet, free, tables);
	const stating = path ?? mime ?? content;
	if (!stating) return null;
	const beside = (c: SheetColumn): boolean => c.profile.filled <= stating.profile.filled * NAMES_BESIDE + 1;
	// A few of them again and again are kinds ("public.jpeg") rather than names.
	const differ = ({ profile: p }: SheetColumn): boolean => p.distinct.size > p.filled * (p.filled < FEW_FILES ? FEW_DIFFER : NAMES_DIFFER);
	const others = paths.filter((c) => c !== first && c !== other).sort((a, b) => Number(differ(b)) - Number(differ(a)));
	const name =
		others.find((c) => !hasStrokes(c)) ??
		others[0] ??
		free.find((c) => c !== path && /name|title/i.test(c.name) && c.profile.texts > 0 && !c.profile.time && beside(c)) ??
		null;
	const number = (c: SheetColumn): boolean => c.profile.ints > 0 && !c.profile.time;
	const whole = (name: RegExp): SheetColumn | null => free.find((c) => number(c) && name.test(c.name)) ?? null;
	const named = { width: whole(/width|_w$|^w$/i), height: whole(/height|_h$|^h$/i) };
	const [width, height] = named.width && named.height ? [named.width, named.height] : measures(sheet, free.filter(number), mime, tables);
	const left = free.filter((c) => number(c) && c !== width && c !== height);
	const size =
		left.find((c) => SIZE_NAMED.test(c.name)) ??
		left.find((c) => c.profile.low >= 0 && c.profile.high > LARGE && c.profile.distinct.size > 2) ??
		left.find((c) => variesWith(mime ?? stating, c)) ??
		null;
	// What each message has, whether it has a file or not, is the message's.
	const isOfFiles = (c: SheetColumn): boolean => except.length === 0 || beside(c);
	const digests = free.filter((c) => (c.profile.digest > 0.8 || (c.profile.texts > 0 && c.profile.averageLength > 31)) && isOfFiles(c));
	const hash = digests.find((c) => DIGEST_NAMED.test(c.name)) ?? digests.find((c) => c.profile.digest > 0.8) ?? null;
	// A page that a message leads to is no file of it.
	if (path && !mime && !size && !hash && !content && isPages(path)) return null;
	// The key of the row itself can be what its file is called.
	const keys = sheet.columns.filter((c) => c.column >= 0 && !except.includes(c) && !free.includes(c));
	const key = [...free, ...keys].find((c) => isKeyLike(c) && c !== hash && c !== path && c !== name) ?? null;
	return { path, name, mime, size, hash, width, height, key, content };
}

const isThere = (row: Row, c: SheetColumn, tables: readonly Table[]): boolean => {
	const value = cell(row, c, tables);
	return typeof value === 'string' && value !== '';
};

/** Whether of two columns of paths each row has the one or the other: pictures in one, and what else was sent in another. */
function standApart(a: SheetColumn, b: SheetColumn, { sure }: Sheet, tables: readonly Table[]): boolean {
	let [inA, inB] = [0, 0];
	for (const row of sure) {
		const [one, two] = [isThere(row, a, tables), isThere(row, b, tables)];
		if (one && two) return false;
		inA += Number(one);
		inB += Number(two);
	}
	return inA >= APART_LEAST && inB >= APART_LEAST;
}
const APART_LEAST = 2;

function eitherOf(a: SheetColumn, b: SheetColumn, { sure }: Sheet, tables: readonly Table[]): SheetColumn {
	const from = (row: Row): SheetColumn => (isThere(row, a, tables) ? a : b);
	const made = { read: (row: Row): Value | undefined => cell(row, from(row), tables), from };
	return { name: `${a.name} or ${b.name}`, column: a.column, path: [], made, profile: profileOf(sure, made.read, sampleOf(sure)) };
}

/** Rows of which it is seen whether a file's bytes stand in them, and share of those that must have them. */
const SEEN_INSIDE = 200;
const MOSTLY_INSIDE = 0.8;
const SMALL_PICTURE = /thumb|preview|mini|small|icon|avatar|blur/i;

/** Digits of the shortest file. */
const DIGITS = 64;
const canHold = ({ profile: p }: SheetColumn): boolean => p.blobs > 0 || (p.texts > 0 && p.averageLength >= DIGITS && p.prose < 0.3);

/** The column of the files' own bytes: they begin as media files do; of several that of the most bytes. */
function contentIn(sheet: Sheet, free: readonly SheetColumn[], tables: readonly Table[]): SheetColumn | null {
	const rows = sheet.sure.slice(0, SEEN_INSIDE);
	const held = free.flatMap((column) => {
		if (!canHold(column) || (column.made ? !column.made.bytes : column.path.length > 0) || column.body || SMALL_PICTURE.test(column.name))
			return [];
		const blobs = rows.flatMap((row) => contentBytes(cell(row, column, tables)) ?? []);
		const known = blobs.filter((bytes) => mediaTypeOf(bytes.subarray(0, 16)) !== null);
		if (known.length === 0 || known.length < blobs.length * MOSTLY_INSIDE) return [];
		return [{ column, bytes: blobs.reduce((sum, b) => sum + bytesIn(b), 0) }];
	});
	return held.sort((a, b) => b.bytes - a.bytes)[0]?.column ?? null;
}

/** Whether most values are addresses of the web that end as no file does. */
function isPages({ profile: p }: SheetColumn): boolean {
	const values = [...p.distinct.keys()].slice(0, 200);
	return (
		values.filter((v) => /^https?:\/\//i.test(String(v)) && !/\/[^/?#]+\.\w{2,5}([?#]|$)/.test(String(v))).length > values.length * 0.5
	);
}

/** A word of its own for each, too long to be anybody's. */
function isKeyLike({ profile: p }: SheetColumn): boolean {
	if (p.uuid > 0.8) return p.unique;
	return p.unique && p.texts > 0 && p.token > 0.9 && p.averageLength >= KEY_LENGTH && p.digest < 0.5 && p.mime < 0.3 && p.email < 0.3;
}
const KEY_LENGTH = 12;

const LARGEST_PICTURE = 20_000;
const PICTURES_SEEN = 3;

/** Two numbers that only rows of pictures and films have, both together: how wide and how high those are. */
function measures(
	sheet: Sheet,
	numbers: readonly SheetColumn[],
	mime: SheetColumn | null,
	tables: readonly Table[]
): [SheetColumn | null, SheetColumn | null] {
	if (!mime) return [null, null];
	const rows = sampleOf(sheet.sure).filter((row) => cell(row, mime, tables) !== null);
	const seen = (row: Row): boolean => /^(image|video)\//i.test(String(cell(row, mime, tables)));
	if (rows.every(seen) || !rows.some(seen)) return [null, null];
	const withIt = (c: SheetColumn): Row[] => rows.filter((row) => Number(cell(row, c, tables) ?? 0) !== 0);
	const fitting = numbers.filter((c) => {
		const { low, high, distinct } = c.profile;
		return low >= 0 && high <= LARGEST_PICTURE && distinct.size >= PICTURES_SEEN && withIt(c).length > 0 && withIt(c).every(seen);
	});
	for (const [i, a] of fitting.entries())
		for (const b of fitting.slice(i + 1)) {
			const [x, y] = [withIt(a), withIt(b)];
			if (x.length === y.length && x.every((row, n) => row === y[n])) return [a, b];
		}
	return [null, null];
}

/** A number of its own in (nearly) each row that states a file, and in no other; higher than such a row could count. */
function variesWith(stated: SheetColumn, { profile: p }: SheetColumn): boolean {
	const { filled } = stated.profile;
	return (
		p.ints === p.filled &&
		Math.abs(p.filled - filled) <= filled * 0.1 &&
		p.low >= 0 &&
		p.distinct.size > Math.max(2, p.filled * 0.8) &&
		p.high > Math.max(255, p.filled * 3)
	);
}

/** A column of lists of files, each with its fields. */
export interface ListedFiles extends ListColumn {
	columns: FileColumns;
}

/** The columns of a sheet whose values are lists of files. */
export const listedFiles = (sheet: Sheet, tables: readonly Table[]): ListedFiles[] =>
	listColumns(sheet, tables).flatMap((list) => {
		const columns = fileColumns(list.entries, tables);
		return columns ? [{ ...list, columns }] : [];
	});

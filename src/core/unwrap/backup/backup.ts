/**
 * Backups of a device on a computer: a folder of files named by hashes, with a list that gives their real names. Known
 * by that structure alone: a database (or a property list, or JSON) beside or above the files, whose rows name them by those
 * hashes, with a path in the same row. What lies beside it states the device, the date, and whether it is locked.
 */
import { CachedSource, MEDIA_TYPE } from '../../bytes';
import { hasMagic, StoreHarvest } from '../../harvest';
import type { Row, Value } from '../../model';
import type { GivenFile } from '../gather';
import { isFields, isJson, readFields, type Fields } from './fields';
import { baseOf, folderOf } from '../../paths';
import { statedBy, type Stated } from './stated';

export interface Backup extends Stated {
	/** Folder it was found in, as given; '' for the top. */
	folder: string;
	/** Its files under their real names. */
	files: GivenFile[];
	/** Paths, as given, of what is among `files` under a path of its own. */
	taken: Set<string>;
	/** Real paths by those given. */
	renamed: Map<string, string>;
	/** What it lists and does not hold, by the hash it is named by. */
	absent: Named[];
}

const HASH_NAME = /^([0-9a-f]{32,64})(?:\.\w{1,8})?$/i;
/** Folders that parts of a hash name, at most one within the other. */
const FOLDERS_AT_MOST = 4;
const LIST_AT_MOST = 512 << 20;
const utf8 = new TextDecoder();

interface Named {
	hash: string;
	path: string;
}

/** The hash that a file is named by, with or without an ending; null where it is named otherwise. */
const hashOf = (name: string): string | null => HASH_NAME.exec(name)?.[1]!.toLowerCase() ?? null;

/** The folder of a file named by a hash, without those that its first digits name. */
function rootOf(path: string): string {
	let folder = folderOf(path);
	const parts: string[] = [];
	for (let up = folder; up !== '' && parts.length < FOLDERS_AT_MOST; up = folderOf(up)) {
		if (!/^[0-9a-f]{1,4}$/i.test(baseOf(up))) break;
		parts.unshift(baseOf(up).toLowerCase());
		if (hashOf(baseOf(path))!.startsWith(parts.join(''))) folder = folderOf(up);
	}
	return folder;
}

/** The roots of files, by their folders: one that is called like a digit or two holds files of that beginning and no others. */
function rootsOf(hashed: readonly GivenFile[]): Map<string, string> {
	const roots = new Map<string, string>();
	for (const { path } of hashed) {
		const [folder, root] = [folderOf(path), rootOf(path)];
		const known = roots.get(folder);
		roots.set(folder, known === undefined || known === root ? root : folder);
	}
	return roots;
}

/** Every backup among the files. */
export function findBackups(files: readonly GivenFile[]): Backup[] {
	const hashed = files.filter((f) => hashOf(baseOf(f.path)) !== null);
	if (hashed.length === 0) return [];
	const roots = new Map<string, GivenFile[]>();
	const byFolder = rootsOf(hashed);
	for (const f of hashed) {
		const root = byFolder.get(folderOf(f.path))!;
		const list = roots.get(root);
		if (list) list.push(f);
		else roots.set(root, [f]);
	}
	const backups = [...roots].flatMap(([root, own]) => {
		const backup = readBackup(root, own, files);
		return backup ? [backup] : [];
	});
	backups.sort((a, b) => (a.date ?? 0) - (b.date ?? 0));
	backups.forEach((backup, i) => complete(backup, backups.slice(0, i)));
	return backups;
}

/** A partial backup's files that did not change since are those of the newest one before it, of the same device. */
function complete(backup: Backup, before: readonly Backup[]): void {
	if (!backup.partial || backup.date === null) return;
	for (const { hash, path } of backup.absent) {
		const own = pathIn(backup.folder, path);
		const held = before
			.filter((b) => b.device === backup.device && b.serial === backup.serial && b.date !== null)
			.toReversed()
			.flatMap((b) => b.files.filter((f) => f.path === pathIn(b.folder, path) && (f.origin ?? '').toLowerCase().includes(hash)))[0];
		if (held) backup.files.push({ ...held, name: baseOf(own), path: own });
	}
}

const pathIn = (folder: string, path: string): string => `${folder ? `${folder}/` : ''}${clean(path)}`;

/** The list lies beside the files, or beside the folder that they have for themselves. */
const readBackup = (root: string, hashed: readonly GivenFile[], all: readonly GivenFile[]): Backup | null =>
	readBackupIn(root, hashed, all) ?? (root === '' ? null : readBackupIn(folderOf(root), hashed, all));

function readBackupIn(folder: string, hashed: readonly GivenFile[], all: readonly GivenFile[]): Backup | null {
	const byHash = new Map(hashed.map((f) => [hashOf(baseOf(f.path))!, f]));
	const beside = all.filter((f) => folderOf(f.path) === folder && hashOf(baseOf(f.path)) === null && !f.opened);
	for (const list of beside) {
		const named = namesIn(list, byHash);
		if (!named) continue;
		const taken = new Set<string>([list.path]);
		// The list is a file like others; what it lists comes as files of their own. With dated rows besides, it is looked at too.
		const files: GivenFile[] = [named.hasMore ? list : { ...list, opened: true }];
		const used = new Set<string>();
		const renamed = new Map<string, string>();
		const absent: Named[] = [];
		for (const { hash, path } of named.names) {
			const file = byHash.get(hash);
			if (path === '') continue;
			if (!file) {
				absent.push({ hash, path });
				continue;
			}
			taken.add(file.path);
			const own = pathIn(folder, path);
			const unique = used.has(own) ? `${own} (${hash.slice(0, 8)})` : own;
			used.add(unique);
			renamed.set(file.path, unique);
			files.push({ ...file, name: baseOf(unique), path: unique, origin: file.origin ?? file.path });
		}
		if (hashed.some((f) => f.opened))
			for (const file of all) {
				const own = taken.has(file.path) ? null : pathAmong(renamed, file.path);
				if (own === null) continue;
				taken.add(file.path);
				files.push({ ...file, path: own, origin: file.origin ?? file.path });
			}
		return { folder, files, taken, renamed, absent, ...statedBy(beside, named.harvest) };
	}
	return null;
}

/** The path of what lies in a file that was renamed, or null where it lies in none. */
export function pathAmong(renamed: ReadonlyMap<string, string>, path: string): string | null {
	for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1)) {
		const own = renamed.get(path.slice(0, at));
		if (own !== undefined) return own + path.slice(at);
	}
	return null;
}

/** A path from a list as one that names a place inside the backup and no other. */
export const clean = (path: string): string =>
	path
		.replaceAll('\\', '/')
		.split('/')
		.filter((part) => part !== '' && part !== '.' && part !== '..')
		.join('/')
		.replace(/[\u0000-\u001f]/g, '_');

/** The names that a list gives; where it is a database, its tables, and whether it has more than a list. */
interface NamesGiven {
	names: Named[];
	harvest: StoreHarvest | null;
	hasMore: boolean;
}

function namesIn(list: GivenFile, byHash: ReadonlyMap<string, GivenFile>): NamesGiven | null {
	if (list.source.size > LIST_AT_MOST) return null;
	const head = list.source.read(0, 100);
	if (hasMagic(head)) return namesInDatabase(list, byHash);
	const fields = readFields(list.source);
	const names = fields && namesInFields(fields, byHash);
	if (!names || (isJson(head) && sentencesIn(fields) > Math.max(SAID_AT_MOST, names.length * SAID_OF_EACH))) return null;
	return { names, harvest: null, hasMore: false };
}

const textOf = (v: Value | undefined): string | null => (typeof v === 'string' ? v : null);

function namesInDatabase(list: GivenFile, byHash: ReadonlyMap<string, GivenFile>): NamesGiven | null {
	const harvest = new StoreHarvest({ sources: [new CachedSource(list.source)], db: 0, wal: -1, journal: -1 });
	for (const step of harvest.run('used')) void step;
	for (const table of harvest.tables) {
		const rows = harvest.book.rowsOf(table.index);
		if (rows.length === 0) continue;
		const sample = rows.slice(0, 400);
		const share = (c: number, test: (v: Value | undefined) => boolean): number =>
			sample.filter((r) => test(r.values[c])).length / sample.length;
		const columns = table.columns.map((_, i) => i);
		const hash = columns.find((c) => share(c, (v) => hashIn(v) !== null) > 0.9 && rows.some((r) => byHash.has(hashIn(r.values[c]) ?? '')));
		if (hash === undefined) continue;
		const texts = columns.filter((c) => c !== hash && share(c, (v) => typeof v === 'string') > 0.6);
		const different = (c: number): number => new Set(sample.map((r) => r.values[c])).size;
		// Areas can have strokes too: of those the path is what differs most.
		const withStrokes = texts
			.filter((c) => share(c, (v) => /[/]/.test(textOf(v) ?? '') && !MEDIA_TYPE.test(textOf(v)!)) > 0.3)
			.toSorted((a, c) => different(c) - different(a));
		// What is stated to lie under its hash is told where it lies, not what it is called.
		const liesUnderHash = (r: Row, c: number): boolean => hashOf(baseOf(textOf(r.values[c]) ?? '')) === hashIn(r.values[hash]);
		if (withStrokes.some((c) => sample.filter((r) => liesUnderHash(r, c)).length > sample.length * 0.3)) return null;
		const path = withStrokes[0] ?? texts.find((c) => share(c, (v) => /\.\w{1,8}$/.test(textOf(v) ?? '')) > 0.3);
		if (path === undefined) continue;
		// A program's own database can list its attachments so: their folder is no backup.
		const others = harvest.tables.filter((other) => other.index !== table.index).map((other) => harvest.book.rowsOf(other.index));
		if (holdsMessages(others)) return null;
		// A second text, or a number that names a row of another table, is the area that the path is in; it comes first in the tree.
		const named = areasByKey(harvest, table.index, columns);
		const area = texts.find((c) => c !== path && different(c) <= Math.max(40, sample.length * 0.5));
		const names = rows.flatMap((r) => {
			const h = hashIn(r.values[hash]);
			const p = textOf(r.values[path]);
			const within = area === undefined ? named?.(r) : (textOf(r.values[area]) ?? '');
			return h && p ? [{ hash: h, path: within === undefined ? p : `${within}/${p}` }] : [];
		});
		return { names, harvest, hasMore: datedRows(others) >= FEWEST_MESSAGES };
	}
	return null;
}

/** Rows of a table from which it can be told what they are. */
const FEWEST_MESSAGES = 4;
/** Times in any unit and epoch are larger; numbers of rows, sizes and flags mostly are not. */
const LIKE_TIME = 5e8;

/** Whether one of the tables has sentences, and times beside them: in its own rows, or in those of another that has as many. */
function holdsMessages(tables: readonly (readonly Row[])[]): boolean {
	const dated = datedRows(tables);
	return tables.some((rows) => rows.length >= FEWEST_MESSAGES && rows.length <= dated && mostHave(rows, isSentence, 0.3));
}

/** How many rows the largest table has whose rows mostly have a time. */
const datedRows = (tables: readonly (readonly Row[])[]): number =>
	Math.max(0, ...tables.filter((rows) => mostHave(rows, isTime, 0.8)).map((rows) => rows.length));

/** Whether one column of the rows has such a value in at least this share of them. */
function mostHave(rows: readonly Row[], test: (v: Value | undefined) => boolean, least: number): boolean {
	const sample = rows.slice(0, 400);
	return sample.length > 0 && sample[0]!.values.some((_, c) => sample.filter((row) => test(row.values[c])).length >= sample.length * least);
}
/** Several words, or some letters of a script that puts no blanks between them. */
const SENTENCE = /[^\s/]\s+[^\s/]+\s+[^\s/]|[\p{sc=Han}\p{sc=Hira}\p{sc=Kana}\p{sc=Thai}\p{sc=Lao}\p{sc=Khmr}\p{sc=Mymr}]{6}/u;
/** The same among bytes, of which any may pass for blanks: by letters alone. */
const SENTENCE_WITHIN = /\p{L}{2} \p{L}+ \p{L}|[\p{sc=Han}\p{sc=Hira}\p{sc=Kana}\p{sc=Thai}\p{sc=Lao}\p{sc=Khmr}\p{sc=Mymr}]{6}/u;
const WITHIN_AT_MOST = 4096;
const isSentence = (v: Value | undefined): boolean =>
	v && typeof v === 'object' ? SENTENCE_WITHIN.test(utf8.decode(v.subarray(0, WITHIN_AT_MOST))) : SENTENCE.test(textOf(v) ?? '');
const isTime = (v: Value | undefined): boolean => (typeof v === 'number' ? v > LIKE_TIME : /^\d{4}-\d\d-\d\d/.test(textOf(v) ?? ''));

const MOST_AREAS = 5000;
/** Fewer numbers may be the kinds of the entries, unless the column is called as the table of areas is. */
const FEWEST_AREAS = 3;
const plainName = (name: string): string =>
	name
		.toLowerCase()
		.replace(/[^a-z]/g, '')
		.replace(/(id|key|no|s)$/, '');
const isCalledAs = (column: string, table: string): boolean => plainName(column).length > 2 && plainName(column) === plainName(table);

/** How a row names its area by the number of a row in another, smaller table of names; null where none does. */
function areasByKey(harvest: StoreHarvest, list: number, columns: readonly number[]): ((row: Row) => string | undefined) | null {
	const rows = harvest.book.rowsOf(list);
	for (const table of harvest.tables) {
		const others = table.index === list ? [] : harvest.book.rowsOf(table.index);
		if (others.length === 0 || others.length > MOST_AREAS || others.length >= rows.length) continue;
		const name = table.columns.findIndex((_, c) => others.every((r) => typeof r.values[c] === 'string' && r.values[c] !== ''));
		if (name < 0) continue;
		const names = new Map(others.map((r) => [r.rowid, r.values[name] as string]));
		const key = columns.find(
			(c) =>
				rows.every((r) => typeof r.values[c] === 'number' && names.has(r.values[c])) &&
				(isCalledAs(harvest.tables[list]!.columns[c]!.name, table.name) ||
					new Set(rows.map((r) => r.values[c])).size >= Math.max(FEWEST_AREAS, names.size * 0.5))
		);
		if (key !== undefined) return (row) => names.get(row.values[key] as number);
	}
	return null;
}

function hashIn(v: Value | undefined): string | null {
	if (typeof v === 'string') return hashOf(v);
	return v && typeof v === 'object' && (v.length === 16 || v.length === 20 || v.length === 32)
		? Array.from(v, (b) => b.toString(16).padStart(2, '0')).join('')
		: null;
}

/**
 * Sentences among fields: an export of conversations can state the digests of its files, and is no list of a backup. What
 * ends as a file's name does, or has strokes, is none.
 */
function sentencesIn(fields: Fields): number {
	let left = FIELDS_ASKED;
	const visit = (value: Fields, depth: number): number => {
		if (left-- <= 0 || depth > 12) return 0;
		if (typeof value === 'string') return /\S\s+\S+\s+\S/.test(value) && !/\/|\.\w{1,8}$/.test(value) ? 1 : 0;
		const inner = Array.isArray(value) ? value : isFields(value) ? Object.values(value) : [];
		return inner.reduce<number>((sum, one) => sum + visit(one, depth + 1), 0);
	};
	return visit(fields, 0);
}
const FIELDS_ASKED = 200_000;
/** A list can say in words what it is of. */
const SAID_AT_MOST = 3;
const SAID_OF_EACH = 0.1;

/** A list that gives names by hash, or hashes by name, or both in entries of their own; perhaps area by area. */
function namesInFields(fields: Fields, byHash: ReadonlyMap<string, GivenFile>): Named[] | null {
	const named: Named[] = [];
	const lengths = new Set([...byHash.keys()].map((h) => h.length));
	// A partial backup lists what it does not hold.
	const isHash = (text: string): boolean => lengths.has(hashOf(text)?.length ?? 0);
	const put = (hash: string, path: string, area: string | undefined): void =>
		void named.push({ hash: hashOf(hash)!, path: area ? `${area}/${path}` : path });
	const entriesFound: Entry[] = [];
	const visit = (value: Fields, key: string, depth: number, area: string | undefined): void => {
		if (depth > 12 || named.length > 2_000_000 || !isFields(value)) {
			if (Array.isArray(value) && depth <= 12) for (const inner of value) visit(inner, key, depth + 1, area);
			return;
		}
		const entries = Object.entries(value);
		const texts = entries.filter((entry): entry is [string, string] => typeof entry[1] === 'string');
		const hash = isHash(key) ? key : texts.find(([, text]) => isHash(text))?.[1];
		const others = texts.filter(([, text]) => text !== hash && hashOf(text) === null);
		const isMap = texts.length > 1 && entries.every(([k, v]) => typeof v === 'string' && isHash(k) !== isHash(v));
		const isEntry = hash !== undefined && others.length > 0 && !isMap;
		if (isEntry) {
			entriesFound.push({ hash, texts: others, area });
			// A digest that names no file here may be anything, the device's own number for one: the list may lie within.
			if (byHash.has(hashOf(hash)!)) return;
		}
		// Keys of several groups of entries are the areas they are in.
		const areas = depth > 0 && entries.every(([k, v]) => isFields(v) && !isHash(k));
		for (const [k, inner] of entries) {
			if (isEntry && typeof inner === 'string') continue;
			if (typeof inner !== 'string') visit(inner, k, depth + 1, areas ? k : area);
			else if (isHash(inner)) put(inner, k, area);
			else if (isHash(k)) put(k, inner, area);
		}
	};
	visit(fields, '', 0, undefined);
	const key = pathKey(entriesFound);
	for (const { hash, texts, area } of entriesFound) {
		const path = (texts.find(([k]) => k === key) ?? texts.find(([, text]) => text.includes('/')) ?? texts[0]!)[1];
		put(
			hash,
			path,
			texts.find(([k, text]) => text !== path && (AREA_KEY.test(k) || (!text.includes('/') && AREA.test(text))))?.[1] ?? area
		);
	}
	return named.some((n) => byHash.has(n.hash)) ? named : null;
}

/** An entry of a list: a hash, and what else it has of texts, by their keys. */
interface Entry {
	hash: string;
	texts: [string, string][];
	area: string | undefined;
}

const AREA_KEY = /domain|area|space|container|volume/i;
const AREA = /domain|\./i;

/** The key under which entries have their path: of those with strokes the one whose texts differ most; null where none has any. */
function pathKey(entries: readonly Entry[]): string | null {
	const byKey = new Map<string, Set<string>>();
	for (const { texts } of entries) {
		for (const [key, text] of texts) {
			const values = byKey.get(key);
			if (values) values.add(text);
			else byKey.set(key, new Set([text]));
		}
	}
	const paths = [...byKey].filter(([, values]) => [...values].some((text) => text.includes('/')));
	return paths.reduce<[string, Set<string>] | null>((best, of) => (best && best[1].size >= of[1].size ? best : of), null)?.[0] ?? null;
}

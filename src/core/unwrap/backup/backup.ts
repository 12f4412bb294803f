/**
 * Backups of a device on a computer: a folder of files named by hashes, with a list that gives their real names. Known
 * by that structure alone: a database (or a property list) beside or above the files, whose rows name them by those
 * hashes, with a path in the same row. Property lists beside it state the device, the date, and whether it is locked.
 */
import { CachedSource } from '../../bytes';
import { hasMagic, StoreHarvest } from '../../harvest';
import type { Row, Value } from '../../model';
import type { GivenFile } from '../gather';
import { readPlist, type PlistValue } from '../plist/plist';

export interface Backup {
	/** Folder it was found in, as given; '' for the top. */
	folder: string;
	/** Its files under their real names. */
	files: GivenFile[];
	/** Paths, as given, of what is among `files` under a path of its own. */
	taken: Set<string>;
	/** Real paths by those given. */
	renamed: Map<string, string>;
	/** When it was made, ms UTC, as it states. */
	date: number | null;
	device: string | null;
	locked: boolean;
	/** It states that it holds only what changed since the one before. */
	partial: boolean;
	/** What it lists and does not hold, by the hash it is named by. */
	absent: Named[];
}

const HASH_NAME = /^[0-9a-f]{32,64}$/i;
const LIST_AT_MOST = 512 << 20;
const PLIST_AT_MOST = 64 << 20;

interface Named {
	hash: string;
	path: string;
}

const folderOf = (path: string): string => (path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '');
const baseOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** Every backup among the files. */
export function findBackups(files: readonly GivenFile[]): Backup[] {
	const hashed = files.filter((f) => HASH_NAME.test(baseOf(f.path)));
	if (hashed.length === 0) return [];
	const roots = new Map<string, GivenFile[]>();
	for (const f of hashed) {
		// Some keep the files in folders named by the first two digits.
		const folder = folderOf(f.path);
		const root =
			baseOf(folder).length === 2 && baseOf(f.path).toLowerCase().startsWith(baseOf(folder).toLowerCase()) ? folderOf(folder) : folder;
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
			.filter((b) => b.device === backup.device && b.date !== null)
			.toReversed()
			.flatMap((b) => b.files.filter((f) => f.path === pathIn(b.folder, path) && (f.origin ?? '').toLowerCase().includes(hash)))[0];
		if (held) backup.files.push({ ...held, name: baseOf(own), path: own });
	}
}

const pathIn = (folder: string, path: string): string => `${folder ? `${folder}/` : ''}${clean(path)}`;

function readBackup(folder: string, hashed: readonly GivenFile[], all: readonly GivenFile[]): Backup | null {
	const byHash = new Map(hashed.map((f) => [baseOf(f.path).toLowerCase(), f]));
	const beside = all.filter((f) => folderOf(f.path) === folder && !HASH_NAME.test(baseOf(f.path)) && !f.opened);
	for (const list of beside) {
		const named = namesIn(list, byHash);
		if (!named) continue;
		const taken = new Set<string>([list.path]);
		// The list is a file like others; what it lists comes as files of their own.
		const files: GivenFile[] = [{ ...list, opened: true }];
		const used = new Set<string>();
		const renamed = new Map<string, string>();
		const absent: Named[] = [];
		for (const { hash, path } of named) {
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
		return { folder, files, taken, renamed, absent, ...statedBy(beside) };
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

function namesIn(list: GivenFile, byHash: ReadonlyMap<string, GivenFile>): Named[] | null {
	if (list.source.size > LIST_AT_MOST) return null;
	const head = list.source.read(0, 100);
	if (hasMagic(head)) return namesInDatabase(list, byHash);
	if (list.source.size > PLIST_AT_MOST) return null;
	const plist = readPlist(list.source.read(0, list.source.size));
	return plist ? namesInPlist(plist, byHash) : null;
}

const textOf = (v: Value | undefined): string | null => (typeof v === 'string' ? v : null);

function namesInDatabase(list: GivenFile, byHash: ReadonlyMap<string, GivenFile>): Named[] | null {
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
		const path =
			texts.find((c) => share(c, (v) => /[/]/.test(textOf(v) ?? '')) > 0.3) ??
			texts.find((c) => share(c, (v) => /\.\w{1,8}$/.test(textOf(v) ?? '')) > 0.3);
		if (path === undefined) continue;
		// A second text, or a number that names a row of another table, is the area that the path is in; it comes first in the tree.
		const named = areasByKey(harvest, table.index, columns);
		const area = texts.find((c) => c !== path && new Set(sample.map((r) => r.values[c])).size <= Math.max(40, sample.length * 0.5));
		return rows.flatMap((r) => {
			const h = hashIn(r.values[hash]);
			const p = textOf(r.values[path]);
			const within = area === undefined ? named?.(r) : (textOf(r.values[area]) ?? '');
			return h && p ? [{ hash: h, path: within === undefined ? p : `${within}/${p}` }] : [];
		});
	}
	return null;
}

const MOST_AREAS = 5000;
/** Fewer numbers may be the kinds of the entries. */
const FEWEST_AREAS = 3;

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
				new Set(rows.map((r) => r.values[c])).size >= Math.max(FEWEST_AREAS, names.size * 0.5)
		);
		if (key !== undefined) return (row) => names.get(row.values[key] as number);
	}
	return null;
}

function hashIn(v: Value | undefined): string | null {
	if (typeof v === 'string' && HASH_NAME.test(v)) return v.toLowerCase();
	return v && typeof v === 'object' && (v.length === 16 || v.length === 20 || v.length === 32)
		? Array.from(v, (b) => b.toString(16).padStart(2, '0')).join('')
		: null;
}

/** A list that gives names by hash, or hashes by name, or both in entries of their own; perhaps area by area. */
function namesInPlist(plist: PlistValue, byHash: ReadonlyMap<string, GivenFile>): Named[] | null {
	const named: Named[] = [];
	const lengths = new Set([...byHash.keys()].map((h) => h.length));
	// A partial backup lists what it does not hold.
	const isHash = (text: string): boolean => lengths.has(text.length) && HASH_NAME.test(text);
	const put = (hash: string, path: string, area: string | undefined): void =>
		void named.push({ hash: hash.toLowerCase(), path: area ? `${area}/${path}` : path });
	/** Path and area among the texts of an entry. */
	const putEntry = (hash: string, texts: readonly string[], area: string | undefined): void => {
		const path = texts.find((t) => t.includes('/')) ?? texts[0]!;
		put(hash, path, texts.find((t) => t !== path && !t.includes('/') && /domain|\./i.test(t)) ?? area);
	};
	const visit = (value: PlistValue, key: string, depth: number, area: string | undefined): void => {
		if (depth > 12 || named.length > 2_000_000 || !isFields(value)) {
			if (Array.isArray(value) && depth <= 12) for (const inner of value) visit(inner, key, depth + 1, area);
			return;
		}
		const entries = Object.entries(value);
		const texts = entries.map(([, v]) => v).filter((v): v is string => typeof v === 'string');
		const hash = isHash(key) ? key : texts.find(isHash);
		const others = texts.filter((t) => t !== hash && !HASH_NAME.test(t));
		const isMap = texts.length > 1 && entries.every(([k, v]) => typeof v === 'string' && isHash(k) !== isHash(v));
		if (hash !== undefined && others.length > 0 && !isMap) {
			putEntry(hash, others, area);
			// A digest that names no file here may be anything, the device's own number for one: the list may lie within.
			if (byHash.has(hash.toLowerCase())) return;
		}
		// Keys of several groups of entries are the areas they are in.
		const areas = depth > 0 && entries.every(([k, v]) => isFields(v) && !isHash(k));
		for (const [k, inner] of entries) {
			if (typeof inner !== 'string') visit(inner, k, depth + 1, areas ? k : area);
			else if (isHash(inner)) put(inner, k, area);
			else if (isHash(k)) put(k, inner, area);
		}
	};
	visit(plist, '', 0, undefined);
	return named.some((n) => byHash.has(n.hash)) ? named : null;
}

const isFields = (value: PlistValue): value is { [key: string]: PlistValue } =>
	value !== null && typeof value === 'object' && !Array.isArray(value) && !(value instanceof Date) && !(value instanceof Uint8Array);

/** What the property lists beside the files state: date, device, whether it is locked. */
function statedBy(beside: readonly GivenFile[]): Pick<Backup, 'date' | 'device' | 'locked' | 'partial'> {
	let date: number | null = null;
	let device: string | null = null;
	let locked = false;
	let partial = false;
	for (const file of beside) {
		if (file.source.size > PLIST_AT_MOST || hasMagic(file.source.read(0, 16))) continue;
		const plist = readPlist(file.source.read(0, file.source.size));
		if (plist === null || typeof plist !== 'object' || Array.isArray(plist) || plist instanceof Date || plist instanceof Uint8Array)
			continue;
		for (const [key, value] of Object.entries(plist)) {
			if (value instanceof Date && !Number.isNaN(value.getTime()) && value.getTime() > Date.UTC(1996, 0, 1))
				date = Math.max(date ?? 0, value.getTime());
			if (typeof value === 'string' && /^(device|display)?\s*name$/i.test(key)) device ??= value;
			if (typeof value === 'boolean' && /encrypt|locked/i.test(key)) locked ||= value;
			if (typeof value === 'boolean' && /full|whole|complete/i.test(key)) partial ||= !value;
			if (typeof value === 'boolean' && /incremental|partial/i.test(key)) partial ||= value;
		}
	}
	return { date, device, locked, partial };
}

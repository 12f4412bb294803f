/** Groups the files given into stores: a database with the side files that stand beside it. */
import { isCutText, isText, mediaTypeOf, readU32Be, type ByteSource } from '../bytes';
import { hasMagic, partNamed, partsOf, type Mail } from '../harvest';
import type { Note } from '../model';
import { baseOf, folderIn } from '../paths';

export interface GivenFile {
	/** Whether it lay in something locked: nothing of it is written outside of memory. */
	unlocked?: boolean;
	/** Shown name; unique among the files of a look. */
	name: string;
	/** Path as given, with folders; '' where only a name is known. */
	path: string;
	source: ByteSource;
	/** When it was last changed, ms UTC, where that is known. */
	modified?: number | null;
	/** What a mail file holds, parsed. */
	mails?: readonly Mail[];
	/** A container: what is in it comes as files of their own. */
	opened?: boolean;
	/** The bytes as they lie, where `source` is what was unlocked or unpacked of them, or lies within them. */
	stored?: ByteSource;
	/** Where its bytes lie, where that is not at its path: the container and the offset in it. */
	origin?: string;
}

export interface StoreGroup {
	name: string;
	db: number;
	wal: number;
	journal: number;
	/** Of a store that is a folder of files: all of them, and the folder. */
	folder?: { path: string; files: number[] };
}

/** The files that a store is read from. */
export const filesOf = ({ db, wal, journal, folder }: StoreGroup): number[] =>
	[...new Set([db, wal, journal, ...(folder?.files ?? [])])].filter((i) => i >= 0);

export type FileKind = 'database' | 'log' | 'journal' | 'shared-memory' | 'empty' | 'unknown';

/** What a file is, from its first bytes; the name decides only between a damaged database and something else. */
export function kindOf(file: GivenFile): FileKind {
	const { source, name } = file;
	if (/-shm$/i.test(name)) return 'shared-memory';
	const head = source.read(0, 100);
	if (hasMagic(head)) return 'database';
	if (/-wal$/i.test(name) || (head.length >= 4 && (readU32Be(head, 0) & 0xfffffffe) === 0x377f0682)) return 'log';
	if (/-journal$/i.test(name) || (head.length >= 8 && readU32Be(head, 0) === 0xd9d505f9)) return 'journal';
	if (source.size === 0) return 'empty';
	return looksLikeDamagedDatabase(source) ? 'database' : 'unknown';
}

/** Beginnings of other files than media: any RIFF, property lists, Matroska, and sound without a tag (MPEG audio's frame sync). */
const OTHERS: readonly number[][] = [
	[0x52, 0x49, 0x46, 0x46],
	[0x62, 0x70, 0x6c, 0x69, 0x73, 0x74],
	[0x1a, 0x45, 0xdf, 0xa3],
	[0xff, 0xfb]
];
/** Whether a file begins like a picture, a document, a sound or a packed file. */
export const isKnownOther = (head: Uint8Array): boolean =>
	mediaTypeOf(head.subarray(0, 16)) !== null || OTHERS.some((o) => o.every((byte, i) => head[i] === byte));
const SAMPLE = 1 << 20;

/** A database whose magic is gone: page 1's b-tree header still stands at 100, or pages follow that are b-tree pages. */
function looksLikeDamagedDatabase(source: ByteSource): boolean {
	if (source.size < 1024) return false;
	const head = source.read(0, 512);
	if (isKnownOther(head) || isText(head, 0, head.length, 'utf8')) return false;
	const sample = source.read(0, SAMPLE);
	for (const size of [4096, 1024, 8192, 2048, 512, 16384, 32768, 65536]) {
		let pages = 0;
		let tried = 0;
		for (let at = size; at + size <= Math.min(sample.length, size * 64); at += size) {
			tried++;
			const type = sample[at]!;
			if (type !== 13 && type !== 10 && type !== 5 && type !== 2) continue;
			const cells = (sample[at + 3]! << 8) | sample[at + 4]!;
			const content = (sample[at + 5]! << 8) | sample[at + 6]! || 65536;
			if (cells > 0 && cells * 2 + 8 <= content && content <= size && sample[at + 7]! < 128) pages++;
		}
		if (tried > 0 && pages >= Math.max(1, tried * 0.3)) return true;
	}
	return false;
}

/** A list of properties, or a text beside stores (a program's settings), is read for what it states, and hides nothing that could be unlocked. */
function isPlain(source: ByteSource, besideStores: boolean): boolean {
	const bytes = source.read(0, PLAIN_HEAD);
	const head = new TextDecoder().decode(bytes);
	return head.startsWith('bplist00') || /^\s*<[\s\S]*<plist\b/.test(head) || (besideStores && isCutText(bytes, 0, bytes.length, 'utf8'));
}
const PLAIN_HEAD = 512;

/** Files given, at most, of which each that is no database is named. */
const FEW = 20;

export function gather(files: readonly GivenFile[]): { stores: StoreGroup[]; notes: Note[] } {
	const notes: Note[] = [];
	const stores: StoreGroup[] = [];
	const folders = folderStores(files);
	const used = new Set(folders.flatMap(filesOf));
	stores.push(...folders);
	const kinds = files.map((f, i): FileKind | 'container' => (f.opened || used.has(i) ? 'container' : kindOf(f)));
	const byPath = new Map(files.map((f, i) => [f.path, i]));
	const beside = (db: GivenFile, ending: string): number => {
		const i = byPath.get(db.path + ending) ?? -1;
		return used.has(i) ? -1 : i;
	};
	// Files that lie in containers, or come with many others, need not be said to be no databases.
	const few = files.length <= FEW;
	files.forEach((file, i) => {
		if (kinds[i] !== 'database') return;
		const wal = beside(file, '-wal');
		const journal = beside(file, '-journal');
		if (wal >= 0) used.add(wal);
		if (journal >= 0) used.add(journal);
		used.add(i);
		const usable = (k: number): number => (k >= 0 && files[k]!.source.size > 0 ? k : -1);
		stores.push({ name: file.name, db: i, wal: usable(wal), journal: usable(journal) });
	});
	files.forEach((file, i) => {
		if (used.has(i)) return;
		const kind = kinds[i]!;
		if (kind === 'log' || kind === 'journal')
			notes.push({ code: 'side-file-alone', severity: 'warning', file: i, detail: { name: file.name } });
		else if (kind === 'empty' && few) notes.push({ code: 'empty-file', severity: 'note', file: i, detail: { name: file.name } });
		else if (kind === 'unknown' && few && !file.origin && !isPlain(file.source, stores.length > 0))
			notes.push({ code: 'not-a-database', severity: 'warning', file: i, detail: { name: file.name } });
	});
	return { stores, notes };
}

/** Stores that are folders of logs and tables, called as the engine calls them. */
function folderStores(files: readonly GivenFile[]): StoreGroup[] {
	const folders = new Map<string, number[]>();
	for (const [i, file] of files.entries()) {
		if (file.opened || partNamed(nameAlone(file)) === null) continue;
		const folder = folderIn(file.path);
		folders.set(folder, [...(folders.get(folder) ?? []), i]);
	}
	return [...folders].flatMap(([folder, named]) => {
		const parts = partsOf(named.map((i) => ({ i, name: nameAlone(files[i]!), source: files[i]!.source }))).map((part) => part.i);
		const [first] = parts;
		if (first === undefined) return [];
		const path = folder.slice(0, -1);
		return [{ name: baseOf(path) || files[first]!.name, db: first, wal: -1, journal: -1, folder: { path, files: parts } }];
	});
}

/** What a file is called where it lies; its shown name can have folders in front. */
export const nameAlone = ({ path, name }: GivenFile): string => baseOf(path || name);

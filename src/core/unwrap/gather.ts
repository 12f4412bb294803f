/** Groups the files given into stores: a database with the side files that stand beside it. */
import { readU32Be, type ByteSource } from '../bytes';
import { hasMagic } from '../harvest';
import type { Note } from '../model';

export interface GivenFile {
	/** Shown name; unique among the files of a look. */
	name: string;
	/** Path as given, with folders; '' where only a name is known. */
	path: string;
	source: ByteSource;
}

export interface StoreGroup {
	name: string;
	db: number;
	wal: number;
	journal: number;
}

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

/** A database whose magic is gone: page 1's b-tree header still stands at 100, or pages follow that are b-tree pages. */
function looksLikeDamagedDatabase(source: ByteSource): boolean {
	if (source.size < 1024) return false;
	for (const size of [4096, 1024, 8192, 2048, 512, 16384, 32768, 65536]) {
		let pages = 0;
		let tried = 0;
		for (let at = size; at + size <= Math.min(source.size, size * 64); at += size) {
			const b = source.read(at, 12);
			tried++;
			const type = b[0]!;
			const cells = (b[3]! << 8) | b[4]!;
			const content = (b[5]! << 8) | b[6]! || 65536;
			if (
				(type === 13 || type === 10 || type === 5 || type === 2) &&
				cells > 0 &&
				cells * 2 + 8 <= content &&
				content <= size &&
				b[7]! < 128
			)
				pages++;
		}
		if (tried > 0 && pages >= Math.max(1, tried * 0.3)) return true;
	}
	return false;
}

export function gather(files: readonly GivenFile[]): { stores: StoreGroup[]; notes: Note[] } {
	const notes: Note[] = [];
	const stores: StoreGroup[] = [];
	const kinds = files.map(kindOf);
	const used = new Set<number>();
	const beside = (db: GivenFile, ending: string): number => files.findIndex((f, i) => !used.has(i) && f.path === db.path + ending);
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
		else if (kind === 'empty') notes.push({ code: 'empty-file', severity: 'note', file: i, detail: { name: file.name } });
		else if (kind === 'unknown') notes.push({ code: 'not-a-database', severity: 'warning', file: i, detail: { name: file.name } });
	});
	return { stores, notes };
}

/**
 * One database with its side files, opened: page size, encoding, the present state (log laid over, hot journal
 * undone, all in memory), and the walk of its b-trees.
 */
import type { ByteSource, Encoding } from '../../bytes';
import { joined, readU32Be } from '../../bytes';
import type { Note } from '../../model';
import { inferPageSize, isPageSize, readDatabaseHeader, type DatabaseHeader } from './header';
import { readJournal, type Journal } from './journal';
import { cellPointer, INTERIOR_INDEX, INTERIOR_TABLE, LEAF_INDEX, LEAF_TABLE, readPageHeader, type PageHeader } from './page';
import { LaidView, type PageAt, type PageView } from './view';
import type { ChainRead } from './carve/found';
import { readWal, type Wal } from './wal';

/** What a page is in the present state. */
export const enum PageUse {
	Unreached = 0,
	LeafTable = 1,
	InteriorTable = 2,
	LeafIndex = 3,
	InteriorIndex = 4,
	Overflow = 5,
	FreelistTrunk = 6,
	FreelistLeaf = 7,
	PointerMap = 8,
	LockByte = 9
}

/** Trees are told apart up to this number. */
export const MOST_OWNERS = 65535;

export interface StoreFiles {
	/** All of the look's files; the indexes below point into it. */
	sources: ByteSource[];
	db: number;
	wal: number;
	journal: number;
}

const DEPTH_LIMIT = 64;

/** Where an engine locks each page it goes on counting from bytes that it locked before: any number comes out. */
const counts = ({ reserved, changeCounter }: DatabaseHeader): boolean => reserved < LOCK_RESERVES && changeCounter < MOST_CHANGES;
/** Bytes at the end of a page that hold what unlocks it, at least; changes of a file, at most. */
const LOCK_RESERVES = 16;
const MOST_CHANGES = 1 << 30;

export class Database {
	readonly notes: Note[] = [];
	readonly header: DatabaseHeader | null;
	/** How often the database was changed, as its present first page counts; 0 where that is not known. */
	readonly changeCounter: number;
	/** The version of the engine that wrote that page; 0 where it is not known. */
	readonly engineVersion: number;
	readonly pageSize: number;
	readonly usable: number;
	/** From the header, or where that is gone from the texts themselves. */
	encoding: Encoding;
	/** Pages that the database file itself holds, whole or in part. */
	readonly filePages: number;
	readonly wal: Wal | null;
	readonly journal: Journal | null;
	readonly current: PageView;
	/** The file beside it belongs to another database: nothing in it is taken for this one's. */
	logForeign = false;
	journalForeign = false;
	/** PageUse of each page, by number. */
	readonly use: Uint8Array;
	/** For the last overflow page of each chain in use: where its part of the payload ends; 0 where that is not known, or at its end. */
	readonly chainEnd: Uint16Array;
	/** For b-tree and overflow pages: 1 + index into the list of trees walked. */
	readonly owner: Uint16Array;

	constructor(readonly files: StoreFiles) {
		const db = files.sources[files.db]!;
		this.header = readDatabaseHeader(db.read(0, 100));
		const walHead = files.wal >= 0 ? files.sources[files.wal]!.read(0, 32) : null;
		this.pageSize = this.choosePageSize(db, walHead);
		const reserved = this.header?.magic && this.header.sound && this.pageSize === this.header.pageSize ? this.header.reserved : 0;
		this.usable = this.pageSize - reserved;
		this.filePages = Math.ceil(db.size / this.pageSize);
		this.wal = files.wal >= 0 ? readWal(files.sources[files.wal]!, this.pageSize) : null;
		this.journal = files.journal >= 0 ? readJournal(files.sources[files.journal]!, this.pageSize) : null;
		this.current = this.layState();
		const first = readDatabaseHeader(this.current.read(1) ?? new Uint8Array(0));
		this.changeCounter = first?.magic && counts(first) ? first.changeCounter : 0;
		this.engineVersion = first?.magic ? first.engineVersion : 0;
		this.encoding = first?.magic ? first.encoding : (this.header?.encoding ?? 'utf8');
		const pages = Math.max(this.current.pageCount, this.filePages);
		this.use = new Uint8Array(pages + 1);
		this.owner = new Uint16Array(pages + 1);
		this.chainEnd = new Uint16Array(pages + 1);
	}

	/** Whether nothing uses a page in the present state. */
	isFree(page: number): boolean {
		const { use } = this;
		return page > 1 && (page >= use.length || use[page] === PageUse.FreelistLeaf || use[page] === PageUse.Unreached);
	}

	private choosePageSize(db: ByteSource, walHead: Uint8Array | null): number {
		const header = this.header;
		const fromWal = walHead && walHead.length === 32 ? readU32Be(walHead, 8) : 0;
		if (header?.magic && header.sound) {
			// A header can say a size that its own pages contradict.
			if (pageOneFits(db, header.pageSize)) return header.pageSize;
			const inferred = inferPageSize(db);
			if (inferred && inferred !== header.pageSize) {
				this.note('header-lies', { stored: header.pageSize, used: inferred });
				return inferred;
			}
			return header.pageSize;
		}
		const size = inferPageSize(db) ?? (isPageSize(fromWal) ? fromWal : header && isPageSize(header.pageSize) ? header.pageSize : 4096);
		this.note(header?.magic ? 'header-lies' : 'header-missing', { stored: header?.pageSize ?? 0, used: size });
		return size;
	}

	private layState(): PageView {
		const { files, header } = this;
		const over = new Map<number, PageAt>();
		let pageCount = this.filePages;
		if (header?.pageCount && header.pageCount <= this.filePages) pageCount = header.pageCount;
		else if (header?.magic && header.pageCount > this.filePages && !this.wal?.lastCommit) {
			this.note('file-cut', { pages: header.pageCount, there: this.filePages });
		}
		if (this.journal?.hot && this.journal.pageSize === this.pageSize) {
			const undo = new Map<number, PageAt>();
			for (const record of this.journal.records) {
				if (record.hot && !undo.has(record.page))
					undo.set(record.page, { file: files.journal, offset: record.offset, frame: record.number });
			}
			const count = this.journal.pageCount || pageCount;
			const trial = new LaidView(files.sources, files.db, this.pageSize, count, undo);
			const alone = new LaidView(files.sources, files.db, this.pageSize, pageCount, new Map());
			if (this.sane(trial) && this.related(alone, trial)) {
				this.note('journal-hot', { pages: undo.size });
				return trial;
			}
			this.journalForeign = true;
			this.note('journal-foreign', {});
		} else if (this.journal && !this.journal.hot) this.note('journal-past', { pages: this.journal.records.length });
		if (this.wal) {
			const { wal } = this;
			if (wal.pageSize !== this.pageSize) {
				this.logForeign = true;
				this.note('log-foreign', { pageSize: wal.pageSize });
			} else if (wal.lastCommit > 0) {
				for (const frame of wal.frames) {
					if (frame.kind === 'committed' && frame.page <= wal.pageCount)
						over.set(frame.page, { file: files.wal, offset: frame.offset, frame: frame.number });
				}
				const trial = new LaidView(files.sources, files.db, this.pageSize, wal.pageCount, over);
				const alone = new LaidView(files.sources, files.db, this.pageSize, pageCount, new Map());
				if ((this.related(alone, trial) || this.beganWith(alone, wal)) && (this.sane(trial) || !this.sane(alone)))
					pageCount = wal.pageCount;
				else {
					over.clear();
					this.logForeign = true;
					this.note('log-foreign', { pageSize: wal.pageSize });
				}
			} else if (!wal.sound) this.note('log-damaged', {});
			const uncommitted = wal.frames.filter((f) => f.kind === 'uncommitted').length;
			const older = wal.frames.filter((f) => f.kind === 'older-generation').length;
			if (uncommitted) this.note('log-uncommitted', { frames: uncommitted });
			if (older) this.note('log-older-generation', { frames: older });
		}
		return new LaidView(files.sources, files.db, this.pageSize, pageCount, over);
	}

	/**
	 * Whether two states can be of one database: their first pages declare a table in common. A whole log of another
	 * database is sound in itself; only this tells it. A page without declarations says nothing against.
	 */
	private related(a: PageView, b: PageView): boolean {
		const [before, after] = [declarationsOn(a.read(1)), declarationsOn(b.read(1))];
		return before.size === 0 || after.size === 0 || [...before].some((name) => after.has(name));
	}

	/**
	 * Whether the log's first page 1 came of the database's: it declares a table of it, or has most of its bytes in their
	 * places. All tables can have been replaced since.
	 */
	private beganWith(database: PageView, wal: Wal): boolean {
		const frame = wal.frames.find((f) => f.kind === 'committed' && f.page === 1);
		const before = database.read(1);
		if (!frame || !before) return false;
		const after = this.files.sources[this.files.wal]!.read(frame.offset, this.pageSize);
		const names = declarationsOn(after);
		return [...declarationsOn(before)].some((name) => names.has(name)) || bytesKept(before, after) > MOSTLY_KEPT;
	}

	/** Whether page 1 is a schema page whose root pages are the roots of b-trees: a foreign log or journal fails here. */
	private sane(view: PageView): boolean {
		const page = view.read(1);
		const header = page && readPageHeader(page, 1, this.usable);
		if (!page || !header || (header.type !== LEAF_TABLE && header.type !== INTERIOR_TABLE)) return false;
		const roots = rootPagesOf(page, header, this.usable);
		const bad = roots.filter((root) => {
			const bytes = view.read(root);
			const h = bytes && readPageHeader(bytes, root, this.usable);
			return !h || (h.cellCount > 0 && cellPointer(bytes, h, 0, this.usable) < 0);
		});
		return bad.length === 0;
	}

	note(code: Note['code'], detail: Record<string, string | number>, at?: PageAt | null, severity: Note['severity'] = 'note'): void {
		if (this.notes.filter((n) => n.code === code).length >= 20) return;
		this.notes.push({ code, severity, detail, file: at?.file ?? this.files.db, offset: at?.offset });
	}

	/**
	 * Walks one b-tree of `view` in key order and hands over each page that holds rows (leaf pages; of index trees
	 * the interior ones too). Cycles, foreign pages and depth are bounded; what is passed over is noted when `noting`.
	 */
	walk(
		view: PageView,
		root: number,
		visit: (page: number, bytes: Uint8Array, header: PageHeader, at: PageAt) => void,
		tree = 0,
		noting = true
	): void {
		const seen = noting ? null : new Set<number>();
		const stack: { page: number; depth: number }[] = [{ page: root, depth: 0 }];
		while (stack.length > 0) {
			const { page, depth } = stack.pop()!;
			const at = view.locate(page);
			const bytes = at && view.read(page);
			const used = at !== null && (noting ? this.use[page] !== PageUse.Unreached : seen!.has(page));
			if (!at || !bytes || used || depth > DEPTH_LIMIT) {
				if (noting) this.note(used ? 'page-visited-twice' : 'page-out-of-range', { page }, at, 'warning');
				continue;
			}
			const header = readPageHeader(bytes, page, this.usable);
			if (!header) {
				if (noting) this.note('page-unreadable', { page }, at, 'warning');
				continue;
			}
			if (noting) {
				this.use[page] = useOf(header.type);
				this.owner[page] = Math.min(tree, MOST_OWNERS);
			} else seen!.add(page);
			const interior = header.type === INTERIOR_TABLE || header.type === INTERIOR_INDEX;
			if (interior) {
				if (header.rightChild) stack.push({ page: header.rightChild, depth: depth + 1 });
				for (let i = header.cellCount - 1; i >= 0; i--) {
					const pointer = cellPointer(bytes, header, i, this.usable);
					if (pointer < 0 || pointer + 4 > bytes.length) {
						if (noting) this.note('cell-damaged', { page, cell: i }, at, 'warning');
						continue;
					}
					stack.push({ page: readU32Be(bytes, pointer), depth: depth + 1 });
				}
			}
			if (header.type !== INTERIOR_TABLE) visit(page, bytes, header, at);
		}
	}

	/** Marks the free list's pages and the pointer-map pages. */
	markFreePages(): void {
		const first = readDatabaseHeader(this.current.read(1) ?? new Uint8Array(0));
		if (!first?.magic) return;
		if (first.autoVacuum) {
			const every = Math.floor(this.usable / 5) + 1;
			for (let page = 2; page <= this.current.pageCount; page += every)
				if (this.use[page] === PageUse.Unreached) this.use[page] = PageUse.PointerMap;
		}
		let trunk = first.freelistTrunk;
		while (trunk > 0 && trunk <= this.current.pageCount && this.use[trunk] === PageUse.Unreached) {
			this.use[trunk] = PageUse.FreelistTrunk;
			const bytes = this.current.read(trunk);
			if (!bytes) break;
			const count = Math.min(readU32Be(bytes, 4), Math.floor(this.usable / 4) - 2);
			for (let i = 0; i < count; i++) {
				const leaf = readU32Be(bytes, 8 + i * 4);
				if (leaf > 0 && leaf <= this.current.pageCount && this.use[leaf] === PageUse.Unreached) this.use[leaf] = PageUse.FreelistLeaf;
			}
			trunk = readU32Be(bytes, 0);
		}
	}

	/**
	 * The payload of a cell that overflows: its local part, then the chain (section 1.5 "Cell Payload Overflow Pages"). `complete` is false where
	 * the chain breaks, loops, or `allowed` refuses a page; then `payload` is what could be read, and `broke` the page that
	 * could not, or the first where the chain does not end with the payload.
	 */
	readOverflow(view: PageView, local: Uint8Array, size: number, first: number, allowed: (page: number) => boolean): ChainRead {
		const limit = (view.pageCount + this.filePages + 1) * this.pageSize;
		const pages: number[] = [];
		if (size > limit) return { payload: local.slice(), complete: false, pages, broke: 0 };
		const parts: Uint8Array[] = [local.slice()];
		let have = local.length;
		let next = first;
		const seen = new Set<number>();
		while (have < size) {
			const bytes = next > 0 && !seen.has(next) && allowed(next) ? view.read(next) : null;
			if (!bytes) break;
			seen.add(next);
			pages.push(next);
			const take = Math.min(size - have, this.usable - 4);
			parts.push(bytes.slice(4, 4 + take));
			have += take;
			next = readU32Be(bytes, 0);
		}
		const payload = joined(parts);
		const complete = have === size && (have === local.length || next === 0);
		return { payload, complete, pages, broke: complete ? 0 : have < size ? next : first };
	}
}

const useOf = (type: number): PageUse =>
	type === LEAF_TABLE
		? PageUse.LeafTable
		: type === INTERIOR_TABLE
			? PageUse.InteriorTable
			: type === LEAF_INDEX
				? PageUse.LeafIndex
				: PageUse.InteriorIndex;

/** Share of what the database's first page has behind its header that must stand there in the log's as well. */
const MOSTLY_KEPT = 0.6;
const DATABASE_HEADER = 100;

/** Share of a page's bytes, noughts apart, that another has in the same places; 0 where there are hardly any. */
function bytesKept(page: Uint8Array, other: Uint8Array): number {
	let [all, same] = [0, 0];
	for (let i = DATABASE_HEADER; i < page.length; i++) {
		if (page[i] === 0) continue;
		all++;
		if (page[i] === other[i]) same++;
	}
	return all < FEWEST_BYTES ? 0 : same / all;
}
const FEWEST_BYTES = 20;

/** Names of the tables that a schema page declares, freed declarations included; in any encoding. */
function declarationsOn(page: Uint8Array | null): Set<string> {
	const text = page ? new TextDecoder('latin1').decode(page.filter((byte) => byte !== 0)) : '';
	return new Set([...text.matchAll(/CREATE TABLE\s+([^\s(]{1,200})/gi)].map((m) => m[1]!.toLowerCase()));
}

/** Whether page 1, read at this size, holds its own cells. */
function pageOneFits(db: ByteSource, pageSize: number): boolean {
	const page = db.read(0, pageSize);
	const header = readPageHeader(page, 1, pageSize);
	if (!header) return false;
	for (let i = 0; i < header.cellCount; i++) if (cellPointer(page, header, i, pageSize) < 0) return false;
	// The roots it names must be b-tree pages where this size puts them.
	return rootPagesOf(page, header, pageSize).every((root) => {
		const bytes = db.read((root - 1) * pageSize, pageSize);
		return bytes.length < pageSize || readPageHeader(bytes, root, pageSize) !== null;
	});
}

/** Root pages that a leaf schema page names, read without decoding text: the fourth column of each record. */
function rootPagesOf(page: Uint8Array, header: PageHeader, usable: number): number[] {
	if (header.type !== LEAF_TABLE) return [];
	const roots: number[] = [];
	for (let i = 0; i < header.cellCount; i++) {
		const pointer = cellPointer(page, header, i, usable);
		if (pointer < 0) continue;
		const root = schemaRoot(page, pointer, usable);
		if (root > 1) roots.push(root);
	}
	return roots;
}

function schemaRoot(page: Uint8Array, at: number, usable: number): number {
	let cursor = at;
	const skip = (): number => {
		let value = 0;
		for (let i = 0; i < 9 && cursor < usable; i++) {
			const byte = page[cursor++]!;
			value = value * 128 + (byte & 0x7f);
			if (byte < 0x80) break;
		}
		return value;
	};
	skip();
	skip();
	const start = cursor;
	const headerSize = skip();
	let body = start + headerSize;
	for (let column = 0; column < 4; column++) {
		const type = skip();
		if (column === 3) {
			const width = type >= 1 && type <= 4 ? type : 0;
			let value = type === 9 ? 1 : 0;
			for (let i = 0; i < width; i++) value = value * 256 + (page[body + i] ?? 0);
			return value;
		}
		body += type < 12 ? [0, 1, 2, 3, 4, 6, 8, 8, 0, 0, 0, 0][type]! : Math.floor((type - 12) / 2);
	}
	return 0;
}

/**
 * Whose a page was in an earlier state: the tree that led to it then. Told only where several tables look alike (a table
 * for each conversation, say): of others the rows themselves say it.
 *
 * SQLite file format, section 1.6 "B-tree Pages": an interior page lists its children; a table's root page stays the same.
 */
import { readU32Be } from '../../bytes';
import type { Table } from '../../model';
import { PageUse, type Database } from './database';
import { cellPointer, INTERIOR_TABLE, readPageHeader } from './page';
import { framesOf, recordsOf, stateOfFile, StatesOfLog } from './states';
import type { StoreTables } from './store-tables';
import type { PageView } from './view';

const DEEPEST = 20;
/** Pages that are looked at for what they lead to, at most. */
const MOST_PAGES = 200_000;

export class EarlierOwners {
	/** By page: the pages that led to it in some state, and by which frame of the log (0: the file's own), the newest first. */
	private parents: Map<number, { page: number; frame: number }[]> | null = null;
	private readonly states: StatesOfLog;
	private roots: Map<number, Table> | null = null;

	constructor(
		private readonly db: Database,
		private readonly tables: StoreTables
	) {
		this.states = new StatesOfLog(db);
	}

	/**
	 * The table in use whose tree led to a page in a state; null where none is known to have. A page that no tree led to then
	 * has what it had last: `frame` is that of the log it is in, 0 for the file's own, infinite for its present state.
	 */
	of(page: number, view: PageView, frame: number): Table | null {
		if (!this.tables.haveAlike()) return null;
		this.roots ??= new Map(this.tables.list.filter((t) => !t.dropped && t.rootPage > 1).map((t) => [t.rootPage, t]));
		return this.climb(page, view, 0) ?? this.last(page, frame);
	}

	/** The table whose tree led to a page last, up to a frame. */
	private last(page: number, frame: number): Table | null {
		for (const parent of this.parentsOf(page)) {
			if (parent.frame === 0 || parent.frame > frame) continue;
			const owner = this.climb(page, this.states.of(parent.frame - 1), 0);
			if (owner) return owner;
		}
		return this.climb(page, stateOfFile(this.db), 0);
	}

	private parentsOf(page: number): readonly { page: number; frame: number }[] {
		this.parents ??= this.findParents();
		return this.parents.get(page) ?? [];
	}

	private climb(page: number, view: PageView, depth: number): Table | null {
		const root = this.roots!.get(page);
		if (root) return root;
		if (depth > DEEPEST) return null;
		for (const parent of new Set(this.parentsOf(page).map((p) => p.page))) {
			const bytes = view.read(parent);
			if (!bytes || !this.childrenOf(bytes, parent).includes(page)) continue;
			const owner = this.climb(parent, view, depth + 1);
			if (owner) return owner;
		}
		return null;
	}

	private childrenOf(bytes: Uint8Array, page: number): number[] {
		const header = readPageHeader(bytes, page, this.db.usable);
		if (header?.type !== INTERIOR_TABLE) return [];
		const children = header.rightChild ? [header.rightChild] : [];
		for (let i = 0; i < header.cellCount; i++) {
			const pointer = cellPointer(bytes, header, i, this.db.usable);
			if (pointer >= 0 && pointer + 4 <= bytes.length) children.push(readU32Be(bytes, pointer));
		}
		return children;
	}

	private findParents(): Map<number, { page: number; frame: number }[]> {
		const { db } = this;
		const { sources, wal, journal, db: file } = db.files;
		const parents = new Map<number, { page: number; frame: number }[]>();
		let looked = 0;
		const take = (page: number, bytes: Uint8Array | null, frame: number): void => {
			if (!bytes || bytes.length < db.pageSize || ++looked > MOST_PAGES) return;
			for (const child of this.childrenOf(bytes, page)) {
				const known = parents.get(child);
				if (known) known.push({ page, frame });
				else parents.set(child, [{ page, frame }]);
			}
		};
		for (const frame of framesOf(db).toReversed()) take(frame.page, sources[wal]!.read(frame.offset, db.pageSize), frame.number);
		for (const record of recordsOf(db)) take(record.page, sources[journal]!.read(record.offset, db.pageSize), 0);
		for (let page = 1; page <= db.current.pageCount; page++) {
			if (db.use[page] === PageUse.InteriorTable) take(page, db.current.read(page), 0);
			const at = db.current.locate(page);
			// What the log replaces, the file has as it was before.
			if (at && at.file !== file && page <= db.filePages) take(page, sources[file]!.read((page - 1) * db.pageSize, db.pageSize), 0);
		}
		return parents;
	}
}

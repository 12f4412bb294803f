/**
 * Harvest of one SQLite store, reach by reach: rows in use, logs and journals, freed space, raw bytes. Each further
 * reach adds to the same book and repeats nothing. Long work yields its progress; the caller may stop between yields.
 */
import { LETTERS, type Encoding } from '../../bytes';
import type { Note, Reach, Standing, Table } from '../../model';
import type { AccountLine, Harvested, Progress } from '../harvested';
import { RowBook, type KeptTaker } from '../rowbook';
import { Database, PageUse, type StoreFiles } from './database';
import { LostRows } from './lost-rows';
import { RowsInUse, STEP } from './rows-in-use';
import { framesOf, recordsOf, replacedPages, stateOfFile, stateOfJournal, StatesOfLog } from './states';
import { StoreTables } from './store-tables';
import type { PageAt } from './view';

export class StoreHarvest implements Harvested {
	readonly db: Database;
	readonly book = new RowBook();
	readonly account: AccountLine[] = [];
	/** Highest record number each AUTOINCREMENT table ever gave out, by table name (section 2.6.2). */
	readonly sequences = new Map<string, number>();
	private readonly known: StoreTables;
	private readonly inUse: RowsInUse;
	private readonly lost: LostRows;
	private reached: Reach | null = null;

	constructor(files: StoreFiles) {
		this.db = new Database(files);
		this.known = new StoreTables(this.db);
		this.inUse = new RowsInUse(this.db, this.known);
		this.lost = new LostRows(this.db, this.known, this.book, this.inUse);
	}

	get tables(): Table[] {
		return this.known.list;
	}

	get notes(): Note[] {
		return this.db.notes;
	}

	get encoding(): Encoding {
		return this.db.encoding;
	}

	get oddlyWritten(): ReadonlySet<number> {
		const shapes = this.known.shapes.filter((shape) => shape.oddities.some((odd) => odd & LETTERS));
		return new Set(shapes.flatMap((shape) => shape.tables));
	}

	get changeCounter(): number {
		return this.db.changeCounter;
	}

	get log(): { name: string; length: number } | null {
		const { wal } = this.db;
		return wal?.sound ? { name: wal.salts, length: wal.lastCommit } : null;
	}

	get engineVersion(): number {
		return this.db.engineVersion;
	}

	/** Goes as far as `reach`, from where an earlier call ended. */
	*run(reach: Reach): Generator<Progress, void, void> {
		if (this.reached === null) {
			yield* this.used();
			this.reached = 'used';
		}
		if (reach !== 'used' && this.reached === 'used') {
			yield* this.logs();
			this.reached = 'logs';
		}
		if ((reach === 'freed' || reach === 'raw') && this.reached === 'logs') {
			yield* this.freed();
			this.lost.settleChains();
			this.reached = 'freed';
		}
		if (reach === 'raw' && this.reached === 'freed') {
			yield* this.raw();
			this.lost.addEntries();
			this.lost.settleChains();
			const before = this.book.size;
			const bytes = this.lost.addStrays();
			if (bytes > 0) this.account.push({ space: 'overflow left behind', bytes, rows: this.book.size - before });
			this.reached = 'raw';
		}
	}

	// ── rows in use ────────────────────────────────────────────────────────────────────────────────────────────

	private *used(): Generator<Progress> {
		const before = this.book.size;
		yield* this.rowsInUse(this.book);
		this.known.readIndexes(this.book);
		// Only now: a free list that names pages in use must not take them away.
		this.db.markFreePages();
		this.lost.addBroken(this.inUse.chains.settle((table) => (table === undefined ? this.book.rows : this.book.rowsOf(table))));
		this.readSequences();
		const bytes = this.db.use.reduce((n, use) => n + (use === PageUse.LeafTable ? this.db.pageSize : 0), 0);
		this.account.push({ space: 'rows in use', bytes, rows: this.book.size - before });
	}

	/** Reads every row in use once and hands it on; nothing is kept here. */
	*rowsInUse(taker: KeptTaker): Generator<Progress, void, void> {
		yield* this.inUse.read(taker);
	}

	private readSequences(): void {
		const table = this.tables.find((t) => t.name === 'sqlite_sequence');
		if (!table) return;
		for (const row of this.book.rowsOf(table.index)) {
			const [name, seq] = row.values;
			if (typeof name === 'string' && typeof seq === 'number') this.sequences.set(name, seq);
		}
	}

	// ── logs and journals ──────────────────────────────────────────────────────────────────────────────────────

	private *logs(): Generator<Progress> {
		const { db } = this;
		const [frames, records, replaced] = [framesOf(db), recordsOf(db), replacedPages(db)];
		const total = (frames.length + records.length + replaced.length) * db.pageSize;
		let done = 0;
		const step = function* (): Generator<Progress> {
			done += db.pageSize;
			if ((done / db.pageSize) % 64 === 0) yield { reach: 'logs', done, total };
		};
		this.known.readDropped(frames, records, replaced);
		this.lost.prepare();
		const start = this.book.size;
		const states = new StatesOfLog(db);
		const atFrame = ({ offset, number }: { offset: number; number: number }): PageAt => ({ file: db.files.wal, offset, frame: number });
		for (const [i, frame] of frames.entries()) this.lost.claimChains(frame.page, atFrame(frame), states.of(i));
		for (const page of replaced)
			this.lost.claimChains(page, { file: db.files.db, offset: (page - 1) * db.pageSize, frame: 0 }, stateOfFile(db));
		// Newest first, so that a row is first met in its latest state.
		for (let i = frames.length - 1; i >= 0; i--) {
			const frame = frames[i]!;
			const at = atFrame(frame);
			const now = db.current.locate(frame.page);
			if (now?.file === at.file && now.offset === at.offset) continue;
			const standing: Standing = frame.kind === 'uncommitted' ? 'remnant' : 'dropped';
			this.lost.pageImage(frame.page, at, states.of(i), standing, 'log-frame');
			yield* step();
		}
		this.account.push({ space: 'log', bytes: frames.length * db.pageSize, rows: this.book.size - start });
		const afterLog = this.book.size;
		for (const record of records) {
			const at: PageAt = { file: db.files.journal, offset: record.offset, frame: record.number };
			const now = db.current.locate(record.page);
			if (now?.file === at.file && now.offset === at.offset) continue;
			this.lost.pageImage(record.page, at, stateOfJournal(db), 'dropped', 'journal-page');
			yield* step();
		}
		this.account.push({ space: 'journal', bytes: records.length * db.pageSize, rows: this.book.size - afterLog });
		const afterJournal = this.book.size;
		const undone = db.journal?.hot === true;
		for (const page of replaced) {
			const at: PageAt = { file: db.files.db, offset: (page - 1) * db.pageSize, frame: 0 };
			this.lost.pageImage(page, at, stateOfFile(db), undone ? 'remnant' : 'dropped', 'earlier-page');
			yield* step();
		}
		this.account.push({ space: 'earlier pages', bytes: replaced.length * db.pageSize, rows: this.book.size - afterJournal });
		yield { reach: 'logs', done: total, total };
	}

	// ── freed space ────────────────────────────────────────────────────────────────────────────────────────────

	private *freed(): Generator<Progress> {
		const { db } = this;
		this.lost.learnFromFreed();
		const pages = db.current.pageCount;
		const total = pages * db.pageSize;
		const spent = { 'freed cells': { bytes: 0, rows: 0 }, 'free pages': { bytes: 0, rows: 0 }, 'unreached pages': { bytes: 0, rows: 0 } };
		for (let page = 1; page <= pages; page++) {
			if (page % (STEP / db.pageSize) === 0) yield { reach: 'freed', done: page * db.pageSize, total };
			const use = db.use[page]!;
			if (use === PageUse.PointerMap || use === PageUse.LockByte) continue;
			const at = db.current.locate(page);
			const bytes = db.current.read(page);
			if (!at || !bytes) continue;
			const before = this.book.size;
			const line =
				use >= PageUse.LeafTable && use <= PageUse.Overflow
					? spent['freed cells']
					: use === PageUse.Unreached
						? spent['unreached pages']
						: spent['free pages'];
			line.bytes += this.lost.freedPage(page, use, bytes, at);
			line.rows += this.book.size - before;
		}
		for (const [space, { bytes, rows }] of Object.entries(spent)) this.account.push({ space: space as AccountLine['space'], bytes, rows });
		yield { reach: 'freed', done: total, total };
	}

	// ── raw bytes ──────────────────────────────────────────────────────────────────────────────────────────────

	/** Pages of the file beyond the database's present end. */
	private *raw(): Generator<Progress> {
		const { db } = this;
		const first = db.current.pageCount * db.pageSize;
		const end = db.filePages * db.pageSize;
		const total = Math.max(0, end - first);
		const before = this.book.size;
		for (let offset = first; offset < end;) {
			const wanted = Math.min(STEP - (offset % STEP), end - offset);
			const block = db.files.sources[db.files.db]!.read(offset, wanted);
			this.lost.rawPages(block, offset);
			// Fewer only where the file changed under us: what comes after would be no page.
			if (block.length < wanted) break;
			offset += wanted;
			yield { reach: 'raw', done: offset - first, total };
		}
		const rest = this.lost.cutPage();
		this.account.push({ space: 'beyond the end', bytes: total + rest, rows: this.book.size - before });
		yield { reach: 'raw', done: total, total };
	}
}

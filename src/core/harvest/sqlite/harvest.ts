/**
 * Harvest of one SQLite store, reach by reach: rows in use, logs and journals, freed space, raw bytes. Each further
 * reach adds to the same book and repeats nothing. Long work yields its progress; the caller may stop between yields.
 */
import { readU32Be, type Encoding } from '../../bytes';
import type { Method, Note, Reach, Row, Sighting, Standing, Table, Value } from '../../model';
import type { AccountLine, Harvested, Progress } from '../harvested';
import { HarvestedRow, type RowPlace } from '../row';
import { sameValue } from '../compare';
import { addSighting, RowBook, type KeptTaker } from '../rowbook';
import { carve, carveCell } from './carve/carve';
import type { CarveContext, Found, GoesOn } from './carve/found';
import { surest } from './carve/overlaps';
import { ShapeIndex } from './compiled';
import { Database, MOST_OWNERS, PageUse, type StoreFiles } from './database';
import {
	cellLength,
	cellPointer,
	freeRanges,
	INTERIOR_INDEX,
	LEAF_INDEX,
	INTERIOR_TABLE,
	firstUsed,
	isBlank,
	LEAF_TABLE,
	localPayload,
	readPageHeader,
	type PageHeader
} from './page';
import { entryRow, saysSomething } from './entries';
import { RowOrder } from '../row-order';
import { FreedChains, type Settled } from './freed-chains';
import { learnFromFreed } from './freed-shapes';
import { inferEncoding, inferTables } from './infer';
import { CellReader, declaredOrder, placeOf } from './reader';
import { readCutRecord, readRecord, scanRecord } from './record';
import { stateOfFile, stateOfFrame, stateOfJournal } from './states';
import { longTexts, strayTexts, textsWithin, withoutValueBefore } from './stray';
import { parseCreateTable, SCHEMA_TABLE } from './schema';
import { ENOUGH, entryShape, learn, learnScanned, shapeKey, shapeOf, type Shape } from './shape';
import { readSignedVarint, readVarint, varintLength } from './varint';
import type { PageAt, PageView } from './view';

/** Bytes after which it is said how far a look is: pages of all sizes, and the blocks a source is read in, are parts or multiples of it. */
const STEP = 512 << 10;
/** Entries from which the shape of an index is learned. */
const ENTRIES_LEARNED = 2000;
/** In the record of pages' owners: tables come first, by number, then the indexes. */
const FIRST_INDEX = 32768;

export class StoreHarvest implements Harvested {
	readonly db: Database;
	readonly book = new RowBook();
	readonly tables: Table[] = [];
	readonly account: AccountLine[] = [];
	/** Highest record number each AUTOINCREMENT table ever gave out, by table name (section 2.6.2). */
	readonly sequences = new Map<string, number>();
	private shapes: Shape[] = [];
	private shapeByTable: Shape[] = [];
	private shapeIndex = new ShapeIndex([]);
	/** What the carver goes by on pages of the present state, by the shape of the page's owner. */
	private readonly present = new Map<Shape | null, CarveContext[]>();
	/** Shapes of WITHOUT ROWID tables, whose rows lie on index pages. */
	private indexShapes = new ShapeIndex([], true);
	/** Whether those are all entries of indexes, and no rows of WITHOUT ROWID tables. */
	private onlyEntries = true;
	private readonly indexes: { root: number; table: number; shape: Shape | null }[] = [];
	private readonly entries: HarvestedRow[] = [];
	/** Further roots of tables told from their rows alone. */
	private readonly moreRoots = new Map<number, number[]>();
	private reached: Reach | null = null;
	/** Overflow pages that cells of earlier states lead to. */
	private readonly chained = new Set<number>();
	/** Chains that cells found in freed space lead to, of the present state. */
	private readonly chains: FreedChains;
	/** Where rows go on that are not in the book yet. */
	private readonly goingOn = new Map<HarvestedRow, GoesOn>();

	constructor(files: StoreFiles) {
		const db = (this.db = new Database(files));
		this.chains = new FreedChains(
			db,
			(page) => this.isFree(page),
			(page) => db.use[page] === PageUse.FreelistTrunk
		);
	}

	/** Whether nothing uses a page in the present state. */
	private isFree(page: number): boolean {
		const { use } = this.db;
		return page > 1 && (page >= use.length || use[page] === PageUse.FreelistLeaf || use[page] === PageUse.Unreached);
	}

	get notes(): Note[] {
		return this.db.notes;
	}

	get encoding(): Encoding {
		return this.db.encoding;
	}

	get changeCounter(): number {
		return this.db.changeCounter;
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
			this.settleChains();
			this.reached = 'freed';
		}
		if (reach === 'raw' && this.reached === 'freed') {
			yield* this.raw();
			// Entries of indexes come last: they are parts of rows, and must find those first.
			for (const row of this.entries.splice(0)) this.book.addLost(row, [row.table]);
			this.settleChains();
			this.strays();
			this.reached = 'raw';
		}
	}

	// ── rows in use ────────────────────────────────────────────────────────────────────────────────────────────

	private *used(): Generator<Progress> {
		const before = this.book.size;
		yield* this.rowsInUse(this.book);
		for (const index of this.indexes) this.readIndex(index);
		// Only now: a free list that names pages in use must not take them away.
		this.db.markFreePages();
		this.readSequences();
		const bytes = this.db.use.reduce((n, use) => n + (use === PageUse.LeafTable ? this.db.pageSize : 0), 0);
		this.account.push({ space: 'rows in use', bytes, rows: this.book.size - before });
	}

	/** Reads every row in use once and hands it on; nothing is kept here. */
	*rowsInUse(taker: KeptTaker): Generator<Progress, void, void> {
		const { db } = this;
		const total = db.current.pageCount * db.pageSize;
		this.readSchema();
		const take: TakeRow = (row) => taker.addKept(row);
		let done = 0;
		let nextReport = 0;
		for (const table of this.tables) {
			if (table.dropped || table.rootPage <= 1) continue;
			const reader = new CellReader(table, db);
			const visit = (page: number, bytes: Uint8Array, header: PageHeader, at: PageAt): void => {
				if (header.type === LEAF_TABLE && !table.withoutRowid) this.readLeaf(table, page, bytes, header, at, reader, taker);
				else this.readCells(table, page, bytes, header, at, db.current, 'kept', 'row-in-use', take);
				done += db.pageSize;
			};
			// The walk itself cannot yield; big tables are walked child by child of the root.
			for (const root of [table.rootPage, ...(this.moreRoots.get(table.index) ?? [])].flatMap((r) => this.subtrees(table, r))) {
				db.walk(db.current, root, visit, Math.min(table.index + 1, FIRST_INDEX - 1));
				if (done >= nextReport) {
					nextReport = done + STEP;
					yield { reach: 'used', done, total };
				}
			}
		}
		yield { reach: 'used', done: total, total };
	}

	/** The root, or where it is an interior page of a table its children, so that a big tree is walked in steps. */
	private subtrees(table: Table, root: number): number[] {
		const { db } = this;
		const bytes = db.current.read(root);
		const header = bytes && readPageHeader(bytes, root, db.usable);
		if (!bytes || !header || header.type !== INTERIOR_TABLE || table.withoutRowid || db.use[root] !== PageUse.Unreached) return [root];
		db.use[root] = PageUse.InteriorTable;
		db.owner[root] = Math.min(table.index + 1, FIRST_INDEX - 1);
		const children: number[] = [];
		for (let i = 0; i < header.cellCount; i++) {
			const pointer = cellPointer(bytes, header, i, db.usable);
			if (pointer >= 0 && pointer + 4 <= bytes.length) children.push(readU32Be(bytes, pointer));
		}
		if (header.rightChild) children.push(header.rightChild);
		return children;
	}

	private readSchema(): void {
		const { db } = this;
		const schemaShape = shapeOf(SCHEMA_TABLE);
		this.addTable({ ...SCHEMA_TABLE }, schemaShape);
		const rows: (Value | undefined)[][] = [];
		db.walk(
			db.current,
			1,
			(page, bytes, header, at) => {
				this.eachCell(bytes, header, page, at, db.current, false, (values) => rows.push(values));
			},
			1
		);
		// Indexes and virtual tables own pages too; only tables with stored rows are read.
		for (const [type, name, , root, sql] of rows) {
			if (typeof root !== 'number' || root <= 0) continue;
			if (type === 'table' && typeof sql === 'string') {
				const parsed = parseCreateTable(sql, String(name));
				if (parsed) {
					this.addTable({ ...parsed, name: String(name), index: 0, rootPage: root, dropped: false });
					continue;
				}
				db.note('table-unreadable', { table: String(name) }, null, 'warning');
			}
		}
		for (const [type, , owner, root] of rows) {
			if (type === 'index' && typeof root === 'number' && root > 1)
				this.indexes.push({ root, table: this.tables.findIndex((t) => t.name === owner), shape: null });
		}
		if (this.tables.length > 1 || rows.some(([type]) => type === 'table')) return;
		db.note('schema-damaged', {}, null, 'warning');
		db.encoding = db.header?.magic ? db.encoding : (inferEncoding(db) ?? db.encoding);
		for (const { table, roots } of inferTables(db)) {
			const added = this.addTable({ ...table, index: 0 });
			this.moreRoots.set(added.index, roots.slice(1));
		}
	}

	private addTable(table: Table, shape?: Shape): Table {
		table.index = this.tables.length;
		this.tables.push(table);
		const key = shapeKey(table);
		const known = shape ? undefined : this.shapes.find((s) => s.tables.length > 0 && shapeKey(this.tables[s.tables[0]!]!) === key);
		if (known) known.tables.push(table.index);
		else {
			const own = shape ?? shapeOf(table);
			own.tables = [table.index];
			this.shapes.push(own);
		}
		this.shapeByTable[table.index] = known ?? this.shapes.at(-1)!;
		return table;
	}

	/**
	 * Walks an index, marks its pages, and learns from some of its entries what they look like and which columns of
	 * its table they repeat (section 2.5 "Representation Of SQL Indices": the indexed values, then the rowid).
	 */
	private readIndex(index: { root: number; table: number; shape: Shape | null }): void {
		const { db } = this;
		const table = this.tables[index.table];
		const samples: (Value | undefined)[][] = [];
		db.walk(
			db.current,
			index.root,
			(page, bytes, header, at) => {
				if (samples.length < ENTRIES_LEARNED && header.type !== LEAF_TABLE)
					this.eachCell(bytes, header, page, at, db.current, true, (values) => samples.push(values));
			},
			Math.min(FIRST_INDEX + this.indexes.indexOf(index), MOST_OWNERS)
		);
		const count = samples[0]?.length ?? 0;
		if (!table || table.withoutRowid || count < 2 || samples.some((s) => s.length !== count)) return;
		const shape = entryShape(table.index, this.entryColumns(table, samples, count), count);
		for (const s of samples) learn(shape, null, s, count);
		index.shape = shape;
		this.shapes.push(shape);
	}

	/** Which column of the table each value of an index's entries repeats: told from rows that both have. */
	private entryColumns(table: Table, samples: (Value | undefined)[][], count: number): number[] {
		const pairs = samples.slice(0, 40).flatMap((s) => {
			const rowid = s[count - 1];
			const row = typeof rowid === 'number' || typeof rowid === 'bigint' ? this.book.keptRow(table.index, rowid) : null;
			return row ? [{ entry: s, row }] : [];
		});
		return Array.from({ length: count - 1 }, (_, k) =>
			pairs.length === 0
				? -1
				: table.columns.findIndex((_c, c) => pairs.every(({ entry, row }) => sameValue(entry[k] ?? null, row.values[c] ?? null)))
		);
	}

	private readSequences(): void {
		const table = this.tables.find((t) => t.name === 'sqlite_sequence');
		if (!table) return;
		for (const row of this.book.rowsOf(table.index)) {
			const [name, seq] = row.values;
			if (typeof name === 'string' && typeof seq === 'number') this.sequences.set(name, seq);
		}
	}

	/** Rows in use on a leaf page: learned from at once, their values left where they are until somebody asks. */
	private readLeaf(
		table: Table,
		page: number,
		bytes: Uint8Array,
		header: PageHeader,
		at: PageAt,
		reader: CellReader,
		taker: KeptTaker
	): void {
		const usable = this.db.usable;
		const shape = this.shapeByTable[table.index]!;
		const place = placeOf(at, page, 'row-in-use', reader);
		for (let i = 0; i < header.cellCount; i++) {
			const start = cellPointer(bytes, header, i, usable);
			const payload = start < 0 ? NaN : readVarint(bytes, start, usable);
			let cursor = start + varintLength;
			if (!(payload <= usable - 35) || cursor + payload > usable) {
				this.readLonger(table, page, bytes, header, at, i, taker);
				continue;
			}
			const rowid = readSignedVarint(bytes, cursor, usable);
			cursor += varintLength;
			const end = cursor + payload;
			if (end > usable || !scanRecord(bytes, cursor, end)) {
				this.readLonger(table, page, bytes, header, at, i, taker);
				continue;
			}
			const largest = learnScanned(shape, rowid, bytes);
			taker.addCell(table.index, rowid, place, start, end - start, largest);
		}
	}

	/** A cell in use that overflows or is damaged, in its turn: rows stay in the order of their numbers. */
	private readLonger(table: Table, page: number, bytes: Uint8Array, header: PageHeader, at: PageAt, cell: number, taker: KeptTaker): void {
		this.readCells(table, page, bytes, header, at, this.db.current, 'kept', 'row-in-use', (row) => taker.addKept(row), [cell]);
	}

	/** Reads the cells that a page's pointer array names (or only some of them) as rows of `table`. */
	private readCells(
		table: Table,
		page: number,
		bytes: Uint8Array,
		header: PageHeader,
		at: PageAt,
		view: PageView,
		standing: Standing,
		method: Method,
		take: TakeRow = (row) => void this.book.addLost(row, [table.index]),
		only?: readonly number[]
	): void {
		const shape = this.shapeByTable[table.index]!;
		const inOrder = declaredOrder(table);
		const place = placeOf(at, page, method);
		const add: TakeCell = (stored, rowid, offset, length, whole, cut) => {
			const count = stored.length;
			const values = inOrder(stored, rowid);
			const row = new HarvestedRow(
				table.index,
				true,
				table.withoutRowid ? null : rowid,
				values,
				cut < 0 ? -1 : (shape.order[cut] ?? -1),
				standing,
				whole ? 'whole' : 'fragment',
				place,
				offset,
				length
			);
			if (standing === 'kept') learn(shape, row.rowid, values, count);
			take(row);
		};
		this.eachCell(bytes, header, page, at, view, table.withoutRowid, add, only);
	}

	/** Each cell of a leaf page (or of an interior page of an index tree) as its stored values. */
	private eachCell(
		bytes: Uint8Array,
		header: PageHeader,
		page: number,
		at: PageAt,
		view: PageView,
		index: boolean,
		take: TakeCell,
		only?: readonly number[]
	): void {
		const { db } = this;
		const usable = db.usable;
		const tableLeaf = header.type === LEAF_TABLE;
		if (tableLeaf === index) {
			db.note('page-unreadable', { page }, at, 'warning');
			return;
		}
		const interior = header.type === INTERIOR_INDEX;
		const count = only?.length ?? header.cellCount;
		for (let k = 0; k < count; k++) {
			const i = only ? only[k]! : k;
			const start = cellPointer(bytes, header, i, usable);
			let cursor = start;
			if (interior) cursor += 4;
			const payload = start < 0 ? NaN : readVarint(bytes, cursor, usable);
			if (!(payload >= 0)) {
				db.note('cell-damaged', { page, cell: i }, at, 'warning');
				continue;
			}
			cursor += varintLength;
			let rowid: number | bigint = 0;
			if (tableLeaf) {
				rowid = readSignedVarint(bytes, cursor, usable);
				cursor += varintLength;
			}
			const local = localPayload(payload, usable, tableLeaf);
			const end = cursor + local;
			let values: (Value | undefined)[] | null = null;
			let whole = true;
			let cut = -1;
			if (end <= usable && local === payload) values = readRecord(bytes, cursor, end, db.encoding);
			else if (end + 4 <= usable) {
				const chain = db.readOverflow(view, bytes.subarray(cursor, end), payload, readU32Be(bytes, end), () => true);
				for (const p of chain.pages) if (view === db.current && db.use[p] === PageUse.Unreached) db.use[p] = PageUse.Overflow;
				whole = chain.complete;
				if (!whole) db.note('overflow-broken', { page, cell: i }, at, 'warning');
				values = readRecord(chain.payload, 0, chain.payload.length, db.encoding);
				if (!values) {
					const left = readCutRecord(chain.payload, db.encoding);
					values = left?.values ?? null;
					cut = left?.cut ?? -1;
				}
			}
			if (!values) {
				db.note('cell-damaged', { page, cell: i }, at, 'warning');
				continue;
			}
			take(values, rowid, start, end - start + (local < payload ? 4 : 0), whole, cut);
		}
	}

	// ── logs and journals ──────────────────────────────────────────────────────────────────────────────────────

	private *logs(): Generator<Progress> {
		const { db } = this;
		const { wal, journal } = db;
		this.prepareShapes();
		const frames = wal && !db.logForeign ? wal.frames : [];
		const records = journal && !db.journalForeign && journal.pageSize === db.pageSize ? journal.records : [];
		// Pages of the database file that the log or the journal replaces are an earlier (or an undone) state.
		const replaced: number[] = [];
		for (let page = 1; page <= db.filePages; page++) {
			const at = db.current.locate(page);
			if (at && at.file !== db.files.db) replaced.push(page);
		}
		const total = (frames.length + records.length + replaced.length) * db.pageSize;
		let done = 0;
		const step = function* (): Generator<Progress> {
			done += db.pageSize;
			if ((done / db.pageSize) % 64 === 0) yield { reach: 'logs', done, total };
		};
		this.deletedSchema(frames, records, replaced);
		const start = this.book.size;
		// Newest first, so that a row is first met in its latest state.
		for (let i = frames.length - 1; i >= 0; i--) {
			const frame = frames[i]!;
			const at: PageAt = { file: db.files.wal, offset: frame.offset, frame: frame.number };
			const now = db.current.locate(frame.page);
			if (now?.file === at.file && now.offset === at.offset) continue;
			const standing: Standing = frame.kind === 'uncommitted' ? 'remnant' : 'dropped';
			this.pageImage(frame.page, at, stateOfFrame(db, i), standing, 'log-frame');
			yield* step();
		}
		this.account.push({ space: 'log', bytes: frames.length * db.pageSize, rows: this.book.size - start });
		const afterLog = this.book.size;
		for (const record of records) {
			const at: PageAt = { file: db.files.journal, offset: record.offset, frame: record.number };
			const now = db.current.locate(record.page);
			if (now?.file === at.file && now.offset === at.offset) continue;
			this.pageImage(record.page, at, stateOfJournal(db), 'dropped', 'journal-page');
			yield* step();
		}
		this.account.push({ space: 'journal', bytes: records.length * db.pageSize, rows: this.book.size - afterLog });
		const afterJournal = this.book.size;
		const undone = journal?.hot === true;
		for (const page of replaced) {
			const at: PageAt = { file: db.files.db, offset: (page - 1) * db.pageSize, frame: 0 };
			this.pageImage(page, at, stateOfFile(db), undone ? 'remnant' : 'dropped', 'earlier-page');
			yield* step();
		}
		this.account.push({ space: 'earlier pages', bytes: replaced.length * db.pageSize, rows: this.book.size - afterJournal });
		yield { reach: 'logs', done: total, total };
	}

	/**
	 * Tables that are no longer in the schema: their schema rows from earlier pages and freed space of the schema's
	 * own pages give the shape of rows whose table was dropped.
	 */
	private deletedSchema(
		frames: readonly { page: number; offset: number; number: number }[],
		records: readonly { page: number; offset: number; number: number }[],
		replaced: readonly number[]
	): void {
		const { db } = this;
		const shape = this.shapes[0]!;
		const pages: { page: number; at: PageAt }[] = [];
		const ofSchema = (page: number): boolean => page === 1 || (db.owner[page] === 1 && db.use[page] === PageUse.LeafTable);
		for (let page = 1; page <= db.current.pageCount; page++) {
			const at = ofSchema(page) ? db.current.locate(page) : null;
			if (at) pages.push({ page, at });
		}
		for (const f of frames)
			if (ofSchema(f.page)) pages.push({ page: f.page, at: { file: db.files.wal, offset: f.offset, frame: f.number } });
		for (const r of records)
			if (ofSchema(r.page)) pages.push({ page: r.page, at: { file: db.files.journal, offset: r.offset, frame: r.number } });
		for (const page of replaced)
			if (ofSchema(page)) pages.push({ page, at: { file: db.files.db, offset: (page - 1) * db.pageSize, frame: 0 } });
		const ctx = this.context(db.current, shape, new ShapeIndex([shape]));
		for (const { page, at } of pages.slice(0, 5000)) {
			const bytes = db.files.sources[at.file]!.read(at.offset, db.pageSize);
			const header = readPageHeader(bytes, page, db.usable);
			if (!header || header.type !== LEAF_TABLE || bytes.length < db.pageSize) continue;
			this.eachCell(bytes, header, page, at, db.current, false, (values) => this.addDropped(values));
			for (const range of freeRanges(bytes, header, db.usable)) {
				for (const found of carve(bytes, range.from, range.to, ctx)) if (found.cut < 0) this.addDropped(found.values);
			}
		}
		this.prepareShapes();
	}

	private addDropped(values: (Value | undefined)[]): void {
		const [type, name, , root, sql] = values;
		if (typeof sql !== 'string' || (type !== 'table' && !/^create\s+table/i.test(sql))) return;
		const parsed = parseCreateTable(sql, typeof name === 'string' ? name : '');
		if (!parsed || parsed.name === '') return;
		const key = shapeKey({ ...parsed, index: 0, rootPage: 0, dropped: true });
		const same = this.tables.find((t) => t.name === parsed.name && shapeKey(t) === key);
		if (same || this.tables.length > 20_000) return;
		this.addTable({ ...parsed, index: 0, rootPage: typeof root === 'number' ? root : 0, dropped: true });
	}

	private prepareShapes(): void {
		// The engine's own tables (sequences, statistics) hold no messages.
		const own = this.shapes.filter((s) => s.entryOf !== undefined || s.tables.some((t) => !/^sqlite_/i.test(this.tables[t]!.name)));
		this.shapeIndex = new ShapeIndex(own);
		this.indexShapes = new ShapeIndex(own, true);
		this.onlyEntries = this.indexShapes.all.every((compiled) => compiled.shape.entryOf !== undefined);
		this.present.clear();
	}

	/** For cells of tables and, where there are WITHOUT ROWID tables or indexes, for those of their pages. */
	private contexts(view: PageView, preferred: Shape | null): CarveContext[] {
		const known = view === this.db.current ? this.present.get(preferred) : undefined;
		if (known) return known;
		const made = [this.context(view, preferred?.withoutRowid ? null : preferred)];
		if (this.indexShapes.all.length > 0) made.push(this.context(view, preferred?.withoutRowid ? preferred : null, this.indexShapes, true));
		if (view === this.db.current) this.present.set(preferred, made);
		return made;
	}

	private context(view: PageView, preferred: Shape | null, shapes = this.shapeIndex, index = false): CarveContext {
		const { db } = this;
		const free = (page: number): boolean => (view === db.current ? this.isFree(page) : page > 1);
		return {
			usable: db.usable,
			encoding: db.encoding,
			shapes,
			preferred,
			index,
			overflow: (local, size, first) => {
				const chain = db.readOverflow(view, local, size, first, free);
				if (view !== db.current && chain.complete) for (const page of chain.pages) this.chained.add(page);
				return chain;
			}
		};
	}

	/** Takes back what freed cells were given of pages that are another's, and gives them what is left behind a break. */
	private settleChains(): void {
		const orders = new Map<number, RowOrder>();
		const fitsRow = ({ row, shape, left }: Settled): boolean => {
			const order = orders.get(row.table) ?? new RowOrder(this.book.rowsOf(row.table));
			orders.set(row.table, order);
			return order.fits(row.rowid, inColumns(row, shape, left.values));
		};
		for (const { row, shape, left, restOn } of this.chains.settle(fitsRow)) {
			row.values = inColumns(row, shape, left.values);
			row.cut = left.cut < 0 ? -1 : shape.order[left.cut]!;
			row.rest = left.rest ?? undefined;
			row.grade = 'fragment';
			for (const sighting of row.sightings) sighting.grade = 'fragment';
			const at = restOn > 0 ? this.db.current.locate(restOn) : null;
			if (at) addSighting(row, { ...seenOn(at, restOn), length: this.db.usable, standing: row.standing });
		}
	}

	/**
	 * Ends of long texts on overflow pages whose cell is gone. They are taken only where all long texts of the store
	 * belong to one table's one column, so that it is certain whose they are; what a known row has already is no new one.
	 */
	private strays(): void {
		const { db } = this;
		const free: number[] = [];
		for (let page = 2; page <= db.current.pageCount; page++) {
			if (this.isFree(page) && !this.chained.has(page) && !this.chains.owned.has(page)) free.push(page);
		}
		const found = strayTexts(free, db.current, db.usable, db.encoding);
		const owner = found.length > 0 ? longTexts(this.book.rows, db.usable) : null;
		if (!owner) return;
		const before = this.book.size;
		const repeated = textsWithin(found, owner.known);
		let bytes = 0;
		for (const stray of found) {
			bytes += stray.length;
			const table = this.tables[owner.table]!;
			if (repeated.has(stray)) continue;
			const values: (Value | undefined)[] = table.columns.map(() => undefined);
			values[owner.column] = owner.column > 0 ? withoutValueBefore(stray.text) : stray.text;
			const place = placeOf(stray.at, stray.page, 'overflow-page');
			this.book.addLost(
				new HarvestedRow(table.index, true, null, values, owner.column, 'remnant', 'fragment', place, 4, stray.length - 4),
				[table.index]
			);
		}
		if (bytes > 0) this.account.push({ space: 'overflow left behind', bytes, rows: this.book.size - before });
	}

	/** A page as some earlier state had it: its cells were in use then, its free stretches were not. */
	private pageImage(page: number, at: PageAt, view: PageView, standing: Standing, method: Method): void {
		const { db } = this;
		const bytes = db.files.sources[at.file]!.read(at.offset, db.pageSize);
		if (bytes.length < db.pageSize) return;
		const header = readPageHeader(bytes, page, db.usable);
		if (!header) return;
		const owner = this.ownerOf(page);
		if (header.type === LEAF_TABLE) {
			const rows = this.cellsAsRows(bytes, header, page, at, view, standing, method, owner);
			this.place(rows, owner);
			const preferred = this.shapeOn(page, owner);
			this.carveRanges(bytes, freeRanges(bytes, header, db.usable), page, at, view, preferred, owner, 'freed-cell');
		} else {
			if (owner?.withoutRowid && header.type !== INTERIOR_TABLE) this.readCells(owner, page, bytes, header, at, view, standing, method);
			else if (header.type !== INTERIOR_TABLE) this.place(this.cellsAsRows(bytes, header, page, at, view, standing, method, null), null);
			this.carveRanges(bytes, freeRanges(bytes, header, db.usable), page, at, view, this.shapeOn(page, owner), owner, 'freed-cell');
		}
	}

	private ownerOf(page: number): Table | null {
		const { db } = this;
		if (page >= db.use.length) return null;
		const use = db.use[page];
		if (use !== PageUse.LeafTable && use !== PageUse.InteriorTable && use !== PageUse.LeafIndex && use !== PageUse.InteriorIndex)
			return null;
		return this.tables[db.owner[page]! - 1] ?? null;
	}

	/** What the cells of a page's tree look like: its table's rows, or its index's entries. */
	private shapeOn(page: number, owner: Table | null): Shape | null {
		if (owner) return this.shapeByTable[owner.index]!;
		const index = page < this.db.owner.length ? this.db.owner[page]! - FIRST_INDEX : -1;
		return this.indexes[index]?.shape ?? null;
	}

	/** The cells of a leaf page that is not in use now, each taken as a row of the table whose shape fits best. */
	private cellsAsRows(
		bytes: Uint8Array,
		header: PageHeader,
		page: number,
		at: PageAt,
		view: PageView,
		standing: Standing,
		method: Method,
		owner: Table | null
	): HarvestedRow[] {
		const { db } = this;
		const index = header.type !== LEAF_TABLE;
		if (index && this.indexShapes.all.length === 0) return [];
		const ctx = this.context(
			view,
			owner && owner.withoutRowid === index ? this.shapeByTable[owner.index]! : null,
			index ? this.indexShapes : this.shapeIndex,
			index
		);
		// A page of an earlier state has its overflow pages in that state; all of them count.
		if (view !== db.current) ctx.overflow = (local, size, first) => db.readOverflow(view, local, size, first, (p) => p > 1);
		const rows: HarvestedRow[] = [];
		const place = placeOf(at, page, method);
		for (let i = 0; i < header.cellCount; i++) {
			const cell = cellPointer(bytes, header, i, db.usable);
			const length = cell < 0 ? -1 : cellLength(bytes, cell, header.type, db.usable);
			if (length < 0) continue;
			const start = header.type === INTERIOR_INDEX ? cell + 4 : cell;
			const found = carveCell(bytes, start, cell + length, ctx);
			if (found) rows.push(this.rowOf(found, place, standing));
		}
		return rows;
	}

	// ── freed space ────────────────────────────────────────────────────────────────────────────────────────────

	/**
	 * Where a table has hardly a row in use, what its rows look like is first learned from freed cells that prove
	 * themselves whole; only then are damaged ones judged by it.
	 */
	private learnFromFreed(): void {
		const { db } = this;
		const unknown = this.shapes.filter(
			(s) => !s.entryOf && s.rows < ENOUGH && s.tables.some((t) => t > 0 && !/^sqlite_/i.test(this.tables[t]!.name))
		);
		if (unknown.length === 0) return;
		learnFromFreed(db, unknown, this.contexts(db.current, null));
		this.prepareShapes();
	}

	private *freed(): Generator<Progress> {
		const { db } = this;
		this.learnFromFreed();
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
			line.bytes += this.freedPage(page, use, bytes, at);
			line.rows += this.book.size - before;
		}
		for (const [space, { bytes, rows }] of Object.entries(spent)) this.account.push({ space: space as AccountLine['space'], bytes, rows });
		yield { reach: 'freed', done: total, total };
	}

	/** Looks through what of a page is not in use; returns how many bytes that is. */
	private freedPage(page: number, use: number, bytes: Uint8Array, at: PageAt): number {
		const { db } = this;
		if (use !== PageUse.LeafTable && isBlank(bytes)) return db.usable;
		const view = db.current;
		const header = use === PageUse.FreelistTrunk ? null : readPageHeader(bytes, page, db.usable);
		if (use === PageUse.Overflow) return 0;
		if (use >= PageUse.LeafTable && use <= PageUse.InteriorIndex && header) {
			// A root that grew was a leaf once, and a page can have had another owner: interior and index pages count too.
			const owner = this.ownerOf(page);
			const ranges = freeRanges(bytes, header, db.usable);
			if (owner?.index !== 0) this.carveRanges(bytes, ranges, page, at, view, this.shapeOn(page, owner), owner, 'freed-cell');
			return ranges.reduce((sum, r) => sum + r.to - r.from, 0);
		}
		if (header && header.type !== INTERIOR_TABLE && (header.type === LEAF_TABLE || this.indexShapes.all.length > 0)) {
			const rows = this.cellsAsRows(bytes, header, page, at, view, 'remnant', 'freed-page', null);
			const found = this.carveRanges(bytes, freeRanges(bytes, header, db.usable), page, at, view, null, null, 'freed-page', false);
			this.place([...rows, ...found], null);
			return db.usable;
		}
		// A page within the database begins with a header of its own or the number of the next overflow page: with no cell.
		const from =
			use === PageUse.FreelistTrunk ? 8 + Math.min(readU32Be(bytes, 4), db.usable / 4) * 4 : page <= db.current.pageCount ? 4 : 0;
		this.carveRanges(bytes, [{ from, to: db.usable }], page, at, view, null, null, 'freed-page');
		return db.usable;
	}

	/**
	 * Looks through free stretches of a page for cells of tables and, where there are WITHOUT ROWID tables or indexes, of
	 * those. Bytes that read as both are what is surer of them.
	 */
	private carveRanges(
		bytes: Uint8Array,
		ranges: { from: number; to: number }[],
		page: number,
		at: PageAt,
		view: PageView,
		preferred: Shape | null,
		owner: Table | null,
		method: Method,
		place = true
	): HarvestedRow[] {
		const { db } = this;
		const rows: HarvestedRow[] = [];
		const where = placeOf(at, page, method);
		const [ofTables, ofIndexes] = this.contexts(view, preferred);
		// Beyond the database's end entries of indexes lie on pages that say so by their first byte.
		const beyond = method === 'freed-page' && page > db.current.pageCount && bytes[0] !== LEAF_INDEX && bytes[0] !== INTERIOR_INDEX;
		const both = ofIndexes && !(beyond && this.onlyEntries) ? ofIndexes : null;
		for (const { from, to } of ranges) {
			const found = carve(bytes, from, to, ofTables!);
			for (const cell of both ? surest([...found, ...carve(bytes, from, to, both)]) : found) rows.push(this.rowOf(cell, where, 'remnant'));
		}
		if (place) this.place(rows, owner);
		return rows;
	}

	/** Takes rows of one page into the book, under the page's table where that is known or can be told from its rows. */
	private place(rows: HarvestedRow[], owner: Table | null): void {
		const groups = new Map<Shape, HarvestedRow[]>();
		for (const row of rows) {
			const shape = this.shapeByTable[row.table]!;
			const list = groups.get(shape);
			if (list) list.push(row);
			else groups.set(shape, [row]);
		}
		for (const [shape, list] of groups) {
			const table = shape.tables.length === 1 ? shape.tables[0]! : this.tableOf(list, shape, owner);
			for (const row of list) {
				if (row.place.method === 'index-entry') {
					if (saysSomething(row, shape)) this.entries.push(row);
					continue;
				}
				row.tableKnown = table >= 0;
				row.table = table >= 0 ? table : shape.tables[0]!;
				const known = this.book.addLost(row, table >= 0 ? [table] : shape.tables);
				const goesOn = this.goingOn.get(row);
				if (known && goesOn) this.chains.add(known, goesOn);
				this.goingOn.delete(row);
			}
		}
	}

	/**
	 * Which of the tables of one shape a page's rows are of; -1 where nothing says. A page can have had another owner
	 * than it has now: rows known in another table, and not in the owner's, say so.
	 */
	private tableOf(rows: HarvestedRow[], shape: Shape, owner: Table | null): number {
		const own = owner && shape.tables.includes(owner.index) ? owner.index : -1;
		let most = own < 0 ? 0 : this.book.votes(rows, own);
		let table = own;
		if (own >= 0 && most > 0) return own;
		for (const candidate of shape.tables) {
			const votes = candidate === own ? 0 : this.book.votes(rows, candidate);
			if (votes > most) {
				most = votes;
				table = candidate;
			}
		}
		return table;
	}

	private rowOf(found: Found, place: RowPlace, standing: Standing): HarvestedRow {
		if (found.shape.entryOf) return entryRow(found, found.shape.entryOf, this.tables, place, standing);
		const table = this.tables[found.shape.tables[0]!]!;
		const { order } = found.shape;
		const values: (Value | undefined)[] = new Array(table.columns.length).fill(undefined);
		for (let k = 0; k < order.length; k++) {
			const c = order[k]!;
			values[c] =
				k === found.shape.rowidAt ? (found.rowid ?? undefined) : k < found.values.length ? found.values[k] : table.columns[c]!.defaultValue;
		}
		const row = new HarvestedRow(
			table.index,
			false,
			table.withoutRowid ? null : found.rowid,
			values,
			found.cut >= 0 ? order[found.cut]! : -1,
			standing,
			found.grade,
			place,
			found.start,
			found.end - found.start
		);
		if (found.goesOn && standing === 'remnant') this.goingOn.set(row, found.goesOn);
		return row;
	}

	// ── raw bytes ──────────────────────────────────────────────────────────────────────────────────────────────

	/** The beginning of a page that the end of a cut file left; returns its bytes. */
	private cutPage(): number {
		const { db } = this;
		const source = db.files.sources[db.files.db]!;
		const rest = source.size % db.pageSize;
		if (rest === 0) return 0;
		const offset = source.size - rest;
		const at: PageAt = { file: db.files.db, offset, frame: 0 };
		this.carveRanges(source.read(offset, rest), [{ from: 0, to: rest }], offset / db.pageSize + 1, at, db.current, null, null, 'raw-bytes');
		return rest;
	}

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
			this.rawPages(block, offset);
			// Fewer only where the file changed under us: what comes after would be no page.
			if (block.length < wanted) break;
			offset += wanted;
			yield { reach: 'raw', done: offset - first, total };
		}
		const rest = this.cutPage();
		this.account.push({ space: 'beyond the end', bytes: total + rest, rows: this.book.size - before });
		yield { reach: 'raw', done: total, total };
	}

	/** The pages of a stretch of the file. An image of a disk is mostly nothing: pages of zeros are passed at once. */
	private rawPages(block: Uint8Array, offset: number): void {
		const { pageSize, files } = this.db;
		for (let at = 0; at + pageSize <= block.length; at += pageSize) {
			at = Math.floor(firstUsed(block, at) / pageSize) * pageSize;
			const bytes = block.subarray(at, at + pageSize);
			const page = (offset + at) / pageSize + 1;
			if (bytes.length === pageSize) this.freedPage(page, PageUse.Unreached, bytes, { file: files.db, offset: offset + at, frame: 0 });
		}
	}
}

type TakeRow = (row: HarvestedRow) => void;

/** A cell as it lies on a page: its values in stored order, its rowid, its place, and what is missing of it. */
type TakeCell = (
	values: (Value | undefined)[],
	rowid: number | bigint,
	offset: number,
	length: number,
	whole: boolean,
	cut: number
) => void;

/** An overflow page as the place where a part of a row was seen. */
const seenOn = ({ file, offset, frame }: PageAt, page: number): Omit<Sighting, 'length' | 'standing'> => ({
	file,
	offset,
	page,
	...(frame ? { frame } : {}),
	method: 'overflow-page',
	grade: 'fragment'
});

/** A row's values with those of its record put where they belong. */
function inColumns(row: Row, shape: Shape, record: readonly (Value | undefined)[]): (Value | undefined)[] {
	const values = [...row.values];
	record.forEach((value, k) => {
		if (k !== shape.rowidAt) values[shape.order[k]!] = value;
	});
	return values;
}

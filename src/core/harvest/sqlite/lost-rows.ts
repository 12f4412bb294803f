/**
 * Rows from what no state uses now: free stretches of pages in use, free and unreached pages, pages of earlier states,
 * overflow pages left behind. They go into the book, each under the table it is of.
 */
import { readU32Be } from '../../bytes';
import type { Method, Sighting, Standing, Table, Value } from '../../model';
import { HarvestedRow, type RowPlace } from '../row';
import { RowOrder } from '../row-order';
import { addSighting, type RowBook } from '../rowbook';
import { carve, carveCell } from './carve/carve';
import type { CarveContext, Found, GoesOn } from './carve/found';
import { surest } from './carve/overlaps';
import { CellEnds } from './cell-ends';
import { PageUse, type Database } from './database';
import { entryRow, saysSomething } from './entries';
import { FreedChains } from './chains/freed-chains';
import { inColumns, type Overflowing, type Settled } from './chains/overflowing';
import { learnFromFreed } from './freed-shapes';
import {
	cellLength,
	cellPointer,
	firstUsed,
	freeRanges,
	INTERIOR_INDEX,
	INTERIOR_TABLE,
	isBlank,
	LEAF_INDEX,
	LEAF_TABLE,
	readPageHeader,
	type PageHeader
} from './page';
import { EarlierOwners } from './earlier-owners';
import { placeOf } from './reader';
import type { RowsInUse } from './rows-in-use';
import { bytesBehind, ENOUGH, type Shape } from './shape';
import { framesOf, recordsOf, replacedPages } from './states';
import type { StoreTables } from './store-tables';
import { ChainClaims, markOf } from './chains/claims';
import { textsInUse } from './chains/seams';
import {
	areDocuments,
	documentsWithin,
	longTexts,
	strayTexts,
	textsWithin,
	withoutValueBefore,
	type LongTexts,
	type StrayText,
	type UnusedRange
} from './chains/stray';
import type { PageAt, PageView } from './view';

/** Rows of a page from which it is told what table it was of, and the share of them that must be alike. */
const SAY_WHOSE = 3;
const OF_ONE_TABLE = 0.9;

export class LostRows {
	/** What the carver goes by on pages of the present state, by the shape of the page's owner. */
	private readonly present = new Map<Shape | null, CarveContext[]>();
	private readonly entries: HarvestedRow[] = [];
	/** Overflow pages that cells of earlier states lead to. */
	private readonly chained = new Set<number>();
	/** Chains that cells found in freed space lead to, of the present state. */
	private readonly chains: FreedChains;
	/** Where rows go on that are not in the book yet. */
	private readonly goingOn = new Map<HarvestedRow, GoesOn>();
	private readonly ends: CellEnds;
	private readonly owners: EarlierOwners;
	private readonly claims: ChainClaims;

	constructor(
		private readonly db: Database,
		private readonly tables: StoreTables,
		private readonly book: RowBook,
		private readonly inUse: RowsInUse
	) {
		this.ends = new CellEnds(db, book);
		this.owners = new EarlierOwners(db, tables);
		this.claims = new ChainClaims(db);
		this.chains = new FreedChains(
			db,
			(page) => db.isFree(page),
			(page) => db.use[page] === PageUse.FreelistTrunk
		);
	}

	/** Looks rows up by all shapes known by now. */
	prepare(): void {
		this.tables.prepare();
		this.present.clear();
	}

	/**
	 * Where a table has hardly a row in use, what its rows look like is first learned from freed cells that prove
	 * themselves whole; only then are damaged ones judged by it.
	 */
	learnFromFreed(): void {
		const { db, tables } = this;
		const unknown = tables.shapes.filter(
			(s) => !s.entryOf && s.rows < ENOUGH && s.tables.some((t) => t > 0 && !/^sqlite_/i.test(tables.list[t]!.name))
		);
		if (unknown.length === 0) return;
		learnFromFreed(db, unknown, this.contexts(db.current, null));
		this.prepare();
	}

	/** Notes which overflow pages the cells of such a page led to, before any that are freed are looked at. */
	claimChains(page: number, at: PageAt, view: PageView): void {
		this.claims.take(this.db.files.sources[at.file]!.read(at.offset, this.db.pageSize), page, view);
	}

	/** A page as some earlier state had it: its cells were in use then, its free stretches were not. */
	pageImage(page: number, at: PageAt, view: PageView, standing: Standing, method: Method): void {
		const { db, tables } = this;
		const bytes = db.files.sources[at.file]!.read(at.offset, db.pageSize);
		if (bytes.length < db.pageSize) return;
		const header = readPageHeader(bytes, page, db.usable);
		if (!header) {
			// An overflow page: behind the end of what it held, and that is stated nowhere here, it is as it was before.
			if (!isBlank(bytes)) this.carveRanges(bytes, [{ from: 4, to: db.usable }], page, at, view, null, null, 'freed-page');
			return;
		}
		const then = this.owners.of(page, view, at.frame);
		const owner = then ?? tables.ownerOf(page);
		if (header.type === LEAF_TABLE) {
			const rows = this.cellsAsRows(bytes, header, page, at, view, standing, method, owner);
			this.place(rows, owner, then !== null);
			const preferred = tables.shapeOn(page, owner);
			this.carveRanges(bytes, freeRanges(bytes, header, db.usable), page, at, view, preferred, owner, 'freed-cell');
		} else {
			if (owner?.withoutRowid && header.type !== INTERIOR_TABLE && !this.wasOfIndex(owner, bytes, header, page, at, view))
				this.inUse.readCells(owner, page, bytes, header, at, view, standing, method, (row) => void this.book.addLost(row, [owner.index]));
			else if (header.type !== INTERIOR_TABLE) this.place(this.cellsAsRows(bytes, header, page, at, view, standing, method, null), null);
			this.carveRanges(bytes, freeRanges(bytes, header, db.usable), page, at, view, tables.shapeOn(page, owner), owner, 'freed-cell');
		}
	}

	/** Whether an earlier state of a page that a table without rowids has now was that of one of its indexes. */
	private wasOfIndex(owner: Table, bytes: Uint8Array, header: PageHeader, page: number, at: PageAt, view: PageView): boolean {
		if (!this.tables.ofIndexes.all.some(({ shape }) => shape.entryOf?.table === owner.index)) return false;
		const cells = this.cellsAsRows(bytes, header, page, at, view, 'remnant', 'raw-bytes', null);
		return cells.filter((row) => row.place.method === 'index-entry').length > cells.length / 2;
	}

	/** Looks through what of a page is not in use; returns how many bytes that is. */
	freedPage(page: number, use: number, bytes: Uint8Array, at: PageAt): number {
		const { db, tables } = this;
		if (use !== PageUse.LeafTable && isBlank(bytes)) return db.usable;
		const view = db.current;
		const header = use === PageUse.FreelistTrunk ? null : readPageHeader(bytes, page, db.usable);
		if (use === PageUse.Overflow) {
			// The engine writes what it has: behind it the page is as it was before.
			const from = db.chainEnd[page] || db.usable;
			if (from < db.usable) this.carveRanges(bytes, [{ from, to: db.usable }], page, at, view, null, null, 'freed-cell');
			return db.usable - from;
		}
		if (use >= PageUse.LeafTable && use <= PageUse.InteriorIndex && header) {
			// A root that grew was a leaf once, and a page can have had another owner: interior and index pages count too.
			const owner = tables.ownerOf(page);
			const ranges = freeRanges(bytes, header, db.usable);
			if (owner?.index !== 0) this.carveRanges(bytes, ranges, page, at, view, tables.shapeOn(page, owner), owner, 'freed-cell');
			return ranges.reduce((sum, r) => sum + r.to - r.from, 0);
		}
		if (header && header.type !== INTERIOR_TABLE && (header.type === LEAF_TABLE || tables.ofIndexes.all.length > 0)) {
			const rows = this.cellsAsRows(bytes, header, page, at, view, 'remnant', 'freed-page', null);
			const ranges = freeRanges(bytes, header, db.usable);
			const found = this.carveRanges(bytes, ranges, page, at, view, this.shapeOfMost(rows), null, 'freed-page', false);
			const owner = header.type === LEAF_TABLE && page <= db.current.pageCount ? this.owners.of(page, view, Infinity) : null;
			if (owner) {
				this.place(rows, owner, true);
				this.place(found, owner);
			} else this.place([...rows, ...found], null);
			return db.usable;
		}
		// A page within the database begins with a header of its own or the number of the next overflow page: with no cell.
		const from =
			use === PageUse.FreelistTrunk ? 8 + Math.min(readU32Be(bytes, 4), db.usable / 4) * 4 : page <= db.current.pageCount ? 4 : 0;
		this.carveRanges(bytes, [{ from, to: db.usable }], page, at, view, null, null, 'freed-page');
		return db.usable;
	}

	/** What nearly all rows of a page look like: its cells are of one table. */
	private shapeOfMost(rows: readonly HarvestedRow[]): Shape | null {
		const counts = new Map<Shape, number>();
		for (const row of rows) counts.set(this.tables.shape(row.table), (counts.get(this.tables.shape(row.table)) ?? 0) + 1);
		const [most] = [...counts].sort((a, b) => b[1] - a[1]);
		return most && most[1] >= SAY_WHOSE && most[1] >= rows.length * OF_ONE_TABLE ? most[0] : null;
	}

	/** The pages of a stretch of the file. An image of a disk is mostly nothing: pages of zeros are passed at once. */
	rawPages(block: Uint8Array, offset: number): void {
		const { pageSize, files } = this.db;
		for (let at = 0; at + pageSize <= block.length; at += pageSize) {
			at = Math.floor(firstUsed(block, at) / pageSize) * pageSize;
			const bytes = block.subarray(at, at + pageSize);
			const page = (offset + at) / pageSize + 1;
			if (bytes.length === pageSize) this.freedPage(page, PageUse.Unreached, bytes, { file: files.db, offset: offset + at, frame: 0 });
		}
	}

	/** The beginning of a page that the end of a cut file left; returns its bytes. */
	cutPage(): number {
		const { db } = this;
		const source = db.files.sources[db.files.db]!;
		const rest = source.size % db.pageSize;
		if (rest === 0) return 0;
		const offset = source.size - rest;
		const at: PageAt = { file: db.files.db, offset, frame: 0 };
		this.carveRanges(source.read(offset, rest), [{ from: 0, to: rest }], offset / db.pageSize + 1, at, db.current, null, null, 'raw-bytes');
		return rest;
	}

	/** Entries of indexes come last: they are parts of rows, and must find those first. */
	addEntries(): void {
		for (const row of this.entries.splice(0)) this.book.addLost(row, [row.table]);
	}

	/** Rows in use whose chain breaks: what is left behind the break is looked for with that of others. */
	addBroken(broken: readonly Overflowing[]): void {
		this.chains.addInUse(broken);
	}

	/** Takes back what freed cells were given of pages that are another's, and gives them what is left behind a break. */
	settleChains(): void {
		const orders = new Map<number, RowOrder>();
		const fitsRow = ({ row, shape, left }: Settled): boolean => {
			const order = orders.get(row.table) ?? new RowOrder(this.book.rowsOf(row.table));
			orders.set(row.table, order);
			return order.fits(row.rowid, inColumns(row, shape, left.values));
		};
		for (const { row, shape, left, restOn } of this.chains.settle(fitsRow, () => textsInUse(this.book.rows))) {
			row.values = inColumns(row, shape, left.values);
			row.cut = left.cut < 0 ? -1 : shape.order[left.cut]!;
			row.rest = left.rest ?? undefined;
			// All of it is there, but joined by what it holds.
			row.grade = left.cut < 0 && !left.values.includes(undefined) ? 'rebuilt' : 'fragment';
			for (const sighting of row.sightings) sighting.grade = row.grade;
			const at = restOn > 0 ? this.db.current.locate(restOn) : null;
			if (at) addSighting(row, { ...seenOn(at, restOn), length: this.db.usable, standing: row.standing });
		}
	}

	/**
	 * Ends of long texts on overflow pages whose cell is gone; returns the bytes of those pages. They are taken only where all long texts of the store
	 * belong to one table's one column, so that it is certain whose they are; what a known row has already is no new one.
	 */
	addStrays(): number {
		const { db, tables } = this;
		const free: number[] = [];
		for (let page = 2; page <= db.current.pageCount; page++) {
			if (db.isFree(page) && !this.chained.has(page) && !this.chains.owned.has(page)) free.push(page);
		}
		// Without chains there are no texts so long: not all rows need be made for that.
		const owner = free.length > 0 || db.use.includes(PageUse.Overflow) ? longTexts(this.book.rows, db.usable) : null;
		if (!owner) return 0;
		const behind = bytesBehind(tables.shape(owner.table), owner.column);
		let bytes = this.addTexts(strayTexts(free, db.current, db.usable, db.encoding, owner.known, behind), owner);
		if (db.encoding === 'utf8' && areDocuments(owner.known))
			for (const some of documentsWithin(this.unusedRanges())) bytes += this.addTexts(some, owner);
		return bytes;
	}

	/** Adds those that no known row has already; returns the bytes of all. */
	private addTexts(found: readonly StrayText[], { table, column, known }: LongTexts): number {
		const repeated = textsWithin(found, known);
		for (const stray of found) {
			if (repeated.has(stray)) continue;
			const values: (Value | undefined)[] = this.tables.list[table]!.columns.map(() => undefined);
			values[column] = column > 0 ? withoutValueBefore(stray.text) : stray.text;
			const place = placeOf(stray.at, stray.page, 'overflow-page');
			this.book.addLost(
				new HarvestedRow(table, true, null, values, column, 'remnant', 'fragment', place, stray.from, stray.to - stray.from),
				[table]
			);
		}
		return found.reduce((bytes, stray) => bytes + stray.to - stray.from, 0);
	}

	/** The bytes that nothing uses, of the present state and of those before. */
	private *unusedRanges(): Generator<UnusedRange> {
		const { db } = this;
		for (let page = 2; page <= db.current.pageCount; page++) {
			const use = db.use[page]!;
			const [bytes, at] = [db.current.read(page), db.current.locate(page)];
			if (!bytes || !at || use === PageUse.PointerMap || use === PageUse.LockByte) continue;
			const isTree = use >= PageUse.LeafTable && use <= PageUse.InteriorIndex;
			if (isTree) yield* this.unusedOf(page, at, bytes);
			else yield { page, at, bytes, from: use === PageUse.Overflow ? db.chainEnd[page] || db.usable : 4, to: db.usable };
		}
		for (const { page, at } of this.earlierPages()) {
			const bytes = db.files.sources[at.file]!.read(at.offset, db.pageSize);
			if (bytes.length === db.pageSize) yield* this.unusedOf(page, at, bytes);
		}
	}

	/** Of a page of a tree what is free on it, of any other all. */
	private *unusedOf(page: number, at: PageAt, bytes: Uint8Array): Generator<UnusedRange> {
		const header = readPageHeader(bytes, page, this.db.usable);
		if (!header) yield { page, at, bytes, from: 4, to: this.db.usable };
		else for (const range of freeRanges(bytes, header, this.db.usable)) yield { page, at, bytes, ...range };
	}

	/** Pages of the log and the journal, and of the file behind them, that are not those of the present state. */
	private *earlierPages(): Generator<{ page: number; at: PageAt }> {
		const { db } = this;
		for (const [file, list] of [[db.files.wal, framesOf(db)] as const, [db.files.journal, recordsOf(db)] as const])
			for (const { page, offset, number } of list) {
				const now = db.current.locate(page);
				if (now?.file !== file || now.offset !== offset) yield { page, at: { file, offset, frame: number } };
			}
		for (const page of replacedPages(db)) yield { page, at: { file: db.files.db, offset: (page - 1) * db.pageSize, frame: 0 } };
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
		const { db, tables } = this;
		const index = header.type !== LEAF_TABLE;
		if (index && tables.ofIndexes.all.length === 0) return [];
		const ctx = this.context(
			view,
			owner && owner.withoutRowid === index ? tables.shape(owner.index) : null,
			index ? tables.ofIndexes : tables.ofTables,
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
			if (found) rows.push(this.rowOf(found, place, standing, view));
		}
		return rows;
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
		const both = ofIndexes && !(beyond && this.tables.onlyEntries) ? ofIndexes : null;
		for (const { from, to } of ranges) {
			const found = carve(bytes, from, to, ofTables!);
			const cells = both ? surest([...found, ...carve(bytes, from, to, both)]) : found;
			for (const cell of cells) rows.push(this.rowOf(cell, where, 'remnant', view));
			const shape = preferred ?? shapeOfAll(cells);
			const whose = owner ?? (shape?.tables.length === 1 ? this.tables.list[shape.tables[0]!]! : null);
			if (!shape || !whose || shape.entryOf) continue;
			const ctx = shape.withoutRowid && both ? both : ofTables!;
			rows.push(...this.ends.before(bytes, { from, to }, cells, { shape, table: whose, where, ctx }));
		}
		if (place) this.place(rows, owner);
		return rows;
	}

	/** For cells of tables and, where there are WITHOUT ROWID tables or indexes, for those of their pages. */
	private contexts(view: PageView, preferred: Shape | null): CarveContext[] {
		const known = view === this.db.current ? this.present.get(preferred) : undefined;
		if (known) return known;
		const made = [this.context(view, preferred?.withoutRowid ? null : preferred)];
		if (this.tables.ofIndexes.all.length > 0)
			made.push(this.context(view, preferred?.withoutRowid ? preferred : null, this.tables.ofIndexes, true));
		if (view === this.db.current) this.present.set(preferred, made);
		return made;
	}

	private context(view: PageView, preferred: Shape | null, shapes = this.tables.ofTables, index = false): CarveContext {
		const { db } = this;
		const free = (page: number): boolean => (view === db.current ? db.isFree(page) : page > 1);
		return {
			usable: db.usable,
			encoding: db.encoding,
			shapes,
			preferred,
			index,
			overflow: (local, size, first) => {
				const mark = markOf(local, size);
				const isOwn = (page: number): boolean => free(page) && !this.claims.isAnothers(page, view, mark);
				const chain = db.readOverflow(view, local, size, first, isOwn);
				if (view !== db.current && chain.complete) for (const page of chain.pages) this.chained.add(page);
				return chain;
			}
		};
	}

	/**
	 * Takes rows of one page into the book, under the page's table where that is known or can be told from its rows. `isSure`:
	 * the tree of its owner led to it as it was then.
	 */
	private place(rows: HarvestedRow[], owner: Table | null, isSure = false): void {
		for (const { shape, among, list } of this.byLooks(rows)) {
			const { table, voted } = among.length === 1 ? { table: among[0]!, voted: true } : this.tableOf(list, among, owner, isSure);
			const isAlike = among.length > shape.tables.length;
			const fitting = table < 0 && isAlike ? shape.tables[0]! : table;
			for (const row of list) {
				if (row.place.method === 'index-entry') {
					if (saysSomething(row, shape)) this.entries.push(row);
					continue;
				}
				row.tableKnown = fitting >= 0;
				if (fitting >= 0 && !voted) row.tableByPage = true;
				if (table < 0 && isAlike) row.tableByLooks = true;
				row.table = fitting >= 0 ? fitting : shape.tables[0]!;
				const known = this.book.addLost(row, fitting < 0 ? shape.tables : voted || !isAlike ? [fitting] : among);
				const goesOn = this.goingOn.get(row);
				// A copy of a row that some state uses has its part in whose pages are whose; that row itself is sure without it.
				const isSure = known !== null && known.standing !== 'remnant' && known.grade === 'whole';
				if (known && goesOn) this.chains.add(isSure ? row : known, goesOn);
				this.goingOn.delete(row);
			}
		}
	}

	/**
	 * A page's rows by what they look like, with the tables that look so; where tables look alike whose columns have other
	 * names, with the shape of the one that most of these rows fit.
	 */
	private byLooks(rows: readonly HarvestedRow[]): { shape: Shape; among: readonly number[]; list: HarvestedRow[] }[] {
		const groups = new Map<string | Shape, { shapes: Map<Shape, number>; among: number[]; list: HarvestedRow[] }>();
		for (const row of rows) {
			const shape = this.tables.shape(row.table);
			const alike = shape.tables.length === 1 && !shape.entryOf ? this.tables.alike(shape.tables[0]!) : [];
			const among = [...shape.tables, ...alike].sort((a, b) => a - b);
			const key = shape.entryOf ? shape : among.join();
			const group = groups.get(key) ?? { shapes: new Map<Shape, number>(), among, list: [] };
			groups.set(key, group);
			group.shapes.set(shape, (group.shapes.get(shape) ?? 0) + 1);
			group.list.push(row);
		}
		return [...groups.values()].map(({ shapes, among, list }) => {
			const [[shape]] = [...shapes].sort((a, b) => b[1] - a[1]) as [[Shape, number]];
			return { shape, among, list };
		});
	}

	/**
	 * Which of several tables a page's rows are of, and whether rows of it say so; -1 where nothing does. A page can have had another owner
	 * than it has now: rows known in another table, and not in the owner's, say so.
	 */
	private tableOf(rows: HarvestedRow[], among: readonly number[], owner: Table | null, isSure: boolean): { table: number; voted: boolean } {
		const own = owner && among.includes(owner.index) ? owner.index : -1;
		if (own >= 0 && isSure) return { table: own, voted: true };
		const none = { all: 0, sure: 0 };
		let most = own < 0 ? none : this.book.votes(rows, own);
		let table = own;
		if (own >= 0 && most.sure > 0) return { table: own, voted: true };
		for (const candidate of among) {
			const votes = candidate === own ? none : this.book.votes(rows, candidate);
			if (votes.sure > most.sure || (votes.sure === most.sure && votes.all > most.all)) {
				most = votes;
				table = candidate;
			}
		}
		return { table, voted: most.sure > 0 };
	}

	/** Whether pages are now as they were in another state: whose they are is settled by what they hold now. */
	private areTheSame(pages: readonly number[], view: PageView): boolean {
		const { current } = this.db;
		if (view === current) return true;
		return pages.every((page) => {
			const [then, now] = [view.read(page), current.read(page)];
			return then !== null && now !== null && then.every((byte, i) => byte === now[i]);
		});
	}

	private rowOf(found: Found, place: RowPlace, standing: Standing, view: PageView): HarvestedRow {
		if (found.shape.entryOf) return entryRow(found, found.shape.entryOf, this.tables.list, place, standing);
		const table = this.tables.list[found.shape.tables[0]!]!;
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
		if (
			found.goesOn &&
			standing === 'remnant' &&
			this.areTheSame([...found.goesOn.pages, ...(found.goesOn.broke > 0 ? [found.goesOn.broke] : [])], view)
		)
			this.goingOn.set(row, found.goesOn);
		return row;
	}
}

/** What all cells look like, where they look alike. */
const shapeOfAll = ([first, ...others]: readonly Found[]): Shape | null =>
	first && others.every((cell) => cell.shape === first.shape) ? first.shape : null;

/** An overflow page as the place where a part of a row was seen. */
const seenOn = ({ file, offset, frame }: PageAt, page: number): Omit<Sighting, 'length' | 'standing'> => ({
	file,
	offset,
	page,
	...(frame ? { frame } : {}),
	method: 'overflow-page',
	grade: 'fragment'
});

/** Rows in use: the cells of a table's tree, from its root down (section 1.6). */
import { readU32Be } from '../../bytes';
import type { Method, Standing, Table } from '../../model';
import type { Progress } from '../harvested';
import { HarvestedRow } from '../row';
import type { KeptTaker } from '../rowbook';
import { eachCell, type TakeCell } from './cells';
import { ChainsInUse } from './chains/in-use';
import { PageUse, type Database } from './database';
import { cellPointer, INTERIOR_TABLE, LEAF_TABLE, readPageHeader, type PageHeader } from './page';
import { CellReader, declaredOrder, placeOf } from './reader';
import { scanRecord } from './record';
import { learn, learnScanned } from './shape';
import type { StoreTables } from './store-tables';
import { readSignedVarint, readVarint, varintLength } from './varint';
import type { PageAt, PageView } from './view';

/** Bytes after which it is said how far a look is: pages of all sizes, and the blocks a source is read in, are parts or multiples of it. */
export const STEP = 512 << 10;

type TakeRow = (row: HarvestedRow) => void;

export class RowsInUse {
	readonly chains: ChainsInUse;

	constructor(
		private readonly db: Database,
		private readonly tables: StoreTables
	) {
		this.chains = new ChainsInUse(db);
	}

	/** Reads every row in use once and hands it on; nothing is kept here. */
	*read(taker: KeptTaker): Generator<Progress, void, void> {
		const { db, tables } = this;
		const total = db.current.pageCount * db.pageSize;
		tables.readSchema();
		const take: TakeRow = (row) => taker.addKept(row);
		let done = 0;
		let nextReport = 0;
		for (const table of tables.list) {
			if (table.dropped || table.rootPage <= 1) continue;
			const reader = new CellReader(table, db);
			const visit = (page: number, bytes: Uint8Array, header: PageHeader, at: PageAt): void => {
				if (header.type === LEAF_TABLE && !table.withoutRowid) this.readLeaf(table, page, bytes, header, at, reader, taker);
				else this.readCells(table, page, bytes, header, at, db.current, 'kept', 'row-in-use', take);
				done += db.pageSize;
			};
			// The walk itself cannot yield; big tables are walked child by child of the root.
			for (const root of tables.roots(table).flatMap((r) => this.subtrees(table, r))) {
				db.walk(db.current, root, visit, tables.ownerNumber(table));
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
		db.owner[root] = this.tables.ownerNumber(table);
		const children: number[] = [];
		for (let i = 0; i < header.cellCount; i++) {
			const pointer = cellPointer(bytes, header, i, db.usable);
			if (pointer >= 0 && pointer + 4 <= bytes.length) children.push(readU32Be(bytes, pointer));
		}
		if (header.rightChild) children.push(header.rightChild);
		return children;
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
		const shape = this.tables.shape(table.index);
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
	readCells(
		table: Table,
		page: number,
		bytes: Uint8Array,
		header: PageHeader,
		at: PageAt,
		view: PageView,
		standing: Standing,
		method: Method,
		take: TakeRow,
		only?: readonly number[]
	): void {
		const shape = this.tables.shape(table.index);
		const inOrder = declaredOrder(table);
		const place = placeOf(at, page, method);
		const add: TakeCell = (stored, rowid, offset, length, whole, cut, chain) => {
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
			if (standing === 'kept') learn(shape, row.rowid, values, count, this.db.encoding);
			if (chain && standing === 'kept') this.chains.add(row, shape, page, chain);
			take(row);
		};
		eachCell(this.db, bytes, header, page, at, view, table.withoutRowid, add, only);
	}
}

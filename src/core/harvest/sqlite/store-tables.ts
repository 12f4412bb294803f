/** The tables and indexes of a store, those dropped as well, and what the rows and entries of each look like. */
import type { Table, Value } from '../../model';
import { sameValue } from '../compare';
import type { RowBook } from '../rowbook';
import { carve } from './carve/carve';
import type { CarveContext } from './carve/found';
import { eachCell } from './cells';
import { ShapeIndex } from './compiled';
import { MOST_OWNERS, PageUse, type Database } from './database';
import { inferEncoding, inferTables } from './infer';
import { freeRanges, LEAF_TABLE, readPageHeader } from './page';
import { parseCreateTable, SCHEMA_TABLE } from './schema';
import { entryShape, keyedEntryShape, learn, shapeKey, shapeOf, type Shape } from './shape';
import type { PageAt } from './view';

/** Entries from which the shape of an index is learned. */
const ENTRIES_LEARNED = 2000;
/** In the record of pages' owners: tables come first, by number, then the indexes. */
const FIRST_INDEX = 32768;

interface Index {
	root: number;
	table: number;
	shape: Shape | null;
}

export class StoreTables {
	readonly list: Table[] = [];
	/** Of tables, one for all that look the same, and of indexes. */
	readonly shapes: Shape[] = [];
	/** For rows of tables' pages. */
	ofTables = new ShapeIndex([]);
	/** For index pages: rows of WITHOUT ROWID tables and entries of indexes. */
	ofIndexes = new ShapeIndex([], true);
	/** Whether those are all entries of indexes, and no rows of WITHOUT ROWID tables. */
	onlyEntries = true;
	private readonly byTable: Shape[] = [];
	private readonly indexes: Index[] = [];
	/** Further roots of tables told from their rows alone. */
	private readonly moreRoots = new Map<number, number[]>();

	constructor(private readonly db: Database) {}

	/** What the rows of a table look like. */
	shape(table: number): Shape {
		return this.byTable[table]!;
	}

	/** Where the trees of a table begin. */
	roots(table: Table): number[] {
		return [table.rootPage, ...(this.moreRoots.get(table.index) ?? [])];
	}

	/** How a table is named in the record of pages' owners. */
	ownerNumber(table: Table): number {
		return Math.min(table.index + 1, FIRST_INDEX - 1);
	}

	/** Reads the schema (section 2.6); where it is gone tables are told from their rows. */
	readSchema(): void {
		const { db } = this;
		const schemaShape = shapeOf(SCHEMA_TABLE);
		this.add({ ...SCHEMA_TABLE }, schemaShape);
		const rows: (Value | undefined)[][] = [];
		db.walk(
			db.current,
			1,
			(page, bytes, header, at) => {
				eachCell(db, bytes, header, page, at, db.current, false, (values) => rows.push(values));
			},
			1
		);
		// Indexes and virtual tables own pages too; only tables with stored rows are read.
		for (const [type, name, , root, sql] of rows) {
			if (typeof root !== 'number' || root <= 0) continue;
			if (type === 'table' && typeof sql === 'string') {
				const parsed = parseCreateTable(sql, String(name));
				if (parsed) {
					this.add({ ...parsed, name: String(name), index: 0, rootPage: root, dropped: false });
					continue;
				}
				db.note('table-unreadable', { table: String(name) }, null, 'warning');
			}
		}
		for (const [type, , owner, root] of rows) {
			if (type === 'index' && typeof root === 'number' && root > 1)
				this.indexes.push({ root, table: this.list.findIndex((t) => t.name === owner), shape: null });
		}
		if (this.list.length > 1 || rows.some(([type]) => type === 'table')) return;
		db.note('schema-damaged', {}, null, 'warning');
		db.encoding = db.header?.magic ? db.encoding : (inferEncoding(db) ?? db.encoding);
		for (const { table, roots } of inferTables(db)) {
			const added = this.add({ ...table, index: 0 });
			this.moreRoots.set(added.index, roots.slice(1));
		}
	}

	private add(table: Table, shape?: Shape): Table {
		table.index = this.list.length;
		this.list.push(table);
		const key = shapeKey(table);
		const known = shape ? undefined : this.shapes.find((s) => s.tables.length > 0 && shapeKey(this.list[s.tables[0]!]!) === key);
		if (known) known.tables.push(table.index);
		else {
			const own = shape ?? shapeOf(table);
			own.tables = [table.index];
			this.shapes.push(own);
		}
		this.byTable[table.index] = known ?? this.shapes.at(-1)!;
		return table;
	}

	/** Walks the indexes; `book` has the rows in use that their entries repeat. */
	readIndexes(book: RowBook): void {
		for (const index of this.indexes) this.readIndex(index, book);
	}

	/**
	 * Walks an index, marks its pages, and learns from some of its entries what they look like and which columns of
	 * its table they repeat (section 2.5 "Representation Of SQL Indices": the indexed values, then the rowid).
	 */
	private readIndex(index: Index, book: RowBook): void {
		const { db } = this;
		const table = this.list[index.table];
		const samples: (Value | undefined)[][] = [];
		db.walk(
			db.current,
			index.root,
			(page, bytes, header, at) => {
				if (samples.length < ENTRIES_LEARNED && header.type !== LEAF_TABLE)
					eachCell(db, bytes, header, page, at, db.current, true, (values) => samples.push(values));
			},
			Math.min(FIRST_INDEX + this.indexes.indexOf(index), MOST_OWNERS)
		);
		const count = samples[0]?.length ?? 0;
		if (!table || count < 2 || samples.some((s) => s.length !== count)) return;
		const shape = table.withoutRowid
			? keyedEntryShape(table.index, count)
			: entryShape(table.index, entryColumns(book, table, samples, count), count);
		for (const s of samples) learn(shape, null, s, count, db.encoding);
		index.shape = shape;
		this.shapes.push(shape);
	}

	/**
	 * Tables that are no longer in the schema: their schema rows from earlier pages and freed space of the schema's
	 * own pages give the shape of rows whose table was dropped.
	 */
	readDropped(
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
		const ctx: CarveContext = {
			usable: db.usable,
			encoding: db.encoding,
			shapes: new ShapeIndex([shape]),
			preferred: shape,
			index: false,
			overflow: (local: Uint8Array, size: number, first: number) => db.readOverflow(db.current, local, size, first, (p) => db.isFree(p))
		};
		for (const { page, at } of pages.slice(0, 5000)) {
			const bytes = db.files.sources[at.file]!.read(at.offset, db.pageSize);
			const header = readPageHeader(bytes, page, db.usable);
			if (!header || header.type !== LEAF_TABLE || bytes.length < db.pageSize) continue;
			eachCell(db, bytes, header, page, at, db.current, false, (values) => this.addDropped(values));
			for (const range of freeRanges(bytes, header, db.usable)) {
				for (const found of carve(bytes, range.from, range.to, ctx)) if (found.cut < 0) this.addDropped(found.values);
			}
		}
	}

	private addDropped(values: (Value | undefined)[]): void {
		const [type, name, , root, sql] = values;
		if (typeof sql !== 'string' || (type !== 'table' && !/^create\s+table/i.test(sql))) return;
		const parsed = parseCreateTable(sql, typeof name === 'string' ? name : '');
		if (!parsed || parsed.name === '') return;
		const key = shapeKey({ ...parsed, index: 0, rootPage: 0, dropped: true });
		const same = this.list.find((t) => t.name === parsed.name && shapeKey(t) === key);
		if (same || this.list.length > 20_000) return;
		const grown = this.list.find((t) => isGrownFrom(t, parsed, typeof root === 'number' ? root : 0));
		if (grown) {
			// Rows from before have no more columns than it had then.
			const own = this.byTable[grown.index]!;
			own.fewest = Math.min(own.fewest, parsed.columns.length);
			return;
		}
		this.add({ ...parsed, index: 0, rootPage: typeof root === 'number' ? root : 0, dropped: true });
	}

	/** Makes what the carver looks rows up by, of all shapes known so far. */
	prepare(): void {
		// The engine's own tables (sequences, statistics, what a text index is made of) hold no messages.
		const names = new Set(this.list.map((t) => t.name));
		const isEngines = ({ name, withoutRowid }: Table): boolean =>
			/^sqlite_/i.test(name) || (withoutRowid && OF_TEXT_INDEX.test(name) && names.has(name.replace(OF_TEXT_INDEX, '_data')));
		const own = this.shapes.filter((s) => s.entryOf !== undefined || s.tables.some((t) => !isEngines(this.list[t]!)));
		this.ofTables = new ShapeIndex(own);
		this.ofIndexes = new ShapeIndex(own, true);
		this.onlyEntries = this.ofIndexes.all.every((compiled) => compiled.shape.entryOf !== undefined);
	}

	/** Whether rows of several tables can look alike: they have as many columns. */
	haveAlike(): boolean {
		const counts = this.list.filter((t) => t.index > 0 && !t.withoutRowid).map((t) => t.columns.length);
		return new Set(counts).size < counts.length;
	}

	/** Tables in use whose rows can look like a table's, though their columns have other names: as many, of the same types. */
	alike(index: number): readonly number[] {
		let found = this.lookAlike.get(index);
		if (!found) {
			const key = typesOf(this.list[index]!);
			found = this.list.filter((t) => t.index > 0 && t.index !== index && !t.dropped && typesOf(t) === key).map((t) => t.index);
			this.lookAlike.set(index, found);
		}
		return found;
	}
	private readonly lookAlike = new Map<number, number[]>();

	/** The table in whose tree a page is now. */
	ownerOf(page: number): Table | null {
		const { db } = this;
		if (page >= db.use.length) return null;
		const use = db.use[page];
		if (use !== PageUse.LeafTable && use !== PageUse.InteriorTable && use !== PageUse.LeafIndex && use !== PageUse.InteriorIndex)
			return null;
		return this.list[db.owner[page]! - 1] ?? null;
	}

	/** What the cells of a page's tree look like: its table's rows, or its index's entries. */
	shapeOn(page: number, owner: Table | null): Shape | null {
		if (owner) return this.byTable[owner.index]!;
		const { owner: owners } = this.db;
		const index = page < owners.length ? owners[page]! - FIRST_INDEX : -1;
		return this.indexes[index]?.shape ?? null;
	}
}

const typesOf = (t: Table): string => JSON.stringify([t.withoutRowid, t.rowidColumn, t.columns.map((c) => [c.type, c.notNull])]);

/** Whether an earlier declaration is that of a table in use, before columns were added to it, or before it was renamed. */
function isGrownFrom(table: Table, earlier: Pick<Table, 'name' | 'columns' | 'withoutRowid'>, root: number): boolean {
	if (table.dropped || table.withoutRowid !== earlier.withoutRowid || earlier.columns.length > table.columns.length) return false;
	if (table.name !== earlier.name && (root === 0 || table.rootPage !== root)) return false;
	return earlier.columns.every((c, i) => c.name === table.columns[i]!.name && c.type === table.columns[i]!.type);
}

/** FTS5, section 9 "Implementation and Data Structure": its two tables without rowids take anything for a value. */
const OF_TEXT_INDEX = /_(idx|config)$/;

/** Which column of the table each value of an index's entries repeats: told from rows that both have. */
function entryColumns(book: RowBook, table: Table, samples: (Value | undefined)[][], count: number): number[] {
	const pairs = samples.slice(0, 40).flatMap((s) => {
		const rowid = s[count - 1];
		const row = typeof rowid === 'number' || typeof rowid === 'bigint' ? book.keptRow(table.index, rowid) : null;
		return row ? [{ entry: s, row }] : [];
	});
	return Array.from({ length: count - 1 }, (_, k) =>
		pairs.length === 0
			? -1
			: table.columns.findIndex((_c, c) => pairs.every(({ entry, row }) => sameValue(entry[k] ?? null, row.values[c] ?? null)))
	);
}

/** The cells that a page's pointer array names (section 1.6), each as its stored values. */
import { canBeLarge, held } from '../large';
import { readU32Be } from '../../bytes';
import type { Value } from '../../model';
import type { ChainRead } from './carve/found';
import { PageUse, type Database } from './database';
import { cellPointer, INTERIOR_INDEX, isBlank, LEAF_TABLE, localPayload, type PageHeader } from './page';
import { readCutRecord, readRecord } from './record';
import { readSignedVarint, readVarint, varintLength } from './varint';
import type { PageAt, PageView } from './view';

/** The chain of overflow pages that a cell leads to, as it was followed. */
export interface CellChain {
	/** Where the payload begins on the cell's page, how much of it lies there, and how long it is, in bytes. */
	from: number;
	local: number;
	size: number;
	/** The page that the cell leads to. */
	first: number;
	/** How many pages of it are sure, and whether that is all of it. */
	sure: number;
	complete: boolean;
	/** Whether a pointer of it is certainly wrong: it ends elsewhere than it should, though all of the file is there. */
	wrong: boolean;
}

/** A cell as it lies on a page: its values in stored order, its rowid, its place, and what is missing of it. */
export type TakeCell = (
	values: (Value | undefined)[],
	rowid: number | bigint,
	offset: number,
	length: number,
	whole: boolean,
	cut: number,
	chain: CellChain | null
) => void;

/** Each cell of a leaf page (or of an interior page of an index tree) as its stored values. */
export function eachCell(
	db: Database,
	bytes: Uint8Array,
	header: PageHeader,
	page: number,
	at: PageAt,
	view: PageView,
	index: boolean,
	take: TakeCell,
	only?: readonly number[]
): void {
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
		let goesOn: CellChain | null = null;
		if (end <= usable && local === payload) values = readRecord(bytes, cursor, end, db.encoding);
		else if (end + 4 <= usable) {
			const first = readU32Be(bytes, end);
			const followed = db.readOverflow(view, bytes.subarray(cursor, end), payload, first, () => true);
			const chain = sureOf(db, view, followed, local);
			let { wrong } = chain;
			for (const p of view === db.current ? chain.pages : []) {
				if (db.use[p] !== PageUse.Unreached) wrong = true;
				else db.use[p] = PageUse.Overflow;
			}
			const last = chain.pages.at(-1);
			if (last !== undefined && view === db.current && chain.complete)
				db.chainEnd[last] = (4 + payload - local - (chain.pages.length - 1) * (usable - 4)) % usable;
			goesOn = { from: cursor, local, size: payload, first, sure: chain.pages.length, complete: chain.complete, wrong };
			whole = chain.complete;
			if (!whole) db.note('overflow-broken', { page, cell: i }, at, 'warning');
			values = readRecord(chain.payload, 0, chain.payload.length, db.encoding);
			if (values && view === db.current && canBeLarge(payload))
				values = heldValues(db, values, { page, from: cursor, to: end, payload, first });
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
		take(values, rowid, start, end - start + (local < payload ? 4 : 0), whole, cut, goesOn);
	}
}

/** Where a cell of the present state stands whose payload goes on elsewhere. */
interface CellPlace {
	page: number;
	from: number;
	to: number;
	payload: number;
	first: number;
}

/** The values of a record without the bytes of those that are too large to be held. */
function heldValues(
	db: Database,
	values: readonly (Value | undefined)[],
	{ page, from, to, payload, first }: CellPlace
): (Value | undefined)[] {
	return values.map((value, column) => {
		if (!(value instanceof Uint8Array)) return value;
		return held(value, () => {
			const bytes = db.current.read(page);
			if (!bytes) return null;
			const again = db.readOverflow(db.current, bytes.subarray(from, to), payload, first, () => true);
			const one = readRecord(again.payload, 0, again.payload.length, db.encoding)?.[column];
			return one instanceof Uint8Array ? one : null;
		});
	});
}

/** A file without a header is taken to be cut to no less than one part of so many. */
const CUT_TO = 4;

/**
 * What of a chain is sure: all of one that ends as it should. Of one that breaks where the file ends, or at a page that
 * was zeroed, what comes before; else a pointer of it is wrong, and nothing here says which: what lies on the cell's own page.
 */
function sureOf(db: Database, view: PageView, chain: ChainRead, local: number): ChainRead & { wrong: boolean } {
	if (chain.complete) return { ...chain, wrong: false };
	const last = chain.pages.at(-1);
	const zeroed = last !== undefined && isBlank(view.read(last)!);
	const beyond = chain.broke > db.filePages && chain.broke <= (db.header?.pageCount || db.filePages * CUT_TO);
	const pages = zeroed ? chain.pages.slice(0, -1) : beyond ? chain.pages : [];
	return { ...chain, wrong: !zeroed && !beyond, pages, payload: chain.payload.subarray(0, local + pages.length * (db.usable - 4)) };
}

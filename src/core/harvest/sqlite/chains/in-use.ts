/**
 * Chains of overflow pages that cells in use lead to (section 1.5 "Cell Payload Overflow Pages"), in a database whose
 * pointers are damaged: a wrong one can lead into another's chain, and that can end as this one should. In a database
 * that shows no wrong pointer every chain is believed, and nothing is looked at here.
 */
import { readU32Be } from '../../../bytes';
import type { Row } from '../../../model';
import type { HarvestedRow } from '../../row';
import { RowOrder } from '../../row-order';
import type { CellChain } from '../cells';
import { PageUse, type Database } from '../database';
import { isBlank, readPageHeader } from '../page';
import type { Shape } from '../shape';
import { readVarint, varintLength } from '../varint';
import { inColumns, type Overflowing } from './overflowing';
import { PartedChains, RATHER } from './parted';
import { Payloads } from './payloads';
import { textsInUse } from './seams';

/** Cells that are settled with each other; where there are more, chains are taken as they are. */
const CELLS_AT_MOST = 20_000;
/** Bytes of a payload that are looked at: longer ones are files. */
const PAYLOAD_AT_MOST = 4 << 20;
/** What is kept of a chain that is another's somewhere is the cell's as surely as that. */
const SURELY = 0.9;
/** Of wrong pointers so many lead nowhere by being 0, or not being it. */
const BREAKS_AT_END = 0.05;
/** For each chain that breaks there are no more wrong pointers than so. */
const WRONG_FOR_EACH_BROKEN = 2;

interface Leading {
	row: HarvestedRow;
	shape: Shape;
	page: number;
	chain: CellChain;
}

export class ChainsInUse {
	private readonly cells: Leading[] = [];
	private count = 0;
	private wrong = false;
	private readonly payloads: Payloads;

	constructor(private readonly db: Database) {
		this.payloads = new Payloads(db);
	}

	/** A cell in use on `page`, taken as `row`. */
	add(row: HarvestedRow, shape: Shape, page: number, chain: CellChain): void {
		this.count++;
		this.wrong ||= chain.wrong;
		if (this.cells.length < CELLS_AT_MOST && chain.size <= PAYLOAD_AT_MOST) this.cells.push({ row, shape, page, chain });
	}

	/**
	 * Where a pointer is wrong: leaves of each row only what goes on. `rows`: those in use, of one table or all. Gives
	 * those whose chain breaks, for what is left of it elsewhere.
	 */
	settle(rows: (table?: number) => readonly Row[]): Overflowing[] {
		const cells = this.cells.splice(0);
		if (this.count > CELLS_AT_MOST) return [];
		return this.wrong ? this.settleAll(cells, rows) : cells.flatMap((cell) => (cell.chain.complete ? [] : this.brokenAt(cell)));
	}

	/** One whose chain ends where the file does, or at a page that was zeroed. */
	private brokenAt(cell: Leading): Overflowing[] {
		const one = this.followed(cell);
		return one ? [left(one, cell.chain.sure, 1)] : [];
	}

	private settleAll(cells: readonly Leading[], rows: (table?: number) => readonly Row[]): Overflowing[] {
		const out: Overflowing[] = [];
		const broken = new Set<Overflowing>();
		const found = cells.flatMap((cell) => this.followed(cell, broken) ?? []);
		const led = new Set(found.flatMap(({ pages }) => [...pages]));
		const isFree = (page: number): boolean => this.db.isFree(page) && !led.has(page);
		const { of, right } = new PartedChains(this.db, this.payloads, isFree, found, 'kept', broken).likelihoods(
			textsInUse(rows()),
			rightAtLeast(found, broken.size)
		);
		const outOfOrder = this.outOfOrder(found, rows);
		const own: number[] = [];
		found.forEach((one, i) => {
			const likelihoods = of[i]!;
			const ends = !broken.has(one) ? outOfOrder(one) : one.broke > 0 && !this.isTooLong(one) ? 1 : (1 - right) * BREAKS_AT_END;
			const pages = ownPages(likelihoods, ends, broken.has(one));
			own.push(...one.pages.slice(0, pages));
			if (pages === one.pages.length && !broken.has(one)) return;
			this.cut(one, pages);
			out.push(left(one, pages, this.isGone(one.pages[pages] ?? one.broke) ? 1 : 0));
		});
		this.mark(led, own);
		return out;
	}

	/** Whether nothing is left of a page: it was zeroed, or the file was cut before it. */
	private isGone(page: number): boolean {
		const bytes = this.db.current.read(page);
		return bytes === null || isBlank(bytes);
	}

	/** Whether more pages follow than should. */
	private isTooLong = ({ local, size, pages }: Overflowing): boolean => local.length + pages.length * (this.db.usable - 4) >= size;

	/** How much less likely a row's time is its own than another's, by its record number: 1 where nothing says so. */
	private outOfOrder(found: readonly Overflowing[], rows: (table?: number) => readonly Row[]): (one: Overflowing) => number {
		const overflowing = new Set<Row>(found.map(({ row }) => row));
		const orders = new Map<number, RowOrder>();
		return ({ row }) => {
			let order = orders.get(row.table);
			if (!order) orders.set(row.table, (order = new RowOrder(rows(row.table).filter((other) => !overflowing.has(other)))));
			return order.contradicts(row.rowid, row.values) ? order.outOfOrder : 1;
		};
	}

	/** A cell with all the pages it leads to, rightly or not; null where its record's header does not lie on its page. */
	private followed({ row, shape, page, chain }: Leading, broken?: Set<Overflowing>): Overflowing | null {
		const local = this.db.current.read(page)!.slice(chain.from, chain.from + chain.local);
		const body = readVarint(local, 0, local.length);
		if (!(body <= local.length)) return null;
		const types: number[] = [];
		for (let at = varintLength; at < body; at += varintLength) {
			const type = readVarint(local, at, body);
			if (!(type >= 0)) return null;
			types.push(type);
		}
		const { pages, complete, broke } = this.db.readOverflow(this.db.current, local, chain.size, chain.first, this.canOverflow);
		const one = { row, shape, local, body, size: chain.size, types: Int32Array.from(types), first: chain.first, pages, broke };
		if (!complete) broken?.add(one);
		return one;
	}

	/** No page of a tree or of the map is one of a chain, nor is one that was a tree's: where a number of a page stands it would have none. */
	private canOverflow = (page: number): boolean => {
		const { db } = this;
		if (!db.isFree(page) && db.use[page] !== PageUse.Overflow) return false;
		const bytes = db.current.read(page);
		return bytes !== null && (readU32Be(bytes, 0) <= db.current.pageCount || readPageHeader(bytes, page, db.usable) === null);
	};

	private cut(one: Overflowing, pages: number): void {
		const { row, shape } = one;
		const { values, cut } = this.payloads.beginning(one, pages);
		row.values = inColumns(row, shape, values);
		row.cut = cut < 0 ? -1 : shape.order[cut]!;
		row.grade = 'fragment';
		for (const sighting of row.sightings) sighting.grade = 'fragment';
	}

	/** Of the pages that cells lead to only those count as used that are a cell's. */
	private mark(led: Iterable<number>, own: readonly number[]): void {
		const { use } = this.db;
		for (const page of led) if (use[page] === PageUse.Overflow) use[page] = PageUse.Unreached;
		for (const page of own) if (use[page] === PageUse.Unreached) use[page] = PageUse.Overflow;
	}
}

/** A row of whose chain so many pages are its own; the rest of it is somewhere else, if it is. */
const left = (one: Overflowing, own: number, lost: number): Overflowing => ({
	...one,
	pages: [],
	broke: one.pages[own] ?? one.broke,
	inUse: { own: one.pages.slice(0, own), lost }
});

/** The share of pointers that are right, if each broken chain has one that is wrong, and nearly each wrong one breaks a chain. */
function rightAtLeast(found: readonly Overflowing[], broken: number): number {
	const pointers = found.reduce((sum, { pages }) => sum + 1 + pages.length, 0);
	return 1 - Math.min(1, (broken * WRONG_FOR_EACH_BROKEN) / pointers);
}

/**
 * How many pages of a chain are the cell's: as many as come before the first that is not. `ends`: how likely a chain is
 * to end as this one does if all are, against how likely it is of others.
 */
function ownPages(likelihoods: readonly number[], ends: number, broken: boolean): number {
	let before = 1;
	const firstWrong = likelihoods.map((right) => {
		const here = before * (1 - right);
		before *= right;
		return here;
	});
	const none = before * ends;
	const all = 1 - before + none;
	if (!broken && (none >= all * RATHER || (ends === 1 && likelihoods.every((right) => right >= RATHER)))) return likelihoods.length;
	let sum = 0;
	const pages = firstWrong.findIndex((here) => (sum += here) > all * (1 - SURELY));
	return pages < 0 ? likelihoods.length : pages;
}

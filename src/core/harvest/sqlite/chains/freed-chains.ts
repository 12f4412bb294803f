/**
 * Chains of overflow pages that freed cells lead to (section 1.5 "Cell Payload Overflow Pages"). A page that is freed
 * keeps its bytes until it is used again, and then another row's stand there: so once all cells are found it is settled
 *
 * - *whose each page is*, where two cells lead to it (`contested`): whose values behind the pages are what they should
 *   be, or whose payload ends where the page's text does; the other has what lies on its own page, and no more;
 * - *from which page on a chain is another's* whose own cell is gone (`parted`);
 * - *what of a broken chain is left* (`broken`).
 */
import type { Row } from '../../../model';
import type { GoesOn } from '../carve/found';
import { BrokenChains } from './broken';
import { contested } from './contested';
import { PartedChains } from './parted';
import { distinct, settled, type FitsRow, type Overflowing, type Settled } from './overflowing';
import { Payloads, type ChainDatabase } from './payloads';

/** Cells that are settled with each other, a page's bytes being kept of each; of more a chain that ends well is taken as it is. */
const CELLS_AT_MOST = 20_000;

export class FreedChains {
	/** Pages of chains that are a cell's. */
	readonly owned = new Set<number>();
	private readonly found: Overflowing[] = [];
	private readonly payloads: Payloads;
	private readonly broken: BrokenChains;

	/** `isFree`: whether nothing uses a page now; `isTrunk`: whether it is one of the free list. */
	constructor(
		private readonly db: ChainDatabase,
		private readonly isFree: (page: number) => boolean,
		isTrunk: (page: number) => boolean
	) {
		this.payloads = new Payloads(db);
		this.broken = new BrokenChains(
			db,
			this.payloads,
			(page) => isFree(page) && !this.owned.has(page),
			isTrunk,
			(page) => void this.owned.add(page)
		);
	}

	/** A cell that was taken as `row`, or as another sighting of it. */
	add(row: Row, goesOn: GoesOn): void {
		if (this.found.length < CELLS_AT_MOST) this.found.push({ ...goesOn, row });
		else for (const page of goesOn.pages) this.owned.add(page);
	}

	/** Rows in use whose chain breaks. */
	addInUse(broken: readonly Overflowing[]): void {
		this.found.push(...broken.slice(0, CELLS_AT_MOST));
	}

	/**
	 * Settles whose the pages are. Gives what is left of rows that had been read otherwise; of one row the later counts.
	 * `texts`: what the store's texts in use are like.
	 */
	settle(fitsRow: FitsRow, texts: () => string[]): Settled[] {
		const own = this.ownPages(texts);
		const out: Settled[] = [];
		for (const [one, pages] of own) {
			if (pages === one.pages.length) for (const page of one.pages) this.owned.add(page);
			else {
				one.broke = one.pages[pages]!;
				out.push(settled(one, this.payloads.beginning(one, pages)));
			}
		}
		const broken = this.found.filter((one) => one.row.grade === 'fragment' || (own.get(one) ?? Infinity) < one.pages.length);
		out.push(...this.broken.mended(distinct(broken), fitsRow, texts));
		for (const [one, pages] of own) for (const page of one.pages.slice(0, pages)) this.owned.add(page);
		this.found.length = 0;
		return out;
	}

	/** How many pages of each chain that was followed to its end are the cell's. */
	private ownPages(texts: () => string[]): Map<Overflowing, number> {
		const whole = this.found.filter(({ pages }) => pages.length > 0);
		const own = new Map(whole.map((one) => [one, one.pages.length]));
		if (whole.length === 0) return own;
		for (const one of contested(whole, this.payloads)) own.set(one, 0);
		const sure = whole.filter((one) => own.get(one)! > 0);
		for (const [one, pages] of new PartedChains(this.db, this.payloads, this.isFree, sure).settle(texts())) own.set(one, pages);
		return own;
	}
}

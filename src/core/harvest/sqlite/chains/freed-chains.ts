/**
 * Chains of overflow pages that freed cells lead to (section 1.5 "Cell Payload Overflow Pages"). A page that is freed
 * keeps its bytes until it is used again, and then another row's stand there: so once all cells are found it is settled
 *
 * - *whose each page is*, where two cells lead to it (`contested`): whose values behind the pages are what they should
 *   be, or whose payload ends where the page's text does; the other has what lies on its own page, and no more;
 * - *what of a broken chain is left* (`broken`).
 */
import type { Row } from '../../../model';
import type { GoesOn } from '../carve/found';
import { BrokenChains } from './broken';
import { contested } from './contested';
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
	constructor(db: ChainDatabase, isFree: (page: number) => boolean, isTrunk: (page: number) => boolean) {
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

	/** Settles whose the pages are. Gives what is left of rows that had been read otherwise; of one row the later counts. */
	settle(fitsRow: FitsRow): Settled[] {
		const less = new Set(contested(this.found, this.payloads));
		const out: Settled[] = [];
		for (const one of this.found) {
			if (!less.has(one)) for (const page of one.pages) this.owned.add(page);
			else {
				// Nothing behind its own page is sure.
				one.broke = one.first;
				const payload = new Uint8Array(one.size);
				payload.set(one.local);
				out.push(
					settled(one, this.payloads.withHole(one, { payload, holeFrom: one.local.length, holeTo: one.size, pages: [], isNext: false }))
				);
			}
		}
		const broken = this.found.filter((one) => one.row.grade === 'fragment' || less.has(one));
		out.push(...this.broken.mended(distinct(broken), fitsRow));
		this.found.length = 0;
		return out;
	}
}

/** The rows in use of one table, held as numbers: one is made a row when somebody asks for it, and most never are. */
import type { Row } from '../model';
import { firstReached } from '../sorted';
import { rowOfCell, type RowPlace } from './row';

export class KeptRows {
	count = 0;
	/** How many of the first stand in the order of their rowids, as a table's tree has them. */
	inOrder = 0;
	private rowids = new Float64Array(64);
	/** Where each begins within its page, and its length, in bytes; a page has 65,536 at most (section 1.3.2). */
	private starts = new Uint16Array(64);
	private lengths = new Uint16Array(64);
	/** Index into `places`. */
	private placeOf = new Int32Array(64);
	private readonly places: RowPlace[] = [];
	/** The first of them as rows, once all were asked for; of the others those given as rows, or asked for. */
	private readonly whole: Row[] = [];
	private readonly made = new Map<number, Row>();

	constructor(private readonly table: number) {}

	/** A cell that lies wholly on its page. */
	addCell(rowid: number, place: RowPlace, start: number, length: number): void {
		this.follow(rowid);
		const i = this.grown();
		this.rowids[i] = rowid;
		this.starts[i] = start;
		this.lengths[i] = length;
		if (this.places.at(-1) !== place) this.places.push(place);
		this.placeOf[i] = this.places.length - 1;
	}

	addRow(row: Row): void {
		if (typeof row.rowid === 'number') this.follow(row.rowid);
		const i = this.grown();
		if (typeof row.rowid === 'number') this.rowids[i] = row.rowid;
		this.made.set(i, row);
	}

	at(i: number): Row {
		if (i < this.whole.length) return this.whole[i]!;
		let row = this.made.get(i);
		if (!row) this.made.set(i, (row = this.make(i)));
		return row;
	}

	/** All there are so far, in the order they were added. */
	all(): readonly Row[] {
		const { whole, made } = this;
		for (let i = whole.length; i < this.count; i++) whole.push(made.get(i) ?? this.make(i));
		made.clear();
		return whole;
	}

	/** Of one that is not in order, too. */
	rowidOf(i: number): number | bigint | null {
		const row = this.whole[i] ?? this.made.get(i);
		return row ? row.rowid : this.rowids[i]!;
	}

	/** Where the row of this number stands among those in order; -1 where it does not. */
	find(rowid: number | bigint): number {
		const low = firstReached(this.inOrder, (i) => this.rowids[i]! >= rowid);
		return low < this.inOrder && this.rowids[low] === rowid ? low : -1;
	}

	private follow(rowid: number): void {
		if (this.inOrder === this.count && (this.count === 0 || this.rowids[this.count - 1]! < rowid)) this.inOrder++;
	}

	private make(i: number): Row {
		const place = this.places[this.placeOf[i]!]!;
		return rowOfCell(this.table, this.rowids[i]!, place, this.starts[i]!, this.lengths[i]!);
	}

	/** The index of one more. */
	private grown(): number {
		if (this.count === this.rowids.length) {
			const size = this.count * 2;
			const larger = <T extends Float64Array | Uint16Array | Int32Array>(list: T, made: T): T => {
				made.set(list);
				return made;
			};
			this.rowids = larger(this.rowids, new Float64Array(size));
			this.starts = larger(this.starts, new Uint16Array(size));
			this.lengths = larger(this.lengths, new Uint16Array(size));
			this.placeOf = larger(this.placeOf, new Int32Array(size));
		}
		return this.count++;
	}
}

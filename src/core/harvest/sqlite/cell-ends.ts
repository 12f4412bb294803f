/**
 * Ends of cells whose heads are gone (see `carve/tail.ts`), as rows: in front of the cells that were found in a free
 * stretch, and of what is in use behind it.
 */
import { encodeText } from '../../bytes';
import type { Table, Value } from '../../model';
import { HarvestedRow, type RowPlace } from '../row';
import type { RowBook } from '../rowbook';
import type { CarveContext, Found } from './carve/found';
import { lastTexts, recordUpTo, tailOf, type Tail } from './carve/tail';
import { HEAD_PROVES, isHeadOfCell } from './carve/whole-cell';
import type { Database } from './database';
import { ENOUGH, MOST_COLUMNS, type Shape } from './shape';

/** Texts of a column that are looked at for how they begin, and letters that must be the same. */
const LEADS_READ = 200;
const LEAD_LEAST = 4;

/** Whose cells a stretch holds, and where it lies. */
interface Stretch {
	shape: Shape;
	table: Table;
	where: RowPlace;
	ctx: CarveContext;
}

export class CellEnds {
	/** How the texts of a column begin, by table and column. */
	private readonly leads = new Map<number, Uint8Array | null>();

	constructor(
		private readonly db: Database,
		private readonly book: RowBook
	) {}

	/** The ends in front of `cells`, all that was found in [from, to) of a page, in order of place. */
	before(bytes: Uint8Array, { from, to }: { from: number; to: number }, cells: readonly Found[], stretch: Stretch): HarvestedRow[] {
		const rows: HarvestedRow[] = [];
		let begin = from;
		for (const { start, end } of [...cells, { start: to, end: to }]) {
			const row = this.record(bytes, begin, start, stretch) ?? this.lastText(bytes, begin, start, stretch);
			if (row) rows.push(row);
			begin = end;
		}
		return rows;
	}

	/** A record of which only length and number are gone. */
	private record(bytes: Uint8Array, from: number, to: number, stretch: Stretch): HarvestedRow | null {
		// Of few columns any bytes can be a header.
		const found = stretch.shape.order.length < HEAD_PROVES ? null : recordUpTo(bytes, from, to, stretch.shape, this.db.encoding);
		return found && rowOf(found, -1, to, stretch);
	}

	private lastText(bytes: Uint8Array, from: number, to: number, stretch: Stretch): HarvestedRow | null {
		const { encoding } = this.db;
		const { shape, table } = stretch;
		for (const column of lastTexts(shape)) {
			const lead = this.leadOf(table.index, shape.order[column]!);
			const tail = tailOf(bytes, from, to, shape, { column, lead, encoding });
			// Where a cell begins there is its head, and what follows it are its first values.
			if (!tail || !(lead || isWriting(tail.values[column])) || hasHead(bytes, from, to, stretch)) continue;
			// Whether the cell behind it is the older one, or was written over its last letters, nothing says: it counts as cut.
			return rowOf(tail, shape.order[column]!, to, stretch);
		}
		return null;
	}

	/** How the texts of a column in use all begin, where that says what they are: JSON does. */
	private leadOf(table: number, column: number): Uint8Array | null {
		const key = table * MOST_COLUMNS + column;
		const known = this.leads.get(key);
		if (known !== undefined) return known;
		const values = this.book.rowsOf(table).slice(0, LEADS_READ);
		const texts = values.map((row) => row.values[column]).filter((v): v is string => typeof v === 'string' && v !== '');
		const [first] = texts;
		let shared = texts.length < ENOUGH ? 0 : first!.length;
		for (const text of texts) while (shared > 0 && !text.startsWith(first!.slice(0, shared))) shared--;
		const lead = shared >= LEAD_LEAST ? encodeText(first!.slice(0, shared), this.db.encoding) : null;
		this.leads.set(key, lead);
		return lead;
	}
}

/** A row up to `end`, its value in `cut` (a column as declared, or -1) perhaps not whole. */
function rowOf({ start, values: stored }: Tail, cut: number, end: number, { shape, table, where }: Stretch): HarvestedRow {
	const values: (Value | undefined)[] = new Array(table.columns.length).fill(undefined);
	stored.forEach((value, k) => (values[shape.order[k]!] = value));
	return new HarvestedRow(table.index, true, null, values, cut, 'remnant', cut < 0 ? 'rebuilt' : 'fragment', where, start, end - start);
}

/** A path, a key or a name may be another column's, which was none in the rows that are left: writing has several words. */
const isWriting = (text: unknown): boolean => /\S\s\S|[^\x00-\x7f]/.test(String(text));

/** Whether another cell begins in a stretch. */
function hasHead(bytes: Uint8Array, from: number, to: number, { shape, ctx }: Stretch): boolean {
	const { begins } = ctx.shapes;
	const provesItself = shape.order.length >= HEAD_PROVES;
	for (let o = from; o + 1 < to; o++) {
		if (isHeadOfCell(bytes, o, ctx.usable, ctx)) return true;
		// Its length and number can be gone, and the record's header there.
		if (provesItself && begins[(bytes[o]! << 8) | bytes[o + 1]!] !== 0 && ctx.shapes.isHeader(bytes, o, ctx.usable)) return true;
	}
	return false;
}

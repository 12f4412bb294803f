/**
 * The rows of one store, each once: what is seen again becomes another sighting of the row already known. Rows in
 * use are never compared with each other (the store says that they are different); lost ones are compared with all.
 */
import type { Grade, Row, Sighting, Standing, Value } from '../model';
import { Chains } from './chains';
import { agrees, beginsWith, lengthOf, sharesItsOwn } from './compare';
import {
	among,
	ContentChains,
	contentKeys,
	fits,
	fitsWithoutNumber,
	givesNumber,
	numberKey,
	Sought,
	type Fits,
	type RowList
} from './content';
import { KeptRows } from './kept-rows';
import { rowOfCell, type HarvestedRow, type RowPlace } from './row';

const STANDING_RANK: Record<Standing, number> = { kept: 0, binned: 1, dropped: 2, remnant: 3 };
const GRADE_RANK: Record<Grade, number> = { whole: 0, rebuilt: 1, fragment: 2 };
/** Rows of a table by which it is known whether a text is one row's own. */
const COMPARED = 4000;
/** Sightings kept with a row; more are counted. */
const SIGHTINGS_KEPT = 24;

export const betterStanding = (a: Standing, b: Standing): Standing => (STANDING_RANK[a] <= STANDING_RANK[b] ? a : b);
export const betterGrade = (a: Grade, b: Grade): Grade => (GRADE_RANK[a] <= GRADE_RANK[b] ? a : b);

/** The rows of one table, those in use first, and the ways to look them up, made when first asked for and kept up from then on. */
class TableRows implements RowList {
	readonly kept: KeptRows;
	private readonly lost: Row[] = [];
	/** All rows there were when somebody asked for all. */
	private whole: readonly Row[] = [];
	private readonly rowids = new Chains();
	/** Rows whose number became known after they were indexed. */
	private readonly numberedLater = new Map<number | bigint, Row>();
	private readonly numbers = new Chains();
	private readonly lostTexts = new ContentChains(this.lost);
	/** Made only when asked for: it takes the values of all rows in use. */
	private keptTexts: ContentChains | null = null;
	private rowidsIndexed = 0;

	constructor(table: number) {
		this.kept = new KeptRows(table);
	}

	get rows(): readonly Row[] {
		if (this.whole.length < this.count) this.whole = [...this.kept.all(), ...this.lost];
		return this.whole;
	}

	get count(): number {
		return this.kept.count + this.lost.length;
	}

	at(i: number): Row {
		return i < this.kept.count ? this.kept.at(i) : this.lost[i - this.kept.count]!;
	}

	addCell(rowid: number, place: RowPlace, start: number, length: number, largest: number): void {
		this.kept.addCell(rowid, place, start, length);
		this.numbers.add(numberKey(largest));
	}

	addKept(row: Row): void {
		this.kept.addRow(row);
		this.numbers.add(contentKeys(row).number);
	}

	addLost({ row, keys }: Sought): void {
		this.lost.push(row);
		this.numbers.add(keys.number);
		this.lostTexts.add(keys);
	}

	withRowid(rowid: number | bigint, sought: Row, fit: Fits): Row | null {
		const { kept, rowids } = this;
		const ordered = kept.find(rowid);
		if (ordered >= 0 && fit(kept.at(ordered), sought)) return kept.at(ordered);
		this.rowidsIndexed = Math.max(this.rowidsIndexed, kept.inOrder);
		for (; this.rowidsIndexed < this.count; this.rowidsIndexed++) rowids.add(rowidHash(this.rowidOf(this.rowidsIndexed)));
		for (let i = rowids.first(rowidHash(rowid)); i >= 0; i = rowids.after(i)) {
			const row = this.at(kept.inOrder + i);
			if (row.rowid === rowid && fit(row, sought)) return row;
		}
		const later = this.numberedLater.get(rowid);
		return later && fit(later, sought) ? later : null;
	}

	private rowidOf(i: number): number | bigint | null {
		return i < this.kept.count ? this.kept.rowidOf(i) : this.lost[i - this.kept.count]!.rowid;
	}

	numbered(row: Row): void {
		if (row.rowid !== null) this.numberedLater.set(row.rowid, row);
	}

	/**
	 * A row of the same content. Two rows that agree in all their values have the same largest number; only where
	 * some are lost, or there is no telling number, texts are looked up as well, and for rows in use (whose values
	 * are all there) only then.
	 */
	withContent(sought: Sought, fit: Fits): Row | null {
		const { row, keys } = sought;
		const byNumber = among(this, this.numbers, keys.number, row, fit) ?? among(this, this.numbers, keys.second, row, fit);
		if (byNumber) return byNumber;
		const lost = this.lostTexts.find(sought, fit);
		if (lost || (keys.number !== 0 && !lacks(row.values))) return lost;
		return (this.keptTexts ??= this.indexKept()).find(sought, fit);
	}

	/** Whether several rows have a text or a blob that begins as a row's cut one does, in its column. */
	hasSeveral({ cut, values }: Row): boolean {
		const part = values[cut];
		if (part === undefined) return false;
		let several = 0;
		for (let i = 0; i < this.count && i < COMPARED && several < 2; i++) {
			const value = this.at(i).values[cut];
			if (value !== undefined && beginsWith(value, part)) several++;
		}
		return several >= 2;
	}

	private indexKept(): ContentChains {
		const chains = new ContentChains(this.kept.all());
		for (const row of chains.rows) chains.add(contentKeys(row));
		return chains;
	}
}

/** Whether a value is lost; the first is not asked for. */
function lacks(values: readonly (Value | undefined)[]): boolean {
	for (let k = 1; k < values.length; k++) if (values[k] === undefined) return true;
	return false;
}

/** A row without its cut value. */
const withoutCut = (row: Row): Row => ({ ...row, values: row.values.map((value, k) => (k === row.cut ? undefined : value)), cut: -1 });

/** Never 0, which stands for a row without one. */
const rowidHash = (rowid: number | bigint | null): number => (rowid === null ? 0 : Number(rowid) + (Number(rowid) >= 0 ? 1 : 0));

/** Takes the rows in use of a store, one after the other. */
export interface KeptTaker {
	/** A cell that lies wholly on its page; `largest` of the magnitudes of its numbers, the first column's left out (see `contentKeys`). */
	addCell(table: number, rowid: number | bigint, place: RowPlace, start: number, length: number, largest: number): void;
	/** A row of any other kind. */
	addKept(row: HarvestedRow): void;
}

export class RowBook implements KeptTaker {
	private readonly perTable: (TableRows | undefined)[] = [];
	/** Tables in the order in which rows in use were met in them. */
	private readonly keptIn: TableRows[] = [];
	/** How many rows in use there are: asked for with every page, where a store can have thousands of tables. */
	private kept = 0;
	private readonly lost: Row[] = [];
	/** All rows there were when somebody asked for all. */
	private whole: readonly Row[] = [];
	/** Places already taken for lost rows, by file and offset. */
	private readonly seenAt: Set<number>[] = [];

	/** Those in use first. */
	get rows(): readonly Row[] {
		if (this.whole.length < this.size) this.whole = [...this.keptIn.flatMap((table) => table.kept.all()), ...this.lost];
		return this.whole;
	}

	/** How many rows there are: for those who need not ask for each. */
	get size(): number {
		return this.kept + this.lost.length;
	}

	addCell(table: number, rowid: number | bigint, place: RowPlace, start: number, length: number, largest: number): void {
		if (typeof rowid === 'number') this.withKept(table).addCell(rowid, place, start, length, largest);
		else this.addKept(rowOfCell(table, rowid, place, start, length));
	}

	addKept(row: Row): void {
		this.withKept(row.table).addKept(row);
	}

	/** The rows of a table to which one in use is added. */
	private withKept(table: number): TableRows {
		const rows = this.of(table);
		if (rows.kept.count === 0) this.keptIn.push(rows);
		this.kept++;
		return rows;
	}

	/** The row in use of this number. */
	keptRow(table: number, rowid: number | bigint): Row | null {
		const { kept } = this.of(table);
		const at = kept.find(rowid);
		return at < 0 ? null : kept.at(at);
	}

	rowsOf(table: number): readonly Row[] {
		return this.perTable[table]?.rows ?? [];
	}

	/**
	 * A lost row: becomes a sighting of a row already known in one of `tables` (its own first), or a new row.
	 * Returns the row it now is, or null where the same bytes were taken before.
	 */
	addLost(row: HarvestedRow, tables: readonly number[]): Row | null {
		const { file, offset } = row.place;
		const seen = (this.seenAt[file] ??= new Set());
		if (seen.has(offset + row.start)) return null;
		seen.add(offset + row.start);
		const sought = new Sought(row);
		const known = this.match(sought, row.table) ?? this.matchElsewhere(sought, tables);
		if (known) return this.join(known, row);
		this.lost.push(row);
		this.of(row.table).addLost(sought);
		return row;
	}

	private matchElsewhere(sought: Sought, tables: readonly number[]): Row | null {
		for (const table of tables) {
			const known = table === sought.row.table ? null : this.match(sought, table);
			if (known) return known;
		}
		return null;
	}

	/**
	 * How many of these lost rows are copies of rows known in `table`, which says whose page it was; and how many of those
	 * are not taken for its own by their page alone.
	 */
	votes(rows: readonly Row[], table: number): { all: number; sure: number } {
		const known = rows.flatMap((row) => (row.rowid === null ? [] : (this.of(table).withRowid(row.rowid, row, agrees) ?? [])));
		return { all: known.length, sure: known.filter((row) => !row.tableByPage).length };
	}

	private match(sought: Sought, table: number): Row | null {
		const { row } = sought;
		const rows = this.of(table);
		if (row.rowid === null) return rows.withContent(sought, fitsWithoutNumber);
		const same = rows.withRowid(row.rowid, row, fits);
		if (same) return same;
		const known = rows.withContent(sought, givesNumber);
		// A room's key is long, and that of many rows: by its beginning none of them gets a number.
		return known && row.grade === 'fragment' && !sharesItsOwn(known, withoutCut(row)) && rows.hasSeveral(row) ? null : known;
	}

	private join(known: Row, again: Row): Row {
		const better = GRADE_RANK[again.grade] < GRADE_RANK[known.grade];
		if (better) {
			known.values = known.values.map((v, k) => (again.values[k] !== undefined ? again.values[k] : v));
			known.cut = again.cut;
		} else fillFrom(known, again);
		if (known.rowid === null && again.rowid !== null) {
			known.rowid = again.rowid;
			this.of(known.table).numbered(known);
		}
		if (known.tableByPage && again.tableKnown && !again.tableByPage && again.table === known.table) {
			known.tableByPage = false;
			known.tableByLooks = false;
		}
		known.standing = betterStanding(known.standing, again.standing);
		known.grade = betterGrade(known.grade, again.grade);
		for (const sighting of again.sightings) addSighting(known, sighting);
		return known;
	}

	private of(table: number): TableRows {
		return (this.perTable[table] ??= new TableRows(table));
	}
}

/** Takes over what is lost in one row and left in another: of a text that is cut the whole one, or where both are the longer part. */
function fillFrom(known: Row, again: Row): void {
	const { cut } = again;
	const isWhole = known.cut >= 0 && known.cut !== cut && again.values[known.cut] !== undefined;
	const better = (k: number): boolean =>
		k === known.cut && (isWhole || (k === cut && lengthOf(again.values[k]) > lengthOf(known.values[k])));
	if (!known.values.includes(undefined) && !better(known.cut)) return;
	const cutHere = cut >= 0 && known.values[cut] === undefined && again.values[cut] !== undefined;
	known.values = known.values.map((v, k) => (v === undefined || better(k) ? again.values[k] : v));
	if (cutHere) known.cut = cut;
	else if (isWhole) known.cut = -1;
}

export function addSighting(row: { sightings: Sighting[]; moreSightings?: number }, sighting: Sighting): void {
	if (row.sightings.some((s) => s.file === sighting.file && s.offset === sighting.offset)) return;
	if (row.sightings.length >= SIGHTINGS_KEPT) row.moreSightings = (row.moreSightings ?? 0) + 1;
	else row.sightings.push(sighting);
}

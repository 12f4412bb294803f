/**
 * The rows of one store, each once: what is seen again becomes another sighting of the row already known. Rows in
 * use are never compared with each other (the store says that they are different); lost ones are compared with all.
 */
import type { Grade, Row, Sighting, Standing, Value } from '../model';

const STANDING_RANK: Record<Standing, number> = { kept: 0, binned: 1, dropped: 2, remnant: 3 };
const GRADE_RANK: Record<Grade, number> = { whole: 0, rebuilt: 1, fragment: 2 };
/** Sightings kept with a row; more are counted. */
const SIGHTINGS_KEPT = 24;
/** Rows with the same key that a lost row is compared with, at most. */
const COMPARE_LIMIT = 4000;

export const betterStanding = (a: Standing, b: Standing): Standing => (STANDING_RANK[a] <= STANDING_RANK[b] ? a : b);
export const betterGrade = (a: Grade, b: Grade): Grade => (GRADE_RANK[a] <= GRADE_RANK[b] ? a : b);

export function sameValue(a: Value, b: Value): boolean {
	if (a === b) return true;
	if (a === null || b === null || typeof a !== 'object' || typeof b !== 'object') {
		// An integer beyond 2^53 is a bigint; one that fits both ways is the same value.
		if (typeof a === 'bigint' && typeof b === 'number') return a === BigInt(Math.trunc(b)) && Number.isInteger(b);
		return typeof a === 'number' && typeof b === 'bigint' && Number.isInteger(a) && BigInt(a) === b;
	}
	if (a.length !== b.length) return false;
	for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
	return true;
}

/** Whether every value that both have is the same; a cut value need only begin like the other. */
export function agrees(a: Row, b: Row): boolean {
	const count = Math.min(a.values.length, b.values.length);
	let shared = 0;
	for (let k = 0; k < count; k++) {
		const x = a.values[k];
		const y = b.values[k];
		if (x === undefined || y === undefined) continue;
		if (k === a.cut || k === b.cut) {
			if (typeof x !== 'string' || typeof y !== 'string') return false;
			if (k === a.cut ? !y.startsWith(x) : !x.startsWith(y)) return false;
		} else if (!sameValue(x, y)) return false;
		if (x !== null) shared++;
	}
	return shared > 0;
}

/** By what a row without a rowid is looked up. The first stored column may be lost, so it is left out. */
interface ContentKeys {
	/** The largest number, mostly a time, which few rows share. */
	number: number;
	/** A hash of the length and the first letters of the longest text. */
	full: number;
	/** A hash of the first letters alone, for texts that are cut; 0 where there are too few. */
	prefix: number;
}

const PREFIX = 16;
/** Numbers below this (flags, small keys) are shared by too many rows to be worth comparing. */
const TELLING = 100_000;

function contentKeys(row: Row): ContentKeys {
	let text = '';
	let cut = '';
	let number = 0;
	for (let k = 1; k < row.values.length; k++) {
		const value = row.values[k];
		if (typeof value === 'string') {
			if (k === row.cut) cut = value;
			else if (value.length > text.length) text = value;
		} else if (typeof value === 'number') {
			if (value > number) number = value;
			else if (-value > number) number = -value;
		} else if (typeof value === 'bigint') number = Math.max(number, Math.abs(Number(value)));
	}
	const longest = cut || text;
	let prefix = 7;
	for (let i = 0; i < PREFIX && i < longest.length; i++) prefix = (Math.imul(prefix, 31) + longest.charCodeAt(i)) | 0;
	return {
		number: number > TELLING ? number : 0,
		full: (Math.imul(text.length, 2654435761) + prefix) | 0,
		prefix: longest.length >= PREFIX ? prefix : 0
	};
}

/** Row numbers by a hash, chained in two arrays: as cheap for a hundred thousand rows as for ten. */
class Chains {
	private head = new Int32Array(1024).fill(-1);
	private next = new Int32Array(1024);
	private hashes = new Float64Array(1024);
	private count = 0;

	/** Adds the next row (they are added in order); `hash` 0 leaves it out. */
	add(hash: number): void {
		if (this.count === this.next.length) this.grow();
		const i = this.count++;
		this.hashes[i] = hash;
		if (hash !== 0) this.link(i);
	}

	first(hash: number): number {
		return hash === 0 ? -1 : this.skip(this.head[slot(hash, this.head.length)]!, hash);
	}

	after(i: number): number {
		return this.skip(this.next[i]!, this.hashes[i]!);
	}

	private skip(i: number, hash: number): number {
		let at = i;
		while (at >= 0 && this.hashes[at] !== hash) at = this.next[at]!;
		return at;
	}

	private link(i: number): void {
		const at = slot(this.hashes[i]!, this.head.length);
		this.next[i] = this.head[at]!;
		this.head[at] = i;
	}

	private grow(): void {
		const size = this.next.length * 2;
		const hashes = new Float64Array(size);
		hashes.set(this.hashes);
		this.hashes = hashes;
		this.next = new Int32Array(size);
		this.head = new Int32Array(size).fill(-1);
		for (let i = 0; i < this.count; i++) if (hashes[i] !== 0) this.link(i);
	}
}

/** Spreads a number over `size` places (a power of two). */
function slot(hash: number, size: number): number {
	const folded = (hash % 4294967296) ^ Math.floor(hash / 4294967296);
	return (Math.imul(folded, 0x9e3779b1) >>> 7) & (size - 1);
}

/** The rows of one table and the ways to look them up, made when first asked for and kept up from then on. */
class TableRows {
	readonly rows: Row[] = [];
	private rowids: Chains | null = null;
	/** Rows whose number became known after they were indexed. */
	private readonly numberedLater = new Map<number | bigint, Row>();
	private content: { full: Chains; number: Chains; prefix: Chains } | null = null;
	private indexed = 0;
	private rowidsIndexed = 0;

	withRowid(rowid: number | bigint, fits: (row: Row) => boolean): Row | null {
		this.rowids ??= new Chains();
		for (; this.rowidsIndexed < this.rows.length; this.rowidsIndexed++) this.rowids.add(rowidHash(this.rows[this.rowidsIndexed]!.rowid));
		for (let i = this.rowids.first(rowidHash(rowid)); i >= 0; i = this.rowids.after(i)) {
			const row = this.rows[i]!;
			if (row.rowid === rowid && fits(row)) return row;
		}
		const later = this.numberedLater.get(rowid);
		return later && fits(later) ? later : null;
	}

	numbered(row: Row): void {
		if (row.rowid !== null) this.numberedLater.set(row.rowid, row);
	}

	withContent(like: Row, fits: (row: Row) => boolean): Row | null {
		const content = (this.content ??= { full: new Chains(), number: new Chains(), prefix: new Chains() });
		for (; this.indexed < this.rows.length; this.indexed++) {
			const keys = contentKeys(this.rows[this.indexed]!);
			content.full.add(keys.full);
			content.number.add(keys.number);
			content.prefix.add(keys.prefix);
		}
		const keys = contentKeys(like);
		return (
			this.among(content.number, keys.number, fits) ??
			(like.grade === 'fragment' ? this.among(content.prefix, keys.prefix, fits) : this.among(content.full, keys.full, fits))
		);
	}

	private among(chains: Chains, hash: number, fits: (row: Row) => boolean): Row | null {
		let compared = 0;
		for (let i = chains.first(hash); i >= 0 && compared < COMPARE_LIMIT; i = chains.after(i), compared++)
			if (fits(this.rows[i]!)) return this.rows[i]!;
		return null;
	}
}

/** Never 0, which stands for a row without one. */
const rowidHash = (rowid: number | bigint | null): number => (rowid === null ? 0 : Number(rowid) + (Number(rowid) >= 0 ? 1 : 0));

export class RowBook {
	readonly rows: Row[] = [];
	private readonly perTable: (TableRows | undefined)[] = [];
	/** Places already taken for lost rows, by file and offset. */
	private readonly seenAt: Set<number>[] = [];

	/** A row in use. */
	addKept(row: Row): void {
		this.push(row);
	}

	rowsOf(table: number): readonly Row[] {
		return this.perTable[table]?.rows ?? [];
	}

	/**
	 * A lost row: becomes a sighting of a row already known in one of `tables` (its own first), or a new row.
	 * Returns the row it now is, or null where the same bytes were taken before.
	 */
	addLost(row: Row, tables: readonly number[]): Row | null {
		const sighting = row.sightings[0]!;
		const seen = (this.seenAt[sighting.file] ??= new Set());
		if (seen.has(sighting.offset)) return null;
		seen.add(sighting.offset);
		const own = this.match(row, row.table);
		if (own) return this.join(own, row);
		for (const table of tables) {
			const match = table === row.table ? null : this.match(row, table);
			if (match) return this.join(match, row);
		}
		this.push(row);
		return row;
	}

	/** How many of these lost rows are copies of rows known in `table`: says whose page it was. */
	votes(rows: readonly Row[], table: number): number {
		return rows.filter((row) => row.rowid !== null && this.of(table).withRowid(row.rowid, (known) => agrees(known, row))).length;
	}

	private match(row: Row, table: number): Row | null {
		const fits = (known: Row): boolean => agrees(known, row);
		if (row.rowid === null) return this.of(table).withContent(row, fits);
		return (
			this.of(table).withRowid(row.rowid, fits) ?? this.of(table).withContent(row, (known) => known.rowid === null && agrees(known, row))
		);
	}

	private join(known: Row, again: Row): Row {
		const better = GRADE_RANK[again.grade] < GRADE_RANK[known.grade];
		if (better) {
			known.values = known.values.map((v, k) => (again.values[k] !== undefined ? again.values[k] : v));
			known.cut = again.cut;
		} else if (known.values.includes(undefined)) known.values = known.values.map((v, k) => (v === undefined ? again.values[k] : v));
		if (known.rowid === null && again.rowid !== null) {
			known.rowid = again.rowid;
			this.of(known.table).numbered(known);
		}
		known.standing = betterStanding(known.standing, again.standing);
		known.grade = betterGrade(known.grade, again.grade);
		for (const sighting of again.sightings) addSighting(known, sighting);
		return known;
	}

	private of(table: number): TableRows {
		return (this.perTable[table] ??= new TableRows());
	}

	private push(row: Row): void {
		this.rows.push(row);
		this.of(row.table).rows.push(row);
	}
}

export function addSighting(row: { sightings: Sighting[]; moreSightings?: number }, sighting: Sighting): void {
	if (row.sightings.some((s) => s.file === sighting.file && s.offset === sighting.offset)) return;
	if (row.sightings.length >= SIGHTINGS_KEPT) row.moreSightings = (row.moreSightings ?? 0) + 1;
	else row.sightings.push(sighting);
}

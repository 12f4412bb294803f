/**
 * The rows of one store, each once: what is seen again becomes another sighting of the row already known. Rows in
 * use are never compared with each other (the store says that they are different); lost ones are compared with all.
 */
import type { Grade, Row, Sighting, Standing, Value } from '../model';
import type { HarvestedRow } from './row';

const STANDING_RANK: Record<Standing, number> = { kept: 0, binned: 1, dropped: 2, remnant: 3 };
const GRADE_RANK: Record<Grade, number> = { whole: 0, rebuilt: 1, fragment: 2 };
/** Sightings kept with a row; more are counted. */
const SIGHTINGS_KEPT = 24;
/** Rows that one text can be the longest of, and still tell them: an account's own name is that of all. */
const SHARED_BY_FEW = 8;
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

/** Bytes that blobs of one form may begin with: what is shared must be more. */
const FORM = 16;

function beginsWith(whole: Value, part: Value): boolean {
	if (typeof whole === 'string' || typeof part === 'string')
		return typeof whole === 'string' && typeof part === 'string' && whole.startsWith(part);
	if (whole === null || part === null || typeof whole !== 'object' || typeof part !== 'object') return false;
	return part.length >= FORM && part.length <= whole.length && part.every((byte, i) => byte === whole[i]);
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
			if (k === a.cut ? !beginsWith(y, x) : !beginsWith(x, y)) return false;
		} else if (!sameValue(x, y)) return false;
		if (x !== null) shared++;
	}
	return shared > 0;
}

/** What two rows must share: a number that tells, a long part of a text, or several texts (rooms and accounts are many rows'). */
const ITS_OWN = 2;
const SHORT_TEXT = 8;

function sharesItsOwn(a: Row, b: Row): boolean {
	let points = 0;
	for (let k = 0; k < Math.min(a.values.length, b.values.length); k++) {
		const [x, y] = [a.values[k], b.values[k]];
		if (x === undefined || y === undefined || x === null || y === null) continue;
		if (typeof x === 'number' || typeof x === 'bigint') points += Math.abs(Number(x)) > TELLING ? ITS_OWN : 0;
		else {
			const length = Math.min(lengthOf(x), lengthOf(y));
			points += k === a.cut || k === b.cut ? (length >= PREFIX ? ITS_OWN : 0) : Number(length >= SHORT_TEXT);
		}
	}
	return points >= ITS_OWN;
}

/** Letters from which a text goes on outside of its page, at least in part: what follows can be another's. */
const ELSEWHERE = 400;
const SAME_BEGINNING = 100;

/**
 * Whether a freed row is a known one but for the end of a long text of the same length: pages on which it went on have
 * been used again since, and what stands there now is no wording of it.
 */
function isButForItsEnd(known: Row, freed: Row): boolean {
	if (freed.standing !== 'remnant' || known.standing === 'remnant' || known.grade !== 'whole') return false;
	for (let k = 0; k < Math.min(known.values.length, freed.values.length); k++) {
		const [a, b] = [known.values[k], freed.values[k]];
		if (a === undefined || b === undefined || sameValue(a, b)) continue;
		// What is stored behind the text lies on those pages too.
		return typeof a === 'string' && typeof b === 'string' && isSameButForItsEnd(a, b);
	}
	return false;
}

/** Whether two long texts begin alike and take as many bytes. */
export const isSameButForItsEnd = (a: string, b: string): boolean =>
	Math.min(a.length, b.length) >= ELSEWHERE &&
	a.slice(0, SAME_BEGINNING) === b.slice(0, SAME_BEGINNING) &&
	encodedLength(a) === encodedLength(b);

const encoder = new TextEncoder();
const encodedLength = (text: string): number => encoder.encode(text).length;

/** By what a row without a rowid is looked up. The first stored column may be lost, so it is left out. */
interface ContentKeys {
	/** The largest number, mostly a time, which few rows share. */
	number: number;
	/** The next largest, for rows that have lost the largest; 0 where there is none that tells. */
	second: number;
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
	let second = 0;
	const { values } = row;
	for (let k = 1; k < values.length; k++) {
		const value = values[k];
		if (typeof value === 'string') {
			if (k === row.cut) cut = value;
			else if (value.length > text.length) text = value;
		} else if (typeof value === 'number' || typeof value === 'bigint') {
			const n = Math.abs(Number(value));
			if (n > number) {
				second = number;
				number = n;
			} else if (n > second && n < number) second = n;
		}
	}
	const longest = cut || text;
	return {
		number: numberKey(number),
		second: numberKey(second),
		full: (Math.imul(text.length, 2654435761) + hashOf(text)) | 0,
		prefix: longest.length >= PREFIX ? hashOf(longest) : 0
	};
}

/** A row that is looked for among those known; its keys are made when first asked for, and once. */
class Sought {
	private made: ContentKeys | null = null;

	constructor(readonly row: Row) {}

	get keys(): ContentKeys {
		return (this.made ??= contentKeys(this.row));
	}
}

/** Whether a row known is the one sought. Functions of both, since a closure made for each row costs more than it does. */
type Fits = (known: Row, sought: Row) => boolean;

const fits: Fits = (known, sought) => agrees(known, sought) || isButForItsEnd(known, sought);
// A part that has a number gives it to a row that has none only where what they share is that row's own.
const fitsWithoutNumber: Fits = (known, sought) =>
	fits(known, sought) && (known.rowid === null || known.grade !== 'fragment' || sharesItsOwn(known, sought));
const givesNumber: Fits = (known, sought) =>
	known.rowid === null && agrees(known, sought) && (sought.grade !== 'fragment' || sharesItsOwn(known, sought));

/** Of the first letters. */
function hashOf(text: string): number {
	let hash = 7;
	for (let i = 0; i < PREFIX && i < text.length; i++) hash = (Math.imul(hash, 31) + text.charCodeAt(i)) | 0;
	return hash;
}

const numberKey = (largest: number): number => (largest > TELLING ? largest : 0);

/** Rows by what they hold. */
class ContentChains {
	readonly full = new Chains();
	readonly prefix = new Chains();
	readonly second = new Chains();

	constructor(readonly rows: readonly Row[]) {}

	/** Adds the next of the rows. */
	add(keys: ContentKeys): void {
		this.full.add(keys.full);
		this.prefix.add(keys.prefix);
		this.second.add(keys.second);
	}

	find({ row, keys }: Sought, fit: Fits): Row | null {
		const whole = (): Row | null => among(this.rows, this.full, keys.full, row, fit, SHARED_BY_FEW);
		if (row.grade !== 'fragment') return whole();
		return among(this.rows, this.prefix, keys.prefix, row, fit) ?? among(this.rows, this.second, keys.number, row, fit) ?? whole();
	}
}

/** `few`: where more rows than so many have the key, it says nothing. */
function among(rows: readonly Row[], chains: Chains, hash: number, sought: Row, fit: Fits, few = Infinity): Row | null {
	let i = chains.first(hash);
	if (few < Infinity) {
		let more = i;
		for (let n = 0; n < few && more >= 0; n++) more = chains.after(more);
		if (more >= 0) return null;
	}
	for (let compared = 0; i >= 0 && compared < COMPARE_LIMIT; i = chains.after(i), compared++) if (fit(rows[i]!, sought)) return rows[i]!;
	return null;
}

/** Row numbers by a hash, chained in two arrays: as cheap for a hundred thousand rows as for ten. Linked when first asked. */
class Chains {
	private head = new Int32Array(0);
	private next = new Int32Array(0);
	private hashes = new Float64Array(64);
	private count = 0;
	private linked = 0;

	/** Adds the next row (they are added in order); `hash` 0 leaves it out. */
	add(hash: number): void {
		if (this.count === this.hashes.length) {
			const hashes = new Float64Array(this.count * 2);
			hashes.set(this.hashes);
			this.hashes = hashes;
		}
		this.hashes[this.count++] = hash;
	}

	first(hash: number): number {
		if (hash === 0) return -1;
		this.link();
		return this.skip(this.head[slot(hash, this.head.length)]!, hash);
	}

	after(i: number): number {
		return this.skip(this.next[i]!, this.hashes[i]!);
	}

	private skip(i: number, hash: number): number {
		let at = i;
		while (at >= 0 && this.hashes[at] !== hash) at = this.next[at]!;
		return at;
	}

	private link(): void {
		if (this.hashes.length > this.next.length) {
			this.next = new Int32Array(this.hashes.length);
			this.head = new Int32Array(this.hashes.length).fill(-1);
			this.linked = 0;
		}
		for (; this.linked < this.count; this.linked++) {
			const hash = this.hashes[this.linked]!;
			if (hash === 0) continue;
			const at = slot(hash, this.head.length);
			this.next[this.linked] = this.head[at]!;
			this.head[at] = this.linked;
		}
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
	/** How many of the first rows stand in the order of their numbers, as a table's tree has them. */
	private inOrder = 0;
	private readonly rowids = new Chains();
	/** Rows whose number became known after they were indexed. */
	private readonly numberedLater = new Map<number | bigint, Row>();
	private readonly numbers = new Chains();
	private readonly lost: Row[] = [];
	private readonly lostTexts = new ContentChains(this.lost);
	/** Made only when asked for: it takes the values of all rows in use. */
	private keptTexts: ContentChains | null = null;
	private rowidsIndexed = 0;

	/** A row in use; `largest`: of its numbers, where it is known without its values being read. */
	add(row: Row, largest?: number): void {
		const { rowid } = row;
		if (
			this.inOrder === this.rows.length &&
			typeof rowid === 'number' &&
			(this.inOrder === 0 || this.rows[this.inOrder - 1]!.rowid! < rowid)
		)
			this.inOrder++;
		this.rows.push(row);
		this.numbers.add(largest === undefined ? contentKeys(row).number : numberKey(largest));
	}

	addLost({ row, keys }: Sought): void {
		this.rows.push(row);
		this.numbers.add(keys.number);
		this.lost.push(row);
		this.lostTexts.add(keys);
	}

	withRowid(rowid: number | bigint, sought: Row, fit: Fits): Row | null {
		const found = this.amongOrdered(rowid);
		if (found && fit(found, sought)) return found;
		this.rowidsIndexed = Math.max(this.rowidsIndexed, this.inOrder);
		for (; this.rowidsIndexed < this.rows.length; this.rowidsIndexed++) this.rowids.add(rowidHash(this.rows[this.rowidsIndexed]!.rowid));
		for (let i = this.rowids.first(rowidHash(rowid)); i >= 0; i = this.rowids.after(i)) {
			const row = this.rows[this.inOrder + i]!;
			if (row.rowid === rowid && fit(row, sought)) return row;
		}
		const later = this.numberedLater.get(rowid);
		return later && fit(later, sought) ? later : null;
	}

	private amongOrdered(rowid: number | bigint): Row | null {
		let low = 0;
		let high = this.inOrder;
		while (low < high) {
			const middle = (low + high) >>> 1;
			if (this.rows[middle]!.rowid! < rowid) low = middle + 1;
			else high = middle;
		}
		const row = low < this.inOrder ? this.rows[low]! : null;
		return row?.rowid === rowid ? row : null;
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
		const byNumber = among(this.rows, this.numbers, keys.number, row, fit) ?? among(this.rows, this.numbers, keys.second, row, fit);
		if (byNumber) return byNumber;
		const lost = this.lostTexts.find(sought, fit);
		if (lost || (keys.number !== 0 && !lacks(row.values))) return lost;
		return (this.keptTexts ??= this.indexKept()).find(sought, fit);
	}

	private indexKept(): ContentChains {
		const chains = new ContentChains(this.rows.filter((row) => row.standing === 'kept'));
		for (const row of chains.rows) chains.add(contentKeys(row));
		return chains;
	}
}

/** Whether a value is lost; the first is not asked for. */
function lacks(values: readonly (Value | undefined)[]): boolean {
	for (let k = 1; k < values.length; k++) if (values[k] === undefined) return true;
	return false;
}

/** Never 0, which stands for a row without one. */
const rowidHash = (rowid: number | bigint | null): number => (rowid === null ? 0 : Number(rowid) + (Number(rowid) >= 0 ? 1 : 0));

export class RowBook {
	readonly rows: Row[] = [];
	private readonly perTable: (TableRows | undefined)[] = [];
	/** Places already taken for lost rows, by file and offset. */
	private readonly seenAt: Set<number>[] = [];

	/** A row in use; `largest` of its numbers, where that is known already. */
	addKept(row: Row, largest?: number): void {
		this.rows.push(row);
		this.of(row.table).add(row, largest);
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
		this.rows.push(row);
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

	/** How many of these lost rows are copies of rows known in `table`: says whose page it was. */
	votes(rows: readonly Row[], table: number): number {
		return rows.filter((row) => row.rowid !== null && this.of(table).withRowid(row.rowid, row, agrees)).length;
	}

	private match(sought: Sought, table: number): Row | null {
		const { row } = sought;
		const rows = this.of(table);
		if (row.rowid === null) return rows.withContent(sought, fitsWithoutNumber);
		return rows.withRowid(row.rowid, row, fits) ?? rows.withContent(sought, givesNumber);
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
		known.standing = betterStanding(known.standing, again.standing);
		known.grade = betterGrade(known.grade, again.grade);
		for (const sighting of again.sightings) addSighting(known, sighting);
		return known;
	}

	private of(table: number): TableRows {
		return (this.perTable[table] ??= new TableRows());
	}
}

/** Of a text or a blob; 0 of anything else. */
const lengthOf = (value: Value | undefined): number =>
	typeof value === 'string' || (value !== null && typeof value === 'object') ? value.length : 0;

/** Takes over what is lost in one row and left in another; of a text that is cut in both the longer part. */
function fillFrom(known: Row, again: Row): void {
	const { cut } = again;
	const longer = (k: number): boolean => k === known.cut && k === cut && lengthOf(again.values[k]) > lengthOf(known.values[k]);
	if (!known.values.includes(undefined) && !longer(cut)) return;
	const cutHere = cut >= 0 && known.values[cut] === undefined && again.values[cut] !== undefined;
	known.values = known.values.map((v, k) => (v === undefined || longer(k) ? again.values[k] : v));
	if (cutHere) known.cut = cut;
}

export function addSighting(row: { sightings: Sighting[]; moreSightings?: number }, sighting: Sighting): void {
	if (row.sightings.some((s) => s.file === sighting.file && s.offset === sighting.offset)) return;
	if (row.sightings.length >= SIGHTINGS_KEPT) row.moreSightings = (row.moreSightings ?? 0) + 1;
	else row.sightings.push(sighting);
}

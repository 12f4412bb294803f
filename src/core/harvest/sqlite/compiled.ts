/** Shapes made ready for the carver: which serial types each column allows, as tables that are looked up, not asked. */
import { setOfBytes } from './places';
import { sizeOfSerialType } from './record';
import { allows, classOfSerialType, MOST_COLUMNS, NULL, type Shape } from './shape';
import { readVarint, varintLength } from './varint';

const NARROW = 128;
/** The types of the header being looked at. */
const types = new Int32Array(MOST_COLUMNS);

export class CompiledShape {
	/** Columns of a full record, and of the oldest, shorter ones. */
	readonly count: number;
	readonly fewest: number;
	/** Per column, whether a one-byte serial type is allowed. */
	private readonly narrow: Uint8Array;
	private readonly wideText: Uint8Array;
	private readonly wideBlob: Uint8Array;
	private readonly covered: (readonly number[] | undefined)[] = [];
	private readonly alike: (readonly number[] | undefined)[] = [];

	constructor(readonly shape: Shape) {
		this.count = shape.order.length;
		this.fewest = Math.max(1, Math.min(shape.fewest, this.count));
		this.narrow = new Uint8Array(this.count * NARROW);
		this.wideText = new Uint8Array(this.count);
		this.wideBlob = new Uint8Array(this.count);
		for (let k = 0; k < this.count; k++) {
			for (let type = 0; type < NARROW; type++)
				if (type !== 10 && type !== 11 && allows(shape, k, type)) this.narrow[k * NARROW + type] = 1;
			this.wideText[k] = Number(allows(shape, k, 129));
			this.wideBlob[k] = Number(allows(shape, k, 128));
		}
	}

	allows(column: number, type: number): boolean {
		return (type < NARROW ? this.narrow[column * NARROW + type] : type & 1 ? this.wideText[column] : this.wideBlob[column]) === 1;
	}

	allowsAll(types: Int32Array, from: number, count: number): boolean {
		for (let k = from; k < count; k++) if (!this.allows(k, types[k]!)) return false;
		return true;
	}

	/** By a byte: whether the first column's serial type can begin with it. */
	firstBytes(): Uint8Array {
		const first = new Uint8Array(256);
		for (let type = 0; type < NARROW; type++) first[type] = Number(this.allows(0, type));
		if (this.allows(0, NARROW) || this.allows(0, NARROW + 1)) first.fill(1, NARROW);
		return first;
	}

	/**
	 * One-byte serial types that a lost column can have had. Of an index with hardly an entry, and of a table with hardly a row
	 * on a page that is not its `own`, only what is like those is guessed: any two types would do for what its few say.
	 */
	coveredTypes(column: number, own = true): readonly number[] {
		const { shape } = this;
		const all = this.allCovered(column);
		if (shape.rows >= FEW_ROWS || (!shape.entryOf && (own || shape.rows === 0))) return all;
		return (this.alike[column] ??= all.filter((type) => isLikeSeen(shape, column, type)));
	}

	private allCovered(column: number): readonly number[] {
		let list = this.covered[column];
		if (!list) {
			const { shape } = this;
			const fixed = shape.rows > 10 && shape.shortest[column] === shape.longest[column] ? shape.longest[column]! : -1;
			const all: number[] = [];
			for (let type = 0; type < NARROW; type++) {
				if (!this.allows(column, type)) continue;
				// Null, 0 and 1 leave no bytes to tell them apart by: only what was seen there is guessed.
				if (shape.rows >= 20 && type === 0 && !(shape.seen[column]! & NULL)) continue;
				if (shape.rows >= 20 && type === 8 && !(shape.bare[column]! & 1)) continue;
				if (shape.rows >= 20 && type === 9 && !(shape.bare[column]! & 2) && !isRunning(shape, column)) continue;
				if (type >= 13 && type % 2 === 1 && fixed >= 0 && (type - 13) / 2 !== fixed) continue;
				all.push(type);
			}
			this.covered[column] = list = shape.rowidAt === column ? [0] : all;
		}
		return list;
	}
}

const FEW_ROWS = 20;

/** Whether a serial type is of a class that a column's values have been of, a text or blob of about their length. */
function isLikeSeen(shape: Shape, column: number, type: number): boolean {
	if ((classOfSerialType(type) & shape.seen[column]!) === 0) return false;
	const size = sizeOfSerialType(type);
	return type < 12 || (size * 2 >= shape.shortest[column]! && size <= shape.longest[column]! * 2);
}

/** Whether a column holds running numbers of which the first can be gone: many, or all others from two on. */
const isRunning = (shape: Shape, column: number): boolean =>
	shape.low[column] === 2 || (shape.low[column]! > 1 && shape.high[column]! - shape.low[column]! >= 20 && shape.high[column]! < 1e7);

export class ShapeIndex {
	readonly all: CompiledShape[];
	/** By number of record columns. */
	readonly byCount: CompiledShape[][] = [];
	readonly smallestHeader: number;
	readonly largestHeader: number;
	/** Whether a record header of so many bytes (below 128) is possible at all. */
	readonly headerFits = new Uint8Array(NARROW);
	/** By two bytes: whether a record's header can begin with them (its size, then the first serial type). */
	readonly begins = new Uint8Array(65_536);
	/** The bytes that a header can begin with, and those that can come next, as the marks read them. */
	readonly sizes: Uint8Array;
	readonly firsts: Uint8Array;

	constructor(shapes: readonly Shape[], withoutRowid = false) {
		this.all = shapes.filter((s) => s.order.length > 0 && s.withoutRowid === withoutRowid).map((s) => new CompiledShape(s));
		let smallest = Infinity;
		let largest = 0;
		for (const compiled of this.all) {
			const first = compiled.firstBytes();
			for (let n = compiled.fewest; n <= compiled.count; n++) {
				(this.byCount[n] ??= []).push(compiled);
				smallest = Math.min(smallest, n + 1);
				// A type takes one byte, or up to five where the column holds texts or blobs.
				let most = n + 2;
				for (let k = 0; k < n; k++) if (compiled.allows(k, 129) || compiled.allows(k, 128)) most += 4;
				largest = Math.max(largest, most);
				for (let size = n + 1; size <= most && size < NARROW; size++) {
					this.headerFits[size] = 1;
					for (let byte = 0; byte < 256; byte++) this.begins[(size << 8) | byte]! |= first[byte]!;
				}
			}
		}
		this.smallestHeader = smallest;
		this.largestHeader = largest;
		// A size of two bytes or more: what follows the first is no type yet.
		if (largest >= NARROW) this.begins.fill(1, NARROW << 8);
		const sizes = new Set<number>();
		const firsts = new Set<number>();
		for (let two = 0; two < this.begins.length; two++) {
			if (this.begins[two] === 0) continue;
			sizes.add(two >> 8);
			firsts.add(two & 0xff);
		}
		this.sizes = setOfBytes(sizes);
		this.firsts = setOfBytes(firsts);
	}

	/** Whether a whole record header begins at `h`: its size, and types that one of the shapes allows (section 2.1). */
	isHeader(b: Uint8Array, h: number, to: number): boolean {
		let size = b[h]!;
		let at = h + 1;
		if (size >= NARROW) {
			size = readVarint(b, h, to);
			at = h + varintLength;
			if (!(size <= this.largestHeader)) return false;
		}
		const end = h + size;
		if (end > to) return false;
		let count = 0;
		while (at < end) {
			let type = b[at]!;
			if (type < NARROW) at++;
			else {
				type = readVarint(b, at, end);
				if (varintLength === 0) return false;
				at += varintLength;
			}
			if (type === 10 || type === 11 || count >= types.length || type > 0x7fffffff) return false;
			types[count++] = type;
		}
		for (const compiled of this.byCount[count] ?? []) if (compiled.allowsAll(types, 0, count)) return true;
		return false;
	}
}

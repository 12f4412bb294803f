/** Shapes made ready for the carver: which serial types each column allows, as tables that are looked up, not asked. */
import { allows, MOST_COLUMNS, NULL, type Shape } from './shape';
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

	/** One-byte serial types that a lost column can have had. */
	coveredTypes(column: number): readonly number[] {
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
	/** By two bytes: whether they can be (the first of) a record header's size, and of its first serial type. */
	private readonly begins = new Uint8Array(65_536);

	constructor(shapes: readonly Shape[], withoutRowid = false) {
		this.all = shapes.filter((s) => s.order.length > 0 && s.withoutRowid === withoutRowid).map((s) => new CompiledShape(s));
		let smallest = Infinity;
		let largest = 0;
		const first = new Uint8Array(256);
		for (const compiled of this.all) {
			for (let type = 0; type < NARROW; type++) if (compiled.allows(0, type)) first[type] = 1;
			if (compiled.allows(0, 128) || compiled.allows(0, 129)) first.fill(1, NARROW);
			for (let n = compiled.fewest; n <= compiled.count; n++) {
				(this.byCount[n] ??= []).push(compiled);
				smallest = Math.min(smallest, n + 1);
				// A type takes one byte, or up to five where the column holds texts or blobs.
				let most = n + 2;
				for (let k = 0; k < n; k++) if (compiled.allows(k, 129) || compiled.allows(k, 128)) most += 4;
				largest = Math.max(largest, most);
				for (let size = n + 1; size <= most && size < NARROW; size++) this.headerFits[size] = 1;
			}
		}
		this.smallestHeader = smallest;
		this.largestHeader = largest;
		for (let size = 0; size < 256; size++)
			if (size < NARROW ? this.headerFits[size] === 1 : largest >= NARROW) this.begins.set(first, size << 8);
	}

	/** The next place from `at` on where the header of a record of one of these shapes stands, or `to`. */
	nextHeader(b: Uint8Array, at: number, to: number): number {
		const { begins } = this;
		let size = b[at]!;
		for (let h = at; h + 1 < to; h++) {
			const first = b[h + 1]!;
			if (begins[(size << 8) | first] !== 0 && this.isHeader(b, h, to)) return h;
			size = first;
		}
		return to;
	}

	/** Whether a whole record header begins at `h`: its size, and types that one of the shapes allows (section 2.1). */
	private isHeader(b: Uint8Array, h: number, to: number): boolean {
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
		const candidates = this.byCount[count];
		return candidates !== undefined && candidates.some((compiled) => compiled.allowsAll(types, 0, count));
	}
}

/**
 * The one way the core reads bytes: synchronously, by offset and length.
 * Implementations over a browser File (worker) and a Node file live outside the core.
 */
export interface ByteSource {
	/** Size in bytes. */
	readonly size: number;
	/**
	 * Up to `length` bytes from `offset`; fewer (or none) past the end. The result may be a view that the
	 * next read invalidates only if the implementation says so; the ones here never do.
	 */
	read(offset: number, length: number): Uint8Array;
}

const EMPTY = new Uint8Array(0);

/** Bytes already in memory. Reads are views, not copies. */
export class MemorySource implements ByteSource {
	readonly size: number;
	constructor(private readonly bytes: Uint8Array) {
		this.size = bytes.length;
	}
	read(offset: number, length: number): Uint8Array {
		if (!(offset >= 0) || offset >= this.size || !(length > 0)) return EMPTY;
		return this.bytes.subarray(offset, Math.min(this.size, offset + length));
	}
}

/** A stretch of another source, with offsets from its own start. */
export class SliceSource implements ByteSource {
	readonly size: number;
	constructor(
		private readonly parent: ByteSource,
		private readonly start: number,
		size: number
	) {
		this.size = Math.max(0, Math.min(size, parent.size - start));
	}
	read(offset: number, length: number): Uint8Array {
		if (!(offset >= 0) || offset >= this.size || !(length > 0)) return EMPTY;
		return this.parent.read(this.start + offset, Math.min(length, this.size - offset));
	}
}

/** Blocks of slower sources, no more than `most` bytes of them in all; the least recently used are given up first. */
export class BlockPool {
	private readonly kept = new Map<CachedSource, Map<number, Uint8Array>>();
	private readonly order = new Map<Uint8Array, { of: CachedSource; index: number }>();
	private bytes = 0;

	constructor(private readonly most = 64 << 20) {}

	get(of: CachedSource, index: number): Uint8Array | undefined {
		const block = this.kept.get(of)?.get(index);
		if (block) {
			this.order.delete(block);
			this.order.set(block, { of, index });
		}
		return block;
	}

	keep(of: CachedSource, index: number, block: Uint8Array): void {
		const own = this.kept.get(of) ?? new Map<number, Uint8Array>();
		this.kept.set(of, own.set(index, block));
		this.order.set(block, { of, index });
		this.bytes += block.length;
		for (const [oldest, at] of this.order) {
			if (this.bytes <= this.most || oldest === block) break;
			this.order.delete(oldest);
			this.kept.get(at.of)!.delete(at.index);
			at.of.forget(at.index);
			this.bytes -= oldest.length;
		}
	}
}

/** A slower source read in blocks of `blockSize` bytes, which a pool keeps. Memory is bounded by the pool's, whatever the source's size. */
export class CachedSource implements ByteSource {
	readonly size: number;
	private lastIndex = -1;
	private lastBlock: Uint8Array = EMPTY;

	constructor(
		private readonly parent: ByteSource,
		private readonly pool = new BlockPool(),
		private readonly blockSize = 4 << 20
	) {
		this.size = parent.size;
	}

	read(offset: number, length: number): Uint8Array {
		if (!(offset >= 0) || offset >= this.size || !(length > 0)) return EMPTY;
		const end = Math.min(this.size, offset + length);
		const first = Math.floor(offset / this.blockSize);
		const last = Math.floor((end - 1) / this.blockSize);
		if (first === last) {
			const base = first * this.blockSize;
			return this.block(first).subarray(offset - base, end - base);
		}
		const out = new Uint8Array(end - offset);
		for (let index = first; index <= last; index++) {
			const base = index * this.blockSize;
			const from = Math.max(offset, base);
			const to = Math.min(end, base + this.blockSize);
			out.set(this.block(index).subarray(from - base, to - base), from - offset);
		}
		return out;
	}

	/** The pool has given this block up. */
	forget(index: number): void {
		if (index !== this.lastIndex) return;
		this.lastIndex = -1;
		this.lastBlock = EMPTY;
	}

	private block(index: number): Uint8Array {
		if (index === this.lastIndex) return this.lastBlock;
		let block = this.pool.get(this, index);
		if (!block) this.pool.keep(this, index, (block = this.parent.read(index * this.blockSize, this.blockSize)));
		this.lastIndex = index;
		this.lastBlock = block;
		return block;
	}
}

/** Row numbers by a hash, chained in two arrays: as cheap for a hundred thousand rows as for ten. Linked when first asked. */
export class Chains {
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

const bits = new DataView(new ArrayBuffer(8));

/** Spreads a number over `size` places (a power of two), by all of its bits. */
function slot(hash: number, size: number): number {
	bits.setFloat64(0, hash);
	const mixed = Math.imul(bits.getInt32(0) ^ Math.imul(bits.getInt32(4), 0x85ebca6b), 0x9e3779b1);
	return ((mixed ^ (mixed >>> 15)) >>> 7) & (size - 1);
}

/** A deflated entry (RFC 1951) as readable bytes: its beginning at once, the whole when more is asked for. */
import { Inflate, inflateSync } from 'fflate';
import type { ByteSource } from '../../bytes';
import type { Room } from '../room';

const BEGINNING = 1024;
const BLOCK = 1 << 20;
/** Packed bytes that are unpacked at once: what they can become at most (1032 times as much) takes no time worth naming. */
const AT_ONCE = 16_384;

export class InflatedSource implements ByteSource {
	private large: ByteSource | null = null;
	private beginning: Uint8Array | null = null;

	constructor(
		private readonly packed: ByteSource,
		/** Bytes unpacked, as stated: no more than these are ever given. */
		readonly size: number,
		private readonly room: Room
	) {}

	read(offset: number, length: number): Uint8Array {
		if (!(offset >= 0) || offset >= this.size || !(length > 0)) return new Uint8Array(0);
		if (!this.large && offset + length <= BEGINNING) {
			this.beginning ??= this.inMemory(BEGINNING, 4096);
			return this.beginning.subarray(offset, offset + length);
		}
		if (!this.room.fitsInMemory(this.size)) return (this.large ??= this.inScratch()).read(offset, length);
		let whole = this.room.recall(this);
		if (!whole) this.room.keep(this, (whole = this.inMemory(this.size, BLOCK)));
		return whole.subarray(offset, offset + length);
	}

	private inMemory(most: number, block: number): Uint8Array {
		const out = new Uint8Array(Math.min(most, this.size));
		if (this.packed.size <= AT_ONCE) {
			try {
				// What goes beyond it is not written.
				return inflateSync(this.packed.read(0, AT_ONCE), { out });
			} catch {
				out.fill(0);
			}
		}
		let have = 0;
		this.inflate(out.length, block, (chunk) => {
			out.set(chunk, have);
			have += chunk.length;
		});
		return have === out.length ? out : out.slice(0, have);
	}

	private inScratch(): ByteSource {
		const collector = this.room.collector();
		this.inflate(this.size, BLOCK, (chunk) => collector.write(chunk));
		return collector.source();
	}

	/** Gives up to `most` bytes; fewer where the packed bytes end or are damaged. */
	private inflate(most: number, block: number, take: (chunk: Uint8Array) => void): void {
		let have = 0;
		const stream = new Inflate((chunk) => {
			const wanted = chunk.subarray(0, most - have);
			have += wanted.length;
			if (wanted.length > 0) take(wanted);
		});
		try {
			for (let at = 0; at < this.packed.size && have < most; at += block)
				stream.push(this.packed.read(at, block).slice(), at + block >= this.packed.size);
		} catch {
			// What came before the damage is kept.
		}
	}
}

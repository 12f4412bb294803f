/** A deflated entry (RFC 1951) as readable bytes: its beginning at once, the whole when more is asked for. */
import { Inflate } from 'fflate';
import { MemorySource, type ByteSource } from '../../bytes';

const BEGINNING = 1024;
const BLOCK = 1 << 20;

export class InflatedSource implements ByteSource {
	private whole: MemorySource | null = null;
	private beginning: Uint8Array | null = null;

	constructor(
		private readonly packed: ByteSource,
		/** Bytes unpacked, as stated: no more than these are ever given. */
		readonly size: number
	) {}

	read(offset: number, length: number): Uint8Array {
		if (!(offset >= 0) || offset >= this.size || !(length > 0)) return new Uint8Array(0);
		if (!this.whole && offset + length <= BEGINNING) {
			this.beginning ??= this.inflate(BEGINNING, 4096);
			return this.beginning.subarray(offset, offset + length);
		}
		this.whole ??= new MemorySource(this.inflate(this.size, BLOCK));
		return this.whole.read(offset, length);
	}

	/** Up to `most` bytes; fewer where the packed bytes end or are damaged. */
	private inflate(most: number, block: number): Uint8Array {
		const out = new Uint8Array(Math.min(most, this.size));
		let have = 0;
		const stream = new Inflate((chunk) => {
			out.set(chunk.subarray(0, out.length - have), have);
			have = Math.min(out.length, have + chunk.length);
		});
		try {
			for (let at = 0; at < this.packed.size && have < out.length; at += block)
				stream.push(this.packed.read(at, block).slice(), at + block >= this.packed.size);
		} catch {
			// What came before the damage is kept.
		}
		return have === out.length ? out : out.slice(0, have);
	}
}

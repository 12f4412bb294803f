/**
 * Where unpacked bytes are kept: small ones in memory while they are in use, large ones in the host's scratch. Without
 * scratch all stay in memory, within closer bounds.
 */
import { joined, MemorySource, type ByteSource, type Scratch, type ScratchMaker } from '../bytes';

/** What is unpacked to no more than this stays in memory. */
const IN_MEMORY = 16 << 20;
/** So much of it in all, that can be unpacked again. */
const KEPT = 64 << 20;
const MOST_IN_MEMORY = 1 << 30;
const MOST_IN_SCRATCH = 2 ** 36;

export class Room {
	private readonly kept = new Map<object, Uint8Array>();
	private bytes = 0;

	constructor(private readonly scratch: ScratchMaker | null = null) {}

	/** Bytes that one container may unpack to. */
	get most(): number {
		return this.scratch ? MOST_IN_SCRATCH : MOST_IN_MEMORY;
	}

	/** For bytes of a known number. */
	fitsInMemory(size: number): boolean {
		return size <= IN_MEMORY || this.scratch === null;
	}

	/** What was unpacked for `key`, where it is still here. */
	recall(key: object): Uint8Array | undefined {
		const bytes = this.kept.get(key);
		if (bytes) {
			this.kept.delete(key);
			this.kept.set(key, bytes);
		}
		return bytes;
	}

	/** Keeps what can be unpacked again, for as long as there is room. */
	keep(key: object, bytes: Uint8Array): void {
		this.kept.set(key, bytes);
		this.bytes += bytes.length;
		for (const [oldest, its] of this.kept) {
			if (this.bytes <= KEPT || oldest === key) break;
			this.kept.delete(oldest);
			this.bytes -= its.length;
		}
	}

	collector(): Collector {
		return new Collector(this.scratch);
	}
}

/** Takes bytes as they come, and gives them back as a source. */
class Collector {
	private parts: Uint8Array[] = [];
	private inMemory = 0;
	private spilled: Scratch | null = null;

	constructor(private readonly scratch: ScratchMaker | null) {}

	write(bytes: Uint8Array): void {
		if (bytes.length === 0) return;
		if (!this.spilled && this.scratch && this.inMemory + bytes.length > IN_MEMORY) {
			this.spilled = this.scratch();
			for (const part of this.parts) this.spilled.write(part);
			this.parts = [];
		}
		if (this.spilled) this.spilled.write(bytes);
		else {
			this.parts.push(bytes);
			this.inMemory += bytes.length;
		}
	}

	source(): ByteSource {
		if (this.spilled) return this.spilled.source();
		return new MemorySource(joined(this.parts));
	}
}

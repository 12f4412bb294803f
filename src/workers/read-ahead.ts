/**
 * Files read on while what was read of them is looked at: a worker of its own reads the blocks that come next, and hands
 * them over. Whoever looks goes on reading synchronously; between its steps it waits for `arrival`, so that blocks on their
 * way can come in. Without such a worker, or where reading jumps about, blocks are simply read when they are asked for.
 */
import type { ByteSource } from '../core/bytes';
import { FileSource } from './file-source';

/** A block wanted of the reader, and what it answers: null where the file cannot be read (whoever asks for it is told so). */
export interface BlockWanted {
	id: number;
	file: Blob;
	/** In bytes. */
	offset: number;
	length: number;
}
export interface BlockRead {
	id: number;
	bytes: ArrayBuffer | null;
}

/** The worker that reads, as this file needs it. */
export interface Reader {
	postMessage(wanted: BlockWanted): void;
	onmessage: ((event: MessageEvent<BlockRead>) => void) | null;
	/** It could not be started, or broke off. */
	onerror: ((event: ErrorEvent) => void) | null;
}

/** Blocks asked for ahead. The look's are of 4 MiB: 24 MiB in all. */
const AHEAD = 6;
/** Shorter reads are no blocks. */
const SHORTEST = 1 << 20;
/**
 * Those are served from pieces of the file of so many bytes, the last so many of which are kept: a read by itself takes a
 * millisecond, and an archive of many files is opened by several for each.
 */
const PIECE = 1 << 18;
const PIECES = 16;

interface Asked {
	id: number;
	source: AheadSource;
	offset: number;
	length: number;
	/** Undefined until they have arrived. */
	bytes: ArrayBuffer | null | undefined;
}

export class ReadAhead {
	/** In the order in which they will be asked for. */
	private asked: Asked[] = [];
	private lastId = 0;
	private tell: (() => void) | null = null;

	constructor(private reader: Reader | null) {
		if (!reader) return;
		reader.onmessage = ({ data }): void => this.arrived(data);
		reader.onerror = (): void => this.goOnWithout();
	}

	/** Pieces last read, the newest first. */
	private pieces: { source: AheadSource; index: number; bytes: Uint8Array }[] = [];

	/** A piece of a file, as it was read last or by `read` now. */
	piece(source: AheadSource, index: number, read: (offset: number, length: number) => Uint8Array): Uint8Array {
		const at = this.pieces.findIndex((p) => p.source === source && p.index === index);
		const [known] = at < 0 ? [] : this.pieces.splice(at, 1);
		const piece = known ?? { source, index, bytes: read(index * PIECE, PIECE) };
		this.pieces.unshift(piece);
		this.pieces.length = Math.min(this.pieces.length, PIECES);
		return piece.bytes;
	}

	source(file: Blob): ByteSource {
		return new AheadSource(file, this);
	}

	/** Where the block that comes next is on its way: when it is here. Null where there is nothing to wait for. */
	arrival(): Promise<void> | null {
		return this.asked[0]?.bytes === undefined && this.asked.length > 0 ? new Promise((resolve) => (this.tell = resolve)) : null;
	}

	/** A block that was asked for ahead and is here. What was asked for before it is not wanted any more. */
	take(source: AheadSource, offset: number, length: number): Uint8Array | null {
		const at = this.asked.findIndex((a) => a.source === source && a.offset === offset && a.length === length);
		if (at < 0) return null;
		const [block] = this.asked.splice(0, at + 1).slice(-1);
		return block?.bytes ? new Uint8Array(block.bytes) : null;
	}

	/** Has the blocks from `offset` on read that are not being read yet; those of another place are not wanted any more. */
	readOn(source: AheadSource, file: Blob, offset: number, length: number): void {
		if (this.asked[0] && !(this.asked[0].source === source && this.asked[0].offset === offset)) this.asked = [];
		const last = this.asked.at(-1);
		let next = last ? last.offset + last.length : offset;
		for (; this.reader && this.asked.length < AHEAD && next < file.size; next += length) {
			const wanted = { id: ++this.lastId, file, offset: next, length: Math.min(length, file.size - next) };
			this.asked.push({ ...wanted, source, length, bytes: undefined });
			this.reader.postMessage(wanted);
		}
	}

	private arrived({ id, bytes }: BlockRead): void {
		const block = this.asked.find((a) => a.id === id);
		if (block) block.bytes = bytes;
		if (this.asked[0]?.bytes === undefined && this.asked.length > 0) return;
		this.tell?.();
		this.tell = null;
	}

	private goOnWithout(): void {
		this.reader = null;
		this.asked = [];
		this.tell?.();
		this.tell = null;
	}
}

/** A file of which blocks that follow one another are read ahead. */
class AheadSource extends FileSource {
	private next = -1;

	constructor(
		private readonly whole: Blob,
		private readonly ahead: ReadAhead
	) {
		super(whole);
	}

	override read(offset: number, length: number): Uint8Array {
		if (length < SHORTEST) return this.inPieces(offset, length);
		const bytes = this.ahead.take(this, offset, length) ?? super.read(offset, length);
		if (offset === this.next || offset === 0) this.ahead.readOn(this, this.whole, offset + length, length);
		this.next = offset + length;
		return bytes;
	}

	private inPieces(offset: number, length: number): Uint8Array {
		const index = Math.floor(offset / PIECE);
		const start = offset - index * PIECE;
		if (length > PIECE || !(offset >= 0) || start + length > PIECE) return super.read(offset, length);
		// The caller may keep what it gets, or write into it.
		return this.ahead.piece(this, index, (from, size) => super.read(from, size)).slice(start, start + length);
	}
}

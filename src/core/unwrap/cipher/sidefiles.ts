/**
 * The log and the journal beside a database that is locked page by page. Their headers are in clear, their pages locked
 * like the database's own; the checksums are over the locked bytes. What is handed on is the file as it would be had the
 * database been open: pages in clear, and in place of each checksum that was right the one that is right for them.
 */
import { readU32Be, type ByteSource } from '../../bytes';
import { readJournal, sampleSum, walChecksum, WAL_FRAME_HEADER, WAL_HEADER } from '../../harvest';
import { unlockPage, type PageKey } from './pages';

const CHECKSUM_AT = 16;

/** A write-ahead log (SQLite file format, section 4.1). The same size and offsets as the file it is made from. */
export class UnlockedLog implements ByteSource {
	readonly size: number;
	/** Running checksums over the pages in clear, for the frames whose own were right. */
	private readonly sums: number[] = [];

	constructor(
		private readonly parent: ByteSource,
		private readonly key: PageKey
	) {
		this.size = parent.size;
		this.sumUp();
	}

	private get step(): number {
		return WAL_FRAME_HEADER + this.key.pageSize;
	}

	private sumUp(): void {
		const head = this.parent.read(0, WAL_HEADER);
		if (head.length < WAL_HEADER) return;
		const bigEndian = (readU32Be(head, 0) & 1) === 1;
		const locked: [number, number] = [readU32Be(head, 24), readU32Be(head, 28)];
		const clear: [number, number] = [...locked];
		for (let at = WAL_HEADER; at + this.step <= this.size; at += this.step) {
			const frame = this.parent.read(at, this.step);
			walChecksum(frame.subarray(0, 8), bigEndian, locked);
			walChecksum(frame.subarray(WAL_FRAME_HEADER), bigEndian, locked);
			if (locked[0] !== readU32Be(frame, CHECKSUM_AT) || locked[1] !== readU32Be(frame, CHECKSUM_AT + 4)) return;
			walChecksum(frame.subarray(0, 8), bigEndian, clear);
			walChecksum(unlockPage(frame.subarray(WAL_FRAME_HEADER), readU32Be(frame, 0), this.key), bigEndian, clear);
			this.sums.push(...clear);
		}
	}

	read(offset: number, length: number): Uint8Array {
		return patched(this.parent, offset, length, (from, to) => {
			const first = Math.max(0, Math.floor((from - WAL_HEADER) / this.step));
			const out: Patch[] = [];
			for (let n = first; WAL_HEADER + n * this.step < to; n++) {
				const at = WAL_HEADER + n * this.step;
				const frame = this.parent.read(at, this.step);
				if (frame.length < this.step) break;
				if (this.sums[2 * n + 1] !== undefined) out.push({ at: at + CHECKSUM_AT, bytes: words(this.sums[2 * n]!, this.sums[2 * n + 1]!) });
				out.push({ at: at + WAL_FRAME_HEADER, bytes: unlockPage(frame.subarray(WAL_FRAME_HEADER), readU32Be(frame, 0), this.key) });
			}
			return out;
		});
	}
}

/** A rollback journal (section 3). Its checksums are sums of sampled bytes over a nonce: the difference is carried over. */
export class UnlockedJournal implements ByteSource {
	readonly size: number;
	/** Offsets of the pages, ascending, and their numbers. */
	private readonly records: { offset: number; page: number }[];

	constructor(
		private readonly parent: ByteSource,
		private readonly key: PageKey
	) {
		this.size = parent.size;
		this.records = readJournal(parent, key.pageSize)?.records ?? [];
	}

	read(offset: number, length: number): Uint8Array {
		const { pageSize } = this.key;
		return patched(this.parent, offset, length, (from, to) =>
			this.records
				.filter((r) => r.offset < to && r.offset + pageSize + 4 > from)
				.flatMap(({ offset: at, page }) => {
					const record = this.parent.read(at - 4, pageSize + 8);
					const clear = record.slice();
					clear.set(unlockPage(record.subarray(4, 4 + pageSize), page, this.key), 4);
					const sum = readU32Be(record, pageSize + 4) - sampleSum(record, pageSize) + sampleSum(clear, pageSize);
					return [
						{ at, bytes: clear.subarray(4, 4 + pageSize) },
						{ at: at + pageSize, bytes: words(sum >>> 0) }
					];
				})
		);
	}
}

interface Patch {
	at: number;
	bytes: Uint8Array;
}

function words(...values: number[]): Uint8Array {
	const out = new Uint8Array(4 * values.length);
	const view = new DataView(out.buffer);
	values.forEach((v, i) => view.setUint32(4 * i, v));
	return out;
}

/** Bytes of the parent with patches laid over them; `patches` gives those that touch [from, to). */
function patched(parent: ByteSource, offset: number, length: number, patches: (from: number, to: number) => Patch[]): Uint8Array {
	const out = parent.read(offset, length).slice();
	const end = offset + out.length;
	for (const { at, bytes } of patches(offset, end)) {
		const from = Math.max(at, offset);
		const to = Math.min(at + bytes.length, end);
		if (to > from) out.set(bytes.subarray(from - at, to - at), from - offset);
	}
	return out;
}

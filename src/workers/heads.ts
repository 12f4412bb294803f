/**
 * The beginnings of many files, read before anything is looked for in them. Each read of a worker's takes a millisecond,
 * and what a file is takes several: those of tens of thousands of files would take minutes. Together they are read at once.
 */
import type { ByteSource } from '../core/bytes';

/** Bytes of all beginnings together, and of each. */
const BUDGET = 96 << 20;
const LONGEST = 64 << 10;
const SHORTEST = 2 << 10;
/** Files that are read at the same time. */
const AT_ONCE = 64;

/** The beginning of each; none of one that cannot be read: whoever asks for it is told why. `told`: how many are read. */
export async function readHeads(files: readonly Blob[], told: (done: number) => void = () => {}): Promise<Uint8Array[]> {
	const length = Math.max(SHORTEST, Math.min(LONGEST, Math.floor(BUDGET / Math.max(1, files.length))));
	const heads = files.map(() => new Uint8Array(0));
	for (let at = 0; at < files.length; at += AT_ONCE) {
		await Promise.all(
			files.slice(at, at + AT_ONCE).map(async (file, i) => {
				const bytes = await file
					.slice(0, length)
					.arrayBuffer()
					.catch(() => null);
				if (bytes) heads[at + i] = new Uint8Array(bytes);
			})
		);
		told(Math.min(files.length, at + AT_ONCE));
	}
	return heads;
}

/** A file whose beginning is here; what lies behind it is read when it is asked for. */
export function withHead(source: ByteSource, head: Uint8Array): ByteSource {
	return {
		size: source.size,
		read(offset, length) {
			const end = Math.min(source.size, offset + length);
			return offset >= 0 && length > 0 && end <= head.length ? head.slice(offset, end) : source.read(offset, length);
		}
	};
}

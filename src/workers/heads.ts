/**
 * The beginnings of many files, read before anything is looked for in them. Each read of a worker's takes a millisecond,
 * and what a file is takes several: those of tens of thousands of files would take minutes. Together they are read at once.
 */
import type { ByteSource } from '../core/bytes';
import { readTogether } from './together';

/** Bytes of all beginnings together, and of each. */
const BUDGET = 96 << 20;
const LONGEST = 64 << 10;
const SHORTEST = 1 << 10;
/** Files that are read together. */
const AT_ONCE = 256;

/** The beginning of each; none of one that cannot be read: whoever asks for it is told why. */
export async function readHeads(files: readonly Blob[]): Promise<Uint8Array[]> {
	const length = lengthFor(files);
	const heads: Uint8Array[] = [];
	for (let at = 0; at < files.length; at += AT_ONCE) {
		const some = files.slice(at, at + AT_ONCE).map((file) => file.slice(0, length));
		for (const head of await readTogether(some)) heads.push(head ?? NONE);
	}
	return heads;
}
const NONE = new Uint8Array(0);

/** The longest beginnings for which there is room: small files take less than others leave them. */
function lengthFor(files: readonly Blob[]): number {
	const room = (length: number): number => files.reduce((sum, { size }) => sum + Math.min(size, length), 0);
	let length = LONGEST;
	while (length > SHORTEST && room(length) > BUDGET) length >>= 1;
	return length;
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

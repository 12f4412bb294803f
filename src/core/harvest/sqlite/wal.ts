/**
 * The write-ahead log (SQLite file format, section 4 "WAL-Index" and 4.1 "WAL File Format").
 *
 * | offset | size | log header | | offset | size | frame header |
 * |---|---|---|---|---|---|---|
 * | 0 | 4 | magic 0x377f0682 or …83 | | 0 | 4 | page number |
 * | 8 | 4 | page size | | 4 | 4 | pages after commit, or 0 |
 * | 12 | 4 | checkpoint number | | 8 | 8 | the log's salts, copied |
 * | 16 | 8 | salts | | 16 | 8 | running checksum |
 * | 24 | 8 | checksum of bytes 0–23 | | 24 | page | the page |
 *
 * The frames with the header's salts and a right running checksum, up to the last one that commits, are the present
 * state. Frames behind them are of an earlier generation of the log or were never committed.
 */
import { readU32Be, type ByteSource } from '../../bytes';
import { isPageSize } from './header';

export const WAL_HEADER = 32;
export const WAL_FRAME_HEADER = 24;

export type FrameKind = 'committed' | 'uncommitted' | 'older-generation';

export interface Frame {
	/** 1-based. */
	number: number;
	page: number;
	/** Offset of the page's bytes in the log. */
	offset: number;
	/** Pages of the database after this commit; 0 where the frame ends no transaction. */
	commitSize: number;
	kind: FrameKind;
	/** Number of the frame that ends this frame's transaction (or the last of its run). */
	commitFrame: number;
	/** Runs of frames of one generation, by salts, in file order. */
	generation: number;
}

export interface Wal {
	pageSize: number;
	frames: Frame[];
	/** Number of the last frame of the last committed transaction; 0 where none. */
	lastCommit: number;
	/** Pages of the database at the last commit; 0 where none. */
	pageCount: number;
	/** Whether the log's header itself is sound. */
	sound: boolean;
	/** The header's: another pair each time the log begins anew. */
	salts: string;
	/** Bytes at the end that make no whole frame. */
	tail: number;
}

/** Reads frame headers and checks the running checksum. Null where the file is no log. Pages are not kept in memory. */
export function readWal(source: ByteSource, expectedPageSize: number): Wal | null {
	const head = source.read(0, WAL_HEADER);
	if (head.length < WAL_HEADER) return null;
	const magic = readU32Be(head, 0);
	const magicSound = magic === 0x377f0682 || magic === 0x377f0683;
	const stored = readU32Be(head, 8);
	const pageSize = isPageSize(stored) ? stored : expectedPageSize;
	if (!magicSound && !isPageSize(stored)) return null;
	const bigEndian = (magic & 1) === 1;
	const sum: [number, number] = [0, 0];
	walChecksum(head.subarray(0, 24), bigEndian, sum);
	const sound = magicSound && isPageSize(stored) && sum[0] === readU32Be(head, 24) && sum[1] === readU32Be(head, 28);
	const frames: Frame[] = [];
	let valid = sound;
	let lastCommit = 0;
	let pageCount = 0;
	let generation = 0;
	let salts = `${readU32Be(head, 16)}-${readU32Be(head, 20)}`;
	const headSalts = salts;
	const step = WAL_FRAME_HEADER + pageSize;
	let at = WAL_HEADER;
	for (let number = 1; at + step <= source.size; number++, at += step) {
		const frame = source.read(at, step);
		const ownSalts = `${readU32Be(frame, 8)}-${readU32Be(frame, 12)}`;
		if (ownSalts !== salts) {
			generation++;
			salts = ownSalts;
		}
		if (valid) {
			walChecksum(frame.subarray(0, 8), bigEndian, sum);
			walChecksum(frame.subarray(WAL_FRAME_HEADER), bigEndian, sum);
			valid = ownSalts === headSalts && sum[0] === readU32Be(frame, 16) && sum[1] === readU32Be(frame, 20) && readU32Be(frame, 0) > 0;
		}
		const commitSize = readU32Be(frame, 4);
		if (valid && commitSize > 0) {
			lastCommit = number;
			pageCount = commitSize;
		}
		frames.push({
			number,
			page: readU32Be(frame, 0),
			offset: at + WAL_FRAME_HEADER,
			commitSize,
			kind: valid ? 'committed' : ownSalts === headSalts ? 'uncommitted' : 'older-generation',
			commitFrame: number,
			generation
		});
	}
	for (const frame of frames) if (frame.kind === 'committed' && frame.number > lastCommit) frame.kind = 'uncommitted';
	markCommits(frames);
	return { pageSize, frames, lastCommit, pageCount, sound, salts: headSalts, tail: Math.max(0, source.size - at) };
}

function markCommits(frames: Frame[]): void {
	for (let i = frames.length - 1; i >= 0; i--) {
		const next = frames[i + 1];
		const frame = frames[i]!;
		if (frame.commitSize === 0 && next && next.generation === frame.generation) frame.commitFrame = next.commitFrame;
	}
}

/** Section 4.2 "Checksum Algorithm": two 32-bit sums over pairs of words. Adds to `sum`. */
export function walChecksum(b: Uint8Array, bigEndian: boolean, sum: [number, number]): void {
	let [s0, s1] = sum;
	const view = new DataView(b.buffer, b.byteOffset, b.length);
	const little = !bigEndian;
	for (let i = 0; i + 8 <= b.length; i += 8) {
		s0 = (s0 + view.getUint32(i, little) + s1) | 0;
		s1 = (s1 + view.getUint32(i + 4, little) + s0) | 0;
	}
	sum[0] = s0 >>> 0;
	sum[1] = s1 >>> 0;
}

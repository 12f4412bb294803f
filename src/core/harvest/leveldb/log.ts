/**
 * LevelDB's log (its documentation, "log_format"): blocks of 32 KiB, in each records one behind the other.
 *
 * | offset | size | record |
 * |---|---|---|
 * | 0 | 4 | sum of the type and the data |
 * | 4 | 2 | length of the data |
 * | 6 | 1 | type: 1 full, 2 first, 3 middle, 4 last |
 * | 7 | … | data |
 *
 * Example: `f2882016 1700 01` begins a full record of 23 bytes. What is shorter than seven bytes at a block's end is empty.
 */
import { readU16Le, readU32Le, type ByteSource } from '../../bytes';
import { hasSum } from './checksum';

export interface LogRecord {
	data: Uint8Array;
	/** Where its pieces lie: `from` within the data, `offset` within the file. */
	pieces: { from: number; offset: number }[];
	/** Whether all of its pieces are there, and have their sums. */
	isSound: boolean;
	/** Whether it is there to its end. */
	isWhole: boolean;
	/** Bytes of the file up to its end. */
	end: number;
}

const BLOCK = 32768;
const HEADER = 7;
const [FULL, FIRST, LAST] = [1, 2, 4];
/** A batch of writes is held whole; the engine makes none so large by itself. */
const LARGEST = 256 << 20;

/** Whether a file begins as a log does. */
export function beginsAsLog(source: ByteSource): boolean {
	const head = source.read(0, BLOCK);
	const piece = pieceAt(head, 0);
	return piece !== null && (piece.type === FULL || piece.type === FIRST) && piece.isSound && piece.data.length > 0;
}

interface Piece {
	type: number;
	data: Uint8Array;
	/** Whether the file goes on to its end. */
	isWhole: boolean;
	isSound: boolean;
}

/** The piece at an offset within a block; null where none can be. Of one that the file's end cuts what is there. */
function pieceAt(block: Uint8Array, at: number): Piece | null {
	if (at + HEADER > block.length) return null;
	const length = readU16Le(block, at + 4);
	const type = block[at + 6]!;
	if (type < FULL || type > LAST || at + HEADER + length > BLOCK) return null;
	const data = block.subarray(at + HEADER, at + HEADER + length);
	const isWhole = data.length === length;
	const isSound = isWhole && hasSum(readU32Le(block, at), block.subarray(at + 6, at + HEADER + length));
	return { type, data, isWhole, isSound };
}

/** The records of a log in their order. What is no record is passed over up to the next block, as the engine does. */
export function* logRecords(source: ByteSource): Generator<LogRecord, void, void> {
	let open: { parts: Uint8Array[]; record: LogRecord } | null = null;
	const closed = (isWhole: boolean): LogRecord => {
		const { parts, record } = open!;
		open = null;
		return { ...record, data: joined(parts), isWhole, isSound: record.isSound && isWhole };
	};
	for (let offset = 0; offset < source.size; offset += BLOCK) {
		const block = source.read(offset, BLOCK);
		let at = 0;
		for (let piece = pieceAt(block, at); piece; piece = pieceAt(block, at)) {
			const { type, data, isWhole, isSound } = piece;
			const place = { offset: offset + at + HEADER, length: data.length };
			at += HEADER + data.length;
			if (open && (type === FULL || type === FIRST || sizeOf(open.parts) + data.length > LARGEST)) yield closed(false);
			// What stands between a lost beginning and its end is looked through by itself.
			open ??= { parts: [], record: { data, pieces: [], isSound: type === FULL || type === FIRST, isWhole: true, end: 0 } };
			open.record.pieces.push({ from: sizeOf(open.parts), offset: place.offset });
			open.parts.push(data);
			open.record.end = place.offset + place.length;
			open.record.isSound &&= isSound;
			if (type === FULL || type === LAST) yield closed(isWhole);
		}
	}
	if (open) yield closed(false);
}

const sizeOf = (parts: readonly Uint8Array[]): number => parts.reduce((sum, p) => sum + p.length, 0);

function joined(parts: readonly Uint8Array[]): Uint8Array {
	if (parts.length === 1) return parts[0]!;
	const whole = new Uint8Array(sizeOf(parts));
	let at = 0;
	for (const part of parts) {
		whole.set(part, at);
		at += part.length;
	}
	return whole;
}

/** Where a stretch of a record's data lies in the file: from its first byte to its last, headers between them counted. */
export function placeIn({ pieces }: LogRecord, from: number, to: number): { offset: number; length: number } {
	const offsetOf = (at: number): number => {
		const piece = pieces.findLast((p) => p.from <= at)!;
		return piece.offset + at - piece.from;
	};
	const offset = offsetOf(from);
	return { offset, length: offsetOf(Math.max(from, to - 1)) + 1 - offset };
}

/** A stretch of a record's data, read again. */
export function bytesAgain(source: ByteSource, pieces: LogRecord['pieces'], from: number, to: number): Uint8Array {
	const parts = pieces.flatMap((piece, i) => {
		const end = Math.min(to, pieces[i + 1]?.from ?? to);
		const start = Math.max(from, piece.from);
		return end > start ? [source.read(piece.offset + start - piece.from, end - start)] : [];
	});
	return joined(parts);
}

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
import { joined, readU16Le, readU32Le, type ByteSource } from '../../bytes';
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

/** Whether a file is a log: a piece in its first block has its sum. */
export function isLog(source: ByteSource): boolean {
	const head = source.read(0, BLOCK);
	return nextSound(head, 0, { left: SOUGHT }) < head.length;
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

/** Bytes that are summed up in one log to find the next piece behind a damaged one, at most. */
const SOUGHT = 64 << 20;

/** How many more bytes may be summed up. */
interface Budget {
	left: number;
}

/** The offset of the next piece that has its sum, from `from` on; the block's end where there is none. */
function nextSound(block: Uint8Array, from: number, budget: Budget): number {
	for (let at = from; at + HEADER <= block.length && budget.left > 0; at++) {
		const length = readU16Le(block, at + 4);
		if (length === 0 || block[at + 6]! < FULL || block[at + 6]! > LAST || at + HEADER + length > block.length) continue;
		budget.left -= length;
		if (pieceAt(block, at)!.isSound) return at;
	}
	return block.length;
}

/** Whether the rest of a block is what the engine leaves empty. */
const isEmpty = (block: Uint8Array, at: number): boolean => block.length - at < HEADER || block.subarray(at).every((byte) => byte === 0);

/** The pieces of a block with their offsets. What lies between a damaged one and the next that has its sum is a piece as well. */
function* piecesIn(block: Uint8Array, budget: Budget): Generator<{ piece: Piece; at: number }, void, void> {
	for (let at = 0; !isEmpty(block, at);) {
		const piece = pieceAt(block, at);
		const end = piece ? at + HEADER + piece.data.length : 0;
		// One whose length is right is followed by another, by nothing, or by the file's end.
		if (piece && (piece.isSound || !piece.isWhole || isEmpty(block, end) || pieceAt(block, end)?.isSound)) {
			yield { piece, at };
			at = end;
			continue;
		}
		const next = nextSound(block, at + 1, budget);
		const data = block.subarray(at + HEADER, next);
		yield { piece: { type: piece?.type ?? FULL, data, isWhole: true, isSound: false }, at };
		at = next;
	}
}

/** The records of a log in their order, damaged ones too. */
export function* logRecords(source: ByteSource): Generator<LogRecord, void, void> {
	let open: { parts: Uint8Array[]; length: number; record: LogRecord } | null = null;
	const budget = { left: SOUGHT };
	const closed = (isWhole: boolean): LogRecord => {
		const { parts, record } = open!;
		open = null;
		return { ...record, data: joined(parts), isWhole, isSound: record.isSound && isWhole };
	};
	for (let offset = 0; offset < source.size; offset += BLOCK) {
		for (const { piece, at } of piecesIn(source.read(offset, BLOCK), budget)) {
			const { type, data, isWhole, isSound } = piece;
			if (open && (type === FULL || type === FIRST || open.length + data.length > LARGEST)) yield closed(false);
			// What stands between a lost beginning and its end is looked through by itself.
			open ??= { parts: [], length: 0, record: { data, pieces: [], isSound: type === FULL || type === FIRST, isWhole: true, end: 0 } };
			const start = offset + at + HEADER;
			open.record.pieces.push({ from: open.length, offset: start });
			open.parts.push(data);
			open.length += data.length;
			open.record.end = start + data.length;
			open.record.isSound &&= isSound;
			if (type === FULL || type === LAST) yield closed(isWhole);
		}
	}
	if (open) yield closed(false);
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

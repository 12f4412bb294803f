/**
 * LevelDB's tables ("table_format"): blocks of entries in the order of their keys, an index of those blocks, and a footer.
 *
 * | offset from the end | size | footer |
 * |---|---|---|
 * | 48 | 40 | where the list of filters and the index lie: offset and size of each as varints, then zeros |
 * | 8 | 8 | magic 0xdb4775248b80fb57, lowest byte first |
 *
 * A key within a table has eight bytes behind it: 0 for a deletion or 1 for a value, then the number of the write.
 */
import { Cursor, readU32Le, type ByteSource } from '../../bytes';
import { blockAt, blockFrom, entriesIn, WINDOW, type Block, type Handle } from './block';
import type { Write } from './write';

const FOOTER = 48;
const MAGIC = [0x57, 0xfb, 0x80, 0x8b, 0x24, 0x75, 0x47, 0xdb];
const KEY_TAIL = 8;
/** Bytes of one table through which the next block is sought where others are destroyed, and in how many its end is. */
const SOUGHT = 2 << 20;
const SOUGHT_END = 16 << 10;

export interface TableBlock {
	writes: (Write & { from: number; to: number })[];
	offset: number;
	block: Block;
}

/** Whether a file is a table: by its end, or by its first block where that is gone. */
export const isTable = (source: ByteSource): boolean => endsAsTable(source) || blockFrom(source, 0, WINDOW) !== null;

/** Whether a file ends as a table does. */
function endsAsTable(source: ByteSource): boolean {
	const tail = source.size < FOOTER ? new Uint8Array(0) : source.read(source.size - MAGIC.length, MAGIC.length);
	return MAGIC.every((byte, i) => tail[i] === byte);
}

/** A table's blocks with their writes; `null` for a stretch in which there is none that can be read. */
export function* tableBlocks(source: ByteSource): Generator<TableBlock | null, void, void> {
	const handles = handlesOf(source);
	if (!handles) return yield* blocksWithoutIndex(source);
	for (const { offset, size } of handles) {
		const block = blockAt(source, { offset, size });
		yield block && { writes: writesIn(block), offset, block };
	}
}

/** Where the index says that blocks are; null where there is no index that can be read. */
function handlesOf(source: ByteSource): Handle[] | null {
	if (!endsAsTable(source)) return null;
	const footer = new Cursor(source.read(source.size - FOOTER, FOOTER));
	handleFrom(footer);
	const index = handleFrom(footer);
	const block = footer.isPast ? null : blockAt(source, index);
	if (!block?.isSound) return null;
	const handles = entriesIn(block.bytes).entries.map((e) => handleFrom(new Cursor(e.value)));
	return handles.every((h) => h.offset + h.size <= source.size) ? handles : null;
}

const handleFrom = (cursor: Cursor): Handle => ({ offset: cursor.varint(), size: cursor.varint() });

/** Blocks one behind the other, as far as they have their sums; where one has not, the next is sought. */
function* blocksWithoutIndex(source: ByteSource): Generator<TableBlock | null, void, void> {
	let sought = 0;
	let isSeeking = false;
	for (let offset = 0; offset < source.size && sought < SOUGHT;) {
		const block = blockFrom(source, offset, isSeeking ? SOUGHT_END : undefined);
		if (block) {
			isSeeking = false;
			const writes = writesIn(block);
			// Behind the entries come filters and the index, whose entries are no writes.
			if (writes.length > 0) yield { writes, offset, block };
			offset += block.taken;
			continue;
		}
		if (!isSeeking) {
			const left = blockAt(source, { offset, size: Math.min(source.size - offset, WINDOW) });
			const writes = left ? writesIn(left) : [];
			yield left && writes.length > 0 ? { writes, offset, block: { ...left, isSound: false } } : null;
		}
		isSeeking = true;
		sought++;
		offset++;
	}
}

function writesIn({ bytes }: Block): TableBlock['writes'] {
	return entriesIn(bytes).entries.flatMap(({ key, value, from, to, isCut }) => {
		if (key.length <= KEY_TAIL) return [];
		const tail = key.length - KEY_TAIL;
		const type = key[tail]!;
		if (type > 1) return [];
		const sequence = (readU32Le(key, tail) >>> 8) + readU32Le(key, tail + 4) * 2 ** 24;
		const write = { key: key.subarray(0, tail), value: type === 1 ? value : null, sequence, from, to };
		return [isCut ? { ...write, isCut } : write];
	});
}

/** One stream packed whole: gzip (RFC 1952), zlib (RFC 1950), Zstandard (RFC 8878). Unpacked within bounds. */
import { beginsAs, unpackerOf, type ByteSource, type Packing } from '../../bytes';
import type { Room } from '../room';

/** A stream must not unpack to more than so many times its size; beyond the first number of bytes, the second. */
const LARGE = 1 << 30;
const MOST_RATIO = 1200;
const MOST_RATIO_OF_LARGE = 100;
const BLOCK = 1 << 20;

export const packingOf = (head: Uint8Array): 'gzip' | 'zstd' | null =>
	(['gzip', 'zstd'] as const).find((packing) => beginsAs(packing, head)) ?? null;

/** What could be unpacked; `whole` is false where the stream is cut, damaged or larger than the bounds. */
export function unpack(source: ByteSource, packing: Packing, room: Room): { source: ByteSource; whole: boolean } {
	const collector = room.collector();
	let size = 0;
	let ended = false;
	const most = Math.min(room.most, source.size * MOST_RATIO + (1 << 20), Math.max(LARGE, source.size * MOST_RATIO_OF_LARGE));
	const take = (chunk: Uint8Array, isLast: boolean): void => {
		size += chunk.length;
		if (size > most) throw new RangeError('unpacks to more than is believable');
		collector.write(chunk);
		ended ||= isLast;
	};
	const stream = unpackerOf(packing, take);
	let whole = true;
	try {
		for (let at = 0; at < source.size; at += BLOCK) stream.push(source.read(at, BLOCK).slice(), at + BLOCK >= source.size);
	} catch {
		whole = false;
	}
	return { source: collector.source(), whole: whole && ended };
}

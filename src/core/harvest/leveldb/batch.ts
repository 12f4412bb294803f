/**
 * A batch of writes, as a record of LevelDB's log holds it (`write_batch`): number of the first write (8 bytes), how many
 * there are (4), then each: 1, key, value, or 0, key (a deletion); keys and values behind their lengths as varints.
 */
import { Cursor, readU32Le } from '../../bytes';
import type { Write } from './write';

const HEADER = 12;

/** The writes of a batch, with where each lies in it. Of the last one the end may be gone: then its value is cut. */
export function writesOf(data: Uint8Array): { writes: (Write & { from: number; to: number })[]; isCut: boolean } {
	const writes: (Write & { from: number; to: number })[] = [];
	if (data.length < HEADER) return { writes, isCut: data.length > 0 };
	const first = readU32Le(data, 0) + readU32Le(data, 4) * 2 ** 32;
	const cursor = new Cursor(data, HEADER);
	while (cursor.left > 0) {
		const from = cursor.at;
		const tag = cursor.u8();
		if (tag > 1) return { writes, isCut: true };
		const key = cursor.sized();
		if (cursor.isPast || key.length === 0) return { writes, isCut: true };
		const value = tag === 1 ? cursor.sized() : null;
		const write = { key, value, sequence: first + writes.length, from, to: cursor.at };
		if (cursor.isPast) {
			if (value && value.length > 0) writes.push({ ...write, isCut: true });
			return { writes, isCut: true };
		}
		writes.push(write);
	}
	return { writes, isCut: false };
}

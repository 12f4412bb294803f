/**
 * ZIP archives (APPNOTE 6.3.10). The directory at the end says what there is; each entry's own header says where its
 * bytes start. Stored entries are read in place; deflated ones are unpacked when first read, within bounds.
 *
 * | record | signature | what is taken from it |
 * |---|---|---|
 * | end of central directory (4.3.16) | 50 4b 05 06 | number, size and offset of the directory |
 * | ZIP64 end of central directory (4.3.14) | 50 4b 06 06 | the same, 64 bits |
 * | central directory header (4.3.12) | 50 4b 01 02 | method, sizes, name, time, offset of the local header |
 * | local file header (4.3.7) | 50 4b 03 04 | where the data starts |
 */
import { readU16Le, readU32Le, SliceSource, type ByteSource } from '../../bytes';

export interface ZipEntry {
	/** As stored, separators made `/`. */
	name: string;
	folder: boolean;
	/** Bytes packed and unpacked, as the directory states. */
	packed: number;
	size: number;
	/** ms UTC (the DOS time has no zone: read as UTC), or null. */
	modified: number | null;
	/** Offset of the local header within the archive. */
	offset: number;
	/** 0 stored, 8 deflated; the real one under AES. */
	method: number;
	locked: 'no' | 'legacy' | 'aes';
	/** AES: 1, 2, 3 for 128, 192, 256 bits; else 0. */
	strength: number;
	crc: number;
	/** For the legacy cipher: the byte that shows whether the key fits. */
	check: number;
}

const MOST_ENTRIES = 200_000;
const utf8 = new TextDecoder('utf-8', { fatal: true });
const latin = new TextDecoder('latin1');

export const isZip = (head: Uint8Array): boolean =>
	head[0] === 0x50 && head[1] === 0x4b && ((head[2] === 3 && head[3] === 4) || (head[2] === 5 && head[3] === 6));

/** The entries of an archive. `cut` where its directory is gone: then they are told from their local headers. */
export function readZip(source: ByteSource): { entries: ZipEntry[]; cut: boolean } {
	const end = findEnd(source);
	if (end) {
		const entries = readDirectory(source, end.offset, end.size, end.count);
		if (entries.length > 0 || end.count === 0) return { entries, cut: false };
	}
	return { entries: walkLocal(source), cut: true };
}

function findEnd(source: ByteSource): { offset: number; size: number; count: number } | null {
	const length = Math.min(source.size, 66_000);
	const tail = source.read(source.size - length, length);
	for (let i = tail.length - 22; i >= 0; i--) {
		if (readU32Le(tail, i) !== 0x06054b50) continue;
		let count = readU16Le(tail, i + 10);
		let size = readU32Le(tail, i + 12);
		let offset = readU32Le(tail, i + 16);
		if (i >= 20 && readU32Le(tail, i - 20) === 0x07064b50) {
			const at = readU64(tail, i - 12);
			const record = source.read(at, 56);
			if (record.length === 56 && readU32Le(record, 0) === 0x06064b50) {
				count = readU64(record, 32);
				size = readU64(record, 40);
				offset = readU64(record, 48);
			}
		}
		return { offset, size, count };
	}
	return null;
}

const readU64 = (b: Uint8Array, o: number): number => readU32Le(b, o) + readU32Le(b, o + 4) * 4294967296;

function readDirectory(source: ByteSource, offset: number, size: number, count: number): ZipEntry[] {
	const entries: ZipEntry[] = [];
	const bytes = source.read(offset, Math.min(size, 128 << 20));
	let at = 0;
	while (entries.length < Math.min(count, MOST_ENTRIES) && at + 46 <= bytes.length && readU32Le(bytes, at) === 0x02014b50) {
		const nameLength = readU16Le(bytes, at + 28);
		const extraLength = readU16Le(bytes, at + 30);
		const commentLength = readU16Le(bytes, at + 32);
		const next = at + 46 + nameLength + extraLength + commentLength;
		if (next > bytes.length) break;
		entries.push(
			entryOf({
				flags: readU16Le(bytes, at + 8),
				method: readU16Le(bytes, at + 10),
				time: readU32Le(bytes, at + 12),
				crc: readU32Le(bytes, at + 16),
				packed: readU32Le(bytes, at + 20),
				size: readU32Le(bytes, at + 24),
				offset: readU32Le(bytes, at + 42),
				name: bytes.subarray(at + 46, at + 46 + nameLength),
				extra: bytes.subarray(at + 46 + nameLength, at + 46 + nameLength + extraLength)
			})
		);
		at = next;
	}
	return entries;
}

interface Raw {
	flags: number;
	method: number;
	time: number;
	crc: number;
	packed: number;
	size: number;
	offset: number;
	name: Uint8Array;
	extra: Uint8Array;
}

function entryOf(raw: Raw): ZipEntry {
	let { method, packed, size, offset } = raw;
	let strength = 0;
	for (let at = 0; at + 4 <= raw.extra.length;) {
		const id = readU16Le(raw.extra, at);
		const length = readU16Le(raw.extra, at + 2);
		const body = raw.extra.subarray(at + 4, at + 4 + length);
		// ZIP64 (4.5.3): the fields that did not fit, in this order.
		if (id === 1) {
			const values = Array.from({ length: Math.floor(body.length / 8) }, (_, i) => readU64(body, i * 8));
			const next = (): number => values.shift() ?? 0xffffffff;
			if (size === 0xffffffff) size = next();
			if (packed === 0xffffffff) packed = next();
			if (offset === 0xffffffff) offset = next();
		} else if (id === 0x9901 && body.length >= 7) {
			strength = body[4]!;
			method = readU16Le(body, 5);
		}
		at += 4 + length;
	}
	const name = nameOf(raw.name, (raw.flags & 0x800) !== 0);
	return {
		name,
		folder: name.endsWith('/'),
		packed,
		size,
		modified: dosTime(raw.time),
		offset,
		method,
		locked: raw.flags & 1 ? (strength > 0 ? 'aes' : 'legacy') : 'no',
		strength,
		crc: raw.crc,
		check: raw.flags & 8 ? (raw.time >>> 8) & 0xff : raw.crc >>> 24
	};
}

function nameOf(bytes: Uint8Array, stated: boolean): string {
	try {
		return utf8.decode(bytes).replaceAll('\\', '/');
	} catch {
		return (stated ? new TextDecoder().decode(bytes) : latin.decode(bytes)).replaceAll('\\', '/');
	}
}

function dosTime(value: number): number | null {
	const day = value >>> 16;
	const month = (day >> 5) & 15;
	if (month < 1 || month > 12 || (day & 31) < 1) return null;
	return Date.UTC(1980 + (day >> 9), month - 1, day & 31, (value >> 11) & 31, (value >> 5) & 63, (value & 31) * 2);
}

/** Entries of an archive without a directory, one after the other. Those that state no size are passed over. */
function walkLocal(source: ByteSource): ZipEntry[] {
	const entries: ZipEntry[] = [];
	let at = 0;
	while (entries.length < MOST_ENTRIES) {
		const head = source.read(at, 30);
		if (head.length < 30 || readU32Le(head, 0) !== 0x04034b50) break;
		const nameLength = readU16Le(head, 26);
		const extraLength = readU16Le(head, 28);
		const rest = source.read(at + 30, nameLength + extraLength);
		if (rest.length < nameLength + extraLength) break;
		const entry = entryOf({
			flags: readU16Le(head, 6),
			method: readU16Le(head, 8),
			time: readU32Le(head, 10),
			crc: readU32Le(head, 14),
			packed: readU32Le(head, 18),
			size: readU32Le(head, 22),
			offset: at,
			name: rest.subarray(0, nameLength),
			extra: rest.subarray(nameLength)
		});
		if (readU16Le(head, 6) & 8 && entry.packed === 0) break;
		if (at + 30 + nameLength + extraLength + entry.packed > source.size) break;
		entries.push(entry);
		at += 30 + nameLength + extraLength + entry.packed;
	}
	return entries;
}

/** The packed bytes of an entry, or null where its header is not where the directory says. */
export function packedOf(source: ByteSource, entry: ZipEntry): SliceSource | null {
	const head = source.read(entry.offset, 30);
	if (head.length < 30 || readU32Le(head, 0) !== 0x04034b50) return null;
	const start = entry.offset + 30 + readU16Le(head, 26) + readU16Le(head, 28);
	return start + entry.packed <= source.size ? new SliceSource(source, start, entry.packed) : null;
}

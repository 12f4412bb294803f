/**
 * Tape archives (POSIX.1-2017, pax interchange format; ustar and GNU long names too): headers of 512 bytes, each
 * followed by the file's bytes, padded to 512. Files are read in place.
 *
 * | offset | size | meaning |
 * |---|---|---|
 * | 0 | 100 | name |
 * | 124 | 12 | size, octal, or big-endian with the top bit set |
 * | 136 | 12 | time of change, seconds since 1970, octal |
 * | 148 | 8 | sum of the header's bytes, these eight taken as blanks |
 * | 156 | 1 | type: 0 file, 5 folder, x and g pax headers, L and K long names |
 * | 257 | 5 | "ustar" |
 * | 345 | 155 | prefix of the name |
 */
import type { ByteSource } from '../../bytes';

export interface TarEntry {
	name: string;
	kind: 'file' | 'folder' | 'link';
	/** Where its bytes start, and how many they are. */
	offset: number;
	size: number;
	/** ms UTC, or null. */
	modified: number | null;
}

const BLOCK = 512;
const MOST_ENTRIES = 500_000;
const utf8 = new TextDecoder();

export function isTar(source: ByteSource): boolean {
	const head = source.read(0, BLOCK);
	return head.length === BLOCK && sumHolds(head) && head[0] !== 0;
}

function sumHolds(head: Uint8Array): boolean {
	const stated = octal(head, 148, 8);
	let sum = 0;
	for (let i = 0; i < BLOCK; i++) sum += i >= 148 && i < 156 ? 32 : head[i]!;
	return stated === sum;
}

function octal(b: Uint8Array, at: number, length: number): number {
	if (b[at]! & 0x80) {
		let value = b[at]! & 0x7f;
		for (let i = 1; i < length; i++) value = value * 256 + b[at + i]!;
		return value;
	}
	const text = utf8
		.decode(b.subarray(at, at + length))
		.replace(/\0[\s\S]*$/, '')
		.trim();
	return /^[0-7]+$/.test(text) ? parseInt(text, 8) : text === '' ? 0 : NaN;
}

const textAt = (b: Uint8Array, at: number, length: number): string => utf8.decode(b.subarray(at, at + length)).replace(/\0[\s\S]*$/, '');

/** The entries, as far as the headers hold; `cut` where they end before the archive says it ends. */
export function readTar(source: ByteSource): { entries: TarEntry[]; cut: boolean } {
	const entries: TarEntry[] = [];
	let at = 0;
	let longName: string | null = null;
	let pax: Map<string, string> = new Map();
	while (entries.length < MOST_ENTRIES) {
		const head = source.read(at, BLOCK);
		if (head.length < BLOCK) return { entries, cut: true };
		if (head.every((byte) => byte === 0)) return { entries, cut: false };
		if (!sumHolds(head)) return { entries, cut: true };
		let size = octal(head, 124, 12);
		if (!Number.isSafeInteger(size) || size < 0) return { entries, cut: true };
		const type = String.fromCharCode(head[156]!);
		const data = at + BLOCK;
		if (type === 'x' || type === 'L' || type === 'K' || type === 'g') {
			const bytes = source.read(data, Math.min(size, 1 << 20));
			if (type === 'x') pax = readPax(bytes);
			else if (type === 'L') longName = textAt(bytes, 0, bytes.length);
			at = data + Math.ceil(size / BLOCK) * BLOCK;
			continue;
		}
		const prefix = textAt(head, 257, 5) === 'ustar' ? textAt(head, 345, 155) : '';
		const name = pax.get('path') ?? longName ?? (prefix ? `${prefix}/` : '') + textAt(head, 0, 100);
		const stated = Number(pax.get('size'));
		if (pax.has('size') && Number.isSafeInteger(stated) && stated >= 0) size = stated;
		const time = Number(pax.get('mtime') ?? octal(head, 136, 12));
		const kind = type === '5' || name.endsWith('/') ? 'folder' : type === '1' || type === '2' ? 'link' : 'file';
		const bytes = kind === 'file' ? size : 0;
		const cut = data + bytes > source.size;
		if (type === '0' || type === '\0' || type === '7' || kind !== 'file')
			entries.push({
				name,
				kind,
				offset: data,
				size: Math.min(bytes, Math.max(0, source.size - data)),
				modified: Number.isFinite(time) && time > 0 ? Math.round(time * 1000) : null
			});
		if (cut) return { entries, cut: true };
		at = data + Math.ceil(bytes / BLOCK) * BLOCK;
		longName = null;
		pax = new Map();
	}
	return { entries, cut: true };
}

/** pax records: "length key=value\n", the length counting the whole record. */
function readPax(bytes: Uint8Array): Map<string, string> {
	const out = new Map<string, string>();
	let at = 0;
	while (at < bytes.length) {
		const space = bytes.indexOf(0x20, at);
		const length = space < 0 ? NaN : Number(utf8.decode(bytes.subarray(at, space)));
		if (!(length > 0) || at + length > bytes.length) break;
		const record = utf8.decode(bytes.subarray(space + 1, at + length - 1));
		const equals = record.indexOf('=');
		if (equals > 0) out.set(record.slice(0, equals), record.slice(equals + 1));
		at += length;
	}
	return out;
}

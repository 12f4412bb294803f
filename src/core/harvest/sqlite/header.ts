/**
 * The database header (SQLite file format, section 1.3): the first 100 bytes of page 1.
 *
 * | offset | size | meaning |
 * |---|---|---|
 * | 0 | 16 | "SQLite format 3\0" |
 * | 16 | 2 | page size; 1 means 65536 |
 * | 20 | 1 | bytes reserved at the end of each page |
 * | 24 | 4 | file change counter |
 * | 28 | 4 | size in pages |
 * | 32 | 4 | first freelist trunk page |
 * | 36 | 4 | number of freelist pages |
 * | 52 | 4 | largest root page (auto-vacuum), or 0 |
 * | 56 | 4 | text encoding: 1 UTF-8, 2 UTF-16le, 3 UTF-16be |
 * | 92 | 4 | the change counter for which the size is valid |
 * | 96 | 4 | version number of the engine that changed it last |
 */
import { readU16Be, readU32Be, type ByteSource, type Encoding } from '../../bytes';
import { cellLength, cellPointer, LEAF_INDEX, LEAF_TABLE, readPageHeader } from './page';

const MAGIC = 'SQLite format 3\0';

export interface DatabaseHeader {
	magic: boolean;
	pageSize: number;
	reserved: number;
	encoding: Encoding;
	/** Pages as the header counts them; 0 where it does not say validly. */
	pageCount: number;
	/** How often the file was changed (section 1.3.7). */
	changeCounter: number;
	/** The engine's version that changed it last. */
	engineVersion: number;
	freelistTrunk: number;
	freelistCount: number;
	autoVacuum: boolean;
	/** Whether page size, encoding and reserve were valid as stored. */
	sound: boolean;
}

export const hasMagic = (b: Uint8Array): boolean => b.length >= 16 && [...MAGIC].every((c, i) => b[i] === c.charCodeAt(0));

export const isPageSize = (n: number): boolean => n >= 512 && n <= 65536 && (n & (n - 1)) === 0;

/** Reads the header, or null where there are not 100 bytes. Wrong values are marked by `sound: false`. */
export function readDatabaseHeader(b: Uint8Array): DatabaseHeader | null {
	if (b.length < 100) return null;
	const stored = readU16Be(b, 16);
	const pageSize = stored === 1 ? 65536 : stored;
	const encodingCode = readU32Be(b, 56);
	const reserved = b[20]!;
	const countValid = readU32Be(b, 24) === readU32Be(b, 92);
	return {
		magic: hasMagic(b),
		pageSize,
		reserved: isPageSize(pageSize) && pageSize - reserved >= 480 ? reserved : 0,
		encoding: encodingCode === 2 ? 'utf16le' : encodingCode === 3 ? 'utf16be' : 'utf8',
		pageCount: countValid ? readU32Be(b, 28) : 0,
		changeCounter: readU32Be(b, 24),
		engineVersion: readU32Be(b, 96),
		freelistTrunk: readU32Be(b, 32),
		freelistCount: readU32Be(b, 36),
		autoVacuum: readU32Be(b, 52) !== 0,
		sound: isPageSize(pageSize) && pageSize - reserved >= 480 && encodingCode <= 3
	};
}

/**
 * Page size from the pages themselves, for files whose header is gone or lies: the size at whose multiples the most
 * bytes belong to well-formed leaf pages. Null where nothing looks like a database. Looks at up to 8 MiB.
 */
export function inferPageSize(source: ByteSource): number | null {
	const sample = source.read(0, 8 << 20);
	let best: { size: number; score: number } | null = null;
	for (let size = 512; size <= 65536; size *= 2) {
		let score = 0;
		let tried = 0;
		for (let at = 0; at + size <= sample.length; at += size) {
			tried++;
			const page = sample.subarray(at, at + size);
			const filled = wellFormedLeafBytes(page, at === 0 ? 1 : 2, size);
			score += filled / size;
		}
		if (tried && score / tried > 0.05 && (!best || score / tried > best.score * 1.02)) best = { size, score: score / tried };
	}
	return best?.size ?? null;
}

/** Bytes of the page that its header, pointers and cells account for; 0 where it is no sound leaf page. */
function wellFormedLeafBytes(page: Uint8Array, pageNumber: number, usable: number): number {
	const header = readPageHeader(page, pageNumber, usable);
	if (!header || (header.type !== LEAF_TABLE && header.type !== LEAF_INDEX) || header.cellCount === 0) return 0;
	if (header.contentStart > usable || header.contentStart < header.pointersEnd) return 0;
	let bytes = header.pointersEnd;
	for (let i = 0; i < header.cellCount; i++) {
		const at = cellPointer(page, header, i, usable);
		const length = at < header.contentStart ? -1 : cellLength(page, at, header.type, usable);
		if (length < 0) return 0;
		bytes += length;
	}
	return bytes > usable ? 0 : bytes;
}

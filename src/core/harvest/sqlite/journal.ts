/**
 * The rollback journal (SQLite file format, section 3): pages as they were before the last transaction.
 *
 * | offset | size | header | | offset | size | record |
 * |---|---|---|---|---|---|---|
 * | 0 | 8 | d9 d5 05 f9 20 a1 63 d7 | | 0 | 4 | page number |
 * | 8 | 4 | records, or −1 for "to the end" | | 4 | page | the page before the change |
 * | 12 | 4 | nonce | | 4 + page | 4 | checksum: nonce + every 200th byte from the end |
 * | 16 | 4 | database size in pages before | | | | |
 * | 20 | 4 | sector size | | | | |
 * | 24 | 4 | page size | | | | |
 *
 * The header is padded to a sector. A journal whose header is zeroed or cut off belongs to a finished transaction:
 * its pages stay readable. One with a sound header is *hot*: the transaction was never finished and is undone.
 */
import { readU32Be, type ByteSource } from '../../bytes';
import { isPageSize } from './header';

const MAGIC = [0xd9, 0xd5, 0x05, 0xf9, 0x20, 0xa1, 0x63, 0xd7];

export interface JournalRecord {
	/** 1-based, over the whole file. */
	number: number;
	page: number;
	/** Offset of the page's bytes in the journal. */
	offset: number;
	/** Belongs to the transaction that must be undone. */
	hot: boolean;
}

export interface Journal {
	hot: boolean;
	/** Database size in pages before the transaction (hot journals). */
	pageCount: number;
	pageSize: number;
	records: JournalRecord[];
}

/** Reads the journal's records; null where it is empty or no page in it can be proven. */
export function readJournal(source: ByteSource, databasePageSize: number): Journal | null {
	if (source.size < 512) return null;
	const head = source.read(0, 28);
	const magic = MAGIC.every((byte, i) => head[i] === byte);
	const stored = readU32Be(head, 24);
	const pageSize = magic && isPageSize(stored) ? stored : databasePageSize;
	const records: JournalRecord[] = [];
	const journal: Journal = { hot: false, pageCount: magic ? readU32Be(head, 16) : 0, pageSize, records };
	let at = 0;
	let stillHot = magic;
	while (at < source.size) {
		const sectionHead = source.read(at, 28);
		if (sectionHead.length < 28) break;
		const named = MAGIC.every((byte, i) => sectionHead[i] === byte);
		const zeroed = at === 0 && !named;
		if (!named && !zeroed) break;
		const sector = named ? sectorSize(readU32Be(sectionHead, 20)) : findFirstRecord(source, pageSize);
		if (sector === 0) break;
		const count = named ? readU32Be(sectionHead, 8) : 0xffffffff;
		const nonce = named ? readU32Be(sectionHead, 12) : null;
		const end = readSection(source, at + sector, pageSize, count, nonce, stillHot && named, records);
		if (named && stillHot && records.some((r) => r.hot)) journal.hot = true;
		const next = Math.ceil(end / sector) * sector;
		if (next <= at) break;
		at = next;
		// What is left of longer, older journals need not begin where this one ends.
		if (!startsSection(source, at)) at = findOlder(source, at, pageSize, records);
		// The engine stops at the first section that was not filled as its header says.
		stillHot &&= named && count !== 0;
	}
	return records.length > 0 ? journal : null;
}

const startsSection = (source: ByteSource, at: number): boolean => {
	const head = source.read(at, MAGIC.length);
	return MAGIC.every((byte, i) => head[i] === byte);
};

/** Reads older records from the first sector on in which two prove each other; returns where a section starts, or the end. */
function findOlder(source: ByteSource, from: number, pageSize: number, out: JournalRecord[]): number {
	const step = pageSize + 8;
	let at = from;
	for (let tried = 0; tried < SEARCHED && at + 2 * step <= source.size; tried++) {
		if (startsSection(source, at)) return at;
		const nonces = [at, at + step].map((offset) => nonceOf(source.read(offset, step), pageSize));
		if (nonces[0] === null || nonces[0] !== nonces[1]) {
			at += SECTOR;
			continue;
		}
		const end = readSection(source, at, pageSize, 0, nonces[0]!, false, out);
		at = Math.ceil(Math.max(end, at + 1) / SECTOR) * SECTOR;
	}
	return source.size;
}

/** What a record's checksum was made with; null where it names no page. */
function nonceOf(record: Uint8Array, pageSize: number): number | null {
	const page = readU32Be(record, 0);
	return page === 0 || page > 0x7fffffff ? null : (readU32Be(record, pageSize + 4) - sampleSum(record, pageSize)) >>> 0;
}

const SECTOR = 512;
/** Sectors in which older records are looked for: a file of that name that is no journal must not hold the look up. */
const SEARCHED = 1 << 18;
const sectorSize = (n: number): number => (n >= 32 && n <= 65536 && (n & (n - 1)) === 0 ? n : 512);

/** Reads records from `from`; returns where they end. After the counted ones it goes on with what still proves itself. */
function readSection(
	source: ByteSource,
	from: number,
	pageSize: number,
	count: number,
	nonce: number | null,
	hot: boolean,
	out: JournalRecord[]
): number {
	const step = pageSize + 8;
	let at = from;
	let known = nonce;
	let counted = 0;
	let isHot = hot;
	for (; at + step <= source.size; at += step) {
		const record = source.read(at, step);
		const page = readU32Be(record, 0);
		const sum = sampleSum(record, pageSize);
		const found = (readU32Be(record, pageSize + 4) - sum) >>> 0;
		const inCount = counted < count;
		if (page === 0 || page > 0x7fffffff) break;
		if (known !== null && found !== known) {
			// Past the counted records those of older transactions may follow, each with a nonce of its own.
			if (isHot && inCount) isHot = false;
			if (!goesOn(source, at, step, pageSize)) break;
			known = found;
		}
		if (known === null) known = found;
		out.push({ number: out.length + 1, page, offset: at + 4, hot: isHot && inCount });
		counted++;
	}
	return at;
}

/** Records that are looked at for two that prove each other. */
const AHEAD = 24;

/** Whether soon after this record two follow each other in one transaction: then the records in between lie as they say. */
function goesOn(source: ByteSource, from: number, step: number, pageSize: number): boolean {
	let before: number | null = null;
	for (let i = 0; i < AHEAD && from + (i + 1) * step <= source.size; i++) {
		const nonce = nonceOf(source.read(from + i * step, step), pageSize);
		if (nonce === null) return false;
		if (nonce === before) return true;
		before = nonce;
	}
	return false;
}

/** With a zeroed header the sector size is unknown: the first size after which records prove each other, or one stands alone. */
function findFirstRecord(source: ByteSource, pageSize: number): number {
	const step = pageSize + 8;
	for (let sector = 512; sector <= 65536; sector *= 2) {
		if (sector + step > source.size) break;
		if (nonceOf(source.read(sector, step), pageSize) === null) continue;
		const second = source.read(sector + step, step);
		if (second.length < step || readU32Be(second, 0) === 0 || goesOn(source, sector, step, pageSize)) return sector;
	}
	return 0;
}

/** Every 200th byte from the end of the page (section 3, "checksum"). `record` starts with the page number. */
export function sampleSum(record: Uint8Array, pageSize: number): number {
	let sum = 0;
	for (let i = pageSize - 200; i > 0; i -= 200) sum += record[4 + i]!;
	return sum;
}

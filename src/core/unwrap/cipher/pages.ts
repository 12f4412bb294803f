/**
 * Databases locked page by page: a salt of 16 bytes in front, each page encrypted with AES-256 in CBC mode, its reserve
 * holding the initial vector and, mostly, an HMAC over page and page number. The parameters (rounds, digests, page
 * size) are found by trying; that the HMAC of a page holds, or where there is none that the first page decrypts to a
 * database header, proves them.
 */
import { cbc } from '@noble/ciphers/aes.js';
import { hmac } from '@noble/hashes/hmac.js';
import { sha1 } from '@noble/hashes/legacy.js';
import { sha256, sha512 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import type { ByteSource } from '../../bytes';
import { derive, type Digest } from './derive';

const MAGIC = utf8ToBytes('SQLite format 3\0');
const SALT = 16;
const IV = 16;
const AUTH_ROUNDS = 2;
const AUTH_MASK = 0x3a;

const DIGESTS = { sha1, sha256, sha512 } as const;
const PAGE_SIZES = [4096, 1024, 8192, 2048, 16384, 512, 32768, 65536];
/** Rounds and digests of the derivation, the usual ones first. */
const DERIVATIONS: readonly [number, Digest][] = [
	[256_000, 'sha512'],
	[64_000, 'sha1'],
	[4_000, 'sha1'],
	[64_000, 'sha256'],
	[64_000, 'sha512'],
	[256_000, 'sha1'],
	[256_000, 'sha256'],
	[100_000, 'sha512'],
	[10_000, 'sha512'],
	[4_000, 'sha512'],
	[100_000, 'sha1'],
	[10_000, 'sha1']
];

/** How the pages of one database are locked. */
export interface PageKey {
	pageSize: number;
	/** Bytes at the end of each page that hold no part of it. */
	reserve: number;
	key: Uint8Array;
}

/** The first passphrase that fits under known parameters; null where none does. */
export async function findPageKey(source: ByteSource, passphrases: readonly string[]): Promise<PageKey | null> {
	const salt = source.read(0, SALT);
	if (salt.length < SALT || source.size < 512) return null;
	for (const passphrase of passphrases) {
		// A key given as it is needs no derivation, but the one of the HMAC's key has a digest all the same.
		const raw = /^(?:x'|0x)?([0-9a-f]{64})([0-9a-f]{32})?'?$/i.exec(passphrase.trim());
		for (const [rounds, digest] of raw ? [...DIGESTS_ONCE, ...DERIVATIONS] : DERIVATIONS) {
			const key = raw && rounds === 0 ? fromHex(raw[1]!) : await derive(passphrase, salt, rounds, digest, 32);
			const authKey = await derive(key, salt.map((b) => b ^ AUTH_MASK), AUTH_ROUNDS, digest, 32); // prettier-ignore
			const found = fits(source, key, authKey, digest);
			if (found) return found;
		}
	}
	return null;
}

const DIGESTS_ONCE: readonly [number, Digest][] = [
	[0, 'sha512'],
	[0, 'sha1'],
	[0, 'sha256']
];
const fromHex = (hex: string): Uint8Array => Uint8Array.from(hex.match(/../g) ?? [], (b) => parseInt(b, 16));

/** The page size and digest under which the key proves itself; the derivation's own digest is tried first. */
function fits(source: ByteSource, key: Uint8Array, authKey: Uint8Array, own: Digest): PageKey | null {
	const digests = (['sha512', 'sha1', 'sha256'] as const).toSorted((a, b) => Number(b === own) - Number(a === own));
	for (const digest of digests)
		for (const pageSize of PAGE_SIZES)
			// The first page may be damaged: the second proves as much.
			for (const page of [1, 2])
				if (authentic(source, pageSize, page, authKey, digest)) return { pageSize, reserve: reserveOf(digest), key };
	return PAGE_SIZES.map((pageSize) => ({ pageSize, reserve: IV, key })).find((k) => isHeader(source, k)) ?? null;
}

const reserveOf = (digest: Digest): number => Math.ceil((IV + DIGESTS[digest].outputLen) / 16) * 16;

/** Whether a page's HMAC is right: over its bytes (the first's after the salt), its vector, and its number, little-endian. */
function authentic(source: ByteSource, pageSize: number, number: number, authKey: Uint8Array, digest: Digest): boolean {
	const page = source.read((number - 1) * pageSize, pageSize);
	const end = pageSize - reserveOf(digest) + IV;
	if (page.length < pageSize) return false;
	const start = number === 1 ? SALT : 0;
	const data = new Uint8Array(end - start + 4);
	data.set(page.subarray(start, end));
	data[end - start] = number;
	const mac = hmac(DIGESTS[digest], authKey, data);
	return mac.every((byte, i) => byte === page[end + i]);
}

/** Whether the first page decrypts to a database header (SQLite file format, section 1.3): page size, reserve, constants. */
function isHeader(source: ByteSource, k: PageKey): boolean {
	const page = source.read(0, k.pageSize);
	if (page.length < k.pageSize) return false;
	const end = k.pageSize - k.reserve;
	const head = cbc(k.key, page.subarray(end, end + IV), { disablePadding: true }).decrypt(page.subarray(SALT, SALT + 16));
	const stated = (head[0]! << 8) | head[1]!;
	return (stated === 1 ? 65536 : stated) === k.pageSize && head[4] === k.reserve && head[5] === 64 && head[6] === 32 && head[7] === 32;
}

/** A page as it was before it was locked; `number` from 1. Its reserve stays as it is. */
export function unlockPage(bytes: Uint8Array, number: number, { pageSize, reserve, key }: PageKey): Uint8Array {
	const out = bytes.slice();
	if (bytes.length < pageSize) return out;
	const start = number === 1 ? SALT : 0;
	const end = pageSize - reserve;
	const body = bytes.subarray(start, end);
	// A page never written is zeros, encrypted by nobody.
	if (body.every((b) => b === 0)) return out;
	out.set(cbc(key, bytes.subarray(end, end + IV), { disablePadding: true }).decrypt(body), start);
	if (number === 1) out.set(MAGIC, 0);
	return out;
}

/** The database unlocked, page by page as it is asked for. */
export class UnlockedPages implements ByteSource {
	readonly size: number;
	private readonly pages = new Map<number, Uint8Array>();

	constructor(
		private readonly parent: ByteSource,
		private readonly key: PageKey
	) {
		this.size = parent.size;
	}

	read(offset: number, length: number): Uint8Array {
		const end = Math.min(this.size, offset + Math.max(0, length));
		if (!(offset >= 0) || offset >= end) return new Uint8Array(0);
		const out = new Uint8Array(end - offset);
		const { pageSize } = this.key;
		for (let page = Math.floor(offset / pageSize); page * pageSize < end; page++) {
			const bytes = this.page(page);
			const base = page * pageSize;
			const from = Math.max(offset, base);
			const to = Math.min(end, base + bytes.length);
			if (to > from) out.set(bytes.subarray(from - base, to - base), from - offset);
		}
		return out;
	}

	private page(index: number): Uint8Array {
		let page = this.pages.get(index);
		if (page) return page;
		page = unlockPage(this.parent.read(index * this.key.pageSize, this.key.pageSize), index + 1, this.key);
		if (this.pages.size >= 512) this.pages.delete(this.pages.keys().next().value as number);
		this.pages.set(index, page);
		return page;
	}
}

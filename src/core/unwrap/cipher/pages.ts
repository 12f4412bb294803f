/**
 * Databases locked page by page: a salt of 16 bytes in front, each page encrypted with AES-256 in CBC mode, its reserve
 * holding the initial vector and an HMAC over page and page number. The parameters (rounds, digest, page size) are
 * found by trying; that the HMAC of the first page holds proves them.
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

interface Parameters {
	rounds: number;
	digest: Digest;
	pageSize: number;
}

const KNOWN: readonly Parameters[] = [
	{ rounds: 256_000, digest: 'sha512', pageSize: 4096 },
	{ rounds: 64_000, digest: 'sha1', pageSize: 1024 },
	{ rounds: 4_000, digest: 'sha1', pageSize: 1024 },
	{ rounds: 64_000, digest: 'sha1', pageSize: 4096 },
	{ rounds: 256_000, digest: 'sha512', pageSize: 1024 },
	{ rounds: 256_000, digest: 'sha512', pageSize: 8192 },
	{ rounds: 64_000, digest: 'sha256', pageSize: 4096 }
];

const reserveOf = (digest: Digest): number => Math.ceil((IV + DIGESTS[digest].outputLen) / 16) * 16;

/** The database unlocked, read page by page as it is asked for; null where no passphrase fits under known parameters. */
export async function unlockPages(source: ByteSource, passphrases: readonly string[]): Promise<ByteSource | null> {
	const salt = source.read(0, SALT);
	if (salt.length < SALT || source.size < 1024) return null;
	for (const passphrase of passphrases) {
		const raw = /^x'([0-9a-f]{64})([0-9a-f]{32})?'$/i.exec(passphrase.trim());
		const derived = new Map<string, Uint8Array>();
		for (const p of KNOWN) {
			if (source.size % p.pageSize !== 0 && source.size % 512 !== 0) continue;
			const id = `${p.rounds}|${p.digest}`;
			let key = derived.get(id);
			if (!key) {
				key = raw ? fromHex(raw[1]!) : await derive(passphrase, salt, p.rounds, p.digest, 32);
				derived.set(id, key);
			}
			const masked = salt.map((b) => b ^ AUTH_MASK);
			const authKey = await derive(key, masked, AUTH_ROUNDS, p.digest, 32);
			if (holds(source, p, authKey)) return new UnlockedPages(source, p, key);
		}
	}
	return null;
}

const fromHex = (hex: string): Uint8Array => Uint8Array.from(hex.match(/../g) ?? [], (b) => parseInt(b, 16));

/** Whether the first page's HMAC is right: over its bytes after the salt, its vector, and its number, little-endian. */
function holds(source: ByteSource, p: Parameters, authKey: Uint8Array): boolean {
	const page = source.read(0, p.pageSize);
	const reserve = reserveOf(p.digest);
	if (page.length < p.pageSize) return false;
	const end = p.pageSize - reserve + IV;
	const data = new Uint8Array(end - SALT + 4);
	data.set(page.subarray(SALT, end));
	data[end - SALT] = 1;
	const mac = hmac(DIGESTS[p.digest], authKey, data);
	return mac.every((byte, i) => byte === page[end + i]);
}

class UnlockedPages implements ByteSource {
	readonly size: number;
	private readonly pages = new Map<number, Uint8Array>();

	constructor(
		private readonly parent: ByteSource,
		private readonly p: Parameters,
		private readonly key: Uint8Array
	) {
		this.size = parent.size;
	}

	read(offset: number, length: number): Uint8Array {
		const end = Math.min(this.size, offset + Math.max(0, length));
		if (!(offset >= 0) || offset >= end) return new Uint8Array(0);
		const out = new Uint8Array(end - offset);
		for (let page = Math.floor(offset / this.p.pageSize); page * this.p.pageSize < end; page++) {
			const bytes = this.page(page);
			const base = page * this.p.pageSize;
			const from = Math.max(offset, base);
			const to = Math.min(end, base + bytes.length);
			if (to > from) out.set(bytes.subarray(from - base, to - base), from - offset);
		}
		return out;
	}

	private page(index: number): Uint8Array {
		let page = this.pages.get(index);
		if (page) return page;
		page = this.decrypt(index);
		if (this.pages.size >= 512) this.pages.delete(this.pages.keys().next().value as number);
		this.pages.set(index, page);
		return page;
	}

	private decrypt(index: number): Uint8Array {
		const { pageSize, digest } = this.p;
		const bytes = this.parent.read(index * pageSize, pageSize);
		if (bytes.length < pageSize) return bytes.slice();
		const reserve = reserveOf(digest);
		const start = index === 0 ? SALT : 0;
		const end = pageSize - reserve;
		const out = bytes.slice();
		const body = bytes.subarray(start, end);
		// A page never written is zeros, encrypted by nobody.
		if (body.every((b) => b === 0)) return out;
		out.set(cbc(this.key, bytes.subarray(end, end + IV), { disablePadding: true }).decrypt(body), start);
		if (index === 0) out.set(MAGIC, 0);
		return out;
	}
}

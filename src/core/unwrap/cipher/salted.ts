/**
 * The salted format of an open command-line tool: "Salted__", eight bytes of salt, then AES in CBC or counter mode, or
 * ChaCha20; the whole perhaps in Base64. Key and vector come from the passphrase by PBKDF2 or by the older derivation of
 * repeated digests; which, with which digest and length, is found by trying. What the result begins with, and the
 * padding where there is one, show whether it fits.
 */
import { cbc, ctr } from '@noble/ciphers/aes.js';
import { chacha20 } from '@noble/ciphers/chacha.js';
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256, sha512 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import type { ByteSource } from '../../bytes';
import { derive, type Digest } from './derive';

const MAGIC = utf8ToBytes('Salted__');
/** The magic in Base64; what follows depends on the salt. */
const MAGIC_BASE64 = utf8ToBytes('U2FsdGVkX1');
const MOST_BYTES = 512 << 20;
const HEAD = 4096;

const inBase64 = (head: Uint8Array): boolean => MAGIC_BASE64.every((b, i) => head[i] === b);
export const isSalted = (head: Uint8Array): boolean => MAGIC.every((b, i) => head[i] === b) || inBase64(head);

interface Key {
	key: Uint8Array;
	iv: Uint8Array;
}

/** One way to decrypt; null or an error where it cannot be this one. */
type Way = (locked: Uint8Array, k: Key, whole: boolean) => Uint8Array | null;
const WAYS: readonly Way[] = [
	(locked, { key, iv }, whole) => (locked.length % 16 === 0 ? cbc(key, iv, { disablePadding: !whole }).decrypt(locked) : null),
	(locked, { key, iv }) => ctr(key, iv).decrypt(locked),
	// The tool's vector is a counter of four bytes, then the nonce.
	(locked, { key, iv }) =>
		key.length === 32 ? chacha20(key, iv.subarray(4), locked, undefined, new DataView(iv.slice().buffer).getUint32(0, true)) : null
];

/** `plausible` says whether bytes begin like something that is known. Null where nothing fits. */
export async function unlockSalted(
	source: ByteSource,
	passphrases: readonly string[],
	plausible: (head: Uint8Array) => boolean
): Promise<Uint8Array | null> {
	if (source.size > MOST_BYTES || source.size < 17) return null;
	const raw = source.read(0, source.size);
	const bytes = inBase64(raw) ? fromBase64(raw) : raw;
	if (!bytes) return null;
	const salt = bytes.slice(8, 16);
	const locked = bytes.subarray(16);
	for (const passphrase of passphrases)
		for await (const key of keysOf(passphrase, salt))
			for (const way of WAYS) {
				const head = way(locked.subarray(0, HEAD), key, false);
				if (!head || !plausible(head)) continue;
				try {
					const plain = way(locked, key, true);
					if (plain) return plain;
				} catch {
					// The padding is wrong: another derivation.
				}
			}
	return null;
}

function fromBase64(raw: Uint8Array): Uint8Array | null {
	try {
		const text = atob(new TextDecoder('latin1').decode(raw).replace(/\s+/g, ''));
		return Uint8Array.from(text, (c) => c.charCodeAt(0));
	} catch {
		return null;
	}
}

/** Rounds and digests of the slow derivation, the usual ones first. */
const SLOW: readonly [number, Digest][] = [
	[10_000, 'sha256'],
	[10_000, 'sha512'],
	[10_000, 'sha1'],
	[100_000, 'sha256'],
	[100_000, 'sha512'],
	[1_000, 'sha256'],
	[1_000, 'sha1'],
	[600_000, 'sha256'],
	[20_000, 'sha256'],
	[50_000, 'sha256'],
	[200_000, 'sha256']
];
const LENGTHS = [32, 16, 24];
const LONGEST = 48;

async function* keysOf(passphrase: string, salt: Uint8Array): AsyncGenerator<Key> {
	const cut = (bytes: Uint8Array, length: number): Key => ({
		key: bytes.subarray(0, length),
		iv: bytes.subarray(length, length + 16)
	});
	// Both derivations give the same beginning whatever the length: the longest is made once.
	for (const digest of [sha256, md5, sha1, sha512]) {
		let made = new Uint8Array(0);
		let last = new Uint8Array(0);
		while (made.length < LONGEST) {
			last = new Uint8Array(digest(join(last, utf8ToBytes(passphrase), salt)));
			made = join(made, last);
		}
		for (const length of LENGTHS) yield cut(made, length);
	}
	for (const [rounds, digest] of SLOW) {
		const made = await derive(passphrase, salt, rounds, digest, LONGEST);
		for (const length of LENGTHS) yield cut(made, length);
	}
}

function join(...parts: Uint8Array[]): Uint8Array<ArrayBuffer> {
	const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
	let at = 0;
	for (const p of parts) {
		out.set(p, at);
		at += p.length;
	}
	return out;
}

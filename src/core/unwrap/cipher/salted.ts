/**
 * The salted format of an open command-line tool: "Salted__", eight bytes of salt, then AES in CBC mode. Key and vector
 * come from the passphrase by PBKDF2 or by the older derivation of repeated digests; which, with which digest and
 * length, is found by trying. Padding, and what the result begins with, show whether it fits.
 */
import { cbc } from '@noble/ciphers/aes.js';
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256, sha512 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import type { ByteSource } from '../../bytes';
import { derive, type Digest } from './derive';

const MAGIC = utf8ToBytes('Salted__');
const MOST_BYTES = 512 << 20;

export const isSalted = (head: Uint8Array): boolean => MAGIC.every((b, i) => head[i] === b);

/** `plausible` says whether bytes begin like something that is known. Null where nothing fits. */
export async function unlockSalted(
	source: ByteSource,
	passphrases: readonly string[],
	plausible: (head: Uint8Array) => boolean
): Promise<Uint8Array | null> {
	if (source.size > MOST_BYTES || source.size < 32 || source.size % 16 !== 0) return null;
	const salt = source.read(8, 8);
	const first = source.read(16, 32);
	for (const passphrase of passphrases) {
		for await (const { key, iv } of keysOf(passphrase, salt)) {
			const head = cbc(key, iv, { disablePadding: true }).decrypt(first.subarray(0, first.length - (first.length % 16)));
			if (!plausible(head)) continue;
			try {
				return cbc(key, iv).decrypt(source.read(16, source.size - 16));
			} catch {
				// The padding is wrong: another derivation.
			}
		}
	}
	return null;
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
	[600_000, 'sha256']
];
const LENGTHS = [32, 16, 24];
const LONGEST = 48;

async function* keysOf(passphrase: string, salt: Uint8Array): AsyncGenerator<{ key: Uint8Array; iv: Uint8Array }> {
	const cut = (bytes: Uint8Array, length: number): { key: Uint8Array; iv: Uint8Array } => ({
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

/**
 * The salted format of an open command-line tool: "Salted__", eight bytes of salt, then AES in CBC mode. Key and vector
 * come from the passphrase by PBKDF2 or by the older derivation of repeated digests; which, with which digest and
 * length, is found by trying. Padding, and what the result begins with, show whether it fits.
 */
import { cbc } from '@noble/ciphers/aes.js';
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { pbkdf2 } from '@noble/hashes/pbkdf2.js';
import { sha256, sha512 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import type { ByteSource } from '../../bytes';

const MAGIC = utf8ToBytes('Salted__');
const MOST_BYTES = 512 << 20;

export const isSalted = (head: Uint8Array): boolean => MAGIC.every((b, i) => head[i] === b);

/** `plausible` says whether bytes begin like something that is known. Null where nothing fits. */
export function unlockSalted(
	source: ByteSource,
	passphrases: readonly string[],
	plausible: (head: Uint8Array) => boolean
): Uint8Array | null {
	if (source.size > MOST_BYTES || source.size < 32 || source.size % 16 !== 0) return null;
	const salt = source.read(8, 8);
	const first = source.read(16, 32);
	for (const passphrase of passphrases) {
		for (const { key, iv } of keysOf(utf8ToBytes(passphrase), salt)) {
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

function* keysOf(passphrase: Uint8Array, salt: Uint8Array): Generator<{ key: Uint8Array; iv: Uint8Array }> {
	const cut = (bytes: Uint8Array, length: number): { key: Uint8Array; iv: Uint8Array } => ({
		key: bytes.subarray(0, length),
		iv: bytes.subarray(length, length + 16)
	});
	for (const length of [32, 16, 24]) {
		for (const digest of [sha256, md5, sha1, sha512]) {
			let made = new Uint8Array(0);
			let last = new Uint8Array(0);
			while (made.length < length + 16) {
				last = new Uint8Array(digest(join(last, passphrase, salt)));
				made = join(made, last);
			}
			yield cut(made, length);
		}
		for (const rounds of [10_000, 100_000, 1_000, 600_000]) {
			for (const digest of [sha256, sha512, sha1]) yield cut(pbkdf2(digest, passphrase, salt, { c: rounds, dkLen: length + 16 }), length);
		}
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

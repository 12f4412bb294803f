/**
 * Locked ZIP entries: the traditional cipher (APPNOTE 6.1) and AES (the AE-1 and AE-2 extra field 0x9901: PBKDF2 with
 * HMAC-SHA-1 and 1000 rounds, a salt in front, two bytes that check the passphrase, AES in counter mode from 1 with the
 * counter little-endian, ten bytes of HMAC-SHA-1 behind).
 */
import { ecb } from '@noble/ciphers/aes.js';
import { hmac } from '@noble/hashes/hmac.js';
import { sha1 } from '@noble/hashes/legacy.js';
import { pbkdf2 } from '@noble/hashes/pbkdf2.js';
import type { ZipEntry } from './zip';

/** The packed bytes unlocked, or null where the passphrase does not fit. */
export function unlockEntry(packed: Uint8Array, entry: ZipEntry, passphrase: Uint8Array): Uint8Array | null {
	return entry.locked === 'aes' ? unlockAes(packed, entry.strength, passphrase) : unlockLegacy(packed, entry.check, passphrase);
}

function unlockAes(packed: Uint8Array, strength: number, passphrase: Uint8Array): Uint8Array | null {
	const keyLength = strength === 1 ? 16 : strength === 2 ? 24 : strength === 3 ? 32 : 0;
	const saltLength = keyLength / 2;
	if (keyLength === 0 || packed.length < saltLength + 12) return null;
	const derived = pbkdf2(sha1, passphrase, packed.subarray(0, saltLength), { c: 1000, dkLen: keyLength * 2 + 2 });
	if (derived[keyLength * 2] !== packed[saltLength] || derived[keyLength * 2 + 1] !== packed[saltLength + 1]) return null;
	const data = packed.subarray(saltLength + 2, packed.length - 10);
	const mac = hmac(sha1, derived.subarray(keyLength, keyLength * 2), data);
	for (let i = 0; i < 10; i++) if (mac[i] !== packed[packed.length - 10 + i]) return null;
	const blocks = Math.ceil(data.length / 16);
	const counters = new Uint8Array(blocks * 16);
	for (let i = 0; i < blocks; i++) {
		let n = i + 1;
		for (let k = 0; k < 6 && n > 0; k++, n = Math.floor(n / 256)) counters[i * 16 + k] = n % 256;
	}
	const stream = ecb(derived.subarray(0, keyLength), { disablePadding: true }).encrypt(counters);
	return data.map((byte, i) => byte ^ stream[i]!);
}

const CRC = new Uint32Array(256).map((_, n) => {
	let c = n;
	for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
	return c;
});
const crcStep = (crc: number, byte: number): number => (CRC[(crc ^ byte) & 0xff]! ^ (crc >>> 8)) >>> 0;

export function crc32(bytes: Uint8Array): number {
	let crc = 0xffffffff;
	for (const byte of bytes) crc = crcStep(crc, byte);
	return (crc ^ 0xffffffff) >>> 0;
}

function unlockLegacy(packed: Uint8Array, check: number, passphrase: Uint8Array): Uint8Array | null {
	let a = 0x12345678;
	let b = 0x23456789;
	let c = 0x34567890;
	const update = (byte: number): void => {
		a = crcStep(a, byte);
		b = (Math.imul((b + (a & 0xff)) >>> 0, 134775813) + 1) >>> 0;
		c = crcStep(c, b >>> 24);
	};
	for (const byte of passphrase) update(byte);
	const out = new Uint8Array(packed.length);
	for (let i = 0; i < packed.length; i++) {
		const t = (c | 2) & 0xffff;
		const plain = packed[i]! ^ ((Math.imul(t, t ^ 1) >>> 8) & 0xff);
		out[i] = plain;
		update(plain);
	}
	return packed.length >= 12 && out[11] === check ? out.subarray(12) : null;
}

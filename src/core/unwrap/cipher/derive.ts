/**
 * PBKDF2 (RFC 8018, section 5.2) by the host's Web Cryptography API, which every worker and Node have: its rounds run
 * into the hundreds of thousands, and in script they would take minutes.
 */
export type Digest = 'sha1' | 'sha256' | 'sha512';
const NAMES: Record<Digest, string> = { sha1: 'SHA-1', sha256: 'SHA-256', sha512: 'SHA-512' };

export async function derive(
	passphrase: string | Uint8Array,
	salt: Uint8Array,
	iterations: number,
	digest: Digest,
	length: number
): Promise<Uint8Array> {
	const { subtle } = globalThis.crypto;
	const bytes = typeof passphrase === 'string' ? new TextEncoder().encode(passphrase) : new Uint8Array(passphrase);
	const key = await subtle.importKey('raw', bytes, 'PBKDF2', false, ['deriveBits']);
	const bits = await subtle.deriveBits({ name: 'PBKDF2', hash: NAMES[digest], salt: new Uint8Array(salt), iterations }, key, length * 8);
	return new Uint8Array(bits);
}

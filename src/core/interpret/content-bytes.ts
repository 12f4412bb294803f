/** The bytes of a file that stand in a value: as they are, or in digits to the base of 64 (RFC 4648; RFC 2397, with its head). */
import type { Value } from '../model';
import { BASE64, fromBase64 } from './body';

const HEAD = /^data:[\w.+/-]*(?:;[\w=.+-]+)*;base64,/i;

export function contentBytes(value: Value | undefined): Uint8Array | null {
	if (value instanceof Uint8Array) return value.length > 0 ? value : null;
	if (typeof value !== 'string') return null;
	const digits = value.replace(HEAD, '').replace(/[\r\n]+/g, '');
	return digits !== '' && BASE64.test(digits) ? fromBase64(digits) : null;
}

/** A type of media, as `image/jpeg` (RFC 6838, section 4.2), with the top-level types that are registered. */
export const MEDIA_TYPE = /^(application|audio|font|haptics|image|message|model|multipart|text|video)\/[a-z0-9][a-z0-9!#$&^_.+-]*$/i;

/** Beginnings of media files, by their specifications. */
const SIGNATURES: readonly [string, readonly (number | null)[]][] = [
	['image/jpeg', [0xff, 0xd8, 0xff]],
	['image/png', [0x89, 0x50, 0x4e, 0x47]],
	['image/gif', [0x47, 0x49, 0x46, 0x38]],
	['image/webp', [0x52, 0x49, 0x46, 0x46, null, null, null, null, 0x57, 0x45, 0x42, 0x50]],
	['audio/wav', [0x52, 0x49, 0x46, 0x46, null, null, null, null, 0x57, 0x41, 0x56, 0x45]],
	['application/pdf', [0x25, 0x50, 0x44, 0x46]],
	['audio/ogg', [0x4f, 0x67, 0x67, 0x53]],
	['audio/mpeg', [0x49, 0x44, 0x33]],
	['audio/amr', [0x23, 0x21, 0x41, 0x4d, 0x52]],
	['image/heic', [null, null, null, null, 0x66, 0x74, 0x79, 0x70, 0x68, 0x65, 0x69]],
	['audio/mp4', [null, null, null, null, 0x66, 0x74, 0x79, 0x70, 0x4d, 0x34, 0x41]],
	['video/mp4', [null, null, null, null, 0x66, 0x74, 0x79, 0x70]],
	['application/zip', [0x50, 0x4b, 3, 4]]
];

/** The media type that the first 16 bytes of a file show, or null. */
export const mediaTypeOf = (head: Uint8Array): string | null =>
	SIGNATURES.find(([, bytes]) => bytes.every((b, i) => b === null || head[i] === b))?.[0] ?? null;

/** Thousands of bits a second, and samples a second, of MPEG 1 audio, layer III (ISO 11172-3, section 2.4.2.3). */
const BIT_RATES = [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 0];
const SAMPLE_RATES = [44_100, 48_000, 32_000, 0];

const isFrame = (bytes: Uint8Array, at: number): boolean => bytes[at] === 0xff && (bytes[at + 1]! & 0xfe) === 0xfa;

/** Whether frames of such audio follow each other from the beginning on: the two bytes that open one are met by chance. */
export function areAudioFrames(head: Uint8Array): boolean {
	const [bits, samples] = [BIT_RATES[head[2]! >> 4], SAMPLE_RATES[(head[2]! >> 2) & 3]];
	if (!isFrame(head, 0) || !bits || !samples) return false;
	return isFrame(head, Math.floor((144_000 * bits) / samples) + ((head[2]! >> 1) & 1));
}

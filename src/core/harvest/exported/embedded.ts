/**
 * Files that an export holds within its text, in base64 (RFC 4648) or as data URLs (RFC 2397). Unwrapping lays them beside
 * the export; in its records a digest stands in their place, by which each is found again.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { MEDIA_TYPE, type Item } from './items';

export interface EmbeddedFile {
	name: string;
	bytes: Uint8Array;
	/** Of its text, within that of the export. */
	offset: number;
}

/** Shorter ones are no files. */
const SHORTEST = 48;
const FILES_AT_MOST = 100_000;
/** Bytes of all files of one export together. */
const MOST_BYTES = 192 << 20;

/** How files that people send begin, as letters of Latin-1, with their ending and media type. */
const BEGINNINGS: readonly [RegExp, string, string][] = [
	[/^\x89PNG\r\n/, 'png', 'image/png'],
	[/^\xff\xd8\xff/, 'jpg', 'image/jpeg'],
	[/^GIF8[79]a/, 'gif', 'image/gif'],
	[/^RIFF[\s\S]{4}WEBP/, 'webp', 'image/webp'],
	[/^RIFF[\s\S]{4}WAVE/, 'wav', 'audio/wav'],
	[/^[\s\S]{4}ftyp(?:hei|mif)/, 'heic', 'image/heic'],
	[/^[\s\S]{4}ftypM4A/, 'm4a', 'audio/mp4'],
	[/^[\s\S]{4}ftyp/, 'mp4', 'video/mp4'],
	[/^OggS/, 'ogg', 'audio/ogg'],
	[/^(?:ID3|\xff[\xf2\xf3\xfb])/, 'mp3', 'audio/mpeg'],
	[/^#!AMR/, 'amr', 'audio/amr'],
	[/^%PDF-/, 'pdf', 'application/pdf'],
	[/^PK\x03\x04/, 'zip', 'application/zip'],
	[/^BM[\s\S]{4}\0\0\0\0/, 'bmp', 'image/bmp'],
	[/^\x1aE\xdf\xa3/, 'webm', 'video/webm'],
	[/^BEGIN:VCARD\r?\n/, 'vcf', 'text/vcard']
];
const HEAD = 32;

/** Blanks, and what JSON and XML write for a line's end or before a slash. */
const ESCAPED = /\\[nrt]|&#x?\w{1,4};|[\s\\]/g;
const DATA_URL = /^data:[\w.+-]*\/?[\w.+-]*(?:;[\w=.+-]+)*;base64,/i;

function decoded(base64: string): string | null {
	try {
		return globalThis.atob(base64);
	} catch {
		return null;
	}
}

/** The file that a text is in base64, or null where it is none, or of no kind that is known. */
function fileIn(text: string): { bytes: Uint8Array; ending: string; type: string } | null {
	const plain = text.replace(DATA_URL, '').replace(ESCAPED, '');
	const head = plain.length >= SHORTEST ? decoded(plain.slice(0, HEAD)) : null;
	const kind = head === null ? undefined : BEGINNINGS.find(([begins]) => begins.test(head));
	const whole = kind ? decoded(plain) : null;
	return whole === null ? null : { bytes: Uint8Array.from(whole, (c) => c.charCodeAt(0)), ending: kind![1], type: kind![2] };
}

const RUN = /(["'>])\s*((?:data:[\w.+/;=-]{0,80};base64,)?[A-Za-z0-9+/]{32}[A-Za-z0-9+/=\s\\&#;]*)(?=["'<])/g;
const AROUND = 600;
const NAMED = /\b(?:file_?name|name|cl|fn|title)["']?\s*[=:]\s*["']([^"'<>{}\\/]{1,120}\.[a-z0-9]{2,5})["']/gi;

/** The files within the text of an export; of several alike the first. */
export function embeddedFiles(text: string): EmbeddedFile[] {
	const files: EmbeddedFile[] = [];
	const known = new Set<string>();
	const names = new Set<string>();
	let bytes = 0;
	for (const m of text.matchAll(RUN)) {
		const found = fileIn(m[2]!);
		if (!found || files.length >= FILES_AT_MOST || bytes + found.bytes.length > MOST_BYTES) continue;
		const digest = bytesToHex(sha256(found.bytes));
		if (known.has(digest)) continue;
		known.add(digest);
		bytes += found.bytes.length;
		const stated = nameBeside(text, m.index, m.index + m[0].length) ?? `embedded ${files.length + 1}.${found.ending}`;
		const name = names.has(stated) ? `${files.length + 1} ${stated}` : stated;
		names.add(name);
		files.push({ name, bytes: found.bytes, offset: m.index });
	}
	return files;
}

/** The name that stands with a file: in its element's tag, or in its record. */
function nameBeside(text: string, from: number, to: number): string | null {
	const before = text.slice(Math.max(0, from - AROUND), from);
	const after = text.slice(to, to + AROUND);
	const own =
		before.slice(Math.max(before.lastIndexOf('<'), before.lastIndexOf('{')) + 1) + '" ' + after.slice(0, after.search(/[>}]/) + 1);
	return [...own.matchAll(NAMED)].at(-1)?.[1] ?? null;
}

/** Puts in the place of each file that items hold within them its digest, its size and, where that is not stated, its media type. */
export function stateEmbedded(item: Item, depth = 0): void {
	const stated = [...item.fields.values()].some((v) => typeof v === 'string' && MEDIA_TYPE.test(v));
	for (const [name, value] of [...item.fields]) {
		const file = typeof value === 'string' && value.length >= SHORTEST ? fileIn(value) : null;
		if (!file) continue;
		item.fields.delete(name);
		item.fields.set(`${name} sha256`, bytesToHex(sha256(file.bytes)));
		item.fields.set(`${name} size`, file.bytes.length);
		if (!stated) item.fields.set(`${name} type`, file.type);
	}
	if (depth < 100) for (const list of item.lists.values()) for (const one of list) stateEmbedded(one, depth + 1);
}

/**
 * Finds the files that messages state among those that lie in the sources: by the path stated, by their hash, by name,
 * by size and type, by the dimensions of a picture. Where two different files fit alike, none is linked.
 */
import { put } from '../lists';
import { imageSize } from 'image-size';
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { isCutText, mediaTypeOf, type ByteSource } from '../bytes';
import { wholeBytes } from '../harvest';
import type { StatedFile } from '../interpret';
import { linksByNumber, NUMBERED_LEAST, numberedFiles } from './numbered-files';

export interface MediaFile {
	name: string;
	path: string;
	source: ByteSource;
}

export interface MediaLink {
	/** Index into the look's files. */
	file: number;
	/** How it was found. */
	how: string;
}

const BLOCK = 4 << 20;
/** Files larger than this, and bytes in all, are not hashed in search of one. */
const HASHED_LARGEST = 256 << 20;
const HASHED_IN_ALL = 2 ** 31;
/** A size shared by chance is likely below this; less so where the type is the same as well. */
const TELLING_SIZE = 512;
const TELLING_WITH_TYPE = 64;
const PICTURES_MEASURED = 20_000;
const PICTURE_HEAD = 1 << 18;

/** Keys shorter than this are numbers that anything may be called. */
const TELLING_KEY = 12;

const DIGESTS = { 32: ['MD5', md5], 40: ['SHA-1', sha1], 64: ['SHA-256', sha256] } as const;
type DigestLength = keyof typeof DIGESTS;

interface Claims {
	/** By a path or a digest. */
	placed: Set<number>;
	/** By these, a name or a key. */
	told: Set<number>;
}

export class MediaIndex {
	private readonly byName = new Map<string, number[]>();
	private readonly byStem = new Map<string, number[]>();
	private readonly claims = new WeakMap<readonly StatedFile[], Claims>();
	private readonly bySize = new Map<number, number[]>();
	private readonly hashes = new Map<string, string>();
	private readonly hashed = new Map<DigestLength, Map<string, number[]>>();
	private readonly inside = new WeakMap<Uint8Array, string>();
	private byShape: Map<string, number[]> | null = null;
	private readonly byNumber = new WeakMap<readonly StatedFile[], Map<StatedFile, MediaLink>>();

	/**
	 * `stores`: files that are databases or parts of them; only their names can lead there. `statedIn`: all that the
	 * messages of a store state, the same list as long as they are the same.
	 */
	constructor(
		private readonly files: readonly MediaFile[],
		private readonly stores: ReadonlySet<number>,
		private readonly statedIn: (storePath: string) => readonly StatedFile[] = () => []
	) {
		files.forEach((f, i) => {
			if (f.source.size === 0) return;
			const name = nameOf(f.path || f.name);
			put(this.byName, name, i);
			put(this.byStem, stemOf(name), i);
			if (!stores.has(i)) put(this.bySize, f.source.size, i);
		});
	}

	/** The file a message of the store at `storePath` states, or null. */
	find(stated: StatedFile, storePath: string): MediaLink | null {
		return this.byItself(stated, storePath) ?? this.numbered(stated, storePath);
	}

	/** Whatever else the store states. */
	private byItself(stated: StatedFile, storePath: string): MediaLink | null {
		return this.told(stated, storePath) ?? this.sized(stated, storePath) ?? this.shaped(stated, storePath);
	}

	/** The file that is called as a message of the store is known, where that is no short number. */
	calledAs(key: string, storePath: string): MediaLink | null {
		const found = key.length < TELLING_KEY ? null : this.one(this.byStem.get(key.toLowerCase()) ?? [], storePath);
		return found === null ? null : { file: found, how: 'name (its message’s key)' };
	}

	/** Files that are called by the numbers of the rows that state them, or of their messages. */
	private numbered(stated: StatedFile, storePath: string): MediaLink | null {
		const all = this.statedIn(storePath);
		let links = this.byNumber.get(all);
		if (!links) this.byNumber.set(all, (links = this.linkNumbers(all, storePath)));
		return links.get(stated) ?? null;
	}

	private linkNumbers(all: readonly StatedFile[], storePath: string): Map<StatedFile, MediaLink> {
		const open: StatedFile[] = [];
		const claimed = new Set<number>();
		for (const stated of all) {
			const link = stated.inside === undefined ? this.byItself(stated, storePath) : null;
			if (link) claimed.add(link.file);
			else if (stated.inside === undefined) open.push(stated);
		}
		if (open.length < NUMBERED_LEAST) return new Map();
		const groups = numberedFiles(this.files, storePath, (i) => !this.stores.has(i) && !claimed.has(i));
		const fits = (file: number, stated: StatedFile): boolean => {
			const type = typeOf(stated);
			return type === null || this.isOfType(file, type);
		};
		return linksByNumber(open, groups, fits);
	}

	/** What the statement itself leads to. */
	private told(stated: StatedFile, storePath: string): MediaLink | null {
		return this.placed(stated, storePath) ?? this.named(stated, storePath) ?? this.keyed(stated, storePath);
	}

	/** By a path or a digest. */
	private placed(stated: StatedFile, storePath: string): MediaLink | null {
		return this.byPath(stated, storePath) ?? this.byHash(stated, storePath);
	}

	/** The files to which what the messages of a store state leads: for another one that likeness is chance. */
	private claimed(storePath: string): Claims {
		const all = this.statedIn(storePath);
		let claims = this.claims.get(all);
		if (!claims) {
			claims = { placed: new Set(), told: new Set() };
			this.claims.set(all, claims);
			for (const stated of all) {
				const placed = this.placed(stated, storePath);
				if (placed) claims.placed.add(placed.file);
			}
			for (const stated of all) {
				const told = this.told(stated, storePath);
				if (told) claims.told.add(told.file);
			}
		}
		return claims;
	}

	/** SHA-256, hex, of a file whose bytes stand in the row that states it. */
	sha256Inside(bytes: Uint8Array): string {
		let hex = this.inside.get(bytes);
		if (hex === undefined) this.inside.set(bytes, (hex = bytesToHex(sha256(wholeBytes(bytes)))));
		return hex;
	}

	/** SHA-256 of a file, hex. */
	sha256(file: number): string {
		return this.digest(file, 64);
	}

	private digest(file: number, length: DigestLength): string {
		const key = `${length}|${file}`;
		let hex = this.hashes.get(key);
		if (hex === undefined) {
			const { source } = this.files[file]!;
			const hash = DIGESTS[length][1].create();
			for (let at = 0; at < source.size; at += BLOCK) {
				const bytes = source.read(at, BLOCK);
				if (bytes.length === 0) break;
				hash.update(bytes);
			}
			this.hashes.set(key, (hex = bytesToHex(hash.digest())));
		}
		return hex;
	}

	private byPath(stated: StatedFile, storePath: string): MediaLink | null {
		const wanted = stated.path ? segmentsOf(stated.path) : [];
		if (wanted.length < 2) return null;
		let best: number[] = [];
		let most = 1;
		for (const file of this.byName.get(wanted.at(-1)!) ?? []) {
			const common = commonTail(wanted, segmentsOf(this.files[file]!.path));
			if (common > most) {
				most = common;
				best = [];
			}
			if (common === most && common > 1) best.push(file);
		}
		const found = this.one(this.agreeing(best, stated), storePath);
		if (found === null) return null;
		const differs = stated.size !== null && stated.size > 0 && this.files[found]!.source.size !== stated.size;
		return { file: found, how: differs ? 'stated path, of another size' : 'stated path' };
	}

	private byHash(stated: StatedFile, storePath: string): MediaLink | null {
		const hex = hexOf(stated.hash);
		const length = hex?.length as DigestLength | undefined;
		if (!hex || !length || !(length in DIGESTS)) return null;
		const sized = stated.size !== null ? (this.bySize.get(stated.size) ?? []) : [];
		const among = sized.length > 0 ? sized.filter((f) => this.digest(f, length) === hex) : (this.allHashed(length).get(hex) ?? []);
		const found = this.one(among, storePath);
		return found === null ? null : { file: found, how: `hash (${DIGESTS[length][0]})` };
	}

	private allHashed(length: DigestLength): Map<string, number[]> {
		let map = this.hashed.get(length);
		if (map) return map;
		this.hashed.set(length, (map = new Map()));
		let left = HASHED_IN_ALL;
		for (const files of this.bySize.values())
			for (const file of files) {
				const { size } = this.files[file]!.source;
				if (size > HASHED_LARGEST || (left -= size) < 0) continue;
				put(map, this.digest(file, length), file);
			}
		return map;
	}

	private named(stated: StatedFile, storePath: string): MediaLink | null {
		const names = [stated.name, stated.path].filter((n) => n !== null).map((n) => nameOf(n));
		for (const name of names) {
			const isAgreed = (f: number): boolean => stated.size === null || this.files[f]!.source.size === stated.size;
			const all = (this.byName.get(name) ?? []).filter((f) => isAgreed(f) || !this.claimed(storePath).placed.has(f));
			const agreeing = this.agreeing(all, stated);
			const found = this.one(agreeing, storePath);
			if (found === null) continue;
			const same = stated.size !== null && this.files[found]!.source.size === stated.size;
			return { file: found, how: same ? 'name and size' : 'name' };
		}
		return null;
	}

	private keyed(stated: StatedFile, storePath: string): MediaLink | null {
		if (stated.key === null || stated.key.length < TELLING_KEY) return null;
		const all = this.byStem.get(stated.key.toLowerCase()) ?? [];
		const found = this.one(this.agreeing(all, stated), storePath);
		return found === null ? null : { file: found, how: 'name (its key)' };
	}

	private sized(stated: StatedFile, storePath: string): MediaLink | null {
		const type = typeOf(stated);
		if (stated.size === null || stated.size < (type === null ? TELLING_SIZE : TELLING_WITH_TYPE)) return null;
		const all = this.bySize.get(stated.size) ?? [];
		const alike = type === null ? all : all.filter((f) => this.isOfType(f, type));
		const found = this.one(
			alike.filter((f) => !this.claimed(storePath).told.has(f)),
			storePath
		);
		return found === null ? null : { file: found, how: type === null ? 'size' : 'size and type' };
	}

	private shaped(stated: StatedFile, storePath: string): MediaLink | null {
		if (!stated.width || !stated.height) return null;
		if (!this.byShape) {
			this.byShape = new Map();
			const pictures = [...this.bySize.values()]
				.flat()
				.filter((f) => this.isOfType(f, 'image'))
				.slice(0, PICTURES_MEASURED);
			for (const f of pictures) {
				const shape = shapeOf(this.files[f]!.source);
				if (shape) put(this.byShape, shape, f);
			}
		}
		const type = typeOf(stated);
		const alike = this.byShape.get(`${stated.width}x${stated.height}`) ?? [];
		const found = this.one(
			alike.filter((f) => (type === null || this.isOfType(f, type)) && !this.claimed(storePath).told.has(f)),
			storePath
		);
		return found === null ? null : { file: found, how: 'dimensions and type' };
	}

	/** Those of the stated size, where some are. */
	private agreeing(files: readonly number[], stated: StatedFile): readonly number[] {
		const same = stated.size === null ? [] : files.filter((f) => this.files[f]!.source.size === stated.size);
		return same.length > 0 ? same : files;
	}

	/** Of several the one nearest to the store; null where two that differ are equally near. */
	private one(files: readonly number[], storePath: string): number | null {
		if (files.length < 2) return files[0] ?? null;
		const near = files.map((f) => commonHead(segmentsOf(this.files[f]!.path), segmentsOf(storePath)));
		const nearest = files.filter((_, i) => near[i] === Math.max(...near));
		if (nearest.length === 1) return nearest[0]!;
		const sizes = new Set(nearest.map((f) => this.files[f]!.source.size));
		if (sizes.size > 1 || [...sizes][0]! > HASHED_LARGEST) return null;
		return new Set(nearest.map((f) => this.sha256(f))).size === 1 ? nearest[0]! : null;
	}

	private isOfType(file: number, type: string): boolean {
		const { source, name } = this.files[file]!;
		const own = sniff(source) ?? extensionType(name) ?? (isText(source) ? 'text/plain' : null);
		// Of an unknown form, as long as stated to the byte: not one of those whose beginnings are known.
		if (own === null) return source.size >= TELLING_SIZE && !BEGINNING_KNOWN.test(type);
		if (!type.includes('/')) return own.startsWith(`${type}/`);
		return alike(own, type) || (own.split('/')[0] === type.split('/')[0] && sniff(source) === null);
	}
}

const decoded = (part: string): string => {
	try {
		return decodeURIComponent(part);
	} catch {
		return part;
	}
};

/** Segments of a path as stores write it: schemes, drives, escapes and variables aside; lower case. */
function segmentsOf(path: string): string[] {
	const bare = path.replace(/^[a-z][a-z\d+.-]*:\/\/\/?/i, '').replace(/^[a-z]:(?=[\\/])/i, '');
	const parts = bare.split(/[\\/]+/);
	return (/%[\da-f]{2}/i.test(bare) ? parts.map(decoded) : parts)
		.map((p) => p.normalize('NFC').toLowerCase())
		.filter((p) => p !== '' && p !== '.' && p !== '~');
}

const nameOf = (path: string): string => segmentsOf(path).at(-1) ?? '';
const stemOf = (name: string): string => name.replace(/(?<=.)\.[^.]*$/, '');

function commonTail(a: readonly string[], b: readonly string[]): number {
	let n = 0;
	while (n < a.length && n < b.length && a[a.length - 1 - n] === b[b.length - 1 - n]) n++;
	return n;
}

function commonHead(a: readonly string[], b: readonly string[]): number {
	let n = 0;
	while (n < a.length && n < b.length && a[n] === b[n]) n++;
	return n;
}

/** A digest as hex, where it was written so or as base64. */
function hexOf(hash: string | null): string | null {
	if (!hash) return null;
	const bare = hash.trim().replace(/^(sha-?256|sha-?1|md5)[:=-]/i, '');
	if (/^([\da-f]{32}|[\da-f]{40}|[\da-f]{64})$/i.test(bare)) return bare.toLowerCase();
	if (!/^[\w+/-]{22,44}={0,2}$/.test(bare)) return null;
	try {
		const bytes = Uint8Array.from(atob(bare.replaceAll('-', '+').replaceAll('_', '/')), (c) => c.charCodeAt(0));
		return [16, 20, 32].includes(bytes.length) ? bytesToHex(bytes) : null;
	} catch {
		return null;
	}
}

/** Types whose files would be known by their beginning. */
const BEGINNING_KNOWN = /^(image|audio|video)\b|pdf|zip|openxmlformats|opendocument/;

/** The media type that a file's first bytes show, or null. */
export const sniff = (source: ByteSource): string | null => mediaTypeOf(source.read(0, 16));

/** Whether a file begins as plain text in UTF-8 does. */
function isText(source: ByteSource): boolean {
	const head = source.read(0, TEXT_HEAD);
	return isCutText(head, 0, head.length, 'utf8');
}
const TEXT_HEAD = 1024;

const EXTENSIONS: Record<string, string> = {
	jpg: 'image/jpeg',
	jpeg: 'image/jpeg',
	png: 'image/png',
	gif: 'image/gif',
	webp: 'image/webp',
	heic: 'image/heic',
	mp4: 'video/mp4',
	mov: 'video/quicktime',
	'3gp': 'video/3gpp',
	m4a: 'audio/mp4',
	mp3: 'audio/mpeg',
	ogg: 'audio/ogg',
	opus: 'audio/ogg',
	amr: 'audio/amr',
	wav: 'audio/wav',
	pdf: 'application/pdf',
	txt: 'text/plain',
	vcf: 'text/vcard',
	zip: 'application/zip'
};
export const extensionType = (name: string): string | null => EXTENSIONS[/\.([a-z\d]{2,5})$/i.exec(name)?.[1]?.toLowerCase() ?? ''] ?? null;

/** Whether a file that begins as `own` does may be called `stated`: sounds and films go by many names, and share containers. */
function alike(own: string, stated: string): boolean {
	const [a, b] = [own, stated].map((t) => t.replace('/x-', '/'));
	const [kind, other] = [a, b].map((t) => t!.split('/')[0]);
	return a === b || (kind === other && kind !== 'image') || (a === 'video/mp4' && other === 'audio');
}

/** RFC 2046, section 4.5.1: of no type in particular. */
const ANY_TYPE = 'application/octet-stream';

function typeOf(stated: StatedFile): string | null {
	const type = stated.type?.split(';')[0]!.trim().toLowerCase().replace('image/jpg', 'image/jpeg');
	return type === undefined || type === ANY_TYPE ? extensionType(stated.name ?? stated.path ?? '') : type;
}

function shapeOf(source: ByteSource): string | null {
	try {
		const { width, height } = imageSize(source.read(0, PICTURE_HEAD));
		return `${width}x${height}`;
	} catch {
		return null;
	}
}

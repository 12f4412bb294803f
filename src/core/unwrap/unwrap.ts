/**
 * Unwrap: what was given becomes a tree of readable files. Archives, packed streams, locked containers, databases
 * behind a foreign header and backups of hash-named files are opened, nested to a bounded depth; nothing is written,
 * and nothing is held whole that can be read in place.
 */
import { armor, Decrypter } from 'age-encryption';
import { areAudioFrames, isCutText, MemorySource, indexOfBytes, SliceSource, type ByteSource, type ScratchMaker } from '../bytes';
import { filesWithin, hasMagic } from '../harvest';
import type { Note } from '../model';
import { clean, findBackups, pathAmong, type Backup } from './backup/backup';
import { statedCopies } from './backup/copies';
import { findPageKey, UnlockedPages, type PageKey } from './cipher/pages';
import { UnlockedJournal, UnlockedLog } from './cipher/sidefiles';
import { isSalted, unlockSalted } from './cipher/salted';
import { isKnownOther, kindOf, type GivenFile } from './gather';
import { mailKind, readMail } from './mail/mail';
import { isSavedPage, readSavedPage } from './mail/saved-page';
import { packingOf, unpack } from './packed/packed';
import { Room } from './room';
import { openSolid, solidKind, type SolidLoader } from './solid/solid';
import { isTar, readTar } from './tar/tar';
import { InflatedSource } from './zip/inflated';
import { crc32, unlockEntry } from './zip/locked';
import { passphraseForms } from './zip/passphrase';
import { isZip, packedOf, readZip, type ZipEntry } from './zip/zip';
import { baseOf } from '../paths';

export interface Unwrapped {
	/** Everything readable, what lies inside under its own path. */
	files: GivenFile[];
	/** Folders and links met in archives. */
	others: { path: string; kind: 'folder' | 'link'; modified: number | null; origin: string }[];
	backups: Backup[];
	/** When each file of a backup was taken, ms UTC, by path. */
	takenAt: Map<string, number>;
	/** Which device each backup is of, as it states, by the backup's folder. */
	devices: Map<string, string>;
	notes: Note[];
	/** Paths of containers that need a passphrase none was found for. */
	locked: string[];
}

const DEPTH = 6;
const MOST_FILES = 500_000;
const AGE_AT_MOST = 512 << 20;
/** An entry that would unpack to more than so many times its bytes, and to more than this, is not believed. */
const RATIO = 1200;
const SMALL = 32 << 20;
const HEAD = 600;
/** Methods of ZIP (APPNOTE 4.4.5) that are read in place; a library reads the others. */
const STORED = 0;
const DEFLATED = 8;
/** How far into a file a database's beginning is looked for. */
const FOREIGN_HEADER = 1 << 16;
/** The same for one that is packed, and how much of it is tried. */
const FOREIGN_PACKED = 256;
const PACKED_TRIED = 1 << 16;
/** No database is smaller, however well it is packed. */
const SMALLEST = 64;
const MAGIC = new TextEncoder().encode('SQLite format 3\0');
const AGE = new TextEncoder().encode('age-encryption.org/v1\n');
const AGE_ARMOR = new TextEncoder().encode('-----BEGIN AGE ENCRYPTED FILE-----');
const startsWith = (b: Uint8Array, what: Uint8Array): boolean => what.every((byte, i) => b[i] === byte);

/**
 * `solid`: loads the library for 7z, xz and bzip2; without it they are passed over. `scratch`: where large containers
 * are unpacked to; without it into memory. `heard`: see `Heard`.
 */
export async function unwrap(
	given: readonly GivenFile[],
	passphrases: readonly string[],
	solid: SolidLoader | null = null,
	scratch: ScratchMaker | null = null,
	heard: Heard | null = null
): Promise<Unwrapped> {
	const work = new Work(passphrases, solid, new Room(scratch), heard, given.length);
	for (const file of given) {
		await work.open(file, 0);
		work.taken++;
	}
	return work.done();
}

/**
 * Told before each file is opened: which it is, how many of those given are opened, and how many files were come upon, those
 * in containers too. It may wait, and ends the opening by throwing.
 */
export type Heard = (opening: { name: string; taken: number; given: number; files: number }) => Promise<void> | void;

class Work {
	/** How many of the files given are opened. */
	taken = 0;

	private readonly out: Unwrapped = { files: [], others: [], backups: [], takenAt: new Map(), devices: new Map(), notes: [], locked: [] };

	/** How databases that were unlocked page by page were locked: the files beside them are locked alike. */
	private readonly keys = new Map<ByteSource, PageKey>();

	constructor(
		private readonly passphrases: readonly string[],
		private readonly solidLoader: SolidLoader | null,
		private readonly room: Room,
		private readonly heard: Heard | null,
		private readonly given: number
	) {}

	done(): Unwrapped {
		const { out } = this;
		out.backups = findBackups(out.files);
		const taken = new Set(out.backups.flatMap((b) => [...b.taken]));
		const kept = out.files.filter((f) => !taken.has(f.path));
		for (const backup of out.backups) {
			for (const file of backup.files) if (backup.date !== null) out.takenAt.set(file.path, backup.date);
			if (backup.locked) out.locked.push(backup.folder);
			const device = backup.serial ?? backup.device;
			if (device !== null) out.devices.set(backup.folder, device);
			kept.push(...backup.files);
		}
		for (const { folder, date } of statedCopies(kept).toReversed())
			for (const file of kept) if (file.path.startsWith(`${folder}/`) && !out.takenAt.has(file.path)) out.takenAt.set(file.path, date);
		const renamed = new Map(out.backups.flatMap((b) => [...b.renamed]));
		for (const other of out.others) other.path = pathAmong(renamed, other.path) ?? other.path;
		out.files = this.sideFilesUnlocked(kept);
		return out;
	}

	private sideFilesUnlocked(files: readonly GivenFile[]): GivenFile[] {
		const keys = new Map(files.flatMap((f) => (this.keys.has(f.source) ? [[f.path, this.keys.get(f.source)!] as const] : [])));
		if (keys.size === 0) return [...files];
		return files.map((f) => {
			const log = keys.get(f.path.replace(/-wal$/, ''));
			if (log && f.path.endsWith('-wal')) return { ...f, source: new UnlockedLog(f.source, log) };
			const journal = keys.get(f.path.replace(/-journal$/, ''));
			return journal && f.path.endsWith('-journal') ? { ...f, source: new UnlockedJournal(f.source, journal) } : f;
		});
	}

	/** What was locked does not leave memory in clear. */
	private readonly memory = new Room();

	private roomFor(file: GivenFile): Room {
		return file.unlocked ? this.memory : this.room;
	}

	private note(code: Note['code'], name: string, more: Record<string, string | number> = {}): void {
		if (this.out.notes.length < 200) this.out.notes.push({ code, severity: 'warning', detail: { name, ...more } });
	}

	/**
	 * Takes a file in, and where it is a container what is in it too: messages and the lists of backups can name either.
	 * `isLayer`: it is what the container taken in last was packed in, and no file of its own.
	 */
	async open(file: GivenFile, depth: number, isLayer = false): Promise<void> {
		if (this.heard) await this.heard({ name: file.path, taken: this.taken, given: this.given, files: this.out.files.length });
		if (this.out.files.length >= MOST_FILES) {
			this.note('limit-reached', file.name, { what: `more than ${MOST_FILES} files` });
			return;
		}
		const head = file.source.read(0, HEAD);
		if (depth >= DEPTH || head.length < 8 || hasMagic(head)) {
			if (depth >= DEPTH && (isZip(head) || packingOf(head) || solidKind(head)))
				this.note('limit-reached', file.name, { what: `archives nested more than ${DEPTH} deep` });
			this.out.files.push(file);
			return;
		}
		const opener = this.openerOf(file, head);
		if (opener) {
			if (!isLayer) this.out.files.push({ ...file, opened: true });
			return opener(depth);
		}
		if (isSavedPage(file.source)) return this.savedPage(file, depth);
		const mail = mailKind(file.source);
		if (mail) return this.mail(file, mail, depth);
		this.out.files.push(await this.database(file, head));
		for (const one of filesWithin(file.source, head))
			await this.open(this.inside(file, one.name, new MemorySource(one.bytes), null, one.offset), depth + 1);
	}

	/** How what is in a container is taken in, or null where the file is none. */
	private openerOf(file: GivenFile, head: Uint8Array): ((depth: number) => Promise<void>) | null {
		if (isZip(head)) return (depth) => this.zip(file, depth);
		const packing = packingOf(head);
		if (packing) return (depth) => this.stream(file, packing, depth);
		const { solidLoader } = this;
		if (solidLoader && solidKind(head)) return (depth) => this.solid(file, solidLoader, depth);
		if (isTar(file.source)) return (depth) => this.tar(file, depth);
		if (isSalted(head)) return (depth) => this.salted(file, depth);
		if (startsWith(head, AGE) || startsWith(head, AGE_ARMOR)) return (depth) => this.age(file, depth);
		return null;
	}

	/** A page saved in one file, and its parts. */
	private async savedPage(file: GivenFile, depth: number): Promise<void> {
		const parts = await readSavedPage(file.source, file.name.replace(/\.[^.]+$/, '').replace(/^.*\//, ''));
		if (parts.length === 0) this.note('entry-damaged', file.name);
		this.out.files.push({ ...file, opened: parts.length > 0 });
		for (const { name, bytes } of parts) await this.open(this.inside(file, name, new MemorySource(bytes), null, 0), depth + 1);
	}

	/** A mail or a mailbox stays a file of its own; what was attached lies beside. */
	private async mail(file: GivenFile, kind: 'mail' | 'mailbox', depth: number): Promise<void> {
		const box = await readMail(file.source, kind);
		if (box.passedOver > 0) this.note('entry-damaged', `${file.name}: ${box.passedOver} mails`);
		this.out.files.push({ ...file, mails: box.mails });
		for (const attached of box.files)
			await this.open(this.inside(file, attached.name, new MemorySource(attached.bytes), null, attached.offset), depth + 1);
	}

	/** A database behind a foreign header, packed whole, or locked page by page, as a database; else the file as it is. */
	private async database(file: GivenFile, head: Uint8Array): Promise<GivenFile> {
		const { source } = file;
		// A log or a journal holds first pages of its own database: it is no foreign header.
		if (source.size < SMALLEST || /-(wal|journal|shm)$/i.test(file.name) || kindOf(file) !== 'unknown') return file;
		const start = indexOfBytes(source.read(0, FOREIGN_HEADER), MAGIC, 1);
		if (start > 0 && source.size - start >= 512)
			return { ...file, stored: source, source: new SliceSource(source, start, source.size - start) };
		const packed = isKnownOther(head) ? null : packedDatabase(source, this.roomFor(file));
		if (packed) return { ...file, stored: source, source: packed };
		if (source.size < 1024 || source.size % 512 !== 0 || isKnownOther(head) || !looksLocked(source)) return file;
		const key = await findPageKey(source, this.passphrases);
		if (key) {
			const unlocked = new UnlockedPages(source, key);
			this.keys.set(unlocked, key);
			return { ...file, stored: source, source: unlocked };
		}
		this.out.locked.push(file.path);
		this.note(this.passphrases.length > 0 ? 'wrong-passphrase' : 'locked', file.name);
		return file;
	}

	private inside(file: GivenFile, name: string, source: ByteSource, modified: number | null, at: number): GivenFile {
		const inner = clean(name);
		return {
			name: baseOf(inner) || inner,
			path: `${file.path}/${inner}`,
			source,
			modified,
			origin: `${file.path} @${at}`,
			...(file.unlocked ? { unlocked: true } : {})
		};
	}

	private async zip(file: GivenFile, depth: number): Promise<void> {
		const { entries, cut } = readZip(file.source);
		if (!cut && this.solidLoader && entries.some((e) => e.method !== STORED && e.method !== DEFLATED))
			return this.solid(file, this.solidLoader, depth);
		if (cut) this.note('archive-cut', file.name);
		let wrong = false;
		let packed = 0;
		for (const entry of entries) {
			const path = `${file.path}/${clean(entry.name)}`;
			if (entry.folder) {
				this.out.others.push({ path, kind: 'folder', modified: entry.modified, origin: `${file.path} @${entry.offset}` });
				continue;
			}
			packed += entry.packed;
			// Entries that lie over each other are packed bytes counted many times: the mark of a bomb.
			if (packed > file.source.size * 1.5 + 1024 || (entry.size > SMALL && entry.size > entry.packed * RATIO)) {
				this.note('limit-reached', `${file.name}/${entry.name}`, { what: 'it would unpack to more than is believable' });
				continue;
			}
			const source = this.entry(file, entry);
			if (source === 'locked') wrong = true;
			else if (source === null) this.note('entry-damaged', `${file.name}/${entry.name}`);
			else {
				const inner = this.inside(file, entry.name, source, entry.modified, entry.offset);
				await this.open(entry.locked === 'no' ? inner : { ...inner, unlocked: true }, depth + 1);
			}
		}
		if (wrong) {
			this.out.locked.push(file.path);
			this.note(this.passphrases.length > 0 ? 'wrong-passphrase' : 'locked', file.name);
		}
	}

	private entry(file: GivenFile, entry: ZipEntry): ByteSource | 'locked' | null {
		const packed = packedOf(file.source, entry);
		if (!packed || (entry.method !== STORED && entry.method !== DEFLATED)) return null;
		if (entry.locked === 'no') return entry.method === STORED ? packed : new InflatedSource(packed, entry.size, this.roomFor(file));
		if (entry.packed > AGE_AT_MOST) return null;
		const bytes = packed.read(0, entry.packed);
		for (const passphrase of this.passphrases.flatMap(passphraseForms)) {
			const plain = unlockEntry(bytes, entry, passphrase);
			if (!plain) continue;
			const source =
				entry.method === STORED ? new MemorySource(plain) : new InflatedSource(new MemorySource(plain), entry.size, this.memory);
			// The legacy cipher's check is one byte: the sum over the result decides.
			if (entry.locked === 'aes' || crc32(source.read(0, entry.size)) === entry.crc) return source;
		}
		return 'locked';
	}

	private async stream(file: GivenFile, packing: 'gzip' | 'zstd', depth: number): Promise<void> {
		const { source, whole } = unpack(file.source, packing, this.roomFor(file));
		if (!whole) this.note('archive-cut', file.name);
		if (source.size === 0 && !whole) return;
		const name =
			file.name.replace(/\.(gz|gzip|tgz|zst|zstd)$/i, (_, ending: string) => (ending.toLowerCase() === 'tgz' ? '.tar' : '')) || file.name;
		const inner = { ...file, name, path: `${file.path}/${baseOf(name)}`, source, origin: `${file.path} @0` };
		// A packed tape is one container, not two.
		await (isTar(inner.source) ? this.open({ ...inner, path: file.path }, depth + 1, true) : this.open(inner, depth + 1));
	}

	private async solid(file: GivenFile, load: SolidLoader, depth: number): Promise<void> {
		const kind = solidKind(file.source.read(0, HEAD));
		const single = kind === 'xz' || kind === 'bzip2';
		const result = await openSolid(file.source, load, this.passphrases);
		if (result.kind === 'locked') return this.stillLocked(file);
		if (result.kind === 'refused') return this.note('limit-reached', file.name, { what: result.why });
		if (!result.whole || result.entries.length === 0) this.note('archive-cut', file.name);
		for (const entry of result.entries) {
			// A single stream has no name of its own.
			const name = single
				? baseOf(file.name).replace(/\.(xz|bz2|txz|tbz2?)$/i, (_, e: string) => (e.toLowerCase().startsWith('t') ? '.tar' : '')) ||
					baseOf(file.name)
				: entry.path;
			// Whether it took a passphrase the library does not say.
			const unlocked = file.unlocked || (!single && this.passphrases.length > 0);
			const inner = this.inside({ ...file, unlocked }, name, new MemorySource(entry.bytes), entry.modified, 0);
			await (single && isTar(inner.source) ? this.open({ ...inner, path: file.path }, depth + 1, true) : this.open(inner, depth + 1));
		}
	}

	private async tar(file: GivenFile, depth: number): Promise<void> {
		const { entries, cut } = readTar(file.source);
		if (cut) this.note('archive-cut', file.name);
		for (const entry of entries) {
			if (entry.kind !== 'file')
				this.out.others.push({
					path: `${file.path}/${clean(entry.name)}`,
					kind: entry.kind,
					modified: entry.modified,
					origin: `${file.path} @${entry.offset}`
				});
			else
				await this.open(
					this.inside(file, entry.name, new SliceSource(file.source, entry.offset, entry.size), entry.modified, entry.offset),
					depth + 1
				);
		}
	}

	private async salted(file: GivenFile, depth: number): Promise<void> {
		const bytes = await unlockSalted(file.source, this.passphrases, known);
		if (bytes) return this.unlocked(file, bytes, depth);
		this.stillLocked(file);
	}

	private async age(file: GivenFile, depth: number): Promise<void> {
		if (file.source.size <= AGE_AT_MOST) {
			const raw = file.source.read(0, file.source.size);
			for (const passphrase of this.passphrases) {
				try {
					const bytes = startsWith(raw, AGE) ? raw : armor.decode(new TextDecoder().decode(raw));
					const decrypter = new Decrypter();
					const identity = /AGE-SECRET-KEY-1[0-9A-Z]+/.exec(passphrase);
					if (identity) decrypter.addIdentity(identity[0]);
					else decrypter.addPassphrase(passphrase);
					return await this.unlocked(file, await decrypter.decrypt(bytes), depth);
				} catch {
					// The next one.
				}
			}
		}
		this.stillLocked(file);
	}

	private async unlocked(file: GivenFile, bytes: Uint8Array, depth: number): Promise<void> {
		const name = file.name.replace(/\.(age|enc|aes|salted)$/i, '') || file.name;
		const source = new MemorySource(bytes);
		await this.open({ ...file, name, path: `${file.path}/${name}`, source, origin: `${file.path} @0`, unlocked: true }, depth + 1);
	}

	private stillLocked(file: GivenFile): void {
		this.out.locked.push(file.path);
		this.note(this.passphrases.length > 0 ? 'wrong-passphrase' : 'locked', file.name);
	}
}

/** Whether bytes begin like what is kept in a locked container; `head` is their first few thousand. */
function known(head: Uint8Array): boolean {
	return (
		hasMagic(head) ||
		isZip(head) ||
		packingOf(head) !== null ||
		solidKind(head) !== null ||
		// Many keys are tried: two bytes alone are met by chance.
		(isKnownOther(head) && (head[0] !== 0xff || head[1] !== 0xfb || areAudioFrames(head))) ||
		isPlain(head) ||
		isTar(new MemorySource(head)) ||
		indexOfBytes(head, MAGIC, 0) >= 0 ||
		packedDatabase(new MemorySource(head), new Room()) !== null
	);
}

/** A database packed whole, at the file's beginning or behind a short foreign header. */
function packedDatabase(source: ByteSource, room: Room): ByteSource | null {
	const head = source.read(0, FOREIGN_PACKED + 8);
	for (let at = 0; at < Math.min(FOREIGN_PACKED, head.length - 8); at++) {
		const begins = head.subarray(at);
		const packing = isZlib(begins) ? 'zlib' : packingOf(begins);
		// Nothing comes out of a block that is cut: of a small one all is needed.
		const from = packing && new MemorySource(source.read(at, PACKED_TRIED));
		if (!from || !hasMagic(unpack(from, packing, room).source.read(0, HEAD))) continue;
		return unpack(new SliceSource(source, at, source.size - at), packing, room).source;
	}
	return null;
}

/** The two bytes that open a zlib stream (RFC 1950, section 2.2). */
const isZlib = (head: Uint8Array): boolean => (head[0]! & 0x0f) === 8 && head[0]! <= 0x78 && (head[0]! * 256 + head[1]!) % 31 === 0;

/** So much of a beginning must be text throughout: bytes that mean nothing look like some for a few letters now and then. */
const TEXT_TRIED = 512;
const TEXT_SHORTEST = 16;

function isPlain(head: Uint8Array): boolean {
	const text = head.subarray(0, TEXT_TRIED);
	if (text.length >= TEXT_SHORTEST && isCutText(text, 0, text.length, 'utf8')) return true;
	const share = (test: (b: number, i: number) => boolean): number => text.filter(test).length / text.length;
	// UTF-16 in a script that needs one byte of the two, after its mark; else an older code of one byte a letter.
	if ((head[0] === 0xff && head[1] === 0xfe) || (head[0] === 0xfe && head[1] === 0xff)) return share((b) => b === 0) > 0.3;
	const isControl = (b: number): boolean => b < 0x20 && b !== 9 && b !== 10 && b !== 13;
	return text.length >= TEXT_SHORTEST * 4 && !text.some(isControl) && share((b) => b < 0x80) > 0.8;
}

/** Bytes without structure: nearly every value as common as the others, at the beginning and further on. */
function looksLocked(source: ByteSource): boolean {
	for (const at of [0, Math.floor(source.size / 2)]) {
		const bytes = source.read(at, 4096);
		if (bytes.length < 512) return false;
		const counts = new Uint32Array(256);
		for (const b of bytes) counts[b]!++;
		let entropy = 0;
		for (const n of counts) if (n > 0) entropy -= (n / bytes.length) * Math.log2(n / bytes.length);
		if (entropy < (bytes.length >= 4096 ? 7.7 : bytes.length >= 1024 ? 7.2 : 6.8)) return false;
	}
	return true;
}

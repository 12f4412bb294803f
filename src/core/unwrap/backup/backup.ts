/**
 * Backups of a device on a computer: a folder of files named by hashes, with a list that gives their real names. Known
 * by that structure alone: a list (rows of a database, entries of fields, lines) beside or above the files, whose entries name
 * them by those hashes, with a path in the same entry. What lies beside it states the device, the date, and whether it is locked.
 */
import type { StoreHarvest } from '../../harvest';
import { baseOf, folderOf } from '../../paths';
import type { GivenFile } from '../gather';
import { listingsIn } from './listing';
import { hasDatedRows, holdsMessages } from './messages-within';
import { namesOf, statesWhere, type Named } from './naming';
import { statedBy, type Stated } from './stated';
import { hashNamed, hashOf, namedAlong, namedWhole } from './stored-names';

export interface Backup extends Stated {
	/** Folder it was found in, as given; '' for the top. */
	folder: string;
	/** Its files under their real names. */
	files: GivenFile[];
	/** Paths, as given, of what is among `files` under a path of its own. */
	taken: Set<string>;
	/** Real paths by those given. */
	renamed: Map<string, string>;
	/** What it lists and does not hold, by the hash it is named by. */
	absent: Named[];
}

/** Every backup among the files. */
export function findBackups(files: readonly GivenFile[]): Backup[] {
	const backups: Backup[] = [];
	const within = filesWithinOthers(files);
	const isWithin = new Set([...within.values()].flat());
	const folders = filesByFolder(files);
	// Names that are hashes of their own first; what those explain is not asked for the digits of its folders.
	for (const namedBy of [namedWhole, namedAlong]) {
		const left = files.filter((f) => !isWithin.has(f) && !backups.some((backup) => backup.taken.has(f.path)));
		for (const [root, hashed] of namedBy(left)) {
			const backup = readBackup(root, { hashed, folders, within });
			if (backup) backups.push(backup);
		}
	}
	backups.sort((a, b) => (a.date ?? 0) - (b.date ?? 0));
	backups.forEach((backup, i) => complete(backup, backups.slice(0, i)));
	return backups;
}

/** What lies in hash-named files that are containers, by the paths of those. */
function filesWithinOthers(files: readonly GivenFile[]): Map<string, GivenFile[]> {
	const within = new Map(files.filter((f) => f.opened && hashOf(baseOf(f.path)) !== null).map((f) => [f.path, [] as GivenFile[]]));
	if (within.size > 0)
		for (const file of files)
			for (let folder = folderOf(file.path); folder !== ''; folder = folderOf(folder)) within.get(folder)?.push(file);
	return within;
}

function filesByFolder(files: readonly GivenFile[]): Map<string, GivenFile[]> {
	const folders = new Map<string, GivenFile[]>();
	const packed = new Set(files.filter((f) => f.opened && PACKED_NAME.test(f.path)).map((f) => f.path));
	for (const file of files) {
		if (file.opened || hashOf(baseOf(file.path)) !== null) continue;
		const own = folderOf(file.path);
		const folder = packed.has(own) ? folderOf(own) : own;
		const list = folders.get(folder);
		if (list) list.push(file);
		else folders.set(folder, [file]);
	}
	return folders;
}

/**
 * Files that did not change since the backup before, of the same device, are those of that one: where this one states that
 * it is partial, or lists them as large as that one holds them.
 */
function complete(backup: Backup, before: readonly Backup[]): void {
	if (backup.date === null || backup.absent.length === 0) return;
	const held = new Map<string, GivenFile>();
	// The newest one's come last, and stand.
	for (const b of before)
		if (b.device === backup.device && b.serial === backup.serial && b.date !== null)
			for (const file of b.files)
				held.set(`${hashOfOrigin(file)} ${b.folder === '' ? file.path : file.path.slice(b.folder.length + 1)}`, file);
	for (const { hash, path, size } of backup.absent) {
		const own = pathIn(backup.folder, path);
		const file = held.get(`${hash} ${clean(path)}`);
		if (file && (backup.partial || file.source.size === size)) backup.files.push({ ...file, name: baseOf(own), path: own });
	}
}

const hashOfOrigin = ({ origin }: GivenFile): string | null => hashNamed((origin ?? '').replace(/ @\d+$/, ''));

const pathIn = (folder: string, path: string): string => `${folder ? `${folder}/` : ''}${clean(path)}`;

interface Found {
	/** Files by the hashes that they are named by. */
	hashed: ReadonlyMap<string, GivenFile>;
	/** All other files by their folders. */
	folders: ReadonlyMap<string, readonly GivenFile[]>;
	/** What lies in files named by hashes. */
	within: ReadonlyMap<string, readonly GivenFile[]>;
}

/** The list lies beside the files, or beside the folder that they have for themselves. */
const readBackup = (root: string, found: Found): Backup | null =>
	readBackupIn(root, found) ?? (root === '' ? null : readBackupIn(folderOf(root), found));

function readBackupIn(folder: string, { hashed, folders, within }: Found): Backup | null {
	const beside = folders.get(folder) ?? [];
	for (const list of beside) {
		const given = namesIn(list, hashed);
		if (!given) continue;
		const renaming = new Renaming(folder, within);
		for (const named of given.names) renaming.take(named, hashed.get(named.hash));
		const { files, renamed, absent } = renaming;
		// The list is a file like others; what it lists comes as files of their own. With dated rows besides, it is looked at too.
		files.unshift(given.hasMore ? list : { ...list, opened: true });
		const taken = new Set([list.path, ...renamed.keys()]);
		return { folder, files, taken, renamed, absent, ...statedBy(beside, given.harvest) };
	}
	return null;
}

/** Gives the files of one backup their real names. */
class Renaming {
	readonly files: GivenFile[] = [];
	/** Real paths by those given. */
	readonly renamed = new Map<string, string>();
	readonly absent: Named[] = [];
	private readonly used = new Set<string>();

	constructor(
		private readonly folder: string,
		private readonly within: ReadonlyMap<string, readonly GivenFile[]>
	) {}

	take(named: Named, file: GivenFile | undefined): void {
		if (!file) {
			this.absent.push(named);
			return;
		}
		if (this.renamed.has(file.path)) return;
		const own = pathIn(this.folder, named.path);
		const unique = this.used.has(own) ? `${own} (${named.hash.slice(0, 8)})` : own;
		this.used.add(unique);
		this.renamed.set(file.path, unique);
		const inner = this.within.get(file.path) ?? [];
		const packed = inner.find((f) => isPackedAlone(f, file));
		// Each file was packed by whoever made the backup: what was packed is what the list names.
		const shown = packed && !PACKED_NAME.test(unique) ? packed : file;
		if (shown === packed) this.renamed.set(packed.path, unique);
		const { modified = null } = named;
		this.files.push({
			...shown,
			name: baseOf(unique),
			path: unique,
			origin: file.origin ?? file.path,
			...(modified === null ? {} : { modified })
		});
		for (const f of inner) if (f !== shown) this.takeInner(f);
	}

	private takeInner(file: GivenFile): void {
		const path = pathAmong(this.renamed, file.path)!;
		this.renamed.set(file.path, path);
		this.files.push({ ...file, path, origin: file.origin ?? file.path });
	}
}

const PACKED_NAME = /\.(gz|gzip|tgz|zst|zstd|xz|txz|bz2|tbz2?)$/i;

/** Whether a file is all that a packed one holds, under no name of its own. */
const isPackedAlone = (inner: GivenFile, packed: GivenFile): boolean =>
	inner.path === `${packed.path}/${baseOf(packed.path).replace(PACKED_NAME, '')}` &&
	!packed.source.read(0, 2).every((byte, i) => byte === ZIP[i]);
const ZIP = [0x50, 0x4b];

/** The path of what lies in a file that was renamed, or null where it lies in none. */
export function pathAmong(renamed: ReadonlyMap<string, string>, path: string): string | null {
	for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1)) {
		const own = renamed.get(path.slice(0, at));
		if (own !== undefined) return own + path.slice(at);
	}
	return null;
}

/** A path from a list as one that names a place inside the backup and no other. */
export const clean = (path: string): string =>
	path
		.replaceAll('\\', '/')
		.split('/')
		.filter((part) => part !== '' && part !== '.' && part !== '..')
		.join('/')
		.replace(/[\u0000-\u001f]/g, '_');

/** The names that a list gives; where it is a database, its tables, and whether it has more than a list. */
interface NamesGiven {
	names: Named[];
	harvest: StoreHarvest | null;
	hasMore: boolean;
}

function namesIn(list: GivenFile, hashed: Found['hashed']): NamesGiven | null {
	const lengths = new Set([...hashed.keys()].map((hash) => hash.length));
	// A partial backup lists what it does not hold.
	const isHash = (text: string): boolean => lengths.has(hashNamed(text)?.length ?? 0);
	for (const listing of listingsIn(list.source, isHash)) {
		const names = namesOf(listing, hashed);
		if (!names) continue;
		if (!listing.table) {
			if (listing.sentences > Math.max(SAID_AT_MOST, names.length * SAID_OF_EACH)) return null;
			return { names, harvest: null, hasMore: false };
		}
		// A program's own database can list its attachments so: their folder is no backup.
		const { harvest, index } = listing.table;
		const others = harvest.tables.filter((other) => other.index !== index).map((other) => harvest.book.rowsOf(other.index));
		if (holdsMessages(others) || statesWhere(listing, hashed)) return null;
		return { names, harvest, hasMore: hasDatedRows(others) };
	}
	return null;
}
/** A list can say in words what it is of. */
const SAID_AT_MOST = 3;
const SAID_OF_EACH = 0.1;

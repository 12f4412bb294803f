/**
 * Names that are hashes: digits to the base of 16, 32 to 128 of them, perhaps with an ending, or grouped by hyphens as a
 * UUID is (RFC 9562). The first digits can be folders, beside the whole hash or in place of them.
 */
import { baseOf, folderOf } from '../../paths';

const HASH_NAME = /^([0-9a-f]{32,128})(?:\.\w{1,8})?$/i;
const UUID_NAME = /^([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})(?:\.\w{1,8})?$/i;
/** Folders that parts of a hash name, at most one within the other. */
const FOLDERS_AT_MOST = 4;
const FOLDER = /^[0-9a-f]{1,4}$/i;
/** What of a hash is left where folders have its first digits. */
const REST = /^([0-9a-f-]{16,127})(?:\.\w{1,8})?$/i;
/** Digits of the digests in use (MD5 to SHA-512), and of halves. */
const LENGTHS = new Set([32, 40, 48, 56, 64, 96, 128]);

/** The hash that a file is named by, with or without an ending; null where it is named otherwise. */
export function hashOf(name: string): string | null {
	const found = HASH_NAME.exec(name) ?? UUID_NAME.exec(name);
	return found ? found[1]!.toLowerCase().replaceAll('-', '') : null;
}

/** The hash of which the folders of a path have the first digits and its name the rest, and the folder above those; null where there is none. */
export function hashAlong(path: string): { hash: string; folder: string } | null {
	const rest = REST.exec(baseOf(path))?.[1]!.toLowerCase().replaceAll('-', '');
	if (rest === undefined) return null;
	let digits = '';
	let folder = folderOf(path);
	for (let n = 0; n < FOLDERS_AT_MOST && FOLDER.test(baseOf(folder)); n++) {
		digits = baseOf(folder).toLowerCase() + digits;
		// Those that a whole hash has as well are no part that it lacks.
		if (LENGTHS.has(rest.length) && rest.startsWith(digits)) return null;
		const hash = digits + rest;
		folder = folderOf(folder);
		if (LENGTHS.has(hash.length)) return { hash, folder };
	}
	return null;
}

/** The folder of a file named by a hash, without those that its first digits name. */
function rootOf(path: string, hash: string): string {
	let folder = folderOf(path);
	const parts: string[] = [];
	for (let up = folder; up !== '' && parts.length < FOLDERS_AT_MOST; up = folderOf(up)) {
		if (!FOLDER.test(baseOf(up))) break;
		parts.unshift(baseOf(up).toLowerCase());
		if (hash.startsWith(parts.join(''))) folder = folderOf(up);
	}
	return folder;
}

/** Files by the folder that all of one backup's can lie below, each by its hash. */
export type Stored<T> = Map<string, Map<string, T>>;

/** Files whose own names are hashes. */
export function namedWhole<T extends { path: string }>(files: readonly T[]): Stored<T> {
	const named = files.flatMap((file) => {
		const hash = hashOf(baseOf(file.path));
		return hash === null ? [] : [{ file, hash, root: rootOf(file.path, hash) }];
	});
	// A folder that is called like a digit or two holds files of that beginning and no others.
	const roots = new Map<string, string>();
	for (const { file, root } of named) {
		const folder = folderOf(file.path);
		const known = roots.get(folder);
		roots.set(folder, known === undefined || known === root ? root : folder);
	}
	const stored: Stored<T> = new Map();
	for (const { file, hash } of named) put(stored, roots.get(folderOf(file.path))!, hash, file);
	return stored;
}

/** Files whose names are hashes together with those of their folders. */
export function namedAlong<T extends { path: string }>(files: readonly T[]): Stored<T> {
	const stored: Stored<T> = new Map();
	for (const file of files) {
		const along = hashAlong(file.path);
		if (along) put(stored, along.folder, along.hash, file);
	}
	return stored;
}

function put<T>(stored: Stored<T>, root: string, hash: string, file: T): void {
	const of = stored.get(root);
	if (of) of.set(hash, file);
	else stored.set(root, new Map([[hash, file]]));
}

/** The hash that a list's value has, as a name or as where the file lies. */
export function hashNamed(value: string): string | null {
	if (value.length > LONGEST) return null;
	const path = value.replaceAll('\\', '/');
	return hashAlong(path)?.hash ?? hashOf(baseOf(path));
}
const LONGEST = 512;

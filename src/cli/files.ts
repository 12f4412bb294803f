/** Files and folders of the command line as the core reads them: opened read-only, never loaded whole. */
import { closeSync, fstatSync, openSync, readdirSync, readSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { ByteSource } from '../core/bytes';
import type { GivenFile } from '../core/unwrap';

export class UnreadablePath extends Error {
	override readonly name = 'UnreadablePath';
}

/** Descriptors held open at one time: hosts allow few, and a folder can have tens of thousands of files. */
const HELD_OPEN = 128;
const held = new Map<NodeFileSource, number>();

/** A file opened when it is read. One that vanished or cannot be read any more has no bytes from then on. */
class NodeFileSource implements ByteSource {
	readonly size: number;
	/** When it was last changed, ms UTC. */
	readonly modified: number;

	constructor(private readonly path: string) {
		const fd = openSync(path, 'r');
		const { size, mtimeMs } = fstatSync(fd);
		this.size = size;
		this.modified = Math.floor(mtimeMs);
		closeSync(fd);
	}

	private descriptor(): number {
		let fd = held.get(this);
		if (fd === undefined) {
			fd = openSync(this.path, 'r');
			const [oldest] = held;
			if (held.size >= HELD_OPEN && oldest) {
				closeSync(oldest[1]);
				held.delete(oldest[0]);
			}
		} else held.delete(this);
		held.set(this, fd);
		return fd;
	}

	read(offset: number, length: number): Uint8Array {
		const wanted = Math.max(0, Math.min(length, this.size - offset));
		const out = new Uint8Array(wanted);
		let have = 0;
		try {
			while (have < wanted) {
				const n = readSync(this.descriptor(), out, have, wanted - have, offset + have);
				if (n === 0) break;
				have += n;
			}
		} catch {
			vanished.add(this.path);
		}
		return have === wanted ? out : out.subarray(0, have);
	}
}

/** Paths that could be read at first and no longer. */
export const vanished = new Set<string>();

const FILES_AT_MOST = 500_000;

/** All regular files below the paths (those in folders that cannot be opened are named in `unreadable`), side files beside a database that was named included. */
export function openPaths(paths: readonly string[], unreadable: string[] = []): GivenFile[] {
	const found = new Set<string>();
	for (const path of paths) {
		let info;
		try {
			info = statSync(path);
		} catch (error) {
			throw new UnreadablePath(
				`${path}: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file or folder. Check the path' : 'it cannot be read. Check its permissions'}.`
			);
		}
		if (info.isDirectory()) walk(path, found, 0, unreadable);
		else {
			found.add(path);
			for (const ending of ['-wal', '-journal', '-shm']) {
				try {
					if (statSync(path + ending).isFile()) found.add(path + ending);
				} catch {
					// No side file of that kind.
				}
			}
		}
	}
	const all = [...found].flatMap((path) => {
		try {
			const source = new NodeFileSource(path);
			return [{ name: basename(path), path, source, modified: source.modified }];
		} catch {
			if (paths.includes(path)) throw new UnreadablePath(`${path}: it cannot be opened. Check its permissions.`);
			unreadable.push(path);
			return [];
		}
	});
	return uniqueNames(all);
}

function walk(folder: string, into: Set<string>, depth: number, unreadable: string[]): void {
	if (depth > 64 || into.size > FILES_AT_MOST) {
		unreadable.push(folder);
		return;
	}
	let entries;
	try {
		entries = readdirSync(folder, { withFileTypes: true });
	} catch {
		if (depth === 0) throw new UnreadablePath(`${folder}: the folder cannot be listed. Check its permissions.`);
		unreadable.push(folder);
		return;
	}
	for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
		const path = join(folder, entry.name);
		if (entry.isDirectory()) walk(path, into, depth + 1, unreadable);
		else if (entry.isFile()) into.add(path);
	}
}

/** Two files of one name are told apart by their paths. */
function uniqueNames<T extends { name: string; path: string }>(files: T[]): T[] {
	const counts = new Map<string, number>();
	for (const f of files) counts.set(f.name, (counts.get(f.name) ?? 0) + 1);
	return files.map((f) => (counts.get(f.name)! > 1 ? { ...f, name: f.path } : f));
}

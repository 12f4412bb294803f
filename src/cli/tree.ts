/** Lines of the `tree` command: every file inside, under the path a user would name it by. */
import { createSHA256 } from 'hash-wasm';
import type { ByteSource } from '../core/bytes';
import type { Unwrapped } from '../core/unwrap';

const BLOCK = 4 << 20;

async function sha256(source: ByteSource): Promise<string> {
	const hash = await createSHA256();
	for (let at = 0; at < source.size; at += BLOCK) {
		const bytes = source.read(at, BLOCK);
		if (bytes.length === 0) break;
		hash.update(bytes);
	}
	return hash.digest('hex');
}

/** `given`: the paths asked for, which are not inside of anything. */
export async function treeLines(unwrapped: Unwrapped, given: readonly string[], find: string | null, fast: boolean): Promise<object[]> {
	const lines: { path: string; line: object }[] = [];
	const wanted = (path: string): boolean => find === null || path.toLocaleLowerCase().includes(find.toLocaleLowerCase());
	const iso = (ms: number | null | undefined): string | null => (ms === null || ms === undefined ? null : new Date(ms).toISOString());
	for (const other of unwrapped.others) {
		if (!wanted(other.path)) continue;
		const { path, kind, modified, origin } = other;
		lines.push({ path, line: { path, size: 0, modified: iso(modified), kind, deleted: false, origin, sha256: null } });
	}
	for (const file of unwrapped.files) {
		if (!wanted(file.path) || (file.opened && given.includes(file.path))) continue;
		const stored = file.stored ?? file.source;
		lines.push({
			path: file.path,
			line: {
				path: file.path,
				size: stored.size,
				modified: iso(file.modified),
				kind: 'file',
				deleted: false,
				origin: file.origin ?? file.path,
				...(fast ? {} : { sha256: await sha256(stored) })
			}
		});
	}
	return lines.sort((a, b) => (a.path < b.path ? -1 : 1)).map((l) => l.line);
}

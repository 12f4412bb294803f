/** The library for 7z, xz and bzip2 as unwrap uses it. Its files live in its own memory; nothing is written elsewhere. */
import SevenZip from '7z-wasm';
import type { ByteSource } from '../core/bytes';
import type { SolidUnpacker } from '../core/unwrap';

const BLOCK = 4 << 20;

/** `wasm`: where the library's binary is, for hosts that do not find it themselves. */
export async function loadSolid(wasm?: string): Promise<SolidUnpacker> {
	let lines: string[] = [];
	const take = (line: string): void => void (lines.length < 2_000_000 && lines.push(line));
	const program = await SevenZip({ print: take, printErr: take, ...(wasm ? { locateFile: () => wasm } : {}) });
	const { FS } = program;
	const list = (folder: string, prefix: string, into: { path: string; bytes: Uint8Array }[]): typeof into => {
		for (const name of FS.readdir(folder)) {
			if (name === '.' || name === '..') continue;
			const path = `${folder}/${name}`;
			const { mode } = FS.lstat(path);
			if (FS.isDir(mode)) list(path, `${prefix}${name}/`, into);
			else if (FS.isFile(mode)) into.push({ path: prefix + name, bytes: FS.readFile(path, { encoding: 'binary' }) as Uint8Array });
		}
		return into;
	};
	return {
		run(args) {
			lines = [];
			try {
				program.callMain(args);
			} catch {
				// It ends by throwing its exit code; what went wrong is in its lines.
			}
			return lines;
		},
		write(name, source: ByteSource) {
			const stream = FS.open(name, 'w+');
			for (let at = 0; at < source.size; at += BLOCK) {
				const bytes = source.read(at, BLOCK);
				FS.write(stream, bytes, 0, bytes.length, at);
			}
			FS.close(stream);
		},
		list(folder) {
			try {
				return list(folder, '', []);
			} catch {
				return [];
			}
		}
	};
}

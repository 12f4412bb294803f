/**
 * Files that can no longer be read: moved, changed or unplugged since they were given. Such a file has no bytes from then
 * on, and is remembered; whoever looks asks before it keeps what it found. A store whose file is gone ends the look, so that
 * what was kept of it before is not replaced by less; of other files it is said, and the rest is read.
 */
import type { ByteSource } from '../core/bytes';
import type { Note } from '../core/model';

export class FileGone extends Error {
	constructor(readonly path: string) {
		super(`${path} can no longer be read: it was moved, changed or unplugged.`);
	}
}

export class GoneFiles {
	private readonly gone = new Set<string>();
	private said = 0;

	/** `source`, read as long as it is there. */
	watch(source: ByteSource, path: string): ByteSource {
		return {
			size: source.size,
			read: (offset, length) => {
				if (this.gone.has(path)) return new Uint8Array(0);
				try {
					return source.read(offset, length);
				} catch {
					this.gone.add(path);
					return new Uint8Array(0);
				}
			}
		};
	}

	/** Whether this is such a file, or lies in one. */
	has(path: string): boolean {
		return [...this.gone].some((gone) => path === gone || path.startsWith(`${gone}/`));
	}

	/** Those since it was last asked. Throws FileGone where one of `needed` is, or lies in, a file that is. */
	notes(needed: readonly string[]): Note[] {
		const since = [...this.gone].slice(this.said);
		this.said = this.gone.size;
		const lost = since.find((path) => needed.some((n) => n === path || n.startsWith(`${path}/`)));
		if (lost !== undefined) throw new FileGone(lost);
		return since.map((name) => ({ code: 'file-gone', severity: 'warning', detail: { name } }));
	}
}

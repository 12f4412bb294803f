/** States of a database: which bytes, in which file, are page n of it. */
import type { ByteSource } from '../../bytes';

export interface PageAt {
	/** Index into the store's files. */
	file: number;
	offset: number;
	/** Frame of the log or record of the journal; 0 for the database file itself. */
	frame: number;
}

export interface PageView {
	readonly pageCount: number;
	locate(page: number): PageAt | null;
	/** The page's bytes; null where the file does not reach so far. */
	read(page: number): Uint8Array | null;
}

/** The database file with some pages replaced by others, from the log or the journal. */
export class LaidView implements PageView {
	constructor(
		private readonly sources: ByteSource[],
		private readonly base: number,
		private readonly pageSize: number,
		readonly pageCount: number,
		private readonly over: ReadonlyMap<number, PageAt>
	) {}

	locate(page: number): PageAt | null {
		if (page < 1 || page > this.pageCount) return null;
		return this.over.get(page) ?? { file: this.base, offset: (page - 1) * this.pageSize, frame: 0 };
	}

	read(page: number): Uint8Array | null {
		const at = this.locate(page);
		if (!at) return null;
		const bytes = this.sources[at.file]!.read(at.offset, this.pageSize);
		// A page cut by the end of the file is no page: its stretch is looked through as raw bytes.
		return bytes.length === this.pageSize ? bytes : null;
	}
}

/** Builds a view only when a cell overflows: most do not. */
export class LazyView implements PageView {
	private view: PageView | null = null;
	constructor(private readonly make: () => PageView) {}
	private get made(): PageView {
		return (this.view ??= this.make());
	}
	get pageCount(): number {
		return this.made.pageCount;
	}
	locate(page: number): PageAt | null {
		return this.made.locate(page);
	}
	read(page: number): Uint8Array | null {
		return this.made.read(page);
	}
}

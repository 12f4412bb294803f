/**
 * Whose an overflow page was, as it stands in a log, a journal or the file behind them: that of the cell in use in some
 * state which led to it. A freed cell can lead to a page that was another's since, and that one's words are none of its own.
 */
import { readU32Be } from '../../../bytes';
import type { Database } from '../database';
import { PageUse } from '../database';
import { cellPointer, INTERIOR_INDEX, INTERIOR_TABLE, LEAF_TABLE, localPayload, readPageHeader } from '../page';
import { readVarint, varintLength } from '../varint';
import type { PageAt, PageView } from '../view';

/** Bytes at the end of what lies on a cell's own page, by which it is known again: its beginning is overwritten when it is freed. */
const TELLING = 24;
/** Pages remembered, at most. */
const MOST = 2_000_000;

/** What a cell is known by: how long its payload is, and how its part on its own page ends. */
export function markOf(local: Uint8Array, size: number): number {
	let mark = size;
	for (let i = Math.max(0, local.length - TELLING); i < local.length; i++) mark = (Math.imul(mark, 31) + local[i]!) | 0;
	return mark;
}

export class ChainClaims {
	/** By file, then by offset of the page there. */
	private readonly known: Map<number, number>[] = [];
	private size = 0;

	constructor(private readonly db: Database) {}

	/** Takes in the cells in use of a page as some state had it. */
	take(bytes: Uint8Array, page: number, view: PageView): void {
		const { usable } = this.db;
		const header = readPageHeader(bytes, page, usable);
		if (!header || header.type === INTERIOR_TABLE || bytes.length < usable) return;
		for (let i = 0; i < header.cellCount; i++) {
			const start = cellPointer(bytes, header, i, usable);
			if (start < 0) continue;
			let cursor = start + (header.type === INTERIOR_INDEX ? 4 : 0);
			const payload = readVarint(bytes, cursor, usable);
			if (!(payload >= 0)) continue;
			cursor += varintLength;
			if (header.type === LEAF_TABLE) {
				readVarint(bytes, cursor, usable);
				cursor += varintLength;
			}
			const local = localPayload(payload, usable, header.type === LEAF_TABLE);
			if (local === payload || cursor + local + 4 > usable) continue;
			this.follow(bytes.subarray(cursor, cursor + local), payload, readU32Be(bytes, cursor + local), view);
		}
	}

	private follow(local: Uint8Array, payload: number, first: number, view: PageView): void {
		const mark = markOf(local, payload);
		const at = view.locate(first);
		// Where the first page is known as its own, the others are.
		if (!at || this.of(at) === mark) return;
		const chain = this.db.readOverflow(view, local, payload, first, () => true);
		if (!chain.complete) return;
		for (const page of chain.pages) {
			const place = view.locate(page);
			if (place && this.size < MOST) this.claim(place, mark);
		}
	}

	private claim({ file, offset }: PageAt, mark: number): void {
		const pages = (this.known[file] ??= new Map<number, number>());
		if (pages.has(offset)) return;
		pages.set(offset, mark);
		this.size++;
	}

	private of({ file, offset }: PageAt): number | undefined {
		return this.known[file]?.get(offset);
	}

	/** Whether a page, as a state has it, was another cell's than the one marked so. */
	isAnothers(page: number, view: PageView, mark: number): boolean {
		const { db } = this;
		const at = view.locate(page);
		if (!at) return false;
		const known = this.of(at);
		if (known !== undefined) return known !== mark;
		const now = view === db.current || db.use[page] !== PageUse.Overflow ? null : db.current.locate(page);
		return now !== null && now.file === at.file && now.offset === at.offset;
	}
}

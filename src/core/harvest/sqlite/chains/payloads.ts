/** Payloads put together from a cell and pages of a chain, whole or with a hole. */
import { isCutText, type Encoding } from '../../../bytes';
import type { Value } from '../../../model';
import type { GoesOn } from '../carve/found';
import { cutTextAt } from '../carve/settle';
import { types, weigh, weighedBadAt, weighedComplete } from '../carve/weigh';
import { readValue, sizeOfSerialType } from '../record';
import { BLOB, classOfSerialType, TEXT } from '../shape';
import type { PageView } from '../view';
import type { WithHole } from './overflowing';

/** What of a database chains are read by. */
export interface ChainDatabase {
	readonly current: PageView;
	readonly usable: number;
	readonly encoding: Encoding;
}

/** What of a payload is left before and behind a hole, as if the hole were blank. */
export interface Mended {
	payload: Uint8Array;
	holeFrom: number;
	holeTo: number;
	/** Pages the end was read from. */
	pages: number[];
	/** Whether the cell's own chain leads to them: to a trunk, and by that to the pages freed right after it. */
	isNext: boolean;
}

/** Letters behind a text from which it goes on. */
const GOES_ON = 4;

export class Payloads {
	constructor(private readonly db: ChainDatabase) {}

	of({ local, size, pages }: GoesOn): Uint8Array {
		const payload = new Uint8Array(size);
		payload.set(local);
		this.fill(payload, local.length, pages);
		return payload;
	}

	/** Writes what pages hold into a payload, from `at` on. */
	fill(payload: Uint8Array, at: number, pages: readonly number[]): void {
		let to = at;
		for (const page of pages) {
			const bytes = this.db.current.read(page)!;
			payload.set(bytes.subarray(4, 4 + Math.min(payload.length - to, this.db.usable - 4)), to);
			to += this.db.usable - 4;
		}
	}

	/** What the cell and the first of its pages hold, and nothing of what is behind. */
	beginning(one: GoesOn, pages: number): WithHole {
		const payload = this.of({ ...one, pages: one.pages.slice(0, pages) });
		const holeFrom = Math.min(one.size, one.local.length + pages * (this.db.usable - 4));
		return this.withHole(one, { payload, holeFrom, holeTo: one.size, pages: [], isNext: false });
	}

	/** What all of a payload weighs beyond what its beginning does; NaN where its values are not what they should be. */
	gain(one: GoesOn, payload: Uint8Array): number {
		types.set(one.types);
		const count = one.types.length;
		const whole = weigh(payload, one.body, payload.length, count, one.shape, this.db.encoding);
		if (Number.isNaN(whole) || weighedBadAt >= 0 || !weighedComplete) return NaN;
		return whole - weigh(one.local, one.body, one.local.length, count, one.shape, this.db.encoding);
	}

	/** Whether the payload ends where the last page's text does: no letters follow. */
	endsThere({ local, size }: GoesOn, last: number): boolean {
		const each = this.db.usable - 4;
		const end = 4 + ((size - local.length - 1) % each) + 1;
		const bytes = this.db.current.read(last)!;
		if (end >= this.db.usable) return true;
		return bytes[end] === 0 || !isCutText(bytes, end, Math.min(end + GOES_ON, this.db.usable), this.db.encoding);
	}

	/** Whether nothing was ever written behind the payload's last byte. */
	endsExactly(one: GoesOn, last: number): boolean {
		const end = 4 + ((one.size - one.local.length - 1) % (this.db.usable - 4)) + 1;
		const bytes = this.db.current.read(last)!;
		return end < this.db.usable && bytes.subarray(end, Math.min(end + 8, this.db.usable)).every((byte) => byte === 0);
	}

	afterCutLetter(payload: Uint8Array, from: number): number {
		let at = from;
		if (this.db.encoding === 'utf8') while (at < from + 3 && at < payload.length && (payload[at]! & 0xc0) === 0x80) at++;
		return at;
	}

	withHole(one: GoesOn, { payload, holeFrom, holeTo }: Mended): WithHole {
		const out: WithHole = { values: [], cut: -1, rest: null };
		let at = one.body;
		for (const [k, type] of one.types.entries()) {
			const end = at + sizeOfSerialType(type);
			if (end <= holeFrom || at >= holeTo || holeFrom === holeTo) out.values.push(readValue(payload, at, type, this.db.encoding));
			else if (at >= holeFrom) out.values.push(undefined);
			else {
				out.values.push(this.cutValue(payload, at, holeFrom, type));
				out.cut = k;
				if (classOfSerialType(type) === TEXT && end > holeTo) out.rest = this.restOf(payload, at, holeFrom, holeTo, end);
			}
			at = end;
		}
		return out;
	}

	/** The values that lie on the last page of a payload, `last`; null if others lie behind `from` that do not, or none lies there. */
	lastValues(one: GoesOn, last: Uint8Array, from: number): (Value | undefined)[] | null {
		const lastFrom = one.size - last.length;
		const values: (Value | undefined)[] = [];
		let at = one.body;
		for (const type of one.types) {
			if (at >= from && at < lastFrom) return null;
			values.push(at >= lastFrom ? readValue(last, at - lastFrom, type, this.db.encoding) : undefined);
			at += sizeOfSerialType(type);
		}
		return values.some((value) => value !== undefined) ? values : null;
	}

	private cutValue(payload: Uint8Array, from: number, to: number, type: number): Value | undefined {
		if (classOfSerialType(type) === BLOB) return payload.slice(from, to);
		return classOfSerialType(type) === TEXT ? cutTextAt(payload, from, to - this.odd(to - from), this.db.encoding) : undefined;
	}

	/** In UTF-16 a hole can begin or end within a letter. */
	private odd = (length: number): number => (this.db.encoding === 'utf8' ? 0 : length % 2);

	private restOf(payload: Uint8Array, from: number, holeFrom: number, holeTo: number, end: number): WithHole['rest'] {
		const start = this.afterCutLetter(payload, holeTo) + this.odd(holeTo - from);
		if (start >= end) return null;
		const head = cutTextAt(payload, from, holeFrom - this.odd(holeFrom - from), this.db.encoding);
		const text = readValue(payload, start, 13 + (end - start) * 2, this.db.encoding) as string;
		return { text, lost: start - from - this.bytesOf(head) };
	}

	private bytesOf = (text: string): number => (this.db.encoding === 'utf8' ? new TextEncoder().encode(text).length : text.length * 2);
}

/** What the carver goes by, and what it finds. */
import type { Encoding } from '../../../bytes';
import type { Grade, Value } from '../../../model';
import type { ShapeIndex } from '../compiled';
import type { Shape } from '../shape';

/** A record's header lies no further behind the beginning of its cell: payload length and rowid are varints. */
export const BEFORE_HEADER = 14;

export interface Found {
	/** Within the page. */
	start: number;
	end: number;
	shape: Shape;
	rowid: number | bigint | null;
	/** In record order; undefined where lost. */
	values: (Value | undefined)[];
	/** Record column of which only the beginning is left, or -1. */
	cut: number;
	grade: Grade;
	score: number;
	/** Serial types as read or rebuilt, and where the body starts: to cut it again where another cell overlaps it. */
	types: ArrayLike<number>;
	body: number;
	/** Of a cell that overflows. */
	goesOn: GoesOn | null;
}

/** The part of an overflowing payload that lies on the page, and where it goes on. */
export interface GoesOn {
	/** Bytes of the payload on the page itself. */
	local: Uint8Array;
	/** Where the values start in the payload, and how long that is. */
	body: number;
	size: number;
	types: Int32Array;
	shape: Shape;
	/** The page it goes on on. */
	first: number;
	/** The pages of a chain that was followed to its end; none where it breaks. */
	pages: readonly number[];
	/** The page at which a broken chain can be followed no further, or 0. */
	broke: number;
}

/** What a chain of overflow pages holds: all of a payload, or as much as is sure. */
export interface ChainRead {
	payload: Uint8Array;
	complete: boolean;
	pages: number[];
	/** The page at which it can be followed no further; 0 where it is complete, or leads nowhere. */
	broke: number;
}

export interface CarveContext {
	usable: number;
	encoding: Encoding;
	shapes: ShapeIndex;
	/** Reads the rest of an overflowing payload, as far as its pages are there and not in use. */
	overflow: (local: Uint8Array, size: number, first: number) => ChainRead;
	/** The shape of the table that owns the page. */
	preferred: Shape | null;
	/** Cells as index pages hold them (no rowid): those of WITHOUT ROWID tables. */
	index: boolean;
}

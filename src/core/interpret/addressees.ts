/**
 * To whom messages went, beside who wrote them: in conversations of two the one column has the owner where the other has
 * the other side. In rooms of several those who write are several, and what they write to is the room.
 */
import { AskedOnce } from './asked-once';
import type { Context } from './context';
import { FROM_WHOM, TO_WHOM } from './party-words';
import { keyOf } from './refs';
import { isParty, roomsOf, tellingRows } from './rooms-and-members';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

type Value = string | number | null;

/** The columns at the ends of messages. */
export interface Ends {
	from: SheetColumn;
	to: SheetColumn;
	/** Whether rooms or names tell which is which. */
	areTold: boolean;
}

/** Rows of a conversation from which on it says who writes there. */
const ROWS_LEAST = 3;
/** Share of the conversations of two in which both columns must have the same two. */
const MIRRORED = 0.9;
const TALKS_LEAST = 2;

/** The columns at the ends of a sheet's messages, by whatever names its conversations. */
export interface EndColumns {
	pairs: readonly Ends[];
	ends: ReadonlySet<SheetColumn>;
	/** Whether a column can name writers: where it is known who the ends are, no other can, nor what names to whom it was written. */
	canWrite(column: SheetColumn): boolean;
}

const FOUND = new AskedOnce<Sheet, EndColumns>();

/** `used`: columns that have another meaning: the text, the time. */
export const endColumns = (sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): EndColumns =>
	FOUND.of(sheet, context, () => {
		const columns = sheet.columns.filter((c) => !used.has(c) && canNameWriters(c, sheet, context));
		const rows = tellingRows(sheet);
		const values = new Map<SheetColumn, Value[]>();
		const valuesOf = (column: SheetColumn): Value[] => {
			const known = values.get(column) ?? rows.map((row) => keyOf(cell(row, column, context.tables)));
			values.set(column, known);
			return known;
		};
		const found = roomsOf(sheet, used, context).flatMap((room) =>
			endsIn(
				columns.filter((c) => c !== room.thread?.from),
				room.written(),
				valuesOf
			)
		);
		const ends = new Set(found.flatMap(({ from, to }) => [from, to]));
		const told = new Set(found.flatMap(({ from, areTold }) => (areTold ? [from] : [])));
		const canWrite = (column: SheetColumn): boolean => (told.size > 0 ? told.has(column) : ends.size === 0 || ends.has(column));
		return { pairs: found, ends, canWrite };
	});

/** Whether a column can name those who write: few of them, and none a row's own. */
export const canNameWriters = (c: SheetColumn, sheet: Sheet, { tables }: Context): boolean =>
	isParty(c) && !c.profile.many && !isOwnNumber(c, sheet, tables) && c.profile.distinct.size <= Math.max(3, c.profile.filled * 0.6);

/** Pairs of columns that name the two ends of each message, by the conversations (`written`) of the rows. */
export const endsIn = (
	columns: readonly SheetColumn[],
	written: readonly Value[],
	valuesOf: (column: SheetColumn) => readonly Value[]
): Ends[] =>
	columns.flatMap((a, i) =>
		columns.slice(i + 1).flatMap((b) => {
			const ends = endsOf(a, b, written, valuesOf);
			return ends ? [ends] : [];
		})
	);

function endsOf(
	a: SheetColumn,
	b: SheetColumn,
	written: readonly Value[],
	valuesOf: (column: SheetColumn) => readonly Value[]
): Ends | null {
	const rooms = new Map<Value, { ofA: Set<Value>; ofB: Set<Value>; rows: number }>();
	const [inA, inB] = [valuesOf(a), valuesOf(b)];
	for (const [i, room] of written.entries()) {
		const [one, other] = [inA[i]!, inB[i]!];
		if (room === null || one === null || other === null) continue;
		// Nobody writes to himself.
		if (one === other) return null;
		const seen = rooms.get(room) ?? { ofA: new Set(), ofB: new Set(), rows: 0 };
		seen.ofA.add(one);
		seen.ofB.add(other);
		seen.rows++;
		rooms.set(room, seen);
	}
	if (rooms.size === 0) return calledOneWay(a, b, inA, inB);
	const often = [...rooms.values()].filter(({ rows }) => rows >= ROWS_LEAST);
	const ofTwo = often.filter(({ ofA, ofB }) => ofA.size === 2 && ofB.size === 2);
	const mirrored = ofTwo.filter(({ ofA, ofB }) => [...ofA].every((who) => ofB.has(who)));
	if (mirrored.length < ofTwo.length * MIRRORED) return null;
	if (mirrored.length < TALKS_LEAST) return calledEnds(a, b, rooms.size, inA, inB);
	// What was written in a room went to the room, or to the owner.
	const areWriters = (writers: ReadonlySet<Value>, to: ReadonlySet<Value>): boolean =>
		(to.size === 1 && writers.size > 1) || (to.size === 2 && writers.size > 2);
	const byA = often.filter(({ ofA, ofB }) => areWriters(ofA, ofB)).length;
	const byB = often.filter(({ ofA, ofB }) => areWriters(ofB, ofA)).length;
	if (byA !== byB) return byA > byB ? { from: a, to: b, areTold: true } : { from: b, to: a, areTold: true };
	if (saysFrom(a, b)) return { from: a, to: b, areTold: true };
	return { from: b, to: a, areTold: saysFrom(b, a) };
}

/** Where each message names one end alone, the other being the owner, the names say which. */
function calledOneWay(a: SheetColumn, b: SheetColumn, inA: readonly Value[], inB: readonly Value[]): Ends | null {
	const named = inA.filter((one, i) => (one === null) !== (inB[i] === null)).length;
	const areBoth = [inA, inB].every((values) => values.filter((v) => v !== null).length >= ROWS_LEAST);
	const from = areCalledEnds(a, b) ? a : areCalledEnds(b, a) ? b : null;
	return from && areBoth && named >= inA.length * MIRRORED ? { from, to: from === a ? b : a, areTold: true } : null;
}

const areCalledEnds = (from: SheetColumn, to: SheetColumn): boolean =>
	FROM_WHOM.test(from.name) && TO_WHOM.test(to.name) && !FROM_WHOM.test(to.name);

/** Of few conversations the names say it, where both are of the same persons: the owner writes, and is written to. */
function calledEnds(a: SheetColumn, b: SheetColumn, rooms: number, inA: readonly Value[], inB: readonly Value[]): Ends | null {
	const names = areCalledEnds(a, b) ? { from: a, to: b } : areCalledEnds(b, a) ? { from: b, to: a } : null;
	const writers = new Set(inA);
	const isShared = inB.some((who) => who !== null && writers.has(who));
	return names && isShared && rooms > 1 ? { ...names, areTold: true } : null;
}

/** Whether two columns are called so that the first is that of writers. */
const saysFrom = (a: SheetColumn, b: SheetColumn): boolean =>
	(TO_WHOM.test(b.name) && !TO_WHOM.test(a.name)) || (FROM_WHOM.test(a.name) && !FROM_WHOM.test(b.name));

/** Who wrote in rooms, named in nothing but what others wrote there, beside a column that says whom or what each message is with. */
import type { Table } from '../model';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const ROWS = 4000;
/** Rows that must name a writer, and the share of all that may at most. */
const LEAST = 3;
const MOST = 0.7;
/** Share of the conversations that may be rooms. */
const ROOMS = 0.5;
/** Share of a room's rows that others must have written. */
const ANSWERED = 0.2;
/** Share of the rows that must say the same. */
const AGREE = 0.98;

/** Whether a column names writers in some of the conversations alone, and several in one of them. */
export function writesInRooms(writer: SheetColumn, talk: SheetColumn, sheet: Sheet, tables: readonly Table[]): boolean {
	const p = writer.profile;
	const filled = p.filled - (p.distinct.get(0) ?? 0);
	if (writer === talk || filled < LEAST || filled > sheet.sure.length * MOST || p.distinct.size < 2 || p.time) return false;
	const talks = new Map<string | number, { writers: Set<string | number>; named: number; rows: number }>();
	for (const row of sheet.sure.slice(0, ROWS)) {
		const [where, who] = [keyOf(cell(row, talk, tables)), keyOf(cell(row, writer, tables))];
		if (where === null) continue;
		const known = talks.get(where) ?? { writers: new Set(), named: 0, rows: 0 };
		talks.set(where, known);
		known.rows++;
		if (who === null || who === 0) continue;
		known.named++;
		known.writers.add(who);
	}
	const rooms = [...talks.values()].filter(({ named }) => named > 0);
	const areRooms = rooms.every(({ writers, named, rows }) => writers.size > 1 && named >= rows * ANSWERED);
	return rooms.length > 0 && rooms.length <= talk.profile.distinct.size * ROOMS && areRooms;
}

/** Whether a column has one and the same value in all rows of a conversation that have any, and in each another: it says nobody else. */
export function namesNoOther(column: SheetColumn, talk: SheetColumn, sheet: Sheet, tables: readonly Table[]): boolean {
	const known = new Map<string | number, string | number>();
	let [rows, odd] = [0, 0];
	for (const row of sheet.sure.slice(0, ROWS)) {
		const [where, who] = [keyOf(cell(row, talk, tables)), keyOf(cell(row, column, tables))];
		if (where === null || who === null) continue;
		rows++;
		if ((known.get(where) ?? who) !== who) odd++;
		else known.set(where, who);
	}
	return rows > 0 && odd <= rows * (1 - AGREE) && new Set(known.values()).size >= known.size * AGREE;
}

/**
 * Whether in a few conversations several are named, and in each of the others one and the same, another in each, and in some
 * rows nobody: then they are who wrote what was received, however much that was.
 */
export function writesInOwnTalks(writer: SheetColumn, talk: SheetColumn, sheet: Sheet, tables: readonly Table[]): boolean {
	const talks = new Map<string | number, Set<string | number>>();
	let silent = 0;
	for (const row of sheet.sure.slice(0, ROWS)) {
		const [where, who] = [keyOf(cell(row, talk, tables)), keyOf(cell(row, writer, tables))];
		if (where === null) continue;
		const named = talks.get(where) ?? new Set();
		talks.set(where, named);
		if (who === null || who === 0) silent++;
		else named.add(who);
	}
	const ofOne = [...talks.values()].filter((named) => named.size === 1);
	const rooms = [...talks.values()].filter((named) => named.size > 1).length;
	const areOwn = new Set(ofOne.flatMap((named) => [...named])).size === ofOne.length;
	return rooms > 0 && rooms < ofOne.length && areOwn && silent >= LEAST;
}

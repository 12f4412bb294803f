/**
 * Two columns of which the one says where a message belongs, by the other side or by a room, and the other who wrote it,
 * where that was not the owner: in conversations of two both say the same.
 */
import type { Row, Table } from '../model';
import { keyOf } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

export interface PartnersAndRooms {
	talk: SheetColumn;
	writer: SheetColumn;
	/** Whether somebody is named in every row: beside what the owner wrote in a room, the room. */
	isFull?: true;
}

const ROWS = 4000;
const ALL = 0.98;
/** Share of the rows that name a writer, at least and at most, and of those in which both say the same. */
const NAMED = [0.1, 0.95] as const;
const SAME = 0.2;
const LEAST = 3;
const MOSTLY = 0.8;
const RECUR = 0.6;

/** With rooms in a few of the rows, or in none: then both columns say the same, but that one says it of all rows. */
export function partnersAndRooms(sheet: Sheet, used: ReadonlySet<SheetColumn>, tables: readonly Table[]): PartnersAndRooms | null {
	const rows = sheet.sure.slice(0, ROWS);
	const can = sheet.columns.filter(
		(c) =>
			!used.has(c) &&
			c.column >= 0 &&
			c.path.length === 0 &&
			!c.made &&
			!c.profile.time &&
			!c.profile.many &&
			c.profile.reals === 0 &&
			c.profile.prose < 0.3 &&
			c.profile.distinct.size >= LEAST &&
			c.profile.distinct.size <= sheet.sure.length * RECUR &&
			!isOwnNumber(c, sheet, tables)
	);
	const sparse = can.filter((c) => isBetween(c.profile.filled / sheet.sure.length));
	const isIn = (row: Row, c: SheetColumn): boolean => keyOf(cell(row, c, tables)) !== null;
	// Where each row has the one or the other, they are who wrote and to whom, unless there are rooms.
	const areTwo = (a: SheetColumn, b: SheetColumn): boolean =>
		rows.filter((row) => isIn(row, a) !== isIn(row, b)).length > rows.length * MOSTLY;
	const full = can.filter((c) => c.profile.filled >= sheet.sure.length * ALL);
	for (const writer of full)
		for (const talk of full)
			if (writer !== talk && writesInFew(rows.map((row) => [keyOf(cell(row, talk, tables)), keyOf(cell(row, writer, tables))])))
				return { talk, writer, isFull: true };
	for (const writer of sparse) {
		const isOneOfTwo = sparse.some((other) => other !== writer && areTwo(writer, other));
		for (const talk of can.filter((c) => c !== writer && c.profile.filled >= sheet.sure.length * ALL)) {
			let [named, same, rooms, odd] = [0, 0, 0, 0];
			for (const row of rows) {
				const [where, who] = [keyOf(cell(row, talk, tables)), keyOf(cell(row, writer, tables))];
				if (where === null || who === null) continue;
				named++;
				if (where === who) same++;
				// A room writes nothing itself.
				else if (writer.profile.distinct.has(where)) odd++;
				else rooms++;
			}
			const isOfRooms = rooms > 0 && same >= named * SAME && odd <= named * (1 - ALL);
			if (named >= LEAST && (isOfRooms || (!isOneOfTwo && rooms === 0 && same >= named * ALL && areKeys(talk)))) return { talk, writer };
		}
	}
	return null;
}

type Value = string | number | null;

/**
 * Whether both columns of all rows (where, who) say the same but for a few conversations, in which several others are named
 * as well: rooms, named themselves where nobody else is, as beside what the owner wrote.
 */
function writesInFew(rows: readonly (readonly [Value, Value])[]): boolean {
	const talks = new Map<Value, { others: Set<Value>; rows: number; own: number }>();
	for (const [where, who] of rows) {
		if (where === null || who === null) return false;
		const talk = talks.get(where) ?? { others: new Set(), rows: 0, own: 0 };
		talk.rows++;
		if (who === where) talk.own++;
		else talk.others.add(who);
		talks.set(where, talk);
	}
	const rooms = [...talks].filter(([, { others }]) => others.size > 0);
	const ofTwo = [...talks].filter(([, talk]) => talk.others.size === 0 && talk.rows >= LEAST);
	if (rooms.length === 0 || ofTwo.length < 2 || rooms.length > talks.size * ROOMS) return false;
	const isRoom = new Set(rooms.map(([where]) => where));
	const isOfOthers = rooms.every(
		([, { others }]) => [...others].every((who) => !isRoom.has(who)) && [...others].some((who) => talks.has(who))
	);
	const isNamed = rooms.filter(([, { own }]) => own > 0).length >= rooms.length * ROOMS;
	return isOfOthers && isNamed && rooms.some(([, { others }]) => others.size > 1);
}
/** Share of the conversations that may be rooms. */
const ROOMS = 0.5;

/** What is no small number, which may be a state that stands twice. */
const areKeys = ({ profile: p }: SheetColumn): boolean =>
	p.texts === p.filled ? p.averageLength > SHORT : p.ints === p.filled && p.low > SMALL;
const SHORT = 4;
const SMALL = 1000;

const isBetween = (share: number): boolean => share >= NAMED[0] && share <= NAMED[1];

/**
 * Conversations of two in one column, by whom they are with, and rooms in another by what they are called: each message has
 * the one or the other. Who wrote stands beside; in the first sort it is whom the conversation is with, or the owner.
 */
import type { Row, Value } from '../model';
import { bestText } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { keyOf } from './refs';
import { cell, sampleOf, type Sheet, type SheetColumn } from './sheet';

const ROWS = 2000;
const LEAST = 12;
const NEARLY_ALL = 0.97;
const COMES_BACK = 0.6;
const LONGEST = 60;

/** Adds the column of both to sheets of texts. */
export function openEitherTalk(context: Context): void {
	for (const sheet of context.sheets) {
		const found = sheet.family || !bestText(sheet) ? null : eitherIn(sheet, context);
		if (!found) continue;
		const [of, room] = found;
		const read = (row: Row): Value | undefined => cell(row, of, context.tables) ?? cell(row, room, context.tables);
		const profile = profileOf(sheet.sure, read, sampleOf(sheet.sure));
		sheet.columns.push({
			name: `${of.name} or ${room.name}`,
			column: of.column,
			path: [room.name],
			made: { read, either: [of, room] },
			profile
		});
	}
}

/** The column of those whom conversations are with, and that of the rooms. */
function eitherIn(sheet: Sheet, context: Context): [SheetColumn, SheetColumn] | null {
	const columns = sheet.columns.filter((c) => canName(c, sheet));
	for (const of of columns)
		for (const room of columns) {
			const isTold = (c: SheetColumn): boolean => c !== of && c !== room && isWriter(sheet, of, room, c, context);
			if (of !== room && areEither(sheet, of, room, context) && columns.some(isTold)) return [of, room];
		}
	return null;
}

const canName = ({ column, made, body, profile: p }: SheetColumn, { sure }: Sheet): boolean =>
	column >= 0 &&
	!made &&
	!body &&
	!p.time &&
	!p.many &&
	p.texts === p.filled &&
	p.averageLength < LONGEST &&
	p.distinct.size > 0 &&
	p.distinct.size <= sure.length * COMES_BACK;

/** Whether (nearly) each row has a value in one of two columns and none in the other. */
function areEither({ sure }: Sheet, of: SheetColumn, room: SheetColumn, { tables }: Context): boolean {
	if (of.profile.filled < LEAST || room.profile.filled === 0 || of.profile.filled + room.profile.filled > sure.length * (2 - NEARLY_ALL))
		return false;
	const rows = sure.slice(0, ROWS);
	const one = rows.filter((row) => (keyOf(cell(row, of, tables)) === null) !== (keyOf(cell(row, room, tables)) === null));
	return one.length >= rows.length * NEARLY_ALL;
}

/** Whether a column says in conversations of two whom each is with, or one and the same other, and in rooms several of these. */
function isWriter({ sure }: Sheet, of: SheetColumn, room: SheetColumn, writer: SheetColumn, { tables }: Context): boolean {
	const others = new Map<string | number, number>();
	const inRooms = new Set<string | number>();
	let [known, same] = [0, 0];
	for (const row of sure.slice(0, ROWS)) {
		const [who, whom, where] = [writer, of, room].map((c) => keyOf(cell(row, c, tables)));
		if (who === null || who === undefined) continue;
		if (where !== null && where !== undefined) inRooms.add(who);
		else if (whom !== null && whom !== undefined) {
			known++;
			if (who === whom) same++;
			else others.set(who, (others.get(who) ?? 0) + 1);
		}
	}
	const [owner] = [...others].sort((a, b) => b[1] - a[1]);
	return (
		known >= LEAST &&
		owner !== undefined &&
		same > 0 &&
		same + owner[1] >= known * NEARLY_ALL &&
		inRooms.size > 0 &&
		!of.profile.distinct.has(owner[0])
	);
}

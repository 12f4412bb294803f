/**
 * Phrases that a program puts in the place of a deleted text ("This message was deleted"): nobody wrote them. They are told
 * by their rows: marked deleted, all alike and alike to none that is not, where some of them are left in other words or both
 * sides have it; marked by whatever column of few values as no other
 * row is; or rows of which what is left says something else.
 */
import { put } from '../lists';
import type { Table } from '../model';
import type { Understood } from './messages';
import { keyOf } from './refs';
import { cell, type Sheet } from './sheet';

/** Rows of one phrase at least; of long ones fewer do. */
const LEAST = 3;
const LEAST_LONG = 2;
const LONG = 12;
/** Share of the rows marked deleted that must have it; of its rows that must have said something else. */
const MOST = 0.6;

/** Takes such phrases away: of a message of which nothing but that is left no text is. */
export function withoutPhrases(messages: readonly Understood[], sheet: Sheet, tables: readonly Table[]): void {
	const inUse = messages.filter(({ row, text }) => row.standing === 'kept' && text !== null && text !== '');
	const byText = new Map<string, Understood[]>();
	for (const u of inUse) put(byText, u.text!, u);
	const marked = inUse.filter((u) => u.deletedFlag).length;
	const often = [...byText].filter(([text, { length }]) => length >= (text.length >= LONG ? LEAST_LONG : LEAST));
	if (often.length === 0) return;
	const before = wordingsLost(messages);
	for (const [text, rows] of often) {
		const said = rows.filter((u) => before.get(nameOf(u))?.some((lost) => lost.sentAt === u.sentAt && lost.text !== text)).length;
		// What somebody sent to several and put into the bin is all alike as well, and is his.
		const areMarked =
			rows.every((u) => u.deletedFlag) && rows.length >= marked * MOST && (said > 0 || (text.length >= LONG && areOfMany(rows)));
		// What stands for a picture is marked as one: of what was deleted some must be left.
		const areFew = said > 0 && rows.length >= LEAST && rows.length < inUse.length / 2 && rows.every((u) => u.files.length === 0);
		const areMarkedAlone = areFew && haveMark(rows, inUse, sheet, tables);
		const haveChanged = rows.length >= LEAST && said >= rows.length * MOST && isOfProgram(text, rows);
		if (!areMarked && !areMarkedAlone && !haveChanged) continue;
		for (const u of rows) {
			u.text = null;
			if (areMarkedAlone) u.deletedFlag = true;
		}
	}
}

type Way = Pick<Understood, 'direction'>;

/** Whether a text that several messages came to have is a program's: it is long, or both sides have it. One can change his own to a full stop. */
export const isOfProgram = (text: string, rows: readonly Way[]): boolean => text.length >= LONG || haveBothWays(rows);

const haveBothWays = (rows: readonly Way[]): boolean => ['in', 'out'].every((way) => rows.some(({ direction }) => direction === way));

/** Whether both sides have it, at several times. */
const areOfMany = (rows: readonly Understood[]): boolean => haveBothWays(rows) && new Set(rows.map((u) => u.sentAt)).size >= LEAST;

/** Whether a column of two values has one of them in these rows, and in no other. */
function haveMark(rows: readonly Understood[], inUse: readonly Understood[], sheet: Sheet, tables: readonly Table[]): boolean {
	const own = new Set(rows);
	const flags = sheet.columns.filter(
		({ column, made, profile: p }) => column >= 0 && !made && p.distinct.size === 2 && p.filled === p.ints
	);
	return flags.some((flag) => {
		const valueOf = ({ row }: Understood): string | number | null => keyOf(cell(row, flag, tables));
		const mark = valueOf(rows[0]!);
		return mark !== null && inUse.every((u) => (valueOf(u) === mark) === own.has(u));
	});
}

const nameOf = ({ row }: Understood): string => `${row.table} ${row.rowid}`;

/** What is left of rows that say something else since, by their table and number. */
function wordingsLost(messages: readonly Understood[]): Map<string, Understood[]> {
	const lost = new Map<string, Understood[]>();
	for (const u of messages)
		if (u.row.standing !== 'kept' && u.row.rowid !== null && u.text !== null && u.text !== '') put(lost, nameOf(u), u);
	return lost;
}

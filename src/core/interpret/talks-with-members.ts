/**
 * Rooms and persons in one list, with a number and a name each: where another list says who takes part in some of its rows,
 * it lists conversations, and a message's column that names its row again (the address it came from, or went to) nobody else.
 */
import { addressShare } from './columns';
import type { Context } from './context';
import { ALL_THREADS } from './how-sure';
import { joinsOnce } from './joins-once';
import { isNamedAlike, keyOf, placesBy, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const ROWS = 4000;
/** Members of a room, on average, at least. */
const MEMBERS_EACH = 2;

export interface TalksWithMembers {
	/** What names the conversation of each message. */
	talk: Reference;
	/** What names the same row of the list again. */
	repeats: SheetColumn[];
}

/** `best`: what each column names most surely. */
export function talksWithMembers(sheet: Sheet, best: ReadonlyMap<SheetColumn, Reference>, context: Context): TalksWithMembers | null {
	for (const talk of best.values()) {
		const isFull = talk.from.profile.filled >= sheet.sure.length * ALL_THREADS && talk.inclusion >= ALL_THREADS;
		if (!isFull || isOwnNumber(talk.from, sheet, context.tables) || !hasMembers(talk, sheet, context)) continue;
		const again = (context.references.get(sheet) ?? []).filter(
			(r) => r.from !== talk.from && r.key.sheet === talk.key.sheet && r.key !== talk.key && namesTheSame(r, talk, sheet, context)
		);
		if (again.length > 0) return { talk, repeats: again.map((r) => r.from) };
	}
	return null;
}

/** Whether a list names some of the rows, each several times, beside persons with addresses of their own. */
function hasMembers({ from, key }: Reference, messages: Sheet, { sheets, references, tables }: Context): boolean {
	return sheets.some((list) => {
		if (list === messages || list === key.sheet) return false;
		const room = (references.get(list) ?? []).find(
			(r) =>
				r.key === key &&
				r.inclusion >= ALL_THREADS &&
				(r.from.name === from.name || isNamedAlike(r.from, key.sheet)) &&
				r.from.profile.distinct.size * MEMBERS_EACH <= r.from.profile.filled
		);
		const person = room && list.columns.find((c) => c !== room.from && c.column >= 0 && addressShare(c) > 0.5);
		return room !== undefined && person !== undefined && joinsOnce(list, room.from, person, tables);
	});
}

/** Whether in each row in which a column is filled it names that row of the list which the other one names by another key. */
function namesTheSame(again: Reference, talk: Reference, sheet: Sheet, { tables }: Context): boolean {
	const [here, there] = [placesBy(talk.key, ROWS, tables), placesBy(again.key, ROWS, tables)];
	return sheet.sure.slice(0, ROWS).every((row) => {
		const name = keyOf(cell(row, again.from, tables));
		return name === null || name === '' || there.get(name) === here.get(keyOf(cell(row, talk.from, tables)));
	});
}

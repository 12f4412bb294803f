/**
 * Who wrote in rooms, by a row of the list of who takes part: where that row is of the very room of each message that names
 * one, and the column is called for the list, a few messages tell it.
 */
import type { Context } from './context';
import type { MembersReading, MessageReading, PersonReading } from './reading';
import { isNamedAlike, keyOf } from './refs';
import { cell, isOwnNumber, type SheetColumn } from './sheet';

/** Share of the rows of rooms that must name somebody: all but the owner's own do. */
const NAMED = 0.2;

/** The column of a sheet's messages, where no other key says who wrote or whom they are with. `persons`: the lists of persons known. */
export function writerByMembers(
	m: MessageReading,
	members: readonly MembersReading[],
	persons: readonly PersonReading[],
	context: Context
): MessageReading['participant'] {
	// A name says less than a row of the list does.
	if (!m.thread?.key || m.participant?.key || m.sender || m.recipient) return null;
	const named = m.participant?.value.profile.filled ?? 0;
	for (const list of members) {
		const isOfThese = list.threadKey.sheet === m.thread.key.sheet && list.threadKey.column === m.thread.key.column;
		if (!isOfThese || list.sheet === m.sheet || !persons.some((p) => p.sheet === list.sheet)) continue;
		const found = (context.references.get(m.sheet) ?? []).find(
			(r) =>
				r.key.sheet === list.sheet &&
				r.from !== m.thread!.value &&
				r.from !== m.peer?.value &&
				r.from.profile.filled >= named &&
				isNamedAlike(r.from, list.sheet) &&
				!isOwnNumber(r.from, m.sheet, context.tables) &&
				isOfItsRoom(r.from, r.key.column, list, m, context)
		);
		if (found)
			return {
				value: found.from,
				key: found.key,
				confidence: 0.7,
				evidence: [`it names rows of ${list.sheet.name}, each of the message's room`]
			};
	}
	return null;
}

/** Whether each row that names a member is in the room whose member that is, and of the rooms' rows enough name one. */
function isOfItsRoom(
	from: SheetColumn,
	key: SheetColumn | null,
	list: MembersReading,
	{ sheet, thread }: MessageReading,
	{ tables }: Context
): boolean {
	const roomOf = new Map(
		list.sheet.sure.map((row) => [key ? keyOf(cell(row, key, tables)) : keyOf(row.rowid), keyOf(cell(row, list.thread, tables))])
	);
	const rooms = new Set(roomOf.values());
	let [named, inRooms] = [0, 0];
	for (const row of sheet.sure) {
		if (row.standing !== 'kept') continue;
		const [who, where] = [keyOf(cell(row, from, tables)), keyOf(cell(row, thread!.value, tables))];
		if (where !== null && rooms.has(where)) inRooms++;
		if (who === null || who === 0) continue;
		if (roomOf.get(who) !== where) return false;
		named++;
	}
	return named > 0 && named >= inRooms * NAMED;
}

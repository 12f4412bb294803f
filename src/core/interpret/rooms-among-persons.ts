/**
 * Rooms that stand in the list of persons, for conversations to be with: another list has them alone, with what they are
 * called, and a third one may say who takes part in each.
 */
import { nameScore } from './columns';
import type { Context } from './context';
import { joinsOnce } from './joins-once';
import type { PersonReading, RoomList, ThreadReading } from './reading';
import { isNamedAlike, keyOf, type Key } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const ROWS = 5000;
/** Letters of a key that is no other's by chance, and share of a column's values that must be among another's. */
const LONG_KEY = 8;
const AMONG = 0.9;
const SURE = 0.6;

/** The list of rooms, by the conversations that are with persons of a list; null where there is none. */
export function roomsAmongPersons(thread: ThreadReading, persons: readonly PersonReading[], context: Context): RoomList | null {
	const key = thread.peer?.key;
	const list = persons.find((p) => p.sheet === key?.sheet);
	if (!key || !list || list.addresses.length === 0) return null;
	const nameless = namelessRows(list, key, context);
	if (nameless.size === 0) return null;
	for (const sheet of context.sheets) {
		if (sheet === list.sheet || sheet === thread.sheet || sheet.rows.length > ROWS || persons.some((p) => p.sheet === sheet)) continue;
		const room = sheet.columns.find((c) => namesRooms(c, sheet, list.sheet, key, nameless, context));
		const title = room && titleIn(sheet, room);
		if (room && title) return { sheet, room, key, title, members: membersIn(sheet, list.sheet, key, context) };
	}
	return null;
}

/** The keys of the rows that have no address, as persons have. */
function namelessRows({ sheet, addresses }: PersonReading, { column }: Key, { tables }: Context): Set<string | number> {
	const found = new Set<string | number>();
	for (const row of sheet.sure.slice(0, ROWS)) {
		const own = column ? keyOf(cell(row, column, tables)) : keyOf(row.rowid);
		const isBare = addresses.every((c) => [null, ''].includes(keyOf(cell(row, c, tables)) as string | null));
		if (row.standing === 'kept' && own !== null && isBare) found.add(own);
	}
	return found;
}

/** Whether a column has, once each, the numbers of rows without an address, and none of others. */
function namesRooms(
	c: SheetColumn,
	sheet: Sheet,
	persons: Sheet,
	key: Key,
	nameless: ReadonlySet<string | number>,
	{ references, tables }: Context
): boolean {
	if (c.column < 0 || isOwnNumber(c, sheet, tables) || c.profile.filled === 0 || c.profile.filled > c.profile.distinct.size) return false;
	const isCalled =
		isNamedAlike(c, persons) || (references.get(sheet) ?? []).some((r) => r.from === c && r.key === key && r.confidence > SURE);
	return isCalled && [...c.profile.distinct.keys()].every((value) => nameless.has(value));
}

/** What the rooms are called. */
const titleIn = (sheet: Sheet, room: SheetColumn): SheetColumn | null =>
	sheet.columns
		.filter((c) => {
			const { profile: p } = c;
			const areKeys = p.uuid > 0 || p.digest > 0 || p.averageLength > 40;
			return c !== room && c.column >= 0 && p.texts > 0 && p.texts === p.filled && !p.time && !areKeys && p.name > 0.5;
		})
		.sort((a, b) => nameScore(b) - nameScore(a))[0] ?? null;

/** The list of who takes part: by a key that the rooms' list has as well, and the numbers of persons. */
function membersIn(rooms: Sheet, persons: Sheet, key: Key, context: Context): RoomList['members'] {
	const ids = rooms.columns.filter((c) => c.profile.texts > 0 && c.profile.averageLength >= LONG_KEY && c.profile.unique);
	for (const sheet of context.sheets) {
		if (sheet === rooms || sheet === persons || sheet.columns.length > MEMBER_COLUMNS) continue;
		for (const id of ids) {
			const room = sheet.columns.find((c) => c.profile.texts > 0 && isAmong(c, id));
			const person = room && sheet.columns.find((c) => c !== room && isNamedAlike(c, persons) && isAmongKeys(c, key));
			if (!room || !person || !joinsOnce(sheet, room, person, context.tables)) continue;
			const threadKey = { sheet: rooms, column: id, values: new Set(id.profile.distinct.keys()) };
			return { of: { sheet, thread: room, threadKey, person, personKey: key }, id };
		}
	}
	return null;
}
const MEMBER_COLUMNS = 8;

const isAmong = ({ profile: a }: SheetColumn, { profile: b }: SheetColumn): boolean =>
	a.filled > 0 && [...a.distinct.keys()].filter((value) => b.distinct.has(value)).length >= a.distinct.size * AMONG;
const isAmongKeys = ({ profile: p }: SheetColumn, { values }: Key): boolean =>
	p.filled > 0 && [...p.distinct.keys()].filter((value) => values.has(value)).length >= p.distinct.size * AMONG;

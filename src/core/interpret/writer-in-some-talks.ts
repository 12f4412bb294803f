/**
 * Who wrote in rooms, where each message says which way it went and a column has names only in what was received in some of
 * the conversations: those are rooms, and in the others there is but one who can have written.
 */
import type { Row, Table, Value } from '../model';
import type { Context } from './context';
import { wayOf } from './way-by-rule';
import type { MessageReading } from './reading';
import { profileOf } from './profile';
import { keyOf, type Key } from './refs';
import { cell, sampleOf, type SheetColumn } from './sheet';

const ROWS = 4000;
const FEWEST = 3;
const NEARLY_ALL = 0.95;
const NAMES = 0.8;
const SURE = 0.7;

/** The column of names; null where another one says who wrote, or none does. */
export function writerInSomeTalks(m: MessageReading, context: Context): MessageReading['participant'] {
	const talk = m.thread?.value ?? m.peer?.value;
	if (!talk || m.participant || m.sender || m.recipient || m.direction.value.kind === 'unknown' || m.direction.confidence < SURE)
		return null;
	const rows = m.sheet.sure.filter((row) => row.standing === 'kept').slice(0, ROWS);
	const canName = (c: SheetColumn): boolean => {
		const { profile: p } = c;
		const isTaken = [m.text.value, m.time?.value, talk, m.peer?.value].includes(c);
		return (
			!isTaken && c.column >= 0 && !p.time && p.texts === p.filled && p.filled >= FEWEST && p.name > NAMES && p.mime + p.path + p.uuid === 0
		);
	};
	for (const column of m.sheet.columns.filter(canName)) {
		const rooms = roomsNamed(column, talk, m, rows, context);
		if (!rooms) continue;
		const key =
			(context.references.get(m.sheet) ?? []).find((r) => r.from === column && r.inclusion >= NEARLY_ALL)?.key ?? namesIn(column, m);
		const value = rooms === 'all' ? column : inRooms(column, talk, rooms, m, context);
		return { value, key, confidence: 0.7, evidence: ['it is filled in what was received in some conversations, and in all of that'] };
	}
	return null;
}

/** The names in the list of conversations, where most who write are those whom some are with. */
function namesIn({ profile }: SheetColumn, m: MessageReading): Key | null {
	const sheet = m.peer?.key?.sheet;
	const names = [...profile.distinct.keys()];
	const column = sheet?.columns.find(
		(c) => c.column >= 0 && c.profile.unique && names.filter((name) => c.profile.distinct.has(name)).length >= names.length * NAMES
	);
	return sheet && column ? { sheet, column, values: new Set(column.profile.distinct.keys()) } : null;
}

type TalkKey = string | number;

/** The column as it is in rooms: in a conversation of two it says again whom that is with. */
function inRooms(column: SheetColumn, talk: SheetColumn, rooms: ReadonlySet<TalkKey>, m: MessageReading, { tables }: Context): SheetColumn {
	const read = (row: Row): Value | undefined => (rooms.has(keyOf(cell(row, talk, tables)) ?? '') ? cell(row, column, tables) : null);
	return { ...column, made: { read }, profile: profileOf(m.sheet.sure, read, sampleOf(m.sheet.sure)) };
}

/**
 * The conversations in which a column names who wrote what was received: 'all' that it is filled in, where it is in some alone;
 * where it is in each, those in which several wrote, or one whom the list of the conversations does not name.
 */
function roomsNamed(
	c: SheetColumn,
	talk: SheetColumn,
	m: MessageReading,
	rows: readonly Row[],
	{ tables }: Context
): 'all' | ReadonlySet<TalkKey> | null {
	const talks = new Map<TalkKey, { named: Set<TalkKey>; filled: number; received: number }>();
	let outside = 0;
	for (const row of rows) {
		const [of, name] = [keyOf(cell(row, talk, tables)), keyOf(cell(row, c, tables))];
		const way = wayOf(m.direction.value, row, (column) => cell(row, column, tables));
		if (way !== 'in' || of === null) {
			if (name !== null) outside++;
			continue;
		}
		const one = talks.get(of) ?? { named: new Set(), filled: 0, received: 0 };
		talks.set(of, one);
		one.received++;
		if (name !== null) one.filled++;
		if (name !== null) one.named.add(name);
	}
	const all = [...talks.values()];
	const filled = all.filter((one) => one.filled > 0);
	const named = filled.reduce((sum, one) => sum + one.filled, 0);
	const isSaid = named >= FEWEST && outside <= named * (1 - NEARLY_ALL) && filled.every((one) => one.filled >= one.received * NEARLY_ALL);
	if (!isSaid) return null;
	if (filled.length === all.length) return roomsAmong(talks, m.peer?.key ?? m.thread?.key ?? null, tables);
	return filled.some((room) => room.named.size > 1) ? 'all' : null;
}

/** Of conversations in all of which writers are named the rooms; null where those of one name say nothing of who is in the others. */
function roomsAmong(
	talks: ReadonlyMap<TalkKey, { named: ReadonlySet<TalkKey> }>,
	list: Key | null,
	tables: readonly Table[]
): Set<TalkKey> | null {
	const ofOne = new Set([...talks.values()].flatMap(({ named }) => (named.size === 1 ? [...named] : [])));
	const several = [...talks].filter(([, { named }]) => named.size > 1);
	const rowBy = new Map(
		(list?.sheet.rows ?? []).map((row) => [list!.column ? keyOf(cell(row, list!.column, tables)) : keyOf(row.rowid), row])
	);
	const isCalled = ([talk, { named }]: [TalkKey, { named: ReadonlySet<TalkKey> }]): boolean =>
		[...named].some((name) => rowBy.get(talk)?.values.some((value) => value === name) ?? false);
	const called = [...talks].filter((talk) => talk[1].named.size === 1 && isCalled(talk)).length;
	if (!several.some(([, { named }]) => [...named].some((name) => ofOne.has(name))) && called < CALLED_LEAST) return null;
	const rooms = [...talks].filter((talk) => talk[1].named.size > 1 || (called > 0 && !isCalled(talk)));
	return rooms.length > 0 ? new Set(rooms.map(([talk]) => talk)) : null;
}
/** Conversations that are called as who writes in them, where in none several do. */
const CALLED_LEAST = 3;

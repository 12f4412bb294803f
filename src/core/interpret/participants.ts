/**
 * Persons listed once for each conversation they take part in: a message names its conversation, and as its writer a
 * row of the list of participants, which names the same conversation again. Nothing but that list fits so.
 */
import { AskedOnce } from './asked-once';
import { addressShare, bestText } from './columns';
import type { Context } from './context';
import { markedAsOneself } from './flagged-owner';
import { profileOf } from './profile';
import { isDeclared, isNamedAlike, keyOf, referencesOf, type Reference } from './refs';
import { cell, isOwnNumber, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';

export interface Participants {
	/** From the messages to the list of participants, and to that of conversations. */
	writer: Reference;
	thread: Reference;
}

const ROWS = 2000;
const LEAST_CONFIDENCE = 0.45;
const WRITING = 0.5;
/** Where the schema or names do not say it: rows whose writer's conversation is known, at least, and their conversations; and share that must be the message's. */
const ROWS_LEAST = 12;
const ROOMS_LEAST = 3;
const AGREE = 0.97;
const TALKS = 0.4;

const FOUND = new AskedOnce<Sheet, Participants | null>();

/** How a sheet of messages names participants, or null where it does not. Asked once `openParticipants` has made its columns. */
export const participantsOf = (sheet: Sheet, context: Context): Participants | null => FOUND.of(sheet, context, () => find(sheet, context));

function find(sheet: Sheet, context: Context): Participants | null {
	const refs = (context.references.get(sheet) ?? []).filter((r) => r.confidence >= LEAST_CONFIDENCE && r.key.sheet !== sheet);
	// A message's own number is nobody's: what it names is of the message.
	for (const writer of refs.filter((r) => !isOwnNumber(r.from, sheet, context.tables))) {
		const onward = (context.references.get(writer.key.sheet) ?? []).filter((o) => o.key.sheet !== writer.key.sheet);
		// A list of nothing but keys, each person's there once, leads on to that of the persons.
		const isJoin = writer.key.sheet.columns.length === 2 && onward.some((o) => o.from === writer.key.column);
		// A column called as one of the list's own holds what that one does, and names none of its rows.
		const isCommon = writer.key.sheet.columns.some((c) => c !== writer.key.column && c.name === writer.from.name);
		if (isJoin || isCommon) continue;
		const rooms = new Map<SheetColumn, Map<string | number, string | number>>();
		const agreements = new Pairs((thread, again) => {
			const stated = rooms.get(again) ?? roomsOf(writer, again, context);
			rooms.set(again, stated);
			return agreement(sheet, writer.from, thread, stated, context);
		});
		for (const thread of refs) {
			if (thread.from === writer.from || thread.key.sheet === writer.key.sheet) continue;
			const again = onward.find((o) => o.key === thread.key && o.from !== writer.key.column && !o.from.profile.unique);
			if (again && namesTheSame(agreements.of(thread.from, again.from), writer, thread, context)) return { writer, thread };
		}
	}
	return null;
}

/**
 * Where the list of participants says who each is only by the key of a person, the messages get a column that reads that
 * key: who wrote, the same in all conversations.
 */
export function openParticipants(context: Context): void {
	const { references, keys, tables } = context;
	// Of many tables with small numbers few hold anything that somebody can have written.
	for (const sheet of context.sheets.filter((s) => bestText(s) !== null)) {
		const participants = find(sheet, context);
		if (!participants) continue;
		const { writer } = participants;
		const list = writer.key.sheet;
		// What somebody wrote lists nobody: an event that names its post is of the post's conversation too.
		if (list.columns.some((c) => c.profile.prose > WRITING)) continue;
		const person = (references.get(list) ?? []).find(
			(r) =>
				r.key.sheet !== list &&
				r.key.sheet !== participants.thread.key.sheet &&
				r.confidence > LEAST_CONFIDENCE &&
				r.from !== writer.key.column &&
				!isOwnNumber(r.from, list, tables) &&
				r.key.sheet.columns.some((c) => c.profile.name > MOSTLY_NAMES || addressShare(c) > MOSTLY_NAMES)
		);
		if (!person || list.columns.some((c) => c.column >= 0 && addressShare(c) > MOSTLY_NAMES)) continue;
		const keyed = new Map(
			list.rows.map((row) => [
				writer.key.column ? keyOf(cell(row, writer.key.column, tables)) : keyOf(row.rowid),
				cell(row, person.from, tables)
			])
		);
		const owner = markedAsOneself(list, person.from, context);
		const made: Made = {
			read: (row) => keyed.get(keyOf(cell(row, writer.from, tables))),
			...(owner === null ? {} : { owner })
		};
		const profile = profileOf(sheet.sure, made.read, sampleOf(sheet.sure));
		const name = `${writer.from.name} (${person.from.name})`;
		const column: SheetColumn = { name, column: writer.from.column, path: [person.from.name], made, profile };
		sheet.columns.push(column);
		const own = references.get(sheet)!;
		const found = referencesOf({ ...sheet, columns: [column] }, keys, tables).filter((r) => r.key === person.key);
		for (const r of found) own.push({ ...r, confidence: Math.max(r.confidence, person.confidence) });
		own.sort((a, b) => b.confidence - a.confidence);
	}
}
/** Share of a person's list that must be names or addresses. */
const MOSTLY_NAMES = 0.6;

/** Of how many rows the writer's conversation is known, in how many conversations, and of how many it is the message's. */
interface Agreement {
	known: number;
	rooms: number;
	same: number;
	/** Conversations in which several write, or in some of whose messages nobody is named. */
	talks: number;
}

/** What a list says is the conversation of each writer that it lists. */
function roomsOf({ key }: Reference, again: SheetColumn, { tables }: Context): Map<string | number, string | number> {
	const rooms = new Map<string | number, string | number>();
	for (const row of key.sheet.rows) {
		const writer = key.column ? keyOf(cell(row, key.column, tables)) : keyOf(row.rowid);
		const room = keyOf(cell(row, again, tables));
		if (writer !== null && room !== null) rooms.set(writer, room);
	}
	return rooms;
}

function agreement(
	sheet: Sheet,
	writer: SheetColumn,
	thread: SheetColumn,
	rooms: ReadonlyMap<string | number, string | number>,
	{ tables }: Context
): Agreement {
	const seen = new Set<string | number>();
	const writers = new Map<string | number, Set<string | number | null>>();
	let [known, same] = [0, 0];
	for (const row of sheet.sure.slice(0, ROWS)) {
		const who = keyOf(cell(row, writer, tables));
		const room = keyOf(cell(row, thread, tables));
		if (room !== null) writers.set(room, (writers.get(room) ?? new Set()).add(who));
		const stated = who === null ? undefined : rooms.get(who);
		if (stated === undefined || room === null) continue;
		known++;
		if (stated === room) same++;
		seen.add(room);
		// However the rest agree, they are too few by now.
		if (known - same > ROWS * (1 - AGREE)) break;
	}
	return { known, rooms: seen.size, same, talks: [...writers.values()].filter((of) => of.size > 1).length };
}

function namesTheSame({ known, rooms, same, talks }: Agreement, writer: Reference, thread: Reference, { tables }: Context): boolean {
	const isSaid = [writer, thread].every((r) => isDeclared(r, tables) || isNamedAlike(r.from, r.key.sheet));
	const [leastRows, leastRooms] = isSaid ? [1, 1] : [ROWS_LEAST, ROOMS_LEAST];
	// Where hardly a conversation has two who write, and each has an address, it is somebody whose things write: his devices.
	const arePersons = thread.key.sheet.columns.some((c) => addressShare(c) > MOSTLY_NAMES && c.profile.unique);
	return known >= leastRows && rooms >= leastRooms && same >= known * AGREE && !(arePersons && talks < rooms * TALKS);
}

/** What two columns say together, asked once. */
class Pairs<T> {
	private readonly known = new Map<SheetColumn, Map<SheetColumn, T>>();
	constructor(private readonly ask: (a: SheetColumn, b: SheetColumn) => T) {}

	of(a: SheetColumn, b: SheetColumn): T {
		const row = this.known.get(a) ?? new Map<SheetColumn, T>();
		this.known.set(a, row);
		if (!row.has(b)) row.set(b, this.ask(a, b));
		return row.get(b)!;
	}
}

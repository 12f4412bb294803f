/**
 * Persons listed once for each conversation they take part in: a message names its conversation, and as its writer a
 * row of the list of participants, which names the same conversation again. Nothing but that list fits so.
 */
import type { Context } from './context';
import { keyOf, type Reference } from './refs';
import { cell, type Sheet } from './sheet';

export interface Participants {
	/** From the messages to the list of participants, and to that of conversations. */
	writer: Reference;
	thread: Reference;
}

const ROWS = 2000;
const LEAST_CONFIDENCE = 0.45;
/** Rows whose writer's conversation is known, at least; their conversations; and share of them that must be the message's. */
const ROWS_LEAST = 12;
const ROOMS_LEAST = 3;
const AGREE = 0.97;

/** How a sheet of messages names participants, or null where it does not. */
export function participantsOf(sheet: Sheet, context: Context): Participants | null {
	const refs = (context.references.get(sheet) ?? []).filter((r) => r.confidence >= LEAST_CONFIDENCE && r.key.sheet !== sheet);
	for (const writer of refs) {
		const onward = (context.references.get(writer.key.sheet) ?? []).filter((o) => o.key.sheet !== writer.key.sheet);
		for (const thread of refs) {
			if (thread.from === writer.from || thread.key.sheet === writer.key.sheet) continue;
			const again = onward.find((o) => o.key === thread.key && o.from !== writer.key.column && !o.from.profile.unique);
			if (again && namesTheSame(sheet, writer, thread, again, context)) return { writer, thread };
		}
	}
	return null;
}

function namesTheSame(sheet: Sheet, writer: Reference, thread: Reference, again: Reference, { tables }: Context): boolean {
	const rooms = new Map<string | number, string | number>();
	for (const row of writer.key.sheet.rows) {
		const key = writer.key.column ? keyOf(cell(row, writer.key.column, tables)) : keyOf(row.rowid);
		const room = keyOf(cell(row, again.from, tables));
		if (key !== null && room !== null) rooms.set(key, room);
	}
	const seen = new Set<string | number>();
	let [known, same] = [0, 0];
	for (const row of sheet.sure.slice(0, ROWS)) {
		const who = keyOf(cell(row, writer.from, tables));
		const room = keyOf(cell(row, thread.from, tables));
		const stated = who === null ? undefined : rooms.get(who);
		if (stated === undefined || room === null) continue;
		known++;
		if (stated === room) same++;
		seen.add(room);
	}
	return known >= ROWS_LEAST && seen.size >= ROOMS_LEAST && same >= known * AGREE;
}

/**
 * Whose device it is, where a table of messages names all who write and says no more: the one writer whom neither the list
 * of persons has nor another table of messages, in which the way is known, as the other side.
 */
import type { Context } from './context';
import { bySender } from './direction-rules';
import { normalAddress } from './people';
import type { MessageReading, PersonReading } from './reading';
import { keyOf } from './refs';
import { roomOfAll } from './room-of-all';
import { cell, type SheetColumn } from './sheet';

const ROWS = 4000;
/** Others who must be known, and messages of the owner at least. */
const OTHERS = 2;
const OWN = 3;

/** Gives the way to the readings that lack it. */
export function tellUnlistedOwner(messages: readonly MessageReading[], persons: readonly PersonReading[], context: Context): void {
	const told = messages.filter((m) => m.direction.value.kind === 'flag' && m.peer !== null);
	if (told.length === 0) return;
	const listed = persons.flatMap((p) => p.addresses.map((c) => ({ sheet: p.sheet, column: c })));
	const sides = told.map((m) => ({ sheet: m.sheet, column: m.peer!.value }));
	const known = new Set([...listed, ...sides].flatMap(({ sheet, column }) => valuesOf(sheet.sure, column, context)));
	for (const m of messages) {
		const writer = m.peer;
		if (m.direction.value.kind !== 'unknown' || !writer || m.sender || m.recipient || m.participant || (!m.thread && !m.threadJoin))
			continue;
		const written = valuesOf(m.sheet.sure, writer.value, context);
		const unknown = new Set(written.filter((who) => !known.has(who)));
		const [owner] = unknown;
		const isOften = written.filter((who) => who === owner).length >= OWN;
		if (unknown.size !== 1 || !isOften || new Set(written).size <= OTHERS) continue;
		const value = [...writer.value.profile.distinct.keys()].find((v) => formOf(v) === owner);
		if (value === undefined) continue;
		const direction = bySender(writer.value, value, `${value} is the one writer whom no list of persons has: the owner`, m.direction, 0.75);
		// Of nobody else is it told where what the owner wrote went.
		const thread = m.thread ?? (m.threadJoin ? null : roomOfAll({ ...m, direction, sender: writer, peer: null }, context));
		if (!thread && !m.threadJoin) continue;
		Object.assign(m, { direction, thread, sender: writer, peer: null });
	}
}

const formOf = (value: string | number): string => normalAddress(String(value));

const valuesOf = (rows: MessageReading['sheet']['sure'], column: SheetColumn, { tables }: Context): string[] =>
	rows.slice(0, ROWS).flatMap((row) => {
		const value = keyOf(cell(row, column, tables));
		return value === null || value === 0 ? [] : [formOf(value)];
	});

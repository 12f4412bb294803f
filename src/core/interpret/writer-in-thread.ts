/** Conversations with one person each, named by a key, and beside it who wrote: that person, or one and the same other, the owner. */
import type { Context } from './context';
import { normalAddress } from './people';
import { keyOf, type Reference } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

export interface WriterInThread {
	/** From the messages to the list of conversations. */
	thread: Reference;
	writer: SheetColumn;
	owner: string | number;
}

const ROWS = 4000;
/** Numbers that can be keys of anything are taken on the word of the writers. */
const LEAST_CONFIDENCE = 0.25;
/** Rows of the other sides, and of the owner, at least. */
const ROWS_OF_EACH = 2;
/** Share of the conversations in which the other side must have written. */
const ANSWERED = 0.3;
/** Share that one and the same other writer must have of the rest. */
const OWNERS = 0.98;

export function writerInThread(sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): WriterInThread | null {
	const writers = sheet.columns.filter((c) => isWriter(c, sheet) && !used.has(c));
	const references = (context.references.get(sheet) ?? []).filter((r) => r.confidence >= LEAST_CONFIDENCE && !used.has(r.from));
	for (const thread of references)
		for (const address of thread.key.sheet.columns.filter((c) => isAddress(c, thread.key.sheet))) {
			const partners = partnersBy(thread, address, context);
			for (const writer of writers) {
				const owner = writer === thread.from ? null : ownerBeside(sheet, thread.from, writer, partners, context);
				if (owner !== null) return { thread, writer, owner };
			}
		}
	return null;
}

const isWriter = (c: SheetColumn, sheet: Sheet): boolean =>
	c.column >= 0 &&
	!c.profile.time &&
	!c.profile.many &&
	c.profile.texts > 0 &&
	c.profile.averageLength < 100 &&
	c.profile.distinct.size >= 2 &&
	c.profile.distinct.size <= sheet.sure.length * 0.6;

const isAddress = (c: SheetColumn, list: Sheet): boolean =>
	c.column >= 0 && c.profile.texts > 0 && c.profile.averageLength < 100 && c.profile.filled >= list.sure.length * ANSWERED;

const form = (value: string | number): string => normalAddress(String(value));

/** Each conversation's other side, by the value that names the conversation. */
function partnersBy({ key }: Reference, address: SheetColumn, { tables }: Context): Map<string, string> {
	const partners = new Map<string, string>();
	for (const row of key.sheet.rows) {
		const name = key.column ? keyOf(cell(row, key.column, tables)) : keyOf(row.rowid);
		const partner = keyOf(cell(row, address, tables));
		if (name !== null && partner !== null && !partners.has(String(name))) partners.set(String(name), form(partner));
	}
	return partners;
}

/** The one who writes beside the other sides of the conversations in which those write, or null. */
function ownerBeside(
	sheet: Sheet,
	thread: SheetColumn,
	writer: SheetColumn,
	partners: ReadonlyMap<string, string>,
	{ tables }: Context
): string | number | null {
	const rooms = new Map<string, { partners: number; others: Map<string | number, number> }>();
	for (const row of sheet.sure.slice(0, ROWS)) {
		const key = keyOf(cell(row, thread, tables));
		const who = keyOf(cell(row, writer, tables));
		const partner = key === null ? undefined : partners.get(String(key));
		if (who === null || partner === undefined) continue;
		const room = rooms.get(String(key)) ?? { partners: 0, others: new Map<string | number, number>() };
		rooms.set(String(key), room);
		if (form(who) === partner) room.partners++;
		else room.others.set(who, (room.others.get(who) ?? 0) + 1);
	}
	const answered = [...rooms.values()].filter((r) => r.partners > 0);
	const others = new Map<string | number, number>();
	for (const room of answered) for (const [who, n] of room.others) others.set(who, (others.get(who) ?? 0) + n);
	const [owner] = [...others].sort((a, b) => b[1] - a[1]);
	if (!owner || owner[1] < ROWS_OF_EACH || answered.length < rooms.size * ANSWERED) return null;
	const written = [...others.values()].reduce((a, b) => a + b, 0);
	const byPartners = answered.reduce((n, r) => n + r.partners, 0);
	return byPartners >= ROWS_OF_EACH && owner[1] >= written * OWNERS ? owner[0] : null;
}

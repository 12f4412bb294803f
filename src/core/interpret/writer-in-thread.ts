/** Conversations with one person each, named by a key, and beside it who wrote: that person, or one and the same other, the owner. */
import { endColumns } from './addressees';
import { addressShare } from './columns';
import type { Context } from './context';
import { TO_WHOM } from './party-words';
import { normalAddress } from './people';
import { isNamedAlike, isNameless, keyOf, type Key, type Reference } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

export interface WriterInThread {
	/** From the messages to the list of conversations. */
	thread: Reference;
	/** Of that list: whom each conversation is with. */
	partner: SheetColumn;
	writer: SheetColumn;
	owner: string | number;
	/** Where persons are named by a key: that of their list. */
	persons: Key | null;
}

const ROWS = 4000;
/** Numbers that can be keys of anything are taken on the word of the writers. */
const LEAST_CONFIDENCE = 0.25;
/** Rows of the other sides, and of the owner, at least. */
const ROWS_OF_EACH = 2;
/** Share of the conversations in which the other side must have written. */
const ANSWERED = 0.3;
/** Share of the conversations that must have another side of their own. */
const EACH_ITS_OWN = 0.6;
/** Share of the rows with a writer that may lack the conversation. */
const NOWHERE = 0.2;
/** Share of the rows that must have one: where the owner is named too, what he wrote does. */
const NAMED = 0.3;
/** Share that one and the same other writer must have of the rest. */
const OWNERS = 0.98;

/** `keyed`: whether persons are named by numbers of theirs, in the list of conversations and as writers, or by what is written. */
export function writerInThread(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	context: Context,
	lists: ReadonlySet<Sheet>,
	keyed: boolean
): WriterInThread | null {
	// Who is named and has a number is known by the number.
	const byAddress = (list: SheetColumn[]): SheetColumn[] => list.toSorted((a, b) => addressShare(b) - addressShare(a));
	const { canWrite } = endColumns(sheet, used, context);
	const canBe = byAddress(sheet.columns.filter((c) => isWriter(c, sheet) && !used.has(c) && isKeyed(c) === keyed && canWrite(c)));
	// Whom it was written to is beside the other sides as who wrote is.
	const writers = [...canBe.filter((c) => !TO_WHOM.test(c.name)), ...canBe.filter((c) => TO_WHOM.test(c.name))];
	// A list of conversations has a key that its program wrote.
	const isKept = (r: Reference): boolean => !isNameless(r.key, context.tables) || isNamedAlike(r.from, r.key.sheet);
	const references = (context.references.get(sheet) ?? []).filter(
		(r) => r.confidence >= LEAST_CONFIDENCE && !used.has(r.from) && isKept(r)
	);
	for (const thread of references) {
		const list = thread.key.sheet;
		// A column that is called for another list, and names its rows as surely, leads there.
		const isCalledFor = (o: Reference): boolean => o.from === thread.from && isNamedAlike(o.from, o.key.sheet);
		if (!isCalledFor(thread) && references.some((o) => isCalledFor(o) && o.confidence >= thread.confidence)) continue;
		const { rowidColumn, primaryKey } = context.tables[list.tables[0]!]!;
		const named = byAddress(list.columns.filter((c) => isAddress(c, list) && isKeyed(c) === keyed));
		for (const partner of named.filter((c) => !keyed || (c !== thread.key.column && c.column !== rowidColumn))) {
			// Rows that name the other side by its number are no conversation's.
			if (thread.key.column && addressShare(thread.key.column) > 0.6 && addressShare(partner) < 0.4) continue;
			// The list's own key, where its rows are named by something else, is the conversation and nobody in it.
			if (partner !== thread.key.column && primaryKey.length === 1 && partner.column === primaryKey[0]) continue;
			const partners = partnersBy(thread, partner, context);
			for (const writer of writers) {
				const owner = writer === thread.from ? null : ownerBeside(sheet, thread.from, writer, partners, context);
				const persons =
					owner === null ? null : keyed ? listOf(writer, owner, context, lists) : keyedBy(writer, thread, sheet, context, lists);
				// Numbers alone can be kinds of anything: they must be those of persons.
				if (owner !== null && (persons || !keyed)) return { thread, partner, writer, owner, persons };
			}
		}
	}
	return null;
}

/** Whether persons are named by numbers. */
const isKeyed = (c: SheetColumn): boolean => c.profile.texts === 0;

/** The key of a list of persons that all writers, but for the owner, are among. */
export function listOf(writer: SheetColumn, owner: string | number | null, { keys }: Context, lists: ReadonlySet<Sheet>): Key | null {
	const others = [...writer.profile.distinct.keys()].filter((v) => v !== owner);
	const fitting = keys.filter((k) => lists.has(k.sheet) && others.length > 1 && others.every((v) => k.values.has(v)));
	return fitting.sort((a, b) => a.values.size - b.values.size)[0] ?? null;
}

/** The list of persons that knows the writers by the key they are named by, where that says more than the key itself. */
const keyedBy = (writer: SheetColumn, thread: Reference, sheet: Sheet, { references }: Context, lists: ReadonlySet<Sheet>): Key | null =>
	(references.get(sheet) ?? []).find(
		(r) =>
			r.from === writer && lists.has(r.key.sheet) && r.key.sheet !== thread.key.sheet && r.confidence >= LISTED && r.key.column !== null
	)?.key ?? null;
const LISTED = 0.6;

const isWriter = (c: SheetColumn, sheet: Sheet): boolean =>
	c.column >= 0 &&
	!c.made?.words &&
	!c.profile.time &&
	!c.profile.many &&
	c.profile.reals + c.profile.blobs === 0 &&
	c.profile.averageLength < 100 &&
	c.profile.distinct.size >= 2 &&
	c.profile.distinct.size <= sheet.sure.length * 0.6;

const isAddress = (c: SheetColumn, list: Sheet): boolean =>
	c.column >= 0 &&
	c.profile.reals + c.profile.blobs === 0 &&
	!c.profile.time &&
	c.profile.averageLength < 100 &&
	c.profile.filled >= list.sure.length * ANSWERED;

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
	const rows = sheet.sure.slice(0, ROWS);
	let [nowhere, named] = [0, 0];
	for (const row of rows) {
		const key = keyOf(cell(row, thread, tables));
		const who = keyOf(cell(row, writer, tables));
		if (who !== null) named++;
		if (who !== null && key === null) nowhere++;
		const partner = key === null ? undefined : partners.get(String(key));
		if (who === null || partner === undefined) continue;
		const room = rooms.get(String(key)) ?? { partners: 0, others: new Map<string | number, number>() };
		rooms.set(String(key), room);
		if (form(who) === partner) room.partners++;
		else room.others.set(who, (room.others.get(who) ?? 0) + 1);
	}
	// The owner too writes in conversations: what many of his rows lack names the others.
	if (nowhere > rows.length * NOWHERE || named < rows.length * NAMED) return null;
	const answered = [...rooms.values()].filter((r) => r.partners > 0);
	// What is the same in most conversations is a kind of theirs.
	const each = new Set([...rooms.keys()].map((key) => partners.get(key)));
	if (each.size < rooms.size * EACH_ITS_OWN || (isKeyed(writer) && answered.length < 2)) return null;
	const others = new Map<string | number, number>();
	for (const room of answered) for (const [who, n] of room.others) others.set(who, (others.get(who) ?? 0) + n);
	const [owner] = [...others].sort((a, b) => b[1] - a[1]);
	if (!owner || owner[1] < ROWS_OF_EACH || answered.length < rooms.size * ANSWERED) return null;
	const written = [...others.values()].reduce((a, b) => a + b, 0);
	const byPartners = answered.reduce((n, r) => n + r.partners, 0);
	// With himself nobody has a conversation among others: such a one is a conversation's own name.
	if ([...partners.values()].includes(form(owner[0]))) return null;
	return byPartners >= ROWS_OF_EACH && owner[1] >= written * OWNERS ? owner[0] : null;
}

/**
 * Persons listed once for each conversation they take part in: a message names its conversation, and as its writer a
 * row of the list of participants, which names the same conversation again. Nothing but that list fits so.
 */
import { addressShare, bestText } from './columns';
import type { Context } from './context';
import { selfFlag } from './flagged-owner';
import { profileOf } from './profile';
import { isDeclared, isMeant, isNamedAlike, keyOf, referencesOf, type Key, type Reference } from './refs';
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

/** What was found of each sheet of a store, whose keys are its own. */
const FOUND = new WeakMap<Context['keys'], Map<Sheet, Participants | null>>();

/** How a sheet of messages names participants, or null where it does not. Asked once `openParticipants` has made its columns. */
export function participantsOf(sheet: Sheet, context: Context): Participants | null {
	const found = FOUND.get(context.keys) ?? new Map<Sheet, Participants | null>();
	FOUND.set(context.keys, found);
	if (!found.has(sheet)) found.set(sheet, find(sheet, context));
	return found.get(sheet)!;
}

function find(sheet: Sheet, context: Context): Participants | null {
	const refs = (context.references.get(sheet) ?? []).filter((r) => r.confidence >= LEAST_CONFIDENCE && r.key.sheet !== sheet);
	for (const writer of refs) {
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
		const owner = ownerAmong(list, person.from, context);
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
/** The person whom a flag marks as oneself in all the conversations that he takes part in. */
function ownerAmong(list: Sheet, person: SheetColumn, { tables }: Context): string | number | null {
	const flag = selfFlag(list);
	const marked = flag ? list.rows.filter((row) => row.standing === 'kept' && cell(row, flag, tables) === 1) : [];
	const persons = new Set(marked.map((row) => keyOf(cell(row, person, tables))));
	return persons.size === 1 ? [...persons][0]! : null;
}

/** Share of a person's list that must be names or addresses. */
const MOSTLY_NAMES = 0.6;

/** Of how many rows the writer's conversation is known, in how many conversations, and of how many it is the message's. */
interface Agreement {
	known: number;
	rooms: number;
	same: number;
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
	let [known, same] = [0, 0];
	for (const row of sheet.sure.slice(0, ROWS)) {
		const who = keyOf(cell(row, writer, tables));
		const room = keyOf(cell(row, thread, tables));
		const stated = who === null ? undefined : rooms.get(who);
		if (stated === undefined || room === null) continue;
		known++;
		if (stated === room) same++;
		seen.add(room);
		// However the rest agree, they are too few by now.
		if (known - same > ROWS * (1 - AGREE)) break;
	}
	return { known, rooms: seen.size, same };
}

function namesTheSame({ known, rooms, same }: Agreement, writer: Reference, thread: Reference, { tables }: Context): boolean {
	const isSaid = [writer, thread].every((r) => isDeclared(r, tables) || isNamedAlike(r.from, r.key.sheet));
	const [leastRows, leastRooms] = isSaid ? [1, 1] : [ROWS_LEAST, ROOMS_LEAST];
	return known >= leastRows && rooms >= leastRooms && same >= known * AGREE;
}

/** How unlikely it must be (natural logarithm of the odds) that writers by chance are all members of their conversations. */
const NO_CHANCE = 3;
const MEMBERS_AT_MOST = 20_000;
const AS_SURE = 0.1;

/**
 * Persons and conversations of which a third list says who takes part where: whoever is named as the writer of a message
 * is a member of its conversation. Small numbers are keys of anything, but no kind or state fits so.
 */
export function writerAmongMembers(sheet: Sheet, context: Context): Participants | null {
	const refs = (context.references.get(sheet) ?? []).filter((r) => r.key.sheet !== sheet && r.inclusion >= AGREE);
	// The surest of each column stands first: those much less sure are keys by chance.
	const isLikely = (r: Reference): boolean => r.confidence >= refs.find((o) => o.from === r.from)!.confidence - AS_SURE;
	const byKey = new Map<Key, Reference[]>();
	for (const r of refs) byKey.set(r.key, [...(byKey.get(r.key) ?? []), r]);
	for (const list of context.sheets) {
		if (list === sheet || list.rows.length > MEMBERS_AT_MOST) continue;
		const ends = (context.references.get(list) ?? []).filter(
			(r) => r.key.sheet !== sheet && r.inclusion >= AGREE && byKey.has(r.key) && isMeant(r, list, context.tables)
		);
		// The columns say it whatever rows they are keys of: of many tables with small numbers the same few columns are asked about.
		const lists = new Pairs((room, person) => {
			const members = membersIn(list, room, person, context);
			const are = members && new Pairs((writer, thread) => areMembers(sheet, writer, thread, members, context));
			const fits = (writer: SheetColumn, thread: SheetColumn): boolean => writer !== thread && are!.of(writer, thread);
			const [threads, writers] = [namedBy(ends, room, byKey, isLikely), namedBy(ends, person, byKey)];
			return are && threads.some((thread) => writers.some((writer) => fits(writer, thread))) ? fits : null;
		});
		for (const { room, person } of pairsOf(ends, (a, b) => lists.of(a, b) !== null)) {
			const fits = lists.of(room.from, person.from)!;
			for (const thread of byKey.get(room.key)!.filter(isLikely))
				for (const writer of byKey.get(person.key)!) if (fits(writer.from, thread.from)) return { writer, thread };
		}
	}
	return null;
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

/** The columns of messages that name what a list's column names. */
const namedBy = (
	ends: readonly Reference[],
	column: SheetColumn,
	byKey: ReadonlyMap<Key, readonly Reference[]>,
	isMeant: (r: Reference) => boolean = (): boolean => true
): SheetColumn[] => [
	...new Set(
		ends.flatMap((end) =>
			end.from === column
				? byKey
						.get(end.key)!
						.filter(isMeant)
						.map((r) => r.from)
				: []
		)
	)
];

/** The two ends that a list of members may have, those first of which the one is a list of persons and the other is none. */
function pairsOf(
	ends: readonly Reference[],
	canBe: (room: SheetColumn, person: SheetColumn) => boolean
): { room: Reference; person: Reference }[] {
	const pairs = ends.flatMap((room) =>
		ends
			.filter((r) => r.from !== room.from && r.key.sheet !== room.key.sheet && canBe(room.from, r.from))
			.map((person) => ({ room, person }))
	);
	const persons = new Map(ends.map((r) => [r.key.sheet, listsPersons(r)]));
	const rank = ({ room, person }: (typeof pairs)[number]): number =>
		Number(persons.get(person.key.sheet)) + Number(!persons.get(room.key.sheet));
	const sure = ({ room, person }: (typeof pairs)[number]): number => room.confidence + person.confidence;
	return pairs.sort((a, b) => rank(b) - rank(a) || sure(b) - sure(a));
}

/** Whether each row of a sheet has a name or an address of its own: calls and the like are numbered as persons are. */
const listsPersons = ({ key: { sheet } }: Reference): boolean =>
	sheet.columns.some(
		(c) =>
			c.column >= 0 &&
			c.profile.unique &&
			c.profile.filled >= sheet.sure.length * MOSTLY_FILLED &&
			(addressShare(c) > MOSTLY_NAMES || c.profile.name > MOSTLY_NAMES)
	);
const MOSTLY_FILLED = 0.8;

type Members = Map<string | number, Set<string | number>>;

/** Who takes part in which conversation, where a list has each pair once. */
function membersIn(list: Sheet, room: SheetColumn, person: SheetColumn, { tables }: Context): Members | null {
	const members: Members = new Map();
	let [all, pairs] = [0, 0];
	for (const row of list.sure) {
		// The same pair comes out of every earlier state of its page.
		if (row.standing !== 'kept') continue;
		const [key, who] = [keyOf(cell(row, room, tables)), keyOf(cell(row, person, tables))];
		if (key === null || who === null) continue;
		const known = members.get(key) ?? new Set();
		members.set(key, known);
		all++;
		if (!known.has(who)) pairs++;
		known.add(who);
	}
	return all > 0 && pairs >= all * AGREE ? members : null;
}

function areMembers(sheet: Sheet, writer: SheetColumn, thread: SheetColumn, members: Members, { tables }: Context): boolean {
	const persons = new Set([...members.values()].flatMap((names) => [...names])).size;
	const met = new Set<string>();
	let [all, inside, odds] = [0, 0, 0];
	for (const row of sheet.sure.slice(0, ROWS)) {
		const [who, room] = [keyOf(cell(row, writer, tables)), keyOf(cell(row, thread, tables))];
		const names = room === null ? undefined : members.get(room);
		if (who === null || who === 0 || !names) continue;
		all++;
		if (!names.has(who)) continue;
		inside++;
		const pair = `${room} ${who}`;
		if (!met.has(pair)) odds -= Math.log(names.size / persons);
		met.add(pair);
	}
	return all >= ROWS_LEAST && inside >= all * AGREE && odds >= NO_CHANCE;
}

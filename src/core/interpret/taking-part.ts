/**
 * Who wrote in which conversation, where a store says who takes part in each: in the list of conversations (whom each is
 * with) or in a list of its own. A message names its conversation itself or a join does, and its writer by a key, a number
 * or an address. Small numbers are keys of anything; but that all writers are among those who take part is no chance.
 */
import { canNameWriters, endColumns } from './addressees';
import { AskedOnce } from './asked-once';
import { markedAlone } from './flagged-owner';
import { addressShare } from './columns';
import type { Context } from './context';
import { identitiesOf, type Identities, type Naming } from './identities';
import { listOfParties } from './listed-parties';
import { participantsOf } from './participants';
import { normalAddress } from './people';
import type { MessageReading } from './reading';
import { isDeclared, isNamedAlike, keyOf, type Key, type Reference } from './refs';
import { AGREE, IN_SOME, listsOf, roomsOf, ROWS_LEAST, tellingRows, type Join, type List, type Members } from './rooms-and-members';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { ownerBySettings } from './settings';
import { isNamed, THREADS_NAMED } from './threads';

export interface TakingPart {
	/** What names a message's conversation: a column of its own, or a join. */
	thread: Reference | null;
	join: Join | null;
	/** Whether conversations have no list of their own: `thread` leads to the list of those who take part then. */
	isUnlisted: boolean;
	writer: SheetColumn;
	/** The list of persons that the writer is named by the key of, or null. */
	persons: Key | null;
	/** Who takes part, where a list of its own says it. */
	members: { sheet: Sheet; room: SheetColumn; by: Key | null; person: SheetColumn; personKey: Key | null } | null;
	/** Whom each conversation is with, where their list says it. */
	partner: { column: SheetColumn; key: Key | null } | null;
	/** Whether rows of conversations of two name the other side whoever wrote, as those of nobody's are in groups alone. */
	isPartner: boolean;
	/** Who writes in conversations that others only take part in, where the list leaves one out, or takes part in all. */
	owner: string | number | null;
}

const WRITERS_LEAST = 3;
const SURELY_CALLED = 0.9;
const ELSEWHERE = 0.5;
/** How unlikely it must be (natural logarithm of the odds) that the writers are so by chance. */
const NO_CHANCE = 3;

/** A sheet of messages, of which the text and the time are told. */
type Said = Pick<MessageReading, 'sheet' | 'text' | 'time'>;

/** A store's persons and its messages are read by it. */
const FOUND = new AskedOnce<Sheet, TakingPart | null>();

/**
 * How the messages of a sheet name conversations and writers, or null where nothing says who takes part, or something else
 * says it: a list of the participants of each conversation, or the message itself.
 */
export const takingPart = ({ sheet, text, time }: Said, context: Context): TakingPart | null =>
	FOUND.of(sheet, context, () => {
		const used = new Set([text.value, ...(time ? [time.value] : [])]);
		const isSaid =
			sheet.columns.some((c) => c.made?.inRooms) ||
			participantsOf(sheet, context) !== null ||
			listOfParties(sheet, used, context.tables) !== null;
		return isSaid ? null : find(sheet, used, context);
	});

function find(sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): TakingPart | null {
	const { ends, canWrite } = endColumns(sheet, used, context);
	const writers = sheet.columns.filter((c) => canNameWriters(c, sheet, context) && !used.has(c) && canWrite(c) && !namesTalks(c));
	if (writers.length === 0) return null;
	const identities = identitiesOf(context);
	const rows = tellingRows(sheet);
	const values = new Map<SheetColumn, Value[]>();
	let best: (TakingPart & { weight: number }) | null = null;
	for (const room of roomsOf(sheet, used, context)) {
		// What names one end of each message names no conversation.
		if (room.thread && (ends.has(room.thread.from) || isCalledForOther(room.thread.from, room.thread.key, sheet))) continue;
		const written = room.written();
		if (written.filter((key) => key !== null).length < written.length * IN_SOME) continue;
		for (const list of likeliest(listsOf(room, sheet, context), written)) {
			for (const writer of writers) {
				// In a list of persons each goes with himself, and conversations that have a list of their own write nothing.
				if (room.isUnlisted && (areOne(valuesOf(writer), written) || isCalledForOther(writer, room.key, sheet))) continue;
				if (writer === room.thread?.from || (list.own && isListed(writer, room.key.sheet, list.person))) continue;
				for (const way of waysToCompare(writer, list.person, sheet, list.sheet, room.key.sheet, identities)) {
					if (way.key && (isCalledForOther(writer, way.key, sheet) || isCalledForOther(list.person, way.key, list.sheet))) continue;
					const marked = way.key ? markedAlone(way.key, context) : null;
					const fit = fits(valuesOf(writer), writer, written, list.members(way.member), way.writer, marked);
					if (!fit) continue;
					const weight =
						Math.min(fit.odds, MUCH) +
						room.weight +
						(list.own ? 0 : 1) +
						(way.key ? KEYED : 0) +
						(list.room?.name === room.thread?.from.name ? CALLED : 0) +
						(list.person.name === writer.name ? CALLED : 0) +
						(fit.isSpanned ? SPANNED : 0) +
						fit.listed * ALL_LISTED +
						ownership(fit.owner ?? fit.everywhere, valuesOf(writer), written) +
						(isStated(writer, fit.owner ?? fit.everywhere) ? STATED : 0) +
						(isLeftOut(fit.owner ?? fit.everywhere, way.key) ? LEFT_OUT : 0) +
						calledAlike(room.key, list, way.memberKey, context) -
						(marked === null && listsPersons(room.key) && markedAlone(room.key, context) !== null ? OF_PERSONS : 0);
					if (best && weight <= best.weight) continue;
					const personKey = way.memberKey;
					best = {
						thread: room.thread,
						isUnlisted: room.isUnlisted ?? false,
						join: room.join,
						writer,
						persons: way.key,
						members: list.own ? null : { sheet: list.sheet, room: list.room!, by: list.by, person: list.person, personKey },
						partner: list.own && !list.isOfAll ? { column: list.person, key: personKey } : null,
						isPartner: fit.isPartner,
						owner: fit.owner ?? fit.everywhere,
						weight
					};
				}
			}
		}
	}
	return best;

	/** Whether the store's settings say that the one who is the owner then is. */
	function isStated(writer: SheetColumn, owner: string | number | null): boolean {
		return owner !== null && ownerBySettings(writer, sheet, context.stated ?? [], context.tables) === owner;
	}

	/** Of each row who wrote it: under whichever of his accounts, the owner. */
	function valuesOf(writer: SheetColumn): Value[] {
		const known = values.get(writer) ?? rows.map((row) => asOneOwner(keyOf(cell(row, writer, context.tables)), context));
		values.set(writer, known);
		return known;
	}

	/** Whether a column is called for conversations and declared, or called, the key of their list. */
	function namesTalks(column: SheetColumn): boolean {
		const [first] = (context.references.get(sheet) ?? []).filter((r) => r.from === column);
		if (!first || !THREADS_NAMED.test(first.key.sheet.name) || !isNamedAlike(column, first.key.sheet)) return false;
		return first.confidence > SURELY_CALLED || isDeclared(first, context.tables);
	}

	/** Whether a column is surely a key of another list, and called for it: who wrote, or takes part, is not to be told by it. */
	function isCalledForOther(column: SheetColumn, { sheet: persons }: Key, of: Sheet): boolean {
		const [first] = (context.references.get(of) ?? []).filter((r) => r.from === column);
		return first !== undefined && first.key.sheet !== persons && first.confidence > SURELY_CALLED && isNamedAlike(column, first.key.sheet);
	}

	/** Whether a list of persons has those whom a column names: as its rows, and not as whom of another list it says each is with. */
	function isListed(writer: SheetColumn, list: Sheet, partner: SheetColumn): boolean {
		const { references } = context;
		const isOfOthers = (references.get(list) ?? []).some(
			({ from, key, confidence }) => from === partner && ![list, sheet].includes(key.sheet) && confidence > ELSEWHERE && isNamed(key.sheet)
		);
		const isRow = ({ from, key }: Reference): boolean => from === writer && key.sheet === list && (key.column !== partner || !isOfOthers);
		return isNamed(list) && (references.get(sheet) ?? []).some(isRow);
	}
}

function asOneOwner(who: Value, { accounts }: Context): Value {
	const [first, ...others] = accounts ?? [];
	return typeof who === 'string' && others.some((one) => normalAddress(one) === normalAddress(who)) ? first! : who;
}

/** Who wrote beside a column of the other sides: whom that names, by whatever key or address, or one and the same other, the owner. */
export function writerBesideParty(
	sheet: Sheet,
	party: SheetColumn,
	used: ReadonlySet<SheetColumn>,
	context: Context
): { column: SheetColumn; owner: string | number } | null {
	const written = tellingRows(sheet).map((row) => keyOf(cell(row, party, context.tables)));
	const partners = new Set(written.filter((who) => who !== null));
	for (const column of sheet.columns) {
		if (column === party || used.has(column) || !canNameWriters(column, sheet, context)) continue;
		for (const way of waysToCompare(column, party, sheet, sheet, sheet, identitiesOf(context))) {
			const members = new Map([...partners].map((who) => [who, new Set([way.member(who)])]));
			const who = tellingRows(sheet).map((row) => keyOf(cell(row, column, context.tables)));
			const fit = fits(who, column, written, members, way.writer, null);
			if (fit && fit.owner !== null) return { column, owner: fit.owner };
		}
	}
	return null;
}

/** Odds beyond which more of them say nothing more. */
const MUCH = 12;
const KEYED = 0.5;
/** The same called alike in both. */
const CALLED = 0.75;
/** Where one writes in nearly all conversations: of two columns that name each other's the other one is that of writers. */
const SPANNED = 2;
/** That all conversations somebody is named in are listed: read the other way round, a list of pairs leaves out some. */
const ALL_LISTED = 3;
/** One who takes part in all of them, or writes in all and is listed in none, is the owner: hardly a conversation is so. */
const OWNED = 3;
/** Where two columns name each other's: the owner writes much in each conversation, and in one that all write in few do. */
const WRITING = 12;
/** Whether each row of a list has a number or an address. */
const listsPersons = ({ sheet }: Key): boolean =>
	sheet.columns.some((c) => addressShare(c) > 0.9 && c.profile.unique && c.profile.filled >= sheet.sure.length * SURELY_CALLED);

/** What it weighs against a list of conversations that one of its rows, which all have numbers, is marked as oneself: it is of persons. */
const OF_PERSONS = 12;
/** What it weighs that the settings say that. */
const STATED = 12;

/** Whether each of two columns' values goes with one of the other's. */
function areOne(writers: readonly Value[], written: readonly Value[]): boolean {
	const [rooms, names] = [new Map<Value, Value>(), new Map<Value, Value>()];
	return writers.every((who, i) => {
		const room = written[i] ?? null;
		if (who === null || room === null) return true;
		const same = (rooms.get(who) ?? room) === room && (names.get(room) ?? who) === who;
		rooms.set(who, room);
		names.set(room, who);
		return same;
	});
}

/** Conversations of two that must be comparable; and what it says that they are called as those they are with, or as others. */
const TALKS_LEAST = 2;
const ALIKE = 2;

/**
 * Two lists of few rows can each be that of the conversations and that of the persons: a conversation of two has the
 * number or the name of whom it is with, where it has any.
 */
function calledAlike(talks: Key, list: List, persons: Key | null, { tables }: Context): number {
	if (!persons || list.own || list.by || talks.sheet === persons.sheet) return 0;
	const textsBy = ({ sheet, column }: Key): Map<string, Set<string>> =>
		new Map(
			sheet.rows
				.slice(0, CALLED_AT_MOST)
				.map((row) => [
					String(column ? keyOf(cell(row, column, tables)) : row.rowid),
					new Set(row.values.filter((v): v is string => typeof v === 'string' && v.length >= CALLED_LEAST))
				])
		);
	const [ofTalks, ofPersons] = [textsBy(talks), textsBy(persons)];
	const everybody = new Set([...ofPersons.values()].flatMap((texts) => [...texts]));
	let [comparable, alike] = [0, 0];
	for (const [talk, names] of list.members(String)) {
		const [who, more] = names;
		const [here, there] = [ofTalks.get(String(talk)), ofPersons.get(who ?? '')];
		if (more !== undefined || !here || !there || ![...here].some((text) => everybody.has(text))) continue;
		comparable++;
		if ([...here].some((text) => there.has(text))) alike++;
	}
	return comparable < TALKS_LEAST ? 0 : alike * 2 > comparable ? ALIKE : -ALIKE;
}
const CALLED_LEAST = 3;
const CALLED_AT_MOST = 2000;

/** A list of persons leaves out the one whose it is; one of conversations leaves out none. */
const LEFT_OUT = 1;
const isLeftOut = (owner: string | number | null, persons: Key | null): boolean =>
	owner !== null && persons !== null && persons.column !== null && !persons.values.has(owner);

/** What it says that one is the owner: by the share of each conversation that he wrote. */
function ownership(owner: string | number | null, writers: readonly Value[], written: readonly Value[]): number {
	if (owner === null) return 0;
	const rooms = new Map<Value, { rows: number; own: number }>();
	for (const [i, who] of writers.entries()) {
		const room = rooms.get(written[i] ?? null) ?? { rows: 0, own: 0 };
		room.rows++;
		if (who === owner) room.own++;
		rooms.set(written[i] ?? null, room);
	}
	const shares = [...rooms.values()].filter(({ rows }) => rows >= SPANNED_ROWS).map(({ rows, own }) => own / rows);
	return OWNED + (shares.length === 0 ? 0 : (WRITING * shares.reduce((sum, share) => sum + share, 0)) / shares.length);
}

/** As it is written. */
const plain: Naming = (value) => normalAddress(String(value));

interface Way {
	writer: Naming;
	member: Naming;
	key: Key | null;
	memberKey: Key | null;
}

/** How the values of two columns that name persons may be compared: as they are, or by the persons they are keys or addresses of. */
function waysToCompare(writer: SheetColumn, member: SheetColumn, sheet: Sheet, list: Sheet, talks: Sheet, identities: Identities): Way[] {
	const keysBy = (of: Sheet, c: SheetColumn): Key[] => identities.keysBy(of, c).filter((key) => key.sheet !== list && key.sheet !== talks);
	// An address says by itself who it is.
	const [ofWriter, ofMember] = [addressShare(writer) > 0.4 ? [] : keysBy(sheet, writer), keysBy(list, member)];
	const same = ofWriter.find((k) => ofMember.includes(k)) ?? ofWriter[0] ?? null;
	const ways: Way[] = [{ writer: plain, member: plain, key: same, memberKey: same ?? ofMember[0] ?? null }];
	if (addressShare(writer) > 0.4)
		for (const memberKey of ofMember) ways.push({ writer: identities.byAddress, member: identities.by(memberKey), key: null, memberKey });
	const isAddressed = addressShare(member) > 0.4;
	for (const key of ofWriter) {
		const byKey = identities.by(key);
		if (isAddressed) ways.push({ writer: byKey, member: identities.byAddress, key, memberKey: null });
		for (const memberKey of ofMember) if (memberKey !== key) ways.push({ writer: byKey, member: identities.by(memberKey), key, memberKey });
	}
	return ways;
}

type Value = string | number | null;

/** Of many lists of numbers those that can say who takes part: in most conversations some, the fewest first. */
function likeliest(lists: readonly List[], written: readonly Value[]): List[] {
	const rooms = [...new Set(written)].filter((room) => room !== null);
	return lists
		.flatMap((list) => {
			const members = list.members(plain);
			const sizes = rooms.map((room) => members.get(room)?.size ?? 0).filter((size) => size > 0);
			const canBe = sizes.length >= rooms.length * LISTED && mostOdds(written, members) >= NO_CHANCE - MARKED_SO;
			return canBe ? [{ list, size: sizes.reduce((a, b) => a + b, 0) / sizes.length }] : [];
		})
		.sort((a, b) => a.size - b.size)
		.slice(0, LISTS_ASKED)
		.map(({ list }) => list);
}
/** Share of the conversations of which a list must say who takes part: one of other sides leaves out groups. */
const LISTED = 0.3;
const LISTS_ASKED = 24;

/** How unlikely it can be at most that writers take part by chance: lists in which all do say nothing. */
function mostOdds(written: readonly Value[], members: Members): number {
	const lists = [...new Set(written)].flatMap((room) => (room === null ? [] : [members.get(room) ?? new Set<string>()]));
	const persons = new Set(lists.flatMap((names) => [...names])).size;
	return lists.reduce((sum, names) => sum - names.size * Math.log(Math.max(1, names.size) / Math.max(1, persons)), 0);
}

interface Fit {
	odds: number;
	owner: string | number | null;
	everywhere: string | number | null;
	isSpanned: boolean;
	isPartner: boolean;
	/** Share of the conversations in which somebody is named that the list has. */
	listed: number;
}

/** Of few conversations the members say little; that one takes part in all, and alone is marked in the list of persons, says more. */
const MARKED = 2;
const MARKED_SO = 2.5;

/**
 * Whether writers are among those who take part, and how little that can be chance; and the one who never is. `marked`: the
 * one whom the list of persons marks alone.
 */
function fits(
	writers: readonly Value[],
	writer: SheetColumn,
	written: readonly Value[],
	members: Members,
	name: Naming,
	marked: ReturnType<typeof markedAlone>
): Fit | null {
	const inRooms = [...new Set(written)].flatMap((room) => (room === null ? [] : [...(members.get(room) ?? [])]));
	const persons = new Set(inRooms).size;
	const named = new Set<string | number>();
	const met = new Set<string>();
	const outside = new Map<string | number, number>();
	let [inside, odds, all, most] = [0, 0, 0, 0];
	for (const [i, who] of writers.entries()) {
		const room = written[i] ?? null;
		const names = room === null ? undefined : members.get(room);
		if (who === null || who === 0 || !names) continue;
		const called = name(who);
		if (!names.has(called)) {
			const n = (outside.get(who) ?? 0) + 1;
			outside.set(who, n);
			all++;
			most = Math.max(most, n);
			// However the rest fit, too many do not: but for one, who can be the owner.
			if (all - most > writers.length * (1 - AGREE)) return null;
			continue;
		}
		inside++;
		named.add(who);
		const pair = `${room} ${called}`;
		if (!met.has(pair)) odds -= Math.log(names.size / persons);
		met.add(pair);
	}
	const [owner] = [...outside].sort((a, b) => b[1] - a[1]);
	const lists = [...new Set(written)].flatMap((room) => (room === null ? [] : [members.get(room) ?? new Set<string>()]));
	const isMarked = marked !== null && named.has(marked.who) && lists.length > 1 && lists.every((names) => names.has(name(marked.who)));
	const told = odds + (isMarked ? (marked.isCalledSo ? MARKED_SO : MARKED) : 0);
	if (inside < ROWS_LEAST || told < NO_CHANCE || all - most > inside * (1 - AGREE)) return null;
	// Of one or two small numbers it is chance still: kinds, boxes, states.
	if (named.size < WRITERS_LEAST && writer.profile.texts === 0) return null;
	const isOwner = owner !== undefined && owner[1] > inside * (1 - AGREE);
	// Who is a member elsewhere is not the owner.
	if (isOwner && inRooms.includes(name(owner[0]))) return null;
	const present = lists.length < ROOMS_LEAST ? [] : [...named].filter((who) => lists.every((names) => names.has(name(who))));
	const everywhere = present.length === 1 ? present[0]! : isMarked && lists.length < ROOMS_LEAST ? marked.who : null;
	return {
		odds,
		owner: isOwner ? owner[0] : null,
		everywhere,
		...spread(writers, written, members),
		listed: listedShare(writers, written, members)
	};
}

function listedShare(writers: readonly Value[], written: readonly Value[], members: Members): number {
	const rooms = new Set(written.filter((room, i) => room !== null && writers[i] !== null && writers[i] !== 0));
	return [...rooms].filter((room) => members.has(room!)).length / Math.max(1, rooms.size);
}

/** In how many conversations one writes, and whether nobody is named in those of two. */
function spread(writers: readonly Value[], written: readonly Value[], members: Members): Pick<Fit, 'isSpanned' | 'isPartner'> {
	const rowsOf = new Map<string | number, number>();
	const writtenBy = new Map<string | number | null, Set<string | number>>();
	for (const [i, who] of writers.entries()) {
		const room = written[i] ?? null;
		if (room === null) continue;
		rowsOf.set(room, (rowsOf.get(room) ?? 0) + 1);
		writtenBy.set(who, (writtenBy.get(who) ?? new Set()).add(room));
	}
	const often = [...rowsOf].flatMap(([room, rows]) => (rows >= SPANNED_ROWS ? [room] : []));
	const isSpanned = [...writtenBy.values()].some((rooms) => often.filter((room) => rooms.has(room)).length > often.length * SPANNING);
	const ofTwo = often.filter((room) => members.get(room)?.size === 1);
	const nameless = new Set([...(writtenBy.get(null) ?? []), ...(writtenBy.get(0) ?? [])]);
	const answered = ofTwo.filter((room) => nameless.has(room)).length;
	return { isSpanned, isPartner: nameless.size > 0 && ofTwo.length > 0 && answered < ofTwo.length * ANSWERED };
}
/** Share of the conversations of two in which the owner must have written. */
const ANSWERED = 0.5;
const SPANNED_ROWS = 3;
const SPANNING = 0.8;
const ROOMS_LEAST = 3;

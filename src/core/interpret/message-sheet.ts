/** Gives the columns of a sheet of messages their roles. */
import { type Ends, endColumns } from './addressees';
import { listed, namesNobody, takeTold, threadTold, wayTold, writerTold } from './as-told';
import { addressShare, areKeys, isConstant, isFurtherTime, isHandleLike, TABLE_NAME } from './columns';
import { findReply } from './companions';
import type { Context } from './context';
import { saysWay } from '../way-words';
import { decideDirection, flagBeside, wayByNaming } from './direction';
import { bySender } from './direction-rules';
import { isPath, isSizeNamed } from './files';
import { flaggedOwner } from './flagged-owner';
import { findDeletedFlag } from './deleted-flag';
import { findOtherKinds } from './kinds';
import {
	assignParties,
	groupBeside,
	holdsTogether,
	isOfFew,
	isLongNumber,
	isNameLike,
	isPairName,
	mixedParties,
	nameBeside,
	namedPair,
	ownerAmongWriters,
	ownersOfPair,
	ownWriter,
	repeatsParty,
	writerBesidePeer,
	writesEverywhere
} from './parties';
import { participantsOf } from './participants';
import { FROM_WHOM } from './party-words';
import { pairedWriter } from './paired-writer';
import { nameIn } from './people';
import { blankReading, type DirectionRule, type Guess, type MessageReading, type PersonReading } from './reading';
import { isDeclared, isNamedAlike, keyOf, type Key, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';
import { partnersAndRooms, type PartnersAndRooms } from './partners-and-rooms';
import { findThreadJoin, isJoin, isThreadKey, looksLikeThreads } from './threads';
import { listedReactions, listedWordings } from './listed-within';
import { listOfParties, type ListOfParties } from './listed-parties';
import { namedOwner } from './named-owner';
import { takingPart, writerBesideParty } from './taking-part';
import { roomOfAll } from './room-of-all';
import { restates, writesInRooms } from './writer-in-rooms';
import { writerInThread, type WriterInThread } from './writer-in-thread';

export function readMessages(
	sheet: Sheet,
	text: Guess<SheetColumn>,
	time: MessageReading['time'],
	context: Context,
	persons: PersonReading[]
): MessageReading {
	// Of several tables of one shape each counts its own rows.
	const isOwn = (c: SheetColumn): boolean => sheet.family && isOwnNumber(c, sheet, context.tables);
	const refs = (context.references.get(sheet) ?? []).filter(
		(r) => r.from !== text.value && r.from !== time?.value && !isOwn(r.from) && !r.from.made?.stated
	);
	const personSheets = new Set(persons.map((p) => p.sheet));
	const used = new Set<SheetColumn>([text.value, ...(time ? [time.value] : [])]);
	for (const c of sheet.columns)
		if (c.made?.stated || (time && goesOnWithTime(c, time, sheet, context)) || isOfOtherRows(c, text, sheet, context)) used.add(c);
	const best = new Map<SheetColumn, Reference>();
	for (const r of refs) if (!best.has(r.from) && r.confidence >= 0.45 && !isJoin(r.key.sheet, context)) best.set(r.from, r);
	leaveToNamed(best, refs);
	ratherPersons(best, refs, personSheets, context);
	toTheEnd(best, refs, personSheets, context);
	preferThreads(best, refs, sheet, personSheets, context);
	alikeAtBothEnds(best, refs, personSheets, endColumns(sheet, used, context).pairs);
	const participants = participantsOf(sheet, context);
	if (participants) {
		best.set(participants.writer.from, participants.writer);
		best.set(participants.thread.from, participants.thread);
	}
	const lists = listOfParties(sheet, used, context.tables);
	if (lists) used.add(lists.column);
	const inRooms = sheet.columns.find((c) => c.made?.inRooms);
	if (inRooms) used.add(inRooms);
	const told = listed(takingPart({ sheet, text, time }, context), personSheets, context);
	// What has members, of whom the writers are some, is no list of persons, unless it has addresses of its own.
	const nameless = new Set(persons.filter((p) => p.addresses.length === 0).map((p) => p.sheet));
	if (participants && nameless.has(participants.thread.key.sheet)) personSheets.delete(participants.thread.key.sheet);
	for (const c of sheet.columns) if (inRooms && c.column === inRooms.column) best.delete(c);
	const { written, parties, beside, apart } = told
		? { written: null, parties: [writerTold(told)], beside: null, apart: undefined }
		: whoWith(sheet, used, best, personSheets, context);
	const talks = told || written || beside || apart ? null : talksBesideWriters(sheet, parties, context);
	if (talks) {
		personSheets.delete(talks.key!.sheet);
		parties.splice(parties.indexOf(talks), 1);
	}
	// Addresses of the conversations, where their list has them, say in a group whose it is, and not who wrote.
	if (participants && !apart && personSheets.has(participants.writer.key.sheet))
		parties.splice(
			0,
			parties.length,
			...parties.filter(
				(p) => p.key !== null || p.value === participants.writer.from || !areListedIn(p.value, participants.thread.key.sheet)
			)
		);
	// A group in which all write goes with every one of them, as the owner does.
	const ofThreads = [...best].flatMap(([c, r]) => (r.confidence >= HARDLY && !personSheets.has(r.key.sheet) ? [c] : []));
	const paired = told || written || beside || apart ? null : pairedAmong(sheet, parties, new Set([...used, ...ofThreads]), context);
	if (apart) best.delete(apart.writer);
	if (paired) {
		used.add(paired.column);
		best.delete(paired.column);
		parties.splice(0, parties.length, ...parties.filter((p) => p.value !== paired.column));
	}
	const { thread, threadJoin } = written
		? { thread: threadOf(written), threadJoin: null }
		: told
			? { thread: told.thread && threadTold(told.thread, told.isUnlisted), threadJoin: told.join }
			: lists
				? { thread: threadOfLists(lists), threadJoin: null }
				: // Of whom a message is with, and who wrote it, neither is taken away.
					threadIn(sheet, used, best, apart ? [...parties] : parties, personSheets, context);
	const reading: MessageReading = { ...blankReading(sheet, text, time), thread, threadJoin };
	if (lists && !written) reading.threadLists = { owner: lists.owner };
	if (written) reading.threadPeer = { column: written.partner, key: written.persons };
	if (told) takeTold(reading, told);
	if (apart) [reading.peer, reading.participant] = [parties[0]!, parties[1]!];
	else assignParties(reading, parties, context);
	if (beside?.hasRooms) takeRooms(reading, beside);
	namedInRoomsOnly(reading, context);
	if (inRooms && !reading.participant && (!reading.sender || reading.recipient))
		reading.participant = {
			value: inRooms,
			key: refs.find((r) => r.from === inRooms && personSheets.has(r.key.sheet))?.key ?? null,
			confidence: 0.8,
			evidence: ['it stands in what others wrote in rooms']
		};
	const writes = reading.ownParticipant;
	reading.guid =
		sheet.columns.find((c) => c.profile.uuid > 0.8 && c.profile.unique && c.profile.filled > sheet.sure.length * NAMED) ?? null;
	const writers = [reading.sender, reading.participant, written && { value: written.writer, key: written.persons }];
	const named = withOwnOthers(namedOwner(writers, sheet, context), reading, context);
	let direction = named ?? flaggedOwner([...writers, reading.peer], context) ?? decideDirection(reading, context);
	if (apart && !apart.isFull && !named) direction = wayByNaming(direction, apart.writer, reading, context);
	if (told && !told.isPartner && direction.value.kind !== 'sender') direction = wayTold(direction, told, reading, context);
	if (paired && direction.confidence < 0.95)
		direction = bySender(
			paired.column,
			paired.owner,
			`${paired.owner} goes with every other side, and each of its other values with one: the owner`,
			direction
		);
	if (beside && direction.confidence < 0.95)
		direction = bySender(beside.writer, beside.owner, `the writer is the other side, or ${beside.owner}: the owner`, direction);
	if (written && direction.confidence < 0.95)
		direction = bySender(
			written.writer,
			written.owner,
			`the writer is the one whom its conversation names, or ${written.owner}: the owner`,
			direction
		);
	if (writes !== null && direction.confidence < 0.95)
		direction = bySender(
			reading.participant!.value,
			writes,
			`${writes} writes in most of the threads, and is the other side of none: the owner`,
			direction,
			0.85
		);
	// Of several who stand in a column, and nothing else says who wrote, one is the owner: they are the writers.
	if (direction.value.kind === 'unknown' && reading.peer && reading.peer.value.profile.distinct.size > 1)
		direction = namedOwner([reading.peer], sheet, context) ?? direction;
	reading.direction = direction;
	const self = !apart && !reading.sender && reading.peer ? ownWriter(reading, context) : null;
	if (self !== null) {
		const rule = { kind: 'sender' as const, column: reading.peer!.value, owner: [self] };
		reading.direction = {
			...direction,
			value: rule,
			evidence: [...direction.evidence, 'all of the sent rows have one writer, and no received row has that one']
		};
	}
	if (reading.direction.value.kind === 'sender' && !reading.sender && reading.peer && !reading.participant && !paired) {
		reading.sender = reading.peer;
		reading.peer = null;
	}
	if (reading.peer?.value.made?.writer && !reading.sender) {
		reading.sender = reading.peer;
		reading.peer = null;
	}
	if (told && namesNobody(told)) reading.peer = reading.sender = null;
	if (!reading.thread && !threadJoin) reading.thread = roomOfAll(reading, context);
	reading.directionElse = flagBeside(reading, context);
	reading.peerName = nameBeside(reading, context);
	reading.group = groupBeside(reading, context);
	reading.deleted = findDeletedFlag(reading, context);
	reading.otherKinds = findOtherKinds(reading, namesOf(persons, context), context);
	reading.replyTo = findReply(reading, context.tables);
	reading.wordings = listedWordings(sheet, context.tables);
	reading.listedReactions = listedReactions(sheet, context.tables);
	return reading;
}

/** Whether a column's values stand in one of a list's as well: addresses of its conversations. */
const areListedIn = ({ profile: { distinct } }: SheetColumn, list: Sheet): boolean =>
	list.columns.some(
		(c) => addressShare(c) > 0.4 && [...distinct.keys()].filter((v) => c.profile.distinct.has(v)).length >= distinct.size * NEARLY_ALL
	);
const NEARLY_ALL = 0.9;

/** Whether a column is filled in none of the rows that have a text, though they are many: what joins or leaves states it. */
export function isOfOtherRows(c: SheetColumn, text: Guess<SheetColumn>, { sure }: Sheet, { tables }: Pick<Context, 'tables'>): boolean {
	const { filled } = c.profile;
	if (c === text.value || c.column < 0 || filled < OTHERS_LEAST || filled > sure.length * MOST_OTHERS || c.profile.texts < filled)
		return false;
	const rows = sure.slice(0, PERIOD_ROWS);
	const isIn = (row: (typeof rows)[number], column: SheetColumn): boolean =>
		![null, ''].includes(keyOf(cell(row, column, tables)) as string | null);
	return rows.some((row) => isIn(row, c)) && rows.every((row) => !isIn(row, c) || !isIn(row, text.value));
}
const OTHERS_LEAST = 3;
const MOST_OTHERS = 0.5;

/** Numbers that only grow as time goes on, each of many rows: days, weeks, sessions. */
function goesOnWithTime(c: SheetColumn, time: NonNullable<MessageReading['time']>, sheet: Sheet, { tables }: Context): boolean {
	const p = c.profile;
	if (c === time.value || c.column < 0 || p.ints < p.filled || p.many || p.distinct.size < PERIODS || p.distinct.size > p.filled * 0.8)
		return false;
	const rows = sheet.sure.slice(0, PERIOD_ROWS).flatMap((row) => {
		const [at, n] = [timeOf(cell(row, time.value, tables), time.reading), cell(row, c, tables)];
		return at !== null && typeof n === 'number' ? [{ at, n }] : [];
	});
	rows.sort((a, b) => a.at - b.at);
	return rows.length > p.distinct.size && rows.every(({ n }, i) => i === 0 || n >= rows[i - 1]!.n);
}
const PERIODS = 8;
const PERIOD_ROWS = 2000;

/**
 * Where a writer is named in rooms only, a column that tells conversations apart names the other side in all the others:
 * by the keys by which those writers are known.
 */
function namedInRoomsOnly(reading: MessageReading, context: Context): void {
	const { sheet, peer, thread } = reading;
	if (!peer?.key || thread?.key || reading.participant || reading.sender || reading.recipient) return;
	const columns = thread ? [thread.value] : sheet.columns.filter((c) => c !== peer.value && isThreadKey(c, sheet));
	const talks = columns.find(
		(c) => c.column >= 0 && c.column !== peer.value.column && namesPartners(c, peer.value, peer.key!, sheet, context)
	);
	if (!talks) return;
	reading.participant = peer;
	const evidence = [`its values name rows of ${peer.key.sheet.name}, but for those of rooms`];
	reading.peer = { value: talks, key: peer.key, confidence: peer.confidence, evidence };
	reading.thread = null;
}

/** Whether a column names persons where none is named as the writer, and none where one is. */
function namesPartners(talks: SheetColumn, writer: SheetColumn, { values }: Key, sheet: Sheet, { tables }: Context): boolean {
	let [within, rooms, without, partners] = [0, 0, 0, 0];
	for (const row of sheet.sure.slice(0, 4000)) {
		const talk = keyOf(cell(row, talks, tables));
		if (talk === null) continue;
		const isPartner = values.has(talk) || values.has(String(talk));
		if (keyOf(cell(row, writer, tables)) !== null) {
			within++;
			if (!isPartner) rooms++;
		} else {
			without++;
			if (isPartner) partners++;
		}
	}
	// Of what the owner wrote in rooms nobody is named either.
	return within >= FEW_NAMED && without >= FEW_NAMED && rooms >= within * ALL_THREADS && partners >= without * TO_PARTNERS;
}
const TO_PARTNERS = 0.3;

/** Names of persons, the longest first. */
const namesOf = (persons: readonly PersonReading[], { tables }: Context): string[] =>
	persons
		.flatMap((p) => p.sheet.sure.slice(0, NAMES_AT_MOST).map((row) => nameIn(p, row, tables)))
		.filter((name) => name !== null && name.length >= SHORTEST_NAME)
		.sort((a, b) => b!.length - a!.length) as string[];
const NAMES_AT_MOST = 2000;
const SHORTEST_NAME = 3;

type Party = Guess<SheetColumn> & { key: Key | null };

const writerOf = ({ writer, thread, persons }: WriterInThread): Party => ({
	value: writer,
	key: persons,
	confidence: 0.8,
	evidence: [`it holds the one whom ${thread.key.sheet.name} names for the conversation, or one and the same other`]
});

const threadOf = ({ thread }: WriterInThread): MessageReading['thread'] => ({
	value: thread.from,
	key: thread.key,
	confidence: Math.max(0.8, thread.confidence),
	evidence: [`its values name rows of ${thread.key.sheet.name}, and those the writers of the received messages`]
});

const threadOfLists = ({ column }: ListOfParties): MessageReading['thread'] => ({
	value: column,
	key: null,
	confidence: 0.85,
	evidence: ['each of its values lists who takes part, and they recur']
});

/** The writer beside the other side: a column that is no party, or one of two that are. */
function pairedAmong(
	sheet: Sheet,
	parties: readonly Party[],
	used: ReadonlySet<SheetColumn>,
	context: Context
): ReturnType<typeof pairedWriter> {
	if (parties.length === 1) {
		const peer = parties[0]!.value;
		return pairedWriter(sheet, peer, used, context) ?? writerBesideParty(sheet, peer, used, context);
	}
	if (parties.length !== 2) return null;
	const [a, b] = parties.map((p) => p.value) as [SheetColumn, SheetColumn];
	const others = new Set([...used, ...sheet.columns.filter((c) => c !== a && c !== b)]);
	// A number of the other side says more than a key does.
	const [peer, writer] = addressShare(b) > addressShare(a) ? [b, a] : [a, b];
	return (
		pairedWriter(sheet, peer, others, context) ??
		writerBesideParty(sheet, peer, others, context) ??
		pairedWriter(sheet, writer, others, context)
	);
}

/** Of two columns that name rows of two lists the one of conversations: in each of its rows one and the same writes, others in few. */
function talksBesideWriters(sheet: Sheet, parties: readonly Party[], context: Context): Party | null {
	const [a, b, more] = parties;
	if (!a?.key || !b?.key || more || a.key.sheet === b.key.sheet) return null;
	// What has numbers of its own, or is one, is somebody.
	const isSomebody = ({ value, key }: Party): boolean => addressShare(value) > 0.4 || key!.sheet.columns.some((c) => addressShare(c) > 0.6);
	const writes = (talk: Party, writer: Party): boolean =>
		!isSomebody(talk) && writesEverywhere(sheet, talk.value, writer.value, context) > 0;
	const [ofA, ofB] = [writes(a, b), writes(b, a)];
	if (ofA !== ofB) return ofA ? a : b;
	// With one group of all both can be: then their names say it.
	const [writesA, writesB] = [a, b].map((p) => FROM_WHOM.test(p.value.name)) as [boolean, boolean];
	return ofA && writesA !== writesB ? (writesB ? a : b) : null;
}

/** Who wrote beside the other side; `key`: of the list of persons that both are named by, where they are. */
type WriterBeside = NonNullable<ReturnType<typeof writerBesidePeer>> & { key: Key | null };

/** Of other sides of which some are rooms each row says who wrote as well. */
function takeRooms(reading: MessageReading, { writer, owner, key }: WriterBeside): void {
	reading.participant = {
		value: writer,
		key,
		confidence: 0.8,
		evidence: ['it holds the other side, the owner, or who wrote in a room']
	};
	reading.ownParticipant = owner;
}

/** Who wrote in whose conversation, where the store says both; else the columns that name persons. */
function whoWith(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	best: ReadonlyMap<SheetColumn, Reference>,
	personSheets: ReadonlySet<Sheet>,
	context: Context
): ReturnType<typeof partiesIn> & { written: WriterInThread | null; apart?: PartnersAndRooms } {
	const apart = partnersAndRooms(sheet, used, context.tables);
	if (apart) {
		const keyOfPersons = (c: SheetColumn): Key | null => {
			const r = best.get(c);
			return r && personSheets.has(r.key.sheet) ? r.key : null;
		};
		const evidence = ['one says where, the other who wrote: the same in conversations of two'];
		const key = keyOfPersons(apart.writer) ?? keyOfPersons(apart.talk);
		const parties = [apart.talk, apart.writer].map((value) => ({ value, key, confidence: 0.8, evidence }));
		return { written: null, parties, beside: null, apart };
	}
	const written = writerInThread(sheet, used, context, personSheets, false);
	if (written) return { written, parties: [writerOf(written)], beside: null };
	const named = partiesIn(sheet, used, best, personSheets, context);
	// Numbers alone can be keys of anything: they are asked where nothing else names anybody.
	const keyed = named.parties.length === 0 ? writerInThread(sheet, used, context, personSheets, true) : null;
	return keyed ? { written: keyed, parties: [writerOf(keyed)], beside: null } : { ...named, written: null };
}

/** The columns that name persons, the surest kinds first; the weaker are tried only where there is none of those. */
function partiesIn(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	best: ReadonlyMap<SheetColumn, Reference>,
	personSheets: ReadonlySet<Sheet>,
	context: Context
): { parties: Party[]; beside: WriterBeside | null } {
	let asked: ReturnType<typeof writerBesidePeer> | undefined;
	const writerBeside = (): ReturnType<typeof writerBesidePeer> =>
		asked === undefined ? (asked = writerBesidePeer(sheet, used, context)) : asked;
	const parties: Party[] = [];
	for (const [column, r] of best) {
		// What is the same in every row is nobody in particular.
		if (isConstant(column, sheet) || isOwnNumber(column, sheet, context.tables)) continue;
		if (personSheets.has(r.key.sheet))
			parties.push({
				value: column,
				key: r.key,
				confidence: r.confidence,
				evidence: [`${Math.round(r.inclusion * 100)} % of its values name rows of ${r.key.sheet.name}`]
			});
	}
	const accounts = parties.filter((p) => isOfAccounts(p, sheet, personSheets));
	if (accounts.length > 0) parties.splice(0, parties.length, ...parties.filter((p) => !accounts.includes(p)));
	if (parties.length === 0) addWriterInRooms();
	const ends = endColumns(sheet, used, context).pairs.find(({ areTold, from, to }) => areTold && isThere(from) && isThere(to));
	if (ends) parties.splice(0, parties.length, ...parties.filter((p) => p.value === ends.from || p.value === ends.to));
	// Small numbers are keys of few persons as well as states: those called states, or often nought, give way to others.
	const isState = ({ value, confidence }: Party): boolean =>
		confidence < SURELY && (STATE_NAMED.test(value.name) || (value.profile.distinct.get(0) ?? 0) > value.profile.filled * OFTEN_NOUGHT);
	if (parties.some((p) => !isState(p))) parties.splice(0, parties.length, ...parties.filter((p) => !isState(p)));
	// Numbers that may as well be kinds of anything give way to a column that surely names persons.
	const sure = parties.some((p) => p.confidence >= SURELY);
	const likely = parties.some((p) => p.confidence >= HARDLY && !isNumberOfThreads(p.value));
	const isFull = ({ value }: Party): boolean => value.profile.filled >= sheet.sure.length * ALL_THREADS;
	const besides = (p: Party): Party[] =>
		parties.filter((q) => (q.confidence > p.confidence || isFull(q)) && writesInRooms(p.value, q.value, sheet, context.tables));
	const inRooms = parties.find((p) => besides(p).length > 0);
	// What stands in every row says more of whom a message is with than what is surer.
	const talk = inRooms && (besides(inRooms).find(isFull) ?? besides(inRooms)[0]);
	for (const p of [...parties])
		if (p === inRooms || p === talk) continue;
		else if ((sure && p.confidence < HARDLY) || (likely && isNumberOfThreads(p.value))) parties.splice(parties.indexOf(p), 1);
	const addressed = sheet.columns.filter(
		(c) =>
			!used.has(c) &&
			c.column >= 0 &&
			!parties.some((p) => p.value === c) &&
			!isFurtherTime(c) &&
			!listsThings(c) &&
			(addressShare(c) > 0.4 || c.profile.addresses > 0.6)
	);
	const threaded = [...best].some(([c, r]) => !personSheets.has(r.key.sheet) && c.profile.distinct.size > 1);
	for (const column of addressed) {
		// The same address in every row is the owner's account, if anybody else is there.
		const others = parties.length > 0 || addressed.some((c) => !isConstant(c, sheet)) || threaded;
		if (!(isConstant(column, sheet) && others && !isPairName(column)))
			parties.push({
				value: column,
				key: null,
				confidence: Math.min(1, column.profile.addresses),
				evidence: ['its values are numbers or addresses']
			});
	}
	if (talk)
		return {
			parties: parties.filter((p) => p === talk || p === inRooms || !restates(p.value, talk.value, sheet, context.tables)),
			beside: null
		};
	if (parties.length < 2) parties.push(...namedPair(sheet, used, parties, context));
	if (parties.length === 0 && !writerBeside()) {
		const writer = writerInRooms(
			sheet,
			sheet.columns.filter((c) => !used.has(c) && isCalled(c, sheet)),
			context
		);
		if (writer)
			parties.push({
				value: writer,
				key: null,
				confidence: 0.45,
				evidence: ['one of its values stands beside all of another column’s, others beside few']
			});
	}
	addRoomBeside();
	if (parties.length === 0) {
		// What names the rows of a list that is no persons' is a key of threads, sooner than a handle.
		const asKey = (c: SheetColumn): number => best.get(c)?.confidence ?? 0;
		// What no list of persons has, and looks like versions or kinds, is nobody.
		const isNobodys = (c: SheetColumn): boolean => personSheets.size > 0 && asKey(c) === 0 && (areKeys(c) || areKinds(c));
		const handles = sheet.columns
			.filter((c) => !used.has(c) && isHandleColumn(c, sheet) && !isNobodys(c))
			.sort((a, b) => asKey(a) - asKey(b));
		const inRooms = writerInRooms(sheet, handles, context);
		const peer = inRooms ?? handles[0];
		const evidence = ['its values recur and are written like handles'];
		if (peer) parties.push({ value: peer, key: null, confidence: 0.5, evidence });
		// Named in the rows of a room only.
		const writer = inRooms ? undefined : handles.find((c) => c !== peer && c.profile.filled < peer!.profile.filled && isAmong(c, peer!));
		if (writer) parties.push({ value: writer, key: null, confidence: 0.5, evidence });
		else if (!writerBeside()) addRoomBeside();
	}
	const [only] = parties;
	// What surely names the rows of a list of conversations is none of the persons.
	const namesTalks = (c: SheetColumn): boolean =>
		(best.get(c)?.confidence ?? 0) >= NAMED_THREAD && !personSheets.has(best.get(c)!.key.sheet);
	const isWriter = (p: Party, of: NonNullable<ReturnType<typeof writerBeside>>): boolean =>
		of.hasRooms && of.writer === p.value && !namesTalks(of.peer);
	const mayBeWriter = parties.length <= 1 && (!only?.key || (writerBeside() !== null && isWriter(only, writerBeside()!)));
	const beside = mayBeWriter ? writerBeside() : null;
	// Of the writer's column nobody knows whom the owner wrote to.
	if (beside && only?.value === beside.writer) parties.pop();
	if (beside && parties.length === 0)
		parties.push({
			value: beside.peer,
			key: only?.key ?? null,
			confidence: 0.7,
			evidence: ['its values recur, and stand as writers in another column']
		});
	if (parties.length === 0) {
		const number = sheet.columns.find((c) => !used.has(c) && c.column >= 0 && isLongNumber(c, sheet));
		if (number)
			parties.push({ value: number, key: null, confidence: 0.5, evidence: ['its values are as long as telephone numbers, and recur'] });
	}
	if (parties.length === 0) {
		const name = sheet.columns.find((c) => !used.has(c) && isNameLike(c, sheet));
		if (name) parties.push({ value: name, key: null, confidence: 0.4, evidence: ['its values recur and are written like names'] });
	}
	return { parties, beside: beside && { ...beside, key: only?.key ?? null } };

	/** Few numbers are keys of anything: of those who write in rooms alone, several in each, it is seen that they are persons'. */
	function addWriterInRooms(): void {
		const talks = [...best].filter(([c, r]) => !personSheets.has(r.key.sheet) && c.profile.filled >= sheet.sure.length * ALL_THREADS);
		const writer = (context.references.get(sheet) ?? []).find(
			({ from, key, inclusion }) =>
				personSheets.has(key.sheet) &&
				inclusion >= ALL_THREADS &&
				!used.has(from) &&
				!isOwnNumber(from, sheet, context.tables) &&
				talks.some(([talk]) => writesInRooms(from, talk, sheet, context.tables))
		);
		const evidence = ['it names several persons in each of a few conversations, and nobody in the others'];
		if (writer) parties.push({ value: writer.from, key: writer.key, confidence: 0.6, evidence });
	}

	function isThere(column: SheetColumn): boolean {
		return parties.some((p) => p.value === column);
	}

	/** The other side of each conversation or its room, beside the one column that names writers. */
	function addRoomBeside(): void {
		const room = parties.length === 1 ? roomBeside(sheet, used, parties[0]!.value, context) : null;
		if (!room) return;
		const evidence = ['its values recur, and some of them are the writers of other rows'];
		parties.push({ value: room, key: null, confidence: 0.6, evidence });
	}
}

/** Whether a key leads to a list of two or three, the owner's lines, where a longer one has the persons and another column tells conversations apart. */
function isOfAccounts({ value, key }: Party, sheet: Sheet, personSheets: ReadonlySet<Sheet>): boolean {
	if (!key || key.sheet.sure.length > ACCOUNTS_AT_MOST || value.profile.filled < sheet.sure.length) return false;
	const isLonger = [...personSheets].some((s) => s !== key.sheet && s.sure.length > ACCOUNTS_AT_MOST);
	const isTold = sheet.columns.some(
		(c) => c !== value && c.profile.distinct.size > key.sheet.sure.length && (isThreadKey(c, sheet) || addressShare(c) > 0.4)
	);
	return isLonger && isTold;
}
const ACCOUNTS_AT_MOST = 3;

/** Names, of persons or of rooms, that come again. */
const isCalled = (c: SheetColumn, sheet: Sheet): boolean => isNameLike(c, sheet) && !c.profile.time;

/** Of columns of handles that of writers, where another one is that of the rooms. */
function writerInRooms(sheet: Sheet, handles: readonly SheetColumn[], context: Context): SheetColumn | undefined {
	const pairs = handles.flatMap((writer) =>
		handles.filter((room) => room !== writer).map((room) => ({ writer, share: writesEverywhere(sheet, room, writer, context) }))
	);
	const found = pairs.filter(({ share }) => share > 0);
	return found.sort((a, b) => b.share - a.share || Number(isPairName(b.writer)) - Number(isPairName(a.writer)))[0]?.writer;
}

const STATE_NAMED = /status|state|flag|prio|level|kind|type|box|folder|count|version|read|seen|proto|error|retry/i;
const OFTEN_NOUGHT = 0.1;

/** A number that is called a conversation's: persons are numbered from one as well. */
const isNumberOfThreads = ({ name, profile }: SheetColumn): boolean =>
	profile.texts === 0 && profile.blobs === 0 && /thread|chat|conv|room|group/i.test(name);

/** The rule by which the owner's messages are those sent, of his other numbers too, where a phone has several. */
function withOwnOthers(
	named: Guess<DirectionRule> | null,
	{ sheet, sender, recipient }: MessageReading,
	context: Context
): Guess<DirectionRule> | null {
	if (named?.value.kind !== 'sender' || !sender || !recipient || named.value.column !== sender.value) return named;
	const owners = ownersOfPair(sheet, sender.value, recipient.value, context);
	const [known] = named.value.owner;
	return owners.length > 1 && owners.includes(known!) ? { ...named, value: { ...named.value, owner: owners } } : named;
}

/** Lists (JSON) of things with fields: who made them is not who wrote. */
const listsThings = ({ profile: p }: SheetColumn): boolean =>
	p.json > 0.5 && [...p.distinct.keys()].some((v) => /^\s*(\[\s*)?\{/.test(String(v)));

/** Handles of persons or rooms that come again and again. */
/** A few plain words. */
const areKinds = ({ profile }: SheetColumn): boolean =>
	profile.distinct.size <= 4 && [...profile.distinct.keys()].every((v) => /^(?:\p{Ll}+|\p{Lu}+)$/u.test(String(v)));

const isHandleColumn = (c: SheetColumn, sheet: Sheet): boolean =>
	c.column >= 0 &&
	isHandleLike(c) &&
	!c.profile.many &&
	!isPath(c) &&
	c.profile.digest < 0.5 &&
	c.profile.distinct.size > 1 &&
	c.profile.distinct.size <= sheet.sure.length * 0.6 &&
	c.profile.averageLength > 3 &&
	!/type|kind|state|status|mime|dir/i.test(c.name) &&
	![...c.profile.distinct.keys()].some((v) => saysWay(String(v)));

/** Whether nearly all of a column's values are those of another one too. */
const isAmong = (c: SheetColumn, other: SheetColumn): boolean =>
	[...c.profile.distinct.keys()].filter((v) => other.profile.distinct.has(v)).length > c.profile.distinct.size * 0.8;

/** Share of the rows that have a name of their own, where they have names. */
const NAMED = 0.5;
const SURELY = 0.7;
const HARDLY = 0.55;
const NAMED_THREAD = 0.7;
const FEW_NAMED = 4;
const ALL_THREADS = 0.95;

/** A column of rooms and other sides, in most of which one and the same person writes. */
const roomBeside = (sheet: Sheet, used: ReadonlySet<SheetColumn>, writer: SheetColumn, context: Context): SheetColumn | null =>
	sheet.columns.find((c) => {
		const p = c.profile;
		if (c === writer || used.has(c) || c.column < 0 || p.time || p.many || p.texts === 0 || p.averageLength > 60) return false;
		return p.distinct.size <= sheet.sure.length * 0.6 && ownerAmongWriters(sheet, c, writer, context) !== null;
	}) ?? null;

/** Whether rows name a file, and each a message of its own. */
const areFilesOf = (files: Sheet, sheet: Sheet, context: Context): boolean =>
	files.columns.some((c) => c.profile.mime > 0.5 || isPath(c)) &&
	(context.references.get(files) ?? []).some(
		({ from, key, inclusion }) =>
			key.sheet === sheet && inclusion >= ALL_THREADS && from.profile.unique && !isOwnNumber(from, files, context.tables)
	);

/** What tells a message's thread: a key of threads, the table's name, a join, a number that recurs. A party that does is none. */
function threadIn(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	best: ReadonlyMap<SheetColumn, Reference>,
	parties: Party[],
	personSheets: Set<Sheet>,
	context: Context
): Pick<MessageReading, 'thread' | 'threadJoin'> {
	let thread: MessageReading['thread'] = null;
	for (const [column, r] of best) {
		if (personSheets.has(r.key.sheet) || isOwnNumber(column, sheet, context.tables)) continue;
		if (column.profile.distinct.size > sheet.sure.length * 0.8 && sheet.sure.length > 10) continue;
		// One row each for few of the messages: what those quote, or show.
		const { distinct, filled } = column.profile;
		if (filled >= FEW_NAMED && filled < sheet.sure.length * 0.5 && distinct.size > filled * 0.8) continue;
		// As many rows as messages: another table of messages' own things.
		if (sheet.sure.length > 10 && r.key.values.size > sheet.sure.length * 0.8 && r.confidence < NAMED_THREAD) continue;
		if (r.confidence < NAMED_THREAD && column.profile.texts === 0 && !isNamedAlike(column, r.key.sheet)) {
			// Small numbers are keys of anything: a conversation's rows are written by one other, or the same few.
			if (column.profile.filled < sheet.sure.length * 0.5) continue;
			if (r.inclusion < ALL_THREADS || isConstant(column, sheet) || !isOfFew(column, parties, sheet, context)) continue;
			if (areFilesOf(r.key.sheet, sheet, context)) continue;
		}
		// What is the same in all of them parts nothing, where something else does.
		const parts = Number(!isConstant(column, sheet)) - Number(thread !== null && !isConstant(thread.value, sheet));
		if (!thread || parts > 0 || (parts === 0 && r.confidence > thread.confidence))
			thread = {
				value: column,
				key: r.key,
				confidence: r.confidence,
				evidence: [`${Math.round(r.inclusion * 100)} % of its values name rows of ${r.key.sheet.name}`]
			};
	}
	if (thread) {
		const index = parties.findIndex((p) => p.value === thread!.value);
		if (index >= 0) parties.splice(index, 1);
	}
	const tableColumn = sheet.columns.find((c) => c.column === TABLE_NAME);
	if (!thread && tableColumn && !mixedParties(sheet, parties[0]?.value ?? null, context))
		thread = { value: tableColumn, key: null, confidence: 0.8, evidence: ['each table holds one thread'] };
	const named = new Set(parties.flatMap((p) => (p.key ? [p.key.sheet] : [])));
	const threadJoin = thread ? null : findThreadJoin(sheet, context, personSheets, parties.length === 0, named);
	if (!thread && !threadJoin) {
		const loose = sheet.columns.find(
			(c) =>
				!used.has(c) &&
				!parties.some((p) => p.value === c) &&
				c.column >= 0 &&
				!isSizeNamed(c) &&
				isThreadKey(c, sheet) &&
				!repeatsParty(c, parties, sheet, context) &&
				holdsTogether(c, parties, sheet, context)
		);
		if (loose)
			thread = { value: loose, key: null, confidence: 0.5, evidence: ['its values recur over stretches of rows, as a thread number does'] };
	}
	return { thread, threadJoin };
}

/** A column whose numbers are keys of several sheets leaves one to the column that is called for it. */
function leaveToNamed(best: Map<SheetColumn, Reference>, refs: readonly Reference[]): void {
	for (const [column, r] of best) {
		const { sheet } = r.key;
		if (isNamedAlike(column, sheet) || ![...best].some(([c, o]) => c !== column && o.key.sheet === sheet && isNamedAlike(c, sheet)))
			continue;
		const others = refs.filter(
			(o) => o.from === column && o.key.sheet !== sheet && o.inclusion >= r.inclusion && o.confidence >= r.confidence - AS_SURE
		);
		const other = others.find((o) => o.key.column === null) ?? others[0];
		if (other) best.set(column, other);
	}
}
const AS_SURE = 0.15;

/** Small numbers are keys of persons as well as of calls or settings: of two that are about as sure the persons' are meant. */
function ratherPersons(
	best: Map<SheetColumn, Reference>,
	refs: readonly Reference[],
	personSheets: ReadonlySet<Sheet>,
	context: Context
): void {
	/** Whether another column surely names conversations. */
	const isTold = (column: SheetColumn, than: Sheet): boolean =>
		[...best].some(
			([c, { key, confidence }]) =>
				c !== column &&
				key.sheet !== than &&
				!personSheets.has(key.sheet) &&
				confidence >= NAMED_THREAD &&
				looksLikeThreads(key.sheet, context)
		);
	for (const [column, r] of best) {
		const { sheet } = r.key;
		if (personSheets.has(sheet) || r.key.column !== null || isDeclared(r, context.tables) || isNamedAlike(column, sheet)) continue;
		if (looksLikeThreads(sheet, context) && !isTold(column, sheet)) continue;
		const person = refs.find(
			(o) =>
				o.from === column && personSheets.has(o.key.sheet) && o.inclusion >= r.inclusion && o.confidence >= r.confidence - ABOUT_AS_SURE
		);
		if (person) best.set(column, person);
	}
}
const ABOUT_AS_SURE = 0.1;

/** Who wrote and to whom are of the same persons: small numbers at the one end are keys of the list that the other end's are. */
function alikeAtBothEnds(
	best: Map<SheetColumn, Reference>,
	refs: readonly Reference[],
	personSheets: ReadonlySet<Sheet>,
	pairs: readonly Ends[]
): void {
	for (const { from, to } of pairs)
		for (const [named, other] of [
			[best.get(from), to],
			[best.get(to), from]
		] as const) {
			if (!named || !personSheets.has(named.key.sheet)) continue;
			const same = refs.find((r) => r.from === other && r.key === named.key);
			if (same && same.confidence < named.confidence) best.set(other, { ...same, confidence: named.confidence });
		}
}

/**
 * What names the same persons as a column of another sheet does names those persons, and not that sheet's rows. Where the
 * other sheet's own numbers are those of persons (conversations numbered by whom they are with), one column names its rows.
 */
function toTheEnd(best: Map<SheetColumn, Reference>, refs: readonly Reference[], personSheets: ReadonlySet<Sheet>, context: Context): void {
	const onwards = ({ key }: Reference): Set<Key> => {
		const { rowidColumn } = context.tables[key.sheet.tables[0]!]!;
		const isOwn = (c: SheetColumn): boolean => c === key.column || (key.column === null && c.column === rowidColumn && c.path.length === 0);
		return new Set((context.references.get(key.sheet) ?? []).filter((o) => isOwn(o.from)).map((o) => o.key));
	};
	for (const [column, r] of best) {
		if (personSheets.has(r.key.sheet) || isDeclared(r, context.tables)) continue;
		const keys = onwards(r);
		const person = refs.find((p) => p.from === column && personSheets.has(p.key.sheet) && keys.has(p.key));
		if (!person || person.confidence < HARDLY) continue;
		const other = [...best].some(([c, o]) => c !== column && o.key === r.key && namesRatherThreads(c, column, r.key.sheet));
		if (r.key.column !== null || other) best.set(column, person);
	}
}

/** Of two columns of keys to conversations the one that is called so, or stands in more rows. */
const namesRatherThreads = (a: SheetColumn, b: SheetColumn, sheet: Sheet): boolean => {
	const named = Number(isNamedAlike(a, sheet)) - Number(isNamedAlike(b, sheet));
	return named > 0 || (named === 0 && a.profile.filled > b.profile.filled);
};

/**
 * Of two columns whose numbers can be keys of persons, one may as well be keys of threads: then the one that stands in
 * every row is, since the owner's own messages mostly name no person.
 */
function preferThreads(
	best: Map<SheetColumn, Reference>,
	refs: readonly Reference[],
	sheet: Sheet,
	personSheets: ReadonlySet<Sheet>,
	context: Context
): void {
	const toPersons = [...best].filter(([, r]) => personSheets.has(r.key.sheet));
	if (toPersons.length < 2) return;
	const named = (c: SheetColumn): number => c.profile.filled - (c.profile.distinct.get(0) ?? 0);
	for (const [column, current] of toPersons) {
		const other = refs.find(
			(r) =>
				r.from === column && !personSheets.has(r.key.sheet) && r.inclusion >= current.inclusion && looksLikeThreads(r.key.sheet, context)
		);
		const sparser = toPersons.some(([c]) => c !== column && named(c) < named(column) * 0.95);
		if (!other || !sparser || named(column) < sheet.sure.length * 0.95 || other.confidence < current.confidence - 0.15) continue;
		best.set(column, other);
		return;
	}
}

/** Gives the columns of a sheet of messages their roles. */
import type { Row, Value } from '../model';
import { endColumns } from './addressees';
import { listed, namesNobody, takeTold, threadTold, wayTold, writerTold } from './as-told';
import { addressShare } from './columns';
import { findReply } from './companions';
import type { Context } from './context';
import { decideDirection, flagBeside, wayByNaming } from './direction';
import { bySender } from './direction-rules';
import { ALL_THREADS, FEW_NAMED, HARDLY, SURELY } from './how-sure';
import { type Party, partiesIn, type WriterBeside } from './named-parties';
import { alikeAtBothEnds, leaveToNamed, preferThreads, ratherPersons, toTheEnd } from './preferred-references';
import { threadIn } from './thread-in';
import { flagByGroup, flagByOwner } from './flag-by-owner';
import { flaggedOwner } from './flagged-owner';
import { findDeletedFlag } from './deleted-flag';
import { findOtherKinds } from './kinds';
import { assignParties, groupBeside, nameBeside, ownersOfPair, ownWriter, writesEverywhere } from './parties';
import { participantsOf } from './participants';
import { FROM_WHOM, TO_WHOM } from './party-words';
import { whoWasAnswered } from './who-was-answered';
import { besideTheOnlyPartner, pairedWriter } from './paired-writer';
import { nameIn } from './people';
import { blankReading, type DirectionRule, type Guess, type MessageReading, type PersonReading } from './reading';
import { isNamedAlike, keyOf, type Key, type Reference } from './refs';
import { cell, isOwnNumber, sampleOf, type Sheet, type SheetColumn } from './sheet';
import { profileOf } from './profile';
import { timeOf } from './time';
import { talkOfEnds } from './ends-in-keys';
import { takeNumbersBesideNames } from './numbers-beside-names';
import { partnersAndRooms, type PartnersAndRooms } from './partners-and-rooms';
import { writerInSomeTalks } from './writer-in-some-talks';
import { isJoin, isThreadKey } from './threads';
import { listedReactions, listedWordings } from './listed-within';
import { listOfParties, type ListOfParties } from './listed-parties';
import { namedOwner } from './named-owner';
import { takingPart, writerBesideParty } from './taking-part';
import { talksWithMembers } from './talks-with-members';
import { roomOfAll } from './room-of-all';
import { writerInThread, type WriterInThread } from './writer-in-thread';

/** Where the owner is known by his address he is also whom rooms call by its first part (RFC 7622, 3.3). */
function tellOwnNickname(reading: MessageReading, { tables }: Context): void {
	const { participant, direction, sheet } = reading;
	const rule = direction.value;
	if (!participant?.value.made?.inRooms || reading.ownParticipant !== null || rule.kind !== 'sender' || rule.column === participant.value)
		return;
	const locals = rule.owner.flatMap((owner) => (String(owner).includes('@') ? [String(owner).split('@')[0]!.toLowerCase()] : []));
	const own = [...participant.value.profile.distinct.keys()].find((nickname) => locals.includes(String(nickname).toLowerCase()));
	if (own === undefined) return;
	const { column: address, owner } = rule;
	const made = { read: (row: Row): Value | undefined => cell(row, participant.value, tables) ?? cell(row, address, tables) };
	const who: SheetColumn = {
		name: address.name,
		column: address.column,
		path: [],
		made,
		profile: profileOf(sheet.sure, made.read, sampleOf(sheet.sure))
	};
	reading.ownParticipant = own;
	reading.direction = { ...direction, value: { kind: 'sender', column: who, owner: [...owner, own] } };
}

/** Whether persons named by a key stand in the very rows in which another column names somebody: the key says more. */
function standsInTheSame(peer: MessageReading['peer'], other: SheetColumn, { sure }: Sheet, { tables }: Context): boolean {
	if (!peer?.key) return false;
	const isIn = (row: Row, c: SheetColumn): boolean => ![null, 0, ''].includes(keyOf(cell(row, c, tables)));
	return sure.slice(0, PERIOD_ROWS).every((row) => isIn(row, peer.value) === isIn(row, other));
}

/** Whether a list of persons has few of those who write: the owner's account, say. */
function hasFewOf({ value, key }: NonNullable<MessageReading['sender']>): boolean {
	const values = [...value.profile.distinct.keys()];
	return !value.profile.many && values.filter((v) => key!.values.has(v)).length < values.length * FEW_LISTED;
}
const FEW_LISTED = 0.5;

/** Whether it is the other way about: rows of another list name each message by its own key, and so it names theirs. */
const isNamedBy = ({ from, key }: Reference, sheet: Sheet, { references }: Context): boolean =>
	from.profile.unique &&
	from.profile.filled > FEW_MESSAGES &&
	(references.get(key.sheet) ?? []).some((back) => back.from === key.column && back.key.sheet === sheet && back.key.column === from);
const FEW_MESSAGES = 8;

export function readMessages(
	sheet: Sheet,
	text: Guess<SheetColumn>,
	time: MessageReading['time'],
	context: Context,
	persons: PersonReading[]
): MessageReading {
	// Of several tables of one shape each counts its own rows.
	const isOwn = (c: SheetColumn): boolean => sheet.family && isOwnNumber(c, sheet, context.tables);
	const answered = whoWasAnswered(sheet, context);
	const refs = (context.references.get(sheet) ?? []).filter(
		(r) =>
			r.from !== text.value &&
			r.from !== time?.value &&
			!isOwn(r.from) &&
			!r.from.made?.stated &&
			!answered.has(r.from) &&
			!isNamedBy(r, sheet, context)
	);
	const personSheets = new Set(persons.map((p) => p.sheet));
	const used = new Set<SheetColumn>([text.value, ...(time ? [time.value] : [])]);
	for (const c of sheet.columns)
		if (c.made?.stated || (time && goesOnWithTime(c, time, sheet, context)) || isOfOtherRows(c, text, sheet, context)) used.add(c);
	for (const c of sheet.columns) for (const one of c.made?.either ?? []) used.add(one);
	for (const c of answered) used.add(c);
	const best = new Map<SheetColumn, Reference>();
	for (const r of refs) if (!best.has(r.from) && r.confidence >= 0.45 && !isJoin(r.key.sheet, context)) best.set(r.from, r);
	for (const [c, r] of best) if (c.made?.ofKind === 'rooms') personSheets.delete(r.key.sheet);
	leaveToNamed(best, refs);
	ratherPersons(best, refs, personSheets, context);
	toTheEnd(best, refs, personSheets, context);
	preferThreads(best, refs, sheet, personSheets, context);
	alikeAtBothEnds(best, refs, personSheets, [...endColumns(sheet, used, context).pairs, ...endsByName(sheet, used, context)]);
	const rooms = talksWithMembers(sheet, best, context);
	if (rooms) {
		personSheets.delete(rooms.talk.key.sheet);
		for (const c of rooms.repeats) used.add(c);
		// Small numbers are keys of the few members, and of anything, as well.
		const namesSomebody = (c: SheetColumn, r: Reference): boolean =>
			personSheets.has(r.key.sheet) && (r.confidence >= SURELY || isNamedAlike(c, r.key.sheet) || FROM_WHOM.test(c.name));
		for (const [c, r] of best) if (r !== rooms.talk && (used.has(c) || !namesSomebody(c, r))) best.delete(c);
	}
	const participants = participantsOf(sheet, context);
	if (participants) {
		best.set(participants.writer.from, participants.writer);
		best.set(participants.thread.from, participants.thread);
	}
	const lists = listOfParties(sheet, used, context.tables);
	if (lists) used.add(lists.column);
	const inRooms = sheet.columns.find((c) => c.made?.inRooms);
	if (inRooms) used.add(inRooms);
	const ends = sheet.columns.find((c) => c.made?.ofEnds);
	if (ends) {
		used.add(ends);
		best.delete(ends);
	}
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
	// A group in which all write goes with every one of them, as the owner does. What names rows that another column surely
	// names by another key of theirs names them too.
	const ofTalks = new Set(
		[...best.values()].flatMap((r) => (r.confidence >= HARDLY && !personSheets.has(r.key.sheet) ? [r.key.sheet] : []))
	);
	const ofThreads = [...best].flatMap(([c, r]) => (ofTalks.has(r.key.sheet) ? [c] : []));
	const paired = told || written || beside || apart ? null : pairedAmong(sheet, parties, new Set([...used, ...ofThreads]), context);
	if (apart) best.delete(apart.writer);
	if (paired) {
		used.add(paired.column);
		best.delete(paired.column);
		parties.splice(0, parties.length, ...parties.filter((p) => p.value !== paired.column));
	}
	// Who wrote beside the other sides tells no conversations apart.
	if (beside) used.add(beside.writer);
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
	if (ends && !threadJoin) talkOfEnds(reading, ends, refs, personSheets, context);
	namedInRoomsOnly(reading, context);
	// Of a room's address and who stands behind it the latter wrote.
	const isRoomItself =
		inRooms !== undefined && reading.participant?.value.column === inRooms.column && reading.participant.value !== inRooms;
	if (inRooms && (!reading.participant || isRoomItself) && (!reading.sender || reading.recipient))
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
	// Whose device it is the user says where the store does not.
	const marked = flaggedOwner([...writers, reading.peer], context);
	const besideOthers = written?.owner ?? paired?.owner ?? beside?.owner ?? null;
	const meant = marked ? null : withOwnOthers(namedOwner(writers, reading, context), reading, context);
	const isOthers = besideOthers !== null && meant?.value.kind === 'sender' && !meant.value.owner.includes(besideOthers);
	const byName = isOthers ? null : meant;
	const named = byName && flagByOwner(byName, reading, context);
	if (named && named !== byName && byName.value.kind === 'sender' && byName.value.column === reading.participant?.value)
		reading.ownParticipant = byName.value.owner[0] ?? null;
	let direction = named ?? marked ?? decideDirection(reading, context);
	if (apart && !apart.isFull && !named) direction = wayByNaming(direction, apart.writer, reading, context);
	if (told && !told.isPartner && direction.value.kind !== 'sender') direction = wayTold(direction, told, reading, context);
	// Who wrote is no flag, however surely some of them could be one.
	const isOpenTo = (writer: SheetColumn): boolean =>
		direction.confidence < 0.95 || (direction.value.kind === 'flag' && direction.value.column === writer);
	if (paired && isOpenTo(paired.column))
		direction = bySender(
			paired.column,
			paired.owner,
			`${paired.owner} goes with every other side, and each of its other values with one: the owner`,
			direction
		);
	if (beside && isOpenTo(beside.writer))
		direction = bySender(beside.writer, beside.owner, `the writer is the other side, or ${beside.owner}: the owner`, direction);
	if (written && isOpenTo(written.writer))
		direction = bySender(
			written.writer,
			written.owner,
			`the writer is the one whom its conversation names, or ${written.owner}: the owner`,
			direction
		);
	// Whom the user named is one of the others in another party's store: there somebody else takes part in all.
	if (told && told.owner !== null && !marked && direction.value.kind === 'sender' && direction.value.column === told.writer)
		if (!direction.value.owner.includes(told.owner))
			direction = bySender(told.writer, told.owner, `${told.owner} takes part in all of the conversations: the owner`, direction);
	if (writes !== null && isOpenTo(reading.participant!.value))
		direction = bySender(
			reading.participant!.value,
			writes,
			`${writes} writes in most of the threads, and is the other side of none: the owner`,
			direction,
			0.85
		);
	const alone = direction.value.kind === 'unknown' && reading.peer ? besideTheOnlyPartner(reading.peer.value, sheet, context) : null;
	if (alone !== null)
		direction = bySender(reading.peer!.value, alone, `all rows name the one of the two who write: ${alone} is the owner`, direction, 0.85);
	// Of several who stand in a column, and nothing else says who wrote, one is the owner: they are the writers.
	if (direction.value.kind === 'unknown' && reading.peer && reading.peer.value.profile.distinct.size > 1)
		direction = namedOwner([reading.peer], reading, context) ?? direction;
	reading.direction = direction;
	tellOwnNickname(reading, context);
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
	if (!reading.participant) {
		const inSome = writerInSomeTalks(reading, context);
		if (inSome && !standsInTheSame(reading.peer, inSome.value, sheet, context)) reading.participant = inSome;
	}
	reading.directionElse = flagBeside(reading, context);
	reading.peerName = nameBeside(reading, context);
	takeNumbersBesideNames(reading, context);
	if (!reading.peerName && reading.sender?.key && hasFewOf(reading.sender)) {
		const sender = { ...reading.sender, key: null };
		reading.peerName = nameBeside({ ...reading, sender }, context);
		if (reading.peerName) reading.sender = sender;
	}
	reading.group = reading.thread?.value.made?.room ?? groupBeside(reading, context);
	// A list of names alone can be one of rooms.
	const canBeRooms = (list: Sheet): boolean => !personSheets.has(list) || !list.columns.some((c) => addressShare(c) > 0.4);
	const room = refs.find(
		({ from, key, inclusion }) => from === reading.group && inclusion === 1 && isNamedAlike(from, key.sheet) && canBeRooms(key.sheet)
	);
	// It names the rows of a list of rooms, however few those are.
	if (room) {
		reading.thread = {
			value: room.from,
			key: room.key,
			confidence: room.confidence,
			evidence: [`it is called as ${room.key.sheet.name} is`]
		};
		reading.group = null;
	}
	reading.direction = flagByGroup(reading.direction, reading, context);
	reading.deleted = findDeletedFlag(reading, context);
	reading.otherKinds = findOtherKinds(reading, namesOf(persons, context), context);
	reading.replyTo = findReply(reading, context.tables);
	reading.wordings = listedWordings(sheet, context.tables);
	reading.listedReactions = listedReactions(sheet, context.tables);
	return reading;
}

/** Columns of numbers that are called for who wrote and for whom to, where one and the same is at an end of all messages. */
function endsByName(sheet: Sheet, used: ReadonlySet<SheetColumn>, context: Context): { from: SheetColumn; to: SheetColumn }[] {
	const numbers = sheet.columns.filter(
		(c) =>
			!used.has(c) && c.column >= 0 && c.path.length === 0 && !c.profile.time && c.profile.ints > 0 && c.profile.ints === c.profile.filled
	);
	return numbers
		.filter((c) => FROM_WHOM.test(c.name))
		.flatMap((from) =>
			numbers
				.filter((to) => TO_WHOM.test(to.name) && ownersOfPair(sheet, from, to, context).length > 0)
				.map((to): { from: SheetColumn; to: SheetColumn } => ({ from, to }))
		);
}

/** Whether a column's values stand in one of a list's as well: addresses of its conversations. */
const areListedIn = ({ profile: { distinct } }: SheetColumn, list: Sheet): boolean =>
	list.columns.some(
		(c) => addressShare(c) > 0.4 && [...distinct.keys()].filter((v) => c.profile.distinct.has(v)).length >= distinct.size * NEARLY_ALL
	);
const NEARLY_ALL = 0.9;

/** Whether a column is filled in none of the rows that have a text, though they are many: what joins or leaves states it. */
export function isOfOtherRows(
	c: SheetColumn,
	text: Guess<SheetColumn>,
	{ sure }: Sheet,
	{ tables }: Pick<Context, 'tables'>,
	least = OTHERS_LEAST
): boolean {
	const { filled } = c.profile;
	if (c === text.value || c.column < 0 || filled < least || filled > sure.length * MOST_OTHERS || c.profile.texts < filled) return false;
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
		// What names somebody in a part of the rows says who wrote those.
		(peer.profile.filled >= sheet.sure.length * NEARLY_ALL ? writerBesideParty(sheet, peer, others, context) : null) ??
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

/** Share of the rows that have a name of their own, where they have names. */
const NAMED = 0.5;

/** What a reading of messages gets from who takes part in their conversations: the writer, the thread, whom it is with, the way. */
import { addressShare } from './columns';
import type { Context } from './context';
import { wayByNaming } from './direction';
import { bySender } from './direction-rules';
import type { DirectionRule, Guess, MessageReading } from './reading';
import type { Key, Reference } from './refs';
import type { Sheet, SheetColumn } from './sheet';
import type { TakingPart } from './taking-part';
import { listOf } from './writer-in-thread';

export const writerTold = ({ writer, persons }: TakingPart): Guess<SheetColumn> & { key: Key | null } => ({
	value: writer,
	key: persons,
	confidence: 0.85,
	evidence: ['those it names are among the ones who take part in the conversation']
});

export const threadTold = (thread: Reference, isUnlisted: boolean): MessageReading['thread'] => ({
	value: thread.from,
	key: isUnlisted ? null : thread.key,
	confidence: Math.max(0.8, thread.confidence),
	evidence: [
		isUnlisted
			? `its values name conversations of ${thread.key.sheet.name}, and those who write take part there`
			: `its values name rows of ${thread.key.sheet.name}, and those who write take part there`
	]
});

/** Writers known by numbers of which nothing says whose they are, where one list of persons has them all. */
export function listed(told: TakingPart | null, lists: ReadonlySet<Sheet>, context: Context): TakingPart | null {
	if (!told || (told.persons && lists.has(told.persons.sheet)) || addressShare(told.writer) >= 0.4) return told;
	const persons = listOf(told.writer, told.owner, context, lists) ?? told.persons;
	return { ...told, persons, partner: told.partner && { ...told.partner, key: told.partner.key ?? persons } };
}

/** What the conversations' list or one beside it says of whom they are with. */
export function takeTold(reading: MessageReading, told: TakingPart): void {
	const { partner, members, thread, join } = told;
	if (partner) reading.threadPeer = partner;
	const threadKey = thread?.key ?? join?.threadKey;
	if (members && namesNobody(told)) reading.sizesTold = { sheet: members.sheet, room: members.room, person: members.person };
	else if (members && threadKey)
		reading.membersTold = {
			sheet: members.sheet,
			thread: members.room,
			by: members.by,
			threadKey,
			person: members.person,
			personKey: members.personKey,
			of: reading
		};
}

/** Whether writers are known by numbers of which no list says whose they are, and the conversations' own list has addresses. */
export const namesNobody = ({ writer, persons, thread, join }: TakingPart): boolean =>
	!persons &&
	addressShare(writer) < 0.4 &&
	((thread?.key ?? join?.threadKey)?.sheet.columns.some((c) => addressShare(c) > 0.4 && c.profile.time === null) ?? false);

/** The way where writers are known: the owner writes where others only take part, or is the one whom nothing names. */
export function wayTold(
	found: Guess<DirectionRule>,
	{ writer, owner }: TakingPart,
	reading: MessageReading,
	context: Context
): Guess<DirectionRule> {
	if (owner !== null)
		return bySender(writer, owner, `${owner} writes in all conversations, or where it is not among those who take part: the owner`, found);
	const named = writer.profile.filled - (writer.profile.distinct.get(0) ?? 0);
	const nameless = named < reading.sheet.sure.length * (1 - SOME_NAMELESS);
	return nameless ? wayByNaming(found, writer, reading, context) : found;
}
/** Share of the rows that name nobody, from which on those are the owner's. */
const SOME_NAMELESS = 0.05;

/**
 * Whose store it is, where a few rows of messages do not say it: who takes part in every conversation that is listed, be
 * anything written in it or not, as nobody else does.
 */
import type { Context } from './context';
import type { MembersReading, MessageReading } from './reading';
import { keyOf } from './refs';
import { cell } from './sheet';

const ROWS = 20_000;
const TALKS_LEAST = 3;

/** Gives the way to messages of which a writer is known and no owner. */
export function ownerByMembers(m: MessageReading, members: readonly MembersReading[], { tables }: Context): void {
	const writer = m.sender ?? m.peer;
	const talks = m.thread?.key ?? m.threadJoin?.threadKey;
	if (m.direction.value.kind !== 'unknown' || !writer?.key || !talks) return;
	const list = members.find((one) => one.threadKey.sheet === talks.sheet && one.personKey === writer.key);
	if (!list) return;
	const inTalks = new Map<string | number, Set<string | number>>();
	for (const row of list.sheet.rows.slice(0, ROWS)) {
		const [talk, person] = [keyOf(cell(row, list.thread, tables)), keyOf(cell(row, list.person, tables))];
		if (row.standing === 'kept' && talk !== null && person !== null) inTalks.set(talk, (inTalks.get(talk) ?? new Set()).add(person));
	}
	const all = [...inTalks.values()];
	const [owner, more] = [...(all[0] ?? [])].filter((who) => all.every((persons) => persons.has(who)));
	if (all.length < TALKS_LEAST || owner === undefined || more !== undefined || !writer.value.profile.distinct.has(owner)) return;
	m.direction = {
		value: { kind: 'sender', column: writer.value, owner: [owner] },
		confidence: 0.85,
		evidence: [`${owner} takes part in all of the ${all.length} conversations that are listed: the owner`]
	};
	if (!m.sender) [m.sender, m.peer] = [m.peer, null];
}

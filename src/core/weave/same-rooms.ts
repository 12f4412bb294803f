/** Rooms of several stores that are called alike and have the same members: one thread, as a partner's is. */
import type { Party } from '../interpret';
import type { Woven } from './woven';

/** Members beside the owner from which on a room is told by them. */
const LEAST = 2;

interface Room {
	thread: string;
	family: number;
	title: string;
	members: ReadonlySet<string>;
}

/**
 * Gives the threads of one room one name, that of the first store's. A room of no name is another's only where both have
 * just the same members. Of several rooms of one store that look alike none is told.
 */
export function joinSameRooms(
	messages: readonly Woven[],
	familyOf: readonly number[],
	canonical: (party: Party) => string,
	isOwner: (party: Party) => boolean
): void {
	const becomes = new Map<string, string>();
	for (const rooms of calledAlike(roomsOf(messages, familyOf, canonical, isOwner))) {
		const alone = rooms.filter((room) => !rooms.some((other) => other !== room && other.family === room.family && haveAlike(room, other)));
		for (const [i, room] of alone.entries()) {
			const first = alone.slice(0, i).find((other) => haveAlike(room, other));
			if (first) becomes.set(room.thread, becomes.get(first.thread) ?? first.thread);
		}
	}
	if (becomes.size > 0) for (const m of messages) m.thread = becomes.get(m.thread) ?? m.thread;
}

function roomsOf(
	messages: readonly Woven[],
	familyOf: readonly number[],
	canonical: (party: Party) => string,
	isOwner: (party: Party) => boolean
): Room[] {
	const rooms = new Map<string, { family: number; title: string; members: readonly Party[] }>();
	for (const { thread, store, first: u } of messages) {
		if (!u.group) continue;
		const known = rooms.get(thread) ?? { family: familyOf[store]!, title: '', members: [] };
		if (known.members.length < u.members.length) known.members = u.members;
		known.title ||= u.threadTitle ?? '';
		rooms.set(thread, known);
	}
	return [...rooms].flatMap(([thread, { family, title, members }]) => {
		const others = new Set(members.filter((party) => !isOwner(party)).map(canonical));
		return others.size < LEAST ? [] : [{ thread, family, title, members: others }];
	});
}

/** Rooms of one title, or of none and the same members, together. */
function calledAlike(rooms: readonly Room[]): Room[][] {
	const alike = new Map<string, Room[]>();
	for (const room of rooms) {
		const key = JSON.stringify(room.title === '' ? [...room.members].sort() : room.title);
		alike.set(key, [...(alike.get(key) ?? []), room]);
	}
	return [...alike.values()].filter((some) => some.length > 1);
}

/** Whether all members of the one are the other's as well: somebody can have joined or left. */
function haveAlike({ members: a }: Room, { members: b }: Room): boolean {
	const [fewer, more] = a.size <= b.size ? [a, b] : [b, a];
	return [...fewer].every((who) => more.has(who));
}

/** One talk with each of two and one with both, for exports that are written in every form and read to the same. */
import assert from 'node:assert/strict';
import { lookAt } from './look-at';

export const OWN = { id: 'u1', name: 'Piet Hallorann', number: '+447946000001' };
export const ODILE = { id: 'u7', name: 'Odile Marchetti', number: '+447946000017' };
export const BRAM = { id: 'u8', name: 'Bram Vesterholt', number: '+447946000018' };
const START = Date.UTC(2025, 0, 14, 10);
const WORDS = ['Who has', 'Please bring', 'I found', 'They want', 'We need', 'Nobody saw'];
export const ROOMS = [
	{ id: 'r1', title: null, members: [ODILE] },
	{ id: 'r2', title: null, members: [BRAM] },
	{ id: 'r3', title: 'Cellar keys', members: [ODILE, BRAM] }
];
type Person = typeof OWN;

export interface Said {
	room: (typeof ROOMS)[number];
	who: Person;
	at: number;
	text: string;
}

export const SAID: Said[] = Array.from({ length: 30 }, (_, i) => {
	const room = ROOMS[i % 3]!;
	const who = i % 2 === 0 ? OWN : room.members[Math.floor(i / 6) % room.members.length]!;
	return {
		room,
		who,
		at: START + i * 3_700_000 + (i < 27 ? 0 : 2 * 86_400_000),
		text: `${WORDS[i % WORDS.length]!} the key of cellar ${i + 1}`
	};
});
export const OF = ROOMS.map((room) => ({ room, said: SAID.filter((m) => m.room === room), title: room.title ?? room.members[0]!.name }));
export const iso = (at: number): string => new Date(at).toISOString();
export const day = (at: number): string => iso(at).slice(0, 10);
export const clock = (at: number): string => iso(at).slice(11, 19);

export async function isReadRight(files: Record<string, string>, more: { files?: number; owner?: string | null } = {}): Promise<void> {
	const look = await lookAt(files, more.owner === undefined ? OWN.name : more.owner);
	const { threads } = look.findings().weave;
	const read = threads.flatMap((t) => t.messages.map(({ first: m }) => ({ m, thread: t.id }))).sort((a, b) => a.m.sentAt! - b.m.sentAt!);
	const who = (m: Said): Person | null => (m.who !== OWN ? m.who : m.room.title ? null : m.room.members[0]!);
	assert.deepEqual(
		read.map(({ m }) => [m.text, m.sentAt, m.direction, m.correspondent?.name ?? m.correspondent?.address ?? null, m.group]),
		SAID.map((m) => [m.text, m.at, m.who === OWN ? 'out' : 'in', who(m)?.name ?? null, m.room.title !== null])
	);
	const rooms = new Map(read.map(({ thread }, i) => [thread, SAID[i]!.room]));
	assert.equal(rooms.size, ROOMS.length);
	for (const [i, { thread }] of read.entries()) assert.equal(rooms.get(thread), SAID[i]!.room, SAID[i]!.text);
	if (more.files !== undefined) assert.equal(read.flatMap(({ m }) => m.files.filter((f) => f.name !== null)).length, more.files);
}

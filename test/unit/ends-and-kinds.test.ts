/** Whom a message was with, where a key names both ends, a number beside says what another one is, or a name has its number beside it. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Woven } from '../../src/core/weave';
import { looked, written } from '../vectors/written';

const START = Date.UTC(2025, 0, 14, 6);
const HOUR = 3_600_000;
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan'];
const SAID = [
	'Nobody came to look at the pump',
	'The boiler is off again',
	'I told them on Monday',
	'Water runs down the wall',
	'Who has the key?'
];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const said = (i: number): string => `${SAID[(i * 7) % SAID.length]}, ${i}`;
const at = (i: number): number => START + i * 7 * HOUR;
/** The owner is 0; who writes the message to or from the partner 1, 2 or 3. */
const partner = (i: number): number => 1 + (i % 3);
const writer = (i: number): number => ((i * 5) % 9 < 4 ? 0 : partner(i));

const messagesOf = (files: Record<string, Uint8Array>): Woven[] =>
	looked(files)
		.findings()
		.weave.threads.flatMap((t) => t.messages);
const indexOf = ({ first }: Woven): number => Number(/\d+$/.exec(first.text ?? '')?.[0] ?? NaN);

/** Asserts that each message is with its partner, by number, or in the room, whichever way it went. */
function areWith(messages: readonly Woven[], count: number, room: (i: number) => string | null): void {
	assert.equal(messages.length, count);
	for (const m of messages) {
		const [i, { first }] = [indexOf(m), m];
		const [who, title] = [writer(i), room(i)];
		assert.equal(first.direction, who === 0 ? 'out' : 'in', said(i));
		const other = title !== null && who === 0 ? null : number(partner(i));
		assert.equal(first.correspondent?.address ?? null, other, said(i));
		assert.equal(first.group, title !== null, said(i));
		if (title !== null) assert.equal(first.threadTitle, title);
	}
}

describe('a conversation called by the numbers of both who take part', () => {
	const store = (inRoom: (i: number) => boolean): Uint8Array => {
		const [bytes] = written((db, put) => {
			db.exec(`create table line(uid text primary key, conv text, writer text, state integer, ts integer, body text);
				create table room(conv text primary key, subject text); create table known(tel text primary key, shown text)`);
			for (const [i, name] of NAMES.entries()) if (i > 0) put('known', number(i), name);
			put('room', 'grp:7c0f', 'Stairwell B');
			for (let i = 0; i < 120; i++) {
				const who = writer(i);
				const conv = inRoom(i) ? 'grp:7c0f' : [number(0), number(partner(i))].sort().join(':');
				const state = who === 0 ? 2 + (i % 3) : 10 + (i % 2);
				put('line', `c-${i * 7919}`, conv, inRoom(i) && who > 0 ? number(who) : null, state, at(i), said(i));
			}
		});
		return bytes!;
	};
	it('is with the one who is not in all of them, and says by how far it got which way it went', () => {
		areWith(messagesOf({ 'x/talk.db': store(() => false) }), 120, () => null);
	});
	it('names who wrote in rooms, where the state goes with that', () => {
		const inRoom = (i: number): boolean => i % 8 === 3;
		areWith(messagesOf({ 'x/talk.db': store(inRoom) }), 120, (i) => (inRoom(i) ? 'Stairwell B' : null));
	});
});

describe('numbers of persons and of rooms in one column, with their kind beside', () => {
	const store = (count: number, rooms: readonly string[], room: (i: number) => number | null): Uint8Array => {
		const [bytes] = written((db, put) => {
			db.exec(`create table msg(id integer primary key, from_uid integer, to_type integer, to_id integer, ctime integer, state text, body text);
				create table user(uid integer primary key, nick text, mobile text); create table grp(gid integer primary key, gname text, owner_uid integer);
				create table login(uid integer, token text)`);
			for (const [i, name] of NAMES.entries()) put('user', i + 1, name, number(i));
			put('login', 1, 't0');
			for (const [i, title] of rooms.entries()) put('grp', i + 4, title, 3);
			for (let i = 0; i < count; i++) {
				const [who, to] = [writer(i), room(i)];
				const [type, id] = to === null ? [0, (who === 0 ? partner(i) : 0) + 1] : [1, to + 4];
				put('msg', i + 1, who + 1, type, id, Math.floor(at(i) / 1000), i % 3 ? 'read' : 'sent', said(i));
			}
		});
		return bytes!;
	};
	it('are told apart, though a number is that of a person and of a room', () => {
		const rooms = ['Stairwell B', 'Garden rota'];
		const room = (i: number): number | null => (i % 5 === 2 ? i % 2 : null);
		areWith(messagesOf({ 'im.db': store(120, rooms, room) }), 120, (i) => (room(i) === null ? null : rooms[room(i)!]!));
	});
	it('are told apart with one room and few messages', () => {
		const room = (i: number): number | null => (i % 4 === 1 ? 0 : null);
		areWith(messagesOf({ 'im.db': store(30, ['Stairwell B'], room) }), 30, (i) => (room(i) === null ? null : 'Stairwell B'));
	});
	it('are persons alone where nothing went to a room, and the owner of one is not the phone’s', () => {
		areWith(messagesOf({ 'im.db': store(24, ['Stairwell B'], () => null) }), 24, () => null);
	});
});

describe('one table for all that a program keeps', () => {
	it('has persons, conversations, messages and files, by columns that mean something else in each', () => {
		const [bytes] = written((db, put) => {
			db.exec(
				'create table object(oid integer primary key, class text, ref1 integer, ref2 integer, str1 text, str2 text, int1 integer, date1 real)'
			);
			let oid = 0;
			const add = (kind: string, ...values: (string | number | null)[]): number => {
				put('object', ++oid, kind, ...values);
				return oid;
			};
			const persons = NAMES.map((name, i) => add('Person', null, null, name, number(i), Number(i === 0), null));
			const talks = [1, 2, 3].map((i) => {
				const talk = add('Conversation', null, null, null, null, null, null);
				for (const who of [0, i]) add('Membership', talk, persons[who]!, null, null, null, null);
				return talk;
			});
			for (let i = 0; i < 90; i++) {
				const message = add('Message', talks[partner(i) - 1]!, persons[writer(i)]!, said(i), null, null, at(i) / 1000);
				if (i % 9 === 0) add('File', message, null, `obj/bin/${i}/IMG_${100 + i}.png`, 'image/png', 900 + i, null);
			}
		});
		const messages = messagesOf({ 'obj/objects.db': bytes! });
		areWith(messages, 90, () => null);
		for (const m of messages)
			assert.deepEqual(
				m.first.files.map((f) => f.name),
				indexOf(m) % 9 === 0 ? [`IMG_${100 + indexOf(m)}.png`] : []
			);
	});
});

describe('who wrote by name, with the number beside it', () => {
	it('is known by the number, also as whom a conversation is called after', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table talk(id integer primary key, name text);
				create table message(id integer primary key, talk_id integer, author_name text, author_tel text, is_mine text, posted text, body text)`);
			for (const i of [1, 2, 3]) put('talk', i, NAMES[i]!);
			for (let i = 0; i < 60; i++) {
				const who = writer(i);
				put('message', i + 1, partner(i), NAMES[who]!, number(who), who === 0 ? 'Y' : 'N', new Date(at(i)).toISOString(), said(i));
			}
		});
		const messages = messagesOf({ 'chat.db': bytes! });
		areWith(messages, 60, () => null);
		for (const m of messages) assert.equal(m.first.correspondent?.name, NAMES[partner(indexOf(m))]);
	});
});

describe('documents of messages that are files alone, beside those with a text', () => {
	it('are messages as well', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table packet(pk integer primary key, room integer, stamp real, mine integer, payload text);
				create table peer(pk integer primary key, payload text)`);
			for (const n of [1, 2, 3]) put('peer', n, JSON.stringify({ fullName: NAMES[n], phoneNumber: number(n) }));
			for (let i = 0; i < 60; i++) {
				const [mine, file] = [writer(i) === 0, { path: `objects/${i}.png`, type: 'image/png', length: 900 + i }];
				const said_ =
					i % 20 === 2 ? { object: file } : { text: said(i), style: 'plain', lines: 1, ...(i % 9 === 4 ? { object: file } : {}) };
				put(
					'packet',
					i + 1,
					partner(i),
					at(i) / 1000,
					Number(mine),
					JSON.stringify({ guid: `m${i}`, ...said_, ...(mine ? {} : { sender: partner(i) }) })
				);
			}
		});
		const messages = messagesOf({ 'pack.db': bytes! });
		assert.equal(messages.length, 60);
		const alone = messages.filter((m) => m.first.text === null);
		assert.deepEqual(alone.flatMap((m) => m.first.files.map((f) => f.name)).sort(), ['2.png', '22.png', '42.png']);
	});
});

describe('states of a store of which the oldest and the newest have no message in common', () => {
	it('are captures of one by the one between them, and the state of a message is read alike in all', () => {
		const copies = written((db, put, copy) => {
			db.exec('create table line(uid text primary key, conv text, writer text, state integer, ts integer, body text)');
			for (let i = 0; i < 180; i++) {
				const who = writer(i);
				// A room is there from the third copy on, which says what the states are.
				const inRoom = i >= 130 && i % 4 === 1;
				const conv = inRoom ? 'grp:7c0f' : [number(0), number(partner(i))].sort().join(':');
				put('line', `c-${i * 7919}`, conv, inRoom && who > 0 ? number(who) : null, who === 0 ? 4 : 10 + (i % 2), at(i), said(i));
				if (i >= 60) db.run('delete from line where uid = ?', [`c-${(i - 60) * 7919}`]);
				if (i === 69 || i === 120) copy();
			}
		});
		const look = looked(Object.fromEntries(copies.map((bytes, i) => [`copy ${i}/talk.db`, bytes])));
		const { weave } = look.findings();
		assert.equal(weave.families.length, 1);
		const messages = weave.threads.flatMap((t) => t.messages);
		assert.equal(messages.length, new Set(messages.map(indexOf)).size);
		for (const m of messages) assert.equal(m.first.direction, writer(indexOf(m)) === 0 ? 'out' : 'in', m.first.text!);
	});
});

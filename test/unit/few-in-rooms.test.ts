/** Stores in which hardly anything was said in a room: whose it is, and who wrote there, a few rows must tell. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { WovenThread } from '../../src/core/weave';
import { looked, written } from '../vectors/written';

const HOUR = 3_600_000;
const START = Date.UTC(2025, 0, 14, 6);
const SINCE_2001 = 978_307_200;
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan', 'Noor al-Khatib'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const said = (i: number): string => `${WORDS[i % 5]!}${i % 4 === 1 ? ', and it is cold' : ''}, ${i}`;
/** Of forty messages the conversation of each, one of three that are written in unlike often, and whether the owner wrote it. */
const talkOf = (i: number): number => (i % 7 === 3 ? 1 : i % 11 === 5 ? 2 : 0);
const isOwn = (i: number): boolean => i % 5 < 2;

const threadsOf = (bytes: Uint8Array): WovenThread[] => looked({ 'store.db': bytes }).findings().weave.threads;
const withText = (threads: readonly WovenThread[], text: string): WovenThread =>
	threads.find((t) => t.messages.some((m) => m.first.text === text))!;

describe('rooms of which a store has hardly a message', () => {
	// Dealt evenly, the numbers of the messages rise in each conversation as a count of its rows would.
	for (const dealt of ['unlike often', 'evenly'] as const)
		it(`are told by the list that joins messages to them, where persons are numbered as all but one and conversations written in ${dealt}`, () => {
			const talk = (i: number): number => (dealt === 'evenly' ? i % 4 : talkOf(i));
			const [bytes] = written((db, put) => {
				db.exec(`create table letter(rowid integer primary key autoincrement, guid text, text text, handle_id integer, date integer, is_from_me integer);
				create table handle(rowid integer primary key autoincrement, id text, country text, service text);
				create table talk(rowid integer primary key autoincrement, guid text, style integer, identifier text, room_name text, display_name text);
				create table talk_handle(talk_id integer, handle_id integer);
				create table talk_letter(talk_id integer, letter_id integer, letter_date integer, primary key(talk_id,letter_id))`);
				for (let i = 0; i < 4; i++) {
					put('handle', i + 1, number(i), 'gb', 'L');
					put('talk', i + 1, `L;-;${number(i)}`, 45, number(i), null, null);
					put('talk_handle', i + 1, i + 1);
				}
				put('talk', 5, 'L;+;chat9005', 43, 'chat9005', 'chat9005', 'Plant desk');
				for (const i of [1, 2, 4]) put('talk_handle', 5, i);
				for (let i = 0; i < 40; i++) {
					const inRoom = i === 39;
					const at = (START + i * HOUR - SINCE_2001 * 1000) * 1_000_000;
					put('letter', i + 1, `A-${i}`, said(i), inRoom ? 1 : talk(i) + 1, at, !inRoom && isOwn(i) ? 1 : 0);
					put('talk_letter', inRoom ? 5 : talk(i) + 1, i + 1, at);
				}
			});
			const threads = threadsOf(bytes!);
			const room = withText(threads, said(39));
			assert.deepEqual([room.group, room.title, room.messages.length], [true, 'Plant desk', 1]);
			assert.equal(room.messages[0]!.first.correspondent?.address, number(0));
			assert.equal(threads.length, dealt === 'evenly' ? 5 : 4);
		});

	it('are no persons, and a number in two messages of theirs says who wrote them', () => {
		const id = (i: number): string => `${number(i).slice(1)}@h.example`;
		const room = `${number(2).slice(1)}-1600000007@g.example`;
		const [bytes] = written((db, put) => {
			db.exec(`create table ZXQMESSAGE(Z_PK integer primary key, Z_OPT integer, ZISFROMME integer, ZSESSION integer, ZMEMBER integer, ZSENT real, ZFROMID text, ZTOID text, ZTEXT text);
				create table ZXQSESSION(Z_PK integer primary key, Z_OPT integer, ZKIND integer, ZPARTNERID text, ZPARTNERNAME text);
				create table ZXQMEMBER(Z_PK integer primary key, Z_OPT integer, ZISACTIVE integer, ZSESSION integer, ZNAME text, ZMEMBERID text)`);
			for (let i = 0; i < 6; i++) put('ZXQSESSION', i + 1, 1, 0, id(i), NAMES[i]!);
			put('ZXQSESSION', 7, 1, 1, room, 'Garden rota');
			for (const [k, i] of [2, 1, 0].entries()) put('ZXQMEMBER', k + 1, 1, 1, 7, NAMES[i]!, id(i));
			for (let i = 0; i < 34; i++) {
				const talk = i < 31 ? talkOf(i) : 6;
				const other = talk === 6 ? room : id(talk);
				const isOut = talk === 6 ? i === 32 : isOwn(i);
				const ends = isOut ? [null, other] : [other, null];
				const member = talk === 6 && !isOut ? 3 : null;
				put('ZXQMESSAGE', i + 1, 1, isOut ? 1 : 0, talk + 1, member, START / 1000 + i * 3600 - SINCE_2001, ...ends, said(i));
			}
		});
		const threads = threadsOf(bytes!);
		const found = withText(threads, said(32));
		assert.deepEqual([found.group, found.messages.length], [true, 3]);
		const writers = found.messages.flatMap(({ first }) => (first.direction === 'in' ? [first.correspondent?.name] : []));
		assert.deepEqual(writers, [NAMES[0], NAMES[0]]);
		assert.equal(threads.length, 4);
	});

	for (const [often, lines] of [
		['hardly', [5, 8, 12, 13]],
		['mostly', [1, 2, 3, 5, 6, 8, 9, 10, 12, 13, 15]]
	] as const)
		it(`are told from conversations of two by a writer who stands in all that was received, where a room is ${often} written in`, () => {
			const key = (i: number): string => `f1cf6f1${i}-bec1-5219-8a10-e4d5ea91565${i}`;
			const [bytes] = written((db, put) => {
				db.exec(`create table messages(rowid integer primary key, id text unique, json text, conversationId text, sent_at integer, type text, body text);
				create table conversations(id text primary key, json text, type text, members text, name text, e164 text)`);
				for (let i = 0; i < 4; i++) {
					const json = { id: key(i), e164: number(i), name: NAMES[i], type: 'private' };
					put('conversations', key(i), JSON.stringify(json), 'private', null, NAMES[i]!, number(i));
				}
				const members = [0, 1, 2].map((i) => `7807a4d4-6e4d-6034-1280-4d798ff98cb${i}`);
				const json = { id: key(9), name: 'Heating board', type: 'group', members };
				put('conversations', key(9), JSON.stringify(json), 'group', members.join(' '), 'Heating board', null);
				for (let i = 0; i < 20; i++) {
					const inRoom = (lines as readonly number[]).includes(i);
					const isOut = [4, 8, 14, 17].includes(i);
					const who = inRoom ? i % 3 : talkOf(i);
					const talk = inRoom ? key(9) : key(who);
					const at = START + i * HOUR;
					const type = isOut ? 'outgoing' : 'incoming';
					const source = isOut ? {} : { source: number(who) };
					const of = {
						id: `e1b184da-647c-3711-e064-70069f77a6${10 + i}`,
						conversationId: talk,
						type,
						sent_at: at,
						body: said(i),
						...source
					};
					put('messages', i + 1, of.id, JSON.stringify(of), talk, at, type, said(i));
				}
			});
			const threads = threadsOf(bytes!);
			const room = withText(threads, said(8));
			assert.deepEqual([room.group, room.title, room.messages.length], [true, 'Heating board', lines.length]);
			const writers = room.messages.flatMap(({ first }) => (first.direction === 'in' ? [first.correspondent?.name] : []));
			assert.deepEqual(
				writers,
				lines.filter((i) => ![4, 8, 14, 17].includes(i)).map((i) => NAMES[i % 3])
			);
			assert.equal(threads.length, 4);
		});

	it('are told by the numbers that their list has of who takes part, where the few rows fit the list of numbers as well', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table texts(_id integer primary key autoincrement, conv_id integer, address text, date integer, type integer, body text);
				create table convs(_id integer primary key autoincrement, date integer, message_count integer, recipient_ids text, read integer);
				create table canonical(_id integer primary key autoincrement, address text)`);
			for (let i = 0; i < 6; i++) {
				put('canonical', i + 1, number(i));
				put('convs', i + 1, 0, 0, String(i + 1), 1);
			}
			put('convs', 7, 0, 0, '5 6 4', 1);
			put('convs', 8, 0, 0, '2 5 3 4', 1);
			for (let i = 0; i < 40; i++) put('texts', i + 1, talkOf(i) + 3, number(talkOf(i) + 2), START + i * HOUR, isOwn(i) ? 2 : 1, said(i));
		});
		const { reading } = looked({ 'store.db': bytes! }).findings().stores[0]!;
		const roles = new Map(reading.sheets.map(({ sheet, role }) => [sheet.name, role.value]));
		assert.deepEqual(
			['canonical', 'convs', 'texts'].map((name) => roles.get(name)),
			['persons', 'threads', 'messages']
		);
	});

	it('stand among the persons: the one message in one of them is in that, called as another list calls it', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table message(_id integer primary key, date_sent integer, thread_id integer, from_recipient_id integer, to_recipient_id integer, body text);
				create table recipient(_id integer primary key, e164 text, group_id text, joined_name text);
				create table thread(_id integer primary key, recipient_id integer);
				create table groups(_id integer primary key, group_id text, recipient_id integer, title text);
				create table membership(_id integer primary key, group_id text, recipient_id integer)`);
			put('recipient', 1, '+447946000001', null, 'Piet Hallorann');
			for (let i = 0; i < 4; i++) {
				put('recipient', i + 2, number(i), null, NAMES[i]!);
				put('thread', i + 1, i + 2);
			}
			put('recipient', 105, null, '__room__!a01e661c', null);
			put('thread', 5, 105);
			put('groups', 1, '__room__!a01e661c', 105, 'Heating board');
			for (const [k, of] of [1, 3, 4, 5].entries()) put('membership', k + 1, '__room__!a01e661c', of);
			for (let i = 0; i < 40; i++) {
				const other = talkOf(i) + 2;
				const ends = i === 23 ? [5, 1, 105] : isOwn(i) ? [other - 1, 1, other] : [other - 1, other, 1];
				put('message', i + 1, START + i * HOUR, ...ends, said(i));
			}
		});
		const room = withText(threadsOf(bytes!), said(23));
		assert.deepEqual([room.group, room.title, room.messages.length], [true, 'Heating board', 1]);
		const { correspondent, members } = room.messages[0]!.first;
		assert.equal(correspondent, null);
		assert.deepEqual(members.map((m) => m.name).sort(), [NAMES[1], NAMES[2], NAMES[3]].sort());
	});

	it('are conversations where nearly all was said in two of them, by the same persons: no member’s handle is one', () => {
		const handle = (i: number): string => `@${NAMES[i]!.split(' ')[0]!.toLowerCase()}.resident:example.org`;
		const owner = '@piet.hallorann:example.org';
		const rooms = ['!5fa3ca14-c67:example.org', '!1137727b-128:example.org'];
		const ofTwo = (i: number): string => `!9486d12${i}-21b:example.org`;
		const [bytes] = written((db, put) => {
			db.exec(`create table events(seq integer primary key, event_id text, room_id text, sender text, kind text, origin_ts integer, content text);
				create table room(room_id text primary key, name text, direct text);
				create table member(room_id text, user_id text, displayname text, membership text, primary key(room_id,user_id));
				create table account(user_id text, device text)`);
			put('account', owner, 'DEV1');
			for (const i of [0, 1, 2]) put('room', ofTwo(i), null, handle(i));
			for (const [k, room] of rooms.entries()) put('room', room, ['Garden rota', 'Heating board'][k]!, null);
			for (const i of [0, 1, 2])
				for (const who of [handle(i), owner]) put('member', ofTwo(i), who, who === owner ? 'Piet Hallorann' : NAMES[i]!, 'join');
			for (const room of rooms)
				for (const who of [0, 1, 2, 3].map(handle).concat(owner))
					put('member', room, who, who === owner ? 'Piet Hallorann' : NAMES[[0, 1, 2, 3].map(handle).indexOf(who)]!, 'join');
			// How many each wrote: the owner, then the others, in the two rooms and with the first two alone.
			const counts: [room: string, by: number[]][] = [
				[rooms[0]!, [13, 2, 5, 7, 4]],
				[rooms[1]!, [15, 2, 2, 4, 3]],
				[ofTwo(0), [2, 2]],
				[ofTwo(1), [1, 0]]
			];
			const lines = counts.flatMap(([room, by], k) =>
				by.flatMap((n, who) => Array.from({ length: n }, (_, i) => ({ room, who, at: (i * 7 + who * 3 + k * 5) % 31 })))
			);
			for (const [i, { room, who }] of lines.sort((x, y) => x.at - y.at).entries()) {
				const sender = who === 0 ? owner : handle(room === ofTwo(0) ? 0 : who - 1);
				put('events', i + 1, `$e${i}`, room, sender, 'room.message', START + i * HOUR, JSON.stringify({ msgtype: 'text', body: said(i) }));
			}
		});
		const threads = threadsOf(bytes!);
		assert.deepEqual(
			threads.map((t) => [t.group, t.messages.length]).sort((x, y) => Number(y[1]) - Number(x[1])),
			[
				[true, 31],
				[true, 26],
				[false, 4],
				[false, 1]
			]
		);
		const sent = threads.flatMap((t) => t.messages.filter((m) => m.first.direction === 'out'));
		assert.equal(sent.length, 31);
	});
});

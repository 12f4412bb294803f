/** Two parties whose programs have the same records under the same keys, and stores in which the owner that was named is one of the others. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Engine } from '../vectors/engine';
import { looked, written, type Put } from '../vectors/written';

const START = Date.UTC(2025, 0, 14, 6);
const HOUR = 3_600_000;
const NAMES = ['Odile Marchetti', 'Tamsin al-Khatib', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan', 'Noor Adeyemi'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const said = (i: number): string => `${WORDS[i % 5]!}, and it is cold, ${i}`;
const key = (i: number): string => `c0ffee${10 + i}-0a1b-4c2d-8e3f-${100_000_000_000 + i}`;
const day = (i: number): string => new Date(START + i * HOUR).toISOString().slice(0, 19).replace('T', ' ');
const isOwn = (i: number): boolean => i % 5 < 2;

/** A store of messages with a number at either end, and of a room with those members. */
function setUp(db: Engine, put: Put, members: readonly number[]): void {
	db.exec(`create table messages(uid text primary key, from_number text not null, to_number text, group_uid text, sent text not null, body text);
		create table groups(group_uid text primary key, subject text);
		create table group_members(group_uid text, number text);
		create table names(number text primary key, name text)`);
	for (const [i, name] of NAMES.entries()) put('names', number(i), name);
	put('groups', key(90), 'Plant desk');
	for (const i of members) put('group_members', key(90), number(i));
}

/** The store of whose number `own` is, with what he wrote to each of `others` and they to him; `from`: the first of their own messages. */
const store = (own: number, others: readonly [number, number[]][]): Uint8Array =>
	written((db, put) => {
		setUp(db, put, [0, 1, 2, 3]);
		for (const [other, messages] of others)
			for (const i of messages) {
				// What the first wrote is his on either device.
				const byFirst = isOwn(i) === own < other;
				const [from, to] = byFirst ? [own, other] : [other, own];
				put('messages', key(i), number(from), number(to), null, day(i), said(i));
			}
	})[0]!;
const numbers = (from: number, to: number): number[] => Array.from({ length: to - from }, (_, i) => from + i);

describe('what two wrote to each other, under the same keys on both devices', () => {
	const shared = numbers(0, 60).filter((i) => i % 4 !== 3);
	const mine = store(0, [[1, shared], [2, numbers(0, 24).map((i) => 100 + i * 2)]]); // prettier-ignore
	const hers = store(1, [[0, shared], [4, numbers(0, 24).map((i) => 101 + i * 2)]]); // prettier-ignore

	for (const owner of [null, NAMES[0]!])
		it(`is the other side’s copy, and no earlier state of the one${owner ? ', though the user named an owner' : ''}`, () => {
			const { weave } = looked({ 'mine/store.db': mine, 'hers/store.db': hers }, owner).findings();
			assert.equal(weave.families.length, 2);
			const messages = weave.threads.flatMap((t) => t.messages);
			assert.equal(messages.length, shared.length + 48);
			assert.ok(messages.every((m) => m.standing === 'kept'));
			const between = weave.threads.find((t) => t.messages.some((m) => m.first.text === said(0)))!;
			assert.equal(between.messages.length, shared.length);
		});
});

it('a store in which somebody else takes part in all conversations is his, whomever the user named', () => {
	const [bytes] = written((db, put) => {
		db.exec(`create table msg(id integer primary key, chat integer not null, sender integer, ts integer not null, body text);
			create table chat(id integer primary key, kind integer, title text, peer integer);
			create table chat_user(chat integer, user integer, primary key(chat,user));
			create table user(id integer primary key, name text, number text)`);
		for (const [i, id] of [1, 21, 22, 23].entries()) put('user', id, NAMES[i]!, number(i));
		for (const id of [21, 22, 23]) {
			put('chat', 280 + id, 1, null, id);
			for (const who of [id, 1]) put('chat_user', 280 + id, who);
		}
		for (let i = 0; i < 45; i++) put('msg', i + 1, 301 + (i % 3), isOwn(i) ? 1 : 21 + (i % 3), START + i * HOUR, said(i));
	});
	const { threads } = looked({ 'store.db': bytes! }, NAMES[1]!).findings().weave;
	const ways = threads.flatMap((t) => t.messages.map((m) => [m.first.text, m.first.direction] as const));
	// With whom the user named what went there came to him.
	for (const [text, way] of ways) {
		const i = numbers(0, 45).find((n) => said(n) === text)!;
		assert.equal(way, isOwn(i) === i % 3 > 0 ? 'out' : 'in', text!);
	}
});

it('the two ends of a message are told, though the one names a row of another list of numbers as well', () => {
	const [bytes] = written((db, put) => {
		setUp(db, put, [0, 1, 2, 3, 5]);
		for (let i = 0; i < 40; i++) {
			const other = number([1, 2, 3][i % 3]!);
			const inRoom = i > 36;
			const [from, to] = isOwn(i) ? [number(0), other] : [i % 7 === 2 && !inRoom ? number(4) : other, number(0)];
			put('messages', key(i), from, inRoom ? null : to, inRoom ? key(90) : null, day(i), said(i));
		}
	});
	const { threads } = looked({ 'store.db': bytes! }).findings().weave;
	const messages = threads.flatMap((t) => t.messages);
	for (let i = 0; i < 40; i++) {
		const { first } = messages.find((m) => m.first.text === said(i))!;
		assert.equal(first.direction, isOwn(i) ? 'out' : 'in', said(i));
	}
	assert.equal(threads.find((t) => t.group)!.messages.length, 3);
});

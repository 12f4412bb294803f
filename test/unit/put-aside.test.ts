/** Messages that a program moves into a bin of its own, whose rows say by a table's name where they came from. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Engine } from '../vectors/engine';
import { looked, written, type Put } from '../vectors/written';

const START = Date.UTC(2025, 0, 14, 6) / 1000;
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const said = (i: number): string => `${WORDS[i % 5]!}, and it is cold, ${i}`;
const at = (i: number): number => START + i * 3600;
const isIn = (i: number): boolean => i % 5 > 1;
const partner = (i: number): number => (i % 7 === 3 ? 1 : i % 11 === 5 ? 2 : 0);

function setUp(db: Engine, put: Put): void {
	db.exec(`create table inbox(id integer primary key autoincrement, sender text, circle integer, received integer, body text, file text);
		create table outbox(id integer primary key autoincrement, recipient text, circle integer, sent integer, body text, file text);
		create table bin(id integer primary key autoincrement, box text, box_id integer, peer text, circle integer, stamp integer, body text, file text, removed integer);
		create table circle(id integer primary key, name text, people text);
		create table people(number text primary key, name text)`);
	for (const [i, name] of NAMES.entries()) put('people', number(i), name);
	put('circle', 6, 'Plant desk', [0, 1, 2].map(number).join(';'));
}

const send = (put: Put, i: number, circle: number | null = null): void =>
	isIn(i)
		? put('inbox', i + 1, number(partner(i)), circle, at(i), said(i), null)
		: put('outbox', i + 1, circle ? null : number(partner(i)), circle, at(i), said(i), null);

function putAside(db: Engine, put: Put, i: number, n: number): void {
	const box = isIn(i) ? 'inbox' : 'outbox';
	put('bin', n, box, i + 1, number(partner(i)), null, at(i), said(i), null, at(i) + 90_000);
	db.exec(`delete from ${box} where id=${i + 1}`);
}

describe('messages in a bin that says which table they came from', () => {
	// Of one row, of one from each table, and of several.
	for (const aside of [[7], [8, 5], [3, 8, 12, 15, 20]])
		it(`are messages in the bin, each once, with its way and whom it is with (${aside.length} of them, in two captures)`, () => {
			const captures = written((db, put, copy) => {
				setUp(db, put);
				for (let i = 0; i < 30; i++) send(put, i);
				putAside(db, put, aside[0]!, 1);
				copy();
				for (const [n, i] of aside.slice(1).entries()) putAside(db, put, i, n + 2);
			});
			const findings = looked({ 'March/store.db': captures[0]!, 'May/store.db': captures[1]! }).findings();
			const messages = findings.weave.threads.flatMap((t) => t.messages);
			for (const i of aside) {
				const found = messages.filter((m) => m.first.text === said(i));
				assert.equal(found.length, 1, said(i));
				const [{ first, standing }] = found as [(typeof found)[0]];
				assert.deepEqual([standing, first.direction, first.sentAt], ['binned', isIn(i) ? 'in' : 'out', at(i) * 1000]);
				assert.equal(first.correspondent?.address, number(partner(i)));
			}
			assert.equal(messages.length, 30);
			assert.equal(findings.weave.threads.length, 3);
		});

	it('leave the tables they came from messages, though most of those are in the bin', () => {
		const captures = written((db, put, copy) => {
			setUp(db, put);
			for (let i = 0; i < 24; i++) send(put, i);
			copy();
			for (let i = 0; i < 16; i++) putAside(db, put, i, i + 1);
		});
		const { threads } = looked({ 'March/store.db': captures[0]!, 'May/store.db': captures[1]! }).findings().weave;
		const messages = threads.flatMap((t) => t.messages);
		assert.deepEqual(messages.map((m) => m.first.text).sort(), Array.from({ length: 24 }, (_, i) => said(i)).sort());
		assert.equal(messages.filter((m) => m.standing === 'binned').length, 16);
		assert.equal(messages.filter((m) => m.first.direction === null).length, 0);
	});
});

it('one room of which either table has a message is one', () => {
	const [bytes] = written((db, put) => {
		setUp(db, put);
		for (let i = 0; i < 20; i++) send(put, i);
		send(put, 21, 6);
		send(put, 22, 6);
	});
	const { threads } = looked({ 'store.db': bytes! }).findings().weave;
	const room = threads.find((t) => t.group)!;
	assert.deepEqual([room.title, room.messages.map((m) => m.first.text)], ['Plant desk', [said(21), said(22)]]);
});

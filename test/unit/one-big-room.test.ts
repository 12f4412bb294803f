/** Stores in which nearly all was said in one room: kinds are no titles, persons no rooms, and a word can say that nothing was deleted. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { looked, written } from '../vectors/written';

const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const START = Date.UTC(2025, 0, 14, 6);
const at = (i: number): number => START + i * 3_600_000;
const said = (i: number): string =>
	`${['Nobody came', 'Who signed it', 'The stairs are dark'][(i * 7) % 3]!}${', and the lift is stuck'.repeat((i * 5) % 4)}, and I wait here ${i}`;
const ROOM = 4;
const dialog = (i: number): number => (i === 0 ? 2 : i % 9 === 8 ? 1 : ROOM);
const writer = (i: number): number => (dialog(i) === 2 ? 2 : dialog(i) === 1 ? (i % 2 ? 1 : 0) : [0, 2, 3, 0, 2, 4][i % 6]!);

const captures = (): Uint8Array[] =>
	written((db, put, copy) => {
		db.exec(`pragma secure_delete=off;
			create table message(id integer primary key autoincrement, dialog integer, sender integer, sent integer, body text);
			create table dialog(id integer primary key, name text, kind text, last_id integer, last_body text, last_sent integer);
			create table dialog_user(dialog integer, user integer);
			create table user(id integer primary key, name text, phone text, me integer)`);
		for (const [i, name] of NAMES.entries()) {
			put('user', 100 + i, name, number(i), i === 0 ? 1 : 0);
			if (i === 0 || i === ROOM) continue;
			put('dialog', i, null, 'one', null, null, null);
			for (const user of [0, i]) put('dialog_user', i, 100 + user);
		}
		put('dialog', ROOM, 'Heating board', 'many', null, null, null);
		for (const user of [0, 2, 3, 4]) put('dialog_user', ROOM, 100 + user);
		for (let i = 0; i < 60; i++) {
			put('message', i + 1, dialog(i), 100 + writer(i), at(i), said(i));
			db.run('update dialog set last_id=?, last_body=?, last_sent=? where id=?', [i + 1, said(i), at(i), dialog(i)]);
			if (i === 19 || i === 38) copy();
		}
	});

describe('a store of which nearly all is one room', () => {
	it('is read alike in all its captures', () => {
		const [first, second, third] = captures();
		const { weave } = looked({ 'a/main.db': first!, 'b/main.db': second!, 'c/main.db': third! }).findings();
		assert.equal(weave.families.length, 1);
		const messages = weave.threads.flatMap((t) => t.messages.map((m) => m.first));
		assert.equal(messages.length, 60);
		for (const m of messages) {
			const i = (m.sentAt! - START) / 3_600_000;
			assert.deepEqual([m.text, m.direction, m.group], [said(i), writer(i) === 0 ? 'out' : 'in', dialog(i) === ROOM], said(i));
			assert.equal(m.threadTitle ?? null, dialog(i) === ROOM ? 'Heating board' : null);
		}
	});
});

describe('a mark of what was deleted that is a word', () => {
	it('marks what it says yes of', () => {
		const [bytes] = written((db, put) => {
			db.exec(
				`create table Nachrichten(Nr integer primary key autoincrement, Richtung text, Rufnummer text, Zeit integer, Inhalt text, Geloescht text)`
			);
			for (let i = 0; i < 30; i++)
				put('Nachrichten', i + 1, i % 2 ? 'ausgehend' : 'eingehend', number(1 + (i % 3)), at(i), said(i), i % 10 === 7 ? 'ja' : 'nein');
		});
		const messages = looked({ 'daten.sqlite': bytes! })
			.findings()
			.weave.threads.flatMap((t) => t.messages);
		assert.equal(messages.length, 30);
		for (const m of messages) assert.equal(m.standing, m.record! % 10 === 8 ? 'binned' : 'kept', m.first.text!);
	});
});

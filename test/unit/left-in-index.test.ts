/** What is left of deleted messages in a text index, and in what the list of conversations showed last. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Engine } from '../vectors/engine';
import { looked, written, type Put } from '../vectors/written';

const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan', 'Greta Hallorann', 'Ines Novotny'];
const START = Date.UTC(2025, 0, 14, 6) * 1000;
const at = (i: number): number => START + i * 3_600_000_000;
const WORDS = ['boiler', 'key', 'where', 'stairs', 'rent', 'ladder'];
const THINGS = ['is broken again', 'must be paid', 'was nowhere to be found', 'waits downstairs'];
/** Some are a word, which several say in time. */
function said(i: number): string {
	const word = WORDS[(i * 5 + (i >> 2)) % 6]!;
	return i % 9 === 4 ? word : `The ${word} ${THINGS[(i * 3 + (i >> 3)) % 4]!} and nobody comes ${i * 7}`;
}

function setUp(db: Engine, put: Put, talks: number): void {
	db.exec(`pragma secure_delete=off;
		create table message(id integer primary key autoincrement, dialog integer, sender integer, sent integer, body text);
		create table dialog(id integer primary key, name text, kind text, last_id integer, last_body text, last_sent integer);
		create table dialog_user(dialog integer, user integer);
		create table user(id integer primary key, name text, phone text, me integer);
		create virtual table search using fts5(body)`);
	for (const [i, name] of NAMES.slice(0, talks + 1).entries()) {
		put('user', 100 + i, name, `+4477009001${10 + i * 7}`, i === 0 ? 1 : 0);
		if (i === 0) continue;
		put('dialog', i, null, 'one', null, null, null);
		for (const user of [0, i]) put('dialog_user', i, 100 + user);
	}
}

function send(db: Engine, put: Put, i: number, talks: number): void {
	const dialog = 1 + (i % talks);
	put('message', i + 1, dialog, 100 + (i % 2 === 0 ? 0 : dialog), at(i), said(i));
	db.run('insert into search(rowid, body) values(?, ?)', [i + 1, said(i)]);
	db.run('update dialog set last_id=?, last_body=?, last_sent=? where id=?', [i + 1, said(i), at(i), dialog]);
}

function erase(db: Engine, i: number): void {
	db.exec(`delete from message where id=${i + 1}; delete from search where rowid=${i + 1}`);
}

/** Messages are written, a copy is made, and then as many days as there are captures those of a while ago are deleted. */
const captures = (): Uint8Array[] =>
	written((db, put, copy) => {
		setUp(db, put, 3);
		for (let i = 0; i < 120; i++) {
			send(db, put, i, 3);
			if (i >= 30) erase(db, i - 30);
			if (i === 70 || i === 95) copy();
		}
	});

describe('what is left in a text index and in the list of conversations', () => {
	it('is of the messages that another capture has, each once', () => {
		const [first, second, third] = captures();
		const { threads } = looked({ 'January/main.db': first!, 'February/main.db': second!, 'March/main.db': third! }).findings().weave;
		const seen = new Map<string, number>();
		for (const m of threads.flatMap((t) => t.messages)) seen.set(m.first.text ?? '', (seen.get(m.first.text ?? '') ?? 0) + 1);
		for (let i = 41; i < 120; i++) if (said(i).length > 8) assert.equal(seen.get(said(i)), 1, said(i));
		for (const word of WORDS) {
			const all = Array.from({ length: 120 }, (_, i) => said(i)).filter((text) => text === word).length;
			assert.ok((seen.get(word) ?? 0) <= all, `${word} ${seen.get(word)}`);
		}
	});

	it('is a message where a row that lost its number has its text and its time', () => {
		const [bytes] = written((db, put) => {
			setUp(db, put, 6);
			for (let i = 0; i < 30; i++) send(db, put, i, 6);
			// A conversation that is deleted, and of whose messages nothing is left but what the list showed.
			db.exec(`pragma secure_delete=on; delete from message where dialog=6;
				delete from search where rowid % 6 = 0; insert into search(search) values('optimize');
				pragma secure_delete=off; delete from dialog where id=6; delete from dialog_user where dialog=6`);
		});
		const messages = looked({ 'January/main.db': bytes! })
			.findings()
			.weave.threads.flatMap((t) => t.messages);
		const last = messages.filter((m) => m.first.text === said(29));
		assert.equal(last.length, 1);
		const [m] = last as [(typeof last)[0]];
		assert.deepEqual([m.first.sentAt, m.standing, m.grade], [at(29) / 1000, 'remnant', 'fragment']);
		assert.deepEqual(
			m.sightings.map((s) => s.method),
			['preview']
		);
		assert.equal(messages.length, 26);
	});
});

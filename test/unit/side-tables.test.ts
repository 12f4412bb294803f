/** Tables that stand beside messages and name them: earlier wordings are told from what else a program keeps of a message. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import type { StoreReading } from '../../src/core/interpret';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const WORDS = 'boiler meter charge valve stairs credit plant heating month failure notice tenant copper ladder window letter'.split(' ');
const COUNT = 60;
const START = 1_735_000_000;
const MINUTE = 60;

interface Said {
	id: number;
	at: number;
	text: string;
}

const random = new Random(77);
const words = (count: number): string => Array.from({ length: count }, () => random.pick(WORDS)).join(' ');
const SAID: Said[] = Array.from({ length: COUNT }, (_, i) => ({
	id: i + 1,
	at: START + i * 5000,
	text: `${words(random.int(3, 14))} ${i}`
}));
const SOME = SAID.filter(({ id }) => id % 5 === 0);

/** A store of messages with four persons, and the side table. */
function write(path: string, side: (db: Engine) => void): void {
	const db = createDatabase(path);
	db.exec(`create table person(id integer primary key, name text, number text);
		create table talk(id integer primary key, person_id integer, topic text);
		create table message(id integer primary key, talk_id integer, mine integer, at integer, body text, changed_at integer)`);
	for (let i = 1; i <= 4; i++) {
		db.run('insert into person values(?,?,?)', [i, `Maud ${'ABCD'[i - 1]}olland`, `+44770090010${i}`]);
		db.run('insert into talk values(?,?,null)', [i, i]);
	}
	for (const { id, at, text } of SAID)
		db.run('insert into message values(?,?,?,?,?,null)', [id, 1 + (id % 4), Number(id % 3 === 0), at, text]);
	side(db);
	db.close();
}

const each = (db: Engine, sql: string, values: (said: Said, i: number) => (string | number | null)[]): void =>
	SOME.forEach((said, i) => db.run(sql, values(said, i)));

/** What is no wording, no message and no file of one: by what its table is called, which columns it has, or when it was made. */
const OTHERS: Record<string, (db: Engine) => void> = {
	'where a link leads': (db) => {
		db.exec('create table x(message_id integer, u text, head text, more text, at integer)');
		each(db, 'insert into x values(?,?,?,?,?)', ({ id, at }) => [id, `https://site.example/${id}`, words(3), words(15), at + 900]);
	},
	'the question of a poll': (db) => {
		db.exec(
			'create table q(id integer primary key, message_id integer, asked text, at integer); create table q_option(q_id integer, label text)'
		);
		each(db, 'insert into q values(?,?,?,?)', ({ id, at }, i) => [i + 1, id, words(6), at + 900]);
		SOME.forEach((_, i) => ['Yes', 'No'].forEach((label) => db.run('insert into q_option values(?,?)', [i + 1, label])));
	},
	'a translation, made at once': (db) => {
		db.exec('create table other_tongue(message_id integer, tongue text, words text, at integer)');
		each(db, 'insert into other_tongue values(?,?,?,?)', ({ id, at, text }) => [id, 'de', words(text.split(' ').length), at + 3]);
	},
	'translations, some of messages that are gone': (db) => {
		db.exec('create table translation(message_id integer, lang text, body text, at integer)');
		each(db, 'insert into translation values(?,?,?,?)', ({ id, at, text }, i) => [
			i % 4 === 1 ? COUNT + 5 * i : id,
			i % 2 ? 'de' : 'es',
			words(text.split(' ').length),
			at + 3
		]);
	},
	'what is written in a picture': (db) => {
		db.exec('create table seen(message_id integer, found text, sure real)');
		each(db, 'insert into seen values(?,?,?)', ({ id }) => [id, words(9), random.int(1, 99) / 100]);
	},
	'answers that were proposed, several to one': (db) => {
		db.exec('create table proposed(message_id integer, words text, score real, at integer)');
		for (let k = 0; k < 3; k++)
			each(db, 'insert into proposed values(?,?,?,?)', ({ id, at }) => [id, words(3), random.int(1, 99) / 100, at + 1]);
	},
	'what to be reminded of': (db) => {
		db.exec('create table reminder(id integer primary key, message_id integer, label text, due integer)');
		each(db, 'insert into reminder values(?,?,?,?)', ({ id, at }, i) => [i + 1, id, words(4), at + 86_400]);
	},
	'what was begun and not sent, one to a conversation': (db) => {
		db.exec('create table y(talk_id integer primary key, words text, at integer)');
		for (let i = 1; i <= 4; i++) db.run('insert into y values(?,?,?)', [i, words(5), START + COUNT * 5000 + i]);
	},
	'pictures that can be sent, numbered as messages are, beside a table of what is unread': (db) => {
		db.exec(
			'create table sticker(id integer primary key, pack text, emoji text, file text); create table unseen(talk_id integer, message_id integer, at integer)'
		);
		for (let i = 1; i <= 58; i++) db.run('insert into sticker values(?,?,?,?)', [i, 'p1', '👍', `stickers/p1/${i}.webp`]);
		each(db, 'insert into unseen values(?,?,?)', ({ id, at }) => [1 + (id % 4), id, at]);
	},
	'drafts, though their name begins like a word for deleted': (db) => {
		db.exec('create table borrador(talk_id integer primary key, body text, at integer)');
		for (let i = 1; i <= 4; i++) db.run('insert into borrador values(?,?,?)', [i, words(5), START + COUNT * 5000 + i]);
	}
};

/** What is a wording: by its name, by its likeness, by a mark of what was changed, or by nothing against it. */
const reworded = (text: string): string => text.replace(/^\S+ /, 'old ');
const WORDINGS: Record<string, { side: (db: Engine) => void; old: (said: Said) => string }> = {
	'a table called for it': {
		side: (db) => {
			db.exec('create table revision(message_id integer, words text, at integer)');
			each(db, 'insert into revision values(?,?,?)', ({ id, at }) => [id, `quite other ${id}`, at + 7 * MINUTE]);
		},
		old: ({ id }) => `quite other ${id}`
	},
	'words nearly the same, though made at once': {
		side: (db) => {
			db.exec('create table z(k integer primary key, message_id integer, words text, at integer)');
			each(db, 'insert into z values(?,?,?,?)', ({ id, at, text }, i) => [i + 1, id, reworded(text), at + 4]);
		},
		old: ({ text }) => reworded(text)
	},
	'a mark at those that were changed': {
		side: (db) => {
			db.exec('alter table message rename column changed_at to edited_at');
			db.exec('create table z(message_id integer, words text, at integer)');
			each(db, 'insert into z values(?,?,?)', ({ id, at }) => [id, `quite other ${id}`, at + 4]);
			each(db, 'update message set edited_at=? where id=?', ({ id, at }) => [at + 4, id]);
		},
		old: ({ id }) => `quite other ${id}`
	},
	'nothing but a time some minutes later': {
		side: (db) => {
			db.exec('create table z(message_id integer, words text, at integer)');
			each(db, 'insert into z values(?,?,?)', ({ id, at }, i) => [id, `quite other ${id}`, at + (i + 2) * MINUTE]);
		},
		old: ({ id }) => `quite other ${id}`
	}
};

describe('tables beside messages', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-beside-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function lookAt(name: string, side: (db: Engine) => void): ReturnType<Look['findings']> {
		const path = join(folder, `${name}.db`);
		write(path, side);
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look.findings();
	}
	const read = (name: string, side: (db: Engine) => void): Woven[] => lookAt(name, side).weave.threads.flatMap((t) => t.messages);
	const readingOf = (name: string, side: (db: Engine) => void): StoreReading => lookAt(name, side).stores[0]!.reading;
	const textsOf = (messages: readonly Woven[]): (string | null)[] => messages.map((m) => m.first.text).sort();

	Object.entries(OTHERS).forEach(([what, side], i) =>
		it(`hold no wording, message or file: ${what}`, () => {
			const messages = read(`other-${i}`, side);
			assert.deepEqual(textsOf(messages), SAID.map((s) => s.text).sort());
			assert.deepEqual(
				messages.filter((m) => m.first.files.length > 0 || m.standing !== 'kept').map((m) => m.first.text),
				[]
			);
		})
	);

	it('say of a message what was done to it, but for suggestions, previews and notes on persons', () => {
		const messages = read('deeds', (db) => {
			db.exec(
				'create table thumb(message_id integer, sign text, at integer); create table suggestion(message_id integer, words text, at integer)'
			);
			db.exec('create table preview(message_id integer, url text, headline text, at integer)');
			db.exec('create table person_note(id integer primary key, person_id integer, note text, at integer)');
			each(db, 'insert into thumb values(?,?,?)', ({ id, at }) => [id, '👍', at + 9]);
			each(db, 'insert into preview values(?,?,?,?)', ({ id, at }) => [id, `https://site.example/${id}`, words(3), at + 9]);
			SAID.forEach(({ id, at }) => db.run('insert into suggestion values(?,?,?)', [id, words(2), at]));
			for (let i = 1; i <= 6; i++) db.run('insert into person_note values(?,?,?,?)', [i, 1 + (i % 4), words(2), START]);
		});
		assert.deepEqual(
			messages.flatMap((m) => m.first.attached.map((a) => [m.first.row.rowid, a.what])).sort(),
			SOME.map(({ id }) => [id, '👍']).sort()
		);
	});

	it('list persons, but for labels with their colours, and folders that conversations lie in', () => {
		const { persons } = readingOf('labels', (db) => {
			db.exec(
				'create table label(id integer primary key, name text, colour text); create table label_of(message_id integer, label_id integer)'
			);
			db.exec('create table folder(id integer primary key, label text); create table folder_of(folder integer, talk_id integer)');
			['Work', 'Home', 'To do', 'Important'].forEach((name, i) => db.run('insert into label values(?,?,?)', [i + 1, name, `#1f2e3${i}`]));
			each(db, 'insert into label_of values(?,?)', ({ id }) => [id, 1 + (id % 4)]);
			['Work', 'Family', 'Unread'].forEach((name, i) => db.run('insert into folder values(?,?)', [i + 1, name]));
			for (let i = 1; i <= 4; i++) for (let k = 1; k <= 2; k++) db.run('insert into folder_of values(?,?)', [1 + ((i + k) % 3), i]);
		});
		assert.deepEqual(
			persons.map((p) => p.sheet.name),
			['person']
		);
	});

	Object.entries(WORDINGS).forEach(([what, { side, old }], i) =>
		it(`hold earlier wordings: ${what}`, () => {
			const messages = read(`wording-${i}`, side);
			const earlier = messages.filter((m) => m.earlierWordingOf !== null);
			assert.deepEqual(
				earlier.map((m) => [m.earlierWordingOf!.first.text, m.first.text]).sort(),
				SOME.map((said) => [said.text, old(said)]).sort()
			);
			assert.deepEqual(textsOf(messages.filter((m) => m.earlierWordingOf === null)), SAID.map((s) => s.text).sort());
		})
	);
});

import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { plainMessage, type Message } from '../../src/core/weave';
import { createDatabase, type Engine as Database } from '../vectors/engine';

const SENTENCES = [
	'The boiler is off again',
	'Who has the meter key',
	'I will ask the board',
	'Thanks, see you at seven',
	'The charge is wrong'
];
const START = Date.UTC(2025, 0, 10, 8);

/** A store of 120 messages with two people, 1 and 2, and what `more` adds; looked at to the end. */
function lookAt(folder: string, name: string, more: (db: Database) => void): Message[] {
	const path = join(folder, `${name}.db`);
	const db = createDatabase(path, ['page_size=4096']);
	db.exec('create table people(id integer primary key, number text, name text)');
	db.run('insert into people values(1,?,?)', ['+447700900111', 'Odile Marchetti']);
	db.run('insert into people values(2,?,?)', ['+447700900122', 'Tamsin Okafor']);
	db.exec('create table letters(id integer primary key, guid text, person integer, body text, sent integer, mine integer, answers text)');
	for (let i = 1; i <= 120; i++)
		db.run('insert into letters values(?,?,?,?,?,?,?)', [
			i,
			guid(i),
			(i % 2) + 1,
			`${SENTENCES[i % 5]}, ${i}`,
			START + i * 60_000,
			i % 3 === 0 ? 1 : 0,
			i % 10 === 0 ? guid(i - 4) : null
		]);
	more(db);
	db.close();
	const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	return weave.threads.flatMap((t) => t.messages.map((m) => plainMessage(m, stores, look.files, { hex: false, stored: false })));
}

const guid = (n: number): string => `00000000-0000-4000-8000-${(10 ** 11 + n * 7919).toString()}`;

describe('sheets that belong to messages', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	it('brings back the text of a message that only a text index still holds', () => {
		const messages = lookAt(folder, 'index', (db) => {
			db.exec('create virtual table found using fts5(body)');
			db.exec('insert into found(rowid, body) select id, body from letters');
			db.exec('pragma secure_delete=on');
			db.exec('delete from letters where id in (40, 41)');
			db.exec('vacuum');
		});
		const lost = messages.filter((m) => m.standing !== 'kept');
		assert.deepEqual(lost.map((m) => [m.text, m.record, m.grade, m.sentAt]).sort(), [
			['The boiler is off again, 40', 40, 'fragment', null],
			['Who has the meter key, 41', 41, 'fragment', null]
		]);
		assert.ok(lost.every((m) => m.sightings[0]!.method === 'text-index'));
		const kept = messages.filter((m) => m.standing === 'kept');
		assert.equal(kept.length, 118);
		assert.ok(kept.every((m) => m.sightings.some((s) => s.method === 'text-index')));
	});

	/** Six conversations of a list that shows the last message of each; one of those is then deleted, without a trace. */
	function listed(name: string, shows: (db: Database) => void): Message[] {
		return lookAt(folder, name, (db) => {
			db.exec('create table rooms(id integer primary key, number text, latest text, at integer)');
			db.exec('create table said(id integer primary key, room integer, body text, sent integer, mine integer)');
			for (let i = 1; i <= 60; i++)
				db.run('insert into said values(?,?,?,?,?)', [i, (i % 6) + 1, `${SENTENCES[i % 5]}, number ${i}`, START + i * 90_000, i % 2]);
			for (let room = 1; room <= 6; room++)
				db.run('insert into rooms select ?, ?, body, sent from said where room = ? order by sent desc limit 1', [
					room,
					`+44770090020${room}`,
					room
				]);
			db.exec('drop table letters');
			db.exec('pragma secure_delete=on');
			db.exec('delete from said where id = 58');
			shows(db);
			db.exec('vacuum');
		}).filter((m) => m.standing !== 'kept');
	}

	it('brings back the last message of a conversation that only the list of conversations still shows', () => {
		const lost = listed('shown', () => undefined);
		assert.deepEqual(
			lost.map((m) => [m.text, m.sentAt, m.correspondent, m.grade, m.sightings[0]!.method]),
			[['Thanks, see you at seven, number 58', START + 58 * 90_000, '+447700900205', 'fragment', 'preview']]
		);
	});

	it('knows that the beginnings which a list of conversations shows are cut, and takes them for nobody’s name', () => {
		const text = (i: number): string =>
			`Number ${i}: ${[58, 59].includes(i) ? SENTENCES[i % 5]!.toLowerCase() : SENTENCES[i % 5]!.slice(0, 7)}`;
		const messages = lookAt(folder, 'beginnings', (db) => {
			db.exec('create table rooms(id integer primary key, latest text, at integer, with_id integer)');
			db.exec('create table whom(id integer primary key, number text)');
			db.exec('create table said(id integer primary key, room_id integer, body text, sent integer, mine integer)');
			for (let i = 1; i <= 60; i++) db.run('insert into said values(?,?,?,?,?)', [i, (i % 6) + 1, text(i), START + i * 90_000, i % 2]);
			for (let room = 1; room <= 6; room++) {
				db.run('insert into whom values(?,?)', [room, `+44770090020${room}`]);
				db.run('insert into rooms select ?, substr(body, 1, 21), sent, ? from said where room_id = ? order by sent desc limit 1', [
					room,
					room,
					room
				]);
			}
			db.exec('drop table letters; drop table people');
			db.exec('pragma secure_delete=on');
			db.exec('delete from said where id in (58, 59)');
			db.exec('vacuum');
		});
		assert.deepEqual(
			messages
				.filter((m) => m.standing !== 'kept')
				.map((m) => [m.text, m.textCut, m.grade])
				.sort(),
			[58, 59].map((i) => [text(i).slice(0, 21), true, 'fragment']).sort()
		);
		assert.deepEqual([...new Set(messages.map((m) => m.person))], [null]);
	});

	it('takes no label of a list of conversations for a message, nor what says nothing of when', () => {
		// The time is that of a message known; the same words stand with two conversations; without a time, too few words.
		const labels = [
			"update rooms set latest = 'A picture of it', at = (select max(sent) from said where room = 5) where id = 5",
			"update rooms set latest = 'A voice message came', at = at + 1000 where id in (5, 6)",
			"update rooms set latest = 'Photo', at = null where id = 5"
		];
		for (const [i, sql] of labels.entries())
			assert.deepEqual(
				listed(`label${i}`, (db) => db.exec(sql)).map((m) => m.text),
				[],
				sql
			);
	});

	it('takes rows of a sign each that name another for reactions to it, and answers for messages', () => {
		const signs = (column: string): Message[] =>
			lookAt(folder, column, (db) => {
				db.exec(`alter table letters add column ${column} integer`);
				for (let i = 1; i <= 6; i++)
					db.run(`insert into letters(id, person, body, sent, mine, ${column}) values(?,?,?,?,?,?)`, [
						200 + i,
						(i % 2) + 1,
						'👍',
						START + (200 + i) * 60_000,
						0,
						10 * i + 1
					]);
			});
		const reacted = signs('about');
		assert.equal(reacted.length, 120);
		assert.deepEqual(
			reacted.filter((m) => m.attached?.some((a) => a.what === '👍')).map((m) => m.record),
			[11, 21, 31, 41, 51, 61]
		);
		assert.equal(signs('reply_to').length, 126);
	});

	it('takes a list of what is in the bin for the messages it names, and for no later one that has such a number again', () => {
		const messages = lookAt(folder, 'bin', (db) => {
			db.exec('create table trash(letter integer primary key, since integer)');
			for (const id of [20, 40, 60]) db.run('insert into trash values(?,?)', [id, START + id * 60_000 + 86_400_000]);
			db.run('insert into trash values(?,?)', [90, START]);
		});
		assert.deepEqual(
			messages.filter((m) => m.standing === 'binned').map((m) => m.record),
			[20, 40, 60]
		);
		assert.equal(messages.filter((m) => m.standing === 'kept').length, 117);
	});

	it('puts the wordings of a history under their message with the time until when they stood', () => {
		const messages = lookAt(folder, 'history', (db) => {
			db.exec('create table wordings(n integer primary key, letter integer, was text, changed integer)');
			for (const [letter, was, at] of [
				[12, 'I will ask nobody at all', 20],
				[12, 'I will ask somebody', 30],
				[55, 'The boiler is fine', 80],
				[60, 'The boiler was never off', 90],
				[61, 'Nobody has the meter key', 95],
				[62, 'The board asked me', 96]
			] as const)
				db.run('insert into wordings(letter, was, changed) values(?,?,?)', [letter, was, START + at * 60_000]);
		});
		const main = messages.find((m) => m.record === 12 && !m.earlierWordingOf)!;
		const earlier = messages.filter((m) => m.earlierWordingOf === main.id);
		assert.deepEqual(earlier.map((m) => [m.text, m.until, m.standing]).sort(), [
			['I will ask nobody at all', START + 20 * 60_000, 'dropped'],
			['I will ask somebody', START + 30 * 60_000, 'dropped']
		]);
		assert.equal(messages.filter((m) => m.earlierWordingOf).length, 6);
		assert.equal(messages.filter((m) => !m.earlierWordingOf).length, 120);
	});

	it('attaches reactions, names the message answered and the files stated', () => {
		const messages = lookAt(folder, 'attached', (db) => {
			db.exec('create table marks(letter text, who integer, sign text, at integer)');
			for (let i = 1; i <= 40; i++)
				db.run('insert into marks values(?,?,?,?)', [guid(i * 2), (i % 2) + 1, i % 3 ? '👍' : '🔥', START + i * 90_000]);
			db.exec('create table enclosures(id integer primary key, letter integer, file text, kind text, bytes integer)');
			for (let i = 1; i <= 20; i++)
				db.run('insert into enclosures(letter, file, kind, bytes) values(?,?,?,?)', [
					i * 5,
					`received/meter-${i}.jpg`,
					'image/jpeg',
					30_000 + i
				]);
		});
		const ten = messages.find((m) => m.record === 10)!;
		assert.deepEqual(ten.attached, [{ what: '👍', who: 'Tamsin Okafor', at: START + 5 * 90_000, standing: 'kept' }]);
		assert.equal(ten.replyTo, messages.find((m) => m.record === 6)!.id);
		assert.deepEqual(ten.attachments, [
			{ name: 'meter-2.jpg', type: 'image/jpeg', size: 30_002, sha256: null, path: null, link: null, stated: 'received/meter-2.jpg' }
		]);
		assert.equal(messages.length, 120);
	});
});

describe('messages that exist by the store’s own word', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-listed-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** Rooms with a counter; twelve messages of room 2 wiped, so that no number and no byte is left of them. */
	function gapsOf(name: string, countsDown: boolean, list: boolean): { why: string; count: number }[] {
		const path = join(folder, `${name}.db`);
		const db = createDatabase(path, ['page_size=4096']);
		db.exec('create table people(id integer primary key, number text, name text)');
		db.exec('create table rooms(id integer primary key, person integer, message_count integer)');
		db.exec('create table letters(guid text primary key, room integer, body text, sent integer, mine integer)');
		db.exec('create table outbox(letter_guid text, tries integer)');
		for (let n = 1; n <= 5; n++) {
			db.run('insert into people values(?,?,?)', [n, `+44770090012${n}`, ['Odile', 'Tamsin', 'Bram', 'Noor', 'Wen'][n - 1]]);
			db.run('insert into rooms values(?,?,?)', [n + 100, n, 40]);
		}
		for (let n = 1; n <= 200; n++) {
			const room = (n % 5) + 1;
			if (room !== 2 || n > 60)
				db.run('insert into letters values(?,?,?,?,?)', [
					guid(n),
					room + 100,
					`${SENTENCES[n % 5]}, ${n}`,
					START + n * 60_000,
					n % 3 ? 0 : 1
				]);
			if (list) db.run('insert into outbox values(?,?)', [guid(n), n % 3]);
		}
		if (countsDown) db.exec('update rooms set message_count = (select count(*) from letters where room = rooms.id)');
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look
			.findings()
			.weave.gaps.filter((g) => g.why === 'counter' || g.why === 'list')
			.map(({ why, count }) => ({ why, count }));
	}

	it('counts what a thread’s counter has more than is known', () =>
		assert.deepEqual(gapsOf('counter', false, false), [{ why: 'counter', count: 12 }]));
	it('says nothing where the counter counts down', () => assert.deepEqual(gapsOf('down', true, false), []));
	it('counts keys that a list names and nothing else has', () =>
		assert.deepEqual(gapsOf('list', true, true), [{ why: 'list', count: 12 }]));
});

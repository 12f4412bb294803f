import assert from 'node:assert/strict';
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { bracketOf, type Woven } from '../../src/core/weave';
import { createDatabase, openDatabase, type Engine } from '../vectors/engine';

const START = Date.UTC(2025, 0, 10, 8);
const HOUR = 3_600_000;
const WORDS = ['boiler', 'meter', 'board', 'charge', 'stairs', 'cellar', 'winter'];

function store(path: string, owner: 1 | 0 = 0): Engine {
	const db = createDatabase(path, ['page_size=4096']);
	db.exec('create table people(id integer primary key, number text, name text)');
	db.run('insert into people values(1,?,?)', ['+447700900111', 'Odile Marchetti']);
	db.run('insert into people values(2,?,?)', ['+447700900122', 'Tamsin Okafor']);
	db.exec('create table letters(id integer primary key autoincrement, person integer, body text, sent integer, mine integer)');
	return add(db, 1, 100, owner);
}

function add(db: Engine, from: number, to: number, owner: 1 | 0 = 0): Engine {
	for (let i = from; i <= to; i++)
		db.run('insert into letters(person, body, sent, mine) values(?,?,?,?)', [
			(i % 2) + 1,
			`The ${WORDS[i % 7]} is spoken of, ${i}`,
			START + i * HOUR,
			(i % 3 === 0 ? 1 : 0) ^ owner
		]);
	return db;
}

function lookAt(paths: string[]): { all: Woven[]; find: (i: number) => Woven; look: ReturnType<Look['findings']> } {
	const look = new Look(openPaths(paths), { reach: 'raw', owner: null });
	for (const event of look.run()) void event;
	const found = look.findings();
	const all = found.weave.threads.flatMap((t) => t.messages);
	const find = (i: number): Woven => {
		const matches = all.filter((m) => m.first.text?.endsWith(`, ${i}`) && !m.earlierWordingOf);
		assert.equal(matches.length, 1, `message ${i} once`);
		return matches[0]!;
	};
	return { all, find, look: found };
}

describe('captures', () => {
	let folder: string;
	const at = (name: string): string => join(folder, name);
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-captures-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	it('lines up copies of one store, whatever order they are given in, and brackets each deletion', () => {
		const db = store(at('now.db'));
		db.close();
		copyFileSync(at('now.db'), at('zz-first.db'));
		const later = openDatabase(at('now.db'), ['secure_delete=on']);
		later.exec('delete from letters where id between 40 and 44');
		later.exec("update letters set body = 'The meter is not spoken of, 50' where id = 50");
		add(later, 101, 130);
		later.close();
		copyFileSync(at('now.db'), at('mm-second.db'));
		const last = openDatabase(at('now.db'), ['secure_delete=on']);
		last.exec('delete from letters where id in (60, 120)');
		add(last, 131, 140);
		last.close();
		const { find, all, look } = lookAt([at('mm-second.db'), at('zz-first.db'), at('now.db')]);
		const [family] = look.weave.families;
		assert.deepEqual(
			family!.captures.map((c) => c.name),
			['zz-first.db', 'mm-second.db', 'now.db']
		);
		assert.equal(all.filter((m) => !m.earlierWordingOf).length, 140);
		const states = (i: number): string =>
			bracketOf(find(i), family!)
				.states.map((s) => s.state)
				.join(' ');
		assert.equal(states(10), 'in in in');
		assert.equal(find(10).standing, 'kept');
		assert.equal(states(41), 'in out out');
		assert.equal(find(41).standing, 'dropped');
		assert.equal(states(60), 'in in out');
		assert.equal(states(120), 'before in out');
		assert.equal(states(135), 'before before in');
		const { lastSeen, firstMissing } = bracketOf(find(41), family!);
		assert.deepEqual([lastSeen, firstMissing], [START + 100 * HOUR, START + 130 * HOUR]);
		const kept = bracketOf(find(10), family!);
		assert.deepEqual([kept.lastSeen, kept.firstMissing], [null, null]);
		const wording = all.find((m) => m.earlierWordingOf === find(50))!;
		assert.match(wording.first.text!, /^The board is spoken of, 50$|^The .* is spoken of, 50$/);
		assert.equal(wording.standing, 'dropped');
		assert.deepEqual(look.weave.gaps, []);
	});

	it('says of a message deleted from the end that it went, though what is left inside is older', () => {
		const captures = [10, 20, 15].map((hour, store) => ({ store, time: START + hour * HOUR }));
		const seenIn = new Map([
			[0, 'kept'],
			[1, 'kept']
		] as const);
		const m = { first: { sentAt: START + 18 * HOUR }, seenIn } as unknown as Woven;
		const family = { captures } as unknown as Parameters<typeof bracketOf>[1];
		const { states, lastSeen, firstMissing } = bracketOf(m, family);
		assert.equal(states.map((one) => one.state).join(' '), 'in in out');
		assert.deepEqual([lastSeen, firstMissing], [START + 20 * HOUR, START + 20 * HOUR]);
	});

	it('knows an earlier wording by the older copy where its freed cell has lost its number', () => {
		store(at('written.db')).close();
		copyFileSync(at('written.db'), at('written-1.db'));
		const db = openDatabase(at('written.db'), ['secure_delete=off']);
		const edited = [1, 12, 28, 51];
		// Nothing of the wording stays, so that only record and time tell that it is the same message.
		for (const id of edited)
			db.run('update letters set body = ? where id = ?', [`Pump water valve letter council rent, garden 🙂, ${id}`, id]);
		add(db, 101, 110);
		db.close();
		const { find, all, look } = lookAt([at('written.db'), at('written-1.db')]);
		// Some are left in the newer copy as well.
		let freed = 0;
		assert.equal(all.filter((m) => !m.earlierWordingOf).length, 110);
		for (const id of edited) {
			assert.equal(find(id).first.text, `Pump water valve letter council rent, garden 🙂, ${id}`);
			const { states, firstMissing } = bracketOf(find(id), look.weave.families[0]!);
			assert.deepEqual(
				states.map((s) => s.state),
				['in', 'in']
			);
			assert.equal(firstMissing, null);
			const wordings = all.filter((m) => m.earlierWordingOf === find(id));
			assert.deepEqual(
				wordings.map((m) => [m.first.text, m.standing]),
				[[`The ${WORDS[id % 7]} is spoken of, ${id}`, 'dropped']]
			);
			assert.ok(wordings[0]!.sightings.some(({ method }) => method === 'row-in-use'));
			if (wordings[0]!.sightings.some(({ method }) => method === 'freed-cell')) freed++;
		}
		assert.ok(freed >= 2, String(freed));
	});

	it('lines up copies of a table that numbers nothing, though a vacuum numbered its rows anew, with what was edited between', () => {
		const db = createDatabase(at('plain.db'), ['page_size=4096', 'secure_delete=on']);
		db.exec('create table letters(number text, body text, sent integer, mine integer)');
		const put = (i: number, body: string, sent = START + i * HOUR): void =>
			void db.run('insert into letters values(?,?,?,?)', [i % 2 ? '+447700900111' : '+447700900122', body, sent, i % 3 === 0 ? 1 : 0]);
		for (let i = 1; i <= 80; i++) put(i, `The ${WORDS[i % 7]} is spoken of, ${i}`);
		// Two that one sent in one moment: neither is a wording of the other.
		put(7, 'The first of two, 201', START + 90 * HOUR);
		put(7, 'The second of two, 202', START + 90 * HOUR);
		db.close();
		copyFileSync(at('plain.db'), at('plain-1.db'));
		const later = openDatabase(at('plain.db'), ['secure_delete=on']);
		later.exec("delete from letters where body like 'The board%' or body like '%, 201'");
		later.exec("update letters set body = 'Please ring up first, 31' where body like '%, 31'");
		later.exec('vacuum');
		later.run('insert into letters values(?,?,?,?)', ['+447700900111', 'One more, 301', START + 99 * HOUR, 0]);
		later.close();
		const { find, all, look } = lookAt([at('plain.db'), at('plain-1.db')]);
		const [family, ...others] = look.weave.families;
		assert.deepEqual(others, []);
		assert.deepEqual(
			family!.captures.map((c) => c.name),
			['plain-1.db', 'plain.db']
		);
		const states = (i: number): string =>
			bracketOf(find(i), family!)
				.states.map((s) => s.state)
				.join(' ');
		assert.deepEqual(
			[5, 9, 31, 201, 202, 301].map((i) => [i, states(i), find(i).standing]),
			[
				[5, 'in in', 'kept'],
				[9, 'in out', 'dropped'],
				[31, 'in in', 'kept'],
				[201, 'in out', 'dropped'],
				[202, 'in in', 'kept'],
				[301, 'before in', 'kept']
			]
		);
		assert.deepEqual(
			all.filter((m) => m.earlierWordingOf).map((m) => [m.first.text, m.earlierWordingOf === find(31)]),
			[[`The ${WORDS[31 % 7]} is spoken of, 31`, true]]
		);
	});

	it('reads the files of an older copy by its own messages, though neither has numbers and both number their files alike', () => {
		const write = (path: string, from: number, to: number, files: readonly number[]): void => {
			const db = createDatabase(path, ['page_size=4096']);
			db.exec('create table letters(id text primary key, number text, body text, sent integer, mine integer) without rowid');
			db.exec('create table files(id integer primary key, letter text, path text, type text)');
			const key = (n: number): string => `${10_000_000 + n * 7919}-letter`;
			for (let i = from; i <= to; i++)
				db.run('insert into letters values(?,?,?,?,?)', [
					key(i),
					i % 2 ? '+447700900111' : '+447700900122',
					`The ${WORDS[i % 7]} is spoken of, ${i}`,
					START + i * HOUR,
					i % 3 === 0 ? 1 : 0
				]);
			files.forEach((i, k) => db.run("insert into files values(?,?,?,'image/png')", [k + 1, key(i), `in/picture ${i}.png`]));
			db.close();
		};
		write(at('files-old.db'), 1, 28, [11, 25]);
		write(at('files-new.db'), 9, 60, [11, 50, 57]);
		const { find } = lookAt([at('files-old.db'), at('files-new.db')]);
		// Only the older copy has the file of 25.
		assert.deepEqual(
			[11, 25, 50, 57].map((i) => find(i).first.files.map((f) => f.name)),
			[11, 25, 50, 57].map((i) => [`picture ${i}.png`])
		);
		assert.equal(find(5).standing, 'dropped');
	});
	it('does not take two of one moment for wordings of each other where one has the number by now that the other had', () => {
		const db = createDatabase(at('moved.db'), ['page_size=4096', 'secure_delete=on']);
		db.exec('create table letters(number text, body text, sent integer, mine integer)');
		for (let i = 1; i <= 40; i++)
			// The 21st and the 22nd at once, by the same hand.
			db.run('insert into letters values(?,?,?,?)', [
				'+447700900111',
				`The ${WORDS[i % 7]} is spoken of, ${i}`,
				START + (i === 22 ? 21 : i) * HOUR,
				1
			]);
		db.close();
		copyFileSync(at('moved.db'), at('moved-1.db'));
		const later = openDatabase(at('moved.db'), ['secure_delete=on']);
		later.exec("delete from letters where body like '%, 3'");
		later.exec('vacuum');
		later.close();
		const { find, all } = lookAt([at('moved.db'), at('moved-1.db')]);
		assert.equal(all.length, 40);
		for (let i = 1; i <= 40; i++) assert.equal(find(i).standing, i === 3 ? 'dropped' : 'kept');
	});

	it('takes rows that a vacuum numbered anew for one message each, though the log has them under both numbers', () => {
		const db = createDatabase(at('log.db'), ['page_size=4096', 'journal_mode=wal', 'wal_autocheckpoint=0', 'secure_delete=off']);
		db.exec('create table letters(number text, body text, sent integer, mine integer)');
		for (let i = 1; i <= 60; i++)
			db.run('insert into letters values(?,?,?,?)', ['+447700900111', `The ${WORDS[i % 7]} is spoken of, ${i}`, START + i * HOUR, i % 2]);
		db.exec("delete from letters where body like 'The board%'");
		db.exec('vacuum');
		copyFileSync(at('log.db'), at('logged.db'));
		copyFileSync(at('log.db-wal'), at('logged.db-wal'));
		db.close();
		const { find, all } = lookAt([at('logged.db')]);
		assert.equal(all.filter((m) => m.grade === 'whole').length, 60);
		for (let i = 1; i <= 60; i++) assert.equal(find(i).standing === 'kept', i % 7 !== 2, String(i));
	});

	it('tells by an older copy whose the rows are that lie on a page another table has by now', () => {
		const names = ['letters_111', 'letters_122', 'letters_133'];
		const db = createDatabase(at('tables.db'), ['page_size=1024', 'secure_delete=off']);
		for (const name of names) db.exec(`create table ${name}(n integer primary key autoincrement, sent integer, mine integer, body text)`);
		const put = (on: Engine, which: number, i: number): void =>
			void on.run(`insert into ${names[which]!}(sent, mine, body) values(?,?,?)`, [
				START + i * HOUR,
				i % 2,
				`The ${WORDS[i % 7]} is spoken of, ${i}`
			]);
		const which = (i: number): number => (i % 5 < 2 ? 1 : i % 5 === 2 ? 0 : 2);
		for (let i = 1; i <= 90; i++) put(db, which(i), i);
		db.close();
		copyFileSync(at('tables.db'), at('tables-1.db'));
		const later = openDatabase(at('tables.db'), ['secure_delete=off']);
		later.exec('delete from letters_122');
		for (let i = 91; i <= 104; i++) put(later, 2, i);
		later.close();
		const { find, all, look } = lookAt([at('tables.db'), at('tables-1.db')]);
		assert.equal(all.filter((m) => m.grade !== 'fragment').length, 104);
		assert.equal(look.weave.threads.length, 3);
		for (let i = 1; i <= 90; i++) {
			if (which(i) !== 1) continue;
			assert.equal(find(i).thread, find(1).thread);
			assert.equal(find(i).standing, 'dropped');
		}
	});

	it('knows the later copy when the newest messages are what was deleted', () => {
		store(at('a.db')).close();
		copyFileSync(at('a.db'), at('b.db'));
		const db = openDatabase(at('a.db'));
		db.exec('delete from letters where id > 90');
		db.close();
		const { find, look } = lookAt([at('a.db'), at('b.db')]);
		assert.deepEqual(
			look.weave.families[0]!.captures.map((c) => c.name),
			['b.db', 'a.db']
		);
		assert.equal(find(95).standing, 'dropped');
		assert.equal(
			bracketOf(find(95), look.weave.families[0]!)
				.states.map((s) => s.state)
				.join(' '),
			'in out'
		);
	});

	it('does not take the other side’s store for a copy of this one', () => {
		store(at('mine.db')).close();
		const other = createDatabase(at('theirs.db'), ['page_size=4096']);
		other.exec('create table people(id integer primary key, number text, name text)');
		other.run('insert into people values(1,?,?)', ['+447700900199', 'Piet Hallorann']);
		other.exec('create table letters(id integer primary key autoincrement, person integer, body text, sent integer, mine integer)');
		for (let i = 2; i <= 100; i += 2)
			other.run('insert into letters(person, body, sent, mine) values(1,?,?,?)', [
				`The ${WORDS[i % 7]} is spoken of, ${i}`,
				START + i * HOUR,
				i % 3 === 0 ? 0 : 1
			]);
		other.close();
		const { look } = lookAt([at('mine.db'), at('theirs.db')]);
		assert.equal(look.weave.families.length, 2);
	});

	it('does not order copies by counts of changes that a lock of pages makes up', () => {
		const db = store(at('older-locked.db'));
		db.close();
		copyFileSync(at('older-locked.db'), at('newer-locked.db'));
		add(openDatabase(at('newer-locked.db')), 101, 140).close();
		// The engine that locks pages goes on counting from bytes that it locked before.
		for (const [name, counter] of [
			['older-locked.db', 0xf1234567],
			['newer-locked.db', 0x61234567]
		] as const) {
			const bytes = readFileSync(at(name));
			for (const offset of [24, 92]) bytes.writeUInt32BE(counter, offset);
			writeFileSync(at(name), bytes);
		}
		const { look, find } = lookAt([at('older-locked.db'), at('newer-locked.db')]);
		assert.deepEqual(
			look.weave.families[0]!.captures.map((c) => c.name),
			['older-locked.db', 'newer-locked.db']
		);
		assert.equal(find(120).standing, 'kept');
	});
});

import assert from 'node:assert/strict';
import { copyFileSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { bracketOf, capturesFor, type Woven } from '../../src/core/weave';
import { createDatabase, openDatabase, type Engine } from '../vectors/engine';

const START = Date.UTC(2025, 0, 10, 8);
const HOUR = 3_600_000;
const OWNER = '+447700900300';
const PEOPLE = ['Odile Marchetti', 'Bram Vesterholt', 'Noor Khatib'];
const textOf = (i: number): string => `The boiler is cold again, ${i}`;

function store(path: string): Engine {
	const db = createDatabase(path, ['secure_delete=off']);
	db.exec(`create table people(id integer primary key, name text, number text, is_me integer);
		create table rooms(id integer primary key, title text);
		create table members(room_id integer, person_id integer);
		create table letters(id integer primary key, room_id integer, writer_id integer, body text, sent integer)`);
	PEOPLE.forEach((name, i) =>
		db.run('insert into people values(?,?,?,?)', [i + 1, name, i === 0 ? OWNER : `+44770090041${i}`, i === 0 ? 1 : 0])
	);
	for (const [room, title, members] of [
		[1, null, [1, 2]],
		[2, null, [1, 3]],
		[3, 'Cellar keys', [1, 2, 3]]
	] as const) {
		db.run('insert into rooms values(?,?)', [room, title]);
		for (const person of members) db.run('insert into members values(?,?)', [room, person]);
	}
	return db;
}

/** In turns with Bram, with Noor and in the room of all three; every other one the owner's. */
const rowOf = (i: number): unknown[] => {
	const room = (i % 3) + 1;
	const other = room === 3 ? 2 + (i % 4 > 1 ? 1 : 0) : room + 1;
	return [i, room, i % 2 === 0 ? 1 : other, textOf(i), START + i * HOUR];
};
const add = (db: Engine, from: number, to: number): void => {
	for (let i = from; i <= to; i++) db.run('insert into letters values(?,?,?,?,?)', rowOf(i));
};

/** Moves what is older than a number out of one file into another, as programs do that keep an archive. */
function archive(from: string, to: string, until: number): void {
	const [db, old] = [openDatabase(from, ['secure_delete=off']), openDatabase(to)];
	for (const row of db.all('select * from letters where id <= ? order by id', [until]))
		old.run('insert into letters values(?,?,?,?,?)', Object.values(row));
	db.exec(`delete from letters where id <= ${until}`);
	db.close();
	old.close();
}

function lookAt(paths: string[]): { all: Woven[]; now: (i: number) => Woven; found: ReturnType<Look['findings']> } {
	const look = new Look(openPaths(paths), { reach: 'raw', owner: OWNER });
	for (const event of look.run()) void event;
	const found = look.findings();
	const all = found.weave.threads.flatMap((t) => t.messages);
	const now = (i: number): Woven => {
		const same = all.filter((m) => m.first.text === textOf(i) && !m.earlierWordingOf);
		assert.equal(same.length, 1, `message ${i} once`);
		return same[0]!;
	};
	return { all, now, found };
}

describe('parts of a store', () => {
	let folder: string;
	const at = (...names: string[]): string => join(folder, ...names);
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-parts-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	it('what was moved into an archive beside is kept, once, with what is left of it', () => {
		mkdirSync(at('one'));
		const db = store(at('one', 'letters.db'));
		add(db, 1, 90);
		db.close();
		store(at('one', 'archive.db')).close();
		archive(at('one', 'letters.db'), at('one', 'archive.db'), 60);
		const { all, now, found } = lookAt([at('one')]);
		assert.equal(all.length, 90);
		for (let i = 1; i <= 90; i++) assert.equal(now(i).standing, 'kept', `message ${i}`);
		const seen = Array.from({ length: 60 }, (_, i) => now(i + 1).sightings.map((s) => s.standing));
		assert.equal(
			seen.every((standings) => standings.includes('kept')),
			true
		);
		assert.equal(seen.filter((standings) => standings.length > 1).length > 20, true, 'what was left where they had been is theirs');
		assert.deepEqual(found.weave.gaps, []);
		assert.equal(found.weave.threads.length, 3);
	});

	it('two copies of both say what was deleted, and not what was moved', () => {
		for (const name of ['january', 'march']) mkdirSync(at('two', name), { recursive: true });
		const db = store(at('two', 'letters.db'));
		add(db, 1, 90);
		db.close();
		store(at('two', 'archive.db')).close();
		archive(at('two', 'letters.db'), at('two', 'archive.db'), 30);
		for (const file of ['letters.db', 'archive.db']) copyFileSync(at('two', file), at('two', 'january', file));
		const later = openDatabase(at('two', 'letters.db'));
		later.exec('delete from letters where id in (70, 71)');
		add(later, 91, 120);
		later.close();
		const old = openDatabase(at('two', 'archive.db'));
		old.exec(`delete from letters where id = 10; update letters set body = '${textOf(20)}, or not' where id = 20`);
		old.close();
		archive(at('two', 'letters.db'), at('two', 'archive.db'), 50);
		for (const file of ['letters.db', 'archive.db']) copyFileSync(at('two', file), at('two', 'march', file));
		const { all, now, found } = lookAt([at('two', 'march'), at('two', 'january')]);
		const statesOf = (m: Woven): string => {
			const among = capturesFor(m, found.weave)!;
			return bracketOf(m, among.family)
				.states.map((s) => s.state)
				.join(' ');
		};
		for (const i of [5, 40, 60, 90]) assert.equal(`${now(i).standing} ${statesOf(now(i))}`, 'kept in in', `message ${i}`);
		for (const i of [10, 70, 71]) assert.equal(`${now(i).standing} ${statesOf(now(i))}`, 'dropped in out', `message ${i}`);
		assert.equal(`${now(110).standing} ${statesOf(now(110))}`, 'kept before in');
		const edited = all.filter((m) => m.record === 20);
		assert.deepEqual(
			edited.map((m) => [m.first.text, m.earlierWordingOf !== null]).sort(),
			[
				[textOf(20), true],
				[`${textOf(20)}, or not`, false]
			].sort()
		);
		assert.equal(all.length, 121);
		assert.deepEqual(found.weave.gaps, []);
	});

	it('a file for each month is no copy of the month before', () => {
		mkdirSync(at('months'));
		for (const [name, from, to] of [
			['2025-01.db', 1, 40],
			['2025-02.db', 41, 80],
			['2025-03.db', 81, 120]
		] as const) {
			const db = store(at('months', name));
			add(db, from, to);
			if (from === 41) db.exec('pragma secure_delete=on; delete from letters where id = 50');
			db.close();
		}
		const { all, now, found } = lookAt([at('months')]);
		assert.equal(all.length, 119);
		for (const i of [1, 41, 81, 120]) assert.equal(now(i).standing, 'kept');
		assert.equal(found.weave.threads.length, 3);
		assert.deepEqual(
			found.weave.gaps.map((g) => [g.from, g.to]),
			[[50, 50]]
		);
	});

	it('copies of one folder stay copies where all that the first had is gone from the second', () => {
		mkdirSync(at('copies'));
		const db = store(at('copies', 'before.db'));
		add(db, 1, 40);
		db.close();
		copyFileSync(at('copies', 'before.db'), at('copies', 'after.db'));
		const later = openDatabase(at('copies', 'after.db'), ['secure_delete=off']);
		later.exec('delete from letters');
		add(later, 41, 60);
		later.close();
		const { now } = lookAt([at('copies')]);
		assert.equal(now(20).standing, 'dropped');
		assert.equal(now(50).standing, 'kept');
	});

	it('a room of one name and the same members is one thread in two stores that have nothing in common', () => {
		for (const name of ['phone', 'desk']) mkdirSync(at('rooms', name), { recursive: true });
		const db = store(at('rooms', 'phone', 'letters.db'));
		add(db, 1, 40);
		db.close();
		const other = store(at('rooms', 'desk', 'talk.db'));
		other.exec('update rooms set id = id + 5; update members set room_id = room_id + 5; alter table letters rename to lines');
		for (let i = 201; i <= 240; i++) {
			const [id, room, ...rest] = rowOf(i) as [number, number, ...unknown[]];
			other.run('insert into lines values(?,?,?,?,?)', [id - 200, room + 5, ...rest]);
		}
		other.close();
		const { found } = lookAt([at('rooms')]);
		assert.equal(found.weave.threads.length, 3);
		assert.equal(found.weave.threads.find((t) => t.group)!.messages.length, 26);
	});
});

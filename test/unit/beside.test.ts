/** A store whose persons stand in a file beside it: read together, shown as such, and only where they have to do with it. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { createDatabase } from '../vectors/engine';

const PEOPLE = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt'];

describe('a file beside the store', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-beside-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** A store in `place`, its persons in `people`, and a file of other things beside it. */
	function made(place: string, people: string): Look {
		for (const part of [place, people]) mkdirSync(join(folder, part), { recursive: true });
		const db = createDatabase(join(folder, place, 'talk.db'));
		db.exec('create table message(id integer primary key, contact_id integer, sent integer, way integer, text text)');
		for (let i = 1; i <= 30; i++)
			db.run('insert into message values(?,?,?,?,?)', [i, 5 + (i % 3), 1_736_000_000 + i * 700, i % 2, `The valve was open again, ${i}`]);
		db.close();
		const persons = createDatabase(join(folder, people, 'people.db'));
		persons.exec('create table contact(id integer primary key, number text, name text)');
		PEOPLE.forEach((name, i) => persons.run('insert into contact values(?,?,?)', [5 + i, `+44770090011${i}`, name]));
		persons.close();
		const other = createDatabase(join(folder, place, 'tiles.db'));
		other.exec('create table tile(id integer primary key, zoom integer, picture blob)');
		for (let i = 1; i <= 40; i++) other.run('insert into tile values(?,?,?)', [i, i % 4, Buffer.alloc(40, i)]);
		other.close();
		const look = new Look(openPaths([join(folder, place.split('/')[0]!)]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look;
	}
	const named = (look: Look): Set<string | undefined> =>
		new Set(look.findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.correspondent?.name ?? undefined)));

	it('names the other sides, and the reading says where it stands', () => {
		const look = made('one', 'one');
		assert.deepEqual(named(look), new Set(PEOPLE));
		const [reading] = look.readings().filter((r) => r.store === 'talk.db');
		assert.deepEqual(
			reading!.tables.map((t) => [t.name, t.role]),
			[
				['message', 'messages'],
				['contact', 'persons']
			]
		);
		assert.match(reading!.tables[1]!.why.join(), /beside, in people\.db/);
	});

	it('in another folder is another program’s', () => {
		const look = made('two/data', 'two/other');
		assert.deepEqual(named(look), new Set([undefined]));
	});

	it('lends no conversations by what any number of two values could name, as the way a message went does', () => {
		mkdirSync(join(folder, 'three'));
		const db = createDatabase(join(folder, 'three', 'talk.db'));
		db.exec('create table message(id integer primary key, address text, sent integer, type integer, body text)');
		for (let i = 1; i <= 30; i++)
			db.run('insert into message values(?,?,?,?,?)', [
				i,
				`+44770090011${i % 3}`,
				1_736_000_000 + i * 700,
				1 + (i % 2),
				`The valve was open again, ${i}`
			]);
		db.close();
		const persons = createDatabase(join(folder, 'three', 'people.db'));
		persons.exec(
			'create table raw(id integer primary key, display_name text); create table part_types(id integer primary key, part_type text)'
		);
		persons.exec('create table data(id integer primary key, raw_id integer, part_type_id integer, data1 text, data2 text)');
		for (const [i, word] of ['part/name', 'part/phone', 'part/mail'].entries())
			persons.run('insert into part_types values(?,?)', [i + 1, word]);
		PEOPLE.forEach((name, i) => {
			persons.run('insert into raw values(?,?)', [i + 1, name]);
			persons.run('insert into data(raw_id, part_type_id, data1, data2) values(?,1,?,null)', [i + 1, name]);
			persons.run('insert into data(raw_id, part_type_id, data1, data2) values(?,2,?,?)', [i + 1, `0770090011${i}`, 'mobile']);
		});
		persons.close();
		const look = new Look(openPaths([join(folder, 'three')]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		assert.deepEqual(named(look), new Set(PEOPLE));
		assert.deepEqual(
			look.contacts().map((c) => [c.name, c.numbers.length, c.sightings.length]),
			PEOPLE.map((name) => [name, 1, 3])
		);
		const { threads } = look.findings().weave;
		assert.deepEqual(
			threads.map((t) => t.messages.length),
			[10, 10, 10]
		);
		for (const m of threads.flatMap((t) => t.messages)) assert.equal(m.first.direction, Number(m.record) % 2 ? 'out' : 'in');
	});
});

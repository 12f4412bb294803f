/** Who the persons of a store are: handles are addresses, lists of names are no messages, lists of conversations name the other side. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Contact } from '../../src/core/interpret';
import { plainMessage, type Message } from '../../src/core/weave';
import { createDatabase, type Engine } from '../vectors/engine';

const HANDLES = ['wren_10', 'teal_11', 'rook_12'];
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt'];
const START = 1_736_000_000;
const said = (i: number): string => `Is the boiler on again today, or not before ${i}`;

describe('persons of a store', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-persons-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function make(name: string, write: (db: Engine) => void): string {
		const db = createDatabase(join(folder, name));
		write(db);
		db.close();
		return join(folder, name);
	}

	const lookAt = (...paths: string[]): { messages: Message[]; contacts: Contact[] } => lookAs(null, ...paths);

	function lookAs(owner: string | null, ...paths: string[]): { messages: Message[]; contacts: Contact[] } {
		const look = new Look(openPaths(paths), { reach: 'raw', owner });
		for (const event of look.run()) void event;
		const { stores, weave } = look.findings();
		const messages = weave.threads.flatMap((t) =>
			t.messages.map((m) => plainMessage(m, stores, look.files, { hex: false, stored: false }))
		);
		return { messages, contacts: look.contacts() };
	}

	/** Messages that name their persons by key. */
	const keyed = (db: Engine): void => {
		db.exec('create table handle(id integer primary key, ident text)');
		HANDLES.forEach((h, i) => db.run('insert into handle values(?,?)', [i + 2, h]));
		db.exec('create table message(id integer primary key, body text, handle_id integer, sent integer, is_from_me integer)');
		for (let i = 1; i <= 90; i++)
			db.run('insert into message values(?,?,?,?,?)', [i, said(i), (i % 3) + 2, START + i * 600, Number(i % 4 === 0)]);
	};

	it('a handle that stands alone is an address, and no name', () => {
		const { messages } = lookAt(make('alone.db', keyed));
		assert.equal(messages.length, 90);
		assert.deepEqual(new Set(messages.map((m) => m.correspondent)), new Set(HANDLES));
		assert.ok(messages.every((m) => m.person === null));
	});

	it('rows that only give somebody’s numbers are no further contacts; a number of none is', () => {
		const numbers = ['+447700900101', '+447700900102', '+447700900103', '+447700900104'];
		const book = make('numbers.db', (db) => {
			db.exec('create table person(id integer primary key, first text, last text)');
			db.exec('create table phone(id integer primary key, person_id integer, number text, label text)');
			NAMES.forEach((n, i) => db.run('insert into person values(?,?,?)', [i + 1, ...n.split(' ')]));
			numbers.forEach((n, i) => db.run("insert into phone values(?,?,?,'mobile')", [i + 1, i + 1, n]));
		});
		const talk = make('talk-by-number.db', (db) => {
			db.exec('create table message(id integer primary key, address text, body text, sent integer, outgoing integer)');
			for (let i = 1; i <= 90; i++)
				db.run('insert into message values(?,?,?,?,?)', [i, numbers[i % 3], said(i), START + i * 600, Number(i % 4 === 0)]);
		});
		const { contacts } = lookAt(talk, book);
		assert.deepEqual(
			contacts.map((c) => [c.name, c.numbers]).sort(([, a], [, b]) => (String(a) < String(b) ? -1 : 1)),
			[...NAMES, null].map((name, i) => [name, [numbers[i]]])
		);
	});

	it('another store of the same phone gives the handle its name, and is itself no conversation', () => {
		const book = make('book.db', (db) => {
			db.exec('create table contacts(id integer primary key, display_name text, number text, starred integer)');
			NAMES.forEach((n, i) => db.run('insert into contacts values(?,?,?,0)', [i + 1, n, HANDLES[i]]));
		});
		const { messages, contacts } = lookAt(make('talk.db', keyed), book);
		assert.equal(messages.length, 90);
		for (const m of messages) assert.equal(m.person, NAMES[HANDLES.indexOf(m.correspondent!)]);
		assert.deepEqual(
			contacts.filter((c) => c.name !== null).map((c) => c.name),
			NAMES
		);
	});

	it('the owner is known by his number or his name where messages name their writer by a key', () => {
		const path = make('two.db', (db) => {
			db.exec('create table account(id integer primary key, number text, nick text)');
			db.exec("insert into account values(7, '+447700900150', 'Odile Marchetti'), (9, '+447700900151', 'Piet Hallorann')");
			db.exec('create table talk(id integer primary key, title text)');
			db.exec("insert into talk values(1, 'Heat')");
			db.exec('create table line(id integer primary key, talk integer, writer integer, said text, at integer)');
			for (let i = 1; i <= 60; i++) db.run('insert into line values(?,1,?,?,?)', [i, i % 3 ? 7 : 9, said(i), START + i * 600]);
		});
		for (const [owner, other] of [
			['+447700900151', '+447700900150'],
			['07700 900151', '+447700900150'],
			['Piet Hallorann', '+447700900150'],
			['Odile Marchetti', '+447700900151']
		] as const) {
			const { messages } = lookAs(owner, path);
			const own = owner.startsWith('Odile') ? 40 : 20;
			assert.equal(messages.filter((m) => m.direction === 'out').length, own, owner);
			assert.deepEqual(new Set(messages.map((m) => m.correspondent)), new Set([other]), owner);
		}
	});

	it('a list of calls that repeats each one’s name beside the number is no conversation', () => {
		const numbers = HANDLES.map((_, i) => `+44770090011${i}`);
		const { messages } = lookAt(
			make('calls.db', (db) => {
				db.exec('create table calls(id integer primary key, number text, at integer, seconds integer, kind integer, name text)');
				for (let i = 0; i < 40; i++)
					db.run('insert into calls values(null,?,?,?,?,?)', [
						numbers[i % 3],
						START + i * 7000,
						(i * 37) % 400,
						(i % 3) + 1,
						i % 5 ? NAMES[i % 3] : null
					]);
			})
		);
		assert.deepEqual(messages, []);
	});

	it('names written as names are names, though each is one word', () => {
		const { messages } = lookAt(
			make('single.db', (db) => {
				db.exec('create table person(id integer primary key, label text)');
				['Odile', 'Tamsin', 'Bram'].forEach((n, i) => db.run('insert into person values(?,?)', [i + 2, n]));
				db.exec('create table message(id integer primary key, body text, person_id integer, sent integer, is_from_me integer)');
				for (let i = 1; i <= 90; i++)
					db.run('insert into message values(?,?,?,?,?)', [i, said(i), (i % 3) + 2, START + i * 600, Number(i % 4 === 0)]);
			})
		);
		assert.deepEqual(new Set(messages.map((m) => m.person)), new Set(['Odile', 'Tamsin', 'Bram']));
	});

	it('a list of conversations that states an address beside each title names it; what is the same in all is no title', () => {
		const { messages } = lookAt(
			make('titled.db', (db) => {
				db.exec('create table conversation(id text primary key, json text)');
				HANDLES.forEach((h, i) =>
					db.run('insert into conversation values(?,?)', [
						`conv-${i}-5d3f`,
						JSON.stringify({ kind: 'private', address: h, name: NAMES[i] })
					])
				);
				db.exec('create table message(id integer primary key, conversation_id text, json text, sent integer)');
				for (let i = 1; i <= 90; i++)
					db.run('insert into message values(?,?,?,?)', [
						i,
						`conv-${i % 3}-5d3f`,
						JSON.stringify({ type: i % 4 === 0 ? 'outgoing' : 'incoming', body: said(i), source: i % 4 === 0 ? null : HANDLES[i % 3] }),
						START + i * 600
					]);
			})
		);
		assert.equal(messages.length, 90);
		for (const m of messages) assert.equal(m.person, NAMES[HANDLES.indexOf(m.correspondent!)], m.text ?? '');
	});

	it('of rooms and other sides in one column, with the writer in another, the writer is the correspondent', () => {
		const { messages } = lookAt(
			make('rooms.db', (db) => {
				db.exec('create table m(id integer primary key, remote text, writer text, from_me integer, body text, sent integer)');
				for (let i = 1; i <= 120; i++) {
					const grouped = i % 2 === 0;
					const out = i % 5 === 0;
					const who = HANDLES[i % 3]!;
					db.run('insert into m values(?,?,?,?,?,?)', [
						i,
						grouped ? 'room_4f21' : who,
						grouped && !out ? who : null,
						Number(out),
						said(i),
						START + i * 600
					]);
				}
			})
		);
		assert.equal(messages.length, 120);
		messages.forEach((m) => {
			const i = (m.sentAt! / 1000 - START) / 600;
			const grouped = i % 2 === 0;
			assert.equal(m.correspondent, grouped && m.direction === 'out' ? null : HANDLES[i % 3], String(i));
		});
	});

	it('a room in which only the owner wrote is told from numbers by being none', () => {
		const numbers = ['+447700900111', '+447700900122', '+447700900133', '+447700900144'];
		const { messages } = lookAt(
			make('silent.db', (db) => {
				db.exec('create table m(id integer primary key, remote text, writer text, from_me integer, body text, sent integer)');
				for (let i = 1; i <= 120; i++) {
					const who = numbers[i % 4]!;
					const room = i % 3 === 0 ? 'room-a1' : i > 117 ? 'room-b2' : null;
					const out = i % 5 === 0 || room === 'room-b2';
					db.run('insert into m values(?,?,?,?,?,?)', [i, room ?? who, room && !out ? who : null, Number(out), said(i), START + i * 600]);
				}
			})
		);
		const silent = messages.filter((m) => m.text === said(118) || m.text === said(119));
		assert.equal(silent.length, 2);
		assert.ok(silent.every((m) => m.correspondent === null));
	});

	describe('of an address book alone', () => {
		const PERSONS = [
			['Odile', 'Maria', 'Marchetti'],
			['Odile', null, 'Vesterholt'],
			['Bram', 'A.', 'Marchetti'],
			['Bram', null, 'Vesterholt'],
			['Odile', null, 'Okafor'],
			['Tamsin', null, 'Okafor'],
			['Tamsin', 'Maria', 'Vesterholt'],
			['Bram', null, 'Okafor'],
			['Tamsin', null, 'Marchetti']
		] as const;
		const called = PERSONS.map((p) => p.filter((part) => part !== null).join(' '));
		const number = (i: number): string => `+4477009001${10 + i}`;
		const known = (contacts: readonly Contact[]): unknown[][] =>
			contacts.map((c) => [c.name, [...c.numbers], [...c.emails]]).sort((a, b) => (String(a[0]) < String(b[0]) ? -1 : 1));
		const sorted = (list: unknown[][]): unknown[][] => list.sort((a, b) => (String(a[0]) < String(b[0]) ? -1 : 1));

		it('names of three parts that come back, numbers and addresses of all kinds in one list', () => {
			const path = make('parts.db', (db) => {
				db.exec('create table people(id integer primary key, first text, middle text, last text, starred integer)');
				db.exec('create table channels(id integer primary key, person integer, kind integer, value text)');
				PERSONS.forEach(([first, middle, last], i) => {
					db.run('insert into people values(?,?,?,?,0)', [i + 10, first, middle, last]);
					db.run('insert into channels(person, kind, value) values(?,1,?)', [i + 10, number(i)]);
					if (i % 2) db.run('insert into channels(person, kind, value) values(?,2,?)', [i + 10, `p${i}@marrow.example`]);
				});
			});
			const { messages, contacts } = lookAt(path);
			assert.deepEqual(messages, []);
			assert.deepEqual(known(contacts), sorted(called.map((name, i) => [name, [number(i)], i % 2 ? [`p${i}@marrow.example`] : []])));
		});
		it('two lists of addresses of as many rows as there are persons; two share a number', () => {
			const path = make('lists.db', (db) => {
				db.exec('create table person(id integer primary key, first text, last text, organisation text)');
				db.exec('create table number(id integer primary key, owner integer, full text, label text)');
				db.exec('create table mail(id integer primary key, owner integer, address text)');
				PERSONS.forEach(([first, , last], i) => {
					db.run('insert into person values(?,?,?,?)', [i + 1, first, last, i % 3 ? null : 'Boiler, Pipes & Co']);
					db.run('insert into number(owner, full, label) values(?,?,?)', [PERSONS.length - i, number(i === 7 ? 6 : i), 'mobile']);
					db.run('insert into mail(owner, address) values(?,?)', [(i % PERSONS.length) + 1, `p${i}@marrow.example`]);
				});
			});
			assert.deepEqual(
				known(lookAt(path).contacts),
				sorted(
					PERSONS.map(([first, , last], i) => {
						const k = PERSONS.length - 1 - i;
						return [`${first} ${last}`, [number(k === 7 ? 6 : k)], [`p${i}@marrow.example`]];
					})
				)
			);
		});
		it('one row each, with the time of its last change: names are no messages', () => {
			const path = make('changed.db', (db) => {
				db.exec('create table entry(id integer primary key, label text, phone text, mail text, changed integer)');
				called.forEach((name, i) =>
					db.run('insert into entry(label, phone, mail, changed) values(?,?,?,?)', [
						name,
						number(i),
						i % 2 ? `p${i}@marrow.example` : null,
						(START + i * 70_003) * 1000 + i
					])
				);
			});
			const { messages, contacts } = lookAt(path);
			assert.deepEqual(messages, []);
			assert.deepEqual(known(contacts), sorted(called.map((name, i) => [name, [number(i)], i % 2 ? [`p${i}@marrow.example`] : []])));
		});
		it('but what was said to many is: short greetings to one person each', () => {
			const path = make('greetings.db', (db) => {
				db.exec('create table message(id integer primary key, body text, address text, sent integer, is_from_me integer)');
				['Hello', 'Good Morning', 'Yes', 'Thank You', 'No', 'Call Me'].forEach((text, i) =>
					db.run('insert into message(body, address, sent, is_from_me) values(?,?,?,?)', [text, number(i), START + i * 600, i % 2])
				);
			});
			assert.equal(lookAt(path).messages.length, 6);
		});
	});
});

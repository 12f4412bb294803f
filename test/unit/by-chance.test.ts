/** What fits by chance: rows of any two tables are numbered alike, and of few rows any flag says something. */
import assert from 'node:assert/strict';
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { createDatabase, openDatabase, type Engine } from '../vectors/engine';
import { insertInto } from '../vectors/plainly';
import { Random } from '../vectors/random';

interface Line {
	id: string;
	text: string | null;
	sentAt: string | null;
	direction: string | null;
	correspondent: string | null;
	thread: string;
	standing: string;
	earlierWordingOf?: string;
	attachments: { stated: string | null }[];
	sightings: { offset: number; length: number; method: string }[];
}

const START = Date.UTC(2025, 0, 6, 7);
const HOUR = 3_600_000;
const WORDS = 'the boiler is cold again please look at it before noon and tell me what you think of the meter'.split(' ');
const PEOPLE = ['+447700900111', '+447700900122', '+447700900133', '+447700900144', '+447700900155'];
const said = (r: Random, i: number): string => `${Array.from({ length: r.int(3, 9) }, () => r.pick(WORDS)).join(' ')}, ${i}`;
const key = (n: number, letter = 'a'): string =>
	`${String(n * 7919 + 10_000_000).slice(0, 8)}-${letter}000-4000-8000-0000${String(n).padStart(8, '0')}`;

describe('what fits by chance', () => {
	let folder: string;
	let made = 0;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-chance-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function write(act: (db: Engine) => void, pragmas: string[] = []): string {
		const path = join(folder, `${made++}.db`);
		const db = createDatabase(path, pragmas);
		db.exec('begin');
		act(db);
		db.exec('commit');
		db.close();
		return path;
	}
	function linesOf(paths: string[]): Line[] {
		const look = new Look(openPaths(paths), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
		);
	}
	const find = (lines: Line[], i: number): Line => {
		const found = lines.filter((l) => l.text?.endsWith(`, ${i}`) && l.earlierWordingOf === undefined);
		assert.equal(found.length, 1, `message ${i} once`);
		return found[0]!;
	};

	it('takes a text by the number that its table has for the message, not by its own, which fits as well', () => {
		const r = new Random(5);
		const lines = linesOf([
			write((db) => {
				db.exec(
					'create table m(i integer primary key, d integer, o integer, t integer); create table th(i integer primary key, peer text)'
				);
				db.exec('create table part(id integer primary key, msg integer, kind text, body text)');
				PEOPLE.forEach((number, i) => db.run(insertInto('th', 2), [i + 1, number]));
				for (let i = 1; i <= 60; i++) {
					db.run(insertInto('m', 4), [i, START + i * HOUR, i % 2, (i % 5) + 1]);
					// A few have none: from there on the numbers of the texts lag behind.
					if (![9, 23, 41].includes(i)) db.run(insertInto('part', 4), [null, i, 'text/plain', said(r, i)]);
				}
			})
		]);
		for (const i of [1, 8, 10, 30, 60])
			assert.equal(find(lines, i).sentAt, new Date(START + i * HOUR).toISOString(), `message ${i} has its own time`);
	});

	it('takes no list of members without numbers of its own for the conversations', () => {
		// Each conversation: its members, and how many messages of the owner's and of theirs. The second and third row of the list
		// happen to be of the persons who have those numbers.
		const rooms: [members: number[], mine: number, theirs: number][] = [
			[[7], 9, 8],
			[[2], 9, 5],
			[[3], 7, 8],
			[[9], 11, 5],
			[[6], 0, 4],
			[[8], 3, 4],
			[[10], 2, 4],
			[[5], 5, 2],
			[[4], 2, 6],
			[[10, 8, 4, 6, 7], 1, 2],
			[[5, 8, 2], 1, 1]
		];
		const r = new Random(3);
		const lines = linesOf([
			write((db) => {
				db.exec(
					'create table nachricht(nr text primary key, zeit integer, inhalt text, gespraech text, gegenstelle integer) without rowid'
				);
				db.exec(
					'create table person(nr integer primary key, name text, nummer text); create table gespraeche(nr text primary key, titel text)'
				);
				db.exec('create table gespraech_teilnehmer(gespraech, gegenstelle)');
				for (let i = 2; i <= 10; i++) db.run(insertInto('person', 3), [i, null, `+4477009002${i + 10}`]);
				let n = 0;
				rooms.forEach(([members, mine, theirs], room) => {
					db.run(insertInto('gespraeche', 2), [key(room, 'b'), members.length > 1 ? `Stairs ${room}` : null]);
					for (const who of members) db.run(insertInto('gespraech_teilnehmer', 2), [key(room, 'b'), who]);
					for (let k = 0; k < mine + theirs; k++, n++)
						db.run(insertInto('nachricht', 5), [key(n), START + n * HOUR, said(r, n), key(room, 'b'), k < mine ? null : members[0]]);
				});
			})
		]);
		assert.equal(lines.length, 99);
		assert.deepEqual(
			lines.filter((l) => l.correspondent !== null && !l.correspondent.startsWith('+44')),
			[],
			'the other side is a person, never the key of a conversation'
		);
		assert.equal(lines.filter((l) => l.direction === 'out').length, 50);
	});

	it('takes no mark of state for the way because a few rows without a writer all lack it', () => {
		const r = new Random(1);
		const mine: boolean[] = [];
		const lines = linesOf([
			write((db) => {
				db.exec('create table z(nr integer primary key, inhalt text, zustand integer, zeit integer, wer integer, gespraech integer)');
				db.exec(
					'create table person(nr integer primary key, name text, nummer text); create table gespraech(nr integer primary key, titel text)'
				);
				db.exec('create table runde(gespraech integer, wer integer)');
				const last = ['Moor', 'Linde', 'Feld', 'Bach', 'Stein'];
				PEOPLE.forEach((number, i) => db.run(insertInto('person', 3), [i + 2, `Anna ${last[i]}`, number]));
				for (let t = 1; t <= 6; t++) db.run(insertInto('gespraech', 2), [t, t === 6 ? 'Heating' : null]);
				for (let t = 1; t <= 5; t++) db.run(insertInto('runde', 2), [t, t + 1]);
				for (const who of [2, 3, 4]) db.run(insertInto('runde', 2), [6, who]);
				for (let i = 0; i < 160; i++) {
					const room = i % 10 === 0 ? 6 : r.int(1, 5);
					mine.push(room === 6 ? i % 20 === 0 : r.chance(0.45));
					const who = room === 6 ? 2 + ((i / 10) % 3) : room + 1;
					// What the owner wrote in the room is by chance never in state 1.
					const state = room === 6 && mine[i] ? 2 : r.pick([0, 1, 2, 2, 2]);
					db.run(insertInto('z', 6), [null, said(r, i), state, START + i * HOUR, mine[i] ? null : who, room]);
				}
			})
		]);
		assert.deepEqual(
			mine.map((_, i) => find(lines, i).direction),
			mine.map((own) => (own ? 'out' : 'in'))
		);
	});

	it('reads a flag without a name as most are, where of few rows the threads of one side alone are chance', () => {
		const numbers = [...PEOPLE, '+447700900201', '+447700900202', '+447700900203', '+447700900204'];
		// Seeds with which some threads have one side alone, as of many threads of five messages some have.
		for (const seed of [42, 49, 84, 89, 101]) {
			const r = new Random(seed * 77);
			const mine: boolean[] = [];
			const lines = linesOf([
				write((db) => {
					db.exec('create table m(i text primary key, o integer, d integer, b text, p text); create table c(i text primary key, a text)');
					numbers.forEach((number, i) => db.run(insertInto('c', 2), [key(i, 'c'), number]));
					for (let i = 0; i < 46; i++) {
						mine.push(r.chance(0.45));
						db.run(insertInto('m', 5), [key(i), Number(mine[i]), START + i * HOUR, said(r, i), key(r.int(0, 8), 'c')]);
					}
				})
			]);
			const wrong = mine.filter((own, i) => find(lines, i).direction !== (own ? 'out' : 'in'));
			assert.equal(wrong.length, 0, `seed ${seed}`);
		}
	});

	it('tells who wrote from two columns of persons of which one is filled in each row', () => {
		const r = new Random(8);
		const lines = linesOf([
			write((db) => {
				db.exec('create table letter(nr integer primary key, writer integer, body text, at integer, recipient integer)');
				db.exec('create table person(nr integer primary key, number text)');
				PEOPLE.forEach((number, i) => db.run(insertInto('person', 2), [i + 1, number]));
				for (let i = 0; i < 90; i++) {
					const other = (i % 5) + 1;
					db.run(insertInto('letter', 5), [null, i % 3 ? other : null, said(r, i), START + i * HOUR, i % 3 ? null : other]);
				}
			})
		]);
		for (const i of [3, 4, 5, 60, 61])
			assert.deepEqual([find(lines, i).direction, find(lines, i).correspondent], [i % 3 ? 'in' : 'out', PEOPLE[i % 5]]);
		assert.equal(new Set(lines.map((l) => l.thread)).size, 5, 'what went either way is one conversation');
	});

	it('gives files to messages of two tables that share one run of numbers, be the tables alike or not', () => {
		for (const alike of [true, false]) {
			const r = new Random(2);
			const lines = linesOf([
				write((db) => {
					db.exec('create table m_in(i integer primary key, p text, d integer, b text)');
					db.exec(`create table m_out(i integer primary key, p text, d integer, b text${alike ? '' : ', tries integer, receipt text'})`);
					db.exec('create table f(id integer primary key, msg integer, path text, mime text, bytes integer)');
					for (let i = 1; i <= 120; i++) {
						const values = [i, PEOPLE[i % 5], START + i * HOUR, said(r, i)];
						if (i % 2) db.run(insertInto('m_in', 4), values);
						else db.run(insertInto('m_out', alike ? 4 : 6), alike ? values : [...values, 1, null]);
						if (i % 6 < 2) db.run(insertInto('f', 5), [null, i, `media/IMG_${1000 + i}.jpg`, 'image/jpeg', 40_000 + i * 13]);
					}
				})
			]);
			for (const i of [6, 7, 60, 61])
				assert.equal(find(lines, i).attachments[0]?.stated, `media/IMG_${1000 + i}.jpg`, `message ${i}, alike ${alike}`);
			assert.deepEqual([find(lines, 8).attachments, find(lines, 9).attachments], [[], []]);
		}
	});

	it('knows a row without a number again by days with a fraction, and by a text kept as bytes', () => {
		const path = join(folder, 'days.db');
		const db = createDatabase(path, ['page_size=4096', 'journal_mode=wal', 'wal_autocheckpoint=0']);
		db.exec(
			'create table entry(pk text primary key, seen integer, day real, talk text, body blob, state integer, peer text) without rowid'
		);
		const r = new Random(4);
		// Keys in no order: each commit writes pages anew that hold what others hold.
		for (let i = 0; i < 150; i++)
			db.run(insertInto('entry', 7), [
				key((i * 37) % 150),
				1,
				45_660 + i / 24.1,
				key(i % 5, 'd'),
				new TextEncoder().encode(said(r, i)),
				i % 3,
				i % 2 ? null : PEOPLE[i % 5]
			]);
		copyFileSync(path, join(folder, 'days-copy.db'));
		copyFileSync(`${path}-wal`, join(folder, 'days-copy.db-wal'));
		db.close();
		const lines = linesOf([join(folder, 'days-copy.db')]);
		assert.equal(lines.length, 150, 'each once, however often its page was written');
		assert.ok(lines.every((l) => l.sentAt !== null && l.standing === 'kept'));
	});

	it('takes a lost copy of a row whose text is no text any more for a place where it was seen', () => {
		const r = new Random(6);
		const utf16 = (text: string): Uint8Array => new Uint8Array(Buffer.from(text, 'utf16le'));
		const path = write(
			(db) => {
				db.exec('create table entry(pk text primary key, at integer, body blob, seen integer, peer text, mine integer) without rowid');
				for (let i = 0; i < 60; i++) db.run(insertInto('entry', 6), [key(i), START + i * HOUR, utf16(said(r, i)), 0, PEOPLE[i % 5], i % 2]);
			},
			['secure_delete=off']
		);
		const db = openDatabase(path, ['secure_delete=off']);
		// The row grows and is written elsewhere on its page: the shorter one stays in freed bytes.
		db.exec('update entry set seen = 70000 where at / 3600000 % 2 = 0');
		db.close();
		const used = linesOf([path]).flatMap((l) => l.sightings.filter((s) => s.method === 'row-in-use'));
		const bytes = readFileSync(path);
		let changed = 0;
		for (let at = bytes.indexOf(utf16(' boiler ')); at >= 0; at = bytes.indexOf(utf16(' boiler '), at + 1)) {
			if (used.some((s) => at >= s.offset && at < s.offset + s.length)) continue;
			bytes.writeUInt16LE(0xd800, at + 4);
			changed++;
		}
		writeFileSync(path, bytes);
		const lines = linesOf([path]);
		assert.ok(changed > 0, 'bytes did change');
		assert.deepEqual(
			lines.filter((l) => l.text === null && l.standing !== 'kept'),
			[],
			'no message without a text comes out of them'
		);
	});

	it('says an earlier wording once that one capture has as a row and another in its history', () => {
		const r = new Random(9);
		const plain = (body: unknown): string => String(body).replace(/<\/?p>/g, '');
		const path = write((db) => {
			db.exec(
				'create table talk(id text primary key, at integer, mine integer, room text, body text); create table room(id text primary key, peer text)'
			);
			PEOPLE.forEach((number, i) => db.run(insertInto('room', 2), [key(i, 'e'), number]));
			db.exec('create table edit(id integer primary key, msg text, old text, at integer)');
			for (let i = 0; i < 80; i++)
				db.run(insertInto('talk', 5), [key(i), START + i * HOUR, i % 2, key(i % 5, 'e'), `<p>${said(r, i)}</p>`]);
		});
		const [first, second, third] = ['first', 'second', 'third'].map((name) => join(folder, `${name}.db`)) as [string, string, string];
		copyFileSync(path, first);
		const db = openDatabase(path, ['secure_delete=on']);
		const rows = [5, 12, 20, 33, 47, 61].map((i) => ({ i, row: db.all('select body, at from talk where id = ?', [key(i)])[0]! }));
		for (const { i, row } of rows) {
			db.run(insertInto('edit', 4), [null, key(i), plain(row.body), START + 81 * HOUR]);
			db.run('update talk set body = ? where id = ?', [`<p>What was meant is the pump, ${i}</p>`, key(i)]);
		}
		db.close();
		copyFileSync(path, second);
		const later = openDatabase(path, ['secure_delete=off']);
		later.run('delete from talk where id = ?', [key(20)]);
		later.close();
		copyFileSync(path, third);
		const last = openDatabase(path, ['secure_delete=off']);
		last.run(insertInto('talk', 5), [key(90), START + 90 * HOUR, 0, key(1, 'e'), `<p>${said(r, 90)}</p>`]);
		last.close();
		const lines = linesOf([first, second, third, path]);
		const now = lines.find((l) => l.text === 'What was meant is the pump, 20')!;
		const earlier = lines.filter((l) => l.text === plain(rows[2]!.row.body));
		assert.deepEqual(
			earlier.map((l) => l.earlierWordingOf),
			[now.id],
			'one line, under its message'
		);
		assert.equal(now.standing, 'dropped');
	});

	it('takes texts by the column that names them, where the numbers of the rows fit as well, and a title for no message', () => {
		const r = new Random(14);
		const lines = linesOf([
			write((db) => {
				db.exec('create table string(id integer primary key, value text unique); create table user(id integer primary key, account text)');
				db.exec('create table room(id integer primary key, title integer, peer integer)');
				db.exec('create table message(id integer primary key, room integer, sender integer, sent integer, body integer)');
				let strings = 0;
				const stored = (text: string): number => {
					db.run(insertInto('string', 2), [null, text]);
					return ++strings;
				};
				[...PEOPLE, '+447700900001'].forEach((account, i) => db.run(insertInto('user', 2), [i + 1, account]));
				for (let i = 0; i < 6; i++) db.run(insertInto('room', 3), [i + 1, i < 5 ? null : stored('Night shift'), i < 5 ? i + 1 : null]);
				for (let i = 1; i <= 110; i++) {
					const room = i % 6;
					db.run(insertInto('message', 5), [
						i,
						room + 1,
						i % 2 ? 6 : room < 5 ? room + 1 : (i % 5) + 1,
						START + i * HOUR,
						stored(said(r, i))
					]);
				}
			})
		]);
		assert.equal(lines.length, 110, 'the title of a room is no message');
		for (const i of [1, 2, 50, 110]) assert.equal(find(lines, i).sentAt, new Date(START + i * HOUR).toISOString());
	});

	it('names a person by the account that messages name, not by the key under which a table has things of all kinds', () => {
		for (const mark of ['user:', 'u-']) {
			const r = new Random(15);
			const accounts = ['odile.m', 'tamsin7', 'bram.v', 'noor22', 'me.myself'];
			const lines = linesOf([
				write((db) => {
					db.exec('create table entry(id text primary key, doc text)');
					const put = (id: string, doc: object): void => void db.run(insertInto('entry', 2), [id, JSON.stringify(doc)]);
					for (const account of accounts) put(`${mark}${account}`, { kind: 'user', account, name: `${account} Morrow` });
					for (let i = 0; i < 4; i++) put(`room:${i}`, { kind: 'room', id: key(i, 'b'), members: ['me.myself', accounts[i]] });
					for (let i = 0; i < 120; i++)
						put(`msg:${key(i)}`, {
							kind: 'message',
							id: key(i),
							room: key(i % 4, 'b'),
							from: i % 3 ? accounts[i % 4] : 'me.myself',
							sent: START + i * HOUR,
							text: said(r, i)
						});
				})
			]);
			assert.deepEqual([find(lines, 5).correspondent, find(lines, 6).correspondent], ['tamsin7', 'bram.v'], `mark ${mark}`);
		}
	});

	it('takes no hours for keys, and a column of rooms and other sides beside the writers for what it is', () => {
		const r = new Random(16);
		const others = ['odile.m', 'tamsin7', 'bram.v', 'noor22', 'li.wen'];
		const lines = linesOf([
			write((db) => {
				db.exec('create table log(id integer primary key, room text, "from" text, day text, clock text, line text)');
				db.exec('create table file(id integer primary key, message integer, name text, type text, size integer)');
				for (let i = 0; i < 150; i++) {
					const isRoom = i % 7 === 0;
					const other = others[i % 5]!;
					const at = new Date(START + i * HOUR * 3 + i * 61_000).toISOString();
					const mine = i % 3 === 0;
					db.run(insertInto('log', 6), [
						i + 1,
						isRoom ? 'Night shift' : other,
						mine ? 'piet.h' : other,
						at.slice(0, 10),
						at.slice(11, 19),
						said(r, i)
					]);
					if (i % 6 === 1) db.run(insertInto('file', 5), [null, i + 1, `scan_${i}.jpg`, 'image/jpeg', 30_000 + i * 7]);
				}
			})
		]);
		assert.equal(new Set(lines.map((l) => l.thread)).size, 6, 'five others and a room');
		assert.deepEqual([find(lines, 3).direction, find(lines, 3).correspondent], ['out', 'noor22']);
		assert.deepEqual([find(lines, 7).direction, find(lines, 7).correspondent], ['in', 'bram.v']);
		assert.equal(lines.filter((l) => l.attachments.length > 0).length, 25);
	});

	it('takes a list of conversations, each with its other side, for no list of who takes part in files', () => {
		const r = new Random(17);
		const lines = linesOf([
			write((db) => {
				db.exec('create table user(id integer primary key, account text); create table room(id integer primary key, peer integer)');
				db.exec('create table message(id integer primary key, room integer, sender integer, sent integer, body text)');
				db.exec('create table file(id integer primary key, message integer, name text, type text, size integer, path text)');
				['+447700900001', ...PEOPLE].forEach((account, i) => db.run(insertInto('user', 2), [i + 1, account]));
				PEOPLE.forEach((_, i) => db.run(insertInto('room', 2), [i + 1, i + 2]));
				for (let i = 1; i <= 200; i++) {
					db.run(insertInto('message', 5), [i, (i % 5) + 1, i % 2 ? 1 : (i % 5) + 2, START + i * HOUR, said(r, i)]);
					if (i % 8 === 0) db.run(insertInto('file', 6), [null, i, `n_${i}.pdf`, 'application/pdf', 9000 + i, `received/n_${i}.pdf`]);
				}
			})
		]);
		assert.equal(find(lines, 16).attachments[0]?.stated, 'received/n_16.pdf');
		assert.equal(lines.filter((l) => l.attachments.length > 0).length, 25);
		assert.equal(new Set(lines.map((l) => l.thread)).size, 5);
	});

	it('reads a small store by no other of its folder that counts its times otherwise', () => {
		const named = (name: string): string => join(folder, `${name}.db`);
		const r = new Random(18);
		const make = (name: string, count: number, at: (i: number) => string | number): void => {
			const db = createDatabase(named(name));
			db.exec('begin; create table note(id integer primary key, peer text, body text, at, mine integer)');
			for (let i = 0; i < count; i++) db.run(insertInto('note', 5), [null, PEOPLE[i % 5], said(r, i + count * 1000), at(i), i % 2]);
			db.exec('commit');
			db.close();
		};
		make('written', 40, (i) => new Date(START + i * HOUR).toISOString());
		make('counted', 150, (i) => (START + i * HOUR) * 1000);
		make('seconds', 60, (i) => (START + i * HOUR) / 1000);
		const lines = linesOf(['written', 'counted', 'seconds'].map(named));
		assert.equal(lines.length, 250);
		assert.deepEqual(
			lines.filter((l) => l.sentAt === null || Date.parse(l.sentAt) < START || Date.parse(l.sentAt) > START + 151 * HOUR),
			[]
		);
	});
});

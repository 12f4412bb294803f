/** What another party's device has, in the layouts of many programs: whose it is it says itself, whomever the case is of. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';
import { createDatabase, type Engine } from '../vectors/engine';

const ODILE = { id: 1, name: 'Odile Marchetti', number: '+447700900300', handle: 'odile_77' };
const BRAM = { id: 2, name: 'Bram Vesterholt', number: '+447700900417', handle: 'bram_74' };
const NOOR = { id: 3, name: 'Noor Khatib', number: '+447700900424', handle: 'noor_32' };
type Person = typeof ODILE;
const ALL = [ODILE, BRAM, NOOR];
const START = Date.UTC(2025, 1, 3, 9);
const AHEAD = 7000;
const THINGS = ['the boiler is cold', 'a meter was read', 'the board met', 'our stairs are swept', 'somebody has the key'];

interface Said {
	n: number;
	at: number;
	by: Person;
	/** The others of it: one, or both. */
	with: Person[];
	text: string;
}

/** Odile with Bram, with Noor, and all three, in turns; what was deleted from hers. */
const SAID: Said[] = Array.from({ length: 90 }, (_, n) => {
	const others = n % 3 === 0 ? [BRAM] : n % 3 === 1 ? [NOOR] : [BRAM, NOOR];
	const by = n % 2 === 0 ? ODILE : others[Math.floor(n / 6) % others.length]!;
	return {
		n: n + 1,
		at: START + n * 1_700_000 + ((n * n * 7919) % 600) * 1000,
		by,
		with: others,
		text: `They say that ${THINGS[n % 5]!}, ${n + 1}`
	};
});
const DELETED = [19, 24, 36, 43, 66];
const isIn = (m: Said, who: Person): boolean => m.with.includes(who);

/** What Bram has: his talk with Odile (1), and the room of all (2). */
const roomOf = (m: Said): number => (m.with.length > 1 ? 2 : 1);
type Layout = (open: (name: string) => Engine, said: readonly Said[]) => void;

function withPersons(db: Engine, ids: (p: Person) => number | string = (p) => p.id, mark = ', is_me integer'): void {
	db.exec(`create table people(id ${typeof ids(ODILE) === 'string' ? 'text' : 'integer'} primary key, name text, phone text${mark})`);
	for (const p of ALL)
		db.run(`insert into people values(?,?,?${mark && ',?'})`, [ids(p), p.name, p.number, ...(mark ? [p === BRAM ? 1 : 0] : [])]);
}
const withRooms = (db: Engine, ids: (p: Person) => number | string = (p) => p.id): void => {
	db.exec('create table rooms(id integer primary key, title text); create table room_people(room_id integer, person_id)');
	for (const [room, title, members] of [
		[1, null, [BRAM, ODILE]],
		[2, 'Cellar keys', ALL]
	] as const) {
		db.run('insert into rooms values(?,?)', [room, title]);
		for (const p of members) db.run('insert into room_people values(?,?)', [room, ids(p)]);
	}
};

const LAYOUTS: Record<string, Layout> = {
	'persons in another file, by large numbers': (open, said) => {
		const key = (p: Person): number => 698 + p.id;
		const contacts = open('contacts.db');
		contacts.exec('create table contacts(_id integer primary key, display_name text, number text, self integer)');
		for (const p of ALL) contacts.run('insert into contacts values(?,?,?,?)', [key(p), p.name, p.number, p === BRAM ? 1 : 0]);
		contacts.close();
		const db = open('talk.db');
		db.exec(`create table conversations(id integer primary key, subject text, participants text);
			create table messages(id integer primary key, conversation_id integer, sender_id integer, body text, sent_at integer)`);
		db.run('insert into conversations values(1, null, ?)', [String(key(ODILE))]);
		db.run('insert into conversations values(2, ?, ?)', ['Cellar keys', `${key(ODILE)},${key(NOOR)}`]);
		for (const m of said) db.run('insert into messages values(?,?,?,?,?)', [m.n, roomOf(m), key(m.by), m.text, m.at + AHEAD]);
		db.close();
	},
	'nobody named where he wrote himself': (open, said) => {
		const db = open('talk.db');
		db.exec(`create table thread(uid text, name text, members text); create table contact(address text, name text);
			create table message(uid text, thread text, sender text, text text, time real)`);
		const uid = (room: number): string => `828f72f8-ede0-0612-da07-4c05a67f438${room}`;
		db.run('insert into thread values(?,?,?)', [uid(1), '', ODILE.number]);
		db.run('insert into thread values(?,?,?)', [uid(2), 'Cellar keys', `${ODILE.number};${NOOR.number}`]);
		for (const p of [ODILE, NOOR]) db.run('insert into contact values(?,?)', [p.number, p.name]);
		for (const m of said)
			db.run('insert into message values(?,?,?,?,?)', [
				`11111111-2222-3333-4444-${String(m.n).padStart(12, '0')}`,
				uid(roomOf(m)),
				m.by === BRAM ? '' : m.by.number,
				m.text,
				(m.at + AHEAD) / 1000
			]);
		db.close();
	},
	'a table that says who he is, and whom a message answers': (open, said) => {
		const db = open('talk.db');
		withPersons(db, (p) => p.id + 7, '');
		withRooms(db, (p) => p.id + 7);
		db.exec(`create table self(person integer);
			create table messages(id integer primary key, room integer, author integer, body text, sent integer, quote_id integer, quote_author integer, quote_text text)`);
		db.run('insert into self values(?)', [BRAM.id + 7]);
		for (const [i, m] of said.entries()) {
			const answered = i % 3 === 2 ? said.slice(0, i).findLast((o) => roomOf(o) === roomOf(m)) : undefined;
			db.run('insert into messages values(?,?,?,?,?,?,?,?)', [
				m.n,
				roomOf(m),
				m.by.id + 7,
				m.text,
				m.at + AHEAD,
				answered?.n ?? null,
				answered ? answered.by.id + 7 : null,
				answered?.text ?? null
			]);
		}
		db.close();
	},
	'an account by its key': (open, said) => {
		const key = (p: Person): string => `u${p.handle}9x`;
		const db = open('talk.db');
		withPersons(db, key, '');
		withRooms(db, key);
		db.exec(
			'create table account(user_id text, token text); create table messages(id text primary key, room_id integer, user_id text, text text, ts integer)'
		);
		db.run('insert into account values(?,?)', [key(BRAM), 'upbksemeg5uxpjmu1yu4ybi5']);
		for (const m of said) db.run('insert into messages values(?,?,?,?,?)', [`m${m.n}kd83`, roomOf(m), key(m.by), m.text, m.at + AHEAD]);
		db.close();
	},
	'talks called by whom they are with': (open, said) => {
		const key = (p: Person): number => 515_000 + p.id * 7;
		const db = open('talk.db');
		withPersons(db, key, '');
		db.exec(`create table dialogs(did integer primary key, kind integer, title text); create table dialog_members(did integer, person integer);
			create table messages(mid integer primary key, did integer, from_person integer, content text, at integer, flags integer)`);
		db.run('insert into dialogs values(?, 1, null)', [key(ODILE)]);
		db.run('insert into dialogs values(-5501, 2, ?)', ['Cellar keys']);
		for (const p of ALL) db.run('insert into dialog_members values(-5501, ?)', [key(p)]);
		for (const m of said)
			db.run('insert into messages values(?,?,?,?,?,?)', [
				m.n * 3,
				roomOf(m) === 1 ? key(ODILE) : -5501,
				key(m.by),
				m.text,
				Math.floor((m.at + AHEAD) / 1000),
				m.n % 4
			]);
		db.close();
	},
	'those to whom it went in rows': (open, said) => {
		const db = open('talk.db');
		withPersons(db);
		db.exec(`create table messages(id integer primary key, root_id integer, author_id integer, body text, sent_at integer);
			create table message_recipients(message_id integer, person_id integer, kind text)`);
		const roots = new Map<number, number>();
		for (const m of said) {
			const root = roots.get(roomOf(m)) ?? m.n;
			roots.set(roomOf(m), root);
			db.run('insert into messages values(?,?,?,?,?)', [m.n, root, m.by.id, m.text, m.at + AHEAD]);
			for (const p of roomOf(m) === 1 ? [ODILE, BRAM] : ALL)
				if (p !== m.by) db.run("insert into message_recipients values(?,?,'to')", [m.n, p.id]);
		}
		db.close();
	},
	'with whom, or in which room': (open, said) => {
		const db = open('talk.db');
		db.exec(`create table lines(line_id integer primary key, with_nick text, room text, by_nick text, said text, at integer);
			create table profile(nick text, since integer)`);
		db.run('insert into profile values(?,?)', [BRAM.handle, START - 1e10]);
		for (const m of said)
			db.run('insert into lines values(?,?,?,?,?,?)', [
				m.n,
				roomOf(m) === 1 ? ODILE.handle : null,
				roomOf(m) === 1 ? null : 'Cellar keys',
				m.by.handle,
				m.text,
				m.at + AHEAD
			]);
		db.close();
	},
	'packed into one text, where room and person are numbered alike': (open, said) => {
		const db = open('talk.db');
		withPersons(db);
		withRooms(db);
		db.exec('create table queue(id integer primary key, line text)');
		for (const m of said)
			db.run('insert into queue values(?,?)', [m.n, ['M', roomOf(m), m.by.id, Math.floor((m.at + AHEAD) / 1000), m.text].join('|')]);
		db.close();
	}
};

/** Layouts of a device on which there is one conversation alone. */
const OF_ONE: Record<string, Layout> = {
	'sessions with one party': (open, said) => {
		const db = open('talk.db');
		db.exec(`create table party(party_id integer primary key, name text, phone text);
			create table session(session_id integer primary key, party_id integer, started integer, ended integer);
			create table utterance(utterance_id integer primary key, session_id integer, mine integer, words text, offset_ms integer)`);
		for (const [i, p] of [ODILE, NOOR].entries()) db.run('insert into party values(?,?,?)', [i + 1, p.name, p.number]);
		for (const [i, m] of said.entries()) {
			const session = Math.floor(i / 5);
			const started = said[session * 5]!.at + AHEAD;
			if (i % 5 === 0) db.run('insert into session values(?,1,?,?)', [session + 1, started, started + 25_000_000]);
			db.run('insert into utterance values(?,?,?,?,?)', [m.n, session + 1, m.by === BRAM ? 1 : 0, m.text, m.at + AHEAD - started]);
		}
		db.close();
	},
	'a talk called by whom it is with': (open, said) => {
		const key = (p: Person): number => 515_000 + p.id * 7;
		const db = open('talk.db');
		withPersons(db, key, '');
		db.exec('create table messages(mid integer primary key, did integer, from_person integer, content text, at integer)');
		for (const m of said)
			db.run('insert into messages values(?,?,?,?,?)', [m.n, key(ODILE), key(m.by), m.text, Math.floor((m.at + AHEAD) / 1000)]);
		db.close();
	}
};

describe('another device', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-another-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** Odile's own, from which some were deleted for good; `blank`: those of which the row stays. */
	function phone(path: string, blank: readonly number[] = []): void {
		mkdirSync(path, { recursive: true });
		const db = createDatabase(join(path, 'letters.db'), ['secure_delete=off']);
		db.exec(`create table persons(id integer primary key, name text, number text, is_me integer);
			create table talks(id integer primary key, title text); create table talk_persons(talk_id integer, person_id integer);
			create table letters(id integer primary key, talk_id integer, person_id integer, words text, sent integer, deleted integer)`);
		for (const p of ALL) db.run('insert into persons values(?,?,?,?)', [p.id, p.name, p.number, p === ODILE ? 1 : 0]);
		for (const [talk, members] of [[BRAM], [NOOR], [BRAM, NOOR]].entries()) {
			db.run('insert into talks values(?,?)', [talk + 1, members.length > 1 ? 'Cellar keys' : null]);
			for (const p of [ODILE, ...members]) db.run('insert into talk_persons values(?,?)', [talk + 1, p.id]);
		}
		for (const m of SAID)
			db.run('insert into letters values(?,?,?,?,?,0)', [m.n, ((m.n - 1) % 3) + 1, m.by.id, blank.includes(m.n) ? '' : m.text, m.at]);
		for (const n of blank) db.run('update letters set deleted = 1 where id = ?', [n]);
		if (blank.length === 0) db.exec(`delete from letters where id in (${DELETED.join()})`);
		db.close();
	}

	function looked(paths: string[]): { of: (m: Said) => Woven[]; all: Woven[] } {
		const look = new Look(openPaths(paths), { reach: 'raw', owner: ODILE.number });
		for (const event of look.run()) void event;
		const all = look.findings().weave.threads.flatMap((t) => t.messages);
		return { all, of: (m) => all.filter((w) => w.first.text === m.text) };
	}

	const isReadRight = (name: string, layout: Layout, has: (m: Said) => boolean): void => {
		const root = join(folder, name.replace(/\W+/g, '-'));
		phone(join(root, 'phone'));
		const there = join(root, 'other');
		mkdirSync(there, { recursive: true });
		layout((file) => createDatabase(join(there, file), ['page_size=4096']), SAID.filter(has));
		const { of, all } = looked([there, join(root, 'phone')]);
		const threads = new Map<string, string>();
		for (const m of SAID) {
			const same = of(m);
			assert.equal(same.length, 1, `${m.text}: once`);
			const [{ first, standing, thread, sightings }] = same as [Woven];
			assert.equal(first.sentAt, m.at, `${m.text}: when`);
			assert.equal(first.direction, m.by === ODILE ? 'out' : 'in', `${m.text}: which way`);
			const isDeleted = DELETED.includes(m.n);
			assert.equal(standing === 'kept', !isDeleted, `${m.text}: ${standing}`);
			assert.equal(new Set(sightings.map((s) => s.file)).size > 1, has(m), `${m.text}: seen on both`);
			const talk = m.with.map((p) => p.name).join();
			assert.equal(threads.get(talk) ?? thread, thread, `${m.text}: its thread`);
			threads.set(talk, thread);
		}
		assert.equal(new Set(threads.values()).size, 3);
		assert.equal(all.length, SAID.length);
	};

	for (const [name, layout] of Object.entries(LAYOUTS)) it(name, () => isReadRight(name, layout, (m) => isIn(m, BRAM)));
	for (const [name, layout] of Object.entries(OF_ONE))
		it(name, () => isReadRight(name, layout, (m) => isIn(m, BRAM) && m.with.length === 1));

	it('what is a row without its text here has it there, and stays deleted', () => {
		const root = join(folder, 'blank');
		const blank = [22, 34, 39];
		phone(join(root, 'phone'), blank);
		mkdirSync(join(root, 'other'));
		LAYOUTS['an account by its key']!(
			(file) => createDatabase(join(root, 'other', file)),
			SAID.filter((m) => isIn(m, BRAM))
		);
		const { of, all } = looked([join(root, 'phone'), join(root, 'other')]);
		for (const n of blank.filter((i) => isIn(SAID[i - 1]!, BRAM))) {
			const [m, more] = of(SAID[n - 1]!);
			assert.deepEqual([m?.standing, m?.first.direction, more], ['binned', SAID[n - 1]!.by === ODILE ? 'out' : 'in', undefined]);
		}
		assert.equal(all.length, SAID.length);
	});
});

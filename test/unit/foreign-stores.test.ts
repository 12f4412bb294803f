/**
 * Stores as other hands lay them out, groups and deleted messages in them: texts kept aside, in parts, in binary fields,
 * rooms and members in lists, owners who are no person of the store. Every message must come out with its text, time,
 * way, writer and thread; of the deleted ones those whose bytes are left, which here is nearly all.
 */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { deflateSync } from 'node:zlib';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Weave } from '../../src/core/weave';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';
import { wire } from '../vectors/wire';

const OWNER = '+442079460900';
const PEOPLE = ['Ada Moor', 'Bo Lind', 'Cy Vane', 'Dot Hale', 'Eli Roth'].map((name, i) => ({ name, phone: `+44770090010${i}` }));
/** Rooms by the numbers of their members: five of two people, and one group. */
const ROOMS = [[0], [1], [2], [3], [4], [0, 2, 4]];
const GROUP = 5;
const WORDS =
	'boiler valve pump tenant invoice meeting corridor heater ladder window morning please bring the old key for unit seven'.split(' ');
const COUNT = 420;

interface Said {
	i: number;
	/** Seconds since 1970. */
	at: number;
	room: number;
	/** Who wrote; null for the owner. */
	who: number | null;
	text: string;
}

function story(r: Random, rooms: number): Said[] {
	let at = 1_735_700_000;
	return Array.from({ length: COUNT }, (_, i) => {
		at += r.int(60, 30_000);
		const room = r.int(0, rooms - 1);
		const who = r.chance(0.45) ? null : r.pick(ROOMS[room]!);
		return { i: i + 1, at, room, who, text: `${Array.from({ length: r.int(2, 12) }, () => r.pick(WORDS)).join(' ')} ${i + 1}` };
	});
}

interface Layout {
	name: string;
	/** Without the group: a layout that has none. */
	pairs?: boolean;
	/** What a correspondent is known by. */
	address?: (person: number) => string;
	named?: boolean;
	write: (db: Engine, said: readonly Said[], r: Random) => void;
	remove: (db: Engine, s: Said) => void;
	/** Share of the deleted found that must have everything right. */
	right?: number;
	/** How a text stands in the file, where not as it is. */
	stored?: (text: string) => Uint8Array;
}

const digits = (r: Random, n: number): string => Array.from({ length: n }, () => r.pick([...'0123456789abcdef'])).join('');
const bytes16 = (r: Random): Uint8Array => Uint8Array.from({ length: 16 }, () => r.int(0, 255));
const roomName = (room: number): string | null => (room === GROUP ? 'Plant desk' : null);
const hours = (at: number): string => new Date(at * 1000).toISOString();
const without =
	(table: string, column = 'id') =>
	(db: Engine, s: Said): void =>
		void db.run(`delete from ${table} where ${column}=?`, [s.i]);

/** Persons, rooms and who is in which: as most stores have them. */
function frame(db: Engine): void {
	db.exec('create table who(id integer primary key, num text, shown text)');
	db.exec('create table room(id integer primary key, title text, kind int)');
	db.exec('create table room_member(room int, who int)');
	PEOPLE.forEach((p, i) => db.run('insert into who values(?,?,?)', [i + 1, p.phone, p.name]));
	ROOMS.forEach((members, i) => {
		db.run('insert into room values(?,?,?)', [i + 1, roomName(i), members.length > 1 ? 1 : 0]);
		for (const m of members) db.run('insert into room_member values(?,?)', [i + 1, m + 1]);
	});
}
const writer = (s: Said, own: number | null): number | null => (s.who === null ? own : s.who + 1);

const LAYOUTS: Layout[] = [
	{
		name: 'texts in a table of their own, which names the message',
		write(db, said) {
			frame(db);
			db.exec(
				'create table item(id integer primary key autoincrement, room int, who int, at int, state int); create table content(item int, body text)'
			);
			for (const s of said) {
				db.run('insert into item values(?,?,?,?,3)', [s.i, s.room + 1, writer(s, 0), s.at * 1000]);
				db.run('insert into content values(?,?)', [s.i, s.text]);
			}
		},
		remove(db, s) {
			db.run('delete from item where id=?', [s.i]);
			db.run('delete from content where item=?', [s.i]);
		}
	},
	{
		name: 'texts in a table of their own, which the message names; their numbers are told from their places',
		right: 0.85,
		write(db, said) {
			frame(db);
			db.exec(
				'create table item(id integer primary key autoincrement, room int, who int, at int, words int); create table words(id integer primary key, body text)'
			);
			for (const s of said) {
				db.run('insert into words values(?,?)', [s.i + 5000, s.text]);
				db.run('insert into item values(?,?,?,?,?)', [s.i, s.room + 1, writer(s, null), s.at, s.i + 5000]);
			}
		},
		remove(db, s) {
			db.run('delete from item where id=?', [s.i]);
			db.run('delete from words where id=?', [s.i + 5000]);
		}
	},
	{
		name: 'messages in parts, pictures among them',
		write(db, said, r) {
			frame(db);
			db.exec('create table msg(id integer primary key autoincrement, room int, sender int, at int, box int, subject text)');
			db.exec('create table part(id integer primary key, mid int, seq int, ct text, file text, words text)');
			for (const s of said) {
				db.run('insert into msg values(?,?,?,?,?,null)', [s.i, s.room + 1, writer(s, null), s.at * 1000, s.who === null ? 2 : 1]);
				if (r.chance(0.3)) db.run("insert into part(mid,seq,ct,file) values(?,0,'image/jpeg',?)", [s.i, `p${s.i}.jpg`]);
				db.run("insert into part(mid,seq,ct,words) values(?,1,'text/plain',?)", [s.i, s.text]);
			}
		},
		remove(db, s) {
			db.run('delete from msg where id=?', [s.i]);
			db.run('delete from part where mid=?', [s.i]);
		}
	},
	{
		name: 'writer and text as binary fields, one within the other',
		write(db, said, r) {
			frame(db);
			db.exec('create table m(id text primary key, n int, room int, t int, payload blob)');
			for (const s of said)
				db.run('insert into m values(?,?,?,?,?)', [
					digits(r, 32),
					s.i,
					s.room + 1,
					s.at * 1_000_000,
					wire([1, s.i], [2, s.who === null ? OWNER : PEOPLE[s.who]!.phone], [4, wire([1, s.text])])
				]);
		},
		remove: without('m', 'n')
	},
	{
		name: 'everything but the room in binary fields; rooms and persons have the same numbers',
		write(db, said, r) {
			frame(db);
			db.exec('create table rec(id integer primary key, chat int, data blob)');
			for (const s of said)
				db.run('insert into rec values(?,?,?)', [
					s.i,
					s.room + 1,
					wire([1, digits(r, 8)], [2, s.at * 1000], [3, s.who === null ? 1 : 0], [4, writer(s, 0)!], [5, s.text])
				]);
		},
		remove: without('rec')
	},
	{
		name: 'documents by key: persons, rooms with lists of members, and messages in one table',
		write(db, said) {
			db.exec('create table docs(key text primary key, value blob)');
			const put = (key: string, value: object): void =>
				void db.run('insert into docs values(?,?)', [key, new TextEncoder().encode(JSON.stringify(value))]);
			PEOPLE.forEach((p, i) => put(`contact:${i}`, { id: `u${i}`, number: p.phone, displayName: p.name }));
			ROOMS.forEach((members, i) => put(`room:${i}`, { id: `r${i}`, members: members.map((m) => `u${m}`), topic: roomName(i) }));
			for (const s of said)
				put(`msg:${s.i}`, { room: `r${s.room}`, author: s.who === null ? 'me' : `u${s.who}`, created: s.at * 1000, body: s.text });
		},
		remove: (db, s) => db.run('delete from docs where key=?', [`msg:${s.i}`])
	},
	{
		name: 'members with their names as a list in the room',
		write(db, said) {
			db.exec(
				'create table conversation(cid text primary key, members text, name text); create table entry(id integer primary key, cid text, at text, doc text)'
			);
			ROOMS.forEach((members, i) =>
				db.run('insert into conversation values(?,?,?)', [
					`c${i}-9f31ab`,
					JSON.stringify([...members.map((m) => ({ number: PEOPLE[m]!.phone, name: PEOPLE[m]!.name })), { number: OWNER, name: 'Me' }]),
					roomName(i)
				])
			);
			for (const s of said)
				db.run('insert into entry values(?,?,?,?)', [
					s.i,
					`c${s.room}-9f31ab`,
					hours(s.at),
					JSON.stringify({ type: 'text', from: s.who === null ? OWNER : PEOPLE[s.who]!.phone, content: { text: s.text } })
				]);
		},
		remove: without('entry')
	},
	{
		name: 'a box for received and one for sent, a room beside the other side',
		named: false,
		write(db, said) {
			db.exec('create table received(id integer primary key, peer text, grp text, at real, words text)');
			db.exec('create table sent(id integer primary key, peer text, grp text, at real, words text, delivered int)');
			for (const s of said) {
				const grp = s.room === GROUP ? 'plant@rooms' : null;
				if (s.who === null)
					db.run('insert into sent values(?,?,?,?,?,1)', [s.i, grp ? null : PEOPLE[s.room]!.phone, grp, s.at - 978_307_200 + 0.25, s.text]);
				else db.run('insert into received values(?,?,?,?,?)', [s.i, PEOPLE[s.who]!.phone, grp, s.at - 978_307_200 + 0.25, s.text]);
			}
		},
		remove: (db, s) => db.run(`delete from ${s.who === null ? 'sent' : 'received'} where id=?`, [s.i])
	},
	{
		name: 'a room or a person as remote address; the writer only in groups; notices between',
		address: (p) => `${PEOPLE[p]!.phone.slice(1)}@p.example`,
		write(db, said) {
			db.exec('create table log(id integer primary key, chat text, writer text, me int, stamp int, kind int, txt text, media text)');
			db.exec('create table names(jid text, display text)');
			PEOPLE.forEach((p) => db.run('insert into names values(?,?)', [`${p.phone.slice(1)}@p.example`, p.name]));
			for (const s of said)
				db.run('insert into log values(?,?,?,?,?,0,?,null)', [
					s.i,
					s.room === GROUP ? '447700900-1700@g.example' : `${PEOPLE[s.room]!.phone.slice(1)}@p.example`,
					s.room === GROUP && s.who !== null ? `${PEOPLE[s.who]!.phone.slice(1)}@p.example` : null,
					s.who === null ? 1 : 0,
					s.at * 1000,
					s.text
				]);
			for (let n = 0; n < 20; n++)
				db.run('insert into log values(?,?,null,0,?,6,null,null)', [
					1000 + n,
					`${PEOPLE[n % 5]!.phone.slice(1)}@p.example`,
					1_735_700_000_000 + n * 5e6
				]);
		},
		remove: without('log')
	},
	{
		name: 'recipients as a list beside the sender, the owner among them',
		named: false,
		write(db, said) {
			db.exec('create table letters(id integer primary key, sender text, recipients text, unixtime int, txt text)');
			for (const s of said) {
				const others = ROOMS[s.room]!.filter((m) => m !== s.who).map((m) => PEOPLE[m]!.phone);
				const to = s.who === null ? others : [...others, OWNER];
				db.run('insert into letters values(?,?,?,?,?)', [
					s.i,
					s.who === null ? OWNER : PEOPLE[s.who]!.phone,
					to.sort().join(';'),
					s.at,
					s.text
				]);
			}
		},
		remove: without('letters')
	},
	{
		name: 'random keys of sixteen bytes, tables without record numbers',
		write(db, said, r) {
			db.exec(
				'create table peer(id blob primary key, phone text, nick text) without rowid; create table dialog(id blob primary key, topic text) without rowid'
			);
			db.exec('create table attend(dialog blob, peer blob, primary key(dialog, peer)) without rowid');
			db.exec('create table line(id blob primary key, dialog blob, peer blob, utc int, words text) without rowid');
			const me = bytes16(r);
			const peers = PEOPLE.map(() => bytes16(r));
			const rooms = ROOMS.map(() => bytes16(r));
			db.run('insert into peer values(?,?,?)', [me, OWNER, 'Me']);
			PEOPLE.forEach((p, i) => db.run('insert into peer values(?,?,?)', [peers[i]!, `${p.phone}`, p.name]));
			ROOMS.forEach((members, i) => {
				db.run('insert into dialog values(?,null)', [rooms[i]!]);
				for (const peer of [me, ...members.map((m) => peers[m]!)]) db.run('insert into attend values(?,?)', [rooms[i]!, peer]);
			});
			for (const s of said)
				db.run('insert into line values(?,?,?,?,?)', [
					bytes16(r),
					rooms[s.room]!,
					s.who === null ? me : peers[s.who]!,
					s.at * 1000 + 3,
					s.text
				]);
		},
		remove: (db, s) => db.run('delete from line where words=?', [s.text])
	},
	{
		name: 'threads that list the numbers of their recipients',
		named: false,
		write(db, said) {
			db.exec(
				'create table addr(id integer primary key, address text); create table threads(id integer primary key, recipient_ids text, snippet text, date int)'
			);
			db.exec(
				'create table sms(id integer primary key autoincrement, thread_id int, address text, date int, type int, read int, body text)'
			);
			PEOPLE.forEach((p, i) => db.run('insert into addr values(?,?)', [i + 1, p.phone]));
			ROOMS.forEach((members, i) => db.run("insert into threads values(?,?,'x',0)", [i + 1, members.map((m) => m + 1).join(' ')]));
			for (const s of said) {
				const to = s.room === GROUP ? null : PEOPLE[s.room]!.phone;
				db.run('insert into sms values(?,?,?,?,?,1,?)', [
					s.i,
					s.room + 1,
					s.who === null ? to : PEOPLE[s.who]!.phone,
					s.at * 1000,
					s.who === null ? 2 : 1,
					s.text
				]);
			}
		},
		remove: without('sms')
	},
	{
		name: 'kinds of entities as numbers that are keys of anything',
		write(db, said, r) {
			db.exec(
				'create table person(pk integer primary key, ent int, opt int, phone text, full text); create table talk(pk integer primary key, ent int, opt int, session text, kind int)'
			);
			db.exec(
				'create table line(pk integer primary key, ent int, opt int, talk int, sender int, fromme int, date real, body text, stanza text); create table members(talks int, people int)'
			);
			PEOPLE.forEach((p, i) => db.run('insert into person values(?,2,1,?,?)', [i + 1, p.phone, p.name]));
			ROOMS.forEach((members, i) => {
				db.run('insert into talk values(?,1,3,?,?)', [i + 1, digits(r, 32), members.length > 1 ? 1 : 0]);
				for (const m of members) db.run('insert into members values(?,?)', [i + 1, m + 1]);
			});
			for (const s of said)
				db.run('insert into line values(?,3,2,?,?,?,?,?,?)', [
					s.i,
					s.room + 1,
					writer(s, null),
					s.who === null ? 1 : 0,
					s.at - 978_307_200,
					s.text,
					digits(r, 16)
				]);
		},
		remove: without('line', 'pk')
	},
	{
		name: 'names of both in each row, days first, no numbers at all',
		pairs: true,
		address: (p) => `u:${PEOPLE[p]!.name.split(' ')[0]!.toLowerCase()}`,
		write(db, said) {
			db.exec(
				'create table chatlog(id integer primary key, remote text, remotename text, author text, authorname text, at text, msg text)'
			);
			for (const s of said) {
				const name = PEOPLE[s.room]!.name;
				const id = `u:${name.split(' ')[0]!.toLowerCase()}`;
				const at = hours(s.at);
				const written = `${at.slice(8, 10)}.${at.slice(5, 7)}.${at.slice(0, 4)} ${at.slice(11, 19)}`;
				db.run('insert into chatlog values(?,?,?,?,?,?,?)', [
					s.i,
					id,
					name,
					s.who === null ? 'u:self' : id,
					s.who === null ? 'Me' : name,
					written,
					s.text
				]);
			}
		},
		remove: without('chatlog')
	},
	{
		name: 'a name, a date, a text and a flag, under letters',
		pairs: true,
		named: false,
		address: (p) => PEOPLE[p]!.name,
		write(db, said) {
			db.exec('create table a(b text, c text, d text, e integer)');
			for (const s of said) db.run('insert into a values(?,?,?,?)', [PEOPLE[s.room]!.name, hours(s.at), s.text, s.who === null ? 1 : 0]);
		},
		remove: without('a', 'rowid')
	},
	{
		name: 'a name beside the number in each row, packed texts',
		pairs: true,
		stored: (text) => new Uint8Array(deflateSync(text)),
		write(db, said) {
			db.exec('create table sms(id integer primary key, address text, person text, date_text text, type text, body blob)');
			for (const s of said)
				db.run('insert into sms values(?,?,?,?,?,?)', [
					s.i,
					PEOPLE[s.room]!.phone,
					PEOPLE[s.room]!.name,
					hours(s.at).slice(0, 19).replace('T', ' '),
					s.who === null ? 'sent' : 'received',
					new Uint8Array(deflateSync(s.text))
				]);
		},
		remove: without('sms')
	}
];

interface Found {
	text: string;
	right: boolean;
	lost: boolean;
	thread: string;
}

function compare(layout: Layout, weave: Weave, said: readonly Said[]): Found[] {
	const byText = new Map(said.map((s) => [s.text, s]));
	const address = layout.address ?? ((p: number): string => PEOPLE[p]!.phone);
	return weave.threads.flatMap((t) =>
		t.messages.flatMap(({ first, standing, thread }): Found[] => {
			const s = byText.get(first.text ?? '');
			if (!s) return [{ text: first.text ?? '', right: false, lost: standing !== 'kept', thread }];
			const other = s.who ?? (s.room === GROUP ? null : s.room);
			const party = first.correspondent;
			const right =
				Math.floor((first.sentAt ?? 0) / 1000) === s.at &&
				first.direction === (s.who === null ? 'out' : 'in') &&
				(party?.address ?? null) === (other === null ? null : address(other)) &&
				(layout.named === false || (party?.name ?? null) === (other === null ? null : PEOPLE[other]!.name));
			return [{ text: s.text, right, lost: standing !== 'kept', thread }];
		})
	);
}

describe('stores of other hands', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-foreign-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	LAYOUTS.forEach((layout, n) =>
		it(layout.name, () => {
			const r = new Random(100 + n);
			const said = story(r, layout.pairs ? GROUP : ROOMS.length);
			const path = join(folder, `store-${n}.db`);
			const db = createDatabase(path, ['secure_delete=off']);
			db.exec('begin');
			layout.write(db, said, r);
			db.exec('commit');
			const gone = new Set(said.filter(() => r.chance(0.12)).map((s) => s.text));
			for (const s of said) if (gone.has(s.text)) layout.remove(db, s);
			db.close();
			const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			const found = compare(layout, look.findings().weave, said);
			const kept = found.filter((f) => !f.lost);
			assert.equal(kept.length, said.length - gone.size, 'all that is in use, once');
			assert.deepEqual(
				kept.filter((f) => !f.right).map((f) => f.text),
				[],
				'in use and read wrong'
			);
			const bytes = readFileSync(path);
			const there = [...gone].filter((text) => bytes.includes(Buffer.from(layout.stored?.(text) ?? text)));
			const lost = found.filter((f) => f.lost && gone.has(f.text));
			const back = new Set(lost.map((f) => f.text));
			assert.ok(there.length > 5, 'the engine has left some');
			assert.deepEqual(
				there.filter((text) => !back.has(text)),
				[],
				'deleted, still there and not found'
			);
			assert.ok(lost.filter((f) => f.right).length >= lost.length * (layout.right ?? 0.9), 'deleted ones are read right');
			const threads = new Map<string, Set<number>>();
			for (const f of found.filter((x) => x.right)) {
				const { room } = said.find((s) => s.text === f.text)!;
				threads.set(f.thread, (threads.get(f.thread) ?? new Set()).add(room));
			}
			assert.equal(threads.size, layout.pairs ? GROUP : ROOMS.length, 'a thread for each room');
			assert.ok(
				[...threads.values()].every((rooms) => rooms.size === 1),
				'and no other room in it'
			);
		})
	);

	it('of a deleted message in several parts each is given back, none twice', () => {
		const path = join(folder, 'parts.db');
		const db = createDatabase(path, ['secure_delete=off']);
		frame(db);
		db.exec('create table msg(id integer primary key autoincrement, room int, sender int, at int, box int)');
		db.exec('create table part(id integer primary key, mid int, words text)');
		const r = new Random(7);
		const said = story(r, GROUP).slice(0, 60);
		for (const s of said) {
			db.run('insert into msg values(?,?,?,?,?)', [s.i, s.room + 1, writer(s, null), s.at * 1000, s.who === null ? 2 : 1]);
			db.run('insert into part(mid,words) values(?,?)', [s.i, s.text]);
			if (s.i % 5 === 0) db.run('insert into part(mid,words) values(?,?)', [s.i, `second part of the valve letter ${s.i}`]);
		}
		const gone = said.filter((s) => s.i % 10 === 0);
		for (const s of gone) {
			db.run('delete from msg where id=?', [s.i]);
			db.run('delete from part where mid=?', [s.i]);
		}
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const texts = look.findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.text ?? ''));
		const bytes = readFileSync(path);
		assert.ok(gone.length > 3);
		for (const s of gone)
			for (const part of [s.text, `second part of the valve letter ${s.i}`]) {
				if (!bytes.includes(Buffer.from(part))) continue;
				assert.equal(texts.filter((text) => text.split('\n').includes(part)).length, 1, part);
			}
	});
});

/** Stores of shapes met nowhere else in these tests: who wrote, which way and in which thread must come out of the values. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { deflateSync } from 'node:zlib';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const PEOPLE = [
	{ handle: 'odile.m', name: 'Odile Marchetti', phone: '+33639980417' },
	{ handle: 'tamsin', name: 'Tamsin Okafor', phone: '+447700900271' },
	{ handle: 'bram_v', name: 'Bram Vesterholt', phone: '+447700900455' },
	{ handle: 'noor', name: 'Noor al-Khatib', phone: '+15550100173' },
	{ handle: 'li.wen', name: 'Li Wen', phone: '+15550100148' }
];
const OWNER = 'Piet Hallorann';
const WORDS = 'the boiler is cold again please look at it before noon and tell me what you think of the new meter in the cellar'.split(' ');

interface Said {
	/** ms UTC, whole seconds. */
	at: number;
	/** Index of the other side. */
	with: number;
	mine: boolean;
	text: string;
}

function story(count: number): Said[] {
	const r = new Random(41);
	let at = Date.UTC(2025, 0, 2, 6);
	return Array.from({ length: count }, (_, i) => {
		at += r.int(60, 20_000) * 1000;
		const text = Array.from({ length: r.int(2, 10) }, () => r.pick(WORDS)).join(' ');
		return { at, with: r.int(0, 4), mine: r.chance(0.45), text: `${text[0]!.toUpperCase()}${text.slice(1)}, ${i}` };
	});
}

interface Layout {
	name: string;
	count?: number;
	/** What of a person the messages lead to. */
	known: 'name' | 'phone' | 'handle';
	write: (db: Engine, said: readonly Said[]) => void;
	remove?: (db: Engine, said: Said, i: number) => void;
	/** Every how manyth is deleted, and must be found wherever its text's bytes still stand in the file. */
	every?: number;
}

const pad = (n: number, length: number): string => String(n).padStart(length, '0');

/** A record number whose last byte has all eight bits. */
const wide = (s: Said, i: number): bigint => (BigInt(s.at) << 20n) | BigInt(((i * 61) % 256) | 0x80);

const iso = (at: number): string => new Date(at).toISOString();
const slashed = (at: number): string => `${iso(at).slice(8, 10)}/${iso(at).slice(5, 7)}/${iso(at).slice(0, 4)} ${iso(at).slice(11, 19)}`;
const key = (r: Random, letter: string): string => letter + Array.from({ length: 9 }, () => r.pick([...'abcdefghjkmnp23456789'])).join('');

const LAYOUTS: Layout[] = [
	{
		name: 'keys are random letters; a join of members; persons have only names',
		known: 'name',
		write(db, said) {
			const r = new Random(7);
			const [own, ...users] = [OWNER, ...PEOPLE.map((p) => p.name)].map((name) => ({ name, uid: key(r, 'U') }));
			db.exec('create table users(uid text primary key, display text); create table channels(cid text primary key, topic text, kind text)');
			db.exec(
				'create table members(cid text, uid text); create table posts(mid text primary key, cid text, uid text, content text, created text)'
			);
			for (const u of [own!, ...users]) db.run('insert into users values(?,?)', [u.uid, u.name]);
			const channels = users.map((u) => {
				const cid = key(r, 'C');
				db.run('insert into channels values(?,null,?)', [cid, 'direct']);
				for (const uid of [own!.uid, u.uid]) db.run('insert into members values(?,?)', [cid, uid]);
				return cid;
			});
			for (const s of said)
				db.run('insert into posts values(?,?,?,?,?)', [
					key(r, 'M'),
					channels[s.with],
					s.mine ? own!.uid : users[s.with]!.uid,
					s.text,
					iso(s.at)
				]);
		},
		remove: (db, s) => db.run('delete from posts where content=?', [s.text])
	},
	{
		name: 'two columns of names, and nothing else',
		known: 'name',
		write(db, said) {
			db.exec('create table log(n integer primary key, sender text, receiver text, msg text, ts real)');
			said.forEach((s, i) => {
				const pair = [OWNER, PEOPLE[s.with]!.name];
				if (!s.mine) pair.reverse();
				db.run('insert into log values(?,?,?,?,?)', [i + 1, ...pair, s.text, s.at / 1000 + 0.25]);
			});
		},
		remove: (db, _, i) => db.run('delete from log where n=?', [i + 1])
	},
	{
		name: 'keys and values: persons and messages as JSON in one table',
		known: 'phone',
		write(db, said) {
			db.exec('create table kv(k text primary key, v text)');
			PEOPLE.forEach((p, i) =>
				db.run('insert into kv values(?,?)', [`contact:${100 + i}`, JSON.stringify({ id: 100 + i, name: p.name, phone: p.phone })])
			);
			db.run('insert into kv values(?,?)', ['self', JSON.stringify({ id: 99, name: OWNER })]);
			said.forEach((s, i) => {
				const [from, to] = s.mine ? [99, 100 + s.with] : [100 + s.with, 99];
				db.run('insert into kv values(?,?)', [
					`msg:${1_000_000 + i}`,
					JSON.stringify({ id: i, from, to, text: s.text, date: s.at / 1000 })
				]);
			});
		}
	},
	{
		name: 'the owner is a person and a member like any other; a status tells what was sent',
		known: 'phone',
		write(db, said) {
			db.exec(
				'create table person(id integer primary key, name text, phone text, is_self integer); create table room(id integer primary key, label text)'
			);
			db.exec(
				'create table room_person(room integer, person integer); create table entry(id integer primary key, room integer, author integer, body text, sent integer, status integer)'
			);
			db.run('insert into person values(1,?,?,1)', [OWNER, '+447700900199']);
			PEOPLE.forEach((p, i) => {
				db.run('insert into person values(?,?,?,0)', [i + 2, p.name, p.phone]);
				db.run('insert into room values(?,null)', [i + 1]);
				for (const who of [1, i + 2]) db.run('insert into room_person values(?,?)', [i + 1, who]);
			});
			said.forEach((s, i) =>
				db.run('insert into entry values(?,?,?,?,?,?)', [
					i + 1,
					s.with + 1,
					s.mine ? 1 : s.with + 2,
					s.text,
					s.at / 1000 - 978_307_200,
					s.mine ? 3 : 0
				])
			);
		},
		remove: (db, _, i) => db.run('delete from entry where id=?', [i + 1])
	},
	{
		name: 'with whom stands only in a table of recipients',
		known: 'phone',
		write(db, said) {
			db.exec(
				'create table msg(id integer primary key, body text, created integer, outgoing integer); create table rcpt(msg integer, addr integer); create table addr(id integer primary key, value text, label text)'
			);
			PEOPLE.forEach((p, i) => db.run('insert into addr values(?,?,?)', [i + 1, p.phone, p.name]));
			said.forEach((s, i) => {
				db.run('insert into msg values(?,?,?,?)', [i + 1, s.text, s.at / 1000, Number(s.mine)]);
				db.run('insert into rcpt values(?,?)', [i + 1, s.with + 1]);
			});
		},
		remove: (db, _, i) => db.run('delete from msg where id=?', [i + 1])
	},
	{
		name: 'peer and author both, and an account that is in no list of contacts',
		known: 'phone',
		write(db, said) {
			db.exec(
				'create table account(uid integer, name text); create table contact(uid integer primary key, first text, last text, phone text)'
			);
			db.exec('create table dlg_msg(mid integer primary key, peer integer, author integer, out integer, body text, dt integer)');
			db.run('insert into account values(777001,?)', [OWNER]);
			PEOPLE.forEach((p, i) => db.run('insert into contact values(?,?,?,?)', [888_000 + i, ...p.name.split(/ (.*)/).slice(0, 2), p.phone]));
			said.forEach((s, i) =>
				db.run('insert into dlg_msg values(?,?,?,?,?,?)', [
					i + 1,
					888_000 + s.with,
					s.mine ? 777_001 : 888_000 + s.with,
					Number(s.mine),
					s.text,
					s.at / 1000
				])
			);
		},
		remove: (db, _, i) => db.run('delete from dlg_msg where mid=?', [i + 1])
	},
	{
		name: 'words for the box, and dates as people write them',
		known: 'phone',
		write(db, said) {
			db.exec('create table messages(_id integer primary key, remote text, content text, box text, when_txt text, seen integer)');
			said.forEach((s, i) =>
				db.run('insert into messages values(?,?,?,?,?,1)', [
					i + 1,
					PEOPLE[s.with]!.phone,
					s.text,
					s.mine ? (i % 3 ? 'SENT' : 'DELIVERED') : 'INBOX',
					slashed(s.at)
				])
			);
		},
		remove: (db, _, i) => db.run('delete from messages where _id=?', [i + 1])
	},
	{
		name: 'twelve messages to friends without numbers',
		count: 12,
		known: 'name',
		write(db, said) {
			db.exec(
				'create table friends(fid integer primary key, nick text); create table im(id integer primary key, fid integer, incoming integer, line text, t integer)'
			);
			PEOPLE.forEach((p, i) => db.run('insert into friends values(?,?)', [i + 1, p.name]));
			said.forEach((s, i) => db.run('insert into im values(?,?,?,?,?)', [i + 1, s.with + 1, Number(!s.mine), s.text, s.at / 1000]));
		}
	},
	{
		name: 'the other side’s name, and beside it the writer’s: that one, or "Me"',
		known: 'name',
		write(db, said) {
			db.exec('create table h(id integer primary key, conv text, sender text, text text, epoch text)');
			said.forEach((s, i) =>
				db.run('insert into h values(?,?,?,?,?)', [
					i + 1,
					PEOPLE[s.with]!.name,
					s.mine ? 'Me' : PEOPLE[s.with]!.name,
					s.text,
					String(s.at / 1000)
				])
			);
		},
		remove: (db, _, i) => db.run('delete from h where id=?', [i + 1])
	},
	{
		name: 'numbered within each number, without record numbers',
		known: 'phone',
		write(db, said) {
			db.exec('create table r(room text, seq integer, mine integer, body text, ts integer, primary key(room, seq)) without rowid');
			const last = new Map<number, number>();
			for (const s of said) {
				last.set(s.with, (last.get(s.with) ?? 0) + 1);
				db.run('insert into r values(?,?,?,?,?)', [PEOPLE[s.with]!.phone, last.get(s.with)!, Number(s.mine), s.text, s.at]);
			}
		}
	},
	{
		name: 'two boxes of one shape, the second small; marks of state that say nothing of the way',
		known: 'phone',
		write(db, said) {
			db.exec('create table inbox(id integer primary key autoincrement, sender text, content text, received integer, opened integer)');
			db.exec('create table outbox(id integer primary key autoincrement, recipient text, content text, sent integer, progress integer)');
			said.forEach((s, i) =>
				db.run(`insert into ${s.mine ? 'outbox' : 'inbox'} values(?,?,?,?,?)`, [i + 1, PEOPLE[s.with]!.phone, s.text, s.at, 1 + (i % 2)])
			);
		},
		remove: (db, s, i) => db.run(`delete from ${s.mine ? 'outbox' : 'inbox'} where id=?`, [i + 1])
	},
	{
		name: 'who takes part is listed in each row, beside who wrote',
		known: 'phone',
		write(db, said) {
			const own = '+447700900199';
			db.exec('create table note(id integer primary key, people text, author text, body text, at integer)');
			said.forEach((s, i) => {
				const { phone } = PEOPLE[s.with]!;
				db.run('insert into note values(?,?,?,?,?)', [i + 1, [own, phone].sort().join(', '), s.mine ? own : phone, s.text, s.at / 1000]);
			});
		},
		remove: (db, _, i) => db.run('delete from note where id=?', [i + 1])
	},
	{
		name: 'a day and a time of day in two columns of numbers',
		known: 'phone',
		write(db, said) {
			db.exec('create table note(id integer primary key, number text, body text, day integer, clock integer, way text)');
			said.forEach((s, i) => {
				const [day, clock] = iso(s.at).slice(0, 19).replace(/[-:]/g, '').split('T').map(Number);
				db.run('insert into note values(?,?,?,?,?,?)', [i + 1, PEOPLE[s.with]!.phone, s.text, day, clock, s.mine ? 'S' : 'R']);
			});
		},
		remove: (db, _, i) => db.run('delete from note where id=?', [i + 1])
	},
	{
		name: 'keys and values: the number is a part of the key',
		known: 'phone',
		write(db, said) {
			db.exec('create table kv(k text primary key, v blob)');
			said.forEach((s, n) =>
				db.run('insert into kv values(?,?)', [
					`msg:${PEOPLE[s.with]!.phone}:${pad(n, 6)}`,
					Buffer.from(JSON.stringify({ t: s.at, body: s.text, mine: s.mine }))
				])
			);
			db.run('insert into kv values(?,?)', ['settings:theme', Buffer.from('{"value":1}')]);
			db.run('insert into kv values(?,?)', ['settings:sound', Buffer.from('{"value":0}')]);
		}
	},
	{
		name: 'lines that begin with who says them',
		known: 'name',
		write(db, said) {
			db.exec('create table log(id integer primary key, channel text, entry text, at integer)');
			said.forEach((s, i) => {
				const { name } = PEOPLE[s.with]!;
				db.run('insert into log values(?,?,?,?)', [i + 1, name, `${s.mine ? OWNER : name}: ${s.text}`, s.at / 1000]);
			});
		},
		remove: (db, _, i) => db.run('delete from log where id=?', [i + 1])
	},
	{
		name: 'texts as the digits of their bytes',
		known: 'phone',
		write(db, said) {
			db.exec('create table sms(id integer primary key, number text, body text, at integer, kind integer)');
			said.forEach((s, i) =>
				db.run('insert into sms values(?,?,?,?,?)', [
					i + 1,
					PEOPLE[s.with]!.phone,
					Buffer.from(s.text).toString('hex'),
					s.at,
					s.mine ? 2 : 1
				])
			);
		},
		remove: (db, _, i) => db.run('delete from sms where id=?', [i + 1])
	},
	{
		name: 'no time but within the keys; what was typed and not sent in a table of its own',
		known: 'phone',
		write(db, said) {
			db.exec('create table note(id text primary key, number text, body text, kind integer)');
			db.exec('create table drafts(number text primary key, body text, at integer)');
			said.forEach((s, i) => {
				const stamp = s.at.toString(16).padStart(12, '0');
				const id = `${stamp.slice(0, 8)}-${stamp.slice(8)}-7${pad(i % 1000, 3)}-8abc-${pad(i, 12)}`;
				db.run('insert into note values(?,?,?,?)', [id, PEOPLE[s.with]!.phone, s.text, s.mine ? 2 : 1]);
			});
			PEOPLE.forEach((p, i) => db.run('insert into drafts values(?,?,?)', [p.phone, `I was going to say ${i}`, Date.UTC(2025, 1, 1)]));
		},
		remove: (db, s) => db.run('delete from note where body=?', [s.text])
	},
	{
		name: 'long texts packed, short ones as they are; states of many words tell the way',
		known: 'phone',
		write(db, said) {
			db.exec('create table note(id integer primary key, number text, body blob, at integer, state text)');
			const [sent, received] = [
				['sent', 'delivered', 'read', 'failed'],
				['received', 'unread']
			];
			said.forEach((s, i) =>
				db.run('insert into note values(?,?,?,?,?)', [
					i + 1,
					PEOPLE[s.with]!.phone,
					s.text.length > 40 ? deflateSync(Buffer.from(s.text)) : s.text,
					s.at,
					s.mine ? sent![i % 4] : received![i % 2]
				])
			);
		},
		remove: (db, _, i) => db.run('delete from note where id=?', [i + 1])
	},
	{
		name: 'the room is a number, and the writer an empty text where it is the owner',
		known: 'phone',
		write(db, said) {
			db.exec('create table note(id integer primary key, room text, sender text, body text, at integer)');
			said.forEach((s, i) => {
				const { phone: room } = PEOPLE[s.with]!;
				db.run('insert into note values(?,?,?,?,?)', [i + 1, room, s.mine ? '' : room, s.text, s.at / 1000]);
			});
		},
		remove: (db, _, i) => db.run('delete from note where id=?', [i + 1])
	},
	{
		name: 'nothing tells the way but that what was received has a time of arrival',
		known: 'phone',
		write(db, said) {
			db.exec('create table note(id integer primary key, number text, body text, sent_at integer, received_at integer)');
			said.forEach((s, i) =>
				db.run('insert into note values(?,?,?,?,?)', [i + 1, PEOPLE[s.with]!.phone, s.text, s.at, s.mine ? null : s.at + 4000 + i])
			);
		},
		remove: (db, _, i) => db.run('delete from note where id=?', [i + 1])
	},
	{
		name: 'record numbers of 64 bits',
		known: 'phone',
		write(db, said) {
			db.exec('create table note(id integer primary key, number text, body text, at integer, kind integer)');
			for (const [i, s] of said.entries())
				db.run('insert into note values(?,?,?,?,?)', [wide(s, i), PEOPLE[s.with]!.phone, s.text, s.at, s.mine ? 2 : 1]);
		},
		remove: (db, s, i) => db.run('delete from note where id=?', [wide(s, i)]),
		every: 7
	},
	{
		name: 'folk known by handles alone, the owner among them; talks name the other one',
		known: 'handle',
		write(db, said) {
			db.exec(
				'create table folk(id integer primary key, handle text not null, shown text); create table talks(id integer primary key, with_id integer, opened integer)'
			);
			db.exec('create table notes(id integer primary key, talk_id integer, from_id integer, words text, ms integer)');
			db.run('insert into folk values(1,?,?)', ['piet.hallorann', OWNER]);
			PEOPLE.forEach((p, i) => {
				db.run('insert into folk values(?,?,?)', [i + 2, p.handle, p.name]);
				db.run('insert into talks values(?,?,?)', [i + 1, i + 2, Date.UTC(2024, 11, 1)]);
			});
			said.forEach((s, i) => db.run('insert into notes values(?,?,?,?,?)', [i + 1, s.with + 1, s.mine ? 1 : s.with + 2, s.text, s.at]));
		},
		remove: (db, _, i) => db.run('delete from notes where id=?', [i + 1])
	}
];

describe('layouts of their own', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-layouts-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));
	LAYOUTS.forEach((layout, n) =>
		it(layout.name, () => {
			const path = join(folder, `${n}.db`);
			const said = story(layout.count ?? 140);
			const db = createDatabase(path, ['page_size=4096', 'secure_delete=off']);
			layout.write(db, said);
			const { every } = layout;
			const removed = every ? said.flatMap((_, i) => (i % every === 0 ? [i] : [])) : layout.remove ? [20, 47, 90, 121] : [];
			for (const i of removed) layout.remove!(db, said[i]!, i);
			db.close();
			const left = readFileSync(path, 'latin1');
			const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			const { threads } = look.findings().weave;
			const found = new Map(threads.flatMap((t) => t.messages.map((m) => [m.first.text, { m, thread: t.id }] as const)));
			const threadOf = new Map<number, string>();
			said.forEach((s, i) => {
				const one = found.get(s.text);
				if (removed.includes(i) && !one && !(every && left.includes(s.text))) return;
				assert.ok(one, s.text);
				const { first, standing } = one.m;
				assert.equal(standing, removed.includes(i) ? 'remnant' : 'kept');
				assert.equal(Math.floor(first.sentAt! / 1000) * 1000, s.at, 'time');
				assert.equal(first.direction, s.mine ? 'out' : 'in', s.text);
				const person = PEOPLE[s.with]!;
				const said_ = [first.correspondent?.address, first.correspondent?.name];
				assert.ok(said_.includes(person[layout.known]), `${s.text}: ${said_.join()} instead of ${person[layout.known]}`);
				threadOf.set(s.with, threadOf.get(s.with) ?? one.thread);
				assert.equal(one.thread, threadOf.get(s.with), 'thread');
			});
			assert.equal(new Set(threadOf.values()).size, threadOf.size);
			assert.equal(found.size <= said.length, true);
		})
	);
});

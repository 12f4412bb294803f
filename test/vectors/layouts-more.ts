/** More ways to store the same story: bodies inside other things, kinds mixed in one table, parties told in other ways. */
import { deflateSync, gzipSync } from 'node:zlib';
import type { Layout } from './layouts';
import type { Story, StoryMessage } from './story';

const person = (s: Story, id: number) => s.people[id - 1]!;
const talkOf = (s: Story, m: StoryMessage) => s.talks[m.talk]!;

/** Rows of one table known by a number, the text in one column. */
function keyed(
	name: string,
	table: string,
	key: string,
	column: string,
	encode: (text: string, s: Story, m: StoryMessage) => unknown,
	rest: Omit<Layout, 'name' | 'remove' | 'edit'>
): Layout {
	return {
		name,
		...rest,
		remove: (db, _s, m) => db.run(`delete from ${table} where ${key}=?`, [m.id]),
		edit: (db, s, m, text) => db.run(`update ${table} set ${column}=? where ${key}=?`, [encode(text, s, m), m.id])
	};
}
const asIs = (text: string): string => text;

/** A remote address for thread and partner alike; in groups the writer stands apart. */
const remoteAddress = keyed('remote-and-participant', 'note', 'nid', 'data', asIs, {
	groups: true,
	address: 'handle',
	setUp: (db, s) => {
		db.exec(
			'create table note(nid integer primary key autoincrement, remote text, from_me integer, participant text, data text, stamp integer, status integer); create table names(addr text primary key, shown text)'
		);
		for (const p of s.people) db.run('insert into names values(?,?)', [p.handle, p.name]);
		for (const t of s.talks)
			if (t.members.length > 1) db.run('insert into names values(?,?)', [`${t.guid.slice(0, 12)}@rooms.example`, t.title]);
	},
	insert: (db, s, m) => {
		const t = talkOf(s, m);
		const group = t.members.length > 1;
		return db.run('insert into note values(?,?,?,?,?,?,?)', [
			m.id,
			group ? `${t.guid.slice(0, 12)}@rooms.example` : person(s, t.members[0]!).handle,
			m.writer === 0 ? 1 : 0,
			group && m.writer !== 0 ? person(s, m.writer).handle : null,
			m.text,
			m.at,
			m.writer === 0 ? 5 : 0
		]);
	}
});

/** Direction in words, time as written text, one table. */
const wordy = keyed('direction-in-words', 'correspondence', 'no', 'wording', asIs, {
	groups: false,
	address: 'number',
	setUp: (db) => db.exec('create table correspondence(no integer primary key, way text, party text, wording text, "when" text)'),
	insert: (db, s, m) =>
		db.run('insert into correspondence values(?,?,?,?,?)', [
			m.id,
			m.writer === 0 ? 'sent' : 'received',
			person(s, talkOf(s, m).members[0]!).number,
			m.text,
			new Date(m.at).toISOString()
		])
});

/** Messages, calls and system lines in one table, told apart by a kind. */
const kinds = keyed('kinds-in-one-table', 'event', 'id', 'detail', asIs, {
	groups: false,
	address: 'number',
	setUp: (db, s) => {
		db.exec('create table event(id integer primary key autoincrement, kind text, who text, detail text, at real, out integer)');
		for (let i = 0; i < 60; i++)
			db.run('insert into event values(?,?,?,?,?,?)', [
				100_000 + i,
				'call',
				person(s, 1 + (i % 4)).number,
				String(30 + i * 7),
				s.messages[i]!.at / 1000 + 7,
				i % 2
			]);
	},
	insert: (db, s, m) =>
		db.run('insert into event values(?,?,?,?,?,?)', [
			m.id,
			'text',
			person(s, talkOf(s, m).members[0]!).number,
			m.text,
			m.at / 1000,
			m.writer === 0 ? 1 : 0
		])
});

const threaded = (name: string, encode: (text: string) => unknown): Layout =>
	keyed(name, 'line', 'id', 'payload', (t) => encode(t), {
		groups: true,
		address: 'number',
		setUp: (db, s) => {
			db.exec(
				'create table party(id integer primary key, number text, name text); create table talk(id integer primary key, title text); create table talk_party(talk integer, party integer); create table line(id integer primary key autoincrement, talk integer, sender integer, payload blob, at integer, mine integer)'
			);
			for (const p of s.people) db.run('insert into party values(?,?,?)', [p.id, p.number, p.name]);
			for (const t of s.talks) {
				db.run('insert into talk values(?,?)', [t.id, t.title]);
				for (const m of t.members) db.run('insert into talk_party values(?,?)', [t.id, m]);
			}
		},
		insert: (db, _s, m) =>
			db.run('insert into line values(?,?,?,?,?,?)', [m.id, m.talk + 1, m.writer || null, encode(m.text), m.at, m.writer === 0 ? 1 : 0])
	});

const escaped = (t: string): string => t.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('\n', '<br/>');
const markup = threaded('body-as-markup', (t) => `<msg v="2"><body>${escaped(t)}</body></msg>`);
const zipped = threaded('body-deflated', (t) => deflateSync(Buffer.from(t, 'utf8')));
const gzipped = threaded('body-gzipped', (t) => gzipSync(Buffer.from(t, 'utf8')));

function varint(n: number): Buffer {
	const out: number[] = [];
	for (let rest = n; ; rest = Math.floor(rest / 128)) {
		if (rest < 128) {
			out.push(rest);
			return Buffer.from(out);
		}
		out.push((rest % 128) | 128);
	}
}
/** Tagged fields with lengths: a number, the text, another number. */
const tagged = threaded('body-length-prefixed', (t) => {
	const bytes = Buffer.from(t, 'utf8');
	return Buffer.concat([Buffer.from([0x08, 0x01, 0x12]), varint(bytes.length), bytes, Buffer.from([0x18, 0x2a])]);
});
const wide = threaded('body-length-prefixed-32', (t) => {
	const bytes = Buffer.from(t, 'utf8');
	const head = Buffer.alloc(8);
	head.writeUInt32BE(0x4d534731, 0);
	head.writeUInt32BE(bytes.length, 4);
	return Buffer.concat([head, bytes, Buffer.from([0, 0, 0, 1])]);
});

/** Recipients in a table of their own, by role. */
const roles: Layout = {
	name: 'recipients-by-role',
	groups: false,
	address: 'handle',
	setUp: (db, s) => {
		db.exec(
			'create table mail(id integer primary key autoincrement, thread_id integer, subject text, body text, sent integer, folder text); create table mail_party(mail_id integer, contact_id integer, role text); create table contact(id integer primary key, email text, name text)'
		);
		db.run('insert into contact values(?,?,?)', [90, s.owner.handle, s.owner.name]);
		for (const p of s.people) db.run('insert into contact values(?,?,?)', [p.id, p.handle, p.name]);
	},
	insert: (db, s, m) => {
		const other = talkOf(s, m).members[0]!;
		db.run('insert into mail values(?,?,?,?,?,?)', [m.id, m.talk + 1, null, m.text, m.at / 1000, m.writer === 0 ? 'sent' : 'inbox']);
		db.run('insert into mail_party values(?,?,?)', [m.id, m.writer === 0 ? 90 : other, 'from']);
		return db.run('insert into mail_party values(?,?,?)', [m.id, m.writer === 0 ? other : 90, 'to']);
	},
	remove: (db, _s, m) => {
		db.run('delete from mail where id=?', [m.id]);
		return db.run('delete from mail_party where mail_id=?', [m.id]);
	},
	edit: (db, _s, m, text) => db.run('update mail set body=? where id=?', [text, m.id])
};

/** Participants as a list in the thread's row; the sender by name of the key. */
const listed = keyed('participants-as-list', 'post', 'id', 'content', asIs, {
	groups: true,
	address: 'number',
	setUp: (db, s) => {
		db.exec(
			'create table post(id integer primary key autoincrement, room text, author text, content text, created integer); create table rooms(key text primary key, people text, label text)'
		);
		for (const t of s.talks)
			db.run('insert into rooms values(?,?,?)', [
				t.guid,
				JSON.stringify([s.owner.number, ...t.members.map((id) => person(s, id).number)]),
				t.title
			]);
	},
	insert: (db, s, m) =>
		db.run('insert into post values(?,?,?,?,?)', [
			m.id,
			talkOf(s, m).guid,
			m.writer === 0 ? s.owner.number : person(s, m.writer).number,
			m.text,
			m.at
		])
});

export const MORE_LAYOUTS: readonly Layout[] = [remoteAddress, wordy, kinds, markup, zipped, gzipped, tagged, wide, roles, listed];

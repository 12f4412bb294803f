/**
 * Layouts of other habits: objects with a table that counts their keys, participants listed for each conversation anew,
 * boxes of the same types with their texts as HTML, files as messages of their own in a table without texts, whole
 * conversations as documents written anew, addresses with the device behind them.
 */
import { createHash } from 'node:crypto';
import type { Engine } from './engine';
import { insertInto, OWNER, type Composer, type Draft, type Layout } from './plainly';

const OF_ALL = { groups: true, bin: false, named: true, counted: false, address: 'number', listed: false } as const;
const digestOf = (n: number): string => createHash('md5').update(`key ${n}`).digest('hex').slice(0, 20);
const ownKey = 5;
const writer = (m: Draft): number => m.who?.i ?? ownKey;
const htmlOf = (text: string | null): string | null =>
	text === null ? null : `<p>${text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('\n', '<br>')}</p>`;

/** The next key of an entity, noted in the table that counts them. */
function nextKey(db: Engine, entity: string): number {
	db.run('update o_keys set highest=highest+1 where entity=?', [entity]);
	return Number(db.all('select highest from o_keys where entity=?', [entity])[0]!['highest']);
}

/** Whole conversations, by the store they are written to. */
const documents = new WeakMap<
	Composer,
	Map<number, { id: string; title: string | null; members: object[]; messages: Record<string, unknown>[] }>
>();

function documentOf(s: Composer, m: Draft): { id: string; messages: Record<string, unknown>[] } {
	const all = documents.get(s) ?? new Map();
	documents.set(s, all);
	if (!all.has(m.room.i))
		all.set(m.room.i, {
			id: digestOf(m.room.i),
			title: m.room.title,
			members: m.room.members.map((p) => ({ phone: p.number, displayName: p.name })),
			messages: []
		});
	return all.get(m.room.i)!;
}

function writeDocument(db: Engine, s: Composer, m: Draft, at: number): void {
	const one = documentOf(s, m);
	db.run('insert or replace into threads values(?,?,?)', [one.id, at, JSON.stringify(one)]);
}
const composers = new WeakMap<Draft, Composer>();

export const RARER: Record<string, Layout> = {
	objects: {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table o_keys(ent integer primary key, entity text, highest integer);
				create table o_message(o_pk integer primary key, o_ent integer, o_opt integer, state integer, chat integer, author integer, file integer, sent_on, body text, uid blob);
				create table o_chat(o_pk integer primary key, o_ent integer, o_opt integer, kind integer, last_on, title text);
				create table o_person(o_pk integer primary key, o_ent integer, o_opt integer, is_me integer, phone text, first_name text, last_name text);
				create table o_file(o_pk integer primary key, o_ent integer, o_opt integer, size integer, message integer, path text, mime text);
				create table o_2members(o_2chats integer, o_4members integer, primary key(o_2chats, o_4members))`);
			for (const [i, entity] of ['message', 'chat', 'person', 'file'].entries()) db.run(insertInto('o_keys', 3), [i + 1, entity, 0]);
			const persons = [{ i: ownKey, name: 'Hedda Lindqvist', number: OWNER }, ...s.people];
			for (const p of persons) db.run(insertInto('o_person', 7), [p.i, 3, 1, Number(p.i === ownKey), p.number, ...p.name.split(' ')]);
			db.run('update o_keys set highest=? where entity=?', [Math.max(...persons.map((p) => p.i)), 'person']);
			for (const room of s.rooms) {
				db.run(insertInto('o_chat', 6), [room.i, 2, 1, room.title ? 1 : 0, null, room.title]);
				for (const p of [...room.members.map((member) => member.i), ownKey]) db.run(insertInto('o_2members', 2), [room.i, p]);
			}
		},
		write: (db, s, m) => {
			const pk = nextKey(db, 'message');
			const file = m.file ? nextKey(db, 'file') : null;
			m.id = [pk];
			if (m.file) db.run(insertInto('o_file', 7), [file, 4, 1, m.file.bytes.length, pk, m.file.path, m.file.type]);
			const values = [pk, 1, (m.n % 3) + 1, m.n % 4, m.room.i, writer(m), file, s.time(m.at), m.text, digestOf(m.n)];
			db.run(insertInto('o_message', 10), values);
			db.run('update o_chat set o_opt=o_opt+1, last_on=? where o_pk=?', [s.time(m.at), m.room.i]);
		},
		row: () => ['o_message', 'o_pk=?', 'body'],
		more: ['o_file where message=?']
	},
	participants: {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table contact(id integer primary key, name text, address text unique);
				create table conversation(id integer primary key, subject text, opened);
				create table participant(id integer primary key, conversation_id integer references conversation(id), contact_id integer references contact(id), is_self integer);
				create table message(id integer primary key, conversation_id integer references conversation(id), participant_id integer references participant(id), at, body text, path text)`);
			for (const p of [{ i: ownKey, name: 'Hedda Lindqvist', number: OWNER }, ...s.people])
				db.run(insertInto('contact', 3), [p.i, p.name, p.number]);
			for (const room of s.rooms) {
				db.run(insertInto('conversation', 3), [room.i, room.title, s.time(Date.UTC(2025, 0, 1))]);
				for (const p of [ownKey, ...room.members.map((member) => member.i)])
					db.run(insertInto('participant', 4), [room.i * 100 + p, room.i, p, Number(p === ownKey)]);
			}
		},
		write: (db, s, m) => {
			const values = [null, m.room.i, m.room.i * 100 + writer(m), s.time(m.at), m.text, m.file?.path ?? null];
			m.id = [db.run(insertInto('message', 6), values).lastInsertRowid];
		},
		row: () => ['message', 'id=?', 'body']
	},
	'alike boxes': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table received(n integer primary key autoincrement, sender_number text, sender_name text, room integer, at, html text, file text);
				create table sent(n integer primary key autoincrement, recipient_number text, recipient_name text, room integer, at, html text, file text);
				create table room(n integer primary key, title text, numbers text)`);
			for (const room of s.rooms)
				if (room.title) db.run(insertInto('room', 3), [room.i, room.title, room.members.map((p) => p.number).join(' ')]);
		},
		write: (db, s, m) => {
			const other = m.who ?? (m.room.title ? null : m.room.members[0]!);
			const box = m.who ? 'received' : 'sent';
			const room = m.room.title ? m.room.i : null;
			const values = [null, other?.number ?? null, other?.name ?? null, room, s.time(m.at), htmlOf(m.text), m.file?.path ?? null];
			m.id = [db.run(insertInto(box, 7), values).lastInsertRowid];
		},
		row: (m) => [m.who ? 'received' : 'sent', 'n=?', 'html'],
		edited: (text) => htmlOf(text)!
	},
	'files alone': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table account(id integer primary key, number text, display text, mine integer);
				create table texts(uid text primary key, account integer, chat integer, at, body text, seen integer);
				create table pictures(uid text primary key, account integer, chat integer, at, file_path text, media_type text, bytes integer);
				create table chat(id integer primary key, name text, accounts text)`);
			for (const p of [{ i: ownKey, name: 'Hedda Lindqvist', number: OWNER }, ...s.people])
				db.run(insertInto('account', 4), [p.i, p.number, p.name, Number(p.i === ownKey)]);
			for (const room of s.rooms)
				db.run(insertInto('chat', 3), [room.i, room.title ?? '', JSON.stringify([ownKey, ...room.members.map((p) => p.i)])]);
		},
		write: (db, s, m) => {
			const uid = digestOf(m.n);
			m.id = [uid];
			const values = [uid, writer(m), m.room.i, s.time(m.at)];
			if (m.text !== null) db.run(insertInto('texts', 6), [...values, m.text, 1]);
			if (m.file) db.run(insertInto('pictures', 7), [...values, m.file.path, m.file.type, m.file.bytes.length]);
		},
		row: () => ['texts', 'uid=?', 'body'],
		more: ['pictures where uid=?']
	},
	documents: {
		...OF_ALL,
		setUp: (db) => {
			db.exec(`create table threads(id text primary key, updated integer, doc text);
				create table profile(key text primary key, value text)`);
			db.run(insertInto('profile', 2), ['me', JSON.stringify({ phone: OWNER, displayName: 'Hedda Lindqvist' })]);
		},
		write: (db, s, m) => {
			composers.set(m, s);
			const entry: Record<string, unknown> = { id: digestOf(m.n), sender: m.who?.number ?? OWNER, sentAt: m.at, body: m.text };
			if (m.file) entry['attachments'] = [{ fileName: m.file.name, mime: m.file.type, bytes: m.file.bytes.length, path: m.file.path }];
			documentOf(s, m).messages.push(entry);
			writeDocument(db, s, m, m.at);
		},
		row: () => ['threads', 'id=?', 'doc'],
		edit: (db, m, text, at, s) => {
			documentOf(s, m).messages.find((entry) => entry['id'] === digestOf(m.n))!['body'] = text;
			writeDocument(db, s, m, at);
		},
		remove: (db, m, at) => {
			const s = composers.get(m)!;
			const one = documentOf(s, m);
			one.messages = one.messages.filter((entry) => entry['id'] !== digestOf(m.n));
			writeDocument(db, s, m, at);
		}
	},
	devices: {
		...OF_ALL,
		groups: false,
		address: 'mail',
		setUp: (db, s) => {
			db.exec(`create table contacts(address text primary key, nick text, sub text);
				create table log(id integer primary key, stanza text, "from" text, "to" text, at, body text, path text)`);
			for (const p of s.people) db.run(insertInto('contacts', 3), [p.mail, p.name, 'both']);
		},
		write: (db, s, m) => {
			const [own, other] = ['hedda@desk.example/', m.room.members[0]!.mail].map((a, i) =>
				i === 0 ? `${a}q${m.n % 2}` : `${a}/pad${m.n % 3}`
			);
			const [from, to] = m.who ? [other!, own!.split('/')[0]!] : [own!, m.n % 4 ? other! : m.room.members[0]!.mail];
			const values = [null, digestOf(m.n).slice(0, 10), from, to, s.time(m.at), m.text, m.file?.path ?? null];
			m.id = [db.run(insertInto('log', 7), values).lastInsertRowid];
		},
		row: () => ['log', 'id=?', 'body']
	}
};

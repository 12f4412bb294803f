/**
 * Layouts in which what is known of a message stands in several tables: parts of a picture message, joins that have a time
 * of their own, letters with a row for everybody they are to, a log of what became of each message, a table for each
 * conversation with the writers' keys at the head of the texts.
 */
import { createHash } from 'node:crypto';
import type { Engine } from './engine';
import { insertInto, OWNER, type Cell, type Composer, type Draft, type Layout } from './plainly';

const md5 = (text: string): string => createHash('md5').update(text).digest('hex');
const guid = (n: number): string => md5(`row ${n}`).replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');
/** The fields "From" and "To" of a picture message (OMA-TS-MMS-ENC, section 7.4, table 25). */
const [FROM, TO] = [0x89, 0x97];

const OF_EVENTS = { groups: true, bin: false, named: true, counted: false, address: 'number', removes: 'binned' } as const;

const everybody = (s: Composer): { i: number; name: string; number: string }[] => [
	...s.people,
	{ i: 99, name: 'Owen Farrow', number: OWNER }
];

/** A row of a table of events whose content is JSON, and its number. */
const addEvent = (db: Engine, m: Draft, sender: number, kind: string, at: number, content: object): number =>
	Number(db.run(insertInto('events', 6), [null, m.room.i, sender, kind, at, JSON.stringify(content)]).lastInsertRowid);

export const JOINED: Record<string, Layout> = {
	parts: {
		groups: false,
		bin: false,
		named: false,
		counted: false,
		address: 'number',
		edits: false,
		setUp: (db, s) => {
			db.exec(`create table address(_id integer primary key, address text);
				create table thread(_id integer primary key, recipients text, count integer, last integer, snippet text);
				create table text_item(_id integer primary key, thread integer, peer text, stamp integer, stamp_sent integer, box integer, body text);
				create table pic_item(_id integer primary key, thread integer, stamp integer, box integer, subject text, tr text);
				create table pic_addr(_id integer primary key, pic integer, address text, role integer);
				create table pic_part(_id integer primary key, pic integer, seq integer, ct text, name text, data_path text, txt text)`);
			for (const room of s.rooms) {
				const [p] = room.members;
				db.run(insertInto('address', 2), [p!.i, p!.number]);
				db.run(insertInto('thread', 5), [room.i + 40, String(p!.i), 0, 0, null]);
			}
		},
		write: (db, _, m) => {
			const { number } = m.room.members[0]!;
			const thread = m.room.i + 40;
			const box = m.who ? 1 : 2;
			db.run('update thread set count=count+1, last=?, snippet=? where _id=?', [m.at, m.text, thread]);
			if (!m.file) {
				m.id = [db.run(insertInto('text_item', 7), [null, thread, number, m.at, m.who ? m.at - 900 : 0, box, m.text]).lastInsertRowid];
				return;
			}
			// Pictures have a coarser clock.
			m.at = Math.floor(m.at / 1000) * 1000;
			m.id = [db.run(insertInto('pic_item', 6), [null, thread, m.at / 1000, box, null, md5(String(m.n)).slice(0, 12)]).lastInsertRowid];
			const [from, to] = m.who ? [number, OWNER] : [OWNER, number];
			db.run(insertInto('pic_addr', 4), [null, m.id[0]!, from, FROM]);
			db.run(insertInto('pic_addr', 4), [null, m.id[0]!, to, TO]);
			db.run(insertInto('pic_part', 7), [null, m.id[0]!, 0, m.file.type, m.file.name, m.file.path, null]);
			if (m.text !== null) db.run(insertInto('pic_part', 7), [null, m.id[0]!, 1, 'text/plain', 'text.txt', null, m.text]);
		},
		row: (m) => [m.file ? 'pic_item' : 'text_item', '_id=?', 'body'],
		remove: (db, m) => {
			db.run(`delete from ${m.file ? 'pic_item' : 'text_item'} where _id=?`, m.id);
			if (m.file) for (const table of ['pic_addr', 'pic_part']) db.run(`delete from ${table} where pic=?`, m.id);
		}
	},
	joins: {
		groups: true,
		bin: true,
		named: true,
		counted: true,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table handle(id integer primary key, address text, label text);
				create table dialog(id integer primary key, guid text, style integer, name text);
				create table dialog_handle(dialog integer, handle integer);
				create table dialog_msg(dialog integer, msg integer, at);
				create table msg(id integer primary key autoincrement, guid text unique, words text, handle integer, sent, got, mine integer, binned_at);
				create table att(id integer primary key, guid text, file text, mime text, bytes integer, shown text);
				create table msg_att(msg integer, att integer);
				create virtual table msg_search using fts5(words)`);
			for (const p of s.people) db.run(insertInto('handle', 3), [p.i - 10, p.number, p.name]);
			for (const room of s.rooms) {
				db.run(insertInto('dialog', 4), [room.i, guid(room.i * 1e6), room.title === null ? 45 : 43, room.title]);
				for (const p of room.members) db.run(insertInto('dialog_handle', 2), [room.i, p.i - 10]);
			}
		},
		write: (db, s, m) => {
			const handle = m.who ?? (m.room.title === null ? m.room.members[0]! : null);
			const values: Cell[] = [
				null,
				guid(m.n),
				m.text,
				handle ? handle.i - 10 : 0,
				s.time(m.at),
				m.who ? s.time(m.at + 400) : 0,
				m.who ? 0 : 1,
				null
			];
			m.id = [db.run(insertInto('msg', 8), values).lastInsertRowid];
			db.run(insertInto('dialog_msg', 3), [m.room.i, m.id[0]!, s.time(m.at)]);
			if (m.text !== null) db.run('insert into msg_search(rowid, words) values(?,?)', [m.id[0]!, m.text]);
			if (!m.file) return;
			const { path, type, bytes, name } = m.file;
			const att = db.run(insertInto('att', 6), [null, guid(m.n + 1e5), `~/${path}`, type, bytes.length, name]).lastInsertRowid;
			db.run(insertInto('msg_att', 2), [m.id[0]!, att]);
		},
		row: () => ['msg', 'id=?', 'words'],
		binned: 'binned_at=1',
		more: ['dialog_msg where msg=?', 'msg_search where rowid=?', 'msg_att where msg=?']
	},
	heads: {
		groups: true,
		bin: false,
		named: true,
		counted: false,
		address: 'number',
		edits: false,
		setUp: (db, s) => {
			db.exec(
				'create table friend(uid text primary key, nick text, phone text); create table session(uid text primary key, last text, at)'
			);
			for (const p of s.people) db.run(insertInto('friend', 3), [`u${md5(p.name).slice(0, 9)}`, p.name, p.number]);
			for (const room of s.rooms) {
				room.key = room.title === null ? `u${md5(room.members[0]!.name).slice(0, 9)}` : `g${md5(room.title).slice(0, 9)}`;
				if (room.title !== null) db.run(insertInto('friend', 3), [room.key, room.title, null]);
				db.run(insertInto('session', 3), [room.key, '', 0]);
				db.exec(`create table talk_${md5(room.key)}(local integer primary key, at, des integer, status integer, content text, file text)`);
			}
		},
		write: (db, s, m) => {
			const head = m.who && m.room.title !== null ? `u${md5(m.who.name).slice(0, 9)}:\n` : '';
			const content = m.text === null && head === '' ? null : `${head}${m.text ?? ''}`;
			const values: Cell[] = [null, s.time(m.at), m.who ? 1 : 0, 2 + (m.n % 3), content, m.file?.path ?? null];
			m.id = [db.run(insertInto(`talk_${md5(m.room.key)}`, 6), values).lastInsertRowid];
			db.run('update session set last=?, at=? where uid=?', [m.text, s.time(m.at), m.room.key]);
		},
		row: (m) => [`talk_${md5(m.room.key)}`, 'local=?', 'content'],
		listed: false,
		needsGroup: true
	},
	log: {
		...OF_EVENTS,
		setUp: (db, s) => {
			db.exec(`create table actor(id text primary key, name text, phone text, me integer);
				create table chat(id text primary key, topic text);
				create table chat_actor(chat text, actor text);
				create table log(seq integer primary key autoincrement, kind text, msg text, chat text, author text, at integer, content text, file text)`);
			for (const p of everybody(s)) db.run(insertInto('actor', 4), [md5(String(p.i)), p.name, p.number, p.i === 99 ? 1 : 0]);
			for (const room of s.rooms) {
				room.key = `chat-${md5(room.key).slice(0, 12)}`;
				db.run(insertInto('chat', 2), [room.key, room.title]);
				for (const i of [99, ...room.members.map((p) => p.i)]) db.run(insertInto('chat_actor', 2), [room.key, md5(String(i))]);
			}
		},
		write: (db, _, m) => {
			m.id = [md5(`message ${m.n}`)];
			const add = (kind: string, who: number, at: number, content: string | null, file: string | null): void =>
				void db.run(insertInto('log', 8), [null, kind, m.id[0]!, m.room.key, md5(String(who)), at, content, file]);
			add('posted', m.who?.i ?? 99, m.at, m.text, m.file?.path ?? null);
			if (m.n % 5 === 0) add('read', m.room.members[0]!.i, m.at + 900, null, null);
			if (m.n % 9 === 0) add('reacted', m.room.members[0]!.i, m.at + 950, m.n % 2 === 0 ? '👍' : '❤️', null);
		},
		row: () => ['log', 'msg=?', 'content'],
		edit: (db, m, text, at) =>
			void db.run(insertInto('log', 8), [null, 'edited', m.id[0]!, m.room.key, md5(String(m.who?.i ?? 99)), at, text, null]),
		remove: (db, m, at) =>
			void db.run(insertInto('log', 8), [null, 'removed', m.id[0]!, m.room.key, md5(String(m.who?.i ?? 99)), at, null, null])
	},
	ledgered: {
		...OF_EVENTS,
		setUp: (db, s) => {
			db.exec(`create table users(id integer primary key, name text, phone text, is_me integer);
				create table rooms(id integer primary key, title text);
				create table room_users(room integer, user integer);
				create table events(seq integer primary key autoincrement, room integer, sender integer, kind text, ts integer, content text)`);
			for (const p of everybody(s)) db.run(insertInto('users', 4), [p.i, p.name, p.number, p.i === 99 ? 1 : 0]);
			for (const room of s.rooms) {
				db.run(insertInto('rooms', 2), [room.i, room.title]);
				for (const i of [99, ...room.members.map((p) => p.i)]) db.run(insertInto('room_users', 2), [room.i, i]);
			}
		},
		write: (db, _, m) => {
			const post = { body: m.text, ...(m.file ? { file: { path: m.file.path, mime: m.file.type, size: m.file.bytes.length } } : {}) };
			m.id = [addEvent(db, m, m.who?.i ?? 99, 'post', m.at, post)];
			if (m.n % 5 === 0) addEvent(db, m, m.room.members[0]!.i, 'seen', m.at + 900, { about: m.id[0]! });
		},
		row: () => ['events', 'seq=?', 'content'],
		edit: (db, m, text, at) => void addEvent(db, m, m.who?.i ?? 99, 'amend', at, { about: m.id[0]!, body: text }),
		remove: (db, m, at) => void addEvent(db, m, m.who?.i ?? 99, 'remove', at, { about: m.id[0]! })
	},
	letters: {
		groups: true,
		bin: true,
		named: true,
		counted: false,
		address: 'mail',
		edits: false,
		setUp: (db) =>
			db.exec(`create table folder(id integer primary key, name text, kind integer);
				insert into folder values(1, 'Inbox', 0), (2, 'Sent', 1), (3, 'Drafts', 2), (4, 'Bin', 3);
				create table letter(id integer primary key, folder integer, subject text, sent, body text, size integer, message_id text);
				create table recipient(letter integer, role text, address text, shown text);
				create table piece(id integer primary key, letter integer, file text, mime text, bytes integer, path text)`),
		write: (db, s, m) => {
			const subject = m.room.title ?? `About ${['keys', 'pump', 'lift'][m.n % 3]!}`;
			const values: Cell[] = [null, m.who ? 1 : 2, subject, s.time(m.at), m.text, (m.text ?? '').length, `<${guid(m.n)}@desk.example>`];
			m.id = [db.run(insertInto('letter', 7), values).lastInsertRowid];
			const owner = { i: 99, name: 'Owen Farrow', mail: 'owen@desk.example' };
			const add = (role: string, p: { mail: string; name: string }): void =>
				void db.run(insertInto('recipient', 4), [m.id[0]!, role, p.mail, p.name]);
			add('from', m.who ?? owner);
			for (const p of [owner, ...m.room.members].filter((one) => one.i !== (m.who?.i ?? 99))) add('to', p);
			if (m.file) db.run(insertInto('piece', 6), [null, m.id[0]!, m.file.name, m.file.type, m.file.bytes.length, m.file.path]);
		},
		row: () => ['letter', 'id=?', 'body'],
		binned: 'folder=4',
		more: ['recipient where letter=?', 'piece where letter=?']
	},
	keyed: {
		groups: true,
		bin: true,
		named: true,
		counted: true,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table contact(id integer primary key, jid text unique, phone text, saved_name text);
				create table chat(id integer primary key, jid text, subject text, created, last_message integer);
				create table member(chat integer, contact integer, admin integer);
				create table message(id integer primary key autoincrement, chat integer, sender integer, own integer, key_id text, at, type integer, body text,
					quoted_key text, quoted_body text, revoked_at);
				create table media(message integer primary key, path text, mime text, size integer, w integer, h integer);
				create table receipt(message integer, contact integer, delivered, seen);
				create table starred(message integer, chat integer, body text, at);
				create table history(message integer, body text, at);
				create table outgoing_queue(id integer primary key, target text, payload text, tries integer, next_at)`);
			for (const p of s.people) db.run(insertInto('contact', 4), [p.i - 10, `${p.number.slice(1)}@chat.example`, p.number, p.name]);
			for (const room of s.rooms) {
				const jid = room.title === null ? `${room.members[0]!.number.slice(1)}@chat.example` : `9${room.i}77120431@group.example`;
				db.run(insertInto('chat', 5), [room.i, jid, room.title, s.time(Date.UTC(2025, 1, 1)), 0]);
				for (const p of room.members) db.run(insertInto('member', 3), [room.i, p.i - 10, 0]);
			}
			db.run(insertInto('outgoing_queue', 5), [
				null,
				s.people[0]!.number,
				'This one was never sent, it waits',
				2,
				s.time(Date.UTC(2026, 1, 1))
			]);
		},
		write: (db, s, m) => {
			const type = m.file ? 1 : 0;
			const key = guid(m.n).toUpperCase();
			const values: Cell[] = [
				null,
				m.room.i,
				m.who ? m.who.i - 10 : null,
				m.who ? 0 : 1,
				key,
				s.time(m.at),
				type,
				m.text,
				null,
				null,
				null
			];
			m.id = [db.run(insertInto('message', 11), values).lastInsertRowid];
			if (m.file) db.run(insertInto('media', 6), [m.id[0]!, m.file.path, m.file.type, m.file.bytes.length, 640, 480]);
			if (!m.who)
				for (const p of m.room.members) db.run(insertInto('receipt', 4), [m.id[0]!, p.i - 10, s.time(m.at + 900), s.time(m.at + 5000)]);
			if (m.n % 19 === 4 && m.text !== null && m.deletedAt === null && m.edits.length === 0)
				db.run(insertInto('starred', 4), [m.id[0]!, m.room.i, m.text, s.time(m.at + 60_000)]);
			db.run('update chat set last_message=? where id=?', [m.id[0]!, m.room.i]);
		},
		row: () => ['message', 'id=?', 'body'],
		edit: (db, m, text, at, s) => {
			db.run('insert into history select id, body, ? from message where id=?', [s.time(at), m.id[0]!]);
			db.run('update message set body=? where id=?', [text, m.id[0]!]);
		},
		binned: 'revoked_at=1',
		more: ['media where message=?', 'receipt where message=?', 'history where message=?']
	}
};

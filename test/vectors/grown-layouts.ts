/**
 * Layouts of programs that grew for years: both ends of a message by number with groups among them, the room in the place of
 * the writer, captions kept with the files, lists in the place of texts, messages as they were sent over the wire, files
 * numbered as their messages are, parameters by turns.
 */
import { createHash } from 'node:crypto';
import type { Engine } from './engine';
import { insertInto, OWNER, type Cell, type Composer, type Draft, type Layout } from './plainly';

const OF_ALL = { groups: true, bin: false, named: true, counted: false, address: 'number', listed: false, edits: false } as const;
const digestOf = (what: string): string => createHash('md5').update(what).digest('hex');
const OWN = 1;
const OWN_ID = 910_001;
const GROUPS = 4000;
const groupOf = (m: Draft): number => GROUPS + m.room.i;
const accountOf = (m: Draft): string => (m.room.title ? `g${m.room.i}@rooms.example` : m.room.members[0]!.account);
const idOf = (i: number): number => 200_000 + i * 7919;
const jidOf = (number: string): string => `${number.slice(1)}@chat.example`;

/** A length in one byte, or 0xfe and three, the letters, and noughts up to a multiple of four bytes. */
function counted(text: string): Buffer {
	const letters = Buffer.from(text);
	const head = letters.length < 254 ? Buffer.of(letters.length) : Buffer.of(254, letters.length & 255, letters.length >> 8, 0);
	const whole = Buffer.concat([head, letters]);
	return Buffer.concat([whole, Buffer.alloc(-whole.length & 3)]);
}

function words(...numbers: number[]): Buffer {
	const bytes = Buffer.alloc(numbers.length * 4);
	numbers.forEach((n, i) => bytes.writeUInt32LE(n >>> 0, i * 4));
	return bytes;
}

/** A row for each person. */
const list = (db: Engine, table: string, s: Composer, of: (p: Composer['people'][number]) => Cell[]): void =>
	s.people.map(of).forEach((row) => db.run(insertInto(table, row.length), row));

const authorOf = (p: Composer['people'][number]): { id: string; username: string; global_name: string } => ({
	id: digestOf(p.number).slice(0, 18),
	username: p.handle,
	global_name: p.name
});
const OWN_AUTHOR = { id: 'u_owen77', username: 'owen', global_name: 'Owen Farrow' };

export const GROWN: Record<string, Layout> = {
	'both ends': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table message(_id integer primary key autoincrement, sent_at, thread_id integer, from_recipient integer, to_recipient integer, body text, quote_author integer, quote_body text);
				create table recipient(_id integer primary key, e164 text, group_id text, book_name text, profile_name text);
				create table thread(_id integer primary key, recipient_id integer);
				create table groups(_id integer primary key, group_id text, title text);
				create table group_member(_id integer primary key, group_id text, recipient_id integer);
				create table attachment(_id integer primary key autoincrement, message_id integer, content_type text, data_file text, data_size integer)`);
			db.run(insertInto('recipient', 5), [OWN, OWNER, null, null, 'Owen F']);
			list(db, 'recipient', s, (p) => [p.i, p.number, null, p.i % 2 ? p.name : null, p.i % 2 ? `zz${p.handle}` : p.name]);
			for (const room of s.rooms) {
				db.run(insertInto('thread', 2), [room.i, room.title ? GROUPS + room.i : room.members[0]!.i]);
				if (!room.title) continue;
				db.run(insertInto('recipient', 5), [GROUPS + room.i, null, `__g__${room.key}`, null, null]);
				db.run(insertInto('groups', 3), [null, `__g__${room.key}`, room.title]);
				for (const i of [OWN, ...room.members.map((p) => p.i)]) db.run(insertInto('group_member', 3), [null, `__g__${room.key}`, i]);
			}
		},
		write: (db, s, m) => {
			const other = m.room.title ? groupOf(m) : m.room.members[0]!.i;
			const to = m.who && !m.room.title ? OWN : other;
			const quoted = m.n % 6 === 5 ? [m.room.members[0]!.i, 'what was said before'] : [0, null];
			const values = [null, s.time(m.at), m.room.i, m.who?.i ?? OWN, to, m.text, ...quoted];
			m.id = [db.run(insertInto('message', 8), values).lastInsertRowid];
			if (m.file) db.run(insertInto('attachment', 5), [null, m.id[0], m.file.type, m.file.path, m.file.bytes.length]);
		},
		row: () => ['message', '_id=?', 'body'],
		more: ['attachment where message_id=?']
	},
	'the room in the place of the writer': {
		...OF_ALL,
		address: 'account',
		setUp: (db, s) => {
			db.exec(`create table contacts(_id integer primary key, jid text, display text);
				create table messages(_id integer primary key autoincrement, body text, partner text, was_me integer, at, bin text, content text);
				create table content(_id integer primary key autoincrement, content text, kind integer, name text, value text)`);
			list(db, 'contacts', s, (p) => [null, p.account, p.name]);
			for (const room of s.rooms) if (room.title) db.run(insertInto('contacts', 3), [null, `g${room.i}@rooms.example`, room.title]);
		},
		write: (db, s, m) => {
			const bin = accountOf(m);
			const content = m.file ? digestOf(m.file.path).slice(0, 12) : null;
			const values = [null, m.text, m.who?.account ?? bin, m.who ? 0 : 1, s.time(m.at), bin, content];
			m.id = [db.run(insertInto('messages', 7), values).lastInsertRowid];
			if (!m.file) return;
			for (const [name, value] of [
				['app-name', 'Camera'],
				['file-name', m.file.name],
				['file-size', String(m.file.bytes.length)]
			])
				db.run(insertInto('content', 5), [null, content, 1, name, value]);
		},
		row: () => ['messages', '_id=?', 'body']
	},
	'captions with the files': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table xmessage(x_pk integer primary key, x_ent integer, from_me integer, xsession integer, xmember integer, xmedia integer, xdate, xfrom text, xto text, xtext text);
				create table xsession(x_pk integer primary key, x_ent integer, xjid text, xname text);
				create table xmember(x_pk integer primary key, x_ent integer, xsession integer, xjid text, xname text);
				create table xmedia(x_pk integer primary key, x_ent integer, xsize integer, xmessage integer, xpath text, xtitle text, xmime text)`);
			for (const room of s.rooms) {
				const jid = room.title ? `44-${room.i}@g.example` : jidOf(room.members[0]!.number);
				db.run(insertInto('xsession', 4), [room.i, 4, jid, room.title ?? room.members[0]!.name]);
				if (!room.title) continue;
				for (const p of room.members) db.run(insertInto('xmember', 5), [room.i * 100 + p.i, 3, room.i, jidOf(p.number), p.name]);
			}
		},
		write: (db, s, m) => {
			const jid = m.room.title ? `44-${m.room.i}@g.example` : jidOf(m.room.members[0]!.number);
			const member = m.who && m.room.title ? m.room.i * 100 + m.who.i : null;
			const ends = m.who ? [jid, null] : [null, jid];
			const values = [
				m.n + 1,
				5,
				m.who ? 0 : 1,
				m.room.i,
				member,
				m.file ? m.n + 500 : null,
				s.time(m.at),
				...ends,
				m.file ? null : m.text
			];
			db.run(insertInto('xmessage', 10), values);
			m.id = [m.n + 1];
			const { file } = m;
			if (file) db.run(insertInto('xmedia', 7), [m.n + 500, 2, file.bytes.length, m.n + 1, file.path, m.text, file.type]);
		},
		row: () => ['xmessage', 'x_pk=?', 'xtext'],
		more: ['xmedia where xmessage=?']
	},
	'lists in the place of texts': {
		...OF_ALL,
		address: 'handle',
		setUp: (db, s) => {
			db.exec(`create table contacts(identity text primary key, first text, last text, nick text);
				create table m_group(id integer primary key, name text); create table group_member(id integer primary key, identity text, group_id integer);
				create table message(id integer primary key autoincrement, uid text, identity text, outbox integer, type integer, body text, posted);
				create table m_group_message(id integer primary key autoincrement, uid text, group_id integer, identity text, outbox integer, type integer, body text, posted)`);
			list(db, 'contacts', s, (p) => [p.handle, ...p.name.split(' '), `~${p.handle}`]);
			for (const room of s.rooms) {
				if (!room.title) continue;
				db.run(insertInto('m_group', 2), [room.i, room.title]);
				for (const p of room.members) db.run(insertInto('group_member', 3), [null, p.handle, room.i]);
			}
		},
		write: (db, s, m) => {
			const { file } = m;
			const key = digestOf(`payload ${m.n}`).slice(0, 16);
			const body = file ? JSON.stringify([key, file.type, file.bytes.length, file.name, 1, true, m.text ?? '', null]) : m.text;
			const said = [m.who ? 0 : 1, file ? 8 : 0, body, s.time(m.at)];
			const uid = digestOf(`message ${m.n}`).slice(0, 12);
			if (m.room.title) db.run(insertInto('m_group_message', 8), [null, uid, m.room.i, m.who?.handle ?? null, ...said]);
			else db.run(insertInto('message', 7), [null, uid, m.room.members[0]!.handle, ...said]);
			m.id = [uid];
		},
		row: (m) => [m.room.title ? 'm_group_message' : 'message', 'uid=?', 'body']
	},
	'as sent over the wire': {
		...OF_ALL,
		address: 'name',
		setUp: (db, s) => {
			db.exec(`create table messages(mid integer primary key, uid integer, state integer, at, data blob, out integer, file text);
				create table users(uid integer primary key, name text, data blob)`);
			for (const p of [{ i: 0, id: OWN_ID, name: 'Owen Farrow' }, ...s.people.map((one) => ({ ...one, id: idOf(one.i) }))]) {
				const [given, family] = p.name.split(' ') as [string, string];
				const data = Buffer.concat([words(0x2e13f4c3, 7, p.id), counted(given), counted(family)]);
				db.run(insertInto('users', 3), [p.id, `${p.name.toLowerCase()};;;`, data]);
			}
		},
		write: (db, s, m) => {
			const other = m.room.title ? groupOf(m) : idOf(m.room.members[0]!.i);
			const from = m.who ? idOf(m.who.i) : OWN_ID;
			const to = m.room.title ? groupOf(m) : m.who ? OWN_ID : other;
			const data = Buffer.concat([
				words(0x38116ee0, m.who ? 0 : 2, m.n + 1, from, 0x9db1bc6d, to),
				counted(m.text ?? ''),
				words(0x3ded6320)
			]);
			const values = [m.n + 1, m.room.title ? -other : other, 3, s.time(m.at), data, m.who ? 0 : 1, m.file?.path ?? null];
			db.run(insertInto('messages', 7), values);
			m.id = [m.n + 1];
		},
		row: () => ['messages', 'mid=?', 'data']
	},
	'files numbered as their messages': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table account(id integer primary key, address text, shown text);
				create table chat(id integer primary key, account_row integer, subject text);
				create table message(id integer primary key autoincrement, chat_row integer, from_me integer, sender_row integer, words text, at);
				create table media(message_row integer primary key, chat_row integer, file_path text, file_size integer, mime text)`);
			list(db, 'account', s, (p) => [p.i, p.number, p.name]);
			for (const room of s.rooms) {
				if (room.title) db.run(insertInto('account', 3), [room.i + 60, `44-${room.i}@g.example`, room.title]);
				db.run(insertInto('chat', 3), [room.i, room.title ? room.i + 60 : room.members[0]!.i, room.title]);
			}
		},
		write: (db, s, m) => {
			const values = [null, m.room.i, m.who ? 0 : 1, m.who && m.room.title ? m.who.i : 0, m.text, s.time(m.at)];
			m.id = [db.run(insertInto('message', 6), values).lastInsertRowid];
			if (m.file) db.run(insertInto('media', 5), [m.id[0], m.room.i, m.file.path, m.file.bytes.length, m.file.type]);
		},
		row: () => ['message', 'id=?', 'words'],
		more: ['media where message_row=?']
	},
	'joined, and left out when binned': {
		...OF_ALL,
		bin: true,
		named: false,
		setUp: (db, s) => {
			db.exec(`create table handle(id integer primary key, address text);
				create table chat(id integer primary key, identifier text, title text);
				create table message(id integer primary key autoincrement, words text, handle_id integer, date, from_me integer);
				create table chat_message(chat_id integer, message_id integer);
				create table chat_recent(chat_id integer, message_id integer, at);
				create table attachment(id integer primary key, path text, mime text, bytes integer);
				create table message_attachment(message_id integer, attachment_id integer)`);
			list(db, 'handle', s, (p) => [p.i, p.number]);
			for (const room of s.rooms)
				db.run(insertInto('chat', 3), [room.i, room.title ? `room;${room.key}` : room.members[0]!.number, room.title]);
		},
		write: (db, s, m) => {
			const other = m.who ?? (m.room.title ? null : m.room.members[0]!);
			const text = m.file ? `\ufffc${m.text ?? ''}` : m.text;
			m.id = [db.run(insertInto('message', 5), [null, text, other?.i ?? 0, s.time(m.at), m.who ? 0 : 1]).lastInsertRowid];
			db.run(insertInto('chat_message', 2), [m.room.i, m.id[0]]);
			if (!m.file) return;
			db.run(insertInto('attachment', 4), [m.n + 900, m.file.path, m.file.type, m.file.bytes.length]);
			db.run(insertInto('message_attachment', 2), [m.id[0], m.n + 900]);
		},
		row: () => ['message', 'id=?', 'words'],
		toBin: (db, s, m, at) => {
			db.run('delete from chat_message where message_id=?', m.id);
			db.run(insertInto('chat_recent', 3), [m.room.i, m.id[0]!, s.time(at)]);
		},
		more: ['chat_message where message_id=?', 'chat_recent where message_id=?', 'message_attachment where message_id=?']
	},
	'parameters by turns': {
		...OF_ALL,
		address: 'handle',
		setUp: (db, s) => {
			db.exec(`create table history(id integer primary key autoincrement, chat text, from_mid text, content text, at text, status integer, parameter text);
				create table contacts(mid text, name text); create table groups(id text, name text); create table membership(id text, mid text)`);
			list(db, 'contacts', s, (p) => [p.handle, p.name]);
			for (const room of s.rooms) {
				if (!room.title) continue;
				db.run(insertInto('groups', 2), [`c_${room.key}`, room.title]);
				for (const p of room.members) db.run(insertInto('membership', 2), [`c_${room.key}`, p.handle]);
			}
		},
		write: (db, s, m) => {
			const chat = m.room.title ? `c_${m.room.key}` : m.room.members[0]!.handle;
			const { file } = m;
			const parameter = file ? ['FILE_NAME', file.name, 'FILE_SIZE', file.bytes.length, 'STATE', 2].join('\t') : m.n % 2 ? 'SENDER\t' : '';
			const values = [null, chat, m.who?.handle ?? null, m.text, String(s.time(m.at)), m.who ? 1 : 3, parameter];
			m.id = [db.run(insertInto('history', 7), values).lastInsertRowid];
		},
		row: () => ['history', 'id=?', 'content']
	},
	'objects with their authors': {
		...OF_ALL,
		address: 'handle',
		setUp: (db, s) => {
			db.exec(
				'create table message_cache(id text primary key, channel_id text, data text); create table channel_cache(id text primary key, data text); create table user_cache(id text primary key, data text)'
			);
			for (const p of [...s.people.map(authorOf), OWN_AUTHOR]) db.run(insertInto('user_cache', 2), [p.id, JSON.stringify(p)]);
			for (const room of s.rooms) {
				const data = { id: room.key, type: room.title ? 3 : 1, name: room.title, recipients: room.members.map(authorOf) };
				db.run(insertInto('channel_cache', 2), [room.key, JSON.stringify(data)]);
			}
		},
		write: (db, s, m) => {
			const { file } = m;
			const id = digestOf(`entry ${m.n}`).slice(0, 18);
			const attachments = file ? [{ id, filename: file.name, size: file.bytes.length, content_type: file.type }] : [];
			const author = m.who ? authorOf(m.who) : OWN_AUTHOR;
			const data = { id, content: m.text ?? '', channel_id: m.room.key, author, attachments, timestamp: s.time(m.at), pinned: false };
			db.run(insertInto('message_cache', 3), [id, m.room.key, JSON.stringify(data)]);
			m.id = [id];
		},
		row: () => ['message_cache', 'id=?', 'data']
	},
	'persons listed in their conversations': {
		...OF_ALL,
		address: 'handle',
		setUp: (db, s) => {
			db.exec(`create table messages(_id integer primary key autoincrement, user_id text, thread_id text, at, item_type text, text text, message text);
				create table threads(_id integer primary key, thread_id text, thread_info text); create table session(_id integer primary key, user_id text)`);
			db.run(insertInto('session', 2), [1, 'u_self00']);
			for (const room of s.rooms) {
				const users = room.members.map((p) => ({ pk: p.handle, username: p.mail.split('@')[0], full_name: p.name }));
				const info = { thread_id: `3402823${room.key}`, title: room.title ?? room.members[0]!.name, is_group: room.title !== null, users };
				db.run(insertInto('threads', 3), [room.i, info.thread_id, JSON.stringify(info)]);
			}
		},
		write: (db, s, m) => {
			const user = m.who?.handle ?? 'u_self00';
			const { file } = m;
			const media = file ? { media: { file_name: file.name, file_size: file.bytes.length, mime_type: file.type } } : {};
			const message = JSON.stringify({ item_type: file ? 'media' : 'text', user_id: user, ...media });
			const values = [null, user, `3402823${m.room.key}`, s.time(m.at), file ? 'media' : 'text', m.text, message];
			m.id = [db.run(insertInto('messages', 7), values).lastInsertRowid];
		},
		row: () => ['messages', '_id=?', 'text']
	},
	'parts with the times of their messages': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table conversations(_id integer primary key, name text, number text);
				create table messages(_id integer primary key autoincrement, conversation_id integer, sender_id integer, sent_timestamp, message_status integer, self_id integer);
				create table parts(_id integer primary key autoincrement, message_id integer, text text, uri text, content_type text, timestamp, conversation_id integer);
				create table participants(_id integer primary key, sub_id integer, destination text, full_name text);
				create table conversation_participants(_id integer primary key autoincrement, conversation_id integer, participant_id integer)`);
			db.run(insertInto('participants', 4), [OWN, 1, OWNER, null]);
			for (const p of s.people) db.run(insertInto('participants', 4), [p.i, -2, p.number, p.name]);
			for (const room of s.rooms) {
				const number = room.title ? null : room.members[0]!.number;
				db.run(insertInto('conversations', 3), [room.i, room.title ?? room.members[0]!.name, number]);
				for (const p of room.members) db.run(insertInto('conversation_participants', 3), [null, room.i, p.i]);
			}
		},
		write: (db, s, m) => {
			const values = [null, m.room.i, m.who?.i ?? OWN, s.time(m.at), m.who ? 100 : (m.n % 2) + 1, OWN];
			m.id = [db.run(insertInto('messages', 6), values).lastInsertRowid];
			const part = (text: string | null, uri: string | null, type: string): void =>
				void db.run(insertInto('parts', 7), [null, m.id[0], text, uri, type, s.time(m.at), m.room.i]);
			if (m.text !== null) part(m.text, null, 'text/plain');
			if (m.file) part(null, `content://part/${m.file.path}`, m.file.type);
		},
		row: () => ['messages', '_id=?', 'self_id'],
		more: ['parts where message_id=?']
	}
};

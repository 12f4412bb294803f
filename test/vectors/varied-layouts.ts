/**
 * Layouts whose programs put things elsewhere than one looks first: what a post said before in a row of its own, documents
 * with all their revisions, values in UTF-16 under keys, what was said apart from its events, persons only as each message
 * describes them, addresses with the device behind them, stanzas as they came over the wire, long texts packed.
 */
import { createHash } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import type { Engine } from './engine';
import { insertInto, OWNER, type Composer, type Draft, type Layout } from './plainly';

const OF_ALL_EDITED = { groups: true, bin: false, named: true, counted: false, address: 'handle', listed: false } as const;
const OF_ALL = { ...OF_ALL_EDITED, edits: false } as const;
const digestOf = (what: string): string => createHash('md5').update(what).digest('hex');
const OWN = 910_001;
const OWN_HANDLE = 'owen77';
const idOf = (p: Composer['people'][number]): number => 200_000 + p.i * 7919;
const whoseOf = (m: Draft): string => m.who?.handle ?? OWN_HANDLE;
const nicknameOf = (m: Draft): string => m.who?.mail.split('@')[0] ?? OWN_HANDLE;
const roomIdOf = (m: Draft): string => digestOf(`room ${m.room.i}`).slice(0, 26);
const userIdOf = (handle: string): string => digestOf(`user ${handle}`).slice(0, 26);
const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
const wide = (value: unknown): Buffer => Buffer.from(JSON.stringify(value), 'utf16le');
const added = (db: Engine, table: string, values: (string | number | null | Uint8Array)[]): number =>
	db.run(insertInto(table, values.length), values as never).lastInsertRowid;

/** A document's next revision, and the number of its row. */
function revise(db: Engine, doc: number, document: object): number {
	db.run('update revs set latest=0 where doc=?', [doc]);
	return added(db, 'revs', [null, doc, digestOf(JSON.stringify(document)).slice(0, 12), 1, JSON.stringify(document)]);
}

const documentOf = (s: Composer, m: Draft, text: string | null): object => ({
	type: 'message',
	conversation: `conv::${m.room.i}`,
	author: whoseOf(m),
	created: s.time(m.at),
	body: text,
	...(m.file ? { attachment: { name: m.file.name, length: m.file.bytes.length, content_type: m.file.type } } : {})
});

/** Somebody as each message describes him. */
const described = (p: Composer['people'][number]): object => {
	const [first_name, last_name] = p.name.split(' ');
	return { id: idOf(p), first_name, last_name, username: p.handle };
};
const OWNER_DESCRIBED = { id: OWN, first_name: 'Owen', last_name: 'Farrow', username: OWN_HANDLE };

export const VARIED: Record<string, Layout> = {
	posts: {
		...OF_ALL_EDITED,
		setUp: (db, s) => {
			db.exec(`create table posts(id text primary key, create_at, update_at, user_id text, channel_id text, root_id text, original_id text, message text, file_ids text);
				create table channels(id text primary key, type text, display_name text, name text);
				create table channel_members(channel_id text, user_id text);
				create table users(id text primary key, username text, first_name text, last_name text);
				create table file_infos(id text primary key, post_id text, path text, name text, size integer, mime_type text)`);
			added(db, 'users', [userIdOf(OWN_HANDLE), OWN_HANDLE, 'Owen', 'Farrow']);
			for (const p of s.people) added(db, 'users', [userIdOf(p.handle), p.handle, ...p.name.split(' ')]);
			for (const room of s.rooms) {
				const id = digestOf(`room ${room.i}`).slice(0, 26);
				const own = userIdOf(OWN_HANDLE);
				const name = room.title ? 'on-call' : [own, userIdOf(room.members[0]!.handle)].sort().join('__');
				added(db, 'channels', [id, room.title ? 'P' : 'D', room.title ?? '', name]);
				for (const user of [own, ...room.members.map((p) => userIdOf(p.handle))]) added(db, 'channel_members', [id, user]);
			}
		},
		write: (db, s, m) => {
			const id = digestOf(`post ${m.n}`).slice(0, 26);
			const file = m.file ? digestOf(m.file.path).slice(0, 26) : null;
			added(db, 'posts', [
				id,
				s.time(m.at),
				s.time(m.at),
				userIdOf(whoseOf(m)),
				roomIdOf(m),
				'',
				'',
				m.text ?? '',
				file ? `["${file}"]` : '[]'
			]);
			if (m.file) added(db, 'file_infos', [file, id, m.file.path, m.file.name, m.file.bytes.length, m.file.type]);
			m.id = [id];
		},
		edit: (db, m, text, at, s) => {
			db.run('insert into posts select ?, create_at, ?, user_id, channel_id, root_id, id, message, file_ids from posts where id=?', [
				digestOf(`${m.id[0]} ${at}`).slice(0, 26),
				s.time(at),
				m.id[0]!
			]);
			db.run('update posts set message=?, update_at=? where id=?', [text, s.time(at), m.id[0]!]);
		},
		row: () => ['posts', 'id=?', 'message'],
		more: ['file_infos where post_id=?', 'posts where original_id=?']
	},
	revisions: {
		...OF_ALL,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table docs(doc integer primary key, docid text unique not null);
				create table revs(sequence integer primary key autoincrement, doc integer not null, revid text not null, latest integer, json)`);
			const add = (docid: string, document: object): void => void revise(db, added(db, 'docs', [null, docid]), document);
			add(`user::${OWN_HANDLE}`, { type: 'user', handle: OWN_HANDLE, name: 'Owen Farrow', phone: OWNER, self: true });
			for (const p of s.people) add(`user::${p.handle}`, { type: 'user', handle: p.handle, name: p.name, phone: p.number });
			for (const room of s.rooms)
				add(`conv::${room.i}`, { type: 'conversation', title: room.title, members: [OWN_HANDLE, ...room.members.map((p) => p.handle)] });
		},
		write: (db, s, m) => {
			const doc = added(db, 'docs', [null, `msg::${m.n}`]);
			// Some were written anew before anybody copied the store.
			if (m.text !== null && m.n % 9 === 4) revise(db, doc, documentOf(s, m, `${m.text} erstwhile`));
			m.id = [doc];
			revise(db, doc, documentOf(s, m, m.text));
		},
		row: () => ['revs', 'doc=?', 'json'],
		more: ['docs where doc=?']
	},
	'values in UTF-16': {
		...OF_ALL,
		address: 'number',
		setUp: (db, s) => {
			db.exec('create table items(key text unique on conflict replace, value blob not null)');
			const add = (key: string, value: unknown): void => void added(db, 'items', [key, wide(value)]);
			add('me', { number: OWNER, name: 'Owen Farrow' });
			for (const p of s.people) add(`contact/${p.number}`, { number: p.number, name: p.name });
			for (const room of s.rooms) add(`thread/${room.i}`, { id: room.i, title: room.title, members: room.members.map((p) => p.number) });
			db.run(insertInto('items', 2), ['theme', Buffer.from('"dark"', 'utf16le')] as never);
		},
		write: (db, s, m) => {
			m.id = [`message/${m.room.i}/${String(m.n).padStart(8, '0')}`];
			const file = m.file ? { file: { name: m.file.name, size: m.file.bytes.length, type: m.file.type } } : {};
			const said = { id: m.n, thread: m.room.i, from: m.who?.number ?? OWNER, at: s.time(m.at), text: m.text, ...file };
			added(db, 'items', [m.id[0]!, wide(said)]);
		},
		row: () => ['items', 'key=?', 'value']
	},
	'what was said apart from its events': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table address(id integer primary key, value text, display_name text);
				create table room(id integer primary key, peer_id integer, local_id integer, subject text);
				create table event(id integer primary key autoincrement, type integer, at);
				create table room_event(event_id integer primary key, room_id integer);
				create table message_event(event_id integer primary key, from_id integer, to_id integer, time, state integer, imdn text);
				create table content(id integer primary key autoincrement, event_id integer, type_id integer, body text);
				create table content_type(id integer primary key, value text);
				create table file_content(content_id integer primary key, name text, size integer, path text)`);
			['text/plain', 'image/png', 'application/pdf'].forEach((type, i) => added(db, 'content_type', [i + 1, type]));
			added(db, 'address', [1, OWN_HANDLE, 'Owen Farrow']);
			for (const p of s.people) added(db, 'address', [p.i, p.handle, p.name]);
			for (const room of s.rooms) {
				if (room.title) added(db, 'address', [900 + room.i, `room_${room.i}`, null]);
				added(db, 'room', [room.i, room.title ? 900 + room.i : room.members[0]!.i, 1, room.title]);
			}
		},
		write: (db, s, m) => {
			const id = added(db, 'event', [null, 5, s.time(m.at)]);
			added(db, 'room_event', [id, m.room.i]);
			const to = m.who ? 1 : m.room.title ? 900 + m.room.i : m.room.members[0]!.i;
			added(db, 'message_event', [
				id,
				m.who?.i ?? 1,
				to,
				s.time(m.at),
				m.who ? 7 : [2, 4, 5][m.n % 3]!,
				`im${digestOf(`${m.n}`).slice(0, 20)}`
			]);
			if (m.text !== null) added(db, 'content', [null, id, 1, m.text]);
			if (m.file) added(db, 'file_content', [added(db, 'content', [null, id, 2, '']), m.file.name, m.file.bytes.length, m.file.path]);
			m.id = [id];
		},
		row: () => ['message_event', 'event_id=?', 'imdn'],
		more: ['event where id=?', 'room_event where event_id=?', 'content where event_id=?']
	},
	'persons as messages describe them': {
		...OF_ALL,
		needsGroup: true,
		setUp: (db) => db.exec('create table updates(update_id integer primary key, received, json text)'),
		write: (db, s, m) => {
			const chat = m.room.title
				? { id: -100_550 - m.room.i, title: m.room.title, type: 'supergroup' }
				: { ...described(m.room.members[0]!), type: 'private' };
			const file = m.file ? { document: { file_name: m.file.name, mime_type: m.file.type, file_size: m.file.bytes.length } } : {};
			const said = m.text === null ? {} : { [m.file ? 'caption' : 'text']: m.text };
			const message = { message_id: m.n, from: m.who ? described(m.who) : OWNER_DESCRIBED, chat, date: s.time(m.at), ...file, ...said };
			m.id = [880_000 + m.n];
			added(db, 'updates', [m.id[0]!, s.time(m.at), JSON.stringify({ update_id: m.id[0], message })]);
		},
		row: () => ['updates', 'update_id=?', 'json']
	},
	'devices behind addresses': {
		...OF_ALL,
		needsGroup: true,
		address: 'mail',
		setUp: (db, s) => {
			db.exec(`create table accounts(uuid text primary key, username text, server text);
				create table conversations(uuid text primary key, name text, account text, contact_jid text, mode integer);
				create table messages(uuid text primary key, conversation text, time_sent, counterpart text, true_counterpart text, body text, status integer, type integer, file_path text);
				create table contacts(account text, system_name text, jid text)`);
			const account = digestOf('account');
			added(db, 'accounts', [account, OWN_HANDLE, 'desk.example']);
			for (const p of s.people) added(db, 'contacts', [account, p.name, p.mail]);
			for (const room of s.rooms) {
				const jid = room.title ? `room${room.i}@rooms.lane.example` : room.members[0]!.mail;
				added(db, 'conversations', [digestOf(`conv ${room.i}`), room.title ?? room.members[0]!.name, account, jid, room.title ? 1 : 0]);
			}
		},
		write: (db, s, m) => {
			const counterpart = m.room.title
				? `room${m.room.i}@rooms.lane.example/${nicknameOf(m)}`
				: `${m.room.members[0]!.mail}/phone${m.room.i}`;
			const real = m.room.title && m.who ? m.who.mail : null;
			const body =
				m.text ?? `https://up.lane.example/${digestOf(m.file!.path).slice(0, 9)}/${encodeURI(m.file!.name)}|${m.file!.bytes.length}|30|20`;
			m.id = [digestOf(`message ${m.n}`)];
			const status = m.who ? 0 : [2, 7, 8][m.n % 3]!;
			added(db, 'messages', [
				m.id[0]!,
				digestOf(`conv ${m.room.i}`),
				s.time(m.at),
				counterpart,
				real,
				body,
				status,
				m.file ? 1 : 0,
				m.file?.path ?? null
			]);
		},
		row: () => ['messages', 'uuid=?', 'body']
	},
	'stanzas as they came': {
		...OF_ALL,
		address: 'mail',
		setUp: (db, s) => {
			db.exec(`create table archive(id integer primary key autoincrement, at, kind text, peer text, xml text, txt text, nick text);
				create table cards(jid text primary key, card text)`);
			for (const p of s.people) {
				const [given, family] = p.name.split(' ');
				const card = `<vCard xmlns='vcard-temp'><FN>${p.name}</FN><N><GIVEN>${given}</GIVEN><FAMILY>${family}</FAMILY></N></vCard>`;
				added(db, 'cards', [p.mail, card]);
			}
		},
		write: (db, s, m) => {
			m.text ??= 'nothing but a picture';
			m.file = null;
			const room = `room${m.room.i}@rooms.lane.example`;
			const [own, other] = [`${OWN_HANDLE}@desk.example`, m.room.members[0]!.mail];
			const from = m.room.title ? `${room}/${nicknameOf(m)}` : `${m.who ? other : own}/r1`;
			const to = m.room.title || m.who ? `${own}/r1` : other;
			const type = m.room.title ? 'groupchat' : 'chat';
			const xml = `<message from='${from}' to='${to}' type='${type}'><body>${escaped(m.text)}</body></message>`;
			m.id = [
				added(db, 'archive', [null, s.time(m.at), type, m.room.title ? room : other, xml, m.text, m.room.title ? nicknameOf(m) : null])
			];
		},
		row: () => ['archive', 'id=?', 'txt']
	},
	'long texts packed': {
		...OF_ALL,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table user(id integer primary key, first text, last text, phone text, is_self integer);
				create table chat(id integer primary key, title text);
				create table chat_user(chat integer, user integer);
				create table message(id integer primary key, chat integer, author integer, created, body, enc integer, file text)`);
			added(db, 'user', [OWN, 'Owen', 'Farrow', OWNER, 1]);
			for (const p of s.people) added(db, 'user', [idOf(p), ...p.name.split(' '), p.number, 0]);
			for (const room of s.rooms) {
				added(db, 'chat', [room.i, room.title]);
				for (const id of [OWN, ...room.members.map(idOf)]) added(db, 'chat_user', [room.i, id]);
			}
		},
		write: (db, s, m) => {
			const long = m.text !== null && m.text.length > 45;
			const body = long ? deflateSync(Buffer.from(m.text!)) : m.text;
			m.id = [m.n];
			added(db, 'message', [m.n, m.room.i, m.who ? idOf(m.who) : OWN, s.time(m.at), body, Number(long), m.file?.path ?? null]);
		},
		row: () => ['message', 'id=?', 'body']
	}
};

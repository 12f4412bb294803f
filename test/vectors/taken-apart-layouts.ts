/**
 * Layouts that take apart what belongs together: a conversation in pages, a text in its versions, a message in what
 * happened to it, all there is in nodes and edges, persons and conversations in lists among the settings, recipients in a
 * document of the message's own row, files in letters; requests with answers, and several accounts of one owner.
 */
import { deflateSync } from 'node:zlib';
import type { Engine } from './engine';
import { added, addPersons, addRooms, idOf, json, OF_ALL, OWN, writerOf, type Stored } from './layout-parts';
import { OWNER, type Composer, type Draft, type Layout } from './plainly';

const OWN_MAIL = 'owen@desk.example';
const OTHER_OWN = '+447946000002';

/** How a database's times are written, for what is removed from it. */
const COMPOSERS = new WeakMap<Engine, Composer>();

/** What a page of a conversation lists, by the database it is in. */
const PAGES = new WeakMap<Engine, Map<string, Record<string, unknown>[]>>();
const PAGE = 12;

function pageOf(db: Engine, m: Draft): { key: string; room: number; no: number; list: Record<string, unknown>[] } {
	const pages = PAGES.get(db) ?? new Map<string, Record<string, unknown>[]>();
	PAGES.set(db, pages);
	const [room, no] = m.id.length > 0 ? [m.room.i, Number(m.id[1])] : [m.room.i, Math.floor(m.room.lines++ / PAGE)];
	const key = `${room} ${no}`;
	if (!pages.has(key)) pages.set(key, []);
	return { key, room, no, list: pages.get(key)! };
}

function writePage(db: Engine, { room, no, list }: ReturnType<typeof pageOf>): void {
	db.run('delete from conversation_page where conv_id=? and page_no=?', [room, no]);
	if (list.length > 0) added(db, 'conversation_page', [room, no, deflateSync(Buffer.from(json({ messages: list })))]);
}

const saidIn = (s: Composer, m: Draft, text: string | null = m.text): Record<string, unknown> => ({
	at: s.time(m.at),
	...(text === null ? {} : { text }),
	...(m.file ? { file: m.file.path } : {})
});

export const TAKEN_APART: Record<string, Layout> = {
	'pages of conversations': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table conversation_page(conv_id integer, page_no integer, data blob);
				create table conversation(conv_id integer primary key, title text, members text);
				create table member(member_id integer primary key, name text, phone text, own integer)`);
			addPersons(db, s, 'member');
			for (const room of s.rooms) added(db, 'conversation', [room.i, room.title, json([OWN, ...room.members.map(idOf)])]);
		},
		write: (db, s, m) => {
			const page = pageOf(db, m);
			page.list.push({ id: m.n, from: writerOf(m), ...saidIn(s, m) });
			m.id = [m.room.i, page.no];
			writePage(db, page);
		},
		row: () => ['conversation_page', 'conv_id=? and page_no=?', 'data'],
		edit: (db, m, text) => {
			const page = pageOf(db, m);
			for (const one of page.list) if (one.id === m.n) one.text = text;
			writePage(db, page);
		},
		remove: (db, m) => {
			const page = pageOf(db, m);
			page.list.splice(
				page.list.findIndex((one) => one.id === m.n),
				1
			);
			writePage(db, page);
		}
	},
	'texts in versions': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table message(id integer primary key, chat integer, sender integer, at, version integer, file text);
				create table message_version(message integer, version integer, body text, saved);
				create table chat(id integer primary key, name text);
				create table chat_user(chat integer, user integer);
				create table user(id integer primary key, name text, phone text, me integer)`);
			addPersons(db, s, 'user');
			addRooms(db, s, 'chat', 'chat_user');
		},
		write: (db, s, m) => {
			m.id = [m.n + 1];
			added(db, 'message', [m.n + 1, m.room.i, writerOf(m), s.time(m.at), 1, m.file?.path ?? null]);
			if (m.text !== null) added(db, 'message_version', [m.n + 1, 1, m.text, s.time(m.at)]);
		},
		row: () => ['message', 'id=?', 'version'],
		edit: (db, m, text, at, s) => {
			added(db, 'message_version', [m.n + 1, 2, text, s.time(at)]);
			db.run('update message set version=2 where id=?', m.id);
		},
		more: ['message_version where message=?']
	},
	'what happened to messages': {
		...OF_ALL,
		removes: 'binned',
		setUp: (db, s) => {
			db.exec(`create table events(seq integer primary key autoincrement, type text, room integer, actor integer, payload text, at);
				create table principals(id integer primary key, name text, phone text, self integer);
				create table rooms(id integer primary key, name text);
				create table room_principals(room integer, principal integer)`);
			COMPOSERS.set(db, s);
			addPersons(db, s, 'principals');
			addRooms(db, s, 'rooms', 'room_principals');
		},
		write: (db, s, m) => {
			m.id = [`m${m.n}`];
			const { at, ...said } = saidIn(s, m);
			added(db, 'events', [null, 'message.posted', m.room.i, writerOf(m), json({ id: m.id[0], ...said }), at as Stored]);
			if (m.n % 4 === 1) added(db, 'events', [null, 'message.read', m.room.i, writerOf(m), json({ id: m.id[0] }), s.time(m.at + 9000)]);
		},
		row: () => ['events', 'seq=?', 'payload'],
		edit: (db, m, text, at, s) =>
			void added(db, 'events', [null, 'message.edited', m.room.i, writerOf(m), json({ id: m.id[0], text }), s.time(at)]),
		remove: (db, m, at) =>
			void added(db, 'events', [null, 'message.removed', m.room.i, writerOf(m), json({ id: m.id[0] }), COMPOSERS.get(db)!.time(at)])
	},
	'nodes and edges': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table nodes(id integer primary key, label text, props text);
				create table edges(id integer primary key, src integer, dst integer, kind text)`);
			added(db, 'nodes', [OWN, 'Person', json({ name: 'Owen Farrow', phone: OWNER, me: true })]);
			for (const p of s.people) added(db, 'nodes', [idOf(p), 'Person', json({ name: p.name, phone: p.number })]);
			for (const room of s.rooms) {
				added(db, 'nodes', [500 + room.i, 'Chat', json({ title: room.title })]);
				for (const id of [OWN, ...room.members.map(idOf)]) added(db, 'edges', [null, id, 500 + room.i, 'MEMBER_OF']);
			}
		},
		write: (db, s, m) => {
			m.id = [1000 + m.n];
			added(db, 'nodes', [1000 + m.n, 'Message', json(saidIn(s, m))]);
			added(db, 'edges', [null, writerOf(m), 1000 + m.n, 'SENT']);
			added(db, 'edges', [null, 1000 + m.n, 500 + m.room.i, 'IN']);
		},
		row: () => ['nodes', 'id=?', 'props'],
		edit: (db, m, text, _, s) => void db.run('update nodes set props=? where id=?', [json(saidIn(s, m, text)), ...m.id])
	},
	'lists among the settings': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table messages(id text primary key, chat_id text, from_id text, text text, created, attachment text);
				create table store(key text primary key, value text)`);
			const persons = s.people.map((p) => ({ id: `u${p.i}e07`, displayName: p.name, phone: p.number }));
			const chats = s.rooms.map((room) => ({
				id: `c${room.i}5b1`,
				title: room.title,
				members: ['u0wn', ...room.members.map((p) => `u${p.i}e07`)]
			}));
			for (const [key, value] of Object.entries({ look: 'dark', session: { userId: 'u0wn', token: 'f00d77' }, contacts: persons, chats }))
				added(db, 'store', [key, json(value)]);
		},
		write: (db, s, m) => {
			m.id = [`m${(m.n + 11) * 7919}`];
			const file = m.file && json({ path: m.file.path, size: m.file.bytes.length });
			added(db, 'messages', [m.id[0]!, `c${m.room.i}5b1`, m.who ? `u${m.who.i}e07` : 'u0wn', m.text, s.time(m.at), file]);
		},
		row: () => ['messages', 'id=?', 'text']
	},
	'recipients as a document': {
		...OF_ALL,
		address: 'mail',
		setUp: (db) =>
			db.exec('create table items(id text primary key, author text, audience text, content text, published, attachments text)'),
		write: (db, s, m) => {
			m.id = [`urn:${(m.n + 11) * 7919}`];
			const of = (p: Composer['people'][number] | null): { id: string; name: string } =>
				p ? { id: p.mail, name: p.name } : { id: OWN_MAIL, name: 'Owen Farrow' };
			const to = [null, ...m.room.members].filter((p) => p !== m.who).map(of);
			const files = m.file ? [{ name: m.file.name, mediaType: m.file.type, url: m.file.path }] : [];
			added(db, 'items', [m.id[0]!, json(of(m.who)), json(to), m.text, s.time(m.at), json(files)]);
		},
		row: () => ['items', 'id=?', 'content']
	},
	'bits and signs': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table dialog_messages(mid integer, peer_id integer, from_id integer, flags integer, date, message text, media text);
				create table users(uid integer primary key, name text, phone text, own integer);
				create table chats(gid integer primary key, title text, users text)`);
			addPersons(db, s, 'users');
			for (const room of s.rooms)
				if (room.title) added(db, 'chats', [900 + room.i, room.title, [OWN, ...room.members.map(idOf)].join(',')]);
		},
		write: (db, s, m) => {
			const peer = m.room.title ? -900 - m.room.i : idOf(m.room.members[0]!);
			const flags = (m.who ? 0 : 2) | 1 | (m.n % 3 === 0 ? 16 : 0) | (m.file ? 256 : 0);
			m.id = [m.n];
			added(db, 'dialog_messages', [m.n, peer, writerOf(m), flags, s.time(m.at), m.text ?? '', m.file && json({ path: m.file.path })]);
		},
		row: () => ['dialog_messages', 'mid=?', 'message']
	},
	'letters with files': {
		...OF_ALL,
		groups: false,
		edits: false,
		address: 'mail',
		setUp: (db) => db.exec('create table mails(uid integer primary key, folder integer, internal_date, source blob)'),
		write: (db, s, m) => {
			m.text ??= 'nothing but a picture';
			m.at -= m.at % 1000;
			const other = m.room.members[0]!;
			const [own, their] = [`Owen Farrow <${OWN_MAIL}>`, `${other.name} <${other.mail}>`];
			const head = [`From: ${m.who ? their : own}`, `To: ${m.who ? own : their}`, `Date: ${new Date(m.at).toUTCString()}`];
			const text = ['Content-Type: text/plain; charset=utf-8', 'Content-Transfer-Encoding: base64', '', base64(Buffer.from(m.text))];
			const file = m.file && [
				`Content-Type: ${m.file.type}`,
				'Content-Transfer-Encoding: base64',
				`Content-Disposition: attachment; filename="=?utf-8?B?${Buffer.from(m.file.name).toString('base64')}?="`,
				'',
				base64(m.file.bytes)
			];
			const parts = [text, ...(file ? [file] : [])].flatMap((part) => ['--edge', ...part]);
			const source = [...head, 'MIME-Version: 1.0', 'Content-Type: multipart/mixed; boundary="edge"', '', ...parts, '--edge--', ''];
			m.id = [m.n + 1];
			added(db, 'mails', [m.n + 1, m.who ? 1 : 2, s.time(m.at), Buffer.from(source.join('\r\n'))]);
		},
		row: () => ['mails', 'uid=?', 'source']
	},
	'requests and answers': {
		...OF_ALL,
		groups: false,
		address: 'mail',
		setUp: (db, s) => {
			db.exec(`create table tickets(id integer primary key, requester_id integer, subject text, status text);
				create table ticket_comments(id integer primary key, ticket_id integer, author_id integer, body text, created_at, attachment text);
				create table users(id integer primary key, name text, email text, role text)`);
			added(db, 'users', [OWN, 'Owen Farrow', OWN_MAIL, 'agent']);
			for (const p of s.people) added(db, 'users', [idOf(p), p.name, p.mail, 'requester']);
			for (const room of s.rooms) added(db, 'tickets', [700 + room.i, idOf(room.members[0]!), `pump ${room.i} again`, 'open']);
		},
		write: (db, s, m) => {
			m.id = [m.n + 1];
			added(db, 'ticket_comments', [m.n + 1, 700 + m.room.i, writerOf(m), m.text, s.time(m.at), m.file?.path ?? null]);
		},
		row: () => ['ticket_comments', 'id=?', 'body']
	},
	'two accounts': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table accounts(id integer primary key, label text, number text);
				create table messages(id integer primary key, account_id integer, conversation_id integer, sender text, body text, sent, file text);
				create table conversations(id integer primary key, account_id integer, partner text, title text);
				create table contacts(number text primary key, name text)`);
			added(db, 'accounts', [1, 'private', OWNER]);
			added(db, 'accounts', [2, 'house', OTHER_OWN]);
			for (const p of s.people) added(db, 'contacts', [p.number, p.name]);
			for (const room of s.rooms)
				added(db, 'conversations', [10 + room.i, 1 + (room.i % 2), room.title ? null : room.members[0]!.number, room.title]);
		},
		write: (db, s, m) => {
			const own = [OWNER, OTHER_OWN][m.room.i % 2]!;
			m.id = [m.n + 1];
			const values = [m.n + 1, 1 + (m.room.i % 2), 10 + m.room.i, m.who?.number ?? own, m.text, s.time(m.at), m.file?.path ?? null];
			added(db, 'messages', values);
		},
		row: () => ['messages', 'id=?', 'body']
	}
};

const base64 = (bytes: Buffer): string => bytes.toString('base64').replace(/.{76}/g, '$&\r\n').replace(/\r\n$/, '');

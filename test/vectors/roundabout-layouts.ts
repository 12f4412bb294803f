/**
 * Layouts that say who, to whom and what in a roundabout way: a number whose table its kind names, for contents and for
 * addressees; who wrote in a table beside, as a number within the conversation, or as the part that he has in it; kinds of
 * messages that go on by the tens, and texts with what they were translated into beside them; all that there is in one table, or
 * in documents by path; letters as they came.
 */
import type { Engine } from './engine';
import { insertInto, OWNER, type Composer, type Draft, type Layout } from './plainly';

const OF_ALL = { edits: false, groups: true, bin: false, named: true, counted: false, address: 'number', listed: false } as const;
const OWN = 1;
const added = (db: Engine, table: string, values: (string | number | null | Uint8Array)[]): number =>
	db.run(insertInto(table, values.length), values as never).lastInsertRowid;
const idOf = (p: Composer['people'][number]): number => p.i + 10;
const writerOf = (m: Draft): number => (m.who ? idOf(m.who) : OWN);

/** Persons by their numbers, the owner first. */
function addPersons(db: Engine, s: Composer, table: string): void {
	added(db, table, [OWN, 'Owen Farrow', OWNER]);
	for (const p of s.people) added(db, table, [idOf(p), p.name, p.number]);
}

const NEXT = new WeakMap<Engine, Map<string, number>>();

/** Counts on from one, by what is counted. */
function next(db: Engine, what: string): number {
	const counts = NEXT.get(db) ?? new Map<string, number>();
	NEXT.set(db, counts.set(what, (counts.get(what) ?? 0) + 1));
	return counts.get(what)!;
}

/** The letters of a text as runs of one look, a line break behind them. */
function runsOf(text: string): { insert: string; attributes?: { bold: true } }[] {
	const half = Math.ceil(text.length / 2);
	const runs =
		text.length > 20
			? [{ insert: text.slice(0, half), attributes: { bold: true as const } }, { insert: text.slice(half) }]
			: [{ insert: text }];
	return [...runs, { insert: '\n' }];
}
const mirrored = (text: string): string => [...text].reverse().join('');

export const ROUNDABOUT: Record<string, Layout> = {
	'contents by kind': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table entry(entry_id integer primary key, box_id integer, origin_id integer, moment, content_id integer, content_kind text);
				create table text_content(content_id integer primary key, chars text);
				create table media_content(content_id integer primary key, file_path text, caption text, bytes integer);
				create table call_content(content_id integer primary key, seconds integer);
				create table box(box_id integer primary key, caption text);
				create table box_origin(box_id integer, origin_id integer);
				create table origin(origin_id integer primary key, full_name text, dial text)`);
			for (const p of s.people) added(db, 'origin', [idOf(p), p.name, p.number]);
			for (const room of s.rooms) {
				added(db, 'box', [room.i, room.title]);
				for (const p of room.members) added(db, 'box_origin', [room.i, idOf(p)]);
			}
		},
		write: (db, s, m) => {
			const kind = m.file ? 'media' : 'text';
			const id = next(db, kind);
			if (m.file) added(db, 'media_content', [id, m.file.path, m.text, m.file.bytes.length]);
			else added(db, 'text_content', [id, m.text]);
			m.id = [added(db, 'entry', [null, m.room.i, m.who ? idOf(m.who) : null, s.time(m.at), id, kind])];
			if (m.n % 9 === 4) added(db, 'entry', [null, m.room.i, null, s.time(m.at + 9000), added(db, 'call_content', [null, m.n]), 'call']);
		},
		row: () => ['entry', 'entry_id=?', 'content_id']
	},
	'addressees by kind': {
		...OF_ALL,
		needsGroup: true,
		setUp: (db, s) => {
			db.exec(`create table message(id integer primary key, sender_id integer, recipient_id integer, content text, sent, file text);
				create table recipient(id integer primary key, type integer, type_id integer);
				create table profile(id integer primary key, full_name text, phone text);
				create table circle(id integer primary key, digest text);
				create table subscription(id integer primary key, profile_id integer, recipient_id integer)`);
			addPersons(db, s, 'profile');
			for (const id of [OWN, ...s.people.map(idOf)]) added(db, 'recipient', [500 + id, 1, id]);
			for (const room of s.rooms.filter((one) => one.title)) {
				added(db, 'circle', [room.i, `c${room.i}f3a9`]);
				added(db, 'recipient', [900 + room.i, 3, room.i]);
				for (const id of [OWN, ...room.members.map(idOf)]) added(db, 'subscription', [null, id, 900 + room.i]);
			}
		},
		write: (db, s, m) => {
			const to = m.room.title ? 900 + m.room.i : 500 + (m.who ? OWN : idOf(m.room.members[0]!));
			m.id = [m.n];
			added(db, 'message', [m.n, writerOf(m), to, m.text, s.time(m.at), m.file?.path ?? null]);
		},
		row: () => ['message', 'id=?', 'content']
	},
	'writers beside': {
		...OF_ALL,
		needsGroup: true,
		setUp: (db, s) => {
			db.exec(`create table msgs(id integer primary key, peer integer, from_me integer, original text, translated text, lang text, sent, doc text);
				create table peers(id integer primary key, name text, phone text, members integer);
				create table msg_author(msg_id integer, author integer)`);
			for (const p of s.people) added(db, 'peers', [idOf(p), p.name, p.number, 1]);
			for (const room of s.rooms) if (room.title) added(db, 'peers', [900 + room.i, room.title, null, room.members.length + 1]);
		},
		write: (db, s, m) => {
			// Of a room in which nobody else ever wrote nothing tells that it is one.
			if (m.room.title && next(db, `room ${m.room.i}`) === 1) m.who ??= m.room.members[0]!;
			const other = m.text !== null && m.text.length > 20 && m.n % 3 === 0 ? mirrored(m.text) : null;
			const peer = m.room.title ? 900 + m.room.i : idOf(m.room.members[0]!);
			m.id = [m.n];
			added(db, 'msgs', [m.n, peer, Number(!m.who), m.text, other, other && 'xx', s.time(m.at), m.file?.path ?? null]);
			if (m.room.title && m.who) added(db, 'msg_author', [m.n, idOf(m.who)]);
		},
		row: () => ['msgs', 'id=?', 'original'],
		more: ['msg_author where msg_id=?']
	},
	'numbers within the conversation': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table line(seq integer primary key, room integer, member_no integer, delta text, at, file text);
				create table room_member(room integer, member_no integer, person integer);
				create table room(room integer primary key, title text);
				create table person(person integer primary key, name text, phone text)`);
			addPersons(db, s, 'person');
			for (const room of s.rooms) {
				added(db, 'room', [room.i, room.title]);
				numbersOf(room).forEach((person, no) => added(db, 'room_member', [room.i, no, person]));
			}
		},
		write: (db, s, m) => {
			m.id = [m.n];
			const delta = m.text === null ? null : JSON.stringify({ ops: runsOf(m.text) });
			added(db, 'line', [m.n, m.room.i, numbersOf(m.room).indexOf(writerOf(m)), delta, s.time(m.at), m.file?.path ?? null]);
		},
		row: () => ['line', 'seq=?', 'delta']
	},
	'parts in a deal': {
		...OF_ALL,
		groups: false,
		setUp: (db, s) => {
			db.exec(`create table deals(id integer primary key, article text, buyer_id integer, seller_id integer, opened integer);
				create table users(id integer primary key, name text, phone text);
				create table deal_messages(id integer primary key, deal_id integer, author text, body text, created, picture text);
				create table account(user_id integer, phone text)`);
			addPersons(db, s, 'users');
			added(db, 'account', [OWN, OWNER]);
			for (const room of s.rooms) {
				const ends = [OWN, idOf(room.members[0]!)];
				added(db, 'deals', [room.i, `a chair, lot ${room.i}`, ...(room.i % 2 === 0 ? ends : ends.reverse()), 1_700_000_000 + room.i]);
			}
		},
		write: (db, s, m) => {
			m.id = [m.n];
			const author = (m.room.i % 2 === 0) === !m.who ? 'buyer' : 'seller';
			added(db, 'deal_messages', [m.n, m.room.i, author, m.text, s.time(m.at), m.file?.path ?? null]);
		},
		row: () => ['deal_messages', 'id=?', 'body']
	},
	'kinds by the tens': {
		...OF_ALL,
		groups: false,
		setUp: (db) =>
			db.exec(
				'create table history(_id integer primary key, kind integer, number text, person_name text, time, length integer, content text, file text)'
			),
		write: (db, s, m) => {
			const { number, name } = m.room.members[0]!;
			const kind = (m.who ? 21 : 22) + (m.file ? 10 : 0);
			m.id = [added(db, 'history', [null, kind, number, name, s.time(m.at), 0, m.text, m.file?.path ?? null])];
			if (m.n % 4 === 1) added(db, 'history', [null, 1 + (m.n % 3), number, name, s.time(m.at + 20_000), m.n % 800, null, null]);
		},
		row: () => ['history', '_id=?', 'content']
	},
	'minus one for yes': {
		...OF_ALL,
		groups: false,
		setUp: (db, s) => {
			db.exec(`create table tblMessages(MsgNo integer primary key, Partner text, Sent_When, Outgoing integer, MsgText text, FileRef text);
				create table tblPartners(PhoneNo text primary key, DisplayName text)`);
			for (const p of s.people) added(db, 'tblPartners', [p.number, p.name]);
		},
		write: (db, s, m) => {
			m.id = [m.n];
			added(db, 'tblMessages', [m.n, m.room.members[0]!.number, s.time(m.at), m.who ? 0 : -1, m.text, m.file?.path ?? null]);
		},
		row: () => ['tblMessages', 'MsgNo=?', 'MsgText']
	},
	'everything in one table': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(
				'create table items(id integer primary key, type text, parent_id integer, owner_id integer, title text, body text, created, path text)'
			);
			const add = (
				id: number | null,
				type: string,
				parent: number | null,
				owner: number | null,
				title: string | null,
				body: string | null
			): void => void added(db, 'items', [id, type, parent, owner, title, body, s.time(Date.UTC(2024, 11, 1)), null]);
			add(OWN, 'User', null, null, 'Owen Farrow', OWNER);
			for (const p of s.people) add(idOf(p), 'User', null, null, p.name, p.number);
			for (const room of s.rooms) add(1000 + room.i, 'Room', null, OWN, room.title, null);
			for (const room of s.rooms) for (const id of [OWN, ...room.members.map(idOf)]) add(null, 'Membership', 1000 + room.i, id, null, null);
		},
		write: (db, s, m) => {
			m.id = [5000 + m.n];
			const type = m.file ? 'Photo' : 'Message';
			added(db, 'items', [m.id[0]!, type, 1000 + m.room.i, writerOf(m), null, m.text, s.time(m.at), m.file?.path ?? null]);
		},
		row: () => ['items', 'id=?', 'body']
	},
	'documents by path': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec('create table documents(path text primary key, data text, update_time)');
			const add = (path: string, data: object): void =>
				void added(db, 'documents', [path, JSON.stringify(data), s.time(Date.UTC(2024, 11, 1))]);
			add('users/u0', { name: 'Owen Farrow', phone: OWNER, self: true });
			for (const p of s.people) add(`users/u${p.i}`, { name: p.name, phone: p.number, self: false });
			for (const room of s.rooms) add(`chats/c${room.i}`, { title: room.title, members: ['u0', ...room.members.map((p) => `u${p.i}`)] });
		},
		write: (db, s, m) => {
			m.id = [`chats/c${m.room.i}/messages/m${String(m.n).padStart(5, '0')}`];
			const file = m.file ? { file: { path: m.file.path, size: m.file.bytes.length, mime: m.file.type } } : {};
			const said = m.text === null ? {} : { text: m.text };
			const data = JSON.stringify({ author: m.who ? `u${m.who.i}` : 'u0', createdAt: s.time(m.at), ...said, ...file });
			added(db, 'documents', [m.id[0]!, data, s.time(m.at + 1000)]);
		},
		row: () => ['documents', 'path=?', 'data']
	},
	'devices of accounts': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table envelope(id integer primary key, conversation_id text, origin_device text, author_account text, plain text, sent, file_ref text);
				create table devices(device_id text primary key, account text, label text, is_this integer);
				create table accounts(account text primary key, display text, phone text);
				create table conversations(conversation_id text primary key, topic text);
				create table participants(conversation_id text, account text)`);
			added(db, 'accounts', [accountOf(null), 'Owen Farrow', OWNER]);
			for (const p of s.people) added(db, 'accounts', [accountOf(p), p.name, p.number]);
			for (const n of [1, 2]) added(db, 'devices', [`dev-own${n}c4`, accountOf(null), ['phone', 'tablet'][n - 1]!, Number(n === 1)]);
			for (const p of s.people) added(db, 'devices', [`dev-${p.i}b7`, accountOf(p), 'phone', 0]);
			for (const room of s.rooms) {
				added(db, 'conversations', [`cv-${room.i}e2`, room.title]);
				for (const p of [null, ...room.members]) added(db, 'participants', [`cv-${room.i}e2`, accountOf(p)]);
			}
		},
		write: (db, s, m) => {
			m.id = [m.n];
			const device = m.who ? `dev-${m.who.i}b7` : `dev-own${1 + (m.n % 2)}c4`;
			added(db, 'envelope', [m.n, `cv-${m.room.i}e2`, device, accountOf(m.who), m.text, s.time(m.at), m.file?.path ?? null]);
		},
		row: () => ['envelope', 'id=?', 'plain']
	},
	'letters as they came': {
		...OF_ALL,
		groups: false,
		address: 'mail',
		setUp: (db) => {
			db.exec(`create table mails(uid integer primary key, folder_id integer, flags integer, internal_date, source blob);
				create table folders(id integer primary key, name text)`);
			['Inbox', 'Sent'].forEach((name, i) => added(db, 'folders', [i + 1, name]));
		},
		write: (db, s, m) => {
			m.text ??= 'nothing but a picture';
			m.file = null;
			m.at -= m.at % 1000;
			const other = m.room.members[0]!;
			const [own, their] = [`Owen Farrow <${OWN_MAIL}>`, `${other.name} <${other.mail}>`];
			const [from, to] = m.who ? [their, own] : [own, their];
			const head = [`From: ${from}`, `To: ${to}`, `Date: ${new Date(m.at).toUTCString()}`, `Message-ID: <${m.n}@lane.example>`];
			const body = Buffer.from(m.text).toString('base64');
			const source = [...head, 'Content-Type: text/plain; charset="utf-8"', 'Content-Transfer-Encoding: base64', '', body].join('\r\n');
			m.id = [m.n];
			added(db, 'mails', [m.n, m.who ? 1 : 2, 1, s.time(m.at), Buffer.from(source)]);
		},
		row: () => ['mails', 'uid=?', 'source']
	}
};

const OWN_MAIL = 'owen@desk.example';
const accountOf = (p: Composer['people'][number] | null): string => (p ? `acc-${p.i}d1` : 'acc-own9');

/** Who takes part in a conversation, in the order of their numbers there. */
function numbersOf(room: Draft['room']): number[] {
	const ids = [OWN, ...room.members.map(idOf)];
	return room.i % 2 === 0 ? ids.reverse() : ids;
}

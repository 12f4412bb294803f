/** Ways in which programs nobody has seen might store the same story. Table and column names are varied on purpose. */
import { createHash } from 'node:crypto';
import type { Engine } from './engine';
import { MORE_LAYOUTS } from './layouts-more';
import type { Story, StoryMessage } from './story';

export interface Layout {
	name: string;
	/** Statements that make the tables and everything but the messages. */
	setUp(db: Engine, story: Story): void;
	insert(db: Engine, story: Story, m: StoryMessage): void;
	remove(db: Engine, story: Story, m: StoryMessage): void;
	edit(db: Engine, story: Story, m: StoryMessage, text: string): void;
	/** Whether groups can be stored. */
	groups: boolean;
	/** The address that stands for a person in this layout. */
	address: 'number' | 'handle';
	encoding?: 'UTF-16le' | 'UTF-16be';
	/** Stored to the second only in local wall time etc. is not used: all keep whole seconds. */
}

const person = (s: Story, id: number) => s.people[id - 1]!;
const talkOf = (s: Story, m: StoryMessage) => s.talks[m.talk]!;
const APPLE_LIKE_EPOCH = Date.UTC(2001, 0, 1);
const filetime = (ms: number): bigint => BigInt(ms - Date.UTC(1601, 0, 1)) * 10_000n;

function simple(name: string, table: string, key: string, textColumn: string, rest: Omit<Layout, 'name' | 'remove' | 'edit'>): Layout {
	return {
		name,
		...rest,
		remove: (db, _s, m) => db.run(`delete from ${table} where ${key}=?`, [m.id]),
		edit: (db, _s, m, text) => db.run(`update ${table} set ${textColumn}=? where ${key}=?`, [text, m.id])
	};
}

const flat = simple('flat', 'letters', '_id', 'body', {
	groups: false,
	address: 'number',
	setUp: (db) =>
		db.exec(
			'create table letters(_id integer primary key, address text, body text, date integer, type integer, read integer, thread_id integer)'
		),
	insert: (db, s, m) =>
		db.run('insert into letters values(?,?,?,?,?,?,?)', [
			m.id,
			person(s, talkOf(s, m).members[0]!).number,
			m.text,
			m.at,
			m.writer === 0 ? 2 : 1,
			1,
			m.talk + 1
		])
});

const anonymousFlat = simple('c0-flat', 't1', 'rowid', 'c2', {
	groups: false,
	address: 'number',
	setUp: (db) => db.exec('create table t1(c0, c1, c2, c3)'),
	insert: (db, s, m) =>
		db.run('insert into t1(rowid,c0,c1,c2,c3) values(?,?,?,?,?)', [
			m.id,
			m.at / 1000,
			m.writer === 0 ? 1 : 0,
			m.text,
			person(s, talkOf(s, m).members[0]!).number
		])
});

const handles = simple('handles', 'missive', 'ROWID', 'text', {
	groups: false,
	address: 'number',
	setUp: (db, s) => {
		db.exec(
			'create table handle(ROWID integer primary key autoincrement, id text not null, service text); create table missive(ROWID integer primary key autoincrement, guid text unique not null, text text, handle_id integer default 0, date integer, date_read integer, is_from_me integer default 0)'
		);
		for (const p of s.people) db.run('insert into handle values(?,?,?)', [p.id, p.number, 'plain']);
	},
	insert: (db, s, m) =>
		db.run('insert into missive values(?,?,?,?,?,?,?)', [
			m.id,
			m.guid,
			m.text,
			talkOf(s, m).members[0]!,
			BigInt(m.at - APPLE_LIKE_EPOCH) * 1_000_000n,
			0,
			m.writer === 0 ? 1 : 0
		])
});

const threads: Layout = {
	...simple('threads', 'entry', 'id', 'content', {
		groups: true,
		address: 'handle',
		setUp: (db, s) => {
			db.exec(`create table account(id integer primary key, display_name text, login text);
				create table room(id integer primary key, subject text, created integer);
				create table room_member(room integer references room(id), account integer references account(id), primary key(room, account));
				create table entry(id integer primary key autoincrement, room integer not null, author integer not null, content text, ts integer not null, state integer)`);
			db.run('insert into account values(?,?,?)', [100, s.owner.name, s.owner.handle]);
			for (const p of s.people) db.run('insert into account values(?,?,?)', [p.id, p.name, p.handle]);
			for (const t of s.talks) {
				db.run('insert into room values(?,?,?)', [t.id, t.title, 1_600_000_000_000]);
				for (const m of [100, ...t.members]) db.run('insert or ignore into room_member values(?,?)', [t.id, m]);
			}
		},
		insert: (db, _s, m) => db.run('insert into entry values(?,?,?,?,?,?)', [m.id, m.talk + 1, m.writer || 100, m.text, m.at, 3])
	})
};

const anonymousThreads = simple('c0-threads', 'x3', 'c0', 'c3', {
	groups: true,
	address: 'number',
	setUp: (db, s) => {
		db.exec(
			'create table x1(c0 integer primary key, c1, c2); create table x2(c0 integer primary key, c1); create table x4(c0, c1); create table x3(c0 integer primary key, c1, c2, c3, c4)'
		);
		db.run('insert into x1 values(?,?,?)', [50, s.owner.name, s.owner.number]);
		for (const p of s.people) db.run('insert into x1 values(?,?,?)', [p.id, p.name, p.number]);
		for (const t of s.talks) {
			db.run('insert into x2 values(?,?)', [t.id + 500, t.title]);
			for (const m of [50, ...t.members]) db.run('insert into x4 values(?,?)', [t.id + 500, m]);
		}
	},
	insert: (db, _s, m) =>
		db.run('insert into x3 values(?,?,?,?,?)', [m.id, m.talk + 501, m.writer || 50, m.text, m.at / 1000 + 11_644_473_600])
});

const tableName = (s: Story, m: StoryMessage): string => `talk_${person(s, talkOf(s, m).members[0]!).number.slice(1)}`;
const perContact: Layout = {
	name: 'table-per-contact',
	groups: false,
	address: 'number',
	setUp: (db, s) => {
		db.exec('create table people(number text primary key, nick text)');
		for (const p of s.people) {
			db.run('insert into people values(?,?)', [p.number, p.name]);
			db.exec(`create table talk_${p.number.slice(1)}(n integer primary key, said text, clock real, own integer)`);
		}
	},
	insert: (db, s, m) => db.run(`insert into ${tableName(s, m)} values(?,?,?,?)`, [m.id, m.text, m.at / 1000, m.writer === 0 ? 1 : 0]),
	remove: (db, s, m) => db.run(`delete from ${tableName(s, m)} where n=?`, [m.id]),
	edit: (db, s, m, text) => db.run(`update ${tableName(s, m)} set said=? where n=?`, [text, m.id])
};

const digestName = (s: Story, m: StoryMessage): string =>
	`Msg_${createHash('md5')
		.update(person(s, talkOf(s, m).members[0]!).handle)
		.digest('hex')}`;
const perDigest: Layout = {
	name: 'table-per-digest',
	groups: false,
	address: 'handle',
	setUp: (db, s) => {
		db.exec('create table Friend(uid text, remark text)');
		for (const p of s.people) {
			db.run('insert into Friend values(?,?)', [p.handle, p.name]);
			db.exec(
				`create table Msg_${createHash('md5').update(p.handle).digest('hex')}(LocalId integer primary key autoincrement, CreateTime integer, Message text, Des integer)`
			);
		}
	},
	insert: (db, s, m) => db.run(`insert into ${digestName(s, m)} values(?,?,?,?)`, [m.id, m.at / 1000, m.text, m.writer === 0 ? 0 : 1]),
	remove: (db, s, m) => db.run(`delete from ${digestName(s, m)} where LocalId=?`, [m.id]),
	edit: (db, s, m, text) => db.run(`update ${digestName(s, m)} set Message=? where LocalId=?`, [text, m.id])
};

const jsonOf = (s: Story, m: StoryMessage, text = m.text): string =>
	JSON.stringify({
		id: m.guid,
		from: m.writer === 0 ? s.owner.handle : person(s, m.writer).handle,
		conv: talkOf(s, m).guid,
		at: new Date(m.at).toISOString(),
		body: { kind: 'text', text }
	});
const json = {
	name: 'json',
	groups: true,
	address: 'handle',
	setUp: (db: Engine, s: Story) => {
		db.exec(
			'create table docs(seq integer primary key autoincrement, json text); create table profiles(handle text primary key, name text); create table convs(guid text primary key, title text)'
		);
		for (const p of s.people) db.run('insert into profiles values(?,?)', [p.handle, p.name]);
		db.run('insert into profiles values(?,?)', [s.owner.handle, s.owner.name]);
		for (const t of s.talks) db.run('insert into convs values(?,?)', [t.guid, t.title]);
	},
	insert: (db: Engine, s: Story, m: StoryMessage) => db.run('insert into docs values(?,?)', [m.id, jsonOf(s, m)]),
	remove: (db: Engine, _s: Story, m: StoryMessage) => db.run('delete from docs where seq=?', [m.id]),
	edit: (db: Engine, s: Story, m: StoryMessage, text: string) => db.run('update docs set json=? where seq=?', [jsonOf(s, m, text), m.id])
} as unknown as Layout;

const utf16 = (encoding: 'UTF-16le' | 'UTF-16be'): Layout => ({ ...flat, name: encoding.toLowerCase(), encoding });

const guidKeys: Layout = {
	name: 'guid-keys',
	groups: true,
	address: 'number',
	setUp: (db, s) => {
		db.exec(
			'create table msgs(guid text primary key, chat text, sender text, payload text, stamp integer, flags integer); create table chats(guid text primary key, name text); create table book(number text, name text)'
		);
		for (const p of s.people) db.run('insert into book values(?,?)', [p.number, p.name]);
		for (const t of s.talks) db.run('insert into chats values(?,?)', [t.guid, t.title]);
	},
	insert: (db, s, m) =>
		db.run('insert into msgs values(?,?,?,?,?,?)', [
			m.guid,
			talkOf(s, m).guid,
			m.writer === 0 ? null : person(s, m.writer).number,
			m.text,
			Number(filetime(m.at) / 10n),
			1
		]),
	remove: (db, _s, m) => db.run('delete from msgs where guid=?', [m.guid]),
	edit: (db, _s, m, text) => db.run('update msgs set payload=? where guid=?', [text, m.guid])
};

const boxes: Layout = {
	name: 'two-boxes',
	groups: false,
	address: 'number',
	setUp: (db) =>
		db.exec(
			'create table inbox(k integer primary key, remote text, words text, stamp text); create table sentbox(k integer primary key, remote text, words text, stamp text)'
		),
	insert: (db, s, m) =>
		db.run(`insert into ${m.writer === 0 ? 'sentbox' : 'inbox'} values(?,?,?,?)`, [
			m.id,
			person(s, talkOf(s, m).members[0]!).number,
			m.text,
			new Date(m.at).toISOString().replace('.000', '')
		]),
	remove: (db, _s, m) => db.run(`delete from ${m.writer === 0 ? 'sentbox' : 'inbox'} where k=?`, [m.id]),
	edit: (db, _s, m, text) => db.run(`update ${m.writer === 0 ? 'sentbox' : 'inbox'} set words=? where k=?`, [text, m.id])
};

const signed = simple('signed-peer', 'log', 'id', 'line', {
	groups: false,
	address: 'number',
	setUp: (db, s) => {
		db.exec(
			'create table peers(id integer primary key, tel text, label text); create table log(id integer primary key, peer integer, line text, at integer)'
		);
		for (const p of s.people) db.run('insert into peers values(?,?,?)', [p.id, p.number, p.name]);
	},
	insert: (db, s, m) => {
		const p = talkOf(s, m).members[0]!;
		return db.run('insert into log values(?,?,?,?)', [m.id, m.writer === 0 ? -p : p, m.text, m.at]);
	}
});

const join = simple('thread-join', 'message', 'ROWID', 'text', {
	groups: true,
	address: 'number',
	setUp: (db, s) => {
		db.exec(`create table handle(ROWID integer primary key, id text); create table chat(ROWID integer primary key, guid text, display_name text);
			create table chat_handle_join(chat_id integer, handle_id integer); create table chat_message_join(chat_id integer, message_id integer, primary key(chat_id, message_id));
			create table message(ROWID integer primary key autoincrement, guid text, text text, handle_id integer, date integer, is_from_me integer)`);
		for (const p of s.people) db.run('insert into handle values(?,?)', [p.id, p.number]);
		for (const t of s.talks) {
			db.run('insert into chat values(?,?,?)', [t.id, t.guid, t.title]);
			for (const m of t.members) db.run('insert into chat_handle_join values(?,?)', [t.id, m]);
		}
	},
	insert: (db, _s, m) => {
		db.run('insert into message values(?,?,?,?,?,?)', [
			m.id,
			m.guid,
			m.text,
			m.writer,
			(m.at - APPLE_LIKE_EPOCH) / 1000,
			m.writer === 0 ? 1 : 0
		]);
		return db.run('insert into chat_message_join values(?,?)', [m.talk + 1, m.id]);
	}
});

const pair = simple('sender-recipient', 'items', 'id', 'txt', {
	groups: false,
	address: 'number',
	setUp: (db) => db.exec('create table items(id integer primary key autoincrement, a text, b text, txt text, t integer)'),
	insert: (db, s, m) => {
		const other = person(s, talkOf(s, m).members[0]!).number;
		return db.run('insert into items values(?,?,?,?,?)', [
			m.id,
			m.writer === 0 ? s.owner.number : other,
			m.writer === 0 ? other : s.owner.number,
			m.text,
			m.at
		]);
	}
});

const withoutRowid: Layout = {
	name: 'without-rowid',
	groups: false,
	address: 'number',
	setUp: (db, s) => {
		db.exec(
			'create table who(id integer primary key, phone text, called text); create table said(peer integer, n integer, mine integer, what text, at integer, primary key(peer, n)) without rowid'
		);
		for (const p of s.people) db.run('insert into who values(?,?,?)', [p.id, p.number, p.name]);
	},
	insert: (db, s, m) =>
		db.run('insert into said values(?,?,?,?,?)', [talkOf(s, m).members[0]!, m.id, m.writer === 0 ? 1 : 0, m.text, m.at]),
	remove: (db, _s, m) => db.run('delete from said where n=?', [m.id]),
	edit: (db, _s, m, text) => db.run('update said set what=? where n=?', [text, m.id])
};

export const LAYOUTS: readonly Layout[] = [
	flat,
	anonymousFlat,
	handles,
	threads,
	anonymousThreads,
	perContact,
	perDigest,
	json,
	utf16('UTF-16le'),
	utf16('UTF-16be'),
	guidKeys,
	boxes,
	signed,
	join,
	pair,
	withoutRowid,
	...MORE_LAYOUTS
];

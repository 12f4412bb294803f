/**
 * Layouts of programs that went on: what was deleted kept as a document in a bin, the words of what is answered beside one's
 * own, times counted from when somebody called, conversations called by a name and a number with who wrote in them; messages
 * as documents of BSON, or as forms are sent; and tables that a newer version of the program has moved, between two copies.
 */
import { Binary, ObjectId, serialize } from 'bson';
import type { Engine } from './engine';
import { added, addPersons, addRooms, idOf, OF_ALL, OF_TWO, OWN, pathOf, ROOMS_AND_PERSONS, writerOf, type Stored } from './layout-parts';
import { OWNER, type Composer, type Draft, type Layout } from './plainly';

/** The databases that the newer version of their program has moved. */
const MOVED = new WeakSet<Engine>();

const keyOf = (id: number): ObjectId => new ObjectId(id.toString(16).padStart(24, '65a1c0de'));
const document = (s: Composer, m: Draft, text = m.text): Uint8Array =>
	serialize({
		_id: keyOf(m.n + 5000),
		room: keyOf(m.room.i),
		from: keyOf(writerOf(m)),
		...(text === null ? {} : { body: text }),
		sent: s.unit === 'written' ? new Date(m.at) : s.time(m.at),
		...(m.file ? { file: { path: m.file.path, size: m.file.bytes.length } } : {})
	});

const form = (m: Draft, text = m.text): string => {
	const other = m.room.members[0]!.number;
	const fields = { action: 'message', from: m.who ? other : OWNER, to: m.who ? OWNER : other, text: text ?? '' };
	return new URLSearchParams(m.file ? { ...fields, file: m.file.path } : fields).toString();
};

/** When the calls began in which something was said, by database and with whom. */
const CALLS = new WeakMap<Engine, Map<number, { id: number; at: number }>>();
const CALL_LASTS = 5 * 86_400_000;

function callOf(db: Engine, s: Composer, m: Draft): { id: number; at: number } {
	const calls = CALLS.get(db) ?? new Map<number, { id: number; at: number }>();
	CALLS.set(db, calls);
	const last = calls.get(m.room.i);
	if (last && m.at - last.at < CALL_LASTS) return last;
	const begun = { id: added(db, 'call', [null, m.room.members[0]!.i, s.time(m.at), s.time(m.at + CALL_LASTS)]), at: m.at };
	calls.set(m.room.i, begun);
	return begun;
}

const ANSWERED = new WeakMap<Engine, Map<number, Draft>>();

export const LATER: Record<string, Layout> = {
	'documents of BSON': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(
				'create table messages(id blob primary key, doc blob); create table users(id blob primary key, doc blob); create table rooms(id blob primary key, doc blob)'
			);
			const put = (table: string, id: number, fields: object): number =>
				added(db, table, [keyOf(id).id, serialize({ _id: keyOf(id), ...fields })]);
			put('users', OWN, { name: 'Owen Farrow', phone: OWNER, me: true, picture: new Binary(Buffer.from([1, 2, 3])) });
			for (const p of s.people) put('users', idOf(p), { name: p.name, phone: p.number, me: false });
			for (const room of s.rooms) put('rooms', room.i, { title: room.title, members: [OWN, ...room.members.map(idOf)].map(keyOf) });
		},
		write: (db, s, m) => {
			m.id = [m.n + 5000];
			added(db, 'messages', [keyOf(m.n + 5000).id, document(s, m)]);
		},
		row: () => ['messages', 'id=?', 'doc'],
		edit: (db, m, text, _, s) => void db.run('update messages set doc=? where id=?', [document(s, m, text), keyOf(m.n + 5000).id] as never),
		remove: (db, m) => void db.run('delete from messages where id=?', [keyOf(m.n + 5000).id] as never)
	},
	'as forms are sent': {
		...OF_TWO,
		setUp: (db, s) => {
			db.exec(
				'create table queue(id integer primary key, created, payload text); create table address_book(number text primary key, full_name text)'
			);
			for (const p of s.people) added(db, 'address_book', [p.number, p.name]);
		},
		write: (db, s, m) => {
			m.id = [added(db, 'queue', [null, s.time(m.at), form(m)])];
		},
		row: () => ['queue', 'id=?', 'payload'],
		edit: (db, m, text) => void db.run('update queue set payload=? where id=?', [form(m, text), ...m.id])
	},
	'times from when a call began': {
		...OF_TWO,
		setUp: (db, s) => {
			db.exec(`create table call(call_id integer primary key, party_id integer, started, ended);
				create table party(party_id integer primary key, name text, phone text);
				create table utterance(utterance_id integer primary key, call_id integer, mine integer, words text, offset_ms integer, file text)`);
			for (const p of s.people) added(db, 'party', [p.i, p.name, p.number]);
		},
		write: (db, s, m) => {
			const call = callOf(db, s, m);
			const begun = s.unit === 'seconds' ? Math.floor(call.at / 1000) * 1000 : call.at;
			m.id = [added(db, 'utterance', [null, call.id, m.who ? 0 : 1, m.text, m.at - begun, pathOf(m)])];
		},
		row: () => ['utterance', 'utterance_id=?', 'words']
	},
	'a bin of documents': {
		...OF_ALL,
		bin: true,
		setUp: (db, s) => {
			db.exec(`${ROOMS_AND_PERSONS} create table message(id integer primary key, room_id integer, sender_id integer, body text, created_at, file text);
				create table trash(id integer primary key, table_name text, row_json text, deleted_at)`);
			addPersons(db, s);
			addRooms(db, s);
		},
		write: (db, s, m) => {
			m.id = [added(db, 'message', [null, m.room.i, writerOf(m), m.text, s.time(m.at), pathOf(m)])];
		},
		row: () => ['message', 'id=?', 'body'],
		toBin: (db, s, m, at) => {
			db.run('delete from message where id=?', m.id);
			const row = { id: m.id[0], room_id: m.room.i, sender_id: writerOf(m), body: m.text, created_at: s.time(m.at), file: pathOf(m) };
			added(db, 'trash', [null, 'message', JSON.stringify(row), s.time(at)]);
		}
	},
	'what is answered beside, and pins': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`${ROOMS_AND_PERSONS} create table message(id integer primary key, room_id integer, author_id integer, body text, sent, quote_id integer, quote_author integer, quote_text text, file text);
				create table pin(room_id integer, message_id integer, excerpt text, at)`);
			addPersons(db, s);
			addRooms(db, s);
			ANSWERED.set(db, new Map());
		},
		write: (db, s, m) => {
			const last = ANSWERED.get(db)!;
			const of = m.n % 3 === 0 ? last.get(m.room.i) : undefined;
			const quoted: Stored[] = of ? [of.id[0]!, writerOf(of), of.text] : [null, null, null];
			m.id = [added(db, 'message', [null, m.room.i, writerOf(m), m.text, s.time(m.at), ...quoted, pathOf(m)])];
			if (m.text === null) return;
			last.set(m.room.i, m);
			if (m.n % 11 === 0) added(db, 'pin', [m.room.i, m.id[0]!, m.text.slice(0, 24), s.time(m.at + 90_000)]);
		},
		row: () => ['message', 'id=?', 'body']
	},
	'conversations by a name, and who wrote': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table dialogs(dialog_id integer primary key, caption text, with_number text);
				create table notes(note_id integer primary key, dialog_id integer, by_me integer, by_name text, wording text, posted, changes text, file text)`);
			for (const room of s.rooms) {
				const [p] = room.members;
				added(db, 'dialogs', [room.i, room.title ?? p!.name, room.title === null ? p!.number : null]);
			}
		},
		write: (db, s, m) => {
			m.id = [added(db, 'notes', [null, m.room.i, m.who ? 0 : 1, m.who?.name ?? null, m.text, s.time(m.at), '[]', pathOf(m)])];
		},
		row: () => ['notes', 'note_id=?', 'wording'],
		edit: (db, m, text, at, s) =>
			void db.run("update notes set changes=json_array(json_object('wording', wording, 'until', ?)), wording=? where note_id=?", [
				s.time(at) as string,
				text,
				...m.id
			])
	},
	'moved to another table': {
		...OF_ALL,
		counted: true,
		setUp: (db, s) => {
			db.exec(`${ROOMS_AND_PERSONS} create table msg(id integer primary key, room integer, sender integer, txt text, ts, file text)`);
			addPersons(db, s);
			addRooms(db, s);
		},
		write: (db, s, m) => {
			m.id = [m.n + 1];
			if (MOVED.has(db)) added(db, 'messages_v2', [m.n + 1, writerOf(m), m.room.i, s.time(m.at), m.text, 0, pathOf(m), null]);
			else added(db, 'msg', [m.n + 1, m.room.i, writerOf(m), m.text, s.time(m.at), pathOf(m)]);
		},
		row: () => ['msg', 'id=?', 'txt'],
		edit: (db, m, text) =>
			void db.run(MOVED.has(db) ? 'update messages_v2 set body=? where message_id=?' : 'update msg set txt=? where id=?', [text, ...m.id]),
		remove: (db, m) => void db.run(MOVED.has(db) ? 'delete from messages_v2 where message_id=?' : 'delete from msg where id=?', m.id),
		upgrade: (db) => {
			MOVED.add(db);
			db.exec(`create table messages_v2(message_id integer primary key, sender_id integer, room_id integer, sent_at, body text, edited integer, attachment_path text, reactions text);
				insert into messages_v2 select id, sender, room, ts, txt, 0, file, null from msg;
				drop table msg`);
		}
	},
	'persons instead of numbers': {
		...OF_TWO,
		counted: true,
		setUp: (db, s) => {
			db.exec(
				'create table sms(_id integer primary key, address text, incoming integer, body text, date, file text); create table contacts(number text primary key, name text)'
			);
			for (const p of s.people) added(db, 'contacts', [p.number, p.name]);
		},
		write: (db, s, m) => {
			const [p] = m.room.members;
			m.id = [m.n + 1];
			if (MOVED.has(db)) added(db, 'message', [m.n + 1, idOf(p!), m.who ? 1 : 2, s.time(m.at), m.text, pathOf(m)]);
			else added(db, 'sms', [m.n + 1, p!.number, m.who ? 1 : 0, m.text, s.time(m.at), pathOf(m)]);
		},
		row: () => ['sms', '_id=?', 'body'],
		edit: (db, m, text) =>
			void db.run(MOVED.has(db) ? 'update message set content=? where message_id=?' : 'update sms set body=? where _id=?', [text, ...m.id]),
		remove: (db, m) => void db.run(MOVED.has(db) ? 'delete from message where message_id=?' : 'delete from sms where _id=?', m.id),
		upgrade: (db, s) => {
			MOVED.add(db);
			db.exec(`create table recipient(recipient_id integer primary key, phone text, display_name text);
				create table message(message_id integer primary key, recipient_id integer, box integer, stamp, content text, file_path text)`);
			for (const p of s.people) {
				added(db, 'recipient', [idOf(p), p.number, p.name]);
				db.run('insert into message select _id, ?, case incoming when 1 then 1 else 2 end, date, body, file from sms where address=?', [
					idOf(p),
					p.number
				]);
			}
			db.exec('drop table sms; drop table contacts');
		}
	},
	'keys, put together anew': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table message(uid text, thread text, sender text, body text, time, file text);
				create table thread(uid text, name text, members text);
				create table contact(address text, name text)`);
			for (const p of s.people) added(db, 'contact', [p.number, p.name]);
			for (const room of s.rooms) added(db, 'thread', [uidOf(room.i), room.title, room.members.map((p) => p.number).join(';')]);
		},
		write: (db, s, m) => {
			m.id = [uidOf(m.n + 900)];
			added(db, 'message', [uidOf(m.n + 900), uidOf(m.room.i), m.who?.number ?? '', m.text, s.time(m.at), pathOf(m)]);
		},
		row: () => ['message', 'uid=?', 'body'],
		upgrade: (db) => db.exec('vacuum')
	},
	'computed columns': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`${ROOMS_AND_PERSONS} create table message(id integer primary key, letters integer generated always as (length(body)) virtual, room_id integer, author_id integer,
				has_file integer as (file is not null) stored, body text, sent, file text)`);
			addPersons(db, s);
			addRooms(db, s);
		},
		write: (db, s, m) => {
			const values = [m.room.i, writerOf(m), m.text, s.time(m.at), pathOf(m)];
			m.id = [db.run('insert into message(room_id, author_id, body, sent, file) values(?,?,?,?,?)', values).lastInsertRowid];
		},
		row: () => ['message', 'id=?', 'body'],
		upgrade: (db) =>
			db.exec('alter table message add column flags integer not null default 3; alter table message add column answers integer')
	}
};

/** A key that says nothing (UUID version 4 by its form). */
function uidOf(n: number): string {
	const digits = (n * 2_654_435_761).toString(16).padStart(12, '0').slice(-12);
	return `${digits.slice(0, 8)}-${digits.slice(8)}-4${digits.slice(1, 4)}-a${digits.slice(5, 8)}-${digits}`;
}

/**
 * Layouts that share out what others keep together: a table for each month, a number for each message of its room, the time
 * in one of two columns, those in a room named in each message, all of a message in one text with signs between, and a
 * table for each conversation that a list of them names.
 */
import { added, addPersons, addRooms, idOf, OF_ALL, OF_TWO, OWN, pathOf, ROOMS_AND_PERSONS, writerOf, type Stored } from './layout-parts';
import type { Composer, Draft, Layout } from './plainly';
import type { Engine } from './engine';

const line = (m: Draft, text: string | null): string =>
	['M', m.room.i, writerOf(m), Math.floor(m.at / 1000), pathOf(m) ?? '', text ?? ''].join('|');
const monthOf = (m: Draft): string => `message_${new Date(m.at).toISOString().slice(0, 7).replace('-', '_')}`;

const tableOf = (room: Composer['rooms'][number]): string => `t_${'qxkwzvjy'[room.i % 8]!}${(room.i * 7919 + 104_729).toString(36)}`;

const withPersons = (tables: string) => (db: Engine, s: Composer) => {
	db.exec(`${ROOMS_AND_PERSONS} ${tables}`);
	addPersons(db, s);
	addRooms(db, s);
};

export const SHARED_OUT: Record<string, Layout> = {
	'fields with a sign between': {
		...OF_ALL,
		edits: false,
		setUp: withPersons('create table queue(id integer primary key, line text)'),
		write: (db, _, m) => {
			m.at = Math.floor(m.at / 1000) * 1000;
			m.id = [added(db, 'queue', [null, line(m, m.text)])];
		},
		row: () => ['queue', 'id=?', 'line']
	},
	'a time where it was sent, and one where it was received': {
		...OF_ALL,
		needsGroup: true,
		setUp: (db, s) => {
			db.exec(`create table letter(id integer primary key, address text, recipients text, body text, sent, received, file text);
				create table contact(id integer primary key, display_name text, number text)`);
			for (const p of s.people) added(db, 'contact', [p.i, p.name, p.number]);
		},
		write: (db, s, m) => {
			const { title, members } = m.room;
			const all = members.map((p) => p.number).sort();
			const at: Stored[] = m.who ? [null, s.time(m.at)] : [s.time(m.at), null];
			const address = m.who?.number ?? (title === null ? members[0]!.number : null);
			m.id = [added(db, 'letter', [null, address, title === null ? null : all.join(';'), m.text, ...at, pathOf(m)])];
		},
		row: () => ['letter', 'id=?', 'body']
	},
	'a table for each month': {
		...OF_ALL,
		setUp: withPersons(''),
		write: (db, s, m) => {
			db.exec(
				`create table if not exists ${monthOf(m)}(id integer primary key, room_id integer, author_id integer, body text, sent, file text)`
			);
			m.id = [added(db, monthOf(m), [m.n + 1, m.room.i, writerOf(m), m.text, s.time(m.at), pathOf(m)])];
		},
		row: (m) => [monthOf(m), 'id=?', 'body']
	},
	'a table for each conversation, called as a list of them says': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec('create table member(id integer primary key, name text, phone text, is_me integer)');
			db.exec('create table talk_index(id integer primary key, table_name text, title text, members text)');
			addPersons(db, s);
			for (const room of s.rooms) {
				const members = [OWN, ...room.members.map(idOf)].join(',');
				added(db, 'talk_index', [room.i, tableOf(room), room.title, members]);
				db.exec(`create table ${tableOf(room)}(id integer primary key, author_id integer, body text, sent, file text)`);
			}
		},
		write: (db, s, m) => {
			m.id = [++m.room.lines];
			added(db, tableOf(m.room), [...m.id, writerOf(m), m.text, s.time(m.at), pathOf(m)]);
		},
		row: (m) => [tableOf(m.room), 'id=?', 'body']
	},
	'kinds that a list has the words of': {
		...OF_ALL,
		setUp: (db, s) => {
			withPersons(`create table kind(id integer primary key, word text);
				create table message(id integer primary key, room_id integer, author_id integer, kind_id integer, body text, sent, file text)`)(db, s);
			for (const word of ['text', 'picture', 'document', 'system']) added(db, 'kind', [null, word]);
		},
		write: (db, s, m) => {
			const kind = m.file === null ? 1 : m.file.type.startsWith('image') ? 2 : 3;
			m.id = [m.n * 2 + 1];
			added(db, 'message', [...m.id, m.room.i, writerOf(m), kind, m.text, s.time(m.at), pathOf(m)]);
			// Too few to be told by what they say.
			if (m.n % 41 === 7) added(db, 'message', [m.n * 2 + 2, m.room.i, writerOf(m), 4, 'changed the picture', s.time(m.at + 900), null]);
		},
		row: () => ['message', 'id=?', 'body']
	},
	'a number for each message of its room': {
		...OF_TWO,
		setUp: withPersons(`create table message(room_id integer, seq integer, author_id integer, body text, sent, file text,
			primary key(room_id, seq)) without rowid`),
		write: (db, s, m) => {
			m.id = [m.room.i, ++m.room.lines];
			added(db, 'message', [...m.id, writerOf(m), m.text, s.time(m.at), pathOf(m)]);
		},
		row: () => ['message', 'room_id=? and seq=?', 'body']
	}
};

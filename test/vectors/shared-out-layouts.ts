/**
 * Layouts that share out what others keep together: a table for each month, a number for each message of its room, the time
 * in one of two columns, those in a room named in each message, and all of a message in one text with signs between.
 */
import { added, addPersons, addRooms, OF_ALL, OF_TWO, pathOf, ROOMS_AND_PERSONS, writerOf, type Stored } from './layout-parts';
import type { Composer, Draft, Layout } from './plainly';
import type { Engine } from './engine';

const line = (m: Draft, text: string | null): string =>
	['M', m.room.i, writerOf(m), Math.floor(m.at / 1000), pathOf(m) ?? '', text ?? ''].join('|');
const monthOf = (m: Draft): string => `message_${new Date(m.at).toISOString().slice(0, 7).replace('-', '_')}`;

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

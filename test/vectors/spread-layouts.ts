/**
 * Layouts that spread what a message is: its time over six columns, those to whom it went over rows of keys, whom it is with
 * over the one column or the other, what became of it over a feed of changes, each try to send it over rows that say it again;
 * all kinds of rows in one table of columns without a meaning; and a text that is blanked when the message is deleted.
 */
import type { Engine } from './engine';
import { added, addPersons, addRooms, idOf, json, OF_ALL, OWN, pathOf, ROOMS_AND_PERSONS, writerOf } from './layout-parts';
import { insertInto, OWNER, type Composer, type Layout } from './plainly';

const change = (db: Engine, s: Composer, op: string, of: string, key: number, row: object | null, at: number): number =>
	added(db, 'changes', [null, op, of, String(key), row && json(row), s.time(at)]);

/** Numbers in the one table of all: persons from 10 on, conversations from 60, who takes part from 200, messages from 1000. */
const talkOf = (room: Composer['rooms'][number]): number => room.i + 60;

export const SPREAD: Record<string, Layout> = {
	'a column for each part of the time': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`${ROOMS_AND_PERSONS} create table message(id integer primary key, room_id integer, author_id integer, body text,
				year integer, month integer, day integer, hour integer, minute integer, second integer, file text)`);
			addPersons(db, s);
			addRooms(db, s);
		},
		write: (db, _, m) => {
			m.at = Math.floor(m.at / 1000) * 1000;
			const d = new Date(m.at);
			const parts = [d.getUTCFullYear(), d.getUTCMonth() + 1, d.getUTCDate(), d.getUTCHours(), d.getUTCMinutes(), d.getUTCSeconds()];
			m.id = [added(db, 'message', [null, m.room.i, writerOf(m), m.text, ...parts, pathOf(m)])];
		},
		row: () => ['message', 'id=?', 'body']
	},
	'those to whom it went in rows': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table member(id integer primary key, name text, phone text, is_me integer);
				create table message(id integer primary key, root_id integer, author_id integer, body text, sent, file text);
				create table message_recipient(message_id integer, member_id integer, kind text)`);
			addPersons(db, s);
		},
		write: (db, s, m) => {
			m.room.lines ||= m.n + 1;
			m.id = [added(db, 'message', [m.n + 1, m.room.lines, writerOf(m), m.text, s.time(m.at), pathOf(m)])];
			for (const id of [OWN, ...m.room.members.map(idOf)]) if (id !== writerOf(m)) added(db, 'message_recipient', [m.id[0]!, id, 'to']);
		},
		row: () => ['message', 'id=?', 'body'],
		more: ['message_recipient where message_id=?']
	},
	'with whom, or in which room': {
		...OF_ALL,
		named: false,
		address: 'handle',
		needsGroup: true,
		setUp: (db) =>
			db.exec('create table line(line_id integer primary key, with_nick text, room text, by_nick text, said text, at, file text)'),
		write: (db, s, m) => {
			const { title, members } = m.room;
			m.id = [
				added(db, 'line', [
					null,
					title === null ? members[0]!.handle : null,
					title,
					m.who?.handle ?? 'owen_farrow',
					m.text,
					s.time(m.at),
					pathOf(m)
				])
			];
		},
		row: () => ['line', 'line_id=?', 'said']
	},
	'a feed of changes': {
		...OF_ALL,
		removes: 'binned',
		setUp: (db, s) => {
			db.exec('create table changes(seq integer primary key, op text, of text, pk text, row text, at)');
			const at = Date.UTC(2025, 0, 2);
			change(db, s, 'insert', 'person', OWN, { id: OWN, name: 'Owen Farrow', phone: OWNER, me: true }, at);
			for (const p of s.people) change(db, s, 'insert', 'person', idOf(p), { id: idOf(p), name: p.name, phone: p.number, me: false }, at);
			for (const room of s.rooms)
				change(db, s, 'insert', 'room', room.i, { id: room.i, title: room.title, members: [OWN, ...room.members.map(idOf)] }, at);
		},
		write: (db, s, m) => {
			m.id = [m.n + 1];
			const row = { id: m.n + 1, room: m.room.i, from: writerOf(m), text: m.text, at: s.time(m.at), file: pathOf(m) };
			change(db, s, 'insert', 'message', m.n + 1, row, m.at + 400);
		},
		row: () => ['changes', 'pk=?', 'row'],
		edit: (db, m, text, at, s) => void change(db, s, 'update', 'message', m.n + 1, { text }, at),
		remove: (db, m, at) => void db.run(insertInto('changes', 6), [null, 'delete', 'message', String(m.n + 1), null, at])
	},
	'each try to send it': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`${ROOMS_AND_PERSONS} create table message(id integer primary key, room_id integer, author_id integer, body text, sent, file text);
				create table send_attempt(id integer primary key, message_id integer, payload text, tried, result integer)`);
			addPersons(db, s);
			addRooms(db, s);
		},
		write: (db, s, m) => {
			m.id = [m.n + 1];
			added(db, 'message', [m.n + 1, m.room.i, writerOf(m), m.text, s.time(m.at), pathOf(m)]);
			for (let i = 0; i < (m.who ? 0 : 1 + (m.n % 3)); i++)
				added(db, 'send_attempt', [null, m.n + 1, m.text ?? '', s.time(m.at + i * 7000), i === 0 ? 1 : 0]);
		},
		row: () => ['message', 'id=?', 'body']
	},
	'one table of columns without a meaning': {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec('create table entity(id integer primary key, class text, t1 text, t2 text, n1 integer, n2 integer, n3)');
			added(db, 'entity', [OWN, 'person', 'Owen Farrow', OWNER, 1, 0, null]);
			for (const p of s.people) added(db, 'entity', [idOf(p), 'person', p.name, p.number, 0, 0, null]);
			for (const room of s.rooms) {
				const members = [OWN, ...room.members.map(idOf)];
				added(db, 'entity', [talkOf(room), 'conversation', room.title, null, members.length, 0, null]);
				for (const [k, id] of members.entries()) added(db, 'entity', [200 + room.i * 10 + k, 'member', null, null, talkOf(room), id, null]);
			}
		},
		write: (db, s, m) => {
			m.id = [m.n + 1000];
			added(db, 'entity', [m.n + 1000, 'message', m.text, pathOf(m), talkOf(m.room), writerOf(m), s.time(m.at)]);
		},
		row: () => ['entity', 'id=?', 't1']
	}
};

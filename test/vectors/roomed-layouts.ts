/**
 * Layouts in which who wrote, and in which room, is told by little: rooms in few rows beside a number, writers as small
 * numbers that only a list of members bears out, conversations of two and of several in one list of documents. Files lie
 * under their digests in the program's own folder.
 */
import { createHash } from 'node:crypto';
import type { Engine } from './engine';
import { insertInto, OWNER, type Cell, type Composer, type Layout } from './plainly';

const digestOf = (...parts: (string | number)[]): string => createHash('sha256').update(parts.join()).digest('hex');
/** Sixteen digits, as programs draw them by lot. */
const keyOf = (...parts: (string | number)[]): string => digestOf(...parts).slice(0, 16);
const OF_ALL = { groups: true, bin: false, named: true, counted: false, address: 'number', listed: false, needsGroup: true } as const;

const jobs = (db: Engine, s: Composer, table: string): void => {
	db.exec(`create table ${table}(k integer primary key, job text, due integer)`);
	for (let i = 0; i < 14; i++) db.run(insertInto(table, 3), [null, s.r.pick(['sync', 'clean', 'backup']), 1_738_000_000 + i * 7919]);
};

export const ROOMED: Record<string, Layout> = {
	beside: {
		...OF_ALL,
		named: false,
		setUp: (db, s) => {
			db.exec(`create table texts(_n integer primary key, peer text, grp text, dir integer, st integer, t, content text, pic text, seen integer);
				create table grp(gid text primary key, subject text, made integer);
				create table grp_mem(gid text, num text)`);
			for (const room of s.rooms.filter((one) => one.title !== null)) {
				db.run(insertInto('grp', 3), [keyOf('room', room.i), room.title, 1_738_500_000]);
				for (const p of room.members) db.run(insertInto('grp_mem', 2), [keyOf('room', room.i), p.number]);
			}
			jobs(db, s, 'sched');
		},
		write: (db, s, m) => {
			const room = m.room.title === null ? null : keyOf('room', m.room.i);
			const peer = m.who?.number ?? (room === null ? m.room.members[0]!.number : null);
			const values: Cell[] = [null, peer, room, m.who ? 1 : 0, 0, s.time(m.at), m.text, m.file?.path ?? null, m.n % 2];
			m.id = [db.run(insertInto('texts', 9), values).lastInsertRowid];
		},
		row: () => ['texts', '_n=?', 'content']
	},
	members: {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table msg(mid integer primary key, tid integer, from_id integer, outbound integer, stamp, kind integer, hidden integer default 0);
				create table msg_text(mid integer primary key, txt text);
				create table thr(tid integer primary key, title text, is_group integer, newest integer);
				create table who(wid integer primary key, msisdn text, first text, surname text);
				create table thr_who(tid integer, wid integer, primary key(tid, wid)) without rowid;
				create table att(mid integer, local text, hash text, size integer, orig text)`);
			for (const p of s.people) db.run(insertInto('who', 4), [wid(p.i), p.number, ...p.name.split(' ')]);
			for (const room of s.rooms) {
				db.run(insertInto('thr', 4), [room.i, room.title, room.title === null ? 0 : 1, 0]);
				for (const p of room.members) db.run(insertInto('thr_who', 2), [room.i, wid(p.i)]);
			}
		},
		write: (db, s, m) => {
			const { lastInsertRowid: mid } = db.run('insert into msg(tid, from_id, outbound, stamp, kind) values(?,?,?,?,?)', [
				m.room.i,
				m.who ? wid(m.who.i) : 0,
				m.who ? 0 : 1,
				s.time(m.at),
				m.file ? 1 : 0
			]);
			m.id = [mid];
			if (m.text !== null) db.run(insertInto('msg_text', 2), [mid, m.text]);
			if (!m.file) return;
			m.file.path = `files/${m.file.sha256.slice(0, 2)}/${m.file.sha256}`;
			db.run(insertInto('att', 5), [mid, m.file.path, m.file.sha256, m.file.bytes.length, m.file.name]);
		},
		row: (m) => [m.edits.length > 0 ? 'msg_text' : 'msg', 'mid=?', 'txt'],
		more: ['msg_text where mid=?', 'att where mid=?'],
		remove: (db, m) => {
			for (const table of ['msg', 'msg_text', 'att']) db.run(`delete from ${table} where mid=?`, m.id);
		}
	},
	talks: {
		...OF_ALL,
		setUp: (db, s) => {
			db.exec(`create table docs(key text primary key, conv text, ts, json text) without rowid;
				create table convs(key text primary key, json text);
				create table profile(k text, v text)`);
			db.run(insertInto('profile', 2), ['self_id', OWNER]);
			for (const room of s.rooms) {
				const numbers = room.members.map((p) => p.number);
				const talk =
					room.title === null
						? { type: 'direct', name: room.members[0]!.name, members: numbers, peer: numbers[0] }
						: { type: 'group', name: room.title, members: [...numbers, OWNER] };
				db.run(insertInto('convs', 2), [digestOf('talk', room.i).slice(0, 32), JSON.stringify(talk)]);
			}
		},
		write: (db, s, m) => {
			m.id = [digestOf('doc', m.n, m.at).slice(0, 32)];
			const files = m.file ? [{ fileName: m.file.name, contentType: m.file.type, size: m.file.bytes.length, path: m.file.path }] : [];
			const json = {
				id: m.id[0],
				body: m.text,
				sentBy: m.who?.number ?? OWNER,
				outgoing: m.who === null,
				sent_at: s.time(m.at),
				...(m.file ? { attachments: files } : {})
			};
			db.run(insertInto('docs', 4), [m.id[0]!, digestOf('talk', m.room.i).slice(0, 32), s.time(m.at), JSON.stringify(json)]);
		},
		row: () => ['docs', 'key=?', 'json'],
		edit: (db, m, text) =>
			void db.run("update docs set json=json_set(json, '$.body', ?, '$.edited', json('true')) where key=?", [text, ...m.id])
	}
};

/** Persons are numbered from one: small numbers, which are keys of anything. */
const wid = (i: number): number => i - 10;

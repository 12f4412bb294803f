/** A layout in which every string stands once, in a table of its own: texts, names, numbers, titles and files' names by their numbers there. */
import { insertInto, type Composer, type Draft, type Layout } from './plainly';
import type { Engine } from './engine';

function stringOf(db: Engine, s: string | null): number | null {
	if (s === null) return null;
	const [known] = db.all('select id from str where s=?', [s]);
	return known ? Number(known['id']) : Number(db.run('insert into str(s) values(?)', [s]).lastInsertRowid);
}

export const STRINGS: Record<string, Layout> = {
	strings: {
		groups: true,
		bin: false,
		named: true,
		counted: false,
		address: 'number',
		listed: false,
		setUp: (db: Engine, s: Composer) => {
			db.exec(`create table str(id integer primary key autoincrement, s text unique);
				create table person(id integer primary key, number_s integer, name_s integer);
				create table room(id integer primary key, title_s integer);
				create table room_person(room integer, person integer, primary key(room, person));
				create table said(id integer primary key autoincrement, room integer, person integer, at, mine integer, text_s integer, seen integer);
				create table file(id integer primary key, said integer, name_s integer, kind_s integer)`);
			for (const p of s.people) db.run(insertInto('person', 3), [p.i, stringOf(db, p.number), stringOf(db, p.name)]);
			for (const room of s.rooms) {
				db.run(insertInto('room', 2), [room.i, stringOf(db, room.title)]);
				for (const p of room.members) db.run(insertInto('room_person', 2), [room.i, p.i]);
			}
		},
		write: (db: Engine, s: Composer, m: Draft) => {
			const values = [null, m.room.i, m.who?.i ?? null, s.time(m.at), m.who ? 0 : 1, stringOf(db, m.text), 1];
			const said = db.run(insertInto('said', 7), values).lastInsertRowid;
			m.id = [said];
			if (m.file) db.run(insertInto('file', 4), [null, said, stringOf(db, m.file.path), stringOf(db, m.file.type)]);
		},
		row: () => ['said', 'id=?', 'text_s'],
		edit: (db, m, text) => void db.run('update said set text_s=? where id=?', [stringOf(db, text), ...m.id]),
		remove: (db, m) => {
			const [row] = db.all('select text_s from said where id=?', m.id);
			for (const from of ['said where id', 'file where said']) db.run(`delete from ${from}=?`, m.id);
			const text = Number(row?.['text_s']);
			if (db.all('select 1 from said where text_s=?', [text]).length === 0) db.run('delete from str where id=?', [text]);
		}
	}
};

/** What layouts have in common: persons and rooms in tables of their own, the owner among them, and rows that name these. */
import type { Engine } from './engine';
import { insertInto, OWNER, type Composer, type Draft } from './plainly';

export const OF_ALL = { groups: true, bin: false, named: true, counted: false, address: 'number', listed: false } as const;
export const OF_TWO = { ...OF_ALL, groups: false } as const;
/** The owner's number in a list of persons; others have theirs from 20 on. */
export const OWN = 1;
export type Stored = string | number | null | Uint8Array;

export const added = (db: Engine, table: string, values: Stored[]): number =>
	db.run(insertInto(table, values.length), values as never).lastInsertRowid;
export const idOf = (p: Composer['people'][number]): number => p.i + 10;
export const writerOf = (m: Draft): number => (m.who ? idOf(m.who) : OWN);
export const pathOf = (m: Draft): string | null => m.file?.path ?? null;
export const json = (value: unknown): string => JSON.stringify(value);

export const ROOMS_AND_PERSONS = `create table room(id integer primary key, title text);
	create table room_member(room_id integer, member_id integer);
	create table member(id integer primary key, name text, phone text, is_me integer);`;

export function addPersons(db: Engine, s: Composer, table = 'member'): void {
	added(db, table, [OWN, 'Owen Farrow', OWNER, 1]);
	for (const p of s.people) added(db, table, [idOf(p), p.name, p.number, 0]);
}

/** Rooms with whom they are of, the owner among them. */
export function addRooms(db: Engine, s: Composer, table = 'room', members = 'room_member'): void {
	for (const room of s.rooms) {
		added(db, table, [room.i, room.title]);
		for (const id of [OWN, ...room.members.map(idOf)]) added(db, members, [room.i, id]);
	}
}

/** Copies of a program that forgets, and what others kept meanwhile: little is in two of them, and each must find its like. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { HOUR, NAMES, number, OWN, said, START } from '../vectors/said';
import { looked, written, type Put } from '../vectors/written';

const at = (i: number): number => START + i * 31 * HOUR + ((i * 397) % 1000);
const isOut = (i: number): boolean => i % 5 < 2;

describe('pages of a day', () => {
	const tables = `create table day(talk text, day text, list text, primary key(talk, day)); create table talk(talk text primary key, name text, people text);
		create table people(key text primary key, name text, number text, self integer)`;
	const talkOf = (i: number): string => `5536172${i % 3}-5ecf-4885-a326-78508c7d6baf`;
	const key = (i: number): string => NAMES[i]!.split(' ')[0]!.toLowerCase();
	const persons = (put: Put): void => {
		put('people', 'piet', 'Piet Hallorann', OWN, 1);
		for (const [i, name] of NAMES.entries()) {
			put('people', key(i), name, number(i), 0);
			put('talk', talkOf(i), null, JSON.stringify([key(i)]));
		}
	};

	it('are of the conversation that the key of their table names, though no other has any in use', () => {
		const [first, last] = written((db, put, copy) => {
			db.exec(`pragma secure_delete = off; ${tables}`);
			persons(put);
			for (let i = 0; i < 30; i++) {
				const list = [0, 1].map((k) => ({
					id: `k${i}-${k}`,
					from: isOut(i + k) ? 'piet' : key(i % 3),
					ts: at(i) + k * 60_000,
					body: said(i * 2 + k)
				}));
				put('day', talkOf(i), new Date(at(i)).toISOString().slice(0, 10), JSON.stringify(list));
			}
			copy();
			db.run('delete from day where talk <> ?', [talkOf(1)]);
		});
		const { threads } = looked({ '2025-02-20/days.db': first!, '2025-02-27/days.db': last! }).findings().weave;
		assert.deepEqual(
			threads.map((t) => [t.address, t.messages.length, t.messages.filter((m) => m.standing === 'kept').length]).sort(),
			[0, 1, 2].map((i) => [number(i), 20, i === 1 ? 20 : 0])
		);
	});
});

describe('copies that have but what is left in common', () => {
	it('are of one store where that is the beginning of what the other has', () => {
		const long = (i: number): string => `${said(i)}${', and nobody says when the plant starts again'.repeat(6)}`;
		const tables = `create table line(id integer primary key autoincrement, who text, mine integer, stamp integer, words text); create table person(number text primary key, name text)`;
		const [january] = written((db, put) => {
			db.exec(tables);
			for (const [i, name] of NAMES.entries()) put('person', number(i), name);
			for (let i = 0; i < 20; i++) put('line', i + 1, number(i % 3), isOut(i) ? 1 : 0, at(i), long(i));
		});
		const [march] = written((db, put) => {
			db.exec(`pragma secure_delete = off; ${tables}`);
			for (const [i, name] of NAMES.entries()) put('person', number(i), name);
			for (let i = 16; i < 28; i++) put('line', i + 1, number(i % 3), isOut(i) ? 1 : 0, at(i), long(i));
			// A newer row lies over the last words of each that was deleted.
			for (let i = 19; i >= 16; i--) {
				db.run('delete from line where id = ?', [i + 1]);
				const newer = 59 - i;
				put('line', newer + 1, number(newer % 3), isOut(newer) ? 1 : 0, at(newer), `${said(newer)} ${'again '.repeat(20)}`);
			}
		});
		const weave = looked({ 'copy of January/lines.db': january!, 'copy of March/lines.db': march! }).findings().weave;
		assert.deepEqual(
			weave.families.map((f) => f.captures.length),
			[2]
		);
		const all = weave.threads.flatMap((t) => t.messages);
		assert.deepEqual([all.length, all.filter((m) => m.standing === 'kept').length], [32, 12]);
	});
});

describe('what somebody exported of a room', () => {
	it('was received where the owner is known by what both have, also from those who are met in none of that', () => {
		const [phone] = written((db, put) => {
			db.exec(`create table line(id integer primary key, talk integer, who integer, stamp integer, words text); create table talk(id integer primary key, label text);
				create table talk_person(talk integer, person integer); create table person(id integer primary key, name text, number text, own integer)`);
			put('person', 9, 'Piet Hallorann', OWN, 1);
			put('talk', 1, 'Plant desk');
			put('talk', 2, null);
			for (const [i, name] of NAMES.entries()) {
				put('person', i + 1, name, number(i), 0);
				put('talk_person', 1, i + 1);
			}
			for (const [talk, person] of [
				[1, 9],
				[2, 1],
				[2, 9]
			])
				put('talk_person', talk!, person!);
			// The phone keeps what was said since the twentieth message, when Bram wrote no more.
			for (let i = 20; i < 60; i++) put('line', i + 1, i % 4 ? 1 : 2, isOut(i) ? 9 : i % 4 ? 1 + (i % 2) : 1, at(i), said(i));
		});
		const stamp = (i: number): string => new Date(at(i)).toISOString().replace('T', ' ').slice(0, 19);
		const writer = (i: number): string => (isOut(i) ? 'Piet Hallorann' : i < 20 ? 'Bram Vesterholt' : NAMES[i % 2]!);
		const room = Array.from({ length: 50 }, (_, i) => i).filter((i) => i % 4);
		const text = room.map((i) => `[${stamp(i)}] ${writer(i)}: ${said(i)}`).join('\n');
		const { threads } = looked({ 'phone/lines.db': phone!, 'Plant desk.txt': new TextEncoder().encode(`${text}\n`) }).findings().weave;
		const desk = threads.find((t) => t.title === 'Plant desk')!;
		const ways = new Map(desk.messages.map((m) => [m.first.text!, m.first.direction]));
		for (const i of room) assert.equal(ways.get(said(i)), isOut(i) ? 'out' : 'in', said(i));
	});
});

/** Messages to a person or to a room, in one column; and tables that a program begins anew each month. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { looked, written } from '../vectors/written';

const START = Date.UTC(2025, 0, 14, 6);
const HOUR = 3_600_000;
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const said = (i: number): string => `Nobody came to look at the pump, and it is cold, ${i}`;
const at = (i: number): number => START + i * 29 * HOUR;
const writer = (i: number): number => (i % 2 === 0 ? 1 + (i % 3) : 0);

/** Messages, a table for each month; of those that `inRoom` says one is in the room, else with one person. */
function store(inRoom: (i: number) => boolean): Uint8Array {
	const [bytes] = written((db, put) => {
		db.exec('create table groups(gid text primary key, title text); create table directory(no text primary key, name text)');
		for (const [i, name] of NAMES.entries()) put('directory', number(i), name);
		put('groups', 'g:1', 'Stairwell B');
		put('groups', 'g:2', 'Garden rota');
		for (let i = 0; i < 100; i++) {
			const stamp = new Date(at(i)).toISOString().replace(/\D/g, '').slice(0, 14);
			const table = `log_${stamp.slice(0, 4)}_${stamp.slice(4, 6)}`;
			db.exec(`create table if not exists ${table}(n integer primary key, from_no text, to_no text, stamp text, body text)`);
			const partner = 1 + (i % 3);
			const to = inRoom(i) ? (i % 10 < 6 ? 'g:1' : 'g:2') : number(writer(i) === 0 ? partner : 0);
			put(table, i + 1, number(writer(i)), to, stamp, said(i));
		}
	});
	return bytes!;
}

describe('a column of persons and rooms, in tables of a month each', () => {
	for (const [what, inRoom] of [
		['few of them in rooms', (i: number): boolean => [3, 4, 7, 8].includes(i % 10)],
		['most of them in rooms', (i: number): boolean => i % 10 > 1]
	] as const)
		it(`says of each message which conversation it is in (${what})`, () => {
			const { threads } = looked({ 'var/monthly.db': store(inRoom) }).findings().weave;
			const messages = threads.flatMap((t) => t.messages);
			assert.equal(messages.length, 100);
			for (const { first } of messages) {
				const i = Number(/\d+$/.exec(first.text!)![0]);
				const [who, room] = [writer(i), inRoom(i)];
				assert.deepEqual([first.direction, first.group], [who === 0 ? 'out' : 'in', room], first.text!);
				const other = who === 0 ? (room ? null : 1 + (i % 3)) : who;
				assert.equal(first.correspondent?.address ?? null, other === null ? null : number(other), first.text!);
				if (room) assert.equal(first.threadTitle, i % 10 < 6 ? 'Stairwell B' : 'Garden rota');
			}
			assert.equal(threads.filter((t) => t.messages[0]!.first.group).length, 2);
		});
});

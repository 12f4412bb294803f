/** One program's messages in several files, persons in another: no file is a copy of the other, and together they are one history. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Weave, WovenStore } from '../../src/core/weave';
import { createDatabase, type Engine } from '../vectors/engine';
import { insertInto } from '../vectors/plainly';

const START = 1_736_000_000;
const PEOPLE = [
	['wk_agathe', 'Agathe Morrow', '+447946010011'],
	['wk_dorian', 'Dorian Oxenford', '+447946010012'],
	['wk_elvira', 'Elvira Morrow', '+447946010013']
] as const;
const ROOM = '4411223344@room';
const ENTRY =
	'create table entry(id integer primary key autoincrement, kind integer, isSender integer, made integer, talker text, content text, writer text)';
const line = (i: number): string => `The lift stood still again for ${i} minutes, who is to pay for it?`;

describe('a program that keeps its messages in several files', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-several-files-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** Two thirds of the messages with one person each, the others in the room, of which the second file has none but the owner's. */
	function write(db: Engine, from: number, to: number): void {
		db.exec(ENTRY);
		for (let i = from; i < to; i++) {
			const [handle] = PEOPLE[i % 3]!;
			const inRoom = i % 5 === 0;
			const own = i % 2 === 1 || (inRoom && from > 0);
			const values = [null, 1, Number(own), START + i * 400, inRoom ? ROOM : handle, line(i), inRoom && !own ? handle : null];
			db.run(insertInto('entry', 7), values);
		}
	}

	function writeAll(name: string, until: number): string {
		const to = join(folder, name);
		mkdirSync(to, { recursive: true });
		const people = createDatabase(join(to, 'people.db'));
		people.exec(
			'create table person(handle text primary key, remark text, phone text); create table room(handle text primary key, member_list text, topic text)'
		);
		for (const p of PEOPLE) people.run(insertInto('person', 3), [...p]);
		people.run(insertInto('room', 3), [ROOM, PEOPLE.map(([handle]) => handle).join(';'), 'Lift']);
		people.close();
		for (const [n, part] of ['part0.db', 'part1.db', 'part2.db'].entries()) {
			const db = createDatabase(join(to, part));
			if (n < 2) write(db, n * 60, Math.min(until, n * 60 + 60));
			else db.exec(ENTRY);
			db.close();
		}
		return to;
	}

	function found(...paths: string[]): { stores: WovenStore[]; weave: Weave } {
		const look = new Look(openPaths(paths), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look.findings();
	}

	it('is one history: none of its files is a copy of another, an empty one neither', () => {
		const { stores, weave } = found(writeAll('one', 100));
		assert.equal(weave.families.filter((f) => f.captures.length > 1).length, 0);
		assert.equal(stores.length, 4);
		const messages = weave.threads.flatMap((t) => t.messages);
		assert.equal(messages.length, 100);
		assert.ok(messages.every((m) => m.standing === 'kept'));
	});

	it('has the persons of the file beside, and one thread for a room that both files know', () => {
		const { weave } = found(writeAll('two', 100));
		const room = weave.threads.filter((t) => t.group);
		assert.equal(room.length, 1);
		assert.equal(room[0]!.messages.length, 20);
		assert.deepEqual(
			weave.threads
				.filter((t) => !t.group)
				.map((t) => t.title)
				.sort(),
			['Agathe Morrow', 'Dorian Oxenford', 'Elvira Morrow']
		);
	});

	it('is the same in two copies, each file with its own', () => {
		const [older, newer] = [writeAll('old', 90), writeAll('new', 110)];
		const { stores, weave } = found(older, newer);
		const of = weave.families.map((f) => f.captures.map((c) => stores[c.store]!.path!.slice(folder.length + 1)));
		for (const part of ['part0.db', 'part1.db', 'part2.db'])
			assert.deepEqual(
				of.find((list) => list.includes(`old/${part}`)),
				[`old/${part}`, `new/${part}`]
			);
		assert.equal(weave.threads.flatMap((t) => t.messages).length, 110);
	});

	it('keeps what an emptied file had: by its place it is known', () => {
		const [older, newer] = [writeAll('full', 100), writeAll('emptied', 110)];
		rmSync(join(newer, 'part0.db'));
		const db = createDatabase(join(newer, 'part0.db'));
		write(db, 0, 60);
		db.exec('delete from entry; vacuum');
		db.close();
		const { weave } = found(older, newer);
		const dropped = weave.threads.flatMap((t) => t.messages).filter((m) => m.standing === 'dropped');
		assert.equal(dropped.length, 60);
	});
});

/** Numbers that existed and were seen nowhere: counted once, in place, and never what was no message. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Gap } from '../../src/core/model';
import { createDatabase, type Engine } from '../vectors/engine';

const WHO = ['+447700900111', '+447700900112', '+447700900113'];
const at = (i: number): number => 1_700_000_000 + i * 300;
const line = (i: number): string => `Is the boiler on again today, or not before ${i}?`;
const who = (i: number): string => WHO[(i * 7) % 3]!;
/** Messages that are deleted, and nothing of them is left. */
const GONE = [20, 21, 22, 50];

describe('gaps', () => {
	let folder: string;
	let made = 0;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-gaps-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function gapsOf(write: (db: Engine) => void): Gap[] {
		const path = join(folder, `${made++}.db`);
		const db = createDatabase(path);
		db.all('pragma secure_delete=on');
		write(db);
		db.exec('vacuum');
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look.findings().weave.gaps;
	}
	const told = (gaps: readonly Gap[]): unknown[][] => gaps.map((g) => [g.from, g.to, g.count, g.why]);

	it('are the numbers nobody saw, between the times of their neighbours', () => {
		const gaps = gapsOf((db) => {
			db.exec('create table m(id integer primary key autoincrement, who text, body text, at integer, mine integer)');
			for (let i = 1; i <= 90; i++) db.run('insert into m values(?,?,?,?,?)', [i, who(0), line(i), at(i), i % 2]);
			db.exec(`delete from m where id in (${GONE.join()}) or id > 85`);
		});
		assert.deepEqual(told(gaps), [
			[20, 22, 3, 'neighbours'],
			[50, 50, 1, 'neighbours'],
			[86, 90, 5, 'sequence']
		]);
		assert.equal(gaps[0]!.after, at(19) * 1000);
		assert.equal(gaps[0]!.before, at(23) * 1000);
		assert.equal(gaps[2]!.before, null);
	});

	it('are not made of numbers that a program leaves out on purpose', () => {
		const gaps = gapsOf((db) => {
			db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer)');
			for (let i = 1; i <= 60; i++) db.run('insert into m values(?,?,?,?,?)', [i * 10, who(0), line(i), at(i), i % 2]);
		});
		assert.deepEqual(gaps, []);
	});

	it('are told from the key of a table without record numbers', () => {
		const gaps = gapsOf((db) => {
			db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer) without rowid');
			for (let i = 1; i <= 60; i++) db.run('insert into m values(?,?,?,?,?)', [i, who(i), line(i), at(i), i % 2]);
			db.exec(`delete from m where id in (${GONE.join()})`);
		});
		assert.deepEqual(told(gaps), [
			[20, 22, 3, 'neighbours'],
			[50, 50, 1, 'neighbours']
		]);
		assert.equal(gaps[1]!.before, at(51) * 1000);
	});

	/** Messages and notes take their numbers from one count: every third is a note's. */
	const withNotes =
		(table: string) =>
		(db: Engine): void => {
			db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer)');
			db.exec(`create table ${table}(id integer primary key, kind integer, at integer)`);
			for (let i = 1; i <= 90; i++) {
				if (i % 3 === 0) db.run(`insert into ${table} values(?,?,?)`, [i, i % 2, at(i)]);
				else db.run('insert into m values(?,?,?,?,?)', [i, who(i), line(i), at(i), i % 2]);
			}
			db.exec(`delete from m where id in (${GONE.join()})`);
		};

	it('are not the numbers that rows of another table were given out of the same count', () => {
		assert.deepEqual(told(gapsOf(withNotes('note'))), [
			[20, 20, 1, 'neighbours'],
			[22, 22, 1, 'neighbours'],
			[50, 50, 1, 'neighbours']
		]);
	});

	it('are those that a list of deleted ones names', () => {
		assert.equal(
			gapsOf(withNotes('deleted_note')).reduce((sum, g) => sum + g.count, 0),
			29 + 3,
			'all but the last, which nothing follows'
		);
	});

	it('of two boxes with one count are counted once', () => {
		const gaps = gapsOf((db) => {
			for (const box of ['inbox', 'outbox']) db.exec(`create table ${box}(id integer primary key, who text, body text, at integer)`);
			for (let i = 1; i <= 90; i++)
				if (!GONE.includes(i)) db.run(`insert into ${i % 2 ? 'inbox' : 'outbox'} values(?,?,?,?)`, [i, who(i), line(i), at(i)]);
		});
		assert.deepEqual(told(gaps), [
			[20, 22, 3, 'neighbours'],
			[50, 50, 1, 'neighbours']
		]);
		assert.deepEqual([gaps[0]!.after, gaps[0]!.before], [at(19) * 1000, at(23) * 1000]);
	});

	it('are not the numbers of the months before, where each has a table of its own', () => {
		const gaps = gapsOf((db) => {
			for (const month of [1, 2, 3])
				db.exec(`create table m_2025_0${month}(id integer primary key, who text, body text, at integer, mine integer)`);
			for (let i = 1; i <= 90; i++)
				if (!GONE.includes(i)) db.run(`insert into m_2025_0${Math.ceil(i / 30)} values(?,?,?,?,?)`, [i, who(i), line(i), at(i), i % 2]);
		});
		assert.deepEqual(told(gaps), [
			[20, 22, 3, 'neighbours'],
			[50, 50, 1, 'neighbours']
		]);
	});

	it('of a thread with a table of its own that is empty are what its sequence gave out', () => {
		const gaps = gapsOf((db) => {
			for (const [k, number] of WHO.entries()) {
				db.exec(`create table "chat_${number.slice(1)}"(id integer primary key autoincrement, body text, at integer, mine integer)`);
				for (let i = 1; i <= 30; i++)
					db.run(`insert into "chat_${number.slice(1)}" values(?,?,?,?)`, [i, line(i * 3 + k), at(i * 3 + k), i % 2]);
			}
			db.exec(`delete from "chat_${WHO[1]!.slice(1)}"`);
		});
		assert.deepEqual(
			gaps.map((g) => [g.table, g.from, g.to, g.count, g.why]),
			[[`chat_${WHO[1]!.slice(1)}`, 1, 30, 30, 'sequence']]
		);
	});

	/** A table made anew from what was left: record numbers without a gap, and the numbers that messages had before. */
	const madeAnew =
		(number: (i: number) => number) =>
		(db: Engine): void => {
			db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer, no integer)');
			for (let i = 1; i <= 120; i++)
				if (!GONE.includes(i)) db.run('insert into m values(null,?,?,?,?,?)', [who(i), line(i), at(i), i % 2, number(i)]);
		};

	it('are told from a number of the messages’ own where the records were numbered anew', () => {
		assert.deepEqual(told(gapsOf(madeAnew((i) => i))), [
			[20, 22, 3, 'numbering'],
			[50, 50, 1, 'numbering']
		]);
	});

	it('are told from numbers that count within each thread, and are that thread’s', () => {
		const seen = new Map<string, number>();
		const inThread = Array.from({ length: 121 }, (_, i) => {
			if (i > 0) seen.set(who(i), (seen.get(who(i)) ?? 0) + 1);
			return seen.get(who(i)) ?? 0;
		});
		const gaps = gapsOf(madeAnew((i) => inThread[i]!));
		assert.deepEqual(
			gaps.map((g) => [g.count, g.why, g.certainThread]).sort(),
			Array.from({ length: 4 }, () => [1, 'numbering', true]),
			'three of them follow each other, each in another thread'
		);
	});

	it('are not told from numbers that only grow: lengths, sizes, counts of something else', () => {
		assert.deepEqual(gapsOf(madeAnew((i) => i * 3 + (i % 2))), []);
	});
});

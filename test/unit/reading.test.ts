/** Times in any epoch and unit, interpretation by nobody's name, gaps, edits. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { readTimes, timeOf } from '../../src/core/interpret/time';
import { Look } from '../../src/core/look';
import { createDatabase, type Engine } from '../vectors/engine';

const DAY = 86_400_000;
const FROM = Date.UTC(2023, 4, 2, 8, 15);
const instants = Array.from({ length: 200 }, (_, i) => FROM + i * 2.7 * DAY + i * 61_000).map((t) => Math.floor(t / 1000) * 1000);
const since = (y: number, m = 0, d = 1): number => Date.UTC(y, m, d);

describe('times', () => {
	const cases: [string, (ms: number) => number | bigint | string][] = [
		['seconds since 1970', (t) => t / 1000],
		['milliseconds since 1970', (t) => t],
		['microseconds since 1970', (t) => t * 1000],
		['nanoseconds since 1970', (t) => BigInt(t) * 1_000_000n],
		['seconds since 2001', (t) => (t - since(2001)) / 1000],
		['nanoseconds since 2001', (t) => BigInt(t - since(2001)) * 1_000_000n],
		['microseconds since 1601', (t) => (t - since(1601)) * 1000],
		['units of 100 ns since 1601', (t) => BigInt(t - since(1601)) * 10_000n],
		['units of 100 ns since year 1', (t) => BigInt(t + 62135596800000) * 10_000n],
		['seconds since 1904', (t) => (t - since(1904)) / 1000],
		['days since 1899-12-30', (t) => (t - since(1899, 11, 30)) / DAY],
		['Julian days', (t) => t / DAY + 2440587.5],
		['written date with zone', (t) => new Date(t + 3_600_000).toISOString().replace('.000Z', '+01:00')],
		['written date', (t) => new Date(t).toISOString().slice(0, 19).replace('T', ' ')],
		[
			'written date',
			(t) =>
				new Date(t)
					.toISOString()
					.slice(0, 19)
					.replace(/[-:T]/g, '')
					.replace(/^(\d{8})/, '$1')
		]
	];
	for (const [label, store] of cases) {
		it(`tells ${label}`, () => {
			const stored = instants.map(store);
			const reading = readTimes(stored);
			assert.equal(reading?.label, label);
			stored.forEach((v, i) =>
				assert.ok(Math.abs(timeOf(v, reading!)! - instants[i]!) <= 60, `${String(v)} read as ${timeOf(v, reading!)}, is ${instants[i]}`)
			);
		});
	}
	it('takes small numbers, flags and phone numbers for no times', () => {
		for (const values of [[1, 2, 3, 4], [0, 1, 0, 1], [447700900123, 447700900124], instants.map((_, i) => i)])
			assert.equal(readTimes(values), null);
	});
	it('keeps a zero date from being a time', () => {
		const reading = readTimes(instants.map((t) => t / 1000))!;
		assert.equal(timeOf(0, reading), null);
		assert.equal(timeOf(null, reading), null);
	});
});

function read(make: (db: Engine) => void) {
	const path = join(mkdtempSync(join(tmpdir(), 'ombudsman-reading-')), 'a.db');
	const db = createDatabase(path);
	make(db);
	db.close();
	const look = new Look([{ name: 'a.db', path: 'a.db', source: new MemorySource(readFileSync(path)) }], { reach: 'raw' });
	for (const e of look.run()) void e;
	return look.findings();
}

const line = (i: number): string => `Please look at radiator ${i} before the board meets`;

describe('interpretation', () => {
	it('leaves notes, thread summaries and search copies alone', () => {
		const { stores, weave } = read((db) => {
			db.exec(`create table talk(id integer primary key, peer text, last_text text, last_at integer);
				create table line(id integer primary key, talk integer, body text, at integer, mine integer);
				create table memo(id integer primary key, body text, at integer);
				create virtual table line_search using fts5(body)`);
			for (let t = 1; t <= 6; t++) db.run('insert into talk values(?,?,?,?)', [t, `+44770090010${t}`, line(190 + t), 1_700_100_000]);
			for (let i = 1; i <= 200; i++) {
				db.run('insert into line values(?,?,?,?,?)', [i, 1 + (i % 6), line(i), 1_700_000_000 + i * 400, Number(i % 3 === 0)]);
				db.run('insert into line_search(rowid, body) values(?,?)', [i, line(i)]);
			}
			for (let i = 1; i <= 30; i++)
				db.run('insert into memo values(?,?,?)', [i, `Remember to order part ${i} of the pump`, 1_700_000_000 + i]);
		});
		assert.deepEqual(
			stores[0]!.reading.messages.map((m) => m.sheet.name),
			['line']
		);
		assert.equal(weave.threads.length, 6);
		assert.equal(
			weave.threads.reduce((n, t) => n + t.messages.length, 0),
			200
		);
	});
	it('carries evidence and a confidence with every guess', () => {
		const { stores } = read((db) => {
			db.exec('create table c0(c0 integer primary key, c1, c2, c3, c4)');
			for (let i = 1; i <= 120; i++)
				db.run('insert into c0 values(?,?,?,?,?)', [
					i,
					`+4477009001${`0${i % 5}`}`,
					line(i),
					1_700_000_000 + i * 300,
					Number((i * 7) % 3 === 0)
				]);
		});
		const [m] = stores[0]!.reading.messages;
		for (const guess of [m!.text, m!.time!, m!.direction, m!.peer!]) {
			assert.ok(guess.evidence.length > 0);
			assert.ok(guess.confidence > 0.3 && guess.confidence <= 1);
		}
	});
	it('shows an earlier wording under its message and nowhere else', () => {
		const { weave } = read((db) => {
			db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer)');
			for (let i = 1; i <= 60; i++)
				db.run('insert into m values(?,?,?,?,?)', [i, '+447700900111', line(i), 1_700_000_000 + i * 300, i % 2]);
			db.exec("update m set body = 'I never said anything of that kind, at all, to anybody in that house' where id = 30");
		});
		const all = weave.threads.flatMap((t) => t.messages);
		const earlier = all.filter((m) => m.earlierWordingOf);
		assert.deepEqual(
			earlier.map((m) => m.first.text),
			[line(30)]
		);
		assert.equal(earlier[0]!.earlierWordingOf!.first.text!.slice(0, 12), 'I never said');
		assert.equal(all.length, 61);
	});
	it('counts a row of which only marks of state changed once', () => {
		const { weave } = read((db) => {
			db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer, seen integer, note text)');
			for (let i = 1; i <= 60; i++)
				db.run('insert into m values(?,?,?,?,?,0,null)', [i, '+447700900111', line(i), 1_700_000_000 + i * 300, i % 2]);
			for (let i = 1; i <= 60; i++) db.run('update m set seen = 1, note = ? where id = ?', ['seen by the owner', i]);
		});
		assert.equal(weave.threads.flatMap((t) => t.messages).length, 60);
	});
});

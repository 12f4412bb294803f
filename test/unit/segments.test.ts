/** Messages that a table keeps in segments, as they were sent. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Engine } from '../vectors/engine';
import { looked, written, type Put } from '../vectors/written';

const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const START = Date.UTC(2025, 0, 14, 6);
const at = (i: number): number => START + i * 3_600_000;
const said = (i: number): string =>
	`${['Nobody came', 'Who signed it', 'The stairs are dark'][(i * 7) % 3]!}, and ${'the lift is stuck again and '.repeat((i * 5) % 4)}I wait here ${i}`;
const LENGTH = 40;

/** `first`: what segments are counted from. */
function send(db: Engine, i: number, first: number): void {
	const parts = Math.ceil(said(i).length / LENGTH);
	for (let k = 0; k < parts; k++)
		db.run('insert into seg(peer, ref, part, parts, outgoing, at, txt) values(?, ?, ?, ?, ?, ?, ?)', [
			number(1 + (i % 3)),
			// Given out again after a while.
			i % 8,
			k + first,
			parts,
			i % 2,
			at(i),
			said(i).slice(k * LENGTH, (k + 1) * LENGTH)
		]);
}

function setUp(db: Engine, put: Put): void {
	db.exec(`pragma secure_delete=off;
		create table seg(id integer primary key autoincrement, peer text, ref integer, part integer, parts integer, outgoing integer, at integer, txt text);
		create table directory(no text primary key, name text)`);
	for (const [i, name] of NAMES.entries()) if (i > 0) put('directory', number(i), name);
}

describe('messages in segments', () => {
	for (const first of [1, 0])
		it(`are whole, each with the places of all its segments (counted from ${first})`, () => {
			const [bytes] = written((db, put) => {
				setUp(db, put);
				for (let i = 0; i < 40; i++) send(db, i, first);
			});
			const { weave } = looked({ 'radio/segments.db': bytes! }).findings();
			const messages = weave.threads.flatMap((t) => t.messages);
			assert.equal(messages.length, 40);
			assert.equal(weave.threads.length, 3);
			assert.deepEqual(weave.gaps, []);
			for (const { first: m, sightings } of messages) {
				const i = (m.sentAt! - START) / 3_600_000;
				assert.deepEqual([m.text, m.direction], [said(i), i % 2 ? 'out' : 'in']);
				assert.deepEqual([m.correspondent?.address, m.correspondent?.name], [number(1 + (i % 3)), NAMES[1 + (i % 3)]]);
				assert.equal(sightings.filter((s) => s.standing === 'kept').length, Math.ceil(said(i).length / LENGTH));
			}
		});

	it('end where a segment is missing, and are parts then', () => {
		const [bytes] = written((db, put) => {
			setUp(db, put);
			for (let i = 0; i < 40; i++) send(db, i, 1);
			db.exec(`delete from seg where at=${at(11)} and part=2; vacuum`);
		});
		const messages = looked({ 'radio/segments.db': bytes! })
			.findings()
			.weave.threads.flatMap((t) => t.messages);
		const [cut] = messages.filter((m) => m.first.sentAt === at(11));
		assert.deepEqual([cut!.first.text, cut!.first.textCut, cut!.grade], [said(11).slice(0, LENGTH), true, 'fragment']);
		assert.equal(messages.length, 40);
	});

	it('are not made of messages whose conversation and account are numbered', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table line(id integer primary key autoincrement, talk integer, account integer, outgoing integer, at integer, txt text);
				create table talk(id integer primary key, peer text)`);
			for (const k of [1, 2, 3]) put('talk', k, number(k));
			for (let i = 0; i < 60; i++) put('line', i + 1, 1 + (i % 3), 3, i % 2, at(i), said(i));
		});
		const messages = looked({ 'lines/lines.db': bytes! })
			.findings()
			.weave.threads.flatMap((t) => t.messages);
		assert.equal(messages.length, 60);
		assert.deepEqual(new Set(messages.map((m) => m.first.text)), new Set(Array.from({ length: 60 }, (_, i) => said(i))));
	});
});

/** Stores whose tables and columns have names that say nothing: what their values alone say is told, and no more. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { createDatabase } from '../vectors/engine';

const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen'];
const number = (p: number): string => `+44770090014${p}`;
const WORDS = [
	'The heating is off again',
	'One month is credited',
	'Who has the key to the cellar?',
	'See you at the meeting',
	'It is cold here'
];
const FIRST = Date.UTC(2025, 0, 10, 8);

interface Said {
	/** The other side. */
	with: number;
	out: boolean;
	at: number;
	text: string;
}
const SAID: readonly Said[] = Array.from({ length: 120 }, (_, i) => ({
	with: (i * 7 + Math.floor(i / 11)) % NAMES.length,
	out: (i * 5 + Math.floor(i / 7)) % 11 < 5,
	at: FIRST + i * 1_234_567,
	text: `${WORDS[i % WORDS.length]}, ${i}`
}));

/** Columns that are none of who, when or what: they take values that could be mistaken for it. */
const BESIDE = [
	(i: number) => [0, 1, 2, 3][(i * 3 + (i >> 2)) % 4],
	(i: number) => (i % 5 === 1 ? 'high' : 'normal'),
	(i: number) => (i % 3 ? 'v1' : 'v2')
];

let folder: string;
before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-nameless-'))));
after(() => rmSync(folder, { recursive: true, force: true }));

interface Form {
	name: string;
	/** Tables of messages, by way. */
	tables: (out: boolean) => string;
	/** Columns beside text and time, by their values. */
	values: (s: Said) => (string | number | null)[];
	/** A list of conversations, each with its person's number. */
	conversations?: boolean;
	/** Whether something says the way. */
	way: boolean;
}
const one = (): string => 'a1';
const FORMS: readonly Form[] = [
	{ name: 'persons by number, the way as nought and one', tables: one, values: (s) => [s.with + 1, Number(s.out)], way: true },
	{
		name: 'conversations of a person each, the way in words',
		tables: one,
		values: (s) => [s.with + 40, s.out ? 'O' : 'I'],
		conversations: true,
		way: true
	},
	{
		name: 'the writer, nobody where it is the owner',
		tables: one,
		values: (s) => [s.with + 40, s.out ? null : s.with + 1],
		conversations: true,
		way: true
	},
	{ name: 'a table for each way', tables: (out) => (out ? 'a1' : 'a2'), values: (s) => [s.with + 40], conversations: true, way: false }
];

function write(form: Form): string {
	const path = join(folder, `${FORMS.indexOf(form)}.db`);
	const db = createDatabase(path, ['page_size=4096']);
	const more = form.values(SAID[0]!).map((_, k) => `d${k}`);
	for (const table of new Set([form.tables(true), form.tables(false)]))
		db.exec(`create table ${table}(c1 integer primary key, c2, ${more.join(', ')}, e0, e1, e2, c3 text)`);
	db.exec('create table f1(g1 text, g2 integer primary key, g3 text)');
	NAMES.forEach((name, p) => db.run('insert into f1 values(?,?,?)', [number(p), p + 1, name]));
	if (form.conversations) {
		db.exec('create table h1(k1 integer primary key, k2 integer, k3)');
		NAMES.forEach((_, p) => db.run('insert into h1 values(?,?,?)', [p + 40, p + 1, new Date(FIRST + p).toISOString()]));
	}
	const marks = ['null', '?', ...more.map(() => '?'), '?', '?', '?', '?'].join(',');
	SAID.forEach((s, i) =>
		db.run(`insert into ${form.tables(s.out)} values(${marks})`, [s.at, ...form.values(s), ...BESIDE.map((value) => value(i)!), s.text])
	);
	db.close();
	return path;
}

describe('names that say nothing', () => {
	for (const form of FORMS)
		it(form.name, () => {
			const look = new Look(openPaths([write(form)]), { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			const messages = look.findings().weave.threads.flatMap((t) => t.messages);
			const got = messages.map(({ first: u }) => [u.text, u.sentAt, u.direction, u.correspondent?.address, u.correspondent?.name]);
			const want = SAID.map((s) => [s.text, s.at, form.way ? (s.out ? 'out' : 'in') : null, number(s.with), NAMES[s.with]]);
			const sorted = (list: unknown[][]): string[] => list.map((x) => JSON.stringify(x)).sort();
			assert.deepEqual(sorted(got), sorted(want));
			assert.equal(new Set(messages.map((m) => m.thread)).size, NAMES.length);
		});
});

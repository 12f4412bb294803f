/** Bytes from outside are hostile: nothing crashes, hangs or grows without bound, and what is untouched is still found. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { before, describe, it } from 'node:test';
import { MemorySource, type ByteSource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { describeNote } from '../../src/core/wording';
import { createDatabase } from '../vectors/engine';
import { mutate } from '../vectors/mutate';
import { Random } from '../vectors/random';

let file: Uint8Array;
const TEXTS = 200;

before(() => {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-hostile-'));
	const db = createDatabase(join(folder, 'a.db'), ['page_size=1024']);
	db.exec('create table m(id integer primary key autoincrement, who text, body text, at integer, mine integer)');
	for (let i = 0; i < TEXTS; i++)
		db.run('insert into m(who,body,at,mine) values(?,?,?,?)', [
			`+4477009001${i % 10}0`,
			`Message number ${i} about the boiler ${'and so on '.repeat(i % 40 === 0 ? 300 : i % 5)}`,
			1_700_000_000 + i * 500,
			i % 2
		]);
	db.exec('delete from m where id % 9 = 4');
	db.close();
	file = readFileSync(join(folder, 'a.db'));
	rmSync(folder, { recursive: true, force: true });
});

function look(...files: { name: string; bytes: Uint8Array | ByteSource }[]) {
	const one = new Look(
		files.map((f) => ({ name: f.name, path: f.name, source: f.bytes instanceof Uint8Array ? new MemorySource(f.bytes) : f.bytes })),
		{ reach: 'raw' }
	);
	for (const event of one.run()) assert.ok(event.done >= 0);
	const { weave } = one.findings();
	return { notes: one.allNotes().map(describeNote), messages: weave.threads.flatMap((t) => t.messages), look: one };
}

/** How many of the texts begin whole in these bytes: the least that must be found. */
function there(bytes: Uint8Array): number {
	const found = new TextDecoder('latin1').decode(bytes).matchAll(/Message number (\d+) about the boiler /g);
	return new Set([...found].map((m) => m[1])).size;
}

describe('files that are not what they seem', () => {
	it('says what an unreadable file is, in one line', () => {
		const noise = Uint8Array.from({ length: 40_000 }, (_, i) => (i * 2654435761) >>> 13);
		for (const bytes of [noise, new TextEncoder().encode('hello '.repeat(900))]) {
			const { notes, messages } = look({ name: 'thing.bin', bytes });
			assert.equal(messages.length, 0);
			assert.equal(notes.length, 1);
			assert.match(notes[0]!, /thing\.bin is not a database/);
		}
		assert.match(look({ name: 'nothing', bytes: new Uint8Array(0) }).notes[0]!, /empty/);
	});
	it('asks for the database where only its log is given', () => {
		assert.match(look({ name: 'a.db-wal', bytes: new Uint8Array(5000).fill(7) }).notes[0]!, /without its database/);
	});
	it('reads what a cut file still holds, and says how much is missing', () => {
		for (const share of [0.9, 0.5, 0.2]) {
			const { notes, messages } = look({ name: 'a.db', bytes: file.subarray(0, Math.floor(file.length * share)) });
			assert.ok(messages.length >= there(file.subarray(0, Math.floor(file.length * share))), `${messages.length} at ${share}`);
			assert.ok(
				notes.some((n) => /should have|does not exist/.test(n)),
				notes.join('\n')
			);
		}
	});
	it('reads a database whose header is zeroed or lies about its pages', () => {
		const zeroed = Uint8Array.from(file);
		zeroed.fill(0, 0, 16);
		assert.ok(look({ name: 'a.db', bytes: zeroed }).messages.length >= TEXTS * 0.85);
		const lying = Uint8Array.from(file);
		lying[16] = 0x20;
		lying[17] = 0;
		const { messages, notes } = look({ name: 'a.db', bytes: lying });
		assert.ok(messages.length >= TEXTS * 0.85);
		assert.ok(
			notes.some((n) => /states a page size of 8192/.test(n)),
			notes.join('\n')
		);
	});
	it('does not load a file larger than memory', () => {
		const size = 8 * 2 ** 30;
		let most = 0;
		let read = 0;
		const sparse: ByteSource = {
			size,
			read: (offset, length) => {
				most = Math.max(most, length);
				read += length;
				assert.ok(read < 2 ** 30, 'reads far more than it needs to tell what this is');
				return new Uint8Array(Math.min(length, size - offset));
			}
		};
		const { messages, notes } = look({ name: 'sparse.img', bytes: sparse });
		assert.equal(messages.length, 0);
		assert.ok(notes.length > 0);
		assert.ok(most <= 8 << 20);
	});
	it('tells two files of one name apart and reads both', () => {
		const one = new Look(
			['x/a.db', 'y/a.db'].map((path) => ({ name: path, path, source: new MemorySource(file) })),
			{ reach: 'used' }
		);
		for (const e of one.run()) void e;
		assert.equal(one.groups.length, 2);
	});
	it('takes markup and formulas in texts as text', () => {
		const path = join(mkdtempSync(join(tmpdir(), 'ombudsman-markup-')), 'a.db');
		const db = createDatabase(path);
		db.exec('create table "<b>&m"(id integer primary key, who text, body text, at integer, mine integer)');
		for (let i = 0; i < 20; i++)
			db.run('insert into "<b>&m" values(?,?,?,?,?)', [
				i + 1,
				'+447700900111',
				`<script>alert(${i})</script> and =SUM(A1) here`,
				1_700_000_000 + i,
				i % 2
			]);
		db.close();
		const { messages } = look({ name: 'a.db', bytes: readFileSync(path) });
		assert.equal(messages[0]!.first.text, '<script>alert(0)</script> and =SUM(A1) here');
	});
	it('stands a thousand tables and a text of 20 MB', () => {
		const path = join(mkdtempSync(join(tmpdir(), 'ombudsman-many-')), 'a.db');
		const db = createDatabase(path, ['synchronous=off']);
		db.exec('begin');
		for (let i = 0; i < 1000; i++) db.exec(`create table t${i}(id integer primary key, a text, b integer)`);
		db.exec('create table m(id integer primary key, who text, body text, at integer, mine integer)');
		for (let i = 0; i < 30; i++)
			db.run('insert into m values(?,?,?,?,?)', [
				i + 1,
				'+447700900111',
				i === 7 ? 'long '.repeat(4_000_000) : `Short message number ${i}`,
				1_700_000_000 + i,
				i % 2
			]);
		db.exec('commit');
		db.close();
		const { messages } = look({ name: 'a.db', bytes: readFileSync(path) });
		assert.equal(messages.length, 30);
		assert.equal(Math.max(...messages.map((m) => m.first.text!.length)), 20_000_000);
	});
});

describe('mutated files', () => {
	it('never break a look, and leave the rows they do not touch', () => {
		const r = new Random(2026);
		const whole = new Set(look({ name: 'a.db', bytes: file }).messages.map((m) => m.first.text));
		let changed = 0;
		let kept = 0;
		const rounds = 250;
		for (let i = 0; i < rounds; i++) {
			const { bytes, touched } = mutate(file, r, 1024);
			if (touched.length > 0) changed++;
			const from = performance.now();
			const { messages } = look({ name: 'a.db', bytes });
			assert.ok(performance.now() - from < 5000, `round ${i} took too long`);
			assert.ok(messages.length < TEXTS * 3, `round ${i} made ${messages.length} messages of ${TEXTS}`);
			const found = new Set(messages.map((m) => m.first.text));
			kept += [...whole].filter((t) => found.has(t)).length / whole.size;
		}
		assert.equal(changed, rounds);
		assert.ok(kept / rounds > 0.8, `on average only ${((kept / rounds) * 100).toFixed(1)} % of the messages were still found`);
	});
});

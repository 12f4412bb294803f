/** Entries of indexes beside the rows they repeat: no messages of their own, and no guessing where an index has hardly any. */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { copyFileSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { CompiledShape } from '../../src/core/harvest/sqlite/compiled';
import { entryShape, learn } from '../../src/core/harvest/sqlite/shape';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave/woven';
import { createDatabase } from '../vectors/engine';
import { Random } from '../vectors/random';

const WORDS = 'boiler pump valve meter credit month charge heat cold plant letter paid repair water pipe night office room'.split(' ');

function messagesOf(path: string): Woven[] {
	const look = new Look(openPaths([path]), { reach: 'raw' });
	for (const event of look.run()) void event;
	return look.findings().weave.threads.flatMap((t) => t.messages);
}

const prose = (random: Random, least: number, most: number): string =>
	Array.from({ length: random.int(least, most) }, () => random.pick(WORDS)).join(' ');

describe('entries of indexes', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-entries-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	it('an index on the texts gives each message once, whatever was moved about in it', () => {
		const count = 6000;
		const random = new Random(5);
		const path = join(folder, 'indexed.db');
		const db = createDatabase(path, ['secure_delete=off']);
		db.exec('create table messages(id integer primary key autoincrement, address text, body text, sent integer, is_from_me integer)');
		db.exec('create index by_body on messages(body); begin');
		const said = new Set<string>();
		for (let i = 0; i < count; i++) {
			const text = `${prose(random, 3, 11)} ${i}`;
			said.add(text);
			const address = `+4479460${String(10_000 + random.int(0, 19))}`;
			db.run('insert into messages(address, body, sent, is_from_me) values(?,?,?,?)', [
				address,
				text,
				1_736_000_000_000 + i * 61_000,
				i % 3 ? 0 : 1
			]);
		}
		db.exec('commit; delete from messages where id % 9 = 0');
		db.close();
		const messages = messagesOf(path);
		// A text of which only a part is left is its message's all the same.
		const parts = messages.filter((m) => m.grade === 'fragment');
		assert.deepEqual(
			messages.filter((m) => m.grade !== 'fragment' && !said.delete(m.first.text!)).map((m) => m.first.text),
			[]
		);
		assert.deepEqual([parts.length, said.size], [said.size, parts.length]);
		for (const { first } of parts) assert.equal([...said].filter((text) => text.includes(first.text!)).length > 0, true, first.text!);
	});

	it('rows keyed by digests of 64 letters are found wherever their bytes are', () => {
		const count = 2000;
		const random = new Random(3);
		const path = join(folder, 'digests.db');
		const db = createDatabase(path, ['secure_delete=off']);
		db.exec('create table message(digest text primary key, chat integer, sender text, body text, at integer) without rowid; begin');
		const said: string[] = [];
		for (let i = 0; i < count; i++) {
			const text = `${prose(random, 2, 25)} ${i}.`;
			said.push(text);
			const digest = createHash('sha256').update(String(i)).digest('hex');
			db.run('insert into message values(?,?,?,?,?)', [
				digest,
				i % 9,
				i % 3 ? `+44794600${String(1000 + (i % 9))}` : 'me',
				text,
				1_736_000_000_000 + i * 61_000
			]);
		}
		db.exec("commit; delete from message where body like '%3.' or body like '%58.'");
		db.close();
		const messages = messagesOf(path);
		const found = new Set(messages.map((m) => m.first.text));
		const bytes = readFileSync(path);
		assert.deepEqual(
			said.filter((text) => !found.has(text) && bytes.includes(text)),
			[]
		);
		assert.equal(messages.length, found.size);
		assert.equal(messages.filter((m) => m.standing === 'remnant' && m.first.sentAt !== null).length > 150, true);
	});

	it('what was a page of an index before is not read as rows of the keyed table that has it now', () => {
		const count = 2000;
		const random = new Random(9);
		const path = join(folder, 'moved.db');
		const db = createDatabase(path, ['secure_delete=off', 'auto_vacuum=1', 'journal_mode=wal', 'wal_autocheckpoint=0']);
		db.exec(`create table msg(chat integer, seq integer, peer text, at integer, out integer, body text, primary key(chat, seq)) without rowid;
			create unique index by_time on msg(at, peer); create index by_peer on msg(peer, at); begin`);
		for (let i = 0; i < count; i++) {
			const text = `${prose(random, 2, 25)} ${i}.`;
			db.run('insert into msg values(?,?,?,?,?,?)', [
				i % 7,
				i,
				`+44794600000${i % 6}`,
				1_736_000_000_000 + i * 61_000,
				i % 3 ? 0 : 1,
				text
			]);
		}
		db.exec("commit; delete from msg where peer = '+447946000002'");
		for (const end of ['', '-wal']) copyFileSync(path + end, `${path}.copy${end}`);
		db.close();
		const messages = messagesOf(`${path}.copy`);
		assert.equal(messages.filter((m) => m.standing === 'kept').length, count - Math.ceil((count - 2) / 6));
		assert.deepEqual(
			messages.filter((m) => m.first.sentAt === null || m.first.text === null).map((m) => m.first.text),
			[]
		);
	});

	it('of an index with a few entries only types like theirs are tried where the types are lost', () => {
		const shape = entryShape(1, [1, 2], 3);
		for (const position of [0, 1, 2, 3]) learn(shape, null, [0, position, position + 1], 3, 'utf8');
		const compiled = new CompiledShape(shape);
		for (const column of [0, 1]) {
			assert.deepEqual(
				compiled.coveredTypes(column).filter((type) => type === 0 || type > 9),
				[]
			);
			assert.equal(compiled.coveredTypes(column).includes(1), true);
		}
	});
});

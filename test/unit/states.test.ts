/** What is "in use" is what the engine would show: logs, journals, encodings, page sizes, damaged headers. */
import assert from 'node:assert/strict';
import { copyFileSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { StoreHarvest } from '../../src/core/harvest';
import { createDatabase, openDatabase, type Engine } from '../vectors/engine';

let folder = '';
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-states-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

function harvest(files: { db: Uint8Array; wal?: Uint8Array; journal?: Uint8Array }, reach: 'used' | 'raw' = 'raw'): StoreHarvest {
	const list = [files.db, files.wal, files.journal].filter((f) => f !== undefined).map((f) => new MemorySource(f));
	const store = new StoreHarvest({ sources: list, db: 0, wal: files.wal ? 1 : -1, journal: files.journal ? (files.wal ? 2 : 1) : -1 });
	for (const progress of store.run(reach)) assert.ok(progress.done <= progress.total || progress.total === 0);
	return store;
}

const rowsOf = (store: StoreHarvest, table: string, standing: string): unknown[][] => {
	const index = store.tables.findIndex((t) => t.name === table);
	return store.book
		.rowsOf(index)
		.filter((r) => r.standing === standing)
		.map((r) => r.values);
};

function filled(path: string, pragmas: string[] = []): Engine {
	const db = createDatabase(path, pragmas);
	db.exec('create table t(id integer primary key, a text, n integer)');
	for (let i = 1; i <= 40; i++) db.run('insert into t values(?,?,?)', [i, `line ${i} of the first writing`, i * 1000]);
	return db;
}

describe('the log', () => {
	it('is laid over the database up to its last commit; what it replaced is dropped', () => {
		const path = join(folder, 'a.db');
		const db = filled(path, ['journal_mode=wal', 'wal_autocheckpoint=0']);
		db.all('pragma wal_checkpoint(truncate)');
		db.run("update t set a='written again' where id=7");
		db.run('delete from t where id=9');
		copyFileSync(`${path}-wal`, join(folder, 'wal'));
		const store = harvest({ db: readFileSync(path), wal: readFileSync(join(folder, 'wal')) });
		db.close();
		const kept = rowsOf(store, 't', 'kept');
		assert.equal(kept.length, 39);
		assert.deepEqual(
			kept.find((v) => v[0] === 7),
			[7, 'written again', 7000]
		);
		const dropped = rowsOf(store, 't', 'dropped');
		assert.deepEqual(dropped.map((v) => v[0]).sort(), [7, 9]);
	});
	it('is left aside where it belongs to another database, and said so', () => {
		const path = join(folder, 'a.db');
		filled(path).close();
		const other = createDatabase(join(folder, 'b.db'), ['journal_mode=wal', 'wal_autocheckpoint=0']);
		other.exec('create table elsewhere(x, y, z); create table more(q)');
		for (let i = 0; i < 300; i++) other.run('insert into elsewhere values(?,?,?)', [i, 'not of this store', i]);
		const wal = readFileSync(join(folder, 'b.db-wal'));
		other.close();
		// Whole and sound in itself: only the declared tables tell that it is another's.
		const store = harvest({ db: readFileSync(path), wal });
		assert.equal(rowsOf(store, 't', 'kept').length, 40);
		assert.deepEqual(
			store.tables.map((t) => t.name).filter((n) => n === 'elsewhere'),
			[]
		);
		assert.ok(store.notes.some((n) => n.code === 'log-foreign'));
		assert.ok(store.book.rows.every((r) => !r.values.includes('not of this store')));
	});
	it('is laid over the database also where it replaced all of its tables', () => {
		const path = join(folder, 'a.db');
		const db = createDatabase(path);
		db.exec('create table first(a text, b text, c text); insert into first values(1, 2, 3)');
		db.close();
		const next = openDatabase(path, ['journal_mode=wal', 'wal_autocheckpoint=0']);
		next.exec('drop table first; create table t(id integer primary key, a text, n integer)');
		for (let i = 1; i <= 40; i++) next.run('insert into t values(?,?,?)', [i, `line ${i} of the first writing`, i]);
		const store = harvest({ db: readFileSync(path), wal: readFileSync(`${path}-wal`) });
		next.close();
		assert.equal(rowsOf(store, 't', 'kept').length, 40);
		assert.equal(store.notes.filter((n) => n.code === 'log-foreign').length, 0);
	});
	it('counts for nothing once its checksum breaks', () => {
		const path = join(folder, 'a.db');
		const db = filled(path, ['journal_mode=wal', 'wal_autocheckpoint=0']);
		db.all('pragma wal_checkpoint(truncate)');
		db.run('delete from t where id=1');
		db.run('delete from t where id=2');
		const wal = readFileSync(`${path}-wal`);
		db.close();
		const broken = Uint8Array.from(wal);
		broken[32 + 24 + 100]! ^= 0xff;
		const before = createCopy(path, 40);
		assert.equal(rowsOf(harvest({ db: before, wal: broken }), 't', 'kept').length, 40);
	});
	function createCopy(path: string, count: number): Uint8Array {
		const again = createDatabase(`${path}.again`);
		again.exec('create table t(id integer primary key, a text, n integer)');
		for (let i = 1; i <= count; i++) again.run('insert into t values(?,?,?)', [i, `line ${i} of the first writing`, i * 1000]);
		again.close();
		return readFileSync(`${path}.again`);
	}
});

describe('the rollback journal', () => {
	it('undoes an unfinished change in memory, and shows what it had written as remnant', () => {
		const path = join(folder, 'a.db');
		const db = filled(path, ['cache_size=1', 'synchronous=full']);
		db.exec('begin');
		// More than the cache holds: pages are written to the file before the end.
		for (let i = 1; i <= 40; i++) db.run('update t set a=? where id=?', ['x'.repeat(1500) + i, i]);
		const journal = readFileSync(`${path}-journal`);
		const file = readFileSync(path);
		db.exec('rollback');
		db.close();
		const store = harvest({ db: file, journal });
		const kept = rowsOf(store, 't', 'kept');
		assert.equal(kept.length, 40);
		assert.ok(kept.every((v) => String(v[1]).endsWith('of the first writing')));
		assert.ok(store.notes.some((n) => n.code === 'journal-hot'));
	});
	it('of a finished change is read as an earlier state, its header zeroed or not', () => {
		const path = join(folder, 'a.db');
		const db = filled(path, ['journal_mode=persist']);
		db.exec('delete from t where id between 5 and 8');
		const store = harvest({ db: readFileSync(path), journal: readFileSync(`${path}-journal`) });
		db.close();
		assert.equal(rowsOf(store, 't', 'kept').length, 36);
		assert.deepEqual(
			rowsOf(store, 't', 'dropped')
				.map((v) => v[0])
				.sort(),
			[5, 6, 7, 8]
		);
	});
});

it('a journal is read on through what is left of longer, older ones, each with a checksum of its own', () => {
	const path = join(folder, 'a.db');
	const db = createDatabase(path, ['page_size=1024', 'journal_mode=persist']);
	db.exec('create table t(id integer primary key, a text)');
	for (let i = 1; i <= 60; i++) db.run('insert into t values(?,?)', [i, `${'word '.repeat(60)}${i}`]);
	db.exec('delete from t where id % 2 = 0');
	// Three pages, then two over them: one page of the second change is left between those of the first and the third.
	db.exec("begin; update t set a = 'x' where id = 1; update t set a = 'x' where id = 31; commit");
	db.exec("update t set a = 'x' where id = 59");
	const store = harvest({ db: readFileSync(path), journal: readFileSync(`${path}-journal`) });
	db.close();
	const seen = store.book.rows.filter((r) => r.sightings.some((s) => s.method === 'journal-page')).map((r) => Number(r.rowid));
	const even = new Set(seen.filter((id) => id % 2 === 0));
	assert.ok(even.size >= 15, `${even.size} of 30`);
});

describe('formats of the file', () => {
	for (const size of [512, 1024, 4096, 65536]) {
		it(`reads pages of ${size} bytes with long texts on overflow pages`, () => {
			const path = join(folder, 'a.db');
			const db = createDatabase(path, [`page_size=${size}`]);
			db.exec('create table t(id integer primary key, a text, n integer)');
			const long = Array.from({ length: 30_000 }, (_, i) => String.fromCharCode(97 + (i % 26))).join('');
			db.run('insert into t values(1,?,2)', [long]);
			db.close();
			assert.deepEqual(rowsOf(harvest({ db: readFileSync(path) }), 't', 'kept'), [[1, long, 2]]);
		});
	}
	it('reads WITHOUT ROWID rows on interior pages too', () => {
		const path = join(folder, 'a.db');
		const db = createDatabase(path, ['page_size=512']);
		db.exec('create table t(a text, b integer, c text, primary key(b, a)) without rowid');
		for (let i = 0; i < 300; i++) db.run('insert into t values(?,?,?)', [`key ${i}`, i % 7, `value ${i}`]);
		db.close();
		const rows = rowsOf(harvest({ db: readFileSync(path) }), 't', 'kept');
		assert.equal(rows.length, 300);
		assert.ok(rows.every(([a, b, c]) => String(c) === String(a).replace('key', 'value') && Number(b) < 7));
	});
	it('gives a column added later its default in older rows', () => {
		const path = join(folder, 'a.db');
		const db = createDatabase(path);
		db.exec("create table t(id integer primary key, a text); insert into t values(1,'old'); alter table t add column b text default 'new'");
		db.close();
		assert.deepEqual(rowsOf(harvest({ db: readFileSync(path) }), 't', 'kept'), [[1, 'old', 'new']]);
	});
});

describe('reaches', () => {
	it('add to each other and repeat nothing', () => {
		const path = join(folder, 'a.db');
		const db = filled(path);
		db.exec('delete from t where id in (3, 17, 30)');
		db.close();
		const source = { sources: [new MemorySource(readFileSync(path))], db: 0, wal: -1, journal: -1 };
		const store = new StoreHarvest(source);
		for (const p of store.run('used')) void p;
		const used = store.book.rows.length;
		for (const p of store.run('raw')) void p;
		assert.equal(used, 37);
		assert.equal(store.book.rows.length, 40);
		for (const p of store.run('raw')) assert.fail(`looked again at ${p.reach}`);
		assert.equal(store.book.rows.length, 40);
	});
});

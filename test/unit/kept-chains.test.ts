/** Rows in use stay whole, whatever freed copies of them in the log lead to. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { StoreHarvest } from '../../src/core/harvest';
import { createDatabase } from '../vectors/engine';
import { Random } from '../vectors/random';

const WORDS = 'lift pump cellar ladder invoice Tuesday garden letter window kettle boiler stairs council parcel'.split(' ');

describe('long rows in use with freed copies', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-kept-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	it('are whole, where pages move and what is old goes', () => {
		let copies = 0;
		for (let seed = 1; seed <= 8; seed++) {
			const r = new Random(seed);
			const path = join(folder, `${seed}.db`);
			const pragmas = ['page_size=1024', 'auto_vacuum=1', 'secure_delete=off', 'journal_mode=wal', `wal_autocheckpoint=${r.pick([0, 50])}`];
			const db = createDatabase(path, pragmas);
			db.exec('create table docs(key text primary key, conv text, ts integer, json text) without rowid');
			const rows = Array.from({ length: 400 }, (_, i) => ({
				key: `${r.int(1e15, 9e15)}${r.int(1e15, 9e15)}`,
				text: JSON.stringify({
					body: Array.from({ length: r.int(3, r.chance(0.1) ? 200 : 14) }, () => r.pick(WORDS)).join(' '),
					outgoing: i % 2 === 0,
					sentBy: '+447946000022'
				}),
				gone: false
			}));
			rows.forEach((row, i) => {
				if (i % 25 === 0) db.exec(i === 0 ? 'begin' : 'commit; begin');
				db.run('insert into docs values(?,?,?,?)', [
					row.key,
					`d40f00552eb0952dfe446a035d4c778${i % 3}`,
					1_731_000_000_000_000 + i * 6e9,
					row.text
				]);
				const old = rows[i - 120];
				if (!old) return;
				old.gone = true;
				db.run('delete from docs where key=?', [old.key]);
			});
			db.exec('commit');
			const sources = ['', '-wal'].map((ending) => new MemorySource(new Uint8Array(readFileSync(path + ending))));
			db.close();
			const found = new StoreHarvest({ sources, db: 0, wal: 1, journal: -1 });
			for (const step of found.run('raw')) void step;
			const docs = found.tables.findIndex((t) => t.name === 'docs');
			const kept = found.book.rowsOf(docs).filter((row) => row.standing === 'kept');
			assert.deepEqual(
				kept.map((row) => row.values[3]).sort(),
				rows
					.filter((row) => !row.gone)
					.map((row) => row.text)
					.sort(),
				`seed ${seed}`
			);
			copies += kept.filter((row) => row.sightings.some((s) => s.method === 'freed-cell')).length;
		}
		assert.equal(copies > 0, true, 'some have freed copies');
	});
});

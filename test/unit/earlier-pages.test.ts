/**
 * Pages as a log has them from earlier states: whose they were is told by the tree that led to them then, and a freed cell's
 * words end where pages it leads to were another cell's in that state.
 */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { StoreHarvest } from '../../src/core/harvest';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const START = 1_735_700_000;
const WORDS = 'lift pump cellar ladder invoice Tuesday garden letter window kettle boiler stairs council parcel'.split(' ');
const sentence = (r: Random, i: number, most: number): string =>
	`${Array.from({ length: r.int(3, most) }, () => r.pick(WORDS)).join(' ')} ${i}.`;

describe('pages of earlier states', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-earlier-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function harvested(name: string, write: (db: Engine) => void): StoreHarvest {
		const path = join(folder, `${name}.db`);
		const db = createDatabase(path, ['page_size=1024', 'secure_delete=off', 'journal_mode=wal', 'wal_autocheckpoint=0']);
		write(db);
		const [file, log] = [readFileSync(path), readFileSync(`${path}-wal`)].map((bytes) => new MemorySource(new Uint8Array(bytes)));
		db.close();
		const found = new StoreHarvest({ sources: [file!, log!], db: 0, wal: 1, journal: -1 });
		for (const step of found.run('raw')) void step;
		return found;
	}

	it('are the table’s that had them then, though a table declared alike has them now', () => {
		let right = 0;
		for (let seed = 1; seed <= 6; seed++) {
			const r = new Random(seed);
			const tables = ['talk_1', 'talk_2', 'talk_3', 'talk_4'];
			const owner = new Map<string, string>();
			const found = harvested(`tables ${seed}`, (db) => {
				for (const table of tables)
					db.exec(`create table ${table}(id integer primary key autoincrement, at integer, txt text, mine integer)`);
				const write = (table: string, i: number): void => {
					const text = sentence(r, i, 14);
					owner.set(text, table);
					db.run(`insert into ${table} values(null,?,?,?)`, [START + i * 61, text, i % 2]);
				};
				const inOne = (from: number, to: number, among: string[]): void => {
					db.exec('begin');
					for (let i = from; i < to; i++) write(r.pick(among), i);
					db.exec('commit');
				};
				for (let i = 0; i < 400; i += 20) inOne(i, i + 20, tables);
				db.exec('delete from talk_2');
				for (let i = 400; i < 800; i += 20) inOne(i, i + 20, ['talk_1', 'talk_3', 'talk_4']);
			});
			for (const row of found.book.rows) {
				const text = row.values[2];
				const table = typeof text === 'string' ? owner.get(text) : undefined;
				// Where only the page tells it, that is said, and what the row says is compared with others before it counts.
				if (table === undefined || !row.tableKnown || row.tableByPage || row.standing === 'kept') continue;
				assert.equal(found.tables[row.table]!.name, table, `seed ${seed}: ${String(text)}`);
				if (table === 'talk_2') right++;
			}
		}
		assert.equal(right > 300, true, `rows of the emptied tables are told: ${right}`);
	});

	it('give no freed cell the end of another one’s text', () => {
		let long = 0;
		for (let seed = 1; seed <= 8; seed++) {
			const r = new Random(seed * 31);
			const written = new Set<string>();
			const found = harvested(`chains ${seed}`, (db) => {
				db.exec('create table note(id text primary key, at integer, txt text)');
				for (let i = 0; i < 160; i++) {
					const text = sentence(r, i, 260);
					written.add(text);
					db.run('insert into note values(?,?,?)', [`n${r.int(1e9, 9e9)}`, START + i * 61, text]);
					if (i % 3 === 2) db.exec('delete from note where at = (select min(at) from note)');
				}
			});
			for (const row of found.book.rows) {
				const text = row.values[2];
				if (typeof text !== 'string' || text.length < 700 || row.cut >= 0 || row.grade === 'fragment') continue;
				assert.equal(written.has(text), true, `seed ${seed}: nobody wrote ${text.slice(0, 60)}… ${text.slice(-40)}`);
				long++;
			}
		}
		assert.equal(long > 200, true, `long texts are found: ${long}`);
	});

	it('have rows of before a column was added: they are of the table that has it, though none of them is in use any more', () => {
		const gone = new Set<string>();
		const found = harvested('grown', (db) => {
			const r = new Random(5);
			db.exec('create table note(id integer primary key, talk integer not null, at integer not null, txt text)');
			for (let i = 0; i < 240; i++) {
				if (i === 80) db.exec('alter table note add column pinned integer not null default 0');
				if (i === 160) db.exec('alter table note add column extra text');
				const text = sentence(r, i, 14);
				db.run('insert into note(talk, at, txt) values(?,?,?)', [1 + (i % 3), START + i * 61, text]);
				if (i < 160) gone.add(text);
			}
			db.exec('delete from note where id <= 160');
		});
		const lost = found.book.rows.filter((row) => row.standing !== 'kept' && gone.has(String(row.values[3])));
		assert.equal(new Set(lost.map((row) => row.values[3])).size, gone.size, 'all that lie in the log are found');
		assert.deepEqual([...new Set(lost.map((row) => found.tables[row.table]!.name))], ['note']);
		assert.equal(found.tables.filter((table) => table.name === 'note').length, 1, 'its earlier declarations are no tables of their own');
		assert.deepEqual(
			[...new Set(lost.filter((row) => Number(row.rowid) <= 80).map((row) => row.values[4]))],
			[0],
			'what they had not is as declared'
		);
	});
});

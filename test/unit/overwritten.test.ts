/**
 * Rows of which newer pages and cells left little: behind the end of what an overflow page holds, under the pointers of a
 * page that became an interior one, in documents that break off. What lies in the file whole is found.
 */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { PageUse } from '../../src/core/harvest/sqlite/database';
import { StoreHarvest } from '../../src/core/harvest';
import { readStore, sheetsOf, understand } from '../../src/core/interpret';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const START = 1_735_700_000;
const WORDS = 'lift pump cellar ladder invoice Tuesday garden letter window kettle boiler stairs council parcel'.split(' ');

interface Made {
	/** Of rows that were deleted, and of all. */
	gone: string[];
	written: string[];
	file: Buffer;
	found: StoreHarvest;
}

describe('rows written over in part', () => {
	let folder: string;
	let count = 0;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-over-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function make(pageSize: number, write: (db: Engine) => Pick<Made, 'gone' | 'written'>): Made {
		const path = join(folder, `${count++}.db`);
		const db = createDatabase(path, [`page_size=${pageSize}`, 'secure_delete=off']);
		const texts = write(db);
		db.close();
		const file = readFileSync(path);
		const found = new StoreHarvest({ sources: [new MemorySource(new Uint8Array(file))], db: 0, wal: -1, journal: -1 });
		for (const step of found.run('raw')) void step;
		return { ...texts, file, found };
	}

	const sentence = (r: Random, i: number): string => `${Array.from({ length: r.int(4, 12) }, () => r.pick(WORDS)).join(' ')} ${i}.`;
	const missing = ({ gone, file, found }: Made): string[] => {
		const texts = [...found.book.rows].flatMap((row) => row.values.filter((v): v is string => typeof v === 'string')).join('\u0000');
		return gone.filter((text) => file.includes(text) && !texts.includes(text));
	};
	const document = (i: number, body: string): string =>
		JSON.stringify({ id: `d${1e9 + i}`, body, sentBy: i % 3 ? '+447946000022' : '+447946000033', sent_at: (START + i * 61) * 1000 });

	it('lie behind the end of what an overflow page in use holds', () => {
		let slack = 0;
		for (let seed = 1; seed <= 12; seed++) {
			const r = new Random(seed);
			const made = make(1024, (db) => {
				db.exec('create table docs(key text primary key, at integer, txt text) without rowid');
				const key = (): string => String(r.int(1e9, 9e9));
				const rows = Array.from({ length: 120 }, (_, i) => ({ key: key(), text: sentence(r, i) }));
				rows.forEach((row, i) => db.run('insert into docs values(?,?,?)', [row.key, START + i * 61, row.text]));
				const gone = rows.filter(() => r.chance(0.8));
				for (const row of gone) db.run('delete from docs where key=?', [row.key]);
				for (let i = 0; i < 6; i++) db.run('insert into docs values(?,?,?)', [key(), START + 9e5 + i, 'long '.repeat(r.int(190, 600))]);
				return { gone: gone.map((row) => row.text), written: rows.map((row) => row.text) };
			});
			assert.deepEqual(missing(made), [], `seed ${seed}`);
			slack += made.gone.filter((text) => liesOnOverflowPage(made, text, 1024)).length;
		}
		assert.equal(slack > 0, true, 'some of them lie there');
	});

	it('lie under the pointers of a page that became an interior one', () => {
		let ends = 0;
		for (let seed = 1; seed <= 40; seed++) {
			const r = new Random(seed);
			const made = make(1024, (db) => {
				db.exec('create table note(id integer primary key, who text, at integer, txt text, seen integer)');
				const texts = Array.from({ length: r.int(150, 420) }, (_, i) => sentence(r, i));
				texts.forEach((text, i) =>
					db.run('insert into note values(?,?,?,?,?)', [
						i + 1,
						r.pick(['+447946000022', '+447946000033']),
						(START + i * 61) * 1000,
						text,
						i % 2
					])
				);
				db.run('delete from note where id < 14');
				for (let i = 0; i < 13; i++)
					db.run('insert into note values(?,?,?,?,?)', [i + 1, null, START * 1000, `again ${'x'.repeat(r.int(60, 90))}`, 1]);
				return { gone: texts.slice(0, 13), written: texts };
			});
			assert.deepEqual(missing(made), [], `seed ${seed}`);
			const texts = made.found.book.rowsOf(1).flatMap((row) => (row.rowid === null && row.grade === 'fragment' ? [row.values[3]] : []));
			const shown = texts.filter((text) => typeof text === 'string');
			const never = shown.filter((text) => !text.startsWith('again') && !made.written.some((one) => one.startsWith(text)));
			assert.deepEqual(never, [], `seed ${seed}: never written`);
			ends += shown.filter((text) => made.gone.includes(text)).length;
		}
		assert.equal(ends > 0, true, 'some are ends of cells');
	});

	it('are documents that break off: what is whole in them is read, a number at the end and a text in a list are not', () => {
		const made = make(4096, (db) => {
			db.exec('create table docs(id integer primary key, json text)');
			for (let i = 1; i <= 60; i++) db.run('insert into docs values(?,?)', [i, document(i, `The kettle is in flat ${i}, said ${i}`)]);
			return { gone: [], written: [] };
		});
		const docs = made.found.tables.findIndex((t) => t.name === 'docs');
		const rows = made.found.book.rowsOf(docs);
		const broken = [
			[document(7, 'The kettle is gone').replace(/\d{5}\}$/, ''), 'The kettle is gone', null, false],
			['{"id": "d3", "body": "Take the ladd', 'Take the ladd', null, true],
			[`${document(9, 'All of it').slice(0, -1)}, "files": [{"name": "scan.p`, 'All of it', (START + 9 * 61) * 1000, false]
		] as const;
		broken.forEach(([json], i) => {
			const row = rows[i]!;
			row.values[1] = json;
			row.cut = 1;
			row.grade = 'fragment';
			row.standing = 'remnant';
		});
		const { messages } = understand(readStore(sheetsOf(made.found), made.found.tables, []), made.found.tables);
		const cut = messages.filter((m) => m.row.cut === 1);
		assert.deepEqual(cut.map((m) => [m.text, m.sentAt, m.textCut]).sort(), broken.map(([, text, at, isCut]) => [text, at, isCut]).sort());
	});
});

function liesOnOverflowPage({ file, found }: Made, text: string, pageSize: number): boolean {
	const use = (found as unknown as { db: { use: Uint8Array } }).db.use;
	for (let at = file.indexOf(text); at >= 0; at = file.indexOf(text, at + 1))
		if (use[Math.floor(at / pageSize) + 1] === PageUse.Overflow) return true;
	return false;
}

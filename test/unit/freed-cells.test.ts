/** Freed cells that other bytes make hard to tell: a 0x80 before them, a first type that is gone, newer cells in their blobs. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { StoreHarvest } from '../../src/core/harvest';
import { readStore, sheetsOf, understand, type Understood } from '../../src/core/interpret';
import { createDatabase, loadMemoryEngine, memoryEngine, type Engine } from '../vectors/engine';

const START = 1_735_700_000_000;
const said = (i: number): string => `The valve of flat ${i} was open again${' and again'.repeat(i % 9)}, ${i}`;
/** A body as programs store it: a mark, a length in four bytes, the text, and an end. */
const body = (text: string): Buffer => {
	const bytes = Buffer.from(text);
	const head = Buffer.from([4, 0x0b, 0x73, 0x74, 0, 0, 0, 0]);
	head.writeUInt32BE(bytes.length, 4);
	return Buffer.concat([head, bytes, Buffer.from([0x86, 0x84, 0, 1])]);
};

describe('freed cells', () => {
	let folder: string;
	let count = 0;
	let bytes = '';
	before(async () => {
		await loadMemoryEngine();
		folder = mkdtempSync(join(tmpdir(), 'ombudsman-freed-'));
	});
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** `change`: what becomes of the file's bytes after it was written. */
	function harvest(write: (db: Engine) => void, change: (file: Buffer) => void = () => undefined, encoding = 'UTF-8'): StoreHarvest {
		const path = join(folder, `${count++}.db`);
		const db = (encoding === 'UTF-8' ? createDatabase : memoryEngine)(path, [
			`encoding='${encoding}'`,
			'page_size=4096',
			'secure_delete=off'
		]);
		write(db);
		db.close();
		const file = readFileSync(path);
		change(file);
		bytes = file.toString('utf8');
		const found = new StoreHarvest({ sources: [new MemorySource(new Uint8Array(file))], db: 0, wal: -1, journal: -1 });
		for (const step of found.run('raw')) void step;
		return found;
	}

	function messagesOf(found: StoreHarvest): Understood[] {
		const reading = readStore(sheetsOf(found), found.tables, []);
		return understand(reading, found.tables).messages;
	}

	it('that begin in the last number of an older copy leave that its text, and no time that it never had', () => {
		const at = (i: number): number => START + i * 61_000;
		const write = (db: Engine): void => {
			db.exec('create table message(id integer primary key, room integer, body text, sent_at integer, mine integer)');
			for (let i = 1; i <= 100; i++) db.run('insert into message values(?,?,?,?,?)', [i, i % 4, i % 10 ? said(i) : '19:30', at(i), i % 2]);
		};
		const place = (rowid: number, found: StoreHarvest): { offset: number; length: number } =>
			found.book.rowsOf(1).find((row) => row.rowid === rowid)!.sightings[0]!;
		const before = harvest(write);
		const [short, long] = [place(10, before), place(33, before)];
		const found = harvest(write, (file) => {
			const last = file.length - 4096;
			const end = file.readUInt16BE(last + 5);
			const freed = file.subarray(long.offset, long.offset + long.length);
			const start = last + end - long.length;
			file.subarray(short.offset, short.offset + short.length).copy(file, start + 4 - short.length);
			freed.copy(file, start);
			file.writeUInt16BE(end + 40, start);
			file.writeUInt16BE(long.length, start + 2);
		});
		const times = found.book.rowsOf(1).flatMap(({ values: [, , text, time] }) => (text === '19:30' && time !== undefined ? [time] : []));
		assert.deepEqual(
			times.toSorted(),
			Array.from({ length: 10 }, (_, n) => at(10 + n * 10))
		);
		const copied = found.book.rowsOf(1).find((row) => row.rowid === 33)!;
		assert.equal(copied.sightings.length > 1, true, 'what was freed there is seen');
	});

	it('of tables without record numbers come back in two bytes a letter as well, keys of one length first', () => {
		const key = (i: number): string => `t${1_000_000 + (i % 5)}`;
		const found = harvest(
			(db) => {
				db.exec('create table line(talk text, seq integer, who text, at integer, txt text, primary key(talk, seq)) without rowid');
				for (let i = 1; i <= 400; i++)
					db.run('insert into line values(?,?,?,?,?)', [
						key(i),
						100 + i,
						i % 3 ? `u_${i % 5}` : null,
						1_735_700_000 + i * 61,
						said(i).slice(-20)
					]);
				for (const i of [33, 111, 207, 301]) db.run(`delete from line where talk='${key(i)}' and seq=${100 + i}`);
			},
			undefined,
			'UTF-16le'
		);
		const table = found.tables.find((t) => t.name === 'line')!;
		const lost = found.book.rowsOf(table.index).filter((row) => row.standing === 'remnant' && row.grade !== 'fragment');
		assert.deepEqual(
			lost.map((row) => row.values.slice(2)).sort((a, b) => Number(a[1]) - Number(b[1])),
			[33, 111, 207, 301].map((i) => [i % 3 ? `u_${i % 5}` : null, 1_735_700_000 + i * 61, said(i).slice(-20)])
		);
	});

	it('each begins where it begins, though the byte before could begin a longer number', () => {
		// Times whose last byte is 0x80: the payload length that follows could be taken for its second byte.
		const at = (i: number): number => Math.floor((START + i * 61_000) / 256) * 256 + 0x80;
		const found = harvest((db) => {
			db.exec('create table letter(id integer primary key, who integer, what text, at integer)');
			for (let i = 1; i <= 200; i++) db.run('insert into letter values(?,?,?,?)', [i, 1 + (i % 7), said(i), at(i)]);
			db.exec('delete from letter where id > 20 and id < 150');
		});
		const rows = found.book.rows.filter((row) => row.standing === 'remnant' && row.grade !== 'fragment');
		for (let i = 21; i < 150; i++) {
			if (!bytes.includes(said(i))) continue;
			const [row] = rows.filter((r) => r.values[2] === said(i));
			assert.deepEqual(row?.values.slice(1), [1 + (i % 7), said(i), at(i)], said(i));
		}
	});

	it('a first value that is a blob is found though its length is gone', () => {
		const found = harvest((db) => {
			db.exec('create table letter(what blob, who text, at integer)');
			for (let i = 1; i <= 60; i++)
				db.run('insert into letter values(?,?,?)', [body(`Valve ${i} open`), `+44770090012${i % 9}`, START + i * 61_000]);
			db.exec('delete from letter where rowid % 5 = 0');
		});
		const lost = messagesOf(found).filter((m) => m.row.standing === 'remnant');
		assert.deepEqual(lost.map((m) => m.text).sort(), Array.from({ length: 12 }, (_, i) => `Valve ${(i + 1) * 5} open`).sort());
	});

	it('a key that is a blob is read whole where what begins behind it could begin in it', () => {
		const keyOf = (i: number, size: number): Uint8Array =>
			Uint8Array.from({ length: size }, (_, k) => (i * 37 + k * 61 + 5) % 251)
				.fill(0xdd, -2, -1)
				.fill(0x97, -1);
		const found = harvest((db) => {
			db.exec('create table doc(id blob primary key, coll text, body text) without rowid');
			for (let i = 1; i <= 60; i++) db.run('insert into doc values(?,?,?)', [keyOf(i, 16), 'messages', said(i)]);
			for (let i = 1; i <= 6; i++) db.run('insert into doc values(?,?,?)', [keyOf(i, 8), 'users', `Person ${i}`]);
			for (let i = 5; i <= 60; i += 5) db.run('delete from doc where id = ?', [keyOf(i, 16)]);
		});
		const lost = found.book.rowsOf(1).filter((row) => row.standing === 'remnant' && /^.{0,3}messages$/u.test(String(row.values[1])));
		assert.ok(lost.length >= 10, `${lost.length} of 12 are found`);
		assert.deepEqual([...new Set(lost.map((row) => `${(row.values[0] as Uint8Array).length} ${String(row.values[1])}`))], ['16 messages']);
	});

	for (const [what, last] of [
		['fills its block', 'The heating bill came'],
		['stands right behind another', '']
	] as const) {
		it(`one without a head whose end is overwritten is found where it ${what}`, () => {
			const long = `The pump of the north stair ${'was loud all night and the caretaker did not come; '.repeat(8)}so we called the office.`;
			const found = harvest((db) => {
				db.exec('create table letter(id integer primary key, who integer, at integer, mine integer, what text)');
				const add = (i: number, what: string): void =>
					void db.run('insert into letter values(?,?,?,?,?)', [i, 1 + (i % 7), Math.floor(START / 1000) + i * 61, i % 2, what]);
				for (let i = 200; i <= 230; i++) add(i, said(i));
				// The one before it is freed with it: one block of both, its size that of both.
				add(231, last === '' ? long : said(231));
				add(232, last === '' ? said(232) : long);
				add(233, said(233));
				if (last === '') db.exec('delete from letter where id = 231; delete from letter where id = 232');
				else db.exec('delete from letter where id = 232');
				db.exec('delete from letter where id = 233');
				add(234, 'Written over the end of it');
				db.exec('delete from letter where id = 234');
			});
			const texts = messagesOf(found).map((m) => m.text ?? '');
			const left = texts.filter((text) => text.length > 100 && long.startsWith(text));
			assert.equal(left.length, 1);
			assert.equal(left[0]!.length < long.length, true);
			assert.equal(texts.filter((text) => text.includes('The pump of the north stair')).length, 1);
		});
	}

	it('what a newer cell lies in keeps nothing of that: no text is another’s, and none comes twice', () => {
		const texts = new Set<string>();
		const found = harvest((db) => {
			db.exec('create table letter(id integer primary key, who integer, what blob, at integer, mine integer)');
			const write = (from: number, to: number): void => {
				for (let i = from; i <= to; i++) {
					texts.add(said(i));
					db.run('insert into letter values(?,?,?,?,?)', [i, 1 + (i % 7), body(said(i)), START + i * 61_000, i % 2]);
				}
			};
			write(1, 300);
			db.exec('delete from letter where id < 280');
			write(301, 420);
			db.exec('delete from letter where id % 3 > 0');
		});
		const messages = messagesOf(found);
		for (const { text, textCut } of messages)
			if (text !== null) assert.ok(textCut ? [...texts].some((t) => t.startsWith(text)) : texts.has(text), text);
		const whole = messages.filter((m) => !m.textCut).map((m) => m.text);
		assert.equal(new Set(whole).size, whole.length);
	});

	for (const encoding of ['UTF-8', 'UTF-16le'])
		it(`end where the head of another stands, though that one is itself overwritten (${encoding})`, () => {
			const wide = encoding === 'UTF-8' ? 1 : 2;
			const stored = (text: string): Buffer => Buffer.from(text, wide === 1 ? 'utf8' : 'utf16le');
			const last = stored(said(10));
			const found = harvest(
				(db) => {
					db.exec('create table letter(id integer primary key, at integer, who integer, what text)');
					for (let i = 1; i <= 18; i++) db.run('insert into letter values(?,?,?,?)', [i, START + i * 61_000, 2 + (i % 7), said(i)]);
					db.exec('delete from letter where id in (9, 10)');
				},
				(file) => {
					// Payload length, record number, header (its size, then null, six bytes, one byte, a text), and values that are none.
					const head = [5 + 7 + 20 * wide, 77, 5, 0, 5, 1, 13 + 40 * wide];
					const values = [...stored('\u0001'.repeat(10 / wide)), 0xff, 0xff, 0xff];
					Buffer.from([...head, ...values]).copy(file, file.indexOf(last) + last.length - 2);
				},
				encoding
			);
			const texts = found.book.rows.filter((row) => row.standing === 'remnant').map((row) => row.values[3]);
			const whole = texts.filter(
				(text) => typeof text === 'string' && text.length >= said(10).length && text.startsWith(said(10).slice(0, 20))
			);
			assert.deepEqual(whole, []);
			assert.ok(texts.includes(said(10).slice(0, wide === 1 ? -2 : -1)), `the beginning is there: ${texts.join(' | ')}`);
		});

	it('whose last bytes are the beginning of an interior page’s cells have no time that those make', () => {
		const found = harvest(
			(db) => {
				db.exec('create table letter(id integer primary key, who integer, what text, at integer)');
				for (let i = 1; i <= 18; i++) db.run('insert into letter values(?,?,?,?)', [i, 2 + (i % 7), said(i), START + i * 61_000]);
				db.exec('delete from letter where id in (9, 10)');
			},
			(file) => {
				// A child's page number in four bytes, then a rowid; three of them, on the last three bytes of the time.
				const cells = [0x34, 0x33, 0x32].flatMap((page) => [0, 0, 0, page, 0x82, 0x20 + page]);
				Buffer.from(cells).copy(file, file.indexOf(said(10)) + said(10).length + 3);
			}
		);
		const [row, ...others] = found.book.rows.filter((r) => r.values[2] === said(10));
		assert.ok(row);
		assert.deepEqual(others, []);
		assert.equal(row.values[3], undefined);
	});

	it('where nothing is in use, whole cells in a row say what the others are like', () => {
		const found = harvest((db) => {
			db.exec('create table letter(id integer primary key, who integer, what blob, at integer, mine integer)');
			for (let i = 1; i <= 120; i++)
				db.run('insert into letter values(?,?,?,?,?)', [i, 1 + (i % 7), body(said(i)), START + i * 61_000, i % 2]);
			db.exec('delete from letter where id % 10 = 0');
			db.exec('delete from letter');
		});
		const texts = new Set(messagesOf(found).map((m) => m.text));
		for (let i = 1; i <= 120; i++) assert.ok(texts.has(said(i)) || !bytes.includes(said(i)), said(i));
	});
});

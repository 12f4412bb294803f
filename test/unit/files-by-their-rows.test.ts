/**
 * Files of messages of which no row states a path, a size or a digest: they are called by the numbers or the keys of rows, or
 * their bytes stand in tables of their own. Each is linked to its message, and none to another.
 */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { messageLine } from '../../src/cli/lines';
import { createDatabase, type Engine } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';

const COUNT = 60;
const said = (i: number): string => `The meter of flat ${i} was read again, ${i}`;
const sentAt = (i: number): number => Date.UTC(2025, 0, 10, 8) + i * 731_000;
const hasFile = (i: number): boolean => i % 4 === 0;
const KINDS = [
	['image/png', 'png', [0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]],
	['application/pdf', 'pdf', [0x25, 0x50, 0x44, 0x46, 0x2d, 0x31, 0x2e, 0x34]],
	['audio/ogg', 'ogg', [0x4f, 0x67, 0x67, 0x53, 0, 2]]
] as const;

interface Sent {
	/** Of the message, and of the row that states the file. */
	message: number;
	row: number;
	mime: string;
	ending: string;
	bytes: Uint8Array;
	guid: string;
}
const SENT: readonly Sent[] = Array.from({ length: COUNT }, (_, n) => n + 1)
	.filter(hasFile)
	.map((message, i) => {
		const [mime, ending, head] = KINDS[i % KINDS.length]!;
		const rest = Uint8Array.from({ length: 900 + (i % 3) }, (_, n) => (n * (i + 3) * 7919) % 251);
		const guid = `${(message * 7919).toString(16).padStart(8, '0')}-1f2e-4a3b-9c4d-${(message * 10007).toString(16).padStart(12, '0')}`;
		return { message, row: i + 1, mime, ending, bytes: Uint8Array.from([...head, ...rest]), guid };
	});
const byMessage = new Map(SENT.map((s) => [s.message, s]));
const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

interface Layout {
	/** Columns of the messages beside those that all have, and their values. */
	own?: [columns: string, values: (i: number) => (string | number | null)[]];
	tables?: (db: Engine) => void;
	/** Where a file lies, where it lies in none of the tables. */
	place?: (sent: Sent) => string;
	others?: Record<string, Uint8Array>;
}

const stating = (db: Engine, more = '', values: (s: Sent) => (string | number | Uint8Array)[] = () => []): void => {
	db.exec(`create table attachment(id integer primary key, message_id integer, mime text${more})`);
	for (const s of SENT) {
		const all = [s.row, s.message, s.mime, ...values(s)];
		db.run(`insert into attachment values(${all.map(() => '?').join()})`, all);
	}
};
const pieces = (db: Engine): void => {
	db.exec('create table piece(attachment_id integer, part integer, data blob)');
	for (const s of SENT.toReversed())
		for (const part of [2, 0, 1]) db.run('insert into piece values(?,?,?)', [s.row, part, s.bytes.slice(part * 400, (part + 1) * 400)]);
};

const LAYOUTS: Record<string, Layout> = {
	'called by the number of the row that states them': { tables: stating, place: (s) => `kept/${s.row}` },
	'called so with a word before it, in folders that part them': { tables: stating, place: (s) => `kept/${s.row % 2}f/att_${s.row}.dat` },
	'called by the number of their message': {
		own: ['media text', (i) => [byMessage.get(i)?.mime ?? null]],
		place: (s) => `media/${String(s.message).padStart(8, '0')}.${s.ending}`
	},
	'called by the key of the row that states them': {
		tables: (db) => stating(db, ', guid text', (s) => [s.guid]),
		place: (s) => `kept/${s.guid}`
	},
	'called by the key of their message, which no row says': {
		own: ['guid text', (i) => [byMessage.get(i)?.guid ?? `00000000-0000-4000-8000-${(1e12 + i).toString().slice(1)}`]],
		place: (s) => `media/${s.guid}.${s.ending}`
	},
	'whose bytes stand in a table of their own': {
		tables: (db) => {
			stating(db);
			db.exec('create table content(attachment_id integer primary key, data blob)');
			for (const s of SENT) db.run('insert into content values(?,?)', [s.row, s.bytes]);
		}
	},
	'whose bytes stand there under a name that says nothing': {
		tables: (db) => {
			stating(db);
			db.exec('create table tuvo(x integer primary key, y blob)');
			for (const s of SENT) db.run('insert into tuvo values(?,?)', [s.row, s.bytes]);
		}
	},
	'whose bytes stand in several rows each, in any order': {
		tables: (db) => {
			stating(db);
			pieces(db);
		}
	},
	'whose bytes are written as digits to the base of 64': {
		tables: (db) => stating(db, ', content text', (s) => [`data:${s.mime};base64,${Buffer.from(s.bytes).toString('base64')}`])
	}
};

describe('files of messages', () => {
	let folder: string;
	let count = 0;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-by-rows-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	async function attachments({
		own = ['', () => []],
		tables = () => undefined,
		place,
		others = {}
	}: Layout): Promise<Map<string, string[]>> {
		const path = join(folder, `${count++}.db`);
		const db = createDatabase(path);
		db.exec(`create table contact(id integer primary key, number text, name text);
			create table message(id integer primary key, contact_id integer, body text, sent_at integer, outgoing integer${own[0] && `, ${own[0]}`})`);
		for (const i of [1, 2, 3]) db.run('insert into contact values(?,?,?)', [i, `+44770090041${i}`, `Odile Marchetti ${i}`]);
		for (let i = 1; i <= COUNT; i++) {
			const all = [i, 1 + (i % 3), said(i), sentAt(i), i % 2, ...own[1](i)];
			db.run(`insert into message values(${all.map(() => '?').join()})`, all);
		}
		tables(db);
		db.close();
		const lie = place ? SENT.map((s) => [`desk/${place(s)}`, s.bytes] as const) : [];
		const look = await lookAt(
			{ 'desk/data/store.db': new Uint8Array(readFileSync(path)), ...Object.fromEntries(lie), ...others },
			'+447700900300'
		);
		const { stores, weave } = look.findings();
		const lines = weave.threads.flatMap((t) =>
			t.messages.map(
				(m) =>
					messageLine(m, stores, weave, look.files, look.media, null) as unknown as {
						text: string;
						attachments: { sha256: string | null }[];
					}
			)
		);
		assert.equal(lines.length, COUNT);
		return new Map(lines.map((line) => [line.text, line.attachments.flatMap((a) => a.sha256 ?? [])]));
	}

	for (const [what, layout] of Object.entries(LAYOUTS))
		it(`${what} are theirs`, async () => {
			const found = await attachments(layout);
			for (let i = 1; i <= COUNT; i++) {
				const sent = byMessage.get(i);
				assert.deepEqual(found.get(said(i)), sent ? [sha256(sent.bytes)] : [], said(i));
			}
		});

	it('are none that only have low numbers, as a few of any folder do, nor those of a camera, nor of another type', async () => {
		const picture = Uint8Array.from([...KINDS[0][2], 1, 2, 3, 4]);
		const pictures = (name: (n: number) => string, numbers: readonly number[]): Layout => ({
			tables: stating,
			others: Object.fromEntries(numbers.map((n) => [`desk/${name(n)}`, Uint8Array.from([...picture, n])]))
		});
		const rows = SENT.map((s) => s.row);
		for (const layout of [
			pictures((n) => `cache/tmp_${n}.png`, [1, 4, 7]),
			pictures((n) => `DCIM/IMG_${String(n).padStart(4, '0')}.png`, rows),
			pictures((n) => `cache/${n}`, rows)
		])
			assert.deepEqual([...(await attachments(layout)).values()].flat(), []);
	});

	it('that have lost one of their pieces are stated, and are no whole file', async () => {
		const found = await attachments({
			tables: (db) => {
				stating(db);
				pieces(db);
				db.exec('update piece set data = null where part = 1 and attachment_id = 2');
			}
		});
		assert.deepEqual(found.get(said(SENT[1]!.message)), []);
		assert.deepEqual(found.get(said(SENT[2]!.message)), [sha256(SENT[2]!.bytes)]);
	});
});

describe('texts in files of their own', () => {
	const textsOf = async (
		others: (i: number) => string | null,
		place: (i: number) => string
	): Promise<[string | null, string, number][]> => {
		const folder = mkdtempSync(join(tmpdir(), 'ombudsman-texts-'));
		const db = createDatabase(join(folder, 'store.db'), ['secure_delete=off']);
		db.exec(`create table contact(id integer primary key, number text, name text);
			create table message(id integer primary key, contact_id integer, body_file text, sent_at integer, outgoing integer)`);
		for (const i of [1, 2, 3]) db.run('insert into contact values(?,?,?)', [i, `+44770090041${i}`, `Odile Marchetti ${i}`]);
		for (let i = 1; i <= COUNT; i++) db.run('insert into message values(?,?,?,?,?)', [i, 1 + (i % 3), place(i), sentAt(i), i % 2]);
		db.run('delete from message where id = 30');
		db.close();
		const files = Object.fromEntries(
			Array.from({ length: COUNT }, (_, n) => n + 1).flatMap((i) => {
				const text = others(i);
				return text === null ? [] : [[`desk/data/${place(i)}`, text] as const];
			})
		);
		const look = await lookAt({ 'desk/data/store.db': new Uint8Array(readFileSync(join(folder, 'store.db'))), ...files }, '+447700900300');
		rmSync(folder, { recursive: true });
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m): [string | null, string, number] => {
				const line = messageLine(m, stores, weave, look.files, look.media, null) as unknown as Record<string, string & unknown[]>;
				return [line.text ?? null, line.standing!, line.attachments!.length];
			})
		);
	};
	const placeOf = (i: number): string => `bodies/${String(100_000 + i)}.txt`;

	it('are what their messages say, those of lost rows too', async () => {
		const found = await textsOf(said, placeOf);
		assert.deepEqual(
			found.toSorted((a, b) => Number(/\d+$/.exec(a[0]!)) - Number(/\d+$/.exec(b[0]!))),
			Array.from({ length: COUNT }, (_, n) => [said(n + 1), n + 1 === 30 ? 'remnant' : 'kept', 0])
		);
	});

	it('leave a message without a text whose file is missing', async () => {
		const found = await textsOf((i) => (i % 10 === 7 ? null : said(i)), placeOf);
		const without = found.filter(([text]) => text === null || !text.startsWith('The meter'));
		assert.equal(found.length, COUNT);
		assert.deepEqual(
			without,
			Array.from({ length: 6 }, () => [null, 'kept', 1])
		);
	});
});

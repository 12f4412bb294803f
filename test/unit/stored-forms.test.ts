/** Texts that a store keeps inside other values, whichever way a program packs them: each read whole, with its time, way and other side. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { encode as encodeMessagePack } from '@msgpack/msgpack';
import { Long, ObjectId, serialize } from 'bson';
import { encode as encodeCbor } from 'cbor2';
import fc from 'fast-check';
import { openPaths } from '../../src/cli/files';
import { openSerial } from '../../src/core/harvest/serial';
import { joined, piecesIn } from '../../src/core/interpret/written-in-pieces';
import { Look } from '../../src/core/look';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const WORDS = 'boiler meter charge valve größer завтра credit plant heating 你好 failure notice tenant 👍 ladder window letter'.split(' ');
const COUNT = 48;
const START = 1_735_000_000;
const random = new Random(31);
const TEXTS = Array.from(
	{ length: COUNT },
	(_, i) => `${Array.from({ length: random.int(1, 12) }, () => random.pick(WORDS)).join(' ')} ${i}`
);

/** A text's words in two runs, of which the second has another look. */
function runsOf(text: string): { t: string; bold?: number }[] {
	const half = text.lastIndexOf(' ') + 1;
	return [{ t: text.slice(0, half) }, { t: text.slice(half), bold: 1 }];
}

const FORMS: Record<string, (text: string, i: number) => Uint8Array | string> = {
	'CBOR, as a map': (text, i) => encodeCbor({ v: 2, text, silent: false, at: i }),
	'CBOR, numbers for keys': (text, i) =>
		encodeCbor(
			new Map<number, unknown>([
				[1, i],
				[2, text],
				[3, new Uint8Array([1, 2])]
			])
		),
	'MessagePack, as a map': (text) => encodeMessagePack({ v: 2, text, mentions: [], lang: 'en' }),
	'MessagePack, as a list': (text, i) => encodeMessagePack(['text', text, null, i]),
	'BSON, a part of it within': (text, i) =>
		serialize({ _id: new ObjectId(), message: { text, seen: [true, null] }, at: Long.fromNumber(i) }),
	'JSON, as a list': (text) => JSON.stringify(['text', text, null, { f: 0 }]),
	'JSON, in runs': (text) => JSON.stringify(runsOf(text)),
	'JSON, in runs of which some are plain': (text) =>
		JSON.stringify({ kind: 'rich', body: [runsOf(text)[0]!.t, { type: 'bold', text: runsOf(text)[1]!.t }] }),
	'JSON, deep within, in a part': (text, i) => JSON.stringify({ m: { content: { parts: [{ kind: 'plain', value: text }] }, id: `x${i}` } }),
	'JSON, in paragraphs': (text) => JSON.stringify({ doc: { blocks: [{ type: 'paragraph', children: runsOf(text) }] } }),
	'rich text': (text) =>
		`{\\rtf1\\ansi ${[...text].map((c) => (c > '~' ? Array.from({ length: c.length }, (_, k) => `\\u${c.charCodeAt(k)}?`).join('') : c)).join('')}\\par}`,
	'percent-encoded': (text) => encodeURIComponent(text),
	'base64 of UTF-16': (text) => Buffer.from(text, 'utf16le').toString('base64'),
	'bytes behind a byte order mark': (text) => Buffer.from(`\ufeff${text}`),
	'bytes behind their length, the first of which begin as packed ones do': (text) => {
		const [head, tail, bytes] = [Buffer.from([1, 0, 0, 0, 3, 0, 0, 0, 0, 0]), Buffer.from([0, 0, 0, 0, 7, 0, 0, 0]), Buffer.from(text)];
		head.writeUInt32LE(bytes.length, 6);
		return Buffer.concat([head, bytes, tail]);
	}
};

describe('texts inside stored values', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-forms-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function check(name: string, fill: (db: Engine, i: number, text: string) => void, schema = ''): void {
		const path = join(folder, `${name}.db`);
		const db = createDatabase(path);
		db.exec(`create table message(id integer primary key, peer text, mine integer, at integer, body);${schema}`);
		TEXTS.forEach((text, i) => fill(db, i, text));
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const found = look.findings().weave.threads.flatMap((t) => t.messages);
		found.sort((a, b) => a.first.sentAt! - b.first.sentAt!);
		assert.deepEqual(
			found.map(({ first }) => [first.text, first.sentAt, first.direction, first.correspondent?.address]),
			TEXTS.map((text, i) => [text, (START + i * 500) * 1000, i % 3 ? 'in' : 'out', `+44770090010${i % 4}`])
		);
	}
	const row = (i: number): (string | number)[] => [i + 1, `+44770090010${i % 4}`, Number(i % 3 === 0), START + i * 500];

	Object.entries(FORMS).forEach(([what, store], n) =>
		it(`are read: ${what}`, () =>
			check(`form-${n}`, (db, i, text) => db.run('insert into message values(?,?,?,?,?)', [...row(i), store(text, i)])))
	);

	it('are read: each in a row of a table of properties', () =>
		check(
			'properties',
			(db, i, text) => {
				db.run('insert into message values(?,?,?,?,null)', row(i));
				for (const [k, v] of [
					['lang', 'en'],
					['text', text],
					['client', 'desk']
				])
					db.run('insert into property values(null,?,?,?)', [i + 1, k!, v!]);
			},
			'create table property(id integer primary key, message_id integer, k text, v text)'
		));
});

describe('values as bytes of their own', () => {
	it('never throw nor hang, whatever the bytes', () => {
		fc.assert(
			fc.property(
				fc.uint8Array({ maxLength: 200 }),
				fc.constantFrom('bson' as const, 'cbor' as const, 'msgpack' as const),
				(bytes, kind) => {
					const value = openSerial(kind, bytes);
					assert.ok(value === undefined || typeof value === 'object');
				}
			)
		);
		// A list of four thousand million things, a list within a list five thousand deep.
		for (const bytes of [
			[0x9a, 0xff, 0xff, 0xff, 0xff, 1],
			[0xdd, 0xff, 0xff, 0xff, 0xff, 1],
			Array<number>(5000).fill(0x91),
			Array<number>(5000).fill(0x81)
		])
			for (const kind of ['cbor', 'msgpack'] as const) assert.equal(openSerial(kind, Uint8Array.from(bytes)), undefined);
	});
	it('of BSON are read to their last byte or not at all, and no deeper than values go', () => {
		let deep = Buffer.from([5, 0, 0, 0, 0]);
		for (let i = 0; i < 20_000; i++) {
			const next = Buffer.alloc(deep.length + 8);
			next.writeInt32LE(next.length, 0);
			next.set([3, 0x61, 0], 4);
			next.set(deep, 7);
			deep = next;
		}
		assert.ok(JSON.stringify(openSerial('bson', new Uint8Array(deep)) ?? {}).length < 1000);
		const whole = serialize({ text: 'who has the key', at: new Date(1_700_000_000_000), key: new ObjectId('65a1c0de0000000000000001') });
		assert.deepEqual(openSerial('bson', whole), {
			text: 'who has the key',
			at: 1_700_000_000_000,
			key: Uint8Array.from(Buffer.from('65a1c0de0000000000000001', 'hex'))
		});
		for (const bytes of [whole.subarray(0, -1), Uint8Array.from([...whole, 0]), Uint8Array.from(whole, (b, i) => (i === 4 ? 0x7e : b))])
			assert.equal(openSerial('bson', bytes), undefined);
	});
	it('in pieces are no text where lists hold names, numbers or keys', () => {
		const lists = Array.from({ length: 20 }, (_, i) => ({ members: [`+4477009001${10 + i}`, `+4477009002${10 + i}`], tags: ['a', 'b'] }));
		assert.equal(piecesIn(lists), null);
		assert.equal(
			piecesIn([
				[1, 2],
				[3, 4],
				[5, 6]
			]),
			null
		);
	});
	it('in pieces join runs as they are, and parts line by line', () => {
		const values = [
			[{ t: 'Bring the ' }, { t: 'old key' }, { t: ' to the boiler' }],
			[{ t: 'Meet at noon' }],
			[{ t: 'First line here' }, { t: 'second line here' }]
		];
		const pieces = piecesIn(values)!;
		assert.deepEqual(
			values.map((v) => joined(v, pieces)),
			['Bring the old key to the boiler', 'Meet at noon', 'First line here\nsecond line here']
		);
	});
});

/** Stores of keys and values, and object stores of a browser, made by the real engines: what is in them, what was, what is damaged. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { before, describe, it } from 'node:test';
import { serialize } from 'node:v8';
import fc from 'fast-check';
import { messageLine } from '../../src/cli/lines';
import { MemorySource } from '../../src/core/bytes';
import { LevelHarvest } from '../../src/core/harvest';
import { readManifest } from '../../src/core/harvest/leveldb/manifest';
import { openClone } from '../../src/core/harvest/structured-clone';
import type { Look } from '../../src/core/look';
import { plainMessage } from '../../src/core/weave';
import { leftByLevel, leftByPage, type Folder, type Level } from '../vectors/object-stores';
import { fileText, hasFile, isDeleted, isEdited, isOut, OBJECT_MESSAGES, OBJECT_PAGE, personOf } from '../vectors/object-pages';
import { createDatabase } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';

interface Line {
	text: string | null;
	sentAt: string;
	direction: string;
	person: string | null;
	correspondent: string | null;
	thread: string;
	standing: string;
	grade: string;
	earlierWordingOf?: string;
	captures?: { state: string }[];
	attachments: { name: string; path: string | null; link: string }[];
	sightings: { path: string; offset: number; length: number; method: string }[];
}

function linesOf(look: Look): Line[] {
	const { stores, weave } = look.findings();
	return weave.threads.flatMap((t) =>
		t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
	);
}

const below = (folder: string, files: Folder): Folder =>
	Object.fromEntries(Object.entries(files).map(([path, b]) => [`${folder}/${path}`, b]));
const notesOf = (look: Look): string[] => look.allNotes().map((n) => n.code);

describe('a store of keys and values', () => {
	const COUNT = 300;
	const START = Date.UTC(2025, 0, 10, 11);
	const NUMBERS = ['+447700900123', '+447700900124', '+447700900125'];
	const numbered = (i: number): string => (1_000_000 + i).toString().slice(1);
	const key = (i: number): string => `msg:c${i % 3}:${numbered(i)}`;
	const said = (i: number): string => `The plant is cold again, and the month is to be credited, ${i}`;
	const wasDeleted = (i: number): boolean => i % 10 === 4;
	const wasEdited = (i: number): boolean => i % 50 === 7;
	const entry = (i: number, body = said(i)): string =>
		JSON.stringify({
			id: i,
			conversation: `c${i % 3}`,
			body,
			sentAt: START + i * 61_000,
			outgoing: i % 4 === 0,
			sender: i % 4 === 0 ? 'me' : NUMBERS[i % 3]
		});

	async function persons(db: Level): Promise<void> {
		for (const [c, number] of NUMBERS.entries()) {
			await db.put(`user:${number}`, JSON.stringify({ number, name: ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt'][c] }));
			await db.put(`conv:c${c}`, JSON.stringify({ id: `c${c}`, with: number, unread: 0 }));
		}
	}
	async function messages(db: Level): Promise<void> {
		for (let i = 1; i <= COUNT; i++) {
			await db.put(key(i), entry(i));
			await db.put(`idx:${START + i * 61_000}`, String(i));
		}
	}
	async function changes(db: Level): Promise<void> {
		for (let i = 1; i <= COUNT; i++) {
			if (wasDeleted(i)) await db.del(key(i));
			if (wasEdited(i)) await db.put(key(i), entry(i, `${said(i)}, put right`));
		}
	}
	const all = async (db: Level): Promise<void> => {
		await persons(db);
		await messages(db);
		await changes(db);
	};

	/** Each message is there once, with all that was said of it; those deleted too if `deleted`. */
	function areRight(lines: readonly Line[], deleted = true): void {
		const byText = new Map(lines.map((l) => [l.text, l]));
		assert.equal(byText.size, lines.length, 'no text comes twice');
		const threads = new Map<string, Set<string>>();
		let expected = 0;
		for (let i = 1; i <= COUNT; i++) {
			if (wasDeleted(i) && !deleted) continue;
			expected++;
			const line = byText.get(wasEdited(i) ? `${said(i)}, put right` : said(i));
			assert.ok(line, `number ${i} is found`);
			assert.equal(line.sentAt, new Date(START + i * 61_000).toISOString());
			assert.equal(line.direction, i % 4 === 0 ? 'out' : 'in');
			assert.equal(line.correspondent, NUMBERS[i % 3]);
			assert.equal(line.person, ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt'][i % 3]);
			assert.equal(line.standing, wasDeleted(i) ? 'dropped' : 'kept', `standing of ${i}`);
			threads.set(line.thread, (threads.get(line.thread) ?? new Set()).add(String(i % 3)));
			if (!wasEdited(i) || !deleted) continue;
			expected++;
			const earlier = byText.get(said(i));
			assert.ok(earlier?.earlierWordingOf, `the earlier wording of ${i} is told as one`);
			assert.equal(earlier.standing, 'dropped');
		}
		assert.equal(lines.length, expected, 'nothing else is found');
		assert.deepEqual(
			[...threads.values()].map((c) => c.size),
			[1, 1, 1]
		);
	}

	/** What is in use is right; of what is not the engine may have thrown away any, when it likes. */
	function areThere(lines: readonly Line[]): void {
		areRight(
			lines.filter((l) => l.standing === 'kept'),
			false
		);
		for (const l of lines.filter((one) => one.standing !== 'kept')) {
			const i = Number(/\d+$/.exec(l.text!)![0]);
			assert.ok(l.text === said(i) && (wasDeleted(i) || (wasEdited(i) && l.earlierWordingOf)), l.text!);
		}
	}

	it('gives its log: what is there, what was deleted, what was written anew', async () => {
		const files = await leftByLevel(all);
		assert.ok(!Object.keys(files).some((path) => path.endsWith('.ldb')));
		const look = await lookAt(below('profile/store', files), null);
		const lines = linesOf(look);
		areRight(lines);
		assert.ok(lines.every((l) => l.sightings.every((s) => s.method === 'store-log')));
		// Of what lies there unpacked the bytes of the place are the entry's.
		const [{ sightings, text }] = [lines.find((l) => l.sightings[0]!.length < 2000)!];
		const [{ path, offset, length }] = [sightings[0]!];
		const bytes = Buffer.from(files[path.slice('profile/store/'.length)]!).subarray(offset, offset + length);
		assert.ok(bytes.includes(text!), 'the text lies at its place');
		assert.deepEqual(notesOf(look), []);
	});

	it('gives its tables, their packed blocks too, and keeps apart what is an index', async () => {
		const files = await leftByLevel(all, 20_000);
		assert.ok(Object.keys(files).filter((path) => path.endsWith('.ldb')).length > 0);
		const look = await lookAt(below('profile/store', files), null);
		areThere(linesOf(look));
		const [line] = look.survey();
		assert.equal(line!.path, 'profile/store');
	});

	it('gives all that a compaction has kept', async () => {
		const files = await leftByLevel(async (db) => {
			await all(db);
			await db.compactRange('', '~');
		}, 20_000);
		areThere(linesOf(await lookAt(below('s', files), null)));
	});

	it('takes tables and logs that are in use no more for an earlier state', async () => {
		const before = await leftByLevel(async (db) => {
			await persons(db);
			await messages(db);
			await db.compactRange('', '~');
		}, 20_000);
		const after = await leftByLevel(async (db) => {
			await all(db);
			await db.compactRange('', '~');
		}, 20_000);
		// The engine deletes such files; after a crash, or out of a bin, they are there.
		const old = Object.fromEntries(
			Object.entries(before).flatMap(([path, b]) => (/\.(?:ldb|log)$/.test(path) ? [[`0009${path}`, b]] : []))
		);
		const tables = Object.fromEntries(Object.entries(old).filter(([path]) => path.endsWith('.ldb')));
		assert.ok(Object.keys(tables).length > 0);
		const lines = linesOf(await lookAt(below('s', { ...after, ...tables }), null));
		const deleted = lines.filter((l) => l.standing === 'dropped' && !l.earlierWordingOf);
		assert.ok(deleted.length > 10, 'what the old tables hold comes back');
		assert.ok(deleted.every((l) => /, (\d+)$/.test(l.text!) && wasDeleted(Number(/\d+$/.exec(l.text!)![0]))));
	});

	it('reads a log that breaks off, and says so', async () => {
		const files = await leftByLevel(all);
		const log = Object.keys(files).find((path) => path.endsWith('.log'))!;
		const bytes = files[log]!;
		const at = Buffer.from(bytes).indexOf(said(150)) + 20;
		const look = await lookAt(below('s', { ...files, [log]: bytes.slice(0, at) }), null);
		const lines = linesOf(look);
		assert.equal(lines.filter((l) => l.grade === 'whole').length, 149);
		const part = lines.filter((l) => l.grade === 'fragment');
		assert.deepEqual(
			part.map((l) => [l.text, l.standing]),
			[[said(150).slice(0, 20), 'remnant']]
		);
		assert.deepEqual(notesOf(look), ['export-cut']);
	});

	it('reads past bytes that changed, and grades what they were in a fragment', async () => {
		const files = await leftByLevel(all);
		const log = Object.keys(files).find((path) => path.endsWith('.log'))!;
		const bytes = files[log]!.slice();
		const at = Buffer.from(bytes).indexOf(said(20)) + 4;
		bytes[at] = bytes[at]! ^ 1;
		const look = await lookAt(below('s', { ...files, [log]: bytes }), null);
		const lines = linesOf(look);
		assert.deepEqual(
			lines.filter((l) => l.grade === 'fragment').map((l) => [l.text?.slice(5), l.standing]),
			[[said(20).slice(5), 'remnant']]
		);
		assert.equal(lines.filter((l) => l.grade === 'whole' && !l.earlierWordingOf).length, COUNT - 1);
		assert.deepEqual(notesOf(look), ['export-damaged']);
	});

	it('reads a table without its end, and past a block that is destroyed', async () => {
		const files = await leftByLevel(async (db) => {
			await all(db);
			await db.compactRange('', '~');
		});
		const table = Object.keys(files).find((path) => path.endsWith('.ldb'))!;
		const whole = linesOf(await lookAt(below('s', files), null));
		const cut = { ...files, [table]: files[table]!.slice(0, -200) };
		const found = linesOf(await lookAt(below('s', cut), null));
		assert.ok(found.length >= whole.length * 0.9, `${found.length} of ${whole.length}`);
		const holed = files[table]!.slice(0, -200);
		const [line] = whole.filter((l) => l.sightings[0]!.offset > 6000);
		const { offset, length } = line!.sightings[0]!;
		holed.fill(0xee, offset + 10, offset + length);
		const lines = linesOf(await lookAt(below('s', { ...files, [table]: holed }), null));
		const lost = whole.filter((l) => l.sightings[0]!.offset === offset).length;
		assert.ok(lines.length >= found.length - lost && lines.length < found.length);
		const texts = new Set(whole.map((l) => l.text));
		assert.ok(
			lines.every((l) => l.grade !== 'whole' || texts.has(l.text)),
			'no text is made up'
		);
	});

	it('goes on behind a damaged head of a piece, and says so', async () => {
		const files = await leftByLevel(all);
		const log = Object.keys(files).find((path) => path.endsWith('.log'))!;
		const whole = linesOf(await lookAt(below('s', files), null));
		const place = whole.find((l) => l.text === said(100))!.sightings[0]!;
		// The piece's head is seven bytes, and the batch's twelve, in front of its only entry.
		const head = place.offset - 19;
		for (const [byte, value] of [
			[4, 0xee],
			[5, 0x7f],
			[6, 9],
			[6, 2]
		] as const) {
			const bytes = Uint8Array.from(files[log]!);
			bytes[head + byte] = value;
			const look = await lookAt(below('s', { ...files, [log]: bytes }), null);
			const lines = linesOf(look);
			const lost = whole.filter((l) => !lines.some((other) => other.text === l.text));
			assert.deepEqual(lost, [], `byte ${byte} of the head`);
			assert.deepEqual(
				lines.filter((l) => l.grade !== 'whole').map((l) => [l.text, l.standing]),
				[[said(100), 'remnant']]
			);
			assert.deepEqual(notesOf(look), ['export-damaged']);
		}
	});

	it('finds what lies behind a long hole in a table without its end', async () => {
		const text = (i: number): string =>
			`${said(i)}: ${Array.from({ length: 40 }, (_, k) => ((i * 7919 + k * 104_729) % 1_000_003).toString(36)).join(' ')}`;
		const files = await leftByLevel(async (db) => {
			for (let i = 1; i <= 6000; i++) await db.put(key(i), entry(i, text(i)));
			await db.compactRange('', '~');
		});
		const table = Object.keys(files).find((path) => path.endsWith('.ldb'))!;
		const bytes = Uint8Array.from(files[table]!.slice(0, -100));
		assert.ok(bytes.length > 1_000_000);
		for (let i = 200_000; i < 700_000; i++) bytes[i] = (Math.imul(i, 2_654_435_761) >>> 13) & 0xff;
		const parts = [{ file: 0, name: table, source: new MemorySource(bytes) }];
		const harvest = new LevelHarvest('s', parts);
		for (const step of harvest.run('logs')) void step;
		const whole = harvest.book.rows.filter((row) => row.grade === 'whole');
		assert.ok(whole.some((row) => row.sightings[0]!.offset < 200_000));
		assert.ok(
			whole.some((row) => row.sightings[0]!.offset > 700_000),
			'what lies behind the hole is found'
		);
	});

	it('leaves what is called as its files are and is something else', async () => {
		const files = await leftByLevel(all);
		const path = join(mkdtempSync(join(tmpdir(), 'called-')), 'made.db');
		const made = createDatabase(path);
		made.exec('create table message(id integer primary key, address text, sent integer, is_from_me integer, body text)');
		for (let i = 1; i <= 30; i++)
			made.run('insert into message values(?,?,?,?,?)', [
				i,
				'+447700900199',
				1_736_000_000 + i * 700,
				Number(i % 3 === 0),
				`Another store says so, day ${i}`
			]);
		made.close();
		const beside = '[10/01/2025, 11:05:00] Li Wen: Written in a text beside it\n[10/01/2025, 11:06:00] Noor al-Khatib: And this';
		const lines = linesOf(
			await lookAt({ ...below('s', files), 's/000123.ldb': readFileSync(path), 's/20250110.log': new TextEncoder().encode(beside) }, null)
		);
		for (const text of [said(1), 'Another store says so, day 7', 'Written in a text beside it'])
			assert.ok(
				lines.some((l) => l.text === text),
				text
			);
	});

	it('says which tables are not there', async () => {
		// Others can be there that the engine had no time yet to delete, or to finish; hurried, it may have made none.
		const tableIn = (files: Folder): string | undefined => {
			const manifest = Object.keys(files).find((path) => path.startsWith('MANIFEST'))!;
			const { tables } = readManifest(new MemorySource(files[manifest]!))!;
			return Object.keys(files).find((path) => path.endsWith('.ldb') && tables.has(parseInt(path)));
		};
		let files = await leftByLevel(all, 20_000);
		for (let tries = 0; tableIn(files) === undefined && tries < 5; tries++) files = await leftByLevel(all, 20_000);
		const { [tableIn(files)!]: table, ...rest } = files;
		assert.ok(table);
		assert.deepEqual(notesOf(await lookAt(below('s', rest), null)), ['store-part-missing']);
	});

	it('says how much was found with every step, and makes its rows in the end', async () => {
		const files = await leftByLevel(all, 20_000);
		const parts = Object.entries(files).map(([name, bytes], file) => ({ file, name, source: new MemorySource(bytes) }));
		const harvest = new LevelHarvest('store', parts);
		const sizes: number[] = [];
		for (const step of harvest.run('used')) {
			assert.ok(step.done <= step.total);
			sizes.push(harvest.book.size);
		}
		assert.ok(sizes.length > 2 && sizes[0]! > 0 && sizes[0]! < sizes.at(-2)!);
		const inUse = harvest.book.size;
		assert.equal(inUse, harvest.book.rows.length);
		assert.ok(harvest.book.rows.every((row) => row.standing === 'kept'));
		for (const step of harvest.run('logs')) void step;
		assert.ok(harvest.book.size > inUse);
	});

	it('keeps the beginnings of long values where there is no room for all, and says so', async () => {
		const files = await leftByLevel(async (db) => {
			for (let i = 0; i < 20; i++) await db.put(`page:${i}`, `${i} `.repeat(20_000));
			await db.put('msg:1', said(1));
		});
		const parts = Object.entries(files).map(([name, bytes], file) => ({ file, name, source: new MemorySource(bytes) }));
		const harvest = new LevelHarvest('store', parts, 100_000);
		for (const step of harvest.run('logs')) void step;
		const values = harvest.book.rows.map((row) => String(row.values[1]));
		assert.equal(values.length, 21);
		assert.ok(values.reduce((sum, v) => sum + v.length, 0) < 300_000);
		assert.ok(values.includes(said(1)), 'short ones are kept all the same');
		assert.deepEqual(
			harvest.notes.map((n) => n.code),
			['values-shortened']
		);
	});

	it('shows what an entry holds, value by value, and that it is known by its key', async () => {
		const look = await lookAt(below('s', await leftByLevel(all)), null);
		const { stores, weave } = look.findings();
		const [first] = weave.threads[0]!.messages;
		const { keyed, stored, record } = plainMessage(first!, stores, look.files, { hex: false, stored: true });
		assert.deepEqual([keyed, record], [true, null]);
		const read = new Map(stored.map(([column, value, as]) => [column, [value, as]]));
		assert.deepEqual(read.get('value.body'), [first!.first.text, 'text']);
		assert.match(read.get('value.sentAt')![1]!, /^milliseconds since 1970: 2025-01-10T/);
		assert.equal(read.get('value')![1], '');
	});

	it('lines up with a copy from before', async () => {
		const before = await leftByLevel(async (db) => {
			await persons(db);
			await messages(db);
		});
		const after = await leftByLevel(async (db) => {
			await all(db);
			await db.compactRange('', '~');
			await db.put('draft:c1', 'not sent yet');
			await db.put('draft:c2', 'nor this');
		});
		const lines = linesOf(await lookAt({ ...below('first/store', before), ...below('second/store', after) }, null));
		areRight(lines);
		const gone = lines.filter((l) => l.standing === 'dropped' && !l.earlierWordingOf);
		assert.deepEqual([...new Set(gone.map((l) => l.captures?.map((c) => c.state).join()))], ['in,out']);
	});

	it('is read to an end whatever becomes of its bytes', async () => {
		const files = await leftByLevel(all, 20_000);
		const texts = new Set(
			(await lookAt(below('s', files), null)).findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.text))
		);
		const paths = Object.keys(files).filter((path) => files[path]!.length > 0);
		let changed = 0;
		await fc.assert(
			fc.asyncProperty(
				fc.nat(paths.length - 1),
				fc.double({ min: 0, max: 0.999, noNaN: true }),
				fc.nat(255),
				fc.nat(400),
				async (p, share, byte, length) => {
					const bytes = files[paths[p]!]!.slice();
					const at = Math.floor(share * bytes.length);
					bytes.fill(byte, at, at + 1 + length);
					if (!Buffer.from(bytes).equals(files[paths[p]!]!)) changed++;
					const look = await lookAt(below('s', { ...files, [paths[p]!]: bytes }), null);
					const whole = look.findings().weave.threads.flatMap((t) => t.messages.filter((m) => m.first.row.grade === 'whole'));
					for (const m of whole) assert.ok(texts.has(m.first.text), `made up: ${m.first.text}`);
				}
			),
			{ numRuns: 40, seed: 5 }
		);
		assert.ok(changed > 30);
	});
});

describe('object stores of a browser', () => {
	let files: Folder;
	let lines: Line[];

	before(async () => {
		files = await leftByPage(OBJECT_PAGE);
		lines = linesOf(await lookAt(files, null));
	});

	it('gives each message with its time, way, person and standing', () => {
		const byText = new Map(lines.map((l) => [l.text, l]));
		for (const [i, m] of OBJECT_MESSAGES.entries()) {
			const line = byText.get(isEdited(i) ? `${m.body}, put right` : m.body);
			assert.ok(line, `number ${i} is found`);
			assert.equal(line.sentAt, new Date(m.sentAt).toISOString());
			assert.equal(line.direction, isOut(m) ? 'out' : 'in');
			assert.equal(line.standing, isDeleted(i) ? 'dropped' : 'kept');
			if (m.conversationId !== 'conv-g') assert.equal(line.person, personOf(m));
			if (isEdited(i)) assert.ok(byText.get(m.body)?.earlierWordingOf, `the earlier wording of ${i}`);
		}
		assert.equal(lines.length, OBJECT_MESSAGES.length + OBJECT_MESSAGES.filter((_, i) => isEdited(i)).length);
	});

	it('keeps conversations apart', () => {
		const threads = new Map<string, Set<string>>();
		for (const m of OBJECT_MESSAGES) {
			const line = lines.find((l) => l.text?.startsWith(m.body));
			threads.set(m.conversationId, (threads.get(m.conversationId) ?? new Set()).add(line!.thread));
		}
		assert.deepEqual(
			[...threads.values()].map((t) => t.size),
			[1, 1, 1, 1]
		);
		assert.equal(new Set(lines.map((l) => l.thread)).size, 4);
	});

	it('finds the files that were put beside them', () => {
		for (const [i, m] of OBJECT_MESSAGES.entries()) {
			if (!hasFile(i)) continue;
			const [file] = lines.find((l) => l.text === m.body)!.attachments;
			assert.ok(file?.path, `the file of ${i} is found`);
			assert.equal(Buffer.from(files[file.path]!).toString(), fileText(i));
		}
	});
});

describe('an object as a script engine stores it', () => {
	const LARGE = 1 << 20;
	const stored = (value: unknown): Uint8Array => new Uint8Array(serialize(value));

	it('comes out as it went in', () => {
		const value = fc.letrec((tie) => ({
			leaf: fc.oneof(fc.string({ unit: 'grapheme' }), fc.integer(), fc.double({ noNaN: true }), fc.boolean(), fc.constant(null)),
			any: fc.oneof({ depthSize: 'small' }, tie('leaf'), fc.array(tie('any'), { maxLength: 5 }), tie('object')),
			object: fc.dictionary(fc.string({ minLength: 1 }), tie('any'), { maxKeys: 6, noNullPrototype: true })
		})).object;
		fc.assert(
			fc.property(value, (object) => {
				assert.deepEqual(Object.entries(openClone(stored(object), LARGE)!).sort(), Object.entries(object as object).sort());
			}),
			{ numRuns: 300, seed: 3 }
		);
	});

	it('keeps dates as ms, maps as objects, sets as lists, bytes, large numbers, and what stands in it twice', () => {
		const shared = { id: 7 };
		const value = {
			at: new Date(1_736_507_100_000),
			map: new Map([['a', 1]]),
			set: new Set(['x', 'y']),
			bytes: new Uint8Array([1, 2, 3]).buffer,
			large: -(2n ** 70n),
			first: shared,
			again: shared,
			wide: '漢字 and letters'
		};
		assert.deepEqual(openClone(stored(value), LARGE), {
			...value,
			at: 1_736_507_100_000,
			map: { a: 1 },
			set: ['x', 'y'],
			bytes: new Uint8Array([1, 2, 3])
		});
	});

	it('ends where it is within itself, or makes much of little', () => {
		const own: Record<string, unknown> = { id: 1 };
		own['self'] = own;
		assert.ok(JSON.stringify(openClone(stored(own), LARGE)).startsWith('{"id":1'));
		let many: unknown = { id: 1 };
		for (let i = 0; i < 40; i++) many = { left: many, right: many };
		const text = JSON.stringify(openClone(stored(many), LARGE)) ?? '';
		assert.ok(text.length < 20_000_000, `${text.length} letters`);
	});

	it('gives what is whole of one that breaks off, and nothing of other bytes', () => {
		const bytes = stored({ id: 1, body: 'The boiler is cold', sentAt: 5 });
		assert.deepEqual(openClone(bytes.subarray(0, bytes.length - 8), LARGE), { id: 1, body: 'The boiler is cold' });
		for (let i = 0; i < 500; i++)
			openClone(
				bytes.map((b, k) => (k === i % bytes.length ? (b * 31 + i) & 0xff : b)),
				LARGE
			);
		assert.equal(openClone(new TextEncoder().encode('plain text of some length'), LARGE), undefined);
	});
});

/** Chains of overflow pages that freed cells lead to: what is another's by now, and what is left behind a break. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';
import { Random } from '../vectors/random';
import { loadMemoryEngine, memoryEngine, type Engine } from '../vectors/engine';

const WORDS = ['boiler', 'meter', 'charge', 'Keller', 'Wärme', 'valve', 'stairs', 'January', 'credit', 'window', 'ladder'];
/** A letter of its own words; of two no stretch of twenty letters is the same. */
const letter = (n: number, length: number): string => {
	let text = `Letter ${n}`;
	for (let i = 0; text.length < length; i++) text += ` ${WORDS[(i * 7 + n * 3) % WORDS.length]} ${n}.${i}`;
	return text.slice(0, length);
};
const at = (id: number): number => 1_736_000_000 + id * 600;

describe('chains of freed cells', () => {
	let folder: string;
	before(async () => {
		folder = mkdtempSync(join(tmpdir(), 'ombudsman-chains-'));
		await loadMemoryEngine();
	});
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** Short messages and long ones, then what is done with them; the body stands before the time, so that a break takes both. */
	function store(
		name: string,
		encoding: string,
		then: (db: Engine, add: (id: number, body: string) => void) => void,
		after?: (bytes: Buffer) => void
	): Woven[] {
		const path = join(folder, name);
		const db = memoryEngine(path, ['page_size=1024', 'secure_delete=off', `encoding='${encoding}'`]);
		db.exec('create table notes(id integer primary key, number text, body text, at integer, way integer)');
		const add = (id: number, body: string): void =>
			void db.run('insert into notes values(?,?,?,?,?)', [id, `+44770090011${id % 3}`, body, at(id), (id % 2) + 1]);
		for (let id = 1; id <= 60; id++) add(id, id % 10 === 0 ? letter(id, 3000 + id) : `A short one about the ${WORDS[id % 11]}, ${id}`);
		then(db, add);
		db.close();
		const bytes = readFileSync(path);
		assert.ok(bytes.length > 20_000);
		after?.(bytes);
		writeFileSync(path, bytes);
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look.findings().weave.threads.flatMap((t) => t.messages);
	}
	const of = (messages: readonly Woven[], n: number): Woven[] => messages.filter((m) => m.first.text?.startsWith(`Letter ${n} `));

	it('a page that became the trunk of the free list leaves a hole: what stands behind it is the same message, with its time', () => {
		const messages = store('trunk.db', 'UTF-8', (db) => db.exec('delete from notes where id = 20'));
		const [found, ...others] = of(messages, 20);
		assert.ok(found);
		assert.deepEqual(others, []);
		const { text, textRest, textCut, sentAt } = found.first;
		assert.equal(found.grade, 'fragment');
		assert.equal(textCut, true);
		// Seen in the cell, and on the page that the rest begins on.
		assert.deepEqual(
			found.sightings.map((s) => s.method),
			['freed-cell', 'overflow-page']
		);
		assert.equal(sentAt, at(20) * 1000);
		const whole = new TextEncoder().encode(letter(20, 3020));
		const [head, rest] = [text!, textRest!.text].map((part) => new TextEncoder().encode(part));
		assert.ok(letter(20, 3020).startsWith(text!) && letter(20, 3020).endsWith(textRest!.text));
		assert.equal(head!.length + textRest!.lost + rest!.length, whole.length);
		// Eight bytes of the trunk's head, less the four of the chain's pointer, and four for each leaf.
		assert.ok(textRest!.lost >= 4 && textRest!.lost < 40, String(textRest!.lost));
		assert.equal(messages.filter((m) => m.first.text && letter(20, 3020).includes(m.first.text)).length, 1);
	});

	it('pages that hold another row’s text by now are not glued to it', () => {
		let cut = 0;
		for (let seed = 1; seed <= 16; seed++) {
			const random = new Random(seed);
			const lengths = new Map([10, 20, 30, 40, 50, 60].map((id) => [id, 3000 + id]));
			// Long ones are freed, some of their pages used by others, and some of those are freed as well.
			const messages = store(`reused${seed}.db`, 'UTF-8', (db, add) => {
				for (let id = 61; id <= 72; id++) {
					db.run('delete from notes where id = ?', [random.pick([...lengths.keys()])]);
					if (random.int(0, 2) > 0) continue;
					lengths.set(id, random.int(700, 5000));
					add(id, letter(id, lengths.get(id)!));
				}
			});
			for (const m of messages) {
				const id = Number(/^Letter (\d+)/.exec(m.first.text ?? '')?.[1] ?? 0);
				if (!lengths.has(id)) continue;
				const whole = letter(id, lengths.get(id)!);
				const { text, textRest, sentAt } = m.first;
				if (m.grade === 'fragment') cut++;
				else assert.equal(text, whole);
				assert.ok(whole.startsWith(text!), `${seed}, ${id}: ${text!.slice(-60)}`);
				if (textRest) assert.ok(whole.endsWith(textRest.text));
				if (sentAt !== null) assert.equal(sentAt, at(id) * 1000);
			}
		}
		assert.ok(cut >= 12, String(cut));
	});

	it('in UTF-16 a hole ends at a letter', () => {
		const messages = store('utf16.db', 'UTF-16le', (db) => db.exec('delete from notes where id = 40'));
		const [found] = of(messages, 40);
		assert.ok(found?.first.textRest);
		const { text, textRest } = found.first;
		assert.equal(text!.length * 2 + textRest.lost + textRest.text.length * 2, 3040 * 2);
		assert.ok(letter(40, 3040).startsWith(text!) && letter(40, 3040).endsWith(textRest.text));
	});

	it('a chain that leads into a text whose own cell is gone ends there, though as many pages follow as should', () => {
		const prose = (n: number, length: number): string => {
			const r = new Random(n);
			let text = `Letter ${n}`;
			while (text.length < length) text += ` ${r.pick(WORDS)}`;
			return text.slice(0, length);
		};
		const [one, two] = [prose(101, 3200), prose(102, 3210)];
		const messages = store(
			'parted.db',
			'UTF-8',
			(db, add) => {
				for (let id = 90; id < 100; id++) add(id, prose(id, 900));
				add(101, one);
				add(102, two);
				// The first page freed becomes the trunk of the free list.
				db.exec('delete from notes where id = 20; delete from notes where id in (101, 102)');
			},
			(bytes) => {
				const pageOf = (text: string): number => Math.floor(bytes.indexOf(text) / 1024) + 1;
				// Where the engine put the middle of each, and which page leads to it.
				const [from, to] = [one, two].map((text) => pageOf(text.slice(1800, 1830)));
				const before = Array.from({ length: bytes.length / 1024 }, (_, i) => i * 1024).find(
					(o) => o > 0 && bytes.readUInt32BE(o) === from
				)!;
				bytes.writeUInt32BE(to!, before);
				const cell = bytes.indexOf('Letter 102');
				bytes.fill(0, cell - 24, cell + 40);
			}
		);
		const [found, ...others] = of(messages, 101);
		assert.ok(found);
		assert.deepEqual(others, []);
		assert.equal(found.grade, 'fragment');
		assert.equal(one.startsWith(found.first.text!), true, found.first.text!.slice(-40));
		assert.equal(found.first.text!.length > 1000 && found.first.text!.length < 2000, true);
		assert.equal(found.first.sentAt, null);
	});

	it('of a row in use keep what comes before a page that was zeroed, and no page where a pointer is wrong', () => {
		const messages = store(
			'damaged.db',
			'UTF-8',
			() => undefined,
			(bytes) => {
				const startOf = (text: string): number => Math.floor(bytes.indexOf(text) / 1024) * 1024;
				// The page in the middle of either, and the one that leads to it.
				const [zeroed, behind] = [30, 40].map((n) => startOf(letter(n, 3000).slice(1700, 1730)));
				bytes.fill(0, zeroed, zeroed! + 1024);
				const before = Array.from({ length: bytes.length / 1024 }, (_, i) => i * 1024).find(
					(o) => o > 0 && bytes.readUInt32BE(o) === behind! / 1024 + 1
				)!;
				bytes.writeUInt32BE(startOf('A short one about the') / 1024 + 1, before);
			}
		);
		for (const [n, least, most] of [
			[30, 1000, 2200],
			[40, 1000, 2200]
		] as const) {
			const [found, ...others] = of(messages, n);
			assert.ok(found);
			assert.deepEqual(others, []);
			assert.equal(found.grade, 'fragment');
			assert.equal(letter(n, 3000 + n).startsWith(found.first.text!), true, found.first.text!.slice(-30));
			assert.equal(found.first.text!.length > least && found.first.text!.length < most, true, String(found.first.text!.length));
		}
	});
});

/** Ends of long texts on overflow pages whose cell was overwritten. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';
import { strayTexts } from '../../src/core/harvest/sqlite/stray';
import type { PageView } from '../../src/core/harvest/sqlite/view';
import { createDatabase, type Engine } from '../vectors/engine';

const WORDS = ['Wärme', 'boiler', 'meter', 'charge', 'Keller', '温度', 'valve', 'stairs', 'January', 'credit'];
/** A letter of some pages; no stretch of one is in another. */
const letter = (n: number, words: number): string =>
	Array.from({ length: words }, (_, i) => `${WORDS[(i * (n + 3)) % WORDS.length]} ${n}-${i}`).join(' ');

describe('chains of pages that no cell leads to', () => {
	const USABLE = 512;
	/** Pages from the second on, each with the number of the next and a text that fills it. */
	const read = (pages: [next: number, text: string][]): string[] => {
		const all = pages.map(([next, text]) => {
			const page = new Uint8Array(USABLE);
			new DataView(page.buffer).setUint32(0, next);
			page.set(new TextEncoder().encode(text.padEnd(USABLE, ' and more of the same')).subarray(0, USABLE - 4), 4);
			return page;
		});
		const view: PageView = {
			pageCount: pages.length + 1,
			read: (page) => all[page - 2] ?? null,
			locate: (page) => ({ file: 0, offset: (page - 1) * USABLE, frame: 0 })
		};
		return strayTexts(
			pages.map((_, i) => i + 2),
			view,
			USABLE,
			'utf8'
		).map((t) => t.text);
	};
	it('are put together by their pointers', () => {
		const [text, ...more] = read([
			[4, 'The first page of a letter'],
			[0, 'The last page of it'],
			[3, 'The second page of it']
		]);
		assert.deepEqual(more, []);
		assert.match(text!, /^The first page.*The second page.*The last page/s);
	});
	it('end where two lead to one page: what stands there is of one of them, and nothing tells of which', () => {
		const texts = read([
			[4, 'A letter that was here first'],
			[4, 'Another one, written since'],
			[0, 'The page that both lead to']
		]);
		assert.equal(texts.length, 3);
		for (const begin of ['A letter', 'Another', 'The page that']) assert.equal(texts.filter((t) => t.includes(begin)).length, 1, begin);
	});
	it('stand page by page where they lead round in a circle', () => {
		const texts = read([
			[3, 'Somewhere in a letter'],
			[2, 'Somewhere else in it']
		]);
		assert.deepEqual(texts.map((t) => t.slice(0, 14)).sort(), ['Somewhere else', 'Somewhere in a']);
	});
});

describe('overflow pages left behind', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-stray-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function store(name: string, more: (db: Engine) => void): { messages: Woven[]; bytes: string } {
		const path = join(folder, name);
		const db = createDatabase(path, ['page_size=1024', 'secure_delete=off']);
		db.exec(
			'create table notes(id integer primary key, number text, body text, at integer, way integer); create table pages(id integer primary key, html text)'
		);
		const add = (id: number, body: string): void =>
			void db.run('insert into notes values(?,?,?,?,?)', [
				id,
				id % 3 ? '+447700900111' : '+447700900122',
				body,
				1_736_000_000 + id * 600,
				(id % 2) + 1
			]);
		for (let i = 1; i <= 40; i++) add(i, i % 8 === 0 ? letter(i, 300) : `A short one about the ${WORDS[i % 10]}, ${i}`);
		db.exec('delete from notes where id in (16, 24)');
		more(db);
		db.close();
		overwriteCells(path);
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return { messages: look.findings().weave.threads.flatMap((t) => t.messages), bytes: readFileSync(path, 'latin1') };
	}
	/** Their cells are overwritten; their overflow pages stay as they were. */
	function overwriteCells(path: string): void {
		const bytes = readFileSync(path);
		for (const n of [16, 24]) {
			const at = bytes.indexOf(letter(n, 5));
			assert.ok(at > 0);
			bytes.fill(0, at - 24, at + 90);
		}
		writeFileSync(path, bytes);
	}
	const stray = (messages: readonly Woven[]): Woven[] => messages.filter((m) => m.sightings.some((s) => s.method === 'overflow-page'));

	it('are put together by their chain: what is left of a text, as a fragment, once, and nothing else', () => {
		const { messages } = store('a.db', () => {});
		const found = stray(messages);
		const texts = [16, 24].map((n) => letter(n, 300));
		assert.ok(found.length > 0);
		for (const m of found) {
			assert.equal(m.grade, 'fragment');
			assert.equal(m.standing, 'remnant');
			assert.equal(m.first.sentAt, null);
			assert.ok(m.first.text!.length > 1500, String(m.first.text!.length));
			assert.ok(
				texts.some((t) => t.includes(m.first.text!)),
				m.first.text!.slice(0, 80)
			);
		}
		// Letters in use are not found a second time.
		for (const n of [8, 32, 40]) assert.equal(messages.filter((m) => m.first.text && letter(n, 300).includes(m.first.text)).length, 1);
	});
	it('are left alone where other long texts could be theirs', () => {
		const { messages } = store('b.db', (db) => db.run('insert into pages values(1, ?)', [letter(77, 400)]));
		assert.deepEqual(stray(messages), []);
	});
});

/** Ends of long texts on overflow pages whose cell was overwritten. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';
import { strayTexts } from '../../src/core/harvest/sqlite/chains/stray';
import { encodeText, type Encoding } from '../../src/core/bytes';
import type { PageView } from '../../src/core/harvest/sqlite/view';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const WORDS = ['Wärme', 'boiler', 'meter', 'charge', 'Keller', '温度', 'valve', 'stairs', 'January', 'credit'];
/** A letter of some pages; no stretch of one is in another. */
const letter = (n: number, words: number): string =>
	Array.from({ length: words }, (_, i) => `${WORDS[(i * (n + 3)) % WORDS.length]} ${n}-${i}`).join(' ');

describe('chains of pages that no cell leads to', () => {
	const USABLE = 512;
	interface Page {
		next: number;
		bytes: Uint8Array;
	}
	/** A text on as many pages as it fills, the first of them being `first`; each leads to the one behind it, the last to `last`. */
	const onPages = (text: string, first: number, encoding: Encoding = 'utf8', last = 0): Page[] => {
		const bytes = encodeText(text, encoding);
		const count = Math.ceil(bytes.length / (USABLE - 4));
		return Array.from({ length: count }, (_, i) => ({
			next: i + 1 < count ? first + i + 1 : last,
			bytes: bytes.subarray(i * (USABLE - 4), (i + 1) * (USABLE - 4))
		}));
	};
	/** What is told of pages from the second on. */
	const read = (pages: Page[], encoding: Encoding = 'utf8', known: string[] = [], behind = 0): string[] => {
		const all = pages.map(({ next, bytes }) => {
			const page = new Uint8Array(USABLE);
			new DataView(page.buffer).setUint32(0, next);
			page.set(bytes, 4);
			return page;
		});
		const view: PageView = {
			pageCount: pages.length + 1,
			read: (page) => all[page - 2] ?? null,
			locate: (page) => ({ file: 0, offset: (page - 1) * USABLE, frame: 0 })
		};
		const free = pages.map((_, i) => i + 2);
		return strayTexts(free, view, USABLE, encoding, known, behind).map((t) => t.text);
	};
	const COMMON =
		'the boiler was cold again when we came down this morning and nobody from office had called about credit for January so please bring old invoice with you before Thursday evening meeting in Keller Wärme größer überall corridor ladder window valve tenant'.split(
			' '
		);
	const prose = (n: number, words: number): string => {
		const r = new Random(n);
		return Array.from({ length: words }, () => r.pick(COMMON)).join(' ');
	};
	const LETTERS = [1, 2, 3, 4, 5, 6].map((n) => prose(n, 300));
	const HAN = '天地玄黄宇宙洪荒日月盈昃辰宿列张寒来暑往秋收冬藏闰余成岁律吕调阳云腾致雨露结为霜';
	/** Writing without blanks: runs of letters, each begun elsewhere. */
	const han = (n: number, length: number): string => Array.from({ length }, (_, i) => HAN[(i + n * (1 + (i >> 4))) % HAN.length]).join('');

	it('are put together by their pointers, to the last letter that was stored', () => {
		const [one, two] = [onPages(LETTERS[0]!, 2), onPages(LETTERS[1]!, 2 + onPages(LETTERS[0]!, 2).length)];
		assert.equal(one.length > 2, true);
		assert.deepEqual(read([...one, ...two], 'utf8', LETTERS.slice(2)), LETTERS.slice(0, 2));
	});
	it('give up as many bytes at the end as values behind the text can take', () => {
		assert.deepEqual(read(onPages(LETTERS[0]!, 2), 'utf8', LETTERS.slice(2), 5), [LETTERS[0]!.slice(0, -5)]);
		assert.deepEqual(read(onPages(LETTERS[0]!, 2), 'utf8', LETTERS.slice(2), 100_000), [], 'which can be all of them');
	});
	it('are read where writing has no blanks', () => {
		const text = han(1, 500);
		assert.deepEqual(read(onPages(text, 2), 'utf8', [han(2, 900), han(5, 900)]), [text]);
	});
	for (const odd of [0, 1]) {
		it(`are read in UTF-16${odd ? ', where each page begins within a letter' : ''}`, () => {
			const bytes = encodeText(LETTERS[0]!.slice(0, 1700), 'utf16le').subarray(odd);
			const pages = onPages('', 2);
			for (let at = 0; at < bytes.length; at += USABLE - 4)
				pages.push({ next: at + USABLE - 4 < bytes.length ? pages.length + 3 : 0, bytes: bytes.subarray(at, at + USABLE - 4) });
			assert.deepEqual(read(pages, 'utf16le', LETTERS.slice(2)), [LETTERS[0]!.slice(odd, 1700)]);
		});
	}
	it('end where the text does not go on with the page that a pointer of before leads to', () => {
		// The second text was written where the first one went on; its own first page is gone.
		const [first] = onPages(LETTERS[0]!, 2);
		const since = onPages(LETTERS[1]!, 2).slice(1);
		const texts = read(
			[{ ...first!, next: 3 }, ...since.map((page, i) => ({ ...page, next: i + 1 < since.length ? i + 4 : 0 }))],
			'utf8',
			LETTERS.slice(2)
		);
		assert.equal(texts.length, 2);
		assert.equal(LETTERS[0]!.startsWith(texts[0]!), true);
		assert.equal(LETTERS[1]!.endsWith(texts[1]!), true);
	});
	it('go on with the one of two that lead to a page whose text goes on there', () => {
		const before = { ...onPages(LETTERS[0]!, 2)[0]!, next: 4 };
		const [a, b] = onPages(LETTERS[1]!, 3);
		const texts = read([before, { ...a!, next: 4 }, { ...b!, next: 0 }], 'utf8', LETTERS.slice(2));
		assert.equal(texts.length, 2);
		assert.equal(LETTERS[0]!.startsWith(texts[0]!), true);
		assert.equal(LETTERS[1]!.startsWith(texts[1]!) && texts[1]!.length > 900, true);
	});
	it('stand page by page where they lead round in a circle', () => {
		const [a] = onPages(LETTERS[0]!, 2);
		const [b] = onPages(LETTERS[1]!, 2);
		const texts = read([
			{ ...a!, next: 3 },
			{ ...b!, next: 2 }
		]);
		assert.deepEqual(
			texts.map((t) => LETTERS.findIndex((l) => l.startsWith(t))),
			[0, 1]
		);
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

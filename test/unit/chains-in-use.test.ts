/** Rows in use whose chains of overflow pages lead astray: a pointer is wrong, and what follows can end as it should. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { StoreHarvest } from '../../src/core/harvest/sqlite/harvest';
import type { Reach, Row } from '../../src/core/model';
import { loadMemoryEngine, memoryEngine } from '../vectors/engine';
import { Random } from '../vectors/random';

const PAGE = 1024;
const ROWS = 160;
const SYLLABLES = 'ka lo mi ter ran do su wen bri st al ve po ni gra che ta or un el fi das mo re in'.split(' ');

interface Built {
	path: string;
	texts: Map<number, string>;
	/** For each row how many bytes of its payload come before the first pointer that was made wrong, and whether one was. */
	sure: Map<number, { bytes: number; wrong: boolean }>;
}

describe('chains of rows in use', () => {
	let folder: string;
	before(async () => {
		folder = mkdtempSync(join(tmpdir(), 'ombudsman-in-use-'));
		await loadMemoryEngine();
	});
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** Long texts, `share` of whose pointers lead to some page or other. */
	function build(seed: number, encoding: string, share: number): Built {
		const random = new Random(seed);
		const words = Array.from({ length: 300 }, () => Array.from({ length: random.int(1, 4) }, () => random.pick(SYLLABLES)).join(''));
		const prose = (length: number): string => {
			let text = '';
			while (text.length < length) text += `${words[Math.floor(random.next() ** 2 * words.length)]!} `;
			return text.slice(0, length);
		};
		const path = join(folder, `${seed}-${encoding}-${share}.db`);
		const db = memoryEngine(path, [`page_size=${PAGE}`, 'secure_delete=off', `encoding='${encoding}'`]);
		db.exec('create table notes(id integer primary key, number text, body text, at integer, way integer)');
		const texts = new Map<number, string>();
		for (let id = 1; id <= ROWS; id++) {
			texts.set(id, prose(random.chance(0.3) ? random.int(20, 120) : random.int(1200, 12_000)));
			db.run('insert into notes values(?,?,?,?,?)', [id, `+44770090011${id % 3}`, texts.get(id)!, 1_736_000_000 + id * 600, (id % 2) + 1]);
		}
		db.close();
		const bytes = readFileSync(path);
		const sure = damage(bytes, random, share);
		writeFileSync(path, bytes);
		return { path, texts, sure };
	}

	/** For each row the places of the pointers of its chain, and how many bytes of its payload come before each; the last is its size. */
	function chainsIn(bytes: Buffer): Map<number, { pointer: number; have: number }[]> {
		const out = new Map<number, { pointer: number; have: number }[]>();
		const least = Math.floor(((PAGE - 12) * 32) / 255) - 23;
		for (let base = PAGE; base < bytes.length; base += PAGE) {
			if (bytes[base] !== 13) continue;
			for (let i = 0; i < bytes.readUInt16BE(base + 3); i++) {
				let at = base + bytes.readUInt16BE(base + 8 + i * 2);
				const varint = (): number => {
					let value = 0;
					for (let more = true; more; at++) {
						value = value * 128 + (bytes[at]! & 127);
						more = bytes[at]! > 127;
					}
					return value;
				};
				const [size, rowid] = [varint(), varint()];
				const spilt = least + ((size - least) % (PAGE - 4));
				let have = size <= PAGE - 35 ? size : spilt <= PAGE - 35 ? spilt : least;
				const chain: { pointer: number; have: number }[] = [];
				for (let pointer = at + have; have < size; have += PAGE - 4) {
					chain.push({ pointer, have });
					pointer = (bytes.readUInt32BE(pointer) - 1) * PAGE;
				}
				out.set(rowid, [...chain, { pointer: -1, have: size }]);
			}
		}
		return out;
	}

	function damage(bytes: Buffer, random: Random, share: number): Built['sure'] {
		const sure: Built['sure'] = new Map();
		for (const [rowid, chain] of chainsIn(bytes)) {
			const wrong = chain.filter(({ pointer }) => pointer >= 0 && random.chance(share));
			for (const { pointer } of wrong) bytes.writeUInt32BE(random.int(2, bytes.length / PAGE), pointer);
			sure.set(rowid, { bytes: (wrong[0] ?? chain.at(-1)!).have, wrong: wrong.length > 0 });
		}
		return sure;
	}

	function rowsInUse(path: string, reach: Reach = 'used'): Row[] {
		const files = openPaths([path]);
		const harvest = new StoreHarvest({ sources: files.map((file) => file.source), db: 0, wal: -1, journal: -1 });
		for (const progress of harvest.run(reach)) void progress;
		return harvest.book.rows.filter((row) => row.standing === 'kept' && harvest.tables[row.table]!.name === 'notes');
	}

	for (const encoding of ['UTF-8', 'UTF-16le'])
		it(`keep what goes on, whole and exact, and nothing of another’s (${encoding})`, () => {
			let [kept, there, cut, glued, right, lost] = [0, 0, 0, 0, 0, 0];
			for (let seed = 1; seed <= 8; seed++) {
				const { path, texts, sure } = build(seed, encoding, 0.06);
				for (const row of rowsInUse(path)) {
					const [text, whole] = [String(row.values[2]), texts.get(Number(row.rowid))!];
					const { bytes, wrong } = sure.get(Number(row.rowid))!;
					if (!wrong) {
						right++;
						if (row.grade !== 'whole') lost++;
						else assert.equal(text, whole);
						continue;
					}
					cut++;
					there += bytes;
					kept += text.length * (encoding === 'UTF-8' ? 1 : 2);
					if (!whole.startsWith(text)) glued++;
					// A page that holds only what stands behind the text has no seam in it.
					else if (text !== whole) assert.equal(row.grade, 'fragment');
				}
			}
			assert.ok(cut > 200, String(cut));
			assert.ok(kept > there * 0.9, `${kept} of ${there}`);
			// Two can lead to one page, and the text of either go on there as well.
			assert.ok(lost <= right * 0.003, `${lost} of ${right}`);
			// Where a seam falls between two words nothing tells; that is seldom.
			assert.ok(glued <= cut * 0.03, `${glued} of ${cut}`);
		});

	it('are all believed where no pointer is wrong, whatever their texts are like', () => {
		const { path, texts } = build(20, 'UTF-8', 0);
		for (const row of rowsInUse(path)) assert.equal(row.values[2], texts.get(Number(row.rowid)));
	});

	it('of one that leads into another’s the other keeps its pages', () => {
		const { path, texts } = build(21, 'UTF-8', 0);
		const bytes = readFileSync(path);
		// Two of which as many pages are left from here on, so that the chain ends well.
		const [one, two] = [...chainsIn(bytes)]
			.filter(([, chain]) => chain.length > 5)
			.map(([id, chain]) => ({ id, text: texts.get(id)!, chain }));
		const [from, to] = [one!, two!].map(({ chain }) => chain.at(-3)!.pointer);
		bytes.copy(bytes, from!, to!, to! + 4);
		writeFileSync(path, bytes);
		const rows = new Map(rowsInUse(path).map((row) => [Number(row.rowid), row]));
		assert.equal(rows.get(two!.id)!.values[2], two!.text);
		const text = String(rows.get(one!.id)!.values[2]);
		assert.equal(one!.text.startsWith(text), true, text.slice(-60));
		assert.ok(text.length > one!.text.length - 3 * PAGE, `${text.length} of ${one!.text.length}`);
		// Its time stands on a page that is not its own.
		assert.equal(rows.get(one!.id)!.values[3], undefined);
	});

	it('whose pointer is wrong get the rest that no pointer leads to, where the text surely goes on in it', () => {
		let [wrongs, put, others] = [0, 0, 0];
		for (const encoding of ['UTF-8', 'UTF-16be'])
			for (let seed = 30; seed < 34; seed++) {
				const { path, texts, sure } = build(seed, encoding, 0.01);
				for (const row of rowsInUse(path, 'raw')) {
					const whole = texts.get(Number(row.rowid))!;
					if (!sure.get(Number(row.rowid))!.wrong) continue;
					wrongs++;
					if (row.values[2] === whole && row.grade === 'rebuilt') put++;
					else if (row.grade === 'fragment' && !whole.startsWith(String(row.values[2]))) others++;
				}
			}
		assert.ok(wrongs >= 20, String(wrongs));
		assert.ok(put >= wrongs / 4, `${put} of ${wrongs}`);
		assert.ok(others <= 1, String(others));
	});

	it('of which a page was zeroed are read in two parts, with the number of bytes between and the time behind them', () => {
		const { path, texts } = build(40, 'UTF-8', 0);
		const bytes = readFileSync(path);
		const chains = [...chainsIn(bytes)].filter(([, chain]) => chain.length > 5).slice(0, 4);
		for (const [, chain] of chains) {
			const page = (bytes.readUInt32BE(chain[2]!.pointer) - 1) * PAGE;
			bytes.fill(0, page, page + PAGE);
		}
		writeFileSync(path, bytes);
		const rows = new Map(rowsInUse(path, 'raw').map((row) => [Number(row.rowid), row]));
		for (const [id, chain] of chains) {
			const [row, whole] = [rows.get(id)!, texts.get(id)!];
			assert.equal(row.grade, 'fragment');
			const [head, rest] = [String(row.values[2]), row.rest!];
			assert.ok(whole.startsWith(head) && whole.endsWith(rest.text), `${id}`);
			assert.equal(head.length + rest.lost + rest.text.length, whole.length);
			assert.equal(rest.lost, PAGE - 4);
			assert.ok(head.length > chain[2]!.have - 40);
			assert.equal(row.values[3], 1_736_000_000 + id * 600);
		}
	});
});

/** Texts that are not written as their store says: the letters of a code page, and those beyond 16 bits as two surrogates. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import fc from 'fast-check';
import { messageLine } from '../../src/cli/lines';
import { bytesOfStored, decodeStored, isText } from '../../src/core/bytes';
import { createDatabase } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';

const COUNT = 120;
const OTHER = '+447700900410';

/** Bytes of a text in which each letter beyond ASCII is one of a page. */
const inPage =
	(letters: string, first: number) =>
	(text: string): Buffer =>
		Buffer.from([...text].map((c) => (c < '\u0080' ? c.charCodeAt(0) : first + letters.indexOf(c))));
const LATIN = Array.from({ length: 96 }, (_, i) => String.fromCharCode(0xa0 + i)).join('');
const CYRILLIC = Array.from({ length: 64 }, (_, i) => String.fromCharCode(0x410 + i)).join('');

/** A letter beyond 16 bits as its two surrogates, each in three bytes (CESU-8). */
const asSurrogates = (text: string): Buffer =>
	Buffer.concat(
		[...text].map((c) => {
			if (c.length === 1) return Buffer.from(c);
			const units = [c.charCodeAt(0), c.charCodeAt(1)];
			return Buffer.from(units.flatMap((u) => [0xe0 | (u >> 12), 0x80 | ((u >> 6) & 63), 0x80 | (u & 63)]));
		})
	);

const WRITTEN: Record<string, { say: readonly string[]; bytes: (text: string) => Buffer }> = {
	'Western letters of a code page': {
		say: [
			'Die Heizung ist für größere Räume',
			'Où est la clé du café, à côté',
			'Mañana llega el señor a la reunión',
			'It is cold, the boiler is out again'
		],
		bytes: inPage(LATIN, 0xa0)
	},
	'Cyrillic letters of a code page': {
		say: [
			'Котельная снова не работает',
			'Встретимся у подъезда в восемь',
			'Пришлите счёт за январь'.replace('ё', 'е'),
			'Когда включат отопление в доме'
		],
		bytes: inPage(CYRILLIC, 0xc0)
	},
	'plain letters with a nought behind': {
		say: ['Thanks, see you', 'The boiler is on again', 'When does the board meet', 'Keys'],
		bytes: (text) => Buffer.from(`${text}\0`)
	},
	'letters beyond 16 bits as surrogates': {
		say: ['Thanks 👍 see you', '😀😀', 'The größte boiler 🔥 is on', 'plain and cold'],
		bytes: asSurrogates
	}
};

describe('texts that are not written as their store says', () => {
	let folder: string;
	before(() => void (folder = mkdtempSync(join(tmpdir(), 'letters-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	async function textsOf(said: (i: number) => Buffer, isDeleted: (i: number) => boolean): Promise<{ kept: string[]; lost: string[] }> {
		const path = join(folder, 'store.db');
		rmSync(path, { force: true });
		const db = createDatabase(path, ['secure_delete=off', 'page_size=16384']);
		db.exec('create table message(id integer primary key, address text, body text, at integer, outgoing integer)');
		for (let i = 1; i <= COUNT; i++) {
			const at = Date.UTC(2025, 0, 10, 11) + i * 731_000;
			db.exec(`insert into message values(${i}, '${OTHER}', cast(x'${said(i).toString('hex')}' as text), ${at}, ${i % 3 === 0 ? 1 : 0})`);
		}
		for (let i = 1; i <= COUNT; i++) if (isDeleted(i)) db.exec(`delete from message where id = ${i}`);
		db.close();
		const look = await lookAt({ 'store.db': new Uint8Array(readFileSync(path)) }, null);
		const { stores, weave } = look.findings();
		const lines = weave.threads.flatMap((t) =>
			t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as { text: string; standing: string })
		);
		const of = (isKept: boolean): string[] => lines.filter((l) => (l.standing === 'kept') === isKept).map((l) => l.text);
		return { kept: of(true), lost: of(false) };
	}

	for (const [what, { say, bytes }] of Object.entries(WRITTEN))
		it(`reads ${what}, in lost rows as well`, async () => {
			const text = (i: number): string => `${say[i % say.length]!}, ${i}`;
			const isDeleted = (i: number): boolean => i % 10 === 4;
			const all = Array.from({ length: COUNT }, (_, k) => k + 1);
			const { kept, lost } = await textsOf((i) => bytes(text(i)), isDeleted);
			assert.deepEqual(
				kept.sort(),
				all
					.filter((i) => !isDeleted(i))
					.map(text)
					.sort()
			);
			assert.deepEqual(lost.sort(), all.filter(isDeleted).map(text).sort());
		});

	it('takes no damaged text in a store of UTF-8 for one of a code page', async () => {
		const text = (i: number): string => `Die größere Heizung läuft, ${i}`;
		const { kept } = await textsOf(
			(i) => (i === 7 ? Buffer.concat([Buffer.from('Die gr'), Buffer.of(0xf6), Buffer.from('ere Heizung')]) : Buffer.from(text(i))),
			() => false
		);
		assert.deepEqual(
			kept.filter((one) => /gr.ere Heizung$/.test(one)),
			['Die gr\ufffdere Heizung']
		);
		assert.equal(kept.filter((one) => /größere/.test(one)).length, COUNT - 1);
	});

	it('keeps every byte of any text, and decodes what is UTF-8 as the engine does', () => {
		const utf8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
		fc.assert(
			fc.property(
				fc.oneof(
					fc.uint8Array({ maxLength: 40 }),
					fc.string({ unit: 'binary' }).map((s) => new Uint8Array(Buffer.from(s)))
				),
				(given) => {
					const text = decodeStored(given, 0, given.length, 'utf8');
					let plain: string | null = null;
					try {
						plain = utf8.decode(given);
					} catch {
						assert.equal(isText(given, 0, given.length, 'utf8') && !hasPair(given), false);
					}
					if (plain !== null) assert.equal(text, plain);
					if (!hasPair(given)) assert.deepEqual([...bytesOfStored(text)], [...given]);
				}
			),
			{ numRuns: 3000 }
		);
	});
});

const hasPair = (b: Uint8Array): boolean => b.some((c, i) => c === 0xed && (b[i + 1]! & 0xf0) === 0xa0 && b[i + 3] === 0xed);

/** Who wrote, to whom, and which way: told from how the columns of persons go together, whatever they are called. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { createDatabase } from '../vectors/engine';
import { Random } from '../vectors/random';

const OWNER = 0;
const ROOM = 9;
const START = 1_735_000_000;
const WORDS = 'boiler meter charge valve stairs credit plant heating month failure notice tenant copper ladder window letter'.split(' ');

/** A message by one of four persons or the owner (0), to a conversation of two, or to the room (9). */
interface Said {
	at: number;
	talk: number;
	writer: number;
	text: string;
}

function story(rooms: boolean, seed: number): Said[] {
	const random = new Random(seed);
	return Array.from({ length: 90 }, (_, i) => {
		const talk = rooms && random.chance(0.3) ? ROOM : random.int(1, 4);
		const writer = random.chance(0.45) ? OWNER : talk === ROOM ? random.int(1, 3) : talk;
		return { at: START + i * 4000, talk, writer, text: `The ${random.pick(WORDS)} ${random.pick(WORDS)} ${i}` };
	});
}

/** How persons are called in the messages' own table. */
const KEYS: Record<string, (who: number) => string | number> = {
	'a number of many digits': (who) => 100_000 + who * 7919,
	'a handle': (who) => `@${['', 'ada', 'bo', 'cy', 'di'][who] ?? 'round'}.moor`,
	'a word and a number': (who) => (who === ROOM ? 'room-1' : `user:${who * 31}`),
	'sixteen bytes in base64': (who) => Buffer.alloc(16, who * 17 + 3).toString('base64'),
	'a number of a telephone without its plus': (who) => (who === ROOM ? 'room-1' : `44770090010${who}`)
};

describe('columns of persons', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-partners-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	let made = 0;
	/** `columns`: of each message, besides its number, time and text, in this order. */
	function check(
		sent: readonly Said[],
		key: (who: number) => string | number,
		columns: Record<string, (said: Said) => string | number | null>,
		settings: [string, string | number][] = []
	): void {
		const path = join(folder, `${made++}.db`);
		const db = createDatabase(path);
		const names = Object.keys(columns);
		db.exec(`create table item(id integer primary key, ${names.join()}, stamp integer, body text);
			create table someone(id integer primary key, k, called text, phone text); create table option(k text, v)`);
		for (let who = 1; who <= 4; who++)
			db.run('insert into someone values(?,?,?,?)', [who, key(who), `Maud ${'ABCD'[who - 1]}olland`, `+44770090010${who}`]);
		for (const [k, v] of settings) db.run('insert into option values(?,?)', [k, v]);
		sent.forEach((said, i) =>
			db.run(`insert into item values(?,${names.map(() => '?').join()},?,?)`, [
				i + 1,
				...names.map((name) => columns[name]!(said)),
				said.at,
				said.text
			])
		);
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const found = look.findings().weave.threads.flatMap((t) => t.messages);
		const byText = new Map(found.map((m) => [m.first.text, m]));
		assert.equal(found.length, sent.length);
		const threads = new Map<number, Set<string>>();
		for (const said of sent) {
			const { first, thread } = byText.get(said.text)!;
			const other = said.writer !== OWNER ? said.writer : said.talk === ROOM ? null : said.talk;
			assert.equal(first.direction, said.writer === OWNER ? 'out' : 'in', said.text);
			assert.equal(first.correspondent?.name ?? null, other === null ? null : `Maud ${'ABCD'[other - 1]}olland`, said.text);
			threads.set(said.talk, (threads.get(said.talk) ?? new Set()).add(thread));
		}
		for (const [talk, ids] of threads) assert.equal(ids.size, 1, `${talk}`);
		assert.equal(new Set([...threads.values()].map((ids) => [...ids][0])).size, threads.size);
	}

	for (const [what, key] of Object.entries(KEYS))
		for (const rooms of [true, false])
			it(`a partner${rooms ? ' or a room' : ''} in all rows, and who wrote in those received: ${what}`, () =>
				check(story(rooms, 5), key, {
					p: ({ writer }) => (writer === OWNER ? null : key(writer)),
					q: ({ talk }) => key(talk),
					// A state of many values says the way as well.
					r: ({ writer, at }) => (writer === OWNER ? [3, 4, 5][(at / 4000) % 3]! : [0, 1][(at / 4000) % 2]!)
				}));

	it('whom a message was to, or who wrote it, each row with the one or the other', () => {
		const key = KEYS['a number of many digits']!;
		check(story(false, 6), key, {
			recipient: ({ writer, talk }) => (writer === OWNER ? key(talk) : null),
			sender: ({ writer }) => (writer === OWNER ? null : key(writer)),
			talk: ({ talk }) => key(talk)
		});
	});

	it('the owner among those who write is told by the store’s own settings', () => {
		const key = KEYS['a word and a number']!;
		check(story(false, 7), key, { author: ({ writer }) => (writer === OWNER ? 'user:500' : key(writer)), room: ({ talk }) => key(talk) }, [
			['theme', 'dark'],
			['ownUserId', 'user:500']
		]);
	});

	it('settings of others, counts and words are no owner', () => {
		const key = KEYS['a number of many digits']!;
		for (const setting of ['lastUserId', 'blocked_user', 'selectedAccount'])
			check(story(false, 8), key, { p: ({ writer }) => (writer === OWNER ? null : key(writer)), q: ({ talk }) => key(talk) }, [
				[setting, key(2)]
			]);
		check(
			story(false, 9),
			(who) => who,
			{
				author_id: ({ writer }) => (writer === OWNER ? null : writer),
				someone_id: ({ talk }) => talk,
				is_sent: ({ writer }) => Number(writer === OWNER)
			},
			[
				['me', 2],
				['my', 3]
			]
		);
	});
});

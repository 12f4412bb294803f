/** The same conversation from several sources: both parties' stores, an export beside a store, files that messages state. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { createHash } from 'node:crypto';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { plainMessage, type Message, type SidesOfThread } from '../../src/core/weave';
import { createDatabase, openDatabase } from '../vectors/engine';
import { TEXT_FORMS, type Said } from '../vectors/exports';

const START = Date.UTC(2025, 0, 10, 8);
const HOUR = 3_600_000;
const PIET = '+447700900199';
const ODILE = '+447700900111';
const WORDS = ['boiler', 'meter', 'board', 'charge', 'stairs', 'cellar', 'winter'];
const THINGS = ['is cold', 'was read', 'met today', 'is credited', 'are swept', 'is wet', 'will end'];

interface Letter {
	at: number;
	from: string;
	text: string;
}
/** What Odile and Piet wrote to each other. */
const letters = (count: number): Letter[] =>
	Array.from({ length: count }, (_, i) => ({
		at: START + i * HOUR,
		from: i % 3 === 0 ? PIET : ODILE,
		text: i % 9 === 4 ? 'ok' : `The ${WORDS[i % 7]} ${THINGS[(i * 3) % 7]}, they say, ${i}`
	}));

let folder: string;
const at = (name: string): string => join(folder, name);
before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-sides-'))));
after(() => rmSync(folder, { recursive: true, force: true }));

/** A flat store of one device; `ahead`: its clock. */
function phone(name: string, owner: string, all: readonly Letter[], ahead = 0, others = 3): string {
	const db = createDatabase(at(name), ['page_size=4096', 'secure_delete=on']);
	db.exec('create table notes(id integer primary key autoincrement, number text, body text, at integer, way integer)');
	const add = (number: string, body: string, when: number, out: boolean): void =>
		void db.run('insert into notes(number, body, at, way) values(?,?,?,?)', [number, body, when + ahead, out ? 2 : 1]);
	for (let k = 0; k < others; k++)
		for (let i = 0; i < 20; i++)
			add(`+44770090012${k}`, `Somebody else, ${k} says ${WORDS[i % 7]} ${i}`, START + i * HOUR + k * 999, i % 3 === 1);
	for (const l of all) add(l.from === owner ? (owner === PIET ? ODILE : PIET) : l.from, l.text, l.at, l.from === owner);
	db.close();
	return at(name);
}

async function look(paths: string[], owner: string | null = null): Promise<{ messages: Message[]; compared: SidesOfThread[] }> {
	const { files, takenAt } = await unwrap(openPaths(paths), []);
	const it = new Look(files, { reach: 'raw', owner, takenAt });
	for (const event of it.run()) void event;
	const { stores, weave } = it.findings();
	const messages = weave.threads.flatMap((t) =>
		t.messages.map((m) => plainMessage(m, stores, it.files, { hex: false, stored: false, media: it.media }))
	);
	return { messages, compared: weave.compared };
}

const withOdile = (messages: readonly Message[]): Message[] => messages.filter((m) => m.correspondent === ODILE);

describe('both parties’ copies', () => {
	const all = letters(60);
	for (const [name, ahead] of [
		['an hour', HOUR],
		['days', -3 * 24 * HOUR - 123_000]
	] as const)
		it(`are one thread though a clock was set wrong by ${name}`, async () => {
			const paths = [phone(`right ${ahead}.db`, PIET, all), phone(`wrong ${ahead}.db`, ODILE, all, ahead, 1)];
			const { messages, compared } = await look(paths);
			const shared = withOdile(messages);
			assert.equal(shared.length, all.length);
			assert.equal(compared[0]?.clock, ahead);
			assert.deepEqual(
				shared.map((m) => m.sentAt),
				all.map((l) => l.at)
			);
		});

	it('are not one thread for a few words said in both, at times that have nothing to do with each other', async () => {
		const said = letters(60);
		const elsewhere = said.map((l, i) => ({ ...l, at: l.at + 40 * 24 * HOUR + ((i * 7919) % 97) * HOUR }));
		const { messages } = await look([phone('one.db', PIET, said), phone('other.db', ODILE, elsewhere, 0, 1)]);
		for (const l of said.filter((x) => x.text !== 'ok')) assert.equal(messages.filter((m) => m.text === l.text).length, 2, l.text);
	});

	it('are one for a single long text that went from one device to the other within seconds, and for no other', async () => {
		const letter = 'Would you bring the letter of the plant to the meeting on Thursday, and the meter readings as well';
		const sent: Letter[] = [{ at: START + 90 * HOUR, from: ODILE, text: letter }];
		const count = async (store: string): Promise<number> =>
			(await look([phone('sent.db', PIET, [...letters(3), ...sent]), store])).messages.filter((m) => m.text === letter).length;
		assert.equal(await count(phone('hers.db', ODILE, sent, 2130, 0)), 1);
		assert.equal(await count(phone('an hour on.db', ODILE, sent, HOUR, 0)), 2);
		// Another one to whom the same was said: both were received.
		assert.equal(await count(phone('another.db', '+447700900188', [{ ...sent[0]!, from: ODILE }], 2130, 1)), 2);
	});

	it('are one for the shortest word said to the same person at the same moment', async () => {
		const said: Letter[] = ['ok', 'hm'].map((text, i) => ({ at: START + i * HOUR, from: ODILE, text }));
		const theirs = phone('short.db', PIET, [...letters(4).map((l) => ({ ...l, at: l.at + 300 * HOUR })), ...said]);
		const db = createDatabase(at('short desk.db'), ['page_size=4096']);
		db.exec('create table desk_note(key integer primary key, who text, sent_at text, mine integer, words text)');
		const add = (who: string, when: number, mine: boolean, words: string): void =>
			void db.run('insert into desk_note(who, sent_at, mine, words) values(?,?,?,?)', [
				who,
				new Date(when).toISOString(),
				Number(mine),
				words
			]);
		for (let k = 0; k < 3; k++)
			for (let i = 0; i < 20; i++)
				add(`+44770090012${k}`, START + i * HOUR + k * 999, i % 3 === 1, `Somebody else, ${k} says ${WORDS[i % 7]} ${i}`);
		for (const l of said) add(ODILE, Math.floor(l.at / 1000) * 1000, false, l.text);
		db.close();
		const { messages } = await look([theirs, at('short desk.db')]);
		for (const { text } of said) {
			const found = messages.filter((m) => m.text === text && m.correspondent === ODILE);
			assert.deepEqual(
				found.map((m) => m.sightings.map((x) => x.source).sort()),
				[['short desk.db', 'short.db']]
			);
		}
	});

	it('what the other side alone holds, by a clock that is wrong, is what an export of the owner’s has at the right time', async () => {
		const all = letters(60);
		const isGone = (_: Letter, i: number): boolean => i % 7 === 3 && i % 9 !== 4;
		const own = phone(
			'own part.db',
			PIET,
			all.filter((l, i) => !isGone(l, i))
		);
		const hers = phone('an hour on whole.db', ODILE, all, HOUR + 1000, 0);
		const lines = all.map((l) => ({ from: l.from === PIET ? 'me' : ODILE, text: l.text, at: new Date(l.at).toISOString() }));
		writeFileSync(at('with Odile.json'), JSON.stringify(lines));
		const { messages } = await look([own, hers, at('with Odile.json')]);
		const gone = all.filter(isGone).map((l) => l.text);
		assert.deepEqual(
			withOdile(messages)
				.filter((m) => gone.includes(m.text!))
				.map((m) => [m.text, ...new Set(m.sightings.map((x) => x.source))].sort())
				.sort(),
			gone.map((text) => ['an hour on whole.db', text, 'with Odile.json'].sort()).sort()
		);
	});

	it('are one thread where the owner’s was deleted and lost times and numbers: what the other side holds says them', async () => {
		const own = phone('swept.db', PIET, all);
		const db = openDatabase(own, ['secure_delete=off']);
		// Some are left, by which the thread is known.
		db.run('delete from notes where number=? and id % 5 > 0', [ODILE]);
		db.close();
		const alone = withOdile((await look([own])).messages);
		const { messages } = await look([own, phone('whole.db', ODILE, all, 0, 1)]);
		const telling = all.filter((l) => l.text !== 'ok');
		assert.ok(alone.some((m) => m.standing === 'remnant'));
		for (const l of telling) {
			const found = messages.filter((m) => m.text === l.text);
			assert.equal(found.length, 1, l.text);
			assert.equal(found[0]!.correspondent, ODILE, l.text);
			assert.equal(found[0]!.direction, l.from === PIET ? 'out' : 'in', l.text);
			assert.equal(found[0]!.sentAt, l.at, l.text);
		}
	});

	it('are told as the named owner’s where nothing of his own is left: what the other side sent came to him', async () => {
		const own = phone('emptied.db', PIET, []);
		const { messages } = await look([own, phone('theirs.db', ODILE, all, 0, 0)], PIET);
		for (const l of all.filter((x) => x.text !== 'ok')) {
			const [found, ...more] = messages.filter((m) => m.text === l.text);
			assert.deepEqual(more, []);
			assert.equal(found!.direction, l.from === PIET ? 'out' : 'in', l.text);
			assert.equal(found!.correspondent, null, 'no number in it says whose it is');
		}
	});

	it('are told from the named owner’s side, though the other party’s phone holds more', async () => {
		const { messages } = await look([phone('lean.db', PIET, all, 0, 0), phone('rich.db', ODILE, all, 0, 3)], PIET);
		const shared = withOdile(messages);
		assert.deepEqual(
			shared.map((m) => [m.text, m.direction]),
			all.map((l) => [l.text, l.from === PIET ? 'out' : 'in'])
		);
	});

	it('are told from the side of which there are copies of several moments, where nobody says whose it is', async () => {
		// Piet has two conversations in two copies; Odile three, in one.
		const copies = [all.slice(0, 40), all].map((some, k) => phone(`again ${k}.db`, PIET, some, 0, 1));
		const { messages } = await look([phone('given once.db', ODILE, all, 0, 2), ...copies]);
		assert.deepEqual(
			withOdile(messages).map((m) => m.direction),
			all.map((l) => (l.from === PIET ? 'out' : 'in'))
		);
	});

	it('what the owner’s phone lost, and a computer of his has, keeps the time of that, not of the other side’s clock', async () => {
		const copies = [30, 31].map((count, k) => phone(`lost ${k}.db`, PIET, all.slice(0, count), 0, 3));
		const desk = createDatabase(at('desk.db'));
		desk.exec(`create table contact(id integer primary key, address text, name text);
			create table line(id integer primary key, contact_id integer, sent_at integer, mine integer, said text)`);
		for (const [k, number] of [ODILE, '+447700900120', '+447700900121'].entries())
			desk.run('insert into contact values(?,?,?)', [k + 1, number, ['Odile Marchetti', 'Li Wen', 'Yusuf Demirkan'][k]!]);
		for (const l of all) desk.run('insert into line values(null,1,?,?,?)', [l.at, l.from === PIET ? 1 : 0, l.text]);
		for (let i = 0; i < 12; i++)
			desk.run('insert into line values(null,?,?,?,?)', [2 + (i % 2), START + i * 777_000, i % 3 ? 0 : 1, `On the desk, ${i}`]);
		desk.close();
		// She has more partners than the computer.
		const hers = phone('hers, a minute fast.db', ODILE, all, 61_000, 0);
		const db = openDatabase(hers);
		for (let i = 0; i < 24; i++)
			db.run('insert into notes(number, body, at, way) values(?,?,?,?)', [
				`+44770090015${i % 4}`,
				`Of hers, ${i}`,
				START + i * HOUR + 61_555,
				1 + (i % 2)
			]);
		db.close();
		const { messages } = await look([hers, at('desk.db'), ...copies]);
		assert.deepEqual(
			withOdile(messages).map((m) => m.sentAt),
			all.map((l) => l.at)
		);
	});

	it('what a list of conversations showed of a message that is gone is how it began, as another copy has it whole', async () => {
		const long = `${'The lift was broken again, and nobody came to see to it, '.repeat(2)}they say`;
		const store = (name: string, tables: [string, string], shows: boolean): string => {
			const [talk, line] = tables;
			const db = createDatabase(at(name), ['secure_delete=on']);
			db.exec(`create table ${talk}(id integer primary key, address text, name text, shown text, shown_at integer);
				create table ${line}(id integer primary key, ${talk}_id integer, sent_at integer, mine integer, body text)`);
			for (let k = 0; k < 4; k++)
				db.run(`insert into ${talk} values(?,?,?,null,0)`, [
					k + 1,
					`+44770090013${k}`,
					['Odile Marchetti', 'Li Wen', 'Yusuf Demirkan', 'Noor al-Khatib'][k]!
				]);
			for (let i = 0; i < 40; i++) {
				const text = i === 39 ? long : `The ${WORDS[i % 7]} ${THINGS[i % 7]}, ${i}`;
				db.run(`insert into ${line} values(?,?,?,?,?)`, [i + 1, (i % 4) + 1, START + i * HOUR, i % 5 < 2 ? 1 : 0, text]);
				if (shows) db.run(`update ${talk} set shown=?, shown_at=? where id=?`, [text.slice(0, 40), START + i * HOUR, (i % 4) + 1]);
			}
			if (shows) db.exec(`delete from ${line} where id=40`);
			db.close();
			return at(name);
		};
		const { messages, compared } = await look(
			[store('shows.db', ['talk', 'said'], true), store('whole.db', ['contact', 'note'], false)],
			PIET
		);
		const last = messages.filter((m) => m.sentAt === START + 39 * HOUR);
		assert.deepEqual(
			last.map((m) => [m.text, m.sightings.map((x) => x.method).sort()]),
			[[long, ['preview', 'row-in-use']]]
		);
		assert.ok(compared.every((c) => c.differing === 0));
	});

	it('what is left in freed bytes keeps its second, though an export has the minute', async () => {
		const path = at('swept.db');
		const db = createDatabase(path, ['secure_delete=off']);
		db.exec('create table notes(id integer primary key autoincrement, number text, body text, at integer, way integer)');
		const second = 17_000;
		for (const l of all) db.run('insert into notes values(null,?,?,?,?)', [ODILE, l.text, l.at + second, l.from === PIET ? 2 : 1]);
		for (let i = 0; i < 20; i++)
			db.run('insert into notes values(null,?,?,?,?)', ['+447700900121', `Who is there, ${i}`, START + i * 777_000, 1 + (i % 2)]);
		db.exec('delete from notes where id between 20 and 24');
		db.close();
		const written = (ms: number): string => new Date(ms).toISOString().replace(/^(\d+)-(\d+)-(\d+)T(\d+:\d+).*/, '$3/$2/$1, $4');
		const lines = all.map((l) => `[${written(l.at + second)}] ${l.from === PIET ? 'Piet Hallorann' : 'Odile Marchetti'}: ${l.text}`);
		writeFileSync(at('Chat with Odile Marchetti.txt'), lines.join('\n'));
		const { messages } = await look([path, at('Chat with Odile Marchetti.txt')], 'Piet Hallorann');
		const lost = messages.filter((m) => m.standing !== 'kept');
		assert.deepEqual(
			lost.map((m) => [m.text, m.sentAt, m.sightings.some((x) => x.source.startsWith('Chat'))]),
			all.slice(19, 24).map((l) => [l.text, l.at + second, true])
		);
	});

	it('are one for the shortest word said at the same moment to one called alike, whom one program knows by a number and one by a handle', async () => {
		const named = (name: string, address: (i: number) => string, offset: number): string => {
			const db = createDatabase(at(name));
			db.exec(`create table person(id integer primary key, address text, name text);
				create table said(id integer primary key, person_id integer, sent_at integer, mine integer, body text)`);
			const names = ['Odile Marchetti', 'Bram Vesterholt', 'Li Wen'];
			for (const [i, called] of names.entries()) db.run('insert into person values(?,?,?)', [i + 1, address(i), called]);
			for (let i = 0; i < 24; i++)
				db.run('insert into said values(null,?,?,?,?)', [
					2 + (i % 2),
					START + i * HOUR + offset,
					i % 3 === 0 ? 1 : 0,
					`${name}: the ${WORDS[i % 7]} ${i}`
				]);
			db.run('insert into said values(null,1,?,0,?)', [START + 31 * HOUR, 'bring']);
			db.close();
			return at(name);
		};
		const paths = [
			named('by number.db', (i) => `+44770090013${i}`, 0),
			named('by handle.db', (i) => `@${'obl'[i]!}.resident:example.org`, 7_000_000)
		];
		const { messages } = await look(paths, PIET);
		assert.deepEqual(
			messages.filter((m) => m.text === 'bring').map((m) => m.sightings.map((x) => x.source).sort()),
			[['by handle.db', 'by number.db']]
		);
	});

	it('are one for a single sentence at the same moment, in stores that have other conversations in common, and for none with another name', async () => {
		const program = (
			name: string,
			address: (i: number) => string,
			called: string,
			persons: string,
			said: string,
			apart: number
		): string => {
			const db = createDatabase(at(name));
			db.exec(`create table ${persons}(id integer primary key, address text, name text);
				create table ${said}(id integer primary key, ${persons}_id integer, sent_at integer, mine integer, body text)`);
			for (let i = 0; i < 4; i++)
				db.run(`insert into ${persons} values(?,?,?)`, [
					i + 1,
					address(i),
					i === 3 ? called : ['Tamsin Okafor', 'Li Wen', 'Yusuf Demirkan'][i]!
				]);
			for (let i = 0; i < (said === 'said' ? 24 : 9); i++)
				db.run(`insert into ${said} values(null,?,?,?,?)`, [
					1 + (i % 3),
					START + i * HOUR,
					i % 5 < 2 ? 1 : 0,
					`The ${WORDS[i % 7]} ${THINGS[i % 7]}, ${i}`
				]);
			// To the millisecond a word is enough.
			db.run(`insert into ${said} values(null,4,?,1,?)`, [START + 31 * HOUR + apart, apart === 0 ? 'Bring a ladder' : 'Bring']);
			db.close();
			return at(name);
		};
		const threads = async (called: string, apart = 0): Promise<number> => {
			const { messages } = await look([
				program('of numbers.db', (i) => `+44770090013${i}`, 'Odile Marchetti', 'person', 'said', apart),
				program('of handles.db', (i) => `@${'oblm'[i]!}.resident:example.org`, called, 'contact', 'note', apart)
			]);
			return messages.filter((m) => m.text?.startsWith('Bring')).length;
		};
		assert.equal(await threads('Odile'), 1);
		assert.equal(await threads('Bram Vesterholt'), 2);
		assert.equal(await threads('Odile', 317), 1);
	});

	it('what the owner wrote to himself stays as he sent it', async () => {
		const notes = all.map((l) => ({ ...l, from: PIET }));
		const path = at('notes.db');
		const db = createDatabase(path);
		db.exec('create table notes(id integer primary key, number text, body text, at integer, way integer)');
		for (const l of notes) db.run('insert into notes values(null,?,?,?,2)', [PIET, l.text, l.at]);
		for (const l of all) db.run('insert into notes values(null,?,?,?,?)', [ODILE, `${l.text}!`, l.at + 5000, l.from === PIET ? 2 : 1]);
		db.close();
		const { messages } = await look([path], PIET);
		assert.equal(messages.filter((m) => m.correspondent === PIET && m.direction === 'out').length, notes.length);
	});

	const gone = new Set([6, 7, 8, 30, 31]);
	it('are one thread, each message once, with sightings on both sides', async () => {
		const own = phone(
			'own.db',
			PIET,
			all.filter((_, i) => !gone.has(i))
		);
		const theirs = phone(
			'theirs.db',
			ODILE,
			all.filter((_, i) => i !== 50),
			12_000,
			0
		);
		const { messages, compared } = await look([theirs, own]);
		const thread = withOdile(messages);
		assert.equal(messages.length, 120);
		assert.deepEqual(
			thread.map((m) => [m.text, m.direction]),
			all.map((l) => [l.text, l.from === PIET ? 'out' : 'in'])
		);
		assert.equal(new Set(thread.map((m) => m.thread)).size, 1);
		assert.equal(thread.filter((m) => m.sightings.length === 2).length, 54);
		const [sides] = compared;
		assert.deepEqual(
			[compared.length, sides!.otherSide, sides!.both, sides!.onlyThere, sides!.onlyHere, sides!.differing, sides!.clock],
			[1, true, 54, 5, 1, 0, 12_000]
		);
	});
	it('are one thread where one is a folder of mails, each a file of its own', async () => {
		const all = letters(12).map((l, i) => ({ ...l, text: ['ok', 'at seven', 'who has it?', 'thanks'][i % 4]! }));
		const phoned = phone('mailed.db', ODILE, all);
		mkdirSync(at('mails'));
		const called = (number: string): string => (number === ODILE ? 'Odile Marchetti <odile@marrow.example>' : 'Piet <piet@marrow.example>');
		for (const [i, l] of all.entries()) {
			const lines = [
				`From: ${called(l.from)}`,
				`To: ${called(l.from === ODILE ? PIET : ODILE)}`,
				`Date: ${new Date(l.at).toUTCString()}`,
				'Subject: ',
				'',
				l.text
			];
			writeFileSync(at(`mails/${i}.eml`), lines.join('\r\n'));
		}
		const { messages } = await look([phoned, at('mails')], ODILE);
		const mailed = messages.filter((m) => m.sightings.some(({ path }) => path.endsWith('.eml')));
		assert.equal(mailed.length, all.length);
		assert.equal(new Set(mailed.map((m) => m.thread)).size, 1);
		assert.ok(mailed.every((m) => m.sightings.some(({ path }) => path.endsWith('.db'))));
	});
	it('what differs in wording is one message with both wordings', async () => {
		const own = phone('own2.db', PIET, all);
		const theirs = phone(
			'theirs2.db',
			ODILE,
			all.map((l, i) => (i === 20 ? { ...l, text: l.text.replace('they say', 'we never said') } : l)),
			0,
			0
		);
		const { messages, compared } = await look([own, theirs]);
		assert.equal(withOdile(messages).length, 60);
		assert.equal(compared[0]!.differing, 1);
		assert.match(withOdile(messages)[20]!.otherWording!, /we never said/);
	});
	it('what was changed to other words since is known by its moment; of two moments near each other neither is', async () => {
		const changed = (l: Letter, i: number): Letter => (i === 20 ? { ...l, text: 'Forget what I wrote before' } : l);
		const here = phone('changed-here.db', PIET, all.map(changed), 0);
		const there = phone('changed-there.db', ODILE, all, 1200, 0);
		const { messages, compared } = await look([here, there], PIET);
		const [now] = withOdile(messages).filter((m) => m.text === 'Forget what I wrote before');
		assert.equal(now?.otherWording, all[20]!.text);
		assert.equal(
			withOdile(messages).some((m) => m.text === all[20]!.text),
			false
		);
		assert.equal(compared[0]?.differing, 1);

		const delivered = all.map((l, i) => ({ ...l, at: l.at + (i % 7) * 150 }));
		const two = delivered.toSpliced(21, 0, { at: all[20]!.at + 300, from: all[20]!.from, text: 'Another one, said at once' });
		const other = phone('near-there.db', ODILE, two, 1200, 0);
		const apart = withOdile((await look([here, other], PIET)).messages);
		for (const text of ['Forget what I wrote before', all[20]!.text, 'Another one, said at once'])
			assert.equal(apart.filter((m) => m.text === text).length, 1, text);
	});

	it('a message deleted here stays deleted though the other side has it', async () => {
		const db = createDatabase(at('own4.db'), ['page_size=4096', 'secure_delete=off']);
		db.exec('create table notes(id integer primary key autoincrement, number text, body text, at integer, way integer)');
		for (const l of all) db.run('insert into notes(number, body, at, way) values(?,?,?,?)', [ODILE, l.text, l.at, l.from === PIET ? 2 : 1]);
		for (let i = 0; i < 30; i++)
			db.run('insert into notes(number, body, at, way) values(?,?,?,?)', [
				'+447700900155',
				`Another one ${i}`,
				START + i * HOUR,
				(i % 2) + 1
			]);
		db.exec('delete from notes where id = 43');
		db.close();
		const theirs = phone('theirs4.db', ODILE, all, 0, 0);
		const { messages } = await look([at('own4.db'), theirs]);
		const one = withOdile(messages).find((m) => m.text === all[42]!.text)!;
		assert.equal(one.standing, 'remnant');
		assert.deepEqual(new Set(one.sightings.map((s) => s.source)), new Set(['own4.db', 'theirs4.db']));
	});
	it('what only the other side has takes up record numbers that are missing here', async () => {
		const own = phone('own6a.db', PIET, all);
		const db = openDatabase(own, ['secure_delete=on']);
		db.exec(`delete from notes where body like '%, 9' or body like '%, 10' or body like '%, 11'`);
		db.all('vacuum');
		db.close();
		const missing = async (paths: string[]): Promise<number> => {
			const it = new Look(openPaths(paths), { reach: 'raw', owner: null });
			for (const event of it.run()) void event;
			return it.findings().weave.gaps.reduce((n, g) => n + g.count, 0);
		};
		const alone = await missing([own]);
		assert.ok(alone >= 3, String(alone));
		const theirs = phone('theirs6a.db', ODILE, all, 0, 0);
		assert.equal(await missing([own, theirs]), alone - 3);
	});
	it('two conversations with little in common stay two', async () => {
		const own = phone('own5.db', PIET, all);
		const stranger = phone(
			'theirs5.db',
			ODILE,
			letters(60).map((l, i) => ({ ...l, text: i % 5 ? `Nothing to do with that, ${i}` : 'ok' })),
			40 * HOUR,
			0
		);
		const { messages, compared } = await look([own, stranger]);
		assert.deepEqual(compared, []);
		assert.equal(messages.length, 180);
	});
});

describe('an export beside a store', () => {
	const all = letters(60);
	const said = (offset: number): Said[] =>
		all.map((l) => ({ at: l.at + offset, writer: l.from === PIET ? 'Piet Hallorann' : 'Odile Marchetti', text: l.text }));
	for (const form of [TEXT_FORMS[0]!, TEXT_FORMS[1]!, TEXT_FORMS[4]!])
		it(`tells who wrote and joins its messages, whatever its zone: ${form.name}`, async () => {
			const own = phone(
				'own6.db',
				PIET,
				all.filter((_, i) => i < 20 || i > 24)
			);
			writeFileSync(at('talk.txt'), form.write(said(HOUR)));
			const { messages, compared } = await look([own, at('talk.txt')]);
			const thread = withOdile(messages);
			assert.equal(messages.length, 120);
			assert.deepEqual(
				thread.map((m) => `${m.direction} ${m.text}`).sort(),
				all.map((l) => `${l.from === PIET ? 'out' : 'in'} ${l.text}`).sort()
			);
			assert.deepEqual([compared[0]!.both, compared[0]!.onlyThere], [55, 5]);
			// The store's time is the finer one, and states its zone.
			assert.ok(thread.filter((m) => m.zoned).every((m) => all.some((l) => l.at === m.sentAt)));
			assert.equal(thread.filter((m) => m.zoned).length, 55);
		});
});

describe('files that messages state', () => {
	const files: Record<string, Uint8Array> = {};
	const sha = (name: string): string => createHash('sha256').update(files[name]!).digest('hex');
	const png = (width: number, height: number): Uint8Array => {
		const b = new Uint8Array(600 + width);
		b.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0, 0, 0, 13, 0x49, 0x48, 0x44, 0x52]);
		new DataView(b.buffer).setUint32(16, width);
		new DataView(b.buffer).setUint32(20, height);
		return b;
	};
	it('are found by path, hash, name, size and type, dimensions; two that fit alike are not linked', async () => {
		Object.assign(files, {
			'profile/media/2025/a.png': png(10, 11),
			'profile/media/2025/b.png': png(20, 21),
			'profile/old/a.png': png(30, 31),
			'profile/received/renamed-1.bin': png(40, 41),
			'profile/received/document.pdf': new TextEncoder().encode(`%PDF-1.7 ${'x'.repeat(900)}`),
			'profile/received/renamed-2.dat': png(50, 51),
			'profile/received/renamed-3.dat': png(60, 61),
			'profile/one/twin.png': png(70, 71),
			'profile/two/twin.png': png(70, 72)
		});
		const db = createDatabase(join(folder, 'media.db'), ['page_size=4096']);
		db.exec('create table notes(id integer primary key, number text, body text, at integer, way integer)');
		db.exec(
			'create table files(id integer primary key, note integer references notes(id), path text, name text, mime text, size integer, sha256 text, width integer, height integer)'
		);
		for (let i = 1; i <= 60; i++)
			db.run('insert into notes values(?,?,?,?,?)', [
				i,
				i % 2 ? ODILE : '+447700900122',
				`Here is what I wrote of, ${i}`,
				START + i * HOUR,
				i % 3 === 0 ? 2 : 1
			]);
		const state = (
			note: number,
			path: string | null,
			name: string | null,
			size: number | null,
			hash: string | null,
			shape: [number, number] | null = null
		): void =>
			void db.run('insert into files(note, path, name, mime, size, sha256, width, height) values(?,?,?,?,?,?,?,?)', [
				note,
				path,
				name,
				'image/png',
				size,
				hash,
				shape?.[0] ?? null,
				shape?.[1] ?? null
			]);
		state(1, '/data/program/files/media/2025/a.png', 'a.png', 610, null);
		state(2, 'C:\\Users\\piet\\profile\\media\\2025\\b.png', 'b.png', null, null);
		state(3, '/data/x/lost-name.png', 'lost-name.png', null, sha('profile/received/renamed-1.bin'));
		state(4, '/data/x/never.png', 'never.png', 4711, null);
		db.run('insert into files(note, path, name, mime, size) values(5, ?, ?, ?, ?)', [
			'/data/y/document.pdf',
			'document.pdf',
			'application/pdf',
			909
		]);
		state(6, '/data/x/other-name.png', 'other-name.png', 650, null);
		state(7, '/data/x/shape.png', 'shape.png', null, null, [60, 61]);
		state(8, '/data/z/twin.png', 'twin.png', null, null);
		db.close();
		for (const [name, bytes] of Object.entries(files)) {
			mkdirSync(dirname(at(name)), { recursive: true });
			writeFileSync(at(name), bytes);
		}
		const { messages } = await look([at('media.db'), at('profile')]);
		const links = messages
			.filter((m) => m.attachments)
			.map((m) => [
				m.record,
				m.attachments![0]!.path?.slice(folder.length + 1) ?? null,
				m.attachments![0]!.link,
				m.attachments![0]!.sha256
			]);
		const found = (record: number, name: string, how: string): unknown[] => [record, name, how, sha(name)];
		assert.deepEqual(
			links.sort((a, b) => Number(a[0]) - Number(b[0])),
			[
				found(1, 'profile/media/2025/a.png', 'stated path'),
				found(2, 'profile/media/2025/b.png', 'stated path'),
				found(3, 'profile/received/renamed-1.bin', 'hash (SHA-256)'),
				[4, null, null, null],
				found(5, 'profile/received/document.pdf', 'name and size'),
				found(6, 'profile/received/renamed-2.dat', 'size and type'),
				found(7, 'profile/received/renamed-3.dat', 'dimensions and type'),
				[8, null, null, null]
			]
		);
	});
});

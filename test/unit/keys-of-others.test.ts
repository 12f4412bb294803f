/** Small numbers and keys are those of many a table: what tells whose they are, in stores of a few hundred rows. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import type { Woven } from '../../src/core/weave';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const PEOPLE = [1, 2, 3, 4, 5].map((n) => `+44770090010${n}`);
const OWNER = '+447700900199';
const WORDS = 'boiler meter charge valve stairs credit plant heating month failure notice tenant copper ladder window letter'.split(' ');

interface Sent {
	id: number;
	at: number;
	/** Index of the other side, or of the writer in the group. */
	who: number;
	group: boolean;
	own: boolean;
	text: string;
}

/** A year's messages with five persons, and in a group of three of them. */
function story(seed: number, groups: boolean): Sent[] {
	const random = new Random(seed);
	return Array.from({ length: 120 }, (_, i) => {
		const group = groups && random.chance(0.25);
		const words = Array.from({ length: random.int(3, 9) }, () => random.pick(WORDS)).join(' ');
		return {
			id: i + 1,
			at: 1_735_000_000 + i * 20_000,
			who: group ? random.int(0, 2) : random.int(0, 4),
			group,
			own: random.chance(0.5),
			text: `So the ${words} ${i}.`
		};
	});
}

describe('keys that could be those of several tables', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-keys-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	function write(path: string, schema: string, fill: (db: Engine) => void): string {
		mkdirSync(join(folder, path, '..'), { recursive: true });
		const db = createDatabase(join(folder, path), ['secure_delete=on']);
		db.exec(schema);
		db.exec('begin');
		fill(db);
		db.exec('commit');
		db.exec('vacuum');
		db.close();
		return join(folder, path);
	}
	function read(...paths: string[]): Map<string, Woven> {
		const look = new Look(openPaths(paths), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const all = look.findings().weave.threads.flatMap((t) => t.messages);
		const found = new Map(all.map((m) => [m.first.text!, m]));
		assert.equal(found.size, all.length);
		return found;
	}
	/** Every message once, with its way and its other side, one thread for each other side and one for the group. */
	function check(found: ReadonlyMap<string, Woven>, sent: readonly Sent[]): void {
		assert.equal(found.size, sent.length);
		const threads = new Map<string, Set<string>>();
		for (const s of sent) {
			const m = found.get(s.text)!;
			assert.equal(m.first.direction, s.own ? 'out' : 'in', s.text);
			assert.equal(m.first.correspondent?.address ?? null, s.group && s.own ? null : PEOPLE[s.who]!, s.text);
			const key = s.group ? 'group' : PEOPLE[s.who]!;
			threads.set(key, (threads.get(key) ?? new Set()).add(m.thread));
		}
		for (const [key, ids] of threads) assert.equal(ids.size, 1, key);
		assert.equal(new Set([...threads.values()].flatMap((ids) => [...ids])).size, threads.size);
	}

	for (const groups of [true, false])
		it(`a list of participants, of whom each conversation has its own, names the writers${groups ? '' : ', where there is no group'}`, () => {
			const sent = story(groups ? 3 : 4, groups);
			const path = write(
				`participants-${groups}.db`,
				'create table conversation(_id integer primary key, snippet text, peer text, name text);' +
					'create table participants(_id integer primary key, conversation integer, number text, display text);' +
					'create table message(_id integer primary key, conversation integer, author integer, box integer, received integer, sent integer, body text)',
				(db) => {
					db.run('insert into participants values(1, null, ?, ?)', [OWNER, 'Me']);
					PEOPLE.forEach((number, i) => {
						db.run('insert into conversation values(?, null, ?, null)', [i + 1, number]);
						db.run('insert into participants values(?, ?, ?, null)', [i + 2, i + 1, number]);
					});
					if (groups) db.run('insert into conversation values(50, null, null, ?)', ['Stairwell B']);
					if (groups)
						PEOPLE.slice(0, 3).forEach((number, i) => db.run('insert into participants values(?, 50, ?, null)', [60 + i, number]));
					for (const s of sent)
						db.run('insert into message values(?, ?, ?, ?, ?, ?, ?)', [
							s.id,
							s.group ? 50 : s.who + 1,
							s.own ? 1 : s.group ? 60 + s.who : s.who + 2,
							s.own ? 2 : 1,
							s.at + 2,
							s.at,
							s.text
						]);
				}
			);
			check(read(path), sent);
		});

	it('a conversation’s number is none of the rows of a list of members, whose first are numbered as the conversations are', () => {
		const [persons, rounds] = [12, [3, 4, 5]];
		const called = (person: number): string => `+4477009002${String(person).padStart(2, '0')}`;
		const random = new Random(12);
		const sent = Array.from({ length: 140 }, (_, i) => {
			const room = random.chance(0.12) ? persons + random.int(1, rounds.length) : random.int(1, persons);
			return { id: i + 1, room, own: room > persons ? random.chance(0.8) : random.chance(0.5), text: `So the ${random.pick(WORDS)} ${i}.` };
		});
		const path = write(
			'members.db',
			'create table Talk(id integer primary key, subject text, last integer);' +
				'create table Person(id integer primary key, name text, number text);' +
				'create table TalkPerson(talkId, person);' +
				'create table Said(id integer primary key, body text, at integer, talkId integer, person integer)',
			(db) => {
				const firstLetters = 'ABCDEFGHIJKL';
				for (let n = 1; n <= persons; n++) {
					db.run('insert into Person values(?, ?, ?)', [n + 1, `Maud ${firstLetters[n - 1]}olland`, called(n)]);
					db.run('insert into Talk values(?, null, ?)', [n, 1_735_000_000_000 + n]);
					db.run('insert into TalkPerson values(?, ?)', [n, n + 1]);
				}
				rounds.forEach((members, i) => {
					db.run('insert into Talk values(?, ?, ?)', [persons + 1 + i, `Stairwell ${i}`, 1_735_000_001_000 + i]);
					for (let n = 0; n < members; n++)
						db.run('insert into TalkPerson values(?, ?)', [persons + 1 + i, 2 + ((n * 3 + i * 4) % persons)]);
				});
				for (const { id, room, own, text } of sent) {
					const writer = own ? null : room <= persons ? room + 1 : 2 + (((room - persons - 1) * 4) % persons);
					db.run('insert into Said values(?, ?, ?, ?, ?)', [id, text, 1_735_000_000_000 + id * 777_000, room, writer]);
				}
			}
		);
		const found = read(path);
		const threads = new Map(sent.map(({ room, text }) => [room, found.get(text)!.thread]));
		for (const { room, text } of sent) assert.equal(found.get(text)!.thread, threads.get(room), text);
		assert.equal(new Set(threads.values()).size, threads.size);
	});

	it('a conversation’s number is none of persons numbered from one as well', () => {
		const sent = story(5, true);
		const path = write(
			'flat.db',
			'create table sms(_id integer primary key, thread_id integer, address text, date integer, type integer, body text);' +
				'create table person(id integer primary key, number text, name text)',
			(db) => {
				PEOPLE.forEach((number, i) => db.run('insert into person values(?, ?, ?)', [i + 1, number, `Maud ${'ABCDE'[i]}olland`]));
				for (const s of sent)
					db.run('insert into sms values(?, ?, ?, ?, ?, ?)', [
						s.id,
						s.group ? 100 : s.who + 1,
						s.group && s.own ? '' : PEOPLE[s.who]!,
						s.at,
						s.own ? 2 : 1,
						s.text
					]);
			}
		);
		check(read(path), sent);
	});

	it('files with a number each and a message each are no conversations', () => {
		const sent = story(6, false).slice(0, 80);
		const path = write(
			'files.db',
			'create table sms(_id integer primary key, thread_id integer, address text, date integer, type integer, body text);' +
				'create table parts(id integer primary key, mid, ctype text, file text, size integer)',
			(db) => {
				for (const s of sent) {
					db.run('insert into sms values(?, ?, ?, ?, ?, ?)', [s.id, s.who + 1, PEOPLE[s.who]!, s.at, s.own ? 2 : 1, s.text]);
					if (s.id % 7 === 0)
						db.run('insert into parts(mid, ctype, file, size) values(?, ?, ?, ?)', [
							s.id,
							'image/png',
							`media/${s.id}ab/${s.id}.png`,
							s.id * 10
						]);
				}
			}
		);
		const found = read(path);
		check(found, sent);
		for (const s of sent)
			assert.deepEqual(
				found.get(s.text)!.first.files.map((f) => f.name),
				s.id % 7 === 0 ? [`${s.id}.png`] : []
			);
	});

	it('a program’s keys are no names, and a list of one member is a list', () => {
		const sent = story(7, false);
		const path = write(
			'keys.db',
			'create table party(key text primary key, address text, display text);' +
				'create table room(key text primary key, subject text, members text);' +
				'create table line(uuid text primary key, room text, writer text, body text, stamp integer, way text)',
			(db) => {
				db.run('insert into party values(?, ?, null)', ['me', OWNER]);
				PEOPLE.forEach((number, i) => {
					db.run('insert into party values(?, ?, null)', [`p00${i}`, number]);
					db.run('insert into room values(?, null, ?)', [`r00${i}`, JSON.stringify([`p00${i}`])]);
				});
				for (const s of sent)
					db.run('insert into line values(?, ?, ?, ?, ?, ?)', [
						`u-${s.id}`,
						`r00${s.who}`,
						s.own ? 'me' : `p00${s.who}`,
						s.text,
						s.at,
						s.own ? 'sent' : 'received'
					]);
			}
		);
		const found = read(path);
		check(found, sent);
		for (const m of found.values()) assert.equal(m.first.correspondent?.name ?? null, null);
	});

	it('a table to each number, of numbers that begin alike and stand nowhere else, is a thread of two', () => {
		const sent = story(8, false);
		const path = write(
			'tables.db',
			PEOPLE.map((n) => `create table chat_${n.slice(1)}(id integer primary key, content text, at integer, dir integer, who text)`).join(
				';'
			),
			(db) => {
				for (const s of sent)
					db.run(`insert into chat_${PEOPLE[s.who]!.slice(1)}(content, at, dir, who) values(?, ?, ?, ?)`, [
						s.text,
						s.at,
						s.own ? 1 : 0,
						s.own ? null : PEOPLE[s.who]!
					]);
			}
		);
		check(read(path), sent);
	});

	it('rows that a vacuum has numbered anew are told in other captures by what they hold', () => {
		const sent = story(9, true);
		const capture = (day: string, from: number, to: number): string =>
			write(
				`${day}/texts.db`,
				'create table handle(rowid integer primary key, addr text); create table chat(rowid integer primary key, title text);' +
					'create table chat_handle(chat integer, handle integer); create table chat_message(chat integer, message integer);' +
					'create table message(rowid integer primary key, body text, handle integer, sent integer, from_me integer)',
				(db) => {
					PEOPLE.forEach((number, i) => {
						db.run('insert into handle values(?, ?)', [i + 1, number]);
						db.run('insert into chat values(?, null)', [i + 1]);
						db.run('insert into chat_handle values(?, ?)', [i + 1, i + 1]);
					});
					db.run('insert into chat values(100, ?)', ['Lane residents']);
					for (const i of [1, 2, 3]) db.run('insert into chat_handle values(100, ?)', [i]);
					for (const s of sent.slice(0, to)) {
						db.run('insert into message values(?, ?, ?, ?, ?)', [s.id, s.text, s.group && s.own ? 0 : s.who + 1, s.at, Number(s.own)]);
						db.run('insert into chat_message values(?, ?)', [s.group ? 100 : s.who + 1, s.id]);
					}
					db.run('delete from message where rowid <= ?', [from]);
					db.run('delete from chat_message where message <= ?', [from]);
				}
			);
		const paths = [capture('2025-01-10', 0, 60), capture('2025-01-14', 0, 100), capture('2025-01-20', 70, 120)];
		check(read(...paths), sent);
	});
});

/** Who wrote in which conversation, told from who takes part in each: by lists of members, joins, keys and numbers that could be those of anything. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const OWNER = 40;
const ROOM = 5;
const START = 1_735_000_000;
const WORDS = 'boiler meter charge valve stairs credit plant heating month failure notice tenant copper ladder window letter'.split(' ');
/** Persons are numbered otherwise than their conversations. */
const PERSONS = [7, 2, 9, 4, 3, 1, 8];
const numberOf = (who: number): string => `+4477009001${String(who).padStart(2, '0')}`;
const nameOf = (who: number): string =>
	`${['', 'Odile', 'Tamsin', 'Bram', 'Noor', 'Yusuf', 'Wen', 'Ilse', 'Marek', 'Ruta'][who] ?? 'Piet'} Keller`;
const keyOf = (who: number): string => `${String(who).padStart(8, '0')}-6b2a-4c1d-9e3f-0123456789ab`;

/** A message in one of four conversations of two (with the person of that place in the list), or in the room. */
interface Said {
	id: number;
	at: number;
	talk: number;
	writer: number;
	text: string;
}
const membersOf = (talk: number): number[] => (talk === ROOM ? PERSONS.slice(1, 5) : [PERSONS[talk - 1]!]);

function story(seed: number, rooms: boolean, count = 70): Said[] {
	const random = new Random(seed);
	return Array.from({ length: count }, (_, i) => {
		const talk = random.int(1, rooms ? ROOM : ROOM - 1);
		const writer = random.chance(0.45) ? OWNER : random.pick(membersOf(talk));
		return { id: i + 1, at: START + i * 4000, talk, writer, text: `The ${random.pick(WORDS)} ${random.pick(WORDS)} ${i}` };
	});
}

/** Rows beside the messages, numbered from one as conversations and persons are. */
function writeNoise(db: Engine, sent: readonly Said[], refer: (who: number) => string | number): void {
	db.exec('create table reaction(id integer primary key, msg, who, emoji text, at); create table pref(k text primary key, v text)');
	for (const said of sent.slice(0, 12))
		db.run('insert into reaction(msg, who, emoji, at) values(?,?,?,?)', [said.id, refer(membersOf(said.talk)[0]!), '👍', said.at + 5]);
	db.run('insert into pref values(?,?)', ['theme', 'dark']);
}

const TALKS = [1, 2, 3, 4];
function writeTalks(db: Engine, rooms: boolean, refer: ((who: number) => string | number) | null, withOwner: boolean): void {
	db.exec('create table talk(id integer primary key, title text, peer text, last)');
	for (const talk of TALKS) db.run('insert into talk values(?,null,?,null)', [talk, numberOf(membersOf(talk)[0]!)]);
	if (rooms) db.run('insert into talk values(?,?,null,null)', [ROOM, 'Plant desk']);
	if (!refer) return;
	db.exec('create table talk_who(c, p)');
	for (const talk of rooms ? [...TALKS, ROOM] : TALKS)
		for (const who of [...membersOf(talk), ...(withOwner ? [OWNER] : [])]) db.run('insert into talk_who values(?,?)', [talk, refer(who)]);
}

/** Persons with their numbers beside them, or in a list of their own. */
function writePersons(db: Engine, apart: boolean, withOwner: boolean): void {
	db.exec(`create table who(id integer primary key, uid text, called text${apart ? '' : ', phone text'})`);
	if (apart) db.exec('create table who_value(p integer, kind integer, value text)');
	for (const who of [...PERSONS.toSorted((a, b) => a - b), ...(withOwner ? [OWNER] : [])]) {
		db.run(`insert into who values(?,?,?${apart ? '' : ',?'})`, [who, keyOf(who), nameOf(who), ...(apart ? [] : [numberOf(who)])]);
		if (apart) db.run('insert into who_value values(?,1,?)', [who, numberOf(who)]);
	}
}

describe('those who take part', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-part-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	let made = 0;
	/** `named`: whether the store says what persons are called. `gone`: of these only what freed bytes hold is left. */
	function check(
		sent: readonly Said[],
		named: boolean,
		write: (db: Engine) => void,
		gone: readonly Said[] = []
	): (table: string, column?: string) => string | undefined {
		const path = join(folder, `${made++}.db`);
		const db = createDatabase(path, ['secure_delete=off']);
		db.exec('begin');
		write(db);
		db.exec('commit');
		for (const { id } of gone) db.exec(`delete from msg where id = ${id}; delete from talk_msg where m = ${id}`);
		db.close();
		const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const found = look.findings().weave.threads.flatMap((t) => t.messages);
		assert.deepEqual(
			found.filter((m) => m.first.text !== null && !sent.some((s) => s.text === m.first.text)).map((m) => m.first.text),
			[]
		);
		const threads = new Map<number, Set<string>>();
		for (const said of sent.filter((s) => !gone.includes(s))) {
			const same = found.filter((m) => m.first.text === said.text);
			assert.equal(same.length, 1, said.text);
			const { first, thread } = same[0]!;
			const other = said.writer !== OWNER ? said.writer : said.talk === ROOM ? null : membersOf(said.talk)[0]!;
			assert.equal(first.direction, said.writer === OWNER ? 'out' : 'in', said.text);
			assert.equal(first.correspondent?.address ?? null, other === null ? null : numberOf(other), said.text);
			assert.equal(first.correspondent?.name ?? null, other === null || !named ? null : nameOf(other), said.text);
			threads.set(said.talk, (threads.get(said.talk) ?? new Set()).add(thread));
		}
		for (const [talk, ids] of threads) assert.equal(ids.size, 1, `${talk}`);
		assert.equal(new Set([...threads.values()].map((ids) => [...ids][0])).size, threads.size);
		const tables = look.readings().flatMap((r) => r.tables);
		return (table, column) => {
			const found = tables.find((t) => t.name === table);
			return column === undefined ? found?.role : found?.columns.find((c) => c.name === column)?.role;
		};
	}

	it('a conversation’s list with numbers, and the number of who wrote where that was not the owner', () => {
		const sent = story(1, false);
		check(sent, false, (db) => {
			db.exec('create table msg(id integer primary key, talk integer, src, body text, at integer)');
			for (const s of sent)
				db.run('insert into msg values(?,?,?,?,?)', [s.id, s.talk, s.writer === OWNER ? null : numberOf(s.writer), s.text, s.at]);
			writeTalks(db, false, numberOf, false);
			writeNoise(db, sent, numberOf);
		});
	});

	for (const apart of [false, true])
		it(`a join to conversations, and persons with numbers ${apart ? 'in a list of their own' : 'beside them'}, whatever a state says`, () => {
			const sent = story(2, true);
			check(sent, true, (db) => {
				db.exec('create table msg(id integer primary key, src, mine, body text, at integer, status integer)');
				db.exec('create table talk_msg(c integer, m integer, primary key(c, m))');
				for (const s of sent) {
					const own = s.writer === OWNER;
					db.run('insert into msg values(?,?,?,?,?,?)', [s.id, own ? null : s.writer, Number(own), s.text, s.at, 1 + ((s.id * 7) % 3)]);
					db.run('insert into talk_msg values(?,?)', [s.talk, s.id]);
				}
				writePersons(db, apart, false);
				writeTalks(db, true, (who) => who, false);
				writeNoise(db, sent, (who) => who);
			});
		});

	it('a join, of messages of which some are lost', () => {
		const sent = story(3, true, 90);
		check(
			sent,
			true,
			(db) => {
				db.exec('create table msg(id integer primary key, src integer, body text, at integer)');
				db.exec('create table talk_msg(c integer, m integer, primary key(c, m))');
				for (const s of sent) {
					db.run('insert into msg values(?,?,?,?)', [s.id, s.writer, s.text, s.at]);
					db.run('insert into talk_msg values(?,?)', [s.talk, s.id]);
				}
				writePersons(db, false, true);
				writeTalks(db, true, (who) => who, true);
				writeNoise(db, sent, (who) => who);
			},
			sent.filter((s) => s.id % 3 === 0)
		);
	});

	for (const [how, refer] of Object.entries({ 'long keys': keyOf, numbers: (who: number): number => who }))
		it(`persons known by ${how}, the owner among them, and conversations by numbers that are keys of anything`, () => {
			const sent = story(4, true);
			check(sent, true, (db) => {
				db.exec('create table msg(id integer primary key, t integer, src, body text, at integer, status integer)');
				for (const s of sent) db.run('insert into msg values(?,?,?,?,?,?)', [s.id, s.talk, refer(s.writer), s.text, s.at, s.id % 4]);
				writePersons(db, true, true);
				writeTalks(db, true, refer, true);
				writeNoise(db, sent, refer);
			});
		});

	it('persons of whom nothing is known but the numbers of their conversations', () => {
		const sent = story(5, false);
		check(sent, false, (db) => {
			db.exec('create table msg(id integer primary key, t integer, src integer, body text, at integer)');
			for (const s of sent) db.run('insert into msg values(?,?,?,?,?)', [s.id, s.talk, s.writer, s.text, s.at]);
			writeTalks(db, false, (who) => who, true);
			writeNoise(db, sent, (who) => who);
		});
	});

	for (const [how, listed] of Object.entries({ 'that no list has': false, 'of persons listed with their numbers': true }))
		it(`the number of whom it is with, and beside it the writer by a key ${how}`, () => {
			const sent = story(6, false, listed ? 20 : 70);
			const roleOf = check(sent, listed, (db) => {
				db.exec('create table msg(id integer primary key, peer text, src integer, body text, at integer, status integer)');
				for (const s of sent)
					db.run('insert into msg values(?,?,?,?,?,?)', [s.id, numberOf(membersOf(s.talk)[0]!), s.writer, s.text, s.at, s.id % 3]);
				if (listed) writePersons(db, true, true);
				writeNoise(db, sent, (who) => who);
			});
			assert.deepEqual([roleOf('msg', 'peer'), roleOf('msg', 'src')], ['correspondent', 'writer']);
		});

	it('conversations that only the messages and the list of members name, and the owner’s own lines in an account’s column', () => {
		const sent = story(8, true);
		const nameOfTalk = (talk: number): string =>
			talk === ROOM ? 'g71@round.example' : `${numberOf(membersOf(talk)[0]!).slice(1)}@lane.example`;
		const roleOf = check(sent, true, (db) => {
			db.exec('create table msg(id text primary key, talk text, src integer, mine integer, body text, at integer, account integer)');
			db.exec('create table member(talk text, who integer); create table account(id integer primary key, label text, line text)');
			for (const line of [1, 2]) db.run('insert into account values(?,?,?)', [line, `Line ${line}`, `+44770090019${line}`]);
			for (const s of sent) {
				const own = s.writer === OWNER;
				const src = own ? null : s.writer;
				db.run('insert into msg values(?,?,?,?,?,?,?)', [keyOf(s.id), nameOfTalk(s.talk), src, Number(own), s.text, s.at, 1 + (s.id % 2)]);
			}
			for (const talk of [...TALKS, ROOM])
				for (const who of membersOf(talk)) db.run('insert into member values(?,?)', [nameOfTalk(talk), who]);
			writePersons(db, true, false);
		});
		assert.deepEqual([roleOf('member'), roleOf('member', 'talk'), roleOf('member', 'who')], ['members', 'of thread', 'members']);
	});

	it('messages counted in each conversation, with a key of both', () => {
		const sent = story(9, true, 26);
		const counts = new Map<number, number>();
		check(sent, true, (db) => {
			db.exec('create table msg(n integer, talk text, src integer, mine integer, body text, at integer, primary key(talk, n))');
			for (const s of sent) {
				const n = (counts.get(s.talk) ?? 0) + 1;
				counts.set(s.talk, n);
				const own = s.writer === OWNER;
				db.run('insert into msg values(?,?,?,?,?,?)', [n, `t-${keyOf(s.talk)}`, own ? null : s.writer, Number(own), s.text, s.at]);
			}
			// A file alone, the last of its conversation.
			const last = Math.max(...counts.values());
			db.run('insert into msg values(?,?,?,0,null,?)', [last + 1, `t-${keyOf(1)}`, PERSONS[0]!, START + 400_000]);
			db.exec('create table talk(id text primary key, title text); create table talk_who(c text, p integer)');
			for (const talk of [...TALKS, ROOM]) {
				db.run('insert into talk values(?,?)', [`t-${keyOf(talk)}`, talk === ROOM ? 'Plant desk' : null]);
				for (const who of membersOf(talk)) db.run('insert into talk_who values(?,?)', [`t-${keyOf(talk)}`, who]);
			}
			writePersons(db, false, false);
		});
	});

	it('lines of the program’s own, of rare kinds and some without a name, are nobody’s messages', () => {
		const sent = story(10, true);
		const lines = [
			`${nameOf(7)} joined`,
			'the key was changed',
			`${nameOf(2)} changed the title`,
			'the key was changed',
			`${nameOf(9)} joined`
		];
		check(sent, true, (db) => {
			db.exec('create table msg(id integer primary key, talk integer, src integer, mine integer, body text, at integer, kind integer)');
			for (const s of sent) {
				const own = s.writer === OWNER;
				db.run('insert into msg values(?,?,?,?,?,?,0)', [s.id, s.talk, own ? null : s.writer, Number(own), s.text, s.at]);
			}
			lines.forEach((line, i) =>
				db.run('insert into msg values(?,?,?,?,?,?,?)', [sent.length + 1 + i, ROOM, null, 0, line, START + 50_000 * i + 7, i % 2 ? 8 : 7])
			);
			writePersons(db, false, false);
			writeTalks(db, true, (who) => who, false);
		});
	});

	it('a conversation with somebody stated, of which some list the owner too whom no list of persons has, is of two', () => {
		const sent = story(11, true);
		check(sent, true, (db) => {
			db.exec('create table msg(id integer primary key, talk integer, src integer, mine integer, body text, at integer)');
			for (const s of sent) {
				const own = s.writer === OWNER;
				db.run('insert into msg values(?,?,?,?,?,?)', [s.id, s.talk, own ? null : s.writer, Number(own), s.text, s.at]);
			}
			writePersons(db, false, false);
			writeTalks(db, true, (who) => who, false);
			for (const talk of [1, 3]) db.run('insert into talk_who values(?,?)', [talk, OWNER]);
		});
	});

	it('what was begun and not sent is no message, though no other text is left', () => {
		check([], false, (db) => {
			db.exec('create table msg(id integer primary key, peer text, body text, at integer)');
			db.exec('create table draft(peer text, body text, at integer)');
			db.run('insert into draft values(?,?,?)', [numberOf(7), 'Never sent this line to anybody.', START]);
		});
	});

	it('a room in which all write is no owner, though it goes with each of them', () => {
		const sent = story(7, true, 120).filter((s) => s.writer !== OWNER || s.talk === ROOM);
		const inRoom = (s: Said): Said => ({ ...s, writer: s.talk === ROOM && s.writer !== OWNER ? PERSONS[s.id % 4]! : s.writer });
		const all = sent.map(inRoom);
		const path = join(folder, 'room.db');
		const db = createDatabase(path);
		db.exec('begin; create table msg(id integer primary key, chan text, src text, body text, at integer)');
		db.exec('create table chan(k text primary key, title text)');
		for (const talk of [...TALKS, ROOM]) db.run('insert into chan values(?,?)', [keyOf(talk), talk === ROOM ? 'Plant desk' : null]);
		for (const s of all) db.run('insert into msg values(?,?,?,?,?)', [s.id, keyOf(s.talk), numberOf(s.writer), s.text, s.at]);
		db.exec('commit');
		db.close();
		const look = new Look(openPaths([path]), { reach: 'used', owner: null });
		for (const event of look.run()) void event;
		const threads = look
			.findings()
			.weave.threads.map((t) => new Set(t.messages.map((m) => all.find((s) => s.text === m.first.text)!.talk)));
		assert.deepEqual(
			threads.map((talks) => talks.size),
			threads.map(() => 1)
		);
	});
});

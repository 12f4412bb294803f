/** Conversations that a store keeps in sittings, and messages in two tables of which only the numbers say that they belong together. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { messageLine } from '../../src/cli/lines';
import { createDatabase, type Engine } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';

const OWNER = '+447700900300';
const PERSONS = ['Odile Marchetti', 'Tamsin Okafor', 'Noor al-Khatib', 'Li Wen'].map((name, i) => ({ name, number: `+44770090041${i}` }));
const COUNT = 150;
const START = Date.UTC(2025, 0, 10, 11);
const BEGINNINGS = 'Please the|Again that|Maybe our|When does the|Nobody told us of a|Thanks for the|See you at the'.split('|');
const said = (i: number): string => `${BEGINNINGS[i % BEGINNINGS.length]} boiler and its meter, ${i}`;

const sentAt = (i: number): number => START + i * 2_700_000 + ((i * i) % 977) * 1000;

interface Line {
	text: string;
	sentAt: string;
	earlierWordingOf?: string;
	thread: string;
	direction: string | null;
	person: string | null;
}

describe('stores whose messages lead to their conversation only by a way round', () => {
	let folder: string;
	before(() => void (folder = mkdtempSync(join(tmpdir(), 'sittings-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	async function linesOf(write: (db: Engine) => void, name = 'store.db'): Promise<Line[]> {
		const path = join(folder, 'store.db');
		rmSync(path, { force: true });
		const db = createDatabase(path, []);
		db.exec('create table person(id integer primary key, number text, name text)');
		for (const [i, { name, number }] of PERSONS.entries()) db.run('insert into person values(?,?,?)', [i + 1, number, name]);
		write(db);
		db.close();
		const look = await lookAt({ [name]: new Uint8Array(readFileSync(path)) }, OWNER);
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
		);
	}

	it('goes through the sittings: a group is one thread, and none of its sittings is one with somebody in it', async () => {
		// Four conversations of two, and a group of the first three persons.
		const members = [[1], [2], [3], [4], [1, 2, 3]];
		const talkOf = (i: number): number => (i * 7) % 5;
		const writerOf = (i: number): number | null => (i % 3 === 0 ? null : members[talkOf(i)]![i % members[talkOf(i)]!.length]!);
		const lines = await linesOf((db) => {
			db.exec(
				'create table conversation(id integer primary key, title text); create table member(conversation_id integer, person_id integer); create table session(id integer primary key, conversation_id integer, started integer); create table message(id integer primary key, session_id integer, person_id integer, body text, sent_at integer, outgoing integer)'
			);
			for (const [talk, persons] of members.entries()) {
				db.run('insert into conversation values(?,?)', [talk + 1, persons.length > 1 ? 'Cellar keys' : null]);
				for (const person of persons) db.run('insert into member values(?,?)', [talk + 1, person]);
			}
			let sitting = 0;
			const open = new Map<number, number>();
			for (let i = 1; i <= COUNT; i++) {
				const talk = talkOf(i);
				const at = START + i * 700_000;
				if (!open.has(talk) || i % 9 === 0) {
					db.run('insert into session values(?,?,?)', [++sitting, talk + 1, at - 500]);
					open.set(talk, sitting);
				}
				db.run('insert into message values(?,?,?,?,?,?)', [i, open.get(talk)!, writerOf(i), said(i), at, writerOf(i) === null ? 1 : 0]);
			}
		});
		const of = (i: number): Line => lines.find((l) => l.text === said(i))!;
		const threads = members.map(
			(_, talk) => new Set(Array.from({ length: COUNT }, (_, k) => k + 1).flatMap((i) => (talkOf(i) === talk ? [of(i).thread] : [])))
		);
		assert.deepEqual(
			threads.map((t) => t.size),
			[1, 1, 1, 1, 1]
		);
		assert.equal(new Set(threads.flatMap((t) => [...t])).size, 5);
		for (let i = 1; i <= COUNT; i++) {
			const person = writerOf(i) ?? (members[talkOf(i)]!.length === 1 ? members[talkOf(i)]![0]! : null);
			assert.deepEqual([of(i).person, of(i).direction], [person && PERSONS[person - 1]!.name, writerOf(i) === null ? 'out' : 'in']);
		}
	});

	it('reads both tables of what was sent and received, whatever they are called', async () => {
		const isIn = (i: number): boolean => i % 5 < 3;
		const lines = await linesOf((db) => {
			db.exec(
				'create table gilid(a integer primary key, b integer, c text, d integer); create table socig(e integer primary key, f integer, g text, h integer)'
			);
			for (let i = 1; i <= COUNT; i++)
				db.run(`insert into ${isIn(i) ? 'gilid' : 'socig'} values(?,?,?,?)`, [i, ((i * 3) % 4) + 1, said(i), START + i * 700_000]);
		});
		assert.equal(lines.length, COUNT);
		for (let i = 1; i <= COUNT; i++) assert.equal(lines.find((l) => l.text === said(i))?.person, PERSONS[(i * 3) % 4]!.name);
	});

	it('dates messages by their first step, where each has several and none has a time, and by that knows which way it went', async () => {
		const isOut = (i: number): boolean => i % 3 === 0;
		const lines = await linesOf((db) => {
			db.exec(
				'create table message(id integer primary key, person_id integer, body text); create table delivery(id integer primary key, message_id integer, state text, at integer)'
			);
			let step = 0;
			const add = (i: number, state: string, at: number): void =>
				void db.run('insert into delivery values(?,?,?,?)', [++step, i, state, at]);
			for (let i = 1; i <= COUNT; i++) {
				const at = START + i * 700_000;
				db.run('insert into message values(?,?,?)', [i, ((i * 3) % 4) + 1, said(i)]);
				// What was read is told before it is told when it came.
				if (i % 4 > 0) add(i, 'read', at + 60_000);
				add(i, isOut(i) ? 'sent' : 'received', at);
				if (isOut(i)) add(i, 'delivered', at + 4000);
			}
		});
		assert.equal(lines.length, COUNT);
		for (let i = 1; i <= COUNT; i++) {
			const line = lines.find((l) => l.text === said(i));
			assert.deepEqual(
				[line?.sentAt, line?.direction, line?.person],
				[new Date(START + i * 700_000).toISOString(), isOut(i) ? 'out' : 'in', PERSONS[(i * 3) % 4]!.name]
			);
		}
	});

	for (const [what, startOf, unit] of [
		['the beginning of its day', (at: number): number => at - (at % 86_400_000), 1000],
		['when its conversation began', (_: number, i: number): number => START - ((i * 3) % 4) * 3_600_000, 1]
	] as const)
		it(`dates messages whose times are counted from ${what}`, async () => {
			const lines = await linesOf((db) => {
				db.exec(
					'create table part(id integer primary key, began text); create table message(id integer primary key, part_id integer, person_id integer, after integer, size integer, body text)'
				);
				const parts = new Map<number, number>();
				for (let i = 1; i <= COUNT; i++) {
					const at = sentAt(i);
					const began = startOf(at, i);
					if (!parts.has(began)) {
						parts.set(began, parts.size + 1);
						const written = new Date(began).toISOString();
						db.run('insert into part values(?,?)', [parts.size, began % 86_400_000 === 0 ? written.slice(0, 10) : written]);
					}
					db.run('insert into message values(?,?,?,?,?,?)', [
						i,
						parts.get(began)!,
						((i * 3) % 4) + 1,
						(at - began) / unit,
						(i * 7919) % 400,
						said(i)
					]);
				}
			});
			assert.equal(lines.length, COUNT);
			for (let i = 1; i <= COUNT; i++) assert.equal(lines.find((l) => l.text === said(i))?.sentAt, new Date(sentAt(i)).toISOString());
		});

	for (const [what, written] of [
		['in minutes', (minutes: number): number => minutes],
		['in seconds', (minutes: number): number => minutes * 60],
		['as it is written', (minutes: number): string => `${minutes < 0 ? '-' : '+'}${String(Math.abs(minutes) / 60).padStart(2, '0')}:00`]
	] as const)
		it(`reckons times of the wall's clock back to UTC by the offset beside them, ${what}`, async () => {
			const lines = await linesOf((db) => {
				db.exec('create table message(id integer primary key, person_id integer, body text, sent_local text, utc_offset)');
				for (let i = 1; i <= COUNT; i++) {
					const minutes = [60, 120, -300][i % 3]!;
					const local = new Date(sentAt(i) + minutes * 60_000).toISOString().slice(0, 19);
					db.run('insert into message values(?,?,?,?,?)', [i, ((i * 3) % 4) + 1, said(i), local, written(minutes)]);
				}
			});
			assert.equal(lines.length, COUNT);
			for (let i = 1; i <= COUNT; i++) assert.equal(lines.find((l) => l.text === said(i))?.sentAt, new Date(sentAt(i)).toISOString());
		});

	for (const [what, wholeOf] of [
		['milliseconds', (at: number): bigint => BigInt(at)],
		['units of 100 ns since 1601', (at: number): bigint => (BigInt(at) + 11_644_473_600_000n) * 10_000n]
	] as const)
		it(`puts the two halves of a time together, of ${what}`, async () => {
			const lines = await linesOf((db) => {
				db.exec('create table message(id integer primary key, person_id integer, body text, time_high integer, time_low integer)');
				for (let i = 1; i <= COUNT; i++) {
					const whole = wholeOf(sentAt(i));
					const low = Number(BigInt.asIntN(32, whole));
					db.run('insert into message values(?,?,?,?,?)', [i, ((i * 3) % 4) + 1, said(i), Number(whole >> 32n), low]);
				}
			});
			assert.equal(lines.length, COUNT);
			for (let i = 1; i <= COUNT; i++) assert.equal(lines.find((l) => l.text === said(i))?.sentAt, new Date(sentAt(i)).toISOString());
		});

	for (const [name, who] of [
		['chat_+447700900412.db', 'Noor al-Khatib'],
		['447700900413.sqlite', 'Li Wen'],
		['messages 20250110.db', null]
	] as const)
		it(`takes ${name} for ${who === null ? 'nobody’s' : 'one of a conversation with whom it is called after'}`, async () => {
			const lines = await linesOf((db) => {
				db.exec('create table message(id integer primary key, body text, sent_at integer, outgoing integer)');
				for (let i = 1; i <= COUNT; i++) db.run('insert into message values(?,?,?,?)', [i, said(i), sentAt(i), i % 3 === 0 ? 1 : 0]);
			}, name);
			assert.equal(lines.length, COUNT);
			assert.deepEqual([...new Set(lines.map((l) => l.person))], [who]);
			assert.equal(new Set(lines.map((l) => l.thread)).size, 1);
		});

	it('reads the version that counts, dated by the first, and takes the others for earlier wordings', async () => {
		const isEdited = (i: number): boolean => i % 12 === 5;
		const lines = await linesOf((db) => {
			db.exec(
				'create table message(id integer primary key, person_id integer, version_id integer, outgoing integer); create table version(id integer primary key, message_id integer, body text, written integer)'
			);
			let version = 0;
			const add = (i: number, text: string, at: number): void =>
				void db.run('insert into version values(?,?,?,?)', [++version, i, text, at]);
			for (let i = 1; i <= COUNT; i++) {
				if (isEdited(i)) add(i, `${said(i)}, first`, sentAt(i));
				add(i, said(i), sentAt(i) + (isEdited(i) ? 60_000 : 0));
				db.run('insert into message values(?,?,?,?)', [i, ((i * 3) % 4) + 1, version, i % 3 === 0 ? 1 : 0]);
			}
		});
		const now = lines.filter((l) => !l.earlierWordingOf);
		assert.equal(now.length, COUNT);
		for (let i = 1; i <= COUNT; i++) {
			const line = now.find((l) => l.text === said(i));
			assert.deepEqual([line?.sentAt, line?.direction], [new Date(sentAt(i)).toISOString(), i % 3 === 0 ? 'out' : 'in'], said(i));
		}
		const edited = Array.from({ length: COUNT }, (_, k) => k + 1).filter(isEdited);
		assert.deepEqual(
			lines
				.filter((l) => l.earlierWordingOf)
				.map((l) => l.text)
				.sort(),
			edited.map((i) => `${said(i)}, first`).sort()
		);
	});

	it('takes no conversations for messages because they name the last of theirs', async () => {
		const talkOf = (i: number): number => (i * 3) % 4;
		const lines = await linesOf((db) => {
			db.exec(
				'create table talk(id integer primary key, person_id integer, m integer); create table message(id integer primary key, talk_id integer, body text, sent_at integer, outgoing integer)'
			);
			for (let i = 1; i <= COUNT; i++)
				db.run('insert into message values(?,?,?,?,?)', [i, talkOf(i) + 1, said(i), sentAt(i), i % 3 === 0 ? 1 : 0]);
			for (let talk = 0; talk < 4; talk++)
				db.run('insert into talk select ?, ?, max(id) from message where talk_id = ?', [talk + 1, talk + 1, talk + 1]);
		});
		assert.equal(lines.length, COUNT);
		for (let i = 1; i <= COUNT; i++) assert.equal(lines.find((l) => l.text === said(i))?.person, PERSONS[talkOf(i)]!.name);
	});

	for (const hasGroup of [true, false])
		it(`knows the writer by his place in the list of members${hasGroup ? '' : ', where the column is called for it'}`, async () => {
			const lists = [[0], [1], [2], [3], ...(hasGroup ? [[0, 1, 2]] : [])].map((others) => [
				OWNER,
				...others.map((p) => PERSONS[p]!.number)
			]);
			const placeOf = (i: number): number => (i % 3 === 0 ? 0 : 1 + (i % (lists[(i * 7) % lists.length]!.length - 1)));
			const lines = await linesOf((db) => {
				db.exec(
					`create table talk(id integer primary key, members text); create table message(id integer primary key, talk_id integer, ${hasGroup ? 'w' : 'sender_index'} integer, state integer, body text, at integer)`
				);
				for (const [talk, list] of lists.entries()) db.run('insert into talk values(?,?)', [talk + 1, JSON.stringify(list)]);
				for (let i = 1; i <= COUNT; i++)
					db.run('insert into message values(?,?,?,?,?,?)', [i, ((i * 7) % lists.length) + 1, placeOf(i), i % 2, said(i), sentAt(i)]);
			});
			assert.equal(lines.length, COUNT);
			for (let i = 1; i <= COUNT; i++) {
				const list = lists[(i * 7) % lists.length]!;
				const who = list[placeOf(i) || 1]!;
				const person = placeOf(i) === 0 && list.length > 2 ? null : PERSONS.find((p) => p.number === who)!.name;
				const line = lines.find((l) => l.text === said(i));
				assert.deepEqual([line?.direction, line?.person], [placeOf(i) === 0 ? 'out' : 'in', person], said(i));
			}
		});

	it('makes no times of numbers that go up and down', async () => {
		const lines = await linesOf((db) => {
			db.exec(
				'create table part(id integer primary key, began text); create table message(id integer primary key, part_id integer, person_id integer, size integer, body text)'
			);
			for (let part = 1; part <= 10; part++)
				db.run('insert into part values(?,?)', [part, new Date(START + part * 86_400_000).toISOString()]);
			for (let i = 1; i <= COUNT; i++)
				db.run('insert into message values(?,?,?,?,?)', [i, 1 + Math.floor(i / 15), ((i * 3) % 4) + 1, (i * 7919) % 4001, said(i)]);
		});
		assert.deepEqual(
			lines.filter((l) => l.sentAt !== null),
			[]
		);
	});

	it('takes no table for the other half that has numbers of its own', async () => {
		const lines = await linesOf((db) => {
			db.exec(
				'create table gilid(a integer primary key, b integer, c text, d integer); create table socig(e integer primary key, f integer, g text, h integer)'
			);
			for (let i = 1; i <= COUNT; i++) db.run('insert into gilid values(?,?,?,?)', [i, ((i * 3) % 4) + 1, said(i), START + i * 700_000]);
			for (let i = 1; i <= 40; i++)
				db.run('insert into socig values(?,?,?,?)', [i, 10 + i, `Synced ${i} of 40 files in ${i * 3} ms`, START + i * 60_000]);
		});
		assert.deepEqual(
			lines.filter((l) => /Synced/.test(l.text)),
			[]
		);
	});
});

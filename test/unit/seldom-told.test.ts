/** Stores that say by few rows, or by lists that could be read two ways, who wrote what in which conversation. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Engine } from '../vectors/engine';
import { looked, written, type Put } from '../vectors/written';
import { wire } from '../vectors/wire';

const START = Date.UTC(2025, 0, 14, 6);
const HOUR = 3_600_000;
const NAMES = [
	...['Odile Marchetti', 'Tamsin al-Khatib', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan', 'Noor Adeyemi'],
	...['Ines Hallorann', 'Thandi Okafor']
];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const said = (i: number): string => `${WORDS[i % 5]!}, and it is cold, ${i}`;
const isOwn = (i: number): boolean => i % 5 < 2;
const key = (i: number): string => `${i}c0ffee${i}-0a1b-4c2d-8e3f-${String(i).repeat(12)}`;

/** Of each message: the title of its room or whom it is with, the way, and who wrote what came. */
function told(files: Record<string, Uint8Array>): Map<string | null, (string | null)[]> {
	const { threads } = looked(files).findings().weave;
	return new Map(
		threads.flatMap((t) =>
			t.messages.map(({ first: { text, direction, correspondent, group, threadTitle } }) => [
				text,
				group
					? [threadTitle, direction, direction === 'in' ? (correspondent?.name ?? null) : null]
					: [correspondent?.name ?? null, direction]
			])
		)
	);
}

describe('who takes part', () => {
	it('is read the way round in which all conversations are listed that somebody wrote in, where numbers fit both ways', () => {
		// Seven conversations of two, numbered as whom they are with, and two rooms; in one of those the owner alone wrote.
		const members = [[1], [2], [3], [4], [5], [6], [7], [5, 8, 6, 7], [2, 8, 3, 7]];
		const talk = (i: number): number => (i < 2 ? 7 : i < 22 ? 8 : i % 7);
		const isOwn = (i: number): boolean => i < 2 || i % 5 < 2;
		const writer = (i: number): number => members[talk(i)]![i % members[talk(i)]!.length]!;
		const [bytes] = written((db, put) => {
			db.exec(`create table t1(a integer primary key, b integer, c integer, d integer, e text, f integer);
				create table t2(a integer primary key, b text, c text);
				create table t3(a integer primary key, b text, c integer);
				create table t4(a integer, b integer)`);
			for (const [i, name] of NAMES.entries()) put('t2', i + 1, number(i), name);
			for (const [i, list] of members.entries()) {
				put('t3', i + 1, i < 7 ? null : `Room ${i}`, i < 7 ? 0 : 1);
				for (const who of list) put('t4', i + 1, who);
			}
			for (let i = 0; i < 40; i++)
				put('t1', i + 1, talk(i) + 1, isOwn(i) ? null : writer(i), (START + i * HOUR) * 1000, said(i), isOwn(i) ? 1 : 0);
		});
		const found = told({ 'store.db': bytes! });
		for (let i = 0; i < 40; i++) {
			const name = NAMES[writer(i) - 1]!;
			const way = isOwn(i) ? 'out' : 'in';
			assert.deepEqual(found.get(said(i)), talk(i) < 7 ? [name, way] : [`Room ${talk(i)}`, way, isOwn(i) ? null : name], said(i));
		}
	});

	it('is nobody that a column called for conversations names, be it as rarely written in as a person writes', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table person(id integer primary key, display text, phone text, me integer);
				create table conversation(id integer primary key, topic text, opened text);
				create table participant(conversation integer references conversation(id), person integer references person(id), primary key(conversation,person)) without rowid;
				create table note(id integer primary key, conversation integer references conversation(id), author integer references person(id), written integer, content text)`);
			for (let i = 0; i < 5; i++) put('person', i + 1, NAMES[i]!, number(i), i === 0 ? 1 : 0);
			for (const [i, list] of [[2], [3], [4], [2, 3, 4, 5]].entries()) {
				put('conversation', i + 1, i < 3 ? null : 'Plant desk', '2025-01-15 13:18:45');
				for (const who of [1, ...list]) put('participant', i + 1, who);
			}
			// Of sixteen messages most are of the room, and hardly anybody else wrote twice.
			const rows = [[1, 1], [1, 1], [2, 1], [2, 3], [2, 3], [4, 1], [4, 1], [4, 1], [4, 2], [4, 2], [4, 3], [4, 3], [4, 4], [4, 4], [4, 4], [4, 5]]; // prettier-ignore
			for (const [i, [talk, who]] of rows.entries()) put('note', i + 1, talk!, who!, START + i * HOUR, said(i));
		});
		const found = told({ 'store.db': bytes! });
		assert.deepEqual(found.get(said(15)), ['Plant desk', 'in', NAMES[4]!]);
		assert.deepEqual(found.get(said(7)), ['Plant desk', 'out', null]);
		assert.deepEqual(found.get(said(4)), [NAMES[2]!, 'in']);
	});

	it('is said beside a list of conversations with a topic and a day, whose own numbers wrote nothing', () => {
		const rows = [...'2222222', '3', ...'4444', ...'55555555555555555', ...'777'].map(Number);
		const who = (i: number): number => (rows[i] === 7 ? (i % 2 ? 5 : 1) : rows[i] !== 3 && isOwn(i) ? 1 : rows[i]! + 1);
		const [bytes] = written((db, put) => {
			db.exec(`create table person(id integer primary key, display text not null, phone text, email text, me integer default 0);
				create table conversation(id integer primary key, topic text, kind text, opened text);
				create table participant(conversation integer references conversation(id), person integer references person(id), primary key(conversation,person)) without rowid;
				create table note(id integer primary key autoincrement, conversation integer references conversation(id), author integer references person(id), written real, content text)`);
			for (let i = 0; i < 8; i++)
				put('person', i + 1, NAMES[i]!, number(i), `${NAMES[i]!.split(' ')[0]!.toLowerCase()}@example.org`, i === 0 ? 1 : 0);
			for (const [i, list] of [[2], [3], [4], [5], [6], [7], [2, 5, 6], [3, 6, 7]].entries()) {
				put(
					'conversation',
					i + 1,
					i < 6 ? null : i < 7 ? 'Stairwell B' : 'Plant desk 2',
					i < 6 ? 'direct' : 'group',
					'2025-01-15 13:18:45'
				);
				for (const one of [1, ...list]) put('participant', i + 1, one);
			}
			for (const [i, talk] of rows.entries()) put('note', i + 1, talk, who(i), 2440587.5 + (START + i * HOUR) / 86_400_000, said(i));
		});
		const found = told({ 'store.db': bytes! });
		for (const [i, talk] of rows.entries()) {
			const way = who(i) === 1 ? 'out' : 'in';
			assert.deepEqual(found.get(said(i)), talk < 7 ? [NAMES[talk]!, way] : ['Stairwell B', way, way === 'in' ? NAMES[4]! : null]);
		}
	});
});

describe('a room beside persons', () => {
	const OWNER = 70_625_980;
	const id = (i: number): number => 70_163_912 + i * 7919;
	const setUp = (db: Engine, put: Put): void => {
		db.exec(`create table letters(lid integer, peer integer, flags integer, stamped integer, payload blob, primary key(peer,lid));
			create table peers(peer integer primary key, label text, payload blob);
			create table state(id integer primary key, seq integer, self integer)`);
		for (const [i, name] of [...NAMES.slice(0, 4).entries()]) {
			const [given, family] = name.split(' ') as [string, string];
			db.run('insert into peers values(?,?,?)', [id(i), name.toLowerCase(), wire([1, id(i)], [2, given], [3, family], [4, number(i)])]);
		}
		db.run('insert into peers values(?,?,?)', [OWNER, 'yusuf demirkan', wire([1, OWNER], [2, 'Yusuf'], [3, 'Demirkan'], [4, number(4)])]);
		db.run('insert into peers values(?,?,?)', [-5004, 'plant desk', wire([1, 5004], [5, 'Plant desk'])]);
		put('state', 1, 0, OWNER);
	};
	const send = (db: Engine, i: number, peer: number, who: number): void => {
		const at = Math.floor((START + i * HOUR) / 1000);
		const payload = wire([1, i + 1], [2, who], [3, at], [4, said(i)]);
		db.run('insert into letters values(?,?,?,?,?)', [i + 1, peer, who === OWNER ? 258 : 256, at, payload]);
	};
	for (const inRoom of [1, 14])
		it(`is not the one who writes everywhere, and its members are called as they are written (${inRoom} of 40 messages in it)`, () => {
			const partner = (i: number): number => id(i % 3);
			const member = (i: number): number => id(1 + (i % 3));
			const isInRoom = (i: number): boolean => i >= 40 - inRoom;
			const who = (i: number): number => (isOwn(i) && i !== 39 ? OWNER : isInRoom(i) ? member(i) : partner(i));
			const [bytes] = written((db, put) => {
				setUp(db, put);
				for (let i = 0; i < 40; i++) send(db, i, isInRoom(i) ? -5004 : partner(i), who(i));
			});
			const found = told({ 'store.db': bytes! });
			const nameOf = (one: number): string => NAMES[[0, 1, 2, 3].find((i) => id(i) === one)!]!;
			for (let i = 0; i < 40; i++) {
				const way = who(i) === OWNER ? 'out' : 'in';
				const wanted = isInRoom(i) ? ['Plant desk', way, way === 'in' ? nameOf(who(i)) : null] : [nameOf(partner(i)), way];
				const [where, ...rest] = found.get(said(i))!;
				assert.deepEqual(
					[isInRoom(i) ? where?.toLowerCase() : where, ...rest],
					[isInRoom(i) ? 'plant desk' : wanted[0], ...wanted.slice(1)],
					said(i)
				);
			}
		});
});

it('persons under keys with a word before them are named by these, though the owner has a row of his own among them', () => {
	const [bytes] = written((db) => {
		db.exec('create table kv(k text primary key, v blob, rev integer) without rowid');
		let rev = 0;
		const put = (k: string, v: object): void => void db.run('insert into kv values(?,?,?)', [k, Buffer.from(JSON.stringify(v)), ++rev]);
		put('self', { name: 'Noor Adeyemi', tel: number(5), id: key(9) });
		for (let i = 0; i < 5; i++) put(`person/${key(i)}`, { name: NAMES[i]!, tel: number(i) });
		for (let i = 0; i < 5; i++) put(`room/${key(i + 10)}`, { title: null, who: [key(i), key(9)], kind: 'two' });
		for (let i = 0; i < 30; i++)
			put(`msg/${key((i % 5) + 10)}/${key(i + 20)}`, {
				room: key((i % 5) + 10),
				from: isOwn(i * 3) ? key(9) : key(i % 5),
				at: START + i * HOUR,
				text: said(i)
			});
	});
	const found = told({ 'store.db': bytes! });
	for (let i = 0; i < 30; i++) assert.deepEqual(found.get(said(i)), [NAMES[i % 5]!, isOwn(i * 3) ? 'out' : 'in']);
});

it('a log of what happened to each message leaves those the messages, though it has a time and a row for each', () => {
	const [bytes] = written((db, put) => {
		db.exec(`create table letter(letter_id text primary key, box_id text, by_contact text, made_at integer, body text);
			create table box(box_id text primary key, label text, contact_id text);
			create table contact(contact_id text primary key, given text, family text, tel text);
			create table happened(n integer primary key autoincrement, at integer, what text, letter_id text)`);
		for (let i = 0; i < 5; i++) {
			put('contact', key(i), ...(NAMES[i]!.split(' ') as [string, string]), number(i));
			put('box', key(i + 10), null, key(i));
		}
		for (let i = 0; i < 30; i++) {
			put('letter', key(i + 20), key((i % 5) + 10), isOwn(i * 3) ? null : key(i % 5), START + i * HOUR, said(i));
			put('happened', i + 1, START + i * HOUR, isOwn(i * 3) ? 'sent' : 'arrived', key(i + 20));
		}
	});
	const found = told({ 'store.db': bytes! });
	for (let i = 0; i < 30; i++) assert.deepEqual(found.get(said(i)), [NAMES[i % 5]!, isOwn(i * 3) ? 'out' : 'in']);
});

it('one message to several, in a room of which there is no other, was written in that room', () => {
	const mail = (i: number): string => `${NAMES[i]!.split(' ')[0]!.toLowerCase()}@example.org`;
	const [bytes] = written((db, put) => {
		db.exec(`create table talk(talk_key text primary key, heading text) without rowid;
			create table address(email text primary key, shown_as text) without rowid;
			create table entry(entry_key text primary key, talk_key text, folder text, "from" text, "to" text, stamped text, plain text) without rowid`);
		for (let i = 0; i < 6; i++) put('address', mail(i), NAMES[i]!);
		for (let i = 0; i < 4; i++) put('talk', key(i + 10), i === 3 ? 'Plant desk' : null);
		for (let i = 0; i < 24; i++) {
			const [other, at] = [mail(i % 2), new Date(START + i * HOUR).toISOString()];
			const ends = i === 23 ? [mail(5), [0, 1, 2].map(mail).join('; ')] : isOwn(i) ? [mail(5), other] : [other, mail(5)];
			put(
				'entry',
				key(i + 20),
				key(i === 23 ? 13 : 10 + (i % 2)),
				isOwn(i) || i === 23 ? 'sent' : 'received',
				ends[0]!,
				ends[1]!,
				at,
				said(i)
			);
		}
	});
	const found = told({ 'store.db': bytes! });
	assert.deepEqual(found.get(said(23)), ['Plant desk', 'out', null]);
	assert.deepEqual(found.get(said(22)), [NAMES[0]!, isOwn(22) ? 'out' : 'in']);
});

describe('a room of which two copies have little', () => {
	const LONG = 'The board wants to know who has the key to the plant room, and why nobody came to look at the pump';
	/** A store of the owner's: twenty messages with two persons, and `inRoom`, each by whom and with which text. */
	const store = (prefix: string, inRoom: readonly [number, string][], count = 20): Uint8Array =>
		written((db, put) => {
			db.exec(`create table ${prefix}person(id text primary key, name text, phone text);
				create table ${prefix}talk(id text primary key, title text);
				create table ${prefix}member(talk_id text, person_id text);
				create table ${prefix}letter(id integer primary key, talk_id text, sender_id text, sent_at integer, body text)`);
			for (let i = 0; i < 4; i++) put(`${prefix}person`, key(i), NAMES[i]!, number(i));
			for (let i = 0; i < 3; i++) {
				put(`${prefix}talk`, key(i + 10), i === 2 ? 'Plant desk' : null);
				for (const who of i === 2 ? [0, 1, 2] : [i]) put(`${prefix}member`, key(i + 10), key(who));
			}
			for (let i = 0; i < count; i++)
				put(`${prefix}letter`, i + 1, key(10 + (i % 2)), isOwn(i) ? null : key(i % 2), START + i * HOUR, said(i));
			for (const [n, [who, text]] of inRoom.entries())
				put(`${prefix}letter`, n + 51, key(12), key(who), START + (30 + n) * HOUR + 26_000, text);
		})[0]!;
	const inRoomOf = (files: Record<string, Uint8Array>): (string | null)[][] =>
		looked(files)
			.findings()
			.weave.threads.filter((t) => t.group)
			.map((t) => t.messages.map(({ first }) => `${first.direction} ${first.correspondent?.name} ${first.text}`));

	it('is not the owner’s to write in where the one copy has a message by somebody else alone', () => {
		const [phone, desk] = [store('p_', [[0, LONG]], 24), store('d_', [[0, LONG], [2, 'I have it']])]; // prettier-ignore
		assert.deepEqual(inRoomOf({ 'phone.db': phone, 'desk.db': desk }), [[`in ${NAMES[0]} ${LONG}`, `in ${NAMES[2]} I have it`]]);
	});

	it('is one with an exported conversation that is called as it is and has one long message of it', () => {
		const day = new Date(START + 30 * HOUR);
		const stamp = `${day.getUTCDate()}.${day.getUTCMonth() + 1}.25, ${String(day.getUTCHours()).padStart(2, '0')}:00`;
		const text = `${stamp} - ${NAMES[0]}: ${LONG}\n${stamp.replace(/:00$/, ':07')} - Somebody Else: ok\n`;
		const rooms = inRoomOf({ 'phone.db': store('p_', [[0, LONG]]), 'Plant desk.txt': new TextEncoder().encode(text) });
		assert.deepEqual([rooms.length, rooms[0]!.length], [1, 2]);
	});
});

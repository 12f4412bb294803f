/** What one row, or a handful, must not be taken for: a single message of a room, pictures beside texts, a store that forgets. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import type { Weave } from '../../src/core/weave';
import { createDatabase, type Engine } from '../vectors/engine';

const HOUR = 3_600_000;
const START = Date.UTC(2025, 0, 14, 6);
const OWN = '+447946000001';
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const said = (i: number): string => `${WORDS[i % 5]!}${i % 4 === 1 ? ', and it is cold' : ''}, ${i}`;

type Value = string | number | null;
type Put = (table: string, ...values: Value[]) => void;

describe('few of a kind', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-kind-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** The bytes of a store that was written so, at each moment at which `copy` was called, and at the end. */
	function written(name: string, write: (db: Engine, put: Put, copy: () => void) => void): Uint8Array[] {
		const path = join(folder, `${name}.db`);
		const db = createDatabase(path);
		const copies: Uint8Array[] = [];
		const copy = (): void => void copies.push(new Uint8Array(readFileSync(path)));
		const put: Put = (table, ...values) => void db.run(`insert into ${table} values(${values.map(() => '?').join(',')})`, values);
		write(db, put, copy);
		db.close();
		copy();
		return copies;
	}

	const read = (files: Record<string, Uint8Array>): Weave => looked(files).findings().weave;

	function looked(files: Record<string, Uint8Array>): Look {
		const given = Object.entries(files).map(([path, bytes]) => ({ name: path.split('/').at(-1)!, path, source: new MemorySource(bytes) }));
		const look = new Look(given, { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		return look;
	}

	it('the one message that came into a room is in the room, by whom it was written to', () => {
		const [bytes] = written('room of one', (db, put) => {
			db.exec(`create table message(_id integer primary key, date_sent integer, thread_id integer, from_recipient_id integer, to_recipient_id integer, body text);
				create table recipient(_id integer primary key, number text, group_id text, name text);
				create table thread(_id integer primary key, recipient_id integer)`);
			put('recipient', 1, OWN, null, 'Piet Hallorann');
			for (const [i, name] of NAMES.entries()) {
				put('recipient', i + 2, number(i), null, name);
				put('thread', i + 1, i + 2);
			}
			put('recipient', 105, null, '__g__!a01e661c', null);
			put('thread', 5, 105);
			for (let i = 0; i < 40; i++) {
				const other = (i % 7 === 3 ? 1 : i % 11 === 5 ? 2 : 0) + 2;
				const ends = i === 20 ? [5, 2, 105] : i % 5 < 2 ? [other - 1, 1, other] : [other - 1, other, 1];
				put('message', i + 1, START + i * HOUR, ...ends, said(i));
			}
		});
		const { threads } = read({ 'main.db': bytes! });
		const room = threads.find((t) => t.messages.some((m) => m.first.text === said(20)))!;
		assert.deepEqual([room.group, room.messages.length, room.messages[0]!.first.correspondent?.address], [true, 1, number(0)]);
		assert.equal(threads.length, 4);
	});

	it('who wrote in a group is told by the list of members that a number leads to, and not by the name beside it', () => {
		const [bytes] = written('members', (db, put) => {
			db.exec(`create table ZXQMESSAGE(Z_PK integer primary key, Z_OPT integer, ZISFROMME integer, ZTALK integer, ZMEMBER integer, ZSENT real, ZFROMID text, ZTOID text, ZCALLED text, ZTEXT text);
				create table ZXQTALK(Z_PK integer primary key, Z_OPT integer, ZKIND integer, ZPARTNERID text, ZPARTNERNAME text);
				create table ZXQMEMBER(Z_PK integer primary key, Z_OPT integer, ZTALK integer, ZNAME text, ZMEMBERID text)`);
			const id = (i: number): string => `${number(i).slice(1)}@h.example`;
			const room = `${number(2).slice(1)}-1600000007@g.example`;
			for (let i = 0; i < 4; i++) put('ZXQTALK', i + 1, 1, 0, id(i), NAMES[i]!);
			put('ZXQTALK', 5, 1, 1, room, 'Plant desk');
			for (const [k, i] of [1, 2, 3].entries()) put('ZXQMEMBER', k + 1, 1, 5, NAMES[i]!, id(i));
			for (let i = 0; i < 30; i++) {
				const isOut = i % 5 < 2;
				const inRoom = i % 3 === 0;
				const talk = inRoom ? room : id(i % 4);
				const member = inRoom && !isOut ? (i % 3) + 1 + (i % 2) : null;
				const ends = isOut ? [null, talk] : [talk, null];
				const called = member === null ? null : NAMES[member]!;
				put(
					'ZXQMESSAGE',
					i + 1,
					1,
					isOut ? 1 : 0,
					inRoom ? 5 : (i % 4) + 1,
					member,
					(START + i * HOUR) / 1000 - 978_307_200,
					...ends,
					called,
					said(i)
				);
			}
		});
		const look = looked({ 'talks.db': bytes! });
		const { threads } = look.findings().weave;
		const room = threads.find((t) => t.group)!;
		const writers = room.messages.filter((m) => m.first.direction === 'in').map((m) => m.first.correspondent?.address?.split('@')[0]);
		assert.equal(room.messages.length, 10);
		assert.deepEqual(
			[...new Set(writers)].sort(),
			[1, 2].map((i) => number(i).slice(1))
		);
		// The room, which its list has beside the persons, is none of them.
		const contacts = look.contacts().map((c) => c.name);
		assert.deepEqual(contacts.sort(), [...NAMES].sort());
	});

	it('the settings are nobody, and a number counts beside an address that has it within', () => {
		const [bytes] = written('account', (db, put) => {
			db.exec(`create table messages(id integer primary key, conversation text, sent_at integer, type text, body text, source text);
				create table conversations(id text primary key, type text, name text, number text, jid text);
				create table items(id text primary key, value text)`);
			put('items', 'number_id', `${OWN}.2`);
			put('items', 'registered_number', OWN);
			const jid = (i: number): string => `${number(i).slice(1)}@h.example`;
			for (const [i, name] of NAMES.entries()) put('conversations', `c-${i}a7f31`, 'private', name, i === 2 ? null : number(i), jid(i));
			for (let i = 0; i < 40; i++) {
				const type = i % 5 < 2 ? 'outgoing' : 'incoming';
				const from = type === 'incoming' ? jid(i % 3) : null;
				put('messages', i + 1, `c-${i % 3}a7f31`, START + i * HOUR, type, said(i), from);
			}
		});
		const card = new TextEncoder().encode(`BEGIN:VCARD\r\nVERSION:3.0\r\nFN:${NAMES[2]}\r\nTEL:${number(2)}\r\nEND:VCARD\r\n`);
		const contacts = looked({ 'account.db': bytes!, 'names.vcf': card }).contacts();
		assert.deepEqual(contacts.map((c) => c.name).sort(), [...NAMES].sort());
		assert.deepEqual(contacts.find((c) => c.name === NAMES[2])!.numbers, [number(2)]);
	});

	it('files of a table that is not read are not given to the messages that have such numbers too', () => {
		const [bytes] = written('parts', (db, put) => {
			db.exec(`create table texts(_id integer primary key, address text, date integer, type integer, body text);
				create table other_letters(_id integer primary key, date integer, box integer);
				create table part(_id integer primary key, mid integer, ct text, name text, _data text, text text)`);
			for (let i = 0; i < 60; i++) put('texts', i + 1, number(i % 3), START + i * HOUR, i % 4 < 2 ? 1 : 2, said(i));
			for (let k = 0; k < 6; k++) {
				put('other_letters', k + 1, (START + k * 9 * HOUR) / 1000, 1 + (k % 2));
				put('part', k * 2 + 1, k + 1, 'application/smil', 'smil.xml', null, '<smil><body></body></smil>');
				put('part', k * 2 + 2, k + 1, 'image/png', `IMG_${k}.png`, `/data/parts/${k}.png`, null);
			}
		});
		const { threads } = read({ 'texts.db': bytes! });
		const texts = threads.flatMap((t) => t.messages).filter((m) => m.first.text !== null);
		assert.equal(texts.length, 60);
		assert.deepEqual(texts.filter((m) => m.first.files.length > 0).length, 0);
	});

	it('of what was written below a picture, and is lost but for its beginning, that is a part', () => {
		const long = Array.from({ length: 900 }, (_, i) => said(i)).join(' ');
		const [bytes] = written('below', (db, put) => {
			db.exec(`create table person(id integer primary key, number text, name text);
				create table said(id integer primary key, person integer, sent_at integer, mine integer, body text, file integer);
				create table file(id integer primary key, said integer, path text, title text);
				create table cache(id integer primary key, page blob)`);
			for (const [i, name] of NAMES.entries()) put('person', i + 1, number(i), name);
			for (let i = 0; i < 40; i++) {
				const hasFile = i % 4 === 2;
				if (hasFile) put('file', i + 1, i + 1, `media/${i}.png`, i === 18 ? long : said(i));
				put('said', i + 1, (i % 4) + 1, START + i * HOUR, i % 3 === 0 ? 1 : 0, hasFile ? null : said(i), hasFile ? i + 1 : null);
			}
			db.exec('delete from said where id = 19; delete from file where id = 19');
			db.run('insert into cache values(1, randomblob(40000))', []);
		});
		const messages = read({ 'below.db': bytes! }).threads.flatMap((t) => t.messages);
		const lost = messages.filter((m) => m.first.sentAt === START + 18 * HOUR);
		assert.equal(lost.length, 1);
		assert.ok(lost[0]!.first.text!.length > 100 && long.startsWith(lost[0]!.first.text!));
		assert.deepEqual([lost[0]!.first.textCut, lost[0]!.grade], [true, 'fragment']);
		assert.equal(messages.find((m) => m.first.sentAt === START + 14 * HOUR)!.first.text, said(14));
	});

	it('copies of a store that forgets what is old are one store, though what is left of it lost its numbers', () => {
		const copies = written('forgets', (db, put, copy) => {
			db.exec(`create table person(id integer primary key, number text, name text);
				create table said(id integer primary key, guid text, person integer, sent_at integer, mine integer, body text)`);
			for (const [i, name] of NAMES.entries()) put('person', i + 1, number(i), name);
			const add = (from: number, to: number): void => {
				for (let i = from; i < to; i++)
					put(
						'said',
						i + 1,
						((i + 3) * 2_654_435_761).toString(16).padStart(16, 'a').toUpperCase(),
						(i % 4) + 1,
						START + i * HOUR,
						i % 3 === 0 ? 1 : 0,
						said(i)
					);
			};
			add(0, 30);
			copy();
			add(30, 50);
			db.exec('delete from said where id < 30');
		});
		const { families, threads } = read({ 'copy 1/forgets.db': copies[0]!, 'copy 2/forgets.db': copies[1]! });
		assert.deepEqual(
			families.map((f) => f.captures.length),
			[2]
		);
		assert.equal(threads.flatMap((t) => t.messages).length, 50);
	});

	it('a message that was changed was sent when it was first, though a later copy has lost what says so', () => {
		const changed = START + 14 * HOUR;
		const copies = written('changed', (db, put, copy) => {
			db.exec(`create table person(id integer primary key, number text, name text);
				create table message(id integer primary key, sent_at integer, person integer, mine integer, body text, latest_revision_id integer, original_message_id integer)`);
			for (const [i, name] of NAMES.entries()) put('person', i + 1, number(i), name);
			for (let i = 0; i < 40; i++) put('message', i + 1, START + i * HOUR, (i % 4) + 1, i % 3 === 0 ? 1 : 0, said(i), null, null);
			for (const of of [15, 23]) {
				put(
					'message',
					200 + of,
					START + 50 * HOUR,
					((of - 1) % 4) + 1,
					(of - 1) % 3 === 0 ? 1 : 0,
					`${said(of - 1)} — corrected`,
					null,
					of
				);
				db.run('update message set latest_revision_id=? where id=?', [200 + of, of]);
			}
			put('message', 300, START + 52 * HOUR, 1, 0, said(52), null, null);
			copy();
			db.exec('delete from message where id in (15, 215)');
			for (let k = 0; k < 2; k++) put('message', 301 + k, START + (60 + k) * HOUR, 1, 0, said(60 + k), null, null);
		});
		const { threads } = read({ 'copy 1/changed.db': copies[0]!, 'copy 2/changed.db': copies[1]! });
		const found = threads.flatMap((t) => t.messages.filter((m) => m.first.text?.startsWith(said(14))));
		assert.deepEqual(
			found.map((m) => [m.first.text, m.first.sentAt, m.earlierWordingOf !== null]).sort(),
			[
				[said(14), changed, true],
				[`${said(14)} — corrected`, changed, false]
			].sort()
		);
	});

	it('a picture alone is one message in two stores that have other conversations in common, with whom the one of them says', () => {
		const store = (name: string, words: [string, string, string], address: (i: number) => string, isKnown: boolean): Uint8Array => {
			const [persons, letters, files] = words;
			return written(name, (db, put) => {
				db.exec(`create table ${persons}(id integer primary key, address text, name text);
					create table ${letters}(id integer primary key, ${persons}_id integer, sent_at integer, mine integer, body text);
					create table ${files}(id integer primary key, ${letters}_id integer, mime text, name text, size integer, path text)`);
				for (let i = 0; i < 4; i++) if (i < 3 || isKnown) put(persons, i + 1, address(i), NAMES[i]!);
				let n = 0;
				const file = (of: number, k: number): void => put(files, k + 1, of, 'image/png', `IMG_${k}.png`, 3000 + k * 77, `media/${k}.png`);
				for (let i = 0; i < (isKnown ? 40 : 18); i++) {
					put(letters, ++n, (i % 3) + 1, START + i * HOUR, i % 5 < 2 ? 1 : 0, said(i));
					if (i % 6 === 5) file(n, i);
				}
				put(letters, ++n, 4, START + 71 * HOUR, 1, null);
				file(n, 71);
			})[0]!;
		};
		const { threads } = read({
			'phone/by number.db': store('by number', ['person', 'said', 'media'], number, false),
			'desk/by handle.db': store(
				'by handle',
				['contact', 'note', 'received'],
				(i) => `@${NAMES[i]!.split(' ')[0]!.toLowerCase()}:example.org`,
				true
			)
		});
		const alone = threads.flatMap((t) => t.messages.filter((m) => m.first.sentAt === START + 71 * HOUR));
		assert.deepEqual(
			alone.map((m) => [m.sightings.length, m.first.correspondent?.name]),
			[[2, NAMES[3]]]
		);
	});
});

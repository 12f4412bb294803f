/** What one row, or a handful, must not be taken for: a single message of a room, pictures beside texts, a store that forgets. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Weave, WovenThread } from '../../src/core/weave';
import { looked, written, type Put } from '../vectors/written';

const HOUR = 3_600_000;
const START = Date.UTC(2025, 0, 14, 6);
const OWN = '+447946000001';
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const said = (i: number): string => `${WORDS[i % 5]!}${i % 4 === 1 ? ', and it is cold' : ''}, ${i}`;

describe('few of a kind', () => {
	const inOrder = ({ threads }: Weave): WovenThread['messages'] =>
		threads.flatMap((t) => t.messages).sort((a, b) => a.first.sentAt! - b.first.sentAt!);
	const read = (files: Record<string, Uint8Array>): Weave => looked(files).findings().weave;

	it('the one message that came into a room is in the room, by whom it was written to', () => {
		const [bytes] = written((db, put) => {
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
		const [bytes] = written((db, put) => {
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
		const [bytes] = written((db, put) => {
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
		const [bytes] = written((db, put) => {
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

	it('two pictures in a table of their own, one with a text, are messages of the conversations that the texts are in', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table texts(_id integer primary key autoincrement, conv_id integer, address text, date integer, type integer, body text);
				create table multi(_id integer primary key autoincrement, conv_id integer, date integer, box integer, read integer);
				create table addr(_id integer primary key, msg_id integer, address text, kind integer);
				create table part(_id integer primary key autoincrement, mid integer, ct text, name text, path text, text text);
				create table convs(_id integer primary key autoincrement, date integer, recipient_ids text);
				create table canonical(_id integer primary key autoincrement, address text)`);
			for (const i of NAMES.keys()) {
				put('canonical', i + 1, number(i));
				put('convs', i + 1, 0, String(i + 1));
			}
			for (let i = 0; i < 40; i++) put('texts', i + 1, (i % 3) + 1, number(i % 3), START + i * HOUR, i % 5 < 2 ? 2 : 1, said(i));
			for (const k of [1, 2]) {
				put('multi', k, k + 1, START / 1000 + k * 5400, k === 1 ? 2 : 1, 1);
				put('addr', k * 2, k, k === 1 ? 'own-address-token' : number(k), 137);
				put('addr', k * 2 + 1, k, k === 1 ? number(k) : OWN, 151);
				put('part', k * 3, k, 'application/smil', 'layout.xml', null, '<smil><body/></smil>');
				put('part', k * 3 + 1, k, 'image/png', `IMG_10${k}.png`, `/data/parts/10${k}.png`, null);
			}
			put('part', 20, 2, 'text/plain', 'text.txt', null, 'me <b>photo</b> & meter');
		});
		const sent = inOrder(read({ 'texts.db': bytes! })).filter((m) => m.first.files.length > 0);
		assert.deepEqual(
			sent.map(({ first: f }) => [f.text, f.sentAt, f.direction, f.correspondent?.address, f.files.map((x) => x.name)]),
			[
				[null, START + 5_400_000, 'out', number(1), ['IMG_101.png']],
				['me <b>photo</b> & meter', START + 10_800_000, 'in', number(2), ['IMG_102.png']]
			]
		);
	});

	it('messages in parts are read by the parts that are in use, where of many the parts are left alone', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table texts(_id integer primary key autoincrement, conv_id integer, address text, date integer, type integer, body text);
				create table multi(_id integer primary key autoincrement, conv_id integer, date integer, box integer, tr_id text);
				create table part(_id integer primary key autoincrement, mid integer, ct text, name text, path text, text text);
				create table convs(_id integer primary key autoincrement, date integer, recipient_ids text);
				create table canonical(_id integer primary key autoincrement, address text)`);
			for (const i of NAMES.keys()) {
				put('canonical', i + 1, number(i));
				put('convs', i + 1, 0, String(i + 1));
			}
			for (let i = 0; i < 20; i++) put('texts', i + 1, (i % 3) + 1, number(i % 3), START + i * HOUR, i % 5 < 2 ? 2 : 1, said(i));
			for (let k = 1; k <= 48; k++) {
				put('multi', k, (k % 4) + 1, START / 1000 + k * 5400, k % 3 === 0 ? 2 : 1, `T${k}`);
				put('part', k * 3, k, 'application/smil', 'layout.xml', null, '<smil><body/></smil>');
				put('part', k * 3 + 1, k, 'text/plain', 'text.txt', null, said(100 + k));
				if (k % 8 === 0) put('part', k * 3 + 2, k, 'image/png', `IMG_${k}.png`, `/data/parts/${k}.png`, null);
			}
			db.exec('delete from part where mid <= 30');
			db.exec('pragma secure_delete=on; delete from multi where _id <= 30');
		});
		const messages = inOrder(read({ 'texts.db': bytes! })).filter((m) => m.first.text?.match(/, 1\d\d$/) && m.standing === 'kept');
		assert.deepEqual(
			messages.map(({ first: f }) => [f.text, f.direction]),
			Array.from({ length: 18 }, (_, i) => [said(131 + i), (i + 31) % 3 === 0 ? 'out' : 'in'])
		);
	});

	it('who sent a file is no key of it, and what stands below it is nobody’s name', () => {
		const handle = (i: number): string => `@${NAMES[i]!.split(' ')[0]!.toLowerCase()}:example.org`;
		const owner = '@piet:example.org';
		const [bytes] = written((db, put) => {
			db.exec(`create table events(seq integer primary key, event_id text, room_id text, sender text, kind text, origin_ts integer, content text);
				create table room(room_id text primary key, name text, direct text);
				create table member(room_id text, user_id text, displayname text, primary key(room_id,user_id));
				create table account(user_id text, device text)`);
			put('account', owner, 'DEV1');
			for (const i of NAMES.keys()) {
				put('room', `!r${i}aa0b1c2d3:example.org`, null, handle(i));
				for (const [who, name] of [
					[handle(i), NAMES[i]!],
					[owner, 'Piet Hallorann']
				])
					put('member', `!r${i}aa0b1c2d3:example.org`, who!, name!);
			}
			for (let i = 0; i < 44; i++) {
				const isFile = [9, 18, 30, 35].includes(i);
				const who = i % 5 < 2 ? owner : handle(i % 4);
				const plain = { msgtype: 'text', body: said(i) };
				const file = {
					msgtype: 'image',
					body: i === 18 ? said(i) : `IMG_10${i}.png`,
					filename: `IMG_10${i}.png`,
					url: `blob://example.org/${i}f0e1d2c3b4a`,
					info: { mimetype: 'image/png', size: 3000 + i }
				};
				put(
					'events',
					i + 1,
					`$e${i}`,
					`!r${i % 4}aa0b1c2d3:example.org`,
					isFile && i !== 30 ? handle(i % 4) : who,
					'room.message',
					START + i * HOUR,
					JSON.stringify(isFile ? file : plain)
				);
			}
		});
		const look = looked({ 'timeline.sqlite': bytes! });
		const messages = inOrder(look.findings().weave);
		assert.equal(messages.length, 44);
		assert.deepEqual(
			messages.filter((m) => m.first.files.length > 0).map((m) => [m.first.sentAt, m.first.files.map((f) => f.name)]),
			[9, 18, 30, 35].map((i) => [START + i * HOUR, [`IMG_10${i}.png`]])
		);
		assert.deepEqual(
			messages.flatMap((m) => m.first.correspondent?.name ?? []).filter((name) => !NAMES.includes(name)),
			[]
		);
	});

	it('of what was written below a picture, and is lost but for its beginning, that is a part', () => {
		const long = Array.from({ length: 900 }, (_, i) => said(i)).join(' ');
		const [bytes] = written((db, put) => {
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
		const copies = written((db, put, copy) => {
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

	/** Copies of a store in which two messages were changed: before one of them was deleted, and after. `later`: what was written then. */
	const changed = (later: (put: Put) => void): Uint8Array[] =>
		written((db, put, copy) => {
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
			later(put);
		});

	it('what a message said before it was changed is that in the freed bytes of a copy that has lost the message, too', () => {
		const copies = changed(() => {});
		const { threads } = read({ 'copy 1/changed.db': copies[0]!, 'copy 2/changed.db': copies[1]! });
		const found = threads.flatMap((t) => t.messages.filter((m) => m.first.text?.startsWith(said(14))));
		assert.deepEqual(
			found.map((m) => [m.first.text, m.standing, m.earlierWordingOf !== null]),
			[
				[said(14), 'dropped', true],
				[`${said(14)} — corrected`, 'dropped', false]
			]
		);
	});

	it('a message that was changed was sent when it was first, though a later copy has lost what says so', () => {
		const first = START + 14 * HOUR;
		const copies = changed((put) => {
			for (let k = 0; k < 2; k++) put('message', 301 + k, START + (60 + k) * HOUR, 1, 0, said(60 + k), null, null);
		});
		const { threads } = read({ 'copy 1/changed.db': copies[0]!, 'copy 2/changed.db': copies[1]! });
		const found = threads.flatMap((t) => t.messages.filter((m) => m.first.text?.startsWith(said(14))));
		assert.deepEqual(
			found.map((m) => [m.first.text, m.first.sentAt, m.earlierWordingOf !== null]).sort(),
			[
				[said(14), first, true],
				[`${said(14)} — corrected`, first, false]
			].sort()
		);
	});

	it('a picture alone is one message in two stores that have other conversations in common, with whom the one of them says', () => {
		const store = (words: [string, string, string], address: (i: number) => string, isKnown: boolean): Uint8Array => {
			const [persons, letters, files] = words;
			return written((db, put) => {
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
			'phone/by number.db': store(['person', 'said', 'media'], number, false),
			'desk/by handle.db': store(['contact', 'note', 'received'], (i) => `@${NAMES[i]!.split(' ')[0]!.toLowerCase()}:example.org`, true)
		});
		const alone = threads.flatMap((t) => t.messages.filter((m) => m.first.sentAt === START + 71 * HOUR));
		assert.deepEqual(
			alone.map((m) => [m.sightings.length, m.first.correspondent?.name]),
			[[2, NAMES[3]]]
		);
	});
});

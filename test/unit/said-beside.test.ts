/** What a store says beside its messages of how they are to be read: zones by name, kinds of what was sent, lists of tables. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { isZoneName } from '../../src/core/zones';
import type { Woven } from '../../src/core/weave';
import { looked, written } from '../vectors/written';

const START = Date.UTC(2025, 2, 28, 20);
const HOUR = 3_600_000;
const NAMES = ['Odile Marchetti', 'Tamsin al-Khatib', 'Bram Vesterholt', 'Li Wen', 'Yusuf Demirkan'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
const said = (i: number): string => `${WORDS[i % 5]!}, and it is cold, ${i}`;
const isOwn = (i: number): boolean => i % 5 < 2;

const messagesOf = (files: Record<string, Uint8Array>): Woven[] =>
	looked(files)
		.findings()
		.weave.threads.flatMap((t) => t.messages);
const one = (messages: readonly Woven[], text: string): Woven => {
	const found = messages.filter((m) => m.first.text === text);
	assert.equal(found.length, 1, text);
	return found[0]!;
};

describe('a zone that stands by its name beside a time', () => {
	it('is the one the time is read in, in winter as in summer, and no file', () => {
		const shown = (i: number, zone: string): string => new Date(START + i * HOUR).toLocaleString('sv-SE', { timeZone: zone });
		const zoneOf = (i: number): string => (i % 3 === 0 ? 'America/Lima' : 'Europe/Paris');
		const [bytes] = written((db, put) => {
			db.exec('create table letters(id integer primary key, who text, way text, sent_local text, tz text, body text, media text)');
			for (let i = 0; i < 60; i++)
				put('letters', i + 1, number(i % 3), isOwn(i) ? 'sent' : 'received', shown(i, zoneOf(i)), zoneOf(i), said(i), null);
		});
		const messages = messagesOf({ 'store.db': bytes! });
		for (let i = 0; i < 60; i++) {
			const { first } = one(messages, said(i));
			// The hour that the clock went over in the night of 30 March 2025 is none.
			assert.deepEqual([first.sentAt, first.files.length], [START + i * HOUR, 0], said(i));
		}
	});

	it('is one of the zones there are', () => {
		for (const name of ['Europe/Paris', 'America/Argentina/Salta', 'UTC']) assert.ok(isZoneName(name), name);
		for (const name of ['Europe/Nowhere', 'media/photo.png', 'Inbox/Sent', 'europe', '']) assert.ok(!isZoneName(name), name);
	});
});

describe('a column of texts and of paths, beside one that says which', () => {
	for (const kinds of [
		['text', 'image'],
		[0, 3]
	] as const)
		it(`gives the texts, and the messages that are a file alone (${kinds.join(', ')})`, () => {
			const isFile = (i: number): boolean => i % 10 === 4;
			const [bytes] = written((db, put) => {
				db.exec('create table msg(id integer primary key, peer text, mine integer, at integer, kind, body text)');
				for (let i = 0; i < 40; i++) {
					const body = isFile(i) ? `att/5d/5d3d4a11efe${i}.png` : said(i);
					put('msg', i + 1, number(i % 3), isOwn(i) ? 1 : 0, START + i * HOUR, kinds[isFile(i) ? 1 : 0], body);
				}
			});
			const messages = messagesOf({ 'store.db': bytes! });
			assert.equal(messages.length, 40);
			for (let i = 0; i < 40; i++) {
				const found = messages.find((m) => m.first.sentAt === START + i * HOUR)!.first;
				assert.equal(found.text, isFile(i) ? null : said(i));
				assert.deepEqual(
					found.files.map((f) => f.path),
					isFile(i) ? [`att/5d/5d3d4a11efe${i}.png`] : []
				);
			}
		});

	it('is a column of texts where no other one parts them so, or what looks like a path is an address of a page', () => {
		const [bytes] = written((db, put) => {
			db.exec('create table msg(id integer primary key, peer text, mine integer, at integer, body text)');
			for (let i = 0; i < 40; i++) {
				const body = i % 10 === 4 ? `https://example.org/photos/${i}.png` : i % 10 === 7 ? `see/cellar/${i}.txt` : said(i);
				put('msg', i + 1, number(i % 3), isOwn(i) ? 1 : 0, START + i * HOUR, body);
			}
		});
		const messages = messagesOf({ 'store.db': bytes! });
		assert.deepEqual([4, 7].map((i) => messages.find((m) => m.first.sentAt === START + i * HOUR)!.first.text), ['https://example.org/photos/4.png', 'see/cellar/7.txt']); // prettier-ignore
	});
});

describe('a table for each conversation', () => {
	it('is of whom a list says that names the tables by their ends, and of a room where it has a title and no number', () => {
		const key = (i: number): string => `${i}d75770ec93${i}`;
		const [bytes] = written((db, put) => {
			db.exec('create table talks(hash text primary key, name text, number text, last integer)');
			for (let t = 0; t < 5; t++) {
				db.exec(`create table t_${key(t)}(id integer primary key autoincrement, mine integer, who text, at integer, body text)`);
				put('talks', key(t), t < 4 ? NAMES[t]! : 'Plant desk', t < 4 ? number(t) : null, START / 1000 + t * 900);
			}
			for (let i = 0; i < 50; i++) {
				const t = i % 5;
				put(
					`t_${key(t)}`,
					Math.floor(i / 5) + 1,
					isOwn(i * 3) ? 1 : 0,
					t === 4 && !isOwn(i * 3) ? number(2) : null,
					START / 1000 + i * 3600,
					said(i)
				);
			}
		});
		const { threads } = looked({ 'store.db': bytes! }).findings().weave;
		assert.equal(threads.flatMap((t) => t.messages).length, 50);
		assert.deepEqual(
			threads.map((t) => (t.group ? t.title : t.messages.map((m) => m.first.correspondent).find((c) => c)?.address)).sort(),
			[...[0, 1, 2, 3].map(number), 'Plant desk']
		);
		const room = threads.find((t) => t.group)!;
		assert.deepEqual(
			new Set(room.messages.flatMap((m) => (m.first.direction === 'in' ? [m.first.correspondent?.address] : []))),
			new Set([number(2)])
		);
	});
});

describe('which way a message went', () => {
	it('is said of those in a bin by the flag that agrees with the folders of all the others', () => {
		const inBin = (i: number): boolean => i % 13 === 6;
		const [bytes] = written((db, put) => {
			db.exec(`create table Item(ItemId integer primary key, FolderId integer, IsMine text, PartyId integer, SentOn text, Body text);
				create table Folder(FolderId integer primary key, FolderName text);
				create table Party(PartyId integer primary key, FullName text, PhoneNo text)`);
			for (const [i, name] of ['Received', 'Sent', 'Deleted Items'].entries()) put('Folder', i + 1, name);
			for (const [i, name] of NAMES.entries()) put('Party', i + 11, name, number(i));
			for (let i = 0; i < 40; i++)
				put('Item', i + 1, inBin(i) ? 3 : isOwn(i) ? 2 : 1, isOwn(i) ? 'Y' : 'N', 11 + (i % 4), String(START / 1000 + i * 3600), said(i));
		});
		const messages = messagesOf({ 'store.db': bytes! });
		for (let i = 0; i < 40; i++) {
			const { first, standing } = one(messages, said(i));
			assert.deepEqual([first.direction, standing], [isOwn(i) ? 'out' : 'in', inBin(i) ? 'binned' : 'kept'], said(i));
		}
	});

	it('is told by who takes part in every conversation listed, where hardly any is written in', () => {
		const [bytes] = written((db, put) => {
			db.exec(`create table msg(id integer primary key, chat integer not null, sender integer, ts integer not null, body text);
				create table chat(id integer primary key, kind integer, title text, peer integer);
				create table chat_user(chat integer, user integer, primary key(chat,user));
				create table user(id integer primary key, name text, number text)`);
			for (const [i, id] of [1, 21, 22, 23, 24].entries()) put('user', id, NAMES[i]!, number(i));
			for (const [i, list] of [[21], [22], [23], [22, 24, 23, 21], [21, 24, 22]].entries()) {
				put('chat', 301 + i, list.length > 1 ? 2 : 1, list.length > 1 ? `Room ${i}` : null, list.length > 1 ? null : list[0]!);
				for (const who of [...list, 1]) put('chat_user', 301 + i, who);
			}
			// All was written to one person, who writes in the one room as well.
			for (let i = 0; i < 40; i++) {
				const [chat, who] = i < 28 ? [301, isOwn(i) ? 1 : 21] : [304, [1, 21, 22, 23, 24, 21, 1][i % 7]!];
				put('msg', i + 1, chat!, who!, START + i * HOUR, said(i));
			}
		});
		const messages = messagesOf({ 'store.db': bytes! });
		for (let i = 0; i < 28; i++) {
			const { first } = one(messages, said(i));
			assert.deepEqual([first.direction, first.correspondent?.name], [isOwn(i) ? 'out' : 'in', NAMES[1]!]);
		}
		assert.equal(one(messages, said(35)).first.direction, 'out');
	});
});

describe('a log of what was said and changed', () => {
	for (const changes of [1, 2, 5])
		it(`has ${changes} messages in their last wording, with what they said before, and no message more`, () => {
			const key = (i: number): string => `c0ffee${10 + i}-0a1b-4c2d-8e3f-${100_000_000_000 + i}`;
			const room = (i: number): string => `room_${i % 3}5d3d4a11`;
			const isChanged = (i: number): boolean => i % 8 === 3 && i < 8 * changes;
			const [bytes] = written((db, put) => {
				db.exec(`create table entry(n integer primary key, at integer, verb text, subject text, data text);
					create table person(handle text primary key, name text, phone text); create table me(handle text)`);
				for (let i = 0; i < 4; i++) put('person', `h_${i}c0ffee`, NAMES[i]!, number(i));
				put('me', 'h_3c0ffee');
				let n = 0;
				const enter = (at: number, verb: string, subject: string, data: object): void =>
					put('entry', ++n, at, verb, subject, JSON.stringify(data));
				for (let t = 0; t < 3; t++) enter(START - 5000 + t, 'opened', room(t), { title: null, people: [`h_${t}c0ffee`, 'h_3c0ffee'] });
				for (let i = 0; i < 40; i++) {
					enter(START + i * HOUR, 'said', key(i), { room: room(i), by: isOwn(i) ? 'h_3c0ffee' : `h_${i % 3}c0ffee`, text: said(i) });
					if (isChanged(i)) enter(START + i * HOUR + 9000, 'changed', key(i), { text: `${said(i)}, as I said` });
				}
			});
			const messages = messagesOf({ 'store.db': bytes! });
			assert.equal(messages.filter((m) => !m.earlierWordingOf).length, 40);
			for (let i = 0; i < 40; i++) {
				const main = one(messages, isChanged(i) ? `${said(i)}, as I said` : said(i));
				assert.equal(main.earlierWordingOf, null);
				if (isChanged(i)) assert.equal(one(messages, said(i)).earlierWordingOf, main);
			}
		});
});

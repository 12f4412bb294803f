/**
 * Stores of keys and values whose keys tell part of it: several entries to a message, names under the numbers they are of,
 * entries that are whole conversations or pages of several. Each message is read whole, once.
 */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { messageLine } from '../../src/cli/lines';
import { createDatabase } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';
import { Random } from '../vectors/random';

const OWNER = '+447700900300';
const PERSONS = ['Odile Marchetti', 'Tamsin Okafor', 'Noor al-Khatib', 'Li Wen'].map((name, i) => ({
	id: `u${1000 + i * 37}`,
	name,
	number: `+44770090041${i}`,
	talk: `c${500 + i * 11}`
}));
type Person = (typeof PERSONS)[number];
const WORDS = 'boiler meter charge valve größer завтра credit plant heating failure notice tenant'.split(' ');

interface Said {
	n: number;
	guid: string;
	at: number;
	out: boolean;
	other: Person;
	text: string;
}
const random = new Random(11);
const SAID: readonly Said[] = Array.from({ length: 90 }, (_, i) => ({
	n: i + 1,
	guid: `${((i + 1) * 2654435761).toString(16).padStart(10, '0').slice(-8)}-1f2e-4a3b-9c4d`,
	at: Date.UTC(2025, 0, 10, 11) + i * 731_000,
	out: i % 3 === 0,
	other: PERSONS[(i * 5) % 4]!,
	text: `${Array.from({ length: random.int(2, 9) }, () => random.pick(WORDS)).join(' ')} no ${i}`
}));
const isDeleted = ({ n }: Said): boolean => n % 12 === 5;

type Entry = [key: string, value: unknown];
const padded = (n: number): string => String(n + 1e12).slice(1);
const documentOf = (s: Said): object => ({ conversation: s.other.talk, sender: s.out ? 'u900' : s.other.id, time: s.at, outgoing: s.out });
const PEOPLE: readonly Entry[] = [
	...PERSONS.map(({ id, name, number }): Entry => [`contact:${id}`, { id, name, phone: number }]),
	['contact:u900', { id: 'u900', name: 'Me', phone: OWNER }],
	...PERSONS.map(({ id, talk }): Entry => [`conversation:${talk}`, { id: talk, members: [id] }])
];

/** The entries of each message, and those beside them. */
interface Layout {
	entries: (s: Said) => Entry[];
	beside: readonly Entry[];
}
const LAYOUTS: Record<string, Layout> = {
	'a message and its text under one key each': {
		entries: (s) => [
			[`message:${s.guid}`, documentOf(s)],
			[`body:${s.guid}`, s.text]
		],
		beside: PEOPLE
	},
	'each thing of a message under a key of its own': {
		entries: (s) =>
			Object.entries({ ...documentOf(s), text: s.text }).map(([field, value]) => [`messages/${s.guid}/${field}`, String(value)]),
		beside: PEOPLE
	},
	'names under the numbers they are of, and messages under words with a number': {
		entries: (s) => [
			[`sms${padded(s.n)}`, { to: s.out ? s.other.number : OWNER, from: s.out ? OWNER : s.other.number, text: s.text, date: s.at }]
		],
		beside: [['profile', { number: OWNER, name: 'Me' }], ...PERSONS.map(({ name, number }): Entry => [`name:${number}`, name])]
	},
	'lists without names, and documents of another kind beside them': {
		entries: (s) => [[`told/${s.other.number}/${padded(s.n)}`, [s.at, s.out ? 1 : 0, s.text]]],
		beside: PERSONS.map(({ name, number }) => [`people/${number}`, { name }])
	}
};
/** Users and conversations by their keys, in one document. */
const STATE = {
	users: Object.fromEntries([
		...PERSONS.map(({ id, name, number }) => [id, { name, phone: number }] as const),
		['u900', { name: 'Me', phone: OWNER, self: true }] as const
	]),
	rooms: Object.fromEntries(PERSONS.map(({ id, talk }) => [talk, { members: [id], pinned: false }]))
};
const inRoom = (s: Said): object => ({ room: s.other.talk, user: s.out ? 'u900' : s.other.id, text: s.text, at: s.at });

/** Entries that hold many messages each: what is deleted is in none any more. */
const WHOLE: Record<string, (all: readonly Said[]) => Entry[]> = {
	'whole conversations with who takes part by name and number': (all) =>
		PERSONS.map((person) => [
			`thread_${person.number}`,
			{
				messages: all.filter((s) => s.other === person).map((s) => ({ from: s.out ? OWNER : person.number, text: s.text, ts: s.at })),
				members: [{ number: person.number, name: person.name }]
			}
		]),
	'one document with persons, conversations and messages, each by its key': (all) => [
		['state', { ...STATE, messages: Object.fromEntries(all.map((s) => [s.guid, inRoom(s)])) }],
		['theme', 'dark']
	],
	'messages beside a document with persons and conversations by their keys': (all) => [
		['state', STATE],
		...all.map((s): Entry => [`entry/${padded(s.n)}`, inRoom(s)])
	],
	'pages of several messages of any conversation': (all) => [
		...PEOPLE,
		...[0, 1, 2, 3].map((page): Entry => [
			`page:${page}`,
			all.filter((s) => s.n % 4 === page).map((s) => ({ id: s.guid, ...documentOf(s), text: s.text }))
		])
	]
};

describe('keys that tell', () => {
	let folder: string;
	let count = 0;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-telling-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	async function check(entries: readonly Entry[], deleted: readonly string[], found: (s: Said) => boolean): Promise<void> {
		const path = join(folder, `${count++}.db`);
		const db = createDatabase(path, ['page_size=4096', 'secure_delete=off']);
		db.exec('create table entry(key text primary key, value text)');
		for (const [key, value] of entries)
			db.run('insert into entry values(?,?)', [key, typeof value === 'string' ? value : JSON.stringify(value)]);
		for (const key of deleted) db.run('delete from entry where key = ?', [key]);
		db.close();
		const look = await lookAt({ 'store.db': new Uint8Array(readFileSync(path)) }, OWNER);
		const { stores, weave } = look.findings();
		const line = (text: string, at: string, direction: string, person: string | null): string => [text, at, direction, person].join('  ');
		const lines = weave.threads.flatMap((t) =>
			t.messages.map((m) => {
				const l = messageLine(m, stores, weave, look.files, look.media, null) as unknown as Record<string, string>;
				return { kept: l.standing === 'kept', line: line(l.text!, l.sentAt!, l.direction!, l.person!) };
			})
		);
		const expected = (all: readonly Said[]): string[] =>
			all.map((s) => line(s.text, new Date(s.at).toISOString(), s.out ? 'out' : 'in', s.other.name)).sort();
		assert.deepEqual(
			lines
				.filter((l) => l.kept)
				.map((l) => l.line)
				.sort(),
			expected(SAID.filter((s) => !isDeleted(s) || !found(s)))
		);
		const lost = expected(SAID.filter(isDeleted));
		for (const l of lines.filter((one) => !one.kept)) assert.ok(lost.includes(l.line), l.line);
		assert.equal(weave.threads.filter((t) => t.messages.length > 0).length, PERSONS.length);
	}

	for (const [what, { entries, beside }] of Object.entries(LAYOUTS))
		it(`are read: ${what}`, () =>
			check(
				[...beside, ...SAID.flatMap(entries)],
				SAID.filter(isDeleted).flatMap((s) => entries(s).map(([key]) => key)),
				() => true
			));

	for (const [what, entries] of Object.entries(WHOLE)) it(`are read: ${what}`, () => check(entries(SAID), [], () => false));

	for (const what of ['a message and its text under one key each', 'each thing of a message under a key of its own'])
		it(`of copies from two days are one message each, in whatever order they lie: ${what}`, async () => {
			const { entries, beside } = LAYOUTS[what]!;
			const store = (said: readonly Said[], turned = false): Uint8Array => {
				const path = join(folder, `${count++}.db`);
				const db = createDatabase(path, ['secure_delete=on']);
				db.exec('create table entry(key text primary key, value text)');
				const all = [...beside, ...said.flatMap(entries)];
				for (const [key, value] of turned ? all.toReversed() : all)
					db.run('insert into entry values(?,?)', [key, typeof value === 'string' ? value : JSON.stringify(value)]);
				db.close();
				return new Uint8Array(readFileSync(path));
			};
			const wasThere = (s: Said): boolean => s.n <= 70;
			const look = await lookAt(
				{
					'first/store.db': store(SAID.filter(wasThere)),
					'second/store.db': store(
						SAID.filter((s) => !isDeleted(s) || !wasThere(s)),
						true
					)
				},
				OWNER
			);
			const { weave } = look.findings();
			assert.equal(weave.families.length, 1);
			const messages = weave.threads.flatMap((t) => t.messages);
			assert.equal(messages.length, SAID.length);
			for (const m of messages) {
				const said = SAID.find((s) => s.text === m.first.text)!;
				assert.equal(m.standing, isDeleted(said) && wasThere(said) ? 'dropped' : 'kept', said.text);
			}
		});

	it('are none where an entry has a message whole, whatever else is kept under its key', () =>
		check(
			[
				...PEOPLE,
				...SAID.flatMap((s): Entry[] => [
					[`message:${s.guid}`, { ...documentOf(s), text: s.text }],
					[`note:${s.guid}`, `seen by number ${s.n} of them`]
				])
			],
			[],
			() => false
		));
});

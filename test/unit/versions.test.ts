/** Captures of a store that the program has changed meanwhile: other columns and tables, other record numbers, an older state put back. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { createDatabase } from '../vectors/engine';

interface Line {
	text: string;
	direction: string;
	correspondent: string | null;
	thread: string;
	standing: string;
	captures?: { state: string }[];
}

const START = Date.UTC(2025, 0, 10, 8);
const HOUR = 3_600_000;
const DATES = [START + 60.5 * HOUR, START + 120.5 * HOUR];
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Noor Khatib'];
const number = (person: number): string => `+4477009001${person}${person}`;
/** Persons 1 to 4 in conversations 1 to 4; conversations 5 and 6 are rooms of three. */
const ROOMS = [
	[1, 2, 3],
	[2, 3, 4]
];
const partOf = (talk: number): number[] => (talk <= 4 ? [talk] : ROOMS[talk - 5]!);

interface Said {
	id: number;
	talk: number;
	/** The person who wrote, or null for the owner. */
	by: number | null;
	text: string;
	at: number;
}

const said = (id: number): Said => {
	const talk = (id % 6) + 1;
	const members = partOf(talk);
	const by = id % 5 < 2 ? null : members[id % members.length]!;
	return { id, talk, by, text: `The ${['boiler', 'meter', 'board', 'stairs'][id % 4]} was spoken of, ${id}`, at: START + id * HOUR };
};
const upTo = (last: number, ...gone: number[]): Said[] =>
	Array.from({ length: last }, (_, i) => said(i + 1)).filter(({ id }) => !gone.includes(id));

interface Form {
	table: string;
	/** Columns that another version added. */
	more: boolean;
	/** What conversation, person and message are numbered. */
	talk: (n: number) => number;
	person: (n: number) => number;
	message: (id: number, at: number) => number;
}
const same = (n: number): number => n;
const PLAIN: Form = { table: 'letters', more: false, talk: same, person: same, message: same };
/** Numbered anew from one on, as the rows stand; conversations and persons the other way round. */
const ANEW: Form = { ...PLAIN, talk: (n) => 7 - n, person: (n) => 5 - n, message: (_, at) => at + 1 };

function write(path: string, form: Form, messages: readonly Said[]): void {
	const db = createDatabase(path);
	db.exec('create table people(id integer primary key, name text, phone text)');
	db.exec('create table talks(id integer primary key, title text)');
	db.exec('create table talk_members(talk integer, person integer)');
	db.exec(
		`create table ${form.table}(id integer primary key, talk integer, ${form.more ? 'state integer, ' : ''}person integer, body text, sent integer, outgoing integer${form.more ? ', revision integer' : ''})`
	);
	NAMES.forEach((name, i) => db.run('insert into people values(?,?,?)', [form.person(i + 1), name, number(i + 1)]));
	for (let talk = 1; talk <= 6; talk++) {
		db.run('insert into talks values(?,?)', [form.talk(talk), talk <= 4 ? null : `Stairwell ${talk}`]);
		for (const person of partOf(talk)) db.run('insert into talk_members values(?,?)', [form.talk(talk), form.person(person)]);
	}
	messages.forEach((m, i) => {
		const by = m.by === null ? null : form.person(m.by);
		const own = [form.message(m.id, i), form.talk(m.talk)];
		const rest = [by, m.text, m.at, Number(m.by === null)];
		const row = form.more ? [...own, 1 + (m.id % 3 === 0 ? 1 : 0), ...rest, 0] : [...own, ...rest];
		db.run(`insert into ${form.table} values(${row.map(() => '?').join(',')})`, row);
	});
	db.close();
}

describe('captures of a store that its program has changed', () => {
	let folder: string;
	let made = 0;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-versions-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** Two copies at one place of two folders. `devices`: what the backups around them state. */
	function lookAt(
		first: { form: Form; messages: Said[] },
		second: { form: Form; messages: Said[] },
		devices: [string, string] | null = null
	): Line[] {
		const roots = ['first', 'second'].map((name) => join(folder, String(made), name));
		made++;
		[first, second].forEach(({ form, messages }, i) => {
			mkdirSync(join(roots[i]!, 'Post'), { recursive: true });
			write(join(roots[i]!, 'Post', 'store.db'), form, messages);
		});
		const look = new Look(openPaths([...roots].reverse()), {
			reach: 'raw',
			owner: null,
			takenAt: new Map(roots.map((root, i) => [root, DATES[i]!])),
			devices: new Map(devices ? roots.map((root, i) => [root, devices[i]!]) : [])
		});
		for (const event of look.run()) void event;
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
		);
	}

	function assertLinedUp(lines: readonly Line[], gone: number[]): void {
		assert.equal(lines.length, 120);
		const threads = new Map<number, Set<string>>();
		for (const m of upTo(120)) {
			const [line, ...more] = lines.filter((l) => l.text === m.text);
			assert.ok(line && more.length === 0, `${m.text}: once`);
			const lost = gone.includes(m.id);
			assert.deepEqual(
				{ states: line.captures?.map((c) => c.state), standing: line.standing, direction: line.direction },
				{
					states: [m.id > 60 ? 'before' : 'in', lost ? 'out' : 'in'],
					standing: lost ? 'dropped' : 'kept',
					direction: m.by === null ? 'out' : 'in'
				},
				m.text
			);
			if (m.by !== null) assert.equal(line.correspondent, number(m.by), m.text);
			threads.set(m.talk, (threads.get(m.talk) ?? new Set()).add(line.thread));
		}
		assert.deepEqual(
			[...threads.values()].map((ids) => ids.size),
			[1, 1, 1, 1, 1, 1]
		);
		assert.equal(new Set([...threads.values()].flatMap((ids) => [...ids])).size, 6);
	}

	it('lines up a store to which another version added columns', () =>
		assertLinedUp(
			lookAt({ form: PLAIN, messages: upTo(60) }, { form: { ...PLAIN, more: true }, messages: upTo(120, 4, 11, 30) }),
			[4, 11, 30]
		));

	it('lines up a store whose messages another version keeps in another table', () =>
		assertLinedUp(
			lookAt({ form: PLAIN, messages: upTo(60) }, { form: { ...PLAIN, table: 'letters_v2' }, messages: upTo(120, 4, 11, 30) }),
			[4, 11, 30]
		));

	it('lines up what one device keeps at one place, though all is numbered anew: a room’s number is another’s now', () =>
		assertLinedUp(
			lookAt({ form: PLAIN, messages: upTo(60) }, { form: ANEW, messages: upTo(120, 1, 2, 3, 4, 5, 10, 11) }, ['FN-7', 'FN-7']),
			[1, 2, 3, 4, 5, 10, 11]
		));

	it('does not take for one record what only has one number, where all is numbered anew', () => {
		const again = (list: Said[]): Said[] => list.map((m) => ({ ...m, text: 'On my way to the lane' }));
		const lines = lookAt({ form: PLAIN, messages: again(upTo(60)) }, { form: ANEW, messages: again(upTo(120, 1)) }, ['FN-7', 'FN-7']);
		assert.equal(lines.length, 120);
		assert.equal(lines.filter((l) => l.standing === 'dropped').length, 1);
	});

	it('leaves apart what two devices numbered, and still has each message once, the rooms’ too', () => {
		const lines = lookAt({ form: PLAIN, messages: upTo(60) }, { form: ANEW, messages: upTo(120, 1, 2, 3, 4, 5) }, ['FN-7', 'FN-8']);
		assert.equal(lines.length, 120);
		assert.equal(lines.filter((l) => l.standing !== 'kept').length, 0);
		assert.equal(new Set(lines.map((l) => l.thread)).size, 6);
	});

	it('knows a room of two devices by what it is called, though hardly anything was said there', () => {
		const few = (list: Said[]): Said[] => list.filter(({ id, talk }) => talk <= 4 || id === 4 || id === 5);
		const lines = lookAt({ form: PLAIN, messages: few(upTo(60)) }, { form: ANEW, messages: few(upTo(60, 1, 2)) }, ['FN-7', 'FN-8']);
		assert.equal(lines.filter((l) => l.text === said(4).text).length, 1);
		assert.equal(lines.length, few(upTo(60)).length);
	});
});

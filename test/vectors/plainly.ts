/**
 * Stores as a programmer lays them out without much thought, one to three copies of each in time: two boxes of unlike
 * columns, rooms called by numbers, lines keyed by conversation and count, folders with a bin, conversations with lists of
 * members. Beside the messages stand what programs keep besides: calls, settings, searches, lines of a log, numbered as
 * messages are. With the truth of each message in each copy.
 */
import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { createDatabase, type Engine } from './engine';
import { Random } from './random';

export type State = 'in' | 'binned' | 'out' | 'before';

export interface Plain {
	/** ms since 1970. */
	at: number;
	out: boolean;
	/** The other side, or the group. */
	thread: string;
	/** The other side, or who wrote in a group; null for the owner's own messages to a group. */
	correspondent: string | null;
	person: string | null;
	/** The wording of the last copy that has it. */
	text: string | null;
	wordings: string[];
	sha256: string | null;
	states: State[];
}

export interface PlainCase {
	folders: string[];
	made: string;
	owner: string;
	/** Names of everybody in the store's own lists. */
	people: string[];
	messages: Plain[];
	/** Numbers that were given out: of tables without reuse all, else null. */
	written: number | null;
}

interface Person {
	i: number;
	name: string;
	number: string;
	handle: string;
	mail: string;
	account: string;
}

interface Room {
	i: number;
	title: string | null;
	members: Person[];
	/** What the store calls it. */
	key: string;
	lines: number;
	/** Messages of others so far. */
	received: number;
}

export interface Draft {
	n: number;
	at: number;
	room: Room;
	who: Person | null;
	text: string | null;
	file: { path: string; name: string; type: string; bytes: Buffer; sha256: string } | null;
	deletedAt: number | null;
	binnedAt: number | null;
	edits: { at: number; text: string }[];
	/** What the row is found by. */
	id: (string | number)[];
}

export type Cell = string | number | null;

export interface Layout {
	groups: boolean;
	bin: boolean;
	named: boolean;
	/** Record numbers are not given out again. */
	counted: boolean;
	address: 'number' | 'handle' | 'mail' | 'account' | 'name';
	setUp: (db: Engine, s: Composer) => void;
	write: (db: Engine, s: Composer, m: Draft) => void;
	/** Table, condition and column of the text of a message. */
	row: (m: Draft) => [table: string, where: string, text: string];
	/** Sets what says that it is in the bin. */
	binned?: string;
	more?: string[];
	/** What an edit writes, where it is not the text; whether there are edits, and a list with everybody's name. */
	edited?: (text: string) => string;
	edits?: false;
	listed?: false;
	/** What an edit and a removal do, where they are no change of the row. */
	edit?: (db: Engine, m: Draft, text: string, at: number, s: Composer) => void;
	remove?: (db: Engine, m: Draft, at: number) => void;
	/** What puts it in the bin, where that is more than `binned` says. */
	toBin?: (db: Engine, s: Composer, m: Draft, at: number) => void;
	/** What is removed is marked so, and stays. */
	removes?: 'binned';
	/** What a newer version of the program makes of the store, between two copies. */
	upgrade?: (db: Engine, s: Composer) => void;
	/** Which way a message went is told by what others wrote in groups. */
	needsGroup?: true;
}

const WORDS =
	'we should talk about the pump again because nobody came on Friday and the keys are under that mat dear who wrote this price moved to three 好的 Ναι 👍🏽'.split(
		' '
	);
const GIVEN = ['Agathe', 'Balthasar', 'Clementine', 'Dorian', 'Elvira', 'Fenno'];
const FAMILY = ['Morrow', 'Nightingale', 'Oxenford'];
export const OWNER = '+447946000001';
export const insertInto = (table: string, count: number): string => `insert into ${table} values(${Array(count).fill('?').join(',')})`;

const LAYOUTS: Record<string, Layout> = {
	boxes: {
		groups: false,
		bin: false,
		named: true,
		counted: false,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table person(id integer primary key, number text, name text);
				create table inbox(id integer primary key autoincrement, person integer, at, body text, file text);
				create table outbox(id integer primary key autoincrement, person integer, at, body text, file text, state integer)`);
			for (const p of s.people) db.run(insertInto('person', 3), [p.i, p.number, p.name]);
		},
		write: (db, s, m) => {
			const own: Cell[] = [null, m.room.members[0]!.i, s.time(m.at), m.text, m.file?.path ?? null];
			m.id = [m.who ? db.run(insertInto('inbox', 5), own).lastInsertRowid : db.run(insertInto('outbox', 6), [...own, 2]).lastInsertRowid];
		},
		row: (m) => [m.who ? 'inbox' : 'outbox', 'id=?', 'body']
	},
	rooms: {
		groups: true,
		bin: false,
		named: true,
		counted: true,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table party(id integer primary key, address text, label text);
				create table room(id integer primary key, token text, title text);
				create table room_party(room integer, party integer);
				create table note(id integer primary key autoincrement, words text, party integer, sent, mine integer);
				create table room_note(room integer, note integer);
				create table enclosure(id integer primary key, path text, mime text, bytes integer, shown text);
				create table note_enclosure(note integer, enclosure integer)`);
			for (const p of s.people) db.run(insertInto('party', 3), [p.i, p.number, p.name]);
			for (const room of s.rooms) {
				db.run(insertInto('room', 3), [room.i, room.title ? `room${room.i}0417` : room.members[0]!.number, room.title]);
				for (const p of room.members) db.run(insertInto('room_party', 2), [room.i, p.i]);
			}
		},
		write: (db, s, m) => {
			m.id = [db.run(insertInto('note', 5), [null, m.text, m.who?.i ?? 0, s.time(m.at), m.who ? 0 : 1]).lastInsertRowid];
			db.run(insertInto('room_note', 2), [m.room.i, m.id[0]]);
			if (!m.file) return;
			const { path, type, bytes, name } = m.file;
			const file = db.run(insertInto('enclosure', 5), [null, path, type, bytes.length, name]).lastInsertRowid;
			db.run(insertInto('note_enclosure', 2), [m.id[0], file]);
		},
		row: () => ['note', 'id=?', 'words'],
		more: ['room_note where note=?', 'note_enclosure where note=?']
	},
	lines: {
		groups: true,
		bin: false,
		named: true,
		counted: false,
		address: 'handle',
		setUp: (db, s) => {
			db.exec(`create table person(handle text primary key, nick text) without rowid;
				create table talk(talk text primary key, label text, people text) without rowid;
				create table line(talk text, seq integer, who text, at, txt text, media text, flags integer, primary key(talk, seq)) without rowid`);
			for (const p of s.people) db.run(insertInto('person', 2), [p.handle, p.name]);
			for (const room of s.rooms) db.run(insertInto('talk', 3), [room.key, room.title, room.members.map((p) => p.handle).join(',')]);
		},
		write: (db, s, m) => {
			m.id = [m.room.key, ++m.room.lines];
			db.run(insertInto('line', 7), [...m.id, m.who?.handle ?? null, s.time(m.at), m.text, m.file?.path ?? null, 0]);
		},
		row: () => ['line', 'talk=? and seq=?', 'txt']
	},
	folders: {
		groups: false,
		bin: true,
		named: false,
		counted: true,
		address: 'number',
		setUp: (db) =>
			db.exec(
				'create table mail(id integer primary key autoincrement, folder text, fromaddr text, toaddr text, date, content text, file text)'
			),
		write: (db, s, m) => {
			const other = m.room.members[0]!.number;
			const [from, to] = m.who ? [other, OWNER] : [OWNER, other];
			const values: Cell[] = [null, m.who ? 'Inbox' : 'Sent', from, to, s.time(m.at), m.text, m.file?.path ?? null];
			m.id = [db.run(insertInto('mail', 7), values).lastInsertRowid];
		},
		row: () => ['mail', 'id=?', 'content'],
		binned: "folder='Trash'"
	},
	items: {
		groups: false,
		bin: true,
		named: false,
		counted: true,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table address(_id integer primary key, address text);
				create table conversation(_id integer primary key, recipient text, snippet text, count integer);
				create table item(_id integer primary key autoincrement, conversation integer, person integer, at, at_net, kind integer, body text, state text);
				create table part(_id integer primary key, item integer, ctype text, fname text, bytes integer, store text)`);
			for (const room of s.rooms) {
				const [p] = room.members;
				db.run(insertInto('address', 2), [p!.i, p!.number]);
				db.run(insertInto('conversation', 4), [room.i, String(p!.i), '', 0]);
			}
		},
		write: (db, s, m) => {
			const sent = m.who ? s.time(m.at - 1000 * (m.n % 4)) : 0;
			const values: Cell[] = [null, m.room.i, m.room.members[0]!.i, s.time(m.at), sent, m.who ? 1 : 2, m.text, 'done'];
			m.id = [db.run(insertInto('item', 8), values).lastInsertRowid];
			db.run('update conversation set snippet=?, count=count+1 where _id=?', [m.text ?? '', m.room.i]);
			if (m.file) db.run(insertInto('part', 6), [null, m.id[0], m.file.type, m.file.name, m.file.bytes.length, m.file.path]);
		},
		row: () => ['item', '_id=?', 'body'],
		binned: "state='deleted'",
		more: ['part where item=?']
	},
	events: {
		groups: true,
		bin: false,
		named: true,
		counted: false,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table profile(user text primary key, display text, phone text, is_me integer);
				create table room(id text primary key, name text);
				create table event(id integer primary key autoincrement, type text, room text, sender text, ts, payload text)`);
			for (const p of s.people) db.run(insertInto('profile', 4), [s.keyOf(p.i), p.name, p.number, 0]);
			db.run(insertInto('profile', 4), [s.keyOf(99), 'Owen Farrow', OWNER, 1]);
			for (const room of s.rooms) db.run(insertInto('room', 2), [room.key, room.title]);
		},
		write: (db, s, m) => {
			const who = s.keyOf(m.who?.i ?? 99);
			if (m.n % 9 === 0) db.run(insertInto('event', 6), [null, 'typing', m.room.key, who, s.time(m.at - 1000), '{"on":true}']);
			const file = m.file && { name: m.file.name, path: m.file.path, size: m.file.bytes.length };
			const payload = JSON.stringify({ ...(m.text === null ? {} : { text: m.text }), ...(file ? { file } : {}) });
			m.id = [db.run(insertInto('event', 6), [null, 'message', m.room.key, who, s.time(m.at), payload]).lastInsertRowid];
		},
		row: () => ['event', 'id=?', 'payload'],
		edited: (text) => JSON.stringify({ text })
	},
	documents: {
		groups: true,
		bin: false,
		named: true,
		counted: false,
		address: 'number',
		setUp: (db, s) => {
			db.exec('create table document(id text primary key, json text); create table user(id text primary key, name text, phone text)');
			for (const p of s.people) db.run(insertInto('user', 3), [s.keyOf(p.i), p.name, p.number]);
		},
		write: (db, s, m) => {
			m.id = [`${m.room.key}/${1_700_000_000_000 + m.n}`];
			const file = m.file ? { file: m.file.path, bytes: m.file.bytes.length } : {};
			const [peer, group] = m.room.title === null ? [s.keyOf(m.room.members[0]!.i), null] : [null, m.room.title];
			const author = m.who ? s.keyOf(m.who.i) : null;
			const json = JSON.stringify({ author, chat: m.room.key, peer, group, body: m.text, sent: s.time(m.at), ...file });
			db.run(insertInto('document', 2), [m.id[0]!, json]);
		},
		row: () => ['document', 'id=?', 'json'],
		edits: false
	},
	labels: {
		groups: true,
		bin: false,
		named: true,
		counted: true,
		address: 'number',
		setUp: (db, s) => {
			db.exec(`create table conversations(id integer primary key, kind text, label text, peer_number text);
				create table messages(id integer primary key autoincrement, conversation_id integer, author_number text, author_name text, is_outgoing integer,
					created_at, body text, media_path text)`);
			for (const room of s.rooms) {
				const [p] = room.members;
				const single = room.title === null;
				db.run(insertInto('conversations', 4), [room.i, single ? 'single' : 'group', room.title ?? p!.name, single ? p!.number : null]);
			}
		},
		write: (db, s, m) => {
			const { number, name } = m.who ?? { number: OWNER, name: 'Owen Farrow' };
			const values: Cell[] = [null, m.room.i, number, name, m.who ? 0 : 1, s.time(m.at), m.text, m.file?.path ?? null];
			m.id = [db.run(insertInto('messages', 8), values).lastInsertRowid];
		},
		row: () => ['messages', 'id=?', 'body'],
		listed: false
	}
};

const UNITS: Record<string, (ms: number) => Cell> = {
	milliseconds: (ms) => ms,
	seconds: (ms) => Math.floor(ms / 1000),
	written: (ms) => new Date(ms).toISOString()
};

export class Composer {
	readonly people: Person[];
	readonly rooms: Room[];
	readonly time: (ms: number) => Cell;
	readonly unit: string;

	/** A person's key in stores that have such: eight digits that say nothing. */
	keyOf(i: number): string {
		return createHash('md5').update(String(i)).digest('hex').slice(0, 8);
	}

	constructor(
		readonly r: Random,
		layout: Layout
	) {
		this.unit = r.pick(Object.keys(UNITS));
		this.time = UNITS[this.unit]!;
		this.people = Array.from({ length: r.int(3, 6) }, (_, i) => {
			const name = `${GIVEN[i]!} ${r.pick(FAMILY)}`;
			return {
				i: i + 11,
				name,
				number: `+4479460${10_000 + r.int(0, 8) * 10 + i}`,
				handle: `u_${GIVEN[i]!.toLowerCase()}${r.int(0, 99)}`,
				mail: `${GIVEN[i]!.toLowerCase()}@desk.example`,
				account: `@${GIVEN[i]!.toLowerCase()}${i + 11}:rooms.example`
			};
		});
		const titles = layout.groups ? ['Choir', 'Lift repair'].slice(0, r.int(layout.needsGroup ? 1 : 0, 2)) : [];
		const members = [...this.people.map((p) => [p]), ...titles.map((_, i) => this.people.slice(0, 3 - i))];
		this.rooms = members.map((list, i) => ({
			i: i + 1,
			title: titles[i - this.people.length] ?? null,
			members: list,
			key: `t${1_000_000 + i * 7919}`,
			lines: 0,
			received: 0
		}));
	}
}

/** Writes the copies of one store, each a folder of its own below `folder`, oldest first. */
export function writePlainly(folder: string, seed: number, layouts: Readonly<Record<string, Layout>> = LAYOUTS): PlainCase {
	const r = new Random(seed * 7 + 3);
	const kind = r.pick(Object.keys(layouts));
	const layout = layouts[kind]!;
	const s = new Composer(r, layout);
	const drafts = draft(s, layout, r.pick([60, 140]));
	const end = drafts.at(-1)!.at + 3_600_000;
	const start = drafts[0]!.at;
	const count = r.int(1, 3);
	const copies = Array.from({ length: count }, (_, i) => start + ((end - start) * (i + 1)) / count);
	const live = join(folder, 'live');
	mkdirSync(live, { recursive: true });
	const path = join(live, 'app.db');
	const wal = r.chance(0.5);
	const db = createDatabase(path, [`page_size=${r.pick([1024, 4096])}`, ...(wal ? ['journal_mode=wal', 'wal_autocheckpoint=40'] : [])]);
	layout.setUp(db, s);
	const beside = writeBeside(db, s, start, end);
	const events = eventsOf(drafts, copies);
	const folders: string[] = [];
	for (const { m, what, text, at } of events) {
		const id = m?.id ?? [];
		if (what === 'copy') {
			folders.push(copyOut(folder, path, folders.length, drafts, copies[folders.length]!));
			if (folders.length === 1 + (seed % 2) && folders.length < count) layout.upgrade?.(db, s);
		} else if (what === 'write') layout.write(db, s, m!);
		else {
			const [table, where, column] = layout.row(m!);
			if (what === 'edit' && layout.edit) layout.edit(db, m!, text!, at, s);
			else if (what === 'delete' && layout.remove) layout.remove(db, m!, at);
			else if (what === 'edit') db.run(`update ${table} set ${column}=? where ${where}`, [layout.edited?.(text!) ?? text, ...id]);
			else if (what === 'bin' && layout.toBin) layout.toBin(db, s, m!, at);
			else if (what === 'bin') db.run(`update ${table} set ${layout.binned} where ${where}`, id);
			else for (const from of [`${table} where ${where}`, ...(layout.more ?? [])]) db.run(`delete from ${from}`, id);
		}
	}
	db.close();
	return {
		folders,
		made: `${kind}, ${s.unit}, ${count} copies${wal ? ', with a log' : ''}, beside: ${beside.join(', ')}`,
		owner: OWNER,
		people: layout.named && layout.listed !== false ? s.people.map((p) => p.name) : [],
		messages: drafts.map((m) => truthOf(m, layout, copies)),
		written: layout.counted ? drafts.length : null
	};
}

function draft(s: Composer, layout: Layout, count: number): Draft[] {
	const { r } = s;
	let at = Date.UTC(2025, 1, 3, 9);
	const used = new Set<string>();
	const text = (): string => {
		for (;;) {
			const words = Array.from({ length: r.pick([2, 4, 7, 15]) }, () => r.pick(WORDS)).join(' ');
			const one = r.chance(0.3) ? `${words}\n${r.int(10, 999)}` : `${words}${r.pick(['.', '?', ''])}`;
			if (one.length > 12 && !used.has(one)) return (used.add(one), one);
		}
	};
	return Array.from({ length: count }, (_, n): Draft => {
		at += r.int(2000, 20_000_000);
		if (s.unit === 'seconds') at = Math.floor(at / 1000) * 1000;
		const room = r.pick(s.rooms);
		const m: Draft = {
			n,
			at,
			room,
			// Others take turns: a group of which one alone wrote is not known for one.
			who: r.chance(0.5) ? null : room.members[room.received++ % room.members.length]!,
			text: text(),
			file: null,
			deletedAt: null,
			binnedAt: null,
			edits: [],
			id: []
		};
		if (r.chance(0.12)) {
			const name = `${r.pick(['Scan', 'Voice note', 'list'])} ${n}.${r.pick(['csv', 'jpg'])}`;
			const bytes = Buffer.from(`${name.endsWith('csv') ? 'a;b\n' : '\u00ff\u00d8'}${n} of ${r.int(0, 1e9)}`, 'latin1');
			const sha256 = createHash('sha256').update(bytes).digest('hex');
			m.file = { path: `received/${n % 7}/${name}`, name, type: name.endsWith('csv') ? 'text/csv' : 'image/jpeg', bytes, sha256 };
			if (r.chance(0.4)) m.text = null;
		}
		const later = (): number => at + 1000 + r.int(0, 400_000_000);
		const fate = r.next();
		if (fate < 0.08) m.deletedAt = later();
		else if (fate < 0.13 && layout.bin) m.binnedAt = later();
		else if (fate < 0.16 && m.text !== null && m.file === null && layout.edits !== false) m.edits.push({ at: later(), text: text() });
		return m;
	});
}

/** What programs keep besides messages: names of the tables written. */
function writeBeside(db: Engine, s: Composer, start: number, end: number): string[] {
	const { r } = s;
	const written: string[] = [];
	const some = (name: string, columns: string, rows: number, values: () => Cell[]): void => {
		if (!r.chance(0.5)) return;
		written.push(name);
		db.exec(`create table ${name}(${columns})`);
		for (let i = 0; i < rows; i++) {
			const row = values();
			db.run(insertInto(name, row.length), row);
		}
	};
	const at = (): Cell => s.time(Math.floor(start + r.next() * (end - start)));
	some('calls', 'id integer primary key, number text, at, dur integer, kind integer', 17, () => [
		null,
		r.pick(s.people).number,
		at(),
		r.int(0, 900),
		r.int(1, 3)
	]);
	some('synclog', 'id integer primary key, at, event text, detail text', 80, () => [
		null,
		at(),
		r.pick(['push', 'pull', 'retry']),
		`server answered ${r.pick([200, 304])} after ${r.int(1, 2000)} ms`
	]);
	some('searches', 'q text, at', 20, () => [`${r.pick(WORDS)} ${r.pick(WORDS)}`, at()]);
	const settings = [
		['me', '1'],
		['phone', OWNER],
		['theme', 'dark'],
		['lang', 'en']
	];
	some('settings', 'name text primary key, value text', settings.length, () => settings.shift()!);
	return written;
}

interface Event {
	at: number;
	what: 'write' | 'edit' | 'bin' | 'delete' | 'copy';
	m?: Draft;
	text?: string;
}

function eventsOf(drafts: readonly Draft[], copies: readonly number[]): Event[] {
	const events = drafts.flatMap((m): Event[] => [
		{ at: m.at, what: 'write', m },
		...m.edits.map(({ at, text }): Event => ({ at, what: 'edit', m, text })),
		...(m.binnedAt === null ? [] : [{ at: m.binnedAt, what: 'bin' as const, m }]),
		...(m.deletedAt === null ? [] : [{ at: m.deletedAt, what: 'delete' as const, m }])
	]);
	return [...events, ...copies.map((at): Event => ({ at, what: 'copy' }))].sort((a, b) => a.at - b.at);
}

/** The database with what lies beside it, and the files received until then. */
function copyOut(folder: string, path: string, i: number, drafts: readonly Draft[], until: number): string {
	const to = join(folder, `copy ${String.fromCharCode(122 - i)}`);
	mkdirSync(to, { recursive: true });
	copyFileSync(path, join(to, 'app.db'));
	if (existsSync(`${path}-wal`)) copyFileSync(`${path}-wal`, join(to, 'app.db-wal'));
	for (const { file, at } of drafts) {
		if (!file || at > until) continue;
		mkdirSync(dirname(join(to, file.path)), { recursive: true });
		writeFileSync(join(to, file.path), file.bytes);
	}
	return to;
}

function truthOf(m: Draft, layout: Layout, copies: readonly number[]): Plain {
	const { room, who } = m;
	const other = room.title === null ? room.members[0]! : who;
	const states = copies.map((at): State => {
		if (m.at > at) return 'before';
		if (m.deletedAt !== null && m.deletedAt <= at) return layout.removes ?? 'out';
		return m.binnedAt !== null && m.binnedAt <= at ? 'binned' : 'in';
	});
	const last = copies[states.findLastIndex((state) => state === 'in' || state === 'binned')] ?? -Infinity;
	const done = m.edits.filter((e) => e.at <= last);
	const wordings = [m.text, ...done.map((e) => e.text)].filter((t) => t !== null);
	return {
		at: m.at,
		out: who === null,
		thread: room.title ?? room.members[0]!.handle,
		correspondent: other?.[layout.address] ?? null,
		person: layout.named ? (other?.name ?? null) : null,
		text: wordings.at(-1) ?? null,
		wordings: wordings.slice(0, -1),
		sha256: m.file?.sha256 ?? null,
		states
	};
}

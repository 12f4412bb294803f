/**
 * A desk program's profile folder composed at random: a store whose messages name their conversation and their writer,
 * persons or files in a database beside it, received files under several kinds of names, settings and caches. Some
 * messages are deleted. With the truth of each message and of the file it states.
 */
import { createHash, type Hash } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { createDatabase, type Engine } from './engine';
import { Random } from './random';

export interface Profiled {
	id: number;
	/** Seconds since 1970. */
	at: number;
	text: string | null;
	out: boolean;
	/** The other side, or the writer of a received message of the group; null for the owner's own there. */
	address: string | null;
	name: string | null;
	group: boolean;
	deleted: boolean;
	/** Whether what tells it (its text, or its file's path) still stands in the store. */
	there: boolean;
	file: ProfileFile | null;
}

interface ProfileFile {
	name: string;
	type: string;
	key: string;
	bytes: Buffer;
	/** Path within the profile. */
	path: string;
	/** Null where the file is not there. */
	sha256: string | null;
}

export interface ProfileCase {
	folder: string;
	made: string;
	messages: Profiled[];
}

type Cell = string | number | Buffer | null;
const PEOPLE = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Noor Khatib', 'Wen Li'];
const OWNER = 'Piet Hallorann';
const WORDS = 'boiler valve pump tenant invoice meeting corridor heater ladder window morning please bring the old key Straße größer'.split(
	' '
);
const TYPES = [
	['image/png', 'png', Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])],
	['application/pdf', 'pdf', Buffer.from('%PDF-1.4\n')],
	['audio/ogg', 'ogg', Buffer.from('OggS\0\x02')],
	['application/octet-stream', 'bin', Buffer.from([1, 0, 2, 0])]
] as const;

const digestOf = (algorithm: string, bytes: Buffer): Hash => createHash(algorithm).update(bytes);

/** What a file's row states of it, column by column. */
const STATES: Record<string, (f: ProfileFile) => Record<string, Cell>> = {
	'path from a drive': (f) => ({ path: `D:\\Profile\\${f.path.replaceAll('/', '\\')}`, type: f.type }),
	'path from the root': (f) => ({ path: `/home/piet/Desk Data/${f.path}`, type: f.type, size: f.bytes.length }),
	'path as a link': (f) => ({ path: `file:///home/piet/${f.path.split('/').map(encodeURIComponent).join('/')}`, type: f.type }),
	'path within': (f) => ({ path: f.path, name: f.name, size: f.bytes.length }),
	'digest in hex': (f) => ({ digest: digestOf('sha1', f.bytes).digest('hex').toUpperCase(), type: f.type }),
	'digest in base64': (f) => ({ digest: digestOf('sha256', f.bytes).digest('base64'), type: f.type, size: f.bytes.length }),
	'digest in bytes': (f) => ({ digest: digestOf('md5', f.bytes).digest(), name: f.name, type: f.type }),
	'size and type': (f) => ({ type: f.type, size: f.bytes.length }),
	'a key': (f) => ({ key: f.key, name: f.name, type: f.type })
};
/** Where persons' names are kept, and how they are named elsewhere. */
const PERSONS = ['in the list of conversations', 'in a table', 'beside, by address', 'beside, by number'] as const;
/** Ways in which only what is stated of the file itself leads there: it lies under a name that says nothing. */
const UNNAMED = /digest|size/;

export function profile(folder: string, seed: number): ProfileCase {
	return new Composer(folder, new Random(seed)).made();
}

class Composer {
	private readonly states: string;
	private readonly where: string;
	private readonly mute: boolean;
	private readonly flagged: boolean;
	private readonly handles: boolean;
	private readonly lost: string;
	private readonly persons: (typeof PERSONS)[number];
	private readonly grouped: boolean;
	private readonly columns: string[];
	private at = 1_735_700_000;
	private beside: Engine | null = null;

	constructor(
		private readonly folder: string,
		private readonly r: Random
	) {
		this.states = r.pick(Object.keys(STATES));
		this.where = r.pick(['columns', 'table', 'beside']);
		this.mute = r.chance(0.4);
		this.flagged = r.chance(0.5);
		this.handles = r.chance(0.5);
		this.persons = r.pick(PERSONS);
		this.grouped = r.chance(0.4);
		this.lost = r.pick(['nothing', 'some', 'a conversation']);
		this.columns = Object.keys(STATES[this.states]!(this.file(0)));
	}

	made(): ProfileCase {
		const store = join(this.folder, 'data', 'store.db');
		mkdirSync(dirname(store), { recursive: true });
		const db = createDatabase(store, ['secure_delete=off']);
		const files = this.where === 'beside' ? createDatabase(join(dirname(store), 'files.db')) : db;
		this.declare(db, files);
		this.keepPersons(db, join(dirname(store), 'people.db'));
		const messages = this.write(db, files);
		const chat = this.r.int(1, 3);
		for (const m of messages) m.deleted = this.isLost(m, chat);
		db.exec('begin');
		for (const m of messages) if (m.deleted) db.run(`delete from ${this.n('messages')} where ${this.n('id')} = ?`, [m.id]);
		db.exec('commit');
		if (files !== db) files.close();
		this.beside?.close();
		db.close();
		const bytes = readFileSync(store);
		for (const m of messages) {
			const tells = m.text ?? (this.where === 'columns' ? STATES[this.states]!(m.file!).path : null);
			m.there = !m.deleted || (typeof tells === 'string' && bytes.includes(tells));
			if (this.r.chance(0.9) && m.file) this.put(m.file);
		}
		this.put({ ...this.file(0), path: 'Cache/f_000001' });
		writeFileSync(join(this.folder, 'settings.json'), JSON.stringify({ window: { width: 800 }, language: 'en' }));
		const made = [
			this.states,
			this.where,
			this.persons,
			this.grouped ? 'group' : '',
			this.mute ? 'mute' : '',
			this.handles ? 'handles' : 'mail',
			this.flagged ? 'flag' : '',
			this.lost
		];
		return { folder: this.folder, made: made.join(', '), messages };
	}

	/** A table's or column's name, or one that says nothing. */
	private n(name: string): string {
		return this.mute ? `x${createHash('md5').update(name).digest('hex').slice(0, 4)}` : name;
	}

	private declare(db: Engine, files: Engine): void {
		const n = (name: string): string => this.n(name);
		const own = this.where === 'columns' ? this.columns.map(n) : [];
		const columns = [n('uid'), n('chat_id'), n('sent'), n('sender'), n('text'), ...(this.flagged ? [n('outgoing')] : []), ...own];
		db.exec(`create table ${n('messages')}(${n('id')} integer primary key, ${columns.join(',')})`);
		db.exec(`create table ${n('chats')}(${n('id')} integer primary key, ${n('peer')}, ${n('title')} text)`);
		const titled = this.persons === 'in the list of conversations';
		PEOPLE.forEach((name, i) => db.run(`insert into ${n('chats')} values(?,?,?)`, [i + 1, this.party(name), titled ? name : null]));
		if (this.grouped) db.run(`insert into ${n('chats')} values(?,null,?)`, [PEOPLE.length + 1, 'Plant desk']);
		if (this.where !== 'columns')
			files.exec(
				`create table ${n('attachments')}(${n('id')} integer primary key, ${n('message_id')}, ${this.columns.map((c) => n(c)).join(',')})`
			);
	}

	/** Names and addresses of all persons, the owner's among them where persons are known by their number there. */
	private keepPersons(db: Engine, path: string): void {
		if (this.persons === 'in the list of conversations') return;
		if (this.persons !== 'in a table') this.beside = createDatabase(path);
		const to = this.beside ?? db;
		const table = this.n('contacts');
		to.exec(`create table ${table}(${this.n('id')} integer primary key, ${this.n('address')} text, ${this.n('display_name')} text)`);
		const known = this.persons === 'beside, by number' ? [OWNER, ...PEOPLE] : PEOPLE;
		for (const name of known) to.run(`insert into ${table} values(?,?,?)`, [this.numberOf(name), this.address(name), name]);
	}

	private numberOf(name: string): number {
		return 1 + [OWNER, ...PEOPLE].indexOf(name);
	}

	/** A person as messages and conversations name him. */
	private party(name: string): Cell {
		return this.persons === 'beside, by number' ? this.numberOf(name) : this.address(name);
	}

	private write(db: Engine, files: Engine): Profiled[] {
		const { r } = this;
		const marks = (count: number): string => Array.from({ length: count }, () => '?').join(',');
		const messages: Profiled[] = [];
		db.exec('begin');
		for (let id = 1; id <= 90; id++) {
			this.at += r.int(30, 20_000);
			const who = r.int(0, PEOPLE.length - 1);
			const file = r.chance(0.25) ? this.file(id) : null;
			const group = this.grouped && r.chance(0.25);
			const out = r.chance(0.45);
			const known = !(group && out);
			const m: Profiled = {
				id,
				at: this.at,
				text: file && r.chance(0.4) ? null : `${Array.from({ length: r.int(1, 12) }, () => r.pick(WORDS)).join(' ')} ${id}`,
				out,
				address: known ? this.address(PEOPLE[who]!) : null,
				name: known ? PEOPLE[who]! : null,
				group,
				deleted: false,
				there: true,
				file
			};
			messages.push(m);
			const uid = this.key();
			const stated = file ? Object.values(STATES[this.states]!(file)) : this.columns.map(() => null);
			const chat = group ? PEOPLE.length + 1 : who + 1;
			const values: Cell[] = [id, uid, chat, m.at * 1000, this.party(out ? OWNER : PEOPLE[who]!), m.text];
			if (this.flagged) values.push(Number(m.out));
			if (this.where === 'columns') values.push(...stated);
			db.run(`insert into ${this.n('messages')} values(${marks(values.length)})`, values);
			if (file && this.where !== 'columns')
				files.run(`insert into ${this.n('attachments')} values(null,${marks(stated.length + 1)})`, [
					this.where === 'beside' ? uid : id,
					...stated
				]);
		}
		db.exec('commit');
		return messages;
	}

	private isLost(m: Profiled, chat: number): boolean {
		if (this.lost === 'some') return this.r.chance(0.1);
		return this.lost === 'a conversation' && !m.group && m.name === PEOPLE[chat];
	}

	private address(name: string): string {
		return this.handles ? `${name.split(' ')[0]!.toLowerCase()}_${name.length}` : `${name.toLowerCase().replace(' ', '.')}@example.org`;
	}

	private key(): string {
		return this.r.hex(32).replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');
	}

	private file(id: number): ProfileFile {
		const [type, ending, head] = this.r.pick(TYPES);
		const bytes = Buffer.concat([head, Buffer.from(Array.from({ length: 700 + id * 3 }, () => this.r.int(0, 255)))]);
		const key = this.key();
		const name = `scan ${id}.${ending}`;
		const stored =
			this.states === 'a key' ? key : UNNAMED.test(this.states) ? createHash('sha256').update(bytes).digest('hex').slice(0, 30) : name;
		return { name, type, key, bytes, path: `Received Files/2025-0${1 + (id % 3)}/${stored}`, sha256: null };
	}

	private put(file: ProfileFile): void {
		const path = join(this.folder, file.path);
		mkdirSync(dirname(path), { recursive: true });
		writeFileSync(path, file.bytes);
		file.sha256 = createHash('sha256').update(file.bytes).digest('hex');
	}
}

/**
 * A phone's message store and its media composed at random, and several captures of it: between them messages are
 * deleted (some singled out, a thread, the oldest), edited and written. The ways of stating an attachment differ, as do
 * those of keeping persons and threads. Each capture is a folder of files. With the truth of each message in each capture.
 */
import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { createDatabase, type Engine } from './engine';
import { Random } from './random';

export interface Filed {
	path: string;
	name: string;
	type: string;
	bytes: Buffer;
	sha256: string;
}

export interface Captured {
	id: number;
	/** Seconds since 1970. */
	at: number;
	text: string | null;
	out: boolean;
	thread: number;
	/** The other side of a one-to-one thread, or the writer of a received message. */
	address: string | null;
	name: string | null;
	file: Filed | null;
	/** In each capture, oldest first. */
	states: ('in' | 'out' | 'before')[];
	wordings: string[];
}

export interface CapturedCase {
	/** Folders of the captures, oldest first. */
	folders: string[];
	made: string;
	messages: Captured[];
}

type Cell = string | number | null;
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Noor Khatib', 'Wen Li'];
const WORDS =
	'boiler valve pump tenant invoice meeting corridor heater ladder window morning please bring the old key for Straße größer مرحبا 你好 😀'.split(
		' '
	);
const PATHS = ['path', 'name', 'size', 'digest'] as const;
const EVENTS = ['rows', 'thread', 'oldest', 'edits', 'none'] as const;
const Y2001 = 978_307_200;

/** How people, threads and files are kept: the tables, and what a message writes into them. */
interface Layout {
	tables: string[];
	/** Rows written once, for all persons and threads. */
	people(db: Engine, s: Composer): void;
	write(db: Engine, s: Composer, m: Draft): void;
	text: string;
}

interface Draft extends Captured {
	who: number;
	alive: boolean;
}

const FILE = 'file text, mime text, total integer, digest text';

const LAYOUTS: Record<string, Layout> = {
	flat: {
		tables: [
			'message(id integer primary key autoincrement, address text, date, type integer, body text)',
			`part(pid integer primary key, message_id integer, ${FILE})`
		],
		people: () => undefined,
		write(db, s, m) {
			db.run('insert into message values(?,?,?,?,?)', [m.id, s.addresses[m.who]!, s.time(m), m.out ? 2 : 1, m.text]);
			if (m.file) db.run('insert into part(message_id,file,mime,total,digest) values(?,?,?,?,?)', [m.id, ...s.stated(m.file)]);
		},
		text: 'body'
	},
	handles: {
		tables: [
			'handle(id integer primary key, ident text)',
			'message(id integer primary key autoincrement, guid text, text text, handle_id integer, date, is_from_me integer)',
			`attachment(aid integer primary key autoincrement, ${FILE})`,
			'message_attachment(message_id integer, attachment_id integer)'
		],
		people(db, s) {
			s.addresses.forEach((a, i) => db.run('insert into handle values(?,?)', [i + 2, a]));
		},
		write(db, s, m) {
			db.run('insert into message values(?,?,?,?,?,?)', [m.id, s.guid(), m.text, m.who + 2, s.time(m), Number(m.out)]);
			if (!m.file) return;
			const { lastInsertRowid } = db.run('insert into attachment(file,mime,total,digest) values(?,?,?,?)', s.stated(m.file));
			db.run('insert into message_attachment values(?,?)', [m.id, lastInsertRowid]);
		},
		text: 'text'
	},
	rooms: {
		tables: [
			`message(id integer primary key autoincrement, remote text, from_me integer, writer text, data text, timestamp, ${FILE})`,
			'room(remote text primary key, title text)'
		],
		people(db, s) {
			db.run('insert into room values(?,?)', [s.room, 'Plant desk']);
		},
		write(db, s, m) {
			const grouped = m.thread === s.addresses.length;
			db.run('insert into message values(?,?,?,?,?,?,?,?,?,?)', [
				m.id,
				grouped ? s.room : s.addresses[m.who]!,
				Number(m.out),
				grouped && !m.out ? s.addresses[m.who]! : null,
				m.text,
				s.time(m),
				...(m.file ? s.stated(m.file) : [null, null, null, null])
			]);
		},
		text: 'data'
	}
};

export const capture = (folder: string, seed: number): CapturedCase => new Composer(folder, new Random(seed)).made();

class Composer {
	readonly addresses: string[];
	readonly room: string;
	private readonly layoutName: string;
	private readonly layout: Layout;
	private readonly states: (typeof PATHS)[number];
	private readonly epoch: string;
	private readonly handles: boolean;
	private readonly log: boolean;
	private readonly messages: Draft[] = [];
	private at = Date.UTC(2024, 5, 1) / 1000;

	constructor(
		private readonly folder: string,
		private readonly r: Random
	) {
		this.layoutName = r.pick(Object.keys(LAYOUTS));
		this.layout = LAYOUTS[this.layoutName]!;
		this.states = r.pick(PATHS);
		this.epoch = r.pick(['seconds', 'milliseconds', 'seconds since 2001', 'written']);
		this.handles = r.chance(0.3);
		this.log = r.chance(0.4);
		const people = r.int(3, NAMES.length);
		this.addresses = Array.from({ length: people }, (_, i) => (this.handles ? `wren_${10 + i}` : `+44770090${String(1000 + i * 37)}`));
		this.room = `room-${r.int(1e6, 9e6).toString(16)}`;
		this.at += r.int(0, 5e6);
	}

	made(): CapturedCase {
		const path = join(this.folder, 'work', 'talk.db');
		mkdirSync(dirname(path), { recursive: true });
		const db = createDatabase(path, [
			`page_size=${this.r.pick([1024, 4096])}`,
			`secure_delete=${this.r.pick(['on', 'off'])}`,
			`journal_mode=${this.log ? 'wal' : 'delete'}`
		]);
		for (const table of this.layout.tables) db.exec(`create table ${table}`);
		this.layout.people(db, this);
		this.add(db, this.r.pick([60, 150]));
		const folders: string[] = [];
		const events: string[] = [];
		const count = this.r.int(2, 4);
		for (let i = 0; i < count; i++) {
			if (i > 0) {
				events.push(this.event(db));
				this.add(db, this.r.pick([5, 20]));
			}
			this.at += 3600;
			for (const m of this.messages) {
				while (m.states.length < i) m.states.push('before');
				m.states.push(m.alive ? 'in' : 'out');
			}
			// A word that says nothing of the order.
			const to = join(this.folder, 'captures', createHash('md5').update(`${this.room}${i}`).digest('hex').slice(0, 6));
			this.copy(path, to);
			folders.push(to);
			this.at += 7200;
		}
		db.close();
		const made = [this.layoutName, this.states, this.epoch, this.handles ? 'handles' : 'numbers', this.log ? 'log' : '', ...events].join(
			' '
		);
		return { folders, made, messages: this.messages };
	}

	private copy(path: string, to: string): void {
		mkdirSync(join(to, 'Store'), { recursive: true });
		for (const ending of ['', '-wal']) if (existsSync(path + ending)) copyFileSync(path + ending, join(to, 'Store', `talk.db${ending}`));
		for (const { file } of this.messages) {
			if (!file) continue;
			mkdirSync(dirname(join(to, file.path)), { recursive: true });
			writeFileSync(join(to, file.path), file.bytes);
		}
	}

	private event(db: Engine): string {
		const { r } = this;
		const kind = r.pick(EVENTS);
		const live = this.messages.filter((m) => m.alive);
		const thread = r.pick(live).thread;
		const gone =
			kind === 'rows'
				? live.filter(() => r.chance(0.1))
				: kind === 'thread'
					? live.filter((m) => m.thread === thread)
					: kind === 'oldest'
						? live.slice(0, Math.floor(live.length / 5))
						: [];
		db.exec('begin');
		for (const m of gone) {
			db.run('delete from message where id=?', [m.id]);
			m.alive = false;
		}
		if (kind === 'edits')
			for (const m of live.filter((x) => x.text !== null && r.chance(0.05))) {
				m.wordings.push(m.text!);
				m.text = `${m.text!} (edited)`;
				db.run(`update message set ${this.layout.text}=? where id=?`, [m.text, m.id]);
			}
		db.exec('commit');
		return kind;
	}

	private add(db: Engine, count: number): void {
		const { r } = this;
		const rooms = this.layoutName === 'rooms' ? 1 : 0;
		db.exec('begin');
		for (let i = 0; i < count; i++) {
			this.at += r.int(30, 20_000);
			const id = this.messages.length + 1;
			const thread = r.int(0, this.addresses.length - 1 + rooms);
			const grouped = thread === this.addresses.length;
			const who = grouped ? r.int(0, 2) : thread;
			const out = r.chance(0.45);
			const file = r.chance(0.12) ? this.file(id) : null;
			const known = !out || !grouped;
			const m: Draft = {
				id,
				at: this.at,
				text: file && r.chance(0.4) ? null : `${Array.from({ length: r.int(1, 12) }, () => r.pick(WORDS)).join(' ')} ${id}`,
				out,
				thread,
				address: known ? this.addresses[who]! : null,
				name: known ? NAMES[who]! : null,
				file,
				states: [],
				wordings: [],
				who,
				alive: true
			};
			this.messages.push(m);
			this.layout.write(db, this, m);
		}
		db.exec('commit');
	}

	/** A picture or a document, under a name that says which only where the store states it. */
	private file(id: number): Filed {
		const picture = this.r.chance(0.5);
		const head = picture ? [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a] : [...Buffer.from('%PDF-1.4\n')];
		const bytes = Buffer.from([...head, ...Array.from({ length: 300 + id * 3 }, () => this.r.int(0, 255))]);
		const name = `scan ${id}.${picture ? 'png' : 'pdf'}`;
		const stored = this.states === 'path' || this.states === 'name' ? name : createHash('md5').update(bytes).digest('hex');
		return {
			path: `Media/${String(id % 7)}/${stored}`,
			name,
			type: picture ? 'image/png' : 'application/pdf',
			bytes,
			sha256: createHash('sha256').update(bytes).digest('hex')
		};
	}

	/** A file's path, type, size and digest, as far as the store states them. */
	stated({ path, name, type, bytes, sha256 }: Filed): Cell[] {
		return [
			this.states === 'path' ? `/data/app/${path}` : this.states === 'name' ? name : null,
			type,
			bytes.length,
			this.states === 'digest' ? sha256 : null
		];
	}

	time({ at }: Draft): Cell {
		if (this.epoch === 'milliseconds') return at * 1000;
		if (this.epoch === 'seconds since 2001') return at - Y2001;
		return this.epoch === 'written' ? new Date(at * 1000).toISOString() : at;
	}

	guid(): string {
		return this.r.hex(32).replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');
	}
}

/** An address book of the persons. */
export function book({ messages }: CapturedCase): string {
	const names = new Map(messages.flatMap((m) => (m.address ? [[m.address, m.name!]] : [])));
	return ['name,address', ...[...names].map(([address, name]) => `${name},${address}`)].join('\n');
}

/**
 * Stores composed at random of what stores are made of: how people, threads, ways, times and texts are kept, in which
 * order the columns stand, what other tables lie beside, how the file was written and what was deleted. Each comes with
 * its truth. Names of tables and columns say something, or nothing.
 */
import { existsSync, readFileSync } from 'node:fs';
import { deflateSync, gzipSync } from 'node:zlib';
import { createDatabase, memoryEngine, type Engine } from './engine';
import { Random } from './random';

export interface Composed {
	text: string;
	/** ms UTC. */
	at: number;
	out: boolean;
	/** The other side of a one-to-one thread, or the writer of a received message. */
	address: string | null;
	name: string | null;
	thread: number;
	gone: boolean;
	/** Whether the bytes of a deleted text are still in the files. */
	there: boolean;
}

export interface ComposedStore {
	path: string;
	/** What it was composed of, for a failing test's message. */
	made: string;
	messages: Composed[];
}

type Cell = string | number | bigint | Uint8Array | null;
interface Column {
	name: string;
	type: string;
	value: (m: Draft) => Cell;
}
interface Draft extends Composed {
	number: number;
	who: number;
	key: string;
}
interface Person {
	address: string;
	name: string;
	key: string | number;
}
interface Thread {
	key: number;
	members: number[];
	title: string | null;
}

const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Noor Khatib', 'Wen Li', 'Yusuf Demirkan', 'Ingrid Solberg'];
const WORDS =
	'the boiler valve was open when we arrived and nobody knew who had closed it maybe rent key paper later noon train Straße Schlüssel größer مرحبا 你好 😀 please sorry'.split(
		' '
	);
const Y1601 = 11_644_473_600_000n;
const Y1 = 62_135_596_800_000n;
const Y2001 = 978_307_200_000;

/** How a time is kept: ms UTC → what is stored. */
const TIMES: Record<string, { type: string; store: (at: number) => Cell }> = {
	seconds: { type: 'integer', store: (at) => Math.floor(at / 1000) },
	milliseconds: { type: 'integer', store: (at) => at },
	microseconds: { type: 'integer', store: (at) => BigInt(at) * 1000n },
	'seconds since 2001': { type: 'real', store: (at) => (at - Y2001) / 1000 },
	'nanoseconds since 2001': { type: 'integer', store: (at) => BigInt(at - Y2001) * 1_000_000n },
	'units since 1601': { type: 'integer', store: (at) => (BigInt(at) + Y1601) * 10_000n },
	'units since year 1': { type: 'integer', store: (at) => (BigInt(at) + Y1) * 10_000n },
	'Julian days': { type: 'real', store: (at) => at / 86_400_000 + 2_440_587.5 },
	written: { type: 'text', store: (at) => new Date(at).toISOString() },
	'digits as text': { type: 'text', store: (at) => String(at) }
};

const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);
const varint = (n: number): number[] => (n < 128 ? [n] : [(n & 127) | 128, ...varint(n >> 7)]);
/** How a text is kept, and the bytes by which a deleted one is found again. */
const BODIES: Record<string, { type: string; store: (text: string) => Cell; trace: (text: string) => Uint8Array | string }> = {
	plain: { type: 'text', store: (t) => t, trace: (t) => t },
	json: { type: 'text', store: (t) => JSON.stringify({ kind: 'said', content: t }), trace: (t) => JSON.stringify(t) },
	markup: { type: 'text', store: (t) => `<p>${t}</p>`, trace: (t) => `<p>${t}</p>` },
	zlib: { type: 'blob', store: (t) => deflateSync(utf8(t)), trace: (t) => deflateSync(utf8(t)) },
	gzip: { type: 'blob', store: (t) => gzipSync(utf8(t)), trace: (t) => gzipSync(utf8(t)) },
	base64: { type: 'text', store: (t) => Buffer.from(t).toString('base64'), trace: (t) => Buffer.from(t).toString('base64') },
	fields: { type: 'blob', store: (t) => Uint8Array.from([8, 1, 18, ...varint(utf8(t).length), ...utf8(t)]), trace: (t) => utf8(t) }
};

const SPEAKING = [
	'message',
	'id',
	'sent',
	'received',
	'body',
	'is_from_me',
	'address',
	'handle_id',
	'handle',
	'display_name',
	'chat',
	'chat_id',
	'member',
	'sender',
	'recipient',
	'status',
	'account'
];
const MUTE = SPEAKING.map((_, i) => `c${i}`);

/** Writes the store of that seed to `path`. */
export function compose(path: string, seed: number): ComposedStore {
	return new Composer(path, new Random(seed)).store();
}

/** Chooses, and remembers what was chosen. */
class Chooser {
	protected readonly made: string[] = [];
	constructor(protected readonly r: Random) {}

	protected choose<T extends string>(what: string, of: readonly T[]): T {
		const chosen = this.r.pick(of);
		this.made.push(`${what}: ${chosen}`);
		return chosen;
	}
}

class Composer extends Chooser {
	private readonly names = this.choose('names', ['speaking', 'speaking', 'mute']) === 'mute' ? MUTE : SPEAKING;
	private readonly time = TIMES[this.choose('time', Object.keys(TIMES))]!;
	private readonly body = BODIES[this.choose('body', ['plain', 'plain', 'plain', ...Object.keys(BODIES)])]!;
	private readonly encoding = this.choose('encoding', ['UTF-8', 'UTF-8', 'UTF-16le', 'UTF-16be']);
	private readonly people: Person[];
	private readonly owner: Person;
	private readonly ref = this.choose('people', ['inline', 'key', 'uuid', 'thread', 'members', 'two columns', 'remote']);
	private readonly groups =
		['thread', 'members', 'remote'].includes(this.ref) && this.choose('groups', ['groups', 'no groups']) === 'groups';
	/** With names that say nothing, only words, or who wrote, can tell the way. */
	private readonly way =
		this.ref === 'two columns'
			? 'sender'
			: this.choose('way', this.names === MUTE ? ['words', 'empty sender'] : ['flag', 'type', 'words', 'sender', 'empty sender']);
	private readonly named = this.choose('persons', ['named', 'named', 'numbers only']) === 'named';
	private readonly threads: Thread[];
	private readonly drafts: Draft[] = [];

	constructor(
		private readonly path: string,
		r: Random
	) {
		super(r);
		const form = this.choose('addresses', ['numbers', 'mail', 'handles', 'mixed']);
		const address = (i: number): string => {
			const kind = form === 'mixed' ? r.pick(['numbers', 'mail']) : form;
			return kind === 'numbers'
				? `+4477009${r.int(10_000, 99_999)}${i}`
				: kind === 'mail'
					? `${r.pick(['ada', 'bo', 'cy'])}${10 + i}@example.org`
					: `${r.pick(['wren', 'kite', 'teal'])}_${10 + i}`;
		};
		const key = (i: number): string | number => (this.ref === 'uuid' ? uuid(r) : i + 1);
		this.owner = { address: address(9), name: 'Piet Hallorann', key: key(0) };
		this.people = NAMES.slice(0, r.int(4, 7)).map((name, i) => ({ address: address(i), name, key: key(i + 1) }));
		this.threads = this.people.map((_, i) => ({ key: 10 + i, members: [i], title: null }));
		if (this.groups) for (let g = 0; g < 2; g++) this.threads.push({ key: 50 + g, members: [g, g + 1, g + 2], title: `Plant ${g}` });
	}

	store(): ComposedStore {
		const { r } = this;
		const wide = this.encoding !== 'UTF-8';
		const journal = this.choose('journal', wide ? ['memory'] : ['delete', 'wal', 'persist', 'truncate']);
		const db = (wide ? memoryEngine : createDatabase)(this.path, [
			`page_size=${this.choose('pages', ['1024', '4096', '8192'])}`,
			`encoding='${this.encoding}'`,
			`auto_vacuum=${this.choose('vacuum', ['0', '0', '1'])}`,
			'secure_delete=off',
			`journal_mode=${journal}`
		]);
		const columns = this.columns();
		const table = this.n(0);
		db.exec(`create table ${table}(${columns.map((c) => `${c.name} ${c.type}`).join(', ')})`);
		if (r.chance(0.4)) db.exec(`create index by_time on ${table}(${this.n(2)})`);
		this.writePeople(db);
		this.talk(r.pick([120, 300]));
		for (let from = 0; from < this.drafts.length; from += 40) {
			db.exec('begin');
			for (const m of this.drafts.slice(from, from + 40))
				db.run(
					`insert into ${table} values(${columns.map(() => '?').join(',')})`,
					columns.map((c) => c.value(m))
				);
			db.exec('commit');
		}
		this.writeNoise(db);
		const thread = r.int(0, this.threads.length - 1);
		const goes = {
			some: () => r.chance(0.15),
			most: () => r.chance(0.6),
			thread: (m: Draft) => m.thread === thread,
			oldest: (m: Draft) => m.number <= 40,
			none: () => false
		}[this.choose('deleted', ['some', 'most', 'thread', 'oldest', 'none'])];
		const rowids = db.all(`select rowid as n from ${table} order by rowid`).map((row) => row['n']);
		db.exec('begin');
		for (const m of this.drafts) {
			if (!goes(m)) continue;
			m.gone = true;
			db.run(`delete from ${table} where rowid=?`, [rowids[m.number - 1]]);
		}
		db.exec('commit');
		db.close();
		this.lookForTraces();
		return { path: this.path, made: this.made.join(', '), messages: this.drafts };
	}

	private n(i: number): string {
		return this.names === MUTE && [0, 8, 10, 12].includes(i) ? `t${i}` : this.names[i]!;
	}

	private columns(): Column[] {
		const { r, people, owner } = this;
		const list: Column[] = [
			{ name: this.n(2), type: this.time.type, value: (m) => this.time.store(m.at) },
			{ name: this.n(4), type: this.body.type, value: (m) => this.body.store(m.text) }
		];
		const add = (i: number, type: string, value: Column['value']): void => void list.push({ name: this.n(i), type, value });
		const writer = (m: Draft): Person | null => (m.out ? (this.way === 'sender' ? owner : null) : people[m.who]!);
		if (this.way === 'flag') add(5, 'integer', (m) => Number(m.out));
		if (this.way === 'type') list.push({ name: 'type', type: 'integer', value: (m) => (m.out ? 2 : 1) });
		if (this.way === 'words')
			list.push({ name: this.names === MUTE ? 'c5' : 'direction', type: 'text', value: (m) => (m.out ? 'sent' : 'received') });
		const byWriter = this.way === 'sender' || this.way === 'empty sender';
		switch (this.ref) {
			case 'inline':
				add(6, 'text', (m) => people[m.who]!.address);
				if (byWriter) add(13, 'text', (m) => writer(m)?.address ?? null);
				break;
			case 'two columns':
				add(13, 'text', (m) => (m.out ? owner : people[m.who]!).address);
				add(14, 'text', (m) => (m.out ? people[m.who]! : owner).address);
				break;
			case 'key':
			case 'uuid': {
				const type = this.ref === 'key' ? 'integer' : 'text';
				if (!byWriter) add(7, type, (m) => people[m.who]!.key);
				else {
					add(13, type, (m) => writer(m)?.key ?? null);
					add(14, type, (m) => (m.out ? people[m.who]! : owner).key);
				}
				break;
			}
			case 'thread':
			case 'members':
				add(11, 'integer', (m) => this.threads[m.thread]!.key);
				if (byWriter || this.groups) add(7, 'integer', (m) => writer(m)?.key ?? null);
				break;
			default:
				add(11, 'text', (m) => this.remote(this.threads[m.thread]!));
				if (byWriter || this.groups) add(13, 'text', (m) => writer(m)?.address ?? null);
		}
		if (r.chance(0.4)) add(3, this.time.type, (m) => (m.out ? null : this.time.store(m.at + 2000)));
		if (r.chance(0.4)) add(15, 'integer', (m) => [0, 1, 2, 3, -1][(m.number * 7) % 5]!);
		if (r.chance(0.3)) add(16, 'text', () => owner.address);
		if (r.chance(0.4)) list.push({ name: this.names === MUTE ? 'c20' : 'guid', type: 'text', value: (m) => m.key });
		for (let i = list.length - 1; i > 0; i--) {
			const k = r.int(0, i);
			[list[i], list[k]] = [list[k]!, list[i]!];
		}
		// Where no name says it, the sender stands before the recipient.
		const pair = [13, 14].map((i) => list.findIndex((c) => c.name === this.n(i)));
		if (this.names === MUTE && pair[1]! >= 0 && pair[0]! > pair[1]!) [list[pair[0]!], list[pair[1]!]] = [list[pair[1]!]!, list[pair[0]!]!];
		const number = this.choose('numbers', ['integer primary key', 'integer primary key autoincrement', 'none', 'text primary key']);
		if (number === 'none') return list;
		return [{ name: this.n(1), type: number, value: (m) => (number.startsWith('text') ? m.key : m.number) }, ...list];
	}

	private remote(t: Thread): string {
		return t.title === null ? this.people[t.members[0]!]!.address : `room-${t.key}-${t.title.length}`;
	}

	private writePeople(db: Engine): void {
		const { people, owner } = this;
		const keyed = ['key', 'uuid', 'thread', 'members'].includes(this.ref);
		const [handle, id, address, name] = [this.n(8), this.n(1), this.n(6), this.n(9)];
		if (keyed) {
			db.exec(
				`create table ${handle}(${id} ${this.ref === 'uuid' ? 'text' : 'integer'} primary key, ${address} text${this.named ? `, ${name} text` : ''})`
			);
			for (const p of this.way === 'sender' ? [owner, ...people] : people)
				db.run(`insert into ${handle} values(?,?${this.named ? ',?' : ''})`, this.named ? [p.key, p.address, p.name] : [p.key, p.address]);
		} else if (this.named) {
			db.exec(`create table ${handle}(${address} text primary key, ${name} text)`);
			for (const p of people) db.run(`insert into ${handle} values(?,?)`, [p.address, p.name]);
		}
		if (this.ref === 'thread' && !this.groups) {
			db.exec(`create table ${this.n(10)}(${id} integer primary key, ${this.n(7)} integer)`);
			for (const t of this.threads) db.run(`insert into ${this.n(10)} values(?,?)`, [t.key, people[t.members[0]!]!.key]);
		} else if (this.ref === 'thread' || this.ref === 'members') {
			db.exec(
				`create table ${this.n(10)}(${id} integer primary key, ${name} text); create table ${this.n(12)}(${this.n(11)} integer, ${this.n(7)} integer)`
			);
			for (const t of this.threads) {
				db.run(`insert into ${this.n(10)} values(?,?)`, [t.key, t.title]);
				for (const k of t.members) db.run(`insert into ${this.n(12)} values(?,?)`, [t.key, people[k]!.key]);
			}
		}
	}

	private talk(count: number): void {
		const { r } = this;
		let at = Date.UTC(2024, 0, 5);
		for (let number = 1; number <= count; number++) {
			at += 1000 * r.pick([r.int(5, 300), r.int(600, 90_000)]);
			const thread = r.int(0, this.threads.length - 1);
			const who = r.pick(this.threads[thread]!.members);
			const out = r.chance(0.45);
			const text = `${Array.from({ length: r.chance(0.05) ? r.int(60, 200) : r.int(2, 14) }, () => r.pick(WORDS)).join(' ')} ${number}`;
			const group = this.threads[thread]!.title !== null;
			const known = out && group ? null : this.people[who]!;
			this.drafts.push({
				number,
				text,
				at,
				out,
				thread: this.ref === 'thread' || this.ref === 'members' || this.ref === 'remote' ? thread : who,
				who,
				key: uuid(r).toUpperCase(),
				address: known?.address ?? null,
				name: this.named ? (known?.name ?? null) : null,
				gone: false,
				there: true
			});
		}
	}

	/** Tables that hold no messages, though some of them look a little like it. */
	private writeNoise(db: Engine): void {
		const { r, people } = this;
		if (r.chance(0.4)) {
			db.exec('create table prefs(k text primary key, v text)');
			for (let i = 0; i < 40; i++) db.run('insert into prefs values(?,?)', [`opt.${i}`, r.pick(['true', '1', 'en_GB'])]);
		}
		if (r.chance(0.4)) {
			db.exec('create table event_log(id integer primary key, ts integer, level integer, line text)');
			for (let i = 0; i < 150; i++)
				db.run('insert into event_log values(?,?,?,?)', [
					i,
					1_700_000_000 + i * 60,
					i % 4,
					`connection to host ${i % 7} closed with code ${i}`
				]);
		}
		if (r.chance(0.4)) {
			db.exec('create table call_history(id integer primary key, number text, at integer, length integer, kind integer)');
			for (let i = 0; i < 40; i++)
				db.run('insert into call_history values(?,?,?,?,?)', [
					i,
					r.pick(people).address,
					1_700_000_000 + i * 6000,
					r.int(0, 400),
					r.int(1, 3)
				]);
		}
		if (r.chance(0.4)) {
			db.exec('create table sticker_pack(id text, title text, author text)');
			for (let i = 0; i < 20; i++) db.run('insert into sticker_pack values(?,?,?)', [String(i), `A pack ${i}`, `Drawn by author ${i}`]);
		}
	}

	private lookForTraces(): void {
		const files = Buffer.concat(
			['', '-wal', '-journal']
				.map((end) => this.path + end)
				.filter(existsSync)
				.map((p) => readFileSync(p))
		);
		const stored = (trace: Uint8Array | string): Buffer => {
			if (typeof trace !== 'string') return Buffer.from(trace);
			const bytes = Buffer.from(trace, this.encoding === 'UTF-8' ? 'utf8' : 'utf16le');
			return this.encoding === 'UTF-16be' ? bytes.swap16() : bytes;
		};
		for (const m of this.drafts) if (m.gone) m.there = files.includes(stored(this.body.trace(m.text)));
	}
}

const uuid = (r: Random): string => [8, 4, 4, 4, 12].map((n) => r.hex(n)).join('-');

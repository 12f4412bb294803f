/**
 * Stores whose messages have belongings: earlier wordings, reactions, a bin, files, groups with their members, a program's
 * own lines between; each kept in one of several ways, chosen at random, with the truth.
 */
import { createDatabase, type Engine } from './engine';
import { Random } from './random';
import { wire } from './wire';

export interface Belonging {
	number: number;
	/** Seconds since 1970. */
	at: number;
	out: boolean;
	/** Index of the conversation. */
	talk: number;
	/** The writer, or −1 for the owner. */
	who: number;
	text: string;
	binned: boolean;
	/** The wording it had before. */
	earlier: string | null;
	reaction: string | null;
	file: string | null;
	gone: boolean;
}

export interface BelongingsStore {
	path: string;
	/** What it was composed of, for a failing test's message. */
	made: string;
	talks: number[][];
	messages: Belonging[];
	/** How each person is named in the store, and by what name. */
	address: (person: number) => string;
	name: (person: number) => string | null;
}

export const OWNER = '+447700900300';
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen', 'Noor al-Khatib', 'Yusuf Demirkan'];
const TALKS = [[0], [1], [2], [3], [4], [5], [0, 1, 3], [1, 2, 4, 5]];
const phone = (p: number): string => (p < 0 ? OWNER : `+44770090031${p + 1}`);
const WORDS =
	'the charge meter boiler letter board week will pay tomorrow again later keys room heat nine days failure credit stairs cold window'.split(
		' '
	);

type Cell = string | number | bigint | Uint8Array | null;
const TIMES: Record<string, (at: number) => Cell> = {
	seconds: (at) => at,
	milliseconds: (at) => at * 1000 + (at % 997),
	'nanoseconds since 2001': (at) => BigInt(at - 978_307_200) * 1_000_000_000n,
	'units since 1601': (at) => BigInt(at + 11_644_473_600) * 10_000_000n,
	written: (at) => new Date(at * 1000).toISOString(),
	'Julian days': (at) => at / 86_400 + 2_440_587.5
};

const bytes = (text: string): number[] => [...new TextEncoder().encode(text)];
const HEAD = [4, 11, ...bytes('celldump'), 0x81, 0xe8, 3, 0x84, 1, 0x40, 18, ...bytes('AttributedWriting'), 0, 0x85, 1, 0x2b];
/** A text in a dump of objects: behind the name of its class and the same two bytes, its length in one byte or marked and in two. */
function dumped(text: string): Uint8Array {
	const t = bytes(text);
	const length = t.length < 128 ? [t.length] : [0x81, t.length & 0xff, t.length >> 8];
	return Uint8Array.from([...HEAD, ...length, ...t, 0x86, 0x84, 2, 0x69, 0x49, 1]);
}

const NAMED = {
	speaking:
		'message conversation contact membership attachment reaction revision id body sent_at sender conversation_id from_me type title phone display_name snippet status target path mime size deleted_at draft',
	foreign:
		'nachrichten gespraeche kontakte teilnehmer anhaenge reaktionen fassungen nr inhalt zeit absender gespraech eigene art titel rufnummer name vorschau zustand bezug pfad format groesse geloescht_am entwurf',
	mute: 't1 t2 t3 t4 t5 t6 t7 a b c d e f g h i j k m n o q p r l'
};
const WORDS_NAMED = NAMED.speaking.split(' ');

class Maker {
	readonly r: Random;
	readonly how: {
		names: keyof typeof NAMED;
		persons: 'number' | 'handle' | 'own number' | 'key';
		members: 'table' | 'list' | 'numbers';
		way: 'flag' | 'bit' | 'box' | 'sender' | 'no sender';
		text: 'plain' | 'fields' | 'dump' | 'json' | 'aside';
		time: string;
		reactions: 'none' | 'rows' | 'table' | 'list';
		wordings: 'none' | 'table' | 'list';
		bin: 'none' | 'column' | 'table';
		threads: 'counted' | 'by person';
		/** What the list of conversations shows of each: its last message, with its time or without. */
		shows: 'nothing' | 'last' | 'last and when';
	};
	private readonly words: Map<string, string>;
	private readonly numbers: number[];
	private readonly keys: string[];
	private readonly room: string[];

	constructor(readonly seed: number) {
		const r = (this.r = new Random(seed * 7919));
		const names = r.pick(['speaking', 'speaking', 'foreign', 'mute'] as const);
		this.how = {
			names,
			persons: r.pick(['number', 'handle', 'own number', 'key'] as const),
			members: r.pick(['table', 'list', 'numbers'] as const),
			way: r.pick(['flag', 'bit', 'box', 'sender', 'no sender'] as const),
			text: r.pick(['plain', 'plain', 'fields', 'dump', 'json', 'aside'] as const),
			time: r.pick(Object.keys(TIMES)),
			reactions: r.pick(['none', 'rows', 'table', 'list'] as const),
			wordings: r.pick(['none', 'table', 'list'] as const),
			// Only a name says that something is in the bin.
			bin: names === 'mute' ? 'none' : r.pick(['none', 'column', 'table'] as const),
			threads: r.pick(['counted', 'by person'] as const),
			shows: r.pick(['nothing', 'last', 'last and when'] as const)
		};
		const list = NAMED[names].split(' ');
		this.words = new Map(WORDS_NAMED.map((word, i) => [word, list[i]!]));
		this.numbers = Array.from({ length: NAMES.length + 1 }, () => r.int(100_000, 1_000_000_000));
		this.keys = this.numbers.map(() => `${r.hex(8)}-${r.hex(4)}-4${r.hex(3)}-a${r.hex(3)}-${r.hex(12)}`);
		this.room = TALKS.map(() => `${r.int(1e9, 9e9)}-${r.int(1e9, 9e9)}`);
	}

	/** The store's own word. */
	n(word: string): string {
		return this.words.get(word)!;
	}

	person(p: number): string | number {
		const i = p < 0 ? NAMES.length : p;
		switch (this.how.persons) {
			case 'number':
				return phone(p);
			case 'handle':
				return `${phone(p).slice(1)}@post.example`;
			case 'own number':
				return this.numbers[i]!;
			case 'key':
				return this.keys[i]!;
		}
	}

	talk(i: number): string | number {
		if (this.how.threads === 'counted') return i + 1;
		const [first] = TALKS[i]!;
		if (TALKS[i]!.length === 1) return this.person(first!);
		return this.how.persons === 'own number' ? -1_000_000_000 - i : this.room[i]!;
	}

	text(number: number): string {
		const words = Array.from({ length: this.r.int(2, 16) }, () => this.r.pick(WORDS)).join(' ');
		return `${words[0]!.toUpperCase()}${words.slice(1)}${this.r.pick(['.', '!', '?', ''])} ${number}`;
	}

	body(text: string | null, number: number): Cell {
		if (text === null) return null;
		switch (this.how.text) {
			case 'fields':
				return wire([1, text], [2, number]);
			case 'dump':
				return dumped(text);
			case 'json':
				return JSON.stringify({ text, v: 1 });
			default:
				return text;
		}
	}
}

/** Writes the store of that seed to `path`. */
export function composeBelongings(path: string, seed: number): BelongingsStore {
	const m = new Maker(seed);
	const { r, how } = m;
	const n = (word: string): string => m.n(word);
	const at = TIMES[how.time]!;
	const key = how.persons === 'own number' ? 'integer' : 'text';
	const talkType = how.threads === 'by person' && key === 'text' ? 'text' : 'integer';
	const db = createDatabase(path, ['secure_delete=off', `page_size=${r.pick([1024, 4096])}`]);
	db.exec('begin');
	writePersons(db, m, key);
	const columns = [n('conversation_id'), n('sent_at'), n('sender'), n('type'), n('status')];
	if (!['sender', 'no sender'].includes(how.way)) columns.push(n('from_me'));
	if (how.text !== 'aside') columns.push(n('body'));
	if (how.bin === 'column') columns.push(n('deleted_at'));
	if (how.reactions === 'rows') columns.push(n('target'));
	if (how.reactions === 'list') columns.push(n('reaction'));
	if (how.wordings === 'list') columns.push(n('revision'));
	const shuffled = columns.map((c) => ({ c, w: r.next() })).sort((a, b) => a.w - b.w);
	const declared = shuffled.map(({ c }) => `${c} ${c === n('conversation_id') ? talkType : c === n('sender') ? key : ''}`);
	db.exec(`create table ${n('message')}(${n('id')} integer primary key, ${declared.join(', ')})`);
	if (how.text === 'aside') db.exec(`create table ${n('message')}_text(${n('id')} integer primary key, ${n('body')} text)`);
	db.exec(
		`create table ${n('attachment')}(${n('id')} integer primary key, ${n('target')} integer, ${n('path')} text, ${n('mime')} text, ${n('size')} integer)`
	);
	if (how.reactions === 'table')
		db.exec(`create table ${n('reaction')}(${n('target')} integer, ${n('sender')} ${key}, emoji text, ${n('sent_at')})`);
	if (how.wordings === 'table')
		db.exec(`create table ${n('revision')}(${n('id')} integer primary key, ${n('target')} integer, ${n('body')} text, ${n('sent_at')})`);
	if (how.bin === 'table') db.exec(`create table ${n('deleted_at')}_list(${n('target')} integer primary key, ${n('deleted_at')})`);
	const insert = (table: string, row: Record<string, Cell>): void =>
		void db.run(
			`insert into ${table}(${Object.keys(row).join(', ')}) values (${Object.keys(row)
				.map(() => '?')
				.join(', ')})`,
			Object.values(row)
		);
	const messages: Belonging[] = [];
	const mark = r.pick([1, 2, 16]);
	let time = 1_715_000_000 + r.int(0, 1e7);
	for (let number = 1; number <= 260; number++) {
		time += r.int(30, 40_000);
		const talk = r.int(0, TALKS.length - 1);
		const out = r.chance(0.45);
		const who = out ? -1 : r.pick(TALKS[talk]!);
		const kind = r.chance(0.06) ? 'line' : how.reactions === 'rows' && messages.length > 5 && r.chance(0.08) ? 'reaction' : 'message';
		const text =
			kind === 'message'
				? m.text(number)
				: kind === 'line'
					? `${NAMES[Math.max(0, who)]!} ${r.pick(['joined the conversation', 'changed the title'])}`
					: r.pick(['❤️', '👍']);
		const of = kind === 'reaction' ? r.pick(messages.slice(-5)) : null;
		if (of) of.reaction = text;
		const row: Record<string, Cell> = {
			[n('id')]: number,
			[n('conversation_id')]: m.talk(talk),
			[n('sent_at')]: at(time),
			[n('sender')]: out ? (how.way === 'sender' ? m.person(-1) : null) : m.person(who),
			[n('type')]: kind === 'line' ? 7 : of ? 9 : 0,
			[n('status')]: r.pick([1, 2, 3, 5])
		};
		if (how.way === 'flag') row[n('from_me')] = Number(out);
		if (how.way === 'box') row[n('from_me')] = out ? 23 : 20;
		if (how.way === 'bit') row[n('from_me')] = (out ? mark : 0) | r.pick([0, 0, 32, 64, 256]);
		const one: Belonging = {
			number,
			at: time,
			out,
			talk,
			who,
			text,
			binned: false,
			earlier: null,
			reaction: null,
			file: null,
			gone: false
		};
		if (kind === 'message') {
			messages.push(one);
			if (how.wordings !== 'none' && r.chance(0.1)) one.earlier = `${m.text(number)} before`;
			one.binned = how.bin !== 'none' && r.chance(0.08);
			if (r.chance(0.06)) one.file = `IMG_${1000 + number}.jpg`;
			if (how.reactions === 'table' || how.reactions === 'list') one.reaction = r.chance(0.1) ? '👍' : null;
		}
		if (of) row[n('target')] = of.number;
		if (how.text === 'aside') insert(`${n('message')}_text`, { [n('id')]: number, [n('body')]: text });
		else row[n('body')] = m.body(text, number);
		if (one.earlier && how.wordings === 'list') row[n('revision')] = JSON.stringify([{ text: one.earlier, until: time + 40 }]);
		if (one.earlier && how.wordings === 'table')
			insert(n('revision'), { [n('target')]: number, [n('body')]: one.earlier, [n('sent_at')]: at(time + 40) });
		if (one.reaction && how.reactions === 'list')
			row[n('reaction')] = JSON.stringify([{ emoji: one.reaction, by: String(m.person(TALKS[talk]![0]!)) }]);
		if (one.reaction && how.reactions === 'table')
			insert(n('reaction'), {
				[n('target')]: number,
				[n('sender')]: m.person(TALKS[talk]![0]!),
				emoji: one.reaction,
				[n('sent_at')]: at(time + 60)
			});
		if (one.binned && how.bin === 'column') row[n('deleted_at')] = at(time + 86_400);
		if (one.binned && how.bin === 'table')
			insert(`${n('deleted_at')}_list`, { [n('target')]: number, [n('deleted_at')]: at(time + 86_400) });
		if (one.file)
			insert(n('attachment'), {
				[n('target')]: number,
				[n('path')]: `/media/${one.file}`,
				[n('mime')]: 'image/jpeg',
				[n('size')]: r.int(10_000, 900_000)
			});
		insert(n('message'), row);
	}
	showLast(db, m, messages);
	db.exec('commit');
	for (const one of messages.filter(() => r.chance(0.08))) {
		one.gone = true;
		db.run(`delete from ${n('message')} where ${n('id')} = ?`, [one.number]);
		if (how.text === 'aside') db.run(`delete from ${n('message')}_text where ${n('id')} = ?`, [one.number]);
	}
	db.close();
	return {
		path,
		made: Object.entries(how)
			.map(([what, which]) => `${what}: ${which}`)
			.join(', '),
		talks: TALKS,
		messages,
		address: (p) => String(m.person(p)),
		name: (p) => NAMES[p] ?? null
	};
}

/** Persons, conversations and who takes part in them. */
function writePersons(db: Engine, m: Maker, key: string): void {
	const { how } = m;
	const n = (word: string): string => m.n(word);
	db.exec(`create table ${n('contact')}(${n('id')} ${key} primary key, ${n('phone')} text, ${n('display_name')} text)`);
	for (const p of [...NAMES.keys(), -1])
		db.run(`insert into ${n('contact')} values (?, ?, ?)`, [m.person(p), phone(p), NAMES[p] ?? 'Piet Hallorann']);
	const talkType = how.threads === 'by person' && key === 'text' ? 'text' : 'integer';
	const peer = how.threads === 'counted' ? `, ${n('sender')} ${key}` : '';
	const list = how.members === 'table' ? '' : `, ${n('membership')} text`;
	const shown =
		how.shows === 'nothing' ? '' : `, ${n('snippet')} text${how.shows === 'last' ? '' : `, ${n('sent_at')}`}, ${n('draft')} text`;
	db.exec(`create table ${n('conversation')}(${n('id')} ${talkType} primary key, ${n('title')} text${peer}${list}${shown})`);
	if (how.members === 'table') db.exec(`create table ${n('membership')}(${n('conversation_id')} ${talkType}, ${n('sender')} ${key})`);
	for (const [i, members] of TALKS.entries()) {
		const group = members.length > 1;
		const values: Cell[] = [m.talk(i), group ? 'House group' : null];
		if (peer) values.push(group ? null : m.person(members[0]!));
		const persons = members.map((p) => m.person(p));
		if (how.members === 'list') values.push(JSON.stringify(persons));
		if (how.members === 'numbers') values.push(persons.join(' '));
		if (shown) values.push(...(how.shows === 'last' ? [null, null] : [null, null, null]));
		db.run(`insert into ${n('conversation')} values (${values.map(() => '?').join(', ')})`, values);
		if (how.members === 'table')
			for (const p of [...members, -1]) db.run(`insert into ${n('membership')} values (?, ?)`, [m.talk(i), m.person(p)]);
	}
}

/** The last message of each conversation, as its list shows it; beside it, in some, what was typed and not sent. */
function showLast(db: Engine, m: Maker, messages: readonly Belonging[]): void {
	if (m.how.shows === 'nothing') return;
	for (const talk of TALKS.keys()) {
		const last = messages.findLast((one) => one.talk === talk);
		if (!last) continue;
		const set = [`${m.n('snippet')} = ?`, `${m.n('draft')} = ?`, ...(m.how.shows === 'last' ? [] : [`${m.n('sent_at')} = ?`])];
		const values: Cell[] = [last.text, m.r.chance(0.5) ? `Not sent yet ${m.text(900 + talk)}` : null];
		if (m.how.shows !== 'last') values.push(TIMES[m.how.time]!(last.at));
		db.run(`update ${m.n('conversation')} set ${set.join(', ')} where ${m.n('id')} = ?`, [...values, m.talk(talk)]);
	}
}

/** Rows with texts and times that nobody wrote to anybody: they are no messages, and what they name is no list of persons. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import type { Correction } from '../../src/core/interpret';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { describeNote } from '../../src/core/wording';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const WORDS = 'boiler window garden parcel ticket morning coffee water letter ladder kitchen evening cellar market bread winter'.split(' ');
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Noor al-Khatib', 'Yusuf Demirkan'];
const ROWS = 60;

type Values = (r: Random, i: number) => unknown[];
interface Other {
	name: string;
	schema: string;
	table: string;
	row: Values;
}

const at = (i: number): number => Date.UTC(2025, 0, 2, 6) + i * 5_000_000;
const phrase = (r: Random, from = 1, to = 5): string => Array.from({ length: r.int(from, to) }, () => r.pick(WORDS)).join(' ');
const sentence = (r: Random): string => {
	const said = phrase(r, 4, 12);
	return `${said[0]!.toUpperCase()}${said.slice(1)}.`;
};
const paragraph = (r: Random): string => Array.from({ length: r.int(2, 6) }, () => sentence(r)).join(' ');
const page = (r: Random): string => `https://${r.pick(WORDS)}.example/${r.pick(WORDS)}/${r.int(1, 9999)}`;

const OTHERS: Other[] = [
	{
		name: 'notes in folders',
		schema:
			'create table folder(id integer primary key, name text); create table note(id integer primary key, folder integer, title text, body text, created integer, modified integer, pinned integer)',
		table: 'note',
		row: (r, i) => [i + 1, r.int(1, 3), phrase(r), paragraph(r), at(i), at(i) + r.int(0, 9999), r.int(0, 1)]
	},
	{
		name: 'appointments with who made them',
		schema:
			'create table event(id integer primary key, summary text, location text, description text, starts integer, ends integer, organizer text, all_day integer)',
		table: 'event',
		row: (r, i) => [i + 1, phrase(r), phrase(r), sentence(r), at(i), at(i) + 3_600_000, r.pick(NAMES), 0]
	},
	{
		name: 'pages visited',
		schema: 'create table urls(id integer primary key, url text, title text, visit_count integer, last_visit integer)',
		table: 'urls',
		row: (r, i) => [i + 1, page(r), phrase(r), r.int(1, 40), at(i)]
	},
	{
		name: 'articles with an author each',
		schema:
			'create table entry(id integer primary key, headline text, body text, byline text, published integer, link text, channel integer, seen integer)',
		table: 'entry',
		row: (r, i) => [i + 1, phrase(r), paragraph(r), r.pick(NAMES), at(i), page(r), r.int(1, 5), r.int(0, 1)]
	},
	{
		name: 'a program’s log',
		schema: 'create table journal(id integer primary key, severity text, component text, message text, logged integer, pid integer)',
		table: 'journal',
		row: (r, i) => [
			i + 1,
			r.pick(['INFO', 'WARN', 'ERROR']),
			r.pick(['net', 'sync', 'ui']),
			r.pick(['connection reset by peer', `sync finished in ${r.int(1, 999)} ms`, `opened view ${r.pick(WORDS)}`]),
			at(i),
			r.int(100, 9999)
		]
	},
	{
		name: 'payments',
		schema:
			'create table booking(id integer primary key, payee text, amount real, memo text, booked integer, currency text, account integer)',
		table: 'booking',
		row: (r, i) => [i + 1, r.pick(NAMES), r.int(-9999, 9999) / 100, r.chance(0.3) ? null : sentence(r), at(i), 'EUR', r.int(1, 2)]
	},
	{
		name: 'tasks on lists',
		schema:
			'create table list(id integer primary key, name text); create table task(id integer primary key, list_id integer, text text, due integer, created integer, done integer)',
		table: 'task',
		row: (r, i) => [i + 1, r.int(1, 3), phrase(r, 2, 7), at(i) + 86_400_000, at(i), r.int(0, 1)]
	},
	{
		name: 'what was copied',
		schema: 'create table item(id integer primary key, content text, copied integer, origin text, favourite integer)',
		table: 'item',
		row: (r, i) => [i + 1, r.chance(0.5) ? sentence(r) : String(r.int(1000, 999999)), at(i), `app.${r.pick(WORDS)}`, r.int(0, 1)]
	},
	{
		name: 'translations',
		schema:
			'create table phrasebook(id integer primary key, source_text text, target_text text, source_lang text, target_lang text, at integer, starred integer)',
		table: 'phrasebook',
		row: (r, i) => [i + 1, sentence(r), sentence(r), 'en', r.pick(['de', 'fr']), at(i), r.int(0, 1)]
	},
	{
		name: 'parcels by their numbers',
		schema: 'create table parcel(id integer primary key, sender text, tracking text, last_event text, updated integer, state text)',
		table: 'parcel',
		row: (r, i) => [
			i + 1,
			phrase(r),
			String(r.int(1_000_000_000, 1_999_999_999)),
			r.pick(['Your parcel has left the depot', 'Handed to a neighbour', 'Out for delivery']),
			at(i),
			r.pick(['Delivered', 'On the way'])
		]
	},
	{
		name: 'accounts of sites',
		schema: 'create table account(id integer primary key, site text, user text, password blob, changed integer)',
		table: 'account',
		row: (r, i) => [i + 1, `${r.pick(WORDS)}.example`, `${r.pick(WORDS)}${r.int(1, 99)}`, Buffer.from([1, 2, i]), at(i)]
	},
	{
		name: 'places with a word on each',
		schema: 'create table visit(id integer primary key, name text, address text, lat real, lon real, arrived integer, comment text)',
		table: 'visit',
		row: (r, i) => [i + 1, phrase(r), `${r.int(1, 99)} Marrow Lane`, 51 + r.int(0, 999) / 1000, r.int(0, 999) / 1000, at(i), sentence(r)]
	}
];

function fill(db: Engine, { schema, table, row }: Other): void {
	const r = new Random(7);
	for (const part of schema.split('; ')) {
		db.exec(part);
		const list = /^create table (folder|list)/.exec(part)?.[1];
		if (list) for (const name of ['Home', 'Work', 'Ideas']) db.run(`insert into ${list}(name) values(?)`, [name]);
	}
	for (let i = 0; i < ROWS; i++) {
		const values = row(r, i);
		db.run(`insert into ${table} values(${values.map(() => '?').join(',')})`, values);
	}
	db.run(`delete from ${table} where id % 7 = 3`);
}

/** Messages to five others, in a table and columns of these names: id, who, text, time, way. */
function talk(db: Engine, create: string, table: string, who: (person: number) => unknown): void {
	const r = new Random(9);
	for (const part of create.split('; ')) db.exec(part);
	if (create.includes('people')) NAMES.forEach((n, i) => db.run('insert into people values(?,?)', [i + 1, n]));
	for (let i = 0; i < ROWS; i++)
		db.run(`insert into ${table} values(?,?,?,?,?)`, [i + 1, who(r.int(0, 4)), `${sentence(r)} ${i}`, at(i), r.int(0, 1)]);
}

describe('whether rows with texts and times are messages', () => {
	let dir = '';
	before(() => (dir = mkdtempSync(join(tmpdir(), 'correspondence-'))));
	after(() => rmSync(dir, { recursive: true }));

	function look(write: (db: Engine) => void, correction: Correction | null = null): Look {
		const path = join(dir, 'one.db');
		const db = createDatabase(path, ['secure_delete=0']);
		db.exec('begin');
		write(db);
		db.exec('commit');
		db.close();
		const one = new Look(openPaths([path]), { reach: 'raw', correction });
		for (const event of one.run()) void event;
		return one;
	}
	const textsIn = (one: Look): (string | null)[] => one.findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.text));

	for (const other of OTHERS)
		it(`none in ${other.name}`, () => {
			const one = look((db) => fill(db, other));
			assert.deepEqual(textsIn(one), []);
			assert.deepEqual(one.contacts(), []);
		});

	it('none of a table that stands beside the messages of the same store', () => {
		const one = look((db) => {
			for (const other of OTHERS.slice(0, 6)) fill(db, other);
			talk(
				db,
				'create table msg(id integer primary key, number text, body text, at integer, mine integer)',
				'msg',
				(p) => `+4477009002${p}0`
			);
		});
		assert.equal(textsIn(one).length, ROWS);
		assert.ok(textsIn(one).every((t) => /\. \d+$/.test(t!)));
	});

	it('but those of stores whose tables and columns are called by other words, or by none', () => {
		const stores: [string, string, (p: number) => unknown][] = [
			['create table words(id integer primary key, speaker text, said text, at integer, mine integer)', 'words', (p) => NAMES[p]],
			[
				'create table people(id integer primary key, name text); create table items(id integer primary key, who_id integer, txt text, t integer, side integer)',
				'items',
				(p) => p + 1
			],
			['create table t7(c1 integer primary key, c2 text, c3 text, c4 integer, c5 integer)', 't7', (p) => `k${p}9a`],
			['create table viesti(id integer primary key, kontakti text, sisus text, aika integer, oma integer)', 'viesti', (p) => NAMES[p]]
		];
		for (const [create, table, who] of stores) {
			const one = look((db) => talk(db, create, table, who));
			assert.equal(textsIn(one).length, ROWS, table);
		}
	});

	it('says why not, and reads them where the user says that they are', () => {
		const notes = OTHERS[0]!;
		const said = look((db) => fill(db, notes)).readings()[0]!;
		const table = said.tables.find((t) => t.name === 'note')!;
		assert.equal(table.role, 'other');
		assert.match(table.why.join(' '), /nothing says that somebody wrote it to somebody/);
		const declared = ['id', 'folder', 'title', 'body', 'created', 'modified', 'pinned'];
		const entry = { table: 'note', declared, role: 'messages' as const, columns: [] };
		const one = look((db) => fill(db, notes), { format: 'ombudsman-reading', version: 1, tables: [entry] });
		assert.ok(textsIn(one).length > ROWS * 0.8);
	});

	it('is said of each store that holds none, or of many in one line', () => {
		const stores = OTHERS.slice(0, 5).map((other, i) => {
			const path = join(dir, `other${i}.db`);
			const db = createDatabase(path);
			db.exec('begin');
			fill(db, other);
			db.exec('commit');
			db.close();
			return path;
		});
		const notesOf = (paths: string[]): string[] => {
			const one = new Look(openPaths(paths), { reach: 'used' });
			for (const event of one.run()) void event;
			return one.notesOfOthers().map((n) => `${n.severity}: ${describeNote(n).split('. ')[0]}`);
		};
		const [first, second] = stores as [string, string];
		assert.deepEqual(notesOf([first, second]), [
			'warning: other0.db: no table reads as messages.',
			'warning: other1.db: no table reads as messages.'
		]);
		const said = 'In 5 databases no table reads as messages: other0.db, other1.db, other2.db and 2 more';
		assert.deepEqual(notesOf(stores), [`warning: ${said}`]);
		const path = join(dir, 'talk.db');
		const db = createDatabase(path);
		talk(
			db,
			'create table people(id integer primary key, name text); create table letters(id integer primary key, person integer, body text, sent integer, mine integer)',
			'letters',
			(person) => person + 1
		);
		db.close();
		assert.deepEqual(notesOf([...stores, path]), [`note: ${said}`]);
	});
});

describe('whether an exported file is one of messages', () => {
	const r = new Random(11);
	const when = (i: number): string => new Date(at(i)).toISOString().slice(0, 19).replace('T', ' ');
	const rows = (line: (i: number) => unknown): unknown[] => Array.from({ length: 30 }, (_, i) => line(i));
	const table = (heads: string, line: (i: number) => string): string => [heads, ...rows(line)].join('\n');
	const entries = (list: unknown[]): string => JSON.stringify(list);

	function look(name: string, content: string): Look {
		const one = new Look([{ name, path: name, source: new MemorySource(new TextEncoder().encode(content)) }], { reach: 'raw' });
		for (const event of one.run()) void event;
		return one;
	}
	const files: [string, string][] = [
		['tasks.csv', table('Task,Created,Done,Notes,Assigned to', (i) => `${phrase(r)},${when(i)},yes,${sentence(r)},${r.pick(NAMES)}`)],
		['hours.csv', table('Person,Start,End,What was done', (i) => `${r.pick(NAMES)},${when(i)},${when(i + 1)},${sentence(r)}`)],
		['orders.csv', table('Order,Ordered at,Item,Price,Status', (i) => `${7_342_078 + i},${when(i)},${phrase(r)},${i},Delivered`)],
		['meter.csv', table('timestamp,value,unit', (i) => `${at(i) / 1000},0.${760_833 + i},kWh`)],
		[
			'events.json',
			entries(rows((i) => ({ summary: phrase(r), start: when(i), end: when(i + 1), organizer: r.pick(NAMES), description: sentence(r) })))
		],
		[
			'articles.json',
			entries(rows((i) => ({ headline: phrase(r), summary: paragraph(r), author: r.pick(NAMES), published: when(i), link: page(r) })))
		],
		[
			'log.json',
			entries(rows((i) => ({ level: r.pick(['INFO', 'WARN']), time: when(i), logger: r.pick(['net', 'ui']), message: sentence(r) })))
		],
		[
			'feed.xml',
			`<rss><channel>${rows((i) => `<item><title>${phrase(r)}</title><description>${paragraph(r)}</description><author>${r.pick(NAMES)}</author><pubDate>${when(i)}</pubDate><link>${page(r)}</link></item>`).join('')}</channel></rss>`
		],
		[
			'service.log',
			rows(
				(i) => `[${when(i)}] ${r.pick(['net', 'sync', 'net.http'])}: ${r.pick(['connection reset by peer', `sync finished in ${i} ms`])}`
			).join('\n')
		]
	];
	for (const [name, content] of files)
		it(`not ${name}`, () => {
			const one = look(name, content);
			assert.deepEqual(one.findings().weave.threads, []);
			assert.deepEqual(one.contacts(), []);
		});
	it('and moments before words and a name are nobody’s numbers', () => {
		const lines = rows((i) => `19.11.2023 0${i % 10}:43;${phrase(r)};${r.pick(NAMES)}`).join('\n');
		assert.deepEqual(look('plan.txt', lines).contacts(), []);
	});
	it('but a talk of persons called by small letters, who say other things each time', () => {
		const lines = rows((i) => `[${when(i)}] ${i % 2 ? 'odile' : 'bram'}: ${sentence(r)}`).join('\n');
		assert.equal(
			look('talk.log', lines)
				.findings()
				.weave.threads.flatMap((t) => t.messages).length,
			30
		);
	});
});

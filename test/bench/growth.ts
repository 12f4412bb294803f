/**
 * How the time of a look grows with a store: `npm run bench:growth`. Each store is made with so many rows and with four times
 * as many; what takes much more than four times as long grows faster than what there is to read. The sqlite3 shell's
 * `select *` on the same files stands beside it. So with tables in a store, and with stores in a folder. Nothing is asserted.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { createDatabase, type Engine } from '../vectors/engine';
import { Random } from '../vectors/random';

const ROWS = 15_000;
const TIMES = 4;
const TABLES = 20;
const STORES = 30;
const WORDS = 'boiler pump valve meter credit month charge heat cold plant letter paid repair water pipe night office room'.split(' ');

interface Kind {
	text: (i: number, random: Random) => string;
	before?: string;
	after?: string;
}
const prose = (i: number, random: Random): string =>
	`${Array.from({ length: random.int(3, 12) }, () => random.pick(WORDS)).join(' ')} ${i}`;

const KINDS: Record<string, Kind> = {
	'texts that differ': { text: prose },
	'notices that begin alike': { text: (i) => `Your meter was read on day ${i}, see the letter` },
	'a small table with an index of its own': {
		text: prose,
		before: `create table folder(id integer primary key, kind integer, position integer, unique(kind, position));
			insert into folder(kind, position) values(0, 0), (0, 1), (0, 2), (0, 3)`
	},
	'a text index': {
		text: prose,
		after: 'create virtual table found using fts5(body); insert into found(rowid, body) select id, body from messages'
	},
	'an index on the texts': { text: prose, before: 'create index by_body on messages(body)' }
};

function make(path: string, kind: Kind, rows: number): void {
	const random = new Random(7);
	const db: Engine = createDatabase(path, ['secure_delete=off']);
	db.exec('create table messages(id integer primary key autoincrement, address text, body text, sent integer, mine integer)');
	if (kind.before) db.exec(kind.before);
	db.exec('begin');
	for (let i = 0; i < rows; i++)
		db.run('insert into messages(address, body, sent, mine) values(?,?,?,?)', [
			`+4479460${10_000 + random.int(0, 19)}`,
			kind.text(i, random),
			1_736_000_000_000 + i * 61_000,
			i % 3 ? 0 : 1
		]);
	if (kind.after) db.exec(kind.after);
	db.exec('commit; delete from messages where id % 9 = 0');
	db.close();
}

/** A store of a program with many tables: whatever they hold, their small numbers are keys of anything. */
function makeTables(path: string, tables: number): void {
	const random = new Random(11);
	const db = createDatabase(path);
	db.exec('begin; create table person(id integer primary key, name text, number text)');
	for (let i = 0; i < 40; i++) db.run('insert into person values(null, ?, ?)', [`${random.pick(WORDS)} ${i}`, `+4479460${10_000 + i}`]);
	db.exec('create table talk(id integer primary key, room integer, who integer, at integer, mine integer, body text)');
	for (let i = 0; i < 3000; i++)
		db.run('insert into talk values(null, ?, ?, ?, ?, ?)', [
			random.int(1, 40),
			random.int(1, 40),
			1_736_000_000 + i * 61,
			i % 2,
			prose(i, random)
		]);
	for (let t = 0; t < tables; t++) {
		db.exec(`create table t${t}(id integer primary key, a integer, b integer, c integer, d integer)`);
		for (let i = 0; i < 400; i++)
			db.run(`insert into t${t} values(null, ?, ?, ?, ?)`, [random.int(0, 3), random.int(0, 40), random.int(0, 300), random.int(0, 3000)]);
	}
	db.exec('commit');
	db.close();
}

/** Small stores of one layout in one folder, as a program can have them: each may be another state of each. */
function makeStores(folder: string, stores: number): string[] {
	return Array.from({ length: stores }, (_, i) => {
		const path = join(folder, `store ${i} of ${stores}.db`);
		make(path, { text: (n, random) => `${prose(n, random)} ${i}` }, 60);
		return path;
	});
}

const timed = (act: () => void): number => {
	const from = performance.now();
	act();
	return performance.now() - from;
};

/** The shortest of three looks, with everything understood and woven, ms. */
function lookAt(path: string): number {
	const once = (): number =>
		timed(() => {
			const look = new Look(openPaths([path]), { reach: 'raw' });
			for (const event of look.run()) void event;
			look.findings();
		});
	return Math.min(once(), once(), once());
}

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-growth-'));
try {
	console.log(`look at ${ROWS} and ${ROWS * TIMES} rows, a ninth of them deleted`.padEnd(58), 'select *');
	for (const [name, kind] of Object.entries(KINDS)) {
		const [few, many] = [ROWS, ROWS * TIMES].map((rows) => {
			const path = join(folder, `${name} ${rows}.db`);
			make(path, kind, rows);
			const shell = (): void => void spawnSync('sqlite3', [path, 'select * from messages'], { stdio: 'ignore' });
			return { look: lookAt(path), shell: Math.min(timed(shell), timed(shell)) };
		});
		const times = (a: number, b: number): string => `${(b / a).toFixed(1)} times as long`;
		console.log(
			`${name.padEnd(40)} ${Math.round(many!.look)} ms, ${times(few!.look, many!.look)}`.padEnd(70),
			`${Math.round(many!.shell)} ms, ${times(few!.shell, many!.shell)}`
		);
	}
	const report = (what: string, few: number, many: number): void =>
		console.log(`${what.padEnd(40)} ${Math.round(many)} ms, ${(many / few).toFixed(1)} times as long`);
	const [few, many] = [TABLES, TABLES * TIMES].map((tables) => {
		const path = join(folder, `${tables} tables.db`);
		makeTables(path, tables);
		return lookAt(path);
	});
	report(`${TABLES * TIMES} tables of small numbers, not ${TABLES}`, few!, many!);
	const [some, more] = [STORES, STORES * TIMES].map((stores) => {
		const paths = makeStores(folder, stores);
		const once = (): number => timed(() => void new Look(openPaths(paths), { reach: 'used' }).survey());
		return Math.min(once(), once());
	});
	report(`a survey of ${STORES * TIMES} stores alike, not ${STORES}`, some!, more!);
} finally {
	rmSync(folder, { recursive: true, force: true });
}

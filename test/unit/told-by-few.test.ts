/** What few rows, or nothing but a log, must tell: a single day, two edits of a long table of events, which of three copies is newest. */
import assert from 'node:assert/strict';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { createDatabase, openDatabase } from '../vectors/engine';

const OWN = '+447946000001';
const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt'];
const number = (i: number): string => `+4477009001${10 + i}`;
const START = Date.UTC(2025, 0, 14, 6);
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent'];
interface Said {
	id: number;
	/** The other side, and whether the owner wrote. */
	with: number;
	mine: boolean;
	at: number;
	text: string;
}
const SAID: Said[] = Array.from({ length: 60 }, (_, i) => ({
	id: i + 1,
	with: i % 3,
	mine: i % 5 < 2,
	at: START + i * 610_000,
	text: `${WORDS[i % 4]!}, ${i}`
}));

interface Line {
	text: string | null;
	sentAt: string;
	direction: string;
	person: string | null;
	standing: string;
	captures?: { capture: string; state: string }[];
	earlierWordingOf?: string;
}

function linesOf(paths: readonly string[]): Line[] {
	const look = new Look(openPaths([...paths]), { reach: 'raw', owner: OWN });
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	return weave.threads.flatMap((t) =>
		t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
	);
}

describe('told by few', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-few-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	describe('two conversations of some twenty messages, beside what was sought', () => {
		const FEW = SAID.filter((s) => s.with < 2).slice(0, 22);
		const isReadRight = (name: string, write: (run: (sql: string, ...values: (string | number | null)[]) => void) => void): void => {
			const path = join(folder, `${name}.db`);
			const db = createDatabase(path);
			db.exec('create table search_history(id integer primary key, query text, at integer)');
			for (let i = 0; i < 9; i++)
				db.run('insert into search_history values(?,?,?)', [i + 1, `${WORDS[i % 4]!.split(' ')[1]} again`, START + i * 9_000_000]);
			write((sql, ...values) => void db.run(sql, values));
			db.close();
			assert.deepEqual(
				linesOf([path])
					.map(({ text, sentAt, direction, person }) => [text, Date.parse(sentAt), direction, person])
					.sort((x, y) => Number(x[1]) - Number(y[1])),
				FEW.map((s) => [s.text, s.at, s.mine ? 'out' : 'in', NAMES[s.with]])
			);
		};
		it('by keys of whom they are with, and small numbers for states', () => {
			const key = (i: number): number => 476_966 + i * 353_257;
			isReadRight('dialogs', (run) => {
				run('create table users(uid integer primary key, first_name text, last_name text, phone text)');
				run('create table dialogs(did integer primary key, kind integer, title text)');
				run('create table messages(mid integer primary key, did integer, from_uid integer, content text, at integer, flags integer)');
				run('insert into users values(?,?,?,?)', 910_001, 'Piet', 'Hallorann', OWN);
				for (const i of [0, 1]) {
					run('insert into users values(?,?,?,?)', key(i), ...(NAMES[i]!.split(' ') as [string, string]), number(i));
					run('insert into dialogs values(?,1,null)', key(i));
				}
				for (const s of FEW)
					run(
						'insert into messages values(?,?,?,?,?,?)',
						s.id * 3,
						key(s.with),
						s.mine ? 910_001 : key(s.with),
						s.text,
						s.at / 1000,
						Number(s.mine) + 2 * (s.id % 2) + 4 * (s.id % 3 === 0 ? 1 : 0)
					);
			});
		});
		const withPersons = (run: Parameters<Parameters<typeof isReadRight>[1]>[0]): void => {
			run('create table people(id integer primary key, name text, phone text, is_me integer)');
			run('create table rooms(id integer primary key, title text)');
			run('create table room_people(room_id integer, person_id integer)');
			run('insert into people values(1,?,?,1)', 'Piet Hallorann', OWN);
			for (const i of [0, 1]) {
				run('insert into people values(?,?,?,0)', i + 2, NAMES[i]!, number(i));
				run('insert into rooms values(?,null)', i + 1);
				for (const person of [1, i + 2]) run('insert into room_people values(?,?)', i + 1, person);
			}
		};
		it('by a word of whom the list says many', () =>
			isReadRight('people', (run) => {
				withPersons(run);
				run('create table messages(id integer primary key, room_id integer, person_id integer, body text, sent_at integer)');
				for (const s of FEW) run('insert into messages values(?,?,?,?,?)', s.id, s.with + 1, s.mine ? 1 : s.with + 2, s.text, s.at);
			}));
		it('in pages, beside receipts', () =>
			isReadRight('pages', (run) => {
				withPersons(run);
				run(
					'create table pages(id integer primary key, room_id integer, page_no integer, first_at integer, last_at integer, messages text)'
				);
				run('create table receipts(message integer, who integer, kind integer, at integer)');
				for (const room of [0, 1]) {
					const own = FEW.filter((s) => s.with === room);
					const listed = own.map((s) => ({ id: s.id, from: s.mine ? 1 : room + 2, at: s.at, text: s.text }));
					run('insert into pages values(?,?,0,?,?,?)', room + 1, room + 1, own[0]!.at, own.at(-1)!.at, JSON.stringify(listed));
					for (const s of own) run('insert into receipts values(?,?,?,?)', s.id, room, 1 + (s.id % 2), s.at + 4000);
				}
			}));
	});

	it('a day that is the same in all rows is one, with the time of day beside it', () => {
		const path = join(folder, 'day.db');
		const db = createDatabase(path, []);
		db.exec('create table t1(a integer primary key, b text, c text, d text, e text, f text); create table t2(a text, b text)');
		for (const [i, name] of NAMES.entries()) db.run('insert into t2 values(?,?)', [number(i), name]);
		for (const s of SAID)
			db.run('insert into t1 values(?,?,?,?,?,?)', [
				s.id,
				'14.01.2025',
				new Date(s.at).toISOString().slice(11, 19),
				s.mine ? 'aus' : 'ein',
				number(s.with),
				s.text
			]);
		db.close();
		assert.deepEqual(
			linesOf([path])
				.map(({ text, sentAt, direction, person }) => [text, Date.parse(sentAt), direction, person])
				.sort((a, b) => Number(a[1]) - Number(b[1])),
			SAID.map((s) => [s.text, s.at, s.mine ? 'out' : 'in', NAMES[s.with]])
		);
	});

	it('two edits and three removals of a long table of events, each known by a key within what it holds', () => {
		const path = join(folder, 'events.db');
		const db = createDatabase(path, []);
		db.exec(`create table events(seq integer primary key autoincrement, type text, room text, actor text, payload text, at integer);
			create table principals(id text primary key, name text, phone text, self integer); create table rooms(id text primary key, name text);
			create table room_principals(room text, principal text)`);
		const people = [
			{ id: 'p-own', name: 'Piet Hallorann', phone: OWN },
			...NAMES.map((name, i) => ({ id: `p-${i}`, name, phone: number(i) }))
		];
		for (const p of people) db.run('insert into principals values(?,?,?,?)', [p.id, p.name, p.phone, Number(p.id === 'p-own')]);
		for (const i of NAMES.keys()) {
			db.run('insert into rooms values(?,null)', [`r${i}`]);
			for (const id of ['p-own', `p-${i}`]) db.run('insert into room_principals values(?,?)', [`r${i}`, id]);
		}
		const add = (type: string, s: Said, more: object, at: number): void =>
			void db.run('insert into events values(null,?,?,?,?,?)', [
				type,
				`r${s.with}`,
				s.mine ? 'p-own' : `p-${s.with}`,
				JSON.stringify({ id: `m${s.id}`, ...more }),
				at
			]);
		for (const s of SAID) add('message.posted', s, { text: s.text }, s.at);
		const [edited, removed] = [
			[SAID[7]!, SAID[30]!],
			[SAID[3]!, SAID[20]!, SAID[41]!]
		];
		for (const s of edited) add('message.edited', s, { text: `${s.text}, said anew` }, s.at + 3_600_000);
		for (const s of removed) add('message.removed', s, {}, s.at + 7_200_000);
		for (const s of SAID.slice(40)) add('message.read', s, {}, s.at + 90_000);
		db.close();
		const lines = linesOf([path]);
		const now = lines.filter((l) => !l.earlierWordingOf).sort((a, b) => Date.parse(a.sentAt) - Date.parse(b.sentAt));
		assert.deepEqual(
			now.map(({ text, standing, person }) => [text, standing, person]),
			SAID.map((s) => [edited.includes(s) ? `${s.text}, said anew` : s.text, removed.includes(s) ? 'binned' : 'kept', NAMES[s.with]])
		);
		assert.deepEqual(
			lines.flatMap((l) => (l.earlierWordingOf ? [l.text] : [])),
			edited.map((s) => s.text)
		);
	});

	for (const wal of [true, false])
		it(`which copy is newer, by ${wal ? 'how far the log goes' : 'the count of changes, though a wording was changed'}`, () => {
			const live = join(folder, `live ${wal}.db`);
			let db = createDatabase(live, wal ? ['journal_mode=wal', 'wal_autocheckpoint=0'] : []);
			db.exec(
				'create table contact(number text primary key, name text); create table message(hash text primary key, number text, mine integer, body text, at integer)'
			);
			for (const [i, name] of NAMES.entries()) db.run('insert into contact values(?,?)', [number(i), name]);
			for (const s of SAID)
				db.run('insert into message values(?,?,?,?,?)', [`h${s.id * 7919}`, number(s.with), Number(s.mine), s.text, s.at]);
			// Named so that neither their names nor the order they are given in says which is which.
			const copies = ['m', 'z', 'a'].map((name, i) => {
				// The engine counts what each connection changes.
				if (!wal) db.close();
				if (!wal) db = openDatabase(live);
				// The newest message is deleted last: by their newest message the last copy would be the oldest.
				if (i === 2) db.run('delete from message where hash=?', [`h${SAID.at(-1)!.id * 7919}`]);
				if (i > 0) {
					for (const s of SAID.slice(i * 10, i * 10 + 3)) db.run('delete from message where hash=?', [`h${s.id * 7919}`]);
					db.run('update message set body=? where hash=?', [`said anew, ${i}`, `h${SAID[i * 10 + 5]!.id * 7919}`]);
				}
				const to = join(folder, `${wal}`, name);
				mkdirSync(to, { recursive: true });
				for (const end of ['', '-wal']) if (existsSync(live + end)) copyFileSync(live + end, join(to, `app.db${end}`));
				return to;
			});
			db.close();
			const lines = linesOf([copies[1]!, copies[2]!, copies[0]!]).filter((l) => !l.earlierWordingOf);
			const statesOf = (text: string): string[] => lines.find((l) => l.text === text)!.captures!.map(({ state }) => state);
			assert.deepEqual(statesOf(SAID[0]!.text), ['in', 'in', 'in']);
			assert.deepEqual(statesOf(SAID[10]!.text), ['in', 'out', 'out']);
			assert.deepEqual(statesOf(SAID[20]!.text), ['in', 'in', 'out']);
			assert.deepEqual(statesOf(SAID.at(-1)!.text), ['in', 'in', 'out']);
			assert.deepEqual(statesOf('said anew, 2'), ['in', 'in', 'in']);
		});

	it('which copy is newer, by what is left in one of what the other has in use, where one has no log', () => {
		const live = join(folder, 'left.db');
		let db = createDatabase(live, ['journal_mode=wal', 'secure_delete=0']);
		db.exec(
			'create table contact(number text primary key, name text); create table message(id integer primary key, number text, mine integer, body text, at integer)'
		);
		for (const [i, name] of NAMES.entries()) db.run('insert into contact values(?,?)', [number(i), name]);
		for (const s of SAID) db.run('insert into message values(?,?,?,?,?)', [s.id, number(s.with), Number(s.mine), s.text, s.at]);
		db.close();
		const copy = (name: string): string => {
			const to = join(folder, 'left', name);
			mkdirSync(to, { recursive: true });
			for (const end of ['', '-wal']) if (existsSync(live + end)) copyFileSync(live + end, join(to, `app.db${end}`));
			return to;
		};
		const first = copy('z');
		db = openDatabase(live);
		db.exec('pragma wal_autocheckpoint=0');
		// The newest is among them: by their newest message the second copy would be the older one.
		const gone = [...SAID.slice(10, 14), SAID.at(-1)!];
		for (const s of gone) db.run('delete from message where id=?', [s.id]);
		const second = copy('a');
		db.close();
		const states = linesOf([second, first]).filter((l) => !l.earlierWordingOf);
		assert.deepEqual(
			states.map((l) => [l.text, l.captures!.map((c) => c.state).join()]).sort(),
			SAID.map((s) => [s.text, gone.includes(s) ? 'in,out' : 'in,in']).sort()
		);
	});

	it('what was sent to several at once and put into the bin is what was written, though nothing else is there', () => {
		const path = join(folder, 'sent to several.db');
		const db = createDatabase(path);
		db.exec(
			'create table contact(number text primary key, name text); create table message(id integer primary key, number text, mine integer, body text, at integer, deleted_at integer)'
		);
		for (const [i, name] of NAMES.entries()) db.run('insert into contact values(?,?)', [number(i), name]);
		for (const s of SAID) db.run('insert into message values(?,?,?,?,?,null)', [s.id, number(s.with), Number(s.mine), s.text, s.at]);
		const text = 'The cellar is flooded, come at once';
		const at = SAID.at(-1)!.at + 60_000;
		for (const i of [0, 1, 2]) db.run('insert into message values(?,?,1,?,?,?)', [100 + i, number(i), text, at + i * 400, at + 9_000_000]);
		db.close();
		assert.deepEqual(
			linesOf([path])
				.flatMap((l) => (Date.parse(l.sentAt) >= at ? [[l.text, l.standing, l.person]] : []))
				.sort(),
			NAMES.map((name) => [text, 'binned', name]).sort()
		);
	});

	it('what somebody changed his own messages to stays what they say', () => {
		const live = join(folder, 'changed.db');
		let db = createDatabase(live);
		db.exec(
			'create table contact(number text primary key, name text); create table message(id integer primary key, number text, mine integer, body text, at integer)'
		);
		for (const [i, name] of NAMES.entries()) db.run('insert into contact values(?,?)', [number(i), name]);
		for (const s of SAID) db.run('insert into message values(?,?,?,?,?)', [s.id, number(s.with), Number(s.mine), s.text, s.at]);
		const copies = ['z', 'a'].map((name) => join(folder, 'changed', name));
		for (const to of copies) mkdirSync(to, { recursive: true });
		db.close();
		copyFileSync(live, join(copies[0]!, 'app.db'));
		db = openDatabase(live);
		const changed = SAID.filter((s) => s.mine).slice(3, 7);
		for (const s of changed) db.run("update message set body='.' where id=?", [s.id]);
		db.close();
		copyFileSync(live, join(copies[1]!, 'app.db'));
		const lines = linesOf(copies);
		assert.deepEqual(
			lines.filter((l) => l.text === '.').map((l) => l.standing),
			changed.map(() => 'kept')
		);
		assert.deepEqual(lines.flatMap((l) => (l.earlierWordingOf ? [l.text] : [])).sort(), changed.map((s) => s.text).sort());
	});

	for (const [marked, phrase] of [
		[true, ''],
		[false, ''],
		[true, 'This message was deleted'],
		[false, '(removed)']
	] as const)
		it(`a text that was ${phrase === '' ? 'blanked' : 'replaced by a phrase'} in a row that stays${marked ? ', marked deleted' : ''}`, () => {
			const live = join(folder, `blanked ${marked} ${phrase}.db`);
			const db = createDatabase(live, ['journal_mode=wal', 'wal_autocheckpoint=0']);
			db.exec(
				'create table contact(number text primary key, name text); create table message(id integer primary key, number text, mine integer, body text, at integer, deleted_at integer)'
			);
			for (const [i, name] of NAMES.entries()) db.run('insert into contact values(?,?)', [number(i), name]);
			for (const s of SAID) db.run('insert into message values(?,?,?,?,?,null)', [s.id, number(s.with), Number(s.mine), s.text, s.at]);
			const copy = (name: string): string => {
				const to = join(folder, `blanked ${marked} ${phrase} ${name}`);
				mkdirSync(to, { recursive: true });
				for (const end of ['', '-wal']) if (existsSync(live + end)) copyFileSync(live + end, join(to, `app.db${end}`));
				return to;
			};
			const first = copy('z');
			const gone = SAID.filter((s) => s.id % 9 === 4);
			for (const s of gone)
				db.run('update message set body=?, deleted_at=? where id=?', [phrase, marked ? START + s.id * 2_000_000 : null, s.id]);
			const second = copy('a');
			db.close();
			const standing = marked ? 'binned' : 'dropped';
			const both = linesOf([first, second]).filter((l) => !l.earlierWordingOf);
			assert.deepEqual(
				both.map((l) => [l.text, l.standing, l.captures!.map((c) => c.state).join()]).sort(),
				SAID.map((s) => (gone.includes(s) ? [s.text, standing, marked ? 'in,binned' : 'in,out'] : [s.text, 'kept', 'in,in'])).sort()
			);
			// Of the newer copy alone what its log has still, each under its own row.
			const alone = linesOf([second]);
			assert.equal(alone.filter((l) => l.standing === 'kept' && l.text !== null).length, SAID.length - gone.length);
			const back = alone.filter((l) => l.text !== null && gone.some((s) => s.text === l.text));
			assert.ok(back.length > 0);
			assert.ok(back.every((l) => l.standing === standing));
			assert.equal(alone.length, SAID.length);
		});
});

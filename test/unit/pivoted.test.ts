/** Messages of which a store says one thing a row: what of, what, and the value. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { messageLine } from '../../src/cli/lines';
import { createDatabase, type Engine } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';

const OWNER = '+447700900300';
const PERSONS = ['Odile Marchetti', 'Tamsin Okafor', 'Noor al-Khatib', 'Li Wen'].map((name, i) => ({ name, number: `+44770090041${i}` }));
const COUNT = 90;
const BEGINNINGS = ['Please the', 'Again that', 'Maybe our', 'When does the', 'Nobody told us of a', 'Thanks for the', 'See you at the'];
const said = (i: number): string => `${BEGINNINGS[i % BEGINNINGS.length]} boiler and its meter, ${i}`;
const at = (i: number): number => Date.UTC(2025, 0, 10, 11) + i * 700_000;
const other = (i: number): (typeof PERSONS)[number] => PERSONS[(i * 3) % 4]!;
const isOut = (i: number): boolean => i % 3 === 0;
const isDeleted = (i: number): boolean => i % 15 === 4;
const isEdited = (i: number): boolean => i % 20 === 7;
const all = Array.from({ length: COUNT }, (_, k) => k + 1);

interface Line {
	text: string | null;
	sentAt: string | null;
	direction: string | null;
	person: string | null;
	standing: string;
	grade: string;
	earlierWordingOf?: string;
	sightings: unknown[];
}

describe('a store that says one thing a row', () => {
	let folder: string;
	before(() => void (folder = mkdtempSync(join(tmpdir(), 'pivoted-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	async function linesOf(write: (db: Engine) => void): Promise<Line[]> {
		const path = join(folder, 'store.db');
		rmSync(path, { force: true });
		const db = createDatabase(path, ['secure_delete=off', 'page_size=16384']);
		write(db);
		db.close();
		const look = await lookAt({ 'store.db': new Uint8Array(readFileSync(path)) }, OWNER);
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
		);
	}

	/** Persons and messages in one table. */
	function write(db: Engine): void {
		db.exec('create table fact(id integer primary key, thing text, said text, value)');
		let id = 0;
		const say = (thing: string, what: string, value: string | number): void =>
			void db.run('insert into fact values(?,?,?,?)', [++id, thing, what, value]);
		for (const [i, { name, number }] of PERSONS.entries()) {
			say(`c${i}`, 'name', name);
			say(`c${i}`, 'number', number);
			say(`c${i}`, 'colour', ['ochre', 'plum'][i % 2]!);
		}
		for (const i of all) {
			say(`m${i}`, 'text', said(i));
			say(`m${i}`, 'time', String(at(i)));
			say(`m${i}`, 'peer', other(i).number);
			say(`m${i}`, 'direction', isOut(i) ? 'out' : 'in');
			if (i % 9 === 0) say(`m${i}`, 'starred', '1');
		}
	}

	const line = (l: Line): unknown[] => [l.text, l.sentAt, l.direction, l.person];
	const truth = (i: number, text = said(i)): unknown[] => [text, new Date(at(i)).toISOString(), isOut(i) ? 'out' : 'in', other(i).name];

	it('reads each message with all that is said of it, and where each of it stands', async () => {
		const lines = await linesOf(write);
		assert.deepEqual(
			lines.map(line),
			lines.length === COUNT ? lines.map((l) => truth(Number(/\d+$/.exec(l.text!)![0]))) : all.map((i) => truth(i))
		);
		assert.ok(lines.every((l) => l.standing === 'kept' && l.grade === 'whole' && l.sightings.length >= 4));
	});

	it('finds what was deleted, row by row', async () => {
		const lines = await linesOf((db) => {
			write(db);
			for (const i of all.filter(isDeleted)) db.run('delete from fact where thing=?', [`m${i}`]);
		});
		const kept = lines.filter((l) => l.standing === 'kept');
		assert.equal(kept.length, all.filter((i) => !isDeleted(i)).length);
		const lost = lines.filter((l) => l.standing === 'remnant' && l.grade !== 'fragment');
		assert.ok(lost.length >= 4, `${lost.length} deleted messages came back`);
		for (const l of lost) {
			const i = Number(/\d+$/.exec(l.text!)![0]);
			assert.ok(isDeleted(i), l.text!);
			assert.deepEqual(line(l), truth(i));
		}
	});

	it('shows what a message said before as an earlier wording of it', async () => {
		const wording = (i: number): string => `${said(i)}, and that is what I meant to say`;
		const lines = await linesOf((db) => {
			write(db);
			// A longer one needs another place; the former stays where it was.
			for (const i of all.filter(isEdited)) {
				db.run("delete from fact where thing=? and said='text'", [`m${i}`]);
				db.run('insert into fact(thing,said,value) values(?,?,?)', [`m${i}`, 'text', wording(i)]);
			}
		});
		const sorted = (of: readonly unknown[]): string[] => of.map((one) => JSON.stringify(one)).sort();
		assert.deepEqual(
			sorted(lines.filter((l) => l.standing === 'kept').map(line)),
			sorted(all.map((i) => truth(i, isEdited(i) ? wording(i) : said(i))))
		);
		assert.deepEqual(sorted(lines.filter((l) => l.earlierWordingOf).map(line)), sorted(all.filter(isEdited).map((i) => truth(i))));
	});

	it('leaves settings and properties of other things alone', async () => {
		const lines = await linesOf((db) => {
			db.exec('create table fact(id integer primary key, thing text, said text, value)');
			for (let i = 0; i < 40; i++)
				for (const [what, value] of [
					['title', `The state of the boiler in winter, ${i}`],
					['width', i],
					['kind', 'page']
				] as const)
					db.run('insert into fact(thing,said,value) values(?,?,?)', [`p${i}`, what, value]);
		});
		assert.deepEqual(lines, []);
	});
});

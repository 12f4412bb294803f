/** A phone with two cards: whoever has it writes from either number, and is written to at either. */
import assert from 'node:assert/strict';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { messageLine } from '../../src/cli/lines';
import { createDatabase } from '../vectors/engine';
import { lookAt } from '../vectors/look-at';

const OWN = ['+447700900300', '+447700900301'];
const OTHERS = ['+447700900410', '+447700900411', '+447700900412'];
const COUNT = 120;
const BEGINNINGS = ['Please the', 'Again that', 'Maybe our', 'When does the', 'Nobody told us of a', 'Thanks for the'];
const said = (i: number): string => `${BEGINNINGS[i % BEGINNINGS.length]} boiler and its meter, ${i}`;
const isOut = (i: number): boolean => i % 7 < 3;
const other = (i: number): string => OTHERS[(i * 5) % 3]!;
/** One of the others writes to both. */
const own = (i: number): string => OWN[i % 11 === 0 ? 1 : (i * 5) % 3 === 1 ? 1 : 0]!;

describe('a phone with two cards', () => {
	let folder: string;
	before(() => void (folder = mkdtempSync(join(tmpdir(), 'cards-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** `names`: of the columns of sender and recipient; `isListed`: whether the store lists the cards. */
	async function waysOf(names: [string, string], isListed: boolean, owner: string | null): Promise<(string | null)[]> {
		const path = join(folder, 'store.db');
		rmSync(path, { force: true });
		const db = createDatabase(path, []);
		if (isListed) {
			db.exec('create table card(slot integer primary key, number text)');
			for (const [i, number] of OWN.entries()) db.run('insert into card values(?,?)', [i, number]);
		}
		db.exec(`create table message(id integer primary key, ${names[0]} text, ${names[1]} text, body text, at integer)`);
		for (let i = 1; i <= COUNT; i++) {
			const ends = isOut(i) ? [own(i), other(i)] : [other(i), own(i)];
			db.run('insert into message values(?,?,?,?,?)', [i, ...ends, said(i), Date.UTC(2025, 0, 10, 11) + i * 700_000]);
		}
		db.close();
		const look = await lookAt({ 'store.db': new Uint8Array(readFileSync(path)) }, owner);
		const { stores, weave } = look.findings();
		const lines = weave.threads.flatMap((t) =>
			t.messages.map(
				(m) =>
					messageLine(m, stores, weave, look.files, look.media, null) as { text: string; direction: string | null; correspondent: string }
			)
		);
		return Array.from({ length: COUNT }, (_, k) => {
			const line = lines.find((l) => l.text === said(k + 1));
			return line ? `${line.direction} ${line.correspondent}` : null;
		});
	}

	const truth = Array.from({ length: COUNT }, (_, k) => `${isOut(k + 1) ? 'out' : 'in'} ${other(k + 1)}`);
	it('knows both numbers where the store lists them, whatever its columns are called', async () => {
		assert.deepEqual(await waysOf(['k1', 'k2'], true, null), truth);
	});
	it('knows the other one where the user names one', async () => {
		assert.deepEqual(await waysOf(['sender', 'recipient'], true, OWN[0]!), truth);
		assert.deepEqual(await waysOf(['sender', 'recipient'], true, OWN[1]!), truth);
	});
	it('does not take two who talk with three for the owner where nothing lists them', async () => {
		assert.ok((await waysOf(['k1', 'k2'], false, null)).every((way) => way === null || !way.startsWith('out')));
	});
});

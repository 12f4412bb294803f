/** A store that has hardly a file left: what is misread beside the few rows in use must not hide whose they are. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { createDatabase } from '../vectors/engine';
import { Random } from '../vectors/random';

const START = 1_735_700_000;
const WORDS = 'lift pump cellar ladder invoice Tuesday garden letter window kettle boiler stairs council parcel'.split(' ');

describe('a store with one file left', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-few-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	for (let seed = 1; seed <= 10; seed++)
		it(`gives it to its message, seed ${seed}`, () => {
			const r = new Random(seed);
			const path = join(folder, `few ${seed}.db`);
			const db = createDatabase(path, ['secure_delete=off']);
			db.exec(`create table entry(id integer primary key autoincrement, guid text unique not null, txt text, party_id integer, at integer, mine integer);
				create table party(id integer primary key autoincrement, ident text not null, country text, unique(ident));
				create table talk(id integer primary key autoincrement, ident text, shown text);
				create table talk_party(talk_id integer, party_id integer, unique(talk_id, party_id));
				create table talk_entry(talk_id integer, entry_id integer, at integer, primary key(talk_id, entry_id));
				create table piece(id integer primary key autoincrement, guid text, made integer, file text, uti text, mime text, name text, bytes integer);
				create table entry_piece(entry_id integer, piece_id integer, unique(entry_id, piece_id))`);
			for (let i = 1; i <= 4; i++) {
				db.run('insert into party values(?,?,?)', [i, `+4479460001${i}7`, 'gb']);
				db.run('insert into talk values(?,?,?)', [i, `+4479460001${i}7`, null]);
				db.run('insert into talk_party values(?,?)', [i, i]);
			}
			const with_ = [22, 36, 59];
			for (let i = 1; i <= 90; i++) {
				const [talk, at] = [r.int(1, 4), START + i * 977];
				const text = with_.includes(i) ? null : `${Array.from({ length: r.int(3, 9) }, () => r.pick(WORDS)).join(' ')} ${i}.`;
				db.run('insert into entry values(?,?,?,?,?,?)', [i, `e-${seed}-${i * 7919}`, text, talk, at, i % 2]);
				db.run('insert into talk_entry values(?,?,?)', [talk, i, at]);
				if (text !== null) continue;
				const name = `scan-${10_000 + i}.jpg`;
				const values = [`p-${i}`, at, `~/Attachments/${i % 16}/${name}`, 'public.jpeg', 'image/jpeg', name, 2000 + i];
				const piece = db.run('insert into piece(guid,made,file,uti,mime,name,bytes) values(?,?,?,?,?,?,?)', values).lastInsertRowid;
				db.run('insert into entry_piece values(?,?)', [i, piece]);
			}
			for (const i of with_.slice(0, 2)) {
				db.run('delete from entry_piece where entry_id=?', [i]);
				db.run('delete from piece where bytes=?', [2000 + i]);
				for (const from of ['entry where id', 'talk_entry where entry_id']) db.run(`delete from ${from}=?`, [i]);
			}
			db.close();
			const look = new Look(openPaths([path]), { reach: 'raw' });
			for (const event of look.run()) void event;
			const messages = look.findings().weave.threads.flatMap((t) => t.messages);
			const [of] = messages.filter((m) => m.first.text === null && m.standing === 'kept');
			assert.deepEqual(
				of?.first.files.map((f) => f.name),
				['scan-10059.jpg']
			);
		});
});

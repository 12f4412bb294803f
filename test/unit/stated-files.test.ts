/** Files that messages state: in columns of their own, in a table beside, in lists within a value; and what is no file. */
import assert from 'node:assert/strict';
import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { plainMessage, type Message } from '../../src/core/weave';
import { createDatabase, openDatabase, type Engine } from '../vectors/engine';

const START = Date.UTC(2025, 0, 10, 8);
const NUMBERS = ['+447700900111', '+447700900122', '+447700900133'];
const COUNT = 60;
const at = (i: number): number => START + i * 61_000;
const said = (i: number): string => `The boiler was looked at, and the report says so, ${i}`;
const hasFile = (i: number): boolean => i % 7 === 0;

interface Made {
	name: string;
	type: string;
	bytes: Buffer;
	digest: string;
}

/** The file of each message that has one: every second has no text of its own. */
const FILES = new Map(
	Array.from({ length: COUNT }, (_, k) => k + 1)
		.filter(hasFile)
		.map((i): [number, Made] => {
			const picture = i % 2 === 0;
			const head = picture ? [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a] : [...Buffer.from('%PDF-1.4\n')];
			const bytes = Buffer.concat([Buffer.from(head), randomBytes(700 + i)]);
			const digest = createHash('sha256').update(bytes).digest('hex');
			return [i, { name: `report of ${i}.${picture ? 'png' : 'pdf'}`, type: picture ? 'image/png' : 'application/pdf', bytes, digest }];
		})
);
/** Number, other side, text, time and way of a message. */
const sent = (i: number, text: string | null): (string | number | null)[] => [i, NUMBERS[i % 3]!, text, at(i), Number(i % 4 === 0)];
const textOf = (i: number): string | null => (hasFile(i) && i % 2 === 1 ? null : said(i));

describe('files that messages state', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-stated-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** A folder with a store, as `write` fills it, and the files under the names that `named` gives. */
	function lookAt(name: string, write: (db: Engine) => void, named: (file: Made) => string = (f) => f.name): Message[] {
		const place = join(folder, name);
		mkdirSync(join(place, 'Media'), { recursive: true });
		for (const file of FILES.values()) writeFileSync(join(place, 'Media', named(file)), file.bytes);
		const db = createDatabase(join(place, 'talk.db'));
		write(db);
		db.close();
		return read([place]);
	}

	function read(paths: string[]): Message[] {
		const look = new Look(openPaths(paths), { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const { stores, weave } = look.findings();
		return weave.threads.flatMap((t) =>
			t.messages.map((m) => plainMessage(m, stores, look.files, { hex: false, stored: false, media: look.media }))
		);
	}

	const each = (write: (i: number, file: Made | undefined) => void): void => {
		for (let i = 1; i <= COUNT; i++) write(i, FILES.get(i));
	};
	const byHash = (f: Made): string => f.digest.slice(0, 20);

	/** Every message once, and every file with the message that states it. */
	function allLinked(messages: readonly Message[]): void {
		assert.equal(messages.length, COUNT);
		for (let i = 1; i <= COUNT; i++) {
			const [message] = messages.filter((m) => m.sentAt === at(i));
			assert.equal(message!.text, textOf(i), String(i));
			assert.deepEqual(
				(message!.attachments ?? []).map((a) => a.sha256),
				FILES.has(i) ? [FILES.get(i)!.digest] : [],
				String(i)
			);
		}
	}

	it('in columns of the message: by path', () => {
		allLinked(
			lookAt('columns', (db) => {
				db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer, file text, mime text)');
				each((i, f) =>
					db.run('insert into m values(?,?,?,?,?,?,?)', [...sent(i, textOf(i)), f ? `/data/app/Media/${f.name}` : null, f?.type ?? null])
				);
			})
		);
	});

	it('and which columns say so, or keep earlier wordings, is told by the reading of the store', () => {
		const roles = (table: string, write: (db: Engine) => void): [string, string][] => {
			const path = join(folder, `roles of ${table}.db`);
			const db = createDatabase(path);
			write(db);
			db.close();
			const look = new Look(openPaths([path]), { reach: 'used', owner: null });
			for (const event of look.run()) void event;
			const columns = look.readings()[0]!.tables.find((t) => t.name === table)!.columns;
			return columns.filter((c) => c.role !== 'none').map((c) => [c.name, c.role]);
		};
		const own = roles('m', (db) => {
			db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer, file text, mime text)');
			each((i, f) =>
				db.run('insert into m values(?,?,?,?,?,?,?)', [...sent(i, textOf(i)), f ? `/data/app/Media/${f.name}` : null, f?.type ?? null])
			);
		});
		assert.deepEqual(own.slice(-2), [
			['file', 'file'],
			['mime', 'file type']
		]);
		const beside = roles('f', (db) => {
			db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer)');
			db.exec('create table f(id integer primary key, message_id integer, path text, mime text, bytes integer, sha256 text)');
			each((i, f) => {
				db.run('insert into m values(?,?,?,?,?)', sent(i, textOf(i)));
				if (f) db.run('insert into f values(null,?,?,?,?,?)', [i, `Media/${f.name}`, f.type, f.bytes.length, f.digest]);
			});
		});
		assert.deepEqual(beside, [
			['message_id', 'of message'],
			['path', 'file'],
			['mime', 'file type'],
			['bytes', 'file size'],
			['sha256', 'file digest']
		]);
		const wordings = roles('h', (db) => {
			db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer)');
			db.exec('create table h(id integer primary key, message_id integer, old text, changed integer)');
			each((i) => {
				db.run('insert into m values(?,?,?,?,?)', sent(i, said(i)));
				if (i % 2 === 0) db.run('insert into h values(null,?,?,?)', [i, `${said(i)}, or later`, at(i) + 60_000]);
			});
		});
		assert.deepEqual(wordings, [
			['message_id', 'of message'],
			['old', 'wording'],
			['changed', 'when']
		]);
	});

	it('by digest alone, and by size and type alone, under columns whose names say nothing', () => {
		for (const digest of [true, false])
			allLinked(
				lookAt(
					`mute ${String(digest)}`,
					(db) => {
						db.exec('create table c0(c1 integer primary key, c2 text, c3 text, c4 integer, c5 integer, c6 text, c7 integer, c8 text)');
						each((i, f) =>
							db.run('insert into c0 values(?,?,?,?,?,?,?,?)', [
								...sent(i, textOf(i)),
								f?.type ?? null,
								f && !digest ? f.bytes.length : null,
								f && digest ? f.digest : null
							])
						);
					},
					byHash
				)
			);
	});

	it('in a table beside, whose names of files are no wordings of the messages', () => {
		const messages = lookAt('beside', (db) => {
			db.exec('create table message(id integer primary key, number text, body text, sent integer, mine integer)');
			db.exec('create table part(pid integer primary key, message_id integer, file text, mime text)');
			each((i, f) => {
				db.run('insert into message values(?,?,?,?,?)', [...sent(i, textOf(i))]);
				if (f) db.run('insert into part(message_id, file, mime) values(?,?,?)', [i, f.name, f.type]);
			});
		});
		allLinked(messages);
		assert.ok(messages.every((m) => !m.earlierWordingOf));
	});

	it('in a table beside of which most rows are of messages that are gone', () => {
		const place = join(folder, 'left');
		lookAt('left', (db) => {
			db.exec('create table message(id integer primary key, number text, body text, sent integer, mine integer)');
			db.exec('create table attachment(aid integer primary key, message_id integer, file text, mime text)');
			each((i, f) => {
				db.run('insert into message values(?,?,?,?,?)', [...sent(i, said(i))]);
				if (f) db.run('insert into attachment(message_id, file, mime) values(?,?,?)', [i, f.name, f.type]);
			});
		});
		const db = openDatabase(join(place, 'talk.db'), ['secure_delete=on']);
		db.run('delete from message where id < 33');
		db.exec('vacuum');
		db.close();
		const messages = read([place]);
		for (const [i, f] of FILES)
			if (i >= 33)
				assert.deepEqual(
					messages.find((m) => m.sentAt === at(i))?.attachments?.map((a) => a.sha256),
					[f.digest],
					String(i)
				);
	});

	it('in a list within the message’s own JSON, and in a column that holds such a list', () => {
		const listed = (f: Made | undefined): unknown[] =>
			f ? [{ path: `Media/${f.name}`, fileName: f.name, contentType: f.type, size: f.bytes.length }] : [];
		allLinked(
			lookAt('json', (db) => {
				db.exec('create table items(id text primary key, json text)');
				each((i, f) =>
					db.run('insert into items values(?,?)', [
						`m-${i}`,
						JSON.stringify({
							type: i % 4 === 0 ? 'outgoing' : 'incoming',
							number: NUMBERS[i % 3],
							body: textOf(i),
							sent_at: at(i),
							attachments: listed(f)
						})
					])
				);
			})
		);
		allLinked(
			lookAt('list', (db) => {
				db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer, files text)');
				each((i, f) => db.run('insert into m values(?,?,?,?,?,?)', [...sent(i, textOf(i)), f ? JSON.stringify(listed(f)) : null]));
			})
		);
	});

	it('a message without writing stays one where its kind has only a number; a call with a recording does not become one', () => {
		const messages = lookAt('kinds', (db) => {
			db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer, kind integer, file text)');
			each((i, f) =>
				db.run('insert into m values(?,?,?,?,?,?,?)', [...sent(i, f ? null : said(i)), f ? 3 : 1, f ? `Media/${f.name}` : null])
			);
		});
		assert.equal(messages.length, COUNT);
		assert.equal(messages.filter((m) => m.attachments).length, FILES.size);
		const calls = lookAt('calls', (db) => {
			db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer, kind text, file text)');
			each((i, f) =>
				db.run('insert into m values(?,?,?,?,?,?,?)', [...sent(i, f ? null : said(i)), f ? 'call' : 'text', f ? `Media/${f.name}` : null])
			);
		});
		assert.equal(calls.length, COUNT - FILES.size);
	});

	it('a media type of the text itself states no file', () => {
		const messages = lookAt('plain', (db) => {
			db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer, mime text)');
			each((i) => db.run('insert into m values(?,?,?,?,?,?)', [...sent(i, said(i)), 'text/plain']));
		});
		assert.equal(messages.length, COUNT);
		assert.ok(messages.every((m) => !m.attachments));
	});

	it('sounds go by many names: what the store calls one is found though the file calls itself another', () => {
		const wav = (i: number): Buffer => Buffer.concat([Buffer.from('RIFF\0\0\0\0WAVEfmt '), randomBytes(900 + i)]);
		const sounds = new Map([7, 14, 21].map((i) => [i, wav(i)]));
		const place = join(folder, 'sounds');
		mkdirSync(place);
		for (const [i, bytes] of sounds) writeFileSync(join(place, `x${i}`), bytes);
		const db = createDatabase(join(place, 'talk.db'));
		db.exec('create table m(id integer primary key, number text, body text, sent integer, mine integer, mime text, size integer)');
		each((i) =>
			db.run('insert into m values(?,?,?,?,?,?,?)', [
				...sent(i, said(i)),
				sounds.has(i) ? 'audio/x-wav' : null,
				sounds.get(i)?.length ?? null
			])
		);
		db.close();
		const linked = read([place]).flatMap((m) => m.attachments ?? []);
		assert.deepEqual(
			linked.map((a) => a.link),
			['size and type', 'size and type', 'size and type']
		);
	});
});

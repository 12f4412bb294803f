/** What a look takes of what was given: stores left out, a span, a zone, further reaches, a survey before; many files. */
import assert from 'node:assert/strict';
import { chmodSync, copyFileSync, mkdirSync, mkdtempSync, rmSync, unlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths, vanished } from '../../src/cli/files';
import { Look, type LookOptions } from '../../src/core/look';
import { AddressBook, Identities } from '../../src/core/people';
import type { Woven } from '../../src/core/weave';
import { createDatabase } from '../vectors/engine';
import { TEXT_FORMS } from '../vectors/exports';

const START = Date.UTC(2025, 0, 10, 8);
const DAY = 86_400_000;
let folder: string;
const at = (name: string): string => join(folder, name);
before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-look-'))));
after(() => rmSync(folder, { recursive: true, force: true }));

/** Messages a day apart; every ninth is deleted and its bytes are left. */
function store(name: string, count: number, prefix = 'The boiler was cold on day', pageSize = 4096): string {
	const db = createDatabase(at(name), [`page_size=${pageSize}`, 'secure_delete=off']);
	db.exec('create table notes(id integer primary key autoincrement, number text, body text, sent integer, mine integer)');
	db.exec('begin');
	for (let i = 0; i < count; i++)
		db.run('insert into notes(number, body, sent, mine) values(?,?,?,?)', [
			i % 2 ? '+447700900111' : '+447700900122',
			`${prefix} ${i}`,
			START + i * DAY,
			Number(i % 3 === 0)
		]);
	db.exec('commit');
	db.exec('delete from notes where id % 9 = 0');
	db.close();
	return at(name);
}

function look(paths: string[], options: Partial<LookOptions> = {}): { look: Look; messages: Woven[] } {
	const made = new Look(openPaths(paths), { reach: 'raw', ...options });
	for (const event of made.run()) void event;
	return { look: made, messages: made.findings().weave.threads.flatMap((t) => t.messages) };
}

describe('what is chosen', () => {
	it('stores left out are not read at all', () => {
		const a = store('a.db', 40, 'The boiler was cold on day');
		const b = store('b.db', 40, 'The meter was read on day');
		const { look: made, messages } = look([a, b], { leftOut: [b] });
		assert.deepEqual(
			made.groups.map((g) => g.name),
			['a.db']
		);
		assert.ok(messages.length > 30 && messages.every((m) => m.first.text!.startsWith('The boiler')));
	});
	it('a span keeps its messages, lost ones among them, and those whose time is not known', () => {
		const { messages } = look([store('c.db', 40)], { dates: { from: START + 10 * DAY, to: START + 20 * DAY } });
		const days = messages.filter((m) => m.first.sentAt !== null).map((m) => (m.first.sentAt! - START) / DAY);
		assert.deepEqual(
			days.sort((x, y) => x - y),
			Array.from({ length: 11 }, (_, i) => i + 10)
		);
		assert.ok(messages.some((m) => m.standing === 'remnant'));
	});
	it('a further reach adds to what was found and repeats nothing', () => {
		const { look: made } = look([store('d.db', 60)], { reach: 'used' });
		const before = made.findings().weave.threads.flatMap((t) => t.messages);
		assert.ok(before.length > 0 && before.every((m) => m.standing === 'kept'));
		made.goOnTo('raw');
		const reaches = new Set<string>();
		for (const event of made.run()) if (event.kind === 'progress' && event.total > 0) reaches.add(event.reach);
		const all = made.findings().weave.threads.flatMap((t) => t.messages);
		assert.deepEqual(new Set(all.map((m) => m.id)).size, all.length);
		assert.equal(all.filter((m) => m.standing === 'kept').length, before.length);
		assert.ok(all.some((m) => m.standing === 'remnant'));
		assert.ok(!reaches.has('used'), 'rows in use were not read again');
		const [account] = made.account();
		assert.equal(account!.lines.filter((l) => l.space === 'rows in use').length, 1);
	});
	it('a zone reads times that state none, and leaves the others', () => {
		const db = store('e.db', 12);
		writeFileSync(
			at('talk.txt'),
			TEXT_FORMS[0]!.write(
				[0, 1, 2].map((i) => ({
					at: Date.UTC(2025, 6, 1, 12, i),
					writer: i % 2 ? 'Odile Marchetti' : 'Piet Hallorann',
					text: `Summer ${i}`
				}))
			)
		);
		const { messages } = look([db, at('talk.txt')], { zone: 'Europe/Brussels' });
		assert.equal(messages.find((m) => m.first.text === 'Summer 1')!.first.sentAt, Date.UTC(2025, 6, 1, 10, 1));
		assert.ok(messages.some((m) => m.first.sentAt === START));
	});
	it('what states when a container was taken holds for what lies in it; what is nearer wins', () => {
		mkdirSync(at('one'), { recursive: true });
		mkdirSync(at('two'), { recursive: true });
		const path = store('f.db', 30);
		copyFileSync(path, at('one/f.db'));
		copyFileSync(path, at('two/f.db'));
		const { look: made } = look([at('one/f.db'), at('two/f.db')], {
			takenAt: new Map([
				[at('two'), START],
				[folder, START + 90 * DAY]
			])
		});
		const [family] = made.findings().weave.families;
		assert.deepEqual(
			family!.captures.map((c) => [c.name, c.time, c.stated]),
			[
				['two', START, true],
				['one', START + 90 * DAY, true]
			]
		);
	});
});

describe('a survey', () => {
	it('says what there is, and that it read only a part', () => {
		const path = store('large.db', 30_000, 'The boiler was cold on day', 1024);
		const made = (): Look => new Look(openPaths([path]), { reach: 'raw' });
		const [whole] = made().survey();
		const [part] = made().survey(200_000);
		assert.deepEqual([whole!.kind, whole!.sampled, whole!.estimate], ['messages', false, 30_000 - 3333]);
		assert.equal(part!.sampled, true);
		assert.ok(Math.abs(part!.estimate - whole!.estimate) < whole!.estimate * 0.2, `${part!.estimate} for ${whole!.estimate}`);
		assert.ok(whole!.bytes.used > 1_000_000 && whole!.bytes.logs === 0);
	});
	it('keeps apart threads, not messages, where record numbers are many', () => {
		assert.equal(new Look(openPaths([at('large.db')]), { reach: 'raw' }).survey()[0]!.threads, 2);
	});
});

describe('files of a folder', () => {
	it('thousands of them need no more descriptors than a few', () => {
		mkdirSync(at('many'), { recursive: true });
		for (let i = 0; i < 2500; i++) writeFileSync(at(`many/${i}.dat`), `number ${i}`);
		const files = openPaths([at('many')]);
		assert.equal(files.length, 2500);
		for (const f of [...files, ...files]) assert.ok(new TextDecoder().decode(f.source.read(0, 99)).startsWith('number'));
	});
	it('one that vanishes while it is read has no bytes from then on, and is named', () => {
		mkdirSync(at('going'), { recursive: true });
		for (let i = 0; i < 300; i++) writeFileSync(at(`going/${i}.dat`), 'here');
		const files = openPaths([at('going')]);
		unlinkSync(at('going/7.dat'));
		assert.equal(files.find((f) => f.name.endsWith('7.dat') && f.path === at('going/7.dat'))!.source.read(0, 4).length, 0);
		assert.ok(vanished.has(at('going/7.dat')));
	});
	it('one whose store breaks the look off takes nothing from the others, and is named', () => {
		const [whole, broken] = [
			store('whole.db', 60, 'The boiler was cold on day'),
			store('broken.db', 3000, `${'The pump was loud. '.repeat(150)}On day`)
		];
		const files = openPaths([whole, broken]);
		const of = files.findIndex((f) => f.path === broken);
		const inner = files[of]!.source;
		const looked = (until: number): { boiler: number; pump: number; said: unknown[] } => {
			const source = {
				size: inner.size,
				read: (offset: number, length: number): Uint8Array => {
					if (Math.min(offset + length, inner.size) > until) throw new Error('no such page');
					return inner.read(offset, length);
				}
			};
			const look = new Look(
				files.map((f, i) => (i === of ? { ...f, source } : f)),
				{ reach: 'raw' }
			);
			for (const event of look.run()) void event;
			const texts = look.findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.text ?? ''));
			const said = look.allNotes().flatMap((n) => (n.code === 'store-broke-off' ? [n.detail!['store']] : []));
			return { boiler: texts.filter((t) => t.includes('boiler')).length, pump: texts.filter((t) => t.includes('pump')).length, said };
		};
		const all = looked(inner.size);
		assert.deepEqual([all.said.length, all.pump > 2500], [0, true]);
		// Its header alone can be read, and its first block.
		for (const until of [4096, 4 << 20])
			assert.deepEqual({ ...looked(until), pump: 0 }, { boiler: all.boiler, pump: 0, said: ['broken.db'] });
	});
	it('one that may not be read is passed over and named, where others are there', { skip: process.getuid?.() === 0 }, () => {
		mkdirSync(at('rights'), { recursive: true });
		writeFileSync(at('rights/a.dat'), 'a');
		writeFileSync(at('rights/b.dat'), 'b');
		chmodSync(at('rights/b.dat'), 0);
		const unreadable: string[] = [];
		assert.deepEqual(
			openPaths([at('rights')], unreadable).map((f) => f.name),
			['a.dat']
		);
		assert.deepEqual(unreadable, [at('rights/b.dat')]);
	});
});

describe('one correspondent under many names', () => {
	const book = new AddressBook(
		[
			{ name: 'Odile Marchetti', numbers: ['06 39 98 04 17'], emails: ['Odile@Marrow.example'], handles: [] },
			{ name: 'Tamsin Okafor', numbers: ['+44 7700 900271'], emails: [], handles: [] }
		],
		['+33639980418', '+33639980419']
	);
	const { canonical } = new Identities(book, [
		{ address: '+447700900271', name: 'Tamsin Okafor' },
		{ address: '+447700900455', name: 'Sam' },
		{ address: '+447700900456', name: 'Sam' }
	]);
	const of = (address: string | null, name: string | null = null): string => canonical({ address, name });
	it('a number however it is written, the country told from the evidence', () => {
		assert.equal(of('0639980417'), of('+33 6 39 98 04 17'));
		assert.equal(of('0033639980417'), of('+33639980417'));
		assert.notEqual(of('+33639980417'), of('+44639980417'));
	});
	it('a name that belongs to one number is that number; one that two people have is neither', () => {
		assert.equal(of('Tamsin Okafor'), of('+447700900271'));
		assert.equal(of('tamsin  okafor'), of('+447700900271'));
		assert.notEqual(of('Sam'), of('+447700900455'));
		assert.notEqual(of('Sam'), of('+447700900456'));
	});
});

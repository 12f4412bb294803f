/** Address books in every form: whose name stands with a message, whom the case knows, and that none of it is a conversation. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { readBook, readList, utf8Size } from '../../src/core/people';
import { BOOK_FORMS, BOOK_STORES, nameOf, PERSONS } from '../vectors/books';
import { STRUCTURED_FORMS } from '../vectors/book-forms';
import { createDatabase, type Engine } from '../vectors/engine';

const STRANGER = '+447700900199';
const digits = (number: string): string => number.replace(/\D/g, '').slice(-9);

describe('address books', () => {
	let folder: string;
	const addresses = PERSONS.flatMap((p) => [...p.numbers, ...p.emails].map((address) => ({ address, name: nameOf(p) })));
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-books-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	/** A store that knows only numbers and addresses, in a folder of its own. */
	function talkIn(place: string): void {
		mkdirSync(place);
		const db = createDatabase(join(place, 'talk.db'));
		db.exec('create table message(id integer primary key, address text, sent integer, type integer, body text)');
		[...addresses, { address: STRANGER, name: null }].forEach(({ address }, i) => {
			for (let k = 0; k < 4; k++)
				db.run('insert into message(address, sent, type, body) values(?,?,?,?)', [
					address,
					1_736_000_000 + (i * 4 + k) * 700,
					1 + (k % 2),
					`Is the boiler on again today, or not before ${i * 4 + k}`
				]);
		});
		db.close();
	}

	async function check(place: string): Promise<Look> {
		const look = new Look((await unwrap(openPaths([place]), [])).files, { reach: 'raw', owner: null });
		for (const event of look.run()) void event;
		const { messages } = { messages: look.findings().weave.threads.flatMap((t) => t.messages) };
		assert.equal(messages.length, (addresses.length + 1) * 4, 'the book is no conversation');
		const named = new Map(messages.map((m) => [m.first.correspondent?.address, m.first.correspondent?.name ?? null]));
		for (const { address, name } of addresses) assert.equal(named.get(address), name, address);
		assert.equal(named.get(STRANGER), null);
		const contacts = look.contacts();
		assert.deepEqual(
			contacts.map((c) => [c.name, [...c.numbers.map(digits), ...c.emails].sort()]).sort((a, b) => (String(a[0]) < String(b[0]) ? -1 : 1)),
			PERSONS.map((p) => [nameOf(p), [...p.numbers.map(digits), ...p.emails].sort()]).sort((a, b) => (String(a[0]) < String(b[0]) ? -1 : 1))
		);
		assert.ok(contacts.every((c) => c.sightings.length > 0 && c.standing === 'kept'));
		return look;
	}

	BOOK_FORMS.forEach(({ form, name, bytes }, i) =>
		it(form, async () => {
			const place = join(folder, `form ${i}`);
			talkIn(place);
			writeFileSync(join(place, name), bytes());
			await check(place);
		})
	);

	STRUCTURED_FORMS.forEach(({ form, name, bytes }, i) =>
		it(`${form}, each person where it stands`, async () => {
			const place = join(folder, `structured ${i}`);
			talkIn(place);
			writeFileSync(join(place, name), bytes());
			const look = await check(place);
			for (const { numbers, sightings } of look.contacts())
				for (const { file, offset, length } of sightings) {
					const { source } = look.files[file]!;
					const stands = new TextDecoder().decode(source.read(offset, length)).replace(/\D/g, '');
					for (const n of numbers) assert.ok(stands.includes(digits(n)), `${n} in ${stands}`);
					assert.ok(length < source.size / 3, 'no more than its own place');
				}
		})
	);

	BOOK_STORES.forEach(({ layout, write }, i) =>
		it(`a store with ${layout}`, async () => {
			const place = join(folder, `store ${i}`);
			talkIn(place);
			const db = createDatabase(join(place, 'contacts.db'));
			write(db);
			db.close();
			await check(place);
		})
	);

	it('a person in two books, whose number each writes in its way, is one', async () => {
		const place = join(folder, 'two books');
		talkIn(place);
		BOOK_FORMS.filter(({ form }) => form === 'entries of JSON' || form === 'columns: Vorname').forEach(({ name, bytes }) =>
			writeFileSync(join(place, name), bytes())
		);
		const look = await check(place);
		assert.ok(look.contacts().every((c) => new Set(c.sightings.map((s) => s.file)).size === 2));
	});

	for (const [where, write] of [
		[
			'in their own rows',
			(db: Engine) => {
				db.exec('create table contact(id integer primary key, name text, phone text, is_hidden int default 1, deleted int default 0)');
				PERSONS.forEach((p, i) =>
					db.run('insert into contact values(?,?,?,?,?)', [i + 1, nameOf(p), p.numbers[0]!, i % 2, i === 3 ? 1 : 0])
				);
			}
		],
		[
			'in those that their entries are joined to',
			(db: Engine) => {
				db.exec('create table raw(_id integer primary key, account int, deleted int)');
				db.exec('create table data(_id integer primary key, kind int, raw_id int, value text)');
				PERSONS.forEach((p, i) => {
					db.run('insert into raw values(?,1,?)', [i + 1, i === 3 ? 1 : 0]);
					db.run('insert into data(kind, raw_id, value) values(1,?,?)', [i + 1, nameOf(p)]);
					db.run('insert into data(kind, raw_id, value) values(2,?,?)', [i + 1, p.numbers[0]!]);
				});
			}
		]
	] as const)
		it(`persons whom the store marks deleted ${where} are in the bin`, () => {
			const place = join(folder, `bin ${where}`);
			mkdirSync(place);
			const db = createDatabase(join(place, 'contacts.db'));
			write(db);
			db.close();
			const look = new Look(openPaths([place]), { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			assert.deepEqual(
				look.contacts().map((c) => [c.name, c.standing]),
				PERSONS.map((p, i) => [nameOf(p), i === 3 ? 'binned' : 'kept'])
			);
		});

	it('what is noted of persons, and when they were last changed, makes no messages of them', async () => {
		const place = join(folder, 'notes');
		talkIn(place);
		const db = createDatabase(join(place, 'contacts.db'));
		db.exec('create table person(id integer primary key, first text, last text, note text, created int, changed int)');
		db.exec('create table label(id integer primary key, value text)');
		db.exec('create table multi(uid integer primary key, person_id int, property int, label int, value text)');
		['mobile', 'home', 'work'].forEach((word, i) => db.run('insert into label values(?,?)', [i + 1, word]));
		PERSONS.forEach((p, i) => {
			const note = i % 3 ? 'keys; second floor, left' : 'calls only after 6';
			db.run('insert into person values(?,?,?,?,?,?)', [i + 1, p.given, p.family, note, 700_000_000 + i * 999, 710_000_000 + i * 77]);
			p.numbers.forEach((n, k) => db.run('insert into multi(person_id, property, label, value) values(?,3,?,?)', [i + 1, 3 - k, n]));
			for (const e of p.emails) db.run('insert into multi(person_id, property, label, value) values(?,4,2,?)', [i + 1, e]);
		});
		db.close();
		await check(place);
	});

	it('a number written in groups as a date could be is one, where there is no such day; a day is none', () => {
		const rows = ['Wen Li;3333-25-9910', 'Noor Haddad;0644.39.8433', 'Bram Vesterholt;662-22-5846', 'Odile Marchetti;14.01.2025'];
		const text = ['Name;Phone', ...rows].join('\n');
		const cards = readBook({ text, sizeOf: utf8Size, start: 0 }, 'names.csv');
		assert.deepEqual(
			cards.map((c) => c.numbers),
			[['3333-25-9910'], ['0644.39.8433'], ['662-22-5846'], []]
		);
	});
	it('a person of a list is sighted at the bytes of its row', () => {
		const text = 'Name;Phone\r\nŁukasz Brønsted;+447700900188\r\nWen Li;+447700900177\r\n';
		const bytes = new TextEncoder().encode(`\ufeff${text}`);
		const cards = readBook({ text, sizeOf: utf8Size, start: 3 }, 'book.csv');
		assert.deepEqual(
			cards.map((c) => new TextDecoder().decode(bytes.subarray(c.offset, c.offset + c.length)).trim()),
			['Łukasz Brønsted;+447700900188', 'Wen Li;+447700900177']
		);
	});

	it('a list that has nothing but handles is one where a heading says so', () => {
		const text = 'Name;Handle\nOdile Marchetti;wren_12\nWen Li;teal_14\n';
		const cards = readBook({ text, sizeOf: utf8Size, start: 0 }, 'book.csv');
		assert.deepEqual(
			cards.map((c) => [c.name, c.handles]),
			[
				['Odile Marchetti', ['wren_12']],
				['Wen Li', ['teal_14']]
			]
		);
		assert.deepEqual(readBook({ text: text.replace('Handle', 'Town'), sizeOf: utf8Size, start: 0 }, 'book.csv'), []);
	});

	it('lines of a text are no list, nor are dates numbers', () => {
		assert.equal(readList('Dear Sir, the boiler failed on 12.04.2024.\nThe repair took until 13.04.2024.\n'), null);
		assert.equal(readList('Meeting 12.04.2024\nRepair 13.04.2024\nCredit 14.04.2024\n'), null);
	});

	it('a settings file with one mail address in it is no address book', () => {
		const text = JSON.stringify({ theme: 'paper', servers: [{ host: 'a.example' }, { host: 'b.example' }], support: 'help@works.example' });
		assert.deepEqual(readBook({ text, sizeOf: utf8Size, start: 0 }, 'settings.json'), []);
	});
});

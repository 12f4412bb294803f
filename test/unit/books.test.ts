/** Address books in every form: whose name stands with a message, whom the case knows, and that none of it is a conversation. */
import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { readBook, readList, utf8Size } from '../../src/core/people';
import { BOOK_FORMS, BOOK_STORES, nameOf, PERSONS } from '../vectors/books';
import { createDatabase } from '../vectors/engine';

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

	function check(place: string): void {
		const look = new Look(openPaths([place]), { reach: 'raw', owner: null });
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
	}

	BOOK_FORMS.forEach(({ form, name, bytes }, i) =>
		it(form, () => {
			const place = join(folder, `form ${i}`);
			talkIn(place);
			writeFileSync(join(place, name), bytes());
			check(place);
		})
	);

	BOOK_STORES.forEach(({ layout, write }, i) =>
		it(`a store with ${layout}`, () => {
			const place = join(folder, `store ${i}`);
			talkIn(place);
			const db = createDatabase(join(place, 'contacts.db'));
			write(db);
			db.close();
			check(place);
		})
	);

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

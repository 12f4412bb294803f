/** A store that says one thing a row, of what and what by numbers; and persons whose numbers stand in a file of their own. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { looked, written } from '../vectors/written';

const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt', 'Li Wen'];
const number = (i: number): string => `+4477009001${10 + i * 7}`;
const START = Date.UTC(2025, 0, 14, 6);
const at = (i: number): number => START + i * 3_600_000;
const said = (i: number): string => `${['Nobody came', 'Who signed it', 'The stairs are dark'][(i * 7) % 3]!}, and I wait here ${i}`;
const writer = (i: number): number => (i % 2 === 0 ? 1 + (i % 3) : 0);
const partner = (i: number): number => 1 + (i % 3);

function assertRead(files: Record<string, Uint8Array>): void {
	const { threads } = looked(files).findings().weave;
	const messages = threads.flatMap((t) => t.messages.map((m) => m.first));
	assert.equal(messages.length, 40);
	assert.equal(threads.length, 3);
	for (const m of messages) {
		const i = (m.sentAt! - START) / 3_600_000;
		assert.deepEqual([m.text, m.direction], [said(i), writer(i) === 0 ? 'out' : 'in']);
		assert.deepEqual([m.correspondent?.address, m.correspondent?.name], [number(partner(i)), NAMES[partner(i)]]);
	}
}

describe('stores whose rows say a thing each, or whose persons stand elsewhere', () => {
	it('are read where what is said is named by a number', () => {
		const words = ['text', 'author', 'sent_at', 'conversation', 'name', 'phone', 'is_me', 'members'];
		const [bytes] = written((db, put) => {
			db.exec(`create table attribute(id integer primary key, name text);
				create table datum(entity integer, attr integer, value, primary key(entity, attr))`);
			for (const [k, word] of words.entries()) put('attribute', k + 1, word);
			let entities = 0;
			const add = (values: Record<string, string | number>): number => {
				entities++;
				for (const [word, value] of Object.entries(values)) put('datum', entities, words.indexOf(word) + 1, value);
				return entities;
			};
			const people = NAMES.map((name, i) => add({ name, phone: number(i), is_me: i === 0 ? 1 : 0 }));
			const talks = people.slice(1).map((person) => add({ members: `${person},${people[0]!}` }));
			for (let i = 0; i < 40; i++) add({ text: said(i), author: people[writer(i)]!, sent_at: at(i), conversation: talks[partner(i) - 1]! });
		});
		assertRead({ 'eav/facts.db': bytes! });
	});

	it('are read where a file beside them names the persons, and has their numbers in another table', () => {
		const [talks] = written((db, put) => {
			db.exec('create table line(id integer primary key autoincrement, contact_key integer, way integer, at integer, words text)');
			for (let i = 0; i < 40; i++) put('line', i + 1, 40 + partner(i), writer(i) === 0 ? 1 : 0, at(i), said(i));
		});
		const [people] = written((db, put) => {
			db.exec(`create table contact(key integer primary key, given text, family text);
				create table number(contact_key integer, number text, label text)`);
			for (const [i, name] of NAMES.entries()) {
				if (i === 0) continue;
				put('contact', 40 + i, ...(name.split(' ') as [string, string]));
				put('number', 40 + i, number(i), 'mobile');
			}
		});
		assertRead({ 'data/talks.db': talks!, 'data/people.db': people! });
	});
});

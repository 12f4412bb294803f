/** Conversations kept whole as documents: each entry a row, in use or lost as the documents that have it are. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Harvested } from '../../src/core/harvest';
import { openDocuments } from '../../src/core/interpret';
import type { Row, Standing, Table, Value } from '../../src/core/model';

const column = (name: string): Table['columns'][number] => ({ name, type: '', notNull: false, virtual: false, defaultValue: null });
const TALKS: Table = {
	index: 1,
	name: 'talks',
	rootPage: 2,
	columns: [column('id'), column('doc')],
	rowidColumn: -1,
	primaryKey: [0],
	withoutRowid: false,
	autoIncrement: false,
	dropped: false
};

interface Said {
	id: string;
	from: string;
	at: number;
	body: string;
}
const said = (n: number): Said => ({
	id: `m${n}k${n * 7}`,
	from: `+44794601001${n % 3}`,
	at: 1_736_000_000_000 + n * 60_000,
	body: `The stairs are wet again, says ${n} of them.`
});
const docOf = (id: string, list: readonly Said[]): string =>
	JSON.stringify({ id, members: [{ phone: '+447946010011', name: 'Agathe Morrow' }], messages: list });

let place = 0;
const rowOf = (id: Value | undefined, doc: Value, standing: Standing = 'kept', cut = -1): Row => ({
	table: 1,
	tableKnown: true,
	rowid: ++place,
	values: [id, doc],
	cut,
	standing,
	grade: cut < 0 && standing === 'kept' ? 'whole' : 'fragment',
	sightings: [{ file: 0, offset: place * 100, length: 50, method: 'freed-cell', standing, grade: 'whole' }]
});

function entriesOf(rows: readonly Row[], name = 'talks.messages'): Row[] {
	const harvest = {
		tables: [{ ...TALKS, index: 0, name: 'sqlite_schema' }, TALKS],
		book: { size: rows.length, rows, rowsOf: (table: number) => (table === 1 ? rows : []) },
		sequences: new Map(),
		account: [],
		notes: [],
		encoding: 'utf8',
		changeCounter: 0,
		engineVersion: 0
	} as unknown as Harvested;
	const opened = openDocuments(harvest);
	const table = opened.tables.find((t) => t.name === name);
	return table ? [...opened.book.rowsOf(table.index)] : [];
}
const all = Array.from({ length: 12 }, (_, n) => said(n));
const bodyOf = (row: Row): Value | undefined => row.values[4];

describe('documents that are whole conversations', () => {
	it('are a row for each entry, seen once though every state of the document has it', () => {
		const rows = entriesOf([rowOf('a', docOf('a', all)), rowOf('a', docOf('a', all.slice(0, 9)), 'dropped')]);
		assert.equal(rows.length, 12);
		assert.ok(rows.every((r) => r.standing === 'kept' && r.values[0] === 'a'));
		assert.equal(rows[0]!.sightings.length, 2);
		assert.equal(rows[11]!.sightings.length, 1);
	});

	it('are a row for each entry where the document is nothing but the list of them', () => {
		const rows = entriesOf([rowOf('a', JSON.stringify(all)), rowOf('b', JSON.stringify(all.slice(0, 3)))], 'talks.doc');
		assert.deepEqual(
			rows.map((r) => [r.values[0], bodyOf(r)]),
			[...all.map((s) => ['a', s.body]), ...all.slice(0, 3).map((s) => ['b', s.body])]
		);
	});

	it('leave what only an earlier state has as lost, and a reworded entry as two', () => {
		const later = [...all.slice(0, 5), { ...said(5), body: 'Reworded since.' }, ...all.slice(7)];
		const rows = entriesOf([rowOf('a', docOf('a', later)), rowOf('a', docOf('a', all), 'dropped')]);
		assert.deepEqual(rows.filter((r) => r.standing === 'dropped').map(bodyOf), [said(5).body, said(6).body]);
	});

	it('give of a document that breaks off what is whole in it', () => {
		const text = docOf('b', all);
		const cut = text.slice(0, text.indexOf(said(8).body) + 4);
		const rows = entriesOf([rowOf('a', docOf('a', all.slice(0, 4))), rowOf('b', cut, 'remnant', 1)]).filter((r) => r.values[0] === 'b');
		assert.deepEqual(
			rows.filter((r) => r.grade !== 'fragment').map(bodyOf),
			all.slice(0, 8).map((s) => s.body)
		);
		assert.deepEqual(
			rows.filter((r) => r.grade === 'fragment').map((r) => [r.values[1], bodyOf(r)]),
			[[said(8).id, undefined]]
		);
	});

	it('give of a piece without its beginning the entries in it, in the conversation that its other entries are of', () => {
		const text = docOf('a', all);
		const piece = text.slice(text.indexOf(said(4).id) + 2, text.indexOf(said(9).body) + 9);
		const rows = entriesOf([rowOf('a', docOf('a', all.slice(0, 7))), rowOf(undefined, piece, 'remnant', 1)]);
		const lost = rows.filter((r) => r.standing === 'remnant');
		assert.deepEqual(
			lost.filter((r) => r.grade === 'rebuilt').map((r) => [r.values[0], bodyOf(r)]),
			[
				['a', said(7).body],
				['a', said(8).body]
			]
		);
		// Of those on its edges the fields that are whole; a text that breaks off is none.
		assert.deepEqual(
			lost.filter((r) => r.grade === 'fragment').map((r) => [r.values[3], bodyOf(r)]),
			[
				[said(4).at, said(4).body],
				[said(9).at, undefined]
			]
		);
	});

	it('are not messages that list their reactions or their earlier wordings', () => {
		const doc = (n: number): string =>
			JSON.stringify({
				...said(n),
				history: [
					{ at: 1, text: `What it said before, the first time, ${n}` },
					{ at: 2, text: `And the second time it said this, ${n}` }
				]
			});
		assert.deepEqual(
			entriesOf(
				all.map((_, n) => rowOf(`m${n}`, doc(n))),
				'talks.history'
			),
			[]
		);
	});

	it('are given up where a piece is made to be read for ever', () => {
		const began = performance.now();
		const hostile = ['{"a":'.repeat(40_000), '{"'.repeat(80_000), '"\\"'.repeat(60_000), `${'['.repeat(90_000)}{"id"`];
		const rows = entriesOf([rowOf('a', docOf('a', all)), ...hostile.map((text) => rowOf(undefined, text, 'remnant', 1))]);
		assert.equal(rows.length, 12);
		assert.ok(performance.now() - began < 20_000, 'bounded');
	});
});

/** What stands in the place of a text, or around it: documents among texts, names and values by turns, lengths before texts. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { bodyText, readBody } from '../../src/core/interpret/body';
import { openComposed, readComposed } from '../../src/core/interpret/composed';
import { payloadsIn } from '../../src/core/interpret/payloads';
import type { Row, Value } from '../../src/core/model';

const rowOf = (...values: Value[]): Row => ({
	table: 0,
	tableKnown: true,
	rowid: null,
	values,
	standing: 'kept',
	grade: 'whole',
	cut: -1,
	sightings: []
});
const said = (row: Row): Value | undefined => row.values[1];
const WORDS = [
	'the boiler is cold again',
	'bring the keys on Thursday',
	'see you at seven',
	'nobody came to mend it',
	'ask the board then'
];
const texts = (count: number): Row[] => Array.from({ length: count }, (_, i) => rowOf(0, `${WORDS[i % WORDS.length]!}, ${i}`));
const sent = (i: number, caption: string): string =>
	JSON.stringify([`${i}`.repeat(16), 'image/jpeg', 1000 + i, `lift ${i}.jpg`, caption, null]);

describe('what stands in the place of texts', () => {
	it('says what was written below a picture, and states the picture', () => {
		const rows = [
			...texts(20),
			rowOf(8, sent(1, 'this is the broken valve')),
			rowOf(8, sent(2, '')),
			rowOf(8, sent(3, 'and this the new one'))
		];
		const payloads = payloadsIn(rows, said, 2)!;
		assert.equal(payloads.said(rows[0]!), 'the boiler is cold again, 0');
		assert.deepEqual(
			rows.slice(20).map((row) => payloads.said(row)),
			['this is the broken valve', null, 'and this the new one']
		);
		const stated = (row: Row): (string | undefined)[] => payloads.attributes.map(({ read }) => read(row));
		assert.ok(stated(rows[21]!).includes('lift 2.jpg') && stated(rows[21]!).includes('1002'));
		assert.ok(stated(rows[0]!).every((value) => value === undefined));
	});

	it('is told by a single one that names a file, and by none that names nothing', () => {
		const plain = texts(20);
		assert.notEqual(payloadsIn([...plain, rowOf(8, sent(1, 'below it'))], said, 2), null);
		assert.equal(payloadsIn([...plain, rowOf(8, '{"a":1,"b":2}')], said, 2), null);
	});

	it('is none where no kind tells it, or where all are documents', () => {
		const plain = texts(20);
		assert.equal(payloadsIn([...plain, rowOf(0, sent(1, 'below')), rowOf(0, sent(2, 'it'))], said, 2), null);
		const numbered = plain.map((row, i) => rowOf(i, row.values[1]!));
		assert.equal(payloadsIn([...numbered, rowOf(20, sent(1, 'below')), rowOf(21, sent(2, 'it'))], said, 2), null);
		const lists = Array.from({ length: 20 }, (_, i) => rowOf(i < 4 ? 1 : 0, i < 4 ? `[${i},${i + 1}]` : `[${i}]`));
		assert.equal(payloadsIn(lists, said, 2), null);
	});
});

describe('names and values by turns', () => {
	const one = (i: number): string => ['FILE_NAME', `lift ${i}.jpg`, 'FILE_SIZE', 1200 + i, 'STATE', 2].join('\t');

	it('are fields by their names, where they state files', () => {
		const how = readComposed(['SENDER\t', one(1), '', one(2), 'SENDER\t', one(3)])!;
		assert.equal(how.kind, 'alternating');
		assert.deepEqual(openComposed(how, one(2), false)?.fields, { FILE_NAME: 'lift 2.jpg', FILE_SIZE: '1202', STATE: '2' });
		assert.deepEqual(openComposed(how, 'SENDER\t', false)?.fields, { SENDER: '' });
	});

	it('give what is left of one that is cut, and say in which field it ends', () => {
		const how = readComposed([one(1), one(2), one(3)])!;
		assert.deepEqual(openComposed(how, 'FILE_NAME\tlift 2.j', true), { fields: { FILE_NAME: 'lift 2.j' }, ending: ['FILE_NAME'] });
		assert.deepEqual(openComposed(how, 'FILE_NAME\tlift 2.jpg\tFILE_S', true), { fields: { FILE_NAME: 'lift 2.jpg' } });
	});

	it('are no table that somebody wrote', () => {
		assert.equal(readComposed(['Monday\tcold', 'Tuesday\tcold too', 'Friday\twarm again']), null);
	});
});

describe('lengths before texts', () => {
	const textOf = (i: number): string =>
		Array.from({ length: i % 9 === 0 ? 90 : 4 + (i % 7) }, (_, k) => WORDS[(i + k) % 5]!.split(' ')[k % 4]!).join(' ');
	const forms: Record<string, (letters: Buffer) => Buffer> = {
		'a byte, or 0xfe and three': (b) => (b.length < 254 ? Buffer.of(b.length) : Buffer.of(254, b.length & 255, b.length >> 8, 0)),
		'a byte, or 0xfd and two': (b) => (b.length < 253 ? Buffer.of(b.length) : Buffer.of(253, b.length & 255, b.length >> 8))
	};
	for (const [name, lengthOf] of Object.entries(forms))
		it(`of ${name} are read, short and long`, () => {
			const values = Array.from({ length: 80 }, (_, i) => {
				const letters = Buffer.from(textOf(i));
				return Buffer.concat([Buffer.of(0x38, 0x11, i, 0, 7, 0x9d), lengthOf(letters), letters, Buffer.of(0xed, 0x3d, 0, 0)]);
			});
			const body = readBody(values)!;
			assert.deepEqual(
				values.map((value) => bodyText(value, body)),
				values.map((_, i) => textOf(i))
			);
		});
});

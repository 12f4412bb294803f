/** Lost rows that are one: what two copies must share to be taken for the same row, and what is no proof of it. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { HarvestedRow, type RowPlace } from '../../src/core/harvest/row';
import { RowBook } from '../../src/core/harvest/rowbook';
import type { Grade, Value } from '../../src/core/model';

const ROOM = '496b8c4ec1973754 of the whole house';
const AT = 1_711_340_993_000;

/** A lost row of the one table, with its own place. */
function lost(offset: number, rowid: number | null, values: (Value | undefined)[], grade: Grade = 'whole', cut = -1): HarvestedRow {
	const place = { file: 0, offset, page: 1, frame: 0, method: 'freed-cell' as const, reader: null };
	return new HarvestedRow(1, true, rowid, values, cut, 'remnant', grade, place, 0, 20);
}

function bookOf(...rows: HarvestedRow[]): RowBook {
	const book = new RowBook();
	for (const row of rows) book.addLost(row, [1]);
	return book;
}
const seen = (book: RowBook): [number | bigint | null, number][] => book.rows.map((row) => [row.rowid, row.sightings.length]);

describe('lost rows', () => {
	it('with the same number and values are one, seen twice', () => {
		const book = bookOf(lost(0, 284, [null, ROOM, 'Thursday again', AT]), lost(100, 284, [null, ROOM, 'Thursday again', AT]));
		assert.deepEqual(seen(book), [[284, 2]]);
	});

	it('without a number are one where a telling number is the same, and take the number of the copy that has one', () => {
		const book = bookOf(lost(0, null, [null, ROOM, 'Thursday again', AT], 'rebuilt'), lost(100, 284, [null, ROOM, 'Thursday again', AT]));
		assert.deepEqual(seen(book), [[284, 2]]);
		assert.equal(book.rows[0]!.grade, 'whole');
	});

	it('a part that shares only its room gives its number to no other row', () => {
		const part = lost(0, 31, [null, ROOM, '+447', undefined], 'fragment', 2);
		const book = bookOf(part, lost(100, null, [null, ROOM, '+447700900100', AT], 'rebuilt'));
		assert.deepEqual(seen(book), [
			[31, 1],
			[null, 1]
		]);
		const other = bookOf(
			lost(100, null, [null, ROOM, '+447700900100', AT], 'rebuilt'),
			lost(0, 31, [null, ROOM, '+447', undefined], 'fragment', 2)
		);
		assert.deepEqual(seen(other), [
			[null, 1],
			[31, 1]
		]);
	});

	it('a part that shares a long piece of its room with several rows gives its number to none of them', () => {
		const part = (): HarvestedRow => lost(0, 31, [null, ROOM.slice(0, 20), undefined, undefined], 'fragment', 1);
		const rebuilt = (): HarvestedRow => lost(100, null, [null, ROOM, 'Thursday again', AT], 'rebuilt');
		const another = lost(200, 7, [null, ROOM, 'On Friday, at the gate', AT + 60_000]);
		assert.deepEqual(seen(bookOf(another, rebuilt(), part())), [
			[7, 1],
			[null, 1],
			[31, 1]
		]);
		assert.deepEqual(seen(bookOf(rebuilt(), part())), [[31, 2]]);
	});

	it('a part is the known row of its number though its last letters are the head of a cell that is gone', () => {
		const known = lost(0, 31, [null, ROOM, 'Is the gate open on Thursday?', AT]);
		assert.deepEqual(seen(bookOf(known, lost(100, 31, [null, ROOM, 'Is9', undefined], 'fragment', 2))), [[31, 2]]);
		// An earlier wording goes on otherwise.
		const other = lost(0, 31, [null, ROOM, 'Is the gate open on Thursday?', AT]);
		assert.deepEqual(seen(bookOf(other, lost(100, 31, [null, ROOM, 'Is the door shut', undefined], 'fragment', 2))), [
			[31, 1],
			[31, 1]
		]);
	});

	it("whose last byte is another cell's is the row it agrees with in all else, and has its value", () => {
		const [from, damaged] = ['+447700900104', '+44770090010k'];
		for (const turned of [false, true]) {
			const two = [
				lost(0, null, [null, 'Thursday again, at the gate', AT, damaged], 'rebuilt'),
				lost(100, 31, [null, 'Thursday again, at the gate', AT, from])
			];
			const book = bookOf(...(turned ? two.reverse() : two));
			assert.deepEqual(seen(book), [[31, 2]]);
			assert.equal(book.rows[0]!.values[3], from);
		}
		const times = bookOf(
			lost(0, 31, [null, 'Thursday again, at the gate', AT]),
			lost(100, null, [null, 'Thursday again, at the gate', AT - (AT % 256) + 7], 'rebuilt')
		);
		assert.deepEqual(seen(times), [[31, 2]]);
	});

	it('of one text are two where it was sent to two, or twice', () => {
		const apart = (...rows: [HarvestedRow, HarvestedRow]): void => assert.equal(bookOf(...rows).rows.length, 2);
		const text = 'Thursday again, at the gate';
		apart(lost(0, 31, [null, text, AT, '+447700900104']), lost(100, null, [null, text, AT, '+447700900105'], 'rebuilt'));
		apart(lost(0, 31, [null, text, AT, 'odile']), lost(100, null, [null, text, AT, 'odilf'], 'rebuilt'));
		apart(lost(0, 31, [null, text, AT]), lost(100, null, [null, text, AT + 256], 'rebuilt'));
		apart(lost(0, 31, [null, text, 1_711_340_993]), lost(100, null, [null, text, 1_711_340_994], 'rebuilt'));
		apart(lost(0, 31, [null, text, AT]), lost(100, 32, [null, text, AT + 1]));
	});

	it('a part that shares a long piece of the text is that row', () => {
		const book = bookOf(
			lost(100, null, [null, ROOM, 'The valve of flat nine was open again', AT], 'rebuilt'),
			lost(0, 31, [null, ROOM, 'The valve of flat nine was', undefined], 'fragment', 2)
		);
		assert.deepEqual(seen(book), [[31, 2]]);
		assert.equal(book.rows[0]!.values[2], 'The valve of flat nine was open again');
	});

	it('a part of a blob with which several begin gives its number to none of them', () => {
		const form = Uint8Array.from({ length: 40 }, (_, i) => 0x62 + (i % 7));
		const blob = (n: number): Uint8Array => Uint8Array.from([...form, ...Array.from({ length: 30 }, (_, i) => (i * n) % 251)]);
		const part = lost(0, 1, [null, form.slice(0, 20)], 'fragment', 1);
		const book = bookOf(lost(100, 7, [null, blob(3)]), lost(200, null, [null, blob(5)], 'rebuilt'), part);
		assert.deepEqual(seen(book), [
			[7, 1],
			[null, 1],
			[1, 1]
		]);
	});

	it('a part of a blob is one with the whole where more than the form’s beginning is the same', () => {
		const body = Uint8Array.from({ length: 60 }, (_, i) => i * 3);
		const whole = (): HarvestedRow => lost(100, 40, [null, 7, body, AT]);
		const long = bookOf(whole(), lost(0, 40, [null, 7, body.slice(0, 30), undefined], 'fragment', 2));
		assert.deepEqual(seen(long), [[40, 2]]);
		const short = bookOf(whole(), lost(0, 40, [null, 7, body.slice(0, 6), undefined], 'fragment', 2));
		assert.deepEqual(seen(short), [
			[40, 1],
			[40, 1]
		]);
		const another = bookOf(whole(), lost(0, 40, [null, 7, Uint8Array.from({ length: 30 }, (_, i) => i * 5), undefined], 'fragment', 2));
		assert.equal(another.rows.length, 2);
	});
});

describe('rows in use', () => {
	const place = (page: number): RowPlace => ({
		file: 0,
		offset: page * 4096,
		page,
		frame: 0,
		method: 'row-in-use',
		reader: { values: (row) => [row.rowid, `The valve of flat ${row.rowid} was open`, AT + Number(row.rowid)] }
	});
	/** Cells of one table, those of a page after the other, numbered as given. */
	function add(book: RowBook, page: number, numbers: readonly (number | bigint)[]): void {
		const where = place(page);
		for (const [i, rowid] of numbers.entries()) book.addCell(1, rowid, where, 4000 - i * 40, 38, AT + Number(rowid));
	}

	it('are all there whenever somebody asks, each the same row as before', () => {
		const book = new RowBook();
		add(book, 2, [1, 2, 3]);
		const [first] = book.rows;
		assert.equal(book.keptRow(1, 1), first);
		add(book, 3, [4, 5, 2n ** 60n]);
		assert.equal(book.size, 6);
		assert.deepEqual(
			book.rows.map((r) => r.rowid),
			[1, 2, 3, 4, 5, 2n ** 60n]
		);
		assert.equal(book.rows[0], first);
		assert.equal(book.rowsOf(1)[3], book.keptRow(1, 4));
		assert.equal(book.rows[4]!.values[1], 'The valve of flat 5 was open');
		assert.deepEqual(
			book.rows[4]!.sightings.map((s) => [s.offset, s.length, s.page, s.method]),
			[[3 * 4096 + 4000 - 40, 38, 3, 'row-in-use']]
		);
	});

	it('take in a freed copy of them, found by its number or, where that is lost, by its time; also out of order', () => {
		const book = new RowBook();
		add(book, 2, [7, 9, 4]);
		for (const [offset, rowid, n] of [
			[9000, 9, 9],
			[9100, null, 4],
			[9200, null, 5]
		] as const)
			book.addLost(lost(offset, rowid, [rowid ?? undefined, `The valve of flat ${n} was open`, AT + n]), [1]);
		assert.deepEqual(seen(book), [
			[7, 1],
			[9, 2],
			[4, 2],
			[null, 1]
		]);
		assert.equal(book.rowsOf(1).length, 4);
	});
});

import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import { BlockPool, CachedSource, isText, MemorySource } from '../../src/core/bytes';
import { readRecord, sizeOfSerialType } from '../../src/core/harvest/sqlite/record';
import { parseCreateTable, storedOrder } from '../../src/core/harvest/sqlite/schema';
import { readSignedVarint, readVarint, sizeOfVarint, varintLength } from '../../src/core/harvest/sqlite/varint';

/** Writes a varint as the specification says: the other direction, so that reading can be held against it. */
function writeVarint(value: bigint): number[] {
	const v = BigInt.asUintN(64, value);
	if (v >> 56n) {
		const out = [Number(v & 0xffn)];
		let rest = v >> 8n;
		for (let i = 0; i < 8; i++) {
			out.unshift(Number(rest & 0x7fn) | 0x80);
			rest >>= 7n;
		}
		return out;
	}
	const out = [Number(v & 0x7fn)];
	for (let rest = v >> 7n; rest > 0n; rest >>= 7n) out.unshift(Number(rest & 0x7fn) | 0x80);
	return out;
}

describe('varints', () => {
	it('reads back every signed 64-bit value, with its length', () => {
		fc.assert(
			fc.property(fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }), (value) => {
				const bytes = new Uint8Array([...writeVarint(value), 0xff]);
				const read = readSignedVarint(bytes, 0, bytes.length);
				assert.equal(BigInt(read), value);
				assert.equal(varintLength, bytes.length - 1);
			})
		);
	});
	it('says NaN, not 0, where the bytes end within one', () => {
		assert.ok(Number.isNaN(readVarint(new Uint8Array([0x81, 0x82]), 0, 2)));
		assert.equal(varintLength, 0);
	});
	it('knows the length a value takes', () => {
		fc.assert(fc.property(fc.nat(), (n) => assert.equal(sizeOfVarint(n), writeVarint(BigInt(n)).length)));
	});
});

describe('records', () => {
	it('reads the worked example of the format notes', () => {
		assert.deepEqual(readRecord(new Uint8Array([3, 1, 19, 5, 0x61, 0x62, 0x63]), 0, 7, 'utf8'), [5, 'abc']);
	});
	it('refuses a header that claims more than there is', () => {
		assert.equal(readRecord(new Uint8Array([3, 1, 19, 5, 0x61]), 0, 5, 'utf8'), null);
	});
	it('refuses the reserved serial types', () => {
		assert.ok(Number.isNaN(sizeOfSerialType(10)));
		assert.equal(readRecord(new Uint8Array([2, 10, 0]), 0, 3, 'utf8'), null);
	});
	it('keeps integers beyond 2^53 exact', () => {
		assert.deepEqual(readRecord(new Uint8Array([2, 6, 0x0a, 0xbc, 0xde, 0xf0, 0x12, 0x34, 0x56, 0x79]), 0, 10, 'utf8'), [
			0x0abcdef012345679n
		]);
	});
});

describe('declarations of tables', () => {
	it('finds the rowid column, types and constraints, whatever the quoting', () => {
		const table = parseCreateTable(
			"CREATE TABLE \"od d\" ([a b] INTEGER PRIMARY KEY, `c` TEXT NOT NULL DEFAULT 'it''s', d REAL /* , e */, f REFERENCES g(h))",
			'od d'
		)!;
		assert.deepEqual(
			table.columns.map((c) => [c.name, c.type, c.notNull]),
			[
				['a b', 'INTEGER', false],
				['c', 'TEXT', true],
				['d', 'REAL', false],
				['f', '', false]
			]
		);
		assert.equal(table.rowidColumn, 0);
		assert.equal(table.columns[1]!.defaultValue, "it's");
		assert.equal(table.columns[3]!.references, 'g');
	});
	it('puts the key first in the records of a WITHOUT ROWID table', () => {
		const table = parseCreateTable('create table t(a, b text, c integer, primary key(c, b)) without rowid', 't')!;
		assert.ok(table.withoutRowid);
		assert.equal(table.rowidColumn, -1);
		assert.deepEqual(storedOrder(table), [2, 1, 0]);
	});
	it('leaves computed columns out of what is stored', () => {
		const table = parseCreateTable('create table t(a, b as (a + 1), c generated always as (a) stored)', 't')!;
		assert.deepEqual(storedOrder(table), [0, 2]);
	});
	it('does not take an index or a virtual table for a table', () => {
		assert.equal(parseCreateTable('create virtual table f using fts5(x)', 'f'), null);
		assert.equal(parseCreateTable('create index i on t(a)', 'i'), null);
	});
});

describe('text', () => {
	it('takes writing of any script for text, and no other bytes', () => {
		const bytes = (t: string): Uint8Array => new TextEncoder().encode(t);
		for (const text of ['ok 👍🏽', 'سأرسل لك', '七点半', 'tab\there\nline', ''])
			assert.ok(isText(bytes(text), 0, bytes(text).length, 'utf8'), text);
		for (const bad of [[0xc3], [0xff, 0x41], [0x41, 0x00, 0x42], [0xed, 0xa0, 0x80], [0xc0, 0x80], [0x1b]])
			assert.ok(!isText(new Uint8Array(bad), 0, bad.length, 'utf8'), String(bad));
	});
});

describe('the block cache', () => {
	it('gives the same bytes as its source at every place, within its bound', () => {
		const all = Uint8Array.from({ length: 5000 }, (_, i) => (i * 7) & 255);
		let reads = 0;
		const source = { size: all.length, read: (o: number, n: number) => (reads++, all.subarray(o, o + n)) };
		const cached = new CachedSource(source, new BlockPool(3 * 256), 256);
		fc.assert(
			fc.property(fc.nat(5100), fc.nat(900), (offset, length) => {
				assert.deepEqual(cached.read(offset, length), new MemorySource(all).read(offset, length));
			})
		);
		reads = 0;
		for (let i = 0; i < 50; i++) cached.read(1024, 16);
		assert.ok(reads <= 1);
	});
});

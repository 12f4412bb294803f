import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { test } from 'node:test';
import fc from 'fast-check';
import { marksModule } from '../../scripts/kernels';
import { ShapeIndex } from '../../src/core/harvest/sqlite/compiled';
import { findPlaces } from '../../src/core/harvest/sqlite/places';
import { parseCreateTable } from '../../src/core/harvest/sqlite/schema';
import { shapeOf } from '../../src/core/harvest/sqlite/shape';

const MARKS_WASM = new URL('../../src/core/harvest/sqlite/marks.wasm.ts', import.meta.url);

const shapesOf = (...sqls: string[]): ShapeIndex =>
	new ShapeIndex(sqls.map((sql, index) => shapeOf({ ...parseCreateTable(sql, 't')!, index, rootPage: 2, dropped: false })));

const wide = Array.from({ length: 150 }, (_, k) => `c${k} text`).join(', ');
const INDEXES = [
	shapesOf('create table t(id integer primary key, body text, at integer)'),
	shapesOf('create table t(body text, at integer not null)', 'create table u(id integer primary key, a, b, c, d, e)'),
	shapesOf(`create table t(${wide})`)
];

/** The same places, asked for byte by byte. */
function placesOf(b: Uint8Array, from: number, to: number, usable: number, shapes: ShapeIndex): { headers: number[]; blocks: number[] } {
	const headers: number[] = [];
	const blocks: number[] = [];
	for (let o = from; o < to; o++) {
		if (o + 1 < to && shapes.isHeader(b, o, to)) headers.push(o);
		if (o + 4 > to) continue;
		const [next, size] = [b[o]! * 256 + b[o + 1]!, b[o + 2]! * 256 + b[o + 3]!];
		if ((next === 0 || (next > o + 3 && next < usable)) && size >= 6 && o + size <= usable) blocks.push(o);
	}
	return { headers, blocks };
}

/** Bytes of which many are small, as in headers, many are zero, and some are anything. */
const page = fc
	.array(fc.oneof({ weight: 3, arbitrary: fc.nat(40) }, { weight: 1, arbitrary: fc.constant(0) }, { weight: 1, arbitrary: fc.nat(255) }), {
		minLength: 64,
		maxLength: 1024
	})
	.map((list) => Uint8Array.from(list));

test('every place is found, and no other, wherever the stretch begins and ends', () => {
	let found = 0;
	fc.assert(
		fc.property(
			page,
			fc.nat(70),
			fc.nat(70),
			fc.constantFrom(...INDEXES),
			fc.constantFrom(512, 4096, 65_536),
			(b, before, behind, shapes, usable) => {
				const from = Math.min(before, b.length);
				const to = Math.max(from, b.length - behind);
				const { headers, headerCount, blocks, blockCount } = findPlaces(b, from, to, usable, shapes);
				const wanted = placesOf(b, from, to, usable, shapes);
				assert.deepEqual([...headers.subarray(0, headerCount)], wanted.headers);
				assert.deepEqual([...blocks.subarray(0, blockCount)], wanted.blocks);
				found += wanted.headers.length + wanted.blocks.length;
			}
		),
		{ seed: 11, numRuns: 400 }
	);
	assert.ok(found > 1000, `only ${found} places in all: the bytes tried hold too few`);
});

test('a header whose size takes two bytes is a place', () => {
	const b = new Uint8Array(400);
	b.set([0x81, 0x18], 20);
	b.fill(13, 22, 22 + 150);
	const { headers, headerCount } = findPlaces(b, 0, b.length, 4096, INDEXES[2]!);
	assert.ok([...headers.subarray(0, headerCount)].includes(20));
});

test('the marks that are committed are made of the text beside them', async () => {
	assert.equal(readFileSync(MARKS_WASM, 'utf8'), await marksModule());
});

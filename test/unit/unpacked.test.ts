import assert from 'node:assert/strict';
import { test } from 'node:test';
import { constants, deflateRawSync, deflateSync, gzipSync, inflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { beginsAs, unpacked, type Packing } from '../../src/core/bytes';

const MOST = 1 << 20;
const { Z_DEFAULT_STRATEGY, Z_FIXED, Z_HUFFMAN_ONLY, Z_RLE } = constants;
const bytes = fc.oneof(
	fc.uint8Array({ maxLength: 400 }),
	fc.array(fc.constantFrom(32, 97, 101, 110), { maxLength: 9000 }).map((a) => Uint8Array.from(a))
);
const strategy = fc.constantFrom(Z_DEFAULT_STRATEGY, Z_FIXED, Z_HUFFMAN_ONLY, Z_RLE);
const level = fc.integer({ min: 0, max: 9 });

const pack: Record<Exclude<Packing, 'zstd'>, typeof gzipSync> = { gzip: gzipSync, zlib: deflateSync, deflate: deflateRawSync };

for (const [packing, packed] of Object.entries(pack) as [Packing, typeof gzipSync][])
	test(`${packing}: whatever the engine packs, at each level and in each way, unpacks to the same bytes`, () => {
		fc.assert(
			fc.property(bytes, strategy, level, (given, strategy, level) => {
				const found = unpacked(packing, packed(given, { strategy, level }), MOST);
				assert.deepEqual(found && [...found.bytes], [...given]);
				assert.equal(found!.isWhole, true);
			})
		);
	});

test('of any bytes none are refused at their head that the engine can unpack', () => {
	const likely = fc
		.tuple(fc.integer({ min: 0, max: 255 }), fc.uint8Array({ minLength: 4, maxLength: 60 }))
		.map(([head, rest]) => Uint8Array.of(head, ...rest));
	let refused = 0;
	fc.assert(
		fc.property(likely, (given) => {
			if (beginsAs('deflate', given)) return;
			refused++;
			assert.throws(() => inflateRawSync(given));
		}),
		{ numRuns: 3000 }
	);
	assert.ok(refused > 1000, 'most bytes are refused');
});

test('a value that would unpack to more than it may is none, and one that breaks off is not whole', () => {
	const large = deflateRawSync(new Uint8Array(MOST + 1));
	assert.equal(unpacked('deflate', large, MOST), null);
	assert.equal(unpacked('deflate', large, MOST + 1)?.bytes.length, MOST + 1);
	assert.equal(unpacked('zlib', deflateSync(Buffer.from('The boiler is cold again')).subarray(0, 12), MOST), null);
});

test('what fills the room for small values to its end is unpacked whole', () => {
	for (const length of [(1 << 16) - 1, 1 << 16, (1 << 16) + 1]) {
		const found = unpacked('deflate', deflateRawSync(new Uint8Array(length).fill(7)), MOST);
		assert.equal(found?.bytes.length, length);
		assert.ok(found.bytes.every((byte) => byte === 7));
	}
});

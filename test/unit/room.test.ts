/** What is held in memory, and for how long: blocks of sources, and what was unpacked. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { BlockPool, CachedSource, MemorySource, type ByteSource, type Scratch } from '../../src/core/bytes';
import { Room } from '../../src/core/unwrap/room';

const MB = 1 << 20;

/** A source that counts what is read of it. */
function counting(size: number): ByteSource & { reads: number } {
	const source = {
		size,
		reads: 0,
		read(offset: number, length: number): Uint8Array {
			source.reads++;
			return new Uint8Array(Math.max(0, Math.min(length, size - offset))).fill(offset / 256);
		}
	};
	return source;
}

describe('a pool of blocks', () => {
	it('is shared: what one source takes another gives up, and reads again when it is asked for', () => {
		const pool = new BlockPool(4 * 256);
		const [a, b] = [counting(2560), counting(2560)];
		const [first, second] = [new CachedSource(a, pool, 256), new CachedSource(b, pool, 256)];
		for (let i = 0; i < 4; i++) first.read(i * 256, 10);
		for (let i = 0; i < 4; i++) first.read(i * 256, 10);
		assert.equal(a.reads, 4, 'kept while there is room');
		for (let i = 0; i < 4; i++) second.read(i * 256, 10);
		assert.deepEqual([...first.read(512, 2)], [2, 2]);
		assert.equal(a.reads, 5, 'given up for the other');
		second.read(768, 1);
		assert.equal(b.reads, 4, 'the least recently used goes first');
	});

	it('does not hold the block a source read last once the pool gave it up', () => {
		const pool = new BlockPool(256);
		const a = counting(512);
		const [first, second] = [new CachedSource(a, pool, 256), new CachedSource(counting(512), pool, 256)];
		first.read(0, 4);
		second.read(0, 4);
		first.read(0, 4);
		assert.equal(a.reads, 2);
	});

	it('gives a block larger than itself all the same', () => {
		const cached = new CachedSource(new MemorySource(Uint8Array.from({ length: 1000 }, (_, i) => i & 255)), new BlockPool(10), 256);
		assert.deepEqual([...cached.read(250, 12)], [250, 251, 252, 253, 254, 255, 0, 1, 2, 3, 4, 5]);
	});
});

describe('room for what is unpacked', () => {
	/** Scratch that remembers how often it was asked for, and what it holds. */
	function made(): { maker: () => Scratch; asked: () => number; bytes: () => number } {
		let asked = 0;
		let bytes = 0;
		return {
			maker: () => {
				asked++;
				const parts: Uint8Array[] = [];
				return {
					write: (part) => {
						bytes += part.length;
						parts.push(part.slice());
					},
					source: () => new MemorySource(new Uint8Array(Buffer.concat(parts)))
				};
			},
			asked: () => asked,
			bytes: () => bytes
		};
	}

	it('keeps little in memory and puts much in scratch, whole and in order', () => {
		const scratch = made();
		const small = new Room(scratch.maker).collector();
		small.write(new Uint8Array(MB).fill(7));
		assert.equal(small.source().size, MB);
		assert.equal(scratch.asked(), 0);
		const large = new Room(scratch.maker).collector();
		for (let i = 0; i < 40; i++) large.write(new Uint8Array(MB).fill(i));
		const source = large.source();
		assert.equal(scratch.asked(), 1);
		assert.equal(scratch.bytes(), 40 * MB);
		assert.deepEqual(
			[0, 15, 16, 39].map((i) => source.read(i * MB + 5, 1)[0]),
			[0, 15, 16, 39]
		);
	});

	it('without scratch holds all in memory, and allows less', () => {
		const room = new Room();
		assert.ok(room.most < new Room(made().maker).most);
		assert.ok(room.fitsInMemory(500 * MB));
		const collector = room.collector();
		for (let i = 0; i < 20; i++) collector.write(new Uint8Array(MB).fill(i));
		assert.equal(collector.source().read(19 * MB, 1)[0], 19);
	});

	it('recalls what was unpacked last, and forgets the oldest when it has no room', () => {
		const room = new Room();
		const keys = Array.from({ length: 6 }, () => ({}));
		for (const key of keys) room.keep(key, new Uint8Array(15 * MB));
		assert.equal(room.recall(keys[0]!), undefined);
		assert.equal(room.recall(keys[5]!)?.length, 15 * MB);
		// Asked for, it is the newest again.
		assert.ok(room.recall(keys[2]!));
		room.keep({}, new Uint8Array(15 * MB));
		assert.ok(room.recall(keys[2]!));
		assert.equal(room.recall(keys[3]!), undefined);
	});
});

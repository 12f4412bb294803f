import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { FileGone, GoneFiles } from '../../src/workers/gone';

const there = new MemorySource(new Uint8Array([1, 2, 3]));
const pulled = {
	size: 3,
	read: (): Uint8Array => {
		throw new Error('NotReadableError');
	}
};

test('a file that is there is read; one that is gone has no bytes and is named once', () => {
	const gone = new GoneFiles();
	const [here, away] = [gone.watch(there, 'a.db'), gone.watch(pulled, 'notes/b.txt')];
	assert.deepEqual([...here.read(0, 3)], [1, 2, 3]);
	assert.deepEqual(gone.notes(['a.db']), []);
	assert.deepEqual([away.size, away.read(0, 3).length, away.read(1, 1).length], [3, 0, 0]);
	assert.deepEqual(
		gone.notes(['a.db']).map((n) => n.detail),
		[{ name: 'notes/b.txt' }]
	);
	assert.deepEqual(gone.notes(['a.db']), []);
});

test('a store that is gone, or lies in an archive that is, ends the look', () => {
	for (const needed of ['phone.zip', 'phone.zip/data/talk.db']) {
		const gone = new GoneFiles();
		gone.watch(pulled, 'phone.zip').read(0, 1);
		assert.throws(() => gone.notes(['other.db', needed]), FileGone);
	}
	const gone = new GoneFiles();
	gone.watch(pulled, 'phone.zip').read(0, 1);
	assert.equal(gone.notes(['phone.zip.db']).length, 1);
});

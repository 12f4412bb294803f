/** The beginnings of many files are read at once; what lies behind them, and what cannot be read, as before. */
import assert from 'node:assert/strict';
import { mkdtempSync, openAsBlob, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, it } from 'node:test';
import { MemorySource, type ByteSource } from '../../src/core/bytes';
import { readHeads, withHead } from '../../src/workers/heads';

const bytes = Uint8Array.from({ length: 200_000 }, (_, i) => i % 251);

/** A source that counts how often it is read. */
function counted(of: Uint8Array): { source: ByteSource; reads: () => number } {
	const inner = new MemorySource(of);
	let reads = 0;
	return {
		source: {
			size: inner.size,
			read: (offset, length) => {
				reads++;
				return inner.read(offset, length);
			}
		},
		reads: () => reads
	};
}

describe('the beginnings of files', () => {
	it('are not read again, and give what the file would', async () => {
		const { source, reads } = counted(bytes);
		const [head] = await readHeads([new Blob([bytes])]);
		const one = withHead(source, head!);
		for (const [offset, length] of [
			[0, 600],
			[60_000, 5000],
			[100, 0],
			[0, 1]
		] as const)
			assert.deepEqual(one.read(offset, length), bytes.slice(offset, offset + length));
		assert.equal(reads(), 1, 'only what goes on behind the beginning');
		assert.deepEqual(one.read(199_990, 100), bytes.slice(199_990));
	});
	it('of a small file are all of it', async () => {
		const { source, reads } = counted(bytes.slice(0, 300));
		const [head] = await readHeads([new Blob([bytes.slice(0, 300)])]);
		assert.deepEqual(withHead(source, head!).read(290, 1000), bytes.slice(290, 300));
		assert.equal(reads(), 0);
	});
	it('take a bounded room, however many they are; one that cannot be read has none', async () => {
		const file = new Blob([bytes]);
		const folder = mkdtempSync(join(tmpdir(), 'ombudsman-heads-'));
		const path = join(folder, 'gone.bin');
		writeFileSync(path, bytes);
		const gone = await openAsBlob(path);
		rmSync(folder, { recursive: true });
		const heads = await readHeads([...Array.from({ length: 2000 }, () => file), gone, ...Array.from({ length: 2000 }, () => file)]);
		assert.ok(heads.reduce((n, head) => n + head.length, 0) <= 96 << 20);
		assert.deepEqual(
			heads.flatMap((head, i) => (head.length === 0 ? [i] : [])),
			[2000]
		);
		assert.deepEqual(heads[2001], heads[0]);
		const { source } = counted(bytes);
		assert.deepEqual(withHead(source, heads[2000]!).read(5, 3), bytes.slice(5, 8));
	});
});

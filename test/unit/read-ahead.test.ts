import assert from 'node:assert/strict';
import { test } from 'node:test';
import { ReadAhead, type BlockRead, type BlockWanted, type Reader } from '../../src/workers/read-ahead';

const MB = 1 << 20;

/** A file of which only what was read is there: each byte says in which megabyte it lies. */
class MadeFile {
	constructor(
		readonly size: number,
		readonly start = 0
	) {}
	slice(from: number, to: number): MadeFile {
		return new MadeFile(Math.min(to, this.size) - from, this.start + from);
	}
}
let readHere: number[] = [];
Object.assign(globalThis, {
	FileReaderSync: class {
		readAsArrayBuffer(part: MadeFile): ArrayBuffer {
			readHere.push(part.start / MB);
			return bytesOf(part.start, part.size);
		}
	}
});
const bytesOf = (offset: number, length: number): ArrayBuffer =>
	Uint8Array.from({ length }, (_, i) => Math.floor((offset + i) / MB)).buffer;

/** Answers when told to, as another thread would between two of one's own steps. */
class MadeReader implements Reader {
	onmessage: Reader['onmessage'] = null;
	onerror: Reader['onerror'] = null;
	wanted: BlockWanted[] = [];
	postMessage(wanted: BlockWanted): void {
		this.wanted.push(wanted);
	}
	answer(count: number, broken = false): void {
		for (const { id, offset, length } of this.wanted.splice(0, count)) {
			const read: BlockRead = { id, bytes: broken ? null : bytesOf(offset, length) };
			this.onmessage!({ data: read } as MessageEvent<BlockRead>);
		}
	}
}

function made(megabytes: number): { ahead: ReadAhead; reader: MadeReader; source: ReturnType<ReadAhead['source']> } {
	readHere = [];
	const reader = new MadeReader();
	const ahead = new ReadAhead(reader);
	return { ahead, reader, source: ahead.source(new MadeFile(megabytes * MB) as unknown as Blob) };
}

test('blocks that follow one another come from the reader, each once and to the last byte', async () => {
	const { ahead, reader, source } = made(9.5);
	const seen: number[] = [];
	for (let at = 0; at < source.size; at += MB) {
		const block = source.read(at, MB);
		seen.push(block[0]!, block.length / MB);
		reader.answer(2);
		await ahead.arrival();
	}
	assert.deepEqual(seen, [0, 1, 1, 1, 2, 1, 3, 1, 4, 1, 5, 1, 6, 1, 7, 1, 8, 1, 9, 0.5]);
	assert.deepEqual(readHere, [0]);
	assert.equal(reader.wanted.length, 0);
});

test('arrival waits for the block that comes next, and for no other', async () => {
	const { ahead, reader, source } = made(9);
	source.read(0, MB);
	let here = false;
	const arrival = ahead.arrival()!.then(() => (here = true));
	await Promise.resolve();
	assert.equal(here, false);
	reader.answer(1);
	await arrival;
	assert.equal(ahead.arrival(), null);
});

test('a block that is not here yet, or of another place, is read at once, with its own bytes', () => {
	const { reader, source } = made(30);
	source.read(0, MB);
	assert.equal(source.read(MB, MB)[0], 1);
	assert.equal(source.read(20 * MB, MB)[0], 20);
	assert.equal(source.read(21 * MB, MB)[0], 21);
	reader.answer(30);
	assert.equal(source.read(22 * MB, MB)[0], 22);
	assert.equal(source.read(2 * MB, 100)[0], 2);
	assert.deepEqual(readHere, [0, 1, 20, 21, 2]);
});

test('no more than a few blocks are asked for ahead', () => {
	const { reader, source } = made(400);
	source.read(0, 4 * MB);
	assert.ok(reader.wanted.reduce((n, w) => n + w.length, 0) <= 32 * MB);
});

test('where the reader fails, on one block or altogether, everything is read without it', async () => {
	const { ahead, reader, source } = made(20);
	source.read(0, MB);
	reader.answer(1, true);
	assert.equal(await ahead.arrival(), null);
	assert.equal(source.read(MB, MB)[0], 1);
	const arrival = ahead.arrival();
	reader.onerror!({} as ErrorEvent);
	await arrival;
	for (let at = 2; at < 8; at++) assert.equal(source.read(at * MB, MB)[0], at);
	assert.equal(ahead.arrival(), null);
	assert.deepEqual(readHere, [0, 1, 2, 3, 4, 5, 6, 7]);
});

test('short reads come from pieces of the file, each read once while it is used; what spans two is read by itself', () => {
	const { source } = made(9);
	for (let at = 0; at < MB; at += 5000) assert.deepEqual([...source.read(at, 40)], [...new Uint8Array(bytesOf(at, 40))], String(at));
	assert.deepEqual(readHere, [0, 0.25, 0.5, 0.75]);
	assert.equal(source.read(MB / 4 - 20, 40).length, 40);
	assert.equal(readHere.length, 5);
	// What is got can be written into: others read what is in the file.
	source.read(0, 4).fill(9);
	assert.deepEqual([...source.read(0, 4)], [0, 0, 0, 0]);
	// Of many places the last ones are kept.
	for (let piece = 0; piece < 36; piece++) source.read((piece * MB) / 4, 1);
	const before = readHere.length;
	source.read(8.75 * MB, 1);
	assert.equal(readHere.length, before);
	source.read(0, 1);
	assert.equal(readHere.length, before + 1);
	assert.deepEqual([source.read(9 * MB - 2, 40).length, source.read(9 * MB, 1).length, source.read(-1, 4).length], [2, 0, 0]);
});

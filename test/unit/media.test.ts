/** Which file is meant by what a message states of it; and that a likeness gives way to what another message says outright. */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import type { StatedFile } from '../../src/core/interpret';
import { MediaIndex } from '../../src/core/weave';

const STORE = 'profile/data/store.db';
const NOTHING: StatedFile = { name: null, type: null, size: null, hash: null, path: null, width: null, height: null, key: null };
const PNG = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
/** Bytes of some form, of a length, that differ by their seed. */
const bytes = (head: readonly number[], length: number, seed: number): Buffer =>
	Buffer.from([...head, ...Array.from({ length: length - head.length }, (_, i) => (i * 31 + seed * 17) % 256)]);
const writing = (length: number): Buffer => Buffer.from('The report of the boiler. '.repeat(40).slice(0, length));

/** An index of these files, and the path it finds for what is stated, with how. */
function index(
	files: Record<string, Buffer>,
	statedIn: readonly StatedFile[] = []
): (stated: Partial<StatedFile>) => [string, string] | null {
	const all = Object.entries(files).map(([path, content]) => ({
		path,
		name: path.slice(path.lastIndexOf('/') + 1),
		source: new MemorySource(content)
	}));
	const media = new MediaIndex(all, new Set(), () => statedIn);
	return (stated) => {
		const link = media.find({ ...NOTHING, ...stated }, STORE);
		return link && [all[link.file]!.path, link.how];
	};
}

describe('a file that a message states', () => {
	it('is found by its path on another machine, whatever its separators, escapes and drive', () => {
		const find = index({ 'profile/Received Files/2025-01/plan 3.png': bytes(PNG, 900, 1), 'profile/other/plan 3.png': bytes(PNG, 950, 2) });
		const wanted = 'profile/Received Files/2025-01/plan 3.png';
		for (const path of [
			'D:\\Profile\\Received Files\\2025-01\\plan 3.png',
			'file:///home/piet/Received%20Files/2025-01/plan%203.png',
			'/home/piet/.desk/Received Files/2025-01/plan 3.png',
			'2025-01/plan 3.png'
		])
			assert.deepEqual(find({ path }), [wanted, 'stated path'], path);
	});

	it('is found by its digest in hex, in capitals and in base64', () => {
		const content = bytes([1, 2], 700, 3);
		const find = index({ 'profile/objects/aa': content, 'profile/objects/bb': bytes([1, 2], 700, 4) });
		for (const [algorithm, name] of [
			['md5', 'MD5'],
			['sha1', 'SHA-1'],
			['sha256', 'SHA-256']
		]) {
			const digest = createHash(algorithm!).update(content);
			const hex = digest.copy().digest('hex');
			for (const hash of [hex, hex.toUpperCase(), digest.digest('base64')])
				assert.deepEqual(find({ hash }), ['profile/objects/aa', `hash (${name})`], hash);
		}
	});

	it('is found by its key, where programs call files so, with or without an ending', () => {
		const find = index({
			'profile/objects/6f9619ff-8b86-d011-b42d-00cf4fc964ff.png': bytes(PNG, 900, 5),
			'profile/objects/x7k2m9q4w1z8': bytes(PNG, 900, 6),
			'profile/objects/17': bytes(PNG, 900, 7)
		});
		assert.deepEqual(
			find({ key: '6F9619FF-8B86-D011-B42D-00CF4FC964FF' })?.[0],
			'profile/objects/6f9619ff-8b86-d011-b42d-00cf4fc964ff.png'
		);
		assert.deepEqual(find({ key: 'x7k2m9q4w1z8' }), ['profile/objects/x7k2m9q4w1z8', 'name (its key)']);
		assert.equal(find({ key: '17' }), null, 'a number says nothing');
	});

	it('is found by size and type, also where only its bytes say that it is text, or nothing says what it is', () => {
		const find = index({
			'profile/objects/a': writing(301),
			'profile/objects/b': bytes([1, 0], 640, 8),
			'profile/objects/c': bytes(PNG, 640, 9)
		});
		assert.deepEqual(find({ size: 301, type: 'text/plain' }), ['profile/objects/a', 'size and type']);
		assert.deepEqual(find({ size: 640, type: 'image/png' }), ['profile/objects/c', 'size and type']);
		assert.deepEqual(find({ size: 640, type: 'application/x-plan' }), ['profile/objects/b', 'size and type']);
		assert.equal(find({ size: 640, type: 'video/mp4' }), null, 'a film would be known by its beginning');
		assert.equal(find({ size: 640, type: 'application/octet-stream' }), null, 'two are as likely');
	});

	it('is none of those to which another message leads by path, digest or name', () => {
		const files = { 'profile/in/scan 1.png': bytes(PNG, 900, 10), 'profile/out/scan 2.png': bytes(PNG, 800, 11) };
		const others: StatedFile[] = [
			{ ...NOTHING, path: 'in/scan 1.png', name: 'scan 1.png', size: 900 },
			{ ...NOTHING, path: 'out/scan 2.png', name: 'scan 2.png', size: 800 }
		];
		const alone = index(files);
		const among = index(files, others);
		const lost = { name: 'gone.png', type: 'image/png', size: 900 };
		assert.deepEqual(alone(lost), ['profile/in/scan 1.png', 'size and type']);
		assert.equal(among(lost), null, 'that file is the other message’s');
		const namesake = { name: 'scan 2.png', path: 'old/scan 2.png', size: 777 };
		assert.deepEqual(alone(namesake), ['profile/out/scan 2.png', 'name']);
		assert.equal(among(namesake), null, 'of another size, and the other message’s by its path');
		for (const own of others) assert.equal(among(own)?.[1], 'stated path');
	});
});

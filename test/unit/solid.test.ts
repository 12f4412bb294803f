/** 7z, xz and bzip2, made by the real program: opened, locked, cut, and too large to be believed. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { MemorySource } from '../../src/core/bytes';
import { unwrap, type Unwrapped } from '../../src/core/unwrap';
import { loadSolid } from '../../src/workers/solid';

const TEXT = new TextEncoder().encode('The heating is off again. '.repeat(400));

/** An archive made of these files; the ending of `name` says which. */
async function packed(name: string, files: Record<string, Uint8Array>, options: string[] = []): Promise<Uint8Array> {
	const program = await loadSolid();
	for (const [path, bytes] of Object.entries(files)) program.write(path, new MemorySource(bytes));
	program.run(['a', ...options, `made/${name}`, ...Object.keys(files)]);
	const [made] = program.list('made');
	assert.ok(made, `${name} was made`);
	return made.bytes;
}

const open = (name: string, bytes: Uint8Array, passphrases: string[] = []): Promise<Unwrapped> =>
	unwrap([{ name, path: name, source: new MemorySource(bytes) }], passphrases, loadSolid);
/** What lies inside, the containers themselves left out. */
const inside = (u: Unwrapped): Unwrapped['files'] => u.files.filter((f) => !f.opened);
const codes = (u: Unwrapped): string[] => u.notes.map((n) => n.code);

describe('7z, xz and bzip2', () => {
	it('give what is inside under its own path', async () => {
		const all = await open('all.7z', await packed('all.7z', { 'one.txt': TEXT, 'plan ä.txt': TEXT.subarray(0, 99) }));
		assert.deepEqual(
			inside(all)
				.map((f) => [f.path, f.source.size])
				.sort(),
			[
				['all.7z/one.txt', TEXT.length],
				['all.7z/plan ä.txt', 99]
			]
		);
		for (const ending of ['xz', 'bz2']) {
			const files = inside(await open(`talk.txt.${ending}`, await packed(`talk.txt.${ending}`, { 'talk.txt': TEXT })));
			assert.deepEqual([files[0]!.path, files[0]!.source.read(0, TEXT.length + 1)], [`talk.txt.${ending}/talk.txt`, TEXT]);
		}
	});
	it('a tape packed whole is one container', async () => {
		const tape = await packed('all.tar', { 'a.txt': TEXT, 'b.txt': TEXT });
		const files = inside(await open('all.tar.xz', await packed('all.tar.xz', { 'all.tar': tape })));
		assert.deepEqual(files.map((f) => f.path).sort(), ['all.tar.xz/a.txt', 'all.tar.xz/b.txt']);
	});
	for (const [what, options] of [
		['its files', []],
		['its list as well', ['-mhe=on']]
	] as const)
		it(`a lock on ${what} wants the right passphrase`, async () => {
			const bytes = await packed('locked.7z', { 'one.txt': TEXT }, ['-pthermostat', ...options]);
			assert.equal(inside(await open('locked.7z', bytes, ['boiler', 'thermostat'])).length, 1);
			const wrong = await open('locked.7z', bytes, ['boiler']);
			assert.deepEqual([inside(wrong).length, codes(wrong)], [0, ['wrong-passphrase']]);
			assert.deepEqual(codes(await open('locked.7z', bytes)), ['locked']);
		});
	it('opens a zip packed by methods that are not read in place', async () => {
		for (const method of ['LZMA', 'BZip2', 'Deflate64']) {
			const bytes = await packed('all.zip', { 'one.txt': TEXT, 'two.txt': TEXT.subarray(0, 99) }, [`-mm=${method}`]);
			const files = inside(await open('all.zip', bytes));
			assert.deepEqual(
				files.map((f) => [f.path, f.source.read(0, TEXT.length)]).sort(),
				[
					['all.zip/one.txt', TEXT],
					['all.zip/two.txt', TEXT.subarray(0, 99)]
				],
				method
			);
		}
	});
	it('a cut one is said to be so, and never asks for a passphrase', async () => {
		const bytes = await packed('all.7z', { 'one.txt': TEXT });
		assert.deepEqual(codes(await open('all.7z', bytes.subarray(0, bytes.length - 20))), ['archive-cut']);
	});
	it('one that would unpack to more than is believable is passed over', async () => {
		const bytes = await packed('bomb.7z', { 'zeros.bin': new Uint8Array(8 << 20) });
		assert.ok(bytes.length < 30_000);
		assert.deepEqual(codes(await open('bomb.7z', bytes)), ['limit-reached']);
	});
});

import { expose } from 'comlink';
import { createSHA256, sha256 } from 'hash-wasm';
import type { HashWorker } from './protocol';
import { readTogether } from './together';

const BLOCK = 8 << 20;

async function hashOf(file: Blob): Promise<string> {
	const hash = await createSHA256();
	hash.init();
	for (let at = 0; at < file.size; at += BLOCK) hash.update(new Uint8Array(await file.slice(at, at + BLOCK).arrayBuffer()));
	return hash.digest('hex');
}

/** Files below this are read many together. */
const SMALL = 256 << 10;

const api: HashWorker = {
	async sha256(files) {
		const small = files.flatMap((file, i) => (file.size < SMALL ? [i] : []));
		const read = new Map((await readTogether(small.map((i) => files[i]!))).map((bytes, k) => [small[k]!, bytes]));
		const hashes: string[] = [];
		for (const [i, file] of files.entries()) {
			const bytes = read.get(i);
			hashes.push(bytes === undefined ? await hashOf(file).catch(() => '') : bytes === null ? '' : await sha256(bytes));
		}
		return hashes;
	}
};
expose(api);

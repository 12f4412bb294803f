import { expose } from 'comlink';
import { createSHA256 } from 'hash-wasm';
import type { HashWorker } from './protocol';

const BLOCK = 8 << 20;

async function hashOf(file: Blob): Promise<string> {
	const hash = await createSHA256();
	hash.init();
	for (let at = 0; at < file.size; at += BLOCK) hash.update(new Uint8Array(await file.slice(at, at + BLOCK).arrayBuffer()));
	return hash.digest('hex');
}

const api: HashWorker = {
	async sha256(files) {
		const hashes: string[] = [];
		for (const file of files) hashes.push(await hashOf(file).catch(() => ''));
		return hashes;
	}
};
expose(api);

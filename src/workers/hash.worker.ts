import { expose } from 'comlink';
import { createSHA256 } from 'hash-wasm';
import type { HashWorker } from './protocol';

const BLOCK = 8 << 20;

const api: HashWorker = {
	async sha256(file) {
		const hash = await createSHA256();
		hash.init();
		for (let at = 0; at < file.size; at += BLOCK) hash.update(new Uint8Array(await file.slice(at, at + BLOCK).arrayBuffer()));
		return hash.digest('hex');
	}
};
expose(api);

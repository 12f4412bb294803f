import { expose } from 'comlink';
import { zipSync } from 'fflate';
import type { ZipWorker } from './protocol';

const api: ZipWorker = {
	zip: (files) => Promise.resolve(new Uint8Array(zipSync(Object.fromEntries(files.map((f) => [f.name, f.bytes])), { level: 6 })))
};
expose(api);

/** In a browser's worker: reads a file's bytes and nothing more, or looks at it, and says how long that took. See worker.ts. */
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { FileSource } from '../../src/workers/file-source';
import { ReadAhead } from '../../src/workers/read-ahead';

const BLOCK = 4 << 20;

function readOnly(file: File): void {
	const source = new FileSource(file);
	for (let at = 0; at < source.size; at += BLOCK) source.read(at, BLOCK);
}

/** As the look's own worker does it. */
async function look(file: File): Promise<number> {
	const ahead = new ReadAhead(new Worker('/reader.js'));
	const { files } = await unwrap([{ name: file.name, path: file.name, source: ahead.source(file) }], []);
	const made = new Look(files, { reach: 'raw' });
	for (const event of made.run()) {
		void event;
		await ahead.arrival();
	}
	return made.rows;
}

self.onmessage = async ({ data }: MessageEvent<{ file: File; what: 'read' | 'look' }>): Promise<void> => {
	const from = performance.now();
	const rows = data.what === 'read' ? (readOnly(data.file), 0) : await look(data.file);
	self.postMessage({ ms: performance.now() - from, rows });
};

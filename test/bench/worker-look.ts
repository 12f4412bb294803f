/** In a browser's worker: reads files' bytes and nothing more, or looks at them, and says how long that took. See worker.ts. */
import { Look } from '../../src/core/look';
import { unwrap } from '../../src/core/unwrap';
import { FileSource } from '../../src/workers/file-source';
import { readHeads, withHead } from '../../src/workers/heads';
import { ReadAhead } from '../../src/workers/read-ahead';

const BLOCK = 4 << 20;
/** Bytes that tell what a file is. */
const HEAD = 600;

export type Task = 'read' | 'look' | 'read beginnings' | 'survey';

function readOnly(file: File): void {
	const source = new FileSource(file);
	for (let at = 0; at < source.size; at += BLOCK) source.read(at, BLOCK);
}

/** As the look's own worker opens them. */
async function open(files: readonly File[], ahead: ReadAhead): Promise<Look> {
	const heads = await readHeads(files);
	const given = files.map((file, i) => {
		const path = file.webkitRelativePath || file.name;
		return { name: file.name, path, source: withHead(ahead.source(file), heads[i]!) };
	});
	return new Look((await unwrap(given, [])).files, { reach: 'raw' });
}

/** How many rows, or stores, there were. */
async function run(files: readonly File[], task: Task): Promise<number> {
	if (task === 'read') for (const file of files) readOnly(file);
	if (task === 'read beginnings') for (const file of files) new FileSource(file).read(0, HEAD);
	if (task === 'read' || task === 'read beginnings') return 0;
	const ahead = new ReadAhead(new Worker('/reader.js'));
	const look = await open(files, ahead);
	if (task === 'survey') return look.survey().length;
	for (const event of look.run()) {
		void event;
		await ahead.arrival();
	}
	return look.rows;
}

self.onmessage = async ({ data }: MessageEvent<{ files: File[]; task: Task }>): Promise<void> => {
	const from = performance.now();
	const found = await run(data.files, data.task);
	self.postMessage({ ms: performance.now() - from, found });
};

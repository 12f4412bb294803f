/**
 * A look in a browser's worker against merely reading the same bytes there: `npm run bench:worker`. Two files: the store
 * of `bench.ts`, dense with rows, and one with the same store at its beginning and other bytes behind it, as an image of
 * a disk has. Ratios of medians; nothing is asserted.
 */
import { appendFileSync, copyFileSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { build } from 'esbuild';
import { Random } from '../vectors/random';
import { benchStore } from './make-store';

const RUNS = 3;
const OTHER_BYTES = 400 << 20;
const median = (list: number[]): number => list.sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

/** The store, and behind it stretches of nothing and of bytes that mean nothing here, in turn. */
function imageOf(store: string, folder: string): string {
	const path = join(folder, 'image.bin');
	copyFileSync(store, path);
	const r = new Random(3);
	const noise = Buffer.from(Uint8Array.from({ length: 1 << 20 }, () => r.int(0, 255)));
	const nothing = Buffer.alloc(1 << 20);
	for (let at = 0; at < OTHER_BYTES; at += 2 << 20) appendFileSync(path, Buffer.concat([noise, nothing]));
	return path;
}

async function measure(page: Page, path: string, what: 'read' | 'look'): Promise<{ ms: number; rows: number }> {
	await page.setInputFiles('input', path);
	const runs: { ms: number; rows: number }[] = [];
	for (let i = 0; i < RUNS; i++)
		runs.push(
			await page.evaluate(
				(wanted) =>
					new Promise<{ ms: number; rows: number }>((done, fail) => {
						const worker = new Worker('/worker.js');
						worker.onmessage = ({ data }): void => {
							worker.terminate();
							done(data);
						};
						worker.onerror = (error): void => fail(new Error(error.message));
						worker.postMessage({ file: document.querySelector('input')!.files![0], what: wanted });
					}),
				what
			)
		);
	return { ms: median(runs.map((r) => r.ms)), rows: runs[0]!.rows };
}

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-bench-'));
const scripts = ['worker', 'reader'];
await build({
	entryPoints: { worker: 'test/bench/worker-look.ts', reader: 'src/workers/read-ahead.worker.ts' },
	bundle: true,
	outdir: folder,
	logLevel: 'error',
	external: ['stream']
});
const server = createServer((request, response) => {
	const script = scripts.find((name) => request.url === `/${name}.js`);
	response.setHeader('content-type', script ? 'text/javascript' : 'text/html');
	response.end(script ? readFileSync(join(folder, `${script}.js`)) : '<!doctype html><title>bench</title><input type="file">');
}).listen(0, '127.0.0.1');
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
try {
	const page = await browser.newPage();
	await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
	const store = benchStore();
	for (const [name, path] of [
		['store alone', store],
		['store and other bytes', imageOf(store, folder)]
	] as const) {
		const size = statSync(path).size / 1e6;
		const read = await measure(page, path, 'read');
		const looked = await measure(page, path, 'look');
		const speed = (read.ms / looked.ms).toFixed(2);
		console.log(
			`${name}: ${size.toFixed(0)} MB read in ${read.ms.toFixed(0)} ms, looked at to the last byte in ${looked.ms.toFixed(0)} ms (${looked.rows} rows): ${speed} times the speed of reading (wanted: 0.5 or more)`
		);
	}
} finally {
	await browser.close();
	server.close();
	rmSync(folder, { recursive: true, force: true });
}

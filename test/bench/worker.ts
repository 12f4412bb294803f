/**
 * A look in a browser's worker against merely reading the same bytes there: `npm run bench:worker`. Three files: the store
 * of `bench.ts`, dense with rows; one with the same store at its beginning and other bytes behind it, as an image of a disk
 * has; and a large sparse one. And a survey of a folder of many files against reading the beginning of each. Ratios of
 * medians; nothing is asserted.
 */
import { appendFileSync, copyFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { build } from 'esbuild';
import { Random } from '../vectors/random';
import { createDatabase } from '../vectors/engine';
import { benchStore } from './make-store';
import type { Task } from './worker-look';

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

const SPARSE_BYTES = 4 * 2 ** 30;

/** The store at the beginning of a file that has nothing behind it, as a large source has little in much room. */
function sparseOf(store: string, folder: string): string {
	const path = join(folder, 'sparse.bin');
	copyFileSync(store, path);
	truncateSync(path, SPARSE_BYTES);
	return path;
}

const FILES = 20_000;
const STORES = 10;

/** A folder of many small files, with a few stores among them. */
function folderOf(folder: string): string {
	const root = join(folder, 'many');
	const r = new Random(5);
	for (let i = 0; i < FILES; i++) {
		const at = join(root, `part ${i % 100}`);
		if (i < 100) mkdirSync(at, { recursive: true });
		writeFileSync(
			join(at, `${i}.bin`),
			Uint8Array.from({ length: r.int(200, 6000) }, () => r.int(0, 255))
		);
	}
	for (let i = 0; i < STORES; i++) {
		mkdirSync(join(root, `program ${i}`));
		const db = createDatabase(join(root, `program ${i}`, 'store.db'), ['synchronous=off']);
		db.exec('create table note(id integer primary key, peer text, body text, at integer, mine integer); begin');
		for (let n = 0; n < 400; n++)
			db.run('insert into note values(?,?,?,?,?)', [
				n + 1,
				'+447700900111',
				`Line ${n} of store ${i} about it`,
				1_700_000_000 + n * 900,
				n % 2
			]);
		db.exec('commit');
		db.close();
	}
	return root;
}

async function measure(page: Page, path: string, task: Task, runs = RUNS): Promise<{ ms: number; found: number }> {
	await page.setInputFiles(statSync(path).isDirectory() ? 'input[webkitdirectory]' : 'input:not([webkitdirectory])', path);
	const done: { ms: number; found: number }[] = [];
	for (let i = 0; i < runs; i++)
		done.push(
			await page.evaluate(
				(wanted) =>
					new Promise<{ ms: number; found: number }>((give, fail) => {
						const worker = new Worker('/worker.js');
						worker.onmessage = ({ data }): void => {
							worker.terminate();
							give(data);
						};
						worker.onerror = (error): void => fail(new Error(error.message));
						const files = [...document.querySelectorAll('input')].flatMap((input) => [...input.files!]);
						worker.postMessage({ files, task: wanted });
					}),
				task
			)
		);
	return { ms: median(done.map((r) => r.ms)), found: done[0]!.found };
}

const PAGE = '<!doctype html><title>bench</title><input type="file"><input type="file" webkitdirectory>';
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
	response.end(script ? readFileSync(join(folder, `${script}.js`)) : PAGE);
}).listen(0, '127.0.0.1');
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
try {
	const page = await browser.newPage();
	await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
	const store = benchStore();
	for (const [name, path] of [
		['store alone', store],
		['store and other bytes', imageOf(store, folder)],
		['store in a sparse file', sparseOf(store, folder)]
	] as const) {
		const size = statSync(path).size / 1e6;
		const read = await measure(page, path, 'read');
		const looked = await measure(page, path, 'look');
		const speed = (read.ms / looked.ms).toFixed(2);
		console.log(
			`${name}: ${size.toFixed(0)} MB read in ${read.ms.toFixed(0)} ms, looked at to the last byte in ${looked.ms.toFixed(0)} ms (${looked.found} rows): ${speed} times the speed of reading (wanted: 0.5 or more)`
		);
	}
	await page.setInputFiles('input:not([webkitdirectory])', []);
	const many = folderOf(folder);
	const read = await measure(page, many, 'read beginnings', 1);
	const surveyed = await measure(page, many, 'survey', 1);
	console.log(
		`${FILES} files: the beginning of each read one by one in ${(read.ms / 1000).toFixed(1)} s, surveyed in ${(surveyed.ms / 1000).toFixed(1)} s (${surveyed.found} stores): ${(read.ms / surveyed.ms).toFixed(2)} times the speed of reading the beginnings`
	);
} finally {
	await browser.close();
	server.close();
	rmSync(folder, { recursive: true, force: true });
}

/**
 * Stores of objects as a desk program keeps them, made by the real engines: a browser's object stores (a page run in the
 * browser that the end-to-end tests use), and a store of keys and values.
 */
import { chromium } from '@playwright/test';
import { ClassicLevel } from 'classic-level';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { chromiumPath } from '../../scripts/chromium.mjs';

/** Files by their paths. */
export type Folder = Record<string, Uint8Array>;

function filesBelow(folder: string): Folder {
	const entries = readdirSync(folder, { withFileTypes: true, recursive: true }).filter((entry) => entry.isFile());
	const paths = entries.map((entry) => join(entry.parentPath, entry.name)).sort();
	return Object.fromEntries(paths.map((path) => [relative(folder, path), new Uint8Array(readFileSync(path))]));
}

async function inFolder<T>(act: (folder: string) => Promise<T>): Promise<T> {
	const folder = mkdtempSync(join(tmpdir(), 'objects-'));
	try {
		return await act(folder);
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
}

/** The files that a browser leaves after a page of its own ran `script`, the body of an async function. */
export const leftByPage = (script: string): Promise<Folder> =>
	inFolder(async (folder) => {
		const server = createServer((_, response) => void response.setHeader('content-type', 'text/html').end('<p>'));
		await new Promise<void>((done) => void server.listen(0, '127.0.0.1', done));
		try {
			const browser = await chromium.launchPersistentContext(folder, {
				executablePath: chromiumPath() ?? undefined,
				args: ['--no-sandbox']
			});
			const page = await browser.newPage();
			await page.goto(`http://127.0.0.1:${portOf(server)}/`);
			await page.evaluate(`(async () => {${script}})()`);
			await browser.close();
		} finally {
			server.close();
		}
		return Object.fromEntries(Object.entries(filesBelow(folder)).filter(([path]) => /indexeddb|local storage/i.test(path)));
	});

const portOf = (server: Server): number => (server.address() as AddressInfo).port;

export type Level = ClassicLevel<string, string>;

/** Waits until a table is there: a few milliseconds, or seconds where the machine is busy. */
async function untilTable(folder: string): Promise<void> {
	for (let tries = 0; tries < 500 && !readdirSync(folder).some((name) => name.endsWith('.ldb')); tries++) await setTimeout(10);
}

const ONLY_LOGS = 4 << 20;

/** The files of a store of keys and values after `write`. `buffer`: bytes from which on its log becomes a table. */
export const leftByLevel = (write: (db: Level) => Promise<void>, buffer = ONLY_LOGS): Promise<Folder> =>
	inFolder(async (folder) => {
		const db = new ClassicLevel<string, string>(folder, { writeBufferSize: buffer });
		await db.open();
		await write(db);
		// The engine writes tables beside, and gives up what it has begun when it is closed.
		if (buffer < ONLY_LOGS) await untilTable(folder);
		await db.close();
		return filesBelow(folder);
	});

/** The real SQLite engine (a WebAssembly build from the npm registry) writing real files. Tests and demo scripts only. */
import { rmSync } from 'node:fs';
import { createRequire } from 'node:module';

const require = createRequire(import.meta.url);
const wasm = require('node-sqlite3-wasm') as { Database: new (path: string) => Engine };

export interface Engine {
	exec(sql: string): void;
	run(sql: string, values?: unknown[]): { lastInsertRowid: number };
	all(sql: string, values?: unknown[]): Record<string, unknown>[];
	close(): void;
}

/** Opens (and first removes) a database file. Exclusive locking lets the engine keep a log without shared memory. */
export function createDatabase(path: string, pragmas: string[] = []): Engine {
	for (const ending of ['', '-wal', '-journal', '-shm', '.lock']) rmSync(path + ending, { force: true, recursive: true });
	return openDatabase(path, pragmas);
}

/** Opens a database file that is there, to go on with it. */
export function openDatabase(path: string, pragmas: string[] = []): Engine {
	const db = new wasm.Database(path);
	db.all('pragma locking_mode=exclusive');
	for (const pragma of pragmas) db.all(`pragma ${pragma}`);
	return db;
}

/** The real SQLite engine (a WebAssembly build from the npm registry) writing real files. Tests and demo scripts only. */
import { rmSync, writeFileSync } from 'node:fs';
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

type SqlJs = {
	Database: new () => {
		run(sql: string, values?: unknown[]): void;
		exec(sql: string): { columns: string[]; values: unknown[][] }[];
		export(): Uint8Array;
		close(): void;
	};
};

let sqlJs: SqlJs | null = null;
/** Loads the engine for UTF-16 databases, which the other one writes as UTF-8; it works in memory only. */
export async function loadMemoryEngine(): Promise<void> {
	sqlJs ??= await (require('sql.js') as () => Promise<SqlJs>)();
}

/** A database in memory that is written to its file when it is closed: no log, no journal beside it. */
export function memoryEngine(path: string, pragmas: string[]): Engine {
	const db = new sqlJs!.Database();
	for (const p of pragmas) db.run(`pragma ${p}`);
	return {
		exec: (sql) => db.run(sql),
		run: (sql, values) => {
			db.run(sql, values);
			return { lastInsertRowid: 0 };
		},
		all: (sql) => db.exec(sql).flatMap((t) => t.values.map((v) => Object.fromEntries(t.columns.map((c, i) => [c, v[i]])))),
		close: () => {
			writeFileSync(path, db.export());
			db.close();
		}
	};
}

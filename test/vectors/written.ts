/** Stores written by hand for one test, and looked at as a case. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { createDatabase, type Engine } from './engine';

type Value = string | number | null;
export type Put = (table: string, ...values: Value[]) => void;

/** The bytes of a store that was written so, at each moment at which `copy` was called, and at the end. */
export function written(write: (db: Engine, put: Put, copy: () => void) => void): Uint8Array[] {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-written-'));
	const path = join(folder, 'store.db');
	const db = createDatabase(path);
	const copies: Uint8Array[] = [];
	const copy = (): void => void copies.push(new Uint8Array(readFileSync(path)));
	write(db, (table, ...values) => void db.run(`insert into ${table} values(${values.map(() => '?').join(',')})`, values), copy);
	db.close();
	copy();
	rmSync(folder, { recursive: true, force: true });
	return copies;
}

/** A case of files, by their paths. `owner`: whose device the user says it is. */
export function looked(files: Record<string, Uint8Array>, owner: string | null = null): Look {
	const given = Object.entries(files).map(([path, bytes]) => ({ name: path.split('/').at(-1)!, path, source: new MemorySource(bytes) }));
	const look = new Look(given, { reach: 'raw', owner });
	for (const event of look.run()) void event;
	return look;
}

/**
 * Speed as ratios against public baselines in the same run: `npm run bench`. The baseline is the sqlite3 shell's
 * `select *` on the same file and, where one can be built, the `.recover` of a newer shell. Medians of several runs; nothing is asserted.
 */
import { spawnSync } from 'node:child_process';
import { statSync } from 'node:fs';
import { CachedSource } from '../../src/core/bytes';
import { StoreHarvest } from '../../src/core/harvest';
import { openPaths } from '../../src/cli/files';
import type { Reach } from '../../src/core/model';
import { benchStore } from './make-store';
import { recoverShell } from './recover-shell';

const RUNS = 5;
const path = benchStore();
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

function time(act: () => void): number {
	const from = performance.now();
	act();
	return performance.now() - from;
}

function shell(program: string | null, command: string): number | null {
	if (!program) return null;
	const once = (): number =>
		time(() => {
			const done = spawnSync(program, [path, command], { stdio: ['ignore', 'ignore', 'pipe'], maxBuffer: 1 << 20 });
			if (done.error || done.status !== 0) throw done.error ?? new Error(String(done.stderr));
		});
	try {
		return median(Array.from({ length: RUNS }, once));
	} catch {
		return null;
	}
}

function harvest(reach: Reach): { ms: number; rows: number; lost: number } {
	let rows = 0;
	let lost = 0;
	const times = Array.from({ length: RUNS }, () =>
		time(() => {
			const [file] = openPaths([path]);
			const store = new StoreHarvest({ sources: [new CachedSource(file!.source)], db: 0, wal: -1, journal: -1 });
			for (const p of store.run(reach)) void p;
			rows = store.book.rows.length;
			lost = store.book.rows.filter((r) => r.standing !== 'kept').length;
		})
	);
	return { ms: median(times), rows, lost };
}

/** Every row in use read and handed on, none kept: what the shell does. */
function readOnly(): { ms: number; rows: number } {
	let rows = 0;
	const times = Array.from({ length: RUNS }, () =>
		time(() => {
			rows = 0;
			const [file] = openPaths([path]);
			const store = new StoreHarvest({ sources: [new CachedSource(file!.source)], db: 0, wal: -1, journal: -1 });
			for (const p of store.rowsInUse((row) => (rows += Number(row.values.length > 0)))) void p;
		})
	);
	return { ms: median(times), rows };
}

const select = shell('sqlite3', 'select * from message');
const recover = shell(recoverShell(), '.recover');
const read = readOnly();
const used = harvest('used');
const raw = harvest('raw');
const ratio = (a: number, b: number | null): string => (b === null ? 'no shell' : (a / b).toFixed(2));
console.log(`store: ${(statSync(path).size / 1e6).toFixed(1)} MB, Node ${process.version}, medians of ${RUNS}`);
console.log(`sqlite3 select *        ${select?.toFixed(0) ?? '–'} ms`);
console.log(`sqlite3 .recover        ${recover?.toFixed(0) ?? 'no shell that has it:'} ms (rows in use only: it gives back no freed cell)`);
console.log(
	`rows in use, read       ${read.ms.toFixed(0)} ms, ${read.rows} rows; speed against select *: ${ratio(select ?? 0, read.ms)} times (wanted: 0.7 or more)`
);
console.log(
	`rows in use, kept       ${used.ms.toFixed(0)} ms, ${used.rows} rows known for the look, each read when asked for; ${ratio(select ?? 0, used.ms)} times`
);
console.log(
	`everything              ${raw.ms.toFixed(0)} ms, ${raw.lost} lost rows; time against select *: ${ratio(raw.ms, select)} times (wanted: 2 or less)${recover ? `, against .recover: ${ratio(recover, raw.ms)} times as fast (wanted: 3 or more)` : ''}`
);
console.log(`memory                  ${(process.memoryUsage().rss / 1e6).toFixed(0)} MB resident after all runs`);

/**
 * Speed as ratios against public baselines in the same run: `npm run bench`. The baseline is the sqlite3 shell's
 * `select *` on the same file and, where one can be built, the `.recover` of a newer shell. Medians of several runs; nothing is asserted.
 */
import { spawnSync } from 'node:child_process';
import { statSync } from 'node:fs';
import { CachedSource } from '../../src/core/bytes';
import { StoreHarvest, type KeptTaker } from '../../src/core/harvest';
import { rowOfCell, type HarvestedRow } from '../../src/core/harvest/row';
import { openPaths } from '../../src/cli/files';
import type { Reach } from '../../src/core/model';
import { benchStore } from './make-store';
import { recoverShell } from './recover-shell';

const ROUNDS = 7;
const path = benchStore();
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

function time(act: () => void): number {
	const from = performance.now();
	act();
	return performance.now() - from;
}

/** One run of a shell's command; null where it cannot be run. */
function shell(program: string | null, command: string): number | null {
	if (!program) return null;
	let ran = false;
	const ms = time(() => {
		const done = spawnSync(program, [path, command], { stdio: ['ignore', 'ignore', 'pipe'], maxBuffer: 1 << 20 });
		ran = !done.error && done.status === 0;
	});
	return ran ? ms : null;
}

function open(): StoreHarvest {
	const [file] = openPaths([path]);
	return new StoreHarvest({ sources: [new CachedSource(file!.source)], db: 0, wal: -1, journal: -1 });
}

let rows = 0;
let lost = 0;

function harvest(reach: Reach): number {
	return time(() => {
		const store = open();
		for (const p of store.run(reach)) void p;
		lost = store.book.size - rows;
	});
}

/** Every row in use read and handed on, none kept: what the shell does. */
function readOnly(): number {
	return time(() => {
		rows = 0;
		const take = (row: HarvestedRow): void => void (rows += Number(row.values.length > 0));
		const taker: KeptTaker = {
			addKept: take,
			addCell: (table, rowid, place, start, length) => take(rowOfCell(table, rowid, place, start, length))
		};
		for (const p of open().rowsInUse(taker)) void p;
	});
}

// In turn, not one after the other: a machine that others share is now faster, now slower.
const times = { select: [] as number[], recover: [] as number[], read: [] as number[], used: [] as number[], raw: [] as number[] };
const recoverer = recoverShell();
for (let round = 0; round < ROUNDS; round++) {
	for (const [list, ms] of [
		[times.select, shell('sqlite3', 'select * from message')],
		[times.recover, shell(recoverer, '.recover')],
		[times.read, readOnly()],
		[times.used, harvest('used')],
		[times.raw, harvest('raw')]
	] as const)
		if (ms !== null) list.push(ms);
}
const of = (list: number[]): number | null => (list.length > 0 ? median(list) : null);
const [select, recover] = [of(times.select), of(times.recover)];
const [read, used, raw] = [median(times.read), median(times.used), median(times.raw)];
const ratio = (a: number, b: number | null): string => (b === null ? 'no shell' : (a / b).toFixed(2));
console.log(`store: ${(statSync(path).size / 1e6).toFixed(1)} MB, Node ${process.version}, medians of ${ROUNDS} rounds`);
console.log(`sqlite3 select *        ${select?.toFixed(0) ?? '–'} ms`);
console.log(`sqlite3 .recover        ${recover?.toFixed(0) ?? 'no shell that has it:'} ms (rows in use only: it gives back no freed cell)`);
console.log(
	`rows in use, read       ${read.toFixed(0)} ms, ${rows} rows; speed against select *: ${ratio(select ?? 0, read)} times (wanted: 0.7 or more)`
);
console.log(
	`rows in use, kept       ${used.toFixed(0)} ms, ${rows} rows known for the look, each read when asked for; ${ratio(select ?? 0, used)} times`
);
console.log(
	`everything              ${raw.toFixed(0)} ms, ${lost} lost rows; time against select *: ${ratio(raw, select)} times (wanted: 2 or less)${recover ? `, against .recover: ${ratio(recover, raw)} times as fast (wanted: 3 or more)` : ''}`
);
console.log(`memory                  ${(process.memoryUsage().rss / 1e6).toFixed(0)} MB resident after all runs`);

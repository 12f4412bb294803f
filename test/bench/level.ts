/**
 * A store of keys and values read in its three steps, as ratios against the engine's own walk over all its entries, in the
 * same run: `npm run bench:level`. Medians of several rounds; nothing is asserted.
 */
import { ClassicLevel } from 'classic-level';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';

const MESSAGES = 60_000;
const ROUNDS = 5;
const folder = mkdtempSync(join(tmpdir(), 'level-bench-'));
const entry = (i: number): string =>
	JSON.stringify({
		id: i,
		conversation: `c${i % 40}`,
		body: `The boiler is cold again, and the month to be credited ${i}`,
		sentAt: 1.7e12 + i * 61_000
	});

async function build(): Promise<void> {
	const db = new ClassicLevel<string, string>(folder);
	await db.open();
	for (let from = 0; from < MESSAGES; from += 1000)
		await db.batch(
			Array.from({ length: 1000 }, (_, k) => ({ type: 'put' as const, key: `msg:${1e8 + from + k}`, value: entry(from + k) }))
		);
	await db.close();
}

async function walked(): Promise<number> {
	const db = new ClassicLevel<string, string>(folder);
	await db.open();
	const from = performance.now();
	let letters = 0;
	for await (const [key, value] of db.iterator()) letters += key.length + value.length;
	const took = performance.now() - from;
	await db.close();
	return letters > 0 ? took : NaN;
}

/** Milliseconds until the entries are rows, and until those are threads. */
function looked(): { harvested: number; woven: number } {
	const files = readdirSync(folder).map((name) => ({
		name,
		path: `s/${name}`,
		source: new MemorySource(readFileSync(join(folder, name)))
	}));
	const from = performance.now();
	const look = new Look(files, { reach: 'raw' });
	for (const event of look.run()) void event;
	const harvested = performance.now() - from;
	const { weave } = look.findings();
	if (weave.threads.length === 0) throw new Error('nothing was found');
	return { harvested, woven: performance.now() - from };
}

const median = (list: number[]): number => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]!;

try {
	await build();
	const rounds: { engine: number; harvested: number; woven: number }[] = [];
	for (let i = 0; i < ROUNDS; i++) rounds.push({ engine: await walked(), ...looked() });
	const ratio = (of: 'harvested' | 'woven'): string => median(rounds.map((r) => r[of] / r.engine)).toFixed(2);
	process.stdout.write(
		`${MESSAGES} entries: harvest ${ratio('harvested')} times, whole look ${ratio('woven')} times as long as the engine's walk\n`
	);
} finally {
	rmSync(folder, { recursive: true, force: true });
}

/**
 * Breaks real databases at random and looks at them: `npm run fuzz [rounds] [seed]` (default 2,000 rounds). For each
 * round: no crash, no more than 5 s, bounded output, and the messages the mutation did not touch are still found.
 */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MemorySource } from '../src/core/bytes';
import { Look } from '../src/core/look';
import { createDatabase } from '../test/vectors/engine';
import { mutate } from '../test/vectors/mutate';
import { Random } from '../test/vectors/random';

const [rounds = 2000, seed = 1] = process.argv.slice(2).map(Number);
const SLOWEST_MS = 5000;

interface Subject {
	name: string;
	files: { name: string; bytes: Uint8Array }[];
	pageSize: number;
}

function subject(name: string, pageSize: number, wal: boolean): Subject {
	const folder = mkdtempSync(join(tmpdir(), 'ombudsman-fuzz-'));
	const path = join(folder, 'a.db');
	const db = createDatabase(path, [`page_size=${pageSize}`, ...(wal ? ['journal_mode=wal', 'wal_autocheckpoint=0'] : [])]);
	db.exec(
		'create table who(id integer primary key, number text); create table m(id integer primary key autoincrement, who integer, body text, at integer, mine integer); create index m_at on m(at)'
	);
	for (let i = 1; i <= 8; i++) db.run('insert into who values(?,?)', [i, `+44770090010${i}`]);
	db.exec('begin');
	for (let i = 0; i < 160; i++)
		db.run('insert into m(who,body,at,mine) values(?,?,?,?)', [
			1 + (i % 8),
			`Message number ${i} about the boiler ${'and so on '.repeat(i % 40 === 0 ? 200 : i % 5)}`,
			1_700_000_000 + i * 500,
			i % 2
		]);
	db.exec('commit');
	if (wal) db.all('pragma wal_checkpoint(truncate)');
	db.exec('delete from m where id % 9 = 4');
	db.exec("update m set body = body || ' indeed' where id % 20 = 3");
	const files = ['', '-wal'].flatMap((e) => {
		try {
			return [{ name: `a.db${e}`, bytes: new Uint8Array(readFileSync(path + e)) }];
		} catch {
			return [];
		}
	});
	db.close();
	rmSync(folder, { recursive: true, force: true });
	return { name, files, pageSize };
}

function texts(files: Subject['files']): Set<string> {
	const look = new Look(
		files.map((f) => ({ name: f.name, path: f.name, source: new MemorySource(f.bytes) })),
		{ reach: 'raw' }
	);
	for (const event of look.run()) void event;
	return new Set(look.findings().weave.threads.flatMap((t) => t.messages.map((m) => m.first.text ?? '')));
}

const subjects = [subject('pages of 1024', 1024, false), subject('pages of 512', 512, false), subject('log', 1024, true)];
const r = new Random(seed);
let slowest = 0;
let most = 0;
let failures = 0;
let share = 0;
let worst = 1;
const started = performance.now();
const whole = subjects.map((s) => texts(s.files));
for (let round = 0; round < rounds; round++) {
	const which = round % subjects.length;
	const s = subjects[which]!;
	const victim = r.int(0, s.files.length - 1);
	const files = s.files.map((f, i) => (i === victim ? { name: f.name, bytes: mutate(f.bytes, r, s.pageSize).bytes } : f));
	const from = performance.now();
	try {
		const found = texts(files);
		most = Math.max(most, found.size);
		const left = [...whole[which]!].filter((t) => found.has(t)).length / whole[which]!.size;
		share += left;
		worst = Math.min(worst, left);
		if (found.size > whole[which]!.size * 4) throw new Error(`${found.size} texts of ${whole[which]!.size}`);
	} catch (error) {
		failures++;
		process.stdout.write(`round ${round} (seed ${seed}, ${s.name}): ${(error as Error).stack?.split('\n').slice(0, 4).join(' | ')}\n`);
		if (failures > 20) break;
	}
	const took = performance.now() - from;
	slowest = Math.max(slowest, took);
	if (took > SLOWEST_MS) {
		failures++;
		process.stdout.write(`round ${round}: ${took.toFixed(0)} ms\n`);
	}
	if (round % 5000 === 4999) process.stdout.write(`${round + 1} rounds, ${failures} failures\n`);
}
process.stdout.write(
	`${rounds} mutations, ${failures} failures; slowest ${slowest.toFixed(0)} ms, at most ${most} texts, on average ${((share / rounds) * 100).toFixed(1)} % of the messages still found (worst ${(worst * 100).toFixed(0)} %), ${(process.memoryUsage().rss / 1e6).toFixed(0)} MB, ${((performance.now() - started) / 1000).toFixed(0)} s\n`
);
process.exitCode = failures ? 1 : 0;

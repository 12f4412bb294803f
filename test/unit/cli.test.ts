/** The command line's contract, on the demo case and its truth. */
import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, it } from 'node:test';
import { createHash } from 'node:crypto';

const root = join(import.meta.dirname, '..', '..');
const demo = join(root, 'static', 'demo', 'post.box');

function cli(...args: string[]) {
	const done = spawnSync(process.execPath, ['scripts/ombudsman.mjs', ...args], {
		cwd: root,
		encoding: 'utf8',
		maxBuffer: 1 << 28
	});
	return {
		status: done.status,
		err: done.stderr,
		lines: done.stdout
			.split('\n')
			.filter(Boolean)
			.map((l) => JSON.parse(l) as Record<string, unknown>)
	};
}

interface Told {
	text: string;
	at: string;
	with: string;
	writer: string;
	lost: string | null;
	earlier: string[];
	correspondent: string | null;
}
const truth = JSON.parse(readFileSync(join(root, 'demo', 'truth.json'), 'utf8')) as Told[];

describe('messages', () => {
	const before = createHash('sha256').update(readFileSync(demo)).digest('hex');
	const { status, lines } = cli('messages', demo);

	it('gives every message whose bytes are there, with all fields right', () => {
		assert.equal(status, 0);
		const byKey = new Map(lines.filter((l) => !l.earlierWordingOf).map((l) => [`${String(l.sentAt)}|${String(l.text)}`, l]));
		const left = truth.filter((t) => t.lost !== 'wiped');
		assert.ok(left.length > 600);
		for (const t of left) {
			const found = byKey.get(`${t.at}|${t.text}`);
			assert.ok(found, `${t.lost ?? 'kept'}: ${t.text}`);
			assert.equal(found.direction, t.writer === '' ? 'out' : 'in', t.text);
			assert.equal(found.correspondent, t.correspondent, t.text);
			const standing = t.lost === null ? ['kept'] : t.lost === 'binned' ? ['binned'] : ['dropped', 'remnant'];
			assert.ok(standing.includes(String(found.standing)), `${t.text}: ${String(found.standing)}`);
		}
		assert.equal(lines.filter((l) => !l.earlierWordingOf).length, left.length, 'nothing twice, nothing invented');
	});
	it('gives earlier wordings with the id of their message', () => {
		const earlier = lines.filter((l) => l.earlierWordingOf);
		assert.deepEqual(
			earlier.map((l) => l.text),
			truth.flatMap((t) => t.earlier)
		);
		assert.ok(earlier.every((l) => lines.some((m) => m.id === l.earlierWordingOf)));
	});
	it('has one thread for one partner or group', () => {
		const threads = new Map<string, Set<unknown>>();
		for (const t of truth) {
			const found = lines.find((l) => l.sentAt === t.at && l.text === t.text);
			if (found) threads.set(t.with, (threads.get(t.with) ?? new Set()).add(found.thread));
		}
		assert.ok([...threads.values()].every((s) => s.size === 1));
		assert.equal(new Set([...threads.values()].map((s) => [...s][0])).size, threads.size);
	});
	it('names bytes that hold the text', () => {
		const files: Record<string, Buffer> = { 'post.box': readFileSync(demo), 'post.box-wal': readFileSync(`${demo}-wal`) };
		for (const l of lines) {
			for (const s of l.sightings as { source: string; offset: number; length: number; method: string; grade: string }[]) {
				if (s.method === 'index-entry' || s.grade === 'fragment') continue;
				const bytes = files[s.source]!.subarray(s.offset, s.offset + s.length);
				assert.ok(bytes.includes(Buffer.from(String(l.text).slice(0, 20))), `${String(l.text)} at ${s.offset} of ${s.source}`);
			}
		}
	});
	it('gives the same output for the same input, and leaves the files alone', () => {
		assert.deepEqual(cli('messages', demo).lines, lines);
		assert.equal(createHash('sha256').update(readFileSync(demo)).digest('hex'), before);
	});
	it('looks no further than told', () => {
		const used = cli('messages', '--reach', 'used', demo).lines;
		assert.ok(used.every((l) => l.standing === 'kept' || l.standing === 'binned'));
		assert.equal(used.length, truth.filter((t) => t.lost === null || t.lost === 'binned').length);
	});
});

describe('gaps', () => {
	it('counts the numbers of which nothing is left', () => {
		const { lines } = cli('gaps', demo);
		assert.equal(
			lines.reduce((n, l) => n + Number(l.count), 0),
			truth.filter((t) => t.lost === 'wiped').length
		);
		assert.ok(lines.every((l) => Object.keys(l).join() === 'store,table,from,to,count,after,before,why'));
	});
});

describe('usage', () => {
	it('exits 2 with the usage for wrong words', () => {
		for (const args of [
			[],
			['massages', demo],
			['messages'],
			['messages', '--reach', 'far', demo],
			['messages', '--zone', 'Mars/Olympus', demo],
			['messages', '--bogus', demo]
		]) {
			const { status, err } = cli(...args);
			assert.equal(status, 2, args.join(' '));
			assert.match(err, /Usage/);
		}
	});
	it('exits 1 with one line where a path cannot be read', () => {
		const { status, err } = cli('messages', '/no/such/file.db');
		assert.equal(status, 1);
		assert.equal(err.trim().split('\n').length, 1);
		const text = join(mkdtempSync(join(tmpdir(), 'ombudsman-cli-')), 'x.txt');
		writeFileSync(text, 'no database '.repeat(300));
		assert.equal(cli('messages', text).status, 1);
	});
	it('takes a folder, side files included', () => {
		const folder = mkdtempSync(join(tmpdir(), 'ombudsman-cli-'));
		for (const e of ['', '-wal']) copyFileSync(demo + e, join(folder, `post.box${e}`));
		assert.equal(cli('messages', folder).lines.length, cli('messages', demo).lines.length);
	});
});

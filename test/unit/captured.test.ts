/** Several captures of stores composed at random: each message once, with its state in each, its names, its thread and its file. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { messageLine } from '../../src/cli/lines';
import { Look } from '../../src/core/look';
import { book, capture, type Captured } from '../vectors/captured';

const SEEDS = Array.from({ length: 40 }, (_, i) => i + 1);

interface Line {
	id: string;
	thread: string;
	text: string | null;
	sentAt: string;
	direction: string;
	correspondent: string | null;
	person: string | null;
	standing: string;
	grade: string;
	captures: { state: string }[];
	earlierWordingOf?: string;
	attachments: { sha256: string | null }[];
}

describe('captures composed at random', () => {
	let folder: string;
	before(() => (folder = mkdtempSync(join(tmpdir(), 'ombudsman-captured-'))));
	after(() => rmSync(folder, { recursive: true, force: true }));

	for (const seed of SEEDS)
		it(`seed ${seed}`, () => {
			const made = capture(join(folder, String(seed)), seed);
			const names = join(folder, `${seed}.csv`);
			writeFileSync(names, book(made));
			// Given in another order than they were made in.
			const look = new Look(openPaths([...made.folders].sort().concat(names)), { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			const { stores, weave } = look.findings();
			const lines = weave.threads.flatMap((t) =>
				t.messages.map((m) => messageLine(m, stores, weave, look.files, look.media, null) as unknown as Line)
			);
			const threads = new Map<number, string>();
			const used = new Set<string>();
			for (const m of made.messages) {
				const what = `${made.made}: ${m.id} ${m.text ?? '(a file alone)'}`;
				const same = lines.filter((l) => !l.earlierWordingOf && l.text === m.text && Date.parse(l.sentAt) === m.at * 1000);
				assert.equal(same.length, 1, `${what}, so often`);
				const [line] = same;
				used.add(line!.id);
				threads.set(m.thread, threads.get(m.thread) ?? line!.thread);
				assert.deepEqual(factsOf(line!), expected(m, threads.get(m.thread)!), what);
				for (const wording of m.wordings)
					assert.ok(
						lines.some((l) => l.text === wording && l.earlierWordingOf === line!.id),
						`${what}: its wording ${wording}`
					);
			}
			assert.equal(new Set(threads.values()).size, threads.size, made.made);
			const more = lines.filter((l) => !used.has(l.id) && !isKnown(l, made.messages));
			assert.deepEqual(
				more.map((l) => l.text),
				[],
				`never said: ${made.made}`
			);
		});
});

const factsOf = (l: Line): unknown => ({
	thread: l.thread,
	direction: l.direction,
	correspondent: l.correspondent,
	person: l.person,
	standing: l.standing,
	states: l.captures.map((c) => c.state),
	files: l.attachments.map((a) => a.sha256)
});

const expected = (m: Captured, thread: string): unknown => ({
	thread,
	direction: m.out ? 'out' : 'in',
	correspondent: m.address,
	person: m.name,
	standing: m.states.at(-1) === 'in' ? 'kept' : 'dropped',
	states: m.states,
	files: m.file ? [m.file.sha256] : []
});

/** An earlier wording, or a part of what was said that can be of several. */
const isKnown = (l: Line, messages: readonly Captured[]): boolean =>
	(l.earlierWordingOf !== undefined && messages.some((m) => m.wordings.includes(l.text ?? ''))) ||
	(l.grade === 'fragment' && messages.some((m) => m.text?.includes(l.text ?? '')));

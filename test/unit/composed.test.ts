/** Stores composed at random are read right, lose nothing whose bytes are there, and give nothing that was never said. */
import assert from 'node:assert/strict';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, describe, it } from 'node:test';
import { openPaths } from '../../src/cli/files';
import { Look } from '../../src/core/look';
import { compose, type Composed } from '../vectors/composed';
import { loadMemoryEngine } from '../vectors/engine';

const SEEDS = Array.from({ length: 40 }, (_, i) => i + 1);
/** A second is the finest that all of them keep. */
const seconds = (at: number | null): number | null => (at === null ? null : Math.floor(at / 1000));

describe('stores composed at random', () => {
	let folder: string;
	before(async () => {
		await loadMemoryEngine();
		folder = mkdtempSync(join(tmpdir(), 'ombudsman-composed-'));
	});
	after(() => rmSync(folder, { recursive: true, force: true }));
	const totals = { there: 0, found: 0, right: 0, partly: 0 };

	for (const seed of SEEDS)
		it(`seed ${seed}`, () => {
			const { path, made, messages } = compose(join(folder, `${seed}.db`), seed);
			const look = new Look(openPaths([path]), { reach: 'raw', owner: null });
			for (const event of look.run()) void event;
			const woven = look.findings().weave.threads.flatMap((t) => t.messages.map((m) => ({ m, thread: t.id })));
			const said = new Map(messages.map((m) => [m.text, m]));
			const read = new Map(woven.filter(({ m }) => !m.earlierWordingOf).map((w) => [w.m.first.text, w]));
			const threads = new Map<number, string>();
			const right = (m: Composed): boolean => {
				const { first } = read.get(m.text)!.m;
				const c = first.correspondent;
				return (
					seconds(first.sentAt) === seconds(m.at) &&
					first.direction === (m.out ? 'out' : 'in') &&
					(c?.address ?? null) === m.address &&
					(m.name === null || c?.name === m.name)
				);
			};
			const wrong = messages.filter((m) => !m.gone && !(read.has(m.text) && right(m) && read.get(m.text)!.m.standing === 'kept'));
			assert.deepEqual(wrong.slice(0, 2), [], `${wrong.length} in use are wrong (${made})`);
			for (const m of messages.filter((x) => !x.gone)) {
				const { thread } = read.get(m.text)!;
				threads.set(m.thread, threads.get(m.thread) ?? thread);
				assert.equal(thread, threads.get(m.thread), made);
			}
			assert.equal(new Set(threads.values()).size, threads.size, `threads run together (${made})`);
			const invented = [...read].filter(([text, { m }]) => !said.has(text ?? '') && !isPart(text, m.grade, messages));
			assert.deepEqual(
				invented.map(([text]) => text),
				[],
				`never said (${made})`
			);
			assert.ok(read.size === new Set(woven.map(({ m }) => m.first.text)).size);
			for (const m of messages.filter((x) => x.gone && x.there)) {
				totals.there++;
				const found = read.get(m.text);
				if (!found) continue;
				totals.found++;
				assert.notEqual(found.m.standing, 'kept', made);
				if (found.m.grade === 'fragment') totals.partly++;
				else if (right(m)) totals.right++;
			}
		});

	it('of the deleted texts whose bytes are there hardly one is missed, and what is whole is right', () => {
		assert.ok(totals.there > 500);
		assert.ok(totals.found >= totals.there * 0.985, `${totals.found} of ${totals.there}`);
		assert.ok(totals.right >= (totals.found - totals.partly) * 0.97, `${totals.right} of ${totals.found - totals.partly}`);
	});
});

const isPart = (text: string | null, grade: string, messages: readonly Composed[]): boolean =>
	grade === 'fragment' && text !== null && messages.some((m) => m.text.includes(text));

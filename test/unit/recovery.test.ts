/** Recall against real files: every layout, several situations, on a seed of its own. */
import assert from 'node:assert/strict';
import { before, describe, it } from 'node:test';
import { buildVector, SITUATIONS } from '../vectors/build';
import { loadMemoryEngine } from '../vectors/engine';
import { LAYOUTS } from '../vectors/layouts';
import { score, type Score } from '../vectors/score';

const SEED = 41_000;
const CHOSEN = [
	'single rows',
	'everything',
	'deleted, then more written',
	'edited',
	'log partly taken over',
	'journal kept',
	'long texts',
	'auto-vacuum',
	'secure delete'
];
/** Floors, a little under what is measured (docs/recovery.md): a fall below one is a regression. */
const LEAST_FOUND = 0.97;

before(loadMemoryEngine);

for (const layout of LAYOUTS) {
	describe(`layout ${layout.name}`, () => {
		const total: Score[] = [];
		for (const situation of SITUATIONS.filter((s) => CHOSEN.includes(s.name))) {
			it(situation.name, (t) => {
				const vector = buildVector(layout, situation, SEED + LAYOUTS.indexOf(layout));
				if (!vector) return t.skip('this encoding is made by an engine without side files');
				const s = score(vector);
				total.push(s);
				const problems = s.problems.join('\n');
				assert.equal(s.inUseFound, s.inUse, problems);
				assert.ok(s.inUseRight >= s.inUse * 0.99, `in use but read wrongly: ${s.inUse - s.inUseRight} of ${s.inUse}\n${problems}`);
				assert.equal(s.wrongStanding, 0, problems);
				assert.ok(s.threadsRight, `messages of one thread are in several, or of several in one\n${problems}`);
				assert.ok(s.falseTexts <= Math.max(2, s.reported * 0.01), `false: ${s.falseTexts}\n${problems}`);
			});
		}
		it('finds nearly all deleted texts whose bytes are there', (t) => {
			const there = total.reduce((n, s) => n + s.deletedThere, 0);
			const found = total.reduce((n, s) => n + s.deletedFound, 0);
			// Texts that are stored compressed cannot be sought in the files.
			if (layout.name.includes('zipped') || layout.name.includes('deflated')) return t.skip('the oracle sees plain texts only');
			assert.ok(there > 50, `the vectors hold ${there} deleted texts: too few to say anything`);
			assert.ok(
				found >= there * LEAST_FOUND,
				`${found} of ${there}\n${total.flatMap((s) => s.problems.filter((p) => p.startsWith('deleted, not'))).join('\n')}`
			);
		});
	});
}

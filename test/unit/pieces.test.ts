/** Pieces of text looked for in many texts at once: what a plain search finds, and nothing else. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import { Pieces } from '../../src/core/bytes';

const found = (pieces: readonly string[], text: string): number[] => {
	const index = new Pieces<number>();
	pieces.forEach((piece, k) => index.add(piece, k));
	const out: number[] = [];
	index.eachIn(text, (k) => out.push(k));
	return out.sort((a, b) => a - b);
};

describe('pieces of text', () => {
	it('are found as often as a plain search finds them, whatever their length', () => {
		// Few letters, so that pieces overlap themselves and each other; lengths on both sides of each window's.
		const letters = fc.constantFrom('a', 'b', 'ж', '😀');
		const piece = fc.array(letters, { minLength: 1, maxLength: 40 }).map((l) => l.join(''));
		let hits = 0;
		fc.assert(
			fc.property(fc.array(piece, { maxLength: 6 }), fc.array(letters, { maxLength: 120 }), (some, rest) => {
				const text = rest.join('') + (some[0] ?? '') + rest.slice(7).join('');
				const plain = some.flatMap((p, k) => places(text, p).map(() => k));
				hits += plain.length;
				assert.deepEqual(
					found(some, text),
					plain.sort((a, b) => a - b)
				);
			}),
			{ seed: 7, numRuns: 300 }
		);
		assert.ok(hits > 300);
	});

	it('are not empty', () => {
		assert.throws(() => new Pieces<number>().add('', 1), RangeError);
	});
});

/** Where `text` has `piece` in it, overlapping places included. */
function places(text: string, piece: string): number[] {
	const at: number[] = [];
	for (let i = text.indexOf(piece); i >= 0; i = text.indexOf(piece, i + 1)) at.push(i);
	return at;
}

/** Texts that lost their message: one more place of the message that said them, where that is told. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { withoutStrayCopies } from '../../src/core/weave/stray-copies';
import type { Woven } from '../../src/core/weave';

interface Made {
	text: string;
	sentAt?: number | null;
	threadKey?: string;
	method?: string;
	standing?: string;
}

const taken = new Map<Woven, Woven>();
const made = ({ text, sentAt = 1_736_000_000_000, threadKey = 't:1', method = 'freed-cell', standing = 'remnant' }: Made): Woven => {
	const m = {
		first: { text, sentAt, threadKey },
		sightings: [{ method }],
		standing,
		store: 0,
		earlierWordingOf: null,
		answers: null,
		takeIn: (stray: Woven) => void taken.set(stray, m)
	} as unknown as Woven;
	return m;
};
const alone = (text: string, method = 'freed-cell', standing = 'remnant'): Woven =>
	made({ text, sentAt: null, threadKey: 'p:?', method, standing });

describe('a text that lost its message', () => {
	const said = 'Nobody came to look at it';
	for (const method of ['freed-cell', 'freed-page', 'text-index'])
		it(`is one more place of the message that said it (${method})`, () => {
			const [message, stray] = [made({ text: said, method: 'row-in-use', standing: 'kept' }), alone(said, method)];
			assert.deepEqual(withoutStrayCopies([message, stray]), [message]);
			assert.equal(taken.get(stray), message);
		});

	it('stays by itself where none said it, where it is in use, where it has a time or a conversation, or is said often', () => {
		const message = made({ text: said, standing: 'kept' });
		const others = [
			alone('The boiler is off again'),
			alone(said, 'row-in-use', 'kept'),
			made({ text: said, sentAt: 1_736_000_009_000, threadKey: 'p:?' }),
			made({ text: said, sentAt: null, threadKey: 't:2' })
		];
		assert.deepEqual(withoutStrayCopies([message, ...others]), [message, ...others]);
		const [often, stray] = [made({ text: 'Yes', standing: 'kept' }), alone('Yes')];
		assert.deepEqual(withoutStrayCopies([often, stray]), [often, stray]);
	});
});

/** When a message is the only one that its moment can have had. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import type { Understood } from '../../src/core/interpret';
import type { Row } from '../../src/core/model';
import { Moments } from '../../src/core/weave/one-moment';
import { Woven } from '../../src/core/weave/woven';

function message(number: number | null, sentAt: number, thread = 'a'): Woven {
	const row: Row = {
		table: 1,
		tableKnown: true,
		rowid: number,
		values: [],
		cut: -1,
		standing: 'kept',
		grade: 'whole',
		sightings: []
	};
	const first = { row, text: `text ${number}`, textCut: false, sentAt, direction: 'in' } as unknown as Understood;
	return new Woven(first, thread, 0);
}

describe('a message is the only one of its moment', () => {
	it('where the numbers beside its own are taken, by messages before and after it', () => {
		const all = [message(1, 1000), message(2, 2000), message(3, 3000), message(5, 5000), message(6, 5000)];
		const moments = new Moments(all);
		assert.deepEqual(
			all.map((m) => moments.isAlone(m)),
			[true, true, false, false, false]
		);
	});
	it('where of many no two of a conversation are of one moment, whatever their numbers', () => {
		const at = (i: number): number => 1_735_700_000_123 + i * 61_000;
		const all = Array.from({ length: 30 }, (_, n) => message(n * 3 + 1, at(n)));
		assert.equal(new Moments(all).isAlone(all[7]!), true);
		assert.equal(new Moments([...all, message(200, at(7), 'b')]).isAlone(all[7]!), true);
		assert.equal(new Moments([...all, message(200, at(7))]).isAlone(all[7]!), false);
	});
	it('not where moments are seconds, and the messages few', () => {
		const all = Array.from({ length: 30 }, (_, n) => message(n * 3 + 1, 1_735_700_000_000 + n * 61_000));
		assert.equal(new Moments(all).isAlone(all[7]!), false);
	});
});

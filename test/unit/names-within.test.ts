/** Names of many persons found in texts. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import { withoutNames } from '../../src/core/interpret/names-within';

describe('names within texts', () => {
	it('are replaced wherever they stand, the longest of several that fit', () => {
		const line = withoutNames(['Odile', 'Odile Marchetti', 'Li', 'Ilse 🌻'], '*');
		assert.equal(line('Odile Marchetti was added by Odile'), '* was added by *');
		assert.equal(line('Ilse 🌻 wrote to Odilon 👍'), '* wrote to Odilon 👍');
		assert.equal(line('Li left'), 'Li left', 'two letters stand in too much');
		assert.equal(line(''), '');
	});
	it('are those that are found one by one, where none begins or ends within another', () => {
		const name = fc.stringMatching(/^[A-Z][a-z]{3,6}$/);
		fc.assert(
			fc.property(fc.uniqueArray(name, { maxLength: 6 }), fc.array(fc.string({ maxLength: 4 }), { maxLength: 8 }), (names, between) => {
				const text = between.map((part, i) => `${part.toLowerCase()} ${names[i % (names.length || 1)] ?? ''} `).join('');
				const oneByOne = [...names].sort((a, b) => b.length - a.length).reduce((rest, one) => rest.replaceAll(one, '*'), text);
				assert.equal(withoutNames(names, '*')(text), oneByOne);
			})
		);
	});
});

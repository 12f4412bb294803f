/** Parts of messages are put under the message they are parts of, and only where nothing speaks against it. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import fc from 'fast-check';
import type { Understood } from '../../src/core/interpret';
import type { Grade, Row } from '../../src/core/model';
import { mergeFamily } from '../../src/core/weave/captures';
import type { Family } from '../../src/core/weave/families';
import { placeFragments } from '../../src/core/weave/fragments';
import type { WovenStore } from '../../src/core/weave/weave';
import { Woven } from '../../src/core/weave/woven';

interface Told {
	text: string;
	grade?: Grade;
	at?: number | null;
	out?: boolean | null;
	record?: number | null;
	thread?: string;
	store?: number;
	offset?: number;
}

let place = 0;
function message({ text, grade = 'whole', at = 1, out = true, record = null, thread = 'a', store = 0, offset }: Told): Woven {
	const standing = grade === 'whole' ? 'kept' : 'remnant';
	const row: Row = {
		table: 0,
		tableKnown: true,
		rowid: record,
		values: [],
		cut: grade === 'fragment' ? 0 : -1,
		standing,
		grade,
		sightings: [{ file: 0, offset: offset ?? (place += 100), length: text.length, method: 'freed-cell', standing, grade, page: 3 }]
	};
	const first = {
		row,
		reading: { thread: null, threadJoin: null },
		text,
		textCut: grade === 'fragment',
		sentAt: at,
		direction: out === null ? null : out ? 'out' : 'in',
		correspondent: null,
		threadKey: thread === '?' ? 'p:?' : `p:${thread}`,
		members: [],
		files: []
	} as unknown as Understood;
	return new Woven(first, thread, store);
}
const part = (told: Told): Woven => message({ grade: 'fragment', at: null, out: null, thread: '?', ...told });
const texts = (messages: readonly Woven[]): (string | null)[] => messages.map((m) => m.first.text);

const WHOLE = 'The January charge will be credited, you have my word';

describe('fragments', () => {
	it('a part of one message alone is one more place where that was seen', () => {
		for (const text of ['The January', 'will be credited, you', 'have my word']) {
			const whole = message({ text: WHOLE });
			const left = placeFragments([whole, part({ text }), message({ text: 'The boiler is off again, as I said before' })]);
			assert.equal(left.length, 2, text);
			assert.equal(whole.sightings.length, 2, text);
			assert.equal(whole.grade, 'whole');
		}
	});

	it('stays what it is where it is a part of two, is too short, or something speaks against it', () => {
		const whole = (): Woven => message({ text: WHOLE, record: 4 });
		for (const [why, more] of [
			['two have it', [message({ text: `${WHOLE}, again` }), part({ text: 'The January charge' })]],
			['too short', [part({ text: 'charge' })]],
			['another time', [part({ text: 'The January charge', at: 2 })]],
			['the other way', [part({ text: 'The January charge', out: false })]],
			['another number', [part({ text: 'The January charge', record: 5 })]],
			['another thread', [part({ text: 'The January charge', thread: 'b' })]]
		] as const) {
			const all = [whole(), ...more];
			assert.deepEqual(texts(placeFragments([...all])), texts(all), why);
		}
	});

	it('two alike in one capture may be two; the same bytes of two captures are one', () => {
		const alike = (store: number, offset: number): Woven => part({ text: 'nei', store, offset });
		assert.equal(placeFragments([alike(0, 100), alike(0, 100)]).length, 2);
		assert.equal(placeFragments([alike(0, 100), alike(1, 100)]).length, 1);
	});

	it('a few letters without a time are one message at one place of two captures, and two at two', () => {
		const table = { name: 'letters', rowidColumn: -1, primaryKey: [], inferred: false };
		const none = { messages: [] };
		const store = { harvest: { tables: [table] }, tables: [table], reading: none, understood: none };
		const stores = [store, store] as unknown as WovenStore[];
		const family = { captures: [0, 1].map((store) => ({ store, parts: [] })) } as unknown as Family;
		const merged = (...offsets: number[]): number => {
			const left = (store: number): Woven[] => [
				message({ text: 'no', grade: 'rebuilt', at: null, store, offset: offsets[store]! }),
				message({ text: 'no', grade: 'rebuilt', at: null, store, offset: 9000 })
			];
			const perStore = [left(0), left(1)];
			for (const m of perStore.flat()) m.first.row.sightings[0]!.page = m.first.row.sightings[0]!.offset;
			return mergeFamily(family, perStore, stores).length;
		};
		assert.equal(merged(100, 100), 2);
		assert.equal(merged(100, 200), 3);
	});

	it('goes to the message, not to the longer fragment that is a part of it too', () => {
		const whole = message({ text: WHOLE });
		const left = placeFragments([part({ text: 'charge will' }), part({ text: 'January charge will be' }), whole]);
		assert.deepEqual(texts(left), [WHOLE]);
		assert.equal(whole.sightings.length, 3);
	});

	it('what answered the fragment, or was a wording of it, is the message’s', () => {
		const whole = message({ text: WHOLE });
		const fragment = part({ text: 'The January charge' });
		const [answer, wording] = [
			message({ text: 'Thank you, that is good to hear' }),
			message({ text: 'It will be looked at, and no more' })
		];
		answer.answers = fragment;
		wording.earlierWordingOf = fragment;
		assert.deepEqual(placeFragments([whole, fragment, answer, wording]), [whole, answer, wording]);
		assert.equal(answer.answers, whole);
		assert.equal(wording.earlierWordingOf, whole);
	});

	it('a wording that has the fragment in it becomes the message where that was all there was', () => {
		const fragment = part({ text: 'The January charge' });
		const wording = message({ text: WHOLE });
		wording.earlierWordingOf = fragment;
		assert.deepEqual(placeFragments([fragment, wording]), [wording]);
		assert.equal(wording.earlierWordingOf, null);
	});

	it('every part of at least eight letters is found, wherever in the text it stands', () => {
		fc.assert(
			fc.property(fc.string({ unit: 'grapheme', minLength: 8, maxLength: 80 }), fc.nat(), fc.nat(), (text, from, length) => {
				fc.pre(text.length >= 8);
				const start = from % (text.length - 7);
				const piece = text.slice(start, start + 8 + (length % (text.length - start - 7)));
				fc.pre(piece !== text);
				const whole = message({ text });
				assert.deepEqual(placeFragments([part({ text: piece }), whole]), [whole]);
			})
		);
	});
});

/** Whether a text goes on with another page: what a seam says, and what many of them say of a store's pointers. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { likely, Seams, shareRight } from '../../src/core/harvest/sqlite/chains/seams';
import { Random } from '../vectors/random';

const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);
const WORDS =
	'the boiler was cold again when we came down this morning and nobody from office had called about credit for January so please bring old invoice größer überall Wärme'.split(
		' '
	);
const prose = (seed: number, words: number): string => {
	const r = new Random(seed);
	return Array.from({ length: words }, () => r.pick(WORDS)).join(' ');
};
const HAN = '天地玄黄宇宙洪荒日月盈昃辰宿列张寒来暑往秋收冬藏闰余成岁律吕调阳云腾致雨露结为霜';
const spaced = new Seams([1, 2, 3].map((n) => utf8(prose(n, 800))));
const unspaced = new Seams([utf8(HAN.repeat(12))]);
const odds = (of: Seams, before: string, after: string): number => of.odds(utf8(before), utf8(after));

describe('a seam', () => {
	it('speaks for the next page where the word it parts is one of the store, and against it where it is none', () => {
		assert.equal(odds(spaced, 'when we came down this mor', 'ning and nobody') > 20, true);
		assert.equal(odds(spaced, 'when we came down this mor', 'voice and nobody') < 0.1, true);
		assert.equal(odds(spaced, 'nobody from off', 'this morning') < 0.1, true);
	});
	it('says little between two words, and something against a blank behind a blank', () => {
		const between = odds(spaced, 'when we came down ', 'this morning');
		assert.equal(between > 1 && between < 20, true, String(between));
		assert.equal(odds(spaced, 'when we came down ', ' this morning') < between / 2, true);
	});
	it('speaks by pairs of letters in writing without blanks', () => {
		assert.equal(odds(unspaced, '天地玄黄宇', '宙洪荒日月') > 10, true);
		assert.equal(odds(unspaced, '天地玄黄宇', '收冬藏闰余') < 0.1, true);
	});
	it('that parts a letter has none where no letter comes of it', () => {
		const [han, word] = [utf8('天地玄黄'), utf8('Wärme größer')];
		assert.equal(unspaced.odds(han.subarray(0, 7), han.subarray(7)) > 5, true);
		assert.equal(unspaced.odds(han.subarray(0, 7), han.subarray(8)), 0);
		assert.equal(unspaced.odds(han.subarray(0, 6), han.subarray(7)), 0);
		assert.equal(spaced.odds(word.subarray(0, 2), utf8(' and more')), 0);
		assert.equal(spaced.odds(word.subarray(0, 2), word.subarray(2)) > 5, true);
	});
	it('says nothing in packed bytes, of which each is there but once', () => {
		const r = new Random(5);
		const packed = (length: number): string =>
			Array.from({ length }, () => r.pick([...'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLM0123456789'])).join('');
		const of = new Seams([utf8(prose(1, 200)), ...Array.from({ length: 40 }, () => utf8(packed(500)))]);
		const said = odds(of, packed(300), packed(300));
		assert.equal(said > 0.5 && said <= 1, true, String(said));
	});
});

describe('what pointers are worth', () => {
	it('is taken for much where nothing is known, and learned from many seams', () => {
		assert.equal(shareRight([]) > 0.99, true);
		const seams = (right: number): number[][] => Array.from({ length: 2000 }, (_, i) => [i < right * 2000 ? 50 : 0.001]);
		for (const share of [0.3, 0.8]) assert.equal(Math.abs(shareRight(seams(share)) - share) < 0.08, true, String(shareRight(seams(share))));
	});
	it('is shared by several that lead to one page: one is taken only where its text fits far better', () => {
		assert.equal(likely(100, 100.01, 2, 0.99) > 0.99, true);
		assert.equal(likely(100, 150, 2, 0.99) < 0.7, true);
		assert.equal(likely(0, 0, 1, 1), 0);
	});
});

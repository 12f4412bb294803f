/**
 * Whether a text that ends with a page goes on with another: told by what stands on either side of the seam, measured
 * by other texts of the store. A word or letter that the seam parts must be one that the store's texts have, and the
 * more surely so the seldomer its halves meet by chance. All counting is of bytes of UTF-8.
 */
import { decodeText, encodeText, type Encoding } from '../../../bytes';
import type { Row } from '../../../model';

/** Bytes of texts by which seams are measured, of known ones and of pages each. */
export const SAMPLE = 1 << 18;
/** Before anything is known of a store its pointers count as so many that are right, and one that is not. */
const RIGHT_BEFOREHAND = 200;
const ROUNDS = 20;
/** Letters of a text from which it says how texts go on. */
const SHORT = 12;
/** Bytes on either side of a seam that are looked at: words are shorter. */
const AROUND = 64;
/** Odds of a seam are not taken for surer than so, either way: one word is but one word. */
const SUREST = 1e4;
/** Of halves of words that were never one, so many make no word of the store. */
const NO_WORD_BY_CHANCE = 0.8;

/**
 * A word, or one sign: a blank, a mark, or a letter of writing without blanks (the scripts of South-East Asia, and
 * what Han, kana and beyond take three bytes or four for). The text is UTF-8, a byte to a character.
 */
const TOKEN =
	/(?:[0-9A-Za-z]|[\xc2-\xdf][\x80-\xbf]|\xe0[\xa0-\xb7][\x80-\xbf]|\xe1[\x83-\x9d\xa0-\xbf][\x80-\xbf]|[\xea-\xed][\x80-\xbf]{2})+|[\x00-\x7f]|[\xe0-\xef][\x80-\xbf]{2}|[\xf0-\xf4][\x80-\xbf]{3}/g;
const isWord = (token: string): boolean =>
	/^[0-9A-Za-z\xc2-\xdf\xea-\xed]/.test(token) || /^(?:\xe0[\xa0-\xb7]|\xe1[\x83-\x9d\xa0-\xbf])/.test(token);

const bytesAsText = (bytes: Uint8Array): string => {
	let out = '';
	for (let at = 0; at < bytes.length; at += 8192) out += String.fromCharCode(...bytes.subarray(at, at + 8192));
	return out;
};

class Counts {
	private readonly of = new Map<string, number>();
	add(key: string, times = 1): void {
		this.of.set(key, (this.of.get(key) ?? 0) + times);
	}
	get = (key: string): number => this.of.get(key) ?? 0;
	entries = (): IterableIterator<[string, number]> => this.of.entries();
}

export class Seams {
	private readonly tokens = new Counts();
	private readonly kinds = new Counts();
	private readonly pairs = new Counts();
	private readonly beginnings = new Counts();
	private readonly ends = new Counts();
	/** Places between two bytes. */
	private places = 1;
	/** Bytes of all words and signs, and of those that the texts have but once. */
	private all = 0;
	private once = 0;
	/** What a pair says that the texts do not have: the less, the more of theirs they have but once. */
	private readonly ofUnknownPair: number;

	/** `texts`: what the store's texts are like, as UTF-8. */
	constructor(texts: Iterable<Uint8Array>) {
		for (const text of texts) this.learn(bytesAsText(text));
		for (const [token, times] of this.tokens.entries()) {
			this.all += times * token.length;
			if (times === 1) this.once += token.length;
			for (let i = 1; i <= token.length; i++) {
				this.beginnings.add(token.slice(0, i), times);
				this.ends.add(token.slice(-i), times);
			}
		}
		const pairs = [...this.pairs.entries()].map(([, times]) => times);
		const all = pairs.reduce((sum, times) => sum + times, 0);
		this.ofUnknownPair = Math.min(1, (pairs.filter((times) => times === 1).length + 1) / (all + 2) / NO_WORD_BY_CHANCE);
	}

	/** How many times likelier the two ends are if the text goes on there than if they met by chance; 0 where no letter comes of it. */
	odds(before: Uint8Array, after: Uint8Array): number {
		const head = bytesAsText(before.subarray(-AROUND)).replace(/^[\x80-\xbf]+/, '');
		const around = head + bytesAsText(after.subarray(0, AROUND));
		let last = '';
		for (const { 0: token, index } of around.matchAll(TOKEN)) {
			const end = index + token.length;
			if (end > head.length)
				return this.limited(
					index === head.length ? this.between(last, token) : index < head.length ? this.within(token, head.length - index) : 0
				);
			// What no token takes in is a letter of which a part is missing.
			last = end === head.length ? token : '';
		}
		return 0;
	}

	/** How frequent the words and signs of a text are in the store's texts, by their kinds: the mean of its logarithm. */
	familiar(text: Uint8Array): number {
		const tokens = [...bytesAsText(text).matchAll(TOKEN)];
		return tokens.reduce((sum, [token]) => sum + Math.log(this.kinds.get(kind(token)) + 1), 0) / Math.max(1, tokens.length);
	}

	private limited = (odds: number): number => (odds === 0 ? 0 : Math.min(SUREST, Math.max(1 / SUREST, odds)));

	/** The seam parts a word or letter after so many bytes of it. */
	private within(token: string, at: number): number {
		const times = this.tokens.get(token);
		if (times === 0) return this.ofUnknown();
		return (times * this.places) / (this.beginnings.get(token.slice(0, at)) * this.ends.get(token.slice(at)));
	}

	private between(before: string, after: string): number {
		if (before === '') return 0;
		return this.pairOdds(kind(before), kind(after)) * this.wholeOdds(before, this.beginnings) * this.wholeOdds(after, this.ends);
	}

	private pairOdds(before: string, after: string): number {
		const [a, b] = [this.kinds.get(before), this.kinds.get(after)];
		if (a === 0 || b === 0) return 1;
		const times = this.pairs.get(before + after);
		return times > 0 ? (times * this.places) / (a * b) : this.ofUnknownPair;
	}

	/** How much likelier a word is to be one than to be a part of one. */
	private wholeOdds(token: string, parts: Counts): number {
		if (!isWord(token)) return 1;
		const times = this.tokens.get(token);
		return times === 0 ? this.ofUnknown() : times / parts.get(token);
	}

	/** What a word that the texts do not have says: the less, the more of them is words that they have but once. */
	private ofUnknown = (): number => Math.min(1, (this.once + 1) / (this.all + 2) / NO_WORD_BY_CHANCE);

	private learn(text: string): void {
		let before = '';
		this.places += text.length;
		for (const [token] of text.matchAll(TOKEN)) {
			if (token.length <= AROUND) this.tokens.add(token);
			else {
				// Digests, keys, packed bytes: of each there is one.
				this.all += token.length;
				this.once += token.length;
			}
			const is = kind(token);
			this.kinds.add(is);
			if (before) this.pairs.add(before + is);
			before = is;
		}
	}
}

/** Of words it counts only that they are. */
const kind = (token: string): string => (isWord(token) ? 'w' : token);

/** Text of any encoding as seams are measured in. */
export const asUtf8 = (text: Uint8Array, encoding: Encoding): Uint8Array =>
	encoding === 'utf8' ? text : encodeText(decodeText(text, 0, text.length, encoding), 'utf8');

/** How likely one of those that lead to a page is the one, given how likely it is that any is. */
export const likely = (odds: number, sum: number, count: number, right: number): number =>
	((right / count) * odds) / ((right / count) * sum + 1 - right || 1);

/** The share of pages that are what some pointer leads to (expectation and maximisation of a mixture of two). */
export function shareRight(seams: readonly (readonly number[])[]): number {
	let right = RIGHT_BEFOREHAND / (RIGHT_BEFOREHAND + 1);
	for (let round = 0; round < ROUNDS; round++) {
		let sum = RIGHT_BEFOREHAND;
		for (const odds of seams) {
			const all = odds.reduce((s, o) => s + o, 0);
			sum += likely(all, all, odds.length, right);
		}
		right = sum / (seams.length + RIGHT_BEFOREHAND + 1);
	}
	return right;
}

/** As many of the texts as seams are measured by. */
export function someOf(texts: readonly string[]): string[] {
	const out: string[] = [];
	let letters = 0;
	for (const text of texts) if ((letters += text.length) <= SAMPLE) out.push(text);
	return out;
}

export const sampleOf = (texts: readonly string[]): Uint8Array[] => someOf(texts).map((text) => encodeText(text, 'utf8'));

/** Texts of rows in use, as many as tell what the store's texts are like. */
export function textsInUse(rows: Iterable<Row>): string[] {
	const out: string[] = [];
	let letters = 0;
	for (const row of rows) {
		if (row.standing !== 'kept') continue;
		for (const value of row.values) {
			if (typeof value !== 'string' || value.length < SHORT) continue;
			out.push(value);
			letters += value.length;
		}
		if (letters > SAMPLE) break;
	}
	return out;
}

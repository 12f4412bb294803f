/** Whether two rows are the same, or one a part of the other. */
import type { Row, Value } from '../model';
import { bytesIn } from './large';

/** Letters of a text that are seldom another's. */
export const PREFIX = 16;
/** Numbers below this (flags, small keys) are shared by too many rows to be worth comparing. */
export const TELLING = 100_000;
/** Whether few rows share a number: one so large, or with a fraction, as days are counted. */
export const isTelling = (magnitude: number): boolean => magnitude > TELLING || (magnitude > 1 && !Number.isInteger(magnitude));

export function sameValue(a: Value, b: Value): boolean {
	if (a === b) return true;
	if (a === null || b === null || typeof a !== 'object' || typeof b !== 'object') {
		// An integer beyond 2^53 is a bigint; one that fits both ways is the same value.
		if (typeof a === 'bigint' && typeof b === 'number') return a === BigInt(Math.trunc(b)) && Number.isInteger(b);
		return typeof a === 'number' && typeof b === 'bigint' && Number.isInteger(a) && BigInt(a) === b;
	}
	if (bytesIn(a) !== bytesIn(b)) return false;
	// Of a large one only the beginning is held.
	for (let i = 0; i < Math.min(a.length, b.length); i++) if (a[i] !== b[i]) return false;
	return true;
}

/** Bytes that blobs of one form may begin with: what is shared must be more. */
const FORM = 16;

/** Whether a text begins as a part of one does; of blobs so much that it can be no other's. */
export function beginsWith(whole: Value, part: Value): boolean {
	if (typeof whole === 'string' || typeof part === 'string')
		return typeof whole === 'string' && typeof part === 'string' && whole.startsWith(part);
	if (whole === null || part === null || typeof whole !== 'object' || typeof part !== 'object') return false;
	return part.length >= FORM && part.length <= whole.length && part.every((byte, i) => byte === whole[i]);
}

/** Whether every value that both have is the same; a cut value need only begin like the other. */
export function agrees(a: Row, b: Row): boolean {
	const count = Math.min(a.values.length, b.values.length);
	let shared = 0;
	for (let k = 0; k < count; k++) {
		const x = a.values[k];
		const y = b.values[k];
		if (x === undefined || y === undefined) continue;
		if (k === a.cut || k === b.cut) {
			// Of two that are cut either can be the longer one.
			if (!(k === a.cut && beginsWith(y, x)) && !(k === b.cut && beginsWith(x, y))) return false;
		} else if (!sameValue(x, y)) return false;
		if (x !== null) shared++;
	}
	return shared > 0;
}

/** What two rows must share: a number that tells, a long part of a text, or several texts (rooms and accounts are many rows'). */
const ITS_OWN = 2;
const SHORT_TEXT = 8;

export function sharesItsOwn(a: Row, b: Row): boolean {
	let points = 0;
	for (let k = 0; k < Math.min(a.values.length, b.values.length); k++) {
		const [x, y] = [a.values[k], b.values[k]];
		if (x === undefined || y === undefined || x === null || y === null) continue;
		if (typeof x === 'number' || typeof x === 'bigint') points += isTelling(Math.abs(Number(x))) ? ITS_OWN : 0;
		else {
			const length = Math.min(lengthOf(x), lengthOf(y));
			points += k === a.cut || k === b.cut ? (length >= PREFIX ? ITS_OWN : 0) : Number(length >= SHORT_TEXT);
		}
	}
	return points >= ITS_OWN;
}

/** Letters from which a text goes on outside of its page, at least in part: what follows can be another's. */
const ELSEWHERE = 400;
const SAME_BEGINNING = 100;

/**
 * Whether a freed row is a known one but for the end of a long text of the same length: pages on which it went on have
 * been used again since, and what stands there now is no wording of it.
 */
export function isButForItsEnd(known: Row, freed: Row): boolean {
	if (freed.standing !== 'remnant' || known.standing === 'remnant' || known.grade !== 'whole') return false;
	for (let k = 0; k < Math.min(known.values.length, freed.values.length); k++) {
		const [a, b] = [known.values[k], freed.values[k]];
		if (a === undefined || b === undefined || sameValue(a, b)) continue;
		// What is stored behind the text lies on those pages too.
		return typeof a === 'string' && typeof b === 'string' && isSameButForItsEnd(a, b);
	}
	return false;
}

/** Bytes with which a newer cell begins that can pass for letters. */
const LIKE_LETTERS = 4;

/**
 * Whether what is left of a row is the known one of its number but for the last letters of a cut text: the beginning of
 * a cell stood there that is overwritten itself, and can pass for letters.
 */
export function isButForItsLastLetters(known: Row, part: Row): boolean {
	const cut = part.values[part.cut];
	const whole = known.values[part.cut];
	if (part.standing !== 'remnant' || part.grade !== 'fragment' || known.rowid === null || known.rowid !== part.rowid) return false;
	if (typeof cut !== 'string' || typeof whole !== 'string' || part.cut === known.cut) return false;
	let alike = 0;
	while (alike < cut.length && cut[alike] === whole[alike]) alike++;
	if (alike === 0 || cut.length - alike > LIKE_LETTERS) return false;
	const without = part.values.map((value, k) => (k === part.cut ? undefined : value));
	return agrees(known, { ...part, values: without, cut: -1 });
}

/** From here on a number that is a time counts thousandths of a second or less: what its last byte holds is a quarter of one. */
const THOUSANDTHS = 1e11;

/**
 * Whether two lost rows are the same but for the last byte of the last value they have, the header of one being
 * destroyed: the first byte of a cell that is itself gone stands there. A time must be so near, or the value not what
 * all else of it is (a letter behind digits), since to several people one text can be sent at one time.
 */
export function isButForItsLastByte(a: Row, b: Row): boolean {
	if (a.standing !== 'remnant' || b.standing !== 'remnant' || a.grade === 'fragment' || b.grade === 'fragment') return false;
	if (a.grade === 'whole' && b.grade === 'whole') return false;
	const count = Math.min(a.values.length, b.values.length);
	let last = count - 1;
	while (last >= 0 && takesNone(a.values[last]) && takesNone(b.values[last])) last--;
	let text = 0;
	for (let k = 0; k < last; k++) {
		const [x, y] = [a.values[k], b.values[k]];
		if (x === undefined || y === undefined) continue;
		if (!sameValue(x, y)) return false;
		if (typeof x === 'string') text = Math.max(text, encodedLength(x));
	}
	return text >= PREFIX && isSameButForLastByte(a.values[last], b.values[last]);
}

/** Whether a value stands in a record's header alone (section 2.1). */
const takesNone = (value: Value | undefined): boolean => value === null || value === undefined || value === 0 || value === 1;

function isSameButForLastByte(x: Value | undefined, y: Value | undefined): boolean {
	if (typeof x === 'number' && typeof y === 'number') return Math.min(x, y) > THOUSANDTHS && Math.floor(x / 256) === Math.floor(y / 256);
	if (typeof x !== 'string' || typeof y !== 'string' || x.length !== y.length || x.slice(0, -1) !== y.slice(0, -1)) return false;
	const digits = /^\+?\d+$/;
	return digits.test(x.slice(0, -1)) && digits.test(x) !== digits.test(y);
}

/** Whether two long texts begin alike and take as many bytes. */
export const isSameButForItsEnd = (a: string, b: string): boolean =>
	Math.min(a.length, b.length) >= ELSEWHERE &&
	a.slice(0, SAME_BEGINNING) === b.slice(0, SAME_BEGINNING) &&
	encodedLength(a) === encodedLength(b);

const encoder = new TextEncoder();
const encodedLength = (text: string): number => encoder.encode(text).length;

/** Of a text or a blob; 0 of anything else. */
export const lengthOf = (value: Value | undefined): number =>
	typeof value === 'string' || (value !== null && typeof value === 'object') ? value.length : 0;

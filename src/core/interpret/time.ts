/** Which epoch and unit a column's numbers or texts count in, decided over all its values. Results in ms since 1970 UTC. */
import { findStamp, readDates, stampTime, type DateReading } from '../harvest';
import type { Value } from '../model';

export interface TimeReading {
	/** Short name of epoch and unit, as shown: "seconds since 2001". */
	label: string;
	kind: 'number' | 'text';
	/** ms since 1970 of the epoch; for numbers. */
	epoch: number;
	/** ms a unit; for numbers. */
	unit: number;
	/** Whether texts carry their own zone. */
	zoned: boolean;
	/** How dates are read that are written as people write them, which number is the day being decided over the column. */
	dates?: DateReading;
	/** How the bytes are read that hold the number, where it is stored so: the name of one of `BLOB_READERS`. */
	bytes?: string | undefined;
	/** Whether the number is written to the base of 16. */
	hexadecimal?: boolean | undefined;
	/** Whether the number is stored as one below nought, so that what is newest comes first. */
	negative?: boolean | undefined;
	/** How numbers from a size on are read, where a program has come to count in another unit. */
	beyond?: { from: number; reading: TimeReading } | undefined;
	score: number;
}

const Y1601 = Date.UTC(1601, 0, 1);
const Y1904 = Date.UTC(1904, 0, 1);
const Y1900 = Date.UTC(1900, 0, 1);
const Y1970 = 0;
const Y1980 = Date.UTC(1980, 0, 6);
const Y2000 = Date.UTC(2000, 0, 1);
const Y2001 = Date.UTC(2001, 0, 1);
const Y0001 = -62135596800000;
const OLE = Date.UTC(1899, 11, 30);
const JULIAN = -210866760000000;
const DAY = 86_400_000;

/** Epoch, unit and how common it is in stores; ties go to the more common. */
const NUMERIC: readonly { label: string; epoch: number; unit: number; prior: number }[] = [
	{ label: 'seconds since 1970', epoch: Y1970, unit: 1000, prior: 1 },
	{ label: 'milliseconds since 1970', epoch: Y1970, unit: 1, prior: 1 },
	{ label: 'microseconds since 1970', epoch: Y1970, unit: 1e-3, prior: 0.8 },
	{ label: 'nanoseconds since 1970', epoch: Y1970, unit: 1e-6, prior: 0.7 },
	{ label: 'seconds since 2001', epoch: Y2001, unit: 1000, prior: 0.95 },
	{ label: 'milliseconds since 2001', epoch: Y2001, unit: 1, prior: 0.6 },
	{ label: 'microseconds since 2001', epoch: Y2001, unit: 1e-3, prior: 0.5 },
	{ label: 'nanoseconds since 2001', epoch: Y2001, unit: 1e-6, prior: 0.9 },
	{ label: 'microseconds since 1601', epoch: Y1601, unit: 1e-3, prior: 0.8 },
	{ label: 'units of 100 ns since 1601', epoch: Y1601, unit: 1e-4, prior: 0.8 },
	{ label: 'milliseconds since 1601', epoch: Y1601, unit: 1, prior: 0.5 },
	{ label: 'seconds since 1601', epoch: Y1601, unit: 1000, prior: 0.5 },
	{ label: 'units of 100 ns since year 1', epoch: Y0001, unit: 1e-4, prior: 0.6 },
	{ label: 'milliseconds since year 1', epoch: Y0001, unit: 1, prior: 0.3 },
	{ label: 'seconds since year 1', epoch: Y0001, unit: 1000, prior: 0.3 },
	{ label: 'seconds since 1904', epoch: Y1904, unit: 1000, prior: 0.5 },
	{ label: 'milliseconds since 1904', epoch: Y1904, unit: 1, prior: 0.3 },
	{ label: 'seconds since 1900', epoch: Y1900, unit: 1000, prior: 0.4 },
	{ label: 'seconds since 1980', epoch: Y1980, unit: 1000, prior: 0.25 },
	{ label: 'milliseconds since 2000', epoch: Y2000, unit: 1, prior: 0.3 },
	{ label: 'microseconds since 2000', epoch: Y2000, unit: 1e-3, prior: 0.3 },
	{ label: 'days since 1899-12-30', epoch: OLE, unit: DAY, prior: 0.4 },
	{ label: 'Julian days', epoch: JULIAN, unit: DAY, prior: 0.5 },
	{ label: 'days since 1970', epoch: Y1970, unit: DAY, prior: 0.3 }
];

const EARLIEST = Date.UTC(1996, 0, 1);
const LATEST = Date.UTC(2036, 0, 1);
const LIKELY_FROM = Date.UTC(2006, 0, 1);
const LIKELY_TO = Date.UTC(2031, 0, 1);

const ISO =
	/^\s*([+-]?\d{4})-(\d{1,2})-(\d{1,2})(?:[T ](\d{1,2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,9}))?)?)?\s*(Z|UTC|GMT|[+-]\d{2}:?\d{2}|(?<=:\d{2}(?:[.,]\d{1,9})? ?)[+-]\d{2})?\s*$/i;
const COMPACT = /^((?:19|20)\d{2})(\d{2})(\d{2})T?(\d{2})(\d{2})(?:(\d{2})(?:[.,]?(\d{3}))?)?(Z)?$/;
const MAIL = /^(?:[A-Z][a-z]{2},?\s+)?(\d{1,2})\s+([A-Z][a-z]{2})\s+(\d{4})\s+(\d{2}):(\d{2})(?::(\d{2}))?\s*([+-]\d{4}|GMT|UTC|Z)?/;
const DAY_FIRST = /^(\d{1,2})[./](\d{1,2})[./](\d{4})[ ,T]+(\d{1,2}):(\d{2})(?::(\d{2}))?$/;
const SLASHED = /^(\d{4})[/.](\d{1,2})[/.](\d{1,2})[ T]+(\d{1,2}):(\d{2})(?::(\d{2}))?$/;
/** RFC 9110, section 5.6.7, "asctime-date", perhaps with its zone; and the form of logs (14/Jan/2025:10:30:05 +0100). */
const ASCTIME = /^[A-Z][a-z]{2} ([A-Z][a-z]{2}) {1,2}(\d{1,2}) (\d{2}):(\d{2}):(\d{2})(?: (GMT|UTC|Z|[+-]\d{4}))? (\d{4})$/;
const LOGGED = /^(\d{1,2})\/([A-Z][a-z]{2})\/(\d{4}):(\d{2}):(\d{2}):(\d{2}) ([+-]\d{4})$/;
/** A number of ms since 1970 as some programs put it into JSON. */
const WRAPPED = /^\/Date\((-?\d{9,14})(?:[+-]\d{4})?\)\/$/;
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

function zoneOffset(zone: string | undefined): number {
	// ISO 8601, 5.3.4.1: the minutes may be left out.
	const match = /^([+-])(\d{2}):?(\d{2})?$/.exec(zone ?? '');
	return match ? (match[1] === '-' ? -1 : 1) * (Number(match[2]) * 60 + Number(match[3] ?? 0)) * 60_000 : 0;
}

/** A written date and time, or null. Without a zone it is read as UTC and `zoned` is false. */
export function parseTimeText(text: string): { at: number; zoned: boolean } | null {
	if (text.length > 48 || text.length < 8) return null;
	let m = ISO.exec(text);
	if (m) {
		const fraction = m[7] ? Math.floor(Number(`0.${m[7]}`) * 1000 + 1e-6) : 0;
		return made(Number(m[1]), Number(m[2]), Number(m[3]), Number(m[4] ?? 0), Number(m[5] ?? 0), Number(m[6] ?? 0), fraction, m[8]);
	}
	if ((m = COMPACT.exec(text)))
		return made(Number(m[1]), Number(m[2]), Number(m[3]), Number(m[4]), Number(m[5]), Number(m[6] ?? 0), Number(m[7] ?? 0), m[8]);
	if ((m = WRAPPED.exec(text))) return { at: Number(m[1]), zoned: true };
	if ((m = ASCTIME.exec(text))) {
		const month = MONTHS.indexOf(m[1]!.toLowerCase()) + 1;
		return month ? made(Number(m[7]), month, Number(m[2]), Number(m[3]), Number(m[4]), Number(m[5]), 0, m[6]) : null;
	}
	if ((m = LOGGED.exec(text))) {
		const month = MONTHS.indexOf(m[2]!.toLowerCase()) + 1;
		return month ? made(Number(m[3]), month, Number(m[1]), Number(m[4]), Number(m[5]), Number(m[6]), 0, m[7]) : null;
	}
	if ((m = MAIL.exec(text))) {
		const month = MONTHS.indexOf(m[2]!.toLowerCase()) + 1;
		return month ? made(Number(m[3]), month, Number(m[1]), Number(m[4]), Number(m[5]), Number(m[6] ?? 0), 0, m[7]) : null;
	}
	if ((m = DAY_FIRST.exec(text))) {
		const first = Number(m[1]);
		const second = Number(m[2]);
		return second > 12
			? made(Number(m[3]), first, second, Number(m[4]), Number(m[5]), Number(m[6] ?? 0), 0, undefined)
			: made(Number(m[3]), second, first, Number(m[4]), Number(m[5]), Number(m[6] ?? 0), 0, undefined);
	}
	if ((m = SLASHED.exec(text)))
		return made(Number(m[1]), Number(m[2]), Number(m[3]), Number(m[4]), Number(m[5]), Number(m[6] ?? 0), 0, undefined);
	return null;
}

function made(
	y: number,
	mo: number,
	d: number,
	h: number,
	mi: number,
	s: number,
	ms: number,
	zone: string | undefined
): { at: number; zoned: boolean } | null {
	if (mo < 1 || mo > 12 || d < 1 || d > 31 || h > 24 || mi > 59 || s > 60) return null;
	return { at: Date.UTC(y, mo - 1, d, h, mi, s, ms) - zoneOffset(zone), zoned: zone !== undefined };
}

/** The dates of a column that are written as people write them, or null where some are none. */
function readStamps(texts: readonly string[]): DateReading | null {
	// Of nearly all columns the first few say that they are none.
	const first = texts.slice(0, FIRST_ASKED);
	if (first.filter((text) => wholeStamp(text) === null).length > first.length / 2) return null;
	const stamps = texts.map(wholeStamp).filter((stamp) => stamp !== null);
	return stamps.length >= texts.length * MOST_WRITTEN ? readDates(stamps) : null;
}
const MOST_WRITTEN = 0.9;

/** The date and time that a text is from its first letter to its last. */
function wholeStamp(text: string): ReturnType<typeof findStamp> {
	if (text.length > LONGEST_DATE || !/\d/.test(text)) return null;
	const stamp = findStamp(text.trim(), true);
	return stamp && stamp.from === 0 && stamp.to >= text.trim().length ? stamp : null;
}
const LONGEST_DATE = 64;
const FIRST_ASKED = 12;

/** Digits of a whole number that can be a date and time written one behind the other (20250114103005). */
const digitsOf = (value: Value | undefined): string | null =>
	(typeof value === 'number' && Number.isInteger(value)) || typeof value === 'bigint' ? String(value) : null;

/** Numbers within a value: an integer, a real, a numeric text. */
export function numberIn(value: Value | undefined): number | null {
	if (typeof value === 'number') return value;
	if (typeof value === 'bigint') return Number(value);
	if (typeof value === 'string') return /^-?\d{5,20}(\.\d+)?$/.test(value.trim()) ? Number(value) : null;
	return null;
}

/** Four or eight bytes as the numbers they can be: big- and little-endian integer and double. */
const BLOB_READERS: readonly { name: string; read: (b: Uint8Array) => number }[] = [
	{ name: 'big-endian integer', read: (b) => (b.length === 8 ? Number(view(b).getBigInt64(0)) : view(b).getInt32(0)) },
	{ name: 'little-endian integer', read: (b) => (b.length === 8 ? Number(view(b).getBigInt64(0, true)) : view(b).getInt32(0, true)) },
	{ name: 'big-endian double', read: (b) => (b.length === 8 ? view(b).getFloat64(0) : NaN) },
	{ name: 'little-endian double', read: (b) => (b.length === 8 ? view(b).getFloat64(0, true) : NaN) }
];
const view = (b: Uint8Array): DataView => new DataView(b.buffer, b.byteOffset, b.length);

/**
 * The reading under which the values are most plausible as times of messages, or null. Ambiguous magnitudes are
 * decided by where the whole range falls, by how many zeros the numbers end in, and by how common a reading is.
 */
export function readTimes(values: readonly (Value | undefined)[]): TimeReading | null {
	const texts = values.filter((v): v is string => typeof v === 'string' && v !== '');
	const numbers = values.map(numberIn).filter((n): n is number => n !== null && n !== 0 && n !== -1);
	const filled = values.filter((v) => v !== null && v !== undefined && v !== '' && v !== 0).length;
	if (filled === 0) return null;
	const digits = values.map(digitsOf).filter((d) => d !== null);
	const written = texts.length > filled * 0.8 ? texts : digits.length > filled * MOST_WRITTEN ? digits : [];
	const parsed = written.map(parseTimeText).filter((p) => p !== null);
	if (written.length > 0 && parsed.length >= written.length * MOST_WRITTEN) {
		const dates = written.filter((text) => DAY_FIRST.test(text)).length > 0 ? readStamps(written) : null;
		return writtenDates(
			parsed[0]!.zoned,
			parsed.every((p) => p.zoned),
			dates
		);
	}
	const dates = written === texts && texts.length > 0 ? readStamps(texts) : null;
	if (dates)
		return writtenDates(
			false,
			texts.every((text) => (wholeStamp(text)?.zone ?? null) !== null),
			dates
		);
	if (written === texts && areHexadecimal(texts)) {
		const reading = readNumbers(texts.filter((text) => HEXADECIMAL.test(text)).map(hexadecimal), 0, true);
		return reading && { ...reading, hexadecimal: true };
	}
	const bytes = values.filter((v): v is Uint8Array => v instanceof Uint8Array);
	if (bytes.length > filled * MOST_WRITTEN) return readBytes(bytes);
	if (numbers.length < filled * 0.9 || goToAndFro(numbers)) return null;
	if (numbers.every((n) => n < 0)) {
		const reading = readNumbers(
			numbers.map((n) => -n),
			0
		);
		return reading && isCommon(reading) ? { ...reading, negative: true } : null;
	}
	const zeros = values.map(trailingZeros).sort((a, b) => a - b);
	if (zeros[zeros.length >> 1] === 0 && areCountedKeys(values)) return null;
	const asTexts = texts.length > filled / 2;
	return readNumbers(numbers, zeros[Math.floor(zeros.length * ODD)]!, asTexts) ?? (asTexts ? null : readTwoUnits(numbers));
}

/**
 * Keys of 64 bits that are made of a time in their upper bits, the maker's number, and a count: of which moment that time is
 * counted from nothing here says, and as a time in small units they would be any.
 */
export function areCountedKeys(values: readonly (Value | undefined)[]): boolean {
	const keys = values.flatMap((v) => {
		const large = typeof v === 'bigint' || (typeof v === 'string' && /^\d{16,19}$/.test(v)) ? BigInt(v) : 0n;
		return large > 1n << MAKERS_FROM ? [large] : [];
	});
	const makers = new Set(keys.map((key) => (key >> COUNT_BITS) & MAKERS));
	const counts = new Set(keys.map((key) => key & COUNTS));
	return keys.length >= KEYS_LEAST && Math.min(makers.size, counts.size) * FEW_OF_MANY <= keys.length;
}
const MAKERS_FROM = 53n;
const COUNT_BITS = 12n;
const COUNTS = (1n << COUNT_BITS) - 1n;
const MAKERS = 0x3ffn;
const KEYS_LEAST = 8;
const FEW_OF_MANY = 6;

/** Numbers of two sizes, far apart: times from one epoch, which an older version of a program counted in a larger unit. */
function readTwoUnits(numbers: readonly number[]): TimeReading | null {
	const sorted = [...numbers].sort((a, b) => a - b);
	const apart = sorted.findIndex((n, i) => i > 0 && sorted[i - 1]! > 0 && n > sorted[i - 1]! * FAR);
	if (apart < TWO_LEAST || sorted.length - apart < TWO_LEAST) return null;
	const [small, large] = [sorted.slice(0, apart), sorted.slice(apart)];
	const [first, second] = [readNumbers(small, 0), readNumbers(large, 0)];
	if (!first || !second || first.epoch !== second.epoch || first.unit <= second.unit || ![first, second].every(isCommon)) return null;
	// One went on where the other ended.
	const between = (first.epoch + small.at(-1)! * first.unit - (second.epoch + large[0]! * second.unit)) / DAY;
	if (Math.abs(between) > TWO_APART) return null;
	return withBeyond(first, second);
}

/** Numbers that would be too late a time in the one unit are of the other. */
const withBeyond = (first: TimeReading, later: TimeReading): TimeReading => ({
	...first,
	label: `${first.label}${LATER}${later.label}`,
	beyond: { from: (LATEST - first.epoch) / first.unit, reading: later }
});
const LATER = ', later ';
const FAR = 100;
const TWO_LEAST = 5;
/** Days. */
const TWO_APART = 3 * 365;

const writtenDates = (first: boolean, zoned: boolean, dates: DateReading | null): TimeReading => ({
	label: first || (dates && zoned) ? 'written date with zone' : 'written date',
	kind: 'text',
	epoch: 0,
	unit: 0,
	zoned,
	...(dates ? { dates } : {}),
	score: 3
});

/** Numbers to the base of 16, all as long: of digests and other keys the first digits are any. */
function areHexadecimal(texts: readonly string[]): boolean {
	const { length } = texts[texts.length >> 1] ?? '';
	const fit = texts.filter((text) => text.length === length && HEXADECIMAL.test(text));
	return fit.length > 0 && fit.length >= texts.length * MOST_WRITTEN && fit.some((text) => /[a-f]/i.test(text.slice(2)));
}
const HEXADECIMAL = /^(?:0x)?[\da-f]{8,16}$/i;
const hexadecimal = (text: string): number => Number(/^0x/i.test(text) ? text : `0x${text}`);

/** Numbers stored as bytes, all of one length. */
function readBytes(bytes: readonly Uint8Array[]): TimeReading | null {
	const { length } = bytes[0]!;
	if ((length !== 4 && length !== 8) || bytes.some((b) => b.length !== length)) return null;
	let best: TimeReading | null = null;
	for (const { name, read } of BLOB_READERS) {
		const numbers = bytes.map(read).filter((n) => Number.isFinite(n) && n !== 0);
		const reading = numbers.length > bytes.length * MOST_WRITTEN && !goToAndFro(numbers) ? readNumbers(numbers, 0) : null;
		if (reading && (!best || reading.score > best.score)) best = { ...reading, bytes: name };
	}
	return best;
}

/** A few numbers again and again, now the one and now the other: keys, though they are as large as times. Days come again as well. */
function goToAndFro(numbers: readonly number[]): boolean {
	if (numbers.length < TO_AND_FRO_LEAST || new Set(numbers).size > numbers.length * COME_AGAIN) return false;
	if (numbers.every((n) => n % HOUR_IN_SECONDS === 0)) return false;
	return numbers.filter((n, i) => i > 0 && n < numbers[i - 1]!).length > numbers.length * COME_AGAIN;
}
const TO_AND_FRO_LEAST = 20;
const COME_AGAIN = 0.25;
const HOUR_IN_SECONDS = 3600;

/** Share of values that may be odd ones (zero dates, a clock set wrong, a lost row misread): they must not decide. */
const ODD = 0.03;

const SELDOM = 0.75;
/** Units in which numbers below nought are read as times: what is newest is to come first. */
const COMMON = 0.7;
const isCommon = ({ label }: TimeReading): boolean => NUMERIC.find((n) => n.label === label)!.prior >= COMMON;

/** `whole`: the zeros in which all of the numbers end, as stored. `asTexts`: they are texts, as numbers of telephones are. */
function readNumbers(numbers: number[], whole: number, asTexts = false): TimeReading | null {
	const sorted = [...numbers].sort((a, b) => a - b);
	const low = sorted[Math.floor(sorted.length * ODD)]!;
	const high = sorted[Math.ceil(sorted.length * (1 - ODD)) - 1] ?? low;
	const distinct = new Set(numbers).size;
	let best: TimeReading | null = null;
	for (const { label, epoch, unit, prior } of NUMERIC) {
		const from = epoch + low * unit;
		const to = epoch + high * unit;
		if (!(from >= EARLIEST && to <= LATEST)) continue;
		// Small numbers are days and seconds of any young epoch; times of messages begin a few years after it.
		if (epoch >= Y2000 && from < Date.UTC(2005, 0, 1)) continue;
		if (unit === DAY && numbers.every((n) => Number.isInteger(n))) continue;
		// Readings that are seldom meant need values that are clearly instants: many of them, hours apart. Numbers of
		// telephones fall into some of these ranges.
		if (prior < SELDOM && asTexts) continue;
		if (prior < SELDOM && (distinct < numbers.length * 0.3 || (to - from < 60_000 && numbers.length > 1))) continue;
		let score = 1 + prior;
		if (from >= LIKELY_FROM && to <= LIKELY_TO) score += 0.6;
		if (from >= Date.UTC(2012, 0, 1) && to <= Date.UTC(2028, 0, 1)) score += 0.3;
		const span = (to - from) / DAY;
		if (numbers.length > 30 && span < 0.02) score -= 0.8;
		else if (numbers.length > 30 && span > 10) score += 0.2;
		// Numbers of a fine unit that end in zeros show the coarser clock they were made from.
		if (unit < 1) {
			const perMs = Math.round(Math.log10(1 / unit));
			const wanted = [perMs, perMs + 3];
			if (whole > 0) score += wanted.includes(whole) ? 0.5 : -0.2;
		}
		if (!best || score > best.score) best = { label, kind: 'number', epoch, unit, zoned: true, score };
	}
	return best && best.score >= 1.5 ? best : null;
}

/** Names of all readings of numbers, and of written dates. */
export const TIME_LABELS: readonly string[] = [...NUMERIC.map((n) => n.label), 'written date'];

/** The reading of that name, or null. */
export function timeReading(label: string): TimeReading | null {
	if (label.startsWith('written date')) return { label, kind: 'text', epoch: 0, unit: 0, zoned: label.endsWith('zone'), score: 3 };
	const [first, later] = label.split(LATER).map((one) => NUMERIC.find((n) => n.label === one));
	if (first && later) return withBeyond(timeReading(first.label)!, timeReading(later.label)!);
	const found = NUMERIC.find((n) => n.label === label);
	return found ? { label, kind: 'number', epoch: found.epoch, unit: found.unit, zoned: true, score: 3 } : null;
}

/** Told from the digits as stored: a double of more than 2^53 has lost the last ones. */
function trailingZeros(value: Value | undefined): number {
	if (typeof value !== 'number' && typeof value !== 'bigint' && typeof value !== 'string') return Infinity;
	if (value === 0 || value === -1 || value === '') return Infinity;
	const digits = String(value);
	return /^-?\d+$/.test(digits) ? /0*$/.exec(digits)![0].length : 0;
}

/** A value under a reading, in ms since 1970 UTC, or null where it is no time (zero, empty, absurd). */
export function timeOf(value: Value | undefined, reading: TimeReading): number | null {
	if (value === null || value === undefined) return null;
	if (reading.beyond && (numberIn(value) ?? 0) >= reading.beyond.from) return timeOf(value, reading.beyond.reading);
	if (reading.kind === 'text') return writtenTime(typeof value === 'string' ? value : digitsOf(value), reading.dates);
	if (value instanceof Uint8Array) {
		const read = value.length === 4 || value.length === 8 ? BLOB_READERS.find((r) => r.name === reading.bytes)?.read : undefined;
		return read ? timeOf(read(value), reading) : null;
	}
	if (reading.hexadecimal) {
		const n = typeof value === 'string' && HEXADECIMAL.test(value) ? hexadecimal(value) : null;
		return n === null ? null : timeOf(n, { ...reading, hexadecimal: false });
	}
	if (reading.negative) {
		const n = typeof value === 'bigint' ? -value : numberIn(value);
		return n === null ? null : timeOf(typeof n === 'number' ? -n : n, { ...reading, negative: false });
	}
	if (typeof value === 'bigint' && reading.unit < 1) {
		// Exact: a double would lose the last digits.
		const perMs = BigInt(Math.round(1 / reading.unit));
		return bounded(Number(value / perMs) + reading.epoch);
	}
	const n = numberIn(value);
	if (n === null || n === 0) return null;
	return bounded(Math.round(reading.unit < 1 ? n / Math.round(1 / reading.unit) : n * reading.unit) + reading.epoch);
}

function writtenTime(text: string | null, dates: DateReading | undefined): number | null {
	if (text === null) return null;
	const stamp = dates ? wholeStamp(text) : null;
	return stamp ? stampTime(stamp, dates!) : (parseTimeText(text)?.at ?? null);
}

const bounded = (ms: number): number | null => (ms > Date.UTC(1971, 0, 1) && ms < Date.UTC(2100, 0, 1) ? ms : null);

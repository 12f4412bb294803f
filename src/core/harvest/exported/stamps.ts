/**
 * Dates and times as people's programs write them at the head of a line: national orders, 12 and 24 hours, with or
 * without seconds, digits of other scripts, names of months in many languages. Which number is the day is decided
 * over the whole file. Forms and names come from the host's own locale data (ECMA-402).
 */
import {
	CalendarDate,
	GregorianCalendar,
	HebrewCalendar,
	IslamicUmalquraCalendar,
	PersianCalendar,
	toCalendar,
	type Calendar
} from '@internationalized/date';

/** A date and time as written, before it is decided which number is which. */
export interface Stamp {
	/** Where it stands in the line, in UTF-16 units, brackets included. */
	from: number;
	to: number;
	/** As written. */
	written: string;
	/** The date's numbers in written order; a month that was named is `month` and the others stand here. */
	numbers: number[];
	digits: number[];
	/** Word for the month, lower case; '' where it is a number. */
	month: string;
	/** ms since midnight. */
	time: number;
	/** ms to subtract where a zone is stated; null where none is. */
	zone: number | null;
	/** Digits and letters squeezed: stamps of one file look alike. */
	form: string;
	/** Whether the hours count to twelve. */
	halfDays: boolean;
}

export type DateOrder = 'dmy' | 'mdy' | 'ymd' | 'ydm';

/** How the dates of a file are read, and what decided it. */
export interface DateReading {
	order: DateOrder;
	/** Month by its word. */
	months: ReadonlyMap<string, number>;
	why: string;
	/** The order that would fit as well; null where only one does. */
	runnerUp: DateOrder | null;
	/** How the stamps look; and whether the file itself leaves their order open. */
	form: string;
	open: boolean;
}

const LOCALES = (
	'en de fr es it pt nl pl cs sk hr sr sl hu ro bg ru uk be el tr sv da nb fi et lv lt is ga cy ca eu gl sq mk ' +
	'he ar fa ur hi bn ta te mr gu pa th vi id ms tl sw af zu az kk uz ka hy mn zh ja ko'
).split(' ');

interface Words {
	/** Per locale: month by word. */
	months: Map<string, number>[];
	am: Set<string>;
	pm: Set<string>;
	days: Set<string>;
}

/** Months as numerals: "5.XI.2024". */
const ROMAN = ['i', 'ii', 'iii', 'iv', 'v', 'vi', 'vii', 'viii', 'ix', 'x', 'xi', 'xii'];

const bare = (word: string): string => word.toLowerCase().replace(/[\s.\u200e\u200f]/g, '');
let known: Words | null = null;

/** Names of months and weekdays, and halves of the day, in many languages. */
function words(): Words {
	if (known) return known;
	const am = new Set(['am', 'a', '오전', '午前', '上午', '凌晨', '早上', 'पूर्वाह्न']);
	const pm = new Set(['pm', 'p', '오후', '午後', '下午', '中午', '晚上', 'अपराह्न']);
	const months: Map<string, number>[] = [new Map(ROMAN.map((numeral, i) => [numeral, i + 1]))];
	const days = new Set<string>();
	for (const locale of LOCALES) {
		const own = new Map<string, number>();
		for (const options of [
			{ month: 'long' },
			{ month: 'short' },
			{ month: 'long', day: 'numeric' },
			{ month: 'short', day: 'numeric' }
		] as const) {
			const format = new Intl.DateTimeFormat(`${locale}-u-ca-gregory-nu-latn`, { ...options, timeZone: 'UTC' });
			for (let m = 0; m < 12; m++) {
				const part = format.formatToParts(Date.UTC(2025, m, 11)).find((p) => p.type === 'month')?.value ?? '';
				if (/\p{L}{2}/u.test(part) && !own.has(bare(part))) own.set(bare(part), m + 1);
			}
		}
		addShortened(own);
		if (own.size > 0) months.push(own);
		for (const weekday of ['long', 'short'] as const) {
			const format = new Intl.DateTimeFormat(locale, { weekday, timeZone: 'UTC' });
			for (let d = 0; d < 7; d++) days.add(bare(format.format(Date.UTC(2025, 0, 5 + d))));
		}
		const halves = new Intl.DateTimeFormat(`${locale}-u-nu-latn`, { hour: 'numeric', hour12: true, timeZone: 'UTC' });
		const half = (hour: number): string =>
			bare(halves.formatToParts(Date.UTC(2025, 0, 1, hour)).find((p) => p.type === 'dayPeriod')?.value ?? '');
		if (half(4)) am.add(half(4));
		if (half(15)) pm.add(half(15));
	}
	for (const word of am) pm.delete(word);
	return (known = { months, am, pm, days });
}

/** Letters of a month's name to which it can be shortened. */
const SHORTENED = 3;

/** Takes in the beginnings of the months' names that no two of them share. */
function addShortened(months: Map<string, number>): void {
	const shortened = new Map<string, number>();
	for (const [name, month] of months)
		for (let letters = SHORTENED; letters < name.length; letters++) {
			const short = name.slice(0, letters);
			const known = shortened.get(short);
			shortened.set(short, known === undefined || known === month ? month : 0);
		}
	for (const [short, month] of shortened) if (month > 0 && !months.has(short)) months.set(short, month);
}

const ZEROS = [
	0x660, 0x6f0, 0x7c0, 0x966, 0x9e6, 0xa66, 0xae6, 0xb66, 0xbe6, 0xc66, 0xce6, 0xd66, 0xe50, 0xed0, 0xf20, 0x1040, 0x17e0, 0xff10
];

/** The line with digits of other scripts, wide signs and odd blanks as the plain ones; the same length. */
export function plainLine(line: string): string {
	if (/^[\x20-\x7e]*$/.test(line)) return line;
	return line.replace(/[\u0660-\u1810\u17e0-\u17e9\u00a0\u202f\u2009\u3000\uff0c\uff1a\uff10-\uff19\u060c\u066b]/g, (c) => {
		const code = c.charCodeAt(0);
		if (c === '\uff1a') return ':';
		if (c === '\uff0c' || c === '\u060c') return ',';
		if (/\s/.test(c)) return ' ';
		const zero = ZEROS.find((z) => code >= z && code < z + 10);
		return zero === undefined ? c : String(code - zero);
	});
}

/** Marks of writing direction and the byte order mark: no part of what is written. */
export const MARKS = '\u200e\u200f\u202a-\u202e\u2066-\u2069\u061c\ufeff';
const LEAD = `[${MARKS}\\s]*`;
const WORD = "\\p{L}[\\p{L}\\p{M}.'’]*";
const SEP = `[${MARKS}]{0,2}[./\\-‐–][${MARKS}]{0,2}\\s?`;
const NUMERIC = `(?:${WORD},?\\s+)?(\\d{1,4})${SEP}(\\d{1,2})${SEP}(\\d{1,4})\\.?`;
const HAN = '(\\d{4})\\s?[年년]\\s?(\\d{1,2})\\s?[月월]\\s?(\\d{1,2})\\s?[日일]';
const COMPACT = '(?<!\\d)((?:19|20)\\d{2})(\\d{2})(\\d{2})(?!\\d)';
const DAY_MONTH = `(?:${WORD},?\\s+)?(\\d{1,2})(?:\\.|er|º|ª)?[\\s-](?:de\\s|d[’'])?(${WORD})[,\\s-]\\s?(?:de\\s|del\\s)?(\\d{4}|\\d{2})(?:\\sг\\.?|\\sр\\.)?`;
const MONTH_DAY = `(?:${WORD},?\\s+)?(${WORD})\\s(\\d{1,2})(?:st|nd|rd|th)?,?\\s(\\d{4})`;
const YEAR_MONTH_DAY = `(\\d{4})\\.?\\s(${WORD})\\s(\\d{1,2})\\.?`;
const TIME = `(\\d{1,2})(?:[:.]|\\s?[hH]\\s?|[时時点點시]\\s?)(\\d{2})(?:(?:[:.m]|[分분]\\s?)(\\d{2})(?:[.,](\\d{1,6}))?)?[s分분秒초]?`;
/** A word behind a time: for a half of the day perhaps two letters, each with its point, and never the initial of a name. */
const AFTER = `(?:\\s?(\\p{L}{1,2}\\.\\s\\p{L}{1,2}\\.|${WORD}))?`;
const ZONE = `(?:[^\\S\\t]?(Z|(?:UTC|GMT)?[+-]\\d{1,2}:?\\d{2}|UTC|GMT)(?![\\p{L}\\d]))?`;
/** Between a date and its time: a comma, a blank, "T", a weekday in brackets, or a word or two. */
const BETWEEN = `([,\\s${MARKS}]*(?:[(（]\\p{L}{1,10}\\.?[)）]\\s?)?(?:[-–|·]\\s?|[\\p{L}.'’]{1,4}[,\\s]{0,2}(?:[\\p{L}]{1,3}\\s)?|T)?)`;

const BY_NUMERAL = `(?:${WORD},?\\s+)?(\\d{1,2})[./\\s-]\\s?(I{1,3}|I[VX]|VI{0,3}|XI{0,2})[./\\s-]\\s?(\\d{4}|\\d{2})(?!\\d)`;

const DATE_FORMS = [HAN, NUMERIC, BY_NUMERAL, COMPACT, YEAR_MONTH_DAY, DAY_MONTH, MONTH_DAY];

interface Pattern {
	/** Anywhere, and at the beginning behind marks and an opening bracket only. */
	regex: RegExp;
	atStart: RegExp;
	date: number;
	/** Index of the date's first group and of the time's. */
	dateAt: number;
	timeAt: number;
	betweenAt: number;
}

const START = `^(?:[${MARKS}\\s\\[(<*#-]*)`;
const both = (source: string): { regex: RegExp; atStart: RegExp } => ({
	regex: new RegExp(source, 'iu'),
	atStart: new RegExp(`${START}${source}`, 'iu')
});
const PATTERNS: Pattern[] = DATE_FORMS.flatMap((form, date): Pattern[] => [
	{ ...both(`${form}${BETWEEN}${TIME}${AFTER}${ZONE}`), date, dateAt: 1, betweenAt: 4, timeAt: 5 },
	{ ...both(`${TIME}${AFTER}${ZONE}[,\\s]+(?:[-–|·]\\s?)?${form}`), date, dateAt: 7, betweenAt: 0, timeAt: 1 }
]);
/** Behind a date its weekday, perhaps in brackets. */
const WEEKDAY = `(?:[,\\s]{0,2}[(（]?(?<weekday>${WORD})[)）]?)?`;
const DATE_ALONE = DATE_FORMS.map((form) => new RegExp(`^${LEAD}[-–—─=*#~•\\[(\\s]*${form}${WEEKDAY}[-–—─=*#~•\\]):\\s]*$`, 'iu'));
const TIME_ALONE = new RegExp(`${TIME}${AFTER}`, 'iu');

const LONGEST = 70;

const HEAD = 160;

/** The first date and time in a plain line, within its first 160 letters; or null. `atStart`: only where it begins the line. */
export function findStamp(line: string, atStart = false): Stamp | null {
	const head = line.slice(0, HEAD);
	if (!/\d[^\d]?\d?[^\d]{1,12}\d/.test(head)) return null;
	let best: Stamp | null = null;
	for (const pattern of PATTERNS) {
		const m = (atStart ? pattern.atStart : pattern.regex).exec(head);
		if (!m || m[0].length > LONGEST) continue;
		const stamp = stampOf(m, pattern);
		if (stamp && (!best || stamp.from < best.from || (stamp.from === best.from && stamp.to > best.to))) best = stamp;
	}
	return best;
}

const OPENING = new RegExp(START, 'u');

function stampOf(m: RegExpExecArray, pattern: Pattern): Stamp | null {
	const groups = [m[pattern.dateAt]!, m[pattern.dateAt + 1]!, m[pattern.dateAt + 2]!];
	const date = dateOf(groups);
	if (!date) return null;
	const halves = pattern.betweenAt ? halfOf(m[pattern.betweenAt]) : null;
	const after = m[pattern.timeAt + 4];
	const time = timeOf(m[pattern.timeAt]!, m[pattern.timeAt + 1]!, m[pattern.timeAt + 2], m[pattern.timeAt + 3], halves ?? halfOf(after));
	if (time === null) return null;
	// A word behind the time that is no half of a day belongs to what follows; so does a zone behind it.
	const zone = after !== undefined && isZone(after, m[0]) ? 'Z' : m[pattern.timeAt + 5];
	const stray = after !== undefined && halfOf(after) === null && zone !== 'Z';
	const end = stray && pattern.betweenAt ? m[0].lastIndexOf(after) : m[0].length;
	if (stray && !pattern.betweenAt) return null;
	const opened = OPENING.exec(m[0])![0].length;
	const lead = opened + (pattern.betweenAt ? nameBefore(m[0].slice(opened), m.index + opened === 0) : 0);
	const written = m[0].slice(lead, end).trimEnd();
	return {
		from: m.index + lead,
		to: m.index + lead + written.length,
		written,
		...date,
		time,
		zone: stray ? null : zoneOf(zone),
		form: formOf(written),
		halfDays: (halves ?? halfOf(after)) !== null
	};
}

/** A word and what parts it from a date behind it. */
const WORD_BEFORE = new RegExp(`^(${WORD})(,?)\\s+(?=\\d|${WORD}\\s\\d)`, 'iu');
/** Words that lead to a date in a sentence are short: "am", "den", "ngày". */
const LEADING_WORD = 4;

/** Letters of a word in front of a date that is no weekday and does not lead to it: the end of a name. `first`: it begins the line. */
function nameBefore(written: string, first: boolean): number {
	const word = wordBefore(written, !first);
	const own = written.slice(0, word).trimEnd();
	const leads = !/,\s*$|\s{2}$/.test(written.slice(0, word)) && own.length <= LEADING_WORD && (first || own === own.toLowerCase());
	return leads ? 0 : word;
}

/** Letters up to a date with which one word stands in front of it that is no weekday; 0 where none does. `inName`: behind other words, where one capital letter is an initial. */
export function wordBefore(written: string, inName = false): number {
	const m = WORD_BEFORE.exec(written);
	if (!m) return 0;
	if (inName && /^\p{Lu}$/u.test(m[1]!)) return m[0].length;
	if (words().days.has(bare(m[1]!)) || words().months.some((names) => names.has(bare(m[1]!)))) return 0;
	return m[0].length;
}

/** "Z" directly behind a time (RFC 3339), or a zone's name, which the form takes for a word of its own. */
const isZone = (after: string, whole: string): boolean => /^(UTC|GMT)$/.test(after) || (after === 'Z' && /\dZ/.test(whole.slice(-3)));

const formOf = (written: string): string => written.replace(/[\p{L}\p{M}.'’]*\p{L}[\p{L}\p{M}.'’]*/gu, 'a').replace(/\d+/g, '0');

function dateOf(groups: string[]): Pick<Stamp, 'numbers' | 'digits' | 'month'> | null {
	const named = groups.find((g) => !/^\d+$/.test(g));
	const numbers = groups.filter((g) => g !== named);
	if (named !== undefined && !words().months.some((m) => m.has(bare(named)))) return null;
	return { numbers: numbers.map(Number), digits: numbers.map((n) => n.length), month: named === undefined ? '' : bare(named) };
}

function halfOf(word: string | undefined): 'am' | 'pm' | null {
	if (!word) return null;
	const plain = bare(word.replace(/[(（].*[)）]|[,–|·-]/g, ''));
	if (plain === '') return null;
	return words().am.has(plain) ? 'am' : words().pm.has(plain) ? 'pm' : null;
}

function timeOf(h: string, m: string, s: string | undefined, fraction: string | undefined, half: 'am' | 'pm' | null): number | null {
	let hour = Number(h);
	if (half !== null) {
		if (hour > 12) return null;
		hour = (hour % 12) + (half === 'pm' ? 12 : 0);
	}
	if (hour > 23 || Number(m) > 59 || Number(s ?? 0) > 60) return null;
	return hour * 3_600_000 + Number(m) * 60_000 + Number(s ?? 0) * 1000 + Math.floor(Number(`0.${fraction ?? 0}`) * 1000);
}

function zoneOf(zone: string | undefined): number | null {
	if (!zone) return null;
	const m = /([+-])(\d{1,2}):?(\d{2})$/.exec(zone);
	return m ? (m[1] === '-' ? -1 : 1) * (Number(m[2]) * 60 + Number(m[3])) * 60_000 : 0;
}

/** A line that is a date and nothing else, as headings of days are; its time is 0. */
export function dateHeading(line: string): Stamp | null {
	if (line.length > LONGEST || !/\d/.test(line)) return null;
	for (const regex of DATE_ALONE) {
		const m = regex.exec(line);
		const date = m && dateOf([m[1]!, m[2]!, m[3]!]);
		const weekday = m?.groups?.weekday;
		if (m && date && (weekday === undefined || words().days.has(bare(weekday))))
			return { from: 0, to: line.length, written: line.trim(), ...date, time: 0, zone: null, form: formOf(line.trim()), halfDays: false };
	}
	return null;
}

/** A half of the day in front of a time. */
const HALF_BEFORE = new RegExp(`(${WORD})\\s?$`, 'iu');

/** A time without a date at or after `from`, within the first 80 letters. */
export function findTime(line: string, from = 0): { from: number; to: number; written: string; time: number } | null {
	const m = TIME_ALONE.exec(line.slice(from, from + 80));
	if (!m) return null;
	const half = halfOf(m[5]);
	const before = HALF_BEFORE.exec(line.slice(from, from + m.index));
	const halfBefore = halfOf(before?.[1]);
	const time = timeOf(m[1]!, m[2]!, m[3], m[4], halfBefore ?? half);
	if (time === null) return null;
	const at = from + m.index - (halfBefore === null ? 0 : before![0].length);
	const to = from + m.index + (m[5] !== undefined && half === null ? m[0].slice(0, m[0].lastIndexOf(m[5])) : m[0]).trimEnd().length;
	return { from: at, to, written: line.slice(at, to), time };
}

/** Calendars told by their years: those that fall into the time of telephones lie apart. */
const ELSEWHERE: readonly { from: number; to: number; calendar: () => Calendar }[] = [
	{ from: 1370, to: 1415, calendar: () => new PersianCalendar() },
	{ from: 1416, to: 1475, calendar: () => new IslamicUmalquraCalendar() },
	{ from: 5750, to: 5850, calendar: () => new HebrewCalendar() }
];

/** A day of another calendar in ms UTC; null where the year is none of one, or there is no such day. */
function dateElsewhere(year: number, month: number, day: number): number | null {
	const one = ELSEWHERE.find((c) => year >= c.from && year <= c.to);
	if (!one) return null;
	const date = new CalendarDate(one.calendar(), year, month, day);
	if (date.month !== month || date.day !== day) return null;
	const { year: y, month: m, day: d } = toCalendar(date, new GregorianCalendar());
	return Date.UTC(y, m - 1, d);
}

/** Years in the calendar of Thailand run 543 ahead. */
const BUDDHIST = 543;
const EARLIEST = 1990;
const LATEST = 2100;

/** A stamp's instant in ms, read in this order; UTC where its zone is stated, else the written clock as if it were UTC. Null where there is no such day. */
export function stampTime(stamp: Stamp, reading: Pick<DateReading, 'order' | 'months'>): number | null {
	const { numbers, digits } = stamp;
	let year: number;
	let month: number;
	let day: number;
	if (stamp.month !== '') {
		month = reading.months.get(stamp.month) ?? 0;
		const yearAt = digits[0]! > 2 ? 0 : 1;
		year = numbers[yearAt]!;
		day = numbers[1 - yearAt]!;
	} else {
		const at = (letter: string): number => numbers[reading.order.indexOf(letter)]!;
		year = at('y');
		month = at('m');
		day = at('d');
		if (digits[reading.order.indexOf('d')]! > 2) return null;
	}
	if (year < 100) year += 2000;
	const elsewhere = dateElsewhere(year, month, day);
	if (elsewhere !== null) return elsewhere + stamp.time - (stamp.zone ?? 0);
	if (year > 2400) year -= BUDDHIST;
	if (year < EARLIEST || year > LATEST || month < 1 || month > 12 || day < 1) return null;
	const date = new Date(Date.UTC(year, month - 1, day));
	if (date.getUTCDate() !== day) return null;
	return date.getTime() + stamp.time - (stamp.zone ?? 0);
}

const ORDERS: readonly DateOrder[] = ['dmy', 'mdy', 'ymd', 'ydm'];
const MOST_ODD = 0.01;

/**
 * Decides over all stamps of a file which number is the day: by what can be a date at all, then by the order of the lines.
 * `usual`: the order in which other files of its export are written, where this one leaves it open.
 */
export function readDates(stamps: readonly Stamp[], usual?: DateOrder): DateReading | null {
	const reading = decideDates(stamps, usual);
	return reading && { open: false, ...reading, form: stamps[0]!.form };
}

function decideDates(stamps: readonly Stamp[], usual?: DateOrder): (Omit<DateReading, 'form' | 'open'> & { open?: true }) | null {
	const months = monthsOf(stamps);
	const trials = ORDERS.map((order) => ({ order, ...trial(stamps, { order, months }) }))
		.filter((t) => t.odd <= stamps.length * MOST_ODD)
		.sort((a, b) => a.odd - b.odd || a.turns - b.turns || a.way - b.way || ORDERS.indexOf(a.order) - ORDERS.indexOf(b.order));
	const [best, second] = trials;
	if (!best) return null;
	const numeric = stamps.filter((s) => s.month === '');
	if (numeric.length === 0) return { order: best.order, months, why: 'months are named', runnerUp: null };
	if (numeric.every((s) => s.digits[0]! > 2)) {
		// A year in front is followed by the month, unless that cannot be.
		const order = trials.some((t) => t.order === 'ymd') ? 'ymd' : best.order;
		return { order, months, why: 'the year stands first', runnerUp: null };
	}
	if (!second) return { order: best.order, months, why: 'some numbers can only be the day', runnerUp: null };
	if (second.odd > best.odd) return { order: best.order, months, why: 'nearly all are dates in this order alone', runnerUp: second.order };
	if (second.turns > best.turns)
		return { order: best.order, months, why: 'in this order the lines follow each other in time', runnerUp: second.order };
	const tied = trials.filter((t) => t.odd === best.odd && t.turns === best.turns).map((t) => t.order);
	if (usual && tied.includes(usual))
		return { order: usual, months, why: 'other files of the export are written so', runnerUp: tied.find((o) => o !== usual) ?? null };
	const slashed = numeric.every((s) => s.written.includes('/'));
	const habit: DateOrder =
		numeric.every((s) => s.halfDays) && slashed && tied.includes('mdy') ? 'mdy' : tied.includes('dmy') ? 'dmy' : best.order;
	if (best.way * 3 < second.way && best.order !== habit)
		return { order: best.order, months, why: 'in this order the lines lie closest together', runnerUp: second.order, open: true };
	return {
		order: habit,
		months,
		why: 'nothing in the file decides it: taken as is usual for this form',
		runnerUp: tied.find((o) => o !== habit) ?? null,
		open: true
	};
}

/** How many are no date in this order, how often time turns against its main way, and how far it goes in all. */
function trial(stamps: readonly Stamp[], reading: Pick<DateReading, 'order' | 'months'>): { odd: number; turns: number; way: number } {
	let odd = 0;
	let forward = 0;
	let back = 0;
	let way = 0;
	let last: number | null = null;
	for (const stamp of stamps) {
		const at = stampTime(stamp, reading);
		if (at === null) {
			odd++;
			continue;
		}
		if (last !== null && at > last) forward++;
		if (last !== null && at < last) back++;
		if (last !== null) way += Math.abs(at - last);
		last = at;
	}
	return { odd, turns: Math.min(forward, back), way };
}

/** The words for months in the language that knows all of those used; a word can be two months in two languages. */
function monthsOf(stamps: readonly Stamp[]): ReadonlyMap<string, number> {
	const used = [...new Set(stamps.map((s) => s.month).filter((m) => m !== ''))];
	if (used.length === 0) return new Map();
	const best = words().months.map((m) => ({ m, knows: used.filter((u) => m.has(u)).length }));
	return best.reduce((a, b) => (b.knows > a.knows ? b : a)).m;
}

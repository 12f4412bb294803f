/**
 * Dates as people say them: "28 January to 3 February 2025", "about 10 Feb 2025", "before March 2024", "in spring
 * 2024", "3 weeks ago". Read as a span of whole days.
 */
import { offsetAt } from '../zones';

const DAY = 86_400_000;

/** A span of time, ms UTC, both ends within it; null where it is open. */
export interface Span {
	from: number | null;
	to: number | null;
}

export type VagueDate = { ok: true; span: Span } | { ok: false; problem: string };

const MONTHS = ['january', 'february', 'march', 'april', 'may', 'june', 'july', 'august', 'september', 'october', 'november', 'december'];
const SEASONS: Record<string, [number, number]> = { spring: [2, 3], summer: [5, 3], autumn: [8, 3], fall: [8, 3], winter: [11, 3] };

/** A day, a month, a season or a year: first and last day (days since 1970), and how coarse it is. */
interface Days {
	first: number;
	last: number;
	unit: 'day' | 'month' | 'season' | 'year';
}

const dayNumber = (y: number, m: number, d: number): number => Math.floor(Date.UTC(y, m, d) / DAY);

function monthOf(word: string): number {
	const bare = word.toLowerCase().replace(/\.$/, '');
	return bare.length < 3 ? -1 : MONTHS.findIndex((m) => m.startsWith(bare) || (bare === 'sept' && m === 'september'));
}

function exactDay(y: number, m: number, d: number): Days | null {
	const date = new Date(Date.UTC(y, m, d));
	if (y < 1970 || y > 2100 || date.getUTCMonth() !== m || date.getUTCDate() !== d) return null;
	const day = dayNumber(y, m, d);
	return { first: day, last: day, unit: 'day' };
}

const wholeMonth = (y: number, m: number): Days => ({ first: dayNumber(y, m, 1), last: dayNumber(y, m + 1, 1) - 1, unit: 'month' });

/** One date without words around it; what it leaves out is taken from `like`. */
function plainDate(text: string, like: { year?: number; month?: number }, today: number): Days | null {
	const t = text
		.trim()
		.replace(/,/g, ' ')
		.replace(/\s+/g, ' ')
		.replace(/^the\s+/i, '')
		.replace(/(\d)(st|nd|rd|th)\b/gi, '$1');
	const now = Math.floor(today / DAY);
	if (/^today$/i.test(t)) return { first: now, last: now, unit: 'day' };
	if (/^yesterday$/i.test(t)) return { first: now - 1, last: now - 1, unit: 'day' };
	let m = /^(\d{1,3}|a|an|one|two|three|four|five|six)\s+(day|week|month|year)s?\s+ago$/i.exec(t);
	if (m) {
		const n =
			({ a: 1, an: 1, one: 1, two: 2, three: 3, four: 4, five: 5, six: 6 } as Record<string, number>)[m[1]!.toLowerCase()] ?? Number(m[1]);
		const unit = m[2]!.toLowerCase();
		const days = n * (unit === 'day' ? 1 : unit === 'week' ? 7 : unit === 'month' ? 30 : 365);
		const room = unit === 'day' ? 0 : unit === 'week' ? 2 : unit === 'month' ? 7 : 30;
		return { first: now - days - room, last: Math.min(now, now - days + room), unit: 'day' };
	}
	if ((m = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(t))) return exactDay(Number(m[1]), Number(m[2]) - 1, Number(m[3]));
	if ((m = /^(\d{1,2})[./](\d{1,2})[./](\d{4})$/.exec(t))) return exactDay(Number(m[3]), Number(m[2]) - 1, Number(m[1]));
	if ((m = /^(\d{4})-(\d{1,2})$/.exec(t)) && Number(m[2]) >= 1 && Number(m[2]) <= 12) return wholeMonth(Number(m[1]), Number(m[2]) - 1);
	if ((m = /^(\d{1,2})\s+([a-z]+\.?)(?:\s+(\d{4}))?$/i.exec(t)) ?? (m = swapped(t))) {
		const month = monthOf(m[2]!);
		const year = m[3] ? Number(m[3]) : like.year;
		return month < 0 || year === undefined ? null : exactDay(year, month, Number(m[1]));
	}
	if ((m = /^(\d{1,2})$/.exec(t)) && like.year !== undefined && like.month !== undefined)
		return exactDay(like.year, like.month, Number(m[1]));
	if ((m = /^(?:(early|mid|late|beginning of|start of|middle of|end of)[\s-]+)?([a-z]+\.?)(?:\s+(\d{4}))?$/i.exec(t))) {
		const year = m[3] ? Number(m[3]) : like.year;
		const season = SEASONS[m[2]!.toLowerCase()];
		if (season && year !== undefined && year >= 1970 && year <= 2100)
			return { first: dayNumber(year, season[0], 1), last: dayNumber(year, season[0] + season[1], 1) - 1, unit: 'season' };
		const month = monthOf(m[2]!);
		if (month >= 0 && year !== undefined && year >= 1970 && year <= 2100) return third(wholeMonth(year, month), m[1]);
	}
	if ((m = /^(?:(early|mid|late|beginning of|start of|middle of|end of)[\s-]+)?(\d{4})$/i.exec(t))) {
		const year = Number(m[2]);
		if (year >= 1970 && year <= 2100) return third({ first: dayNumber(year, 0, 1), last: dayNumber(year, 11, 31), unit: 'year' }, m[1]);
	}
	return null;
}

/** "January 28 2025" as "28 January 2025". */
function swapped(t: string): RegExpExecArray | null {
	const m = /^([a-z]+\.?)\s+(\d{1,2})(?:\s+(\d{4}))?$/i.exec(t);
	return m ? /^(\d{1,2})\s+([a-z]+\.?)(?:\s+(\d{4}))?$/i.exec(`${m[2]} ${m[1]}${m[3] ? ` ${m[3]}` : ''}`) : null;
}

function third(days: Days, word: string | undefined): Days {
	if (!word) return days;
	const length = days.last - days.first + 1;
	const part = /^(early|beg|start)/i.test(word) ? 0 : /^mid/i.test(word) ? 1 : 2;
	return {
		first: days.first + Math.floor((length * part) / 3),
		last: days.first + Math.floor((length * (part + 1)) / 3) - 1,
		unit: days.unit
	};
}

const ROOM: Record<Days['unit'], number> = { day: 3, month: 15, season: 30, year: 90 };

/** `today` in ms UTC; days are those of `zone`. An empty text is an open span. */
export function parseVagueDate(text: string, today: number, zone: string): VagueDate {
	const t = text
		.trim()
		.replace(/[–—]/g, '-')
		.replace(/^(on|in|during)\s+/i, '');
	if (t === '') return { ok: true, span: { from: null, to: null } };
	const not = {
		ok: false as const,
		problem: `“${text.trim()}” is not a date that can be read. Write for example: 28 January to 3 February 2025, about 10 Feb 2025, before March 2024, spring 2024.`
	};
	const start = (day: number): number => day * DAY - offsetAt(day * DAY, zone);
	const made = (first: number | null, last: number | null): VagueDate => {
		if (first !== null && last !== null && first > last) return { ok: false, problem: `“${text.trim()}” ends before it begins.` };
		return { ok: true, span: { from: first === null ? null : start(first), to: last === null ? null : start(last + 1) - 1 } };
	};
	let m =
		/^(?:from |between )?(.+?)\s+(?:to|and|until|till)\s+(.+)$/i.exec(t) ??
		/^(.+?)\s+-\s+(.+)$/.exec(t) ??
		/^(\d{1,2}(?:\s+[a-z]+)?)-(\d{1,2}\s+[a-z]+.*)$/i.exec(t);
	if (m) {
		const second = plainDate(m[2]!, {}, today);
		if (!second) return not;
		const date = new Date(second.last * DAY);
		const first = plainDate(m[1]!, { year: date.getUTCFullYear(), month: date.getUTCMonth() }, today);
		return first ? made(first.first, second.last) : not;
	}
	if ((m = /^(?:about|around|circa|ca\.?|roughly|approximately|near)\s+(.+)$/i.exec(t))) {
		const days = plainDate(m[1]!, {}, today);
		return days ? made(days.first - ROOM[days.unit], days.last + ROOM[days.unit]) : not;
	}
	if ((m = /^(?:before|until|till|up to|not later than)\s+(.+)$/i.exec(t))) {
		const days = plainDate(m[1]!, {}, today);
		return days ? made(null, /^before/i.test(t) ? days.first - 1 : days.last) : not;
	}
	if ((m = /^(?:after|since|from|not before)\s+(.+)$/i.exec(t))) {
		const days = plainDate(m[1]!, {}, today);
		return days ? made(/^after/i.test(t) ? days.last + 1 : days.first, null) : not;
	}
	const days = plainDate(t, {}, today);
	return days ? made(days.first, days.last) : not;
}

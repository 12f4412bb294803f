/** The day of a log whose lines have a time of day alone: in the name of its file, or in a line above the first of them. */
import { dateHeading, findStamp, type Stamp } from './stamps';

export interface DayInName {
	day: Stamp;
	/** What the name says beside it; '' where that is nothing. */
	rest: string;
}

const YEAR_FIRST = /(?<!\d)((?:19|20)\d{2})([-_.]?)(\d{2})\2(\d{2})(?!\d{3})/;
const YEAR_LAST = /(?<!\d)\d{1,2}([-_. ])(?:\d{1,2}|\p{L}{3,})\1(?:19|20)\d{2}(?!\d)/u;
/** Behind a date: a time of day without signs, and its zone. */
const TIME_OF_DAY = /^[T_.\s-]*\d{4,6}(?:[+-]\d{4})?(?:[A-Z]{3})?(?![\p{L}\d])/u;
/** What a name says that says nothing: of what kind the file is. */
const KIND = /^(?:chat|log|logs|history|messages?|conversation|session|day)$/i;

/** The day that a file is called after, or null. `name`: without its ending. */
export function dayInName(name: string): DayInName | null {
	const written = YEAR_FIRST.exec(name);
	const first = written && (written[2] !== '' || isDate(Number(written[3]), Number(written[4]))) ? written : null;
	const found = first ?? YEAR_LAST.exec(name);
	if (!found) return null;
	const day = dateHeading(
		first ? `${first[1]}-${first[3]}-${first[4]}` : found[0].replace(/_/g, '.').replace(/-(?=\p{L})|(?<=\p{L})-/gu, ' ')
	);
	if (!day) return null;
	const behind = name.slice(found.index + found[0].length).replace(TIME_OF_DAY, '');
	const rest = `${name.slice(0, found.index)} ${behind}`.replace(/[\s_.,()[\]-]+/g, ' ').trim();
	return { day, rest: /\p{L}{2}/u.test(rest) && !KIND.test(rest) ? rest : '' };
}

/** Whether two numbers are a month and a day of it: eight digits can be a part of any key. */
const isDate = (month: number, day: number): boolean => month > 0 && month <= 12 && day > 0 && day <= 31;

/** Lines in which a log can say of which day it is. */
const LINES = 3;

/** The day that one of the first lines states, or null. */
export function dayAbove(plain: readonly string[]): Stamp | null {
	for (const line of plain.slice(0, LINES)) {
		const stamp = findStamp(line);
		if (stamp && stamp.from > 0) return stamp;
	}
	return null;
}

/** "Tue Mar 05 09:00:00 2025" (RFC 9110, section 5.6.7, "asctime-date"), its zone perhaps before the year. */
const ASCTIME = /^(?:\p{L}{2,}\.?,?\s)?(\p{L}{3,}) (\d{1,2}) \d{1,2}:\d{2}(?::\d{2})? (?:[A-Z]{3,4} )?(\d{4})$/u;
const MARKED = /^[-–—─=*#~•[\s]{2,}/u;
const EDGES = /^[-–—─=*#~•[\]()\s]+|[-–—─=*#~•[\]()\s]+$/gu;
const WORD = /^\p{L}[\p{L}'’]*:?$/u;
/** Words before the day, at most. */
const WORDS = 4;

/** The day that a line ends with, and the words before it, of which there are few; or null. */
function daySaid(line: string): { day: Stamp; words: string } | null {
	if (line.length > 80 || !/\d/.test(line)) return null;
	const tokens = line.replace(EDGES, '').split(/\s+/);
	for (let k = 1; k <= WORDS && k < tokens.length && WORD.test(tokens[k - 1]!); k++) {
		const rest = tokens.slice(k).join(' ');
		const [, month, date, year] = ASCTIME.exec(rest) ?? [];
		const stamp = year === undefined ? findStamp(rest, true) : null;
		const day =
			dateHeading(year === undefined ? rest : `${month} ${date} ${year}`) ?? (stamp?.to === rest.length ? { ...stamp, time: 0 } : null);
		if (day) return { day, words: tokens.slice(0, k).join(' ') };
	}
	return null;
}

/**
 * The lines that say the day with words before it ("Day changed …"), by their number: set off by signs, or met again. What
 * somebody wrote can end with a day as well.
 */
export function daysSaid(plain: readonly string[]): ReadonlyMap<number, Stamp> {
	const said = plain.flatMap((line, i) => {
		const one = daySaid(line);
		return one ? [{ i, ...one, isMarked: MARKED.test(line) }] : [];
	});
	const often = new Map<string, number>();
	for (const { words } of said) often.set(words, (often.get(words) ?? 0) + 1);
	return new Map(said.flatMap(({ i, day, words, isMarked }) => (isMarked || i < LINES || often.get(words)! > 1 ? [[i, day]] : [])));
}

/** Heads of messages in a text file: where each stands, its stamp, and what is before and behind it. No program's wording is known. */
import { isCalled, isPictures } from '../../called';
import { daysSaid } from './day-of-log';
import { epochStamps } from './epoch-stamps';
import { MARKS, dateHeading, findStamp, findTime, wordBefore, type Stamp } from './stamps';
import { tellsWay } from './told-ways';

export interface Head {
	/** The line with which it begins, and that with the stamp. */
	line: number;
	stampLine: number;
	stamp: Stamp;
	/** Before the stamp: a name, where it stands in front. */
	before: string;
	/** Behind the stamp. */
	rest: string;
	/** The line of the name, where it stands below the stamp. */
	nameLine?: number;
	/** Under headings of days: the line of the next heading. */
	until?: number;
}

/** Letters of a writer's name, at most. */
export const NAME_LONGEST = 80;
const EDGES = new RegExp(`^[${MARKS}\\s]+|[${MARKS}\\s]+$`, 'gu');
export const trimName = (name: string): string => {
	const bare = name.replace(EDGES, '').replace(/^[~"'<[(*]+\s?/, '');
	// What is closed within the name is part of it: "Ada (work)".
	const isClosed = /^[^()]+\([^()]+\)$/.test(bare);
	return (isClosed ? bare : bare.replace(/["'>\])*:,]+$/, '')).replace(EDGES, '');
};
const LEADING_SIGNS = new RegExp(`^[${MARKS}\\s\\[(<*#-]*$`, 'u');

/** A word for the hour, as it stands behind a time. */
export const HOUR = '(?:uhr|hrs?|hs|h|ч)\\.?';
const CLOSED = new RegExp(`^(?:\\s${HOUR})?\\s?[\\])>]`, 'iu');

/** Heads whose stamp stands first: `[stamp] name: text`, `stamp - name: text`. */
export function stampFirst(plain: readonly string[]): Head[] {
	const heads: Head[] = [];
	const counted = epochStamps(plain);
	plain.forEach((line, i) => {
		const stamp = counted.get(i) ?? findStamp(line, true);
		if (!stamp || !LEADING_SIGNS.test(line.slice(0, stamp.from))) return;
		const closed = CLOSED.exec(line.slice(stamp.to))?.[0].length ?? 0;
		const to = stamp.to + closed;
		heads.push({
			line: i,
			stampLine: i,
			stamp: { ...stamp, form: `${line.slice(0, stamp.from).replace(EDGES, '')}${stamp.form}${line.slice(stamp.to, to)}` },
			before: '',
			rest: line.slice(to)
		});
	});
	return heads;
}

/** Heads whose name stands first: `name (stamp): text`, `name, stamp` with the text below. */
export function nameFirst(plain: readonly string[]): Head[] {
	const heads: Head[] = [];
	/** Of one short word, or of signs, in front of a stamp, that could as well lead to a date in a sentence. */
	const short = new Set<Head>();
	plain.forEach((line, i) => {
		const stamp = findStamp(line);
		if (!stamp || stamp.from > NAME_LONGEST) return;
		const word = stamp.from < 2 ? wordBefore(stamp.written) : 0;
		const from = stamp.from + word;
		const before = line.slice(0, from);
		const isSign = SIGN_NAME.test(before);
		if (from < 2 || (!isSign && (!/[\p{L}\d]/u.test(before) || /[.!?:;]\s*$/.test(before.replace(/\p{L}\./gu, ''))))) return;
		const closed = /^\s?[\])>]?\s?[:：-]?/.exec(line.slice(stamp.to))![0];
		const rest = line.slice(stamp.to + closed.length);
		if (rest.trim() !== '' && !/[:\])>-]/.test(closed)) return;
		const edge = /[\s,([<|·–-]*$/.exec(before)![0];
		const own = { ...stamp, from, written: stamp.written.slice(word), form: word > 0 ? stamp.form.replace(/^a,?\s+/, '') : stamp.form };
		const head = {
			line: i,
			stampLine: i,
			stamp: { ...own, form: `${edge}${own.form}${closed}` },
			before: before.slice(0, before.length - edge.length),
			rest
		};
		heads.push(head);
		if (word > 0 || isSign) short.add(head);
	});
	return withNames(namesWhole(heads, plain), short);
}

/** A name of no letters: pictures, or a full stop. */
const SIGN_NAME = /^(?:(?:\p{Extended_Pictographic}|\p{Emoji_Modifier}|\u200d|\ufe0f|\s)+|[.·_~*^]{1,4})\s*[,([<|–-]/u;

/** A word that begins a stamp, and what stands between it and the date. */
const FIRST_WORD = /^(\p{L}[\p{L}\p{M}.'’]*)([,\s]+)/u;

/** A stamp without the word that begins it, where others of the file have none in its place: a word that could be a weekday ends a name ("Li To, 12.3.2025"). */
export function withoutNameEnd(stamp: Stamp, forms: ReadonlySet<string>): Stamp {
	const word = FIRST_WORD.exec(stamp.written);
	const at = word ? stamp.form.indexOf(`a${word[2]}`) : -1;
	if (!word || at < 0) return stamp;
	const form = [word[2]!, ''].map((between) => `${between}${stamp.form.slice(at + 1 + word[2]!.length)}`).find((f) => forms.has(f));
	if (form === undefined) return stamp;
	return { ...stamp, from: stamp.from + word[0].length, written: stamp.written.slice(word[0].length), form };
}

/** Heads with their names whole. */
function namesWhole(heads: readonly Head[], plain: readonly string[]): Head[] {
	const forms = new Set(heads.map((h) => h.stamp.form));
	return heads.map((head) => {
		const stamp = withoutNameEnd(head.stamp, forms);
		if (stamp === head.stamp) return head;
		const between = /[,\s]*$/.exec(head.stamp.written.slice(0, stamp.from - head.stamp.from))![0];
		return { ...head, before: plain[head.line]!.slice(0, stamp.from - between.length), stamp };
	});
}

/** Of heads with names in front those that are some: names come back, and short words are some where others have names like these. */
function withNames(heads: readonly Head[], short: ReadonlySet<Head>): Head[] {
	const names = new Set(heads.map((h) => h.before));
	// Who is written to and who wrote stand with a word each.
	const fewComeBack = heads.length > 4 && names.size > heads.length * COMES_BACK;
	if (fewComeBack && ![...names].every(tellsWay) && !areSomeAgain([...names].map(trimName), heads.length)) return [];
	const forms = new Set(heads.filter((h) => !short.has(h)).map((h) => h.stamp.form));
	const areBelow = names.size > 1 && heads.every((h) => h.rest === '');
	return heads.filter((h) => !short.has(h) || areBelow || forms.has(h.stamp.form));
}

const AGAIN = 2;

/** Whether those before so many texts are called as persons are, and some of them are met again: of a short talk of several. */
export const areSomeAgain = (names: readonly string[], heads: number): boolean =>
	heads - names.length >= AGAIN && names.every((name) => isCalled(name) || isPictures(name)) && names.some(isCalled);

/** Distinct names among so many heads, up to which they come back. */
const COMES_BACK = 0.6;

/** Heads of three parts: a line with a name, one with the stamp alone, and the text below. */
export function nameAbove(plain: readonly string[]): Head[] {
	const heads: Head[] = [];
	plain.forEach((line, i) => {
		const before = plain[i - 1]?.trim() ?? '';
		const stamp = before !== '' && before.length <= NAME_LONGEST ? findStamp(line, true) : null;
		if (!stamp || line.slice(0, stamp.from).trim() !== '' || line.slice(stamp.to).trim() !== '') return;
		heads.push({ line: i - 1, stampLine: i, stamp, before, rest: '' });
	});
	const names = new Set(heads.map((h) => h.before));
	return names.size > Math.max(2, heads.length * COMES_BACK) ? [] : heads;
}

/** Heads of three parts the other way: a line with the stamp alone, one with a name, and the text below. */
export function nameBelow(plain: readonly string[]): Head[] {
	const heads: Head[] = [];
	plain.forEach((line, i) => {
		const name = plain[i + 1]?.trim() ?? '';
		// Behind the last stamp of a file that breaks off there is no name.
		const isLast = name === '' && i > 0 && plain.length - i <= 2;
		const stamp = (name !== '' || isLast) && name.length <= NAME_LONGEST ? findStamp(line, true) : null;
		if (!stamp || line.slice(0, stamp.from).trim() !== '' || line.slice(stamp.to).trim() !== '') return;
		const nameLine = isLast ? i : i + 1;
		heads.push({ line: i, stampLine: nameLine, nameLine, stamp, before: name, rest: '' });
	});
	const names = new Set(heads.map((h) => h.before).filter((name) => name !== ''));
	return names.size > Math.max(2, heads.length * COMES_BACK) && !areSomeAgain([...names], heads.length) ? [] : heads;
}

/** Heads of times alone, under headings of days. `of`: the day that the file itself is of, before the first heading. */
export function underHeadings(plain: readonly string[], of: Stamp | null = null): Head[] {
	const heads: Head[] = [];
	const said = daysSaid(plain);
	let day = of;
	plain.forEach((line, i) => {
		const heading = dateHeading(line) ?? said.get(i);
		if (heading) {
			day = heading;
			// All of the day before: what somebody wrote can look like a head as well.
			for (let k = heads.length - 1; k >= 0 && heads[k]!.until === undefined; k--) heads[k]!.until = i;
			return;
		}
		const time = day && findTime(line.slice(0, NAME_LONGEST + 20));
		if (!day || !time) return;
		const before = line.slice(0, time.from);
		const first = LEADING_SIGNS.test(before);
		// What states a day as well is no message of that day, but what a log says of itself.
		if (!first && findStamp(line)) return;
		const closed = /^\s?[\])>]?\s?:?/.exec(line.slice(time.to))![0];
		const rest = line.slice(time.to + (first ? closed.replace(/:$/, '').length : closed.length));
		if (!first && rest.trim() !== '' && !/[:\])>]/.test(closed)) return;
		const edge = /[\s,([<|·–-]*$/.exec(before)![0];
		const stamp: Stamp = {
			...day,
			from: time.from,
			to: time.to,
			written: `${day.written} ${time.written}`,
			time: time.time,
			form: `${edge}t${closed}`
		};
		heads.push({ line: i, stampLine: i, stamp, before: first ? '' : before.slice(0, before.length - edge.length), rest });
	});
	return heads;
}

const DAY = 86_400_000;
/** A time so much before the last one is that of the next day. */
const PAST_MIDNIGHT = DAY / 2;

/** Heads of a log of one day that goes on past midnight, where no line says the next day. */
export function pastMidnight(heads: readonly Head[]): Head[] {
	let midnights = 0;
	return heads.map((head, i) => {
		const { stamp } = head;
		const before = heads[i - 1]?.stamp;
		if (before && !isOfDay(stamp, before)) midnights = 0;
		else if (before && stamp.time < before.time - PAST_MIDNIGHT) midnights++;
		return midnights === 0 ? head : { ...head, stamp: { ...stamp, time: stamp.time + midnights * DAY } };
	});
}

const isOfDay = (a: Stamp, b: Stamp): boolean => a.month === b.month && a.numbers.every((n, i) => n === b.numbers[i]);

/** Those whose stamps look like most: an export writes all its stamps alike, one that somebody wrote into a message looks otherwise. */
export function alikeOnly(heads: Head[]): Head[] {
	const forms = new Map<string, number>();
	for (const h of heads) forms.set(h.stamp.form, (forms.get(h.stamp.form) ?? 0) + 1);
	const most = Math.max(0, ...forms.values());
	const form = [...forms].find(([, n]) => n === most)?.[0];
	return heads.filter((h) => h.stamp.form === form);
}

/** What follows the stamp of a head whose name stands in front, as written. */
export const restOf = (line: string, head: Head): string =>
	head.rest === '' ? '' : line.slice(line.length - head.rest.length).replace(/^\s+/, '');

/** The line with which what belongs to a head ends; `next`: that of the next head. */
export const endOf = (head: Head, next: number): number => Math.min(head.until ?? next, next);

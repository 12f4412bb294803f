/** Several conversations in one text, each under a heading that says whose it is. */
import { daysSaid } from './day-of-log';
import type { Head } from './heads';
import { dateHeading } from './stamps';

/** A heading, from the lines drawn above it on. */
export interface Section {
	/** Index of the first head under it. */
	head: number;
	/** The line with which it begins. */
	line: number;
	name: string;
}

const EMPTY_OR_RULE = /^\s*(?:([-=_*~#─—])\1{2,}\s*)?$/u;
const LONGEST = 100;

/** The line that stands by itself before a head, with nothing but lines drawn or left empty around it. `days`: lines that say the day. */
function lineBefore(
	plain: readonly string[],
	days: ReadonlyMap<number, unknown>,
	head: Head,
	from: number
): { line: number; begins: number } | null {
	const isEmpty = (i: number): boolean => plain[i]!.length <= LONGEST && EMPTY_OR_RULE.test(plain[i]!);
	let line = head.line - 1;
	while (line > from && isEmpty(line)) line--;
	if (line <= from || plain[line]!.length > LONGEST || isEmpty(line) || days.has(line) || dateHeading(plain[line]!)) return null;
	let begins = line;
	while (begins - 1 > from && isEmpty(begins - 1)) begins--;
	return begins < line || line === from + 1 ? { line, begins } : null;
}

const wordsOf = (line: string): string[] => line.replace(/^[-=_*~#─—\s]+|[-=_*~#─—\s]+$/gu, '').split(/\s+/);

/** The sections of a text: what begins alike before the first message and before later ones. None where there is but one. */
export function sectionsOf(plain: readonly string[], heads: readonly Head[]): Section[] {
	const days = daysSaid(plain);
	const found = heads.flatMap((head, i) => {
		const one = lineBefore(plain, days, head, i === 0 ? -1 : heads[i - 1]!.stampLine);
		return one ? [{ head: i, ...one, words: wordsOf(plain[one.line]!) }] : [];
	});
	const [first] = found;
	if (!first || first.head !== 0) return [];
	const alike = found.filter((f) => f.words[0] === first.words[0] && f.words.length > 1);
	if (alike.length < 2) return [];
	let shared = 0;
	while (alike.every((f) => f.words.length > shared + 1 && f.words[shared] === first.words[shared])) shared++;
	const sections = alike.map((f) => ({ head: f.head, line: f.begins, name: f.words.slice(shared).join(' ') }));
	// Numbers alone are those of pages or weeks.
	return shared > 0 && sections.every((s) => /\p{L}/u.test(s.name)) ? sections : [];
}

/**
 * Records as sections of names and values: a heading in brackets, below it a line for each value (`from=…`), as programs write
 * their settings. Where several sections are called alike but for a number and have the same names, each is a record.
 */
import { addTo, item, MOST_ITEMS, type Item } from './items';

const HEADING = /^\[{1,2}([^[\]\r\n]{1,80})\]{1,2}[ \t]*$/;
const VALUE = /^([\p{L}_][\p{L}\p{N}_.-]{0,40})[ \t]*=[ \t]*(.*)$/u;
const COMMENT = /^[;#]/;
/** Sections that must be called alike, and names that they must have in common. */
const LEAST = 3;
const NAMES = 3;
const MOSTLY = 0.8;

/** A section is called as others are where what it is called differs by a number alone. */
const kindOf = (heading: string): string => heading.replace(/[\d\s._:#-]+/g, ' ').trim();

export function readBracketed(text: string): Item | null {
	const root = item(0, text.length);
	let section: Item | null = null;
	let [count, written, told] = [0, 0, 0];
	for (const line of text.matchAll(/[^\r\n]+/g)) {
		const [said] = line;
		const heading = HEADING.exec(said);
		if (COMMENT.test(said)) continue;
		written++;
		if (heading) {
			if (count++ >= MOST_ITEMS) break;
			told++;
			section = item(line.index, line.index + said.length);
			addTo(root.lists, kindOf(heading[1]!), section);
			continue;
		}
		const value = VALUE.exec(said);
		if (!section || !value) continue;
		told++;
		section.fields.set(value[1]!, value[2]!.trimEnd());
		section.to = line.index + said.length;
	}
	if (told < written * MOSTLY) return null;
	for (const [name, list] of root.lists) {
		if (areRecords(list)) openValues(list);
		else root.lists.delete(name);
	}
	return root.lists.size > 0 ? root : null;
}

function areRecords(list: readonly Item[]): boolean {
	const names = [...(list[0]?.fields.keys() ?? [])];
	return (
		list.length >= LEAST && names.filter((name) => list.filter((s) => s.fields.has(name)).length >= list.length * MOSTLY).length >= NAMES
	);
}

/** Values without the marks around them, where a name's nearly all have such; their lines as they were broken. */
function openValues(list: readonly Item[]): void {
	const byName = new Map<string, Item[]>();
	for (const one of list)
		for (const name of one.fields.keys()) {
			const having = byName.get(name);
			if (having) having.push(one);
			else byName.set(name, [one]);
		}
	for (const [name, having] of byName) {
		const valueOf = (one: Item): string => String(one.fields.get(name));
		const areMarked = having.filter((one) => MARKED.test(valueOf(one))).length >= having.length * MOSTLY;
		for (const one of having) one.fields.set(name, unescape(areMarked ? (MARKED.exec(valueOf(one))?.[1] ?? valueOf(one)) : valueOf(one)));
	}
}
const MARKED = /^"([\s\S]*)"$/;

const unescape = (value: string): string =>
	value.replace(/\\(n|r\\n|t|\\|")/g, (_, sign: string) => (sign === 't' ? '\t' : sign.endsWith('n') ? '\n' : sign));

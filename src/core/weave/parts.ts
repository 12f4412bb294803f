/**
 * Files of one folder among which a program shares out the rows of one table: what is old goes to an archive, or each month
 * has a file of its own. They are no captures of each other: none has a row in use that another has too, though one can
 * have what is left of the rows that went to the other.
 */
import type { Profile } from './families';

/** Rows in use that each must have; share of them that both may have; times that their numbers must take turns. */
const LEAST = 5;
const IN_BOTH = 0.02;
const TURNS = 4;
/** Numbers that may be missing where the one goes on behind the other, and share of all. */
const MISSING = 5;
const MISSING_SHARE = 0.05;

type Kept = Pick<Profile, 'tables' | 'records' | 'folder' | 'path'>;

/** Whether two files of one folder, and those of their names in other folders, are parts of one store. */
export function partsByName(profiles: readonly Kept[]): (a: Kept, b: Kept) => boolean {
	const named = new Set<string>();
	const folders = new Map<string, Kept[]>();
	for (const p of profiles) folders.set(p.folder, [...(folders.get(p.folder) ?? []), p]);
	for (const beside of folders.values())
		for (const [i, a] of beside.entries()) for (const b of beside.slice(i + 1)) if (areParts(a, b)) named.add(nameOfPair(a, b));
	return (a, b) => named.size > 0 && named.has(nameOfPair(a, b));
}

const baseOf = ({ path }: Kept): string => path.slice(path.lastIndexOf('/') + 1);
const nameOfPair = (a: Kept, b: Kept): string => [baseOf(a), baseOf(b)].sort().join('/');

function areParts(a: Kept, b: Kept): boolean {
	if (baseOf(a) === baseOf(b)) return false;
	const [ofA, ofB] = [inUse(a), inUse(b)];
	const few = Math.min(ofA.size, ofB.size);
	if (few < LEAST || [...ofA.keys()].filter((key) => ofB.has(key)).length > few * IN_BOTH) return false;
	const tables = new Set([...ofA.values()]);
	return [...tables].some((table) => {
		const [first, second] = [ofA, ofB]
			.map((keys) => [...keys].flatMap(([key, its]) => (its === table ? [Number(key.slice(table.length + 1))] : [])).sort((x, y) => x - y))
			.sort((x, y) => (x[0] ?? 0) - (y[0] ?? 0)) as [number[], number[]];
		if (Math.min(first.length, second.length) < LEAST || !isDeclaredAlike(table, a, b)) return false;
		if (turns(first, second) >= TURNS) return true;
		const missing = second[0]! - first.at(-1)! - 1;
		const goesOn = missing >= 0 && missing <= Math.max(MISSING, (first.length + second.length) * MISSING_SHARE);
		return goesOn && (stemOf(a) !== stemOf(b) || !haveMoved(a, b));
	});
}

/** Whether a table has the same columns in both; whatever others the one has beside it. */
const isDeclaredAlike = (table: string, a: Kept, b: Kept): boolean =>
	[...a.tables].some((declared) => declared.startsWith(`${table}(`) && b.tables.has(declared));

/** The numbers of the rows in use, each with its table. */
const inUse = ({ records }: Kept): Map<string, string> =>
	new Map([...records].flatMap(([key, { isKept }]) => (isKept ? [[key, key.slice(0, key.lastIndexOf('#'))] as const] : [])));

/** How often the numbers of two sorted lists take turns. */
function turns(a: readonly number[], b: readonly number[]): number {
	const all = [...a.map((n) => [n, 0] as const), ...b.map((n) => [n, 1] as const)].sort((x, y) => x[0] - y[0]);
	return all.filter(([, list], i) => i > 0 && all[i - 1]![1] !== list).length;
}

/** Whether one has what is left of rows that the other has in use. */
function haveMoved(a: Kept, b: Kept): boolean {
	const leaves = (one: Kept, other: Kept): boolean =>
		[...one.records].some(([key, { text, isKept }]) => isKept && text !== null && other.records.get(key)?.text === text);
	return leaves(a, b) || leaves(b, a);
}

/** What copies of one file are called alike by: without its ending, its numbers and what says that it is a copy. */
const stemOf = (p: Kept): string =>
	baseOf(p)
		.toLowerCase()
		.replace(/\.[^.]*$/, '')
		.replace(COPIED, '')
		.replace(/[^\p{L}]/gu, '');
const COPIED = /copy|backup|bak|old|older|new|newer|newest|latest|prev(?:ious)?|before|after|orig(?:inal)?|kopie|sicherung|alt|neu/gi;

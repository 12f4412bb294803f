/** Exports with a file for each message, or for each day of a few: the files of a folder that are made alike are read as one. */
import { dayInName, titleOfFile, type ExportHarvest } from '../harvest';
import { isCalledMessages, readRecords } from '../interpret';
import type { GivenFile } from '../unwrap';
import type { Found } from './pages';
import { folderIn } from '../paths';

const ENDING = /\.(?:json|xml|html?|xhtml|vmg|vmsg|vmessage|txt|text)$/i;
/** Bytes of a file of one message, at most, and files of a folder by which it is seen whether they are such. */
const LARGEST = 1 << 20;
const TRIED = 3;

/** `open`: opens a file of which an entry is enough. */
export function joinSingles(
	files: readonly GivenFile[],
	isTaken: (file: number) => boolean,
	open: (file: number) => ExportHarvest | null
): { found: Found[]; joined: Set<number> } {
	const groups = new Map<string, number[]>();
	for (const [file, { path, name, source, opened }] of files.entries()) {
		if (!ENDING.test(name) || opened || source.size > LARGEST || isTaken(file)) continue;
		const day = restOf(name);
		const key = JSON.stringify([folderIn(path), name.slice(name.lastIndexOf('.')).toLowerCase(), day]);
		const group = groups.get(key);
		if (group) group.push(file);
		else groups.set(key, [file]);
	}
	const found: Found[] = [];
	const joined = new Set<number>();
	for (const group of groups.values()) {
		group.sort((a, b) => (files[a]!.path < files[b]!.path ? -1 : 1));
		const { path } = files[group[0]!]!;
		const day = restOf(path);
		const first = group.length > 1 ? open(group[0]!) : null;
		const isOfDay = day !== null;
		if (!first || !(isOfDay || isSingle(first))) continue;
		const taken: number[] = [];
		for (const [k, file] of group.slice(1).entries()) {
			if (taken.length === 0 && k >= TRIED) break;
			const one = open(file);
			if (one && (isOfDay || isSingle(one)) && first.takeIn(one)) taken.push(file);
		}
		if (taken.length === 0) continue;
		first.callBy(day || (path.split('/').at(-2) ?? titleOfFile(path)));
		const reading = readRecords(first, { asked: [], title: '' });
		if (!reading || !(isOfDay || isCalledMessages(reading))) continue;
		found.push({ file: group[0]!, harvest: first, reading });
		for (const file of taken) joined.add(file);
	}
	return { found, joined };
}

/** What a file's name says beside a day, but for a number; null where it names none. */
const restOf = (path: string): string | null => dayInName(titleOfFile(path))?.rest.replace(/^[\d\s_.-]+$/, '') ?? null;

/** Whether a file holds one thing alone, with several values. */
const isSingle = ({ tables, book }: ExportHarvest): boolean =>
	tables.length === 2 && book.rowsOf(1).length === 1 && tables[1]!.columns.length > 3;

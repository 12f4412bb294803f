/** Exports with a file for each message, or for each day of a few: the files of a folder that are made alike are read as one. */
import { dayInName, titleOfFile, type ExportHarvest } from '../harvest';
import { isCalledMessages, readRecords } from '../interpret';
import type { Table } from '../model';
import type { GivenFile } from '../unwrap';
import type { Found } from './pages';
import { put } from '../lists';
import { baseOf, folderIn } from '../paths';

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
	joinFolders(found, joined, groups, files, open);
	return { found, joined };
}

/** Files of folders beside, in which no more than one message may lie, that are opened at most. */
const OPENED = 20_000;
/** Share of a folder's files that another one must have for being a copy of it. */
const MOSTLY_THE_SAME = 0.5;

/**
 * Where each conversation has a folder with a file for each message, the folders beside each other are one store: in some lies
 * a single message.
 */
function joinFolders(
	found: Found[],
	joined: Set<number>,
	groups: ReadonlyMap<string, readonly number[]>,
	files: readonly GivenFile[],
	open: (file: number) => ExportHarvest | null
): void {
	const aroundOf = (file: number): string | null => {
		const { path, name } = files[file]!;
		const around = folderIn(folderIn(path).slice(0, -1));
		return around === '' || restOf(name) !== null || !/\.json$/i.test(name) ? null : around;
	};
	const byPlace = new Map<string, Found[]>();
	for (const one of found) {
		const around = aroundOf(one.file);
		if (around !== null) put(byPlace, around, one);
	}
	const groupOf = new Map([...groups.values()].flatMap((group) => group.map((file) => [file, group] as const)));
	const loneAt = new Map<string, number[]>();
	for (const file of byPlace.size > 0 ? [...groups.values()].flat() : []) {
		const around = aroundOf(file);
		if (around !== null && byPlace.has(around)) put(loneAt, around, file);
	}
	for (const [around, [first, ...others]] of byPlace) {
		const take = (file: number, harvest: ExportHarvest): boolean => first!.harvest.takeIn(harvest, true) && !!joined.add(file);
		const namesIn = (one: Found): string[] => (groupOf.get(one.file) ?? []).map((file) => namedSo(files[file]!));
		const names = new Set(namesIn(first!));
		// Folders with mostly the same files are copies of one: states of it, and no further conversations. What each conversation
		// is called can stand in a file that all of them have.
		const isCopy = (of: readonly string[]): boolean =>
			of.filter((name) => names.has(name)).length > Math.min(of.length, names.size) * MOSTLY_THE_SAME;
		let taken = 0;
		for (const other of others) {
			const own = namesIn(other);
			if (isCopy(own) || !take(other.file, other.harvest)) continue;
			found.splice(found.indexOf(other), 1);
			for (const name of own) names.add(name);
			taken++;
		}
		const known = new Set(found.map(({ file }) => file));
		const lone = (loneAt.get(around) ?? []).filter((file) => !known.has(file) && !joined.has(file) && !isCopy([namedSo(files[file]!)]));
		for (const file of lone.slice(0, OPENED)) {
			const one = open(file);
			if (!one || !isSingle(one)) continue;
			one.callBy(files[file]!.path.split('/').at(-2)!);
			if (take(file, one)) taken++;
		}
		if (taken === 0) continue;
		const left = (loneAt.get(around) ?? []).filter((file) => !known.has(file) && !joined.has(file));
		takeWhatFoldersSay(first!.harvest, left, files, open).forEach((file) => joined.add(file));
		first!.harvest.isFolderOfTalks = true;
		first!.reading = readRecords(first!.harvest, { asked: [], title: '' }) ?? first!.reading!;
	}
}

/** Folders that say something of themselves, at least. */
const SAYING = 2;

/** Takes in what the folders of conversations say of these, each in a file called alike, as one table; returns those files. */
function takeWhatFoldersSay(
	harvest: ExportHarvest,
	left: readonly number[],
	files: readonly GivenFile[],
	open: (file: number) => ExportHarvest | null
): number[] {
	const byName = new Map<string, number[]>();
	for (const file of left) put(byName, baseOf(files[file]!.path), file);
	const taken: number[] = [];
	for (const [name, alike] of byName) {
		if (alike.length < SAYING) continue;
		let all: ExportHarvest | null = null;
		for (const file of alike.slice(0, OPENED)) {
			const one = open(file);
			if (!one || one.tables.length < 2 || one.book.rowsOf(1).length !== 1) continue;
			one.callBy(files[file]!.path.split('/').at(-2)!);
			if (all === null) all = one;
			else if (!all.takeIn(one, true)) continue;
			taken.push(file);
		}
		if (all && all.book.rowsOf(1).length >= SAYING) harvest.takeTables(all, [1], titleOfFile(name), 'entries', FOLDER_COLUMN);
	}
	return taken;
}
/** What the column is called that says in which folder it stands. */
const FOLDER_COLUMN = 'folder';

/** A file's name and size in bytes, by which copies of it are known. */
const namedSo = ({ name, source }: GivenFile): string => `${name} ${source.size}`;

/** What a file's name says beside a day, but for a number; null where it names none. */
const restOf = (path: string): string | null => dayInName(titleOfFile(path))?.rest.replace(/^[\d\s_.-]+$/, '') ?? null;

/** Whether a file holds one thing alone, with several values, and perhaps lists of what came with it. */
function isSingle({ tables, book }: ExportHarvest): boolean {
	const [one, ...more] = tables.slice(1).filter((table) => !isOfItem(table));
	return one !== undefined && more.length === 0 && book.rowsOf(one.index).length === 1 && one.columns.length > 3;
}
/** Whether the rows of a list say in which row of another one they stand. */
const isOfItem = ({ columns }: Table): boolean => columns.some(({ name }) => name.startsWith('in '));

/**
 * Files that a program calls by the numbers of the rows that state them, or of the messages they came with: `att_17.jpg`,
 * `00000017`, `1f/17.dat`. Any file can have a number in its name; it is told by nearly all files of a folder having one
 * that a row has of which nothing else says where its file is, and the type that it states.
 */
import type { StatedFile } from '../interpret';
import { baseOf, folderOf } from '../paths';
import type { MediaFile, MediaLink } from './media';

/** Fewest files of a folder, and share of them, that must be called by numbers of rows. */
export const NUMBERED_LEAST = 3;
const MOSTLY = 0.8;
/** Share of the rows that say nothing else of where their files are, of which some file must have the number. */
const SOME = 0.4;
/** Files of which that is no chance, though all are of one type. */
const MANY = 8;

/** What cameras and programs that take pictures of the screen call theirs, whose numbers are their own. */
const CAMERA = /(^|[^a-z])(img|image|dsc[nf]?|pict?|photo|pxl|vid|video|mov|mvi|screenshot|scan)[^a-z]*$/i;
const NUMBERED = /^(.*?)(\d{1,12})((?:\.\w{1,8})?)$/;
/** Folders of a digit or two, or of the first of more. */
const PARTING = /^[\da-f]{1,3}$/i;

/** Files by their numbers, a map for each way in which the files of a folder are called; in the store's folder, or beside it. */
export function numberedFiles(files: readonly MediaFile[], storePath: string, isFree: (file: number) => boolean): Map<number, number>[] {
	const home = folderOf(folderOf(storePath));
	const groups = new Map<string, Map<number, number>>();
	files.forEach(({ path, source }, i) => {
		if (source.size === 0 || (home !== '' && !path.startsWith(`${home}/`)) || !isFree(i)) return;
		const named = NUMBERED.exec(baseOf(path));
		if (!named || CAMERA.test(named[1]!)) return;
		const way = `${shelf(folderOf(path))}/${named[1]!}`;
		const group = groups.get(way) ?? new Map<number, number>();
		groups.set(way, group);
		const number = Number(named[2]);
		// Two of one number: nothing tells which.
		group.set(number, group.has(number) ? NaN : i);
	});
	return [...groups.values()]
		.map((group) => new Map([...group].filter(([, i]) => !Number.isNaN(i))))
		.filter((g) => g.size >= NUMBERED_LEAST);
}

/** The folder of the folders that only part a number's files. */
const shelf = (folder: string): string => (PARTING.test(baseOf(folder)) ? shelf(folderOf(folder)) : folder);

/** The links of files that nothing else leads to. `fits`: whether a file can be of the type stated. */
export function linksByNumber(
	open: readonly StatedFile[],
	groups: readonly Map<number, number>[],
	fits: (file: number, stated: StatedFile) => boolean
): Map<StatedFile, MediaLink> {
	const links = new Map<StatedFile, MediaLink>();
	for (const [by, how] of [
		['row', 'name (the number of its row)'],
		['message', 'name (the number of its message)']
	] as const) {
		const left = open.filter((stated) => !links.has(stated) && stated[by] !== undefined);
		const byNumber = new Map<number, StatedFile | null>();
		// Of two files of one message nothing tells which the one of its number is.
		for (const stated of left) byNumber.set(stated[by]!, byNumber.has(stated[by]!) ? null : stated);
		for (const group of groups) {
			const found = [...group].flatMap(([number, file]) => {
				const stated = byNumber.get(number);
				return stated ? [{ stated, file }] : [];
			});
			if (found.length < Math.max(NUMBERED_LEAST, group.size * MOSTLY) || found.length < left.length * SOME) continue;
			// A few files of one type, of many that rows state, have low numbers by chance.
			const types = new Set(found.map(({ stated }) => stated.type?.split('/')[0]));
			const all = found.length >= left.length * MOSTLY;
			if (types.has(undefined) ? found.length < MANY || !all : types.size < 2 && !all && found.length < MANY) continue;
			if (!found.every(({ stated, file }) => fits(file, stated))) continue;
			for (const { stated, file } of found) if (!links.has(stated)) links.set(stated, { file, how });
		}
	}
	return links;
}

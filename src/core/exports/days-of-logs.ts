/** Logs of one day each: those of one folder that are of one conversation are read as one. */
import { dayInName, titleOfFile, type ExportHarvest } from '../harvest';
import type { GivenFile } from '../unwrap';
import { folderIn } from '../paths';

interface Found {
	file: number;
	harvest: ExportHarvest;
}

/**
 * The exports with the days of each log joined, and the files that were joined to others. `open`: opens a file as such a
 * log, of which a message is enough: on some days no more was said.
 */
export function joinDays(
	found: readonly Found[],
	files: readonly GivenFile[],
	open: (file: number, like: ExportHarvest) => ExportHarvest | null
): { found: Found[]; joined: Set<number> } {
	const folderHolding = (file: number): string => folderIn(files[file]!.path);
	const logs = new Map<string, Found[]>();
	const folders = new Map<string, ExportHarvest>();
	const add = (one: Found): void => {
		for (const step of one.harvest.run('used')) void step;
		const key = JSON.stringify([folderHolding(one.file), one.harvest.book.rows[0]?.values[0]]);
		logs.set(key, [...(logs.get(key) ?? []), one]);
	};
	for (const one of found)
		if (one.harvest.isOfDay) {
			add(one);
			folders.set(folderHolding(one.file), one.harvest);
		}
	if (logs.size === 0) return { found: [...found], joined: new Set() };
	const read = new Set(found.map((f) => f.file));
	for (const [file, { name, opened }] of files.entries()) {
		const like = read.has(file) || opened ? undefined : folders.get(folderHolding(file));
		const harvest = like && dayInName(titleOfFile(name)) ? open(file, like) : null;
		if (harvest?.isOfDay) add({ file, harvest });
	}
	const joined = new Set<number>();
	for (const days of logs.values()) {
		const [first, ...others] = days.sort((a, b) => (files[a.file]!.path < files[b.file]!.path ? -1 : 1));
		for (const { file, harvest } of others) {
			first!.harvest.goOnWith(harvest);
			joined.add(file);
		}
	}
	const firsts = [...logs.values()].map(([first]) => first!);
	return { found: [...found.filter((f) => !f.harvest.isOfDay), ...firsts].sort((a, b) => a.file - b.file), joined };
}

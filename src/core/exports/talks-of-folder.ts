/** A program's files of one conversation each, beside each other in a folder: they are read as one store, which has them all. */
import type { ExportHarvest } from '../harvest';
import { put } from '../lists';
import type { GivenFile } from '../unwrap';
import { isOneConversation, type Found } from './pages';
import { folderIn } from '../paths';

/** What programs keep conversations in, a file for each: records of one form, not texts for people. */
const KEPT = /\.(?:json|jsonl|ndjson)$/i;

/** Files that alone are no conversations, and are opened for being one of the folder's, at most. */
const OPENED = 500;

/**
 * Joins the files of records of one folder that hold a conversation each and are made alike. `almost`: files that have
 * texts and times but name nobody by themselves. `open`: opens a file of which an entry may be enough.
 */
export function joinTalks(
	found: readonly Found[],
	almost: readonly Found[],
	files: readonly GivenFile[],
	isTaken: (file: number) => boolean,
	open: (file: number, like: ExportHarvest) => ExportHarvest | null
): { found: Found[]; joined: Set<number> } {
	const joined = new Set<number>();
	const kindOf = (file: number): string | null => {
		const { path } = files[file]!;
		const folder = folderIn(path);
		const ending = KEPT.exec(path)?.[0];
		return folder === '' || !ending ? null : JSON.stringify([folder, ending]);
	};
	const groups = new Map<string, Found[]>();
	const add = (one: Found): void => {
		const kind = isTaken(one.file) ? null : kindOf(one.file);
		if (kind !== null) put(groups, kind, one);
	};
	for (const one of found) if (one.harvest.form === 'records') add(one);
	// The one that says most says what all of them are; a few messages can be anything.
	for (const [kind, talks] of groups) {
		talks.sort((a, b) => b.harvest.book.size - a.harvest.book.size);
		if (!isOneConversation(talks[0]!)) groups.delete(kind);
	}
	const known = new Set(found.map((f) => f.file));
	for (const one of almost) if (!known.has(one.file) && groups.has(kindOf(one.file) ?? '')) add(one);
	const small = new Map<string, number[]>();
	for (const [file, { opened }] of files.entries()) {
		const kind = known.has(file) || opened || isTaken(file) ? null : kindOf(file);
		if (kind !== null && groups.has(kind)) put(small, kind, file);
	}
	for (const [kind, talks] of groups) {
		const [first, ...others] = talks;
		const take = (file: number, harvest: ExportHarvest): void => {
			if (!first!.harvest.takeIn(harvest, true)) return;
			joined.add(file);
			first!.harvest.isFolderOfTalks = true;
		};
		for (const { file, harvest } of others) take(file, harvest);
		for (const file of (small.get(kind) ?? []).slice(0, OPENED)) {
			const harvest = joined.has(file) ? null : open(file, first!.harvest);
			if (harvest) take(file, harvest);
		}
	}
	return { found: found.filter((f) => !joined.has(f.file)), joined };
}

/** The files of a case as they were given: a folder is one source, however many files it has. */

export interface FileGroup<F> {
	/** The folder, as given; of a file given by itself its path. */
	path: string;
	/** Whether it is a folder. */
	folder: boolean;
	files: F[];
	/** Bytes of all of them. */
	size: number;
}

/** More folders than these, in one, are that folder's own order. */
const FOLDERS_AT_MOST = 30;

/** Folders within one that are sources of their own: nothing lies beside them, or two hold a file of one name, as backups do. */
function areSources(paths: readonly string[][]): boolean {
	const folders = new Set(paths.filter((p) => p.length > 2).map((p) => p[1]!));
	if (folders.size < 2 || folders.size > FOLDERS_AT_MOST) return false;
	const holders = new Map<string, string>();
	return (
		paths.every((p) => p.length > 2) ||
		paths.some(([, folder, ...rest]) => {
			if (rest.length === 0) return false;
			const holder = holders.get(rest.join('/'));
			holders.set(rest.join('/'), folder!);
			return holder !== undefined && holder !== folder;
		})
	);
}

/** In the order in which the first file of each was given. */
export function groupsOf<F extends { path: string; size: number }>(files: readonly F[]): FileGroup<F>[] {
	const below = new Map<string, string[][]>();
	for (const { path } of files) {
		const parts = path.split('/');
		const list = below.get(parts[0]!);
		if (list) list.push(parts);
		else below.set(parts[0]!, [parts]);
	}
	const split = new Set([...below].filter(([, paths]) => areSources(paths)).map(([top]) => top));
	const groups = new Map<string, FileGroup<F>>();
	for (const file of files) {
		const parts = file.path.split('/');
		const depth = split.has(parts[0]!) ? 2 : 1;
		const path = parts.slice(0, depth).join('/');
		const group = groups.get(path) ?? { path, folder: parts.length > depth, files: [], size: 0 };
		groups.set(path, group);
		group.files.push(file);
		group.size += file.size;
	}
	return [...groups.values()];
}

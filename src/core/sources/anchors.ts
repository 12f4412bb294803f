/** What lies where among the things that were given each for itself. */
import { folderOf } from '../paths';

export class Anchors {
	private readonly paths = new Set<string>();
	/** How many lie in each folder. */
	private readonly counts = new Map<string, number>();

	constructor(paths: readonly string[]) {
		for (const path of paths) this.add(path);
	}

	add(path: string): void {
		if (this.paths.has(path)) return;
		this.paths.add(path);
		for (let at = folderOf(path); at !== ''; at = folderOf(at)) this.counts.set(at, (this.counts.get(at) ?? 0) + 1);
	}

	/** The highest folder in which there is no more than in `start`; `path` itself where other things lie deeper in that. */
	highest(start: string, path: string): string {
		if (start === '' || this.hasDeeper(start)) return path;
		let root = start;
		for (let above = folderOf(root); above !== '' && this.counts.get(above) === this.counts.get(root); above = folderOf(root)) root = above;
		return root;
	}

	/** Whether some of what lies in a folder lies beside others of it, further down. */
	private hasDeeper(folder: string): boolean {
		const direct = [...this.paths].filter((path) => folderOf(path) === folder).length;
		return direct > 0 && direct < (this.counts.get(folder) ?? 0);
	}
}

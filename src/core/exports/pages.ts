/** Exports in several files: the pages of one conversation are read as one. */
import { openFurtherPage, type ExportHarvest } from '../harvest';
import type { GivenFile } from '../unwrap';

/** Pages numbered after one that has no number, or the number 1, in the same folder and with the same heading, are read with it. */
export function withFurtherPages(
	found: { file: number; harvest: ExportHarvest }[],
	files: readonly GivenFile[]
): { file: number; harvest: ExportHarvest }[] {
	const nameOf = (file: number): { stem: string; page: number } => {
		const [, stem, page, ending] = /^(.*?)[ _-]?(\d{0,4})(\.html?)$/i.exec(files[file]!.path) ?? [];
		return { stem: stem === undefined ? '' : `${stem}${ending}`, page: Number(page || 1) };
	};
	const first = new Map<string, { file: number; harvest: ExportHarvest }>();
	const pages = found.map((f) => ({ ...f, ...nameOf(f.file) })).sort((a, b) => a.page - b.page);
	const taken = new Set<ExportHarvest>();
	for (const { file, harvest, stem, page } of pages) {
		if (harvest.form !== 'records' || stem === '' || harvest.heading === '') continue;
		const known = first.get(stem);
		if (page === 1 && !known) first.set(stem, { file, harvest });
		else if (known?.harvest.heading === harvest.heading && known.harvest.takeIn(harvest)) taken.add(harvest);
	}
	// A last page with a message or two is no export by itself.
	const read = new Set(found.map((f) => f.file));
	for (const file of files.keys()) {
		const { stem, page } = nameOf(file);
		const known = first.get(stem);
		if (!known || page < 2 || read.has(file) || files[file]!.opened) continue;
		const harvest = openFurtherPage(files[known.file]!, files[file]!, file);
		if (!harvest || harvest.heading !== known.harvest.heading) continue;
		for (const step of harvest.run('used')) void step;
		known.harvest.takeIn(harvest);
	}
	return found.filter((f) => !taken.has(f.harvest));
}

/** Folders of a device's files under their own names, with a file at their top that states the device and when they were copied. */
import type { GivenFile } from '../gather';
import { isFields, readFields } from './fields';
import { folderOf } from '../../paths';
import { COPIED_KEY, isDeviceKey, momentIn } from './stated';

export interface StatedCopy {
	folder: string;
	/** When it was made, ms UTC. */
	date: number;
}

/** Properties are short. */
const AT_MOST = 256 << 10;
/** Files that are asked, those nearest to the top first. */
const ASKED = 500;

export function statedCopies(files: readonly GivenFile[]): StatedCopy[] {
	const depth = (f: GivenFile): number => f.path.split('/').length;
	return files
		.filter((f) => /\.(plist|json|xml)$/i.test(f.path) && f.path.includes('/') && f.source.size > 0 && f.source.size <= AT_MOST)
		.toSorted((a, b) => depth(a) - depth(b))
		.slice(0, ASKED)
		.flatMap((file) => {
			const fields = readFields(file.source);
			if (!isFields(fields)) return [];
			const entries = Object.entries(fields);
			if (!entries.some(([key, value]) => typeof value === 'string' && isDeviceKey(key))) return [];
			const dates = entries.flatMap(([key, value]) => (COPIED_KEY.test(key) ? (momentIn(key, value) ?? []) : []));
			return dates.length > 0 ? [{ folder: folderOf(file.path), date: Math.max(...dates) }] : [];
		});
}

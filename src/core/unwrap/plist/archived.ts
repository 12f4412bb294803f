/**
 * Property lists that archive objects: they list them one after the other, each naming the others by where they stand in
 * that list. They are read as the tree that they were made of.
 */
import type { PlistValue } from './plist';

const MOST_DEPTH = 12;

export type PlistFields = { [key: string]: PlistValue };
export const isPlistFields = (value: PlistValue | undefined): value is PlistFields =>
	value !== null && typeof value === 'object' && !Array.isArray(value) && !(value instanceof Date) && !(value instanceof Uint8Array);

/** The tree that such a list was made of, dates as ms UTC; undefined where it is none. `mostNodes`: of the tree; objects can name each other in circles. */
export function openArchive(value: PlistValue, mostNodes: number): PlistValue | undefined {
	const archive = archiveIn(value);
	return archive ? new Archive(archive.objects, mostNodes).open(archive.top, 0) : undefined;
}

/** The objects of an archive, and which of them is the outermost. */
function archiveIn(value: PlistValue): { objects: PlistValue[]; top: PlistValue } | null {
	if (!isPlistFields(value)) return null;
	const { $objects: objects, $top: top } = value;
	if (!Array.isArray(objects) || !isPlistFields(top)) return null;
	const [first, ...more] = Object.values(top);
	return first === undefined ? null : { objects, top: more.length > 0 ? top : first };
}

class Archive {
	private opened = 0;

	constructor(
		private readonly objects: readonly PlistValue[],
		private readonly mostNodes: number
	) {}

	open(value: PlistValue, depth: number): PlistValue {
		if (depth > MOST_DEPTH || ++this.opened > this.mostNodes) return null;
		if (value === '$null') return null;
		if (value instanceof Date) return value.getTime();
		if (Array.isArray(value)) return value.map((v) => this.open(v, depth + 1));
		if (!isPlistFields(value)) return value;
		const index = value['CF$UID'];
		if (typeof index === 'number') return this.open(this.objects[index] ?? null, depth + 1);
		return this.fields(value, depth);
	}

	/** Tables and lists of values are objects as well: those are read as what they list. */
	private fields(value: PlistFields, depth: number): PlistValue {
		const own = Object.entries(value).filter(([key]) => key !== '$class');
		const listed = (end: RegExp): PlistValue[] | null => {
			const found = own.find(([key, v]) => end.test(key) && Array.isArray(v));
			return found ? (found[1] as PlistValue[]) : null;
		};
		const [keys, objects] = [listed(/\.keys$/), listed(/\.objects$/)];
		if (objects && keys && keys.length === objects.length)
			return Object.fromEntries(objects.map((v, i) => [String(this.open(keys[i]!, depth + 1)), this.open(v, depth + 1)]));
		if (objects && own.length === 1) return objects.map((v) => this.open(v, depth + 1));
		const [only] = own;
		if (own.length === 1 && /\.(string|time|data|bytes)$/.test(only![0])) return this.open(only![1], depth + 1);
		return Object.fromEntries(own.map(([key, v]) => [key, this.open(v, depth + 1)]));
	}
}

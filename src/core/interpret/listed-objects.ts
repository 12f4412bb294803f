/**
 * Property lists stored as values ("bplist00", and XML). Those that archive objects list them one after the other, each
 * naming the others by where they stand in that list; they are read as the tree that they were made of.
 */
import { readPlist, type PlistValue } from '../unwrap';

const MAGIC = 'bplist00';
/** Bytes of one value, at most. */
const MOST_BYTES = 4_000_000;
const MOST_DEPTH = 12;
const MOST_NODES = 5000;

export function isListed(bytes: Uint8Array): boolean {
	return bytes.length > MAGIC.length && [...MAGIC].every((c, i) => bytes[i] === c.charCodeAt(0));
}

/** What such a value holds, dates as ms UTC; undefined where it is no sound list. */
export function listedIn(bytes: Uint8Array): unknown {
	const value = isListed(bytes) && bytes.length <= MOST_BYTES ? readPlist(bytes) : null;
	if (value === null) return undefined;
	const archive = archiveIn(value);
	return archive ? new Archive(archive.objects).open(archive.top, 0) : asPlain(value, 0);
}

type Fields = { [key: string]: PlistValue };
const isFields = (value: PlistValue | undefined): value is Fields =>
	value !== null && typeof value === 'object' && !Array.isArray(value) && !(value instanceof Date) && !(value instanceof Uint8Array);

/** The objects of an archive, and which of them is the outermost. */
function archiveIn(value: PlistValue): { objects: PlistValue[]; top: PlistValue } | null {
	if (!isFields(value)) return null;
	const { $objects: objects, $top: top } = value;
	if (!Array.isArray(objects) || !isFields(top)) return null;
	const [first, ...more] = Object.values(top);
	return first === undefined ? null : { objects, top: more.length > 0 ? top : first };
}

function asPlain(value: PlistValue, depth: number): unknown {
	if (value instanceof Date) return value.getTime();
	if (Array.isArray(value)) return depth > MOST_DEPTH ? null : value.map((v) => asPlain(v, depth + 1));
	if (!isFields(value)) return value;
	return depth > MOST_DEPTH ? null : Object.fromEntries(Object.entries(value).map(([key, v]) => [key, asPlain(v, depth + 1)]));
}

class Archive {
	private opened = 0;

	constructor(private readonly objects: readonly PlistValue[]) {}

	/** Objects can name each other in circles: depth and number are bounded. */
	open(value: PlistValue, depth: number): unknown {
		if (depth > MOST_DEPTH || ++this.opened > MOST_NODES) return null;
		if (value === '$null') return null;
		if (value instanceof Date) return value.getTime();
		if (Array.isArray(value)) return value.map((v) => this.open(v, depth + 1));
		if (!isFields(value)) return value;
		const index = value['CF$UID'];
		if (typeof index === 'number') return this.open(this.objects[index] ?? null, depth + 1);
		return this.fields(value, depth);
	}

	/** Tables and lists of values are objects as well: those are read as what they list. */
	private fields(value: Fields, depth: number): unknown {
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

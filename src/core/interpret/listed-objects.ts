/** Property lists stored as values ("bplist00"); those that archive objects as the tree that they were made of. */
import { isPlistFields, openArchive, readPlist, type PlistValue } from '../unwrap';

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
	const opened = openArchive(value, MOST_NODES);
	return opened === undefined ? asPlain(value, 0) : opened;
}

function asPlain(value: PlistValue, depth: number): unknown {
	if (value instanceof Date) return value.getTime();
	if (Array.isArray(value)) return depth > MOST_DEPTH ? null : value.map((v) => asPlain(v, depth + 1));
	if (!isPlistFields(value)) return value;
	return depth > MOST_DEPTH ? null : Object.fromEntries(Object.entries(value).map(([key, v]) => [key, asPlain(v, depth + 1)]));
}

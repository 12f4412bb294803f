/** Writes binary property lists ("bplist00": objects, an offset table, a trailer of 32 bytes), for stores that keep texts so. */

export type Listed = string | number | boolean | Uid | Listed[] | { [key: string]: Listed };

/** Names another object of an archive by its place. */
export class Uid {
	constructor(readonly at: number) {}
}

export function binaryPlist(root: Listed): Uint8Array {
	const objects: number[][] = [];
	const add = (value: Listed): number => {
		const at = objects.push([]) - 1;
		objects[at] = bytesOf(value, add);
		return at;
	};
	add(root);
	const offsets: number[] = [];
	const body = [...Buffer.from('bplist00')];
	for (const object of objects) {
		offsets.push(body.length);
		body.push(...object);
	}
	const table = body.length;
	for (const offset of offsets) body.push(...bigEndian(offset, 4));
	return Uint8Array.from([...body, 0, 0, 0, 0, 0, 0, 4, 2, ...bigEndian(objects.length, 8), ...bigEndian(0, 8), ...bigEndian(table, 8)]);
}

const bigEndian = (n: number, size: number): number[] =>
	Array.from({ length: size }, (_, i) => Math.floor(n / 256 ** (size - 1 - i)) % 256);

/** A marker with the length, which from 15 on follows as a number. */
const marked = (kind: number, length: number): number[] =>
	length < 15 ? [(kind << 4) | length] : [(kind << 4) | 15, 0x12, ...bigEndian(length, 4)];

function bytesOf(value: Listed, add: (value: Listed) => number): number[] {
	if (typeof value === 'boolean') return [value ? 9 : 8];
	if (typeof value === 'number') return [0x12, ...bigEndian(value, 4)];
	if (value instanceof Uid) return [0x80, value.at];
	if (typeof value === 'string') {
		if (/^[\x00-\x7f]*$/.test(value)) return [...marked(5, value.length), ...Buffer.from(value, 'latin1')];
		return [...marked(6, value.length), ...Buffer.from(value, 'utf16le').swap16()];
	}
	const references = (list: Listed[]): number[] => list.flatMap((one) => bigEndian(add(one), 2));
	if (Array.isArray(value)) return [...marked(10, value.length), ...references(value)];
	const entries = Object.entries(value);
	return [...marked(13, entries.length), ...references(entries.map(([key]) => key)), ...references(entries.map(([, one]) => one))];
}

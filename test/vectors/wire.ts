/** Writes fields in the wire format of protocol buffers, from its public encoding guide: for stores that keep messages so. */

type Part = number | string | Uint8Array;

function varint(n: number): number[] {
	const out: number[] = [];
	let rest = n;
	for (; rest >= 128; rest = Math.floor(rest / 128)) out.push((rest % 128) | 128);
	return [...out, rest];
}

/** Pairs of a field's number and its value: whole numbers as varints, texts and bytes with their length. */
export function wire(...fields: [number, Part][]): Uint8Array {
	const out: number[] = [];
	for (const [number, value] of fields) {
		if (typeof value === 'number') {
			out.push(...varint(number * 8), ...varint(value));
			continue;
		}
		const bytes = typeof value === 'string' ? new TextEncoder().encode(value) : value;
		out.push(...varint(number * 8 + 2), ...varint(bytes.length), ...bytes);
	}
	return Uint8Array.from(out);
}

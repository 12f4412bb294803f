/** Cards placed in the bytes of their file. */
import { byteOffsets, type TextEncoding } from '../harvest';
import type { Card } from '../people';

/** `cards`: placed in UTF-16 units of `text`, which `bytes` are in this encoding. */
export function inBytes(cards: readonly Card[], text: string, bytes: Uint8Array, encoding: TextEncoding): Card[] {
	const ends = cards.flatMap((c) => [c.offset, c.offset + c.length]);
	const at = byteOffsets(text, ends, bytes, encoding);
	return cards.map((c) => ({ ...c, offset: at.get(c.offset)!, length: at.get(c.offset + c.length)! - at.get(c.offset)! }));
}

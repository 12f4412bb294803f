/** Address books as sheets of a spreadsheet. */
import { byteOffsets, textEncodingOf, type CellRow } from '../harvest';
import { readRows, type Card } from '../people';

/** The persons of a sheet's rows; none where they are none. `text`: what the rows stand in, `bytes`: the same in its file. */
export function cardsOfSheet(rows: readonly CellRow[], text: string, bytes: Uint8Array): Card[] {
	const cards = readRows(rows.map(({ cells, from, to }) => ({ cells: cells.map((c) => c.trim()), offset: from, length: to - from }))) ?? [];
	const at = byteOffsets(
		text,
		cards.flatMap((c) => [c.offset, c.offset + c.length]),
		bytes,
		textEncodingOf(bytes) ?? 'utf8'
	);
	return cards.map((c) => ({ ...c, offset: at.get(c.offset)!, length: at.get(c.offset + c.length)! - at.get(c.offset)! }));
}

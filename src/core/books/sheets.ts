/** Address books as sheets of a spreadsheet. */
import { textEncodingOf, type CellRow } from '../harvest';
import { readRows, type Card } from '../people';
import { inBytes } from './in-bytes';

/** The persons of a sheet's rows; none where they are none. `text`: what the rows stand in, `bytes`: the same in its file. */
export function cardsOfSheet(rows: readonly CellRow[], text: string, bytes: Uint8Array): Card[] {
	const cards = readRows(rows.map(({ cells, from, to }) => ({ cells: cells.map((c) => c.trim()), offset: from, length: to - from }))) ?? [];
	return inBytes(cards, text, bytes, textEncodingOf(bytes) ?? 'utf8');
}

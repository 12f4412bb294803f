/**
 * Texts that a store keeps as bytes in UTF-16, as browsers keep what pages store: documents, names and numbers alike. They
 * are read as the texts they are, so that what is in them is found as it is in any other.
 */
import { decodeText, isCutText, isText } from '../bytes';
import type { Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';
import { withValuesRead } from './values-read';

type Wide = 'utf16le' | 'utf16be';

/** Values in use of a column from which it is told, fewest of them, and the share that must be so. */
const SAMPLE = 64;
const LEAST = 3;
const MOSTLY = 0.95;
/** Share of the letters that must be of the first 256 of Unicode: any bytes can pass for letters of far writings. */
const PLAIN_LETTERS = 0.3;

/** The store with such texts read; the store itself where it has none. */
export function openWideTexts(harvest: Harvested): Harvested {
	const wide = new Map<number, ReadonlyMap<number, Wide>>();
	for (const table of harvest.tables) {
		const found = wideColumns(harvest.book.rowsOf(table.index), table);
		if (found.size > 0) wide.set(table.index, found);
	}
	if (wide.size === 0) return harvest;
	return withValuesRead(harvest, (row, value, column) => {
		const encoding = row.table === null ? undefined : wide.get(row.table)?.get(column);
		return encoding && value instanceof Uint8Array ? (textOf(value, encoding, row.cut === column) ?? value) : value;
	});
}

function wideColumns(rows: readonly Row[], table: Table): ReadonlyMap<number, Wide> {
	const found = new Map<number, Wide>();
	const used = rows.filter((row) => row.standing === 'kept').slice(0, SAMPLE);
	for (const column of table.columns.keys()) {
		const values = used.map((row) => row.values[column]).filter((v) => v instanceof Uint8Array && v.length > 0) as Uint8Array[];
		if (values.length < LEAST) continue;
		const encoding = (['utf16le', 'utf16be'] as const).find(
			(e) => values.filter((v) => isText(v, 0, v.length, e)).length >= values.length * MOSTLY && arePlain(values, e)
		);
		if (encoding) found.set(column, encoding);
	}
	return found;
}

function arePlain(values: readonly Uint8Array[], encoding: Wide): boolean {
	const high = encoding === 'utf16le' ? 1 : 0;
	let [plain, all] = [0, 0];
	for (const value of values)
		for (let i = 0; i + 1 < value.length; i += 2) {
			all++;
			if (value[i + high] === 0) plain++;
		}
	return plain >= all * PLAIN_LETTERS;
}

function textOf(bytes: Uint8Array, encoding: Wide, isCut: boolean): Value | null {
	const end = bytes.length - (bytes.length % 2);
	if (isCut ? !isCutText(bytes, 0, end, encoding) : !isText(bytes, 0, bytes.length, encoding)) return null;
	return decodeText(bytes, 0, end, encoding);
}

/**
 * A bin, or an archive, often keeps the rows of other tables as documents whose fields are called as the columns were. Where
 * none of the messages so kept is among those of their table, their rows are messages as those are.
 */
import type { Context } from './context';
import type { Candidate } from './correspondence-sheets';
import { DELETED_NAMED } from './deleted-flag';
import type { MessageReading } from './reading';
import { readAsRepeated, type KeptElsewhere } from './repeated';
import { cell, type Sheet, type SheetColumn } from './sheet';

/** Columns that must have a field called as they are, and share of them. */
const FIELDS_LEAST = 4;
const FIELDS = 0.6;
/** Share of the documents at most whose text and time a message in use has as well: such are a log of changes. */
const IN_USE = 0.1;

/** The sheets that keep rows of a sheet of messages so. */
export const rowsAsDocuments = (sheets: readonly Sheet[], said: readonly Candidate[], context: Context): KeptElsewhere[] =>
	sheets.flatMap((sheet) => (sheet.columns.some((c) => c.path.length > 0) ? (documentsOf(sheet, said, context) ?? []) : []));

function documentsOf(sheet: Sheet, said: readonly Candidate[], { tables, harvests }: Context): KeptElsewhere | null {
	const places = new Map<string, SheetColumn[]>();
	for (const c of sheet.columns) {
		if (c.column < 0 || c.path.length === 0 || c.made) continue;
		const place = JSON.stringify([c.column, c.path.slice(0, -1)]);
		places.set(place, [...(places.get(place) ?? []), c]);
	}
	for (const fields of places.values())
		for (const { sheet: of, text, time } of said) {
			if (of === sheet || of.family || !time) continue;
			const own = (column: SheetColumn): SheetColumn | null =>
				column.made || column.aside || column.column < 0 || column.path.length > 0
					? null
					: (fields.find((c) => c.path.at(-1) === column.name) ?? null);
			const columns = of.columns.filter((c) => c.path.length === 0 && c.column >= 0 && !c.made);
			const kept = columns.filter((c) => own(c)).length;
			const [body, at] = [own(text.value), own(time.value)];
			if (!body || !at || kept < FIELDS_LEAST || kept < columns.length * FIELDS) continue;
			const found = { sheet, of, text: body, time: { ...time, value: at }, own };
			if (!areInUse(found, { text: text.value, time: time.value })) return found;
		}
	return null;

	/** In one and the same capture of the store: what is put away later is in use in the earlier ones. */
	function areInUse({ sheet: kept, text, time, of }: KeptElsewhere, said: { text: SheetColumn; time: SheetColumn }): boolean {
		return (harvests ?? []).some(({ book }) => {
			const saying = (one: Sheet, columns: { text: SheetColumn; time: SheetColumn }): string[] =>
				book
					.rowsOf(one.tables[0]!)
					.filter((row) => row.standing === 'kept')
					.map((row) => `${cell(row, columns.time, tables)} ${cell(row, columns.text, tables)}`);
			const inUse = new Set(saying(of, said));
			const documents = saying(kept, { text, time: time.value });
			return documents.filter((one) => inUse.has(one)).length > documents.length * IN_USE;
		});
	}
}

/** Their reading: as that of the messages they were, in the bin where the sheet is called for deletion. */
export function readRowsAsDocuments({ sheet, text, time, own }: KeptElsewhere, m: MessageReading): MessageReading {
	const reading = readAsRepeated(sheet, text, time, m, own);
	const isBin = [sheet.name, ...sheet.columns.map((c) => c.name)].some((name) => DELETED_NAMED.test(name));
	const evidence = ['it keeps rows of the messages, and is called for deletion'];
	const files = m.files && (Object.fromEntries(Object.entries(m.files).map(([kind, c]) => [kind, c && own(c)])) as typeof m.files);
	return {
		...reading,
		files,
		deleted: isBin ? { value: { column: time.value, values: [], isAny: true }, confidence: 0.8, evidence } : null
	};
}

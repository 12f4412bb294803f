/**
 * Who wrote where several do, in a table of its own: a row for each such message, with its number and a person's. The
 * messages get a column that says it.
 */
import type { Row, Value } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { isMeant, keyOf, referencesOf, type Reference } from './refs';
import { addColumn, rowsByMessage, type RowsOfMessages } from './rows-of-messages';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const SURE = 0.5;
const LIKELY = 0.45;
const LEAST = 4;
const NEARLY_ALL = 0.98;
const PROSE = 0.3;
/** Share of the messages of conversations of several that others wrote, at least. */
const BY_OTHERS = 0.3;
const HARDLY_ANY = 0.02;
const ROWS = 4000;
const WRITERS = /author|sender|writer/i;

/** Adds the columns; the tables that say who wrote. */
export function openWritersBeside(context: Context): Set<Sheet> {
	const { sheets, keys, references, tables } = context;
	const found = new Set<Sheet>();
	for (const list of sheets) {
		const ends = endsOf(list, context);
		if (!ends) continue;
		const { from, key } = ends.message;
		const { sheet } = key;
		const rowsOf: RowsOfMessages = { list, messages: sheet, key: from, own: key.column };
		const rows = rowsByMessage(rowsOf, tables);
		if (!isOfRooms(sheet, (row) => rows(row).length > 0, context) && !WRITERS.test(list.name)) continue;
		const read = (row: Row): Value | undefined => {
			const [first] = rows(row);
			return first && cell(first, ends.who, tables);
		};
		addColumn(rowsOf, `${list.name}.${ends.who.name}`, { read, inRooms: true }, tables);
		references.set(sheet, referencesOf(sheet, keys, tables));
		found.add(list);
	}
	return found;
}

/** The two columns of a table that says of messages who wrote them, each once, and no more. */
function endsOf(list: Sheet, { references, tables }: Context): { message: Reference; who: SheetColumn } | null {
	const filled = list.columns.filter((c) => c.profile.filled > 0 && c.column >= 0);
	const others = (c: SheetColumn): SheetColumn[] => filled.filter((o) => o !== c && !isOwnNumber(o, list, tables));
	// Where it is called for that, a few rows do.
	const isCalledSo = WRITERS.test(list.name);
	if (list.family || filled.length > 3 || (list.sure.length < LEAST && !isCalledSo)) return null;
	const refs = references.get(list) ?? [];
	const message = refs.find(({ from, key, confidence }) => {
		if (!from.profile.unique || confidence < SURE || others(from).length !== 1 || !isMeant({ from, key } as Reference, list, tables))
			return false;
		const text = bestText(key.sheet)?.value;
		return !key.sheet.family && text !== undefined && text.profile.prose >= PROSE && bestTime(key.sheet, tables) !== null;
	});
	const who = message && others(message.from)[0];
	if (!message || !who || who.path.length > 0 || (!isCalledSo && (who.profile.distinct.size < 2 || who.profile.unique))) return null;
	// Few of many persons write in a room: those whom the messages name as well.
	const ofMessages = (references.get(message.key.sheet) ?? []).filter((r) => r.confidence >= SURE);
	const isNamed = refs.some(
		(r) =>
			r.from === who &&
			r.key.sheet !== message.key.sheet &&
			(r.confidence >= LIKELY || (r.inclusion >= NEARLY_ALL && ofMessages.some((o) => o.key === r.key)))
	);
	return isNamed ? { message, who } : null;
}

/** Whether the messages named are those of some conversations, many of theirs, and none of the others. */
function isOfRooms(sheet: Sheet, isNamed: (row: Row) => boolean, { references, tables }: Context): boolean {
	const rows = sheet.sure.slice(0, ROWS);
	const talks = new Set((references.get(sheet) ?? []).flatMap(({ from, confidence }) => (confidence >= SURE ? [from] : [])));
	return [...talks].some((talk) => {
		if (talk.profile.distinct.size < 2 || isOwnNumber(talk, sheet, tables)) return false;
		const of = (row: Row): string | number | null => keyOf(cell(row, talk, tables));
		const counts = new Map<string | number, { all: number; named: number }>();
		for (const row of rows) {
			const key = of(row);
			if (key === null) continue;
			const seen = counts.get(key) ?? { all: 0, named: 0 };
			counts.set(key, { all: seen.all + 1, named: seen.named + Number(isNamed(row)) });
		}
		const all = [...counts.values()];
		const rooms = all.filter(({ all: n, named }) => named > n * HARDLY_ANY);
		const sum = (list: number[]): number => list.reduce((a, b) => a + b, 0);
		const [written, ofAll] = [sum(rooms.map((r) => r.named)), sum(rooms.map((r) => r.all))];
		return rooms.length > 0 && rooms.length < all.length && written >= ofAll * BY_OTHERS;
	});
}

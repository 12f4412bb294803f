/**
 * Messages without a time, and a table of what became of them (written, delivered, read), a row a step: the messages get
 * the time of their first step, and what that step was.
 */
import type { Row, Value } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { isMeant, keyOf, type Reference } from './refs';
import { addColumn, rowsByMessage, type RowsOfMessages } from './rows-of-messages';
import { cell, type Sheet, type SheetColumn } from './sheet';

const SURE = 0.6;
/** Share of the messages that must have steps, and steps that they have on average, at least and at most: a person has messages. */
const MOSTLY = 0.8;
const SEVERAL = 1.2;
const MANY = 10;
const PROSE = 0.3;
/** Words for steps, at most. */
const WORDS = 12;

/** Adds the columns; the tables of steps. */
export function openSteps(context: Context): Set<Sheet> {
	const { sheets, tables, references } = context;
	const found = new Set<Sheet>();
	for (const list of sheets) {
		const time = list.family ? null : bestTime(list, tables);
		if (!time || isWritten(list)) continue;
		const to = (references.get(list) ?? []).find((r) => leadsToMessages(r, list, context));
		if (!to) continue;
		const steps: RowsOfMessages = { list, messages: to.key.sheet, key: to.from, own: to.key.column };
		const first = firstSteps(steps, time.value, context);
		addColumn(steps, `${list.name}.${time.value.name}`, { read: (row) => valueOf(first(row), time.value, context) }, tables);
		for (const word of list.columns.filter((c) => c !== to.from && c !== time.value && isWord(c)))
			addColumn(steps, `${list.name}.${word.name}`, { read: (row) => valueOf(first(row), word, context) }, tables);
		found.add(list);
	}
	return found;
}

const isWritten = (sheet: Sheet): boolean => sheet.columns.some((c) => c.profile.prose > PROSE && c.profile.time === null);
const isWord = ({ column, profile: p, made }: SheetColumn): boolean =>
	column >= 0 && !made && p.time === null && p.distinct.size > 1 && p.distinct.size <= WORDS && (p.texts > 0 || p.ints > 0);

const valueOf = (row: Row | null, column: SheetColumn, { tables }: Context): Value | undefined =>
	row ? cell(row, column, tables) : undefined;

function leadsToMessages({ from, key, confidence, coverage }: Reference, list: Sheet, { tables, references }: Context): boolean {
	const messages = key.sheet;
	if (confidence < SURE || coverage < MOSTLY || !isMeant({ from, key } as Reference, list, tables)) return false;
	const text = bestText(messages);
	if (!text || text.value.profile.prose < PROSE || bestTime(messages, tables)) return false;
	// What a file or an answer says of a message stands in a row that names something else beside it.
	const others = (references.get(list) ?? []).filter((r) => r.from !== from && r.confidence > SURE && isMeant(r, list, tables));
	const { filled, distinct, many } = from.profile;
	return others.length === 0 && filled >= distinct.size * SEVERAL && (many || filled <= distinct.size * MANY);
}

/** The earliest of a message's steps. */
function firstSteps(steps: RowsOfMessages, time: SheetColumn, { tables }: Context): (row: Row) => Row | null {
	const rows = rowsByMessage(steps, tables);
	return (row) =>
		rows(row).reduce<Row | null>((first, one) => {
			const [at, before] = [keyOf(cell(one, time, tables)), first && keyOf(cell(first, time, tables))];
			return at !== null && (first === null || before === null || at < before!) ? one : first;
		}, null);
}

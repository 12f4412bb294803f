/**
 * Conversations in sittings: a message names a sitting, and that the conversation, which has the members or the title.
 * The messages get a column that leads there at once; that of the sitting says nothing of who talks with whom.
 */
import type { Row, Value } from '../model';
import { bestText, bestTime } from './columns';
import type { Context } from './context';
import { profileOf } from './profile';
import { isMeant, keyOf, type Reference } from './refs';
import { cell, isOwnNumber, sampleOf, type Made, type Sheet } from './sheet';

const SURE = 0.6;
/** Sittings that a conversation has on average, at least. */
const SEVERAL = 1.3;

export function openSittings(context: Context): void {
	const { sheets, references, tables } = context;
	for (const sheet of sheets) {
		if (sheet.family || !bestTime(sheet, tables) || !bestText(sheet)) continue;
		const refs = references.get(sheet) ?? [];
		for (const to of surest(sheet, context)) {
			const onward = onwardFrom(to, sheet, context);
			if (!onward) continue;
			const { from, key: step } = to;
			const byKey = new Map<string | number | null, Value | undefined>();
			for (const row of step.sheet.rows)
				byKey.set(keyOf(step.column ? cell(row, step.column, tables) : row.rowid), cell(row, onward.from, tables));
			const made: Made = { read: (row: Row) => byKey.get(keyOf(cell(row, from, tables))) };
			const profile = profileOf(sheet.sure, made.read, sampleOf(sheet.sure));
			const column = { name: `${from.name} (${onward.from.name})`, column: from.column, path: [onward.from.name], made, profile };
			sheet.columns.push(column);
			references.set(sheet, [...refs.filter((r) => r.from !== from), { ...onward, from: column }]);
			references.set(step.sheet, []);
			from.profile = { ...from.profile, filled: 0, ints: 0, distinct: new Map() };
			break;
		}
	}
}

/** What a sheet's columns surely lead to, each to one: small numbers are keys of many a sheet. */
function surest(sheet: Sheet, { references, tables }: Context): Reference[] {
	const refs = references.get(sheet) ?? [];
	return refs.filter((r) => r.confidence > SURE && refs.find((x) => x.from === r.from) === r && isMeant(r, sheet, tables));
}

/** What a sheet of sittings leads on to, where messages name its rows; null where it is none. */
function onwardFrom({ from, key }: Reference, messages: Sheet, context: Context): Reference | null {
	const { tables, sheets } = context;
	const sitting = key.sheet;
	// A number that no column has is no name to call a row by.
	const isNumbered = key.column !== null || tables[sitting.tables[0]!]!.rowidColumn >= 0;
	// A row's own number stands in lists of pairs, which have the conversation themselves.
	if (
		!isNumbered ||
		sitting === messages ||
		from.made ||
		isOwnNumber(from, messages, tables) ||
		sitting.columns.some((c) => c.profile.texts > 0 && c.profile.uuid < SURE)
	)
		return null;
	if (surest(sitting, context).some((r) => r.from === key.column)) return null;
	// What others name as well has a meaning of its own.
	const isNamedElsewhere = sheets.some((s) => s !== messages && s !== sitting && surest(s, context).some((r) => r.key.sheet === sitting));
	if (isNamedElsewhere) return null;
	const onward = surest(sitting, context).filter((r) => r.key.sheet !== messages);
	return (
		onward.find(
			(r) => r.from.profile.filled >= r.from.profile.distinct.size * SEVERAL && isJoined(r.key.sheet, [sitting, messages], context)
		) ?? null
	);
}

/** Whether a list of pairs has the rows of a sheet on one side: who takes part in what. */
const isJoined = (sheet: Sheet, but: readonly Sheet[], context: Context): boolean =>
	context.sheets.some((list) => {
		if (but.includes(list) || list === sheet) return false;
		const sides = surest(list, context);
		return sides.some((r) => r.key.sheet === sheet && sides.some((other) => other.key.sheet !== sheet && other.from !== r.from));
	});

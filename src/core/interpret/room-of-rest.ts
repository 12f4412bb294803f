/** The rooms of what is written to nobody in particular, where two columns name who wrote and to whom: a third, filled there alone. */
import type { Context } from './context';
import type { MessageReading } from './reading';
import { keyOf, type Reference } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import type { Party } from './named-parties';

const ROWS = 4000;
const LEAST = 3;
const NEARLY_ALL = 0.95;
/** Rooms for each of the rows, at most. */
const SEVERAL_EACH = 0.5;

/** `best`: what the columns name. Null where one of the two is filled throughout in one and the same rows, or nothing is in the others. */
export function roomOfRest(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	parties: readonly Party[],
	best: ReadonlyMap<SheetColumn, Reference>,
	{ tables }: Context
): MessageReading['thread'] {
	const [one, two] = parties.filter((p) => p.key && parties.some((q) => q !== p && q.key?.sheet === p.key!.sheet));
	if (!one || !two) return null;
	const to = one.value.profile.filled < two.value.profile.filled ? one : two;
	const rows = sheet.sure.slice(0, ROWS);
	const isIn = (row: (typeof rows)[number], c: SheetColumn): boolean => ![null, 0, ''].includes(keyOf(cell(row, c, tables)));
	const rest = rows.filter((row) => !isIn(row, to.value));
	if (rest.length < LEAST || rest.length > rows.length / 2) return null;
	const room = sheet.columns.find((c) => {
		const { profile: p } = c;
		if (
			used.has(c) ||
			c === one.value ||
			c === two.value ||
			c.column < 0 ||
			p.time ||
			p.prose > 0 ||
			p.filled === 0 ||
			p.filled > rows.length / 2
		)
			return false;
		if (p.distinct.size > p.filled * SEVERAL_EACH || p.filled < rest.length * NEARLY_ALL) return false;
		const inRest = rest.filter((row) => isIn(row, c)).length;
		return inRest >= rest.length * NEARLY_ALL && inRest >= rows.filter((row) => isIn(row, c)).length * NEARLY_ALL;
	});
	const evidence = [`it stands where ${to.value.name} names nobody, and there alone`];
	return room ? { value: room, key: best.get(room)?.key ?? null, confidence: 0.7, evidence } : null;
}

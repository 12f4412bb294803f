/**
 * The few messages of a table that has no texts of its own, beside another one with texts: pictures that were sent, whose
 * parts a further table has. When, in which conversation and which way stand there as they do beside the texts.
 */
import { isCalledWay } from './alike-sheets';
import { columnAside } from './aside';
import { bestTime } from './columns';
import type { Context } from './context';
import { isMime, isPath } from './files';
import { blankReading, type DirectionRule, type MessageReading } from './reading';
import { isNamedAlike, keyOf } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

/** Rows beyond which a table says by itself what it is. */
const FEW = 20;
const ALL = 0.9;
const TEXT_NAMED = /text|body|caption|content|message/i;

/** The readings of such sheets among `free`. */
export function readFewWithFiles(free: readonly Sheet[], messages: readonly MessageReading[], context: Context): MessageReading[] {
	const written = messages.filter((m) => m.thread?.key && m.thread.value.column >= 0 && !m.sheet.family && !m.text.value.aside);
	return free.flatMap((sheet) => {
		if (sheet.family || sheet.sure.length > FEW) return [];
		for (const like of written) {
			const reading = like.sheet.sure.length > sheet.sure.length ? readLike(sheet, like, context) : null;
			if (reading) return [reading];
		}
		return [];
	});
}

function readLike(sheet: Sheet, like: MessageReading, context: Context): MessageReading | null {
	const time = bestTime(sheet, context.tables);
	const thread = sheet.columns.find((c) => c.name === like.thread!.value.name && !c.made && c.column >= 0);
	if (!time || !thread || thread === time.value || !isAmong(thread, like.thread!.key!.values)) return null;
	const parts = partsOf(sheet, like.sheet, context);
	if (!parts) return null;
	const text = columnAside(sheet, parts, null, parts.of, context.tables);
	const evidence = [`its rows have files, which ${parts.sheet.name} names, and stand in conversations as those of ${like.sheet.name} do`];
	return {
		...blankReading(sheet, { value: text, confidence: 0.6, evidence }, time),
		thread: { ...like.thread!, value: thread },
		direction: { value: wayIn(sheet, like.direction.value), confidence: 0.6, evidence: [`as ${like.sheet.name} says it`] }
	};
}

const isAmong = ({ profile: p }: SheetColumn, values: ReadonlySet<string | number>): boolean =>
	p.filled > 0 && [...p.distinct.keys()].every((v) => values.has(v));

/** The table of which (nearly) each row is a part of one of these, and each of these has one: with its texts, and what names the whole. */
function partsOf(whole: Sheet, texts: Sheet, { sheets, tables }: Context): { sheet: Sheet; text: SheetColumn; of: SheetColumn } | null {
	const numbers = new Set(whole.sure.flatMap((row) => (row.standing === 'kept' && typeof row.rowid === 'number' ? [row.rowid] : [])));
	for (const sheet of sheets) {
		if (numbers.size === 0 || sheet === whole || sheet === texts || !sheet.columns.some((c) => isMime(c) || isPath(c))) continue;
		const rows = sheet.sure.filter((row) => row.standing === 'kept');
		const of = sheet.columns.find((c) => {
			if (c.column < 0 || c.profile.ints < c.profile.filled || isOwnNumber(c, sheet, tables) || isNamedAlike(c, texts)) return false;
			const named = rows.map((row) => keyOf(cell(row, c, tables)));
			const known = named.filter((n) => typeof n === 'number' && numbers.has(n));
			return known.length >= rows.length * ALL && new Set(known).size >= numbers.size * ALL;
		});
		const text = sheet.columns.find((c) => c.profile.texts > 0 && TEXT_NAMED.test(c.name) && !isMime(c) && !isPath(c));
		if (of && text) return { sheet, text, of };
	}
	return null;
}

/** A flag's rule by a column that has no other values: the one called alike, or the one that is called for it. */
function wayIn({ columns }: Sheet, rule: DirectionRule): DirectionRule {
	if (rule.kind !== 'flag') return { kind: 'unknown' };
	const values = new Set([...rule.out, ...rule.in]);
	const fit = columns.filter((c) => c.column >= 0 && !c.made && isAmong(c, values));
	const column = fit.find((c) => c.name === rule.column.name) ?? fit.find(isCalledWay);
	return column ? { ...rule, column } : { kind: 'unknown' };
}

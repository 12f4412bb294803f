/**
 * Messages that stand in two tables of a store: where one of them says more surely which way they went, that tells what a
 * flag of the other means.
 */
import type { Row } from '../model';
import type { Context } from './context';
import type { DirectionRule, MessageReading } from './reading';
import { keyOf } from './refs';
import { cell, type SheetColumn } from './sheet';
import { timeOf } from './time';
import { wayOf } from './way-by-rule';

const ROWS = 4000;
/** Rows that both must have, and how many of one way at least. */
const LEAST = 10;
const EACH_WAY = 3;
const NEARLY_ALL = 0.98;
const MOST_VALUES = 6;

type Way = 'in' | 'out';

/** Puts right what flags mean, by readings that are surer. */
export function tellByOthers(messages: readonly MessageReading[], context: Context): void {
	const surestFirst = [...messages].sort((a, b) => b.direction.confidence - a.direction.confidence);
	for (const [i, sure] of surestFirst.entries())
		for (const other of surestFirst.slice(i + 1)) {
			const told = sure.direction.value.kind === 'unknown' ? [] : rowsTold(sure, other, context);
			if (told.length < LEAST || (['in', 'out'] as const).some((way) => told.filter((t) => t.way === way).length < EACH_WAY)) continue;
			if (
				told.filter(({ row, way }) => wayOf(other.direction.value, row, (c) => cell(row, c, context.tables)) === way).length >=
				told.length * NEARLY_ALL
			)
				continue;
			const rule = other.sheet.columns.map((c) => ruleOf(c, told, context)).find((r) => r !== null);
			if (rule)
				other.direction = {
					value: rule,
					confidence: sure.direction.confidence,
					evidence: [`${told.length} of its messages stand in ${sure.sheet.name} as well, where it is said which way they went`]
				};
		}
}

/** The rows of a sheet that another has too, and which way they went as the other says it. */
function rowsTold(sure: MessageReading, other: MessageReading, context: Context): { row: Row; way: Way }[] {
	const saying = (m: MessageReading, row: Row): string | null => {
		const [text, at] = [cell(row, m.text.value, context.tables), m.time && timeOf(cell(row, m.time.value, context.tables), m.time.reading)];
		return typeof text === 'string' && text !== '' && at !== null ? `${at}|${text}` : null;
	};
	const ways = new Map<string, Way>();
	for (const row of sure.sheet.sure.slice(0, ROWS)) {
		const [said, way] = [saying(sure, row), wayOf(sure.direction.value, row, (c) => cell(row, c, context.tables))];
		if (said !== null && way !== null) ways.set(said, way);
	}
	return other.sheet.sure.slice(0, ROWS).flatMap((row) => {
		const way = ways.get(saying(other, row) ?? '');
		return way ? [{ row, way }] : [];
	});
}

/** The rule by which a column's values say the ways that are told; null where they do not. */
function ruleOf(column: SheetColumn, told: readonly { row: Row; way: Way }[], { tables }: Context): DirectionRule | null {
	const { profile: p } = column;
	if (column.column < 0 || column.made || p.many || p.distinct.size < 2 || p.distinct.size > MOST_VALUES || p.blobs > 0) return null;
	const counts = new Map<string | number, Record<Way, number>>();
	for (const { row, way } of told) {
		const value = keyOf(cell(row, column, tables));
		if (value === null) return null;
		const count = counts.get(value) ?? { in: 0, out: 0 };
		counts.set(value, count);
		count[way]++;
	}
	const of = (way: Way): (string | number)[] => [...counts].flatMap(([value, n]) => (n[way] >= (n.in + n.out) * NEARLY_ALL ? [value] : []));
	const [out, incoming] = [of('out'), of('in')];
	return out.length > 0 && incoming.length > 0 && out.length + incoming.length === counts.size
		? { kind: 'flag', column, out, in: incoming }
		: null;
}

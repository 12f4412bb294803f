/**
 * The way by a column that names the owner in some of the rows alone: in rooms it is said who wrote, in conversations of two
 * it need not be. A flag that goes with it there says it everywhere.
 */
import type { Row, Table } from '../model';
import type { Context } from './context';
import { type Flag, flag } from './direction-rules';
import { isNought, threadKeyOf } from './flag-rule';
import type { DirectionRule, Guess, MessageReading } from './reading';
import { keyOf } from './refs';
import { cell, type SheetColumn } from './sheet';

const ROWS = 6000;
/** Share of the rows that name a writer, from which on that says enough. */
const NAMED_IN_ALL = 0.95;
/** Values a flag has at most; rows of each way from which it can be told; share of them it must agree with, and of all rows that it must tell. */
const VALUES_AT_MOST = 8;
const LEAST = 2;
const AGREE = 0.98;
const TELLS = 0.95;

/** A row of which it is known which way it went. */
interface Known {
	row: Row;
	isOut: boolean;
}

/** The rule itself, or that of a flag which goes with it and tells more. */
export function flagByOwner(found: Guess<DirectionRule>, reading: MessageReading, { tables }: Context): Guess<DirectionRule> {
	const { value: rule } = found;
	const { sheet } = reading;
	if (rule.kind !== 'sender' || rule.column.profile.filled >= sheet.sure.length * NAMED_IN_ALL) return found;
	const owners = new Set(rule.owner.map(String));
	const known = sheet.sure.slice(0, ROWS).flatMap((row): Known[] => {
		const who = keyOf(cell(row, rule.column, tables));
		return who === null ? [] : [{ row, isOut: owners.has(String(who)) }];
	});
	const value = flagThatGoesWith(known, rule.column, reading, tables);
	return value
		? { ...found, value, evidence: [...found.evidence, `${value.column.name} goes with who wrote, and stands in every row`] }
		: found;
}

/** In a room who wrote is named, and nobody where that was the owner: a flag that goes with it there says it everywhere. */
export function flagByGroup(found: Guess<DirectionRule>, reading: MessageReading, { tables }: Context): Guess<DirectionRule> {
	const { sheet, group, peer } = reading;
	if (found.value.kind !== 'flag' || !group || !peer) return found;
	const known = sheet.sure
		.slice(0, ROWS)
		.filter((row) => !isNought(cell(row, group, tables)))
		.map((row): Known => ({ row, isOut: isNought(cell(row, peer.value, tables)) }));
	const { column, out } = found.value;
	const agree = known.filter(({ row, isOut }) => out.includes(keyOf(cell(row, column, tables)) ?? '') === isOut);
	if (known.length < IN_GROUPS || agree.length >= known.length * AGREE) return found;
	const value = flagThatGoesWith(known, peer.value, reading, tables);
	return value
		? {
				...found,
				value,
				confidence: Math.max(found.confidence, SAID_IN_ROOMS),
				evidence: [`in rooms ${value.column.name} goes with whether anybody else is named`]
			}
		: found;
}
const IN_GROUPS = 10;
const SAID_IN_ROOMS = 0.85;

/**
 * Where a column names who wrote in some conversations, and in most never anybody: in those it says nothing, and in the
 * others that the owner wrote where it names nobody. `null`: it is no such column; `unknown`: no flag goes with it.
 */
export function flagByRooms(writer: SheetColumn, reading: MessageReading, context: Context): DirectionRule | null {
	const { tables } = context;
	const rows = reading.sheet.sure.slice(0, ROWS);
	const talks = new Map<string, { rows: Row[]; named: number }>();
	for (const row of rows) {
		const key = threadKeyOf(reading, row, context);
		const talk = talks.get(key) ?? { rows: [], named: 0 };
		talks.set(key, talk);
		talk.rows.push(row);
		if (!isNought(cell(row, writer, tables))) talk.named++;
	}
	const silent = [...talks.values()].filter(({ rows: { length }, named }) => named === 0 && length >= LEAST);
	const rooms = [...talks.values()].filter(({ named }) => named > 0);
	if (silent.length < TALKS_LEAST || silent.length <= rooms.length) return null;
	const known = rooms.flatMap((room) => room.rows.map((row): Known => ({ row, isOut: isNought(cell(row, writer, tables)) })));
	return flagThatGoesWith(known, writer, reading, tables) ?? { kind: 'unknown' };
}
const TALKS_LEAST = 2;

/**
 * On which side each number is that goes on from those known, one by one (2 and 3 from 4, where the others are 10 and 11): the
 * steps of one way are counted one after the other. Null where one goes on from neither.
 */
function goingOnFrom(values: readonly Flag[], out: readonly Flag[], incoming: readonly Flag[]): { value: Flag; isOut: boolean }[] | null {
	const [a, b] = [new Set(out), new Set(incoming)];
	const left = new Set(values);
	const found: { value: Flag; isOut: boolean }[] = [];
	const isBeside = (value: Flag, side: ReadonlySet<Flag>): boolean =>
		typeof value === 'number' && (side.has(value - 1) || side.has(value + 1));
	// Where they lie next to each other nothing says where one ends.
	if (out.some((value) => isBeside(value, b))) return null;
	for (let before = -1; left.size !== before;) {
		before = left.size;
		for (const value of left) {
			const isOut = isBeside(value, a);
			if (isOut === isBeside(value, b)) continue;
			(isOut ? a : b).add(value);
			left.delete(value);
			found.push({ value, isOut });
		}
	}
	return left.size === 0 ? found : null;
}

function flagThatGoesWith(
	known: readonly Known[],
	writer: SheetColumn,
	{ sheet }: MessageReading,
	tables: readonly Table[]
): Extract<DirectionRule, { kind: 'flag' }> | null {
	const rows = sheet.sure.slice(0, ROWS);
	const canBe = (c: SheetColumn): boolean =>
		c.column >= 0 && c !== writer && !c.profile.time && !c.profile.many && c.profile.distinct.size <= VALUES_AT_MOST;
	for (const column of sheet.columns.filter(canBe)) {
		const ways = new Map<Flag, { out: number; in: number }>();
		for (const { row, isOut } of known) {
			const value = keyOf(cell(row, column, tables));
			if (value === null) continue;
			const seen = ways.get(value) ?? { out: 0, in: 0 };
			seen[isOut ? 'out' : 'in']++;
			ways.set(value, seen);
		}
		const valuesOf = (isOut: boolean): Flag[] => [...ways].filter(([, seen]) => seen.out > seen.in === isOut).map(([value]) => value);
		const agree = [...ways.values()].reduce((sum, seen) => sum + Math.max(seen.out, seen.in), 0);
		const [out, incoming] = [valuesOf(true), valuesOf(false)];
		const of = (values: readonly Flag[]): number =>
			values.reduce<number>((sum, value) => sum + ways.get(value)!.out + ways.get(value)!.in, 0);
		if (of(out) < LEAST || of(incoming) < LEAST || agree < known.length * AGREE) continue;
		// What was sent gets far in several ways, and what was received in one: what no room has seen is of the former kind.
		const unseen = [...column.profile.distinct.keys()].filter((value) => !ways.has(value));
		const several = out.length > incoming.length ? out : incoming.length > out.length ? incoming : null;
		const near = goingOnFrom(unseen, out, incoming);
		if (near) for (const { value, isOut } of near) (isOut ? out : incoming).push(value);
		else several?.push(...unseen);
		const values = new Set([...out, ...incoming]);
		const told = rows.filter((row) => values.has(keyOf(cell(row, column, tables)) ?? ''));
		if (told.length >= rows.length * TELLS) return flag(column, out, incoming);
	}
	return null;
}

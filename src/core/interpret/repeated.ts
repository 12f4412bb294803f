/**
 * Sheets that repeat messages of their own store, time and all: what answers quote, what was starred, what was told of on
 * the screen. Their rows are no messages of their own; where the message is gone since, they say what it was.
 */
import type { Row, Table } from '../model';
import { addressShare } from './columns';
import type { Context } from './context';
import type { DirectionRule, MessageReading } from './reading';
import type { Sheet, SheetColumn } from './sheet';
import { cell } from './sheet';
import { timeOf, type TimeReading } from './time';

const ROWS = 3000;
const LEAST = 2;
/** Share of the repeating rows that must be of messages that are there, where those are many. */
const THERE = 0.1;

interface Said {
	sheet: Sheet;
	text: SheetColumn;
	time: { value: SheetColumn; reading: TimeReading };
}

/**
 * Whether rows of one sheet are those of another that is in use at the same time, in one and the same capture of the store:
 * what is put away into an archive is in one of them only.
 */
export function repeatsAtOnce(one: Said, other: Said, { tables, harvests }: Pick<Context, 'tables' | 'harvests'>): boolean {
	if (one.sheet.family || other.sheet.family || one.sheet.tables[0] === other.sheet.tables[0]) return false;
	return (harvests ?? []).some(({ book }) => {
		const [rows, others] = [one, other].map(({ sheet }) => book.rowsOf(sheet.tables[0]!).filter((r) => r.standing === 'kept'));
		if (rows!.length === 0 || rows!.length >= others!.length) return false;
		const said = new Set(others!.flatMap((row) => saying(row, other, tables) ?? []));
		const own = rows!.slice(0, ROWS).flatMap((row) => saying(row, one, tables) ?? []);
		const again = own.filter((s) => said.has(s)).length;
		// What is addressed itself, and for a good part stands nowhere else, is what a program kept so before.
		if (own.length - again > Math.max(LEAST_APART, own.length * APART) && isAddressed(one.sheet)) return false;
		return again >= Math.min(LEAST, own.length) && again > 0 && again >= own.length * THERE;
	});
}

/** Rows, and share of them, that must be nowhere else. */
const LEAST_APART = 10;
const APART = 0.3;

/** Whether its rows have a number or an address, and say which way each went or who wrote it. */
const isAddressed = (sheet: Sheet): boolean =>
	sheet.columns.some((c) => c.column >= 0 && addressShare(c) > 0.6 && c.profile.distinct.size > 1) &&
	sheet.columns.some((c) => c.column >= 0 && c.profile.filled >= sheet.sure.length * MOSTLY && c.profile.distinct.size === 2);
const MOSTLY = 0.9;

function saying(row: Row, { text, time }: Said, tables: readonly Table[]): string | null {
	const said = cell(row, text, tables);
	const at = timeOf(cell(row, time.value, tables), time.reading);
	return typeof said === 'string' && said !== '' && at !== null ? `${at}|${said}` : null;
}

/** A sheet whose rows are, or were, those of a sheet of messages, and what of theirs each of its columns holds. */
export interface KeptElsewhere {
	sheet: Sheet;
	of: Sheet;
	text: SheetColumn;
	time: NonNullable<MessageReading['time']>;
	/** The column that has what one of the messages' has; null where none does. */
	own(column: SheetColumn): SheetColumn | null;
}

/** The reading of such a sheet: as that of the messages it repeats, by the columns that are called as theirs, or by `own`. */
export function readAsRepeated(
	sheet: Sheet,
	text: SheetColumn,
	time: Said['time'],
	m: MessageReading,
	own = (column: SheetColumn): SheetColumn | null =>
		column.made || column.aside ? null : (sheet.columns.find((c) => c.name === column.name && c.column >= 0 && !c.made) ?? null)
): MessageReading {
	const as = <T extends { value: SheetColumn }>(guess: T | null): T | null => {
		const value = guess && own(guess.value);
		return guess && value ? { ...guess, value } : null;
	};
	return {
		...m,
		sheet,
		text: { ...m.text, value: text },
		time: m.time && { ...m.time, ...time },
		direction: { ...m.direction, value: ruleOf(m.direction.value, own) },
		directionElse: null,
		peer: as(m.peer),
		sender: as(m.sender),
		recipient: as(m.recipient),
		thread: as(m.thread),
		participant: as(m.participant),
		threadJoin: null,
		deleted: null,
		otherKinds: null,
		wordings: [],
		listedReactions: [],
		reactions: undefined,
		peerName: m.peerName && own(m.peerName),
		group: m.group && own(m.group),
		guid: m.guid && own(m.guid),
		files: null,
		replyTo: null
	};
}

function ruleOf(rule: DirectionRule, own: (column: SheetColumn) => SheetColumn | null): DirectionRule {
	if (!('column' in rule)) return rule;
	const column = own(rule.column);
	return column ? { ...rule, column } : { kind: 'unknown' };
}

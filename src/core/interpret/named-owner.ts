/** Whose device it is, as the user says: which of those who write in a store that is. */
import { BY_USER, ownerAmong } from './exported';
import type { Context } from './context';
import { isNought, threadKeyOf } from './flag-rule';
import type { DirectionRule, Guess, MessageReading } from './reading';
import { ownersOfPair } from './parties';
import { normalAddress } from './people';
import { keyOf, type Key } from './refs';
import { ownerBySettings } from './settings';
import { cell, type Sheet, type SheetColumn } from './sheet';

const ROWS = 6000;

/** A column that names the writer, by itself or by a row elsewhere. */
export interface Writer {
	value: SheetColumn;
	key: Key | null;
}

/** The rule by which the named owner's messages are those sent, if one of these columns names just one whom the user can mean. */
export function namedOwner(
	writers: readonly (Writer | null | undefined)[],
	reading: MessageReading,
	context: Context
): Guess<DirectionRule> | null {
	const { sheet } = reading;
	const accounts = ownerOfAccounts(writers, context);
	if (accounts || context.owner.length === 0) return accounts ?? ownerStated(writers, sheet, context);
	for (const writer of writers) {
		const owner = writer ? ownerIn(writer, sheet, context) : null;
		if (!writer || owner === null || isOneOfTheOthers(writer.value, owner, reading, context)) continue;
		const stated = ownerStated([writer], sheet, context);
		const isOthers = stated?.value.kind === 'sender' && writesAsWidely(stated.value.owner[0]!, owner, writer.value, reading, context);
		if (isOthers) return stated;
		return { value: { kind: 'sender', column: writer.value, owner: [owner] }, confidence: 0.97, evidence: ['the owner was named'] };
	}
	// Who was named can be called otherwise here.
	return ownerStated(writers, sheet, context);
}

/** As above, where the store has several accounts of one owner, who writes under the number or address of each. */
function ownerOfAccounts(writers: readonly (Writer | null | undefined)[], { accounts }: Context): Guess<DirectionRule> | null {
	const forms = new Set((accounts ?? []).map(normalAddress));
	for (const writer of forms.size > 0 ? writers : []) {
		const owner = [...(writer?.value.profile.distinct.keys() ?? [])].filter((value) => forms.has(normalAddress(String(value))));
		if (writer && owner.length > 0 && owner.length < writer.value.profile.distinct.size)
			return {
				value: { kind: 'sender', column: writer.value, owner },
				confidence: 0.96,
				evidence: [`the store has several accounts: who writes under one of them is the owner`]
			};
	}
	return null;
}

/** As above, where the user names nobody of those who write here, and the store's own settings do. */
function ownerStated(
	writers: readonly (Writer | null | undefined)[],
	sheet: Sheet,
	{ stated, tables }: Context
): Guess<DirectionRule> | null {
	for (const writer of stated && stated.length > 0 ? writers : []) {
		const owner = writer ? ownerBySettings(writer.value, sheet, stated!, tables) : null;
		if (writer && owner !== null)
			return {
				value: { kind: 'sender', column: writer.value, owner: [owner] },
				confidence: 0.95,
				evidence: [`the store's settings say that ${owner} is the owner`]
			};
	}
	return null;
}

/**
 * Whether whom the user named is no more than one of the others on the device of somebody else: where nobody is named there,
 * somebody writes in rooms of several others too, and in all conversations, as he does not.
 */
function isOneOfTheOthers(writer: SheetColumn, owner: string | number, reading: MessageReading, context: Context): boolean {
	const { sender, recipient } = reading;
	if (sender && recipient) {
		const [inEachRow, more] = ownersOfPair(reading.sheet, sender.value, recipient.value, context);
		const rows = reading.sheet.sure.slice(0, ROWS);
		const names = (row: (typeof rows)[number]): boolean =>
			[sender, recipient].some((end) => keyOf(cell(row, end.value, context.tables)) === owner);
		// Of two who wrote to each other alone either stands in each row.
		const isInMost = rows.filter(names).length >= rows.length * IN_NEARLY_ALL;
		if (inEachRow !== undefined && more === undefined && inEachRow !== owner && !isInMost) return true;
	}
	const talks = new Map<string, { named: Set<string | number>; nobody: number; rows: number }>();
	const thread = reading.thread?.value;
	let toHim = 0;
	for (const row of reading.sheet.sure.slice(0, ROWS)) {
		const key = threadKeyOf(reading, row, context);
		const talk = talks.get(key) ?? { named: new Set<string | number>(), nobody: 0, rows: 0 };
		talks.set(key, talk);
		talk.rows++;
		const who = keyOf(cell(row, writer, context.tables));
		if (isNought(who)) talk.nobody++;
		else talk.named.add(who!);
		if (thread && thread !== writer && who !== owner && who !== null && keyOf(cell(row, thread, context.tables)) === owner) toHim++;
	}
	// A conversation that is called by him, and in which others write, is with him.
	if (toHim >= TALKED) return true;
	const all = [...talks.values()].filter(({ rows }) => rows >= TALKED);
	if (
		writesInAll(
			all.map(({ named }) => named),
			owner
		)
	)
		return true;
	const withNobody = all.filter(({ nobody, rows }) => nobody >= rows * WRITES);
	const inRoom = withNobody.some(({ named }) => named.size >= 2);
	const withNamed = withNobody.filter(({ named }) => named.has(owner));
	return all.length >= 2 && withNobody.length >= all.length * IN_NEARLY_ALL && (inRoom || withNamed.length < withNobody.length);
}
/** Whether one of the others writes in all of several conversations, most of them of two, and whom the user named in few of them. */
function writesInAll(talks: readonly ReadonlySet<string | number>[], owner: string | number): boolean {
	const ofTwo = talks.filter((named) => named.size <= 2).length;
	const withHim = talks.filter((named) => named.has(owner)).length;
	if (talks.length < TALKS_LEAST || ofTwo <= talks.length / 2 || withHim > talks.length / 2) return false;
	return [...talks[0]!].some((who) => who !== owner && talks.every((named) => named.has(who)));
}
const TALKS_LEAST = 3;

/** Whether one whom the settings name writes in half as many conversations, or more, as the one whom the user named: then it is his device. */
function writesAsWidely(
	other: string | number,
	named: string | number,
	writer: SheetColumn,
	reading: MessageReading,
	context: Context
): boolean {
	const [ofOther, ofNamed] = [new Set<string>(), new Set<string>()];
	for (const row of reading.sheet.sure.slice(0, ROWS)) {
		const who = keyOf(cell(row, writer, context.tables));
		if (who === other) ofOther.add(threadKeyOf(reading, row, context));
		if (who === named) ofNamed.add(threadKeyOf(reading, row, context));
	}
	return other !== named && ofOther.size * 2 >= ofNamed.size;
}

/** Rows of a conversation that tell, share of them that somebody writes, and share of the conversations. */
const TALKED = 4;
const WRITES = 0.1;
const IN_NEARLY_ALL = 0.9;

function ownerIn(writer: Writer, sheet: Sheet, context: Context): string | number | null {
	const values = new Set<string | number>();
	for (const row of sheet.sure.slice(0, ROWS)) {
		const value = keyOf(cell(row, writer.value, context.tables));
		if (value !== null) values.add(value);
	}
	// Whom the list of persons does not have is called by the number itself: nobody lists himself.
	const called = writer.key ? calledBy(writer.key, values, context) : new Map<string | number, string[]>();
	for (const value of values) if (!called.has(value)) called.set(value, [String(value)]);
	const meant = [...called].filter(([, names]) => ownerAmong(names, context.owner, '')?.why === BY_USER);
	return meant.length === 1 ? meant[0]![0] : null;
}

/** The texts of the rows that keys lead to: numbers, addresses, names. */
function calledBy(key: Key, values: ReadonlySet<string | number>, { tables }: Context): Map<string | number, string[]> {
	const called = new Map<string | number, string[]>();
	for (const row of key.sheet.rows) {
		const value = key.column ? keyOf(cell(row, key.column, tables)) : keyOf(row.rowid);
		if (value === null || !values.has(value) || called.has(value)) continue;
		called.set(
			value,
			row.values.filter((v): v is string => typeof v === 'string' && v !== '')
		);
	}
	return called;
}

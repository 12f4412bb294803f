/** What tells the conversation of each message of a sheet. */
import { isConstant, TABLE_NAME } from './columns';
import type { Context } from './context';
import { isPath, isSizeNamed } from './files';
import { holdsTogether, isOfFew, mixedParties, repeatsParty } from './parties';
import { type MessageReading } from './reading';
import { isDeclared, isNamedAlike, keyOf, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { roomOfRest } from './room-of-rest';
import { findThreadJoin, isThreadKey } from './threads';
import { ALL_THREADS, FEW_NAMED, NAMED_THREAD } from './how-sure';
import type { Party } from './named-parties';

/** Whether rows name a file, and each a message of its own. */
const areFilesOf = (files: Sheet, sheet: Sheet, context: Context): boolean =>
	files.columns.some((c) => c.profile.mime > 0.5 || isPath(c)) &&
	(context.references.get(files) ?? []).some(
		({ from, key, inclusion }) =>
			key.sheet === sheet && inclusion >= ALL_THREADS && from.profile.unique && !isOwnNumber(from, files, context.tables)
	);

const isYesOrNo = ({ profile: p }: SheetColumn): boolean => p.ints > 0 && p.ints === p.filled && p.low === 0 && p.high === 1;

/** How far a message got: what was sent gets far in other ways than what was received, as what somebody wrote does. */
const STATE_NAMED = /(?:^|_)stat(?:e|us)$/i;

/** Of two columns that name rows of one list the conversation is told by the one that is filled: who wrote in it can be left out. */
function isSurer(column: SheetColumn, r: Reference, than: NonNullable<MessageReading['thread']>): boolean {
	const more = column.profile.filled / than.value.profile.filled;
	if (r.key.sheet === than.key?.sheet && (more > FILLED_MORE || more < 1 / FILLED_MORE)) return more > 1;
	return r.confidence > than.confidence;
}
const FILLED_MORE = 1.05;
/** Of what kind each message is. */
const KIND_NAMED = /(?:^|_)(?:kind|type)$/i;

/**
 * Whether each of a column's values stands with one and the same party always, or never: it tells the owner's own messages
 * from those of others, as flags do. In a conversation both write.
 */
function tellsWhetherOne(c: SheetColumn, party: SheetColumn, { sure }: Sheet, { tables }: Context): boolean {
	const rows = sure.slice(0, ROWS).map((row) => [keyOf(cell(row, c, tables)), keyOf(cell(row, party, tables))] as const);
	const counts = new Map<string | number | null, number>();
	for (const [, who] of rows) counts.set(who, (counts.get(who) ?? 0) + 1);
	const [one] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? [null];
	const sides = new Map<string | number | null, Set<boolean>>();
	for (const [value, who] of rows) sides.set(value, (sides.get(value) ?? new Set()).add(who === one));
	const own = [...sides.values()].filter((side) => side.has(true)).length;
	return [...sides.values()].every((side) => side.size === 1) && Math.min(own, sides.size - own) >= FLAGS_LEAST;
}
const ROWS = 4000;
/** Values on either side. */
const FLAGS_LEAST = 2;

/** Whether all rows in use have one and the same value, whatever was before. */
function isSameInUse(c: SheetColumn, { sure }: Sheet, { tables }: Context): boolean {
	const rows = sure.filter((row) => row.standing === 'kept').slice(0, ROWS);
	return rows.length >= SAME_LEAST && new Set(rows.map((row) => keyOf(cell(row, c, tables)))).size === 1;
}
const SAME_LEAST = 6;
/** Share of the messages below which what names a row of each tells nothing, however few they are. */
const HARDLY_ANY = 0.2;

/** Whether it is the same in all rows in use, and nothing says what it names: no more than a number that each row has. */
const isNumberOfEach = ({ value, key }: NonNullable<MessageReading['thread']>, sheet: Sheet, context: Context): boolean =>
	key !== null &&
	!isNamedAlike(value, key.sheet) &&
	!isDeclared({ from: value, key }, context.tables) &&
	isSameInUse(value, sheet, context);

/** What tells a message's thread: a key of threads, the table's name, a join, a number that recurs. A party that does is none. */
export function threadIn(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	best: ReadonlyMap<SheetColumn, Reference>,
	parties: Party[],
	personSheets: Set<Sheet>,
	context: Context
): Pick<MessageReading, 'thread' | 'threadJoin'> {
	let thread: MessageReading['thread'] = null;
	for (const [column, r] of best) {
		if (personSheets.has(r.key.sheet) || isOwnNumber(column, sheet, context.tables)) continue;
		// Nor are nought and one: whether a message has what the list holds.
		if (isYesOrNo(column)) continue;
		// Folders for what was sent and what was received are no conversations.
		if (sheet.columns.some((c) => c.made?.words && c.column === column.column)) continue;
		if (column.profile.distinct.size > sheet.sure.length * 0.8 && sheet.sure.length > 10) continue;
		// One row each for few of the messages: what those quote, or show.
		const { distinct, filled } = column.profile;
		const areFew = filled < sheet.sure.length * (filled >= FEW_NAMED ? 0.5 : HARDLY_ANY);
		if (areFew && distinct.size > filled * 0.8) continue;
		// As many rows as messages: another table of messages' own things.
		if (sheet.sure.length > 10 && r.key.values.size > sheet.sure.length * 0.8 && r.confidence < NAMED_THREAD) continue;
		if (r.confidence < NAMED_THREAD && column.profile.texts === 0 && !isNamedAlike(column, r.key.sheet)) {
			// Small numbers are keys of anything: a conversation's rows are written by one other, or the same few.
			if (column.profile.filled < sheet.sure.length * 0.5 || STATE_NAMED.test(column.name)) continue;
			if (r.inclusion < ALL_THREADS || isConstant(column, sheet) || !isOfFew(column, parties, sheet, context)) continue;
			if (areFilesOf(r.key.sheet, sheet, context)) continue;
		}
		// What is the same in all of them parts nothing, where something else does.
		const parts = Number(!isConstant(column, sheet)) - Number(thread !== null && !isConstant(thread.value, sheet));
		if (!thread || parts > 0 || (parts === 0 && isSurer(column, r, thread)))
			thread = {
				value: column,
				key: r.key,
				confidence: r.confidence,
				evidence: [`${Math.round(r.inclusion * 100)} % of its values name rows of ${r.key.sheet.name}`]
			};
	}
	if (thread) {
		const index = parties.findIndex((p) => p.value === thread!.value);
		if (index >= 0) parties.splice(index, 1);
	}
	const tableColumn = sheet.columns.find((c) => c.column === TABLE_NAME);
	const listed = (context.references.get(sheet) ?? []).find((r) => r.from.made?.ofTable);
	if (!thread && listed)
		thread = {
			value: listed.from,
			key: listed.key,
			confidence: 0.9,
			evidence: [`${listed.key.sheet.name} lists the tables, each of one thread`]
		};
	if (!thread && tableColumn && !mixedParties(sheet, parties[0]?.value ?? null, context))
		thread = { value: tableColumn, key: null, confidence: 0.8, evidence: ['each table holds one thread'] };
	const named = new Set(parties.flatMap((p) => (p.key ? [p.key.sheet] : [])));
	let threadJoin = thread ? null : findThreadJoin(sheet, context, personSheets, parties.length === 0, named);
	// A join that puts all messages into one conversation parts nothing.
	if (!thread && (threadJoin?.thread.profile.distinct.size ?? 0) <= 1) {
		thread = roomOfRest(sheet, used, parties, best, context);
		if (thread) threadJoin = null;
		const room = parties.findIndex((p) => p.value === thread?.value);
		if (room >= 0) parties.splice(room, 1);
	}
	if ((!thread && !threadJoin) || (thread && parties.length > 0 && isNumberOfEach(thread, sheet, context))) {
		const loose = sheet.columns.find(
			(c) =>
				!used.has(c) &&
				!parties.some((p) => p.value === c) &&
				c.column >= 0 &&
				!isSizeNamed(c) &&
				!KIND_NAMED.test(c.name) &&
				isThreadKey(c, sheet) &&
				!repeatsParty(c, parties, sheet, context) &&
				holdsTogether(c, parties, sheet, context) &&
				parties.every((p) => isOfFew(c, [p], sheet, context) && !tellsWhetherOne(c, p.value, sheet, context))
		);
		if (loose)
			thread = { value: loose, key: null, confidence: 0.5, evidence: ['its values recur over stretches of rows, as a thread number does'] };
	}
	return { thread, threadJoin };
}

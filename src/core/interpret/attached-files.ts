/**
 * Sheets of the files that messages came with, and how the two are joined: the files name their messages, or those the
 * files; a table lists pairs of both; the files are numbered as their messages are, or stand behind a message's parts.
 */
import type { Row } from '../model';
import { LIKELY_KEY } from './aside';
import { captionIn } from './captions';
import type { Context } from './context';
import { fileColumns, isSizeNamed } from './files';
import { messageKeyOf, toMessages } from './message-keys';
import type { AttachmentReading, MessageReading } from './reading';
import { isPartyOf } from './person-sheets';
import { isMeant, isNamedAlike, keyOf, type Key, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';

const SILENT_SAMPLED = 5000;
/** Share of the files whose parts must be known. */
const OF_PARTS = 0.6;

/** Files with what was written below them, which is no name of theirs. */
export function withCaption(files: AttachmentReading, context: Context): AttachmentReading {
	const caption = captionIn(files.sheet, files.of, files.link, context);
	const name = files.columns.name === caption ? null : files.columns.name;
	return caption ? { ...files, columns: { ...files.columns, name, caption } } : files;
}

/**
 * Where messages have their texts in parts of another table: the files of those parts that have no text, each named by its
 * part's number.
 */
function throughParts(files: Sheet, m: MessageReading, { references, tables }: Context): AttachmentReading['link'] | null {
	const { aside } = m.text.value;
	if (!aside?.key || aside.sheet === files) return null;
	const named = (references.get(files) ?? []).filter((r) => r.key.sheet === aside.sheet && r.confidence > LIKELY_KEY);
	for (const { from, key } of named) {
		const id = key.column ?? aside.sheet.columns.find((c) => isOwnNumber(c, aside.sheet, tables));
		if (!id) continue;
		const parts = aside.sheet.sure.filter((row) => row.standing === 'kept');
		const texts = new Map(parts.map((row) => [messageKeyOf(row, id, tables), cell(row, aside.text, tables)]));
		const said = files.sure.map((row) => texts.get(messageKeyOf(row, from, tables) ?? '')).filter((text) => text !== undefined);
		// Of a message that was deleted the part can be gone, and what said of its file be left.
		if (said.length < files.sure.length * OF_PARTS || said.some((text) => text !== null && text !== '')) continue;
		return { kind: 'join', join: aside.sheet, message: aside.key, messageKey: aside.own, file: id, fileKey: from };
	}
	return null;
}

export function attachmentsOf(sheet: Sheet, m: MessageReading, others: readonly Sheet[], context: Context): AttachmentReading | null {
	// A row's own number names no message, though messages have the same: but where it is called for them.
	const direct = toMessages(sheet, m, context).find(
		(r) => isMeant(r, sheet, context.tables) && !isSizeNamed(r.from) && !isCalledForAnother(r, sheet, context)
	);
	if (!direct?.from.references && belongToOthers(sheet, m, context)) return null;
	const own = sheet.columns.filter((c) => isOwnNumber(c, sheet, context.tables));
	const columns = fileColumns(sheet, context.tables, [direct?.from, ...own]);
	if (!columns) return null;
	const { aside } = m.text.value;
	if (aside?.sheet === sheet && aside.key)
		return { sheet, of: m, columns, link: { kind: 'direct', key: aside.key, messageKey: aside.own } };
	const parts = throughParts(sheet, m, context);
	if (parts) return { sheet, of: m, columns, link: parts };
	const number = takenNumber(sheet, m, context);
	const isOfMany =
		!direct || direct.from.profile.distinct.size * FEW_EACH <= direct.from.profile.filled || repeatsThread(sheet, direct.from, m, context);
	const taken = isOfMany ? number : null;
	const joined = isOfMany ? joinOf(sheet, m, others, context) : null;
	if (direct && !taken && !joined)
		return { sheet, of: m, columns, link: { kind: 'direct', key: direct.from, messageKey: direct.key.column } };
	const saysWho = [m.peer, m.sender, m.recipient, m.participant, m.thread].map((role) => role?.value);
	const back = (context.references.get(m.sheet) ?? []).find(
		(r) =>
			r.key.sheet === sheet && r.confidence > 0.4 && !saysWho.includes(r.from) && namesEach(r.from) && isMeant(r, m.sheet, context.tables)
	);
	if (back) return { sheet, of: m, columns, link: { kind: 'stated', from: back.from, key: back.key.column } };
	if (taken) return { sheet, of: m, columns, link: { kind: 'direct', key: taken, messageKey: null } };
	if (joined) return { sheet, of: m, columns, link: joined };
	const only = onlyNaming(sheet, m, columns, context);
	if (only) return { sheet, of: m, columns, link: { kind: 'direct', key: only.from, messageKey: only.key.column } };
	const silent = ofSilent(sheet, m, context);
	const rest = silent && fileColumns(sheet, context.tables, [silent.from, ...own]);
	return rest ? { sheet, of: m, columns: rest, link: { kind: 'direct', key: silent.from, messageKey: silent.key.column } } : null;
}

/** Files that a message has, at most on average, where a column names it. */
const FEW_EACH = 2;
const TAKEN_LEAST = 4;
/** How far apart numbers are that were not counted, on average; share of the messages in between that must be there. */
const APART = 3;
const BETWEEN = 0.5;

/** The number of rows that are numbered as the messages are to which they belong: a list that counts its own rows leaves out few. */
function takenNumber(sheet: Sheet, m: MessageReading, { tables, keys }: Context): SheetColumn | null {
	const own = sheet.columns.find((c) => isOwnNumber(c, sheet, tables));
	const messages = keys.find((k) => k.sheet === m.sheet && k.column === null)?.values;
	const numbers = sheet.rows.flatMap((row) => (row.standing === 'kept' && typeof row.rowid === 'number' ? [row.rowid] : []));
	if (!own || !messages || numbers.length < TAKEN_LEAST || sheet.family || m.sheet.family) return null;
	if (numbers.filter((n) => messages.has(n)).length < numbers.length * SILENT_NAMED) return null;
	const [first, last] = numbers.reduce(([low, high], n) => [Math.min(low, n), Math.max(high, n)], [Infinity, -Infinity]) as [
		number,
		number
	];
	const span = last - first + 1;
	const between = [...messages].filter((n) => typeof n === 'number' && n >= first && n <= last).length;
	return span >= numbers.length * APART && between >= span * BETWEEN ? own : null;
}

/** Whether a column says again in which conversation the message is whose number the row has. */
function repeatsThread(sheet: Sheet, column: SheetColumn, m: MessageReading, { tables }: Context): boolean {
	if (!m.thread || m.thread.value.column < 0) return false;
	const threads = new Map(m.sheet.rows.map((row) => [messageKeyOf(row, null, tables), keyOf(cell(row, m.thread!.value, tables))]));
	const rows = sheet.rows.filter((row) => row.standing === 'kept');
	return rows.every((row) => threads.get(messageKeyOf(row, null, tables)) === keyOf(cell(row, column, tables)));
}

/**
 * Files of messages that stand in several tables, received ones and sent ones, whose numbers go through all of them: a
 * column that names a message for (nearly) each file, each in one of the tables.
 */
export function filesOfSeveral(sheet: Sheet, messages: readonly MessageReading[], { tables, keys }: Context): AttachmentReading[] {
	if (messages.length < 2) return [];
	const own = sheet.columns.filter((c) => isOwnNumber(c, sheet, tables));
	for (const from of sheet.columns.filter((c) => !own.includes(c) && !c.profile.time && c.profile.reals === 0)) {
		const values = [...from.profile.distinct.keys()];
		const columns = values.length >= SHARED_LEAST ? fileColumns(sheet, tables, [from, ...own]) : null;
		if (!columns) continue;
		const named = messages.map((m) => {
			const counted = keys.filter((k) => k.sheet === m.sheet).map((key) => ({ key, of: new Set(values.filter((v) => key.values.has(v))) }));
			return {
				m,
				...counted.reduce((best, k) => (k.of.size > best.of.size ? k : best), { key: null as Key | null, of: new Set<string | number>() })
			};
		});
		const once = values.filter((v) => named.filter(({ of }) => of.has(v)).length === 1).length;
		if (once < values.length * SILENT_NAMED || named.filter(({ of }) => of.size > values.length * SOME).length < 2) continue;
		return named.flatMap(({ m, key, of }) =>
			key && of.size > 0 ? [{ sheet, of: m, columns, link: { kind: 'direct', key: from, messageKey: key.column } }] : []
		);
	}
	return [];
}
const SHARED_LEAST = 4;
const SOME = 0.05;

/** Whether a column is called for another sheet's rows, and names those more surely. */
const isCalledForAnother = (r: Reference, sheet: Sheet, { references }: Context): boolean =>
	!isNamedAlike(r.from, r.key.sheet) &&
	(references.get(sheet) ?? []).some(
		(o) => o.from === r.from && o.key.sheet !== r.key.sheet && o.confidence > r.confidence && isNamedAlike(o.from, o.key.sheet)
	);

/**
 * Whether files are of the rows of another table with a time: one of their columns has just its numbers, each of them, and of
 * the messages' few.
 */
function belongToOthers(files: Sheet, m: MessageReading, { references, tables }: Context): boolean {
	const refs = references.get(files) ?? [];
	const hasTime = ({ columns }: Sheet): boolean => columns.some((c) => c.profile.time && c.column >= 0);
	const ofOthers = refs.find(
		({ from, key, inclusion, coverage }) =>
			key.sheet !== m.sheet &&
			key.column === null &&
			key.values.size >= OTHERS_LEAST &&
			inclusion === 1 &&
			coverage === 1 &&
			!isOwnNumber(from, files, tables) &&
			hasTime(key.sheet) &&
			!isPartyOf(key.sheet, m) &&
			m.thread?.key?.sheet !== key.sheet
	);
	if (!ofOthers || isNamedAlike(ofOthers.from, m.sheet)) return false;
	const here = refs.filter((r) => r.key.sheet === m.sheet && r.from.column === ofOthers.from.column);
	return here.length > 0 && here.every((r) => r.coverage < FEW_OF_THEM && !isNamedAlike(r.from, m.sheet));
}
const OTHERS_LEAST = 4;
const FEW_OF_THEM = 0.5;

/** Whether each value stands in one row, or in few: a file belongs to a message or two, where a thread has many. A row is counted once. */
function namesFew(join: Sheet, column: SheetColumn, { tables }: Context): boolean {
	const columns = join.columns.filter((c) => c.column >= 0);
	const rows = new Set(join.sure.map((row) => columns.map((c) => keyOf(cell(row, c, tables))).join('|')));
	return column.profile.distinct.size > rows.size * 0.5;
}

/** A column of a list of its own that joins two tables needs to be less sure than one among others. */
const hasTwo = (join: Sheet, { tables }: Context): boolean =>
	join.columns.filter((c) => c.column >= 0 && !isOwnNumber(c, join, tables)).length <= 2;
const AS_SURE = 0.1;
const NAMES_FILES = 0.7;

/** The sheet whose rows join files and messages; of several the one whose keys are surest. */
function joinOf(files: Sheet, m: MessageReading, others: readonly Sheet[], context: Context): AttachmentReading['link'] | null {
	let best: { sure: number; link: AttachmentReading['link'] } | null = null;
	for (const join of others) {
		if (join === files || join.columns.length > 5) continue;
		const all = context.references.get(join) ?? [];
		// The surest of each column stands first: what it names less surely it names by chance.
		const isLikely = (r: Reference): boolean =>
			isMeant(r, join, context.tables) && r.confidence >= all.find((x) => x.from === r.from)!.confidence - AS_SURE;
		const isFile = (r: Reference): boolean => r.confidence >= NAMES_FILES || isNamedAlike(r.from, files) || hasTwo(join, context);
		const toFile = all.find((r) => r.key.sheet === files && isLikely(r) && isFile(r) && namesFew(join, r.from, context));
		const toMessage = toMessages(join, m, context).find((r) => r.from !== toFile?.from && isLikely(r));
		if (!toMessage || !toFile) continue;
		const sure = toFile.confidence + toMessage.confidence;
		const [message, messageKey, file, fileKey] = [toMessage.from, toMessage.key.column, toFile.from, toFile.key.column];
		if (!best || sure > best.sure) best = { sure, link: { kind: 'join', join, message, messageKey, file, fileKey } };
	}
	return best?.link ?? null;
}

/** Whether a column's numbers are mostly of one row each: a state that many have is no file of theirs. */
const namesEach = ({ profile: p }: SheetColumn): boolean => p.texts > 0 || p.blobs > 0 || p.many || p.distinct.size > p.filled * 0.3;

/** Files of a few messages: the one number among theirs that says nothing of a file, and names messages in most rows. */
function onlyNaming(
	sheet: Sheet,
	m: MessageReading,
	columns: AttachmentReading['columns'],
	{ tables, keys }: Context
): Pick<Reference, 'from' | 'key'> | null {
	const said = new Set(Object.values(columns));
	const [from, more] = sheet.columns.filter(
		(c) => !said.has(c) && c.column >= 0 && !c.profile.time && c.profile.ints > 0 && !isOwnNumber(c, sheet, tables)
	);
	const key = keys.find((k) => k.sheet === m.sheet && k.column === null);
	if (!from || more || !key || from.profile.filled < sheet.sure.length) return null;
	const named = sheet.sure.filter((row) => key.values.has(keyOf(cell(row, from, tables)) ?? '')).length;
	// Running numbers are counted, and name nothing.
	return named >= sheet.sure.length * MOSTLY_NAMED && from.profile.high > sheet.rows.length * 2 ? { from, key } : null;
}
const MOSTLY_NAMED = 0.5;

const SILENT_LEAST = 5;
const SILENT_NAMED = 0.95;
/** Of messages with a text most have no file. */
const OTHERS_NAMED = 0.6;

/**
 * The column that names (nearly) all messages without a text, and few of the others: where many messages are gone, and
 * what belonged to them was left behind, its numbers alone would not tell.
 */
function ofSilent(sheet: Sheet, m: MessageReading, { tables, keys }: Context): Pick<Reference, 'from' | 'key'> | null {
	const rows = m.sheet.sure.slice(0, SILENT_SAMPLED);
	const isEmpty = (row: Row): boolean => {
		const text = cell(row, m.text.value, tables);
		return text === null || text === '';
	};
	const silent = rows.filter(isEmpty);
	if (silent.length < SILENT_LEAST || silent.length === rows.length) return null;
	for (const key of keys.filter((k) => k.sheet === m.sheet))
		for (const from of sheet.columns.filter((c) => c.column >= 0 && !isOwnNumber(c, sheet, tables) && !c.profile.time)) {
			const named = new Set(sheet.rows.map((row) => messageKeyOf(row, from, tables)).filter((k) => k !== null));
			const share = (among: readonly Row[]): number =>
				among.filter((row) => named.has(messageKeyOf(row, key.column, tables) ?? '')).length / among.length;
			if (share(silent) >= SILENT_NAMED && share(rows.filter((row) => !isEmpty(row))) <= OTHERS_NAMED) return { from, key };
		}
	return null;
}

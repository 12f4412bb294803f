/**
 * Sheets that belong to messages without being messages: copies of their texts (a text index), histories of their
 * wordings, receipts and reactions, attachments; and the column by which a message answers another. Found by keys that
 * name messages, whatever they are called.
 */
import type { Row, Table } from '../model';
import type { Aside } from './aside';
import type { AttachedReading, AttachmentReading, BinReading, CopyReading, MessageReading } from './reading';
import { captionIn } from './captions';
import { isPath } from './files';
import { DELETED_NAMED } from './deleted-flag';
import { cutAtOf, isCalledHistory, isHistory } from './histories';
import { attachmentsOf, filesOfSeveral, withCaption } from './attached-files';
import { messageKeyOf, namesIn, textsOf, timesOf, toMessages } from './message-keys';
import { isMeant, isNamedAlike, keyOf, type Reference } from './refs';
import { bestText, bestTime, textScore } from './columns';
import type { Context } from './context';
import { readAsRepeated, repeatsAtOnce } from './repeated';
import { areOneTable, cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';

const SAMPLED = 500;
/** Texts shorter than this on average are signs, not wordings. */
const LETTERS = 5;
/** Share of the texts that the messages named have too, from which on they are wordings of those. */
const SAME = 0.3;
/** Numbers alone are keys into anything: texts that differ from those of the messages named need a surer key. */
const NAMES_MESSAGES = 0.7;

export interface Companions {
	copies: CopyReading[];
	attached: AttachedReading[];
	attachments: AttachmentReading[];
	bins: BinReading[];
}

/** Reads the sheets in `others`, which have no other role. */
export function findCompanions(others: readonly Sheet[], messages: readonly MessageReading[], context: Context): Companions {
	const found: Companions = { copies: [], attached: [], attachments: [], bins: [] };
	for (const sheet of others) {
		const nearest = surestFirst(sheet, messages, context);
		const aside = messages.find((m) => m.text.value.aside?.sheet === sheet);
		if (aside) found.copies.push({ ...asideCopy(aside, aside.text.value.aside!), titles: titlesIn(sheet, context) });
		const copy = aside ? undefined : nearest.map((m) => repeatedOf(sheet, m, context) ?? copyOf(sheet, m, context)).find((c) => c !== null);
		if (copy) {
			found.copies.push(copy);
			continue;
		}
		const bin = nearest.map((m) => binOf(sheet, m, context)).find((b) => b !== null);
		if (bin) {
			found.bins.push(bin);
			continue;
		}
		const shared = filesOfSeveral(sheet, nearest, context);
		if (shared.length > 0) {
			found.attachments.push(...shared);
			continue;
		}
		const files = nearest.map((m) => attachmentsOf(sheet, m, others, context)).find((a) => a !== null);
		if (files) {
			found.attachments.push(withCaption(files, context));
			continue;
		}
		const attached = aside ? null : nearest.map((m) => attachedTo(sheet, m, context)).find((a) => a !== null);
		if (attached) found.attached.push(attached);
	}
	return found;
}

/** The sheets of messages, that first whose rows are named most surely: of several, each has rows numbered alike. */
function surestFirst(sheet: Sheet, messages: readonly MessageReading[], { references, tables }: Context): MessageReading[] {
	const refs = (references.get(sheet) ?? []).filter((r) => isMeant(r, sheet, tables));
	const sure = (m: MessageReading): number => refs.find((r) => r.key.sheet === m.sheet)?.confidence ?? 0;
	return [...messages].sort((a, b) => sure(b) - sure(a));
}

const asideCopy = (of: MessageReading, { sheet, text, own, key }: Aside): CopyReading => ({
	sheet,
	of,
	text,
	key,
	messageKey: own,
	kind: 'aside',
	time: null
});

/** Texts of a table that another table's column, called for a title or a name, names by their numbers: nobody wrote those to anybody. */
function titlesIn(texts: Sheet, { sheets, keys, tables }: Context): Set<string> {
	const numbers = keys.find((k) => k.sheet === texts && k.column === null)?.values ?? new Set<string | number>();
	const isTitle = (c: SheetColumn, sheet: Sheet): boolean =>
		TITLE_NAMED.test(c.name) &&
		c.profile.ints > 0 &&
		c.profile.ints === c.profile.filled &&
		!isOwnNumber(c, sheet, tables) &&
		[...c.profile.distinct.keys()].every((v) => numbers.has(v));
	const titles = sheets.flatMap((sheet) => (sheet === texts ? [] : sheet.columns.filter((c) => isTitle(c, sheet))));
	return new Set(titles.flatMap((c) => [...c.profile.distinct.keys()].map(String)));
}
const TITLE_NAMED = /title|name|subject|topic|label|titel|betreff|thema|titre|nom|asunto|oggetto|onderwerp/i;

/** Names of persons, some more than once: who did something to messages, and no wordings of them. */
const namesComeBack = ({ profile: p }: SheetColumn): boolean =>
	p.name > 0.8 && !p.many && p.distinct.size < p.texts && p.averageLength < NAME_LENGTH;
const NAME_LENGTH = 40;

/** A sheet that repeats messages with their time, by the key of theirs that it has too, or by what they say. */
function repeatedOf(sheet: Sheet, m: MessageReading, context: Context): CopyReading | null {
	const [text, time] = [bestText(sheet)?.value, bestTime(sheet, context.tables)];
	if (!text || !time || !m.time) return null;
	const messages = { sheet: m.sheet, text: m.text.value, time: m.time };
	if (!repeatsAtOnce({ sheet, text, time }, messages, context)) return null;
	const asMessages = readAsRepeated(sheet, text, time, m);
	// Each try to send one names it, at whatever time that was.
	const named = toMessages(sheet, m, context).find((r) => r.from !== text && saysTheSame(r, sheet, text, m, context));
	const [key, messageKey] = named ? [named.from, named.key.column] : [asMessages.guid, asMessages.guid && m.guid];
	return { sheet, of: m, text, key, messageKey, kind: 'text-index', time, asMessages };
}

/** Whether nearly all rows that name a message known have its text. */
function saysTheSame({ from, key }: Reference, sheet: Sheet, text: SheetColumn, m: MessageReading, { tables }: Context): boolean {
	const rows = sheet.sure.slice(0, SAMPLED);
	const texts = textsOf(m, key.column, tables);
	const known = rows
		.map((row) => [messageKeyOf(row, from, tables), cell(row, text, tables)] as const)
		.filter(([name]) => name !== null && texts.has(name));
	return known.length >= NAMED_LEAST && known.filter(([name, said]) => texts.get(name!) === said).length >= known.length * SAME_TEXT;
}
const NAMED_LEAST = 3;
const SAME_TEXT = 0.8;

/** What a sheet's rows said of messages before, where their table keeps that beside what counts. */
function earlierOf(sheet: Sheet, m: MessageReading): CopyReading | null {
	const { value } = m.text;
	const text = sheet.columns.find((c) => c.column === value.column && c.path.join('.') === value.path.join('.') && !c.made === !value.made);
	if (sheet.earlierOf?.sheet !== m.sheet || !text) return null;
	const { from, key } = sheet.earlierOf;
	return { sheet, of: m, text, key: from, messageKey: key, kind: 'history', time: null };
}

/** Whether a column says in each row what another says, behind a sign that it was changed. */
function isMarked(column: SheetColumn, of: SheetColumn, rows: readonly Row[], tables: readonly Table[]): boolean {
	const pairs = rows.map((row) => [cell(row, column, tables), cell(row, of, tables)]);
	return pairs.every(
		([a, b]) =>
			typeof a === 'string' && typeof b === 'string' && b !== '' && a.length > b.length && a.length <= b.length + MARK && a.endsWith(b)
	);
}
const MARK = 4;

function copyOf(sheet: Sheet, m: MessageReading, context: Context): CopyReading | null {
	const { tables } = context;
	const earlier = earlierOf(sheet, m);
	if (earlier) return earlier;
	const one = areOneTable(sheet, m.sheet);
	const writing = sheet.columns
		.filter((c) => !one || c.column === m.text.value.column)
		.map((column) => ({ column, score: textScore(column, sheet.sure.length).score }))
		.filter(
			(c) =>
				(c.score > 0.6 || (sheet.about !== undefined && c.score > 0)) &&
				c.column.profile.averageLength > LETTERS &&
				!isPath(c.column) &&
				!namesComeBack(c.column)
		)
		.sort((a, b) => b.score - a.score);
	if (writing.length === 0 || sheet.family || m.sheet.family) return null;
	const rows = sheet.sure.slice(0, SAMPLED);
	writing.sort((a, b) => Number(isMarked(a.column, b.column, rows, tables)) - Number(isMarked(b.column, a.column, rows, tables)));
	const share = (column: SheetColumn, from: SheetColumn | null, key: SheetColumn | null): { known: number; same: number } => {
		const texts = textsOf(m, key, tables);
		let [known, same, silent] = [0, 0, 0];
		for (const row of rows) {
			const k = messageKeyOf(row, from, tables);
			const text = cell(row, column, tables);
			if (text === null || text === '') silent++;
			else if (k !== null && texts.has(k)) {
				known++;
				if (texts.get(k) === text) same++;
			}
		}
		return { known: known / Math.max(1, rows.length - silent), same: known === 0 ? 0 : same / known };
	};
	const time = sheet.columns.find((c) => c.profile.time && c.profile.filled > sheet.sure.length * 0.5);
	const made = (text: SheetColumn, key: SheetColumn | null, messageKey: SheetColumn | null, kind: CopyReading['kind']): CopyReading => ({
		sheet,
		of: m,
		text,
		key,
		messageKey,
		kind,
		time: time ? { value: time, reading: time.profile.time! } : null
	});
	for (const { column } of writing) {
		const byNumber = share(column, null, null);
		if (byNumber.known > 0.5 && byNumber.same > 0.6) return made(column, null, null, 'text-index');
		// Of a sheet called for it a few rows say enough.
		const named = isCalledHistory(sheet.name);
		const all = namesIn(sheet, context);
		for (const r of named ? all.filter((ref) => ref.key.sheet === m.sheet) : toMessages(sheet, m, context)) {
			if (r.from === column || captionIn(sheet, m, { kind: 'direct', key: r.from, messageKey: r.key.column }, context) === column) continue;
			const least = isOwnNumber(r.from, sheet, tables) ? 1 : NAMES_MESSAGES;
			const { known, same } = share(column, r.from, r.key.column);
			if (known < 0.5) continue;
			const told = named || r.from === sheet.about || standNearInTime(rows, time, r, m, tables);
			if (same < SAME && r.confidence <= least && !(told && !isOwnNumber(r.from, sheet, tables))) continue;
			const isIndex = same > 0.6 && r.from.profile.unique;
			const cutAt = one || named || isCalledHistory(column.name) ? null : cutAtOf(sheet, column, r, m, tables, isIndex ? 1 : CUT_LEAST);
			if (cutAt !== null) return { ...made(column, r.from, r.key.column, 'preview'), cutAt };
			if (isIndex) return made(column, r.from, r.key.column, 'text-index');
			if (!one && same < SAME && !isHistory(sheet, column, r, m, context)) continue;
			// Rows of the messages' own table come after them: what they say is newer.
			return made(column, r.from, r.key.column, one ? 'revision' : 'history');
		}
	}
	return null;
}

/** Texts that are cut, from which it shows where, of a list that is not all of whole ones besides. */
const CUT_LEAST = 2;

/** Of so much of the time that lies between rows and messages in another order: what belongs to a message is made soon after it. */
const NEAR = 0.2;
const TIMES_COMPARED = 4;

/** Whether the times of these rows are near those of the messages they name, and far from those of the others. */
function standNearInTime(
	rows: readonly Row[],
	time: SheetColumn | undefined,
	r: Reference,
	m: MessageReading,
	tables: readonly Table[]
): boolean {
	if (!time || !m.time) return false;
	const sent = timesOf(m, r.key.column, tables);
	const pairs = rows.flatMap((row) => {
		const at = timeOf(cell(row, time, tables), time.profile.time!);
		const of = sent.get(messageKeyOf(row, r.from, tables) ?? '');
		return at === null || of === undefined ? [] : [{ at, of }];
	});
	if (pairs.length < TIMES_COMPARED) return false;
	const apart = (shift: number): number =>
		pairs.reduce((sum, { at }, i) => sum + Math.abs(at - pairs[(i + shift) % pairs.length]!.of), 0) / pairs.length;
	return apart(0) < apart(Math.floor(pairs.length / 2)) * NEAR;
}

const BIN_COLUMNS = 4;
const FEWEST_BINNED = 3;
/** Share of the list that must be messages known: what was in the bin is emptied out of it. */
const BINNED_KNOWN = 0.5;

/**
 * A sheet that is called for deletion and names messages, each once: those are in the store's bin. Numbers are keys of
 * anything: where no name says whose, none may have been deleted before it was sent.
 */
function binOf(sheet: Sheet, m: MessageReading, context: Context): BinReading | null {
	const { tables } = context;
	const isCalled = [sheet.name, ...sheet.columns.map((c) => c.name)].some((name) => DELETED_NAMED.test(name));
	if (!isCalled && !m.threadJoin) return null;
	if (sheet.family || m.sheet.family) return null;
	if (!areOneTable(sheet, m.sheet) && sheet.columns.filter((c) => c.column >= 0).length > BIN_COLUMNS) return null;
	const time = sheet.columns.find((c) => c.profile.time && c.profile.filled > sheet.sure.length * 0.5);
	for (const r of namesIn(sheet, context).filter((ref) => ref.key.sheet === m.sheet && ref.inclusion > BINNED_KNOWN)) {
		if (!namesEachOnce(r.from) || r.from.profile.time) continue;
		if (!isCalled && !leftOut(sheet, r, m, context)) continue;
		const made: BinReading = {
			sheet,
			of: m,
			key: r.from,
			messageKey: r.key.column,
			thread: threadOfBin(sheet, r.from, m, context),
			time: time ? { value: time, reading: time.profile.time! } : null
		};
		if (r.from === sheet.about || isNamedAlike(r.from, m.sheet) || (r.from.profile.texts > 0 && r.from.profile.averageLength > LETTERS))
			return made;
		if (!time || !m.time) continue;
		const sent = timesOf(m, r.key.column, tables);
		const pairs = sheet.sure.flatMap((row) => {
			const at = timeOf(cell(row, time, tables), time.profile.time!);
			const of = sent.get(messageKeyOf(row, r.from, tables) ?? '');
			return at === null || of === undefined ? [] : [at - of];
		});
		if (pairs.length >= (isCalled ? FEWEST_BINNED : 1) && pairs.every((later) => later >= 0)) return made;
	}
	return null;
}

/** Share of a bin's rows that must name one. */
const NAMES_TALKS = 0.95;

/** The column of a bin that names the conversations which a join gives the other messages. */
function threadOfBin(sheet: Sheet, key: SheetColumn, { threadJoin }: MessageReading, { references }: Context): SheetColumn | null {
	const list = threadJoin?.threadKey;
	const talks = (references.get(sheet) ?? []).filter((r) => list && r.from !== key && r.key === list && r.inclusion >= NAMES_TALKS);
	return (talks.find((r) => r.from.name === threadJoin!.thread.name) ?? talks[0])?.from ?? null;
}

/** Whether the messages that a list names are those, and all of those, that are in no conversation any more. */
function leftOut(sheet: Sheet, r: Reference, m: MessageReading, { tables, harvests }: Context): boolean {
	const join = m.threadJoin!;
	if (join.sheet === sheet || join.messageKey.column !== r.key.column) return false;
	// In an older capture those in the bin now were in a conversation: each is judged by itself.
	const [store, ...captures] = harvests ?? [];
	const tablesOf = [sheet, join.sheet, m.sheet].flatMap((s) => s.tables);
	if (!store) return false;
	const own = captures.length > 0 ? new Set(tablesOf.flatMap((t) => store.book.rowsOf(t))) : null;
	const isKept = (row: Row): boolean => row.standing === 'kept' && (own === null || own.has(row));
	const namedIn = (of: Sheet, column: SheetColumn): Set<string | null> =>
		new Set(of.rows.filter(isKept).map((row) => messageKeyOf(row, column, tables)));
	const [joined, listed] = [namedIn(join.sheet, join.message), namedIn(sheet, r.from)];
	const messages = m.sheet.rows.filter(isKept).map((row) => messageKeyOf(row, r.key.column, tables));
	return listed.size > 0 && messages.every((key) => joined.has(key) !== listed.has(key));
}

/** Whether a column names each row once; of events that surely name rows a few can come twice. */
const namesEachOnce = ({ profile: p, references }: SheetColumn): boolean =>
	p.unique || (references !== undefined && p.distinct.size >= p.filled * NEARLY_EACH);
const NEARLY_EACH = 0.9;

function attachedTo(sheet: Sheet, m: MessageReading, context: Context): AttachedReading | null {
	if (sheet === m.threadJoin?.sheet) return null;
	const link = toMessages(sheet, m, context).find((r) => isMeant(r, sheet, context.tables) && !isCalledForOther(r, context));
	if (!link) return null;
	const rest = sheet.columns.filter((c) => c !== link.from && c.column >= 0 && !isOwnNumber(c, sheet, context.tables));
	if (rest.some(isTextOfItsOwn) || onlyFinds(link.from, rest, context.tables[sheet.tables[0]!]!)) return null;
	const who = (context.references.get(sheet) ?? []).find((r) => r.from !== link.from && r.key.sheet !== m.sheet && r.confidence > 0.4);
	const address = rest.find((c) => c.profile.phone > 0.4 || c.profile.email > 0.4);
	const time = rest.find((c) => c.profile.time);
	const what = rest.find(
		(c) =>
			c !== who?.from &&
			c !== address &&
			!c.profile.time &&
			c.profile.texts > c.profile.filled * 0.8 &&
			c.profile.averageLength < 40 &&
			c.profile.uuid < 0.5
	);
	if (!time && !what) return null;
	return {
		sheet,
		of: m,
		key: link.from,
		messageKey: link.key.column,
		what: what ?? null,
		who: who ? { value: who.from, key: who.key } : address ? { value: address, key: null } : null,
		time: time ? { value: time, reading: time.profile.time! } : null
	};
}

/** Whether rows say no more than under which key a message is found: an index that a program keeps. */
const onlyFinds = (from: SheetColumn, rest: readonly SheetColumn[], { primaryKey }: Table): boolean =>
	!primaryKey.includes(from.column) && rest.every((c) => primaryKey.includes(c.column));

/** Whether a column that may name messages is called for what another sheet lists. */
const isCalledForOther = ({ from, key }: Reference, { sheets }: Context): boolean =>
	!isNamedAlike(from, key.sheet) && sheets.some((s) => s !== key.sheet && isNamedAlike(from, s));

/** Whether a list says in sentences, or by an address of the web, more of a message than what was done: a translation, a preview, a note. */
const isTextOfItsOwn = ({ profile: p }: SheetColumn): boolean =>
	p.texts > p.filled * 0.8 && ((p.prose > 0.5 && (p.averageLength > LONGEST_DEED || areOfOneEach(p))) || p.path > 0.5);
const LONGEST_DEED = 20;

/** Whether hardly any value comes again: what is done to messages is done to several. */
const areOfOneEach = (p: SheetColumn['profile']): boolean => p.many || (p.distinct.size > DEEDS && p.distinct.size > p.filled * 0.8);
const DEEDS = 20;

const ANSWER_HINT = /repl|quot|answer|parent|in_?resp|origin|assoc|refers?_?to|thread_orig/i;

/** The column in which a message names another of its own sheet: the one it answers. */
export function findReply(m: MessageReading, tables: readonly Table[]): MessageReading['replyTo'] {
	const { sheet } = m;
	if (sheet.family) return null;
	const taken = [m.text.value, m.time?.value, m.peer?.value, m.sender?.value, m.recipient?.value, m.thread?.value, m.guid];
	for (const column of sheet.columns) {
		const p = column.profile;
		if (taken.includes(column) || column.column < 0 || p.time || p.filled === 0 || p.filled > sheet.sure.length * 0.7) continue;
		if (isOwnNumber(column, sheet, tables)) continue;
		const named = ANSWER_HINT.test(column.name);
		for (const key of [m.guid, null]) {
			if (key === column || (key === null && p.texts > 0)) continue;
			// Small numbers are keys into anything: they count only where the name says so too.
			if (key === null && !named) continue;
			const known = textsOf(m, key, tables);
			const rows = sheet.sure.filter((r) => keyOf(cell(r, column, tables)) !== null).slice(0, SAMPLED);
			const hits = rows.filter((r) => known.has(String(keyOf(cell(r, column, tables))))).length;
			if (rows.length > 0 && hits >= rows.length * (named ? 0.3 : 0.6)) return { column, key };
		}
	}
	return null;
}

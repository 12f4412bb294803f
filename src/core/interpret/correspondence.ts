/**
 * Whether rows with a text and a time are messages at all: what somebody wrote to somebody. Notes, articles, appointments,
 * searches and a program's log have texts and times as well. It is told by whom the rows name, by what says sent or
 * received, by conversations that they name, and by what the store itself calls its tables and columns; names that say
 * nothing (single letters, digests) count for nothing either way.
 */
import { FILE_COLUMN } from '../harvest';
import { isLevel, speaks, speaksOfMessages, speaksOfOthers, speaksOfParties, speaksOfSomebody } from '../kind-words';
import { addressShare, areFullNames, isHandleLike, TABLE_NAME } from './columns';
import type { Context } from './context';
import { BY_FLAG_NAME, BY_WAY_WORDS } from './flag-rule';
import { isNameLike } from './parties';
import type { MessageReading, PersonReading } from './reading';
import { isOwnNumber, type Sheet, type SheetColumn } from './sheet';

/** Points from which on rows are messages. */
const ENOUGH = 1.4;

/** Whether what speaks for messages in a sheet is enough; and in plain words what speaks against them. */
export interface Weighed {
	isCorrespondence: boolean;
	against: string[];
}

export function weighCorrespondence(m: MessageReading, persons: readonly PersonReading[], context: Context): Weighed {
	const against: string[] = [];
	const say = (n: number, why: string): void => {
		points -= n;
		against.push(why);
	};
	// Of what people export most is conversations: something must speak against it.
	let points = (isExport(m.sheet) ? EXPORTED : 0) + partyPoints(m, persons, context) + wayPoints(m) + threadPoints(m);
	if (m.sheet.columns.some(areLevels)) say(3, 'its rows have levels, as those of a log have');
	if (m.sheet.columns.some(areWebAddresses)) say(2, 'each has an address of the web');
	if (m.sheet.columns.some((c) => isHeading(c, m))) say(1, 'each text has a heading');
	const named = !isExport(m.sheet) && isNameless(m, context) ? NAMELESS : namedPoints(m);
	if (named < 0) say(-named, 'its names speak of something else');
	else points += named;
	return { isCorrespondence: points >= ENOUGH, against };
}

/** Whom its rows name: numbers and addresses, persons, names, or what may be somebody's handle. */
function partyPoints(m: MessageReading, persons: readonly PersonReading[], context: Context): number {
	const parties = [m.peer, m.sender, m.recipient, m.participant, m.thread].filter((p) => p !== null);
	if (parties.some((p) => isAddressed(p, persons, m))) return 3;
	if (parties.some((p) => p.key && leadsToPersons(p.key.sheet, persons, context))) return 2;
	const again = parties.filter((p) => recurs(p.value));
	return again.some((p) => isNameLike(p.value, m.sheet)) ? 1.5 : again.some((p) => isHandleLike(p.value)) ? 0.5 : 0;
}

/** Whether its rows belong to conversations, listed or each a table of several alike. */
function threadPoints({ sheet, thread, threadJoin }: MessageReading): number {
	const isOfTables = sheet.columns.some((c) => c.column === TABLE_NAME) && thread?.value.column === TABLE_NAME;
	const isKeyed = threadJoin !== null || ((thread?.key ?? null) !== null && thread!.confidence >= KEYED);
	return Number(isOfTables) + Number(isKeyed);
}

const EXPORTED = 2;
const isExport = (sheet: Sheet): boolean => sheet.columns.some((c) => c.name === FILE_COLUMN);
const KEYED = 0.7;
const NAMELESS = 1.5;

/** Whether a column names numbers or addresses, or persons who have some. A number that never comes again is a row's own. */
function isAddressed({ value, key }: NonNullable<MessageReading['peer']>, persons: readonly PersonReading[], m: MessageReading): boolean {
	if (addressShare(value) > 0.4 && recurs(value)) return true;
	if (key)
		return persons.some((p) => p.sheet === key.sheet && (p.addresses.some((c) => addressShare(c) > 0.4) || (p.lists?.length ?? 0) > 0));
	return addressShare(value) > 0.4 && (value.profile.email > 0.4 || m.sheet.sure.length < FEW_ROWS);
}
const FEW_ROWS = 4;

/** Whether a column says how grave what happened is. */
const areLevels = ({ profile: p }: SheetColumn): boolean =>
	p.texts > FEW_ROWS && p.distinct.size > 1 && !p.many && [...p.distinct.keys()].every((v) => isLevel(String(v)));

/** Whether each row has an address of the web of its own. */
const areWebAddresses = ({ profile: p }: SheetColumn): boolean =>
	p.path > 0.8 && p.texts > FEW_ROWS && [...p.distinct.keys()].every((v) => /^https?:/i.test(String(v)));

/** Whether a column has some words of its own for each row, shorter than the text: what the text is called. */
function isHeading(c: SheetColumn, { sheet, text }: MessageReading): boolean {
	const p = c.profile;
	if (c === text.value || c.column < 0 || p.time || p.texts < sheet.sure.length * 0.8 || p.distinct.size < p.texts * 0.8) return false;
	const isOfWords = p.token < 0.5 && p.uuid + p.path + p.mime + p.json + addressShare(c) < 0.3;
	return isOfWords && p.averageLength < HEADING_LONGEST && p.averageLength * 2 < text.value.profile.averageLength;
}
const HEADING_LONGEST = 60;

const recurs = ({ profile: p }: SheetColumn): boolean => !p.many && p.distinct.size <= Math.max(2, p.filled * 0.8);

function wayPoints({ direction: { value, confidence, evidence }, thread, threadJoin, recipient, sender }: MessageReading): number {
	if (value.kind === 'unknown') return 0;
	if (value.kind === 'sheet' || value.kind === 'table') return confidence > 0.8 ? 3 : 1.5;
	if (evidence.some((why) => why === BY_FLAG_NAME || why === BY_WAY_WORDS)) return 3;
	if (value.kind === 'sign') return 1;
	const isKeyed = threadJoin !== null || (thread?.key ?? null) !== null;
	if (value.kind === 'sender') return confidence >= SURELY ? 2.5 : (sender && recipient) || isKeyed ? 2 : 0.5;
	if (value.kind === 'sender-empty') return isKeyed ? 1.5 : 0.5;
	if (value.kind === 'flag' && WAY_NAMED.test(value.column.name)) return 1.5;
	return confidence > 0.7 ? 0.5 : 0;
}
const SURELY = 0.9;
const WAY_NAMED = /dir(?!ectory|ty)|richtung|way|side|flow|box/i;

/** Whether rows are persons called by full names, or each belongs to one: a conversation with somebody. */
function leadsToPersons(sheet: Sheet, persons: readonly PersonReading[], { references }: Context): boolean {
	const areNamed = (one: Sheet): boolean => persons.some((p) => p.sheet === one && p.names.some(areFullNames));
	return areNamed(sheet) || (references.get(sheet) ?? []).some((r) => r.confidence > 0.5 && r.key.sheet !== sheet && areNamed(r.key.sheet));
}

/** What its table and columns are called, those of its conversations included. */
function namedPoints({ sheet, text, thread, threadJoin }: MessageReading): number {
	const joined = [thread?.key?.sheet.name, threadJoin?.sheet.name].filter((n) => n !== undefined);
	const stored = sheet.columns.filter((c) => c.column !== TABLE_NAME && c.name !== FILE_COLUMN && !c.name.startsWith('in '));
	// What a document says of a thing within it (whom it is from, a file) speaks of that thing.
	const beside = text.value.path.slice(0, -1).join('.');
	const within = (name: string): string => name.slice(0, Math.max(0, name.lastIndexOf('.')));
	const isBeside = (c: SheetColumn): boolean =>
		c.path.length > 0
			? c.path.slice(0, -1).join('.') === beside
			: !isExport(sheet) || ['', within(text.value.name)].includes(within(c.name));
	const names = stored.filter(isBeside).map((c) => c.name);
	const further = stored.filter((c) => c !== text.value).map((c) => c.name);
	let points = 0;
	// Elements of a page, and what lists are called that stand in a file, say little.
	if (speaksOfMessages(sheet.name)) points += 3;
	else if (speaksOfOthers(sheet.name) && !isExport(sheet)) points -= 2;
	if (speaksOfMessages(text.value.name)) points += 1.5;
	if (joined.some(speaksOfMessages)) points += 2;
	if (further.some(speaksOfMessages)) points += 2;
	points += Math.min(3, further.filter(speaksOfParties).length * 1.5);
	if ([sheet.name, ...stored.map((c) => c.name)].some(speaksOfSomebody)) points += 0.5;
	return (
		points -
		Math.min(
			5,
			isExport(sheet) ? names.filter((n) => speaksOfOthers(n) && !OF_WRITERS.test(n)).length : names.filter(speaksOfOthers).length * 0.75
		)
	);
}

/** In a file of messages who wrote is called so. */
const OF_WRITERS = /(?:^|[^a-z])(?:name|title|address|place)\)?$/i;

/** Whether the names of a sheet's table and columns are no words: single letters, numbered ones, digests, or of a language not known here. */
function isNameless({ sheet }: MessageReading, { tables }: Context): boolean {
	// Of a table known by its rows alone the names are this program's.
	if (tables[sheet.tables[0]!]!.inferred) return true;
	const own = sheet.columns.filter((c) => c.column >= 0 && c.path.length === 0 && !isOwnNumber(c, sheet, tables));
	const names = [sheet.name.split(/[,:]/, 1)[0]!, ...own.map((c) => c.name)];
	return names.filter((name) => !isNoWord(name) && speaks(name)).length * 4 <= names.length;
}
const isNoWord = (name: string): boolean => !/\p{L}{2}/u.test(name) || /^x?[0-9a-f_]+$/i.test(name);

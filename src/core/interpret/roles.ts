/**
 * Gives each sheet of a store its role, from the values. Names of tables and columns add a little where they say
 * something and take nothing away where they do not.
 */
import { isCalled } from '../called';
import type { Harvested } from '../harvest';
import { speaksOfOthers, speaksOfPersons } from '../kind-words';
import type { Row, Table } from '../model';
import { headingOf, type Heading } from '../people/headings';
import { readFewAlike } from './alike-sheets';
import { openAddressRows } from './address-rows';
import { cardsColumn, listsOfOwnAddresses } from './address-lists';
import { dropChanceKeys } from './beside';
import { asideColumn, LIKELY_KEY, SURE_KEY } from './aside';
import {
	areCounted,
	addressShare,
	areDigestKeys,
	areKeys,
	bestText,
	bestTime,
	containsAddresses,
	isHandleLike,
	nameScore,
	TABLE_NAME,
	textScore
} from './columns';
import { areOneTable, findCompanions } from './companions';
import { weighCorrespondence } from './correspondence';
import { isOtherHalf } from './other-half';
import { counterOf } from './counter';
import type { Context } from './context';
import { correctColumns, correctedText, correctionFor, roleWanted, type Correction } from './correction';
import { isPath } from './files';
import { readFilesAlone } from './files-alone';
import { joinsOnce } from './joins-once';
import { openLookups } from './lookups';
import { readMessages } from './message-sheet';
import type { Guess, MembersReading, MessageReading, PersonReading, SheetRole, StoreReading, ThreadReading } from './reading';
import { membersBeside } from './members-beside';
import { namesBesideHandles } from './names-beside';
import { findDeletedPersons } from './deleted-flag';
import { personEntriesIn } from './person-entries';
import { isSign } from './profile';
import { isDeclared, isMeant, isNamedAlike, keyOf, keysOf, raiseNamesakes, referencesOf, type Reference } from './refs';
import { repeatsAtOnce } from './repeated';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { isNameLike } from './parties';
import { ownersInSettings } from './settings';
import { openProperties } from './properties';
import { openParticipants, participantsOf } from './participants';
import { takingPart } from './taking-part';
import { tellByOthers } from './told-twice';
import { openSittings } from './sittings';
import { openWritersByPlace } from './writer-by-place';
import { openCountedOn } from './counted-on';
import { openSteps } from './steps-beside';
import { openStringTables } from './string-table';
import { isJoin, isNamed, looksLikeThreads, readThreadSheet } from './threads';

/**
 * Reads a whole store. `beside`: those of `sheets` that stand in files beside it, which have no messages of their own.
 * `harvests`: the store and its other captures.
 */
export function readStore(
	sheets: Sheet[],
	tables: readonly Table[],
	owner: readonly string[],
	correction: Correction | null = null,
	beside: ReadonlySet<Sheet> = new Set(),
	harvests: readonly Harvested[] = []
): StoreReading {
	const strings = openStringTables(sheets, tables, (s) => bestTime(s, tables) !== null);
	const keys = sheets.flatMap((s) => keysOf(s, tables));
	const references = new Map(sheets.map((s) => [s, withoutCounter(s, referencesOf(s, keys, tables), tables)]));
	raiseNamesakes(references, tables);
	const context: Context = { tables, sheets, keys, references, owner, harvests, stated: ownersInSettings(sheets, tables) };
	dropChanceKeys(context, beside);
	const properties = openProperties(context);
	openCountedOn(context);
	const steps = openSteps(context);
	const isOfItself = (s: Sheet): boolean => !beside.has(s) && !properties.has(s) && !steps.has(s);
	const aside = readTextsAside({ ...context, sheets: sheets.filter(isOfItself) }, strings);
	const corrected = new Map(sheets.map((s) => [s, correctionFor(s, tables, correction)]));
	const wanted = (s: Sheet): SheetRole | null => roleWanted(corrected.get(s)!);
	const personEntries = sheets.flatMap((s) => (wanted(s) === null ? (personEntriesIn(s, context) ?? []) : []));
	const booked = new Set([
		...personEntries.map((e) => e.sheet),
		...namedByAddresses(context),
		...sheets.filter((s) => listsItsAddresses(s, context))
	]);
	const addressRows = openAddressRows(context, booked);
	openWritersByPlace(context);
	openSittings(context);
	const lookups = openLookups(context);
	openParticipants(context);
	const candidates = sheets
		.filter((s) => !beside.has(s) && !s.about)
		.map((sheet) => ({ sheet, text: bestText(sheet), time: bestTime(sheet, tables) }))
		.filter(
			(c): c is Candidate =>
				c.text !== null && wanted(c.sheet) === null && !aside.has(c.sheet) && !booked.has(c.sheet) && !properties.has(c.sheet)
		)
		.filter((c) => !namesWhoIsBeside(c, tables));
	const forced = sheets
		.filter((s) => wanted(s) === 'messages')
		.flatMap((sheet): Candidate[] => {
			const text = correctedText(sheet, corrected.get(sheet)!) ?? sheet.columns.find((c) => c.profile.texts > 0);
			const guess = bestText(sheet) ?? (text ? { value: text, confidence: 1, evidence: ['put right by the user'] } : null);
			return guess ? [{ sheet, text: guess, time: bestTime(sheet, tables) }] : [];
		});
	const besides = (chosen: readonly Candidate[]): PersonReading[] => {
		const persons: PersonReading[] = [];
		const taking = chosen.map((c) => participantsOf(c.sheet, context)).filter((p) => p !== null);
		const told = chosen.map((c) => takingPart(c, context));
		const areTold = (sheet: Sheet): boolean => told.some((t) => t?.persons?.sheet === sheet);
		const ofTalks = told.flatMap((t) => [t?.members?.sheet, t?.thread?.key.sheet, t?.join?.threadKey?.sheet]);
		for (const sheet of sheets) {
			if (chosen.some((c) => c.sheet === sheet)) continue;
			if (ofTalks.includes(sheet) && wanted(sheet) === null) continue;
			// Conversations can have a name and a number as persons do.
			if ((lookups.has(sheet) || taking.some((p) => p.thread.key.sheet === sheet)) && wanted(sheet) === null) continue;
			const person = wanted(sheet) === 'other' || personEntries.some((e) => e.sheet === sheet) ? null : readPersons(sheet, context);
			if (
				person &&
				(wanted(sheet) === 'persons' || addressRows.has(sheet) || areTold(sheet) || taking.some((p) => p.writer.key.sheet === sheet))
			)
				persons.push(person);
			else if (person && chosen.length === 0 && (person.names.length > 1 || listsItsAddresses(sheet, context))) persons.push(person);
			else if (person && (listsAddresses(person, chosen, context) || !(isJoin(sheet, context) || looksLikeThreads(sheet, context))))
				persons.push(person);
		}
		return persons;
	};
	const { chosen, persons, messages, refused } = chooseCorrespondence(forced, candidates, besides, context);
	const roles = new Map<Sheet, Guess<SheetRole>>();
	for (const { sheet, text, time } of chosen)
		roles.set(sheet, {
			value: 'messages',
			confidence: Math.min(text.confidence, time?.confidence ?? 0.4),
			evidence: [`${sheet.sure.length} rows with a text${time ? ' and a time' : ''}`]
		});
	const messageSheets = new Set(chosen.map((c) => c.sheet));
	const threads: ThreadReading[] = [];
	const members: MembersReading[] = messages.flatMap((m) => m.membersTold ?? []);
	for (const { sheet } of [...members, ...messages.flatMap((m) => m.sizesTold ?? [])])
		roles.set(sheet, { value: 'members', confidence: 0.8, evidence: ['each row joins a thread and a person'] });
	const others = sheets.filter((s) => !messageSheets.has(s));
	const personSheets = new Set(persons.map((p) => p.sheet));
	readFewAlike(messages);
	tellByOthers(messages, context);
	const unlisted = others.filter((s) => wanted(s) === null && !personEntries.some((e) => e.sheet === s));
	const namesBeside = namesBesideHandles(messages, persons, unlisted, tables);
	for (const m of messages) {
		const entry = corrected.get(m.sheet);
		if (entry) correctColumns(m, entry, references.get(m.sheet) ?? []);
	}
	for (const { sheet } of personEntries)
		roles.set(sheet, {
			value: 'persons',
			confidence: 0.8,
			evidence: ['its rows are names, numbers and addresses, by kind, several to a person']
		});
	const threadKeys = new Set(
		messages.flatMap((m) => [m.thread?.key?.sheet, m.threadJoin?.threadKey?.sheet]).filter((s) => s !== undefined)
	);
	const namedBy = new Set(messages.flatMap((m) => m.thread?.key?.column ?? m.threadJoin?.threadKey?.column ?? []));
	for (const sheet of threadKeys) {
		if (!sheet) continue;
		threads.push(readThreadSheet(sheet, context, persons, namedBy));
		roles.set(sheet, { value: 'threads', confidence: 0.8, evidence: ['messages point to its rows, several to each'] });
	}
	// Where messages or conversations are with persons of one list, names in another are those of folders and the like.
	const isWith = (sheet: Sheet): boolean =>
		messages.some((m) => isPartyOf(sheet, m)) || threads.some(({ peer, list }) => peer?.key?.sheet === sheet || list?.key?.sheet === sheet);
	const areListed = persons.some((p) => isWith(p.sheet));
	const isOfNamesAlone = (sheet: Sheet): boolean =>
		areListed && !isWith(sheet) && persons.some((p) => p.sheet === sheet && !hasAddresses(p) && p.via === null);
	for (const sheet of others) {
		const { rowidColumn } = tables[sheet.tables[0]!]!;
		const refs = (references.get(sheet) ?? []).filter((r) => r.from.column !== rowidColumn && !saysNothing(r.from));
		const { toThread, toPerson } = bothEnds(
			refs.filter((r) => threadKeys.has(r.key.sheet) && r.confidence > 0.4 && isLikeliest(r, refs, tables)),
			refs.filter(
				(r) => personSheets.has(r.key.sheet) && r.confidence > 0.4 && !isOfNamesAlone(refs.find((x) => x.from === r.from)!.key.sheet)
			)
		);
		const whose = namesBeside.find((p) => p.sheet === sheet)?.addresses[0];
		const address = whose ?? sheet.columns.find((c) => addressShare(c) > 0.5 && c !== toThread?.from);
		// A list of persons that has each once, under the key of his conversation, joins nobody to it, nor does an event.
		const listed = (personSheets.has(sheet) && toThread?.from.profile.unique) || chosen.some((c) => areOneTable(c.sheet, sheet));
		const joins = toThread && !listed && (toPerson || address) && joinsOnce(sheet, toThread.from, toPerson?.from ?? address!, tables);
		if (joins && !threadKeys.has(sheet)) {
			members.push({
				sheet,
				thread: toThread.from,
				threadKey: toThread.key,
				person: whose ?? toPerson?.from ?? address!,
				personKey: whose ? null : (toPerson?.key ?? null)
			});
			roles.set(sheet, { value: 'members', confidence: 0.7, evidence: ['each row joins a thread and a person'] });
		}
	}
	members.push(...messages.flatMap((m) => membersBeside(m, namesBeside, tables) ?? []));
	for (const sheet of addressRows)
		if (!roles.has(sheet) && !personSheets.has(sheet))
			roles.set(sheet, { value: 'members', confidence: 0.7, evidence: ['each row says of a message who it was from or to'] });
	for (const sheet of properties.keys())
		if (!roles.has(sheet))
			roles.set(sheet, { value: 'properties', confidence: 0.7, evidence: ['each row says one thing of a message, by its name'] });
	const named = new Set(persons.filter((p) => !hasAddresses(p)).map((p) => p.sheet));
	const free = others.filter(
		(s) => !roles.has(s) && (!personSheets.has(s) || named.has(s)) && !messages.some((m) => m.threadJoin?.sheet === s || isPartyOf(s, m))
	);
	const companions = findCompanions(free, messages, context);
	for (const c of companions.copies)
		roles.set(c.sheet, {
			value: c.kind === 'history' || c.kind === 'revision' ? 'histories' : 'copies',
			confidence: 0.7,
			evidence: [
				c.kind === 'history'
					? 'several texts to one message'
					: c.kind === 'revision'
						? 'its texts are what the messages it names were changed into'
						: 'its texts are those of the messages it names'
			]
		});
	for (const a of companions.attachments)
		roles.set(a.sheet, { value: 'attachments', confidence: 0.7, evidence: ['its rows name files and the messages they belong to'] });
	for (const b of companions.bins)
		roles.set(b.sheet, { value: 'bin', confidence: 0.7, evidence: ['its name says deletion, and each row names a message'] });
	for (const a of companions.attached)
		roles.set(a.sheet, { value: 'attached', confidence: 0.6, evidence: ['each row names a message: receipts, reactions or the like'] });
	const filed = companions.attachments.map((a) => a.sheet);
	const alone = readFilesAlone(
		free.filter((s) => (!roles.has(s) || filed.includes(s)) && wanted(s) === null),
		messages,
		context
	).filter((m) => !filed.includes(m.sheet) || m.alone!.key !== null);
	for (const { sheet, text } of alone)
		roles.set(sheet, { value: 'messages', confidence: 0.7, evidence: [...text.evidence, 'sent as the messages with texts are'] });
	messages.push(...alone);
	for (const m of messages)
		if (m.threadJoin)
			roles.set(m.threadJoin.sheet, { value: 'message-thread', confidence: 0.8, evidence: ['each row joins a message and a thread'] });
	const naming = [...messageSheets, ...threadKeys, ...roles.keys(), ...persons.filter(hasAddresses).map((p) => p.sheet)];
	const meant = persons.filter(
		(p) =>
			(hasNamedAddresses(p) && (messages.length > 0 || wanted(p.sheet) === 'persons' || isOfPersons(p))) ||
			messages.some((m) => isPartyOf(p.sheet, m)) ||
			((isNamedBy(p.sheet, naming, context) || persons.some((other) => other.via?.key.sheet === p.sheet)) &&
				(messages.length > 0 || !isOfOthers(p.sheet)) &&
				p.names.some(areWrittenAsNames))
	);
	for (const person of meant)
		if (!roles.has(person.sheet))
			roles.set(person.sheet, {
				value: 'persons',
				confidence: 0.7,
				evidence: [hasAddresses(person) ? 'its rows have numbers or addresses' : 'its rows have names']
			});
	for (const { sheet } of namesBeside)
		if (!roles.has(sheet))
			roles.set(sheet, { value: 'persons', confidence: 0.6, evidence: ['the same name stands beside the same writer in all its rows'] });
	return {
		sheets: sheets.map((sheet) => ({
			sheet,
			role: roles.get(sheet) ?? {
				value: 'other',
				confidence: 0.3,
				evidence: refused.get(sheet) ?? ['nothing in it reads as messages, persons or threads']
			}
		})),
		messages,
		properties: [...properties.values()].map((p) => ({ ...p, sheet: p.list })),
		persons: [...meant, ...namesBeside, ...messages.flatMap((m) => namedWithin(m.sheet))],
		personEntries,
		deletedPersons: findDeletedPersons(meant, personEntries, context),
		threads,
		members,
		refused: new Set(refused.keys()),
		...companions
	};
}

/** Names that stand in one value with their addresses. */
const namedWithin = (sheet: Sheet): PersonReading[] =>
	sheet.columns.flatMap((c) => (c.made?.nameOf ? [{ sheet, names: [c], addresses: [c.made.nameOf], via: null }] : []));

/** Whether a column names nothing else more surely, or is called for what it names. */
const isLikeliest = (r: Reference, all: readonly Reference[], tables: readonly Table[]): boolean =>
	isNamedAlike(r.from, r.key.sheet) || isDeclared(r, tables) || r.confidence >= all.find((x) => x.from === r.from)!.confidence - AS_SURE;

/** Of two columns with small numbers either can be a key of both lists: together they are surest one way round. */
function bothEnds(threads: readonly Reference[], persons: readonly Reference[]): { toThread?: Reference; toPerson?: Reference } {
	const pairs = threads.flatMap((toThread) =>
		persons.filter((toPerson) => toPerson.from !== toThread.from).map((toPerson) => ({ toThread, toPerson }))
	);
	const sure = ({ toThread, toPerson }: (typeof pairs)[number]): number => toThread.confidence + toPerson.confidence;
	return pairs.toSorted((a, b) => sure(b) - sure(a))[0] ?? { toThread: threads[0] };
}

/** The numbers that a column counts name no rows of other sheets. */
function withoutCounter(sheet: Sheet, references: Reference[], tables: readonly Table[]): Reference[] {
	const counter = counterOf(sheet, tables);
	return counter ? references.filter((r) => r.from !== counter) : references;
}

const inUse = (sheet: Sheet): number => sheet.rows.filter((row) => row.standing === 'kept').length;

/** Gives sheets of messages whose texts stand in another one a column that reads them; those others. `strings`: already read. */
function readTextsAside(context: Context, strings: ReadonlySet<Sheet>): Set<Sheet> {
	const found = new Set(strings);
	const { sheets, references, tables } = context;
	const timed = new Map(sheets.map((s) => [s, bestTime(s, tables) !== null]));
	const texts = sheets.flatMap((sheet) => {
		const text = timed.get(sheet) ? null : bestText(sheet);
		return text && !hasNamesAndAddresses(sheet, text.value) ? [{ sheet, text: text.value }] : [];
	});
	// Where messages have their texts in their own rows, another sheet's need surer keys to have theirs elsewhere.
	const least = sheets.some((s) => timed.get(s) && isWriting(bestText(s), s)) ? SURE_KEY : LIKELY_KEY;
	// What messages with texts of their own name again and again is their conversations, and its texts what those are called.
	const areNamedByMessages = (list: Sheet): boolean =>
		sheets.some((s) => {
			const { length } = s.sure;
			if (s === list || !timed.get(s) || !isWriting(bestText(s), s)) return false;
			const isOfSeveral = (r: Reference): boolean => r.from.profile.distinct.size <= length * SEVERAL_EACH;
			const isTo = (r: Reference): boolean => r.key.sheet === list && r.confidence > SURE_KEY && isMeant(r, s, tables);
			return (references.get(s) ?? []).some((r) => isTo(r) && isOfSeveral(r) && r.from.profile.filled > length * PROSE);
		});
	for (const sheet of sheets) {
		if (!timed.get(sheet) || texts.length === 0 || bestText(sheet)) continue;
		for (const one of texts) {
			const column = one.sheet === sheet || found.has(one.sheet) ? null : asideColumn(sheet, one, references, tables, least);
			if (!column || repeatsOwnTexts(one, sheets, tables) || areNamedByMessages(one.sheet)) continue;
			sheet.columns.push(column);
			found.add(one.sheet);
			break;
		}
	}
	return found;
}

/** Whether texts are those of messages that have them in their own rows: a text index. */
const repeatsOwnTexts = (one: { sheet: Sheet; text: SheetColumn }, sheets: readonly Sheet[], tables: readonly Table[]): boolean =>
	sheets.some((sheet) => {
		if (sheet === one.sheet || inUse(sheet) < inUse(one.sheet) * PROSE || !bestTime(sheet, tables)) return false;
		const text = bestText(sheet)?.value;
		return text !== undefined && !text.aside && repeatsTexts(one, { sheet, text }, tables);
	});

/** Persons, each with a name and a number of their own. */
const hasNamesAndAddresses = (sheet: Sheet, names: SheetColumn): boolean =>
	names.profile.name > 0.6 && sheet.columns.some((c) => c !== names && addressShare(c) > 0.6 && c.profile.unique);

/** Rows from which texts say that they are somebody's messages, and share of them that must read as sentences. */
const WRITINGS = 6;
const PROSE = 0.5;
/** Conversations have more messages than this, in conversations for each. */
const SEVERAL_EACH = 0.5;

const isWriting = (text: Guess<SheetColumn> | null, sheet: Sheet): boolean =>
	text !== null && sheet.sure.length >= WRITINGS && text.value.profile.prose > PROSE;

function readPersons(sheet: Sheet, context: Context): PersonReading | null {
	const lists = listsOfOwnAddresses(sheet, context);
	const addresses = sheet.columns.filter(
		(c) =>
			c.profile.filled > 0 &&
			!isKindAndKey(c, sheet, context) &&
			!c.profile.time &&
			!saysNothing(c, 1) &&
			!lists.includes(c) &&
			c.profile.json < 0.5 &&
			(addressShare(c) > 0.4 || (isHandleLike(c) && HANDLE_NAMED.test(c.name)))
	);
	const names = sheet.columns
		.filter(
			(c) =>
				c.profile.texts > 0 &&
				c.profile.name > 0.6 &&
				!addresses.includes(c) &&
				!isPath(c) &&
				(!saysNothing(c, 1) || isPartOfName(c)) &&
				(!areKindsOf(c) || isPartOfName(c)) &&
				!isLabel(c, addresses[0]) &&
				!isKeyOfNamed(c, sheet, context) &&
				!areDigestKeys(c) &&
				!(addresses.length > 0 && areKeys(c)) &&
				!containsAddresses(c) &&
				c.profile.uuid < 0.3 &&
				c.profile.path < 0.3 &&
				c.profile.averageLength >= 2 &&
				c.profile.mime === 0 &&
				!c.profile.time
		)
		.sort((a, b) => nameScore(b) - nameScore(a));
	const cards = cardsColumn(sheet, context.tables);
	if (cards) return { sheet, names: [], addresses: [], cards, via: null };
	if (addresses.length === 0 && names.length === 0) return null;
	// Writing with a time, to numbers alone, is what waits to be sent, and no list of persons.
	if (names.length === 0 && bestTime(sheet, context.tables) && sheet.columns.some((c) => c.column >= 0 && c.profile.prose > PROSE))
		return null;
	if (addresses.length === 0 && lists.length > 0) return { sheet, names: wholeName(names, sheet), addresses, lists, via: null };
	// The same few words again and again are kinds of what happened, and nobody's names.
	const whole = wholeName(names, sheet);
	const isInParts = whole.length > 1 && !whole.every((c) => c.profile.filled < sheet.sure.length * MOSTLY_NAMED);
	if (
		addresses.length === 0 &&
		!isInParts &&
		names.every((c) => comesBack(c, sheet) || c.profile.filled < sheet.sure.length * MOSTLY_NAMED)
	)
		return null;
	if (addresses.length === 0) addresses.push(...handleBeside(names, sheet, context));
	if (addresses.length === 0) addresses.push(...names.splice(0, names.every((c) => isWrittenSmall(c) && c.profile.unique) ? 1 : 0));
	// Handles without a name beside files are those of the files.
	if (names.length === 0 && addresses.every((c) => addressShare(c) <= 0.4) && sheet.columns.some(isPath)) return null;
	if (addresses.length === 0 && names.every(areCounted)) return null;
	addresses.sort((a, b) => addressShare(b) - addressShare(a) || Number(b.profile.unique) - Number(a.profile.unique));
	const [address] = addresses;
	// Where the same addresses come again and again, the rows are what happened with somebody: calls, visits.
	if (address && names.length === 0 && address.profile.distinct.size < address.profile.filled * LISTED_ONCE) return null;
	const via = address && names.length === 0 ? wayToNames(address, sheet, context) : undefined;
	const own = wholeName(names, sheet);
	const organisation = sheet.columns.find((c) => ORGANISATION_NAMED.test(c.name) && c.profile.texts > 0 && !own.includes(c)) ?? null;
	return { sheet, names: own, organisation, addresses, lists, via: via ? { column: via.from, key: via.key } : null };
}

/** Whether each value is what another column has, behind one and the same mark of its kind (`user:`): where all sorts of things have one key. */
function isKindAndKey(c: SheetColumn, sheet: Sheet, { tables }: Context): boolean {
	if (c.profile.texts === 0 || c.profile.many || sheet.sure.length < KINDS_LEAST - 1) return false;
	const rows = sheet.sure.slice(0, KEYED_ROWS);
	const kindOf = (row: Row, other: SheetColumn): string | null => {
		const [whole, key] = [cell(row, c, tables), cell(row, other, tables)];
		return typeof whole === 'string' && typeof key === 'string' && key !== '' && whole.endsWith(key) ? whole.slice(0, -key.length) : null;
	};
	return sheet.columns.some((other) => {
		if (other === c || other.profile.texts === 0 || other.profile.distinct.size < c.profile.distinct.size) return false;
		const kind = kindOf(rows[0]!, other);
		return kind !== null && /[^\p{L}\p{N}]$/u.test(kind) && rows.every((row) => kindOf(row, other) === kind);
	});
}
const KEYED_ROWS = 200;

/** The column of a list of addresses that says whose each is. */
function wayToNames(address: SheetColumn, sheet: Sheet, context: Context): Reference | undefined {
	const isOfNames = (s: Sheet): boolean => hasNamesAlone(s) && !s.columns.some((c) => addressShare(c) > 0.6);
	const ways = (context.references.get(sheet) ?? []).filter(
		(r) =>
			r.confidence > LEAST_SURE &&
			r.key.sheet !== sheet &&
			!isOwnNumber(r.from, sheet, context.tables) &&
			!saysNothing(r.from, 1) &&
			goesWith(address, r.from, sheet, context)
	);
	// Other lists of addresses have as many rows as that of the names; where all are short, names alone say enough.
	const sure = ways.filter((r) => r.confidence > SURE);
	return sure.find((r) => isOfNames(r.key.sheet)) ?? sure[0] ?? ways.find((r) => isOfNames(r.key.sheet));
}
const SURE = 0.49;
const LEAST_SURE = 0.35;

/** A few small words, each of several rows. */
const areKindsOf = ({ profile: p }: SheetColumn): boolean =>
	p.filled >= KINDS_LEAST && p.distinct.size * 2 <= p.filled && [...p.distinct.keys()].every((v) => /^\p{Ll}+$/u.test(String(v)));
const KINDS_LEAST = 4;

const comesBack = ({ profile: p }: SheetColumn, sheet: Sheet): boolean =>
	sheet.sure.length >= LISTED_ROWS && !p.many && p.distinct.size < p.filled * LISTED_ONCE;
const LISTED_ROWS = 8;
/** Of rows that have nothing but a name so many must have one: rooms of two have none. */
const MOSTLY_NAMED = 0.5;

/** Handles by which another sheet's rows are known, which have names besides: whom a row is with, and not what it is called. */
const isKeyOfNamed = (c: SheetColumn, sheet: Sheet, { references }: Context): boolean =>
	isHandleLike(c) &&
	(references.get(sheet) ?? []).some(
		({ from, key, inclusion, confidence }) =>
			from === c &&
			inclusion > 0.95 &&
			confidence > 0.6 &&
			key.column !== null &&
			key.sheet !== sheet &&
			key.sheet.columns.some((n) => n !== key.column && n.column >= 0 && n.profile.name > 0.6 && n.profile.token < 0.9)
	);

const HANDLE_NAMED = /addr|handle|phone|number|mail|jid|login|user|nick/i;

const hasAddresses = (p: PersonReading): boolean => p.addresses.length > 0 || (p.lists?.length ?? 0) > 0 || (p.cards ?? null) !== null;

/** Whether addresses are surely such: single words with a name beside each are a program's settings as well. */
const hasNamedAddresses = (p: PersonReading): boolean =>
	(hasAddresses(p) && p.addresses.length === 0) || p.addresses.some((c) => addressShare(c) > 0.4 || HANDLE_NAMED.test(c.name));

/** Whether rows with addresses that no message names are persons: each has a name and a number of telephones or a mail address, or is called so. */
function isOfPersons(p: PersonReading): boolean {
	const names = [p.sheet.name, ...p.sheet.columns.map((c) => c.name)];
	if (speaksOfPersons(p.sheet.name) || (p.lists?.length ?? 0) > 0 || p.cards) return true;
	if (names.some(speaksOfOthers) && !names.some(speaksOfPersons))
		return p.addresses.some((c) => TELEPHONE_NAMED.test(c.name) || c.profile.email > 0.4);
	return p.addresses.some((c) => addressShare(c) > 0.4);
}
const isOfOthers = ({ name }: Sheet): boolean => speaksOfOthers(name) && !speaksOfPersons(name);
const TELEPHONE_NAMED = /phone|\btel|mobil|cell/i;

/** With a capital in most of them, or in a script that has none: words of a program, and what was searched for, are not. */
const areWrittenAsNames = ({ profile }: SheetColumn): boolean => {
	const values = [...profile.distinct.keys()].slice(0, 200).map(String);
	return values.filter((v) => /\p{Lu}|\p{Lo}/u.test(v)).length >= values.length * 0.5;
};

const isPartyOf = (sheet: Sheet, m: MessageReading): boolean =>
	[m.peer, m.sender, m.recipient, m.participant].some((party) => party?.key?.sheet === sheet);

/** A column of handles, each its own row's, beside those of names: written small, as names are not. */
function handleBeside(names: readonly SheetColumn[], sheet: Sheet, context: Context): SheetColumn[] {
	const handle = sheet.columns.find(
		(c) =>
			!names.slice(0, 1).includes(c) &&
			c.column >= 0 &&
			isHandleLike(c) &&
			c.profile.unique &&
			c.profile.filled >= sheet.sure.length * 0.8 &&
			c.profile.path < 0.3 &&
			!isPath(c) &&
			c.profile.averageLength > 3 &&
			isWrittenSmall(c) &&
			!isKindAndKey(c, sheet, context)
	);
	return handle ? [handle] : [];
}

/** Single words without a capital: handles, as names are not written. */
const isWrittenSmall = (c: SheetColumn): boolean =>
	isHandleLike(c) && [...c.profile.distinct.keys()].slice(0, 200).every((v) => /^[^\s\p{Lu}]+$/u.test(String(v)));

/** Whether rows of other sheets point to those of this one: names alone are no persons. */
const isNamedBy = (sheet: Sheet, others: readonly (Sheet | undefined)[], context: Context): boolean =>
	others.some((s) => {
		const refs = (s && s !== sheet && context.references.get(s)) || [];
		return refs.some(
			(r) => r.key.sheet === sheet && r.confidence > 0.45 && isLikeliest(r, refs, context.tables) && isMeant(r, s!, context.tables)
		);
	});

/** Sheets of names to whose rows another sheet gives numbers and addresses: persons, be there a time in them or not. */
function namedByAddresses({ sheets, references, tables }: Context): Sheet[] {
	return sheets.flatMap((list) => {
		const value = list.columns.find((c) => c.column >= 0 && addressShare(c) > 0.6 && c.profile.texts >= list.sure.length * 0.8);
		// A number that comes again and again is somebody who is met in several places, not somebody's own.
		if (!value || value.profile.distinct.size < value.profile.filled * 0.9 || bestTime(list, tables)) return [];
		const owned = (references.get(list) ?? []).filter(
			(r) =>
				r.confidence > 0.49 &&
				r.from !== value &&
				r.key.sheet !== list &&
				!isOwnNumber(r.from, list, tables) &&
				!saysNothing(r.from) &&
				hasNamesAlone(r.key.sheet)
		);
		// Small numbers are keys of anything: of the persons they name many, of other rows few.
		const most = Math.max(0, ...owned.map((r) => r.coverage));
		const isWhose = (r: Reference): boolean => r.coverage >= most * AS_MANY || isNamedAlike(r.from, r.key.sheet) || isDeclared(r, tables);
		return owned.filter(isWhose).map((r) => r.key.sheet);
	});
}

const AS_MANY = 0.6;

/** Whether each row of a sheet is a person's by itself: a card, or a name with a list of addresses. */
const listsItsAddresses = (sheet: Sheet, context: Context): boolean =>
	cardsColumn(sheet, context.tables) !== null || (hasNamesAlone(sheet) && listsOfOwnAddresses(sheet, context).length > 0);

/** Words by which a person's addresses are told apart. */
const isKindOfAddress = (value: unknown): boolean =>
	/^(mobile|cell|home|work|main|office|fax|pager|other|private|business|default)\b/i.test(String(value));
/** What a number is for ("home", "mobile"): a few words beside addresses that differ. */
const isLabel = (c: SheetColumn, address: SheetColumn | undefined): boolean =>
	address !== undefined &&
	// Families share a name.
	!isPartOfName(c) &&
	((/label|type|kind/i.test(c.name) &&
		(c.profile.distinct.size < c.profile.filled * 0.8 || [...c.profile.distinct.keys()].every(isKindOfAddress))) ||
		c.profile.distinct.size * 2 < c.profile.filled) &&
	address.profile.distinct.size >= address.profile.filled * 0.9;

/** Whether a sheet's texts are names and nothing that somebody wrote. */
const hasNamesAlone = (sheet: Sheet): boolean => {
	if (sheet.columns.some((c) => c.aside)) return false;
	const texts = sheet.columns.filter(
		(c) => c.column >= 0 && c.profile.texts > 0 && c.profile.json < 0.5 && !ORGANISATION_NAMED.test(c.name)
	);
	return (
		texts.some((c) => c.profile.name > 0.6 && !/title|subject|room/i.test(c.name)) &&
		texts.every((c) => c.profile.prose < PROSE || (c.profile.name > 0.6 && c.profile.averageLength < 30) || isRemark(c, sheet))
	);
};

/** What is noted of persons, each of whom is there once. */
const isRemark = (c: SheetColumn, sheet: Sheet): boolean =>
	headingOf(c.name) === 'aside' &&
	sheet.columns.some(
		({ name, profile: p }) => NAMES_OF_PERSONS.has(headingOf(name)) && p.name > 0.6 && p.distinct.size >= sheet.sure.length * 0.8
	);
const NAMES_OF_PERSONS: ReadonlySet<Heading | null> = new Set(['name', 'given', 'family']);

/** Share of a list's addresses that are there once. */
const LISTED_ONCE = 0.45;

/** Whether each address has one and the same key beside it in all of its rows, or nearly all have. */
function goesWith(address: SheetColumn, key: SheetColumn, sheet: Sheet, context: Context): boolean {
	const keys = new Map<string | number, string | number | null>();
	let others = 0;
	for (const row of sheet.sure.slice(0, 2000)) {
		const a = keyOf(cell(row, address, context.tables));
		const k = keyOf(cell(row, key, context.tables));
		if (a === null) continue;
		const known = keys.get(a);
		keys.set(a, k);
		if (known !== undefined && known !== k) others++;
	}
	// Two persons of a household can have one number.
	return others <= Math.max(keys.size * SHARED, keys.size < SHARED_LEAST ? 0 : 1);
}
const SHARED = 0.12;
/** Addresses from which one of them can be shared. */
const SHARED_LEAST = 6;

/** Whether a sheet only gives the persons of another one their addresses: no message names its rows. */
function listsAddresses(person: PersonReading, chosen: readonly Candidate[], context: Context): boolean {
	const { via } = person;
	const named = (sheet: Sheet): boolean =>
		chosen.some((c) => (context.references.get(c.sheet) ?? []).some((r) => r.key.sheet === sheet && r.confidence > 0.45));
	// Numbers of a room's members are no persons' of that name.
	return via !== null && !named(person.sheet) && (!named(via.key.sheet) || isNamed(via.key.sheet));
}

const ORGANISATION_NAMED = /org(ani[sz]ation|$)|company|firm(a|$)/i;
const GIVEN_NAMED = /first|given|fore|^z?f_?name/i;
const FAMILY_NAMED = /last|sur_?name|family|^z?l_?name/i;
const MIDDLE_NAMED = /middle|additional_?name|second_?name|^z?m_?name|patronym/i;

const isGiven = ({ name }: SheetColumn): boolean => GIVEN_NAMED.test(name) || headingOf(name) === 'given';
const isFamily = ({ name }: SheetColumn): boolean => FAMILY_NAMED.test(name) || headingOf(name) === 'family';
const isMiddle = (c: SheetColumn): boolean =>
	c.column >= 0 && c.profile.texts > 0 && (MIDDLE_NAMED.test(c.name) || headingOf(c.name) === 'middle') && addressShare(c) === 0;
const isPartOfName = (c: SheetColumn): boolean => isGiven(c) || isFamily(c);

/** The columns that make a person's name, given name first: mostly one. */
function wholeName(ranked: readonly SheetColumn[], sheet: Sheet): SheetColumn[] {
	const given = ranked.find(isGiven);
	const family = ranked.find((c) => c !== given && isFamily(c));
	const best = ranked.find((c) => !ORGANISATION_NAMED.test(c.name)) ?? ranked[0];
	if (given && family && (best === given || best === family || isMiddle(best!))) return [given, ...sheet.columns.filter(isMiddle), family];
	return best ? [best] : [];
}

/** A column with one value in all rows (the engine's kind of entity, say) leads nowhere. */
const saysNothing = (c: SheetColumn, rows = 3): boolean => c.profile.blobs === 0 && c.profile.filled > rows && c.profile.distinct.size < 2;

type Candidate = { sheet: Sheet; text: Guess<SheetColumn>; time: MessageReading['time'] };

/** The sheets of messages, read: of those with writing in them the ones that somebody wrote to somebody. `besides`: the persons beside them. */
function chooseCorrespondence(
	forced: readonly Candidate[],
	candidates: readonly Candidate[],
	besides: (chosen: readonly Candidate[]) => PersonReading[],
	context: Context
): { chosen: Candidate[]; persons: PersonReading[]; messages: MessageReading[]; refused: Map<Sheet, string[]> } {
	const refused = new Map<Sheet, string[]>();
	for (;;) {
		const open = candidates.filter((c) => !refused.has(c.sheet));
		const chosen = [...forced, ...chooseMessageSheets(open, context)];
		const persons = besides(chosen);
		const messages = chosen.map((c) => readMessages(c.sheet, c.text, c.time, context, persons));
		const before = refused.size;
		for (const m of messages) {
			if (forced.some((f) => f.sheet === m.sheet)) continue;
			const { isCorrespondence, against } = weighCorrespondence(m, persons, context);
			if (!isCorrespondence)
				refused.set(m.sheet, ['its rows have a text, but nothing says that somebody wrote it to somebody', ...against]);
		}
		if (refused.size === before) return { chosen, persons, messages, refused };
	}
}

/**
 * Of the sheets with writing in them, those that are messages: not the threads whose rows only repeat the last
 * text, not notes with nobody to whom, not copies of another sheet's texts (a search index, a history of edits).
 */
function chooseMessageSheets(candidates: Candidate[], context: Context): Candidate[] {
	const weight = (c: Candidate): number => {
		const text = textScore(c.text.value, c.sheet.sure.length).score;
		const social = socialScore(c, context);
		// Lines that begin alike are a program's.
		const written = beginAlike(c, context) ? PROGRAMS : 0;
		return text + (c.time ? 1.5 : -0.5) + social + Math.min(1.2, Math.log10(c.sheet.sure.length + 1) * 0.4) - written;
	};
	const ranked = candidates.map((c) => ({ c, w: weight(c) })).sort((a, b) => b.w - a.w);
	const best = ranked[0];
	if (!best) return [];
	const chosen: Candidate[] = [];
	for (const { c, w } of ranked) {
		const isHalf = chosen.some((m) => isOtherHalf(c, m, context));
		if ((w < 3.2 && !(c === best.c && w > 2.2) && !isHalf) || isListOfNames(c)) continue;
		if (c !== best.c && ((!c.time && best.c.time) || UNSENT.test(c.sheet.name))) continue;
		// What was begun and not sent is no message, even where nothing else is left.
		if (DRAFTS.test(c.sheet.name) && context.tables.length > 1) continue;
		if (c !== best.c && isSignsAlone(c.text.value)) continue;
		const aside = chosen.flatMap((m) => namesMessages(c, m, context));
		const social = socialScore(c, context, aside) + Number(c !== best.c && pointsWhere(c, best.c, context));
		if (c !== best.c && ((social < 0.5 && !isHalf) || beginAlike(c, context))) continue;
		const referencedByMessages = chosen.some((m) =>
			(context.references.get(m.sheet) ?? []).some(
				(r, _, all) =>
					r.key.sheet === c.sheet &&
					r.confidence > 0.6 &&
					// The surest of each column stands first: what that names is named.
					r.confidence > all.find((x) => x.from === r.from)!.confidence - AS_SURE &&
					m.sheet.sure.length > c.sheet.sure.length &&
					isMeant(r, m.sheet, context.tables)
			)
		);
		if (referencedByMessages) continue;
		if (chosen.some((m) => repeats(c, m, context))) continue;
		chosen.push(c);
	}
	return chosen.filter((c) => !chosen.some((m) => m !== c && (repeatsTimed(c, m, context) || namesWhatItRepeats(c, m, context))));
}

/**
 * Whether a sheet's texts are the names of those whose numbers stand beside them: who comes again has the same text again.
 * Lists of calls are such.
 */
function namesWhoIsBeside({ sheet, text }: Candidate, tables: readonly Table[]): boolean {
	const names = text.value;
	if (names.profile.name < 0.6 || names.column < 0) return false;
	const addresses = sheet.columns.filter((c) => c !== names && c.column >= 0 && (addressShare(c) > 0.4 || isHandleLike(c)));
	return addresses.some((address) => {
		const known = new Map<string | number, string>();
		let [again, same] = [0, 0];
		for (const row of sheet.sure.slice(0, 2000)) {
			const key = keyOf(cell(row, address, tables));
			const name = cell(row, names, tables);
			if (key === null || typeof name !== 'string' || name === '') continue;
			const before = known.get(key);
			if (before === undefined) known.set(key, name);
			else {
				again++;
				if (before === name) same++;
			}
		}
		const different = new Set(known.values()).size;
		const areTheirOwn = different === known.size && different >= MET_AGAIN;
		return again >= (areTheirOwn ? FEW_AGAIN : MET_AGAIN) && same >= again * ALWAYS_NAMED && different > 1;
	});
}
const MET_AGAIN = 3;
/** Where each has another name it takes fewer. */
const FEW_AGAIN = 2;
const ALWAYS_NAMED = 0.9;

/** A few signs that come again and again: reactions. */
const isSignsAlone = ({ profile: p }: SheetColumn): boolean => !p.many && [...p.distinct.keys()].every((v) => isSign(String(v)));

/** By how much less sure a key may be that is meant all the same. */
const AS_SURE = 0.15;

/** Tables of what was typed and never sent, and of what was not sent yet. */
const DRAFT = /drafts?|entw(?:u|ü|ue)rfe?|brouillons?|borrador(?:es)?|bozz[ae]|rascunhos?/i;
const DRAFTS = new RegExp(`^z?_?(?:${DRAFT.source})$`, 'i');
const UNSENT = new RegExp(`${DRAFT.source}|queue|pending|schedul|unsent|geplant`, 'i');

/** Names and no time, and nothing else or an address of its own each: persons; with a time where they are full names. */
const isListOfNames = ({ sheet, text, time }: Candidate): boolean =>
	(!time && sheet.columns.some(isGiven) && sheet.columns.some(isFamily)) ||
	(text.value.profile.name > 0.6 &&
		(time
			? hasFullNamesAlone(sheet, text.value)
			: (text.value.profile.name > NAMES_ALONE && text.value.profile.averageLength < NAME_LENGTH) ||
				sheet.columns.some(
					(c) => c !== text.value && c.column >= 0 && isHandleLike(c) && c.profile.unique && c.profile.filled >= sheet.sure.length * 0.8
				)));
const NAMES_ALONE = 0.9;

/** Whether nearly all texts are written like names, and whose address stands beside one is not met again. */
function hasFullNamesAlone(sheet: Sheet, text: SheetColumn): boolean {
	const values = [...text.profile.distinct.keys()].map(String);
	const full = values.filter(isCalled);
	const addresses = sheet.columns.filter((c) => c !== text && c.column >= 0 && addressShare(c) > 0.6);
	return (
		!text.profile.many &&
		(NAME_NAMED.test(text.name) || addresses.length > 1) &&
		full.length >= values.length * NAMES_ALONE &&
		(addresses.length > 1 || full.filter((v) => /\s/.test(v)).length * 2 > values.length) &&
		addresses.length > 0 &&
		addresses.every((c) => c.profile.distinct.size >= c.profile.filled * NAMES_ALONE && c.profile.filled >= sheet.sure.length * ADDRESSED)
	);
}
const NAME_NAMED = /name|label|display|person|contact|\bwho\b/i;
/** Share of the rows that have an address. */
const ADDRESSED = 0.3;
const NAME_LENGTH = 24;

const PROGRAMS = 1;

/** Share of texts that begin with the same word, from which on they are a program's lines. */
const ONE_BEGINNING = 0.8;

function beginAlike(c: Candidate, context: Context): boolean {
	const beginnings = new Map<string, number>();
	const rows = c.sheet.sure.slice(0, 500);
	for (const row of rows) {
		const text = cell(row, c.text.value, context.tables);
		const word = typeof text === 'string' ? text.split(/\s/, 1)[0]! : '';
		beginnings.set(word, (beginnings.get(word) ?? 0) + 1);
	}
	return rows.length > 5 && Math.max(...beginnings.values()) > rows.length * ONE_BEGINNING;
}

/** Whether a sheet names the same conversations or persons as another one, in a column called alike: of few rows that says enough. */
function pointsWhere(c: Candidate, best: Candidate, { references, tables }: Context): boolean {
	const refs = (sheet: Sheet): Reference[] => (references.get(sheet) ?? []).filter((r) => r.confidence > 0.5 && isMeant(r, sheet, tables));
	const there = refs(best.sheet);
	return refs(c.sheet).some(
		(r) => there.some((o) => o.key === r.key && o.from.name === r.from.name) && !isOwnNumber(r.from, c.sheet, tables)
	);
}

/** The columns of a sheet that name messages of another one: what it says of them was said to nobody by that. */
const namesMessages = (c: Candidate, m: Candidate, { references, tables }: Context): SheetColumn[] =>
	c.sheet === m.sheet
		? []
		: (references.get(c.sheet) ?? [])
				.filter((r, _, all) => r === all.find((x) => x.from === r.from) && r.key.sheet === m.sheet && isMeant(r, c.sheet, tables))
				.map((r) => r.from);

/** Whether the rows say who with: a flag, a sender, a thread; in other columns than those `aside`. */
function socialScore(c: Candidate, context: Context, aside: readonly SheetColumn[] = []): number {
	let score = 0;
	const refs = context.references.get(c.sheet) ?? [];
	if (refs.some((r) => r.confidence > 0.5 && !aside.includes(r.from) && r.from.profile.distinct.size < c.sheet.sure.length * 0.8))
		score += 1;
	if (
		c.sheet.columns.some(
			(x) => x !== c.text.value && addressShare(x) > 0.4 && x.profile.distinct.size <= Math.max(3, c.sheet.sure.length * 0.8)
		)
	)
		score += 1.2;
	if (c.sheet.columns.some((x) => x.column === TABLE_NAME)) score += 0.8;
	if (c.sheet.columns.some((x) => x !== c.text.value && x.profile.ints > 0 && x.profile.distinct.size >= 2 && x.profile.distinct.size <= 6))
		score += 0.4;
	if (
		c.sheet.columns.some(
			(x) => x !== c.text.value && !aside.includes(x) && isHandleLike(x) && x.profile.distinct.size < c.sheet.sure.length * 0.5
		)
	)
		score += 0.5;
	// Who wrote, or with whom, can be called by name.
	if (c.sheet.columns.some((x) => x !== c.text.value && isNameLike(x, c.sheet))) score += 0.8;
	return score;
}

/** Whether most of a sheet's texts are those of another one too. */
function repeatsTexts(
	one: { sheet: Sheet; text: SheetColumn },
	other: { sheet: Sheet; text: SheetColumn },
	tables: readonly Table[]
): boolean {
	const texts = new Set<string>();
	for (const row of other.sheet.rows) {
		const text = cell(row, other.text, tables);
		if (typeof text === 'string') texts.add(text);
	}
	let same = 0;
	let all = 0;
	for (const row of one.sheet.sure.slice(0, 2000)) {
		const text = cell(row, one.text, tables);
		if (typeof text !== 'string' || text.length < 6) continue;
		all++;
		if (texts.has(text)) same++;
	}
	return all > 0 && same / all > 0.6;
}

const repeatsTimed = (c: Candidate, m: Candidate, context: Context): boolean =>
	c.time !== null &&
	m.time !== null &&
	repeatsAtOnce({ sheet: c.sheet, text: c.text.value, time: c.time }, { sheet: m.sheet, text: m.text.value, time: m.time }, context);

/** Whether a few rows name messages of another sheet and have their texts, with a time of their own: what was pinned, say. */
const namesWhatItRepeats = (c: Candidate, m: Candidate, context: Context): boolean =>
	c.sheet.sure.length < m.sheet.sure.length * 0.5 &&
	namesMessages(c, m, context).length > 0 &&
	repeatsTexts({ sheet: c.sheet, text: c.text.value }, { sheet: m.sheet, text: m.text.value }, context.tables);

/** Whether most of c's texts are also m's: a copy, or a history of earlier wordings. */
function repeats(c: Candidate, m: Candidate, context: Context): boolean {
	if (repeatsTexts({ sheet: c.sheet, text: c.text.value }, { sheet: m.sheet, text: m.text.value }, context.tables)) return true;
	// A history: its rows point to messages, several to one.
	return (context.references.get(c.sheet) ?? []).some(
		(r) =>
			r.key.sheet === m.sheet &&
			// Called for what it names, it may name some that are gone.
			r.confidence > (isNamedAlike(r.from, m.sheet) ? 0.4 : 0.7) &&
			c.sheet.sure.length < m.sheet.sure.length * 0.5 &&
			isMeant(r, c.sheet, context.tables)
	);
}

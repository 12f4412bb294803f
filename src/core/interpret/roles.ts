/**
 * Gives each sheet of a store its role, from the values. Names of tables and columns add a little where they say
 * something and take nothing away where they do not.
 */
import type { Harvested } from '../harvest';
import type { Table } from '../model';
import { leaveOutAccounts } from './accounts';
import { openAddressRows } from './address-rows';
import { readFewAlike, readHalvesAlike, readOneTableAlike } from './alike-sheets';
import { dropChanceKeys } from './beside';
import { addressShare, bestText, bestTime } from './columns';
import { findCompanions } from './companions';
import type { Context } from './context';
import { type Correction, correctColumns, correctedText, correctionFor, roleWanted } from './correction';
import { type Candidate, chooseCorrespondence, namesWhoIsBeside } from './correspondence-sheets';
import { openCountedOn } from './counted-on';
import { counterOf } from './counter';
import { openBytesBeside } from './bytes-beside';
import { openCurrentVersions } from './current-versions';
import { openEitherTalk } from './either-talk';
import { findDeletedPersons } from './deleted-flag';
import { readFewWithFiles } from './few-with-files';
import { readFilesAlone } from './files-alone';
import { openFirstTimes } from './first-times';
import { joinsOnce } from './joins-once';
import { dropKeysOfNamed, openKeysByKind, openNamedByKind } from './keys-by-kind';
import { openEndsInKeys } from './ends-in-keys';
import { openKeysOfTwo } from './keys-of-two';
import { openLookups } from './lookups';
import { membersBeside } from './members-beside';
import { namesBesideHandles } from './names-beside';
import { openParticipants, participantsOf } from './participants';
import { personEntriesIn } from './person-entries';
import {
	areWrittenAsNames,
	hasAddresses,
	hasNamedAddresses,
	isLikeliest,
	isNamedBy,
	isOfOthers,
	isOfPersons,
	isPartyOf,
	listsAddresses,
	belongsElsewhere,
	namesMembers,
	listsItsAddresses,
	namedByAddresses,
	calledMembers,
	readPersons,
	saysNothing
} from './person-sheets';
import { tellUnlistedOwner } from './owner-unlisted';
import { openNumbersInBytes } from './numbers-in-bytes';
import { movedTables, readMoved } from './moved-tables';
import { openProperties } from './properties';
import { roomsAmongPersons } from './rooms-among-persons';
import { readRowsAsDocuments, rowsAsDocuments } from './rows-as-documents';
import type { Guess, MembersReading, PersonReading, SheetRole, StoreReading, ThreadReading } from './reading';
import { openRecipientRows } from './recipient-rows';
import { isNamedAlike, type Reference, keysOf, raiseNamesakes, referencesOf } from './refs';
import { listsSearches } from './searches';
import { ownersInSettings } from './settings';
import { areOneTable, type Sheet } from './sheet';
import { openSittings } from './sittings';
import { openSteps } from './steps-beside';
import { openStringTables } from './string-table';
import { takingPart } from './taking-part';
import { readTextsAside } from './texts-aside';
import { ShownMessages } from './shows-messages';
import { isJoin, looksLikeThreads, readThreadSheet } from './threads';
import { tellByOthers } from './told-twice';
import { ownerByMembers } from './owner-by-members';
import { openTablesListed } from './tables-listed';
import { wayByTables } from './way-by-tables';
import { writerByMembers } from './writer-by-members';
import { openWritersBeside } from './writers-beside';
import { openWritersByNumber } from './writers-by-number';
import { openWritersByRole } from './writers-by-role';
import { openWritersByPlace } from './writer-by-place';

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
	const all = sheets.flatMap((s) => (listsSearches(s) ? [] : keysOf(s, tables)));
	const byKind = openKeysByKind(sheets, all, tables);
	openKeysOfTwo(sheets, all, tables);
	const inEnds = openEndsInKeys(sheets, all, tables);
	const keys = all.filter(({ column }) => column === null || column.profile.filled > 0);
	const references = new Map(sheets.map((s) => [s, withoutCounter(s, referencesOf(s, keys, tables), tables)]));
	raiseNamesakes(references, tables);
	dropKeysOfNamed({ references, tables });
	const context: Context = { tables, sheets, keys, references, owner, harvests, stated: [...ownersInSettings(sheets, tables), ...inEnds] };
	context.accounts = leaveOutAccounts(context);
	openTablesListed(context);
	openNamedByKind(byKind, context);
	dropChanceKeys(context, beside);
	const properties = openProperties(context);
	openCountedOn(context);
	const steps = new Set([...openCurrentVersions(context), ...openSteps(context), ...openBytesBeside(context)]);
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
	const addressRows = new Set([...openAddressRows(context, booked), ...openRecipientRows(context)]);
	const writersBeside = openWritersBeside(context);
	openWritersByPlace(context);
	openWritersByNumber(context);
	openWritersByRole(context);
	openNumbersInBytes(context);
	openSittings(context);
	const lookups = openLookups(context);
	openParticipants(context);
	openEitherTalk(context);
	openFirstTimes(context);
	const candidates = sheets
		.filter((s) => !beside.has(s) && !s.about && !s.earlierOf)
		.map((sheet) => ({ sheet, text: bestText(sheet), time: bestTime(sheet, tables) }))
		.filter(
			(c): c is Candidate =>
				c.text !== null && wanted(c.sheet) === null && !aside.has(c.sheet) && !booked.has(c.sheet) && !properties.has(c.sheet)
		)
		.filter((c) => !namesWhoIsBeside(c, tables));
	const documents = rowsAsDocuments(sheets, candidates, context).filter((d) => wanted(d.sheet) === null);
	const areDocuments = new Set(documents.map((d) => d.sheet));
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
			// Events after the fact list nobody.
			if (chosen.some((c) => c.sheet === sheet) || sheet.about) continue;
			if (ofTalks.includes(sheet) && wanted(sheet) === null) {
				const by = told.find((t) => t?.members?.sheet === sheet);
				const named = by ? readPersons(sheet, context) : null;
				// Keys that no list of persons has are known by what stands beside them here.
				const called = named && !by!.persons ? calledMembers(named, by!.members!.person, context) : null;
				if (called ?? (named && namesMembers(named, context))) persons.push(called ?? named!);
				continue;
			}
			// Conversations can have a name and a number as persons do.
			if ((lookups.has(sheet) || taking.some((p) => p.thread.key.sheet === sheet)) && wanted(sheet) === null) continue;
			const person = wanted(sheet) === 'other' || personEntries.some((e) => e.sheet === sheet) ? null : readPersons(sheet, context);
			if (
				person &&
				(wanted(sheet) === 'persons' || addressRows.has(sheet) || areTold(sheet) || taking.some((p) => p.writer.key.sheet === sheet))
			)
				persons.push(person);
			else if (person && chosen.length === 0 && (person.names.length > 1 || listsItsAddresses(sheet, context))) persons.push(person);
			// Conversations have no given names.
			else if (person && person.names.length > 1 && person.names.every(areWrittenAsNames)) persons.push(person);
			else if (person && (listsAddresses(person, chosen, context) || !(isJoin(sheet, context) || looksLikeThreads(sheet, context))))
				persons.push(person);
			// What belongs to conversations and names each number alike lists who takes part in them.
			else if (person && belongsElsewhere(sheet, context) && namesMembers(person, context)) persons.push(person);
		}
		return persons.filter((p) => !areThingsOf(p, persons, chosen, context));
	};
	const { chosen, persons, messages, refused } = chooseCorrespondence(
		forced,
		candidates.filter((c) => !areDocuments.has(c.sheet)),
		besides,
		context
	);
	tellUnlistedOwner(messages, persons, context);
	readOneTableAlike(messages);
	const roles = new Map<Sheet, Guess<SheetRole>>();
	for (const { sheet, text, time } of chosen)
		roles.set(sheet, {
			value: 'messages',
			confidence: Math.min(text.confidence, time?.confidence ?? 0.4),
			evidence: [`${sheet.sure.length} rows with a text${time ? ' and a time' : ''}`]
		});
	const messageSheets = new Set([...chosen.map((c) => c.sheet), ...areDocuments]);
	const threads: ThreadReading[] = [];
	const members: MembersReading[] = messages.flatMap((m) => (m.membersTold ? [withPersons(m.membersTold, persons, context)] : []));
	for (const { sheet } of [...members, ...messages.flatMap((m) => m.sizesTold ?? [])])
		roles.set(sheet, { value: 'members', confidence: 0.8, evidence: ['each row joins a thread and a person'] });
	const others = sheets.filter((s) => !messageSheets.has(s));
	const personSheets = new Set(persons.map((p) => p.sheet));
	wayByTables(messages);
	readFewAlike(messages);
	readHalvesAlike(messages);
	tellByOthers(messages, context);
	for (const moved of movedTables(candidates, context)) {
		const [to, at] = [messages.find((m) => m.sheet === moved.of), messages.findIndex((m) => m.sheet === moved.sheet)];
		if (!to || at < 0) continue;
		messages[at] = { ...(readMoved(moved, to) ?? messages[at]!), movedTo: to.sheet };
	}
	for (const d of documents) {
		const m = messages.find((one) => one.sheet === d.of);
		if (!m) continue;
		messages.push(readRowsAsDocuments(d, m));
		roles.set(d.sheet, { value: 'messages', confidence: 0.8, evidence: [`its documents are rows of ${d.of.name}`] });
	}
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
	const shown = new ShownMessages(messages, tables);
	const namedBy = new Set(messages.flatMap((m) => m.thread?.key?.column ?? m.threadJoin?.threadKey?.column ?? []));
	for (const sheet of threadKeys) {
		if (!sheet) continue;
		threads.push(readThreadSheet(sheet, context, persons, namedBy, shown));
		roles.set(sheet, { value: 'threads', confidence: 0.8, evidence: ['messages point to its rows, several to each'] });
	}
	for (const thread of threads) {
		const rooms = roomsAmongPersons(thread, persons, context);
		if (!rooms || messageSheets.has(rooms.sheet) || roles.has(rooms.sheet) || wanted(rooms.sheet) !== null) continue;
		thread.rooms = rooms;
		roles.set(rooms.sheet, { value: 'threads', confidence: 0.8, evidence: ['its rows call those of the persons that have no address'] });
		if (rooms.members && !roles.has(rooms.members.of.sheet))
			roles.set(rooms.members.of.sheet, { value: 'members', confidence: 0.8, evidence: ['each row joins a room and a person'] });
	}
	// Where messages or conversations are with persons of one list, names in another are those of folders and the like.
	const isWith = (sheet: Sheet): boolean =>
		messages.some((m) => isPartyOf(sheet, m)) || threads.some(({ peer, list }) => peer?.key?.sheet === sheet || list?.key?.sheet === sheet);
	const areListed = persons.some((p) => isWith(p.sheet));
	const isOfNamesAlone = (sheet: Sheet): boolean =>
		areListed && !isWith(sheet) && persons.some((p) => p.sheet === sheet && !hasAddresses(p) && p.via === null);
	for (const sheet of others) {
		const { rowidColumn } = tables[sheet.tables[0]!]!;
		const refs = (references.get(sheet) ?? []).filter(
			(r) => r.from.column !== rowidColumn && (!saysNothing(r.from) || isNamedAlike(r.from, r.key.sheet))
		);
		const { toThread, toPerson } = bothEnds(
			refs.filter(
				(r) => threadKeys.has(r.key.sheet) && r.confidence > 0.4 && !MESSAGE_KEY.test(r.from.name) && isLikeliest(r, refs, tables)
			),
			refs.filter(
				(r) => personSheets.has(r.key.sheet) && r.confidence > 0.4 && !isOfNamesAlone(refs.find((x) => x.from === r.from)!.key.sheet)
			)
		);
		const whose = namesBeside.find((p) => p.sheet === sheet)?.addresses[0];
		const address = whose ?? sheet.columns.find((c) => addressShare(c) > 0.5 && c !== toThread?.from);
		// A list of persons that has each once, under the key of his conversation, joins nobody to it, nor does an event.
		// What an export lists within a conversation is of that one, though each has one alone.
		const isWithin = toThread?.from.name === `in ${toThread?.key.sheet.name}`;
		const listed =
			(personSheets.has(sheet) && toThread?.from.profile.unique && !isWithin) || chosen.some((c) => areOneTable(c.sheet, sheet));
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
	for (const m of messages) ownerByMembers(m, members, context);
	for (const m of messages) m.participant = writerByMembers(m, members, persons, context) ?? m.participant;
	members.push(...messages.flatMap((m) => membersBeside(m, namesBeside, tables) ?? []));
	for (const sheet of addressRows)
		if (!roles.has(sheet) && !personSheets.has(sheet))
			roles.set(sheet, { value: 'members', confidence: 0.7, evidence: ['each row says of a message who it was from or to'] });
	for (const sheet of writersBeside)
		if (!roles.has(sheet)) roles.set(sheet, { value: 'attached', confidence: 0.7, evidence: ['each row says who wrote a message'] });
	for (const sheet of properties.keys())
		if (!roles.has(sheet))
			roles.set(sheet, { value: 'properties', confidence: 0.7, evidence: ['each row says one thing of a message, by its name'] });
	const few = readFewWithFiles(
		others.filter((s) => !roles.has(s) && !personSheets.has(s) && wanted(s) === null),
		messages,
		context
	);
	for (const { sheet, text } of few) roles.set(sheet, { value: 'messages', confidence: text.confidence, evidence: text.evidence });
	messages.push(...few);
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
						: c.kind === 'preview'
							? 'its texts are how the messages it names begin'
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
	members.push(...alone.flatMap((m) => (m.membersTold ? [withPersons(m.membersTold, persons, context)] : [])));
	for (const m of messages)
		if (m.threadJoin)
			roles.set(m.threadJoin.sheet, { value: 'message-thread', confidence: 0.8, evidence: ['each row joins a message and a thread'] });
	const naming = [...messageSheets, ...threadKeys, ...roles.keys(), ...persons.filter(hasAddresses).map((p) => p.sheet)];
	const sent = new Set(alone.map((m) => m.sheet));
	const listed = persons.filter((p) => !sent.has(p.sheet));
	const meant = listed.filter(
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

/** Whether a list's rows are things of persons (devices), whom the messages name themselves: it says of each whose it is, and no address. */
function areThingsOf(
	{ sheet, addresses }: PersonReading,
	persons: readonly PersonReading[],
	chosen: readonly Candidate[],
	{ references }: Context
): boolean {
	if (addresses.some((c) => addressShare(c) > 0.4)) return false;
	const areNamed = (other: PersonReading): boolean =>
		other.names.some(areWrittenAsNames) &&
		chosen.some((c) => (references.get(c.sheet) ?? []).some((r) => r.key.sheet === other.sheet && r.confidence > KNOWN));
	return (references.get(sheet) ?? []).some(
		({ from, key, confidence, inclusion }) =>
			confidence > KNOWN &&
			inclusion > OF_SOMEBODY &&
			!from.profile.unique &&
			from.profile.filled >= sheet.sure.length * OF_SOMEBODY &&
			persons.some((other) => other.sheet === key.sheet && other.sheet !== sheet && areNamed(other))
	);
}
const OF_SOMEBODY = 0.95;

/** Names that stand in one value with their addresses. */
const namedWithin = (sheet: Sheet): PersonReading[] =>
	sheet.columns.flatMap((c) => (c.made?.nameOf ? [{ sheet, names: [c], addresses: [c.made.nameOf], via: null }] : []));

/** What is called the key of a message names no conversation, whatever small numbers it has. */
const MESSAGE_KEY = /^z?_?(?:msg|message|mail|letter)s?_?(?:id|key|nr|num|no)?$/i;

/**
 * Of two columns with small numbers either can be a key of both lists: together they are surest one way round. An address
 * can be that of a conversation with him alone: one that is called for conversations names them more surely.
 */
function bothEnds(threads: readonly Reference[], persons: readonly Reference[]): { toThread?: Reference; toPerson?: Reference } {
	const pairs = threads.flatMap((toThread) =>
		persons.filter((toPerson) => toPerson.from !== toThread.from).map((toPerson) => ({ toThread, toPerson }))
	);
	const isAddress = ({ from }: Reference): boolean => addressShare(from) > 0.5;
	const sure = ({ toThread, toPerson }: (typeof pairs)[number]): number =>
		toThread.confidence + toPerson.confidence - (isAddress(toThread) && !isAddress(toPerson) ? 1 : 0);
	const called = threads.find((r) => isNamedAlike(r.from, r.key.sheet) && !isAddress(r));
	return pairs.toSorted((a, b) => sure(b) - sure(a))[0] ?? { toThread: called ?? threads[0] };
}

/** The numbers that a column counts name no rows of other sheets, unless it is called for those: a join of all of them counts too. */
function withoutCounter(sheet: Sheet, references: Reference[], tables: readonly Table[]): Reference[] {
	const counter = counterOf(sheet, tables);
	return counter ? references.filter((r) => r.from !== counter || isNamedAlike(r.from, r.key.sheet)) : references;
}

/** Who takes part, by the list of persons that knows them by the same key. */
function withPersons(members: MembersReading, persons: readonly PersonReading[], { references }: Context): MembersReading {
	if (members.personKey) return members;
	const known = (references.get(members.sheet) ?? []).find(
		(r) => r.from === members.person && r.confidence > KNOWN && persons.some((p) => p.sheet === r.key.sheet)
	);
	return known ? { ...members, personKey: known.key } : members;
}
const KNOWN = 0.6;

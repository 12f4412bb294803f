/** The columns of a sheet of messages that name persons. */
import { endColumns } from './addressees';
import { addressShare, areKeys, isConstant, isFurtherTime, isHandleLike } from './columns';
import type { Context } from './context';
import { saysWay } from '../way-words';
import { isPath } from './files';
import { isLongNumber, isNameLike, isPairName, namedPair, ownerAmongWriters, writerBesidePeer, writesEverywhere } from './parties';
import { type Guess } from './reading';
import { type Key, type Reference } from './refs';
import { isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { isThreadKey } from './threads';
import { namesNoOther, writesInRooms } from './writer-in-rooms';
import { ALL_THREADS, HARDLY, NAMED_THREAD, SURELY } from './how-sure';

export type Party = Guess<SheetColumn> & { key: Key | null };

/** Who wrote beside the other side; `key`: of the list of persons that both are named by, where they are. */
export type WriterBeside = NonNullable<ReturnType<typeof writerBesidePeer>> & { key: Key | null };

/** What has the form of a mail address, and is another in each row: what the messages are known by (RFC 5322, 3.6.4). */
const areMessageIds = ({ profile: p }: SheetColumn): boolean =>
	p.email > 0.4 && p.filled >= IDS_LEAST && (p.many || p.distinct.size >= p.filled * EACH_ONES);
const IDS_LEAST = 12;
const EACH_ONES = 0.98;

/** The columns that name persons, the surest kinds first; the weaker are tried only where there is none of those. */
export function partiesIn(
	sheet: Sheet,
	used: ReadonlySet<SheetColumn>,
	best: ReadonlyMap<SheetColumn, Reference>,
	personSheets: ReadonlySet<Sheet>,
	context: Context
): { parties: Party[]; beside: WriterBeside | null } {
	let asked: ReturnType<typeof writerBesidePeer> | undefined;
	const writerBeside = (): ReturnType<typeof writerBesidePeer> =>
		asked === undefined ? (asked = writerBesidePeer(sheet, used, context)) : asked;
	const parties: Party[] = [];
	for (const [column, r] of best) {
		// What is the same in every row is nobody in particular.
		if (isConstant(column, sheet) || isOwnNumber(column, sheet, context.tables) || column.made?.ofTable) continue;
		if (personSheets.has(r.key.sheet))
			parties.push({
				value: column,
				key: r.key,
				confidence: r.confidence,
				evidence: [`${Math.round(r.inclusion * 100)} % of its values name rows of ${r.key.sheet.name}`]
			});
	}
	const accounts = parties.filter((p) => isOfAccounts(p, sheet, personSheets));
	if (accounts.length > 0) parties.splice(0, parties.length, ...parties.filter((p) => !accounts.includes(p)));
	if (parties.length === 0) addWriterInRooms();
	// Of two that name the same persons the one can say where, and the other who wrote there.
	const [one, two] = parties;
	const both = parties.length === 2 && one!.key?.sheet === two!.key?.sheet ? writerBeside() : null;
	const [peer, writer] = [both?.peer, both?.writer].map((c) => parties.find((p) => p.value === c));
	if (both && peer && writer) return { parties: [peer], beside: { ...both, key: writer.key } };
	const ends = endColumns(sheet, used, context).pairs.find(({ areTold, from, to }) => areTold && isThere(from) && isThere(to));
	if (ends) parties.splice(0, parties.length, ...parties.filter((p) => p.value === ends.from || p.value === ends.to));
	// Small numbers are keys of few persons as well as states: those called states, or often nought, give way to others.
	const isState = ({ value, confidence }: Party): boolean =>
		confidence < SURELY && (STATE_NAMED.test(value.name) || (value.profile.distinct.get(0) ?? 0) > value.profile.filled * OFTEN_NOUGHT);
	if (parties.some((p) => !isState(p))) parties.splice(0, parties.length, ...parties.filter((p) => !isState(p)));
	// Numbers that may as well be kinds of anything give way to a column that surely names persons.
	const sure = parties.some((p) => p.confidence >= SURELY);
	const likely = parties.some((p) => p.confidence >= HARDLY && !isNumberOfThreads(p.value));
	const isFull = ({ value }: Party): boolean => value.profile.filled >= sheet.sure.length * ALL_THREADS;
	const besides = (p: Party): Party[] =>
		parties.filter((q) => (q.confidence > p.confidence || isFull(q)) && writesInRooms(p.value, q.value, sheet, context.tables));
	const inRooms = parties.find((p) => besides(p).length > 0);
	// What stands in every row says more of whom a message is with than what is surer.
	const talk = inRooms && (besides(inRooms).find(isFull) ?? besides(inRooms)[0]);
	for (const p of [...parties])
		if (p === inRooms || p === talk) continue;
		else if ((sure && p.confidence < HARDLY) || (likely && isNumberOfThreads(p.value))) parties.splice(parties.indexOf(p), 1);
	const addressed = sheet.columns.filter(
		(c) =>
			!used.has(c) &&
			c.column >= 0 &&
			!parties.some((p) => p.value === c) &&
			!isFurtherTime(c) &&
			!listsThings(c) &&
			!areMessageIds(c) &&
			(addressShare(c) > 0.4 || c.profile.addresses > 0.6)
	);
	const threaded = [...best].some(([c, r]) => !personSheets.has(r.key.sheet) && c.profile.distinct.size > 1);
	for (const column of addressed) {
		// The same address in every row is the owner's account, if anybody else is there.
		const others = parties.length > 0 || addressed.some((c) => !isConstant(c, sheet)) || threaded;
		if (!(isConstant(column, sheet) && others && !isPairName(column)))
			parties.push({
				value: column,
				key: null,
				confidence: Math.min(1, column.profile.addresses),
				evidence: ['its values are numbers or addresses']
			});
	}
	if (talk)
		return {
			parties: parties.filter((p) => p === talk || p === inRooms || !namesNoOther(p.value, talk.value, sheet, context.tables)),
			beside: null
		};
	if (parties.length < 2) parties.push(...namedPair(sheet, used, parties, context));
	if (parties.length === 0 && !writerBeside()) {
		const writer = writerInRooms(
			sheet,
			sheet.columns.filter((c) => !used.has(c) && isCalled(c, sheet)),
			context
		);
		if (writer)
			parties.push({
				value: writer,
				key: null,
				confidence: 0.45,
				evidence: ['one of its values stands beside all of another column’s, others beside few']
			});
	}
	addRoomBeside();
	// What surely names the rows of a list of conversations is none of the persons.
	const namesTalks = (c: SheetColumn): boolean =>
		(best.get(c)?.confidence ?? 0) >= NAMED_THREAD && !personSheets.has(best.get(c)!.key.sheet);
	if (parties.length === 0) {
		const areCalled = sheet.columns.some((c) => !used.has(c) && isNameLike(c, sheet));
		// What names the rows of a list that is no persons' is a key of threads, sooner than a handle.
		const asKey = (c: SheetColumn): number => best.get(c)?.confidence ?? 0;
		// What no list of persons has, and looks like versions or kinds, is nobody.
		const isNobodys = (c: SheetColumn): boolean => personSheets.size > 0 && asKey(c) === 0 && (areKeys(c) || areKinds(c));
		const handles = sheet.columns
			.filter((c) => !used.has(c) && isHandleColumn(c, sheet) && !isNobodys(c) && !(areCalled && namesTalks(c)))
			.sort((a, b) => asKey(a) - asKey(b));
		const inRooms = writerInRooms(sheet, handles, context);
		const peer = inRooms ?? handles[0];
		const evidence = ['its values recur and are written like handles'];
		if (peer) parties.push({ value: peer, key: null, confidence: 0.5, evidence });
		// Named in the rows of a room only.
		const writer = inRooms ? undefined : handles.find((c) => c !== peer && c.profile.filled < peer!.profile.filled && isAmong(c, peer!));
		if (writer) parties.push({ value: writer, key: null, confidence: 0.5, evidence });
		else if (!writerBeside()) addRoomBeside();
	}
	const [only] = parties;
	const isWriter = (p: Party, of: NonNullable<ReturnType<typeof writerBeside>>): boolean =>
		of.hasRooms && of.writer === p.value && !namesTalks(of.peer);
	const mayBeWriter = parties.length <= 1 && (!only?.key || (writerBeside() !== null && isWriter(only, writerBeside()!)));
	const beside = mayBeWriter ? writerBeside() : null;
	// Of the writer's column nobody knows whom the owner wrote to.
	if (beside && only?.value === beside.writer) parties.pop();
	if (beside && parties.length === 0)
		parties.push({
			value: beside.peer,
			key: only?.key ?? null,
			confidence: 0.7,
			evidence: ['its values recur, and stand as writers in another column']
		});
	if (parties.length === 0) {
		const number = sheet.columns.find((c) => !used.has(c) && c.column >= 0 && isLongNumber(c, sheet));
		if (number)
			parties.push({ value: number, key: null, confidence: 0.5, evidence: ['its values are as long as telephone numbers, and recur'] });
	}
	if (parties.length === 0) {
		const name = sheet.columns.find((c) => !used.has(c) && isNameLike(c, sheet));
		if (name) parties.push({ value: name, key: null, confidence: 0.4, evidence: ['its values recur and are written like names'] });
	}
	return { parties, beside: beside && { ...beside, key: only?.key ?? null } };

	/** Few numbers are keys of anything: of those who write in rooms alone, several in each, it is seen that they are persons'. */
	function addWriterInRooms(): void {
		const talks = [...best].filter(([c, r]) => !personSheets.has(r.key.sheet) && c.profile.filled >= sheet.sure.length * ALL_THREADS);
		const writer = (context.references.get(sheet) ?? []).find(
			({ from, key, inclusion }) =>
				personSheets.has(key.sheet) &&
				inclusion >= ALL_THREADS &&
				!used.has(from) &&
				!isOwnNumber(from, sheet, context.tables) &&
				talks.some(([talk]) => writesInRooms(from, talk, sheet, context.tables))
		);
		const evidence = ['it names several persons in each of a few conversations, and nobody in the others'];
		if (writer) parties.push({ value: writer.from, key: writer.key, confidence: 0.6, evidence });
	}

	function isThere(column: SheetColumn): boolean {
		return parties.some((p) => p.value === column);
	}

	/** The other side of each conversation or its room, beside the one column that names writers. */
	function addRoomBeside(): void {
		const room = parties.length === 1 ? roomBeside(sheet, used, parties[0]!.value, context) : null;
		if (!room) return;
		const evidence = ['its values recur, and some of them are the writers of other rows'];
		parties.push({ value: room, key: null, confidence: 0.6, evidence });
	}
}

/** Whether a key leads to a list of two or three, the owner's lines, where a longer one has the persons and another column tells conversations apart. */
function isOfAccounts({ value, key }: Party, sheet: Sheet, personSheets: ReadonlySet<Sheet>): boolean {
	if (!key || key.sheet.sure.length > ACCOUNTS_AT_MOST || value.profile.filled < sheet.sure.length) return false;
	const isLonger = [...personSheets].some((s) => s !== key.sheet && s.sure.length > ACCOUNTS_AT_MOST);
	const isTold = sheet.columns.some(
		(c) => c !== value && c.profile.distinct.size > key.sheet.sure.length && (isThreadKey(c, sheet) || addressShare(c) > 0.4)
	);
	return isLonger && isTold;
}
const ACCOUNTS_AT_MOST = 3;

/** Names, of persons or of rooms, that come again. */
const isCalled = (c: SheetColumn, sheet: Sheet): boolean => isNameLike(c, sheet) && !c.profile.time;

/** Of columns of handles that of writers, where another one is that of the rooms. */
function writerInRooms(sheet: Sheet, handles: readonly SheetColumn[], context: Context): SheetColumn | undefined {
	const pairs = handles.flatMap((writer) =>
		handles.filter((room) => room !== writer).map((room) => ({ writer, share: writesEverywhere(sheet, room, writer, context) }))
	);
	const found = pairs.filter(({ share }) => share > 0);
	return found.sort((a, b) => b.share - a.share || Number(isPairName(b.writer)) - Number(isPairName(a.writer)))[0]?.writer;
}

const STATE_NAMED = /status|state|flag|prio|level|kind|type|box|folder|count|version|read|seen|proto|error|retry/i;
const OFTEN_NOUGHT = 0.1;

/** A number that is called a conversation's: persons are numbered from one as well. */
const isNumberOfThreads = ({ name, profile }: SheetColumn): boolean =>
	profile.texts === 0 && profile.blobs === 0 && /thread|chat|conv|room|group/i.test(name);

/** Lists (JSON) of things with fields: who made them is not who wrote. */
const listsThings = ({ profile: p }: SheetColumn): boolean =>
	p.json > 0.5 && [...p.distinct.keys()].some((v) => /^\s*(\[\s*)?\{/.test(String(v)));

/** A few plain words. */
const areKinds = ({ profile }: SheetColumn): boolean =>
	profile.distinct.size <= 4 && [...profile.distinct.keys()].every((v) => /^(?:\p{Ll}+|\p{Lu}+)$/u.test(String(v)));

/** Handles of persons or rooms that come again and again. */
const isHandleColumn = (c: SheetColumn, sheet: Sheet): boolean =>
	c.column >= 0 &&
	isHandleLike(c) &&
	!c.profile.many &&
	!isPath(c) &&
	c.profile.digest < 0.5 &&
	c.profile.distinct.size > 1 &&
	c.profile.distinct.size <= sheet.sure.length * 0.6 &&
	c.profile.averageLength > 3 &&
	!/type|kind|state|status|mime|dir/i.test(c.name) &&
	![...c.profile.distinct.keys()].some((v) => saysWay(String(v)));

/** Whether nearly all of a column's values are those of another one too. */
const isAmong = (c: SheetColumn, other: SheetColumn): boolean =>
	[...c.profile.distinct.keys()].filter((v) => other.profile.distinct.has(v)).length > c.profile.distinct.size * 0.8;

/** A column of rooms and other sides, in most of which one and the same person writes. */
const roomBeside = (sheet: Sheet, used: ReadonlySet<SheetColumn>, writer: SheetColumn, context: Context): SheetColumn | null =>
	sheet.columns.find((c) => {
		const p = c.profile;
		if (c === writer || used.has(c) || c.column < 0 || p.time || p.many || p.texts === 0 || p.averageLength > 60) return false;
		return p.distinct.size <= sheet.sure.length * 0.6 && ownerAmongWriters(sheet, c, writer, context) !== null;
	}) ?? null;

/** Of the sheets with writing in them those that are messages: what somebody wrote to somebody, each once. */
import { isCalled } from '../called';
import type { Table } from '../model';
import { AskedOnce } from './asked-once';
import { TABLE_NAME, addressShare, isHandleLike, textScore } from './columns';
import type { Context } from './context';
import { weighCorrespondence } from './correspondence';
import { namesTables } from './keys-by-kind';
import { readMessages } from './message-sheet';
import { isGone } from './moved-tables';
import { isOtherHalf } from './other-half';
import { isNameLike } from './parties';
import { isFamily, isGiven } from './person-sheets';
import { isSign } from './profile';
import type { Guess, MessageReading, PersonReading } from './reading';
import { type Reference, isMeant, isNamedAlike, keyOf } from './refs';
import { repeatsAtOnce } from './repeated';
import { type Sheet, type SheetColumn, areOneTable, cell, isOwnNumber } from './sheet';

export type Candidate = { sheet: Sheet; text: Guess<SheetColumn>; time: MessageReading['time'] };

/** The sheets of messages, read: of those with writing in them the ones that somebody wrote to somebody. `besides`: the persons beside them. */
export function chooseCorrespondence(
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
	// A table that is gone from the store held what the program has moved to another: that one is told first.
	const gone = new Set(candidates.filter((c) => isGone(c.sheet)));
	const isMovedFrom = (c: Candidate, m: Candidate): boolean => gone.has(c) && !gone.has(m);
	// What a list of a few shows last of each is said in the table of all: that one is told first as well.
	const texts = new AskedOnce<Sheet, ReadonlySet<string>>();
	const shown = new Set(candidates.filter((c) => candidates.some((m) => m.time && showsTextsOf(c, m, texts, context))));
	const last = (c: Candidate): number => Number(gone.has(c)) * 2 + Number(shown.has(c));
	const ranked = candidates.map((c) => ({ c, w: weight(c) })).sort((a, b) => last(a.c) - last(b.c) || b.w - a.w);
	const best = ranked[0];
	if (!best) return [];
	const chosen: Candidate[] = [];
	for (const { c, w } of ranked) {
		const isHalf = chosen.some((m) => isOtherHalf(c, m, context));
		if ((w < 3.2 && !(c === best.c && w > 2.2) && !isHalf) || isListOfNames(c)) continue;
		if (c !== best.c && ((!c.time && best.c.time) || UNSENT.test(c.sheet.name))) continue;
		// What was begun and not sent is no message, even where nothing else is left.
		if (DRAFTS.test(c.sheet.name) && context.tables.length > 1) continue;
		if (c !== best.c && (isSignsAlone(c.text.value) || namesRooms(c, best.c))) continue;
		const aside = chosen.flatMap((m) => namesMessages(c, m, context));
		const social = socialScore(c, context, aside) + Number(c !== best.c && pointsWhere(c, best.c, context));
		// Where nothing says it of the likeliest either, as many rows as that one has, and more, are messages too.
		const isAsLikely = w > best.w - AS_LIKELY && c.sheet.sure.length >= best.c.sheet.sure.length && social >= socialScore(best.c, context);
		if (c !== best.c && ((social < 0.5 && !isHalf && !isAsLikely) || beginAlike(c, context))) continue;
		const referencedByMessages = chosen.some(
			(m) =>
				!saysItWasIn(m, c, context) &&
				(context.references.get(m.sheet) ?? []).some(
					(r, _, all) =>
						r.key.sheet === c.sheet &&
						r.confidence > 0.6 &&
						// The surest of each column stands first: what that names is named.
						isAsSure(
							r,
							all.find((x) => x.from === r.from)!
						) &&
						m.sheet.sure.length > c.sheet.sure.length &&
						isMeant(r, m.sheet, context.tables)
				)
		);
		if (referencedByMessages) continue;
		if (chosen.some((m) => !isMovedFrom(c, m) && repeats(c, m, context))) continue;
		chosen.push(c);
	}
	return chosen.filter(
		(c) => !chosen.some((m) => m !== c && !isMovedFrom(c, m) && (repeatsTimed(c, m, context) || namesWhatItRepeats(c, m, context)))
	);
}

/** How many times as many rows the table of all has; share of the texts shown that must be among its, since some are deleted there. */
const TIMES_AS_MANY = 2;
const AMONG_THEM = 0.6;

/** Whether a sheet of few rows has the texts of another with many. */
function showsTextsOf(c: Candidate, m: Candidate, texts: AskedOnce<Sheet, ReadonlySet<string>>, context: Context): boolean {
	if (c === m || c.sheet.sure.length > FEW_SHOWN || c.sheet.sure.length * TIMES_AS_MANY > m.sheet.sure.length) return false;
	const [few, all] = [c, m].map(({ sheet, text }) => texts.of(sheet, context, () => textsIn(sheet, text.value, context)));
	return few!.size > 1 && [...few!].filter((text) => all!.has(text)).length >= few!.size * AMONG_THEM;
}
const FEW_SHOWN = 1000;

const textsIn = ({ sure }: Sheet, text: SheetColumn, { tables }: Context): Set<string> =>
	new Set(
		sure.flatMap((row) => {
			const value = cell(row, text, tables);
			return typeof value === 'string' && value !== '' ? [value] : [];
		})
	);

/**
 * Whether a sheet's texts are the names of those whose numbers stand beside them: who comes again has the same text again.
 * Lists of calls are such.
 */
export function namesWhoIsBeside({ sheet, text }: Candidate, tables: readonly Table[]): boolean {
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

/** A few rows among those of messages whose text stands elsewhere, and is a name: what a room is called from then on. */
const namesRooms = (c: Candidate, best: Candidate): boolean =>
	areOneTable(c.sheet, best.sheet) &&
	placeOf(c.text.value) !== placeOf(best.text.value) &&
	c.sheet.sure.length <= Math.max(FEW_NAMED, best.sheet.sure.length * RARELY) &&
	c.text.value.profile.name > MOSTLY_NAMES;
const placeOf = ({ column, path }: SheetColumn): string => [column, ...path].join('.');
const FEW_NAMED = 3;
const RARELY = 0.02;
const MOSTLY_NAMES = 0.8;

const AS_LIKELY = 0.5;

/** By how much less sure a key may be that is meant all the same. */
const AS_SURE = 0.15;

/** Whether a sheet's rows say by the name of another's table that they were in it: they name their own rows there. */
const saysItWasIn = (m: Candidate, { sheet: { name } }: Candidate, { tables }: Context): boolean =>
	m.sheet.columns.some(
		(c) => namesTables(c, tables) && [...c.profile.distinct.keys()].some((v) => String(v).toLowerCase() === name.toLowerCase())
	);

/** Whether a reference is about as sure as the surest of its column; where a list has the addresses, another that has some is not named by them. */
const isAsSure = (r: Reference, surest: Reference): boolean =>
	r === surest || (r.confidence > surest.confidence - AS_SURE && !(r.key.column && addressShare(r.key.column) > 0.4));

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
export function repeatsTexts(
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
	repeatsAtOnce({ sheet: c.sheet, text: c.text.value, time: c.time }, { sheet: m.sheet, text: m.text.value, time: m.time }, context) &&
	!isPutAside(c, m, context);

/** Whether a few rows name messages of another sheet and have their texts, with a time of their own: what was pinned, say. */
const namesWhatItRepeats = (c: Candidate, m: Candidate, context: Context): boolean =>
	c.sheet.sure.length < m.sheet.sure.length * 0.5 &&
	namesMessages(c, m, context).length > 0 &&
	repeatsTexts({ sheet: c.sheet, text: c.text.value }, { sheet: m.sheet, text: m.text.value }, context.tables) &&
	!isPutAside(c, m, context);

/**
 * Whether what a sheet has in use with a time is in use in the other one no more, in any capture: it was put aside, into a bin
 * say, and stands in lost rows and earlier captures of the other.
 */
function isPutAside(c: Candidate, m: Candidate, { harvests, tables }: Context): boolean {
	if (!c.time) return false;
	const inUse = (of: Candidate, { book }: NonNullable<typeof harvests>[number]): string[] =>
		of.sheet.tables.flatMap((table) =>
			book.rowsOf(table).flatMap((row) => {
				const text = row.standing === 'kept' ? cell(row, of.text.value, tables) : null;
				return typeof text === 'string' && text.length >= LETTERS ? [text] : [];
			})
		);
	let all = 0;
	for (const capture of harvests ?? []) {
		const [here, there] = [inUse(c, capture), new Set(inUse(m, capture))];
		if (there.size === 0) continue;
		if (here.filter((text) => there.has(text)).length > here.length * SAID_AGAIN) return false;
		all += here.length;
	}
	return all > 0;
}
const LETTERS = 6;
/** Share of the texts that are said twice by chance. */
const SAID_AGAIN = 0.2;

/** Whether most of c's texts are also m's: a copy, or a history of earlier wordings. */
function repeats(c: Candidate, m: Candidate, context: Context): boolean {
	const repeated = repeatsTexts({ sheet: c.sheet, text: c.text.value }, { sheet: m.sheet, text: m.text.value }, context.tables);
	const saysWhere = c.sheet.columns.some((column) => namesTables(column, context.tables));
	// All rows are read for it: it is asked where it would change what is said.
	const isAside = (repeated || saysWhere) && isPutAside(c, m, context);
	if (repeated && !isAside) return true;
	if (saysWhere && isAside) return false;
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

/** Sheets of persons: which columns are their names, numbers and addresses, and which sheets only list those of others. */
import { isFullName } from '../called';
import { speaksOfOthers, speaksOfPersons } from '../kind-words';
import type { Row, Table } from '../model';
import { type Heading, headingOf } from '../people/headings';
import { cardsColumn, listsOfOwnAddresses } from './address-lists';
import { casedIn } from './cased-names';
import { namesTables } from './keys-by-kind';
import {
	addressShare,
	areCounted,
	areDigestKeys,
	areFullNames,
	areKeys,
	bestTime,
	containsAddresses,
	isHandleLike,
	nameScore
} from './columns';
import type { Context } from './context';
import { isPath } from './files';
import type { MessageReading, PersonReading } from './reading';
import { type Reference, isDeclared, isMeant, isNamedAlike, keyOf } from './refs';
import { listsSearches } from './searches';
import { type Sheet, type SheetColumn, cell, isOwnNumber } from './sheet';
import { isNamed } from './threads';

/** By how much less sure a key may be that is meant all the same; share of texts that must read as sentences. */
const AS_SURE = 0.15;
const PROSE = 0.5;

/** Whether a column names nothing else more surely, or is called for what it names. */
export const isLikeliest = (r: Reference, all: readonly Reference[], tables: readonly Table[]): boolean =>
	isNamedAlike(r.from, r.key.sheet) || isDeclared(r, tables) || r.confidence >= all.find((x) => x.from === r.from)!.confidence - AS_SURE;

/** What something is about is nobody's name. */
const SUBJECT_NAMED = /subject|topic|betreff|thema|sujet|asunto|assunto|oggetto|onderwerp|temat/i;

/** The persons that a sheet lists, with the columns of their names and addresses; null where it lists none. */
export function readPersons(sheet: Sheet, context: Context): PersonReading | null {
	if (context.tables[sheet.tables[0]!]!.settings || listsSearches(sheet)) return null;
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
				!SUBJECT_NAMED.test(c.name) &&
				!addresses.includes(c) &&
				!isPath(c) &&
				(!saysNothing(c, 1) || isPartOfName(c)) &&
				(!areKindsOf(c) || isPartOfName(c)) &&
				!isLabel(c, addresses[0]) &&
				!namesTables(c, context.tables) &&
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
	const own = givenByOwner(names, wholeName(names, sheet));
	const organisation = sheet.columns.find((c) => ORGANISATION_NAMED.test(c.name) && c.profile.texts > 0 && !own.includes(c)) ?? null;
	const otherNames = names.filter(
		(c) => !own.includes(c) && c !== organisation && canBeCalledBy(c) && !own.every((o) => isFilled(o, sheet))
	);
	const inSmall = own.length === 1 ? casedIn(own[0]!, sheet, context.tables) : null;
	return {
		sheet,
		names: own,
		otherNames,
		cased: inSmall,
		organisation,
		addresses,
		lists,
		via: via ? { column: via.from, key: via.key } : null
	};
}

const isFilled = ({ profile }: SheetColumn, { sure }: Sheet): boolean => profile.filled >= sure.length;

/** Whether who has no other name may be called by a column's: full names, or called one. A town is none, nor what somebody is. */
const canBeCalledBy = (c: SheetColumn): boolean => !ORGANISATION_NAMED.test(c.name) && (NAME_NAMED.test(c.name) || areFullNames(c));
const NAME_NAMED = /name|nick|alias|display|called|remark/i;

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

export const hasAddresses = (p: PersonReading): boolean =>
	p.addresses.length > 0 || (p.lists?.length ?? 0) > 0 || (p.cards ?? null) !== null;

/** Whether addresses are surely such: single words with a name beside each are a program's settings as well. */
export const hasNamedAddresses = (p: PersonReading): boolean =>
	(hasAddresses(p) && p.addresses.length === 0) || p.addresses.some((c) => addressShare(c) > 0.4 || HANDLE_NAMED.test(c.name));

/** Whether rows with addresses that no message names are persons: each has a name and a number of telephones or a mail address, or is called so. */
export function isOfPersons(p: PersonReading): boolean {
	const names = [p.sheet.name, ...p.sheet.columns.map((c) => c.name)];
	if (speaksOfPersons(p.sheet.name) || (p.lists?.length ?? 0) > 0 || p.cards) return true;
	if (names.some(speaksOfOthers) && !names.some(speaksOfPersons))
		return p.addresses.some((c) => TELEPHONE_NAMED.test(c.name) || c.profile.email > 0.4);
	return p.addresses.some((c) => addressShare(c) > 0.4);
}

export const isOfOthers = ({ name }: Sheet): boolean => speaksOfOthers(name) && !speaksOfPersons(name);

const TELEPHONE_NAMED = /phone|\btel|mobil|cell/i;

/** With a capital in most of them, or in a script that has none: words of a program, and what was searched for, are not. */
export const areWrittenAsNames = ({ profile }: SheetColumn): boolean => {
	const values = [...profile.distinct.keys()].slice(0, 200).map(String);
	return values.filter((v) => /\p{Lu}|\p{Lo}/u.test(v)).length >= values.length * 0.5;
};

export const isPartyOf = (sheet: Sheet, m: MessageReading): boolean =>
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
export const isNamedBy = (sheet: Sheet, others: readonly (Sheet | undefined)[], context: Context): boolean =>
	others.some((s) => {
		const refs = (s && s !== sheet && context.references.get(s)) || [];
		return refs.some(
			(r) => r.key.sheet === sheet && r.confidence > 0.45 && isLikeliest(r, refs, context.tables) && isMeant(r, s!, context.tables)
		);
	});

/** Sheets of names to whose rows another sheet gives numbers and addresses: persons, be there a time in them or not. */
export function namedByAddresses({ sheets, references, tables }: Context): Sheet[] {
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
export const listsItsAddresses = (sheet: Sheet, context: Context): boolean =>
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
export function listsAddresses(person: PersonReading, chosen: readonly { sheet: Sheet }[], context: Context): boolean {
	const { via } = person;
	const named = (sheet: Sheet): boolean =>
		chosen.some((c) => (context.references.get(c.sheet) ?? []).some((r) => r.key.sheet === sheet && r.confidence > 0.45));
	// Numbers of a room's members are no persons' of that name.
	return via !== null && !named(person.sheet) && (!named(via.key.sheet) || isNamed(via.key.sheet));
}

/** Those who take part, where they are listed with full names beside the key that messages name them by: as persons known by it. */
export function calledMembers(person: PersonReading, key: SheetColumn, { tables }: Context): PersonReading | null {
	const columns = person.sheet.columns.filter((c) => c !== key && c.column >= 0 && areFullNames(c) && isFilled(c, person.sheet));
	const name = columns.find((c) => {
		const known = new Map<string | number, unknown>();
		return person.sheet.sure.every((row) => {
			const [who, called] = [keyOf(cell(row, key, tables)), cell(row, c, tables)];
			if (who === null) return false;
			const same = (known.get(who) ?? called) === called;
			known.set(who, called);
			return same;
		});
	});
	return name
		? { ...person, names: [name], addresses: [key, ...person.addresses.filter((c) => c !== key && c !== name)], via: null }
		: null;
}

/** Whether each of a sheet's rows is of a row of another sheet, several of one. */
export const belongsElsewhere = (sheet: Sheet, { references }: Context): boolean =>
	(references.get(sheet) ?? []).some(
		({ from, inclusion, confidence }) => inclusion === 1 && confidence >= BELONGS && isFilled(from, sheet) && !from.profile.unique
	);
const BELONGS = 0.5;

/** Whether members are listed with their names: each number or mail address has one of its own, wherever it stands. */
export function namesMembers({ sheet, names, addresses, via }: PersonReading, { tables }: Context): boolean {
	const [address, ...more] = addresses;
	const [name] = names;
	if (!address || !name || more.length > 0 || via !== null || addressShare(address) < MEMBERS_ADDRESSED) return false;
	const known = new Map<string, string>();
	for (const row of sheet.sure) {
		const [who, called] = [keyOf(cell(row, address, tables)), cell(row, name, tables)];
		if (who === null || typeof called !== 'string' || called === '') continue;
		if ((known.get(String(who)) ?? called) !== called) return false;
		known.set(String(who), called);
	}
	return known.size >= MEMBERS_LEAST && new Set(known.values()).size >= known.size * MEMBERS_ADDRESSED;
}
const MEMBERS_ADDRESSED = 0.8;
const MEMBERS_LEAST = 2;

const ORGANISATION_NAMED = /org(ani[sz]ation|$)|company|firm(a|$)/i;

const GIVEN_NAMED = /first|given|fore|^z?f_?name/i;

const FAMILY_NAMED = /last|sur_?name|family|^z?l_?name/i;

const MIDDLE_NAMED = /middle|additional_?name|second_?name|^z?m_?name|patronym/i;

export const isGiven = ({ name }: SheetColumn): boolean => GIVEN_NAMED.test(name) || headingOf(name) === 'given';

export const isFamily = ({ name }: SheetColumn): boolean => FAMILY_NAMED.test(name) || headingOf(name) === 'family';

const isMiddle = (c: SheetColumn): boolean =>
	c.column >= 0 && c.profile.texts > 0 && (MIDDLE_NAMED.test(c.name) || headingOf(c.name) === 'middle') && addressShare(c) === 0;

const isPartOfName = (c: SheetColumn): boolean => isGiven(c) || isFamily(c);

/** The columns that make a person's name, given name first: mostly one. */
function wholeName(ranked: readonly SheetColumn[], sheet: Sheet): SheetColumn[] {
	const given = ranked.find(isGiven);
	const family = ranked.find((c) => c !== given && isFamily(c));
	const best = ranked.find((c) => !ORGANISATION_NAMED.test(c.name)) ?? ranked[0];
	// What only some are called by, as rooms are by their titles, is no whole name.
	const isSeldom = (c: SheetColumn): boolean => given !== undefined && c.profile.filled < given.profile.filled * SELDOM;
	if (given && family && (best === given || best === family || isMiddle(best!) || isSeldom(best!) || KEY_NAMED.test(best!.name)))
		return [given, ...sheet.columns.filter(isMiddle), family];
	return inTwoWords(ranked, sheet) ?? (best ? [best] : []);
}

const KEY_NAMED = /(?:^|[_. ])(?:id|key|uid|guid|uuid)$|[a-z]Id$/;

/** The column of names that the owner gave, where persons are else called as they call themselves: these follow as other names. */
function givenByOwner(names: readonly SheetColumn[], own: SheetColumn[]): SheetColumn[] {
	const [only, more] = own;
	if (!only || more || !CALLED_BY_THEMSELVES.test(only.name)) return own;
	const given = names.find((c) => c !== only && GIVEN_BY_OWNER.test(c.name) && !CALLED_BY_THEMSELVES.test(c.name));
	return given ? [given] : own;
}
const CALLED_BY_THEMSELVES = /nick|profile|push|screen|public/i;
const GIVEN_BY_OWNER = /remark|custom|saved|book|local|contact|system|display|own_?name/i;

/** Two columns side by side of one word each, written as names are, in a list that has no whole names: where what they are called says nothing. */
function inTwoWords(ranked: readonly SheetColumn[], sheet: Sheet): SheetColumn[] | null {
	const words = (c: SheetColumn): string[] => [...c.profile.distinct.keys()].map(String);
	const saysNone = ({ name }: SheetColumn): boolean => headingOf(name) === null && !speaksOfOthers(name) && !speaksOfPersons(name);
	const areWords = (c: SheetColumn): boolean =>
		c.path.length === 0 &&
		saysNone(c) &&
		c.profile.filled >= sheet.sure.length * IN_TWO_WORDS &&
		words(c).length > 1 &&
		words(c).every((w) => ONE_WORD.test(w));
	if (ranked.some((c) => words(c).some(isFullName))) return null;
	const parts = ranked.filter(areWords).sort((a, b) => a.column - b.column);
	const [a, b] = parts;
	return parts.length === 2 && b!.column === a!.column + 1 && a!.profile.filled === b!.profile.filled ? parts : null;
}
const IN_TWO_WORDS = 0.7;
const SELDOM = 0.5;
const ONE_WORD = /^\p{Lu}[\p{Ll}'’-]+(?:-\p{Lu}\p{Ll}+)?$/u;

/** A column with one value in all rows (the engine's kind of entity, say) leads nowhere. */
export const saysNothing = (c: SheetColumn, rows = 3): boolean =>
	c.profile.blobs === 0 && c.profile.filled > rows && c.profile.distinct.size < 2;

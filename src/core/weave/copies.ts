/**
 * Puts the rows of text indexes and histories with the messages they name: the same text is one more place where it
 * was seen, another one an earlier wording; and the text of a message seen nowhere else brings that message back.
 */
import { put } from '../lists';
import { plainRow } from '../harvest';
import { isBeginning, messageKeyOf, type Copied, type Understood } from '../interpret';
import type { Row, Sighting, Standing } from '../model';
import { areAlike } from '../likeness';
import type { WovenStore } from './weave';
import { isBlank, isInUse, type Woven } from './woven';

export function placeCopies(store: WovenStore, messages: Woven[], make: (u: Understood) => Woven): void {
	const { tables } = store;
	const wordings = new Map<Woven, Woven[]>();
	for (const m of messages) if (m.earlierWordingOf) put(wordings, m.earlierWordingOf, m);
	const addWording = (of: Woven, row: Row, text: string, until: number | null): void => {
		// Of a row without a text it is what the row said.
		if (isBlank(of.first) && text !== '') {
			of.takeTextBack({ text, textCut: false });
			of.addSightings(row);
			return;
		}
		const standing = row.standing === 'kept' ? 'dropped' : row.standing;
		const earlier = make({ ...of.first, row: { ...plainRow(row), standing }, text, textCut: false, files: [], attached: [], wordings: [] });
		earlier.earlierWordingOf = of;
		earlier.until = until;
		put(wordings, of, earlier);
		messages.push(earlier);
	};
	for (const m of [...messages])
		for (const { text, at } of m.earlierWordingOf ? [] : m.first.wordings) {
			const known = [m, ...(wordings.get(m) ?? [])].find((w) => w.first.text === text);
			if (known) known.until ??= known === m ? null : at;
			else addWording(m, { ...plainRow(m.first.row), sightings: seenIn(m.first.row, 'history') }, text, at);
		}
	const keys = [...new Set(store.understood.copies.map((c) => c.messageKey))];
	const byKey = new Map(keys.map((key) => [key, new Map<string, Woven[]>()]));
	const byText = new Map<string, Woven[]>();
	/** The first message of each text, whatever its number. */
	const saying = new Map<string, Woven>();
	for (const m of messages) {
		if (m.earlierWordingOf) continue;
		for (const key of keys) {
			const value = key ? messageKeyOf(m.first.row, key, tables) : m.record === null ? null : String(m.record);
			if (value !== null) put(byKey.get(key)!, ofSheet(m.first, value), m);
		}
		if (m.first.text !== null && !saying.has(m.first.text)) saying.set(m.first.text, m);
		if (m.record === null && m.first.text !== null) put(byText, m.first.text, m);
	}
	/** The first of each text at each time. */
	const atItsTime = new Map<string, Woven>();
	const atOnce = new Map<number, Woven[]>();
	const mains = messages.filter((m) => !m.earlierWordingOf);
	for (const m of [...mains, ...messages.filter((x) => x.earlierWordingOf)])
		if (!atItsTime.has(timedKey(m.first))) atItsTime.set(timedKey(m.first), m.earlierWordingOf ?? m);
	for (const m of mains) if (m.first.sentAt !== null) put(atOnce, m.first.sentAt, m);
	/** The message whose wording it was until that was changed. */
	const rewordedSince = ({ sentAt, text }: Understood): Woven | undefined =>
		(atOnce.get(sentAt ?? NaN) ?? []).find((m) => text !== null && m.first.text !== null && areAlike(m.first.text, text));
	const usedLast = [...messages].sort((a, b) => Number(isInUse(a)) - Number(isInUse(b)));
	const byTextRow = new Map(usedLast.flatMap((m) => (m.first.textRows ?? []).map((row) => [row, m] as const)));
	const revisions = new Map<Woven, Copied[]>();
	for (const copy of store.understood.copies) {
		const named = byKey.get(copy.messageKey)!;
		const name = copy.key === null ? null : ofSheet(copy, copy.key);
		const numbered = name === null ? undefined : ofText(named.get(name), copy.text);
		const main =
			byTextRow.get(copy.row) ??
			(copy.understood ? (atItsTime.get(timedKey(copy.understood)) ?? rewordedSince(copy.understood)) : undefined) ??
			(numbered && isOfAnother(copy, numbered, store) ? undefined : numbered) ??
			(copy.understood ? undefined : byText.get(copy.text)?.find((m) => m.record === null)) ??
			(copy.key === null && !copy.understood ? (saying.get(copy.text) ?? null) : null);
		const row = seenAs(copy, main);
		if (main && copy.kind === 'revision' && !copy.textCut) put(revisions, main, copy);
		else if (main) {
			const same = [main, ...(wordings.get(main) ?? [])].find((w) => isSaidBy(copy, w) || w.first.textRows?.includes(copy.row));
			if (same) {
				same.addSightings(row);
				same.until ??= same === main ? null : copy.at;
			} else if (!copy.textCut) {
				addWording(main, row, copy.text, copy.at);
			}
			// Of a row that lost its number the copy says which it was: further copies name it so.
			if (name !== null && !named.has(name)) put(named, name, main);
			if (main.record === null && copy.messageKey === null && copy.key !== null) main.record = Number(copy.key);
		}
		if (main) continue;
		const lost = make({
			...(copy.understood ? { ...copy.understood, reading: copy.reading } : unknown(copy)),
			row: copy.understood ? { ...row, rowid: null } : row
		});
		if (!copy.understood) lost.grade = 'fragment';
		lost.record = null;
		if (copy.understood) atItsTime.set(timedKey(copy.understood), lost);
		if (copy.messageKey === null && Number.isSafeInteger(Number(copy.key ?? NaN))) lost.record = Number(copy.key);
		lost.recordTable = copy.reading.sheet.tables[0]!;
		if (name !== null) put(named, name, lost);
		else put(byText, copy.text, lost);
		if (!saying.has(copy.text)) saying.set(copy.text, lost);
		messages.push(lost);
	}
	for (const [main, changes] of revisions) revise(main, changes, addWording);
}

/** Whether a copy has a message's text, or its beginning where a list shows no more. */
const isSaidBy = ({ kind, text, textCut }: Copied, { first }: Woven): boolean =>
	first.text === text || (kind === 'preview' && textCut && first.text !== null && isBeginning(text, first.text));

const timedKey = ({ sentAt, text }: Understood): string => `${sentAt}|${text}`;

/** Rows of several tables of messages are numbered alike. */
const ofSheet = ({ reading }: Pick<Understood, 'reading'>, key: string): string => `${(reading.movedTo ?? reading.sheet).index}:${key}`;

/**
 * Whether a text that is lost was of another message, which had the number before: where numbers are given out again, and
 * the two have nothing in common.
 */
function isOfAnother(copy: Copied, named: Woven, { harvest }: WovenStore): boolean {
	if (copy.kind !== 'aside' || copy.row.standing === 'kept' || copy.textCut) return false;
	const table = harvest.tables[copy.messageKey === null ? named.recordTable : copy.row.table];
	if (named.first.text === null || named.first.textCut || !table || harvest.sequences.has(table.name)) return false;
	return !areAlike(named.first.text, copy.text);
}

/** What a message was changed into last is its text; what it said until then are earlier wordings. */
function revise(
	main: Woven,
	changes: readonly Copied[],
	addWording: (of: Woven, row: Row, text: string, until: number | null) => void
): void {
	const order = [...changes].sort(
		(a, b) => Number(a.row.standing !== 'kept') - Number(b.row.standing !== 'kept') || (a.at ?? 0) - (b.at ?? 0)
	);
	const inUse = order.filter((c) => c.row.standing === 'kept');
	// What was taken back, or is only in lost bytes, was said all the same.
	const last = isInUse(main) ? inUse.at(-1) : order.at(-1);
	const all = last ? [...order.filter((c) => c !== last), last] : order;
	const own = main.first.text;
	if (last) {
		if (own !== null && own !== last.text)
			addWording(main, { ...plainRow(main.first.row), sightings: seenIn(main.first.row, 'history') }, own, all[0]!.at);
		main.first = { ...main.first, text: last.text, textCut: false };
		main.addSightings(last.row);
	}
	for (const [i, change] of all.entries()) {
		const standing = lostStanding(change.row);
		if (change !== last && change.text !== last?.text)
			addWording(
				main,
				{ ...plainRow(change.row), standing, sightings: seenIn(change.row, 'history') },
				change.text,
				all[i + 1]?.at ?? null
			);
	}
}

/** Of messages that had one number one after the other that which says it; where none does, the first. */
const ofText = (of: readonly Woven[] | undefined, text: string): Woven | undefined => of?.find((m) => m.first.text === text) ?? of?.[0];

/** What the list of conversations shows is one more place of its message, or the one left of a message that is gone. */
export function placePreviews(store: WovenStore, messages: Woven[], make: (u: Understood) => Woven): void {
	const byThread = new Map<string, Woven[]>();
	const bySeconds = new Map<number, Woven[]>();
	for (const m of messages) {
		put(byThread, m.first.threadKey, m);
		if (m.first.sentAt !== null) put(bySeconds, Math.floor(m.first.sentAt / SECOND), m);
	}
	const bySecond = (at: number | null): Woven[] => {
		const second = at === null ? NaN : Math.floor(at / SECOND);
		return [second - 1, second, second + 1].flatMap((s) => bySeconds.get(s) ?? []);
	};
	for (const { row, text, cut, at, beside, reading } of store.understood.previews) {
		const seen = { ...plainRow(row), standing: lostStanding(row), sightings: seenIn(row, 'preview') };
		const canBegin = cut || text.length >= BEGINNING;
		const said = (w: Woven): boolean => w.first.text === text || (canBegin && w.first.text?.startsWith(text) === true);
		// Of a lost row the conversation can be told wrongly.
		const elsewhere = row.standing !== 'kept' && text.length >= TELLING ? bySecond(at) : [];
		const known = (byThread.get(beside?.threadKey ?? '') ?? []).find(said) ?? elsewhere.find((w) => isAtOnce(w, at) && said(w));
		if (known) {
			known.addSightings(seen);
			continue;
		}
		const reworded = cut ? undefined : bySecond(at).find((w) => isAtOnce(w, at) && w.first.text !== null && areAlike(w.first.text, text));
		if (reworded) {
			const of = reworded.earlierWordingOf ?? reworded;
			const earlier = make({ ...of.first, row: seen, text, textCut: false, files: [], attached: [], wordings: [] });
			earlier.earlierWordingOf = of;
			put(byThread, of.first.threadKey, earlier);
			messages.push(earlier);
			continue;
		}
		const lost = make({ ...blank(reading), row: seen, text, textCut: cut, sentAt: at, ...(beside ? talkOf(beside) : {}) });
		lost.grade = 'fragment';
		lost.record = null;
		put(byThread, lost.first.threadKey, lost);
		if (at !== null) put(bySeconds, Math.floor(at / SECOND), lost);
		messages.push(lost);
	}
}

/** The conversation of a message, for another one of it of which no more is known. */
function talkOf(u: Understood): Pick<Understood, 'threadKey' | 'group' | 'threadTitle' | 'members' | 'zoned' | 'correspondent'> {
	const { threadKey, group, threadTitle, members, zoned } = u;
	return { threadKey, group, threadTitle, members, zoned, correspondent: group ? null : (members[0] ?? u.correspondent) };
}

const isAtOnce = ({ first }: Woven, at: number | null): boolean =>
	at !== null && first.sentAt !== null && Math.abs(first.sentAt - at) < SECOND;
const SECOND = 1000;
/** Letters of a text that is hardly said twice at once. */
const TELLING = 8;
/** And of one that begins one message alone, though nothing says that it was cut. */
const BEGINNING = 20;

const lostStanding = (row: Row): Standing => (row.standing === 'remnant' ? 'remnant' : 'dropped');

/**
 * The row as a sighting of the message it names: what is in use there is not the message itself. Nor is a text that several
 * messages can name in use where none in use does.
 */
function seenAs({ row, kind, messageKey }: Copied, main: Woven | null | undefined): Row {
	if (kind === 'revision') return row;
	const standing = lostStanding(row);
	if (kind !== 'aside') return { ...plainRow(row), standing, sightings: seenIn(row, kind) };
	if (messageKey === null || row.standing !== 'kept' || (main && isInUse(main))) return row;
	return {
		...plainRow(row),
		standing,
		sightings: row.sightings.map((s) => ({ ...s, standing: s.standing === 'kept' ? standing : s.standing }))
	};
}

/** Where a row was seen, as places of a text that is no message's own now. */
const seenIn = (row: Row, method: Sighting['method']): Sighting[] =>
	row.sightings.map((s): Sighting => ({ ...s, method, standing: s.standing === 'remnant' ? 'remnant' : 'dropped' }));

/** What is known of a message of which only a copy of its text is left. */
const unknown = (copy: Copied): Understood => ({ ...blank(copy.reading), row: copy.row, text: copy.text, textCut: copy.textCut });

const blank = (reading: Understood['reading']): Omit<Understood, 'row'> => ({
	reading,
	text: null,
	textCut: false,
	sentAt: null,
	zoned: true,
	direction: null,
	correspondent: null,
	threadKey: 'p:?',
	group: false,
	threadTitle: null,
	members: [],
	deletedFlag: false,
	guid: null,
	files: [],
	attached: [],
	answers: null,
	wordings: []
});

/**
 * The messages of the captures of one store as one list. The newest decides the standing; a message in use only in an
 * older one was dropped, and the captures on either side bracket when.
 */
import { betterStanding, isSameButForItsEnd } from '../harvest';
import type { Standing } from '../model';
import { primaryKeyOf, RECORDS_ALIKE, type Capture, type Family } from './families';
import { placeOf } from './fragments';
import { takePhrasesBack } from './phrases';
import { isHardlySaidAgain, isOfCopies } from './stray-copies';
import { TableNames } from './table-names';
import { messagesWithParts } from './with-parts';
import { isEdit, isMisplaced, sameMessage, sameRecord, TELLING, type Weave, type WovenStore } from './weave';
import { isBlanked, isByPage, isInUse, isOfNoThread, isThreadGuessed, standingOfBlank, type Woven } from './woven';

export type CaptureState = 'in' | 'binned' | 'out' | 'before';

/**
 * Makes one list of the messages of a family: each message once, with its state in every capture. `perStore` has the
 * messages of every store of the look.
 */
export function mergeFamily(family: Family, perStore: readonly Woven[][], stores: readonly WovenStore[]): Woven[] {
	const newest = family.captures.at(-1)!;
	const merged = messagesWithParts(newest, perStore, stores);
	if (family.captures.length === 1) return merged;
	const own = new OwnStates();
	for (const m of merged) {
		m.noteIn(newest.store, m.standing);
		own.note(m, newest.store, m.standing);
	}
	const index = new Merged(stores, new TableNames(family, stores));
	merged.forEach((m) => index.add(m));
	for (const capture of family.captures.slice(0, -1).reverse()) {
		const becomes = new Map<Woven, Woven>();
		const here = messagesWithParts(capture, perStore, stores);
		takeHome(here, index, capture.store);
		index.begin(here);
		// Messages before their earlier wordings, which need to know whose they are.
		for (const m of [...here.filter((x) => !x.earlierWordingOf), ...here.filter((x) => x.earlierWordingOf)]) {
			let { standing } = m;
			m.inOlderCapture();
			const same = m.earlierWordingOf ? null : index.same(m);
			if (same && isBlanked(same.first, m.first)) {
				same.takeTextBack(m.first);
				own.blank(same, same.standing);
			} else if (same && isBlanked(m.first, same.first)) standing = standingOfBlank(m.first);
			if (same) index.becomesWording(same, m);
			const edited = m.earlierWordingOf ? mainOf(becomes.get(m.earlierWordingOf) ?? m.earlierWordingOf) : index.edited(m);
			const main = same ? same.earlierWordingOf : edited;
			const into = same ?? (main && (index.wording(main, m) ?? index.looseWording(main, m)));
			// In another wording it was there all the same.
			if (main && !m.earlierWordingOf) main.noteIn(capture.store, standing);
			own.note(into ?? m, capture.store, standing);
			if (into) {
				const known = `${into.record}|${into.first.text}`;
				into.takeIn(m);
				if (!into.earlierWordingOf && known !== `${into.record}|${into.first.text}`) index.add(into);
				into.noteIn(capture.store, standing);
				becomes.set(m, into);
				continue;
			}
			m.noteIn(capture.store, standing);
			if (main) m.earlierWordingOf = main;
			index.add(m);
			merged.push(m);
		}
		for (const m of here) if (m.answers) m.answers = becomes.get(m.answers) ?? m.answers;
	}
	nameConversations(merged);
	lastWordings(merged, family, own);
	const said = takePhrasesBack(merged, family.captures, (m, capture) => own.of(m, capture));
	return withoutDoubles(withoutWrongEnds(withoutWordingsTwice(said)));
}

/**
 * A wording that one capture's history has, and another capture's row, is one. A text that came back is twice in one
 * history, and stays so.
 */
function withoutWordingsTwice(merged: Woven[]): Woven[] {
	const known = new Map<Woven, Woven[]>();
	return merged.filter((m) => {
		const main = m.earlierWordingOf;
		if (!main) return true;
		const stores = m.seenIn ?? new Map<number, Standing>();
		const same = known.get(main)?.find((w) => w.first.text === m.first.text && ![...stores.keys()].some((store) => w.seenIn?.has(store)));
		if (!same) {
			put(known, main, m);
			return true;
		}
		same.takeIn(m);
		same.until ??= m.until;
		for (const [store, standing] of stores) same.noteIn(store, standing);
		return false;
	});
}

/**
 * Tells which conversation of the newer captures each of an older one is, by the messages that both have: the program can
 * have numbered its conversations anew, and given the number of one to another. `store`: that of the older one.
 */
function takeHome(older: readonly Woven[], newer: Merged, store: number): void {
	const became = new Map<string, Map<string, number>>();
	for (const m of older) {
		if (!isNumbered(m.thread) || m.earlierWordingOf || isOfNoThread(m.first)) continue;
		for (const { thread, first } of newer.saidThen(m)) {
			// What is left of a lost row can say nothing of where it was.
			if (!isNumbered(thread) || isOfNoThread(first)) continue;
			const counts = became.get(m.thread) ?? new Map<string, number>();
			became.set(m.thread, counts.set(thread, (counts.get(thread) ?? 0) + 1));
		}
	}
	const homes = new Map([...became].map(([thread, counts]) => [thread, [...counts].sort((a, b) => b[1] - a[1])[0]![0]] as const));
	if ([...homes].every(([thread, home]) => thread === home)) return;
	for (const m of older) if (isNumbered(m.thread)) m.thread = homes.get(m.thread) ?? `${m.thread}.${store}`;
}
/** Whether a conversation is known by a number of its store's (see `ThreadNames`). */
const isNumbered = (thread: string): boolean => !thread.startsWith('p');

/** A conversation in which, in an older capture, only the owner had written is with the one who has written in it since. */
function nameConversations(merged: readonly Woven[]): void {
	const isKeyed = ({ first }: Woven): boolean => first.threadKey.startsWith('t:') && !isOfNoThread(first) && !first.group;
	const known = new Map<string, Woven>();
	for (const m of merged) if (isKeyed(m) && m.thread.startsWith('p') && m.first.correspondent) known.set(m.first.threadKey, m);
	for (const m of merged) {
		const other = isKeyed(m) && m.thread.startsWith('t') ? known.get(m.first.threadKey) : undefined;
		if (other) m.isWith(other);
	}
	// One in which a capture has hardly anybody write, and is with somebody called as the room is in another, is that room.
	const rooms = new Map<string, Woven>();
	for (const m of merged) if (m.first.group && m.first.threadTitle && m.first.threadKey.startsWith('t:')) rooms.set(m.first.threadKey, m);
	for (const m of merged) {
		const room = isKeyed(m) ? rooms.get(m.first.threadKey) : undefined;
		if (room && m.first.correspondent?.name === room.first.threadTitle) m.isInRoom(room);
	}
}

const mainOf = (m: Woven): Woven => m.earlierWordingOf ?? m;

/**
 * A freed row whose long text ends otherwise than that of its whole copy in another capture, and takes as many bytes, is
 * that copy: pages on which it went on have been used again since. Its end is nothing that anybody wrote there.
 */
function withoutWrongEnds(merged: Woven[]): Woven[] {
	const byRecord = new Map<string, Woven[]>();
	// What is stored behind the text lies on those pages too, the time perhaps among it.
	const keyOf = (m: Woven): string | null =>
		m.record === null || m.first.text === null ? null : `${m.first.row.table}|${m.record}|${m.first.text.slice(0, TELLING)}`;
	for (const m of merged) {
		const key = keyOf(m);
		if (key !== null) put(byRecord, key, m);
	}
	const gone = new Map<Woven, Woven>();
	for (const m of merged) {
		const key = keyOf(m);
		const others = key !== null && m.first.row.standing === 'remnant' ? byRecord.get(key)! : [];
		const whole = others.find(
			(x) => x !== m && x.first.row.standing !== 'remnant' && x.grade === 'whole' && isSameButForItsEnd(x.first.text!, m.first.text!)
		);
		if (!whole || gone.has(whole)) continue;
		whole.takeIn(m);
		for (const [store, standing] of m.seenIn ?? []) whole.noteIn(store, standing);
		if (whole.earlierWordingOf === m) whole.earlierWordingOf = null;
		gone.set(m, whole);
	}
	for (const m of merged) {
		if (m.answers) m.answers = gone.get(m.answers) ?? m.answers;
		if (m.earlierWordingOf) m.earlierWordingOf = gone.get(m.earlierWordingOf) ?? m.earlierWordingOf;
		if (m.earlierWordingOf === m) m.earlierWordingOf = null;
	}
	return merged.filter((m) => !gone.has(m));
}

/** A row that lost its number is the message that another capture's row of one number turned out to be. */
function withoutDoubles(merged: Woven[]): Woven[] {
	const byText = new Map<string, Woven[]>();
	for (const m of merged) {
		const said = m.record === null || m.earlierWordingOf ? null : sayingOf(m);
		if (said !== null) put(byText, said, m);
	}
	const byTime = new Map<number, Woven[]>();
	for (const m of merged) if (m.record !== null && m.first.sentAt !== null && !m.earlierWordingOf) put(byTime, m.first.sentAt, m);
	// Of a row that lost what it said, that having been in another table, its moment tells whose it is.
	const ofMoment = (m: Woven): Woven | undefined => {
		if (m.first.text !== null || m.first.files.length > 0 || isInUse(m)) return undefined;
		const there = (byTime.get(m.first.sentAt!) ?? []).filter((x) => x.first.direction === m.first.direction && canBeOne(x, m));
		return there.length === 1 ? there[0] : undefined;
	};
	// What is left of a copy says nothing but the text: of whichever message of that text is not in use there.
	const told = new Map<string, Woven[]>();
	for (const m of merged) if (m.first.text !== null && m.first.sentAt !== null && !isOfCopies(m)) put(told, m.first.text, m);
	const ofCopy = (m: Woven): Woven | undefined => {
		const { text, sentAt } = m.first;
		if (text === null || isInUse(m) || !isOfCopies(m) || (sentAt !== null && !isHardlySaidAgain(text))) return undefined;
		const stores = [...(m.seenIn?.keys() ?? [])];
		const all = told.get(text) ?? [];
		return all.find((x) => !stores.some((store) => x.seenIn?.get(store) === 'kept')) ?? (/\s/.test(text) ? all[0] : undefined);
	};
	const named = new Set(merged.flatMap((m) => [m.earlierWordingOf, m.answers]));
	return merged.filter((m) => {
		if (m.record !== null || m.earlierWordingOf) return true;
		const atItsTime = m.first.sentAt === null ? [] : (byText.get(sayingOf(m)!) ?? []);
		const same =
			atItsTime.find((x) => x.first.sentAt === m.first.sentAt && canBeOne(x, m)) ??
			ofCopy(m) ??
			(m.first.sentAt === null ? undefined : ofMoment(m));
		if (!same || named.has(m)) return true;
		same.takeIn(m);
		for (const [store, standing] of m.seenIn ?? []) same.noteIn(store, standing);
		return false;
	});
}

/** What a message is found again by in another capture: its text; where it has none, that it has none at its time. */
const sayingOf = ({ first }: Woven): string | null => first.text ?? (first.sentAt === null ? null : `\u0000${first.sentAt}`);

/** In which captures each wording itself was seen, and how: `seenIn` says it of the message in whatever wording. */
class OwnStates {
	private readonly states = new Map<Woven, Map<number, Standing>>();

	note(m: Woven, store: number, standing: Standing): void {
		const known = this.states.get(m) ?? new Map<number, Standing>();
		this.states.set(m, known);
		known.set(store, betterStanding(known.get(store) ?? standing, standing));
	}

	/** Where it was in use it was so without its text. */
	blank(m: Woven, standing: Standing): void {
		for (const [store, known] of this.states.get(m) ?? []) if (known === 'kept') this.states.get(m)!.set(store, standing);
	}

	of(m: Woven, { store }: Capture): Standing | undefined {
		return this.states.get(m)?.get(store);
	}
}

/**
 * A message deleted before the newest capture is there in whatever wording its freed bytes still hold. The wording that
 * was in use last is the message, unless the other one appeared only after that.
 */
function lastWordings(merged: readonly Woven[], family: Family, own: OwnStates): void {
	const wordings = new Map<Woven, Woven[]>();
	for (const m of merged) if (m.earlierWordingOf) put(wordings, m.earlierWordingOf, m);
	const inUse = (m: Woven, capture: Capture): boolean => {
		const standing = own.of(m, capture);
		return standing === 'kept' || standing === 'binned';
	};
	for (const [main, others] of wordings) {
		const at = family.captures.findLastIndex((c) => [main, ...others].some((m) => inUse(m, c)));
		const last = at < 0 || inUse(main, family.captures[at]!) ? undefined : others.find((m) => inUse(m, family.captures[at]!));
		const known = family.captures.slice(0, at + 1).some((c) => own.of(main, c) !== undefined);
		if (!last || !known) continue;
		for (const [store, standing] of main.seenIn ?? []) last.noteIn(store, standing);
		last.earlierWordingOf = null;
		for (const m of [main, ...others]) if (m !== last) m.earlierWordingOf = last;
	}
}

const isLost = ({ first }: Woven): boolean => first.row.standing === 'remnant';

/** What a message with files is known by where its text is not. */
const filesOf = ({ first }: Woven): string[] =>
	first.sentAt === null ? [] : first.files.flatMap(({ name, size }) => (name === null ? [] : [`${first.sentAt}|${name}|${size}`]));

/** Whether nothing that is known of both speaks against their being one message. */
function canBeOne(a: Woven, b: Woven): boolean {
	const [x, y] = [a.first, b.first];
	if (x.sentAt !== null && y.sentAt !== null && x.sentAt !== y.sentAt) return false;
	const areMisplaced = isMisplaced(a, b) || isMisplaced(b, a) || areBothByPage(a, b);
	// A row that is told by its page alone can have been put into the other table of two that look alike.
	if (x.direction !== null && y.direction !== null && x.direction !== y.direction) return areMisplaced;
	if (a.thread === b.thread || isOfNoThread(x) || isOfNoThread(y)) return true;
	return areMisplaced || (isThreadGuessed(x) !== isThreadGuessed(y) && x.sentAt !== null && x.sentAt === y.sentAt);
}

/** Whether two rows, each told by its page alone, are of one moment and say the same, or have one number. */
const areBothByPage = (a: Woven, b: Woven): boolean =>
	isByPage(a) &&
	isByPage(b) &&
	a.first.sentAt !== null &&
	a.first.sentAt === b.first.sentAt &&
	((a.first.text ?? '').length >= TELLING || (a.record !== null && a.record === b.record));

/** The messages merged so far, by record, by key and by text. */
class Merged {
	private readonly byRecord = new Map<string, Woven[]>();
	private readonly byText = new Map<string, Woven[]>();
	private readonly wordings = new Map<Woven, Woven[]>();
	/** Whether the capture that is merged now gives its messages the numbers that the newer ones do. */
	private numbersHold = true;
	/** Messages of tables without numbers, by when, who and where. */
	private readonly byMoment = new Map<string, Woven[]>();
	/** How many of the capture that is merged now have each. */
	private moments = new Map<string, number>();
	/** Messages by when and with what file they were sent. */
	private readonly byFile = new Map<string, Woven[]>();
	/** Those by text. */
	private readonly byWording = new Map<string, Woven[]>();

	constructor(
		private readonly stores: readonly WovenStore[],
		private readonly names: TableNames
	) {}

	/** The messages of the capture that is merged next. */
	begin(here: readonly Woven[]): void {
		this.numbersHold = true;
		const numbered = here.flatMap((m) => {
			const others = isInUse(m) && !m.earlierWordingOf ? this.candidates(m).filter(isInUse) : [];
			return others.length > 0 ? [others.some((c) => sameMessage(c.first, m.first))] : [];
		});
		this.numbersHold = numbered.length < NUMBERED_LEAST || numbered.filter((same) => same).length >= numbered.length * RECORDS_ALIKE;
		this.moments = new Map();
		for (const m of here) {
			const moment = m.earlierWordingOf ? null : this.momentOf(m);
			if (moment !== null) this.moments.set(moment, (this.moments.get(moment) ?? 0) + 1);
		}
	}

	private keys(m: Woven): string[] {
		const { tables } = this.stores[m.store]!;
		const keys: string[] = [];
		const { rowidColumn, inferred } = tables[m.recordTable]!;
		if (m.record !== null && this.numbersHold && (rowidColumn >= 0 || inferred))
			keys.push(`${this.names.of(m.store, m.recordTable)}#${m.record}`);
		if (m.first.guid) keys.push(`g|${m.first.guid}`);
		const own = primaryKeyOf(m.first, tables[m.first.row.table]!);
		if (own !== null) keys.push(own);
		return keys;
	}

	add(m: Woven): void {
		const said = sayingOf(m);
		if (m.earlierWordingOf) {
			put(this.wordings, m.earlierWordingOf, m);
			if (said !== null) put(this.byWording, said, m);
			return;
		}
		for (const key of this.keys(m)) put(this.byRecord, key, m);
		if (said !== null) put(this.byText, said, m);
		const moment = this.momentOf(m);
		if (moment !== null) put(this.byMoment, moment, m);
		for (const file of filesOf(m)) put(this.byFile, file, m);
	}

	/** Of a row in use of a table whose rows nothing numbers for good: when it was sent, by whom, in which thread. */
	private momentOf({ first, store, thread }: Woven): string | null {
		const table = this.stores[store]!.harvest.tables[first.row.table]!;
		const numbered = table.rowidColumn >= 0 || table.primaryKey.length > 0 || first.guid !== null;
		return numbered || first.row.standing !== 'kept' || first.sentAt === null ? null : `${first.sentAt}|${first.direction}|${thread}`;
	}

	/** Those of its text and time, sent the same way; none where the text says too little, being that of very many. */
	saidThen({ first }: Woven): Woven[] {
		if (first.text === null || first.sentAt === null) return [];
		const all = this.byText.get(first.text) ?? [];
		return all.length > SAID_OFTEN ? [] : all.filter((c) => c.first.sentAt === first.sentAt && c.first.direction === first.direction);
	}

	/** Those of one record or key, the whole ones first: a fragment finds its message later. */
	private candidates(m: Woven): Woven[] {
		const all = this.keys(m).flatMap((key) => this.byRecord.get(key) ?? []);
		return all.length < 2 ? all : all.toSorted((a, b) => Number(a.grade === 'fragment') - Number(b.grade === 'fragment'));
	}

	same(m: Woven): Woven | null {
		for (const c of this.candidates(m))
			if (sameMessage(c.first, m.first) || sameRecord(c.first, m.first) || isBlanked(c.first, m.first) || isBlanked(m.first, c.first))
				return c;
		// Two of one capture are two; the same text in another is the same message, wherever it was numbered anew.
		const alike = (this.byText.get(sayingOf(m) ?? '') ?? []).filter((c) => !c.seenIn?.has(m.store) && canBeOne(c, m));
		const timed = alike.find((c) => c.first.sentAt !== null && c.first.sentAt === m.first.sentAt);
		const filed = timed ?? this.ofTheSameFile(m) ?? alike.find((c) => isLost(c) && isLost(m) && placeOf(c) === placeOf(m));
		// Where the time of one is lost, the text must be one message's alone.
		return filed ?? (alike.length === 1 && (m.first.text ?? '').length >= TELLING ? alike[0]! : null);
	}

	/** A file that stands in a table of its own, of which the text is gone here, or known here alone. */
	private ofTheSameFile(m: Woven): Woven | undefined {
		const isAlone = ({ first }: Woven): boolean =>
			first.text === null && first.reading.alone !== undefined && first.row.standing !== 'kept';
		const same = filesOf(m).flatMap((file) => this.byFile.get(file) ?? []);
		return same.find((c) => !c.seenIn?.has(m.store) && (isAlone(c) || isAlone(m)) && canBeOne(c, m));
	}

	edited(m: Woven): Woven | null {
		// A capture can name its conversations otherwise, where rows are left of it that another has not.
		const areOfOne = (c: Woven): boolean => c.thread === m.thread || c.first.threadKey === m.first.threadKey;
		for (const c of this.candidates(m)) if (isEdit(c.first, m.first, true, areOfOne(c))) return c;
		const moment = this.momentOf(m);
		const there = moment === null ? [] : (this.byMoment.get(moment) ?? []).filter((c) => c.first.text !== m.first.text);
		if (
			moment !== null &&
			this.moments.get(moment) === 1 &&
			there.length === 1 &&
			!there[0]!.seenIn?.has(m.store) &&
			isEdit(there[0]!.first, m.first, true, areOfOne(there[0]!))
		)
			return there[0]!;
		// Where nothing numbers it: of the same time and text as a wording that another capture has.
		const known = this.byWording.get(sayingOf(m) ?? '')?.find((w) => w.first.sentAt === m.first.sentAt && canBeOne(w, m));
		return known?.earlierWordingOf ?? null;
	}

	/** A text that lost its number or its time is an earlier wording where `m`, the same of another capture, is one by both. */
	becomesWording(text: Woven, m: Woven): void {
		const main = this.edited(m);
		if (main) this.becomesWordingOf(main, text);
	}

	private becomesWordingOf(main: Woven, text: Woven): boolean {
		if (main === text || main.earlierWordingOf || text.earlierWordingOf || isInUse(text)) return false;
		for (const w of [text, ...(this.wordings.get(text) ?? [])]) {
			w.earlierWordingOf = main;
			put(this.wordings, main, w);
		}
		return true;
	}

	/** A text without a number, or with that of `m`, that a newer capture has, where only `m`, the same of this one, shows whose wording it is. */
	looseWording(main: Woven, m: Woven): Woven | null {
		if (m.first.sentAt === null) return null;
		const numbered = this.candidates(m);
		const isAsNumbered = (c: Woven): boolean => c.record === null || numbered.includes(c);
		const same = this.byText
			.get(sayingOf(m) ?? '')
			?.find((c) => isAsNumbered(c) && c.first.sentAt === m.first.sentAt && !c.seenIn?.has(m.store) && canBeOne(c, m));
		return same && this.becomesWordingOf(main, same) ? same : null;
	}

	/** An earlier wording of `main` with the text of `m`. */
	wording(main: Woven, m: Woven): Woven | null {
		return [main, ...(this.wordings.get(main) ?? [])].find((w) => w.first.text === m.first.text) ?? null;
	}
}

/** Messages of one text beyond which it tells nothing, and seeking among them takes long. */
const SAID_OFTEN = 200;
/** Messages of one number in two captures from which on it is told whether those are the same. */
const NUMBERED_LEAST = 3;

function put<K>(map: Map<K, Woven[]>, key: K, m: Woven): void {
	const list = map.get(key);
	if (list?.includes(m)) return;
	if (list) list.push(m);
	else map.set(key, [m]);
}

export interface Bracket {
	states: { capture: Capture; state: CaptureState }[];
	/** ms UTC: the captures on either side of the deletion; both null where it was not deleted, or none says. */
	lastSeen: number | null;
	firstMissing: number | null;
}

/**
 * The captures that a message stands in: those of its own store, where there are several, else of another store of the
 * same device that has it too. `of` is the message as that store has it.
 */
export function capturesFor(m: Woven, { families, familyOf }: Pick<Weave, 'families' | 'familyOf'>): { of: Woven; family: Family } | null {
	const family = families[familyOf[m.store]!]!;
	if (family.captures.length > 1) return { of: m, family };
	for (const copy of m.copies) {
		const found = copy.isElsewhere ? null : capturesFor(copy, { families, familyOf });
		if (found) return found;
	}
	return null;
}

/** A message's state in each capture of its family, oldest first, and between which of them it went. */
export function bracketOf(m: Woven, family: Family): Bracket {
	let wasThere = false;
	const states = family.captures.map((capture): { capture: Capture; state: CaptureState } => {
		const seen = m.seenIn?.get(capture.store);
		if (seen === 'kept' || seen === 'binned') {
			wasThere = true;
			return { capture, state: seen === 'kept' ? 'in' : 'binned' };
		}
		// What is newest inside of a capture is older than a message that was deleted from its end.
		if (wasThere) return { capture, state: 'out' };
		const at = m.first.sentAt;
		return { capture, state: seen === undefined && at !== null && capture.time !== null && capture.time < at ? 'before' : 'out' };
	});
	const last = states.findLastIndex((s) => s.state === 'in');
	const missing = states.findIndex((s, i) => i > last && s.state !== 'in' && s.state !== 'before');
	if (missing < 0) return { states, lastSeen: null, firstMissing: null };
	const [seen, gone] = [last < 0 ? null : states[last]!.capture.time, states[missing]!.capture.time];
	return { states, lastSeen: seen, firstMissing: seen !== null && gone !== null ? Math.max(seen, gone) : gone };
}

/**
 * Weaves the messages of all stores into threads: versions of one message are told as one, earlier wordings are put
 * under theirs, the same message seen in another place loses no sighting, and record numbers nobody has seen are
 * kept as gaps.
 */
import { put } from '../lists';
import type { Harvested } from '../harvest';
import { messageKeyOf, type Party, type StoreReading, type Understood, type UnderstoodStore } from '../interpret';
import type { Gap, Table } from '../model';
import { mergeFamily } from './captures';
import { familiesOf, isSomebodysExport, type Family } from './families';
import { placeCopies, placePreviews } from './copies';
import { placeFragments } from './fragments';
import { joinKeptTwice } from './kept-twice';
import { joinSameRooms } from './same-rooms';
import { findGaps } from './gaps';
import { areAlike } from '../likeness';
import { listedGaps } from './listed';
import { ordinalGaps } from './ordinals';
import { joinSides, turnToOwner, type Side, type SidesOfThread } from './sides';
import { isBlanked, isByPage, isInUse, isOfNoThread, isThreadGuessed, Woven } from './woven';
import { withoutStrayCopies } from './stray-copies';
import { Moments } from './one-moment';
import { putWaysRight } from './ways';

export interface WovenStore {
	/** The store's name: its main file's. */
	name: string;
	/** Path of its main file. */
	path?: string;
	harvest: Harvested;
	reading: StoreReading;
	/** Those the reading's sheets are of: the harvest's, and behind them those of files beside it. */
	tables: readonly Table[];
	understood: UnderstoodStore;
	/** When this copy was taken, ms UTC, where that is stated. */
	takenAt?: number | null;
	/** When its files were last changed, ms UTC, as what holds them says. */
	modified?: number | null;
	/** The device that it is of, and the place on it, where a backup states it. */
	onDevice?: { device: string; place: string } | null;
	/** Whether it is an export rather than a program's own store. */
	exported?: boolean;
}

export interface WovenThread {
	id: string;
	title: string;
	address: string | null;
	group: boolean;
	members: { address: string | null; name: string | null }[];
	messages: Woven[];
}

export interface Weave {
	threads: WovenThread[];
	gaps: Gap[];
	families: Family[];
	/** Index into `families` of each store. */
	familyOf: number[];
	/** Threads that several sources hold, and how the copies compare. */
	compared: SidesOfThread[];
}

/** A 53-bit hash of a text, in base 36: short, stable names for messages and threads. */
export function hashOf(text: string): string {
	let a = 0xdeadbeef;
	let b = 0x41c6ce57;
	for (let i = 0; i < text.length; i++) {
		const c = text.charCodeAt(i);
		a = Math.imul(a ^ c, 2654435761);
		b = Math.imul(b ^ c, 1597334677);
	}
	a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909);
	b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909);
	return (4294967296 * (2097151 & b) + (a >>> 0)).toString(36);
}

/**
 * `canonical`: what a correspondent is known by across all sources. `owner`: by what of those the person is whose case it
 * is; empty where nobody said it.
 */
export function weave(stores: readonly WovenStore[], canonical: (party: Party) => string, owner: ReadonlySet<string> = new Set()): Weave {
	shareRooms(stores);
	const families = familiesOf(stores);
	const familyOf: number[] = [];
	families.forEach((f, i) => f.captures.forEach((c) => [c.store, ...c.parts].forEach((store) => (familyOf[store] = i))));
	const perStore = stores.map((store, i) => weaveStore(store, i, new ThreadNames(familyOf[i]!, store.exported ?? false, canonical)));
	const merged = families.map((f) => placeFragments(mergeFamily(f, perStore, stores)));
	putWaysRight(merged);
	const sides = asOneWhereAlone(
		families.map((f, family) => {
			const { store } = f.captures.at(-1)!;
			const { name, path } = stores[store]!;
			const exported = isSomebodysExport(f, stores);
			return { family, store, name, exported, captures: f.captures.length, messages: merged[family]!, folder: folderOf(path ?? name) };
		})
	);
	const isOwner = (party: Party): boolean => owner.has(canonical(party));
	const { messages: joined, compared } = joinSides(sides, canonical, isOwner);
	const all = withoutStrayCopies(joined);
	turnToOwner(all, isOwner);
	joinSameRooms(all, familyOf, canonical, isOwner);
	distinctIds(all);
	const threads = threadsOf(all);
	const gaps = families.flatMap((f, i) => {
		const threads = new Set(merged[i]!.map((m) => m.thread));
		// What only another source's copy holds of these threads took up record numbers here.
		const elsewhere = all.filter((m) => familyOf[m.store] !== i && threads.has(m.thread));
		const numbered = findGaps(f, stores, merged[i]!, elsewhere);
		const newest = stores[f.captures.at(-1)!.store]!;
		const counted = [...numbered, ...ordinalGaps(newest, stores, merged[i]!, numbered)];
		return [...counted, ...listedGaps(newest, merged[i]!, counted)];
	});
	return { threads, gaps, families, familyOf, compared };
}

const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));

/** Exported files of one message each, as mails lie in a folder, are compared as one: alone a short one says too little. */
function asOneWhereAlone<S extends Side & { folder: string }>(sides: readonly S[]): Side[] {
	const byFolder = new Map<string, S>();
	return sides.flatMap((side) => {
		if (!side.exported || side.messages.length !== 1) return [side];
		const first = byFolder.get(side.folder);
		if (first) {
			first.messages.push(...side.messages);
			return [];
		}
		const own = { ...side, messages: [...side.messages] };
		byFolder.set(side.folder, own);
		return [own];
	});
}

/** Two stores of one name give some messages the same name: the later ones get a number. */
function distinctIds(messages: readonly Woven[]): void {
	const taken = new Map<string, number>();
	for (const m of messages) {
		const n = taken.get(m.id);
		taken.set(m.id, (n ?? 0) + 1);
		if (n !== undefined) m.id = `${m.id}.${n}`;
	}
}

/** The table whose numbers a message has: that of a table which is gone are those of the one that its rows were moved to. */
const tableOf = ({ row, reading }: Understood): number => reading.movedTo?.tables[0] ?? row.table;

/** What makes two rows versions of one record: its table and number, or where there is none its primary key. */
class Versions {
	private readonly byNumber = new Map<number, Map<number | bigint | string, Woven | Woven[]>>();

	constructor(private readonly store: WovenStore) {}

	private key(u: Understood): number | bigint | string | null {
		if (!u.row.tableKnown) return null;
		if (u.row.rowid !== null) return u.row.rowid;
		const { withoutRowid, primaryKey } = this.store.harvest.tables[u.row.table]!;
		if (!withoutRowid) return null;
		const values = primaryKey.map((c) => u.row.values[c]);
		return values.includes(undefined) ? u.guid : values.map((v) => `${typeof v}:${String(v)}`).join('|');
	}

	/** Null where the row has nothing to be known by. */
	of(u: Understood): readonly Woven[] | null {
		const key = this.key(u);
		if (key === null) return null;
		const known = this.byNumber.get(tableOf(u))?.get(key);
		return known === undefined ? [] : Array.isArray(known) ? known : [known];
	}

	add(woven: Woven): void {
		const key = this.key(woven.first);
		if (key === null) return;
		let table = this.byNumber.get(tableOf(woven.first));
		if (!table) this.byNumber.set(tableOf(woven.first), (table = new Map()));
		const known = table.get(key);
		table.set(key, known === undefined ? woven : Array.isArray(known) ? [...known, woven] : [known, woven]);
	}
}

function weaveStore(store: WovenStore, index: number, names: ThreadNames): Woven[] {
	const messages: Woven[] = [];
	const versions = new Versions(store);
	const later: Understood[] = [];
	const take = (u: Understood): void => {
		const known = versions.of(u);
		const same = known?.find((w) => sameMessage(w.first, u) || sameRecord(w.first, u) || saysNothingMore(w.first, u));
		if (same) {
			same.absorb(u, names.of(u));
			return;
		}
		const blank = known?.find((w) => isBlanked(w.first, u));
		if (blank) {
			blank.absorb(u, names.of(u));
			blank.takeTextBack(u);
			return;
		}
		if (known === null && u.row.standing !== 'kept') {
			later.push(u);
			return;
		}
		const woven = new Woven(u, names.of(u), index);
		const edited = known?.find((w) => isEdit(w.first, u, true, w.first.threadKey === u.threadKey || !!u.reading.movedTo));
		if (edited) woven.earlierWordingOf = edited.earlierWordingOf ?? edited;
		else for (const w of known ?? []) w.leaveLostFilesTo(u);
		messages.push(woven);
		versions.add(woven);
	};
	// Rows in use first: everything else is measured against them.
	for (const u of store.understood.messages) if (u.row.standing === 'kept') take(u);
	for (const u of store.understood.messages) if (u.row.standing !== 'kept') take(u);
	const joined = joinRenumbered(joinKeptTwice(joinAcrossTables(messages)), store.harvest.tables);
	if (later.length > 0) placeWithoutNumber(later, joined, names, index);
	placeCopies(store, joined, (u) => new Woven(u, names.of(u), index));
	placePreviews(store, joined, (u) => new Woven(u, names.of(u), index));
	const merged = placeFragments(joined);
	nameMessages(merged, store);
	linkAnswers(merged, store);
	return merged;
}

/** Finds the message that each answer names. */
function linkAnswers(messages: Woven[], store: WovenStore): void {
	const { tables } = store;
	for (const m of store.reading.messages) {
		if (!m.replyTo) continue;
		const { key } = m.replyTo;
		const byKey = new Map<string, Woven>();
		const own = messages.filter((w) => w.first.reading === m && !w.earlierWordingOf);
		for (const w of own) {
			const value = key ? messageKeyOf(w.first.row, key, tables) : w.record === null ? null : String(w.record);
			if (value !== null && !byKey.has(value)) byKey.set(value, w);
		}
		for (const w of own) if (w.first.answers !== null) w.answers = byKey.get(w.first.answers) ?? null;
	}
}

/** Two readings of one row, of which only marks of state differ. */
export function sameMessage(a: Understood, b: Understood): boolean {
	if (a.sentAt !== null && b.sentAt !== null && a.sentAt !== b.sentAt) return false;
	if (a.text === b.text) return true;
	if (a.textCut && a.text !== null && b.text?.startsWith(a.text)) return true;
	return b.textCut && b.text !== null && a.text?.startsWith(b.text) === true;
}

/** Letters of a text that says enough to know a record by. */
export const TELLING = 8;

/** The same record and text, another time: the store set its time anew, or the time's bytes were touched. */
export const sameRecord = (a: Understood, b: Understood): boolean => a.text === b.text && a.text !== null && a.text.length >= TELLING;

/** Whether a lost row of a message known is left without its text (its bytes are no text any more) and without a file. */
const saysNothingMore = (known: Understood, u: Understood): boolean =>
	u.row.standing !== 'kept' && u.text === null && u.files.length === 0 && u.sentAt !== null && u.sentAt === known.sentAt;

/** Whether b is another wording of a: the same record and time, another text. `sameThread`: where their keys are not of one store. */
export function isEdit(a: Understood, b: Understood, sameRecord: boolean, sameThread = a.threadKey === b.threadKey): boolean {
	if (a.text === null || b.text === null || a.sentAt === null || a.sentAt !== b.sentAt) return false;
	if (!sameThread && !isOfNoThread(b) && !isThreadGuessed(b)) return false;
	if (a.direction !== null && b.direction !== null && a.direction !== b.direction) return false;
	if (sameRecord) return true;
	if (a.guid && b.guid) return a.guid === b.guid;
	return areAlike(a.text, b.text);
}

const contentKey = (u: Understood): string | null => (u.text === null ? null : `${u.sentAt ?? ''}|${u.direction ?? ''}|${u.text}`);

/** The same message in two tables (one was copied into the other, or took its place): one message. */
function joinAcrossTables(messages: Woven[]): Woven[] {
	if (new Set(messages.map((m) => m.first.row.table)).size < 2) return messages;
	const byContent = new Map<string, Woven[]>();
	/** Whichever way they went: that a table can say which a page was taken for. */
	const byWords = new Map<string, Woven[]>();
	const out: Woven[] = [];
	const known = new Set<Woven>();
	const take = (m: Woven): void => {
		const { sentAt, direction, text } = m.first;
		const key = contentKey(m.first) ?? (sentAt === null ? null : `${sentAt}|${direction ?? ''}`);
		const words = `${sentAt}|${text ?? ''}`;
		const isElsewhere = (x: Woven): boolean => x.first.row.table !== m.first.row.table;
		const isOne = (x: Woven): boolean => isElsewhere(x) && (x.thread === m.thread || isMisplaced(m, x));
		const isTheRow = (x: Woven): boolean =>
			isElsewhere(x) && (isMisplaced(m, x) || (isByPage(x) && m.record !== null && m.record === x.record));
		const twin = isInUse(m)
			? undefined
			: ((key ? byContent.get(key) : undefined)?.find(isOne) ??
				(isByPage(m) && sentAt !== null ? byWords.get(words)?.find(isTheRow) : undefined));
		if (twin) {
			twin.absorb(m.first, m.thread);
			known.add(m);
			return;
		}
		if (key) put(byContent, key, m);
		if (sentAt !== null) put(byWords, words, m);
	};
	// Whose table is told by a page alone is measured against those of which it is known.
	for (const m of messages) if (!isByPage(m)) take(m);
	for (const m of messages) if (isByPage(m)) take(m);
	for (const m of messages) if (!known.has(m)) out.push(m);
	return out;
}

/** Whether a row told by its page alone was misplaced by it: it is the same as another table's, told otherwise. */
export const isMisplaced = (m: Woven, known: Woven): boolean =>
	isByPage(m) &&
	!isByPage(known) &&
	m.first.sentAt !== null &&
	m.first.sentAt === known.first.sentAt &&
	((m.first.text ?? '').length >= TELLING || (m.record !== null && m.record === known.record));

/** Of rows that are twice in a table so many are left by a vacuum, which numbers anew what has no number of its own. */
const RENUMBERED = 3;

/** Messages of a table without numbers of its own that earlier states have under another number: one message each. */
function joinRenumbered(messages: Woven[], tables: readonly Table[]): Woven[] {
	const byContent = new Map<string, Woven>();
	const twins = new Map<Woven, Woven>();
	for (const m of messages) {
		const { rowidColumn, primaryKey, withoutRowid } = tables[m.first.row.table]!;
		const key = m.first.guid ?? contentKey(m.first);
		if (rowidColumn >= 0 || withoutRowid || primaryKey.length > 0 || key === null || m.first.sentAt === null || m.earlierWordingOf)
			continue;
		const content = `${m.thread}|${key}`;
		const first = byContent.get(content);
		if (!first) byContent.set(content, m);
		else if (!isInUse(m) && m.first.text === first.first.text) twins.set(m, first);
		else if (!isInUse(m) && isEdit(first.first, m.first, true)) m.earlierWordingOf = first;
	}
	if (twins.size < RENUMBERED) return messages;
	for (const [m, first] of twins) first.absorb(m.first, m.thread);
	for (const m of messages) if (m.earlierWordingOf) m.earlierWordingOf = twins.get(m.earlierWordingOf) ?? m.earlierWordingOf;
	return messages.filter((m) => !twins.has(m));
}

/** Lost rows without a record number: a copy of a message known, an earlier wording of one, or a message of its own. */
function placeWithoutNumber(later: Understood[], messages: Woven[], names: ThreadNames, store: number): void {
	const byTime = new Map<number, Woven[]>();
	const byGuid = new Map<string, Woven[]>();
	const [byText, timeless] = [new ByText(), new ByText()];
	const index = (w: Woven): void => {
		if (w.first.guid) put(byGuid, w.first.guid, w);
		if (w.first.sentAt !== null) put(byTime, w.first.sentAt, w);
		else timeless.add(w);
		byText.add(w);
	};
	messages.forEach(index);
	const moments = new Moments([...messages]);
	const whole = [...later.filter((u) => u.row.grade !== 'fragment'), ...later.filter((u) => u.row.grade === 'fragment')];
	for (const u of whole) {
		const thread = names.of(u);
		// One whose time is known can be one whose time is lost.
		const near = u.sentAt !== null ? [...(byTime.get(u.sentAt) ?? []), ...timeless.alike(u)] : byText.alike(u);
		const compatible = (w: Woven): boolean =>
			(w.thread === thread || isOfNoThread(u) || isOfNoThread(w.first) || isThreadGuessed(u)) &&
			(u.direction === null || w.first.direction === null || u.direction === w.first.direction);
		const keyed = u.guid ? (byGuid.get(u.guid) ?? []).find((w) => sameMessage(w.first, u) || sameRecord(w.first, u)) : undefined;
		const twin = keyed ?? near.find((w) => compatible(w) && sameMessage(w.first, u));
		if (twin) {
			twin.absorb(u, thread);
			continue;
		}
		const blank = near.filter((w) => w.first.row.table === u.row.table && compatible(w) && isBlanked(w.first, u));
		if (blank.length === 1) {
			blank[0]!.absorb(u, thread);
			blank[0]!.takeTextBack(u);
			continue;
		}
		const woven = new Woven(u, thread, store);
		const edited = near.find(
			(w) =>
				!w.earlierWordingOf &&
				compatible(w) &&
				w.first.row.table === u.row.table &&
				isEdit(w.first, u, isWhole(u) && !(w.first.guid && u.guid) && moments.isAlone(w))
		);
		if (edited) woven.earlierWordingOf = edited;
		messages.push(woven);
		index(woven);
	}
}

/** Messages by their texts: thousands of notices can begin alike. */
class ByText {
	private readonly whole = new Map<string, Woven[]>();
	private readonly cut = new Map<string, Woven[]>();
	private readonly beginning = new Map<string, Woven[]>();

	add(w: Woven): void {
		const { text, textCut } = w.first;
		if (text === null) return;
		put(this.whole, text, w);
		put(this.beginning, text.slice(0, TELLING), w);
		if (textCut) put(this.cut, text.slice(0, TELLING), w);
	}

	/** Those whose text can be that of `u`, where one of the two may have lost its end. */
	alike({ text, textCut }: Understood): readonly Woven[] {
		if (text === null) return [];
		const begun = text.slice(0, TELLING);
		if (textCut) return this.beginning.get(begun) ?? [];
		const [same, cut] = [this.whole.get(text) ?? [], this.cut.get(begun)];
		return cut ? [...same, ...cut] : same;
	}
}

/** Of a part of a row the time may be another's. */
const isWhole = ({ row }: Understood): boolean => row.grade !== 'fragment' && row.tableKnown;

/** Short names, the same for the same input: table and record number, or a hash of what the message says. */
function nameMessages(messages: Woven[], store: WovenStore): void {
	const taken = new Map<string, number>();
	const prefixes = store.harvest.tables.map((t) => `m${hashOf(`${store.name}|${t.name}`).slice(0, 6)}`);
	for (const m of messages) {
		const { row, text, sentAt } = m.first;
		const own = row.rowid === null ? `x${hashOf(`${sentAt}|${text?.slice(0, 400) ?? ''}`)}` : row.rowid.toString(36);
		const base = `${prefixes[row.table]}-${own}`;
		const n = taken.get(base);
		taken.set(base, (n ?? 0) + 1);
		m.id = n === undefined ? base : `${base}-${n}`;
	}
}

/**
 * One name for one partner or group. A partner is known by the address alone, a group by its key, which may be its store's
 * alone; only exports, whose keys are seldom their own, by its title as well: in captures of one store titles change, and
 * come and go.
 */
class ThreadNames {
	private readonly names = new Map<string, string>();

	constructor(
		private readonly family: number,
		private readonly exported: boolean,
		private readonly canonical: (party: Party) => string
	) {}

	of(u: Understood): string {
		const party = u.group ? null : (u.correspondent ?? (u.members.length === 1 ? u.members[0]! : null));
		const address = party?.address ?? party?.name ?? null;
		const key = address === null ? `${u.group ? 'g' : 't'}|${u.threadKey}|${this.exported ? (u.threadTitle ?? '') : ''}` : `p|${address}`;
		let name = this.names.get(key);
		if (name === undefined) {
			const room = !u.group ? null : this.exported ? keyOfRound(u.threadKey) : keyOfItsOwn(u.threadKey);
			name =
				address !== null
					? `p${hashOf(this.canonical(party!))}`
					: room !== null
						? `g${hashOf(room)}`
						: `${key[0]}${hashOf(`${this.family}${key.slice(1)}`)}`;
			this.names.set(key, name);
		}
		return name;
	}
}

/** A room that several stores have is one in each, though in some of them nobody but the owner wrote in it. */
function shareRooms(stores: readonly WovenStore[]): void {
	const own = stores.filter((s) => !s.exported).flatMap((s) => s.understood.messages);
	const rooms = new Map<string, Understood>();
	for (const u of own) {
		const key = u.group ? keyOfItsOwn(u.threadKey) : null;
		if (key !== null && (rooms.get(key)?.members.length ?? -1) < u.members.length) rooms.set(key, u);
	}
	for (const u of own) {
		const key = rooms.size > 0 && !u.group ? keyOfItsOwn(u.threadKey) : null;
		const room = key === null ? undefined : rooms.get(key);
		if (!room) continue;
		u.group = true;
		u.members = room.members;
		u.threadTitle ??= room.threadTitle;
		if (u.correspondent?.address?.toLowerCase() === key) u.correspondent = null;
	}
}

/** The addresses between which the mails of a round go, in whichever files they lie; null where a thread is no such round. */
function keyOfRound(threadKey: string): string | null {
	const key = threadKey.slice(threadKey.indexOf(':') + 1).toLowerCase();
	return /^[^\s@]+@[^\s@]+(?: [^\s@]+@[^\s@]+)+$/.test(key) ? key : null;
}

/** A room's key that no two rooms have, in whatever store: an address, a digest, a UUID, a number of many digits; else null. */
function keyOfItsOwn(threadKey: string): string | null {
	const key = threadKey.slice(threadKey.indexOf(':') + 1).toLowerCase();
	return /^[^\s@]{6,}@\S+$/.test(key) || /\d{12}|[\da-f]{16}|[\da-f]{8}(-[\da-f]{4}){3}-[\da-f]{12}/.test(key) ? key : null;
}

function threadsOf(messages: Woven[]): WovenThread[] {
	const threads = new Map<string, WovenThread>();
	for (const m of messages) {
		let thread = threads.get(m.thread);
		const u = m.first;
		if (!thread) {
			thread = { id: m.thread, title: '', address: null, group: u.group, members: u.members, messages: [] };
			threads.set(m.thread, thread);
		}
		if (thread.members.length < u.members.length) thread.members = u.members;
		if (!thread.title) thread.title = titleOf(u);
		if (!u.group && u.correspondent?.name) thread.title = u.correspondent.name;
		if (!u.group && u.correspondent?.address) thread.address ??= u.correspondent.address;
		thread.messages.push(m);
	}
	for (const thread of threads.values()) {
		thread.title ||= thread.members.map((p) => p.name ?? p.address).join(', ') || 'No correspondent known';
		if (thread.address === thread.title) thread.address = null;
		thread.messages.sort(inOrder);
	}
	const last = new Map([...threads.values()].map((t) => [t, lastOf(t)]));
	return [...threads.values()].sort((a, b) => last.get(b)! - last.get(a)! || (a.id < b.id ? -1 : 1));
}

const titleOf = (u: Understood): string =>
	u.group ? (u.threadTitle ?? '') : (u.correspondent?.name ?? u.correspondent?.address ?? u.threadTitle ?? '');

const lastOf = (t: WovenThread): number => t.messages.reduce((max, m) => Math.max(max, m.first.sentAt ?? 0), 0);

/** By time, then record number; an earlier wording just before the message it belongs to. */
function inOrder(a: Woven, b: Woven): number {
	const x = a.earlierWordingOf ?? a;
	const y = b.earlierWordingOf ?? b;
	if (x !== y) {
		const byTime = (x.first.sentAt ?? Infinity) - (y.first.sentAt ?? Infinity);
		if (byTime && !Number.isNaN(byTime)) return byTime;
		return (x.record ?? Infinity) - (y.record ?? Infinity) || (x.id < y.id ? -1 : 1);
	}
	return Number(b.earlierWordingOf !== null) - Number(a.earlierWordingOf !== null);
}

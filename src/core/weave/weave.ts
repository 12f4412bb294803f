/**
 * Weaves the messages of all stores into threads: versions of one message are told as one, earlier wordings are put
 * under theirs, the same message seen in another place loses no sighting, and record numbers nobody has seen are
 * kept as gaps.
 */
import { addSighting, betterGrade, betterStanding, type StoreHarvest } from '../harvest';
import { normalAddress, type StoreReading, type Understood } from '../interpret';
import type { Gap, Row, Sighting, Standing } from '../model';
import { findGaps } from './gaps';

export interface WovenStore {
	/** The store's name: its main file's. */
	name: string;
	harvest: StoreHarvest;
	reading: StoreReading;
	understood: Understood[];
}

/** A message woven from one or more rows; plain output is made of it in `plain.ts`. */
export interface Woven {
	id: string;
	thread: string;
	store: number;
	first: Understood;
	standing: Standing;
	grade: Row['grade'];
	sightings: Sighting[];
	moreSightings: number;
	earlierWordingOf: Woven | null;
	/** Which earlier wording, newest first. */
	record: number | null;
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

export function weave(stores: readonly WovenStore[]): Weave {
	const all: Woven[] = [];
	stores.forEach((store, index) => all.push(...weaveStore(store, index)));
	const threads = threadsOf(all, stores);
	const gaps = stores.flatMap((store, index) =>
		findGaps(
			store,
			all.filter((m) => m.store === index)
		)
	);
	return { threads, gaps };
}

const identity = (u: Understood, store: WovenStore): string =>
	u.row.tableKnown && u.row.rowid !== null
		? `${u.row.table}|${u.row.rowid}`
		: u.guid && store.harvest.tables[u.row.table]!.withoutRowid
			? `${u.row.table}|g${u.guid}`
			: '';

function weaveStore(store: WovenStore, index: number): Woven[] {
	const messages: Woven[] = [];
	const byIdentity = new Map<string, Woven[]>();
	const make = (u: Understood): Woven => ({
		id: '',
		thread: threadIdOf(u, index),
		store: index,
		first: u,
		standing: u.row.standing === 'kept' && u.deletedFlag ? 'binned' : u.row.standing,
		grade: u.row.grade,
		sightings: [...u.row.sightings],
		moreSightings: u.row.moreSightings ?? 0,
		earlierWordingOf: null,
		record: typeof u.row.rowid === 'number' ? u.row.rowid : null
	});
	// Rows in use first: everything else is measured against them.
	const ordered = [
		...store.understood.filter((u) => u.row.standing === 'kept'),
		...store.understood.filter((u) => u.row.standing !== 'kept')
	];
	const later: Understood[] = [];
	for (const u of ordered) {
		const key = identity(u, store);
		const known = key ? byIdentity.get(key) : undefined;
		const same = known?.find((w) => sameMessage(w.first, u));
		if (same) {
			absorb(same, u);
			continue;
		}
		if (!key && u.row.standing !== 'kept') {
			later.push(u);
			continue;
		}
		const woven = make(u);
		const edited = known?.find((w) => isEdit(w.first, u, true));
		if (edited) woven.earlierWordingOf = edited.earlierWordingOf ?? edited;
		messages.push(woven);
		if (key) {
			if (known) known.push(woven);
			else byIdentity.set(key, [woven]);
		}
	}
	const merged = joinAcrossTables(messages);
	placeWithoutNumber(later, merged, make);
	nameMessages(merged, store);
	return merged;
}

/** Two readings of one row, of which only marks of state differ. */
function sameMessage(a: Understood, b: Understood): boolean {
	if (a.sentAt !== null && b.sentAt !== null && a.sentAt !== b.sentAt) return false;
	if (a.text === b.text) return true;
	if (a.textCut && a.text !== null && b.text?.startsWith(a.text)) return true;
	return b.textCut && b.text !== null && a.text?.startsWith(b.text) === true;
}

/** Whether b is another wording of a: the same record and time, another text. */
function isEdit(a: Understood, b: Understood, sameRecord: boolean): boolean {
	if (a.text === null || b.text === null || a.sentAt === null || a.sentAt !== b.sentAt) return false;
	if (a.threadKey !== b.threadKey && b.threadKey !== 't:?') return false;
	if (a.direction !== null && b.direction !== null && a.direction !== b.direction) return false;
	if (sameRecord) return true;
	if (a.guid && b.guid) return a.guid === b.guid;
	return similarity(a.text, b.text) >= 0.4;
}

/** 0–1: shared pairs of letters (Dice). */
function similarity(a: string, b: string): number {
	const pairs = (t: string): Map<string, number> => {
		const map = new Map<string, number>();
		for (let i = 0; i + 1 < Math.min(t.length, 2000); i++) {
			const pair = t.slice(i, i + 2).toLowerCase();
			map.set(pair, (map.get(pair) ?? 0) + 1);
		}
		return map;
	};
	const x = pairs(a);
	const y = pairs(b);
	let shared = 0;
	let total = 0;
	for (const [pair, n] of x) {
		shared += Math.min(n, y.get(pair) ?? 0);
		total += n;
	}
	for (const n of y.values()) total += n;
	return total === 0 ? 0 : (2 * shared) / total;
}

function absorb(woven: Woven, u: Understood): void {
	woven.standing = betterStanding(woven.standing, u.row.standing);
	woven.grade = betterGrade(woven.grade, u.row.grade);
	if (woven.first.textCut && !u.textCut && u.text !== null) woven.first = { ...u, direction: u.direction ?? woven.first.direction };
	const holder = { sightings: woven.sightings, moreSightings: woven.moreSightings };
	for (const sighting of u.row.sightings) addSighting(holder, sighting);
	woven.moreSightings = holder.moreSightings + (u.row.moreSightings ?? 0);
	if (woven.record === null && typeof u.row.rowid === 'number') woven.record = u.row.rowid;
}

const contentKey = (u: Understood): string | null => (u.text === null ? null : `${u.sentAt ?? ''}|${u.direction ?? ''}|${u.text}`);

/** The same message in two tables (one was copied into the other, or took its place): one message. */
function joinAcrossTables(messages: Woven[]): Woven[] {
	const byContent = new Map<string, Woven[]>();
	const out: Woven[] = [];
	for (const m of messages) {
		const key = m.standing === 'kept' && m.first.row.tableKnown ? contentKey(m.first) : contentKey(m.first);
		const list = key ? byContent.get(key) : undefined;
		const twin =
			m.standing === 'kept' || m.standing === 'binned'
				? undefined
				: list?.find((x) => x.thread === m.thread && x.first.row.table !== m.first.row.table);
		if (twin) {
			absorb(twin, m.first);
			continue;
		}
		out.push(m);
		if (!key) continue;
		if (list) list.push(m);
		else byContent.set(key, [m]);
	}
	return out;
}

/** Lost rows without a record number: a copy of a message known, an earlier wording of one, or a message of its own. */
function placeWithoutNumber(later: Understood[], messages: Woven[], make: (u: Understood) => Woven): void {
	const byTime = new Map<number, Woven[]>();
	const byText = new Map<string, Woven[]>();
	const index = (w: Woven): void => {
		if (w.first.sentAt !== null) put(byTime, w.first.sentAt, w);
		if (w.first.text !== null) put(byText, w.first.text.slice(0, 12), w);
	};
	messages.forEach(index);
	const whole = [...later.filter((u) => u.row.grade !== 'fragment'), ...later.filter((u) => u.row.grade === 'fragment')];
	for (const u of whole) {
		const near = u.sentAt !== null ? (byTime.get(u.sentAt) ?? []) : u.text !== null ? (byText.get(u.text.slice(0, 12)) ?? []) : [];
		const compatible = (w: Woven): boolean =>
			(w.thread === threadIdOf(u, w.store) || u.threadKey === 't:?' || u.threadKey === 'p:?' || w.first.threadKey === 't:?') &&
			(u.direction === null || w.first.direction === null || u.direction === w.first.direction);
		const twin = near.find((w) => compatible(w) && sameMessage(w.first, u));
		if (twin) {
			absorb(twin, u);
			continue;
		}
		const woven = make(u);
		const edited = near.find((w) => !w.earlierWordingOf && compatible(w) && w.first.row.table === u.row.table && isEdit(w.first, u, false));
		if (edited) woven.earlierWordingOf = edited;
		messages.push(woven);
		index(woven);
	}
}

function put<K>(map: Map<K, Woven[]>, key: K, w: Woven): void {
	const list = map.get(key);
	if (list) list.push(w);
	else map.set(key, [w]);
}

function nameMessages(messages: Woven[], store: WovenStore): void {
	const taken = new Map<string, number>();
	for (const m of messages) {
		const { row, text, sentAt } = m.first;
		const base = hashOf(
			JSON.stringify([
				store.name,
				store.harvest.tables[row.table]!.name,
				row.rowid === null ? '' : String(row.rowid),
				sentAt,
				text?.slice(0, 400) ?? ''
			])
		);
		const n = taken.get(base) ?? 0;
		taken.set(base, n + 1);
		m.id = n === 0 ? `m${base}` : `m${base}-${n}`;
	}
}

/** One value for one partner or group. A group is known by its store's key, a partner by the address alone. */
function threadIdOf(u: Understood, store: number): string {
	if (!u.group) {
		const party = u.correspondent ?? (u.members.length === 1 ? u.members[0]! : null);
		const address = party?.address ?? party?.name;
		if (address) return `p${hashOf(normalAddress(address))}`;
	}
	return `${u.group ? 'g' : 't'}${hashOf(`${store}|${u.threadKey}|${u.threadTitle ?? ''}`)}`;
}

function threadsOf(messages: Woven[], stores: readonly WovenStore[]): WovenThread[] {
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
	return [...threads.values()].sort((a, b) => lastOf(b) - lastOf(a) || (a.id < b.id ? -1 : 1));
	void stores;
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

/**
 * Copies of one store, taken at different times, are its captures. They are known by what they hold: tables declared
 * alike, and the same messages under the same record numbers. The newest decides the standing; a message in use only
 * in an older one was dropped, and the captures on either side bracket when.
 */
import { betterStanding, isSameButForItsEnd } from '../harvest';
import type { Understood } from '../interpret';
import type { Direction, Standing, Table } from '../model';
import { isEdit, isMisplaced, sameMessage, sameRecord, TELLING, type Weave, type WovenStore } from './weave';
import { isByPage, isInUse, isOfNoThread, isThreadGuessed, type Woven } from './woven';

/** One store's state at one moment. */
export interface Capture {
	/** Index into the look's stores. */
	store: number;
	name: string;
	/** Path of what the name stands for: the store's, or that of a folder or container around it. */
	place: string;
	/** ms UTC: stated, else of the newest message inside; null where neither is known. */
	time: number | null;
	stated: boolean;
}

/** The captures of one store, oldest first. A store given once is a family of one. */
export interface Family {
	captures: Capture[];
}

export type CaptureState = 'in' | 'binned' | 'out' | 'before';

/** Shares above which two stores count as the same one. */
const TABLES_ALIKE = 0.7;
const RECORDS_ALIKE = 0.4;
const CONTENT_ALIKE = 0.3;
/** The same of the messages of the time that both are of, and how many those must be. */
const OVERLAP_ALIKE = 0.6;
const OVERLAP_LEAST = 3;
/** Rows of each table whose keys are looked at; how long a key is that no two programs make alike; how many must be shared. */
const KEYS_READ = 2000;
const KEY_LONG = 8;
const KEYS_ALIKE = 0.5;
const KEYS_LEAST = 2;

/** What a store is compared by. */
interface Profile {
	tables: Set<string>;
	records: Map<string, { text: string | null; direction: Direction | null }>;
	/** Content of each message, with its time. */
	contents: Map<string, number>;
	/** Keys of the program's own making in tables that have no messages: its conversations'. */
	keys: Set<string>;
	/** What its messages are known by: their number, or their key, by their contents. */
	own: Map<string, string>;
	kept: number;
	newest: number | null;
	newestKept: number | null;
	oldest: number | null;
	lowest: number;
	highest: number;
	counter: number;
	engine: number;
	path: string;
	/** Its name with the folder it is in, and the whole path of that. */
	file: string;
	folder: string;
	onDevice: WovenStore['onDevice'];
	/** Whether there is or was a row in it. */
	used: boolean;
	/** What its messages were found to say beside those of others: asked for again and again. */
	compared: Map<Profile, boolean | null>;
}

/** A row's number, where the store keeps it: rows of a table without one of its own are numbered anew by a vacuum. */
function recordKey(store: WovenStore, { row }: Understood): string | null {
	const table = store.harvest.tables[row.table]!;
	return row.rowid === null || !row.tableKnown || table.rowidColumn < 0 ? null : `${table.name}#${row.rowid}`;
}
/** What a table that has no numbers of its own tells its rows apart by (section 2.4 "WITHOUT ROWID", and keys of text). */
function primaryKeyOf({ row }: Understood, table: Table): string | null {
	const key = table.rowidColumn < 0 ? table.primaryKey.map((column) => row.values[column]) : [];
	return key.length > 0 && key.every((value) => value !== undefined && value !== null) ? `${table.name}@${key.join('|')}` : null;
}
const contentOf = (u: Understood): string | null =>
	u.text === null || u.sentAt === null ? null : `${u.sentAt}|${u.direction ?? ''}|${u.text}`;

function profileOf(store: WovenStore): Profile {
	const p: Profile = {
		tables: new Set(
			store.harvest.tables.filter((t) => t.index > 0 && !t.dropped).map((t) => `${t.name}(${t.columns.map((c) => c.name).join(',')})`)
		),
		records: new Map(),
		contents: new Map(),
		keys: keysBesides(store),
		own: new Map(),
		kept: 0,
		newest: null,
		newestKept: null,
		oldest: null,
		lowest: Infinity,
		highest: 0,
		counter: store.harvest.changeCounter,
		engine: store.harvest.engineVersion,
		file: (store.path ?? store.name).split('/').slice(-2).join('/'),
		path: store.path ?? store.name,
		folder: (store.path ?? '').split('/').slice(0, -1).join('/'),
		onDevice: store.onDevice,
		used: store.harvest.tables.some((t) => t.index > 0 && store.harvest.book.rowsOf(t.index).length > 0),
		compared: new Map()
	};
	for (const u of store.understood.messages) {
		const key = recordKey(store, u);
		if (key !== null && (u.row.standing === 'kept' || !p.records.has(key))) p.records.set(key, { text: u.text, direction: u.direction });
		const content = contentOf(u);
		if (content !== null) p.contents.set(content, u.sentAt!);
		const own = key ?? (u.row.tableKnown ? (primaryKeyOf(u, store.harvest.tables[u.row.table]!) ?? u.guid) : null);
		if (content !== null && own !== null) p.own.set(content, own);
		if (typeof u.row.rowid === 'number') {
			p.lowest = Math.min(p.lowest, u.row.rowid);
			p.highest = Math.max(p.highest, u.row.rowid);
		}
		if (u.row.standing === 'kept') {
			p.kept++;
			p.newestKept = Math.max(p.newestKept ?? -Infinity, u.sentAt ?? -Infinity);
		}
		if (u.sentAt === null) continue;
		p.newest = Math.max(p.newest ?? -Infinity, u.sentAt);
		p.oldest = Math.min(p.oldest ?? Infinity, u.sentAt);
	}
	return p;
}

/** Keys of text or bytes of the tables in use that hold no messages. */
function keysBesides({ harvest, understood }: WovenStore): Set<string> {
	const ofMessages = new Set(understood.messages.map((u) => u.row.table));
	const keys = new Set<string>();
	for (const table of harvest.tables) {
		const [column, ...more] = table.rowidColumn < 0 ? table.primaryKey : [];
		if (column === undefined || more.length > 0 || ofMessages.has(table.index)) continue;
		for (const row of harvest.book.rowsOf(table.index).slice(0, KEYS_READ)) {
			const key = row.values[column];
			if (row.standing === 'kept' && (typeof key === 'string' || key instanceof Uint8Array) && key.length >= KEY_LONG)
				keys.add(`${table.name}@${String(key)}`);
		}
	}
	return keys;
}

/** Groups stores into families and orders each by time. */
export function familiesOf(stores: readonly WovenStore[]): Family[] {
	const profiles = stores.map(profileOf);
	const groups: number[][] = [];
	stores.forEach((_, i) => {
		const same = groups.filter((g) => g.some((j) => haveTheSame(profiles[i]!, profiles[j]!) === true));
		groups.push([...same.flat(), i]);
		for (const group of same) groups.splice(groups.indexOf(group), 1);
	});
	joinByPlace(groups, profiles);
	joinByLittle(groups, profiles);
	for (const group of groups) group.sort((a, b) => a - b);
	groups.sort((a, b) => a[0]! - b[0]!);
	return groups.map((group) => {
		const called = captureNames(group.map((i) => stores[i]!));
		const latest = latestAround(group, profiles);
		return {
			captures: group
				.map((i, at): Capture => {
					const stated = stores[i]!.takenAt ?? null;
					return { store: i, ...called[at]!, time: stated ?? latest.get(i)!, stated: stated !== null };
				})
				.sort((a, b) => compareCaptures(a, b, profiles))
		};
	});
}

/** Of each copy of a store the newest message, ms UTC, in all that was taken with it: the other stores of its folder or container. */
function latestAround(group: readonly number[], profiles: readonly Profile[]): Map<number, number | null> {
	const [first, ...others] = group.map((i) => profiles[i]!.path);
	const end = Math.min(...others.map((path) => commonEnd(first!, path)));
	return new Map(
		group.map((i) => {
			const own = profiles[i]!;
			const root = Number.isFinite(end) && end > 0 ? own.path.slice(0, own.path.length - end) : null;
			const around = root === null ? [own] : profiles.filter((p) => p.path.startsWith(root));
			const times = around.flatMap((p) => finite(p.newest) ?? []);
			return [i, times.length > 0 ? Math.max(...times) : null];
		})
	);
}

/** What to call copies of one store: by the file's name, or where they share it by the first folder or container that differs. */
function captureNames(stores: readonly WovenStore[]): Pick<Capture, 'name' | 'place'>[] {
	const paths = stores.map((s) => (s.path ?? s.name).split('/'));
	const bases = paths.map((p) => p.at(-1)!);
	if (new Set(bases).size === bases.length) return stores.map((s) => ({ name: s.name, place: s.path ?? s.name }));
	let shared = 0;
	while (paths.every((p) => shared < p.length - 1 && p[shared] === paths[0]![shared])) shared++;
	for (let parts = 1; parts < 40; parts++) {
		const names = paths.map((p) => p.slice(shared, shared + parts).join('/'));
		if (new Set(names).size === names.length)
			return paths.map((p, i) => ({ name: names[i]!, place: p.slice(0, shared + parts).join('/') }));
	}
	return stores.map((s) => ({ name: s.path ?? s.name, place: s.path ?? s.name }));
}

const finite = (n: number | null): number | null => (n !== null && Number.isFinite(n) ? n : null);

/**
 * What their messages say of two stores being one: that they are, or are not; null where they have too little in common to
 * say either.
 */
function haveTheSame(a: Profile, b: Profile): boolean | null {
	let said = a.compared.get(b);
	if (said === undefined) {
		said = areOfOnePlace(a, b) || (areAlike(a, b) ? compareMessages(a, b) : isAsOfAnotherVersion(a, b));
		a.compared.set(b, said);
		b.compared.set(a, said);
	}
	return said;
}

/** Whether both lie at one place of one device, as the backups around them state: one store, however it was numbered meanwhile. */
const areOfOnePlace = ({ onDevice: a, path }: Profile, { onDevice: b, path: other }: Profile): boolean =>
	!!a && !!b && a.device === b.device && a.place === b.place && path !== other;

/**
 * Whether two files of one name and folder in two places are what two versions of a program left: some tables are called
 * alike, and the messages are the same, sent the same way.
 */
function isAsOfAnotherVersion(a: Profile, b: Profile): boolean {
	if (a.file !== b.file || a.folder === b.folder || !a.file.includes('/')) return false;
	const [namesA, namesB] = [a, b].map((p) => tableNamesOf(p)) as [Set<string>, Set<string>];
	const called = [...namesA].filter((name) => namesB.has(name)).length;
	return (
		called > 0 && called >= Math.min(namesA.size, namesB.size) * TABLES_CALLED && compareContents(a, b) === true && !callOtherwise(a, b)
	);
}
const TABLES_CALLED = 0.5;
/** The names of its tables, the engine's own aside. */
const tableNamesOf = ({ tables }: Profile): Set<string> =>
	new Set([...tables].map((declared) => declared.slice(0, declared.indexOf('('))).filter((name) => !/^sqlite_/i.test(name)));

function compareMessages(a: Profile, b: Profile): boolean | null {
	let numbers = 0;
	let agree = 0;
	let opposite = 0;
	for (const [key, one] of a.records) {
		const other = b.records.get(key);
		if (other === undefined) continue;
		numbers++;
		if (other.text !== one.text) continue;
		agree++;
		if (one.direction !== null && other.direction !== null && one.direction !== other.direction) opposite++;
	}
	// What one sent the other received: two devices, not two states of one.
	if (opposite > agree / 2 || callOtherwise(a, b)) return false;
	if (numbers >= 3) return agree / numbers >= RECORDS_ALIKE;
	return compareContents(a, b);
}

/** Whether what was written in both, and when, is the same; null where too little of either is of one time. */
function compareContents(a: Profile, b: Profile): boolean | null {
	let contents = 0;
	for (const content of a.contents.keys()) if (b.contents.has(content)) contents++;
	const least = Math.min(a.contents.size, b.contents.size);
	if (least === 0) return null;
	if (contents / least >= CONTENT_ALIKE) return true;
	// Where all but the newest is deleted in time, two of them may have little in common but what both had time to see.
	const [from, to] = [Math.max(a.oldest ?? 0, b.oldest ?? 0), Math.min(a.newest ?? 0, b.newest ?? 0)];
	const within = (p: Profile): string[] => [...p.contents].flatMap(([content, at]) => (at >= from && at <= to ? [content] : []));
	const [ofA, ofB] = [within(a), within(b)];
	const few = Math.min(ofA.length, ofB.length);
	if (few >= OVERLAP_LEAST) return ofA.filter((c) => b.contents.has(c)).length >= few * OVERLAP_ALIKE;
	return null;
}

/** Whether two stores whose messages say nothing of it may be one. */
function mayBeOne(a: Profile, b: Profile): boolean {
	if (haveTheSame(a, b) !== null) return false;
	if (Math.min(a.contents.size, b.contents.size) === 0) return isSameWithoutMessages(a, b);
	const keys = [...a.keys].filter((key) => b.keys.has(key)).length;
	if (keys >= KEYS_LEAST && keys >= Math.min(a.keys.size, b.keys.size) * KEYS_ALIKE) return true;
	// One that goes on where the other ended: numbers and times in the same order, none in common.
	const [first, second] = a.highest <= b.highest ? [a, b] : [b, a];
	return first.highest < second.lowest && (first.newest ?? 0) <= (second.oldest ?? 0);
}

/**
 * Joins groups that have little in common, those of one name first. Two files of one folder, each of another group, speak
 * against it: a program can keep its messages in several.
 */
function joinByLittle(groups: number[][], profiles: readonly Profile[]): void {
	const all = (group: readonly number[]): Profile[] => group.map((i) => profiles[i]!);
	const pairs = (a: readonly number[], b: readonly number[]): [Profile, Profile][] =>
		all(a).flatMap((x) => all(b).map((y): [Profile, Profile] => [x, y]));
	for (const named of [true, false])
		for (let i = 0; i < groups.length; i++)
			for (let k = i + 1; k < groups.length; k++) {
				const both = pairs(groups[i]!, groups[k]!);
				// Of most stores their tables say at once that they are not one.
				if (both.some(([x, y]) => haveTheSame(x, y) === false) || !both.some(([x, y]) => (!named || x.file === y.file) && mayBeOne(x, y)))
					continue;
				if (both.some(([x, y]) => x.folder === y.folder && x.file !== y.file) || areSideBySide(all(groups[i]!), all(groups[k]!))) continue;
				groups[i]!.push(...groups.splice(k, 1)[0]!);
				k = i;
			}
}

/** Where one store of a device is known in two captures of it, whatever lies at one place in both is one store. */
function joinByPlace(groups: number[][], profiles: readonly Profile[]): void {
	const roots = new Set<string>();
	for (const group of groups)
		for (const i of group)
			for (const k of group) {
				const end = i < k ? commonEnd(profiles[i]!.path, profiles[k]!.path) : 0;
				if (end > 0) roots.add(JSON.stringify([profiles[i]!, profiles[k]!].map(({ path }) => path.slice(0, path.length - end))));
			}
	const places = new Map(profiles.map((p, i) => [p.path, i]));
	for (const pair of roots) {
		const [root, otherRoot] = JSON.parse(pair) as [string, string];
		for (const [i, p] of profiles.entries()) {
			const other = p.path.startsWith(root) ? places.get(otherRoot + p.path.slice(root.length)) : undefined;
			if (other === undefined || other === i || !areAlike(p, profiles[other]!)) continue;
			const [mine, theirs] = [groups.find((g) => g.includes(i))!, groups.find((g) => g.includes(other))!];
			if (mine === theirs) continue;
			mine.push(...theirs);
			groups.splice(groups.indexOf(theirs), 1);
		}
	}
}

/** Whether most tables of two stores are declared alike. */
function areAlike(a: Profile, b: Profile): boolean {
	const shared = [...a.tables].filter((t) => b.tables.has(t)).length;
	return shared > 0 && shared / Math.max(a.tables.size, b.tables.size) >= TABLES_ALIKE;
}

/** Whether two captures hold a file of either group each, at the same places within them: two stores of one device. */
function areSideBySide(a: readonly Profile[], b: readonly Profile[]): boolean {
	const there = new Set(b.map((p) => p.path));
	return a.some((x) =>
		a.some((other) => {
			if (x === other) return false;
			const tail = commonEnd(x.path, other.path);
			const [root, otherRoot] = [x.path.slice(0, x.path.length - tail), other.path.slice(0, other.path.length - tail)];
			return b.some((y) => y.path.startsWith(root) && y.path !== x.path && there.has(otherRoot + y.path.slice(root.length)));
		})
	);
}

/** Letters of the folders and the name in which two paths end alike. */
function commonEnd(a: string, b: string): number {
	const [x, y] = [a.split('/'), b.split('/')];
	let n = 0;
	while (n < x.length && n < y.length && x.at(-1 - n) === y.at(-1 - n)) n++;
	return x.slice(x.length - n).join('/').length;
}

/**
 * Of stores one of which holds no message their other rows say whether they are one. One in which nothing ever was (a
 * program can keep its messages in several files, and the next is made before it is needed) is known by its name alone.
 */
function isSameWithoutMessages(a: Profile, b: Profile): boolean {
	if (!a.used || !b.used) return a.file === b.file;
	if (Math.min(a.keys.size, b.keys.size) < KEYS_LEAST) return true;
	return [...a.keys].filter((key) => b.keys.has(key)).length >= Math.min(a.keys.size, b.keys.size) * KEYS_ALIKE;
}

/** Whether the same messages have other keys in either: each made its own. */
function callOtherwise(a: Profile, b: Profile): boolean {
	let [both, alike] = [0, 0];
	for (const [content, key] of a.own) {
		const other = b.own.get(content);
		if (other === undefined) continue;
		both++;
		if (numberIn(other) === numberIn(key)) alike++;
	}
	return both >= CALLED_LEAST && alike < both * CALLED_ALIKE;
}
/** A key without the table it is of, which another version can call otherwise. */
const numberIn = (key: string): string => key.slice(key.search(/[#@]/) + 1);
const CALLED_LEAST = 5;
const CALLED_ALIKE = 0.1;

/** Older first. Stated times decide; else what each holds that the other has not; else how often the file was changed. */
function compareCaptures(a: Capture, b: Capture, profiles: readonly Profile[]): number {
	if (a.stated && b.stated && a.time !== b.time) return a.time! - b.time!;
	const p = profiles[a.store]!;
	const q = profiles[b.store]!;
	const [less, more] = (p.newestKept ?? 0) <= (q.newestKept ?? 0) ? [p, q] : [q, p];
	const sign = less === p ? -1 : 1;
	// Nothing in it that the other has not: it is older, or it lost its newest. The engine counts its changes; a copy that
	// another engine wrote has a count of its own.
	const within =
		less.records.size > 0
			? [...less.records.keys()].every((k) => more.records.has(k))
			: [...less.contents.keys()].every((c) => more.contents.has(c));
	if (within && less.engine === more.engine && less.counter > 0 && more.counter > 0 && less.counter !== more.counter)
		return less.counter < more.counter ? sign : -sign;
	// What was taken with it can be newer than all that it holds.
	if (a.time !== null && b.time !== null && a.time !== b.time) return a.time - b.time;
	if (p.newestKept !== q.newestKept) return sign;
	return p.counter - q.counter || q.kept - p.kept || (a.name < b.name ? -1 : 1);
}

/**
 * Makes one list of the messages of a family: each message once, with its state in every capture. `perStore` has the
 * messages of every store of the look.
 */
export function mergeFamily(family: Family, perStore: readonly Woven[][], stores: readonly WovenStore[]): Woven[] {
	const newest = family.captures.at(-1)!;
	const merged = perStore[newest.store]!;
	if (family.captures.length === 1) return merged;
	const own = new OwnStates();
	for (const m of merged) {
		m.noteIn(newest.store, m.standing);
		own.note(m, newest.store, m.standing);
	}
	const index = new Merged(stores);
	merged.forEach((m) => index.add(m));
	for (const capture of family.captures.slice(0, -1).reverse()) {
		const becomes = new Map<Woven, Woven>();
		const here = perStore[capture.store]!;
		takeHome(here, index, capture.store);
		index.begin(here);
		// Messages before their earlier wordings, which need to know whose they are.
		for (const m of [...here.filter((x) => !x.earlierWordingOf), ...here.filter((x) => x.earlierWordingOf)]) {
			const standing = m.standing;
			m.inOlderCapture();
			const same = m.earlierWordingOf ? null : index.same(m);
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
	return withoutDoubles(withoutWrongEnds(withoutWordingsTwice(merged)));
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
		if (!isNumbered(m.thread) || m.earlierWordingOf) continue;
		for (const { thread } of newer.saidThen(m)) {
			if (!isNumbered(thread)) continue;
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
	const named = new Set(merged.flatMap((m) => [m.earlierWordingOf, m.answers]));
	return merged.filter((m) => {
		if (m.record !== null || m.earlierWordingOf || m.first.sentAt === null) return true;
		const same = (byText.get(sayingOf(m)!) ?? []).find((x) => x.first.sentAt === m.first.sentAt && canBeOne(x, m));
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

	constructor(private readonly stores: readonly WovenStore[]) {}

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
		if (m.record !== null && this.numbersHold && (rowidColumn >= 0 || inferred)) keys.push(`${tables[m.recordTable]!.name}#${m.record}`);
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
		for (const c of this.candidates(m)) if (sameMessage(c.first, m.first) || sameRecord(c.first, m.first)) return c;
		// Two of one capture are two; the same text in another is the same message, wherever it was numbered anew.
		const alike = (this.byText.get(sayingOf(m) ?? '') ?? []).filter((c) => !c.seenIn?.has(m.store) && canBeOne(c, m));
		const timed = alike.find((c) => c.first.sentAt !== null && c.first.sentAt === m.first.sentAt);
		const filed = timed ?? this.ofTheSameFile(m);
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

	/** A text without a number that a newer capture has, where only `m`, the same of this one, shows whose wording it is. */
	looseWording(main: Woven, m: Woven): Woven | null {
		if (m.first.sentAt === null) return null;
		const same = this.byText
			.get(sayingOf(m) ?? '')
			?.find((c) => c.record === null && c.first.sentAt === m.first.sentAt && !c.seenIn?.has(m.store) && canBeOne(c, m));
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
	const states = family.captures.map((capture): { capture: Capture; state: CaptureState } => {
		const seen = m.seenIn?.get(capture.store);
		if (seen === 'kept') return { capture, state: 'in' };
		if (seen === 'binned') return { capture, state: 'binned' };
		const at = m.first.sentAt;
		return { capture, state: seen === undefined && at !== null && capture.time !== null && capture.time < at ? 'before' : 'out' };
	});
	const last = states.findLastIndex((s) => s.state === 'in');
	const missing = states.findIndex((s, i) => i > last && s.state !== 'in' && s.state !== 'before');
	if (missing < 0) return { states, lastSeen: null, firstMissing: null };
	return {
		states,
		lastSeen: last < 0 ? null : states[last]!.capture.time,
		firstMissing: states[missing]!.capture.time
	};
}

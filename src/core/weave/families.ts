/**
 * Copies of one store, taken at different times, are its captures: a family. They are known by what they hold, tables
 * declared alike and the same messages under the same record numbers; by the place on one device that backups state; or
 * as what two versions of a program left. A stated time orders them, else what each holds that the other has not.
 */
import { lastChanged } from './last-changed';
import type { Understood } from '../interpret';
import { ExportHarvest, type Harvested } from '../harvest';
import type { Direction, Row, Table } from '../model';
import { partsByName } from './parts';
import type { WovenStore } from './weave';

/** One store's state at one moment. */
export interface Capture {
	/** Index into the look's stores. */
	store: number;
	name: string;
	/** Path of what the name stands for: the store's, or that of a folder or container around it. */
	place: string;
	/** ms UTC: stated, else when its file was last changed, where that agrees with what is inside, else of the newest message inside; null where none is known. */
	time: number | null;
	stated: boolean;
	/** Stores beside it in which the program keeps some of the rows of the same tables. */
	parts: number[];
}

/** The captures of one store, oldest first. A store given once is a family of one. */
export interface Family {
	captures: Capture[];
}

/** The stores of all its captures, with their parts. */
export const storesOf = ({ captures }: Family): number[] => captures.flatMap(({ store, parts }) => [store, ...parts]);

/** Shares above which two stores count as the same one. */
const TABLES_ALIKE = 0.7;
export const RECORDS_ALIKE = 0.4;
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
export interface Profile {
	tables: Set<string>;
	/** Of those that were dropped. */
	dropped: Set<string>;
	records: Map<string, { text: string | null; direction: Direction | null; isKept: boolean }>;
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
	/** How far its log goes. */
	log: Harvested['log'];
	/** Of the messages in use: the contents. */
	inUse: string[];
	engine: number;
	path: string;
	/** Its name with the folder it is in, and the whole path of that. */
	file: string;
	folder: string;
	onDevice: WovenStore['onDevice'];
	/** Whether somebody exported it: what goes on where another ended is another part of what was exported. */
	isExported: boolean;
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
export function primaryKeyOf({ row }: Understood, table: Table): string | null {
	const key = table.rowidColumn < 0 ? table.primaryKey.map((column) => row.values[column]) : [];
	return key.length > 0 && key.every((value) => value !== undefined && value !== null) ? `${table.name}@${key.join('|')}` : null;
}
const contentOf = (u: Understood): string | null =>
	u.text === null || u.sentAt === null ? null : `${u.sentAt}|${u.direction ?? ''}|${u.text}`;

const declarationOf = ({ name, columns }: Table): string =>
	`${name}(${columns
		.map((c) => c.name)
		.sort()
		.join(',')})`;

function profileOf(store: WovenStore): Profile {
	const p: Profile = {
		tables: new Set(store.harvest.tables.filter((t) => t.index > 0 && !t.dropped).map(declarationOf)),
		dropped: new Set(store.harvest.tables.filter((t) => t.dropped).map(declarationOf)),
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
		log: store.harvest.log,
		inUse: [],
		engine: store.harvest.engineVersion,
		file: (store.path ?? store.name).split('/').slice(-2).join('/'),
		path: store.path ?? store.name,
		folder: (store.path ?? '').split('/').slice(0, -1).join('/'),
		onDevice: store.onDevice,
		isExported: (store.exported ?? false) && !isFolderOfTalks(store),
		used: store.harvest.tables.some((t) => t.index > 0 && store.harvest.book.rowsOf(t.index).length > 0),
		compared: new Map()
	};
	for (const u of store.understood.messages) {
		const key = recordKey(store, u);
		if (key !== null && (u.row.standing === 'kept' || !p.records.has(key)))
			p.records.set(key, { text: u.text, direction: u.direction, isKept: u.row.standing === 'kept' });
		const content = contentOf(u);
		if (content !== null) p.contents.set(content, u.sentAt!);
		// Of a lost row that has no number any more its key says nothing: those in use are known by their numbers.
		const guid = u.row.standing === 'kept' ? u.guid : null;
		const own = key ?? (u.row.tableKnown ? (primaryKeyOf(u, store.harvest.tables[u.row.table]!) ?? guid) : null);
		if (content !== null && own !== null) p.own.set(content, own);
		if (typeof u.row.rowid === 'number') {
			p.lowest = Math.min(p.lowest, u.row.rowid);
			p.highest = Math.max(p.highest, u.row.rowid);
		}
		if (u.row.standing === 'kept') {
			p.kept++;
			if (content !== null) p.inUse.push(content);
			p.newestKept = Math.max(p.newestKept ?? -Infinity, u.sentAt ?? -Infinity);
		}
		if (u.sentAt === null) continue;
		p.newest = Math.max(p.newest ?? -Infinity, u.sentAt);
		p.oldest = Math.min(p.oldest ?? Infinity, u.sentAt);
	}
	return p;
}

/** Whether it is what somebody exported once: what a program keeps in files is seen in captures, or is a folder of them. */
export const isSomebodysExport = ({ captures }: Family, stores: readonly WovenStore[]): boolean =>
	captures.length === 1 && captures.every(({ store }) => (stores[store]!.exported ?? false) && !isFolderOfTalks(stores[store]!));

/** Whether its files are a program's own, one for each conversation: then it is no part of what somebody exported. */
const isFolderOfTalks = ({ harvest }: WovenStore): boolean => harvest instanceof ExportHarvest && harvest.isFolderOfTalks;

/** Keys of text or bytes of the tables in use that hold no messages; a folder's conversations are known by the first of their fields that all have, and no two alike. */
function keysBesides(store: WovenStore): Set<string> {
	const { harvest, understood } = store;
	const isFolder = isFolderOfTalks(store);
	const ofMessages = new Set(understood.messages.map((u) => u.row.table));
	const keys = new Set<string>();
	for (const table of harvest.tables) {
		const [column, ...more] = isFolder ? uniqueField(harvest.book.rowsOf(table.index)) : table.rowidColumn < 0 ? table.primaryKey : [];
		if (column === undefined || more.length > 0 || ofMessages.has(table.index)) continue;
		for (const row of harvest.book.rowsOf(table.index).slice(0, KEYS_READ)) {
			const key = row.values[column];
			if (row.standing === 'kept' && (typeof key === 'string' || key instanceof Uint8Array) && key.length >= KEY_LONG)
				keys.add(`${table.name}@${String(key)}`);
		}
	}
	return keys;
}

function uniqueField(rows: readonly Row[]): number[] {
	const width = rows[0]?.values.length ?? 0;
	const isUnique = (c: number): boolean => {
		const values = new Set(rows.map(({ values }) => values[c]));
		return values.size === rows.length && [...values].every((v) => typeof v === 'string' && v.length >= KEY_LONG && !/\s/.test(v));
	};
	return Array.from({ length: width }, (_, c) => c)
		.filter(isUnique)
		.slice(0, 1);
}

/** Groups stores into families and orders each by time. */
export function familiesOf(stores: readonly WovenStore[]): Family[] {
	const profiles = stores.map(profileOf);
	const areParts = partsByName(profiles);
	const groups: number[][] = [];
	stores.forEach((_, i) => {
		const same = groups.filter((g) => g.some((j) => haveTheSame(profiles[i]!, profiles[j]!, areParts) === true));
		groups.push([...same.flat(), i]);
		for (const group of same) groups.splice(groups.indexOf(group), 1);
	});
	joinByPlace(groups, profiles);
	joinByLittle(groups, profiles, areParts);
	const parts = takeParts(groups, profiles, areParts);
	for (const group of groups) group.sort((a, b) => a - b);
	groups.sort((a, b) => a[0]! - b[0]!);
	return groups.map((group) => {
		const called = captureNames(group.map((i) => stores[i]!));
		const latest = latestAround(group, profiles);
		const captures = group
			.map((i, at): Capture => {
				const stated = stores[i]!.takenAt ?? null;
				return { store: i, ...called[at]!, time: stated ?? latest.get(i)!, stated: stated !== null, parts: parts.get(i) ?? [] };
			})
			.sort((a, b) => compareCaptures(a, b, profiles));
		const changed = lastChanged(captures, stores);
		return { captures: captures.map((c, at) => ({ ...c, time: changed?.[at] ?? c.time })) };
	});
}

type AreParts = ReturnType<typeof partsByName>;

/** Takes out of the groups what is a part of another's store, the one with what is newest, and lies beside it; says of each store its parts. */
function takeParts(groups: number[][], profiles: readonly Profile[], areParts: AreParts): Map<number, number[]> {
	const parts = new Map<number, number[]>();
	const newest = (group: readonly number[]): number => Math.max(...group.map((i) => profiles[i]!.newestKept ?? -Infinity));
	groups.sort((a, b) => newest(b) - newest(a));
	for (let at = 0; at < groups.length; at++)
		for (const i of groups[at]!) {
			const [own, found] = [profiles[i]!, [] as number[]];
			for (const other of groups.slice(at + 1)) {
				const beside = other.filter((k) => profiles[k]!.folder === own.folder && areParts(own, profiles[k]!));
				found.push(...beside);
				for (const k of beside) other.splice(other.indexOf(k), 1);
			}
			if (found.length > 0) parts.set(i, found);
		}
	groups.splice(0, groups.length, ...groups.filter((group) => group.length > 0));
	return parts;
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
function haveTheSame(a: Profile, b: Profile, areParts: AreParts): boolean | null {
	if (areParts(a, b)) return false;
	let said = a.compared.get(b);
	if (said === undefined) {
		said = areOfOnePlace(a, b) || (areAlike(a, b) ? compareMessages(a, b) : isAsOfAnotherVersion(a, b) || areNumberedAlike(a, b));
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

/**
 * Whether two files of one name in two folders have the same messages under the same numbers, whatever their tables are
 * called: a newer version of the program has moved them. Another program can number them so as well, but has few of the
 * tables that the one has, and dropped none of them.
 */
function areNumberedAlike(a: Profile, b: Profile): boolean {
	const called = (p: Profile): string => p.file.split('/').at(-1)!;
	if (called(a) !== called(b) || a.folder === b.folder) return false;
	const inBoth = (tables: ReadonlySet<string>, { tables: others }: Profile): number =>
		[...tables].filter((table) => others.has(table)).length;
	const areMost = inBoth(a.tables, b) >= Math.min(a.tables.size, b.tables.size) * TABLES_CALLED;
	if (!areMost && inBoth(a.dropped, b) === 0 && inBoth(b.dropped, a) === 0) return false;
	let [both, alike] = [0, 0];
	for (const [content, own] of a.own) {
		const other = b.own.get(content);
		if (other === undefined) continue;
		both++;
		if (numberIn(own) === numberIn(other)) alike++;
	}
	return both >= NUMBERED_LEAST && alike >= both * NUMBERED && compareContents(a, b) === true && !callOtherwise(a, b);
}
const NUMBERED_LEAST = 10;
const NUMBERED = 0.9;
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
	const fewest = Math.min(a.contents.size, b.contents.size);
	if (fewest === 0) return null;
	if (contents / fewest >= CONTENT_ALIKE) return true;
	// Where all but the newest is deleted in time, two of them may have little in common but what both had time to see, and
	// what is left of older rows reaches further back.
	const [keptA, keptB] = [a, b].map((p) => p.inUse.map((content): [string, number] => [content, p.contents.get(content)!]));
	return overlap(keptA!, keptB!) ?? overlap([...a.contents], [...b.contents]);
}

/** Whether what both have of the time that both are of is the same; null where that is too little. Contents with their times. */
function overlap(a: readonly [string, number][], b: readonly [string, number][]): boolean | null {
	const [first, second] = [a, b].map((of) => of.map(([, at]) => at));
	const from = Math.max(least(first!), least(second!));
	const to = -Math.max(least(first!.map((at) => -at)), least(second!.map((at) => -at)));
	const within = (of: readonly [string, number][]): string[] => of.flatMap(([content, at]) => (at >= from && at <= to ? [content] : []));
	const [ofA, ofB] = [within(a), new Set(within(b))];
	const few = Math.min(ofA.length, ofB.size);
	if (few < OVERLAP_LEAST) return null;
	// Of a text that is left of a lost row its end can be missing.
	const byHead = new Map([...ofB].map((content) => [headOf(content), content]));
	const isIn = (content: string): boolean => {
		const other = byHead.get(headOf(content)) ?? '\0';
		return ofB.has(content) || content.startsWith(other) || other.startsWith(content);
	};
	return ofA.filter(isIn).length >= few * OVERLAP_ALIKE;
}
/** When it was said, which way, and the first letters of it. */
const headOf = (content: string): string => content.slice(0, content.indexOf('|', content.indexOf('|') + 1) + HEAD);
const HEAD = 4;
const least = (of: readonly number[]): number => of.reduce((min, n) => Math.min(min, n), Infinity);

/** Whether two stores whose messages say nothing of it may be one. */
function mayBeOne(a: Profile, b: Profile, areParts: AreParts): boolean {
	if (a.isExported || b.isExported || haveTheSame(a, b, areParts) !== null) return false;
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
function joinByLittle(groups: number[][], profiles: readonly Profile[], areParts: AreParts): void {
	const all = (group: readonly number[]): Profile[] => group.map((i) => profiles[i]!);
	const pairs = (a: readonly number[], b: readonly number[]): [Profile, Profile][] =>
		all(a).flatMap((x) => all(b).map((y): [Profile, Profile] => [x, y]));
	for (const named of [true, false])
		for (let i = 0; i < groups.length; i++)
			for (let k = i + 1; k < groups.length; k++) {
				const both = pairs(groups[i]!, groups[k]!);
				// Of most stores their tables say at once that they are not one.
				if (
					both.some(([x, y]) => haveTheSame(x, y, areParts) === false) ||
					!both.some(([x, y]) => (!named || x.file === y.file) && mayBeOne(x, y, areParts))
				)
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

/** Whether all that is in use in one is in the other: by what it says, or by its key in another wording. */
function isKnownIn(less: Profile, more: Profile): boolean {
	const keys = new Set([...more.own.values()].map(numberIn));
	return less.inUse.every((content) => more.contents.has(content) || keys.has(numberIn(less.own.get(content) ?? '')));
}

/** Messages in use in one of which the other has only what is left, or a row without its text: the other is the later one. */
function lostSince(one: Profile, other: Profile): number {
	const inUse = new Set(other.inUse);
	const left = one.inUse.filter((content) => other.contents.has(content) && !inUse.has(content)).length;
	let blanked = 0;
	for (const [key, { text, isKept }] of one.records) {
		const there = isKept && text ? other.records.get(key) : undefined;
		if (there?.isKept && !there.text) blanked++;
	}
	return left + blanked;
}

/** Older first. Stated times decide; else what each holds that the other has not; else how often the file was changed. */
function compareCaptures(a: Capture, b: Capture, profiles: readonly Profile[]): number {
	if (a.stated && b.stated && a.time !== b.time) return a.time! - b.time!;
	const p = profiles[a.store]!;
	const q = profiles[b.store]!;
	// A log only grows until it begins anew.
	if (p.log && q.log && p.log.name === q.log.name && p.log.length !== q.log.length) return p.log.length - q.log.length;
	const [less, more] = (p.newestKept ?? 0) <= (q.newestKept ?? 0) ? [p, q] : [q, p];
	const sign = less === p ? -1 : 1;
	// Nothing in use in it that the other has not: it is older, or it lost its newest. The engine counts its changes; a copy that
	// another engine wrote has a count of its own.
	const areThere = less.records.size > 0 && [...less.records].every(([k, { isKept }]) => !isKept || more.records.has(k));
	const within = areThere || isKnownIn(less, more);
	if (within && less.engine === more.engine && less.counter > 0 && more.counter > 0 && less.counter !== more.counter)
		return less.counter < more.counter ? sign : -sign;
	const [ofOther, ofThis] = [lostSince(q, p), lostSince(p, q)];
	if ((ofOther === 0) !== (ofThis === 0)) return ofOther - ofThis;
	// What was taken with it can be newer than all that it holds.
	if (a.time !== null && b.time !== null && a.time !== b.time) return a.time - b.time;
	if (p.newestKept !== q.newestKept) return sign;
	return p.counter - q.counter || q.kept - p.kept || (a.name < b.name ? -1 : 1);
}

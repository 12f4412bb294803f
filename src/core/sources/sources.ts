/**
 * What was given: the backups, program's folders, exports, stores, address books and locked containers among the files,
 * each with what it states of itself. What states itself is known before anything is read; of the others, when their stores are.
 */
import { z } from 'zod';
import { folderOf, isUnder } from '../paths';
import type { SurveyLine } from '../survey';
import { Anchors } from './anchors';

export const sourceSchema = z.object({
	/** Path of the file, or of the folder or container whose files belong together. */
	path: z.string(),
	/** `packed`: a container in which a program's folder was packed. */
	what: z.enum(['backup', 'folder', 'packed', 'store', 'export', 'other side', 'address book', 'locked']),
	/** The device that it states it is of. */
	device: z.string().nullable(),
	/** When it was taken, ms UTC; where nothing states it, when the newest message in it was sent. */
	taken: z.number().nullable(),
	stated: z.boolean(),
	/** How many files it has, and their bytes. */
	files: z.number(),
	size: z.number(),
	/** Whether it cannot be read without a passphrase that was not given. */
	locked: z.boolean(),
	/** Whether it holds only what changed since the one before; null where that cannot be. */
	partial: z.boolean().nullable(),
	/** About how many messages are in use in it, and the oldest and newest of them, ms UTC; null before that was read. */
	estimate: z.number().nullable(),
	from: z.number().nullable(),
	to: z.number().nullable(),
	/** People in an address book. */
	people: z.number().nullable(),
	/** Paths of the stores in it that hold messages. */
	stores: z.array(z.string())
});
export type Source = z.infer<typeof sourceSchema>;

/** A backup, as far as it is asked for here. */
interface StatedBackup {
	folder: string;
	device: string | null;
	date: number | null;
	locked: boolean;
	partial: boolean;
	files: readonly { path: string }[];
}

export interface KnownOfSources {
	/** Files as they were given. */
	given: readonly { path: string; size: number }[];
	/** Everything readable, what lies inside under its own path. */
	files: readonly { path: string; size: number }[];
	backups: readonly StatedBackup[];
	/** Containers that no passphrase opens. */
	locked: readonly string[];
	books: readonly { path: string; people: number }[];
	/** What was read of the stores; none before the survey. */
	stores: readonly SurveyLine[];
}

/** Sources in the order of their paths. */
export function sourcesOf(known: KnownOfSources): Source[] {
	const { backups, locked, books } = known;
	const inBackup = new Map(backups.flatMap((b) => b.files.map((f) => [f.path, b] as const)));
	const stores = known.stores.filter((s) => s.kind === 'messages');
	const free = stores.filter((s) => !inBackup.has(s.path));
	const roots = rootsOf(free, known);
	const sizes = new Sizes(known);
	const base = (path: string): Omit<Source, 'what'> => ({
		path,
		device: null,
		taken: null,
		stated: false,
		...sizes.of(path),
		locked: false,
		partial: null,
		...messagesIn([]),
		people: null,
		stores: []
	});
	const sources: Source[] = backups.map((b) => {
		const within = stores.filter((s) => inBackup.get(s.path) === b);
		return {
			...base(b.folder),
			what: 'backup',
			device: b.device,
			...takenOf(within),
			...(b.date === null ? {} : { taken: b.date, stated: true }),
			locked: locked.includes(b.folder) || (b.locked && within.length === 0),
			partial: b.partial,
			...messagesIn(within)
		};
	});
	for (const [path, within] of roots)
		sources.push({ ...base(path), what: whatIs(path, within, known), ...takenOf(within), ...messagesIn(within) });
	const isKnown = (path: string): boolean => sources.some((s) => s.what === 'backup' && isUnder(path, s.path));
	for (const path of new Set(locked)) if (!isKnown(path)) sources.push({ ...base(path), what: 'locked', locked: true });
	for (const { path, people } of books) if (!isKnown(path)) sources.push({ ...base(path), what: 'address book', people });
	return sources.sort(byPath);
}

/** With those known before that are still given, whose stores were all left this time. */
export function withKnown(
	sources: readonly Source[],
	before: readonly Source[],
	{ given, isLeft }: { given: readonly { path: string }[]; isLeft: (store: string) => boolean }
): Source[] {
	const isGiven = ({ path }: Source): boolean => given.some((file) => isUnder(file.path, path) || isUnder(path, file.path));
	const known = before.filter(
		(s) =>
			s.stores.length > 0 &&
			s.stores.every(isLeft) &&
			isGiven(s) &&
			!sources.some(({ path, stores }) => path === s.path && stores.length > 0)
	);
	const kept = new Set(known.map(({ path }) => path));
	return [...sources.filter(({ path }) => !kept.has(path)), ...known].sort(byPath);
}

const byPath = (a: Source, b: Source): number => (a.path < b.path ? -1 : 1);

function whatIs(path: string, stores: readonly SurveyLine[], { given }: Pick<KnownOfSources, 'given'>): Source['what'] {
	if (stores.some((s) => s.otherSide)) return 'other side';
	if (stores.every((s) => s.exported)) return 'export';
	if (stores.length === 1 && stores[0]!.path === path) return 'store';
	return given.some((file) => file.path === path) ? 'packed' : 'folder';
}

function takenOf(stores: readonly SurveyLine[]): Pick<Source, 'taken' | 'stated'> {
	const said = stores.filter((s) => s.stated && s.capture !== null);
	const of = said.length > 0 ? said : stores;
	return { taken: most(of.map((s) => s.capture)), stated: said.length > 0 };
}

function messagesIn(stores: readonly SurveyLine[]): Pick<Source, 'estimate' | 'from' | 'to' | 'stores'> {
	const least = most(stores.map((s) => (s.from === null ? null : -s.from)));
	return {
		estimate: stores.length === 0 ? null : stores.reduce((n, s) => n + s.estimate, 0),
		from: least === null ? null : -least,
		to: most(stores.map((s) => s.to)),
		stores: stores.map((s) => s.path)
	};
}

const most = (times: readonly (number | null)[]): number | null =>
	times.reduce((max, at) => (at !== null && (max === null || at > max) ? at : max), null);

/**
 * Where each store belongs: the container given that it lies in, the copy it is a part of, or the highest folder in which
 * nothing else lies that was given for itself.
 */
function rootsOf(stores: readonly SurveyLine[], { given, backups, locked }: KnownOfSources): Map<string, SurveyLine[]> {
	const isGiven = new Set(given.map(({ path }) => path));
	const startOf = ({ path, place }: SurveyLine): string => {
		for (let at = folderOf(path); at !== ''; at = folderOf(at)) if (isGiven.has(at)) return at;
		if (place === path) return path;
		return place !== null && isUnder(path, place) ? place : folderOf(path);
	};
	const isItself = (start: string, { path }: SurveyLine): boolean => isGiven.has(start) || start === path;
	const starts = new Map(stores.map((s) => [s, startOf(s)] as const));
	const anchors = new Anchors([...backups.map((b) => b.folder), ...locked]);
	for (const [store, start] of starts) anchors.add(isItself(start, store) ? start : store.path);
	const found = [...starts].map(([store, start]) => ({
		store,
		root: isItself(start, store) ? start : anchors.highest(start, store.path)
	}));
	const roots = new Map<string, SurveyLine[]>();
	for (const { store, root } of found.sort((a, b) => a.root.length - b.root.length)) {
		// Beside a store of which there are copies lie others of the same copy.
		const around = [...roots.keys()].find((other) => isUnder(root, other)) ?? root;
		const list = roots.get(around);
		if (list) list.push(store);
		else roots.set(around, [store]);
	}
	return roots;
}

const SIDE_FILES = ['-wal', '-journal', '-shm'];

/** Files and bytes under each folder: as given, or of what lies in a container as it is there. */
class Sizes {
	private readonly under = new Map<string, { files: number; size: number }>();

	constructor({ given, files }: Pick<KnownOfSources, 'given' | 'files'>) {
		const isGiven = new Set(given.map(({ path }) => path));
		for (const file of given) this.add(file, '');
		for (const file of files) {
			if (isGiven.has(file.path)) continue;
			let container = folderOf(file.path);
			while (container !== '' && !isGiven.has(container)) container = folderOf(container);
			// Under the real name that its backup gives it, it is one of the files given, counted there.
			if (container !== '') this.add(file, container);
		}
	}

	private add({ path, size }: { path: string; size: number }, below: string): void {
		for (let at = path; at !== below && at !== ''; at = folderOf(at)) {
			const sum = this.under.get(at) ?? { files: 0, size: 0 };
			this.under.set(at, { files: sum.files + 1, size: sum.size + size });
		}
	}

	of(path: string): { files: number; size: number } {
		// A store has its side files beside it.
		if (path !== '') return this.sum(['', ...SIDE_FILES].map((end) => path + end));
		return this.sum([...this.under.keys()].filter((at) => folderOf(at) === ''));
	}

	private sum(paths: readonly string[]): { files: number; size: number } {
		const found = paths.flatMap((path) => this.under.get(path) ?? []);
		return found.reduce((sum, of) => ({ files: sum.files + of.files, size: sum.size + of.size }), { files: 0, size: 0 });
	}
}

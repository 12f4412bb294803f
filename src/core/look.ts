/**
 * A look: the way of the data from files to threads, reach by reach. A generator: the caller stores, shows, pauses
 * and stops. After each reach (and now and then within a long one) everything found so far is there to be read.
 */
import { BlockPool, CachedSource, decodeText, isText, mediaTypeOf } from './bytes';
import { ExportHarvest, LevelHarvest, StoreHarvest, type AccountLine, type Harvested } from './harvest';
import {
	addressesOf,
	addressesTogether,
	capturesOf,
	ContactList,
	contactsOf,
	withoutBareAddresses,
	describeReading,
	isCalledAfter,
	nameByFile,
	isSelf,
	keepOwnRows,
	namedByTitles,
	openCodePaged,
	openDescribed,
	openWideTexts,
	openDocuments,
	openTextsInFiles,
	openChangeFeeds,
	openGraphs,
	openListsInSettings,
	openPivoted,
	openSegments,
	ownerAmong,
	readExported,
	readRecords,
	readStore,
	sheetsBeside,
	sheetsOf,
	siblingsOf,
	understand,
	withoutStrangers,
	writersIn,
	writersOf,
	type Contact,
	type Correction,
	type MessageReading,
	type NamedHarvest,
	type Party,
	type PlainReading,
	type StatedFile,
	type StoreReading,
	type Understood,
	type UnderstoodStore
} from './interpret';
import { brokeOff } from './broke-off';
import { readBooks } from './books';
import { callByHand } from './called-by-hand';
import { findExports } from './exports';
import { REACHES, type Note, type Reach, type Table } from './model';
import { AddressBook, Identities, type Card } from './people';
import type { SurveyLine } from './survey';
import { wallTimeToUtc } from './walltime';
import { REACH_WORDS } from './wording';
import { filesOf, gather, nameAlone, type GivenFile, type StoreGroup } from './unwrap';
import {
	familiesOf,
	isSomebodysExport,
	MediaIndex,
	storesOf,
	weave,
	type Capture,
	type Family,
	type Weave,
	type WovenStore
} from './weave';
import { baseOf, folderIn, folderOf } from './paths';

export interface LookOptions {
	reach: Reach;
	owner?: string | null;
	/** IANA zone in which times are read that state none; without it they are read as UTC. */
	zone?: string | null;
	/** What the user put right in the readings of stores. */
	correction?: Correction | null;
	/** Names put right by hand, by the number, address or name that the evidence has. */
	names?: Readonly<Record<string, string>>;
	/** Stores that are not looked at, by path. */
	leftOut?: readonly string[];
	/** Messages wanted, by time (ms UTC); those of unknown time are kept. */
	dates?: { from: number | null; to: number | null };
	/** When a database file was taken, ms UTC, by its path or that of the container it lies in: where something states it. */
	takenAt?: ReadonlyMap<string, number>;
	/** The device that each backup states it is of, by the backup's folder. */
	devices?: ReadonlyMap<string, string>;
}

export interface LookEvent {
	kind: 'progress' | 'findings';
	store: string;
	reach: Reach;
	/** Bytes done and to do, over all stores in this reach. */
	done: number;
	total: number;
	/** Rows seen so far, in use and lost. */
	rows: number;
}

export class Look {
	readonly files: GivenFile[];
	readonly notes: Note[];
	readonly groups: StoreGroup[];
	private readonly harvests: Harvested[];
	/** Address books among the files, by index of the file. */
	private readonly books: { file: number; cards: Card[] }[];
	private readonly seconds: number[];
	/** Stores of which something could not be done, by index, and what was said about it. */
	private readonly broken = new Map<number, Note>();
	private index: MediaIndex | null = null;
	private readonly stated = new WeakMap<WovenStore, readonly StatedFile[]>();
	private byPath: Map<string, GivenFile> | null = null;
	/** What text files beside stores say: asked for whenever those are read again. */
	private readonly texts = new WeakMap<GivenFile, string | null>();
	private readonly documents = new WeakMap<Harvested, { rows: number; opened: Harvested }>();
	private woven: { rows: number; stores: WovenStore[]; result: Weave; book: AddressBook } | null = null;

	constructor(
		files: readonly GivenFile[],
		private options: LookOptions
	) {
		const { stores: all, notes } = gather(files);
		const leftOut = new Set(options.leftOut);
		const stores = all.filter((s) => !leftOut.has(pathOf(files, s)));
		// Only databases and what belongs to them are read again and again.
		const read = new Set(all.flatMap(filesOf));
		const pool = new BlockPool();
		this.files = files.map((f, i) => (read.has(i) ? { ...f, source: new CachedSource(f.source, pool) } : f));
		const { found, notes: failed, joined, lists, books } = findExports(files, read);
		const exports = found.filter((e) => !leftOut.has(files[e.file]!.path));
		const exported = new Set(exports.map((e) => e.file));
		const opened = stores.flatMap((group) => {
			try {
				return [{ group, harvest: this.harvestOf(group) }];
			} catch (error) {
				failed.push(brokeOff(group.name, 'its beginning', error));
				return [];
			}
		});
		this.groups = [...opened.map((o) => o.group), ...exports.map((e) => ({ name: files[e.file]!.name, db: e.file, wal: -1, journal: -1 }))];
		this.harvests = [...opened.map((o) => o.harvest), ...exports.map((e) => e.harvest)];
		this.books = [...books, ...readBooks(files, new Set([...read, ...exported, ...joined]))];
		const known = new Set([...exported, ...joined, ...lists, ...this.books.map((b) => b.file)]);
		// Beside what is read here, pictures and the like are what came with it.
		const isRead = (file: number): boolean =>
			known.has(file) || (this.harvests.length > 0 && mediaTypeOf(files[file]!.source.read(0, MEDIA_HEAD)) !== null);
		this.notes = [...notes.filter((n) => n.code !== 'not-a-database' || n.file === undefined || !isRead(n.file)), ...failed];
		this.seconds = this.harvests.map(() => 0);
	}

	private harvestOf({ db, wal, journal, folder }: StoreGroup): Harvested {
		if (folder) {
			const parts = folder.files.map((file) => ({ file, name: nameAlone(this.files[file]!), source: this.files[file]!.source }));
			return new LevelHarvest(baseOf(folder.path), parts);
		}
		return new StoreHarvest({ sources: this.files.map((f) => f.source), db, wal, journal });
	}

	/** Lets the look go further; what it has done already is not repeated. */
	goOnTo(reach: Reach): void {
		this.options = { ...this.options, reach };
	}

	/** Milliseconds of a steady clock, where the host has one. */
	private readonly now = (): number => globalThis.performance?.now() ?? 0;

	get rows(): number {
		return this.harvests.reduce((sum, h) => sum + h.book.size, 0);
	}

	*run(): Generator<LookEvent, void, void> {
		for (const reach of REACHES.slice(0, REACHES.indexOf(this.options.reach) + 1)) {
			for (let i = 0; i < this.harvests.length; i++) yield* this.runOne(i, reach);
			yield { kind: 'findings', store: '', reach, done: 1, total: 1, rows: this.rows };
		}
	}

	/** One store, one reach. Where it breaks off that is said, and the others are looked at all the same. */
	private *runOne(i: number, reach: Reach): Generator<LookEvent, void, void> {
		if (this.broken.has(i)) return;
		const store = this.groups[i]!.name;
		const steps = this.harvests[i]!.run(reach);
		for (;;) {
			const from = this.now();
			const step = this.guarded(i, REACH_WORDS[reach], () => steps.next());
			this.seconds[i]! += (this.now() - from) / 1000;
			if (!step || step.done) return;
			yield { kind: 'progress', store, reach, done: step.value.done, total: step.value.total, rows: this.rows };
		}
	}

	/** What `act` gives, or null where it fails: said once for each store. */
	private guarded<T>(i: number, doing: string, act: () => T): T | null {
		try {
			return act();
		} catch (error) {
			if (!this.broken.has(i)) this.broken.set(i, brokeOff(this.groups[i]!.name, doing, error));
			return null;
		}
	}

	/** When the state at this path was taken. */
	private takenAt(path: string): number | null {
		return closestTo(path, this.options.takenAt)?.said ?? null;
	}

	/** When a store's database was last changed, or what lies beside it and belongs to it; null where that is not known. */
	private changedAt({ db, wal, journal }: StoreGroup): number | null {
		const times = [db, wal, journal].flatMap((k) => (k >= 0 ? [this.files[k]!.modified ?? null] : []));
		return times.length > 0 && times.every((at) => at !== null) ? Math.max(...times) : null;
	}

	/** The device that this path is of, as the backup around it states, and the place on it. */
	private onDevice(path: string): WovenStore['onDevice'] {
		const stated = closestTo(path, this.options.devices);
		return stated && { device: stated.said, place: path.slice(stated.key === '' ? 0 : stated.key.length + 1) };
	}

	/**
	 * What each store holds, from its rows in use, of which no more than about `most` bytes are read. The look cannot
	 * go on after that: it is made anew with what was chosen.
	 */
	survey(most = SURVEYED): SurveyLine[] {
		const shares = this.harvests.map((harvest) => {
			for (const p of harvest.run('used')) if (p.done > most && p.done < p.total) return p.done / p.total;
			return 1;
		});
		const stores = this.understood();
		return this.linesOf(stores, { families: familiesOf(stores), compared: [] }, shares);
	}

	/** The same of a look under way, of all that it has found so far. */
	lines(): SurveyLine[] {
		const { stores, weave } = this.findings();
		return this.linesOf(stores, weave, null);
	}

	/** The address books among the files, with how many people each has. */
	addressBooks(): { path: string; people: number }[] {
		return this.books.map(({ file, cards }) => ({ path: this.files[file]!.path, people: cards.length }));
	}

	/** `shares`: how much of each store was read, of 1; null where all of it was. */
	private linesOf(
		stores: readonly WovenStore[],
		{ families, compared }: Pick<Weave, 'families' | 'compared'>,
		shares: readonly number[] | null
	): SurveyLine[] {
		const captures = new Map<number, { family: Family; capture: Capture }>();
		for (const family of families)
			for (const capture of family.captures) for (const its of [capture.store, ...capture.parts]) captures.set(its, { family, capture });
		const others = new Set(compared.filter((c) => c.otherSide).map((c) => c.store));
		return stores.map((store, i): SurveyLine => {
			const { family, capture } = captures.get(i)!;
			return {
				...this.inUse(store, i, shares?.[i] ?? 1),
				capture: capture.time,
				stated: capture.stated,
				place: family.captures.length > 1 ? capture.place : null,
				exported: isSomebodysExport(family, stores),
				otherSide: storesOf(family).some((its) => others.has(its))
			};
		});
	}

	/** What of a store is in use, reckoned from the share that was read. */
	private inUse(store: WovenStore, i: number, share: number): Omit<SurveyLine, 'capture' | 'stated' | 'place' | 'exported' | 'otherSide'> {
		const group = this.groups[i]!;
		const size = (...of: number[]): number => of.reduce((sum, k) => sum + (k >= 0 ? this.files[k]!.source.size : 0), 0);
		const threads = new Set<string>();
		let from: number | null = null;
		let to: number | null = null;
		let kept = 0;
		for (const u of store.understood.messages) {
			if (u.row.standing !== 'kept') continue;
			kept++;
			threads.add(u.threadKey);
			if (u.sentAt === null) continue;
			if (from === null || u.sentAt < from) from = u.sentAt;
			if (to === null || u.sentAt > to) to = u.sentAt;
		}
		return {
			path: pathOf(this.files, group),
			kind: store.reading.messages.length > 0 ? 'messages' : store.reading.persons.length > 0 ? 'contacts' : 'other',
			estimate: Math.round(kept / share),
			from,
			to,
			threads: threads.size,
			sampled: share < 1,
			bytes: {
				used: size(...(group.folder?.files ?? [group.db])),
				logs: size(group.wal, group.journal),
				freed: store.exported || group.folder ? 0 : size(group.db)
			}
		};
	}

	/** Everything found so far, understood and woven. */
	findings(): { stores: WovenStore[]; weave: Weave } {
		const rows = this.harvests.reduce((sum, h) => sum + h.book.size + h.account.length, 0);
		if (this.woven?.rows === rows) return { stores: this.woven.stores, weave: this.woven.result };
		const stores = this.understood();
		const parties = partiesOf(stores);
		const book = new AddressBook(
			this.books.flatMap((b) => b.cards),
			new Set(parties.map((p) => p.address ?? ''))
		);
		this.giveNames(stores, book, namesOfStores(stores, parties));
		const together = stores.flatMap(({ reading, tables }) => addressesTogether(reading, tables));
		const { canonical } = new Identities(book, parties, together);
		callByHand(stores, this.options.names ?? {}, (address) => book.keyOf(address));
		const owner = new Set(this.ownerForms().map((form) => canonical({ address: form, name: null })));
		const result = weave(stores, canonical, owner);
		this.woven = { rows, stores, result, book };
		return { stores, weave: result };
	}

	/** Each store read, its messages understood; nothing of it is woven yet. */
	private understood(): WovenStore[] {
		const owners = this.exportOwners();
		const alone = this.withCommonOwner(
			this.harvests.map((harvest, i) => this.guarded(i, MEANING, () => this.readingOf(harvest, owners)) ?? readNothing())
		);
		this.markGroups(alone);
		return this.harvests.map((harvest, i): WovenStore => {
			const { name } = this.groups[i]!;
			const path = pathOf(this.files, this.groups[i]!);
			const takenAt = this.takenAt(path);
			const exported = isExported(harvest);
			const { reading, tables, understood } =
				this.guarded(i, MEANING, () => understoodOf(this.withBeside(i, alone))) ??
				understoodOf({ reading: readNothing(), tables: this.opened(harvest).tables });
			if (!exported) nameByFile(understood, path, reading, tables);
			if (this.options.zone) inZone(understood.messages, this.options.zone);
			if (this.options.dates) understood.messages = within(understood.messages, this.options.dates);
			const onDevice = this.onDevice(path);
			const modified = this.changedAt(this.groups[i]!);
			return { name, path, exported, harvest: this.opened(harvest), reading, tables, understood, takenAt, modified, onDevice };
		});
	}

	private readingOf(harvest: Harvested, owners: ReadonlyMap<Harvested, { owner: string; why: string }>): StoreReading {
		if (isExported(harvest)) {
			if (harvest.form !== 'records') return readExported(harvest, owners.get(harvest) ?? null);
			const file = this.files[this.groups[this.harvests.indexOf(harvest)]!.db]!;
			const reading = readRecords(harvest, { asked: this.ownerForms(), title: titleOf(file, harvest) });
			if (reading) return reading;
		}
		return this.readSheets(harvest, [])!.reading;
	}

	/** Files of records that do not say which of their writers is the owner are read with the one who writes in all of several. */
	private withCommonOwner(readings: StoreReading[]): StoreReading[] {
		const records = this.harvests.flatMap((h, i) => {
			const writers = h instanceof ExportHarvest && h.form === 'records' ? writersIn(readings[i]!, h.tables) : null;
			return writers ? [{ i, harvest: h as ExportHarvest, writers }] : [];
		});
		if (records.length < 2) return readings;
		const read = [...readings];
		const [first] = records;
		const everywhere = [...first!.writers].filter((w) => records.every(({ writers }) => writers.has(w)));
		const untold = ({ messages }: StoreReading): boolean => messages.every((m) => m.direction.value.kind === 'unknown');
		if (everywhere.length === 1)
			for (const { i, harvest } of records)
				if (untold(read[i]!)) read[i] = this.guarded(i, MEANING, () => readRecords(harvest, { asked: everywhere, title: '' })) ?? read[i]!;
		// Where he did not write all was written to him; another program than that which calls him "me" calls him otherwise.
		const columnsOf = (i: number): string => this.harvests[i]!.tables.flatMap((t) => t.columns.map((c) => c.name)).join();
		const isMeant = (owner: string, i: number): boolean =>
			!isSelf(owner) || records.some((r) => r.i !== i && r.writers.has(owner) && columnsOf(r.i) === columnsOf(i));
		const owners = new Set(records.flatMap(({ i }) => read[i]!.messages.flatMap(ownersTold)));
		if (owners.size === 1)
			for (const { i, writers } of records)
				if (untold(read[i]!) && !writers.has([...owners][0]!) && isMeant([...owners][0]!, i))
					for (const m of read[i]!.messages) asWrittenTo(m, [...owners][0]!);
		return read;
	}

	/** Where exports are called after the one other who writes in them, one that is called otherwise is a group's. */
	private markGroups(readings: readonly StoreReading[]): void {
		const ofTwo = this.harvests.flatMap((h, i) => {
			const [m, ...more] = readings[i]!.messages;
			if (!isExported(h) || h.form === 'mail' || !m?.sender || !m.threadTitled || more.length > 0) return [];
			const [other, ...others] = [...(writersIn(readings[i]!, h.tables) ?? [])].filter((w) => !ownersTold(m).includes(w));
			if (ownersTold(m).length === 0 || other === undefined || others.length > 0 || !isName(other)) return [];
			return [{ m, isCalledSo: isCalledAfter(titleOf(this.files[this.groups[i]!.db]!, h), other) }];
		});
		if (ofTwo.filter((one) => one.isCalledSo).length < CALLED_SO) return;
		for (const { m, isCalledSo } of ofTwo) if (!isCalledSo && (m.takingPart?.length ?? SEVERAL) > 2) m.isGroup = true;
	}

	/** A store with its conversations' documents, and what is said of its messages thing by thing, as rows. */
	private opened(harvest: Harvested): Harvested {
		if (isExported(harvest)) return harvest;
		const known = this.documents.get(harvest);
		if (known?.rows === harvest.book.size) return known.opened;
		const store = this.harvests.indexOf(harvest);
		const filled = openTextsInFiles(openWideTexts(openCodePaged(harvest)), (path) => this.textBeside(store, path));
		const opened = openPivoted(openDescribed(openListsInSettings(openDocuments(openGraphs(openChangeFeeds(openSegments(filled)))))));
		this.documents.set(harvest, { rows: harvest.book.size, opened });
		return opened;
	}

	/** What a text file says that a store names by its path in the store's folder, or in the one that has it; null where there is none. */
	private textBeside(store: number, path: string): string | null {
		const group = store < 0 ? null : this.groups[store];
		if (!group) return null;
		this.byPath ??= new Map(this.files.map((f) => [f.path, f]));
		const home = folderOf(pathOf(this.files, group));
		const bare = path.replaceAll('\\', '/').replace(/^(\.?\/)+/, '');
		const file = [home, folderOf(home)].map((folder) => this.byPath!.get(folder === '' ? bare : `${folder}/${bare}`)).find((f) => f);
		if (!file || file.source.size > TEXT_AT_MOST) return null;
		const known = this.texts.get(file);
		if (known !== undefined) return known;
		const bytes = file.source.read(0, file.source.size);
		const text = isText(bytes, 0, bytes.length, 'utf8') ? decodeText(bytes, 0, bytes.length, 'utf8').replace(/^\ufeff/, '') : null;
		this.texts.set(file, text);
		return text;
	}

	/** A store read with the sheets of `others`, null where those have nothing to do with its messages. */
	private readSheets(own: Harvested, others: readonly NamedHarvest[]): { reading: StoreReading; tables: readonly Table[] } | null {
		const harvest = this.opened(own);
		const all = this.harvests.map((h) => this.opened(h));
		const folder = this.folderOf(this.harvests.indexOf(own));
		const siblings = siblingsOf(
			harvest,
			all.filter((_, i) => this.folderOf(i) === folder)
		);
		const captures = [...new Set([...capturesOf(harvest, all), ...siblings])];
		const sheets = sheetsOf(harvest, captures);
		const { sheets: more, tables } = sheetsBeside(sheets, harvest.tables, others);
		const beside = new Set(more);
		const whole = readStore([...sheets, ...more], tables, this.ownerForms(), this.options.correction ?? null, beside, [
			harvest,
			...captures
		]);
		const reading = beside.size > 0 ? withoutStrangers(whole, beside) : whole;
		if (captures.length > 0) keepOwnRows(sheets, harvest);
		return reading && { reading, tables };
	}

	/** The reading of a store with messages, together with the stores without any that lie in the same folder. */
	private withBeside(i: number, alone: readonly StoreReading[]): { reading: StoreReading; tables: readonly Table[] } {
		const harvest = this.harvests[i]!;
		const own = { reading: alone[i]!, tables: this.opened(harvest).tables };
		if (isExported(harvest) || own.reading.messages.length === 0) return own;
		const folder = this.folderOf(i);
		const others = this.harvests.flatMap((h, k): NamedHarvest[] => {
			const isBeside = k !== i && !(h instanceof ExportHarvest) && alone[k]!.messages.length === 0 && this.folderOf(k) === folder;
			return isBeside ? [{ name: this.groups[k]!.name, harvest: this.opened(h) }] : [];
		});
		const together = others.length > 0 ? this.readSheets(harvest, others) : null;
		const names = ({ messages }: StoreReading): string => messages.map((m) => m.sheet.name).join();
		return together && names(together.reading) === names(own.reading) ? together : own;
	}

	private folderOf(store: number): string {
		return folderIn(pathOf(this.files, this.groups[store]!));
	}

	/** What the owner is called: as the user says, and as an address book has it beside that. */
	private ownerForms(): string[] {
		const asked = this.options.owner ?? null;
		if (!asked) return [];
		const cards = this.books.flatMap((b) => b.cards);
		const book = new AddressBook(cards, []);
		const named = cards
			.filter((c) => c.name?.toLowerCase() === asked.toLowerCase())
			.flatMap((c) => [...c.numbers, ...c.emails, ...c.handles]);
		const mails = this.harvests.filter((h): h is ExportHarvest => h instanceof ExportHarvest && h.form === 'mail');
		return [asked, book.nameOf(asked), ...named, ...mails.flatMap((h) => addressesOf(h, asked))].filter((form) => form !== null);
	}

	/** Whose device each export is from: as the user says, as the file says, else who writes in all of several. */
	private exportOwners(): Map<Harvested, { owner: string; why: string }> {
		const out = new Map<Harvested, { owner: string; why: string }>();
		const exports = this.harvests.filter((h): h is ExportHarvest => isExported(h) && h.form !== 'records');
		const writers = exports.map(writersOf);
		const forms = this.ownerForms();
		const everywhere = (writers[0] ?? []).filter((w) => writers.every((list) => list.includes(w)));
		const common = this.ownerOfAllMail(exports.filter((h) => h.form === 'mail'));
		exports.forEach((harvest, i) => {
			const file = this.files[this.groups[this.harvests.indexOf(harvest)]!.db]!;
			const title = titleOf(file, harvest);
			const owner = ownerAmong(harvest.form === 'mail' ? [...writers[i]!, ...writtenTo(harvest)] : writers[i]!, forms, title);
			if (owner) out.set(harvest, owner);
			else if (exports.length > 1 && everywhere.length === 1)
				out.set(harvest, { owner: everywhere[0]!, why: 'writes in every conversation given' });
			else if (harvest.form === 'mail') {
				const constant = ownerOfMail([harvest]) ?? common;
				if (constant) out.set(harvest, { owner: constant, why: 'writes or is written to in every mail' });
			}
		});
		const told = new Set([...out.values()].map(({ owner }) => owner));
		const [owner] = told;
		// Where he did not write all was written to him; another program than that which calls him "me" calls him otherwise.
		const isMeant = (harvest: ExportHarvest): boolean =>
			!isSelf(owner!) || [...out].some(([h, o]) => o.owner === owner && stampForm(h) === stampForm(harvest));
		if (owner !== undefined && told.size === 1)
			exports.forEach((harvest, i) => {
				if (!out.has(harvest) && harvest.form === 'conversation' && !writers[i]!.includes(owner) && isMeant(harvest))
					out.set(harvest, { owner, why: 'writes in the other conversations given' });
			});
		return out;
	}

	/** Of single mails and mailboxes given together: the one address that all have, or that wrote all in a folder of sent ones. */
	private ownerOfAllMail(mails: readonly ExportHarvest[]): string | null {
		const constant = ownerOfMail(mails);
		if (constant) return constant;
		const sent = mails.filter((h) => SENT_NAMED.test(this.files[this.groups[this.harvests.indexOf(h)]!.db]!.path));
		const wrote = new Set(sent.flatMap(writersOf));
		return wrote.size === 1 ? [...wrote][0]! : null;
	}

	/** Correspondents without a name get the one an address book has for them, or the one an export calls them by. */
	private giveNames(stores: readonly WovenStore[], book: AddressBook, others: AddressBook | null): void {
		for (const store of stores) {
			if (this.books.length === 0 && others === null && !store.exported) continue;
			const named = <T extends { address: string | null; name: string | null }>(party: T): T => {
				if (party.name !== null || party.address === null) return party;
				return {
					...party,
					name:
						book.nameOf(party.address) ?? others?.nameOf(party.address) ?? (store.exported && isName(party.address) ? party.address : null)
				};
			};
			for (const u of store.understood.messages) {
				if (u.correspondent) u.correspondent = named(u.correspondent);
				u.members = u.members.map(named);
			}
		}
	}

	/** What was looked at, per store, and how long that took. */
	account(): { store: string; lines: AccountLine[]; seconds: number }[] {
		return this.harvests.map((h, i) => ({ store: this.groups[i]!.name, lines: h.account, seconds: this.seconds[i]! }));
	}

	/** Persons of the stores and cards of the address books, each once. */
	contacts(): Contact[] {
		const { stores, weave } = this.findings();
		const found = new ContactList((address) => this.woven!.book.keyOf(address));
		for (const store of stores) for (const c of contactsOf(store.reading, store.tables)) found.take(c);
		const reached = new Set([...found.contacts].flatMap((c) => [...c.numbers, ...c.emails, ...c.handles]));
		for (const { reading, tables, understood } of stores) {
			const sides = new Set(understood.messages.flatMap((u) => (u.group ? [] : (u.correspondent?.address ?? []))));
			for (const c of namedByTitles(reading, tables, sides))
				if (![...c.numbers, ...c.emails, ...c.handles].every((a) => reached.has(a))) found.take(c);
		}
		for (const { file, cards } of this.books)
			for (const { offset, length, ...card } of cards)
				found.take({
					...card,
					standing: 'kept',
					sightings: [{ file, offset, length, method: 'raw-bytes', standing: 'kept', grade: 'whole' }]
				});
		return withoutBareAddresses([...found.contacts].filter((c) => !isRoom(c, weave)));
	}

	/** Reads the stores again with this correction; nothing is harvested anew. */
	correct(correction: Correction | null): void {
		this.options = { ...this.options, correction };
		this.woven = null;
	}

	/** Calls correspondents as the user does; nothing is harvested anew. */
	callBy(names: Readonly<Record<string, string>>): void {
		this.options = { ...this.options, names };
		this.woven = null;
	}

	/** The reading of each store as plain data. */
	readings(): PlainReading[] {
		return this.findings().stores.map((s) => describeReading(s.name, s.reading, s.tables));
	}

	/** Where the files that messages state are sought: all that are no store. */
	get media(): MediaIndex {
		const stores = new Set(this.groups.flatMap(filesOf));
		return (this.index ??= new MediaIndex(this.files, stores, (path) => this.statedIn(path)));
	}

	/** All files that the messages of the store at a path state, one list for each state of the findings. */
	private statedIn(path: string): readonly StatedFile[] {
		const { stores } = this.findings();
		const store = stores.find((s) => s.path === path);
		if (!store) return [];
		let list = this.stated.get(store);
		if (!list) this.stated.set(store, (list = store.understood.messages.flatMap((u) => u.files)));
		return list;
	}

	/** Of the stores in which nothing reads as messages: each where they are few, else all in one line. */
	notesOfOthers(): Note[] {
		const { stores } = this.findings();
		const names = stores.filter((s) => s.reading.messages.length === 0).map((s) => s.name);
		const severity = names.length === stores.length ? 'warning' : 'note';
		if (names.length <= NAMED_EACH) return names.map((store) => ({ code: 'no-messages-found', severity, detail: { store } }));
		const more = names.length - NAMED_EACH;
		const listed = `${names.slice(0, NAMED_EACH).join(', ')} and ${more} more`;
		return [{ code: 'no-messages-in-several', severity, detail: { count: names.length, stores: listed } }];
	}

	allNotes(): Note[] {
		return [...this.notes, ...this.broken.values(), ...this.harvests.flatMap((h) => h.notes)];
	}
}

/** Bytes of the longest text of one message. */
const TEXT_AT_MOST = 1 << 20;

/** Where a store is: its file, or its folder. */
const pathOf = (files: readonly GivenFile[], { db, folder }: StoreGroup): string => folder?.path || files[db]!.path;

/** What is being done with a store when its rows are read as messages. */
const MEANING = 'what its tables mean';

/** The reading of a store that cannot be read. */
const readNothing = (): StoreReading => readStore([], [], []);

const understoodOf = (read: {
	reading: StoreReading;
	tables: readonly Table[];
}): { reading: StoreReading; tables: readonly Table[]; understood: UnderstoodStore } => ({
	...read,
	understood: understand(read.reading, read.tables)
});

/** The names that stores give to addresses, those in use in the newest first; null where one store alone could. */
function namesOfStores(stores: readonly WovenStore[], parties: readonly Party[]): AddressBook | null {
	if (stores.length < 2) return null;
	const newest = stores.toSorted((a, b) => (b.takenAt ?? 0) - (a.takenAt ?? 0));
	const contacts = newest.flatMap((s) => contactsOf(s.reading, s.tables)).filter((c) => c.name !== null);
	contacts.sort((a, b) => Number(a.standing !== 'kept') - Number(b.standing !== 'kept'));
	return new AddressBook(contacts, new Set(parties.map((p) => p.address ?? '')), 'first');
}

/** Those of a time that is wanted, and those of none. */
function within(messages: Understood[], { from, to }: { from: number | null; to: number | null }): Understood[] {
	if (from === null && to === null) return messages;
	return messages.filter((u) => u.sentAt === null || (u.sentAt >= (from ?? -Infinity) && u.sentAt <= (to ?? Infinity)));
}

/** Times that state no zone, read in this one. */
function inZone(messages: readonly Understood[], zone: string): void {
	const known = new Map<number, number>();
	for (const u of messages) {
		if (u.zoned || u.sentAt === null) continue;
		// Whole quarters of an hour share their distance from UTC.
		const quarter = Math.floor(u.sentAt / 900_000) * 900_000;
		let away = known.get(quarter);
		if (away === undefined) known.set(quarter, (away = wallTimeToUtc(quarter, zone) - quarter));
		u.sentAt += away;
	}
}

/** Everybody that messages are from or to, each once. */
function partiesOf(stores: readonly WovenStore[]): Party[] {
	const found = new Map<string, Party>();
	const take = (p: Party): void => void found.set(`${p.address}\u0000${p.name}`, p);
	const lists = new Set<readonly Party[]>();
	for (const store of stores)
		for (const { correspondent, members } of store.understood.messages) {
			if (correspondent) take(correspondent);
			if (lists.has(members)) continue;
			lists.add(members);
			members.forEach(take);
		}
	return [...found.values()];
}

/** Whom the way of messages is told by, as the owner. */
const ownersTold = ({ direction: { value } }: MessageReading): string[] => (value.kind === 'sender' ? value.owner.map(String) : []);

function asWrittenTo(m: MessageReading, owner: string): void {
	if (!m.sender) return;
	m.direction = {
		value: { kind: 'sender', column: m.sender.value, owner: [owner] },
		confidence: 0.7,
		evidence: [`${owner}, who writes in the other conversations given, does not write in it`]
	};
}

/** Exports called after their other side from which all are. */
const CALLED_SO = 2;
const SEVERAL = 3;

/** Whether a contact without a number is called as a room is, and as nobody who writes: lists of conversations have both. */
const isRoom = ({ name, numbers }: Contact, { threads }: Weave): boolean =>
	name !== null &&
	numbers.length === 0 &&
	threads.some((t) => t.group && t.title === name) &&
	!threads.some((t) => t.messages.some((m) => m.first.correspondent?.name === name) || t.members.some((m) => m.name === name));

/** What somebody exported; a database that was written out is read as the store it was. */
const isExported = (harvest: Harvested): harvest is ExportHarvest => harvest instanceof ExportHarvest && harvest.form !== 'store';

/** What an export is called: its file, its page. */
const titleOf = (file: GivenFile, { heading }: ExportHarvest): string => `${file.path} ${file.name} ${heading}`;

/** Of all that something is said of, what names the path most closely. */
function closestTo<T>(path: string, said: ReadonlyMap<string, T> | undefined): { key: string; said: T } | null {
	let best: { key: string; said: T } | null = null;
	for (const [key, value] of said ?? [])
		if ((path === key || key === '' || path.startsWith(`${key}/`)) && key.length > (best?.key.length ?? -1)) best = { key, said: value };
	return best;
}

/** A name rather than a number or an address. */
const isName = (text: string): boolean => /\p{L}/u.test(text) && !/@|\d{5}/.test(text);

/** Who stands as the one to whom a mail is. */
const writtenTo = (mails: ExportHarvest): string[] =>
	[...new Set(mails.book.rows.flatMap((row) => String(row.values[4] ?? '').split(', ')))].filter((to) => to !== '');

/** The one address that every mail of several is from or to. */
function ownerOfMail(mails: readonly ExportHarvest[]): string | null {
	const rows = mails.flatMap((h) => [...h.book.rows]);
	const counts = new Map<string, number>();
	for (const row of rows) for (const party of new Set(String(row.values[0]).split(' '))) counts.set(party, (counts.get(party) ?? 0) + 1);
	const all = rows.length > 1 ? [...counts].filter(([, n]) => n === rows.length) : [];
	return all.length === 1 ? (mails.flatMap(writersOf).find((w) => w.toLowerCase() === all[0]![0]) ?? all[0]![0]) : null;
}

/** What the stamps of a conversation look like, as its program writes them. */
const stampForm = (harvest: Harvested): string =>
	String(harvest.book.rowsOf(1)[0]?.values[2])
		.replace(/\p{L}+/gu, 'a')
		.replace(/\d+/g, '0');

/** What folders and mailboxes of sent mail are called. */
const SENT_NAMED = /sent|outbox|gesendet|postausgang|envoy|enviad|inviat|verzonden|skickat|отправлен|已发送/i;

/** Stores without messages that are named each in a line of its own. */
const NAMED_EACH = 3;

/** Bytes by which a media file is known. */
const MEDIA_HEAD = 16;
/** Bytes of a store's rows in use that a survey reads, about. */
const SURVEYED = 48 << 20;

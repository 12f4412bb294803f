/**
 * A look: the way of the data from files to threads, reach by reach. A generator: the caller stores, shows, pauses
 * and stops. After each reach (and now and then within a long one) everything found so far is there to be read.
 */
import { CachedSource } from './bytes';
import { betterStanding, StoreHarvest, type AccountLine } from './harvest';
import {
	contactsOf,
	describeReading,
	readStore,
	sheetsOf,
	understand,
	type Contact,
	type Correction,
	type PlainReading
} from './interpret';
import { REACHES, type Note, type Reach } from './model';
import { AddressBook, isVcard, readList, readVcards, type Card } from './people';
import { gather, type GivenFile, type StoreGroup } from './unwrap';
import { weave, type Weave, type WovenStore } from './weave';

export interface LookOptions {
	reach: Reach;
	owner?: string | null;
	/** What the user put right in the readings of stores. */
	correction?: Correction | null;
	/** When a database file was taken, ms UTC, by its path: where something states it. */
	takenAt?: ReadonlyMap<string, number>;
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
	private readonly harvests: StoreHarvest[];
	/** Address books among the files, by index of the file. */
	private readonly books: { file: number; cards: Card[] }[];
	private readonly seconds: number[];
	private woven: { rows: number; stores: WovenStore[]; result: Weave } | null = null;

	constructor(
		files: readonly GivenFile[],
		private options: LookOptions
	) {
		const { stores, notes } = gather(files);
		// Only databases and what belongs to them are read again and again.
		const read = new Set(stores.flatMap((s) => [s.db, s.wal, s.journal]));
		this.files = files.map((f, i) => (read.has(i) ? { ...f, source: new CachedSource(f.source) } : f));
		this.groups = stores;
		this.books = readBooks(files, read);
		this.notes = notes;
		this.seconds = stores.map(() => 0);
		this.harvests = stores.map(
			(g) => new StoreHarvest({ sources: this.files.map((f) => f.source), db: g.db, wal: g.wal, journal: g.journal })
		);
	}

	/** Milliseconds of a steady clock, where the host has one. */
	private readonly now = (): number => globalThis.performance?.now() ?? 0;

	get rows(): number {
		return this.harvests.reduce((sum, h) => sum + h.book.rows.length, 0);
	}

	*run(): Generator<LookEvent, void, void> {
		for (const reach of REACHES.slice(0, REACHES.indexOf(this.options.reach) + 1)) {
			for (let i = 0; i < this.harvests.length; i++) {
				const store = this.groups[i]!.name;
				let from = this.now();
				for (const p of this.harvests[i]!.run(reach)) {
					this.seconds[i]! += (this.now() - from) / 1000;
					yield { kind: 'progress', store, reach, done: p.done, total: p.total, rows: this.rows };
					from = this.now();
				}
				this.seconds[i]! += (this.now() - from) / 1000;
			}
			yield { kind: 'findings', store: '', reach, done: 1, total: 1, rows: this.rows };
		}
	}

	/** Everything found so far, understood and woven. */
	findings(): { stores: WovenStore[]; weave: Weave } {
		const rows = this.harvests.reduce((sum, h) => sum + h.book.rows.length + h.account.length, 0);
		if (this.woven?.rows === rows) return { stores: this.woven.stores, weave: this.woven.result };
		const stores = this.harvests.map((harvest, i): WovenStore => {
			const reading = readStore(sheetsOf(harvest), harvest.tables, this.options.owner ?? null, this.options.correction ?? null);
			const { name, db } = this.groups[i]!;
			const takenAt = this.options.takenAt?.get(this.files[db]!.path) ?? null;
			return { name, harvest, reading, understood: understand(reading, harvest.tables), takenAt };
		});
		if (this.books.length > 0) this.giveNames(stores);
		const result = weave(stores);
		this.woven = { rows, stores, result };
		return { stores, weave: result };
	}

	/** Correspondents without a name get the one an address book has for them. */
	private giveNames(stores: readonly WovenStore[]): void {
		const seen = new Set(stores.flatMap((s) => s.understood.messages.flatMap((u) => u.members.map((m) => m.address ?? ''))));
		const book = new AddressBook(
			this.books.flatMap((b) => b.cards),
			seen
		);
		const named = <T extends { address: string | null; name: string | null }>(party: T): T =>
			party.name === null && party.address !== null ? { ...party, name: book.nameOf(party.address) } : party;
		for (const store of stores) {
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

	/** Persons of the stores and cards of the address books; the same name with the same addresses once. */
	contacts(): Contact[] {
		const { stores } = this.findings();
		const found = new Map<string, Contact>();
		const take = (c: Contact): void => {
			const key = JSON.stringify([c.name, [...c.numbers].sort(), [...c.emails].sort(), [...c.handles].sort()]);
			const known = found.get(key);
			if (!known) found.set(key, c);
			else {
				known.standing = betterStanding(known.standing, c.standing);
				known.sightings.push(...c.sightings);
			}
		};
		for (const store of stores) for (const c of contactsOf(store.reading, store.harvest.tables)) take(c);
		for (const { file, cards } of this.books)
			for (const { offset, length, ...card } of cards)
				take({ ...card, standing: 'kept', sightings: [{ file, offset, length, method: 'raw-bytes', standing: 'kept', grade: 'whole' }] });
		return [...found.values()];
	}

	/** Reads the stores again with this correction; nothing is harvested anew. */
	correct(correction: Correction | null): void {
		this.options = { ...this.options, correction };
		this.woven = null;
	}

	/** The reading of each store as plain data. */
	readings(): PlainReading[] {
		return this.findings().stores.map((s) => describeReading(s.name, s.reading, s.harvest.tables));
	}

	allNotes(): Note[] {
		return [...this.notes, ...this.harvests.flatMap((h) => h.notes)];
	}
}

const BOOK_AT_MOST = 64 << 20;

/** Address books among the files: vCards by what they begin with, lists by their name and content. */
function readBooks(files: readonly GivenFile[], stores: ReadonlySet<number>): { file: number; cards: Card[] }[] {
	const books: { file: number; cards: Card[] }[] = [];
	files.forEach((f, file) => {
		if (stores.has(file) || f.source.size > BOOK_AT_MOST || f.source.size < 12) return;
		const head = new TextDecoder().decode(f.source.read(0, 200));
		const list = /\.(csv|tsv|txt)$/i.test(f.name);
		if (!isVcard(head) && !list) return;
		const text = new TextDecoder().decode(f.source.read(0, f.source.size));
		const cards = isVcard(head) ? readVcards(text) : (readList(text) ?? []);
		if (cards.length > 0) books.push({ file, cards });
	});
	return books;
}

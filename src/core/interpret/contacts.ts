/** Persons of a store as contacts: name, numbers, mail addresses, handles. */
import { betterStanding } from '../harvest';
import type { Row, Sighting, Standing, Table } from '../model';
import { addressesOf, nameIn, titledAddresses } from './people';
import { personsOf } from './person-entries';
import { PHONE } from './profile';
import type { DeletedPersons, PersonReading, StoreReading } from './reading';
import { keyOf, type Key } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

export interface Contact {
	name: string | null;
	numbers: string[];
	emails: string[];
	handles: string[];
	standing: Standing;
	sightings: Sighting[];
}

/** Each person once: rows of another table that only give its addresses are taken with its own. */
export function contactsOf(reading: StoreReading, tables: readonly Table[]): Contact[] {
	const byKey = new Map<Key['sheet'], Map<Row, Contact>>();
	const isBinned = marksOf(reading.deletedPersons, tables);
	const out: Contact[] = [];
	const lists = reading.persons.filter((p) => p.via);
	const rooms = new Set(reading.threads.map(({ sheet }) => sheet));
	for (const person of [...reading.persons.filter((p) => !p.via), ...lists].filter((p) => !areSettings(p))) {
		const rows = person.via ? rowsByKey(person.via.key, tables) : null;
		for (const row of person.sheet.rows) {
			const named = rows?.get(String(keyOf(cell(row, person.via!.column, tables)))) ?? null;
			const known = named ? byKey.get(person.via!.key.sheet)?.get(named) : undefined;
			const contact = known ?? blank(nameIn(person, row, tables), row);
			if (!known && contact.standing === 'kept' && isBinned(person.sheet, row)) contact.standing = 'binned';
			if (known) known.sightings.push(...row.sightings);
			for (const address of addressesOf(person, row, tables)) takeAddress(contact, address);
			const hasAddress = contact.numbers.length + contact.emails.length + contact.handles.length > 0;
			// In a list of conversations what has but a name is a room.
			const isRoom = rooms.has(person.sheet) && (person.addresses.length > 0 || areRooms(person.sheet, reading));
			if (known || (!hasAddress && (contact.name === null || isRoom))) continue;
			out.push(contact);
			const own = byKey.get(person.sheet) ?? new Map<Row, Contact>();
			byKey.set(person.sheet, own.set(row, contact));
		}
	}
	const bareRows = namedAlone(byKey);
	/** Those whose addresses stand elsewhere, under their number. */
	const told = new Set<Contact>();
	for (const entries of reading.personEntries)
		for (const { name, addresses, rows } of personsOf(entries, tables)) {
			const contact = blank(name, rows.find((r) => r.standing === 'kept') ?? rows[0]!);
			contact.sightings = rows.flatMap((r) => r.sightings);
			for (const a of addresses) takeAddress(contact, a);
			const [bare, ...more] = bareRows.get(`${keyOf(cell(rows[0]!, entries.owner, tables))} ${name}`) ?? [];
			if (bare && more.length === 0) {
				contact.sightings.push(...bare.sightings);
				told.add(bare);
			}
			if (contact.standing === 'kept' && rows.some((r) => r.standing === 'kept' && isBinned(entries.sheet, r))) contact.standing = 'binned';
			out.push(contact);
		}
	return out.filter((contact) => !told.has(contact));
}

/** Whether a list of names is what conversations are called, and who writes in them is listed elsewhere. */
const areRooms = (sheet: Sheet, { messages }: StoreReading): boolean =>
	messages.some(
		({ thread, sender, recipient, participant }) =>
			thread?.key?.sheet === sheet && [sender, recipient, participant].some((party) => party?.key && party.key.sheet !== sheet)
	);

/** Whether what is called a name is the key of a setting, and the address its value: the account's own number. */
const areSettings = ({ names, addresses }: PersonReading): boolean =>
	names.length === 1 && addresses.length > 0 && KEY_NAMED.test(lastOf(names[0]!)) && addresses.every((c) => VALUE_NAMED.test(lastOf(c)));
const lastOf = ({ name }: SheetColumn): string => name.split('.').at(-1)!;
const KEY_NAMED = /^(?:key|id|setting|pref(?:erence)?|option)$/i;
const VALUE_NAMED = /^(?:val|value|data|json)$/i;

/** Contacts of which nothing is known but the name, by the number of their row and the name. */
function namedAlone(bySheet: ReadonlyMap<Sheet, ReadonlyMap<Row, Contact>>): Map<string, Contact[]> {
	const found = new Map<string, Contact[]>();
	for (const rows of bySheet.values())
		for (const [row, contact] of rows) {
			if (contact.numbers.length + contact.emails.length + contact.handles.length > 0) continue;
			const key = `${keyOf(row.rowid)} ${contact.name}`;
			found.set(key, [...(found.get(key) ?? []), contact]);
		}
	return found;
}

/** Whether the store marks the person of a row deleted. */
function marksOf(flags: readonly DeletedPersons[], tables: readonly Table[]): (sheet: Sheet, row: Row) => boolean {
	const bySheet = new Map(flags.map((flag) => [flag.sheet, { flag, rows: flag.via && rowsByKey(flag.via.key, tables) }]));
	return (sheet, row) => {
		const found = bySheet.get(sheet);
		if (!found) return false;
		const { flag, rows } = found;
		const marked = flag.via ? rows!.get(String(keyOf(cell(row, flag.via.column, tables)))) : row;
		return marked !== undefined && flag.values.includes(keyOf(cell(marked, flag.column, tables)) ?? '\u0000');
	};
}

/** Persons from several sources: the same name with the same addresses, however they are written, is one person. */
export class ContactList {
	readonly contacts = new Set<Contact>();
	/** By name; those without one by all their addresses. */
	private readonly byName = new Map<string, Set<Contact>>();
	private readonly keys = new WeakMap<Contact, Set<string>>();

	constructor(private readonly keyOf: (address: string) => string) {}

	take(contact: Contact): void {
		const keys = this.keysOf(contact);
		const called = contact.name ?? `\0${[...keys].sort().join('\0')}`;
		const named = this.byName.get(called) ?? new Set();
		// A book can know less of somebody than another; what a person had before stands by itself.
		const isSame = (other: Contact): boolean => {
			const theirs = this.keysOf(other);
			const both = [...keys].filter((key) => theirs.has(key)).length;
			if (both === keys.size && both === theirs.size) return true;
			return contact.name !== null && both > 0 && contact.standing === other.standing && contact.standing === 'kept';
		};
		const [known, ...others] = [...named].filter(isSame);
		if (!known) {
			this.contacts.add(contact);
			this.byName.set(called, named.add(contact));
			return;
		}
		for (const other of others) {
			this.contacts.delete(other);
			named.delete(other);
		}
		for (const other of [...others, contact]) this.join(known, other);
	}

	private join(known: Contact, other: Contact): void {
		const keys = this.keysOf(known);
		const lacking = (list: readonly string[], has = keys): string[] => list.filter((address) => !has.has(this.keyOf(address)));
		// A number that stands within an address of some program's is one of its own all the same.
		known.numbers.push(...lacking(other.numbers, new Set(known.numbers.map(this.keyOf))));
		known.emails.push(...lacking(other.emails));
		known.handles.push(...lacking(other.handles));
		this.keys.delete(known);
		known.standing = betterStanding(known.standing, other.standing);
		known.sightings.push(...other.sightings);
	}

	private keysOf(contact: Contact): Set<string> {
		let keys = this.keys.get(contact);
		if (!keys) this.keys.set(contact, (keys = new Set(addressesIn(contact).map(this.keyOf))));
		return keys;
	}
}

/** Contacts without those that are but addresses of one who is named: these were seen there as well. */
export function withoutBareAddresses(contacts: readonly Contact[]): Contact[] {
	const named = new Map<string, Set<Contact>>();
	for (const one of contacts)
		if (one.name !== null) for (const address of addressesIn(one)) named.set(address, (named.get(address) ?? new Set()).add(one));
	return contacts.filter((one) => {
		if (one.name !== null) return true;
		const [owners, ...others] = addressesIn(one).map((address) => [...(named.get(address) ?? [])]);
		const [owner] = owners?.length === 1 ? owners : [];
		if (!owner || !others.every((o) => o.includes(owner))) return true;
		owner.sightings.push(...one.sightings);
		return false;
	});
}

const addressesIn = (c: Contact): string[] => [...c.numbers, ...c.emails, ...c.handles];

/** Other sides whom only the title of their conversation names. `sides`: whom single persons' messages are from or to. */
export function namedByTitles(reading: StoreReading, tables: readonly Table[], sides: ReadonlySet<string>): Contact[] {
	return reading.threads.flatMap((thread) =>
		titledAddresses(thread, tables)
			.filter(({ address }) => sides.has(address))
			.map(({ address, name, row }) => {
				const contact = blank(name, row);
				takeAddress(contact, address);
				return contact;
			})
	);
}

const blank = (name: string | null, row: Row): Contact => ({
	name,
	numbers: [],
	emails: [],
	handles: [],
	standing: row.standing,
	sightings: [...row.sightings]
});

function takeAddress(contact: Contact, text: string): void {
	const list = PHONE.test(text) ? contact.numbers : text.includes('@') ? contact.emails : contact.handles;
	if (!list.includes(text)) list.push(text);
}

function rowsByKey(key: Key, tables: readonly Table[]): Map<string, Row> {
	const rows = new Map<string, Row>();
	for (const row of key.sheet.rows) {
		const value = keyOf(key.column ? cell(row, key.column, tables) : row.rowid);
		if (value !== null && !rows.has(String(value))) rows.set(String(value), row);
	}
	return rows;
}

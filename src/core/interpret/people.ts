/** Persons and addresses of a store: who a key, an address or a table's name stands for. */
import type { Numbered } from './numbers-beside-names';
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import type { Row, Table } from '../model';
import { numberWithin } from '../people/number-at';
import { EMAIL, PHONE, UUID } from './profile';
import { addressShare, isHandleLike } from './columns';
import type { PersonReading, StoreReading, ThreadReading } from './reading';
import { personsOf } from './person-entries';
import { cased } from './cased-names';
import { addressesListed, cardIn } from './address-lists';
import { keyOf, type Key } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { jsonOf } from './stored';

export interface Party {
	/** As stored: number, address, handle; null where only a name is known. */
	address: string | null;
	name: string | null;
}

/** Rows of lists of persons that are read for their names. */
const LISTS_READ = 20_000;

const normalForms = new Map<string, string>();

/** One form for one address: numbers without their punctuation, addresses in lower case. */
export function normalAddress(address: string): string {
	let form = normalForms.get(address);
	if (form === undefined) {
		form = normalize(address);
		if (normalForms.size > 50_000) normalForms.clear();
		normalForms.set(address, form);
	}
	return form;
}

function normalize(address: string): string {
	const bare = address.trim().replace(/^(tel|mailto|sms|smsto):/i, '');
	if (/^\+?[\d\s().\-/]{5,}$/.test(bare)) return bare.replace(/[^\d+]/g, '').replace(/^00(?=\d{8})/, '+');
	return bare.toLowerCase();
}

/** All addresses that a person's row states. */
export function addressesOf(person: PersonReading, row: Row, tables: readonly Table[]): string[] {
	const own = person.addresses.map((c) => stringOf(cell(row, c, tables)));
	const listed = (person.lists ?? []).flatMap((c) => addressesListed(jsonOf(cell(row, c, tables))));
	const card = person.cards ? cardIn(cell(row, person.cards, tables)) : null;
	return [...own, ...listed, ...(card?.addresses ?? [])].filter((a) => a !== null);
}

/** The addresses of each person in use who has several in one row: they are that person's all. */
export const addressesTogether = ({ persons }: StoreReading, tables: readonly Table[]): string[][] =>
	persons.flatMap((person) =>
		person.addresses.length < 2
			? []
			: person.sheet.rows
					.filter((row) => row.standing === 'kept')
					.map((row) => addressesOf(person, row, tables))
					.filter((addresses) => addresses.length > 1)
	);

/** The name that a person's row gives, its parts joined. */
export function nameIn(person: PersonReading, row: Row, tables: readonly Table[]): string | null {
	const card = person.cards ? cardIn(cell(row, person.cards, tables)) : null;
	if (card?.name) return card.name;
	const textIn = (c: SheetColumn): string => stringOf(cell(row, c, tables))?.trim() ?? '';
	const parts = person.names.map(textIn).filter((part) => part !== '');
	const written = person.cased && parts.length > 0 ? cased(parts.join(' '), row, person.cased, tables) : null;
	const name = written ?? (parts.join(' ') || (person.otherNames ?? []).map(textIn).find((other) => other !== ''));
	if (row.grade !== 'whole' && isNoName(name ?? '')) return null;
	return name || (person.organisation ? textIn(person.organisation) : '') || null;
}

/** What was read out of lost bytes as a name can be another table's: a time, a message. */
const isNoName = (text: string): boolean => /\d{4}-\d\d-\d\d[T ]\d\d:\d\d|\d{9}|\n/.test(text) || text.split(/\s+/).length > NAME_WORDS;
const NAME_WORDS = 6;

const stringOf = (value: unknown): string | null =>
	value === null || value === undefined || value === '' || typeof value === 'object' ? null : String(value);

/** The addresses that a list of conversations states beside their titles. */
export function titledAddresses({ sheet, title }: ThreadReading, tables: readonly Table[]): { address: string; name: string; row: Row }[] {
	if (!title) return [];
	const isAddress = (c: SheetColumn): boolean =>
		c !== title && (addressShare(c) > 0.4 || (isHandleLike(c) && c.profile.unique && c.profile.uuid < 0.3));
	return sheet.columns.filter(isAddress).flatMap((column) =>
		sheet.rows.flatMap((row) => {
			const address = stringOf(cell(row, column, tables));
			const name = stringOf(cell(row, title, tables));
			return address && name && name !== address ? [{ address, name, row }] : [];
		})
	);
}

export class PeopleBook {
	private readonly maps = new Map<Key, Map<string, Row>>();
	private readonly bySheet = new Map<Sheet, PersonReading>();
	private readonly byAddress = new Map<string, Party>();
	private readonly byDigest = new Map<string, Party>();
	/** By each address of a person who has several: the one that person is known by. */
	private readonly firstAddress = new Map<string, string>();
	/** By the key of persons whose numbers stand in another list: the first of each. */
	private readonly listed = new Map<Key, Map<string, string>>();
	private readonly resolved = new Map<string, Party | null>();
	readonly parties: Party[] = [];
	private names: Set<string> | null = null;

	constructor(
		private readonly reading: StoreReading,
		private readonly tables: readonly Table[]
	) {
		for (const person of reading.persons) this.bySheet.set(person.sheet, person);
		for (const person of reading.persons) this.takeListed(person);
		for (const person of reading.persons) {
			for (const row of person.sheet.rows) {
				const party = this.partyOf(person, row, 0);
				if (!party) continue;
				this.parties.push(party);
				for (const address of addressesOf(person, row, tables)) {
					const key = normalAddress(address);
					if (party.address !== null && address !== party.address) this.firstAddress.set(key, party.address);
					if (!this.byAddress.has(key) || (!this.byAddress.get(key)!.name && party.name))
						this.byAddress.set(key, { address, name: party.name });
				}
			}
		}
		for (const entries of reading.personEntries)
			for (const { name, addresses } of personsOf(entries, tables))
				for (const address of addresses) {
					this.parties.push({ address, name });
					if (name && !this.byAddress.get(normalAddress(address))?.name) this.byAddress.set(normalAddress(address), { address, name });
				}
		for (const { sheet, numbered } of reading.messages) if (numbered) this.takeNumbered(sheet, numbered);
		for (const thread of reading.threads) this.takeTitles(thread);
		const messages = new Set(reading.messages.map((m) => m.sheet));
		for (const { sheet } of reading.sheets) if (!messages.has(sheet)) this.takeLists(sheet);
	}

	/** Names and numbers that stand in the rows of messages. */
	private takeNumbered(sheet: Sheet, columns: Numbered): void {
		for (const row of sheet.sure) {
			const [address, name] = [columns.address, columns.name].map((c) => stringOf(cell(row, c, this.tables)));
			if (!address || !name) continue;
			if (!this.byAddress.get(normalAddress(address))?.name) this.byAddress.set(normalAddress(address), { address, name });
			if (!this.firstAddress.has(normalAddress(name))) this.firstAddress.set(normalAddress(name), address);
		}
	}

	/** A list of conversations that states each one's address beside its title names the other sides. */
	private takeTitles(thread: ThreadReading): void {
		for (const { address, name } of titledAddresses(thread, this.tables))
			if (!this.byAddress.get(normalAddress(address))?.name) this.byAddress.set(normalAddress(address), { address, name });
	}

	/** Names that a list of persons, stored as one value, gives their addresses. */
	private takeLists(sheet: Sheet): void {
		for (const column of sheet.columns) {
			if (column.profile.json < 0.5 || column.column < 0) continue;
			for (const row of sheet.rows.slice(0, LISTS_READ)) {
				const list = jsonOf(cell(row, column, this.tables));
				for (const one of Array.isArray(list) ? list.slice(0, 1000) : []) {
					if (one === null || typeof one !== 'object') continue;
					const texts = Object.values(one).filter((v): v is string => typeof v === 'string');
					const name = texts.find((t) => /^\p{L}/u.test(t) && !EMAIL.test(t) && !UUID.test(t));
					for (const address of texts) {
						if (address === name || !(PHONE.test(address) || EMAIL.test(address))) continue;
						const key = normalAddress(address);
						if (name && !this.byAddress.get(key)?.name) this.byAddress.set(key, { address, name });
					}
				}
			}
		}
	}

	/** Numbers and addresses that a list gives the persons of another one. */
	private takeListed({ sheet, via, addresses }: PersonReading): void {
		if (!via || addresses.length === 0) return;
		const first = this.listed.get(via.key) ?? new Map<string, string>();
		this.listed.set(via.key, first);
		for (const row of sheet.rows) {
			const whose = keyOf(cell(row, via.column, this.tables));
			const address = stringOf(cell(row, addresses[0]!, this.tables));
			if (whose !== null && address !== null && !first.has(String(whose))) first.set(String(whose), address);
		}
	}

	/** The address that another list gives a person who has none in his own row. */
	private listedAddress({ sheet }: PersonReading, row: Row): string | null {
		for (const [key, first] of this.listed) {
			if (key.sheet !== sheet) continue;
			const address = first.get(String(key.column ? keyOf(cell(row, key.column, this.tables)) : keyOf(row.rowid)));
			if (address !== undefined) return address;
		}
		return null;
	}

	private partyOf(person: PersonReading, row: Row, depth: number): Party | null {
		const address = addressesOf(person, row, this.tables)[0] ?? this.listedAddress(person, row);
		let name = nameIn(person, row, this.tables);
		if (!name && person.via && depth < 3)
			name = this.byKey(person.via.key, keyOf(cell(row, person.via.column, this.tables)), depth + 1)?.name ?? null;
		return address || name ? { address: address ?? name, name } : null;
	}

	/** The row that a key names, whatever sheet it is in. */
	rowByKey(key: Key, value: string | number | null): Row | null {
		if (value === null) return null;
		let map = this.maps.get(key);
		if (!map) {
			map = new Map();
			for (const row of key.sheet.rows) {
				const k = key.column ? keyOf(cell(row, key.column, this.tables)) : keyOf(row.rowid);
				if (k !== null && !map.has(String(k))) map.set(String(k), row);
			}
			this.maps.set(key, map);
		}
		return map.get(String(value)) ?? null;
	}

	/** The party that a key into a person sheet names. Another list can have the same address, with the name. */
	byKey(key: Key, value: string | number | null, depth = 0): Party | null {
		const person = this.bySheet.get(key.sheet);
		const row = this.rowByKey(key, value);
		if (!row || !person) return null;
		const party = this.partyOf(person, row, depth);
		return depth === 0 && party?.name === null && party.address !== null ? this.byAddressText(party.address) : party;
	}

	/** An address as stored with the message, with the name any person sheet gives it. */
	byAddressText(address: string): Party {
		const within = numberWithin(address);
		const known = this.byAddress.get(normalAddress(address)) ?? (within === null ? this.looseMatch(address) : this.byAddress.get(within));
		// Where messages call persons by their names, those are names that the list of persons gives.
		this.names ??= new Set(this.parties.flatMap((party) => party.name ?? []));
		return { address, name: known?.name ?? (this.names.has(address) ? address : null) };
	}

	/** Who is called by the first part of his address in a room (RFC 7622, 3.3): where one person alone has it. */
	byNickname(nickname: string): Party {
		if (!this.nicknames) {
			this.nicknames = new Map();
			for (const [address, party] of this.byAddress) {
				const local = address.split('@')[0]!.toLowerCase();
				if (address.includes('@')) this.nicknames.set(local, this.nicknames.has(local) ? null : party);
			}
		}
		const party = this.byAddressText(nickname);
		return party.name === null ? { ...party, name: this.nicknames.get(nickname.toLowerCase())?.name ?? null } : party;
	}
	private nicknames: Map<string, Party | null> | null = null;

	/** Whom a list of conversations names by an address, known as his messages have it. */
	byListedAddress(address: string): Party {
		return this.byAddressText(this.firstAddress.get(normalAddress(address)) ?? address);
	}

	/** The same number written in national and international form: only where one person alone fits. */
	private looseMatch(address: string): Party | null {
		const digits = normalAddress(address).replace(/\D/g, '');
		if (digits.length < 9 || !/^[+\d]/.test(normalAddress(address))) return null;
		const tail = digits.slice(-9);
		const isInternational = normalAddress(address).startsWith('+');
		// Two that both say their country are the same only as a whole.
		const fits = [...this.byAddress].filter(
			([a]) => /^[+\d]+$/.test(a) && !(isInternational && a.startsWith('+')) && a.replace(/\D/g, '').slice(-9) === tail
		);
		return fits.length === 1 ? fits[0]![1] : null;
	}

	/** Whom a table's name stands for: an address, a key or a digest of one in it. `rest` is the part that differs between the tables. */
	byTableName(rest: string): Party | null {
		const cached = this.resolved.get(rest);
		if (cached !== undefined) return cached;
		const found = this.findTableName(rest);
		this.resolved.set(rest, found);
		return found;
	}

	private findTableName(rest: string): Party | null {
		const bare = rest.toLowerCase();
		const squeezed = bare.replace(/[^a-z0-9]/g, '');
		for (const party of this.parties) {
			for (const form of [party.address, party.name]) {
				if (form && form.toLowerCase().replace(/[^a-z0-9]/g, '') === squeezed && squeezed.length > 2) return party;
			}
		}
		if (/^[0-9a-f]{8,64}$/.test(bare)) {
			this.indexDigests();
			for (const [digest, party] of this.byDigest) if (digest.startsWith(bare)) return party;
		}
		if (/^\d{1,9}$/.test(bare)) {
			for (const person of this.reading.persons) {
				const row = person.sheet.rows.find((r) => String(r.rowid) === String(Number(bare)));
				if (row) return this.partyOf(person, row, 0);
			}
		}
		for (const person of this.reading.persons) {
			for (const row of person.sheet.rows) {
				for (const column of person.sheet.columns) {
					const value = stringOf(cell(row, column, this.tables));
					if (value && value.length > 3 && value.toLowerCase().replace(/[^a-z0-9]/g, '') === squeezed) return this.partyOf(person, row, 0);
				}
			}
		}
		return /^\+?\d{5,}$/.test(bare.replace(/_/g, '')) ? { address: rest.replace(/_/g, ''), name: null } : null;
	}

	private indexDigests(): void {
		if (this.byDigest.size > 0) return;
		for (const person of this.reading.persons) {
			// Of a key that lost rows have too, those in use say whose it is.
			const inUse = person.sheet.rows.filter((row) => row.standing === 'kept');
			for (const row of [...inUse, ...person.sheet.rows.filter((r) => r.standing !== 'kept')].slice(0, 20_000)) {
				const party = this.partyOf(person, row, 0);
				if (!party) continue;
				const forms = new Set<string>();
				for (const column of person.sheet.columns) {
					const value = stringOf(cell(row, column, this.tables));
					if (!value || value.length > 200) continue;
					for (const form of [value, value.toLowerCase(), normalAddress(value), value.replace(/\D/g, '')]) if (form) forms.add(form);
				}
				if (row.rowid !== null) forms.add(String(row.rowid));
				for (const form of forms) {
					const bytes = utf8ToBytes(form);
					for (const digest of [md5(bytes), sha1(bytes), sha256(bytes)]) {
						const hex = bytesToHex(digest);
						if (!this.byDigest.has(hex)) this.byDigest.set(hex, party);
					}
				}
			}
		}
	}
}

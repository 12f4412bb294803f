/**
 * One form for one correspondent, whatever source names them: a number in its international form, an address in lower
 * case, a name as the one number or address that the evidence gives it, a handle as the one number of the person who has it.
 */
import type { AddressBook } from './book';

export interface NamedParty {
	address: string | null;
	name: string | null;
}

const isNumber = (key: string): boolean => /^\+\d{6,}$/.test(key);

const nameKey = (name: string): string => name.normalize('NFC').toLowerCase().replace(/\s+/g, ' ').trim();

export class Identities {
	private readonly byName = new Map<string, string | null>();
	/** Numbers by the handles of those who have them. */
	private readonly byHandle = new Map<string, string | null>();

	/** `parties`: everybody the stores name. `together`: addresses of one person each, as stores list them. */
	constructor(
		private readonly book: AddressBook,
		parties: Iterable<NamedParty>,
		together: Iterable<readonly string[]> = []
	) {
		for (const addresses of together) this.joinHandles(addresses);
		for (const p of parties) if (p.name && p.address && nameKey(p.name) !== nameKey(p.address)) this.learn(p.name, p.address);
		for (const card of book.cards) {
			const addresses = [...card.numbers, ...card.emails, ...card.handles];
			// A card with several would leave it open which: it counts only where the stores do not say.
			if (card.name && addresses.length > 0 && !this.byName.has(nameKey(card.name))) for (const a of addresses) this.learn(card.name, a);
		}
	}

	private learn(name: string, address: string): void {
		const key = nameKey(name);
		const own = this.book.keyOf(address);
		const known = this.byName.get(key);
		this.byName.set(key, known !== undefined && known !== own ? null : own);
	}

	private joinHandles(addresses: readonly string[]): void {
		const keys = [...new Set(addresses.map((a) => this.book.keyOf(a)))];
		const numbers = keys.filter(isNumber);
		for (const handle of keys) {
			if (isNumber(handle)) continue;
			const known = this.byHandle.get(handle);
			const number = numbers.length === 1 ? numbers[0]! : null;
			this.byHandle.set(handle, known !== undefined && known !== number ? null : number);
		}
	}

	/** What a correspondent is known by across all sources. */
	readonly canonical = (party: NamedParty): string => {
		const address = party.address ?? party.name ?? '';
		const key = this.byName.get(nameKey(address)) ?? this.book.keyOf(address);
		return this.byHandle.get(key) ?? key;
	};
}

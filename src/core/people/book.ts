/**
 * The names that address books give to numbers and addresses, however they are written. A number is the same as
 * another where both have one international form, the country told from the evidence; two people whose numbers only
 * end alike are never taken for one.
 */
import { parsePhoneNumberFromString } from 'libphonenumber-js/min';
import type { Card } from './card';
import { numberWithin } from './number-at';

/** A person with a name and the addresses it has. */
export type Named = Pick<Card, 'name' | 'numbers' | 'emails' | 'handles'>;

export class AddressBook {
	private readonly byKey = new Map<string, string | null>();
	private readonly forms = new Map<string, string>();
	/** Every number of the evidence in its form. */
	private readonly known = new Set<string>();
	/** Of numbers written without one. */
	readonly callingCode: string | undefined;

	/** `seen`: addresses of the evidence, from which the country is told that numbers without one belong to. */
	constructor(
		readonly cards: readonly Named[],
		seen: Iterable<string>,
		/** What a number is called to which two names are given: by neither, or by the one that comes first. */
		private readonly conflict: 'neither' | 'first' = 'neither'
	) {
		const all = [...seen, ...cards.flatMap((c) => c.numbers)];
		this.callingCode = commonCallingCode(all);
		for (const address of all) if (numberWithin(address) === null) this.known.add(this.keyOf(address));
		for (const card of cards) {
			if (!card.name) continue;
			for (const address of [...card.numbers, ...card.emails, ...card.handles]) {
				const key = this.keyOf(address);
				const known = this.byKey.get(key);
				if (known === undefined) this.byKey.set(key, card.name);
				else if (known !== card.name && this.conflict === 'neither') this.byKey.set(key, null);
			}
		}
	}

	nameOf(address: string): string | null {
		return this.byKey.get(this.keyOf(address)) ?? null;
	}

	/** One form for one number or address, however it is written. */
	keyOf(address: string): string {
		let key = this.forms.get(address);
		if (key === undefined) {
			const bare = address.trim().replace(/^(tel|mailto|sms):/i, '');
			const numeric = /^[+(\d][\d\s().\-/]{4,}$/.test(bare);
			const number = numeric
				? parsePhoneNumberFromString(bare.replace(/^00/, '+'), this.callingCode ? { defaultCallingCode: this.callingCode } : undefined)
				: undefined;
			const within = numberWithin(bare);
			if (within !== null && this.known.has(within)) key = within;
			else key = number ? number.number : numeric ? bare.replace(/[^\d+]/g, '') : bare.toLowerCase();
			this.forms.set(address, key);
		}
		return key;
	}
}

/**
 * The calling code of most of the international numbers, each counted once however it is written; one that also stands there
 * in its national form counts twice more, since that form is what the code is wanted for. Where that is even, the code in
 * whose country more of the national numbers can be.
 */
function commonCallingCode(addresses: Iterable<string>): string | undefined {
	const all = [...new Set(addresses)].map((a) => a.trim());
	const counts = new Map<string, number>();
	const international = new Set<string>();
	const take = (written: string): void => {
		const number = parsePhoneNumberFromString(written);
		if (!number?.isPossible()) return;
		if (international.has(number.number)) return;
		counts.set(number.countryCallingCode, (counts.get(number.countryCallingCode) ?? 0) + 1);
		international.add(number.number);
	};
	for (const address of all) if (/^(?:tel:)?\s*(\+|00)\d/i.test(address)) take(address.replace(/^tel:\s*/i, '').replace(/^00/, '+'));
	// Handles that are numbers with their country say it where nothing else does.
	if (counts.size === 0) for (const within of all.map(numberWithin)) if (within !== null) take(within);
	if (counts.size < 2) return [...counts.keys()][0];
	const national = all.filter((a) => /^\(?0[1-9][\d\s().\-/]{4,}$/.test(a));
	for (const code of counts.keys()) {
		const inside = national.map((a) => parsePhoneNumberFromString(a, { defaultCallingCode: code }));
		const known = inside.filter((n) => international.has(n?.number ?? '')).length;
		const valid = inside.filter((n) => n?.isValid()).length / Math.max(1, national.length);
		counts.set(code, counts.get(code)! + known * MET_IN_BOTH + valid * DECIDES);
	}
	return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
}
/** How much more a number met in both forms says. */
const MET_IN_BOTH = 2;
/** Less than any number counts. */
const DECIDES = 0.9;

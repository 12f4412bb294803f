/**
 * Address books as entries of JSON or of a property list: objects with a name and a number or an address, wherever they
 * stand; maps from numbers to names; and cards in JSON (RFC 7095).
 */
import { add, isEmail, isNumber, joined, MOST_CARDS, withoutScheme, type Card } from './card';
import { headingOf } from './headings';

export type Entry = string | number | boolean | null | Date | Uint8Array | Entry[] | { [key: string]: Entry };

const DEEPEST = 12;
/** How deep within a person its numbers are sought. */
const WITHIN = 3;
/** Share of a list that must be persons. */
const MOSTLY = 0.6;

type Fields = { [key: string]: Entry };
const isObject = (v: Entry): v is Fields =>
	v !== null && typeof v === 'object' && !Array.isArray(v) && !(v instanceof Date) && !(v instanceof Uint8Array);

/** Where an entry stands, in whatever its reader counts. */
export interface Place {
	offset: number;
	length: number;
}

/** Properties that hold what the one around them is called after: elements of XML and values with their kinds have such. */
export const HOLDS = /^(?:#?text|uri|value|_)$/i;

/** The persons in a tree of entries. `whole`: where that stands; `placeOf`: where an entry does, where that is known. */
export function readEntries(root: Entry, whole: Place, placeOf: (entry: Entry) => Place | undefined = () => undefined): Card[] {
	const cards: Card[] = [];
	const take = (found: (Person | null)[], entries: readonly Entry[]): boolean => {
		const persons = found.filter((p) => p !== null);
		if (persons.length === 0 || persons.length < found.length * MOSTLY) return false;
		found.forEach((p, i) => p && cards.length < MOST_CARDS && cards.push({ ...p, ...(placeOf(entries[i]!) ?? whole) }));
		return true;
	};
	const visit = (value: Entry, depth: number): void => {
		if (depth > DEEPEST || cards.length >= MOST_CARDS) return;
		if (Array.isArray(value)) {
			const card = cardInJson(value);
			if (card) take([card], [value]);
			else if (!(value.length > 0 && value.every(isObject) && take(value.map(personIn), value))) for (const v of value) visit(v, depth + 1);
		} else if (isObject(value)) {
			const values = Object.values(value);
			const before = cards.length;
			if (
				take(
					Object.entries(value).map(([k, v]) => pairOf(k, v)),
					values.map(() => value)
				)
			) {
				cards.push(...joined(cards.splice(before)));
				return;
			}
			if (values.length > 1 && values.every(isObject) && take(values.map(personIn), values)) return;
			for (const v of values) visit(v, depth + 1);
		}
	};
	visit(root, 0);
	return cards;
}

type Person = Pick<Card, 'name' | 'numbers' | 'emails' | 'handles'>;
const nobody = (): Person => ({ name: null, numbers: [], emails: [], handles: [] });

/** A number or an address as key and a name as value, or the other way. */
function pairOf(key: string, value: Entry): Person | null {
	if (typeof value !== 'string') return null;
	const [address, name] = isAddress(key) ? [key, value] : [value, key];
	if (!isAddress(address) || isAddress(name) || !/\p{L}/u.test(name) || headingOf(name) !== null) return null;
	const person = { ...nobody(), name };
	takeAddress(person, address);
	return person;
}

const isAddress = (text: string): boolean => isNumber(withoutScheme(text)) || isEmail(withoutScheme(text));

function takeAddress(person: Person, text: string): void {
	const bare = withoutScheme(text);
	if (isEmail(bare)) add(person.emails, bare);
	else if (isNumber(bare)) add(person.numbers, bare);
}

function personIn(entry: Fields): Person | null {
	const person = nobody();
	const names = new Map<string, string>();
	const take = (value: Entry, key: string, depth: number): void => {
		if (typeof value === 'string') {
			const says = headingOf(key);
			if (isAddress(value) && says !== 'aside') takeAddress(person, value);
			else if (says !== null && says !== 'address' && says !== 'aside' && depth <= 1 && !names.has(says) && value.trim() !== '')
				names.set(says, value.trim());
		} else if (depth >= WITHIN) return;
		else if (Array.isArray(value)) for (const v of value.slice(0, 100)) take(v, key, isObject(v) ? depth : depth + 1);
		else if (isObject(value))
			for (const [k, v] of Object.entries(value)) {
				if (HOLDS.test(k)) take(v, key, depth);
				else take(v, k, depth + 1);
			}
	};
	take(entry, '', -1);
	const parts = ['given', 'middle', 'family'].map((p) => names.get(p)).filter((p) => p !== undefined);
	person.name = names.get('name') ?? (parts.join(' ') || (names.get('organisation') ?? null));
	return person.name !== null && person.numbers.length + person.emails.length > 0 ? person : null;
}

/** `["vcard", [[name, parameters, type, value …] …]]` (RFC 7095, section 3.2). */
function cardInJson(value: readonly Entry[]): Person | null {
	const [kind, properties] = value;
	if (kind !== 'vcard' || !Array.isArray(properties)) return null;
	const person = nobody();
	let parts: string | null = null;
	for (const property of properties) {
		if (!Array.isArray(property)) continue;
		const [name, , , content] = property;
		const text = typeof content === 'string' ? content : null;
		if (name === 'fn') person.name ??= text;
		else if (name === 'n' && Array.isArray(content))
			parts = [1, 2, 0]
				.map((i) => content[i])
				.filter((p) => typeof p === 'string' && p !== '')
				.join(' ');
		else if ((name === 'tel' || name === 'email') && text) takeAddress(person, text);
		else if (name === 'impp' && text) add(person.handles, text.replace(/^[a-z][a-z\d+.-]*:/i, ''));
	}
	person.name ??= parts || null;
	return person.name !== null ? person : null;
}

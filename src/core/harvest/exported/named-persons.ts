/** Items that name a person by a key into a list of persons are given what that list says of him, as columns of their own. */
import type { Value } from '../../model';
import type { Item } from './items';

/** Share of the values that must be keys of the list. */
const KEYS = 0.95;
/** What is taken over of a person. */
export const FIELDS = 12;
export const LONGEST = 120;
/** Items of more fields are no persons. */
const FIELDS_OF_PERSONS = 60;
const PERSONS_AT_MOST = 50_000;

/** Fields that name a person: needed where keys are small numbers, which are keys of anything. */
export const WHO =
	/from|send|author|writer|user|member|particip|person|contact|peer|recip|creator|owner|who|^name$|^by$|^to$|^von$|^de$|^van$|absender|auteur|autor|exp[ée]dit|remit|mitt|afzend|avsend/i;
/** What says that a person is the one whose device it is. */
const SELF = /^(is_?)?(me|self|own|owner|mine|local|my_?self)$/i;

interface Persons {
	byKey: Map<string, Item>;
	fields: string[];
	/** The field that is set for the owner alone. */
	self: string | null;
}

export function namePersons(lists: readonly { name: string; items: { item: Item }[] }[]): void {
	const plain = lists.map(({ items }) => items.map(({ item }) => item));
	const persons = plain.map(personsOf);
	for (const [l, items] of plain.entries()) {
		const names = new Set(items.slice(0, 2000).flatMap((i) => [...i.fields.keys()]));
		for (const field of names)
			for (const [p, list] of persons.entries()) {
				const named = p === l ? undefined : list.find((one) => namesOf(items, field, one));
				if (named) takeOver(items, field, named);
			}
	}
}

/** The ways in which a list can be one of persons: by each field that is each item's own. */
function personsOf(items: readonly Item[]): Persons[] {
	if (items.length === 0 || items.length > PERSONS_AT_MOST) return [];
	const names = [...new Set(items.slice(0, 500).flatMap((i) => [...i.fields.keys()]))];
	if (names.length > FIELDS_OF_PERSONS) return [];
	const fields = names.filter((name) => items.every((i) => String(i.fields.get(name) ?? '').length <= LONGEST));
	return fields.flatMap((key): Persons[] => {
		const byKey = new Map<string, Item>();
		for (const one of items) {
			const value = keyOf(one.fields.get(key));
			if (value === null) return [];
			const known = byKey.get(value);
			// Who takes part in several conversations stands in each of them.
			if (known && !saysTheSame(known, one, fields)) return [];
			if (!known) byKey.set(value, one);
		}
		const others = fields.filter((f) => f !== key).slice(0, FIELDS);
		if (!others.some((f) => items.filter((i) => saysWho(i.fields.get(f))).length > items.length / 2)) return [];
		return [{ byKey, fields: others, self: others.find((f) => SELF.test(lastOf(f)) && isOnesOwn(items, f)) ?? null }];
	});
}

const saysTheSame = (a: Item, b: Item, fields: readonly string[]): boolean => fields.every((f) => a.fields.get(f) === b.fields.get(f));

export const lastOf = (field: string): string => field.slice(field.lastIndexOf('.') + 1);
const keyOf = (value: Value | undefined): string | null =>
	(typeof value === 'string' && value !== '') || typeof value === 'number' ? String(value) : null;

/** A name (perhaps with a word in brackets or a sign behind it), a number or an address of somebody. */
export const saysWho = (value: Value | undefined): boolean =>
	typeof value === 'string' &&
	/^[\p{Lu}\p{Lo}](?:[\p{L}\p{M}\p{So}\p{Sk} .,'’()-]|\u200d|\ufe0f)+$|^\+?[\d ()-]{7,20}$|^[^\s@]+@[^\s@]+\.[a-z]+$/u.test(value);

const isSet = (value: Value | undefined): boolean => value !== undefined && !/^(|0|no|false|null)$/i.test(String(value ?? ''));
/** Whether a field says of one person in each conversation that it is the owner. */
export const isSelfField = (field: string, talks: readonly (readonly Item[])[]): boolean =>
	SELF.test(lastOf(field)) && talks.every((of) => isOnesOwn(of, field));
const isOnesOwn = (items: readonly Item[], field: string): boolean =>
	items.length > 1 && items.filter((i) => isSet(i.fields.get(field))).length === 1;

/** Whether the values of a field are keys of persons, and say nothing by themselves. */
function namesOf(items: readonly Item[], field: string, { byKey }: Persons): boolean {
	const values = items.map((i) => keyOf(i.fields.get(field))).filter((v) => v !== null);
	if (values.length < 2 || values.length < items.length * 0.2) return false;
	const distinct = new Set(values);
	const isWho = WHO.test(lastOf(field));
	// Of a short talk of many hardly one comes back.
	if ((distinct.size > values.length * 0.8 && !isWho) || [...distinct].some(saysWho)) return false;
	if ([...distinct].every((v) => /^\d{1,6}$/.test(v)) && !isWho) return false;
	return [...distinct].filter((v) => byKey.has(v)).length >= distinct.size * KEYS;
}

function takeOver(items: readonly Item[], field: string, { byKey, ...said }: Persons): void {
	for (const one of items) {
		const person = byKey.get(keyOf(one.fields.get(field)) ?? '');
		if (person) takeFrom(one, field, person, said);
	}
}

/** Gives an item what is said of the person whom its field names. */
export function takeFrom(one: Item, field: string, person: Item, { fields, self }: Pick<Persons, 'fields' | 'self'>): void {
	for (const f of fields) {
		const value = f === self ? Number(isSet(person.fields.get(f))) : person.fields.get(f);
		if (value !== undefined && value !== '') one.fields.set(`${field}.${f === self ? 'me' : f}`, value);
	}
}

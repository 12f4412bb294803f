/** Items that name a person by his place in the list of those who take part: given what that list says of him. */
import type { Value } from '../../model';
import { item, type Item } from './items';
import { FIELDS, isSelfField, lastOf, LONGEST, saysWho, takeFrom, WHO } from './named-persons';

export interface ListOfItems {
	name: string;
	/** The list in whose items these stand. */
	inside: string | null;
	items: { item: Item; parent: number }[];
}

/** What a place may be called where nothing says that it is a person's. */
const PLACE = /^(?:p|u|s|w|f|idx)$|index|ordinal|position|place|seat/i;
const AT_ONE_PLACE = 500;
const SAMPLE = 4000;

export function namePersonsByPlace(lists: readonly ListOfItems[]): void {
	for (const persons of lists) {
		const fields = fieldsOfPersons(persons);
		if (!fields) continue;
		const at = new Map<number, Item[]>();
		for (const { item, parent } of persons.items) at.set(parent, [...(at.get(parent) ?? []), item]);
		for (const list of lists) {
			if (list === persons || list.inside !== persons.inside || list.items.length <= persons.items.length) continue;
			const field = placeIn(list, at);
			if (field === null) continue;
			takePlaces(list, field, at, { fields, self: fields.find((f) => isSelfField(f, [...at.values()])) ?? null });
		}
	}
	for (const list of lists)
		for (const at of namesListedAbove(list, lists)) {
			const field = placeIn(list, at);
			if (field !== null) takePlaces(list, field, at, { fields: [NAME], self: null });
		}
}

function takePlaces(
	list: ListOfItems,
	field: string,
	at: ReadonlyMap<number, readonly Item[]>,
	told: Parameters<typeof takeFrom>[3]
): void {
	const first = firstOf(list, field);
	for (const { item, parent } of list.items) {
		const person = at.get(parent)?.[numberIn(item.fields.get(field))! - first];
		if (person) takeFrom(item, field, person, told);
	}
}

const NAME = 'name';

/** The names that the items around a list's list in a field of theirs, by the number of each. */
function namesListedAbove({ inside, items }: ListOfItems, lists: readonly ListOfItems[]): Map<number, Item[]>[] {
	const around = lists.find(({ name }) => name === inside)?.items ?? [];
	if (around.length === 0 || around.length > SAMPLE || items.length <= around.length) return [];
	const fields = [...new Set(around.flatMap(({ item }) => [...item.fields.keys()]))].slice(0, FIELDS);
	return fields.flatMap((field) => {
		const at = new Map(around.map(({ item }, i) => [i + 1, namesIn(item.fields.get(field))]));
		const all = [...at.values()].flat();
		return [...at.values()].every((of) => of.length > 1) && all.filter((one) => saysWho(one.fields.get(NAME))).length > all.length / 2
			? [at]
			: [];
	});
}

/** The texts of a list (JSON), each as an item with that name. */
function namesIn(value: Value | undefined): Item[] {
	if (typeof value !== 'string' || !value.startsWith('["')) return [];
	try {
		const list: unknown = JSON.parse(value);
		const texts = Array.isArray(list) ? list.filter((one): one is string => typeof one === 'string' && one.length <= LONGEST) : [];
		return texts.map((text) => ({ ...item(0, 0), fields: new Map([[NAME, text]]) }));
	} catch {
		return [];
	}
}

/** What is said of those who take part, where more than half of them have a name, a number or an address. */
function fieldsOfPersons({ items }: ListOfItems): string[] | null {
	if (items.length < 2 || items.length > SAMPLE) return null;
	const names = [...new Set(items.flatMap(({ item }) => [...item.fields.keys()]))].slice(0, FIELDS);
	const fields = names.filter((name) => items.every(({ item }) => String(item.fields.get(name) ?? '').length <= LONGEST));
	return fields.some((f) => items.filter(({ item }) => saysWho(item.fields.get(f))).length > items.length / 2) ? fields : null;
}

const numberIn = (value: Value | undefined): number | null =>
	typeof value === 'number' ? value : typeof value === 'string' && /^\d{1,4}$/.test(value) ? Number(value) : null;

const firstOf = ({ items }: ListOfItems, field: string): number =>
	items.every(({ item }) => (numberIn(item.fields.get(field)) ?? 1) > 0) ? 1 : 0;

/** The field whose numbers are places in the lists of those who take part. */
function placeIn(list: ListOfItems, at: ReadonlyMap<number, readonly Item[]>): string | null {
	if ([...at.values()].some((of) => of.length > AT_ONE_PLACE)) return null;
	const { items } = list;
	const names = new Set(items.slice(0, SAMPLE).flatMap(({ item }) => [...item.fields.keys()]));
	for (const field of names) {
		if (!WHO.test(lastOf(field)) && !PLACE.test(lastOf(field))) continue;
		if (items.some(({ item }) => [...item.fields.keys()].some((f) => f.startsWith(`${field}.`)))) continue;
		const first = firstOf(list, field);
		const places = new Set<number>();
		const isPlace = ({ item, parent }: ListOfItems['items'][number]): boolean => {
			const n = numberIn(item.fields.get(field));
			if (n === null) return false;
			places.add(n);
			return n - first < (at.get(parent)?.length ?? 0);
		};
		if (items.every(isPlace) && places.size > 1) return field;
	}
	return null;
}

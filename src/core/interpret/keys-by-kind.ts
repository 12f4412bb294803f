/**
 * A number whose table another column names by its kind ("text" 5, "picture" 5): each kind gets a column of its own, so
 * that it is the key of one table only.
 */
import type { Row, Table, Value } from '../model';
import { put } from '../lists';
import { profileOf } from './profile';
import { addressShare } from './columns';
import type { Context } from './context';
import { isNamedAlike, keyOf, referencesOf, type Key, type Reference } from './refs';
import { cell, isOwnNumber, leaveAside, sampleOf, type Sheet, type SheetColumn } from './sheet';

/** Rows that must be told by their kind, and kinds of them, at most. */
const LEAST = 4;
const KINDS = 8;
const ROWS_LEAST = 20;
const FEW_COLUMNS = 3;
/** Share of a kind's numbers that must be keys of its table, and of those keys that must be used for a table without that name. */
const NEARLY_ALL = 0.95;
const USED_LEAST = 4;
const MEDIA_TYPES = 0.5;
/** Share of a table's keys that numbers of all kinds must be for it to be the one that they all name. */
const MANY = 0.5;

interface Kind {
	value: string | number;
	/** Its rows, each once though it stand in several captures. */
	rows: Set<Row | number | bigint>;
	ids: Set<string | number>;
}

/** Which column says the kinds of a number, those that have a table each, and that table where the kinds are but numbers. */
interface Told {
	kind: SheetColumn;
	values: (string | number)[];
	of?: ReadonlyMap<string | number, Sheet>;
}

/** The columns of a sheet that hold the numbers of one kind each. */
type Split = Map<Sheet, SheetColumn[]>;

/** Adds the columns. `keys`: of all sheets. */
export function openKeysByKind(sheets: readonly Sheet[], keys: readonly Key[], tables: readonly Table[]): Split {
	const found: Split = new Map();
	const called = new Set(sheets.flatMap(({ name }) => [...words(name), plain(name)].flatMap((word) => [word, word.replace(/s$/, '')])));
	for (const sheet of sheets) {
		if (sheet.family || sheet.sure.length < LEAST) continue;
		const stored = sheet.columns.filter((c) => c.column >= 0 && c.path.length === 0 && !c.made && !c.body && !c.profile.time);
		const kinds = stored.filter((c) => isKind(c, sheet));
		const first = kinds.length > 0 ? sheet.sure.filter(({ standing }) => standing === 'kept').slice(0, FIRST_ROWS) : [];
		for (const id of stored.filter((c) => isNumber(c, sheet, tables))) {
			const isSmall = id.profile.distinct.size < USED_LEAST;
			const may = kinds.filter((kind) => kind !== id && (isSmall ? saysOfWhich(kind, id) : canTell(first, kind, id, called, tables)));
			const told = may.flatMap((kind) => tablesByKind(sheet, kind, id, keys, tables) ?? [])[0];
			if (told) found.set(sheet, split(sheet, id, told, tables));
		}
	}
	return found;
}

/**
 * Where a table says nothing but which row of which other table is meant, the rows that name its own get what it says:
 * columns of their own, in the place of the number.
 */
export function openNamedByKind(found: Split, context: Context): void {
	const { sheets, keys, tables, references } = context;
	for (const sheet of found.size > 0 ? sheets : []) {
		const known = references.get(sheet) ?? [];
		for (const { from, key } of known.filter((r) => r.confidence >= SURE && known.find((x) => x.from === r.from) === r)) {
			const columns = found.get(key.sheet);
			if (!columns || key.sheet === sheet || !saysNothingElse(key.sheet, columns, tables)) continue;
			const rows = new Map(key.sheet.rows.map((row) => [keyOf(key.column ? cell(row, key.column, tables) : row.rowid), row]));
			for (const column of columns) {
				const read = (row: Row): Value | undefined => {
					const of = rows.get(keyOf(cell(row, from, tables)));
					return of && cell(of, column, tables);
				};
				const profile = profileOf(sheet.sure, read, sampleOf(sheet.sure));
				sheet.columns.push({ name: `${from.name}.${column.name}`, column: from.column, path: [column.name], made: { read }, profile });
			}
			leaveAside(from);
			references.set(sheet, referencesOf(sheet, keys, tables));
		}
	}
}

const SURE = 0.6;

/**
 * Numbers beside the names of several tables are keys of the one that is named, and of none for all rows: what they name
 * there may be gone, and then no column of its own says it.
 */
export function dropKeysOfNamed({ references, tables }: Pick<Context, 'references' | 'tables'>): void {
	for (const [sheet, refs] of references) {
		const column = sheet.columns.find((c) => c.profile.distinct.size > 1 && namesTables(c, tables));
		if (!column) continue;
		const named = new Set([...column.profile.distinct.keys()].map((name) => String(name).toLowerCase()));
		const isOfNamed = ({ from, key }: Reference): boolean =>
			!from.made && from.profile.texts === 0 && named.has(key.sheet.name.toLowerCase());
		references.set(
			sheet,
			refs.filter((r) => !isOfNamed(r))
		);
	}
}

/** Whether a column says of which tables its rows are, or were. */
export function namesTables(column: SheetColumn, tables: readonly Table[]): boolean {
	return areNames(column, new Set(tables.map(({ name }) => name.toLowerCase())));
}

/** Whether a column's values are names among `called`, which are in small letters, and nothing else. */
export const areNames = ({ profile: p }: SheetColumn, called: Pick<ReadonlySet<string>, 'has'>): boolean =>
	!p.many && p.texts > 0 && p.texts === p.filled && [...p.distinct.keys()].every((v) => called.has(String(v).toLowerCase()));

/** Whether a table has its own number, the kind and the number of that kind, and no more. */
const saysNothingElse = (sheet: Sheet, columns: readonly SheetColumn[], tables: readonly Table[]): boolean =>
	sheet.columns.filter((c) => !columns.includes(c) && !isOwnNumber(c, sheet, tables) && c.profile.filled > 0).length <= 1;

/** The media type of a part says nothing of whose it is. */
const isKind = ({ profile: p }: SheetColumn, { sure }: Sheet): boolean =>
	!p.many &&
	p.mime <= MEDIA_TYPES &&
	p.distinct.size > 1 &&
	p.distinct.size <= KINDS &&
	p.blobs === 0 &&
	p.filled >= sure.length * NEARLY_ALL;

const isNumber = (c: SheetColumn, sheet: Sheet, tables: readonly Table[]): boolean =>
	!isOwnNumber(c, sheet, tables) && c.profile.ints > 0 && c.profile.ints === c.profile.filled && c.profile.distinct.size > 1;

/** Whether the first rows speak for it: a number comes once in a kind, or a kind is called as a table is. */
function canTell(rows: readonly Row[], kind: SheetColumn, id: SheetColumn, called: ReadonlySet<string>, tables: readonly Table[]): boolean {
	const isWord = [...kind.profile.distinct.keys()].some((word) => typeof word === 'string' && called.has(plain(word)));
	if (isWord || saysOfWhich(kind, id)) return true;
	const seen = new Set(rows.map((row) => `${keyOf(cell(row, kind, tables))} ${keyOf(cell(row, id, tables))}`));
	return seen.size >= new Set(rows.map((row) => row.rowid ?? row)).size * NEARLY_ALL;
}
const FIRST_ROWS = 300;

/** The kinds whose numbers are keys of a table each, another one to each; null where that is not so of two at least. */
function tablesByKind(sheet: Sheet, kind: SheetColumn, id: SheetColumn, keys: readonly Key[], tables: readonly Table[]): Told | null {
	const byKind = new Map<string | number, Kind>();
	for (const row of sheet.sure.filter(({ standing }) => standing === 'kept')) {
		const [value, n] = [keyOf(cell(row, kind, tables)), keyOf(cell(row, id, tables))];
		if (value === null || n === null) continue;
		const known = byKind.get(value) ?? { value, rows: new Set(), ids: new Set() };
		byKind.set(value, known);
		known.rows.add(row.rowid ?? row);
		known.ids.add(n);
	}
	const others = keys.filter((key) => key.sheet !== sheet && !key.sheet.family);
	const together = areNamedTogether(kind, id);
	const told = new Map<string | number, Sheet>();
	const called = new Set<Sheet>();
	// One table that has the rows of two kinds is that of their conversations, say, in which each has one of each kind.
	const isOfTwo = (key: Key): boolean => [...byKind.values()].filter((one) => !told.has(one.value) && isNumberedAs(one, key)).length > 1;
	for (const isOf of [isCalled, isNumberedAs]) {
		if (isOf === isNumberedAs && others.some(isOfTwo)) break;
		for (const one of byKind.values()) {
			const taken = new Set(told.values());
			const fit = told.has(one.value) ? [] : others.filter((key) => !taken.has(key.sheet) && isOf(one, key, together));
			const [of] = fit.sort((a, b) => coverage(one, b) - coverage(one, a));
			if (of) told.set(one.value, of.sheet);
		}
		if (isOf === isCalled) for (const of of told.values()) called.add(of);
	}
	if (told.size === 0 && saysOfWhich(kind, id)) {
		const of = tablesOfNumberedKinds([...byKind.values()], others, () => meetAtOneEnd(sheet, kind, id, tables));
		if (of) return { kind, values: [...of.keys()], of };
	}
	// Few rows are numbered as any few others are, unless the table says nothing else.
	const isSmall = sheet.sure.length < ROWS_LEAST && sheet.columns.length > FEW_COLUMNS;
	if (told.size === 0 || (called.size < told.size && isSmall)) return null;
	const all = new Set([...byKind.values()].flatMap((one) => [...one.ids]));
	// What is called for another table, and names its rows, is its key, whatever the kind.
	if (others.some((key) => !called.has(key.sheet) && isNamedAlike(id, key.sheet) && areKeys(all, key))) return null;
	const values = [...told.keys()];
	if (told.size > 1) return { kind, values };
	// One kind alone is told by its table, where the others' numbers are of no table that has its rows too.
	const [one, of] = [...told][0]!;
	const rest = [...byKind.values()].flatMap((other) => (other.value === one ? [] : [...other.ids]));
	const isOne = others.some((key) => (all.size >= key.values.size * MANY && areKeys(all, key)) || (key.sheet === of && areMany(rest, key)));
	return isOne ? null : { kind, values };
}

/** Whether a column is called as one that says of which kind the number beside it is: `to_type` beside `to_id`. */
const saysOfWhich = (kind: SheetColumn, id: SheetColumn): boolean => OF_WHICH_KIND.test(kind.name) && areNamedTogether(kind, id);
const OF_WHICH_KIND = /(?:type|kind|class|sort)$/i;

/**
 * The kinds that are but numbers themselves, each with a table of its own that it uses up: one and the same number stands
 * in two of them, or no table has all, or `areEnds` says that those of one kind are persons. Null where that is not so.
 */
function tablesOfNumberedKinds(kinds: readonly Kind[], keys: readonly Key[], areEnds: () => boolean): Map<string | number, Sheet> | null {
	const known = kinds.filter(({ ids }) => ids.size > 0);
	if (known.length < 2) return null;
	const ids = known.flatMap((one) => [...one.ids]);
	const areSure = areEnds();
	if (!areSure && new Set(ids).size === ids.length && keys.some((key) => areKeys(ids, key))) return null;
	const taken = new Map<string | number, Sheet>();
	for (const one of known) {
		const fit = keys.filter((key) => areKeys(one.ids, key)).sort((a, b) => coverage(one, b) - coverage(one, a));
		const [best] = fit;
		if (!best || (!areSure && coverage(one, best) < MANY) || [...taken.values()].includes(best.sheet)) return null;
		taken.set(one.value, best.sheet);
	}
	return taken;
}

/**
 * Whether another column says who wrote: with that, one is at an end of all messages of a kind, the owner, and nobody is of
 * those of the others, which went to rooms.
 */
function meetAtOneEnd(sheet: Sheet, kind: SheetColumn, id: SheetColumn, tables: readonly Table[]): boolean {
	const rows = sheet.sure.filter(({ standing }) => standing === 'kept').slice(0, FIRST_ROWS);
	const valueIn = (row: Row, c: SheetColumn): string | number | null => keyOf(cell(row, c, tables));
	return sheet.columns.some((from) => {
		const p = from.profile;
		if (
			from === id ||
			from === kind ||
			from.column < 0 ||
			from.made ||
			p.time ||
			p.distinct.size < 2 ||
			p.filled < sheet.sure.length * NEARLY_ALL
		)
			return false;
		const ends = new Map<string | number, [string | number, string | number][]>();
		for (const row of rows) {
			const [of, to, who] = [valueIn(row, kind), valueIn(row, id), valueIn(row, from)];
			if (of === null || to === null || who === null) continue;
			put(ends, of, [who, to]);
		}
		const all = [...ends.values()].filter((of) => of.length >= LEAST);
		// A room's own number is at one end of all: the owner is at either.
		const hasOwner = (of: readonly (readonly [string | number, string | number])[]): boolean =>
			of[0]!.some(
				(one) =>
					of.every((both) => both.includes(one)) &&
					of.some(([who, to]) => who === one && to !== one) &&
					of.some(([who, to]) => to === one && who !== one)
			);
		return all.length > 1 && all.filter(hasOwner).length === 1;
	});
}

/** Whether many are keys there. */
const areMany = (ids: readonly (string | number)[], { values }: Key): boolean =>
	ids.filter((n) => values.has(n)).length > ids.length * MANY;

/** Whether nearly all are keys there. */
function areKeys(ids: Iterable<string | number>, { values }: Key): boolean {
	const all = [...ids];
	return all.filter((n) => values.has(n)).length >= all.length * NEARLY_ALL;
}

/** Whether two columns are called for one thing, as `object_type` and `object_id`. */
export function areNamedTogether(kind: SheetColumn, id: SheetColumn): boolean {
	const [a, b] = [kind, id].map(({ name }) => words(name));
	return a!.some((word) => b!.includes(word));
}
const plain = (name: string): string => name.toLowerCase().replace(/[^\p{L}\d]/gu, '');
const words = (name: string): string[] =>
	(name.match(/[A-Z]?[a-z]+/g) ?? []).map((word) => word.toLowerCase()).filter((word) => !/^(id|key|ref|no|num|number)$/.test(word));

/** Share of a table's keys that the rows of a kind name. */
const coverage = ({ ids }: Kind, { values }: Key): number => [...ids].filter((n) => values.has(n)).length / values.size;

const isOneEach = ({ rows, ids }: Kind): boolean => ids.size >= rows.size * NEARLY_ALL;

/** Whether a kind is called as a table is. */
const isCalledSo = (word: string, { sheet }: Key): boolean =>
	words(sheet.name).includes(word.toLowerCase()) || isNamedAlike({ name: word } as SheetColumn, sheet);

/** Whether the rows of a kind name those of a table that is called so. `together`: whether kind and number are called for one thing. */
const isCalled = (one: Kind, key: Key, together: boolean): boolean =>
	typeof one.value === 'string' && (isOneEach(one) || together) && isCalledSo(one.value, key) && areKeys(one.ids, key);

/** Whether the rows of a kind name one row of a table each, and nearly none is left. */
const isNumberedAs = (one: Kind, key: Key): boolean =>
	isOneEach(one) && one.ids.size >= USED_LEAST && one.ids.size >= key.values.size * NEARLY_ALL && areKeys(one.ids, key);

/** A column for the numbers of each kind, one for those of no known kind, and none for all of them. */
function split(sheet: Sheet, id: SheetColumn, { kind, values, of }: Told, tables: readonly Table[]): SheetColumn[] {
	const made: SheetColumn[] = [];
	// Of two lists the one that has addresses is that of persons.
	const hasAddresses = (list: Sheet | undefined): boolean => list?.columns.some((c) => addressShare(c) > 0.6) ?? false;
	const persons = [...(of?.values() ?? [])].filter(hasAddresses);
	const add = (name: string, isOf: (value: string | number | null) => boolean, list?: Sheet): void => {
		const read = (row: Row): Value | undefined => (isOf(keyOf(cell(row, kind, tables))) ? cell(row, id, tables) : null);
		const profile = profileOf(sheet.sure, read, sampleOf(sheet.sure));
		if (profile.filled === 0) return;
		const ofKind = list && persons.length > 0 && !persons.includes(list) ? 'rooms' : 'any';
		const references = list && tables[list.tables[0]!]!.name;
		made.push({
			name: `${id.name} (${name})`,
			column: id.column,
			path: [name],
			made: { read, ofKind },
			profile,
			...(references ? { references } : {})
		});
	};
	for (const value of values) add(String(value), (one) => one === value, of?.get(value));
	add('other', (one) => one === null || !values.includes(one));
	leaveAside(id);
	sheet.columns.push(...made);
	return made;
}

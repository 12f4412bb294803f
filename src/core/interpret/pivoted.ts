/**
 * Tables in which each row says one thing of something: what it is said of, what is said (`text`, `time`, `peer`), and the
 * value. The things get a table for each kind of them, a column for each word, and their rows the places of all that makes
 * them. In a store of keys and values a part of the key is what it is said of, and the others what is said.
 */
import { addSighting, betterGrade, betterStanding, plainRow, plainTable, withoutRows, withTables, type Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';
import { areOfMessages } from './composed';
import { fieldsOf, pivotOfKeys } from './keys-of-things';
import { haveAlike } from './kinds-of-documents';
import { keyOf } from './refs';

const ROWS = 2000;
const LEAST_ROWS = 12;
const MOST_WORDS = 40;
const LONGEST_WORD = 40;
const MOST_KINDS = 12;
/** Words that are said of a thing on average, at least; share of the rows whose word is said once of a thing. */
const SEVERAL = 2.5;
const ONCE = 0.95;
/** Rows to a thing and to a word, at least. */
const THINGS = 4;

export interface Pivot {
	table: Table;
	/** What the things' column is called. */
	name: string;
	/** What a row is said of, and what is said; null where it says nothing so. */
	thing(row: Row): string | number | null;
	word(row: Row): string | null;
	value: number;
	/** Rows of such things are no rows of the table any more. */
	moves: boolean;
}

interface Kind {
	words: Set<string>;
	things: Map<string | number, Map<string, Row[]>>;
}

/** The store with a table for each kind of things, where it keeps messages so; the store itself where it does not. */
export function openPivoted(harvest: Harvested): Harvested {
	const tables: Table[] = [];
	const made: Row[][] = [];
	const moved = new Set<Row>();
	for (const table of harvest.tables) {
		const rows = harvest.book.rowsOf(table.index);
		const pivot = pivotOf(table, rows, harvest) ?? pivotOfKeys(table, rows);
		if (!pivot) continue;
		const kinds = kindsOf(rows, pivot);
		const says = saysMessages(pivot);
		if (!kinds.some(says)) continue;
		for (const kind of kinds) {
			if (pivot.moves && !says(kind)) continue;
			if (pivot.moves) for (const said of kind.things.values()) for (const row of [...said.values()].flat()) moved.add(row);
			// In no order of the rows: copies of one store are known by their tables.
			const words = [...kind.words].sort();
			const making = makingOf(kind);
			const index = harvest.tables.length + tables.length;
			tables.push({
				...plainTable(index, `${table.name}: ${words.slice(0, 4).join(', ')}`, [pivot.name, ...words]),
				primaryKey: [0],
				withoutRowid: true,
				dropped: table.dropped
			});
			made.push([...kind.things].flatMap(([thing, said]) => rowsOfThing(thing, said, words, making, pivot, index)));
		}
	}
	return made.length === 0 ? harvest : withTables(moved.size > 0 ? withoutRows(harvest, moved) : harvest, tables, made);
}

/** The columns of a table that says one thing a row; null where it does not. */
function pivotOf(table: Table, rows: readonly Row[], harvest: Harvested): Pivot | null {
	if (table.index === 0 || /^sqlite_/i.test(table.name) || table.columns.length < 3) return null;
	const sample = rows.filter((row) => row.standing === 'kept').slice(0, ROWS);
	if (sample.length < LEAST_ROWS) return null;
	const columns = [...table.columns.keys()].filter((c) => c !== table.rowidColumn);
	for (const word of columns) {
		const words = new Set(sample.map((row) => row.values[word]));
		if (words.size < 3 || words.size > MOST_WORDS) continue;
		const named = [...words].every(isWord) ? null : wordsByNumber(words, table, harvest);
		if (named?.size === 0) continue;
		for (const thing of columns) {
			if (thing === word) continue;
			const things = new Set(sample.map((row) => keyOf(row.values[thing])));
			if (things.has(null) || things.size < THINGS || sample.length < things.size * SEVERAL) continue;
			const pairs = new Set(sample.map((row) => `${keyOf(row.values[thing])}|${String(row.values[word])}`));
			if (pairs.size < sample.length * ONCE) continue;
			const value = columns.find(
				(c) => c !== word && c !== thing && sample.filter((row) => typeof row.values[c] === 'string').length > sample.length / 4
			);
			if (value === undefined) continue;
			const wordAt = (row: Row): string | null => {
				const said = row.values[word];
				return named ? (named.get(said) ?? null) : isWord(said) ? said : null;
			};
			return { table, name: table.columns[thing]!.name, thing: (row) => keyOf(row.values[thing]), word: wordAt, value, moves: false };
		}
	}
	return null;
}

/** Rows of a list of words, at most. */
const MOST_LISTED = 500;

/** The words that another table has for such numbers; none where no table has one for each. */
function wordsByNumber(numbers: ReadonlySet<Value | undefined>, table: Table, harvest: Harvested): Map<Value | undefined, string> {
	if (![...numbers].every((n) => typeof n === 'number' && Number.isInteger(n))) return new Map();
	for (const list of harvest.tables) {
		const rows = harvest.book.rowsOf(list.index).slice(0, MOST_LISTED + 1);
		if (list === table || list.index === 0 || rows.length < numbers.size || rows.length > MOST_LISTED) continue;
		const columns = [...list.columns.keys()].filter((c) => c !== list.rowidColumn);
		const called = columns.find(
			(c) => new Set(rows.map((row) => row.values[c])).size === rows.length && rows.every((row) => isWord(row.values[c]))
		);
		if (called === undefined) continue;
		const keys = [(row: Row): Value | undefined => row.rowid ?? undefined, ...columns.map((c) => (row: Row) => row.values[c])];
		for (const key of keys) {
			const words = new Map(rows.map((row) => [key(row), row.values[called] as string]));
			if ([...numbers].every((n) => words.has(n))) return words;
		}
	}
	return new Map();
}

const isWord = (value: Value | undefined): value is string =>
	typeof value === 'string' && value.length > 0 && value.length <= LONGEST_WORD && /^[\p{L}_][\p{L}\p{M}\d_.:-]*$/u.test(value);

/** The things of a table by what is said of them. */
function kindsOf(rows: readonly Row[], { thing, word }: Pivot): Kind[] {
	const things = new Map<string | number, Map<string, Row[]>>();
	for (const row of rows) {
		const [key, said] = [thing(row), word(row)];
		if (key === null || said === null) continue;
		const words = things.get(key) ?? new Map<string, Row[]>();
		things.set(key, words);
		const known = words.get(said);
		if (known) known.push(row);
		else words.set(said, [row]);
	}
	const kinds: Kind[] = [];
	// Those of whom most is said come first: of one that is lost a part is left.
	for (const [key, said] of [...things].sort((a, b) => b[1].size - a[1].size)) {
		const words = [...said.keys()];
		const kind = kinds.find((k) => haveAlike(words, k.words)) ?? kinds.find((k) => words.every((w) => k.words.has(w)));
		if (kind) {
			for (const one of words) if (kind.words.size < MOST_WORDS) kind.words.add(one);
			kind.things.set(key, said);
		} else if (kinds.length < MOST_KINDS) kinds.push({ words: new Set(words), things: new Map([[key, said]]) });
	}
	return kinds;
}

const saysMessages =
	({ value }: Pivot) =>
	({ words, things }: Kind): boolean => {
		// Of what is lost but a part may be left.
		const sample = [...things.values()].filter((said) => [...said.values()].every((rows) => rows[0]!.standing === 'kept')).slice(0, ROWS);
		return (
			sample.length >= THINGS &&
			areOfMessages([...words].flatMap((word) => fieldsOf(sample.map((said) => said.get(word)?.[0]!.values[value]))))
		);
	};

/** The words that are said of nearly all things of a kind: what makes such a thing. */
const makingOf = ({ words, things }: Kind): Set<string> =>
	new Set([...words].filter((word) => [...things.values()].filter((said) => said.has(word)).length >= things.size * NEARLY_ALL));
const NEARLY_ALL = 0.7;

/** What is in use of a thing makes a row; what was said otherwise before makes one each, the rest as it is now. */
function rowsOfThing(
	thing: string | number,
	said: ReadonlyMap<string, readonly Row[]>,
	words: readonly string[],
	making: ReadonlySet<string>,
	pivot: Pivot,
	table: number
): Row[] {
	const now = new Map([...said].map(([word, rows]) => [word, rows.find((row) => row.standing === 'kept') ?? rows[0]!]));
	const valueOf = (row: Row | undefined): Value | undefined => row?.values[pivot.value];
	const rowWith = (parts: ReadonlyMap<string, Row>, from: readonly Row[]): Row => {
		const row = rowOf([thing, ...words.map((word) => valueOf(parts.get(word)))], from, table);
		if ([...making].some((word) => valueOf(parts.get(word)) === undefined)) row.grade = 'fragment';
		row.cut = 1 + words.findIndex((word) => parts.get(word)?.cut === pivot.value);
		if (row.cut === 0) row.cut = -1;
		return row;
	};
	const makers = [...now].filter(([word]) => making.has(word)).map(([, row]) => row);
	const before = [...said].flatMap(([word, rows]) =>
		rows.filter((row) => valueOf(row) !== valueOf(now.get(word))).map((row) => [word, row] as const)
	);
	return [
		rowWith(now, makers.length > 0 ? makers : [...now.values()]),
		...before.map(([word, row]) => rowWith(new Map(now).set(word, row), [row]))
	];
}

/** A row made of others: it is in use where all of them are, and as sure as the least sure. */
function rowOf(values: (Value | undefined)[], from: readonly Row[], table: number): Row {
	const [first, ...more] = from;
	const made: Row = { ...plainRow(first!), table, rowid: null, values, cut: -1, sightings: [...first!.sightings] };
	for (const row of more) {
		if (betterStanding(made.standing, row.standing) === made.standing) made.standing = row.standing;
		if (betterGrade(made.grade, row.grade) === made.grade) made.grade = row.grade;
		made.tableKnown &&= row.tableKnown;
		for (const sighting of row.sightings) addSighting(made, sighting);
	}
	return made;
}

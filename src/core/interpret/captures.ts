/**
 * Several captures of one store are read alike: the roles of its columns are judged from the rows of all of them, so
 * that a small old copy is understood as well as the newest. Which stores are captures of one is told before anything
 * is interpreted: tables declared alike, and the same rows under the same record numbers.
 */
import type { Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';

/** Shared record numbers that are compared in each table, and share of them that must hold the same. */
const COMPARED = 300;
const SAME_ROWS = 0.4;
/** Numbers from here on are hardly the same by chance, as states and kinds are. */
const TELLING = 100_000;

/**
 * Those of `others` that are captures of the same store: also those that one of them is a capture of, as where all that an
 * old and a new state have in common is what one between them has.
 */
export function capturesOf(harvest: Harvested, others: readonly Harvested[]): Harvested[] {
	const declared = declarationOf(harvest);
	const left = new Set(others.filter((o) => o !== harvest && declarationOf(o) === declared));
	const found: Harvested[] = [];
	for (let known: readonly Harvested[] = [harvest]; known.length > 0;) {
		const next = [...left].filter(
			(o) => known.some((k) => compare(k, o) === 'same') && [harvest, ...found].every((k) => compare(k, o) !== 'other')
		);
		for (const o of next) left.delete(o);
		found.push(...next);
		known = next;
	}
	return others.filter((o) => found.includes(o));
}

/** Rows of a store that is too small to be understood by itself. */
const FEW_ROWS = 200;

/**
 * Stores beside one of few rows whose tables are declared alike: a program can keep its messages in several files, and what
 * the columns of the newest mean is told by the others. `beside`: those of the same folder.
 */
export function siblingsOf(harvest: Harvested, beside: readonly Harvested[]): Harvested[] {
	if (harvest.book.size > FEW_ROWS) return [];
	const declared = declarationOf(harvest);
	return beside.filter(
		(o) =>
			o !== harvest &&
			o.book.size > harvest.book.size &&
			declarationOf(o) === declared &&
			!harvest.tables.some((t) => t.index > 0 && countOtherwise(usedOf(harvest, t), usedOf(o, t)))
	);
}

/** How its tables are declared, asked for once for each store of a look. */
function declarationOf(h: Harvested): string {
	let known = declarations.get(h);
	if (known?.tables !== h.tables.length)
		declarations.set(
			h,
			(known = { tables: h.tables.length, said: JSON.stringify(h.tables.map((t) => [t.name, t.columns.map((c) => c.name)])) })
		);
	return known.said;
}
const declarations = new WeakMap<Harvested, { tables: number; said: string }>();

/** What two stores say of being states of one; `unknown` where they have nothing in common. */
type Said = 'same' | 'other' | 'unknown';

/** What was found of two stores, asked for of either; as long as no more rows of them are known. */
function compare(a: Harvested, b: Harvested): Said {
	const known = compared.get(a)?.get(b) ?? compared.get(b)?.get(a);
	const rows = a.book.size + b.book.size;
	if (known?.rows === rows) return known.said;
	const said = whatTheyHold(a, b);
	const ofA = compared.get(a) ?? new WeakMap<Harvested, Compared>();
	compared.set(a, ofA.set(b, { rows, said }));
	compared.get(b)?.delete(a);
	return said;
}
interface Compared {
	rows: number;
	said: Said;
}
const compared = new WeakMap<Harvested, WeakMap<Harvested, Compared>>();

function whatTheyHold(a: Harvested, b: Harvested): Said {
	let shared = 0;
	let same = 0;
	let most = { compared: 0, agreed: 0 };
	for (const table of a.tables) {
		if (table.index === 0 || /^sqlite_/i.test(table.name)) continue;
		const [first, second] = [usedOf(a, table), usedOf(b, table)];
		const [own, others] = [first.byKey, second.byKey];
		// Keys of its own making tell a store: of many none is met in another one by chance, nor missing from its own.
		const isKeyed = table.rowidColumn < 0 && table.primaryKey.length > 0;
		if (isKeyed && Math.min(own.size, others.size) >= MANY && ![...own.keys()].some((key) => others.has(key))) return 'unknown';
		if (countOtherwise(first, second)) return 'other';
		if (isKeyed && eachLacks(first, second)) return 'other';
		if (table.rowidColumn >= 0 && Math.min(own.size, others.size) >= MANY && runBeside(first, second)) return 'other';
		let [compared, agreed] = [0, 0];
		for (const [key, row] of own) {
			if (compared >= COMPARED) break;
			const other = others.get(key);
			if (!other) continue;
			const agree = agreeing(row, other);
			if (agree === null) continue;
			compared++;
			if (agree) agreed++;
		}
		shared += compared;
		same += agreed;
		if (table.rowidColumn >= 0 && compared > most.compared) most = { compared, agreed };
	}
	// Two devices of one account can have the same persons under the same numbers: what each received it numbered itself.
	if (most.compared >= MANY && most.agreed < most.compared * HARDLY_ANY) return 'other';
	if (shared === 0) return 'unknown';
	return same >= shared * SAME_ROWS ? 'same' : 'other';
}
/** Rows of which a few stay from one capture to the next. */
const MANY = 20;
const HARDLY_ANY = 0.05;

/**
 * Whether rows that have no number in common are of the same time all the same: what grows with the numbers in either goes
 * over the same stretch. A store goes on where an earlier state of it ended.
 */
function runBeside(a: UsedRows, b: UsedRows): boolean {
	const [lower, higher] = a.lowest < b.lowest ? [a, b] : [b, a];
	if (lower.highest >= higher.lowest) return false;
	const [first, second] = [inOrder(lower), inOrder(higher)];
	return first[0]!.values.some((_, column) => {
		const [one, other] = [growing(first, column), growing(second, column)];
		if (!one || !other) return false;
		const shared = Math.min(one.to, other.to) - Math.max(one.from, other.from);
		return shared > Math.min(one.to - one.from, other.to - other.from) * BESIDE;
	});
}
const BESIDE = 0.5;

const inOrder = ({ byKey }: UsedRows): Row[] => [...byKey.values()].sort((x, y) => Number(x.rowid) - Number(y.rowid));

/** From where to where a column's numbers go that grow from row to row, but for their own numbers. */
function growing(rows: readonly Row[], column: number): { from: number; to: number } | null {
	const numbers = rows.map((row) => row.values[column]);
	if (!numbers.every((n): n is number => typeof n === 'number') || numbers.every((n, i) => n === rows[i]!.rowid)) return null;
	const back = numbers.filter((n, i) => i > 0 && n < numbers[i - 1]!).length;
	const [from, to] = [numbers[0]!, numbers.at(-1)!];
	return back <= numbers.length * SELDOM && to > from && new Set(numbers).size >= MANY / 2 ? { from, to } : null;
}
const SELDOM = 0.05;

/**
 * Whether each has rows under keys that the other has not, of a time from which both have others: two parties have what they
 * wrote to each other under the same keys, and each his other conversations. An earlier state lacks but what came later.
 */
function eachLacks(a: UsedRows, b: UsedRows): boolean {
	return a.sizes.some((size, column) => {
		if (size === null || (b.sizes[column] ?? null) === null) return false;
		const [ofA, ofB] = [timesIn(a, column), timesIn(b, column)];
		if (Math.min(ofA.length, ofB.length) < MANY) return false;
		const [first, second] = [ofA, ofB].map((times) => spanOf(times)) as [Span, Span];
		const from = first.from > second.from ? first.from : second.from;
		const to = first.to < second.to ? first.to : second.to;
		const lacks = (times: readonly Timed[], { byKey }: UsedRows): boolean => {
			const then = times.filter(({ at }) => at >= from && at <= to);
			const alone = then.filter(({ key }) => !byKey.has(key)).length;
			return alone >= LACKING_LEAST && alone >= then.length * LACKING;
		};
		return lacks(ofA, b) && lacks(ofB, a);
	});
}
interface Timed {
	key: RecordKey;
	/** A number, or a day as it is written. */
	at: number | string;
}
type Span = { from: number | string; to: number | string };

const timesIn = ({ byKey }: UsedRows, column: number): Timed[] =>
	[...byKey].flatMap(([key, { values }]) => {
		const at = values[column];
		return typeof at === 'number' || typeof at === 'string' ? [{ key, at }] : [];
	});

const spanOf = (times: readonly Timed[]): Span =>
	times.reduce<Span>(({ from, to }, { at }) => ({ from: at < from ? at : from, to: at > to ? at : to }), {
		from: times[0]!.at,
		to: times[0]!.at
	});
const LACKING_LEAST = 4;
const LACKING = 0.1;

/**
 * Whether a column's large numbers, all of one size in either, are of another size there, or days written out: times in
 * another unit, or from another year on. One program counts its times one way.
 */
const countOtherwise = (a: UsedRows, b: UsedRows): boolean =>
	a.sizes.some((one, column) => {
		const other = b.sizes[column] ?? null;
		if (one === null || other === null) return false;
		if (one === 'written' || other === 'written') return one !== other;
		return Math.max(one.high, other.high) > Math.min(one.low, other.low) * OF_ONE_SIZE ** 2;
	});
const OF_ONE_SIZE = 2;
const WRITTEN_DAY = /^\d{4}-\d\d-\d\d/;

/** How large a column's numbers are, or that its values are days written out. */
type Sizes = { low: number; high: number } | 'written';

function sizesOf(rows: readonly Row[], column: number): Sizes | null {
	const values = rows.map((row) => row.values[column]).filter((v) => v !== null && v !== undefined);
	if (values.length > 0 && values.every((v) => typeof v === 'string' && WRITTEN_DAY.test(v))) return 'written';
	let [low, high, count] = [Infinity, 0, 0];
	for (const value of values) {
		if (typeof value !== 'number' && typeof value !== 'bigint') return null;
		count++;
		low = Math.min(low, Number(value));
		high = Math.max(high, Number(value));
	}
	return count > 0 && low >= TELLING && high <= low * OF_ONE_SIZE ? { low, high } : null;
}

/** A table's rows in use, as they are compared with those of other stores. */
interface UsedRows {
	byKey: Map<RecordKey, Row>;
	/** From which record number to which they go. */
	lowest: number;
	highest: number;
	/** Of each column, how its numbers or days are counted. */
	sizes: (Sizes | null)[];
}

/** Of small tables that is kept: where many stores are declared alike each is compared with each. */
const kept = new WeakMap<Harvested, { rows: number; tables: Map<number, UsedRows> }>();
const KEPT_ROWS = 2000;

function usedOf(h: Harvested, table: Table): UsedRows {
	let known = kept.get(h);
	if (known?.rows !== h.book.size) kept.set(h, (known = { rows: h.book.size, tables: new Map() }));
	let used = known.tables.get(table.index);
	if (used) return used;
	const byKey = rowsByKey(h, table);
	const first = [...byKey.values()].slice(0, COMPARED);
	let [lowest, highest] = [Infinity, -Infinity];
	for (const { rowid } of byKey.values()) {
		lowest = Math.min(lowest, Number(rowid));
		highest = Math.max(highest, Number(rowid));
	}
	used = { byKey, lowest, highest, sizes: (first[0]?.values ?? []).map((_, column) => sizesOf(first, column)) };
	if (byKey.size <= KEPT_ROWS) known.tables.set(table.index, used);
	return used;
}

/** A table's rows in use by what tells them apart: their key, or their number. */
function rowsByKey(h: Harvested, { index, rowidColumn, primaryKey }: Table): Map<RecordKey, Row> {
	const rows = new Map<RecordKey, Row>();
	const isKeyed = rowidColumn < 0 && primaryKey.length > 0;
	for (const row of h.book.rowsOf(index)) {
		if (row.standing !== 'kept') continue;
		const key = isKeyed ? primaryKey.map((c) => partOf(row.values[c])).join('\u0000') : row.rowid;
		if (key !== null) rows.set(key, row);
	}
	return rows;
}

/** Whether two rows hold the same, flags and states aside; null where they hold nothing else. */
function agreeing(a: Row, b: Row): boolean | null {
	const [values, others] = [a.values, b.values];
	let telling = false;
	for (let i = 0; i < values.length; i++) {
		if (!tells(values[i])) continue;
		telling = true;
		if (!equal(values[i], others[i])) return false;
	}
	return telling ? true : null;
}

const tells = (v: Value | undefined): boolean =>
	(typeof v === 'string' && v !== '') ||
	(typeof v === 'object' && v !== null) ||
	(typeof v === 'number' && Math.abs(v) >= TELLING) ||
	typeof v === 'bigint';

const equal = (a: Value | undefined, b: Value | undefined): boolean =>
	typeof a === 'object' && a !== null && typeof b === 'object' && b !== null
		? a.length === b.length && a.every((byte, i) => byte === b[i])
		: a === b;

/**
 * Rows of a table that other captures have and this one has not, each record once. Where no column is the record number,
 * a vacuum numbers the rows anew, and only their key tells them, or all that they hold.
 */
export function rowsElsewhere(harvest: Harvested, table: number, captures: readonly Harvested[]): Row[] {
	if (captures.length === 0) return [];
	const { rowidColumn, primaryKey, withoutRowid } = harvest.tables[table]!;
	const isKnown = (row: Row): boolean => (withoutRowid ? primaryKey.every((c) => row.values[c] !== undefined) : row.rowid !== null);
	const key = rowidColumn >= 0 || primaryKey.length > 0 ? primaryKey : keyIn(harvest.book.rowsOf(table));
	const contentOf = (row: Row): string => (key.length > 0 ? key.map((c) => row.values[c]) : row.values).map(partOf).join('\u0000');
	const keyOf = (row: Row): RecordKey => (rowidColumn >= 0 ? row.rowid : contentOf(row));
	const known = new Set<RecordKey>();
	for (const row of harvest.book.rowsOf(table)) if (isKnown(row)) known.add(keyOf(row));
	const found: Row[] = [];
	for (const capture of captures) {
		for (const row of capture.book.rowsOf(table)) {
			if (!isKnown(row) || row.grade !== 'whole') continue;
			const record = keyOf(row);
			if (known.has(record)) continue;
			known.add(record);
			found.push(row);
		}
	}
	return found;
}

/** The column by whose values, written alike and each there once, rows tell themselves apart that nothing numbers for good. */
function keyIn(rows: readonly Row[]): readonly number[] {
	const kept = rows.filter((row) => row.standing === 'kept');
	const [first] = kept;
	if (!first || kept.length < KEYED_LEAST) return [];
	const isKey = (_: Value | undefined, column: number): boolean => {
		const values = kept.map((row) => row.values[column]);
		const { length } = typeof values[0] === 'string' ? values[0] : '';
		const areKeys = values.every((v) => typeof v === 'string' && v.length === length && KEY.test(v));
		return areKeys && new Set(values).size === values.length;
	};
	const column = first.values.findIndex(isKey);
	return column < 0 ? [] : [column];
}
const KEYED_LEAST = 3;
const KEY = /^[\w.:@+=-]{16,64}$/;

type RecordKey = number | bigint | string | null;

/** A value as part of what tells a row; of a long one as much as tells it. */
const partOf = (v: Value | undefined): string =>
	v instanceof Uint8Array ? `${v.length}:${v.slice(0, 16).join()}` : String(v).slice(0, 64);

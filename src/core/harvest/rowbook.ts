/**
 * The rows of one store, each once: what is seen again becomes another sighting of the row already known. Rows in
 * use are never compared with each other (the store says that they are different); lost ones are compared with all.
 */
import type { Grade, Row, Sighting, Standing, Value } from '../model';

const STANDING_RANK: Record<Standing, number> = { kept: 0, binned: 1, dropped: 2, remnant: 3 };
const GRADE_RANK: Record<Grade, number> = { whole: 0, rebuilt: 1, fragment: 2 };
/** Sightings kept with a row; more are counted. */
const SIGHTINGS_KEPT = 24;
/** Rows with the same key that a lost row is compared with, at most. */
const COMPARE_LIMIT = 4000;

export const betterStanding = (a: Standing, b: Standing): Standing => (STANDING_RANK[a] <= STANDING_RANK[b] ? a : b);
export const betterGrade = (a: Grade, b: Grade): Grade => (GRADE_RANK[a] <= GRADE_RANK[b] ? a : b);

export function sameValue(a: Value, b: Value): boolean {
	if (a === b) return true;
	if (a === null || b === null || typeof a !== 'object' || typeof b !== 'object') {
		// Whole numbers in a real column are stored as integers; a bigint and a number can be the same.
		return (typeof a === 'bigint' || typeof b === 'bigint') && a !== null && b !== null && typeof a !== 'object' && typeof b !== 'object' && typeof a !== 'string' && typeof b !== 'string' && a == b;
	}
	if (a.length !== b.length) return false;
	for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
	return true;
}

/** Whether every value that both have is the same; a cut value need only begin like the other. */
export function agrees(a: Row, b: Row): boolean {
	const count = Math.min(a.values.length, b.values.length);
	let shared = 0;
	for (let k = 0; k < count; k++) {
		const x = a.values[k];
		const y = b.values[k];
		if (x === undefined || y === undefined) continue;
		if (k === a.cut || k === b.cut) {
			if (typeof x !== 'string' || typeof y !== 'string') return false;
			if (k === a.cut ? !y.startsWith(x) : !x.startsWith(y)) return false;
		} else if (!sameValue(x, y)) return false;
		if (x !== null) shared++;
	}
	return shared > 0;
}

/** The text and number by which a row without a rowid is looked up; the first stored column may be lost, so it is left out. */
function contentKeys(row: Row): { full: string; number: string; prefix: string } {
	let text = '';
	let number = 0;
	let cut = '';
	for (let k = 1; k < row.values.length; k++) {
		const value = row.values[k];
		if (typeof value === 'string') {
			if (k === row.cut) cut = value;
			else if (value.length > text.length) text = value;
		} else if (typeof value === 'number' || typeof value === 'bigint') {
			const n = Math.abs(Number(value));
			if (n > number) number = n;
		}
	}
	const longest = cut || text;
	return { full: `${text} ${number}`, number: String(number), prefix: longest.slice(0, 10) };
}

type RowidMap = Map<number | bigint, Row[]>;

export class RowBook {
	readonly rows: Row[] = [];
	private readonly perTable: Row[][] = [];
	private readonly byRowid: (RowidMap | undefined)[] = [];
	private readonly byContent: ({ full: Map<string, Row[]>; number: Map<string, Row[]>; prefix: Map<string, Row[]>; upTo: number } | undefined)[] = [];
	/** Sightings already taken, by file and offset, for lost rows. */
	private readonly seenAt = new Set<string>();

	/** A row in use. */
	addKept(row: Row): void {
		this.push(row);
	}

	rowsOf(table: number): readonly Row[] {
		return this.perTable[table] ?? [];
	}

	/**
	 * A lost row: becomes a sighting of a row already known in one of `tables` (its own first), or a new row.
	 * Returns the row it now is, or null where the same bytes were taken before.
	 */
	addLost(row: Row, tables: readonly number[]): Row | null {
		const sighting = row.sightings[0]!;
		const place = `${sighting.file}:${sighting.offset}`;
		if (this.seenAt.has(place)) return null;
		this.seenAt.add(place);
		const order = [row.table, ...tables.filter((t) => t !== row.table)];
		for (const table of order) {
			const match = this.match(row, table);
			if (match) {
				this.join(match, row);
				if (!match.tableKnown && row.tableKnown) {
					match.table = row.table;
					match.tableKnown = true;
				}
				return match;
			}
		}
		this.push(row);
		return row;
	}

	/** How many of these lost rows are copies of rows known in `table`: says whose page it was. */
	votes(rows: readonly Row[], table: number): number {
		return rows.filter((row) => row.rowid !== null && (this.rowidMap(table).get(row.rowid) ?? []).some((known) => agrees(known, row))).length;
	}

	private match(row: Row, table: number): Row | null {
		if (row.rowid !== null) {
			const known = this.rowidMap(table).get(row.rowid);
			const found = known?.find((k) => agrees(k, row));
			if (found) return found;
			// A whole row with a rowid of its own is another row than one seen without rowid only if they differ.
			return this.matchContent(row, table, true);
		}
		return this.matchContent(row, table, false);
	}

	private matchContent(row: Row, table: number, onlyWithoutRowid: boolean): Row | null {
		const index = this.contentIndex(table);
		const keys = contentKeys(row);
		const lists = row.grade === 'fragment' ? [index.number.get(keys.number), keys.prefix.length >= 6 ? index.prefix.get(keys.prefix) : undefined] : [index.full.get(keys.full), index.number.get(keys.number)];
		for (const list of lists) {
			if (!list) continue;
			for (let i = 0; i < list.length && i < COMPARE_LIMIT; i++) {
				const known = list[i]!;
				if (onlyWithoutRowid && known.rowid !== null) continue;
				if (agrees(known, row)) return known;
			}
		}
		return null;
	}

	private join(known: Row, again: Row): void {
		const better = GRADE_RANK[again.grade] < GRADE_RANK[known.grade];
		if (better) {
			known.values = known.values.map((v, k) => (again.values[k] !== undefined ? again.values[k] : v));
			known.cut = again.cut;
		} else {
			known.values = known.values.map((v, k) => (v === undefined ? again.values[k] : v));
		}
		if (known.rowid === null && again.rowid !== null) {
			known.rowid = again.rowid;
			const map = this.byRowid[known.table];
			if (map) addTo(map, again.rowid, known);
		}
		known.standing = betterStanding(known.standing, again.standing);
		known.grade = betterGrade(known.grade, again.grade);
		for (const sighting of again.sightings) addSighting(known, sighting);
	}

	private push(row: Row): void {
		this.rows.push(row);
		(this.perTable[row.table] ??= []).push(row);
		const map = this.byRowid[row.table];
		if (map && row.rowid !== null) addTo(map, row.rowid, row);
	}

	private rowidMap(table: number): RowidMap {
		let map = this.byRowid[table];
		if (!map) {
			map = new Map();
			for (const row of this.perTable[table] ?? []) if (row.rowid !== null) addTo(map, row.rowid, row);
			this.byRowid[table] = map;
		}
		return map;
	}

	private contentIndex(table: number): NonNullable<(typeof this.byContent)[number]> {
		const index = (this.byContent[table] ??= { full: new Map(), number: new Map(), prefix: new Map(), upTo: 0 });
		const rows = this.perTable[table] ?? [];
		for (; index.upTo < rows.length; index.upTo++) {
			const row = rows[index.upTo]!;
			const keys = contentKeys(row);
			addTo(index.full, keys.full, row);
			addTo(index.number, keys.number, row);
			if (keys.prefix.length >= 6) addTo(index.prefix, keys.prefix, row);
		}
		return index;
	}
}

export function addSighting(row: { sightings: Sighting[]; moreSightings?: number }, sighting: Sighting): void {
	if (row.sightings.some((s) => s.file === sighting.file && s.offset === sighting.offset)) return;
	if (row.sightings.length >= SIGHTINGS_KEPT) row.moreSightings = (row.moreSightings ?? 0) + 1;
	else row.sightings.push(sighting);
}

function addTo<K>(map: Map<K, Row[]>, key: K, row: Row): void {
	const list = map.get(key);
	if (list) list.push(row);
	else map.set(key, [row]);
}

/** Days and times of day that stand in two columns, or in a column for each of their parts: together the time of a row. */
import type { Row, Value } from '../model';

/** Rows from which it is told, share of them that must fit, and days that must differ from each other. */
const ROWS = 400;
const LEAST = 4;
const NEARLY_ALL = 0.97;

const DAY_TEXT = /^\s*(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})\s*$/;
const DAY_FIRST = /^\s*(\d{1,2})[./-](\d{1,2})[./-](\d{4})\s*$/;
const CLOCK_TEXT = /^\s*(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d{1,9})?)?\s*$/;
const EARLIEST = 1996;
const LATEST = 2036;

type Parts = readonly [number, number, number];
/** How the values of a column become three numbers: year, month, day, or hours, minutes, seconds. */
type Reader = (value: Value | undefined) => Parts | null;

const three = (m: RegExpExecArray | null): Parts | null => m && [Number(m[1]), Number(m[2]), Number(m[3] ?? 0)];
const wholeIn = (value: Value | undefined): number | null =>
	typeof value === 'number' && Number.isInteger(value) && value >= 0
		? value
		: typeof value === 'string' && /^\d{1,8}$/.test(value)
			? Number(value)
			: null;
/** Three numbers written as one, two digits for each of the last two. */
const digits = (value: Value | undefined): Parts | null => {
	const n = wholeIn(value);
	return n === null ? null : [Math.floor(n / 10_000), Math.floor(n / 100) % 100, n % 100];
};

const isDay = ([year, month, day]: Parts): boolean =>
	year >= EARLIEST && year <= LATEST && month >= 1 && month <= 12 && day >= 1 && day <= 31;
const isClock = ([hours, minutes, seconds]: Parts): boolean => hours < 24 && minutes < 60 && seconds < 60;

/** Days that are written as such: they are days also where all rows are of one. */
const WRITTEN_DAYS: readonly Reader[] = [
	(v) => (typeof v === 'string' ? three(DAY_TEXT.exec(v)) : null),
	(v) => {
		const [day, month, year] = (typeof v === 'string' ? three(DAY_FIRST.exec(v)) : null) ?? [0, 0, 0];
		return [year, month, day];
	},
	(v) => {
		const [month, day, year] = (typeof v === 'string' ? three(DAY_FIRST.exec(v)) : null) ?? [0, 0, 0];
		return [year, month, day];
	}
];
const DAYS: readonly Reader[] = [...WRITTEN_DAYS, digits];
/** Days since 1970, in UTC. */
const dayNumber: Reader = (v) => {
	const n = wholeIn(v);
	if (n === null || n * DAY_MS < Date.UTC(EARLIEST, 0) || n * DAY_MS > Date.UTC(LATEST, 11, 31)) return null;
	const date = new Date(n * DAY_MS);
	return [date.getUTCFullYear(), date.getUTCMonth() + 1, date.getUTCDate()];
};
const DAY_MS = 86_400_000;

/** Seconds of the day. */
const secondOfDay: Reader = (v) => {
	const n = wholeIn(v);
	return n === null || n >= 86_400 ? null : [Math.floor(n / 3600), Math.floor(n / 60) % 60, n % 60];
};
const CLOCKS: readonly Reader[] = [(v) => (typeof v === 'string' ? three(CLOCK_TEXT.exec(v)) : null), digits, secondOfDay];

/** The reader under which nearly all values are what `fits` asks for; null where there is none, or hardly a value. */
function readerOf(values: readonly (Value | undefined)[], readers: readonly Reader[], fits: (parts: Parts) => boolean): Reader | null {
	const filled = values.filter((v) => v !== null && v !== undefined && v !== '');
	if (filled.length < Math.max(LEAST, values.length * NEARLY_ALL)) return null;
	const usable = new Set(filled).size > 1 ? readers : readers.filter((read) => WRITTEN_DAYS.includes(read));
	return (
		usable.find((read) => {
			const fitting = filled.filter((v) => {
				const parts = read(v);
				return parts !== null && fits(parts);
			});
			return fitting.length >= filled.length * NEARLY_ALL;
		}) ?? null
	);
}

/** What two columns of a table say together. */
export interface DayAndClock {
	day: number;
	clock: number;
	/** The time as written, or undefined where a part of it is lost. */
	read(row: Row): string | undefined;
}

/** Two columns of a table of which one holds days and the other times of day, both in nearly every row. */
export function dayAndClock(rows: readonly Row[], columns: number): DayAndClock | null {
	const sample = rows.slice(0, ROWS);
	const readers = (list: readonly Reader[], fits: (parts: Parts) => boolean): Part[] =>
		Array.from({ length: columns }, (_, column) => ({
			column,
			read: readerOf(
				sample.map((r) => r.values[column]),
				list,
				fits
			)
		})).flatMap(({ column, read }) => (read ? [{ column, read }] : []));
	const [day] = readers(DAYS, isDay);
	// Small numbers can be anything: as times of day they must stand behind a day, and go far into it.
	const clock = day && readers(CLOCKS, isClock).find((c) => c.column !== day.column && goesFar(sample, c.column, c.read));
	return day && clock ? together(day, clock) : (counted(rows, sample, readers) ?? inParts(sample, columns));
}

/** What the numbers of a day and a clock can be. */
const PARTS = {
	year: [EARLIEST, LATEST],
	month: [1, 12],
	day: [1, 31],
	hours: [0, 23],
	minutes: [0, 59],
	seconds: [0, 59]
} as const;
type PartName = keyof typeof PARTS;
const ORDERS: readonly (readonly PartName[])[] = [
	['year', 'month', 'day', 'hours', 'minutes', 'seconds'],
	['day', 'month', 'year', 'hours', 'minutes', 'seconds'],
	['year', 'month', 'day', 'hours', 'minutes'],
	['day', 'month', 'year', 'hours', 'minutes']
];
/** Minutes that must differ, of few rows share of them. */
const MINUTES = 8;

/** A number for each part of a day and of its clock, in columns that follow each other. */
function inParts(sample: readonly Row[], columns: number): DayAndClock | null {
	const fits = (column: number, part: PartName): boolean => {
		const [least, most] = PARTS[part];
		const values = sample.map((row) => wholeIn(row.values[column]));
		const fitting = values.filter((n) => n !== null && n >= least && n <= most).length;
		return fitting >= LEAST && fitting >= values.length * NEARLY_ALL;
	};
	for (const order of ORDERS)
		for (let first = 0; first + order.length <= columns; first++) {
			if (!order.every((part, i) => fits(first + i, part))) continue;
			const at = (part: PartName): number => first + order.indexOf(part);
			const minutes = new Set(sample.map((row) => row.values[at('minutes')])).size;
			if (minutes < Math.min(MINUTES, sample.length / 2)) continue;
			const partsOf = (row: Row, ...parts: PartName[]): Parts =>
				parts.map((part) => (order.includes(part) ? (wholeIn(row.values[at(part)]) ?? NaN) : 0)) as unknown as Parts;
			const read = (row: Row): string | undefined =>
				written(partsOf(row, 'year', 'month', 'day'), partsOf(row, 'hours', 'minutes', 'seconds'), '');
			return { day: at('year'), clock: at('hours'), read };
		}
	return null;
}

const pad = (n: number): string => String(n).padStart(2, '0');
const written = (day: Parts | null, clock: Parts | null, zone: string): string | undefined =>
	day && clock && isDay(day) && isClock(clock) ? `${day[0]}-${pad(day[1])}-${pad(day[2])} ${clock.map(pad).join(':')}${zone}` : undefined;

/** Days since 1970 beside seconds of the day: numbers of any kind, told by growing one within the other from row to row. */
function counted(
	rows: readonly Row[],
	sample: readonly Row[],
	readers: (list: readonly Reader[], fits: (parts: Parts) => boolean) => Part[]
): DayAndClock | null {
	const days = readers([dayNumber], isDay);
	if (days.length === 0) return null;
	for (const clock of readers([secondOfDay], isClock).filter((c) => goesFar(sample, c.column, c.read)))
		for (const day of days)
			if (day.column !== clock.column && growTogether(rows, day.column, clock.column)) return together(day, clock, 'Z');
	return null;
}

/** Whether of rows in their order days hardly ever go back, and within a day seconds hardly ever do. */
function growTogether(rows: readonly Row[], day: number, clock: number): boolean {
	const inOrder = rows
		.filter((row) => row.standing === 'kept' && row.rowid !== null)
		.slice(0, ROWS)
		.sort((a, b) => Number(a.rowid) - Number(b.rowid));
	let [later, back, within, again] = [0, 0, 0, 0];
	for (const [i, row] of inOrder.entries()) {
		if (i === 0) continue;
		const before = inOrder[i - 1]!;
		const [days, seconds] = [day, clock].map((c) => Number(row.values[c]) - Number(before.values[c]));
		if (days === 0) {
			within++;
			if (seconds! < 0) again++;
		} else if (days! > 0) later++;
		else back++;
	}
	return later >= LATER && back <= (later + back) * SELDOM && within >= WITHIN && again <= within * SELDOM;
}
const LATER = 3;
const WITHIN = 5;
const SELDOM = 0.05;

interface Part {
	column: number;
	read: Reader;
}

/** `zone`: that of the days, where they say it. */
function together(day: Part, clock: Part, zone = ''): DayAndClock {
	return {
		day: day.column,
		clock: clock.column,
		read: (row) => written(day.read(row.values[day.column]), clock.read(row.values[clock.column]), zone)
	};
}

/** Whether times of day differ by hours: counts and sizes are small, and alike. */
const goesFar = (rows: readonly Row[], column: number, read: Reader): boolean => {
	const hours = new Set(rows.flatMap((row) => read(row.values[column])?.[0] ?? []));
	return hours.size >= Math.min(FAR, rows.length / 2);
};
const FAR = 4;

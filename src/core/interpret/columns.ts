/** How much a column is like the texts, the times, the addresses or the names of messages and persons: told from its values. */
import { isFullName } from '../called';
import type { Row, Table } from '../model';
import { distinctKey } from './profile';
import type { Guess, MessageReading } from './reading';
import { cell, type Sheet, type SheetColumn } from './sheet';
import { timeOf } from './time';

export const TABLE_NAME = -1;

export const TEXT_HINT = /(^|[^a-z])(text|body|content|message|msg|caption|txt)([^a-z]|$)/i;

const TIME_HINT = /sent|date|time|stamp|created|when|ts$|^ts/i;

const LATER_HINT = /read|deliver|recei|edit|modif|updat|expire|last|server|seen|play/i;

/** How much a column is like the texts of messages. */
export function textScore(column: SheetColumn, rows: number): { score: number; why: string[] } {
	const p = column.profile;
	if (p.texts < Math.max(1, p.filled * 0.9) || p.json > 0.3 || p.time || column.column === TABLE_NAME || areMixedKeys(column))
		return { score: -1, why: [] };
	const why: string[] = [];
	const varied = p.many ? 1 : p.distinct.size / Math.max(1, p.texts);
	let score = p.prose * 3 + varied * 1.5 + Math.min(1, p.averageLength / 40);
	score -= (p.phone + p.email + p.uuid + p.mime + p.digest) * 3 + p.path * 2 + Math.max(0, p.token - 0.5) * 2;
	if (p.prose > 0.3) why.push(`${Math.round(p.prose * 100)} % of its values read as sentences`);
	if (varied > 0.5) why.push(`${p.many ? 'nearly all' : Math.round(varied * 100) + ' %'} of its values differ`);
	if (p.filled < rows * 0.3) score -= 1.5;
	if (TEXT_HINT.test(column.name)) {
		score += 0.8;
		why.push('its name speaks of text');
	}
	if (p.name > 0.85 && p.prose > 0.3 && p.averageLength < 24 && !TEXT_HINT.test(column.name)) score -= 1.2;
	return { score, why };
}

/** Whether each value is a key of its own, of letters and digits without a blank (`im5kqthyko79ep`). */
function areMixedKeys({ profile: p }: SheetColumn): boolean {
	if (p.token < MIXED || !(p.many || p.distinct.size >= p.filled * MIXED)) return false;
	const values = [...p.distinct.keys()].slice(0, KEYS_READ).map(String);
	// Of few it shows where they are long.
	const isKey = (v: string): boolean => UUID_WITHIN.test(v) || (MIXED_KEY.test(v) && (p.texts >= KEYS_LEAST || v.length >= LONG_KEY));
	return values.length > 0 && values.filter(isKey).length >= values.length * MIXED;
}
/** Some programs put a sign before their keys. */
const MIXED_KEY = /^[$!#]?(?=.*\d)(?=.*[a-z])(?!.*[a-z]{2}[_.-][a-z]{2})[\w.:@+\-=]{10,}$/i;
const LONG_KEY = 24;
/** RFC 9562, 4. */
const UUID_WITHIN = /^\S*[\da-f]{8}(?:-[\da-f]{4}){3}-[\da-f]{12}\S*$/i;
const MIXED = 0.9;
const KEYS_LEAST = 8;
const KEYS_READ = 100;

export function bestText(sheet: Sheet): Guess<SheetColumn> | null {
	const ranked = sheet.columns.map((column) => ({ column, ...textScore(column, sheet.sure.length) })).sort((a, b) => b.score - a.score);
	const best = ranked[0];
	if (!best || best.score < TEXT_LEAST) return null;
	const first =
		ranked.find(
			(other) =>
				other !== best &&
				other.score >= TEXT_LEAST &&
				(isSaidOtherwise(best.column, other.column, sheet) || isSaidAgain(best.column, other.column, sheet))
		) ?? best;
	return {
		value: first.column,
		confidence: Math.min(1, first.score / 5),
		evidence: first.why,
		...(ranked[1] && ranked[1].score > 0.5 ? { runnerUp: ranked[1].column.name } : {})
	};
}

const TEXT_LEAST = 1.1;

/** Whether a column says again, in some rows, what another says in all of them that are written: in another language, say. */
function isSaidOtherwise(column: SheetColumn, of: SheetColumn, { sure }: Sheet): boolean {
	const [some, all] = [column.profile, of.profile];
	if (column === of || some.filled * FILLED_MORE > all.filled || all.averageLength < some.averageLength * AS_LONG) return false;
	const isIn = (row: Row, c: SheetColumn): boolean => ![null, undefined, ''].includes(cell(row, c, []) as string | null | undefined);
	const rows = sure.slice(0, AGAIN_ROWS);
	return all.distinct.size >= all.filled * AGAIN_VARIED && rows.every((row) => !isIn(row, column) || isIn(row, of));
}
const FILLED_MORE = 1.5;
const AS_LONG = 0.4;
const AGAIN_ROWS = 1000;
const AGAIN_VARIED = 0.6;

/** Whether a column says in some rows what another said in rows that are more: the words of the message that is answered. */
function isSaidAgain(column: SheetColumn, of: SheetColumn, { sure }: Sheet): boolean {
	if (column.profile.filled * FILLED_MORE > of.profile.filled) return false;
	const said = new Set<string | number>();
	for (const row of sure) {
		const value = cell(row, of, []);
		if (typeof value === 'string') said.add(distinctKey(value));
	}
	const again = [...column.profile.distinct.keys()].slice(0, AGAIN_READ);
	return again.length >= AGAIN_LEAST && again.filter((value) => said.has(value)).length >= again.length * AGAIN_SHARE;
}
const AGAIN_READ = 200;
const AGAIN_LEAST = 3;
const AGAIN_SHARE = 0.8;

const DAY = 86_400_000;
/** Rows from which it shows that times are days without an hour. */
const DAYS_TOLD = 200;

/** Whether all times of a column are midnight: another column may have the hour. */
function areDays(rows: readonly Row[], column: SheetColumn, tables: readonly Table[]): boolean {
	const reading = column.profile.time!;
	return rows.slice(0, DAYS_TOLD).every((row) => {
		const at = timeOf(cell(row, column, tables), reading);
		return at === null || at % DAY === 0;
	});
}

/** The time of sending among a sheet's time columns: filled in nearly every row, in the order of the record numbers, earliest in the row. */
export function bestTime(sheet: Sheet, tables: readonly Table[]): MessageReading['time'] {
	const times = sheet.columns.filter((c) => c.profile.time && c.profile.filled >= sheet.sure.length * 0.2);
	if (times.length === 0) return null;
	const scored = times.map((column) => {
		const p = column.profile;
		let score = p.time!.score + (p.filled / Math.max(1, sheet.sure.length)) * 2;
		score += ascending(sheet.sure, column, tables);
		score += Math.min(1, p.distinct.size / Math.max(1, p.filled)) * 0.8;
		const name = column.name.split('.').at(-1)!;
		if (TIME_HINT.test(name)) score += 0.4;
		if (/sent|creat/i.test(name)) score += 0.3;
		if (LATER_HINT.test(name)) score -= 0.7;
		const zeros = p.distinct.get(0) ?? 0;
		score -= (zeros / Math.max(1, p.filled)) * 2;
		if (times.length > 1 && areDays(sheet.sure, column, tables)) score -= 1.5;
		return { column, score };
	});
	scored.sort((a, b) => b.score - a.score);
	let best = scored[0]!;
	// Of two equally good ones the earlier within the row is the sending.
	for (const other of scored.slice(1)) {
		if (other.score > best.score - 0.45 && earlier(sheet.sure, other.column, best.column, tables)) best = other;
	}
	const reading = best.column.profile.time!;
	return {
		value: best.column,
		confidence: Math.min(1, best.score / 6),
		evidence: [
			`its values are times as ${reading.label}`,
			`${Math.round((best.column.profile.filled / sheet.sure.length) * 100)} % of the rows have one`
		],
		...(scored.length > 1 ? { runnerUp: scored.find((s) => s !== best)!.column.name } : {}),
		reading
	};
}

function ascending(rows: readonly Row[], column: SheetColumn, tables: readonly Table[]): number {
	let up = 0;
	let pairs = 0;
	let last: number | null = null;
	for (const row of rows.slice(0, 2000)) {
		if (row.standing !== 'kept') continue;
		const value = cell(row, column, tables);
		const n = typeof value === 'number' || typeof value === 'bigint' ? Number(value) : typeof value === 'string' ? Date.parse(value) : NaN;
		if (Number.isNaN(n)) continue;
		if (last !== null) {
			pairs++;
			if (n >= last) up++;
		}
		last = n;
	}
	return pairs > 5 ? up / pairs : 0.5;
}

function earlier(rows: readonly Row[], a: SheetColumn, b: SheetColumn, tables: readonly Table[]): boolean {
	if (a.profile.time!.label !== b.profile.time!.label) return false;
	let less = 0;
	let more = 0;
	for (const row of rows.slice(0, 1000)) {
		const x = timeOf(cell(row, a, tables), a.profile.time!);
		const y = timeOf(cell(row, b, tables), b.profile.time!);
		if (x === null || y === null) continue;
		if (x < y) less++;
		else if (x > y) more++;
	}
	return less > more * 3 && less > 3;
}

/** Share of a column's texts that are numbers or mail addresses: a store can hold both side by side. */
export const addressShare = (c: SheetColumn): number => c.profile.phone + c.profile.email;

export const isHandleLike = (c: SheetColumn): boolean => {
	const p = c.profile;
	return (
		p.texts >= p.filled * 0.9 &&
		p.texts > 0 &&
		!p.time &&
		p.mime < 0.3 &&
		p.uuid < 0.5 &&
		!areColours(c) &&
		(addressShare(c) > 0.5 || (p.token > 0.8 && p.averageLength >= 2 && p.averageLength < 60))
	);
};

/** Whether all values are colours as style sheets write them. */
const areColours = ({ profile }: SheetColumn): boolean =>
	[...profile.distinct.keys()].every((v) => /^#(?:[0-9a-f]{3,4}){1,2}$/i.test(String(v)));

/** Whether the values are a digest or a random number, with letters before it: no names. */
export function areDigestKeys({ profile }: SheetColumn): boolean {
	const values = [...profile.distinct.keys()].map(String);
	return (
		values.length > 0 && values.filter((v) => /[0-9a-f]{10}/i.test(v) && /\d/.test(v) && /[a-f]/i.test(v)).length >= values.length * 0.8
	);
}

/** Whether the values are letters with a number, as a program names its rows: no one's name, where a number or address is there. */
export function areKeys({ profile }: SheetColumn): boolean {
	const values = [...profile.distinct.keys()].map(String);
	return values.length > 0 && values.filter((v) => /^\p{L}{0,12}[-_:.#]?\d+$/u.test(v)).length >= values.length * 0.8;
}

export const nameScore = (c: SheetColumn): number =>
	c.profile.name +
	(/name|nick|title|label/i.test(c.name) ? 0.6 : 0) +
	(c.profile.distinct.size / Math.max(1, c.profile.filled)) * 0.5 +
	c.profile.prose * 0.4 -
	Math.max(0, c.profile.token - 0.7);

/** Times written as digits look like numbers of telephones, but hardly one comes twice. */
export const isFurtherTime = (c: SheetColumn): boolean => c.profile.time !== null && c.profile.distinct.size > c.profile.filled * 0.5;

/** Whether all of many rows have one and the same value (blobs are not counted by value). */
export const isConstant = (c: SheetColumn, sheet: Sheet): boolean =>
	c.profile.blobs === 0 && c.profile.distinct.size < 2 && sheet.sure.length > CONSTANT_ROWS;
const CONSTANT_ROWS = 10;

/** Whether most of a column's values have a number in them: a key made of it, no name. */
export function containsAddresses(c: SheetColumn): boolean {
	const values = [...c.profile.distinct.keys()].slice(0, 200);
	return values.filter((v) => /\d{6}|@/.test(String(v))).length > values.length * 0.5;
}

/** Names with a number each ("Tablet 2"): devices and rooms are called so, persons hardly are. */
export const areCounted = ({ profile }: SheetColumn): boolean => {
	const values = [...profile.distinct.keys()].slice(0, COUNTED_READ).map(String);
	return values.filter((v) => /\p{L}\s\d+$/u.test(v)).length > values.length * COUNTED;
};
const COUNTED_READ = 200;
const COUNTED = 0.8;

/** Two words or more with a capital each, or in letters that have none: most of a column's values. */
export function areFullNames({ profile: p }: SheetColumn): boolean {
	const values = [...p.distinct.keys()].map(String);
	return values.length > 0 && values.filter(isFullName).length * 2 > values.length;
}

/** Whether a stored column has one text in each row that is filled, which comes back in others: a key of conversations, or of persons. */
export const recurs = ({ column, path, made, body, profile: p }: SheetColumn, { sure }: Sheet): boolean =>
	column >= 0 &&
	path.length === 0 &&
	!made &&
	!body &&
	!p.time &&
	!p.many &&
	p.texts === p.filled &&
	p.distinct.size <= sure.length * COMES_BACK;
const COMES_BACK = 0.6;

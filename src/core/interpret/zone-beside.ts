/** Times as the clock on the wall showed them, with a column beside them that says how far that was from UTC, or in which zone. */
import type { Value } from '../model';
import { wallTimeToUtc } from '../walltime';
import { isZoneName } from '../zones';
import type { SheetColumn } from './sheet';
import { timeOf } from './time';

const NAMED = /offset|zone|utc|gmt|(?:^|_)tz(?:_|$)/i;
const LEAST = 3;
const FURTHEST = 14 * 60;
const MINUTES = 60_000;

/** Minutes east of UTC that a value says; null where it says none. */
type Reader = (value: Value | undefined) => number | null;

const CLOCK = /^\s*(?:UTC|GMT)?\s*([+-])(\d{1,2}):?(\d{2})?\s*$/i;
const written: Reader = (value) => {
	const [, sign, hours, minutes] = (typeof value === 'string' ? CLOCK.exec(value) : null) ?? [];
	return sign === undefined ? null : (sign === '-' ? -1 : 1) * (Number(hours) * 60 + Number(minutes ?? 0));
};
const counted =
	(unit: number): Reader =>
	(value) =>
		typeof value === 'number' ? value * unit : null;
/** Minutes, seconds, hours, and milliseconds, in that order. */
const READERS: readonly Reader[] = [written, counted(1), counted(1 / 60), counted(60), counted(1 / MINUTES)];

const isOffset = (minutes: number | null): boolean =>
	minutes !== null && Number.isInteger(minutes) && minutes % 15 === 0 && Math.abs(minutes) <= FURTHEST;

/** The column of offsets beside one of times that state no zone, and how a row's time in UTC (ms) is read from the two. */
export function zoneBeside(
	time: SheetColumn,
	columns: readonly SheetColumn[],
	valuesOf: (column: SheetColumn) => readonly (Value | undefined)[]
): { offset: SheetColumn; inUtc: (time: Value | undefined, offset: Value | undefined) => number | null } | null {
	const reading = time.profile.time;
	if (!reading || reading.kind !== 'text' || reading.zoned || reading.dates) return null;
	for (const offset of columns) {
		if (offset === time || !NAMED.test(offset.name) || offset.profile.time || offset.profile.distinct.size > 40) continue;
		const values = valuesOf(offset).filter((value) => value !== null && value !== undefined);
		if (values.length >= LEAST && values.every((value) => typeof value === 'string' && isZoneName(value)))
			return {
				offset,
				inUtc: (value, beside) => {
					const at = timeOf(value, reading);
					return at === null || typeof beside !== 'string' || !isZoneName(beside) ? null : inUtcFrom(at, beside);
				}
			};
		const read = values.length < LEAST ? undefined : READERS.find((reader) => values.every((value) => isOffset(reader(value))));
		if (!read) continue;
		return {
			offset,
			inUtc: (value, beside) => {
				const [at, minutes] = [timeOf(value, reading), read(beside)];
				return at === null || minutes === null ? null : at - minutes * MINUTES;
			}
		};
	}
	return null;
}

/** What was asked of a zone within one quarter of an hour by the wall's clock is one answer. */
const QUARTER = 15 * MINUTES;
const KEPT = 50_000;
const offsets = new Map<string, number>();
function inUtcFrom(wall: number, zone: string): number {
	const key = `${zone} ${Math.floor(wall / QUARTER)}`;
	const known = offsets.get(key) ?? wall - wallTimeToUtc(wall, zone);
	if (offsets.size < KEPT) offsets.set(key, known);
	return wall - known;
}

/** Times as shown: one zone per case, always stated. */
import { offsetAt } from '$core/zones';

const cache = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, key: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
	const id = `${zone}|${key}`;
	let f = cache.get(id);
	if (!f) cache.set(id, (f = new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options })));
	return f;
}

export const timeOfDay = (ms: number, zone: string): string =>
	format(zone, 't', { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' }).format(ms);
export const timeWithSeconds = (ms: number, zone: string): string =>
	format(zone, 's', { hour: '2-digit', minute: '2-digit', second: '2-digit', hourCycle: 'h23' }).format(ms);
export const longDay = (ms: number, zone: string): string =>
	format(zone, 'd', { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' }).format(ms);
export const shortDay = (ms: number, zone: string): string =>
	format(zone, 'm', { day: 'numeric', month: 'short', year: 'numeric' }).format(ms);

/** "UTC+1" at that instant. */
export function offsetName(ms: number, zone: string): string {
	const part = format(zone, 'o', { timeZoneName: 'shortOffset' })
		.formatToParts(ms)
		.find((p) => p.type === 'timeZoneName');
	return (part?.value ?? 'UTC').replace('GMT', 'UTC');
}

const DAY = 86_400_000;
const offsets = new Map<string, number>();

function offsetOnDay(day: number, zone: string): number {
	const id = `${zone}|${day}`;
	let offset = offsets.get(id);
	if (offset === undefined) offsets.set(id, (offset = offsetAt(day * DAY, zone)));
	return offset;
}

let lastDay = NaN;
let lastZone = '';
let lastOffset: number | null = null;

/** Days since 1970 of the zone's calendar. Asks the slow formatter once a day, and oftener only where clocks change. */
export function localDay(ms: number, zone: string): number {
	const day = Math.floor(ms / DAY);
	// Messages come in order: mostly the day is that of the one before.
	if (day === lastDay && zone === lastZone && lastOffset !== null) return Math.floor((ms + lastOffset) / DAY);
	const offset = offsetOnDay(day, zone);
	const steady = offset === offsetOnDay(day + 1, zone);
	lastDay = day;
	lastZone = zone;
	lastOffset = steady ? offset : null;
	return Math.floor((ms + (steady ? offset : offsetAt(ms, zone))) / DAY);
}

export const localZone = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC';

/** A named zone's distance from UTC. The formatter is slow to make and to ask: callers keep what they were told. */

const formats = new Map<string, Intl.DateTimeFormat>();

/** ms to add to UTC for the zone's wall clock at that instant. RangeError where there is no such zone. */
export function offsetAt(utc: number, zone: string): number {
	let format = formats.get(zone);
	if (!format) {
		format = new Intl.DateTimeFormat('en-GB', {
			timeZone: zone,
			year: 'numeric',
			month: 'numeric',
			day: 'numeric',
			hour: 'numeric',
			minute: 'numeric',
			second: 'numeric',
			hourCycle: 'h23'
		});
		formats.set(zone, format);
	}
	const part: Record<string, number> = {};
	for (const { type, value } of format.formatToParts(utc)) if (type !== 'literal') part[type] = Number(value);
	return Date.UTC(part.year!, part.month! - 1, part.day!, part.hour!, part.minute!, part.second!) - Math.floor(utc / 1000) * 1000;
}

const NAME = /^(?:UTC|[A-Z][A-Za-z]+\/[A-Z][\w+-]*(?:\/[A-Z][\w+-]*)?)$/;
const names = new Map<string, boolean>();

/** Whether a text is the name of a time zone (IANA time zone database), as `Europe/Paris`. */
export function isZoneName(text: string): boolean {
	if (text.length > 40 || !NAME.test(text)) return false;
	let known = names.get(text);
	if (known === undefined) {
		try {
			known = new Intl.DateTimeFormat('en', { timeZone: text }).resolvedOptions().timeZone !== '';
		} catch {
			known = false;
		}
		if (names.size < KEPT) names.set(text, known);
	}
	return known;
}
const KEPT = 2000;

/** Wall time in a named zone to UTC, for sources that state none. */

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string): Intl.DateTimeFormat {
	let f = formats.get(zone);
	if (!f) {
		try {
			f = new Intl.DateTimeFormat('en-GB', {
				timeZone: zone,
				year: 'numeric',
				month: 'numeric',
				day: 'numeric',
				hour: 'numeric',
				minute: 'numeric',
				second: 'numeric',
				hourCycle: 'h23'
			});
		} catch {
			throw new RangeError(`--zone: there is no time zone "${zone}". Give an IANA name such as Europe/Brussels.`);
		}
		formats.set(zone, f);
	}
	return f;
}

/** Offset of the zone from UTC at an instant, in ms. */
function offsetAt(utc: number, zone: string): number {
	const part: Record<string, number> = {};
	for (const { type, value } of format(zone).formatToParts(utc)) if (type !== 'literal') part[type] = Number(value);
	return Date.UTC(part.year!, part.month! - 1, part.day!, part.hour!, part.minute!, part.second!) - Math.floor(utc / 1000) * 1000;
}

/** `wall` is the wall clock's reading as if it were UTC, in ms; the result is the instant. RangeError for an unknown zone. */
export function wallTimeToUtc(wall: number, zone: string): number {
	const first = wall - offsetAt(wall, zone);
	return wall - offsetAt(first, zone);
}

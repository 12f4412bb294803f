/** Times as records write them: date, time to the second, and the zone's offset, each stated. */

const formats = new Map<string, Intl.DateTimeFormat>();

function parts(ms: number, zone: string): Record<string, string> {
	let f = formats.get(zone);
	if (!f) {
		f = new Intl.DateTimeFormat('en-GB', {
			timeZone: zone,
			day: '2-digit',
			month: 'short',
			year: 'numeric',
			hour: '2-digit',
			minute: '2-digit',
			second: '2-digit',
			hourCycle: 'h23',
			timeZoneName: 'shortOffset'
		});
		formats.set(zone, f);
	}
	return Object.fromEntries(f.formatToParts(ms).map((p) => [p.type, p.value]));
}

export interface WrittenTime {
	/** 30 Jan 2025 */
	date: string;
	/** 18:44:16 */
	time: string;
	/** UTC+1 */
	offset: string;
}

export function writtenTime(ms: number, zone: string): WrittenTime {
	const p = parts(ms, zone);
	return {
		date: `${p.day} ${p.month} ${p.year}`,
		time: `${p.hour}:${p.minute}:${p.second}`,
		offset: (p.timeZoneName ?? 'UTC').replace('GMT', 'UTC')
	};
}

/** Every offset that occurs between two instants, in order: a record over the turn of the clocks has two. */
export function offsetsBetween(from: number, to: number, zone: string): string[] {
	const seen: string[] = [];
	const step = Math.max(86_400_000, (to - from) / 400);
	for (let at = from; at <= to + step; at += step) {
		const offset = writtenTime(Math.min(at, to), zone).offset;
		if (!seen.includes(offset)) seen.push(offset);
		if (at >= to) break;
	}
	return seen;
}

/** Times at the heads of lines as programs' logs have them: seconds or milliseconds since 1970, in UTC (POSIX, section 4.16). */
import type { Stamp } from './stamps';

const NUMBER = /^\s*[[(<]?(\d{10}|\d{13})(?:[.,](\d{1,6}))?[\])>]?(?=[\s,;|:])/;
/** From 1996 to 2035. */
const EARLIEST = 820_454_400_000;
const LATEST = 2_051_222_400_000;
const LEAST = 3;
const RISING = 0.9;

/** The stamps of lines that begin so, by line; none where the numbers do not go one way. */
export function epochStamps(plain: readonly string[]): Map<number, Stamp> {
	const found = new Map<number, Stamp>();
	const times: number[] = [];
	plain.forEach((line, i) => {
		const m = NUMBER.exec(line);
		if (!m) return;
		const at = m[1]!.length === 13 ? Number(m[1]) : Number(m[1]) * 1000 + Math.floor(Number(`0.${m[2] ?? 0}`) * 1000);
		if (at < EARLIEST || at > LATEST) return;
		times.push(at);
		found.set(i, stampOf(at, m[0]));
	});
	const ups = times.filter((at, k) => k > 0 && at >= times[k - 1]!).length;
	const downs = times.filter((at, k) => k > 0 && at <= times[k - 1]!).length;
	return times.length >= LEAST && Math.max(ups, downs) >= (times.length - 1) * RISING ? found : new Map();
}

function stampOf(at: number, written: string): Stamp {
	const date = new Date(at);
	return {
		from: written.length - written.trimStart().length,
		to: written.length,
		written: written.trim(),
		numbers: [date.getUTCFullYear(), date.getUTCMonth() + 1, date.getUTCDate()],
		digits: [4, 2, 2],
		month: '',
		time: at % 86_400_000,
		zone: 0,
		form: `epoch${written.replace(/\d+/g, '0').trim()}`,
		halfDays: false
	};
}

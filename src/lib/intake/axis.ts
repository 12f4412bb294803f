/** The shared time axis of the places: where an instant lies, in percent, and which days are named. */
import type { LossSpans, Ranked } from '$core/prospects';

const DAY = 86_400_000;

/** Days above which a day's name needs its year. */
const YEAR = 330;

export interface Axis {
	from: number;
	to: number;
	ticks: { at: number; x: number }[];
}

export const place = (axis: Axis, at: number): number => Math.max(0, Math.min(100, ((at - axis.from) / (axis.to - axis.from)) * 100));

/** Whether days on it need their years told. */
export const isLong = ({ from, to }: Axis): boolean => (to - from) / DAY > YEAR;

/** Spans the sent and lost spans, what the places hold, and today where that is near; null where no date is known. */
export function axisOf(spans: LossSpans, ranked: readonly Ranked[], today: number): Axis | null {
	const known = [
		spans.sent.from,
		spans.sent.to,
		spans.lost.from,
		// That they are missing by now says nothing of when they were lost.
		spans.lost.to !== null && Math.abs(spans.lost.to - today) < DAY ? null : spans.lost.to,
		...ranked.flatMap((r) => [r.taken.from, r.taken.to, r.place.source === null ? null : (r.place.span?.from ?? null)])
	].filter((n): n is number => n !== null);
	if (known.length === 0) return null;
	let from = Math.min(...known);
	let to = Math.max(...known);
	if (today > to && today - to < (to - from) * 0.5 + 30 * DAY) to = today;
	const room = Math.max(3 * DAY, (to - from) * 0.06);
	from -= room;
	to += room;
	const days = (to - from) / DAY;
	const step = days > 1500 ? 365 : days > 400 ? 91 : days > 120 ? 30 : days > 45 ? 14 : days > 14 ? 7 : 2;
	const ticks: Axis['ticks'] = [];
	for (let at = Math.ceil(from / DAY) * DAY; at < to; at += step * DAY) ticks.push({ at, x: ((at - from) / (to - from)) * 100 });
	return { from, to, ticks };
}

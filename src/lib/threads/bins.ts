/** Days gathered into bars for the ribbon. */
import type { ThreadRecord } from '$store';

type Day = ThreadRecord['days'][number];

export interface Bin {
	/** First day, and the day after the last, as days since 1970 UTC. */
	from: number;
	to: number;
	kept: number;
	binned: number;
	dropped: number;
	remnant: number;
	lost: number;
}

/** At most `most` bars of equal width over the range. */
export function bins(days: readonly Day[], range: [number, number] | null, most: number): Bin[] {
	if (!range) return [];
	const [first, last] = range;
	const width = Math.max(1, Math.ceil((last - first + 1) / most));
	const out: Bin[] = Array.from({ length: Math.ceil((last - first + 1) / width) }, (_, i) => ({
		from: first + i * width,
		to: first + (i + 1) * width,
		kept: 0,
		binned: 0,
		dropped: 0,
		remnant: 0,
		lost: 0
	}));
	for (const [day, kept, binned, dropped, remnant] of days) {
		const bin = out[Math.floor((day - first) / width)];
		if (!bin) continue;
		bin.kept += kept;
		bin.binned += binned;
		bin.dropped += dropped;
		bin.remnant += remnant;
		bin.lost += binned + dropped + remnant;
	}
	return out;
}

/** First and last day; a few days far from all others (a clock set wrong) do not stretch it. */
bins.range = (days: readonly Day[]): [number, number] | null => {
	if (days.length === 0) return null;
	const sorted = days.map((d) => d[0]).sort((a, b) => a - b);
	const low = sorted[Math.floor(sorted.length * 0.002)]!;
	const high = sorted[Math.ceil(sorted.length * 0.998) - 1]!;
	const slack = Math.max(30, (high - low) * 0.5);
	return [Math.max(sorted[0]!, Math.floor(low - slack)), Math.min(sorted.at(-1)!, Math.ceil(high + slack))];
};

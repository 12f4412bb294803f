/** How alike two wordings are. */

const WORDINGS = 0.4;

/** Whether two texts can be wordings of one message by what they share. */
export const areAlike = (a: string, b: string): boolean => similarity(a, b) >= WORDINGS;

/** 0–1: shared pairs of letters (Dice). */
function similarity(a: string, b: string): number {
	const pairs = (t: string): Map<string, number> => {
		const map = new Map<string, number>();
		for (let i = 0; i + 1 < Math.min(t.length, 2000); i++) {
			const pair = t.slice(i, i + 2).toLowerCase();
			map.set(pair, (map.get(pair) ?? 0) + 1);
		}
		return map;
	};
	const x = pairs(a);
	const y = pairs(b);
	let shared = 0;
	let total = 0;
	for (const [pair, n] of x) {
		shared += Math.min(n, y.get(pair) ?? 0);
		total += n;
	}
	for (const n of y.values()) total += n;
	return total === 0 ? 0 : (2 * shared) / total;
}

/** How alike two wordings are. */

const WORDINGS = 0.4;

/** Whether two texts can be wordings of one message by what they share. */
export function areAlike(a: string, b: string): boolean {
	const { shared, sizes } = sharedPairs(a, b);
	return sizes[0] + sizes[1] > 0 && (2 * shared) / (sizes[0] + sizes[1]) >= WORDINGS;
}

/** 0–1: how much of the shorter text is in the longer one, whatever their lengths. */
export function shareWithin(a: string, b: string): number {
	const { shared, sizes } = sharedPairs(a, b);
	const shorter = Math.min(...sizes);
	return shorter === 0 ? 0 : shared / shorter;
}

const LETTERS_COMPARED = 2000;

/** Pairs of letters that two texts share, and how many each has. */
function sharedPairs(a: string, b: string): { shared: number; sizes: [number, number] } {
	const [x, y] = [pairsOf(a), pairsOf(b)];
	let shared = 0;
	for (const [pair, n] of x) shared += Math.min(n, y.get(pair) ?? 0);
	const size = (pairs: ReadonlyMap<string, number>): number => [...pairs.values()].reduce((sum, n) => sum + n, 0);
	return { shared, sizes: [size(x), size(y)] };
}

function pairsOf(text: string): Map<string, number> {
	const pairs = new Map<string, number>();
	for (let i = 0; i + 1 < Math.min(text.length, LETTERS_COMPARED); i++) {
		const pair = text.slice(i, i + 2).toLowerCase();
		pairs.set(pair, (pairs.get(pair) ?? 0) + 1);
	}
	return pairs;
}

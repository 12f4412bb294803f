/**
 * The index of the first of `count` things in order for which `isReached` holds, all later ones being so too; `count` where
 * none is.
 */
export function firstReached(count: number, isReached: (i: number) => boolean): number {
	let [low, high] = [0, count];
	while (low < high) {
		const middle = (low + high) >>> 1;
		if (isReached(middle)) high = middle;
		else low = middle + 1;
	}
	return low;
}

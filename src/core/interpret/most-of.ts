/**
 * What nearly all values must be read as is given up at the first that is one too many: of most columns nothing is what
 * they are tried as.
 *
 * @returns what was read of those that could be, or null where they are fewer than that share of all.
 */
export function mostOf<T, U>(values: readonly T[], share: number, read: (value: T) => U | null | undefined): U[] | null {
	const found: U[] = [];
	const least = values.length * share;
	for (const [i, value] of values.entries()) {
		const one = read(value);
		if (one !== null && one !== undefined) found.push(one);
		if (found.length + values.length - i - 1 < least) return null;
	}
	return found;
}

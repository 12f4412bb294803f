/**
 * What nearly all values must be read as is given up at the first that is one too many: of most columns nothing is what
 * they are tried as.
 *
 * @returns what was read of those that could be, or null where they are fewer than that share of all.
 */
export function mostOf<T, U>(values: readonly T[], share: number, read: (value: T) => U | null | undefined): U[] | null {
	if (values.length > MANY && fewOf(values, share, read)) return null;
	const found: U[] = [];
	const least = values.length * share;
	for (const [i, value] of values.entries()) {
		const one = read(value);
		if (one !== null && one !== undefined) found.push(one);
		if (found.length + values.length - i - 1 < least) return null;
	}
	return found;
}

/** Values of which a few are looked at first; how many, and what share of those that there should be makes it worth while to go on. */
const MANY = 48;
const FEW = 12;
const WORTH_WHILE = 0.5;

/** Whether of a few values from all over so few can be read that not nearly all can be. */
function fewOf<T, U>(values: readonly T[], share: number, read: (value: T) => U | null | undefined): boolean {
	let left = Math.floor(FEW - FEW * share * WORTH_WHILE);
	for (let i = 0; i < FEW && left >= 0; i++) if ((read(values[Math.floor(((i + 0.5) * values.length) / FEW)]!) ?? null) === null) left--;
	return left < 0;
}

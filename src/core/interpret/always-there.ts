/** The owner among those who take part: the one who is in every conversation. */

/** Share of the conversations that one must be in, and that the next may be in. */
const IN_ALL = 0.95;
const NEXT = 0.6;

/** `lists`: who takes part, of each conversation. Null where nobody is in all of them, or several are. */
export function alwaysThere(lists: readonly (readonly string[])[]): string | null {
	const told = lists.map((list) => new Set(list)).filter((set) => set.size > 0);
	// Conversations of one name are told without the owner.
	if (told.length < 2 || told.some((set) => set.size < 2)) return null;
	const counts = new Map<string, number>();
	for (const set of told) for (const one of set) counts.set(one, (counts.get(one) ?? 0) + 1);
	const [best, next] = [...counts].sort((a, b) => b[1] - a[1]);
	return best && best[1] >= told.length * IN_ALL && (next?.[1] ?? 0) <= told.length * NEXT ? best[0] : null;
}

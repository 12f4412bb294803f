/** Names that the user put right: they are shown, and change nothing of who is whom. */
import type { WovenStore } from './weave';

/** `names` by what the evidence has: a number, an address, a handle, or a name alone. `keyOf` gives the one form of each. */
export function callByHand(
	stores: readonly WovenStore[],
	names: Readonly<Record<string, string>>,
	keyOf: (address: string) => string
): void {
	const byKey = new Map(Object.entries(names).map(([address, name]) => [keyOf(address), name]));
	if (byKey.size === 0) return;
	const called = <T extends { address: string | null; name: string | null }>(party: T): T => {
		const address = party.address ?? party.name;
		const name = address === null ? undefined : byKey.get(keyOf(address));
		// Whom the evidence knows by a name alone is still known by it.
		return name === undefined ? party : { ...party, address, name };
	};
	for (const { understood } of stores)
		for (const u of understood.messages) {
			if (u.correspondent) u.correspondent = called(u.correspondent);
			u.members = u.members.map(called);
		}
}

/**
 * When copies of a store were taken, by when their files were last changed: in an archive, or in a folder that was copied with
 * its times, nothing was written to the store between that and the copy. Copying without the times makes them all the copying's
 * own, so they are taken only where they agree with what the copies hold.
 */
import type { Capture } from './families';
import type { WovenStore } from './weave';

/** Times of files are told to two seconds in some archives, ms. */
const TOLD_TO = 2000;

/**
 * ms UTC for each of `captures`, which are in their order: what is stated, and when the files of the others were last changed, or
 * null where that does not hold. Each must be later than all that its copy holds, and earlier than whatever the next copy has
 * beyond that.
 */
export function lastChanged(
	captures: readonly Pick<Capture, 'store' | 'stated' | 'time'>[],
	stores: readonly WovenStore[]
): number[] | null {
	const changed = captures.map(({ store, stated, time }) => (stated ? time : (stores[store]!.modified ?? null)));
	if (captures.length < 2 || captures.every((c) => c.stated) || !changed.every((at) => at !== null)) return null;
	const held = captures.map(({ store }) => timesInUse(stores[store]!));
	let told = 0;
	for (const [i, at] of changed.entries()) {
		const newest = held[i]!.at(-1);
		if (newest === undefined || at < newest - TOLD_TO) return null;
		if (i + 1 === changed.length) break;
		if (at >= changed[i + 1]!) return null;
		const next = held[i + 1]!.find((sent) => sent > newest);
		if (next === undefined) continue;
		if (next <= at - TOLD_TO) return null;
		told++;
	}
	return told > 0 ? changed : null;
}

/** When what is in use was sent, ms UTC, in order. */
const timesInUse = ({ understood }: WovenStore): number[] =>
	understood.messages.flatMap((u) => (u.row.standing === 'kept' && u.sentAt !== null ? [u.sentAt] : [])).sort((a, b) => a - b);

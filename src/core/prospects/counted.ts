/** How many of the missing record numbers each place can still hold, and how many it gave. */
import { isUnder } from '../paths';
import type { Counted, Place } from './places';

/** A record number that is missing from the newest capture, or was. */
export interface Numbered {
	/** Time of the message where it is known, else of its neighbours: ms UTC. */
	after: number | null;
	before: number | null;
	/** Names of the captures and sources in which it was found; empty while it is missing. */
	foundIn: readonly string[];
}

/**
 * `takenAt`: until when a place holds messages, ms UTC; null where that is not known, and then nothing is counted. A
 * number that another place has given already is not one that this place can still add.
 */
export function countPlaces(
	places: readonly (Pick<Place, 'id' | 'capture' | 'source' | 'tried'> & { takenAt: number | null; lostSince: number | null })[],
	numbers: readonly Numbered[]
): Map<string, Counted> {
	const counted = new Map<string, Counted>();
	for (const place of places) {
		const names = [place.capture, place.source].filter((n): n is string => n !== null);
		const yielded = names.length === 0 ? null : numbers.filter((n) => n.foundIn.some((f) => names.some((name) => isUnder(f, name)))).length;
		// A copy from after the loss lacks them: what is left in its freed space cannot be counted beforehand.
		const countable = place.takenAt !== null && (place.lostSince === null || place.takenAt <= place.lostSince);
		const canHold = countable
			? numbers.filter((n) => n.foundIn.length === 0 && (n.after === null || n.after < place.takenAt!)).length
			: null;
		counted.set(place.id, { missing: numbers.length, canHold, yielded });
	}
	return counted;
}

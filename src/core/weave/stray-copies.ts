/**
 * What is left of a text that lost the number of its message, be it a copy in an index or where a list showed it, or the
 * text itself where it stands apart: it says nothing else, and is one more place of whatever message said it.
 */
import { put } from '../lists';
import type { Method } from '../model';
import { isInUse, isOfNoThread, type Woven } from './woven';

const COPIES = new Set<Method>(['text-index', 'history', 'preview']);
/** Words of a text that is hardly said again. */
const WORDS = 4;

export const isOfCopies = (m: Woven): boolean => m.sightings.every(({ method }) => COPIES.has(method));

/** Whether a text is long enough to be one message's alone. */
export const isHardlySaidAgain = (text: string): boolean => text.trim().split(/\s+/).length >= WORDS;

/** The messages of a whole case without the strays that another store of it has as a message. */
export function withoutStrayCopies(all: readonly Woven[]): Woven[] {
	const isStray = ({ first }: Woven): boolean => first.text !== null && first.sentAt === null && isOfNoThread(first);
	const strays = all.filter((m) => isStray(m) && !isInUse(m) && !m.earlierWordingOf);
	if (strays.length === 0) return [...all];
	const told = new Map<string, Woven[]>();
	for (const m of all) if (m.first.text !== null && m.first.sentAt !== null) put(told, m.first.text, m);
	const named = new Set(all.flatMap((m) => [m.earlierWordingOf, m.answers]));
	const taken = new Set<Woven>();
	for (const m of strays) {
		const same = told.get(m.first.text!) ?? [];
		// What a list showed last is left of the same message.
		const [of] = isHardlySaidAgain(m.first.text!) ? same : same.filter((x) => isOfCopies(x) && x.store === m.store);
		if (!of || named.has(m)) continue;
		of.takeIn(m);
		taken.add(m);
	}
	return all.filter((m) => !taken.has(m));
}

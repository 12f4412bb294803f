/** Phrases that a program put in the place of what was deleted between two captures: the message is what it said before. */
import { isOfProgram } from '../interpret';
import { put } from '../lists';
import type { Standing } from '../model';
import type { Capture } from './families';
import { isInUse, standingOfBlank, type Woven } from './woven';

/** Messages of one phrase at least; share of them that must have said something else before. */
const LEAST = 3;
const MOST = 0.6;

/** `stateOf`: how a wording itself was seen in a capture. */
export function takePhrasesBack(
	merged: readonly Woven[],
	captures: readonly Capture[],
	stateOf: (m: Woven, capture: Capture) => Standing | undefined
): Woven[] {
	const wordings = new Map<Woven, Woven[]>();
	const byText = new Map<string, Woven[]>();
	for (const m of merged) {
		if (m.earlierWordingOf) put(wordings, m.earlierWordingOf, m);
		else if (m.first.text && isInUse(m)) put(byText, m.first.text, m);
	}
	const taken = new Set<Woven>();
	for (const [text, rows] of byText) {
		const changed = rows.filter((m) => wordings.has(m)).length;
		const firsts = rows.map((m) => m.first);
		if (rows.length < LEAST || changed < rows.length * MOST || !isOfProgram(text, firsts)) continue;
		for (const m of rows) {
			const said = lastOf(wordings.get(m) ?? []);
			takeBack(m, said);
			if (said) taken.add(said);
		}
	}
	return merged.filter((m) => !taken.has(m));

	/** The wording that was in use last. */
	function lastOf(all: readonly Woven[]): Woven | undefined {
		const at = (m: Woven): number => captures.findLastIndex((c) => stateOf(m, c) === 'kept');
		return all.reduce<Woven | undefined>((last, m) => (last && at(last) >= at(m) ? last : m), undefined);
	}

	function takeBack(m: Woven, said: Woven | undefined): void {
		const standing = standingOfBlank(m.first);
		const inPhrase = captures.filter((c) => stateOf(m, c) === 'kept');
		const inWords = said ? captures.filter((c) => stateOf(said, c) === 'kept') : [];
		m.first = { ...m.first, text: said?.first.text ?? null, textCut: said?.first.textCut ?? false };
		m.standing = standing;
		if (said) m.takeIn(said);
		for (const { store } of inPhrase) m.seenIn?.set(store, standing);
		for (const { store } of inWords) m.seenIn?.set(store, 'kept');
	}
}

/** Tells the writers of a conversation from its texts. */
import { isFullName } from '../../called';
import { isInWord, isOutWord } from '../../way-words';
import { areSomeAgain, HOUR, NAME_LONGEST, trimName, type Head } from './heads';
import type { TextLine } from './lines';
import { MARKS } from './stamps';
import { tellsWay } from './told-ways';

const TAB = /\t/;
/** Signs between a writer and the text, as they are found at heads. */
const DIVIDERS = [/:\s|:$/, TAB, /\s[-–—|]\s/, /(?<![-=])>\s/, /：\s?/];
/** The writer has the rest of the line. */
const ALONE = /\s*$/;
/** The end of a sentence, or more words than a name has. */
const SENTENCE = /\p{L}{3}[.!?…]\s*$|(?:\S+\s+){8}/u;
/** Share of the heads under which there must be a text, that it can stand there. */
const BELOW = 0.9;

/** Whether there is text on the line below nearly every head. */
function haveTextBelow(heads: readonly Head[], lines: readonly TextLine[]): boolean {
	const below = heads.filter((h, i) => h.stampLine + 1 !== heads[i + 1]?.line && (lines[h.stampLine + 1]?.text.trim() ?? '') !== '');
	return below.length >= heads.length * BELOW && heads.every((h) => h.rest.length <= NAME_LONGEST && !SENTENCE.test(h.rest));
}

/** Whether words stand beside a name. */
const tellsOf = (line: string, name: string): boolean => line.includes(name) && /\p{L}/u.test(line.replace(name, ''));

/** What stands between a stamp and the writer, a word for the hour included. */
const BETWEEN = `[\\s\\-–—:|,·•/${MARKS}]*`;
const TO_NAME = new RegExp(`^${BETWEEN}(?:${HOUR}(?=\\s*[-–—:|,]\\s)${BETWEEN})?`, 'iu');

/** Tells the writer from the text behind a stamp: who writes comes back, or is short and no sentence. */
export class Writers {
	private readonly names = new Map<string, number>();
	private readonly divider: RegExp;

	/** `heads` with what follows their stamps: a writer and a text, or a writer alone with the text on the lines below. */
	constructor(heads: readonly Head[], lines: readonly TextLine[]) {
		const rests = heads.map((h) => lines[h.line]!.text.slice(lines[h.line]!.text.length - h.rest.length).replace(TO_NAME, ''));
		let best = { divider: DIVIDERS[0]!, fits: -1 };
		for (const divider of haveTextBelow(heads, lines) ? [...DIVIDERS, ALONE] : DIVIDERS) {
			const found = rests.map((r) => this.cut(r, divider)?.name).filter((n) => n !== undefined);
			// Names come back; what stands before a sign by chance does not.
			const fits = found.length - new Set(found).size + (found.length > 0 ? 0.5 : 0);
			if (fits > best.fits + heads.length * 0.05) best = { divider, fits };
		}
		// Words for the way alone name nobody: whom it is of stands behind them.
		const found = rests.flatMap((r) => this.cut(r, best.divider)?.name ?? []);
		const areWays = found.length > 0 && found.every((name) => isOutWord(name) !== isInWord(name));
		this.divider = areWays && haveTextBelow(heads, lines) ? ALONE : best.divider;
		for (const rest of rests) {
			const name = this.cut(rest, this.divider)?.name;
			if (name !== undefined) this.names.set(name, (this.names.get(name) ?? 0) + 1);
		}
		const often = [...this.names].filter(([, n]) => n > 1).map(([name]) => name);
		for (const [name, n] of this.names) {
			// Met once: a person who wrote once, or the program telling of one ("Bram changed the subject: …").
			const told = often.some((o) => name !== o && tellsOf(name.toLowerCase(), o.toLowerCase()));
			if (n === 1 && (told || name.length > 40 || name.split(/\s+/).length > 5)) this.names.delete(name);
		}
	}

	/** None where hardly a name comes back, unless they look like full names: then what stands there are no names. */
	get count(): number {
		const names = [...this.names.keys()];
		if (this.areAlone && names.every(tellsWay)) return names.length;
		const heads = [...this.names.values()].reduce((sum, n) => sum + n, 0);
		const full = heads > names.length && names.filter(isFullName).length > names.length / 2;
		return heads > 4 && names.length > heads * 0.6 && !full && !areSomeAgain(names, heads) ? 0 : names.length;
	}

	/** Whether the writers have their lines for themselves, the text below. */
	get areAlone(): boolean {
		return this.divider === ALONE;
	}

	/** Whether a tab parts them from the texts, as it does in tables. */
	get areTabbed(): boolean {
		return this.divider === TAB;
	}

	private cut(rest: string, divider: RegExp): { name: string; text: string } | null {
		const m = divider.exec(rest);
		if (!m || m.index === 0 || m.index > NAME_LONGEST) return null;
		const name = trimName(rest.slice(0, m.index));
		return name === '' ? null : { name, text: rest.slice(m.index + m[0].length) };
	}

	/** Writer and text of a head's line from `from` on; null for a line of the program itself. */
	split(line: string, from: number): { writer: string; text: string } | null {
		const rest = line.slice(from).replace(TO_NAME, '');
		const cut = this.cut(rest, this.divider);
		if (cut && this.names.has(cut.name)) return { writer: cut.name, text: cut.text };
		// A name can hold the dividing sign itself.
		for (const name of this.names.keys()) {
			if (!rest.startsWith(name)) continue;
			const m = this.divider.exec(rest.slice(name.length));
			if (m?.index === 0) return { writer: name, text: rest.slice(name.length + m[0].length) };
		}
		return null;
	}
}

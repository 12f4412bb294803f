/** What was asked for against what is there (D10): in numbers, and in one sentence that can be said to the owner. */
import { isOpen, type Ranked } from './places';

export interface Asked {
	/** Messages found that fit the loss: in use, and brought back. */
	inUse: number;
	back: number;
	/** Record numbers of that stretch that are seen nowhere; null where numbers cannot be known. */
	missing: number | null;
	/** Whether a thread with the partners named was found at all. */
	threadFound: boolean;
	/** Names of the partners as stated. */
	partners: string[];
	/** Lost messages that hold one of the words, and the words. */
	withWords: number;
	words: string[];
	looked: boolean;
}

const many = (n: number, one: string, more = `${one}s`): string => `${n.toLocaleString('en-GB')} ${n === 1 ? one : more}`;

export function sayJudgement(asked: Asked, ranked: readonly Ranked[]): string {
	const next = ranked.find(isOpen);
	const where = next
		? ` The next best place is ${next.place.name || next.kind.name}: it ${next.verdict.says}.`
		: ' No place is known that could hold more.';
	const who = asked.partners.length > 0 ? ` with ${asked.partners.join(' and ')}` : '';
	if (!asked.looked) return `Nothing was looked at yet.${where}`;
	if (asked.partners.length > 0 && !asked.threadFound) return `No thread${who} was found in what was looked at.${where}`;
	const found =
		asked.back === 0
			? `No deleted message${who} was brought back`
			: `${many(asked.back, 'deleted message')}${who} ${asked.back === 1 ? 'was' : 'were'} brought back`;
	const words = asked.words.length > 0 ? `, ${asked.withWords} of them with the words asked for` : '';
	if (asked.missing === null)
		return `${found}${asked.back > 0 ? words : ''}. Whether that is all cannot be known: the store does not number its messages.${where}`;
	if (asked.missing === 0) return `${found}${asked.back > 0 ? words : ''}, and no record number of that stretch is missing.`;
	return `${found}${asked.back > 0 ? words : ''}; ${many(asked.missing, 'record number')} of that stretch ${asked.missing === 1 ? 'is' : 'are'} still missing.${where}`;
}

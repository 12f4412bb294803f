/** What is missing (A1): the sentence's parts, as the user wrote them, and what follows from them. */
import { z } from 'zod';
import { parseVagueDate, type Span } from './dates';

export const HOW_LOST = [
	'not known',
	'by hand',
	'by an expiry rule',
	'in an update',
	'in a reset',
	'in a reinstall',
	'by formatting',
	'with a lost device',
	'by changing the device'
] as const;
export const KINDS_WANTED = ['texts', 'pictures', 'voice notes', 'videos', 'documents', 'contacts', 'calls'] as const;

const words = z.string().max(200);

export const lossSchema = z.object({
	/** Whose device it is. */
	owner: words,
	/** With whom: names, numbers, addresses. */
	partners: z.array(words).max(40),
	/** Dates as written; read by `parseVagueDate`. */
	sent: words,
	lastSeen: words,
	noticed: words,
	how: z.enum(HOW_LOST),
	kinds: z.array(z.enum(KINDS_WANTED)),
	/** Words they may contain. */
	words: z.array(words).max(40)
});
export type Loss = z.infer<typeof lossSchema>;

export const emptyLoss = (): Loss => ({
	owner: '',
	partners: [],
	sent: '',
	lastSeen: '',
	noticed: '',
	how: 'not known',
	kinds: [],
	words: []
});

/** The dates of a loss as spans, ms UTC. */
export interface LossSpans {
	sent: Span;
	/** In which the deletion must lie: from last seen to noticed missing. */
	lost: Span;
}

export interface LossProblem {
	field: 'sent' | 'lastSeen' | 'noticed';
	says: string;
}

export interface LossRead {
	spans: LossSpans;
	problems: LossProblem[];
}

const OPEN: Span = { from: null, to: null };

/** Reads the dates and points out what contradicts itself. A date that cannot be read counts as open. */
export function readLoss(loss: Loss, today: number, zone: string): LossRead {
	const problems: LossProblem[] = [];
	const read = (field: LossProblem['field']): Span => {
		const parsed = parseVagueDate(loss[field], today, zone);
		if (parsed.ok) return parsed.span;
		problems.push({ field, says: parsed.problem });
		return OPEN;
	};
	const sent = read('sent');
	const lastSeen = read('lastSeen');
	const noticed = read('noticed');
	const say = (field: LossProblem['field'], says: string): void => void problems.push({ field, says });
	if (sent.from !== null && sent.from > today) say('sent', 'They cannot have been sent after today.');
	if (lastSeen.from !== null && lastSeen.from > today) say('lastSeen', 'They cannot have been seen after today.');
	if (noticed.from !== null && noticed.from > today) say('noticed', 'They cannot have been missed after today.');
	if (sent.from !== null && lastSeen.to !== null && lastSeen.to < sent.from) say('lastSeen', 'They were last seen before they were sent.');
	if (sent.from !== null && noticed.to !== null && noticed.to < sent.from) say('noticed', 'They were missed before they were sent.');
	if (lastSeen.from !== null && noticed.to !== null && noticed.to < lastSeen.from)
		say('noticed', 'They were missed before they were last seen.');
	return {
		spans: { sent, lost: { from: lastSeen.from ?? sent.to ?? sent.from, to: noticed.to ?? (loss.noticed === '' ? today : noticed.from) } },
		problems
	};
}

export const isStated = (loss: Loss): boolean =>
	loss.partners.length > 0 || loss.words.length > 0 || [loss.sent, loss.lastSeen, loss.noticed].some((t) => t.trim() !== '');

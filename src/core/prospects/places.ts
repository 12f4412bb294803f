/** Places, given or only possible, and the verdict on each: whether it can still hold what is missing, at what harm. */
import { z } from 'zod';
import { parseVagueDate, type Span } from './dates';
import type { LossSpans } from './loss';
import type { Harm, PlaceKind } from './catalogue';

export const placeSchema = z.object({
	id: z.string(),
	/** Of the catalogue. */
	kind: z.string(),
	name: z.string().max(200),
	note: z.string().max(1000),
	/** When it was taken, as written; '' where it is not known, or where it is the place as it is now. */
	taken: z.string().max(200),
	/** Its oldest and newest message where known, ms UTC. */
	span: z.object({ from: z.number().nullable(), to: z.number().nullable() }).nullable(),
	/** Path of the source that it became, where it was given. */
	source: z.string().nullable(),
	/** Where this server has it, for the demo case: a file that can be looked at at once. */
	offer: z.string().max(200).nullable().default(null),
	/** Name of the capture it is, for counting. */
	capture: z.string().nullable(),
	tried: z
		.object({
			/** ms UTC. */
			at: z.number(),
			result: z.enum(['found', 'nothing', 'not possible']),
			note: z.string().max(1000),
			/** Whether the look said so: then it is said anew when something else is asked for. */
			byLook: z.boolean().default(false)
		})
		.nullable()
});
export type Place = z.infer<typeof placeSchema>;

/** Of the missing record numbers: how many there are, how many this place can still hold, and how many it gave. */
export interface Counted {
	missing: number;
	canHold: number | null;
	yielded: number | null;
}

export type Can = 'all' | 'some' | 'may' | 'cannot';

export interface Verdict {
	can: Can;
	/** In words: "can hold all", "cannot hold them". */
	says: string;
	/** Why, in words. */
	why: string;
	/** When it stops being able to, ms UTC, where that is known. */
	until: number | null;
	harm: Harm;
	needs: string[];
	/** Minutes, from and to. */
	minutes: [number, number];
	tried: boolean;
	/** Not needed: a harmless place holds as much. */
	notNeeded: string | null;
}

export interface Ranked {
	place: Place;
	kind: PlaceKind;
	verdict: Verdict;
	/** When it was taken, ms UTC. */
	taken: Span;
}

export interface Situation {
	spans: LossSpans;
	today: number;
	zone: string;
	/** Record numbers missing, overall; null where numbers cannot be known. */
	counted: ReadonlyMap<string, Counted>;
	/** Ids of places in the order the user gave, if any. */
	order: readonly string[];
}

const DAY = 86_400_000;
const RANK: Record<Can, number> = { all: 0, some: 1, may: 2, cannot: 3 };
const HARM: Record<Harm, number> = { harmless: 0, overwrites: 1, erases: 2 };

/** All places, the best first: what can hold the messages, harmless before harmful, the newest copy before older ones. */
export function rankPlaces(places: readonly Place[], kinds: readonly PlaceKind[], situation: Situation): Ranked[] {
	const byId = new Map(kinds.map((k) => [k.id, k]));
	const ranked = places.flatMap((place): Ranked[] => {
		const kind = byId.get(place.kind);
		if (!kind) return [];
		const taken = takenSpan(place, situation);
		return [{ place, kind, taken, verdict: judge(place, kind, taken, situation) }];
	});
	const harmless = ranked.filter((r) => r.verdict.harm === 'harmless' && !r.verdict.tried && RANK[r.verdict.can] <= RANK.some);
	for (const r of ranked) {
		if (r.verdict.harm === 'harmless' || r.verdict.can === 'cannot') continue;
		const instead = harmless.find((h) => RANK[h.verdict.can] <= RANK[r.verdict.can]);
		if (instead) r.verdict.notNeeded = instead.place.id;
	}
	return ranked.sort((a, b) => compare(a, b, situation.order));
}

/** Whether a place is still worth trying: not tried, able to hold them, and not made needless by a harmless one. */
export const isOpen = ({ verdict }: Ranked): boolean => !verdict.tried && verdict.can !== 'cannot' && verdict.notNeeded === null;

function compare(a: Ranked, b: Ranked, order: readonly string[]): number {
	const place = (r: Ranked): number => order.indexOf(r.place.id);
	if (place(a) >= 0 && place(b) >= 0) return place(a) - place(b);
	const group = (r: Ranked): number =>
		r.verdict.can === 'cannot' ? 3 : r.place.tried?.result === 'nothing' || r.place.tried?.result === 'not possible' ? 2 : 0;
	return (
		group(a) - group(b) ||
		HARM[a.verdict.harm] - HARM[b.verdict.harm] ||
		RANK[a.verdict.can] - RANK[b.verdict.can] ||
		// What runs out first is looked at first; among copies the newest loses least.
		(a.verdict.until ?? Infinity) - (b.verdict.until ?? Infinity) ||
		(b.taken.to ?? -Infinity) - (a.taken.to ?? -Infinity) ||
		a.verdict.needs.length - b.verdict.needs.length ||
		a.verdict.minutes[0] - b.verdict.minutes[0] ||
		(a.place.id < b.place.id ? -1 : 1)
	);
}

function takenSpan(place: Place, { today, zone }: Situation): Span {
	const parsed = parseVagueDate(place.taken, today, zone);
	return parsed.ok ? parsed.span : { from: null, to: null };
}

/** Problems of a place's own dates, for the field they stand in. */
export function placeProblem(place: Pick<Place, 'taken'>, today: number, zone: string): string | null {
	const parsed = parseVagueDate(place.taken, today, zone);
	if (!parsed.ok) return parsed.problem;
	return parsed.span.from !== null && parsed.span.from > today ? 'It cannot have been taken after today.' : null;
}

const days = (n: number): string => `${n} ${n === 1 ? 'day' : 'days'}`;

function judge(place: Place, kind: PlaceKind, taken: Span, situation: Situation): Verdict {
	const base = { harm: kind.harm, needs: kind.needs, minutes: kind.minutes, tried: place.tried !== null, notNeeded: null, until: null };
	const made = (can: Can, why: string, until: number | null = null): Verdict => ({ ...base, can, why, until, says: sayCan(can) });
	const counted = situation.counted.get(place.id);
	const verdict = byKind(kind, taken, situation, made);
	if (place.tried) {
		const { result } = place.tried;
		if (result === 'found' && counted?.yielded !== null && counted?.yielded !== undefined && counted.missing > 0)
			return { ...verdict, says: `looked: ${counted.yielded} of ${counted.missing}` };
		return {
			...verdict,
			says: result === 'nothing' ? sayNothing(place, counted) : result === 'found' ? 'looked: found some' : 'not possible'
		};
	}
	if (verdict.can === 'cannot' || !counted || counted.canHold === null || counted.missing === 0) return verdict;
	if (counted.canHold === 0) return { ...verdict, can: 'cannot', says: 'cannot hold more', why: 'what it can hold was found elsewhere' };
	return {
		...verdict,
		can: verdict.can === 'may' ? 'may' : counted.canHold >= counted.missing ? 'all' : 'some',
		says: `${verdict.can === 'may' ? 'may' : 'can'} hold ${counted.canHold >= counted.missing ? `all ${counted.missing}` : `${counted.canHold} of the ${counted.missing}`}`
	};
}

/** What was looked at holds none of what is missing: where messages are in it, or nothing is missing, that is not to say nothing. */
function sayNothing({ span, tried }: Place, counted: Counted | undefined): string {
	if (!tried!.byLook || !span) return 'looked: nothing there';
	return counted && counted.missing > 0 ? 'looked: none of them there' : 'looked at';
}

const sayCan = (can: Can): string =>
	({ all: 'can hold all', some: 'can hold some', may: 'may hold some', cannot: 'cannot hold them' })[can];

type Make = (can: Can, why: string, until?: number | null) => Verdict;

function byKind(kind: PlaceKind, taken: Span, situation: Situation, made: Make): Verdict {
	const { spans, today } = situation;
	switch (kind.holds) {
		case 'copy':
			return copyVerdict(taken, situation, made);
		case 'bin':
			return binVerdict(kind.days ?? 30, spans, today, made);
		case 'rolling':
			return rollingVerdict(kind.days ?? 7, spans, today, made);
		case 'residue':
			if (taken.to !== null && spans.sent.from !== null && taken.to < spans.sent.from) return made('cannot', 'older than the messages');
			return made('may', 'as far as the freed bytes were not used again');
		case 'other-side':
			return made('may', 'unless they were deleted there too');
		case 'account':
			return made('may', 'only some kinds, and deleting may have deleted here');
		case 'provider':
			if (kind.days !== null && spans.sent.to !== null && today > spans.sent.to + kind.days * DAY)
				return made('cannot', `kept for about ${days(kind.days)} only`);
			return made(
				'may',
				'mostly only that they were sent, not what they said',
				spans.sent.from === null || kind.days === null ? null : spans.sent.from + kind.days * DAY
			);
		default:
			return made('may', 'it holds nothing itself, but may bring them into view');
	}
}

/** Taken after they were sent and before they were lost: it holds them. */
function copyVerdict(taken: Span, { spans, today }: Situation, made: Make): Verdict {
	const { sent, lost } = spans;
	if (taken.from !== null && taken.from > today) return made('may', 'its date lies in the future');
	if (taken.from === null && taken.to === null) return made('may', 'when it was taken is not known');
	if (sent.from !== null && taken.to !== null && taken.to < sent.from) return made('cannot', 'older than the messages');
	const beforeLoss = lost.from !== null && taken.to !== null && taken.to <= lost.from;
	const afterLoss = lost.to !== null && taken.from !== null && taken.from > lost.to;
	if (afterLoss) return made('may', 'taken after they were lost: only what is left in its freed space');
	if (sent.to !== null && taken.from !== null && taken.from < sent.to)
		return made('some', 'taken while they were being sent: the later ones are not in it');
	if (beforeLoss) return made('all', 'taken after they were sent and before they were lost');
	if (lost.from === null && lost.to === null && sent.to === null) return made('may', 'when they were sent and lost is not known');
	return made('may', 'taken in the time in which they were lost');
}

function binVerdict(keeps: number, { lost }: LossSpans, today: number, made: Make): Verdict {
	if (lost.from === null && lost.to === null) return made('may', `it keeps what was deleted for about ${days(keeps)}`);
	const until = lost.from === null ? null : lost.from + keeps * DAY;
	if (lost.to !== null && today > lost.to + keeps * DAY) return made('cannot', `it empties after about ${days(keeps)}`);
	if (until !== null && today <= until) return made('all', `deleted less than ${days(keeps)} ago`, until);
	return made('may', `deleted perhaps more than ${days(keeps)} ago`, lost.to === null ? null : lost.to + keeps * DAY);
}

function rollingVerdict(back: number, { sent, lost }: LossSpans, today: number, made: Make): Verdict {
	const oldest = today - back * DAY;
	if (lost.from === null && lost.to === null) return made('may', `its copies reach ${days(back)} back`);
	if (lost.from !== null && oldest <= lost.from && (sent.to === null || sent.to <= lost.from))
		return made('all', 'its oldest copy is from before the loss', lost.from + back * DAY);
	if (lost.to !== null && oldest > lost.to) return made('cannot', `its oldest copy is ${days(back)} old, younger than the loss`);
	return made('may', 'its oldest copies are from the time of the loss', lost.to === null ? null : lost.to + back * DAY);
}

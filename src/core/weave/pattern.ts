/**
 * The pattern of the loss: swept away or singled out, by age or by thread, at once or over time. Told from what is in
 * use and what is not, with what supports it and what speaks against it. Nothing is said of why.
 */
import { z } from 'zod';
import { bracketOf, capturesFor } from './captures';
import type { Weave, WovenThread } from './weave';
import type { Woven } from './woven';

export const patternSchema = z.object({
	kind: z.enum(['nothing-lost', 'everything', 'by-age', 'whole-threads', 'singled-out', 'mixed']),
	/** One sentence. */
	says: z.string(),
	supports: z.array(z.string()),
	against: z.array(z.string())
});
export type LossPattern = z.infer<typeof patternSchema>;

const DAY = 86_400_000;
/** Share of the lost that must fit a pattern for it to be named. */
const MOSTLY = 0.9;

interface ThreadLoss {
	thread: WovenThread;
	kept: Woven[];
	lost: Woven[];
}

const day = (ms: number): string =>
	new Date(ms).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' });
const many = (n: number, one: string, more = `${one}s`): string => `${n.toLocaleString('en-GB')} ${n === 1 ? one : more}`;

export function patternOf(weave: Weave): LossPattern {
	const threads = weave.threads.map((thread): ThreadLoss => {
		const own = thread.messages.filter((m) => !m.earlierWordingOf);
		return { thread, kept: own.filter((m) => m.standing === 'kept'), lost: own.filter((m) => m.standing !== 'kept') };
	});
	const lost = threads.flatMap((t) => t.lost);
	const kept = threads.flatMap((t) => t.kept);
	const missing = weave.gaps.reduce((n, g) => n + g.count, 0);
	if (lost.length === 0)
		return {
			kind: 'nothing-lost',
			says:
				missing > 0
					? `No deleted message was found, but ${many(missing, 'record number')} cannot be accounted for.`
					: 'No deleted message was found.',
			supports: [],
			against: []
		};
	const found: LossPattern = kept.length === 0 ? everything(lost) : (byAge(lost, kept) ?? wholeThreads(threads) ?? singledOut(threads));
	found.supports.push(...whenLost(lost, weave));
	if (missing > 0)
		found.against.push(`${many(missing, 'record number')} that existed cannot be accounted for: they may be of another kind.`);
	const unknown = lost.filter((m) => m.first.sentAt === null).length;
	if (unknown > 0) found.against.push(`Of ${many(unknown, 'lost message')} the time is not known; they were left out of this.`);
	return found;
}

const everything = (lost: Woven[]): LossPattern => ({
	kind: 'everything',
	says: `Everything was deleted: none of ${many(lost.length, 'message')} is in use any more.`,
	supports: ['No message is in use in any thread.'],
	against: []
});

/** Everything older than a day is gone, everything younger is there. */
function byAge(lost: Woven[], kept: Woven[]): LossPattern | null {
	const times = kept.map((m) => m.first.sentAt).filter((t) => t !== null);
	const dated = lost.filter((m) => m.first.sentAt !== null);
	if (times.length === 0 || dated.length < 5) return null;
	const oldest = times.reduce((a, b) => Math.min(a, b));
	const newest = times.reduce((a, b) => Math.max(a, b));
	const older = dated.filter((m) => m.first.sentAt! < oldest);
	if (older.length < dated.length * MOSTLY) return null;
	const threads = new Set(older.map((m) => m.thread)).size;
	const span = Math.round((newest - oldest) / DAY);
	const rule = [7, 30, 90, 180, 365].find((n) => Math.abs(span - n) <= Math.max(2, n * 0.04));
	return {
		kind: 'by-age',
		says: `Swept away by age: nothing from before ${day(oldest)} is in use, whoever it was from${rule ? `, as a rule that keeps ${rule} days would leave it` : ''}.`,
		supports: [
			`${older.length} of ${many(dated.length, 'lost message')} are older than the oldest in use.`,
			`They come from ${many(threads, 'thread')}.`,
			...(rule ? [`What is in use spans ${span} days.`] : [])
		],
		against: older.length < dated.length ? [`${many(dated.length - older.length, 'lost message')} are younger than that.`] : []
	};
}

function wholeThreads(threads: ThreadLoss[]): LossPattern | null {
	const gone = threads.filter((t) => t.kept.length === 0 && t.lost.length > 0);
	const lost = threads.reduce((n, t) => n + t.lost.length, 0);
	const inWhole = gone.reduce((n, t) => n + t.lost.length, 0);
	if (gone.length === 0 || inWhole < lost * MOSTLY) return null;
	const names = gone.slice(0, 4).map((t) => t.thread.title);
	return {
		kind: 'whole-threads',
		says: `${gone.length === 1 ? 'One thread was' : `${gone.length} threads were`} deleted whole: ${names.join(', ')}${gone.length > 4 ? ' and others' : ''}.`,
		supports: [
			`No message of ${gone.length === 1 ? 'it' : 'them'} is in use; ${inWhole} were found.`,
			`${many(threads.length - gone.length, 'other thread')} ${threads.length - gone.length === 1 ? 'is' : 'are'} in use.`
		],
		against: lost > inWhole ? [`${many(lost - inWhole, 'lost message')} are from threads that are in use.`] : []
	};
}

/** Lost between kept: chosen, one by one or in stretches. */
function singledOut(threads: ThreadLoss[]): LossPattern {
	const hit = threads.filter((t) => t.lost.length > 0);
	const lost = hit.reduce((n, t) => n + t.lost.length, 0);
	let between = 0;
	let runs = 0;
	for (const t of hit) {
		const order = t.thread.messages.filter((m) => !m.earlierWordingOf);
		const first = order.findIndex((m) => m.standing === 'kept');
		const last = order.findLastIndex((m) => m.standing === 'kept');
		order.forEach((m, i) => {
			if (m.standing === 'kept') return;
			if (first >= 0 && i > first && i < last) between++;
			if (i === 0 || order[i - 1]!.standing === 'kept') runs++;
		});
	}
	const most = [...hit].sort((a, b) => b.lost.length - a.lost.length)[0]!;
	const share = Math.round((most.lost.length / lost) * 100);
	const single = between >= lost * 0.6;
	return {
		kind: single ? 'singled-out' : 'mixed',
		says: single
			? `Singled out: ${many(lost, 'message')} in ${many(runs, 'stretch', 'stretches')} ${lost === 1 ? 'is' : 'are'} gone from between others that are in use, in ${many(hit.length, 'thread')}.`
			: `No one pattern: ${many(lost, 'message')} in ${many(hit.length, 'thread')} are gone, partly whole threads or ends of threads, partly from between others.`,
		supports: [
			`${between} of ${lost} have messages in use before and after them in their thread.`,
			`${many(hit.length, 'thread')} of ${threads.length} ${hit.length === 1 ? 'is' : 'are'} touched; ${share} % of the lost are from ${most.thread.title}.`
		],
		against: single && hit.some((t) => t.kept.length === 0) ? ['Some threads are gone whole.'] : []
	};
}

/** Whether captures say that it went at once or over time. */
function whenLost(lost: readonly Woven[], weave: Weave): string[] {
	const spans = new Map<string, number>();
	for (const m of lost) {
		const found = capturesFor(m, weave);
		if (!found) continue;
		const { lastSeen, firstMissing } = bracketOf(found.of, found.family);
		if (firstMissing === null) continue;
		const key = lastSeen === null ? `before ${day(firstMissing)}` : `between ${day(lastSeen)} and ${day(firstMissing)}`;
		spans.set(key, (spans.get(key) ?? 0) + 1);
	}
	if (spans.size === 0) return [];
	const parts = [...spans].sort((a, b) => b[1] - a[1]).map(([span, n]) => `${n} ${span}`);
	return [`The copies say when: ${parts.slice(0, 4).join('; ')}.`];
}

/**
 * The same conversation from two sources: the other side's copy, an export, another program's store. Threads are
 * matched by what was said and when; a message that both hold is one, with sightings in both, and what the copy says
 * of who wrote is put in the words of the first. Clocks may differ by a zone or run apart.
 */
import { put } from '../lists';
import { z } from 'zod';
import type { Direction } from '../model';
import type { Understood } from '../interpret';
import type { Party } from '../interpret';
import { firstReached } from '../sorted';
import { isBeginningOf, isBlank, isByPage, isInUse, isOfNoThread, isThreadGuessed, type Woven } from './woven';

/** How two copies of a thread compare. */
export const sidesSchema = z.object({
	thread: z.string(),
	/** Store whose copy it is (index into the look's stores). */
	store: z.number(),
	/** Its name. */
	name: z.string(),
	/** From the other party's device. */
	otherSide: z.boolean(),
	/** Messages in both, in this copy alone, and missing from it though it covers their time. */
	both: z.number(),
	onlyThere: z.number(),
	onlyHere: z.number(),
	/** Messages in both whose wording differs. */
	differing: z.number(),
	/** ms by which the copy's times run ahead. */
	clock: z.number()
});
export type SidesOfThread = z.infer<typeof sidesSchema>;

/** The messages of one family of stores. */
export interface Side {
	family: number;
	store: number;
	/** The store's name. */
	name: string;
	exported: boolean;
	/** Of how many moments copies of it are there. */
	captures: number;
	messages: Woven[];
}

const MINUTE = 60_000;
/** Written clocks differ by whole quarters of an hour and no more than this. */
const ZONES = 15 * MINUTE;
const WIDEST_ZONE = 14 * 60 * MINUTE;
/** Two clocks of one conversation run apart by no more. */
const CLOCKS_APART = 10 * MINUTE;
/** Around the usual difference; exports often give whole minutes. */
const JITTER = 90_000;
/** Times of one message on two devices whose clocks are known to differ by so much, and pairs from which that is told. */
const SAME_MOMENT = 3000;
const PAIRS_TOLD = 8;
/** Messages that went the other way there, and share of those that both hold. */
const OPPOSITE_LEAST = 3;
const OPPOSITE = 0.15;
/** Within so much two stores of one device note the same moment, the one in whole seconds. */
const AT_ONCE = 1000;
/** Letters from which what was said at one moment is not said to two by chance. */
const LETTERS_AT_ONCE = 12;
const TELLING = 4;
/** Letters of a text that is one message's own. */
const ONES_OWN = 8;
const LONG = 24;
const SAID_OFTEN = 200;
const ALIKE = 0.5;
/** ms that a message takes from one device to the other, and letters of a text that is no set phrase. */
const IN_TRANSIT = 5000;
const LETTER = 60;
/** What must have been said in both threads, long texts counting 1.5; where their clocks are further apart than clocks are. */
const ENOUGH_SAID = 2;
const SURELY_SAID = 6;

const textKey = (text: string | null): string | null => {
	const plain = text
		?.replace(/[\s\u200e\u200f]+/g, ' ')
		.trim()
		.slice(0, 400);
	return plain && plain.length >= TELLING ? plain : null;
};

/** A copy's threads, and which they are of those known. */
interface Meeting {
	side: Side;
	join: Join;
	found: { thread: Woven[]; counterpart: Counterpart | null }[];
	/** Another person's. */
	isOther: boolean;
}

/** Joins copies to the first side; returns the messages of all, and how the copies compare. */
export function joinSides(
	sides: readonly Side[],
	canonical: (party: Party) => string,
	isOwner: (party: Party) => boolean
): { messages: Woven[]; compared: SidesOfThread[] } {
	const ranks = new Map(sides.map((side) => [side, rank(side, isOwner)]));
	const [first, ...others] = [...sides].sort((a, b) => ranks.get(b)! - ranks.get(a)! || a.family - b.family);
	if (!first) return { messages: [], compared: [] };
	const messages = [...first.messages];
	const compared: SidesOfThread[] = [];
	/** Threads that were found to be others: another file of the same program calls them alike. */
	const same = new Map<string, string>();
	const meet = (side: Side): Meeting => {
		const join = new Join(messages, canonical);
		const found = threadsOf(side.messages).map((thread) => {
			const called = thread[0]!.thread;
			// An exported conversation is called after somebody, be it the owner, and by no key.
			return { thread, counterpart: join.counterpart(thread, (side.exported ? null : same.get(called)) ?? called) };
		});
		// In a room most may be of others, who wrote to both; what the one sent there and the other received is seen elsewhere.
		return { side, join, found, isOther: found.some(({ counterpart }) => counterpart?.isOfOtherSide) };
	};
	const take = ({ side, join, found, isOther }: Meeting): void => {
		for (const { thread, counterpart } of found) if (counterpart) same.set(thread[0]!.thread, counterpart.id);
		// Of two stores of one owner that have conversations in common a single moment tells another.
		const known = new Set<string>(found.flatMap(({ counterpart }) => counterpart?.id ?? []));
		if (!isOther && known.size > 0)
			for (const one of found) {
				if (one.counterpart) continue;
				one.counterpart = join.ofOneMoment(one.thread, known);
				if (one.counterpart) known.add(one.counterpart.id);
			}
		for (const { thread, counterpart } of found) {
			if (!counterpart) messages.push(...thread.filter((m) => !join.takesByWords(m)));
			else {
				if (!isOther) counterpart.takeName();
				const { added, sides: result } = counterpart.take(side, isOther);
				messages.push(...added);
				compared.push(result);
			}
		}
	};
	// What another of the owner's devices has keeps the time of that, whatever the other side's copy of it says.
	for (const exported of [false, true]) {
		const later: Side[] = [];
		for (const side of others.filter((o) => o.exported === exported)) {
			const meeting = meet(side);
			if (meeting.isOther) later.push(side);
			else take(meeting);
		}
		for (const side of later) take(meet(side));
	}
	return { messages, compared };
}

/**
 * A thread with the owner himself that no copy of his own was found for is what the other side holds of it: what came
 * from there came to him. Who that is no number in it says, since devices seldom state their own.
 */
export function turnToOwner(messages: readonly Woven[], isOwner: (party: Party) => boolean): void {
	const withHim = messages.filter(({ first: { correspondent, group, members } }) => {
		const party = correspondent ?? (members.length === 1 ? members[0]! : null);
		return !group && party !== null && isOwner(party);
	});
	for (const thread of threadsOf(withHim)) {
		if (isToHimself(thread)) continue;
		for (const m of thread) {
			const { direction } = m.first;
			const turned = direction === null ? null : direction === 'in' ? 'out' : 'in';
			m.first = { ...m.first, direction: turned, correspondent: null, members: [], threadTitle: null };
		}
	}
}

/** Notes that somebody sends himself go one way, or every one of them both. */
function isToHimself(thread: readonly Woven[]): boolean {
	const texts = (direction: Direction): Set<string | null> =>
		new Set(thread.flatMap((m) => (m.first.direction === direction ? [m.first.text] : [])));
	const [sent, received] = [texts('out'), texts('in')];
	const both = [...received].filter((text) => sent.has(text)).length;
	return sent.size === 0 || received.size === 0 || both > Math.min(sent.size, received.size) / 2;
}

/**
 * The owner's own device does not write to him, and is the one with most partners, or the one that was copied again and again: of
 * another's there is what he gave. An export is a copy of something.
 */
function rank(side: Side, isOwner: (party: Party) => boolean): number {
	const threads = threadsOf(side.messages);
	const withHim = threads.some((thread) => {
		const { correspondent, group } = thread[0]!.first;
		return !group && correspondent !== null && isOwner(correspondent) && !isToHimself(thread);
	});
	// A thread with nobody is no partner's.
	const partners = threads.filter((thread) => thread.some(({ first }) => first.correspondent !== null || first.members.length > 0));
	return (
		(side.exported ? 0 : 1e12) +
		(withHim ? 0 : 1e11) +
		partners.length * Math.min(side.captures, COPIES_COUNTED) * 1e5 +
		Math.min(side.messages.length, 99_999)
	);
}

const COPIES_COUNTED = 3;

function threadsOf(messages: readonly Woven[]): Woven[][] {
	const threads = new Map<string, Woven[]>();
	for (const m of messages) {
		const list = threads.get(m.thread);
		if (list) list.push(m);
		else threads.set(m.thread, [m]);
	}
	return [...threads.values()];
}

/** Whether nothing says in which thread a message was, or of a lost one no more than who wrote it. */
const isLoose = (m: Woven): boolean => isOfNoThread(m.first) || (isThreadGuessed(m.first) && !isInUse(m));

interface Pair {
	here: Woven;
	there: Woven;
	/** ms by which there is ahead. */
	ahead: number;
}

class Join {
	private readonly byText = new Map<string, Woven[]>();
	/** Messages that are files alone, by the second. */
	private readonly files = new Map<number, Woven[]>();
	private readonly byThread = new Map<string, Woven[]>();
	/** Messages of which nothing is left that says in which thread they were. */
	private readonly loose: Woven[] = [];
	/** What edited messages said before. */
	private readonly wordings = new Map<Woven, (string | null)[]>();
	/** Conversations of several by what they are called, and by who takes part. */
	private readonly rooms = new Map<string, Set<string>>();

	constructor(
		messages: readonly Woven[],
		private readonly canonical: (party: Party) => string
	) {
		for (const m of messages) {
			if (m.earlierWordingOf) {
				put(this.wordings, m.earlierWordingOf, m.first.text);
				continue;
			}
			if (!m.first.group || !this.byThread.has(m.thread))
				for (const name of this.roomNames(m)) this.rooms.set(name, (this.rooms.get(name) ?? new Set<string>()).add(m.thread));
			put(this.byThread, m.thread, m);
			if (isLoose(m)) this.loose.push(m);
			const key = textKey(m.first.text);
			const at = hereAt(m);
			if (key && m.first.sentAt !== null) put(this.byText, key, m);
			if (m.first.text === null && m.first.files.length > 0 && at !== null) put(this.files, Math.floor(at / 1000), m);
		}
	}

	/** The thread here that a thread of a copy is, or null. `called`: what it is known by here already. */
	counterpart(thread: readonly Woven[], called: string): Counterpart | null {
		const pairs = new Map<string, Pair[]>();
		const far = new Map<string, Pair[]>();
		for (const there of thread) {
			const key = there.earlierWordingOf ? null : textKey(there.first.text);
			const same = key && there.first.sentAt !== null ? (this.byText.get(key) ?? []) : [];
			if (same.length > SAID_OFTEN) continue;
			for (const here of same) {
				const ahead = there.first.sentAt! - hereAt(here)!;
				const written = !here.first.zoned || !there.first.zoned;
				const near =
					Math.abs(ahead) <= (written ? WIDEST_ZONE + CLOCKS_APART : CLOCKS_APART) &&
					(!written || Math.abs(ahead - Math.round(ahead / ZONES) * ZONES) <= CLOCKS_APART);
				put(near ? pairs : far, here.thread, { here, there, ahead });
			}
		}
		return (
			this.best(thread, pairs, usualPairs, ENOUGH_SAID) ??
			this.best(thread, far, constantPairs, SURELY_SAID) ??
			this.atOnce(thread, called) ??
			this.ofOneName(thread)
		);
	}

	/** What a conversation is called by; in the owner's own messages stands nobody's name. */
	private namesOf(thread: readonly Woven[]): string[] {
		return this.roomNames(thread.find(({ first }) => first.group || first.correspondent?.name) ?? thread[0]!);
	}

	private roomNames({ first: { group, threadTitle, members, correspondent } }: Woven): string[] {
		// What is exported of a room can be by one writer alone.
		const called = threadTitle ? [`called ${threadTitle.toLowerCase()}`] : [];
		if (!group) return [...(correspondent?.name ? [`with ${correspondent.name.toLowerCase()}`] : []), ...called];
		const parties = members.map(this.canonical).sort();
		return [...called, ...(parties.length > 1 ? [`of ${parties.join(' ')}`] : [])];
	}

	/** In a room called alike, or of the same persons, or with one called alike, the same was said at the same moment. */
	private ofOneName(thread: readonly Woven[]): Counterpart | null {
		const ids = new Set(this.namesOf(thread).flatMap((name) => [...(this.rooms.get(name) ?? [])]));
		for (const id of ids) {
			const pairs = this.pairsAtOnce(thread, id);
			if (pairs.length > 0) return this.joined(thread, id, pairs);
		}
		return null;
	}

	/** With the same person the same was said at the same moment, the same way: however short, it is one message. */
	private atOnce(thread: readonly Woven[], id: string): Counterpart | null {
		const pairs = this.pairsAtOnce(thread, id);
		const isKnown = id !== thread[0]!.thread && this.byThread.has(id);
		return pairs.length > 0 || isKnown ? this.joined(thread, id, pairs) : null;
	}

	private pairsAtOnce(thread: readonly Woven[], id: string): Pair[] {
		const byText = new Map<string, Woven[]>();
		for (const m of this.byThread.get(id) ?? []) if (m.first.sentAt !== null) put(byText, saidIn(m), m);
		return thread.flatMap((there): Pair[] => {
			const { sentAt, direction } = there.first;
			if (sentAt === null || there.earlierWordingOf) return [];
			const isThen = (m: Woven): boolean => (m.first.direction === direction || direction === null) && isOfMoment(hereAt(m)!, sentAt);
			// What is a file alone may be stated otherwise there.
			const isThatFile = (m: Woven): boolean =>
				m.thread === id &&
				isThen(m) &&
				(haveOneFile(m.first, there.first) || (isExactly(hereAt(m)!, sentAt) && canBeOneFile(m.first, there.first)));
			const same =
				(byText.get(saidIn(there)) ?? []).find(isThen) ??
				(there.first.text === null ? this.filesAround(sentAt).find(isThatFile) : undefined);
			return same ? [{ here: same, there, ahead: sentAt - hereAt(same)! }] : [];
		});
	}

	/**
	 * The thread in which the same was said at the same moment, the same way, and in no other: however little that is. Those in
	 * `known` are other threads' already.
	 */
	ofOneMoment(thread: readonly Woven[], known: ReadonlySet<string>): Counterpart | null {
		const ids = new Set<string>();
		let letters = 0;
		for (const { first, earlierWordingOf } of thread) {
			if (earlierWordingOf || first.sentAt === null || (first.group && first.text !== null)) continue;
			const key = textKey(first.text);
			const here = key ? (this.byText.get(key) ?? []) : first.text === null ? this.filesAround(first.sentAt) : [];
			const same = here.filter(
				(m) =>
					m.first.group === first.group &&
					m.first.text === first.text &&
					(first.text !== null || haveOneFile(m.first, first)) &&
					m.first.direction === first.direction &&
					Math.abs(hereAt(m)! - first.sentAt!) < AT_ONCE &&
					canBeOne(m.first.correspondent, first.correspondent)
			);
			for (const m of same) ids.add(m.thread);
			// To the very millisecond by chance nothing is.
			const isExact = same.some((m) => isExactly(hereAt(m)!, first.sentAt!));
			if (same.length > 0) letters += isExact ? LETTERS_AT_ONCE : (first.text?.length ?? LETTERS_AT_ONCE);
		}
		const [id] = ids;
		if (id === undefined || ids.size > 1 || known.has(id) || letters < LETTERS_AT_ONCE) return null;
		return this.joined(thread, id, this.pairsAtOnce(thread, id));
	}

	/** Messages that are files alone, around a moment in ms UTC. */
	private filesAround(at: number): Woven[] {
		const second = Math.floor(at / 1000);
		const until = at % MINUTE === 0 ? second + MINUTE / 1000 : second + 1;
		return Array.from({ length: until - second + 2 }, (_, i) => this.files.get(second - 1 + i) ?? []).flat();
	}

	private joined(thread: readonly Woven[], id: string, pairs: readonly Pair[]): Counterpart {
		return new Counterpart(id, pairs, thread, this.byThread.get(id) ?? [], this.loose, this.wordings, this.canonical);
	}

	/** Whether of a message that lost both its time and its conversation the words are those of one here alone: it is put with that. */
	takesByWords(there: Woven): boolean {
		const { text, sentAt } = there.first;
		if (sentAt !== null || !isOfNoThread(there.first) || there.earlierWordingOf || (text ?? '').length < LONG) return false;
		const same = this.byText.get(textKey(text)!) ?? [];
		if (same.length !== 1 || same[0]!.first.text !== text) return false;
		same[0]!.takeFromCopy(there, false);
		return true;
	}

	/** The thread with most said in both, each text counting once. */
	private best(
		thread: readonly Woven[],
		pairs: ReadonlyMap<string, Pair[]>,
		choose: (pairs: readonly Pair[]) => Pair[],
		least: number
	): Counterpart | null {
		let best: { id: string; pairs: Pair[]; weight: number } | null = null;
		const called = new Set(pairs.size > 0 ? this.namesOf(thread).flatMap((name) => [...(this.rooms.get(name) ?? [])]) : []);
		for (const [id, list] of pairs) {
			const usual = choose(list);
			const said = new Set(usual.map((p) => textKey(p.there.first.text)!));
			const weight =
				[...said].reduce((sum, t) => sum + (t.length >= LONG ? 1.5 : 0.7), 0) +
				(id === thread[0]!.thread || called.has(id) ? 1 : 0) +
				(usual.some(isUnmistakable) ? 0.5 : 0);
			if (weight >= least && (!best || weight > best.weight)) best = { id, pairs: usual, weight };
		}
		return best ? this.joined(thread, best.id, best.pairs) : null;
	}
}

/** A long text that one device sent and another received within seconds: nobody writes another such meanwhile. */
function isUnmistakable({ here, there, ahead }: Pair): boolean {
	const ways = new Set([here.first.direction, there.first.direction]);
	const text = here.first.text ?? '';
	return ways.has('in') && ways.has('out') && Math.abs(ahead) <= IN_TRANSIT && text.length >= LETTER && text === there.first.text;
}

/** The pairs around the commonest differences of their times: one, or two where the clocks were put forward or back. */
function usualPairs(pairs: readonly Pair[]): Pair[] {
	const buckets = new Map<number, Pair[]>();
	for (const p of pairs) put(buckets, Math.round(p.ahead / JITTER), p);
	const sorted = [...buckets].sort((a, b) => b[1].length - a[1].length);
	const main = sorted[0]?.[0] ?? 0;
	const hour = (60 * MINUTE) / JITTER;
	return sorted.flatMap(([at, list]) => (Math.abs(at - main) <= 1 || Math.abs(Math.abs(at - main) - hour) <= 1 ? list : []));
}

/**
 * A clock that was set wrong can be off by any time: then the difference is one for (nearly) all that both hold, and for
 * most of what was said.
 */
function constantPairs(pairs: readonly Pair[]): Pair[] {
	const buckets = new Map<number, Pair[]>();
	for (const p of pairs) put(buckets, Math.round(p.ahead / JITTER), p);
	const [main] = [...buckets].sort((a, b) => b[1].length - a[1].length);
	const usual = pairs.filter((p) => Math.abs(Math.round(p.ahead / JITTER) - main![0]) <= 1);
	const texts = (list: readonly Pair[]): number => new Set(list.map((p) => p.there)).size;
	return texts(usual) > texts(pairs) * 0.6 ? usual : [];
}

/** Whether two times are of one moment; of what is written in whole minutes the seconds are not told. */
const isOfMoment = (here: number, there: number): boolean =>
	Math.abs(here - there) < AT_ONCE || (there % MINUTE === 0 && here >= there && here < there + MINUTE);

const isExactly = (here: number, there: number): boolean => here === there && there % 1000 !== 0;

/** Whether each of two messages has one file, and nothing says that those are two: a name of a store's own says nothing. */
function canBeOneFile({ files: [a, ...more] }: Understood, { files: [b, ...others] }: Understood): boolean {
	if (!a || !b || more.length + others.length > 0 || (a.size !== null && b.size !== null && a.size !== b.size)) return false;
	const endings = [a, b].map(({ name }) => /\.(\w{1,5})$/.exec(name ?? '')?.[1]?.toLowerCase());
	return endings.includes(undefined) || endings[0] === endings[1];
}

/** Whether two messages state a file of one size, or where that is not stated of one name. */
const haveOneFile = (a: Understood, b: Understood): boolean =>
	a.files.some((x) => b.files.some((y) => (x.size !== null && y.size !== null ? x.size === y.size : x.name !== null && x.name === y.name)));

/** Whether two are not called by names that have nothing in common. */
function canBeOne(a: Party | null, b: Party | null): boolean {
	if (!a?.name || !b?.name) return true;
	const words = new Set(a.name.toLowerCase().split(/\s+/));
	return b.name
		.toLowerCase()
		.split(/\s+/)
		.some((word) => words.has(word));
}

class Counterpart {
	private readonly voices: Map<string, { direction: Direction | null; party: Party | null; group: Understood }>;

	constructor(
		readonly id: string,
		private readonly pairs: readonly Pair[],
		private readonly there: readonly Woven[],
		private readonly here: readonly Woven[],
		private readonly loose: readonly Woven[],
		private readonly wordings: ReadonlyMap<Woven, readonly (string | null)[]>,
		private readonly canonical: (party: Party) => string
	) {
		this.voices = this.learn();
	}

	/** Who wrote, in the copy's own terms. */
	private voice(m: Woven): string {
		const { direction, correspondent } = m.first;
		return direction === 'out' ? '>' : correspondent ? this.canonical(correspondent) : '?';
	}

	/** What each writer of the copy is here, by most of the messages that both have. */
	private learn(): Counterpart['voices'] {
		const votes = new Map<string, Map<string, { count: number; u: Understood }>>();
		for (const { here, there } of this.pairs) {
			const u = here.first;
			if (u.direction === null) continue;
			const mine = `${u.direction}|${u.direction === 'in' && u.correspondent ? this.canonical(u.correspondent) : ''}`;
			let own = votes.get(this.voice(there));
			if (!own) votes.set(this.voice(there), (own = new Map()));
			own.set(mine, { count: (own.get(mine)?.count ?? 0) + 1, u });
		}
		const voices: Counterpart['voices'] = new Map();
		for (const [voice, own] of votes) {
			const { u } = [...own.values()].sort((a, b) => b.count - a.count)[0]!;
			voices.set(voice, { direction: u.direction, party: u.correspondent, group: u });
		}
		// Of two who write, the one not met in both is the other one; in a room it can be a third.
		const all = [...new Set(this.there.map((m) => this.voice(m)))];
		const [known] = [...voices.values()];
		if (all.length === 2 && voices.size === 1 && !known!.group.group) {
			const other = all.find((v) => !voices.has(v))!;
			voices.set(other, { ...known!, direction: known!.direction === 'in' ? 'out' : 'in' });
		}
		// In a room whoever is not the owner wrote to him, also who is met in none of what both have.
		const owner = [...voices.values()].find(({ direction, group }) => direction === 'out' && group.group);
		for (const m of owner ? this.there : []) {
			const voice = this.voice(m);
			if (voice !== '>' && voice !== '?' && !voices.has(voice))
				voices.set(voice, { direction: 'in', party: m.first.correspondent, group: owner!.group });
		}
		return voices;
	}

	/** Whether what went there came here, or the other way round: on one device nothing does. */
	get isOfOtherSide(): boolean {
		const opposite = this.pairs.filter((p) => isOpposite(p.here, p.there)).length;
		return opposite > this.pairs.length / 2 || opposite >= Math.max(OPPOSITE_LEAST, this.pairs.length * OPPOSITE);
	}

	/** A conversation of which nothing says whom it is with is with whom another store of the same owner says. */
	takeName(): void {
		const named = this.there.find(({ first }) => !first.group && first.correspondent?.address);
		if (!named || this.here.some(({ first }) => first.group || first.correspondent)) return;
		for (const m of this.here) m.first = { ...m.first, correspondent: named.first.correspondent };
	}

	/** `otherSide`: whether the copy is another person's. */
	take(side: Side, otherSide: boolean): { added: Woven[]; sides: SidesOfThread } {
		const clock = median(this.pairs.map((p) => p.ahead));
		const taken = new Set<Woven>();
		const joined = new Set<Woven>();
		let differing = 0;
		const join = (here: Woven, there: Woven): void => {
			taken.add(here);
			joined.add(there);
			if (isLoose(here)) this.placeHere(here);
			this.inWordsOfHere(there);
			const { direction, correspondent } = there.first;
			if (isByPage(here) && direction !== null) here.first = { ...here.first, direction, correspondent };
			here.takeFromCopy(there, !side.exported && !otherSide);
		};
		for (const p of [...this.pairs].sort((a, b) => Math.abs(a.ahead - clock) - Math.abs(b.ahead - clock)))
			if (!taken.has(p.here) && !joined.has(p.there)) join(p.here, p.there);
		const free = this.there.filter((m) => !joined.has(m) && !m.earlierWordingOf);
		const near = new Near(this.here.filter((m) => !taken.has(m)));
		const apart = this.spread(clock);
		// What came here from a third source keeps the times of that: its clock, or one put forward, is another.
		const second = medianApart(this.pairs, clock);
		for (const there of free) {
			const voice = this.voices.get(this.voice(there));
			const fits = (here: Woven): boolean =>
				!taken.has(here) && (here.first.direction === null || !voice || here.first.direction === voice.direction);
			// Which way a row went that is told by its page alone, the other copy may say otherwise.
			const isGuessed = (here: Woven): boolean => !taken.has(here) && here.first.sentAt !== null && (isByPage(here) || isByPage(there));
			const isSame = (here: Woven): boolean =>
				(fits(here) || isGuessed(here)) && (here.first.text === there.first.text || isBeginningOf(here, there));
			const same = near.find(there, clock, isSame) ?? (second === null ? null : near.find(there, second, isSame));
			const before = same ?? near.find(there, clock, (here) => fits(here) && (this.wordings.get(here) ?? []).includes(there.first.text));
			const alike = before ?? near.find(there, clock, (here) => fits(here) && shared(here.first.text, there.first.text) >= ALIKE);
			const blank = alike ? null : blankOf(there, { clock, apart: apart ?? SAME_MOMENT }, near, fits);
			if (blank) {
				join(blank, there);
				if (isBlank(blank.first)) blank.takeTextBack(there.first);
				continue;
			}
			const reworded = alike ?? (apart === null ? null : this.ofThatMoment(there, free, { clock, apart }, near, fits));
			if (!reworded) continue;
			if (!same) {
				differing++;
				reworded.otherWording = there.first.text;
			}
			join(reworded, there);
		}
		this.byWords(clock, taken, joined, join);
		const added = this.there.filter((m) => !joined.has(m));
		for (const m of added) {
			this.inWordsOfHere(m);
			this.placeHere(m);
			if (Math.abs(clock) > JITTER) m.clockAhead = clock;
		}
		const span = spanOf(this.there, clock);
		const onlyHere = this.here.filter((m) => {
			const at = hereAt(m);
			return !taken.has(m) && at !== null && at >= span.from && at <= span.to;
		}).length;
		return {
			added,
			sides: {
				thread: this.id,
				store: side.store,
				name: side.name,
				otherSide,
				both: joined.size,
				onlyThere: added.filter((m) => !m.earlierWordingOf).length,
				onlyHere,
				differing,
				clock
			}
		};
	}

	/** By how much the times of what both hold differ from the usual, at most; null where that says nothing: clocks of whole minutes, few pairs. */
	private spread(clock: number): number | null {
		const apart = this.pairs.map((p) => Math.abs(p.ahead - clock)).sort((a, b) => a - b);
		const most = apart[Math.floor(apart.length * 0.95)] ?? Infinity;
		return apart.length >= PAIRS_TOLD && most <= SAME_MOMENT ? most : null;
	}

	/** The one message here of the very moment of one there, in whatever words, where nothing else there is of it. */
	private ofThatMoment(
		there: Woven,
		free: readonly Woven[],
		{ clock, apart }: { clock: number; apart: number },
		near: Near,
		fits: (here: Woven) => boolean
	): Woven | null {
		if (there.first.text === null || there.first.sentAt === null) return null;
		const at = there.first.sentAt - clock;
		const isOf = (here: Woven): boolean =>
			fits(here) && here.first.text !== null && here.first.direction !== null && Math.abs(hereAt(here)! - at) <= apart;
		const here = near.find(there, clock, isOf);
		if (!here || near.find(there, clock, (other) => other !== here && isOf(other))) return null;
		const others = free.filter(
			(m) => m !== there && m.first.sentAt !== null && Math.abs(m.first.sentAt - there.first.sentAt!) <= 2 * apart
		);
		return others.length === 0 ? here : null;
	}

	/** What lost its time, or all that says in which thread it was, is known by its text: where one alone has it on either side. */
	private byWords(clock: number, taken: ReadonlySet<Woven>, joined: ReadonlySet<Woven>, join: (here: Woven, there: Woven) => void): void {
		const here = new Map<string, Woven[]>();
		const wanted = (m: Woven): boolean => !taken.has(m) && (m.first.sentAt === null || isLoose(m));
		for (const m of [...this.here, ...this.loose]) if (wanted(m)) put(here, textKey(m.first.text) ?? '', m);
		const there = new Map<string, Woven[]>();
		for (const m of this.there) if (!joined.has(m) && !m.earlierWordingOf) put(there, textKey(m.first.text) ?? '', m);
		for (const [text, list] of there) {
			const [one] = list;
			const direction = this.voices.get(this.voice(one!))?.direction ?? null;
			const fits = (here.get(text) ?? []).filter(
				(m) =>
					(m.first.sentAt === null || Math.abs(hereAt(m)! - ((one!.first.sentAt ?? Infinity) - clock)) <= JITTER) &&
					(m.first.direction === null || direction === null || m.first.direction === direction)
			);
			const [fit] = fits;
			const isOfThatMoment =
				fit !== undefined && fit.first.sentAt !== null && Math.abs(hereAt(fit)! - ((one!.first.sentAt ?? Infinity) - clock)) <= SAME_MOMENT;
			if ((text.length >= ONES_OWN || isOfThatMoment) && list.length === 1 && fits.length === 1) join(fit!, one!);
		}
	}

	/** Says who wrote a message of the copy as it is said here. */
	private inWordsOfHere(m: Woven): void {
		const voice = this.voices.get(this.voice(m));
		if (voice) m.first = { ...m.first, direction: voice.direction, correspondent: voice.party };
	}

	private placeHere(m: Woven): void {
		m.thread = this.id;
		const { threadKey, group, members, threadTitle } = this.here[0]!.first;
		m.first = { ...m.first, threadKey, group, members, threadTitle };
	}
}

/** The one message of the very moment of one there, where of one of the two nothing but the row is left; null where there is none, or another could be it. */
function blankOf(
	there: Woven,
	{ clock, apart }: { clock: number; apart: number },
	near: Near,
	fits: (here: Woven) => boolean
): Woven | null {
	const { text, sentAt } = there.first;
	const isLeft = isBlank(there.first);
	if ((text === null && !isLeft) || sentAt === null) return null;
	const isOf = (here: Woven): boolean =>
		fits(here) && isBlank(here.first) !== isLeft && Math.abs(hereAt(here)! - (sentAt - clock)) <= apart;
	const here = near.find(there, clock, isOf);
	return here && !near.find(there, clock, (other) => other !== here && isOf(other)) ? here : null;
}

/** When a message was by the clock of the first source: one that came from a copy before has the time of that. */
const hereAt = ({ first: { sentAt }, clockAhead }: Woven): number | null => (sentAt === null ? null : sentAt - clockAhead);

/** What a message says: its text, or else the files it is. */
const saidIn = ({ first: { text, files } }: Woven): string => text ?? `\u0000${files.map((f) => `${f.name} ${f.size}`).join()}`;

const isOpposite = (a: Woven, b: Woven): boolean =>
	a.first.direction !== null && b.first.direction !== null && a.first.direction !== b.first.direction;

function median(numbers: readonly number[]): number {
	const sorted = [...numbers].sort((a, b) => a - b);
	return sorted[sorted.length >> 1] ?? 0;
}

/** The usual difference of the pairs that are not of the commonest one; null where there are none. */
function medianApart(pairs: readonly Pair[], clock: number): number | null {
	const apart = pairs.map((p) => p.ahead).filter((ahead) => Math.abs(ahead - clock) > JITTER);
	return apart.length > 0 ? median(apart) : null;
}

function spanOf(messages: readonly Woven[], clock: number): { from: number; to: number } {
	let from = Infinity;
	let to = -Infinity;
	for (const m of messages) {
		if (m.first.sentAt === null) continue;
		from = Math.min(from, m.first.sentAt - clock);
		to = Math.max(to, m.first.sentAt - clock);
	}
	return { from, to };
}

/** Messages by their time. */
class Near {
	private readonly sorted: Woven[];

	constructor(messages: readonly Woven[]) {
		this.sorted = messages.filter((m) => m.first.sentAt !== null).sort((a, b) => hereAt(a)! - hereAt(b)!);
	}

	find(there: Woven, clock: number, fits: (here: Woven) => boolean): Woven | null {
		if (there.first.sentAt === null) return null;
		const at = there.first.sentAt - clock;
		const first = firstReached(this.sorted.length, (i) => hereAt(this.sorted[i]!)! >= at - JITTER);
		for (let i = first; i < this.sorted.length && hereAt(this.sorted[i]!)! <= at + JITTER; i++)
			if (fits(this.sorted[i]!)) return this.sorted[i]!;
		return null;
	}
}

/** 0–1: words that two texts share. */
function shared(a: string | null, b: string | null): number {
	if (!a || !b) return 0;
	const x = new Set(
		a
			.toLowerCase()
			.split(/[^\p{L}\p{N}]+/u)
			.filter((w) => w !== '')
	);
	const y = new Set(
		b
			.toLowerCase()
			.split(/[^\p{L}\p{N}]+/u)
			.filter((w) => w !== '')
	);
	const both = [...x].filter((w) => y.has(w)).length;
	return x.size + y.size === 0 ? 0 : (2 * both) / (x.size + y.size);
}

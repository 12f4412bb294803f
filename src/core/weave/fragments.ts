/**
 * Parts of messages that are known whole: a fragment left where the message stood once, in this capture or another, is
 * one more place where it was seen, and no message of its own. It is told by its text, and only where one message
 * alone has that text in it and nothing else that is left speaks against it.
 */
import { Pieces } from '../bytes';
import { isOfNoThread, type Woven } from './woven';

/** Letters below which a part can be one of many messages. */
const LEAST = 8;

/** Puts fragments under the messages they are parts of; what is left. */
export function placeFragments(messages: Woven[]): Woven[] {
	const all = messages.filter((m) => m.grade === 'fragment' && m.first.text !== null);
	if (all.length === 0) return messages;
	/** Each fragment that found its message, and that. */
	const placed = new Map<Woven, Woven>();
	const put = (fragment: Woven, whole: Woven): void => {
		whole.takeIn(fragment);
		for (const [store, standing] of fragment.seenIn ?? []) whole.noteIn(store, standing);
		placed.set(fragment, whole);
	};
	const byPlace = new Map<string, Woven>();
	for (const fragment of all) {
		const place = placeOf(fragment);
		const first = byPlace.get(place);
		if (!first) byPlace.set(place, fragment);
		else if (first.store !== fragment.store) put(fragment, first);
	}
	const entries = entriesAlone(all, messages);
	const fragments = all.filter((f) => !placed.has(f) && (f.first.text!.length >= LEAST || f.first.sentAt !== null || entries.has(f)));
	const found = containersOf(
		fragments.filter((f) => f.first.text!.length >= LEAST || entries.has(f)),
		messages,
		(f) => (entries.get(f) ? MORE_LETTERS : 0)
	);
	for (const [fragment, containers] of ofOneTime(
		fragments.filter((f) => f.first.text!.length < LEAST && !entries.has(f)),
		messages
	))
		found.set(fragment, containers);
	for (const [entry, messagesOf] of beginningAs(entries.keys(), messages)) found.set(entry, [...(found.get(entry) ?? []), ...messagesOf]);
	// The longest first: a shorter part can be a part of what a longer one is.
	for (const fragment of fragments.sort((a, b) => b.first.text!.length - a.first.text!.length)) {
		const able = (found.get(fragment) ?? []).filter((m) => !placed.has(m) && canBe(fragment, m, entries));
		const wholes = able.filter((m) => m.grade !== 'fragment');
		const containers = wholes.length > 0 ? wholes : able;
		const mains = new Set(containers.map((m) => m.earlierWordingOf ?? m));
		if (mains.size !== 1) continue;
		const whole = containers.find((m) => m.earlierWordingOf === null) ?? containers[0]!;
		put(fragment, whole);
	}
	const repeated = new Set(
		[...entries].flatMap(([e, isUnnumbered]) =>
			isUnnumbered && !placed.has(e) && (found.get(e) ?? []).some((m) => m !== e && !entries.has(m)) ? [e] : []
		)
	);
	if (placed.size + repeated.size === 0) return messages;
	const foundOf = (m: Woven): Woven => {
		const whole = placed.get(m);
		return whole ? foundOf(whole) : m;
	};
	for (const m of messages) {
		if (m.answers) m.answers = foundOf(m.answers);
		const main = m.earlierWordingOf && foundOf(m.earlierWordingOf);
		m.earlierWordingOf = main === m ? null : main;
	}
	// A wording of a wording is one of the message itself.
	for (const m of messages) if (m.earlierWordingOf?.earlierWordingOf) m.earlierWordingOf = m.earlierWordingOf.earlierWordingOf;
	return messages.filter((m) => !placed.has(m) && !repeated.has(m));
}

/**
 * Entries of indexes without a time, and whether nothing but their text says that there was another message: those that lost
 * their number or have that of a message that says something else. A number that no message has can be misread as well, which
 * a text that says enough tells: one message alone has it in it.
 */
function entriesAlone(fragments: readonly Woven[], messages: readonly Woven[]): Map<Woven, boolean> {
	const alone = fragments.filter((m) => m.first.sentAt === null && m.sightings.every((s) => s.method === 'index-entry'));
	if (alone.length === 0) return new Map();
	const keyOf = (m: Woven): string => `${m.store}|${m.first.row.table}|${m.record}`;
	const entries = new Set(alone);
	const numbered = new Set(messages.filter((m) => m.record !== null && !entries.has(m)).map(keyOf));
	const isUnnumbered = (m: Woven): boolean => m.record === null || numbered.has(keyOf(m));
	return new Map(alone.filter((m) => isUnnumbered(m) || m.first.text!.length >= SAYS_ENOUGH).map((m) => [m, isUnnumbered(m)]));
}
const SAYS_ENOUGH = 16;

/** Where on which page what is left of a message lies: the same bytes there in another capture are left of the same message. */
export function placeOf({ first }: Woven): string {
	const { page, offset, length } = first.row.sightings[0]!;
	return `${first.row.table}|${page ?? `@${offset}`}|${length}|${first.text}`;
}

function canBe(fragment: Woven, m: Woven, entries: ReadonlyMap<Woven, boolean>): boolean {
	const [a, b] = [fragment.first, m.first];
	if (m === fragment || (a.sentAt !== null && a.sentAt !== b.sentAt)) return false;
	// Two alike in one capture may be two messages.
	if (a.text === b.text && fragment.store === m.store && !(entries.has(fragment) && !entries.has(m))) return false;
	if (a.text === b.text && m.grade === 'fragment' && b.sentAt !== null && a.sentAt === null) return false;
	if (a.direction !== null && b.direction !== null && a.direction !== b.direction) return false;
	if (fragment.record !== null && m.record !== null && fragment.record !== m.record && !entries.has(fragment)) return false;
	return fragment.thread === m.thread || isOfNoThread(a) || isOfNoThread(b);
}

/** Messages whose whole text an entry has but for a letter or two more: bytes of the number behind it, read as letters. */
function beginningAs(entries: Iterable<Woven>, messages: readonly Woven[]): Map<Woven, Woven[]> {
	const shorter = new Map<string, Woven[]>();
	for (const entry of entries) {
		const text = entry.first.text!;
		for (let less = 1; less <= MORE_LETTERS && text.length - less >= LEAST; less++) {
			const list = shorter.get(text.slice(0, -less));
			if (list) list.push(entry);
			else shorter.set(text.slice(0, -less), [entry]);
		}
	}
	const found = new Map<Woven, Woven[]>();
	for (const m of messages)
		for (const entry of (shorter.size > 0 && shorter.get(m.first.text ?? '')) || []) found.set(entry, [...(found.get(entry) ?? []), m]);
	return found;
}
const MORE_LETTERS = 3;

/** For fragments of few letters that have their time: the messages of the same time that begin so. */
function ofOneTime(fragments: readonly Woven[], messages: readonly Woven[]): Map<Woven, Woven[]> {
	const wanted = new Map(fragments.map((f) => [f.first.sentAt, [] as Woven[]]));
	for (const m of messages) wanted.get(m.first.sentAt)?.push(m);
	return new Map(fragments.map((f) => [f, wanted.get(f.first.sentAt)!.filter((m) => m.first.text?.startsWith(f.first.text!))]));
}

/** For each fragment the messages whose texts have its own in them, but for up to so many letters at its end. */
function containersOf(fragments: readonly Woven[], messages: readonly Woven[], butFor: (fragment: Woven) => number): Map<Woven, Woven[]> {
	const pieces = new Pieces<Woven>();
	for (const f of fragments)
		for (let less = 0; less <= butFor(f) && less < f.first.text!.length; less++)
			pieces.add(f.first.text!.slice(0, f.first.text!.length - less), f);
	const found = new Map<Woven, Woven[]>();
	for (const m of messages) {
		pieces.eachIn(m.first.text ?? '', (f) => {
			const list = found.get(f) ?? [];
			if (list.at(-1) === m || list.length >= CONTAINERS) return;
			found.set(f, list);
			list.push(m);
		});
	}
	return found;
}

/** More than a few, and it is not known of which it is a part. */
const CONTAINERS = 20;

/** Runs a look over a vector and holds the result against its truth. */
import { MemorySource } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { plainMessage, type Message } from '../../src/core/weave';
import type { TruthMessage, Vector } from './build';

export interface Score {
	name: string;
	inUse: number;
	inUseFound: number;
	/** In-use messages with text, time, direction and correspondent right. */
	inUseRight: number;
	deletedThere: number;
	deletedFound: number;
	deletedRight: number;
	reported: number;
	falseTexts: number;
	duplicates: number;
	wrongStanding: number;
	threadsRight: boolean;
	problems: string[];
}

export function lookAt(vector: Vector): Message[] {
	const look = new Look(
		vector.files.map((f) => ({ name: f.name, path: `/${f.name}`, source: new MemorySource(f.bytes) })),
		{ reach: 'raw' }
	);
	for (const event of look.run()) void event;
	const { stores, weave } = look.findings();
	return weave.threads.flatMap((t) => t.messages.map((m) => plainMessage(m, stores, look.files, { hex: false, stored: false })));
}

function expected(v: Vector, m: TruthMessage): { direction: 'in' | 'out'; correspondent: string | null } {
	const talk = v.story.talks[m.talk]!;
	const address = (id: number): string => (v.layout.address === 'number' ? v.story.people[id - 1]!.number : v.story.people[id - 1]!.handle);
	if (m.writer === 0) return { direction: 'out', correspondent: talk.members.length > 1 ? null : address(talk.members[0]!) };
	return { direction: 'in', correspondent: address(m.writer) };
}

export function score(v: Vector, found: Message[] = lookAt(v)): Score {
	const s: Score = {
		name: v.name,
		inUse: 0,
		inUseFound: 0,
		inUseRight: 0,
		deletedThere: 0,
		deletedFound: 0,
		deletedRight: 0,
		reported: found.length,
		falseTexts: 0,
		duplicates: 0,
		wrongStanding: 0,
		threadsRight: true,
		problems: []
	};
	const byText = new Map<string, Message[]>();
	for (const m of found) {
		const list = byText.get(m.text ?? '');
		if (list) list.push(m);
		else byText.set(m.text ?? '', [m]);
	}
	const say = (what: string): void => {
		if (s.problems.length < 12) s.problems.push(what);
	};
	const times = new Map<string, Set<number | null>>();
	for (const m of v.truth) times.set(m.text, (times.get(m.text) ?? new Set()).add(m.at));
	const threads = new Map<number, Set<string>>();
	const taken = new Set<Message>();
	for (const m of v.truth) {
		const candidates = (byText.get(m.text) ?? []).filter((f) => !f.earlierWordingOf && !f.textCut);
		const hit =
			candidates.find((f) => !taken.has(f) && f.sentAt === m.at) ??
			candidates.find((f) => !taken.has(f) && !times.get(m.text)!.has(f.sentAt));
		if (hit) taken.add(hit);
		const want = expected(v, m);
		const right = hit !== undefined && hit.sentAt === m.at && hit.direction === want.direction && hit.correspondent === want.correspondent;
		if (!m.deleted) {
			s.inUse++;
			if (hit) s.inUseFound++;
			if (right) s.inUseRight++;
			else
				say(
					`in use: ${JSON.stringify(m.text.slice(0, 30))} ${hit ? `got ${hit.sentAt === m.at ? 'time ok' : hit.sentAt} ${hit.direction} ${hit.correspondent}` : 'not found'}, wanted ${want.direction} ${want.correspondent}`
				);
			if (hit && hit.standing !== 'kept') s.wrongStanding++;
		} else {
			if (hit?.standing === 'kept') s.wrongStanding++;
			if (m.there) {
				s.deletedThere++;
				if (hit) s.deletedFound++;
				else say(`deleted, not found: ${JSON.stringify(m.text.slice(0, 40))}`);
				if (right) s.deletedRight++;
				else if (hit)
					say(
						`deleted: ${JSON.stringify(m.text.slice(0, 30))} got ${hit.sentAt === m.at ? 'time ok' : hit.sentAt} ${hit.direction} ${hit.correspondent}, wanted ${want.direction} ${want.correspondent}`
					);
			}
		}
		if (hit && !m.deleted) {
			const set = threads.get(m.talk);
			if (set) set.add(hit.thread);
			else threads.set(m.talk, new Set([hit.thread]));
		}
	}
	const all = [...threads.values()];
	s.threadsRight = all.every((t) => t.size === 1) && new Set(all.map((t) => [...t][0])).size === all.length;
	for (const m of found) {
		if (m.textCut) {
			if (m.text !== null && ![...v.texts].some((t) => t.includes(m.text!))) {
				s.falseTexts++;
				say(`false fragment: ${JSON.stringify(m.text.slice(0, 50))}`);
			}
			continue;
		}
		if (!v.texts.has(m.text ?? '')) {
			s.falseTexts++;
			say(`false: ${JSON.stringify((m.text ?? '').slice(0, 50))} ${m.standing} ${m.grade}`);
		} else if (!taken.has(m) && !m.earlierWordingOf && (m.text ?? '').length > 12) {
			const wasEarlier = v.truth.some((t) => t.earlier.includes(m.text!));
			if (wasEarlier) say(`earlier wording not linked: ${JSON.stringify(m.text!.slice(0, 30))}`);
			else {
				s.duplicates++;
				say(`twice: ${JSON.stringify(m.text!.slice(0, 40))} ${m.standing} ${m.grade} ${m.sightings[0]?.method}`);
			}
		}
	}
	return s;
}

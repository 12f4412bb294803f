/** The lines of the contract in docs/cli.md. */
import type { Gap } from '../core/model';
import {
	bracketOf,
	capturesFor,
	plainMessage,
	type MediaIndex,
	type NamedSource,
	type Weave,
	type Woven,
	type WovenStore
} from '../core/weave';

const iso = (ms: number | null): string | null => (ms === null ? null : new Date(ms).toISOString());

export function messageLine(
	woven: Woven,
	stores: readonly WovenStore[],
	weave: Weave,
	files: readonly NamedSource[],
	media: MediaIndex,
	zone: string | null
): Record<string, unknown> {
	const m = plainMessage(woven, stores, files, { hex: false, stored: false, media });
	const local = m.zoned || m.sentAt === null ? null : new Date(m.sentAt).toISOString().replace('Z', '');
	return {
		id: m.id,
		thread: m.thread,
		text: m.text,
		...(m.textRest ? { textRest: m.textRest } : {}),
		sentAt: iso(m.sentAt),
		...(local && !zone ? { localTime: local } : {}),
		direction: m.direction,
		correspondent: m.correspondent,
		person: m.person,
		standing: m.standing,
		grade: m.grade,
		...captureFields(woven, weave),
		...(m.earlierWordingOf ? { earlierWordingOf: m.earlierWordingOf } : {}),
		...(m.otherWording !== undefined ? { otherWording: m.otherWording } : {}),
		...(m.until !== undefined ? { until: iso(m.until) } : {}),
		...(m.replyTo ? { replyTo: m.replyTo } : {}),
		...(m.attached ? { attached: m.attached.map((a) => ({ what: a.what, who: a.who, at: iso(a.at), standing: a.standing })) } : {}),
		attachments: (m.attachments ?? []).map(({ name, type, size, sha256, path, link, stated }) => ({
			name,
			type,
			size,
			sha256,
			path,
			link,
			stated
		})),
		sightings: m.sightings.map((s) => ({
			source: s.source,
			path: s.path,
			offset: s.offset,
			length: s.length,
			method: s.method,
			standing: s.standing,
			grade: s.grade
		}))
	};
}

/** State in each capture, where there are several, and the times between which it was deleted. */
function captureFields(woven: Woven, weave: Weave): Record<string, unknown> {
	const found = capturesFor(woven, weave);
	if (!found) return { lastSeen: null, firstMissing: null };
	const { states, lastSeen, firstMissing } = bracketOf(found.of, found.family);
	return {
		captures: states.map(({ capture, state }) => ({ capture: capture.name, time: iso(capture.time), state })),
		lastSeen: iso(lastSeen),
		firstMissing: iso(firstMissing)
	};
}

export const gapLine = (gap: Gap): Record<string, unknown> => ({
	store: gap.store,
	table: gap.table,
	// A counter and a list name no record numbers.
	from: gap.from === 0 ? null : gap.from,
	to: gap.to === 0 ? null : gap.to,
	count: gap.count,
	after: iso(gap.after),
	before: iso(gap.before),
	why: gap.why
});

/** Conversations whose heads name both ends of each message, with an arrow between them: "Ada -> Noor: …". */
import type { ExportedMessage } from './exported-message';
import { trimName } from './heads';

const ARROW = /^(.{1,60}?)\s*(?:-{1,2}>|={1,2}>|→|⇒|➔|»|>{2})\s*(.{1,60})$/u;
const LEAST = 3;
const NEARLY_ALL = 0.95;

/** Says of each message who wrote it and whose conversation it is, where (nearly) all heads have both ends. */
export function tellEnds(messages: readonly ExportedMessage[]): void {
	const ends = messages.map(({ writer }) => {
		const [, from, to] = ARROW.exec(writer ?? '') ?? [];
		return from === undefined ? null : { from: trimName(from), to: trimName(to!) };
	});
	const told = ends.filter((e) => e !== null);
	if (told.length < LEAST || told.length < messages.length * NEARLY_ALL) return;
	const writers = new Set(told.map(({ from }) => from));
	// Who is one of the ends wherever somebody wrote to one who writes as well is the owner; the others' rooms write nothing.
	const between = told.filter(({ to }) => writers.has(to));
	const [owner] = [...writers].filter((name) => between.length > 0 && between.every(({ from, to }) => from === name || to === name));
	for (const [i, m] of messages.entries()) {
		const end = ends[i];
		if (!end) continue;
		m.writer = end.from;
		const other = end.to === owner ? end.from : end.to;
		m.with = owner !== undefined || !writers.has(end.to) ? other : [end.from, end.to].sort().join(', ');
	}
}

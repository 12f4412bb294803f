/** Conversations whose heads say which way a message went instead of who wrote it: "Sent to Ada", "← Ada". */
import { isInWord, isOutWord } from '../../way-words';
import type { ExportedMessage } from './exported-message';
import { nameAndAddress } from './name-and-address';

/** How the owner is called where a message only says that it was sent. */
const OWNER = 'me';
/** Words between that of the way and a name. */
const TO = /^(to|from|by|an|von|à|de|a|para|da|aan|van|till|från|til|fra|do|od)$/i;

interface Told {
	out: boolean;
	name: string;
}

/** A word for a way has two letters at least: one alone is an initial. Behind a name it stands in brackets, or is a sign. */
const WAY_IN_FRONT = /^(?:\p{L}{2,}[:：]?|[^\p{L}\d]+)$/u;
const WAY_BEHIND = /^(?:[([].+[)\]]|[^\p{L}\d]+)$/u;

/** What a head says: a way, perhaps a word that leads to a name, and the name; in either order. */
function toldBy(head: string): Told | null {
	const words = head.split(/\s+(?:[|·•–—-]\s+)?/u);
	for (const [way, form, rest] of [
		[words[0]!, WAY_IN_FRONT, words.slice(1)],
		[words.at(-1)!, WAY_BEHIND, words.slice(0, -1)]
	] as const) {
		const word = way.replace(/[:：()[\]]/g, '');
		const name = (TO.test(rest[0]?.replace(':', '') ?? '') ? rest.slice(1) : rest).join(' ');
		if (form.test(way) && name !== '' && isOutWord(word) !== isInWord(word)) return { out: isOutWord(word), name };
	}
	return null;
}

/** Whether a head says a way and a name. */
export const tellsWay = (head: string): boolean => toldBy(head) !== null;

/** Where every writer is told so: the owner, or who wrote; and whose conversation it is, where a file has several. */
export function tellWays(messages: ExportedMessage[]): void {
	const told = new Map<string, Told>();
	for (const { writer } of messages) {
		if (writer === null || told.has(writer)) continue;
		const one = toldBy(writer);
		if (!one) return;
		told.set(writer, one);
	}
	const to = new Set([...told.values()].filter((t) => t.out).map((t) => t.name));
	const from = new Set([...told.values()].filter((t) => !t.out).map((t) => t.name));
	const areSame = [...to].some((name) => from.has(name));
	// All that was sent went to one who never writes: a group.
	if (!areSame && (to.size !== 1 || from.size === 0)) return;
	for (const m of messages) {
		if (m.writer === null) continue;
		const { out, name } = told.get(m.writer)!;
		const both = nameAndAddress(name);
		const other = both?.address ?? name;
		m.writer = out ? OWNER : other;
		m.called = both?.name ?? null;
		if (areSame) m.with = other;
	}
}

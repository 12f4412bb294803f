/** The messages of a capture and of its parts as one list: what was moved into a part is one message with what is left of it. */
import { put } from '../lists';
import type { Capture } from './families';
import { isEdit, sameMessage, sameRecord, type WovenStore } from './weave';
import { isInUse, type Woven } from './woven';

export function messagesWithParts({ store, parts }: Capture, perStore: readonly Woven[][], stores: readonly WovenStore[]): Woven[] {
	let all = perStore[store]!;
	for (const part of parts) all = joined(all, perStore[part]!, stores);
	return all;
}

function joined(own: readonly Woven[], others: readonly Woven[], stores: readonly WovenStore[]): Woven[] {
	const byRecord = new Map<string, Woven[]>();
	const bySaying = new Map<string, Woven[]>();
	for (const m of own) {
		if (m.earlierWordingOf) continue;
		const [key, said] = [keyOf(m, stores), sayingOf(m)];
		if (key !== null) put(byRecord, key, m);
		if (said !== null) put(bySaying, said, m);
	}
	const became = new Map<Woven, Woven>();
	const left = others.filter((m) => {
		if (m.earlierWordingOf) return true;
		const known = (byRecord.get(keyOf(m, stores) ?? '') ?? []).filter((other) => !became.has(other));
		const same =
			known.find((other) => sameMessage(other.first, m.first) || sameRecord(other.first, m.first)) ??
			(bySaying.get(sayingOf(m) ?? '') ?? []).find((other) => !became.has(other) && areNotTwo(m, other));
		if (same) {
			const [kept, lost] = isInUse(m) ? [m, same] : [same, m];
			kept.takeIn(lost);
			became.set(lost, kept);
			return kept === m;
		}
		// It was edited after it had been moved.
		const before = isInUse(m) ? known.find((other) => !isInUse(other) && isEdit(other.first, m.first, true)) : undefined;
		if (before) before.earlierWordingOf = m;
		return true;
	});
	const all = [...own.filter((m) => !became.has(m)), ...left];
	for (const m of all) if (m.earlierWordingOf) m.earlierWordingOf = rootOf(became.get(m.earlierWordingOf) ?? m.earlierWordingOf);
	return all;
}

/** What an earlier wording is one of, where that has become one itself. */
const rootOf = (m: Woven): Woven => m.earlierWordingOf ?? m;

/** Of two that say the same one is in use at most, and not both have a number. */
const areNotTwo = (a: Woven, b: Woven): boolean =>
	(a.record === null || b.record === null) && !(isInUse(a) && isInUse(b)) && a.thread === b.thread;

/** What a message says, or the file it has, when and which way; null where that is not known. */
function sayingOf({ first: { text, sentAt, direction, files } }: Woven): string | null {
	const said = text ?? (files[0]?.name ? `\u0000${files[0].name}` : null);
	return said === null || sentAt === null ? null : `${sentAt}|${direction ?? ''}|${said}`;
}

const keyOf = ({ record, recordTable, store }: Woven, stores: readonly WovenStore[]): string | null =>
	record === null ? null : `${stores[store]!.harvest.tables[recordTable]!.name}#${record}`;

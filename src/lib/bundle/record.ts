/** Gathers what is picked into a record: messages with their sightings, read from storage chunk by chunk. */
import type { BundleRecord, RecordMessage, RecordThread } from '$core/bundle';
import { detailOf, messageChunk, type CaseRecord, type Picks, type ThreadRecord } from '$store';

export interface RecordChoices {
	zone: string;
	showSightings: boolean;
	showGaps: boolean;
}

export async function gatherRecord(
	record: CaseRecord,
	threads: readonly ThreadRecord[],
	picks: Picks,
	choices: RecordChoices
): Promise<BundleRecord> {
	const picked = threads.filter((t) => picks.threads[t.id] !== undefined);
	const out: RecordThread[] = [];
	for (const thread of picked) out.push(await gatherThread(record, thread, picks.threads[thread.id]!));
	return {
		caseName: record.name,
		owner: record.owner,
		zone: choices.zone,
		madeAt: Date.now(),
		showSightings: choices.showSightings,
		showGaps: choices.showGaps,
		sources: record.files.map(({ name, path, size, sha256 }) => ({ name, path, size, sha256 })),
		remarks: [...namedByHand(record, picked), ...record.notes.map((n) => n.text)].slice(0, 40),
		threads: out
	};
}

/** Names in these threads that no source has. */
function namedByHand({ names }: CaseRecord, threads: readonly ThreadRecord[]): string[] {
	const there = new Set(threads.flatMap((t) => [t.address, ...t.members.map((m) => m.address)]));
	return Object.entries(names).flatMap(([address, name]) =>
		there.has(address) ? [`The name “${name}” of ${address} was put in by hand; it is in no source.`] : []
	);
}

async function gatherThread(record: CaseRecord, thread: ThreadRecord, pick: 'all' | string[]): Promise<RecordThread> {
	const wanted = pick === 'all' ? null : new Set(pick);
	const messages: RecordMessage[] = [];
	for (let n = 0; n < thread.chunks; n++) {
		const [slim, details] = await Promise.all([messageChunk(record.id, thread.id, n), detailOf(record.id, thread.id, n)]);
		const byId = new Map(details.map((d) => [d.id, d]));
		for (const m of slim) {
			// An earlier wording goes with its message.
			if (wanted && !wanted.has(m.id) && !(m.earlierWordingOf && wanted.has(m.earlierWordingOf))) continue;
			messages.push({
				id: m.id,
				text: m.text,
				textCut: m.textCut,
				...(m.textRest ? { textRest: m.textRest } : {}),
				sentAt: m.sentAt,
				zoned: m.zoned,
				direction: m.direction,
				correspondent: m.correspondent,
				person: m.person,
				standing: m.standing,
				grade: m.grade,
				table: m.table,
				record: m.record,
				...(m.earlierWordingOf ? { earlierWordingOf: m.earlierWordingOf } : {}),
				sightings: (byId.get(m.id)?.sightings ?? []).map(({ hex: _h, hexFrom: _f, mark: _m, ...s }) => s)
			});
		}
	}
	const gaps = record.gaps
		.filter((g) => g.threads.includes(thread.id))
		.map((g) => ({
			table: g.table,
			from: g.from,
			to: g.to,
			count: g.count,
			after: g.after,
			before: g.before,
			certain: g.certainThread || g.threads.length === 1,
			beside: g.why === 'numbering'
		}));
	return {
		id: thread.id,
		title: thread.title,
		address: thread.address,
		group: thread.group,
		members: thread.members,
		total: thread.count,
		messages,
		gaps
	};
}

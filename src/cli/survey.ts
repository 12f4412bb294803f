/** Lines of the `survey` command: each store, from its rows in use alone. */
import type { Look } from '../core/look';
import type { Unwrapped } from '../core/unwrap';

const iso = (ms: number | null): string | null => (ms === null ? null : new Date(ms).toISOString());

export function surveyLines(look: Look, unwrapped: Unwrapped): object[] {
	const { stores, weave } = look.findings();
	return stores.map((store, i) => {
		const own = store.understood.messages.filter((u) => u.row.standing === 'kept');
		let from: number | null = null;
		let to: number | null = null;
		const threads = new Set<string>();
		for (const u of own) {
			threads.add(u.threadKey);
			if (u.sentAt === null) continue;
			if (from === null || u.sentAt < from) from = u.sentAt;
			if (to === null || u.sentAt > to) to = u.sentAt;
		}
		const path = look.files[look.groups[i]!.db]!.path;
		const family = weave.families[weave.familyOf[i]!]!;
		const backup = unwrapped.backups.find((b) => b.files.some((f) => f.path === path));
		return {
			path,
			kind: store.reading.messages.length > 0 ? 'messages' : store.reading.persons.length > 0 ? 'contacts' : 'other',
			estimate: own.length,
			from: iso(from),
			to: iso(to),
			threads: threads.size,
			capture: iso(family.captures.find((c) => c.store === i)?.time ?? null),
			...(backup ? { device: backup.device, locked: backup.locked } : {})
		};
	});
}

/** Lines of the `survey` command: each store, from its rows in use alone. */
import type { Look } from '../core/look';
import type { Unwrapped } from '../core/unwrap';

const iso = (ms: number | null): string | null => (ms === null ? null : new Date(ms).toISOString());

export function surveyLines(look: Look, unwrapped: Unwrapped): object[] {
	return look.survey().map(({ path, kind, estimate, from, to, threads, capture, sampled }) => {
		const backup = unwrapped.backups.find((b) => b.files.some((f) => f.path === path));
		return {
			path,
			kind,
			estimate,
			from: iso(from),
			to: iso(to),
			threads,
			capture: iso(capture),
			...(sampled ? { sampled } : {}),
			...(backup ? { device: backup.device, locked: backup.locked } : {})
		};
	});
}

/** Lines of the `contacts` command: persons of the stores and of address books. */
import type { Look } from '../core/look';

export function contactLines(look: Look): object[] {
	return look.contacts().map((c) => ({
		name: c.name,
		numbers: c.numbers,
		emails: c.emails,
		handles: c.handles,
		standing: c.standing,
		sightings: c.sightings.map((s) => ({
			source: look.files[s.file]!.name,
			path: look.files[s.file]!.path,
			offset: s.offset,
			length: s.length,
			method: s.method,
			standing: s.standing,
			grade: s.grade
		}))
	}));
}

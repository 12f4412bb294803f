/** What the fields of records must be like, so that texts which only look like records are left as they are. */
import type { Value } from '../../model';
import { profileOfValues } from '../profile';

const WRITTEN = 0.3;
const NEARLY_ALL = 0.95;

/** Whether one of the fields is when, nearly always, and another what was written. `fields`: their values, record by record. */
export function areOfMessages(fields: readonly (readonly (Value | undefined)[])[]): boolean {
	const profiles = fields.map(profileOfValues);
	return (
		profiles.some((p, i) => p.time !== null && p.filled >= fields[i]!.length * NEARLY_ALL) &&
		profiles.some((p) => p.time === null && p.prose > WRITTEN)
	);
}

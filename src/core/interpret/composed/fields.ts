/** What the fields of records must be like, so that texts which only look like records are left as they are. */
import type { Row, Value } from '../../model';
import { profileOf, type Profile } from '../profile';

const WRITTEN = 0.3;
const NEARLY_ALL = 0.95;

const rowOf = (value: Value | undefined): Row => ({
	table: 0,
	tableKnown: false,
	rowid: null,
	values: [value],
	standing: 'kept',
	grade: 'whole',
	cut: -1,
	sightings: []
});

export function profileOfTexts(texts: readonly (Value | undefined)[]): Profile {
	const rows = texts.map(rowOf);
	return profileOf(rows, (row) => row.values[0], rows);
}

/** Whether one of the fields is when, nearly always, and another what was written. `fields`: their values, record by record. */
export function areOfMessages(fields: readonly (readonly (Value | undefined)[])[]): boolean {
	const profiles = fields.map(profileOfTexts);
	return (
		profiles.some((p, i) => p.time !== null && p.filled >= fields[i]!.length * NEARLY_ALL) &&
		profiles.some((p) => p.time === null && p.prose > WRITTEN)
	);
}

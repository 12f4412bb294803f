/** What the fields of records must be like, so that texts which only look like records are left as they are. */
import { MEDIA_TYPE } from '../../bytes';
import type { Value } from '../../model';
import { FILE_NAME, profileOfValues } from '../profile';

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

/** Whether one of the fields is what was written. */
export const areOfTexts = (fields: readonly (readonly (Value | undefined)[])[]): boolean =>
	fields.map(profileOfValues).some((p) => p.time === null && p.prose > WRITTEN);

const FILES_LEAST = 2;

/** Whether one of the fields is the name of a file, wherever it is filled, and another its size or its media type. */
export function areOfFiles(fields: readonly (readonly (Value | undefined)[])[]): boolean {
	const filled = fields.map((values) => values.filter((v) => v !== undefined && v !== null && v !== '').map(String));
	const are = (test: RegExp): number[] =>
		filled.flatMap((values, i) => (values.length >= FILES_LEAST && values.every((v) => test.test(v)) ? [i] : []));
	const name = are(FILE_NAME).find((i) => new Set(filled[i]).size >= filled[i]!.length / 2);
	return name !== undefined && (are(SIZE).length > 0 || are(MEDIA_TYPE).length > 0);
}
const SIZE = /^\d{2,12}$/;

/** A handle that is a number with its country, and the service's name ("447700900123@chat.example", a device behind a colon). */
const NUMBER_AT = /^\+?([1-9]\d{7,14})(?::\d+)?@/;

/** The number within such a handle, in its international form: the same person's, where that number is known. */
export function numberWithin(handle: string): string | null {
	const digits = NUMBER_AT.exec(handle)?.[1];
	return digits === undefined ? null : `+${digits}`;
}

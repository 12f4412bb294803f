/** Wall time in a named zone to UTC, for sources that state none. */
import { offsetAt } from './zones';

/** `wall` is the wall clock's reading as if it were UTC, in ms; the result is the instant. RangeError for an unknown zone. */
export function wallTimeToUtc(wall: number, zone: string): number {
	try {
		return wall - offsetAt(wall - offsetAt(wall, zone), zone);
	} catch {
		throw new RangeError(`There is no time zone "${zone}". Give an IANA name such as Europe/Brussels.`);
	}
}

/** The time of a message in one column where it was sent, and in another where it was received: each row has the one or the other. */
import type { Row, Value } from '../model';
import { wayOfBox } from '../way-words';
import type { SheetColumn } from './sheet';

const ROWS = 2000;
/** Rows that must have each of the two, and share of all that must have one of them alone. */
const LEAST = 3;
const NEARLY_ALL = 0.97;

export interface EitherTime {
	first: SheetColumn;
	second: SheetColumn;
	time(row: Row): Value | undefined;
	/** Which of the two a row has: "sent" or "received" where their names say so, else 1 or 2; undefined where it has neither. */
	which(row: Row): Value | undefined;
}

type Read = (row: Row, column: SheetColumn) => Value | undefined;

/** Two columns of times, counted alike, of which (nearly) each row has one. */
export function eitherTimeOf(columns: readonly SheetColumn[], rows: readonly Row[], read: Read): EitherTime | null {
	const times = columns.filter(({ profile: p }) => {
		const told = p.filled - (p.distinct.get(0) ?? 0) - (p.distinct.get(-1) ?? 0);
		return p.time !== null && told >= LEAST && told <= rows.length - LEAST;
	});
	const sample = rows.slice(0, ROWS);
	for (const [i, first] of times.entries())
		for (const second of times.slice(i + 1)) {
			if (first.profile.time!.label !== second.profile.time!.label) continue;
			const has = (row: Row, column: SheetColumn): boolean => isTold(read(row, column));
			if (sample.filter((row) => has(row, first) !== has(row, second)).length < sample.length * NEARLY_ALL) continue;
			if ([first, second].some((column) => sample.filter((row) => has(row, column)).length < LEAST)) continue;
			const [one, other] = wordsOf(first, second);
			return {
				first,
				second,
				time: (row) => read(row, has(row, first) ? first : second),
				which: (row) => (has(row, first) ? one : has(row, second) ? other : undefined)
			};
		}
	return null;
}

const isTold = (value: Value | undefined): boolean => ![undefined, null, '', 0, -1].includes(value as null);

function wordsOf(first: SheetColumn, second: SheetColumn): [Value, Value] {
	const [one, other] = [wayOfBox(first.name), wayOfBox(second.name)];
	if (one === 'out' && other === 'in') return ['sent', 'received'];
	return one === 'in' && other === 'out' ? ['received', 'sent'] : [1, 2];
}

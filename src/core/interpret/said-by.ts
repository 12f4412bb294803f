/** Lines that begin with who says them ("Odile Marchetti: The pump is off."): the writer and what was said, apart. */
import type { Row } from '../model';

const ROWS = 2000;
const LEAST = 8;
/** Share of the lines that must begin so, and up to which different writers recur. */
const NEARLY_ALL = 0.95;
const RECURRING = 0.4;
const SPOKEN = /^(?:<([^<>\n]{1,40})>|\[([^[\]\n]{1,40})\]|([^:\n]{1,40}?)\s*:)\s+(\S[\s\S]*)$/;

interface Spoken {
	writer: string;
	text: string;
}

function spoken(value: unknown): Spoken | null {
	const m = typeof value === 'string' ? SPOKEN.exec(value) : null;
	const writer = m && (m[1] ?? m[2] ?? m[3])!.trim();
	return m && writer && /\p{L}|\d{5}/u.test(writer) ? { writer, text: m[4]! } : null;
}

export interface SaidBy {
	writer: { read(row: Row): string | undefined };
	said: { read(row: Row): string | undefined };
}

/** Reads a column's lines apart, or null where hardly any begins with a writer, or each with another. */
export function saidBy(rows: readonly Row[], column: number): SaidBy | null {
	const lines = rows.slice(0, ROWS).flatMap((row) => (typeof row.values[column] === 'string' ? [row.values[column] as string] : []));
	const found = lines.map(spoken).filter((s) => s !== null);
	const writers = new Set(found.map((s) => s.writer));
	if (lines.length < LEAST || found.length < lines.length * NEARLY_ALL) return null;
	if (writers.size < 2 || writers.size > found.length * RECURRING) return null;
	return {
		writer: { read: (row) => spoken(row.values[column])?.writer },
		// A line without a writer is the program's own, or the rest of one: it stays as it is.
		said: {
			read: (row) => {
				const value = row.values[column];
				if (typeof value !== 'string') return undefined;
				// What is left of a line that is cut within its writer says nothing.
				return spoken(value)?.text ?? (row.cut === column ? undefined : value);
			}
		}
	};
}

/** Lines that begin with who says them ("Odile Marchetti: The pump is off."): the writer and what was said, apart. */
import { isCalled } from '../called';
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

/** A line with nobody's words behind its writer, where he is one of those known: with a file alone. */
function unspoken(value: unknown, writers: ReadonlySet<string>): Spoken | null {
	const writer = typeof value === 'string' ? /^[<[]?([^<>[\]:\n]{1,40}?)\s*[>\]:]\s*$/.exec(value)?.[1] : undefined;
	return writer !== undefined && writers.has(writer) ? { writer, text: '' } : null;
}

export interface SaidBy {
	/** `inRooms`: named only where several write, and never of the owner's own. */
	writer: { read(row: Row): string | undefined; inRooms?: true };
	said: { read(row: Row): string | undefined };
}

/** Reads a column's lines apart, or null where hardly any begins with a writer, or each with another. */
export function saidBy(rows: readonly Row[], column: number): SaidBy | null {
	const lines = rows.slice(0, ROWS).flatMap((row) => (typeof row.values[column] === 'string' ? [row.values[column] as string] : []));
	const found = lines.map(spoken).filter((s) => s !== null);
	const writers = new Set(found.map((s) => s.writer));
	const silent = lines.filter((line) => unspoken(line, writers)).length;
	const isFew = lines.length < LEAST;
	if (isFew && (found.length + silent < lines.length || !areFewSaid(found, writers))) return null;
	if (found.length + silent < lines.length * NEARLY_ALL) return keyedLines(lines, column);
	if (writers.size < 2 || (!isFew && writers.size > found.length * RECURRING)) return null;
	return reader(column, (value) => spoken(value) ?? unspoken(value, writers));
}

/** Whether few lines begin with somebody, most of whom are called as persons are, some of them again. */
const areFewSaid = (found: readonly Spoken[], writers: ReadonlySet<string>): boolean =>
	found.length >= FEW && found.length - writers.size >= AGAIN && [...writers].filter(isCalled).length * 2 > writers.size;
const FEW = 4;
const AGAIN = 2;

/** A key of somebody on a line of its own, before what he said: "k7f2a90:\nThe pump is off." */
const KEYED = /^([\w.@+-]{5,64}):\r?\n([\s\S]*)$/;

const keyed = (value: unknown): Spoken | null => {
	const m = typeof value === 'string' ? KEYED.exec(value) : null;
	return m && /\d/.test(m[1]!) ? { writer: m[1]!, text: m[2]! } : null;
};

/** Lines of which some begin with a key: those that others wrote in rooms of several. */
function keyedLines(lines: readonly string[], column: number): SaidBy | null {
	const found = lines.map(keyed).filter((s) => s !== null);
	const writers = new Set(found.map((s) => s.writer));
	const comeBack = found.length >= LEAST && writers.size <= found.length * RECURRING;
	// Of few lines the keys are told by being made alike.
	const madeAlike =
		found.length >= LEAST_ALIKE && new Set([...writers].map((w) => w.length)).size === 1 && found[0]!.writer.length >= LONG_KEY;
	return comeBack || madeAlike ? reader(column, keyed, true) : null;
}
const LEAST_ALIKE = 2;
const LONG_KEY = 8;

function reader(column: number, apart: (value: unknown) => Spoken | null, inRooms = false): SaidBy {
	return {
		writer: { read: (row) => apart(row.values[column])?.writer, ...(inRooms ? { inRooms } : {}) },
		// A line without a writer is the program's own, or the rest of one: it stays as it is.
		said: {
			read: (row) => {
				const value = row.values[column];
				if (typeof value !== 'string') return undefined;
				// What is left of a line that is cut within its writer says nothing.
				return apart(value)?.text ?? (row.cut === column ? undefined : value);
			}
		}
	};
}

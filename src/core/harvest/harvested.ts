/** What the later stages need of a harvest, whatever the format it came from. */
import type { Encoding } from '../bytes';
import type { Note, Reach, Row, Table } from '../model';

export interface Progress {
	reach: Reach;
	/** Bytes done and to do in this reach. */
	done: number;
	total: number;
}

/** Bytes looked at by kind of space, and the rows first seen there. */
export interface AccountLine {
	space:
		| 'rows in use'
		| 'log'
		| 'journal'
		| 'earlier pages'
		| 'freed cells'
		| 'free pages'
		| 'unreached pages'
		| 'beyond the end'
		| 'overflow left behind'
		| 'entries replaced'
		| 'exported entries';
	bytes: number;
	rows: number;
	/** How many files that is of, where several were read as one. */
	files?: number;
}

/** The rows of a store. They may be made when asked for: who needs only how many there are asks for that. */
export interface Rows {
	readonly size: number;
	readonly rows: readonly Row[];
	rowsOf(table: number): readonly Row[];
}

export interface Harvested {
	readonly tables: Table[];
	readonly book: Rows;
	/** Highest record number that each table with a sequence ever gave out, by its name. */
	readonly sequences: ReadonlyMap<string, number>;
	readonly account: AccountLine[];
	readonly notes: Note[];
	readonly encoding: Encoding;
	/** Tables whose texts in use are not in that encoding, as far as the first rows of each tell. */
	readonly oddlyWritten?: ReadonlySet<number>;
	/** How often the store was changed, by its own count; 0 where it keeps none. */
	readonly changeCounter: number;
	/** How far its log of changes goes, where it has one: of one log (`name`) the further one is newer. */
	readonly log?: { name: string; length: number } | null;
	/** Which version of the engine wrote it last; counters of two are of two files. */
	readonly engineVersion: number;
	/** Goes as far as `reach`, from where an earlier call ended. */
	run(reach: Reach): Generator<Progress, void, void>;
}

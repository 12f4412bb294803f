/** The words of the product as types: what passes between the stages. Times are milliseconds since 1970 UTC. */

export type Standing = 'kept' | 'binned' | 'dropped' | 'remnant';
export type Grade = 'whole' | 'rebuilt' | 'fragment';
export type Direction = 'in' | 'out';
export type Reach = 'used' | 'logs' | 'freed' | 'raw';
export const REACHES: readonly Reach[] = ['used', 'logs', 'freed', 'raw'];

/** By what method a row was seen. The wording for each is in `wording.ts`. */
export type Method =
	| 'row-in-use'
	| 'freed-cell'
	| 'freed-page'
	| 'earlier-page'
	| 'log-frame'
	| 'journal-page'
	| 'index-entry'
	| 'text-index'
	| 'history'
	| 'preview'
	| 'overflow-page'
	| 'store-log'
	| 'store-table'
	| 'exported'
	| 'raw-bytes';

/** A stored value; `undefined` where its bytes are gone. */
export type Value = null | number | bigint | string | Uint8Array;

/** One place where a row was seen. Offsets and lengths in bytes, within the file named. */
export interface Sighting {
	/** Index of the file in the look's list of files. */
	file: number;
	offset: number;
	length: number;
	method: Method;
	/** Page number of the database, 1-based, where it lies on one. */
	page?: number;
	/** Frame number (log) or record number (journal), 1-based. */
	frame?: number;
	standing: Standing;
	grade: Grade;
}

/** A record as harvested, before it is understood. */
export interface Row {
	/** Index into the store's tables. */
	table: number;
	/** False where only the shape of the row says which table it belongs to, and others share that shape. */
	tableKnown: boolean;
	/** It is told only by whose page the row lies on, and other tables look the same: the page can have been another's before. */
	tableByPage?: boolean;
	/** Nothing but its looks says which table it belongs to, and other tables' rows can look the same. */
	tableByLooks?: boolean;
	rowid: number | bigint | null;
	/** In the table's declared column order. */
	values: (Value | undefined)[];
	/** Column whose value is only the beginning of what was stored, or -1. */
	cut: number;
	/** Of a text whose middle is gone, what is left behind it, and how many bytes are not. */
	rest?: { text: string; lost: number } | undefined;
	standing: Standing;
	grade: Grade;
	sightings: Sighting[];
	/** Numbers of the other rows that it was put together of. */
	furtherNumbers?: (number | bigint)[];
	/** Sightings beyond the number kept with the row. */
	moreSightings?: number;
}

export interface Column {
	name: string;
	/** Declared type, as written, upper case; '' where none. */
	type: string;
	notNull: boolean;
	/** True where the value is computed and not stored. */
	virtual: boolean;
	/** The table it refers to, where the schema says so. */
	references?: string;
	defaultValue: Value;
}

export interface Table {
	index: number;
	name: string;
	rootPage: number;
	columns: Column[];
	/** Column that is the rowid (INTEGER PRIMARY KEY), or -1. */
	rowidColumn: number;
	/** Columns of the primary key, in key order. */
	primaryKey: number[];
	withoutRowid: boolean;
	autoIncrement: boolean;
	/** Known only from a schema row that is itself deleted. */
	dropped: boolean;
	/** Where a table was not in the schema but only its rows' shape is known. */
	inferred?: boolean;
	/** Its rows are settings, the lists among which are tables of their own. */
	settings?: true;
	/** Lists within a column's documents whose entries are rows of tables of their own. */
	listed?: { column: number; paths: readonly (readonly string[])[] };
	/** Things within a column's documents that have a table of their own. */
	described?: Described;
}

export interface Described {
	column: number;
	things: { path: readonly string[]; key: string; table: string }[];
}

/** One kind of remark about what was met on the way; the wording lives in `wording.ts`. */
export interface Note {
	code: NoteCode;
	severity: 'note' | 'warning';
	file?: number;
	offset?: number;
	/** Numbers or names the wording fills in. */
	detail?: Record<string, string | number>;
}

export type NoteCode =
	| 'header-missing'
	| 'header-lies'
	| 'file-cut'
	| 'page-unreadable'
	| 'page-visited-twice'
	| 'page-out-of-range'
	| 'cell-damaged'
	| 'overflow-broken'
	| 'schema-damaged'
	| 'table-unreadable'
	| 'log-foreign'
	| 'log-damaged'
	| 'log-older-generation'
	| 'log-uncommitted'
	| 'journal-foreign'
	| 'journal-hot'
	| 'journal-past'
	| 'no-messages-found'
	| 'no-messages-in-several'
	| 'no-residue'
	| 'store-broke-off'
	| 'store-part-missing'
	| 'values-shortened'
	| 'code-page'
	| 'export-cut'
	| 'export-damaged'
	| 'file-gone'
	| 'not-a-database'
	| 'empty-file'
	| 'limit-reached'
	| 'encrypted-or-foreign'
	| 'side-file-alone'
	| 'same-name'
	| 'archive-cut'
	| 'entry-damaged'
	| 'locked'
	| 'wrong-passphrase';

/** Record numbers that existed (by sequence or neighbours) and were seen nowhere. */
export interface Gap {
	store: string;
	table: string;
	from: number;
	to: number;
	count: number;
	/** Times of the neighbours, ms UTC, or null. */
	after: number | null;
	before: number | null;
	/** For `numbering` the numbers are the store's own beside its record numbers; for `counter` and `list`, which name none, `from` and `to` are 0. */
	why: 'sequence' | 'neighbours' | 'numbering' | 'counter' | 'list';
	/** Threads of the neighbours (ids), nearest first. */
	threads: string[];
	/** Whether every neighbour and the table itself say it can only be that thread. */
	certainThread: boolean;
}

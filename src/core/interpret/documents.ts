/**
 * Conversations kept whole: a row whose document (JSON, perhaps packed) lists all that was said, written anew with each
 * message. Its lists become tables of their own, an entry a row. What only an earlier state of a document lists was there
 * then and is no more.
 */
import { isFullName } from '../called';
import { addSighting, betterGrade, betterStanding, plainTable, withBook, withTables, type Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';
import { columnOfWhole } from './pages-of-documents';
import { profileOfValues } from './profile';
import { haveAlike } from './kinds-of-documents';
import { keyOf } from './refs';
import { at, cutJson, openStored, plain, readStored, type Stored } from './stored';

/** Documents and entries from which it is told what they are; how deep lists are sought, and how many fields an entry has. */
const DOCUMENTS = 200;
const ENTRIES = 1000;
const DEEPEST = 4;
const MOST_FIELDS = 60;
const MOST_LISTS = 20;
/** Fewest entries in all, share of them that must be written in sentences, and of the values that must be documents. */
const LEAST = 3;
const WRITTEN = 0.3;
const MOSTLY = 0.8;

/** What an entry that is a value alone has it under, and what one of a map has its key under. */
const ALONE = 'value';
const KEY = 'key';
/** Fewest entries of a map, share of them that are made alike, and characters of a key that is a word. */
const MAP_LEAST = 3;
const MAP_WORD = 12;

/** A column of documents that list messages. */
interface Documents {
	table: Table;
	column: number;
	stored: Stored;
	lists: DocumentList[];
}

interface DocumentList {
	path: string[];
	fields: string[];
	areMessages: boolean;
	/** Its entries are known by keys. */
	isMap: boolean;
}

/** The store with a table for each list of its conversations' documents; the store itself where it keeps none so. */
export function openDocuments(harvest: Harvested): Harvested {
	const found = harvest.tables.flatMap((table) => documentsIn(table, harvest.book.rowsOf(table.index)) ?? []);
	if (found.length === 0) return harvest;
	const tables: Table[] = [];
	const made: Row[][] = [];
	for (const documents of found) {
		const rows = harvest.book.rowsOf(documents.table.index);
		const opened = new Opened(documents, harvest.tables.length + tables.length, columnOfWhole(documents.table, rows, documents.column));
		const pieces = inUseFirst(rows).filter((row) => !opened.take(row));
		for (const row of pieces) opened.takePiece(row);
		tables.push(...opened.tables());
		made.push(...opened.rows);
	}
	// Messages say nothing of the row that lists them; who takes part does.
	const listed = new Map(
		found.map(({ table, column, lists }) => [
			table,
			{ column, paths: lists.filter((list) => list.areMessages || list.isMap).map(({ path }) => path) }
		])
	);
	const own = harvest.tables.map((table) => (listed.has(table) ? { ...table, listed: listed.get(table)! } : table));
	return withTables(withBook(harvest, own, harvest.book), tables, made);
}

const inUseFirst = (rows: readonly Row[]): Row[] => [
	...rows.filter((row) => row.standing === 'kept'),
	...rows.filter((row) => row.standing !== 'kept')
];

/** The column of a table whose documents list messages, or else things by keys or persons; null where none do. */
function documentsIn(table: Table, rows: readonly Row[]): Documents | null {
	if (table.index === 0 || /^sqlite_/i.test(table.name)) return null;
	const whole = rows.filter((row) => row.grade === 'whole').slice(0, DOCUMENTS);
	for (const column of table.columns.keys()) {
		const values = whole.map((row) => row.values[column]).filter((v) => v !== null && v !== undefined);
		if (values.length === 0) continue;
		const json = values.filter(looksLikeJson).length / values.length;
		if (json === 0 && !values.every((v) => v instanceof Uint8Array)) continue;
		// Among settings a single value can be the document that has it all.
		const stored: Stored | null = json > 0 && json < MOSTLY ? { kind: 'json' } : readStored(values, json);
		if (!stored || stored.kind === 'wire') continue;
		// A document can be a list itself: it is not to be flattened.
		const opened = whole.map((row) => openStored(row, column, stored)).filter((one) => one !== undefined);
		const paths = listPaths(opened);
		const lists = paths.map((path) => {
			const fields = fieldsOf(opened.flatMap((one) => entriesAt(one, path)));
			const isMap = opened.some((one) => isMapOfEntries(at(one, path)));
			return { path, fields, isMap, areMessages: areMessages(opened, path, fields) };
		});
		const told = lists.some((list) => list.areMessages)
			? lists
			: lists.filter((list) => list.isMap || (arePersons(opened, list) && !isWrittenBeside(whole, column)));
		if (told.length > 0) return { table, column, stored, lists: told };
	}
	return null;
}

const looksLikeJson = (value: Value): boolean => typeof value === 'string' && /^\s*[[{]/.test(value);

/** Where documents have lists. */
function listPaths(documents: readonly unknown[]): string[][] {
	const paths = new Map<string, string[]>();
	const collect = (value: unknown, path: string[]): void => {
		if (value === null || typeof value !== 'object' || path.length > DEEPEST || paths.size >= MOST_LISTS) return;
		if (Array.isArray(value) || isMapOfEntries(value)) {
			if (Object.keys(value).length > 0) paths.set(path.join('\u0000'), path);
		} else for (const [key, inner] of Object.entries(value).slice(0, MOST_FIELDS)) collect(inner, [...path, key]);
	};
	for (const one of documents) collect(one, []);
	return [...paths.values()];
}

type Entry = Record<string, unknown>;

const isEntry = (value: unknown): value is Entry => value !== null && typeof value === 'object' && !Array.isArray(value);

/** Whether an object is a list whose entries stand under keys of theirs: they are made alike, and the keys are no names of fields. */
function isMapOfEntries(value: unknown): value is Record<string, Entry> {
	if (!isEntry(value)) return false;
	const pairs = Object.entries(value).slice(0, ENTRIES);
	if (pairs.length < MAP_LEAST || !pairs.every(([key, one]) => (/\d|@/.test(key) || key.length >= MAP_WORD) && isEntry(one))) return false;
	const fields = new Set(pairs.flatMap(([, one]) => Object.keys(one as Entry)));
	const alike = pairs.filter(([, one]) => haveAlike(Object.keys(one as Entry), fields));
	return fields.size > 1 && alike.length >= pairs.length * MOSTLY;
}

function entriesAt(document: unknown, path: readonly string[]): Entry[] {
	const list = at(document, path);
	if (isMapOfEntries(list)) return Object.entries(list).map(([key, one]) => ({ [KEY in one ? `(${KEY})` : KEY]: key, ...one }));
	return Array.isArray(list) ? list.map((one: unknown): Entry => (isEntry(one) ? one : { [ALONE]: one })) : [];
}

const fieldsOf = (entries: readonly Entry[]): string[] => [...new Set(entries.flatMap((e) => Object.keys(e)))].slice(0, MOST_FIELDS);

/**
 * Whether the lists at a path are what was said in a conversation: entries with writing and a time, in documents that have
 * no writing of their own, unless it repeats theirs. A message lists its reactions and its earlier wordings too.
 */
function areMessages(documents: readonly unknown[], path: readonly string[], fields: readonly string[]): boolean {
	const entries = documents.flatMap((one) => entriesAt(one, path)).slice(0, ENTRIES);
	if (entries.length < LEAST) return false;
	const profiles = fields.map((field) => profileOfValues(entries.map((e) => plain(e[field]))));
	const written = fields.filter((_, i) => profiles[i]!.prose > WRITTEN && profiles[i]!.time === null && profiles[i]!.json < WRITTEN);
	if (written.length === 0 || !profiles.some((p) => p.time !== null && p.filled > entries.length * MOSTLY)) return false;
	const texts = new Set(entries.flatMap((e) => written.map((field) => e[field])));
	const beside = documents.flatMap((one) => textsOutside(one, path));
	const sentences = beside.filter((text) => profileOfValues([text]).prose > 0 && text.length > SENTENCE);
	return sentences.length <= documents.length * WRITTEN || sentences.filter((text) => texts.has(text)).length > sentences.length * MOSTLY;
}
const SENTENCE = 24;

/** Whether people write in the rows themselves: whom a list in a message's own row names the message is to. */
const isWrittenBeside = (rows: readonly Row[], column: number): boolean =>
	rows[0]!.values.some((_, c) => c !== column && profileOfValues(rows.map((row) => row.values[c])).prose > WRITTEN);

/** Whether the lists at a path are of persons: each entry has a full name, mostly, and a key that goes with it wherever both stand. */
function arePersons(documents: readonly unknown[], { path, fields }: Pick<DocumentList, 'path' | 'fields'>): boolean {
	const entries = documents.flatMap((one) => entriesAt(one, path)).slice(0, ENTRIES);
	if (entries.length < LEAST || fields.length < 2 || documents.length < LEAST) return false;
	const texts = (field: string): string[] => entries.map((e) => String(plain(e[field]) ?? ''));
	const name = fields.find((field) => texts(field).filter(isFullName).length >= entries.length * MOSTLY);
	if (name === undefined) return false;
	const called = texts(name);
	return fields.some((field) => {
		const names = new Map<string, string>();
		return (
			field !== name &&
			texts(field).every((key, i) => {
				const known = names.get(key) ?? called[i]!;
				names.set(key, known);
				return key.length >= KEY_LEAST && known === called[i];
			}) &&
			names.size === new Set(called).size
		);
	});
}
const KEY_LEAST = 3;

const rowWith = (values: (Value | undefined)[]): Row => ({
	table: 0,
	tableKnown: false,
	rowid: null,
	values,
	standing: 'kept',
	grade: 'whole',
	cut: -1,
	sightings: []
});

/** The texts of a document but those in its lists. */
function textsOutside(document: unknown, path: readonly string[]): string[] {
	if (!isEntry(document) || path.length === 0) return [];
	return Object.values(document).flatMap((inner) => (typeof inner === 'string' ? [inner] : textsOutside(inner, path)));
}

/** The rows that the documents of a column make, each once. */
class Opened {
	readonly rows: Row[][];
	private readonly known: Map<string, Row>[];
	/** The document that an entry of some content stands in. */
	private readonly owners: Map<string, string | number>[];
	private readonly fields: ReadonlySet<string>;
	/** Column by which a document is known, or null for its record number. */
	private readonly key: number | null;

	/** `whole`: the column that says what the documents are pages of, or null where they are none. */
	constructor(
		private readonly from: Documents,
		private readonly first: number,
		private readonly whole: number | null
	) {
		this.rows = from.lists.map(() => []);
		this.known = from.lists.map(() => new Map<string, Row>());
		this.owners = from.lists.map(() => new Map<string, string | number>());
		const { primaryKey, rowidColumn } = from.table;
		this.fields = new Set(from.lists.flatMap((list) => list.fields));
		this.key = whole ?? (primaryKey.length === 1 && primaryKey[0] !== rowidColumn ? primaryKey[0]! : null);
	}

	/** Takes the entries of a row's document; false where the row has but a piece of one. */
	take(row: Row): boolean {
		const { column, stored, lists } = this.from;
		const document = openStored(row, column, stored);
		if (document === undefined) return false;
		const key = this.key === null ? keyOf(row.rowid) : keyOf(row.values[this.key]);
		// Of a document that breaks off the last entry is not whole.
		const last = row.cut === column ? lists.findLastIndex(({ path }) => entriesAt(document, path).length > 0) : -1;
		for (const [list, { path }] of lists.entries()) {
			const entries = entriesAt(document, path);
			for (const [i, entry] of entries.entries()) this.add(row, key, list, entry, list === last && i === entries.length - 1);
		}
		return true;
	}

	/** Takes what a piece out of the middle of a document has. Whose it is its other entries say, where they are known. */
	takePiece(row: Row): void {
		const entries = entriesWithin(row.values[this.from.column], this.fields).flatMap((loose) => {
			const list = this.listOf(loose);
			return list < 0 ? [] : [{ ...loose, list }];
		});
		const keys = new Set(entries.flatMap(({ list, entry }) => this.owners[list]!.get(this.contentOf(list, entry)) ?? []));
		const [key] = keys.size === 1 ? keys : [null];
		for (const { list, entry, isCut } of entries) this.add(row, key!, list, entry, isCut);
	}

	/** The list whose entries are made like one; −1 where there is none. */
	private listOf({ entry, isCut }: LooseEntry): number {
		const fields = Object.keys(entry);
		if (!isCut && fields.length < 2) return -1;
		return this.from.lists.findIndex(
			(l) => fields.every((f) => l.fields.includes(f)) && (isCut || fields.length >= l.fields.length * LIKE)
		);
	}

	private contentOf(list: number, entry: Entry): string {
		return JSON.stringify(this.from.lists[list]!.fields.map((field) => entry[field]));
	}

	private add(row: Row, key: string | number | null, list: number, entry: Entry, isCut: boolean): void {
		const content = this.contentOf(list, entry);
		const name = `${typeof key} ${key} ${content}`;
		if (key !== null) this.owners[list]!.set(content, key);
		const known = this.known[list]!.get(name);
		const grade = isCut ? 'fragment' : row.grade === 'whole' ? 'whole' : 'rebuilt';
		if (known) {
			known.standing = betterStanding(known.standing, row.standing);
			known.grade = betterGrade(known.grade, grade);
			for (const sighting of row.sightings) addSighting(known, sighting);
			return;
		}
		const { standing, tableKnown, sightings, moreSightings } = row;
		const values = [key ?? undefined, ...this.from.lists[list]!.fields.map((field) => plain(entry[field]))];
		const made: Row = { ...rowWith(values), table: this.first + list, tableKnown, standing, grade, sightings: [...sightings] };
		if (moreSightings) made.moreSightings = moreSightings;
		this.known[list]!.set(name, made);
		this.rows[list]!.push(made);
	}

	tables(): Table[] {
		const { table, column, lists } = this.from;
		return lists.map(({ path, fields }, list): Table => {
			const rows = this.rows[list]!;
			const primaryKey = keyIn(rows, fields);
			const stored = table.columns[column]!.name;
			const name = [table.name, ...(path.length > 0 ? path : [stored])].join('.');
			const listing = this.whole === null ? table.name : table.columns[this.whole]!.name;
			const made = plainTable(this.first + list, name, [`in ${listing}`, ...fields]);
			if (this.whole === null) made.columns[0]!.references = table.name;
			return { ...made, primaryKey, withoutRowid: primaryKey.length > 0, dropped: table.dropped };
		});
	}
}

/** Share of a list's fields that an entry by itself must have. */
const LIKE = 0.6;

/** The columns by which the entries in use are known: one that is each entry's own, in all documents or within its own. */
function keyIn(rows: readonly Row[], fields: readonly string[]): number[] {
	const inUse = rows.filter((row) => row.standing === 'kept');
	if (inUse.length < LEAST) return [];
	const isOwn = (columns: readonly number[]): boolean => {
		const keys = inUse.map((row) => columns.map((c) => keyOf(row.values[c])));
		return keys.every((key) => !key.includes(null)) && new Set(keys.map((key) => JSON.stringify(key))).size === inUse.length;
	};
	const named = fields.flatMap((field, i) => (KEY_NAMED.test(field) ? [i + 1] : []));
	for (const column of named) if (isOwn([column])) return [column];
	for (const column of named) if (isOwn([0, column])) return [0, column];
	return [];
}
const KEY_NAMED = /^\(key\)$|^_?(id|key|guid|uuid|uid|no|n|nr|seq)$|_?(id|key|guid|uuid)$/i;

const LONGEST_ENTRY = 1 << 16;
/** Beginnings of what is no object, until a piece is given up. */
const TRIED = 500;

interface LooseEntry {
	entry: Entry;
	/** Its beginning or its end is gone. */
	isCut: boolean;
}

/**
 * The entries in a piece of a document (JSON) that has lost its beginning: whole ones, and of those that lie on its edges the
 * fields that are whole. `fields`: those that entries have.
 */
function entriesWithin(value: Value | undefined, fields: ReadonlySet<string>): LooseEntry[] {
	if (typeof value !== 'string') return [];
	const found: LooseEntry[] = [];
	let from = objectFrom(value, 0);
	let first = -1;
	let end = 0;
	let failed = 0;
	while (from >= 0 && failed < TRIED) {
		const to = endOfObject(value, from, 0);
		const entry = to < 0 ? null : objectIn(value.slice(from, to));
		if (entry) {
			found.push({ entry, isCut: false });
			if (first < 0) first = from;
			end = to;
		} else failed++;
		from = objectFrom(value, entry ? to : from + 1);
	}
	const head = entryEndingIn((first < 0 ? value : value.slice(0, first)).slice(-LONGEST_ENTRY), fields);
	if (head) found.unshift({ entry: head, isCut: true });
	const last = objectFrom(value, end);
	const tail = last < 0 ? undefined : cutJson(value.slice(last, last + LONGEST_ENTRY));
	if (isEntry(tail) && Object.keys(tail).length > 0) found.push({ entry: tail, isCut: true });
	return found;
}

/** Where the next object with a name in it begins; −1 where none does. */
function objectFrom(text: string, from: number): number {
	const opening = /\{\s{0,16}"/g;
	opening.lastIndex = from;
	return opening.exec(text)?.index ?? -1;
}

/** The entry whose end stands in a text: from the first of its fields that is whole. */
function entryEndingIn(text: string, fields: ReadonlySet<string>): Entry | null {
	const names = /"((?:[^"\\]|\\.){1,80})"\s*:/g;
	for (let m = names.exec(text), tried = 0; m && tried < TRIED; m = names.exec(text), tried++) {
		if (!fields.has(m[1]!)) continue;
		const to = endOfObject(text, m.index, 1);
		const entry = to < 0 ? null : objectIn(`{${text.slice(m.index, to)}`);
		if (entry) return entry;
	}
	return null;
}

/** Where the object ends that begins at an offset, or is `depth` deep there; −1 where it does not. */
function endOfObject(text: string, from: number, depth: number): number {
	let quoted = false;
	for (let i = from; i < Math.min(text.length, from + LONGEST_ENTRY); i++) {
		const c = text[i];
		if (quoted) {
			if (c === '\\') i++;
			else if (c === '"') quoted = false;
		} else if (c === '"') quoted = true;
		else if (c === '{' || c === '[') depth++;
		else if ((c === '}' || c === ']') && --depth === 0) return i + 1;
	}
	return -1;
}

function objectIn(text: string): Entry | null {
	try {
		const value: unknown = JSON.parse(text);
		return isEntry(value) ? value : null;
	} catch {
		return null;
	}
}

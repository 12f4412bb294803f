/**
 * A sheet is what interpretation works on: the rows of one table, or of all tables of one shape, with the columns
 * they store and those found inside stored JSON. Lost rows are in it beside those in use.
 */
import { mediaTypeOf } from '../bytes';
import type { Described, Row, Table, Value } from '../model';
import type { Harvested } from '../harvest';
import { asideOf, textAside, type Aside } from './aside';
import { rowsElsewhere } from './captures';
import { bodyText, readBody, type BodyReading } from './body';
import { areDated } from './dated-tables';
import { dayAndClock } from './day-and-clock';
import { eitherOf } from './either';
import { eitherTimeOf } from './either-time';
import { editsInDocuments } from './edits-in-documents';
import { eventsOf, type EventRows, type Place } from './event-log';
import { saidBy } from './said-by';
import { fullAddressesIn } from './full-addresses';
import { timesInKeys } from './id-times';
import { textOrFile } from './text-or-file';
import { keyParts, timeInKeys } from './key-parts';
import { fieldsOfDocuments, haveAlike } from './kinds-of-documents';
import { kindsOfRows } from './kinds-of-rows';
import { halvesIn, wholeOf } from './halves';
import { kindsOfEntries } from './words-of-keys';
import { versionsWithin, type Versions } from './versions-within';
import { mailboxesIn } from './mailboxes';
import { payloadsIn } from './payloads';
import { EMAIL, PHONE, profileOf, UUID, type Profile } from './profile';
import { tableListsOf } from './table-list';
import { joined, piecesIn } from './written-in-pieces';
import { zoneBeside } from './zone-beside';
import { at, isComposed, isEnding, isWritten, knowsItsEnd, openStored, pathsIn, plain, readStored, type Stored } from './stored';

export interface Made {
	read(row: Row): Value | undefined;
	/** It is the bytes of a file that the row states. */
	bytes?: true;
	/** It states what else was sent, in the place of a text. */
	stated?: true;
	/** It is a word for a way, or a place, and nobody. */
	words?: true;
	/** It says who wrote, whichever way a message went. */
	writer?: true;
	/** It says who wrote where several do, of what was received. */
	inRooms?: true;
	/** It has the value of the one or the other of two columns. */
	either?: readonly SheetColumn[];
	/** It has those of a column's values that are keys of one table; another column has those of the other. */
	ofTwo?: true;
	/** It says whom a conversation is with, of two that its key names; the owner is the other of them. */
	ofEnds?: { owner: string; isOfTwo(key: string | number): boolean };
	/** It has the numbers of one kind of those that its column has: of rooms, where another has those of persons. */
	ofKind?: 'rooms' | 'any';
	/** It lists who all take part; those who do so in a room have this column's name of it. */
	room?: SheetColumn;
	/** It says which conversation's table a row is in. */
	ofTable?: true;
	/** The value that stands for the owner, where a flag beside says whose it is. */
	owner?: string | number;
	/** What says that it does, where no list of persons marks him. */
	ownerWhy?: string;
	/** The column of the addresses that these are the names of. */
	nameOf?: SheetColumn;
	/** The column that a row's value is taken from. */
	from?(row: Row): SheetColumn;
}

export interface SheetColumn {
	/** As shown: the declared name, or name and path inside JSON. */
	name: string;
	/** Declared table column; −1 for the table's own name, −2 where its values stand in another table. */
	column: number;
	/** Path inside the values stored in it; empty for the value itself. */
	path: string[];
	/** How the values are opened in which the path leads. */
	stored?: Stored;
	/** Whether its values are numbers that are written as texts there. */
	numerals?: true;
	/** How its values become text, where they are not plain. */
	body?: BodyReading;
	/** Where its values stand, when that is in another table. */
	aside?: Aside;
	/** How its values are made, where they are more or less than one stored value: a day with its time of day, a part of a key. */
	made?: Made;
	references?: string;
	profile: Profile;
}

export interface Sheet {
	index: number;
	/** Tables it holds, by index into the store's tables. */
	tables: number[];
	name: string;
	columns: SheetColumn[];
	rows: Row[];
	/** Those from which the columns are judged, of other captures of the store too: the whole ones, unless they are too few. */
	sure: Row[];
	/** Whether the rows of several tables stand together, the table's name being a column. */
	family: boolean;
	/** Where its rows name earlier rows of their own table, which they say something of. */
	about?: SheetColumn;
	/** The sheet of its table whose rows say what counts; `from` names them by their `key`, null for the record number. */
	earlierOf?: { sheet: Sheet; from: SheetColumn; key: SheetColumn | null };
	/** The file it stands in, where that is one beside the store. */
	file?: string;
}

const SAMPLE = 3000;
/** Rows whose values are looked at to see whether they are opened, and how. */
const OPENED = 400;
const SURE = 20;
const ENOUGH = 3;
/** Rows of which a misread one would count for too much. */
const HANDFUL = 5;

/**
 * Sheets of a store, those with rows only. Engine-owned tables are left out. `captures`: of the same store; their rows
 * stand in the sheets until the store is read (`keepOwnRows`).
 */
export function sheetsOf(harvest: Harvested, captures: readonly Harvested[] = []): Sheet[] {
	const groups = new Map<string, Table[]>();
	const lists = new Set(tableListsOf(harvest).flatMap((list) => (list.saysMore ? [] : [list.table])));
	for (const table of harvest.tables) {
		if (
			table.index === 0 ||
			lists.has(table) ||
			/^sqlite_/i.test(table.name) ||
			isIndexData(table, harvest.tables) ||
			// One that was emptied since is read by what it held.
			(harvest.book.rowsOf(table.index).length === 0 && rowsElsewhere(harvest, table.index, captures).length === 0)
		)
			continue;
		const key = JSON.stringify([table.withoutRowid, table.columns.map((c) => [c.name.toLowerCase(), c.type])]);
		const list = groups.get(key);
		if (list) list.push(table);
		else groups.set(key, [table]);
	}
	const sheets: Sheet[] = [];
	for (const tables of [...groups.values()].flatMap((g) => alike(g, harvest))) {
		const all = tables.flatMap((t) => [...harvest.book.rowsOf(t.index), ...rowsElsewhere(harvest, t.index, captures)]);
		const kinds: EventRows[] =
			(tables.length === 1 ? (eventsOf(all, tables[0]!) ?? editsInDocuments(all, tables[0]!) ?? kindsOfRows(all, tables[0]!)) : null) ??
			kindsOfEntries(all, tables[0]!);
		for (const { rows, label, target, sameKey } of kinds) {
			const versions =
				tables.length === 1 && !target ? versionsWithin(rows, new Set(harvest.book.rowsOf(tables[0]!.index)), tables[0]!) : null;
			const sheet = sheetOf(sheets.length, tables, versions?.current ?? rows, label, harvest);
			if (target) refersTo(sheet, target, tables[0]!);
			const about = sameKey && columnAt(sheet, sameKey);
			if (about) sheet.about = about;
			sheets.push(sheet);
			if (versions) sheets.push(earlierSheet(sheets.length, sheet, versions, label, harvest));
		}
	}
	return sheets;
}

/** What the rows of a sheet said before, as a sheet of its own. */
function earlierSheet(index: number, of: Sheet, { earlier, names }: Versions, label: string, harvest: Harvested): Sheet {
	const tables = of.tables.map((table) => harvest.tables[table]!);
	const sheet = sheetOf(index, tables, earlier, label === '' ? EARLIER : `${label}, ${EARLIER}`, harvest);
	const ownColumn = (s: Sheet, c: number): SheetColumn | undefined => s.columns.find((x) => x.column === c && x.path.length === 0);
	const from = ownColumn(sheet, names.from);
	const key = names.key === null ? null : ownColumn(of, names.key);
	if (from && key !== undefined) sheet.earlierOf = { sheet: of, from, key };
	return sheet;
}
const EARLIER = 'earlier versions';

const columnAt = ({ columns }: Sheet, { column, path }: Place): SheetColumn | undefined =>
	columns.find((c) => c.column === column && c.path.join('.') === path.join('.') && !c.made && !c.body);

/** Events name other rows of their own table at this place. */
function refersTo(sheet: Sheet, place: Place, table: Table): void {
	const about = columnAt(sheet, place);
	if (!about) return;
	about.references = table.name;
	sheet.about = about;
}

/** Leaves in the sheets the rows of the store itself. */
export function keepOwnRows(sheets: readonly Sheet[], harvest: Harvested): void {
	const own = new Set(harvest.book.rows);
	for (const sheet of sheets) {
		sheet.rows = sheet.rows.filter((row) => own.has(row));
		for (const { aside } of sheet.columns)
			if (aside) aside.rows = new Map([...aside.rows].map(([key, rows]) => [key, rows.filter((row) => own.has(row))]));
	}
}

/**
 * What a full-text index keeps of its own beside its texts (FTS3 and FTS4, section 9.1 "Shadow Tables"; FTS5, section 9
 * "Implementation and Data Structure").
 */
function isIndexData(table: Table, tables: readonly Table[]): boolean {
	const [, index, part] = /^(.+)_(segments|segdir|docsize|stat|data|idx|config)$/i.exec(table.name) ?? [];
	if (index === undefined) return false;
	const has = (name: string): boolean => tables.some((t) => t.name === `${index}_${name}`);
	return (!FTS5_ALONE.test(part!) && has('content')) || (has('data') && has('idx') && has('config'));
}
const FTS5_ALONE = /^(data|idx|config)$/i;

function sheetOf(index: number, tables: readonly Table[], rows: Row[], label: string, harvest: Harvested): Sheet {
	const sure = surest(rows);
	const family = tables.length > 1;
	const names = tables.map((t) => t.name).join(', ');
	const sheet: Sheet = {
		index,
		tables: tables.map((t) => t.index),
		name: (label ? `${names}: ${label}` : names).slice(0, 80),
		columns: [],
		rows,
		sure,
		family
	};
	const first = tables[0]!;
	const sample = sampleOf(sure);
	first.columns.forEach((c, i) => {
		const column: SheetColumn = { name: c.name, column: i, path: [], profile: profileOf(sure, (r) => r.values[i], sample) };
		if (c.references) column.references = c.references;
		sheet.columns.push(column);
		const stored = readStored(
			sample.slice(0, OPENED).map((r) => r.values[i]),
			column.profile.json
		);
		if (stored) openFields(sheet, column, stored, sample, first.listed?.column === i ? first.listed.paths : []);
		if (first.described?.column === i) leaveToTheirTables(sheet, first.described);
		// What is a record written as a text is itself no text.
		if (stored && isWritten(stored)) setAside(sheet, i);
		if (!stored) openBody(sheet, column, sample);
	});
	addMade(sheet, first, sample);
	addEither(sheet, sample);
	if (!areDated(tables) && (family || /\d{4,}|[0-9a-f]{24,}|@/i.test(first.name))) {
		sheet.columns.push({ name: '(table)', column: -1, path: [], profile: profileOf(sure, (r) => harvest.tables[r.table]!.name, sample) });
	}
	return sheet;
}

/** Adds the columns that are more or less than one stored value each. */
function addMade(sheet: Sheet, table: Table, sample: Row[]): void {
	const { sure } = sheet;
	const add = (name: string, column: number, made: Made): void =>
		void sheet.columns.push({ name, column, path: [], made, profile: profileOf(sure, (r) => made.read(r), sample) });
	const names = table.columns.map((c) => c.name);
	const both = textOrFile(sure, names);
	if (both) {
		const { column, isFile } = both;
		add(`${names[column]} (text)`, column, { read: (row) => (isFile(row) ? undefined : row.values[column]) });
		add(`${names[column]} (file)`, column, { read: (row) => (isFile(row) ? row.values[column] : undefined) });
		setAside(sheet, column);
	}
	const whole = dayAndClock(sure, names.length);
	if (whole) add(`${names[whole.day]} and ${names[whole.clock]}`, whole.day, whole);
	addInUtc(sheet, sample);
	addEitherTime();
	addWhole(sheet, sample);
	for (const column of restated(names)) setAside(sheet, column);
	const profiles = names.map((_, i) => sheet.columns.find((c) => c.column === i)!.profile);
	for (const [column, name] of names.entries()) {
		const p = profiles[column]!;
		if ((p.texts < p.filled && p.blobs < p.filled) || p.time) continue;
		if (p.json > 0) {
			if (sheet.columns.some((c) => c.column === column && c.path.length > 0)) continue;
			if (!addMailboxes(sheet.columns.find((c) => c.column === column)!)) addSaid(name, column, null);
			continue;
		}
		const own = sheet.columns.find((c) => c.column === column)!;
		if (addMailboxes(own) || addFull(own)) continue;
		if (sheet.columns.some((c) => c.path.length > 0 && c.column !== column && restates(c, (row) => row.values[column], sure))) {
			setAside(sheet, column);
			continue;
		}
		addSaid(name, column, saidBy(sure, column));
		// A day's and a clock's parts are no keys.
		if (column === whole?.day || column === whole?.clock) continue;
		const areWritten = sheet.columns.some(({ profile: p }) => p.json === 0 && p.name < NAMED && p.prose > WRITTEN);
		const parts = keyParts(sure, column, table.primaryKey.length === 1 && table.primaryKey[0] === column, areWritten);
		if (parts === null) continue;
		for (const part of parts)
			if (!sheet.columns.some((c) => c.path.length > 0 && restates(c, part.read, sure)))
				add(`${name} (part ${part.index + 1})`, column, part);
		// What is put together is no writing, though there be blanks in it.
		if (p.path < 0.3) own.profile = { ...own.profile, prose: 0, name: 0, token: 1 };
	}
	for (const c of [...sheet.columns])
		if (c.stored && !c.made && c.profile.texts > 0 && c.profile.texts === c.profile.filled) void (addMailboxes(c) || addFull(c));
	if (sheet.columns.some((c) => c.profile.time)) return;
	for (const [column, name] of names.entries()) {
		const times = timesInKeys(sure, column) ?? timeInKeys(sure, column);
		if (times) add(`${name} (time)`, column, times);
	}

	/** What a row has of a column, if it is whole. */
	function wholeValue(c: SheetColumn): (row: Row) => Value | undefined {
		return (row) => (isCutIn(row, c) ? undefined : c.stored ? cell(row, c, []) : row.values[c.column]);
	}

	/** When each message was sent or received, where that stands in two columns, and which of the two it was. */
	function addEitherTime(): void {
		const plain = sheet.columns.filter((c) => c.column >= 0 && !c.made && !c.body && c.path.length === 0);
		const either = eitherTimeOf(plain, sure, (row, c) => row.values[c.column]);
		if (!either) return;
		const { first, second } = either;
		add(`${first.name} or ${second.name}`, first.column, { read: either.time });
		add(`which of ${first.name} and ${second.name}`, second.column, { read: either.which });
		for (const c of [first, second]) c.profile = { ...c.profile, time: null };
	}

	/** Names and addresses apart, where a column has mailboxes; false where it has none. */
	function addMailboxes(c: SheetColumn): boolean {
		const boxes = mailboxesIn(sure, wholeValue(c));
		if (!boxes) return false;
		const { name, column } = c;
		add(`${name} (address)`, column, { read: boxes.addresses });
		const alone: Made = { read: boxes.alone };
		const profile = profileOf(sure, (r) => alone.read(r), sample);
		add(`${name} (name)`, column, { read: boxes.name, nameOf: { name, column, path: [], made: alone, profile } });
		leaveAside(c);
		return true;
	}

	/** Addresses without the device behind them, and who is behind those of rooms; false where there are none. */
	function addFull(c: SheetColumn): boolean {
		const full = fullAddressesIn(sure, wholeValue(c));
		if (!full) return false;
		add(`${c.name} (address)`, c.column, { read: full.bare });
		if (full.nickname) add(`${c.name} (nickname)`, c.column, full.nickname);
		leaveAside(c);
		return true;
	}

	/** What a column's texts say without who wrote each, and what stands there in the place of some. */
	function addSaid(name: string, column: number, lines: ReturnType<typeof saidBy>): void {
		const said = (row: Row): Value | undefined => (lines ? lines.said.read(row) : row.values[column]);
		const payloads = payloadsIn(sure, said, names.length);
		if (lines) add(`${name} (writer)`, column, lines.writer);
		if (lines ?? payloads) {
			add(`${name} (said)`, column, { read: payloads ? payloads.said : said });
			const own = sheet.columns.find((c) => c.column === column)!;
			own.profile = { ...own.profile, prose: 0, name: 0, texts: 0 };
		}
		for (const { name: attribute, read } of payloads?.attributes ?? []) add(`${name}.${attribute}`, column, { read, stated: true });
	}
}

/** Times on the wall's clock with their offset beside them become times in UTC. */
function addInUtc(sheet: Sheet, sample: Row[]): void {
	const plain = sheet.columns.filter((c) => c.column >= 0 && !c.made && !c.body);
	for (const time of plain) {
		const found = zoneBeside(time, plain, (c) => sheet.sure.map((row) => cell(row, c, [])));
		if (!found) continue;
		const made: Made = { read: (row) => found.inUtc(cell(row, time, []), cell(row, found.offset, [])) ?? undefined };
		const profile = profileOf(sheet.sure, made.read, sample);
		sheet.columns.push({ name: `${time.name} and ${found.offset.name}`, column: time.column, path: [found.offset.name], made, profile });
		time.profile = { ...time.profile, time: null };
	}
}

/** Times in two halves become one. */
function addWhole(sheet: Sheet, sample: Row[]): void {
	const halves = halvesIn(sheet.columns.filter((c) => c.column >= 0 && !c.made && !c.body && c.path.length === 0));
	if (!halves) return;
	const { high, low } = halves;
	const made: Made = { read: (row) => wholeOf(row.values[high.column], row.values[low.column]) };
	const profile = profileOf(sheet.sure, made.read, sample);
	if (!profile.time) return;
	sheet.columns.push({ name: `${high.name} and ${low.name}`, column: high.column, path: [low.name], made, profile });
	for (const half of [high, low]) half.profile = { ...half.profile, time: null };
}

/** Columns of an export whose dates stand beside them once more, in plain form. */
function restated(names: readonly string[]): number[] {
	const plain = new Set(names.flatMap((name) => /^(.*) \(date\)$/.exec(name)?.[1] ?? []));
	return names.flatMap((name, column) => {
		const isPart = names.some((other) => plain.has(`${name} and ${other}`) || plain.has(`${other} and ${name}`));
		return plain.has(name) || isPart ? [column] : [];
	});
}

/** Whether what is read of a row stands within its document as well: a key that the document has too. */
function restates(field: SheetColumn, read: (row: Row) => Value | undefined, rows: readonly Row[]): boolean {
	const said = (value: Value | undefined): string =>
		value instanceof Uint8Array ? new TextDecoder().decode(value) : value === undefined || value === null ? '' : String(value);
	return rows.length > 0 && rows.every((row) => said(read(row)) !== '' && said(read(row)) === said(cell(row, field, [])));
}

/** What is read by other columns altogether is no value of its own any more. */
function setAside(sheet: Sheet, column: number): void {
	leaveAside(sheet.columns.find((c) => c.column === column)!);
}

/** What other columns read is no value of this one any more. */
export function leaveAside(own: SheetColumn): void {
	own.profile = {
		...own.profile,
		prose: 0,
		name: 0,
		texts: 0,
		blobs: 0,
		phone: 0,
		email: 0,
		addresses: 0,
		token: 0,
		filled: 0,
		unique: false,
		distinct: new Map()
	};
}

/** Adds the column that reads a text from the one or the other of two. */
function addEither(sheet: Sheet, sample: Row[]): void {
	const read = (row: Row, column: SheetColumn): Value | undefined => cell(row, column, []);
	const either = eitherOf(sheet.columns, sheet.sure, read);
	if (!either) return;
	const { first, second } = either;
	const isIn = (row: Row, column: SheetColumn): boolean => typeof read(row, column) === 'string' && read(row, column) !== '';
	const from = (row: Row): SheetColumn => (!isIn(row, first) && isIn(row, second) ? second : first);
	const made: Made = { read: (row) => read(row, from(row)), from };
	const profile = profileOf(sheet.sure, (r) => made.read(r), sample);
	sheet.columns.push({ name: `${first.name} or ${second.name}`, column: first.column, path: [], made, profile });
	for (const part of [first, second]) part.profile = { ...part.profile, prose: 0, name: 0, texts: 0 };
}

/** The rows whose values are all there, if they are enough; else those rebuilt as well; else all, but of a handful what is whole. */
function surest(rows: Row[]): Row[] {
	const whole = rows.filter((r) => r.grade === 'whole');
	if (whole.length >= Math.min(SURE, Math.max(ENOUGH, rows.length * 0.1))) return whole;
	const complete = rows.filter((r) => r.grade !== 'fragment');
	if (complete.length >= ENOUGH) return complete;
	return whole.length > 0 && rows.length <= HANDFUL ? whole : rows;
}

/** Rows from which a table's likeness can be told. */
const TELLING_ROWS = 4;
const EMPTY = '-';

/**
 * Tables declared alike need not hold alike: a table of persons and one of rooms can both be (text, text). Those
 * whose columns hold the same sorts of values stay together; one with hardly a row goes with the largest.
 */
function alike(tables: Table[], harvest: Harvested): Table[][] {
	if (tables.length === 1 || areDated(tables)) return [tables];
	const groups: { sorts: string[]; fields: Set<string> | null; tables: Table[] }[] = [];
	const few: Table[] = [];
	for (const table of tables) {
		const rows = harvest.book.rowsOf(table.index).slice(0, 200);
		const fields = fieldsOfDocuments(rows, table);
		if (rows.length < TELLING_ROWS && !fields) {
			few.push(table);
			continue;
		}
		const sorts = table.columns.map((_, i) => sortOf(rows.map((r) => r.values[i])));
		// A column that is empty here says nothing against one that is not.
		const group = groups.find(
			(g) =>
				g.sorts.every((sort, i) => sort === sorts[i] || sort === EMPTY || sorts[i] === EMPTY) &&
				(fields && g.fields ? haveAlike(fields, g.fields) : fields === g.fields) &&
				!(g.tables.length === 1 && sameKeys(g.tables[0]!, table, harvest))
		);
		if (!group) groups.push({ sorts, fields, tables: [table] });
		else {
			group.tables.push(table);
			group.sorts = group.sorts.map((sort, i) => (sort === EMPTY ? sorts[i]! : sort));
		}
	}
	const bySize = (g: typeof groups): Table[][] => g.map(({ tables }) => tables).sort((a, b) => b.length - a.length);
	// What is no document goes with what is none.
	const sorted = [...bySize(groups.filter((g) => !g.fields)), ...bySize(groups.filter((g) => g.fields))];
	// Tables of numbers alone join others; two of them have nothing in common but that.
	const written = (t: Table): boolean =>
		harvest.book
			.rowsOf(t.index)
			.slice(0, 200)
			.some((r) => r.values.some((v) => typeof v === 'string' || (typeof v === 'object' && v !== null)));
	if (!tables.some(written)) return tables.map((t) => [t]);
	if (few.length > 0 && groups.every((g) => g.fields)) sorted.unshift([]);
	sorted[0]!.push(...few);
	return sorted.map((g) => g.sort((a, b) => a.index - b.index));
}

/** Whether two tables name the same things by one column's texts: then each says something else of them. */
function sameKeys(a: Table, b: Table, harvest: Harvested): boolean {
	return a.columns.some((_, i) => {
		const [inA, inB] = [a, b].map((t) => harvest.book.rowsOf(t.index).flatMap((r) => (r.standing === 'kept' ? [r.values[i]] : [])));
		const set = new Set(inA);
		if (set.size < TELLING_ROWS || inB!.length < TELLING_ROWS || set.size < inA!.length || new Set(inB).size < inB!.length) return false;
		const same = inB!.filter((v) => typeof v === 'string' && v.length > 3 && set.has(v)).length;
		return same >= Math.min(inA!.length, inB!.length) * SAME_KEYS;
	});
}
const SAME_KEYS = 0.5;

/** What sort of values these mostly are. */
function sortOf(values: readonly (Value | undefined)[]): string {
	const filled = values.filter((v) => v !== null && v !== undefined && v !== '');
	if (filled.length === 0) return EMPTY;
	const texts = filled.filter((v): v is string => typeof v === 'string');
	if (texts.length < filled.length * 0.5) return typeof filled[0] === 'object' ? 'blob' : 'number';
	const most = (test: RegExp): boolean => texts.filter((t) => test.test(t)).length > texts.length * 0.6;
	return most(UUID) ? 'id' : most(EMAIL) ? 'address' : most(PHONE) ? 'number as text' : 'text';
}

export function sampleOf(rows: Row[]): Row[] {
	if (rows.length <= SAMPLE) return rows;
	const step = rows.length / SAMPLE;
	return Array.from({ length: SAMPLE }, (_, i) => rows[Math.floor(i * step)]!);
}

/** Whether two sheets are rows of one table, told apart by their kind. */
export const areOneTable = (a: Sheet, b: Sheet): boolean => a.tables.length === 1 && b.tables.length === 1 && a.tables[0] === b.tables[0];

/** The value of a sheet's column in a row. */
export function cell(row: Row, column: SheetColumn, tables: readonly Table[]): Value | undefined {
	if (column.aside) return textAside(asideOf(row, column.aside, null, tables), column.aside, tables);
	if (column.made) return column.made.read(row);
	if (column.column < 0) return tables[row.table]!.name;
	if (column.body) return bodyOf(row, column);
	if (column.path.length === 0) return wellFormed(row.values[column.column]);
	return insideOf(row, column);
}

/** Bytes that are part of no letter show as a sign that says so. */
const wellFormed = (value: Value | undefined): Value | undefined =>
	typeof value === 'string' && !value.isWellFormed() ? value.toWellFormed() : value;

const bodies = new WeakMap<Row, Map<number, string | null>>();

/** The text of a row's body, read once. */
function bodyOf(row: Row, column: SheetColumn): string | null | undefined {
	const value = row.values[column.column];
	if (value === undefined) return undefined;
	let cache = bodies.get(row);
	if (!cache) bodies.set(row, (cache = new Map()));
	let text = cache.get(column.column);
	if (text === undefined) cache.set(column.column, (text = bodyText(value, column.body!, row.cut === column.column)));
	return text;
}

/** A column whose values hold texts in another form gets a second one that reads them. */
function openBody(sheet: Sheet, column: SheetColumn, sample: Row[]): void {
	const p = column.profile;
	if (p.time || p.filled === 0 || (p.texts > 0 && p.averageLength < 4)) return;
	if (p.phone > 0.3 || p.email > 0.3) return;
	const values = withSeldom(
		sample.map((r) => r.values[column.column]),
		sheet,
		column
	);
	// A file that begins as pictures do is no text, whatever its bytes could be read as.
	const files = values.filter((v) => v instanceof Uint8Array && mediaTypeOf(v.subarray(0, 16)) !== null).length;
	if (files > p.blobs * FILES_AT_MOST && files > 0) return;
	const body = readBody(values);
	// How a message is laid out stands beside what it says: the parts that are text are read as those are written.
	if (body?.kind === 'markup' && isOfLayouts(column, sample)) return;
	// Texts written as digits look like keys, which are written so too.
	if (!body || (p.uuid > 0.5 && body.kind !== 'hex')) return;
	const opened: SheetColumn = { name: column.name, column: column.column, path: [], body, profile: p };
	opened.profile = profileOf(sheet.sure, (r) => bodyOf(r, opened) ?? null, sample);
	sheet.columns.push(opened);
	// What is read by the second column is no text of its own any more.
	if (p.texts > p.filled / 2) column.profile = { ...p, prose: 0, name: 0, texts: 0 };
}

/** Whether a column's markup is that of rows whose type another column states, and it states of others that they are plain (RFC 2046, 4.1.3). */
function isOfLayouts({ column }: SheetColumn, sample: readonly Row[]): boolean {
	const isType = (value: Value | undefined): value is string => typeof value === 'string' && /^[a-z]+\/[\w.+-]+$/i.test(value);
	const type = sample[0]?.values.findIndex((_, c) => c !== column && sample.every((row) => isType(row.values[c]))) ?? -1;
	return type >= 0 && sample.some((row) => /^text\/plain$/i.test(String(row.values[type])) && typeof row.values[column] === 'string');
}

/** Values of a sample, before them those in bytes of a column that has but a few. */
function withSeldom(values: (Value | undefined)[], sheet: Sheet, { column, profile: p }: SheetColumn): (Value | undefined)[] {
	if (p.blobs === 0 || p.blobs > p.filled * SELDOM) return values;
	const bytes = sheet.sure.map((row) => row.values[column]).filter((v) => v instanceof Uint8Array);
	return [...bytes.slice(0, SELDOM_READ), ...values.filter((v) => !(v instanceof Uint8Array))];
}
const SELDOM = 0.2;
const SELDOM_READ = 30;

/** Share of a column's bytes that may begin as files do, where they are texts. */
const FILES_AT_MOST = 0.5;

/** Of what has a table of its own only the key is left here, by which it is named. */
function leaveToTheirTables(sheet: Sheet, { column, things }: Described): void {
	for (const { path, key, table } of things) {
		const isWithin = (c: SheetColumn): boolean =>
			c.column === column && c.path.length === path.length + 1 && path.every((part, i) => part === c.path[i]);
		for (const c of sheet.columns) if (isWithin(c) && c.path.at(-1) === key) c.references = table;
		sheet.columns = sheet.columns.filter((c) => !isWithin(c) || c.path.at(-1) === key);
	}
}

/** Each value inside those of a column becomes a column of its own. */
function openFields(sheet: Sheet, column: SheetColumn, stored: Stored, sample: Row[], listed: readonly (readonly string[])[]): void {
	// Where documents are lists themselves, others of the column can be none.
	const isListed = (path: readonly string[]): boolean =>
		listed.some((list) => (list.length === 0 ? path.every((part) => /^\d+$/.test(part)) : list.every((part, i) => part === path[i])));
	for (const path of pathsIn(sample.map((r) => openStored(r, column.column, stored)))) {
		if (isListed(path)) continue;
		const inner: SheetColumn = { name: `${column.name}.${path.join('.')}`, column: column.column, path, stored, profile: column.profile };
		inner.profile = profileOf(sheet.sure, (r) => insideOf(r, inner), sample);
		if (isComposed(stored) && areNumerals(inner.profile)) {
			inner.numerals = true;
			inner.profile = profileOf(sheet.sure, (r) => insideOf(r, inner), sample);
		}
		sheet.columns.push(inner);
	}
	openPieces(sheet, column, stored, sample, isListed);
}

/** Where none of the values inside is a text, but several together are one, they become a column. */
function openPieces(
	sheet: Sheet,
	column: SheetColumn,
	stored: Stored,
	sample: Row[],
	isListed: (path: readonly string[]) => boolean
): void {
	const inside = sheet.columns.filter((c) => c.column === column.column && c.stored);
	if (inside.some((c) => c.profile.prose > WRITTEN && c.profile.json === 0)) return;
	const pieces = piecesIn(sample.slice(0, OPENED).map((r) => openStored(r, column.column, stored)));
	if (!pieces || isListed(pieces.path)) return;
	const made: Made = { read: (row) => joined(openStored(row, column.column, stored), pieces) };
	const path = [...pieces.path, ...(pieces.field === null ? [] : [pieces.field])];
	sheet.columns.push({
		name: [column.name, ...path].join('.'),
		column: column.column,
		path,
		made,
		profile: profileOf(sheet.sure, made.read, sample)
	});
	for (const part of [column, ...inside.filter((c) => c.path.join('.') === pieces.path.join('.'))])
		part.profile = { ...part.profile, prose: 0, name: 0, texts: 0 };
}

function insideOf(row: Row, column: SheetColumn): Value | undefined {
	const stored = plain(at(openStored(row, column.column, column.stored!), column.path));
	const value = column.numerals && typeof stored === 'string' && NUMERAL.test(stored) ? Number(stored) : stored;
	// The beginning of a key or a name is no key, nor that name.
	return row.cut === column.column && isEnding(row, column.path) && column.profile.prose <= WRITTEN ? undefined : value;
}
const WRITTEN = 0.3;
const NAMED = 0.6;

/** Whether the values of a field are numbers written down, as records written as one text have their keys: small ones, that no telephone has. */
const areNumerals = ({ distinct, texts, filled }: Profile): boolean =>
	texts > 0 && texts === filled && [...distinct.keys()].every((v) => typeof v === 'string' && NUMERAL.test(v));
const NUMERAL = /^(?:0|[1-9]\d{0,7})$/;

/** Whether what a row has of a column is only the beginning of it, or nothing that is sure. */
export const isCutIn = (row: Row, column: SheetColumn): boolean =>
	column.made?.from
		? isCutIn(row, column.made.from(row))
		: row.cut >= 0 &&
			row.cut === column.column &&
			!(column.stored && knowsItsEnd(column.stored) && column.path.length > 0 && !isEnding(row, column.path));

/** Whether a column is the record number of its sheet's rows. */
export const isOwnNumber = (c: SheetColumn, sheet: Sheet, tables: readonly Table[]): boolean =>
	c.path.length === 0 && tables[sheet.tables[0]!]!.rowidColumn === c.column;

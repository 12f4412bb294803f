/**
 * Exports whose persons and conversations stand in files of their own, beside the messages: such a list is taken in with
 * the messages that name its entries, so that both are read as the tables of one store are.
 */
import { FILE_COLUMN, titleOfFile, type ExportHarvest } from '../harvest';
import { isOwn, readRecords } from '../interpret';
import type { Value } from '../model';
import type { GivenFile } from '../unwrap';
import type { Found } from './pages';
import { folderIn } from '../paths';

/** Bytes of a list, and lists of a folder, at most. */
const LARGEST_LIST = 16 << 20;
const MOST_LISTS = 40;
/** Folders above the messages in which their lists can lie. */
const ABOVE = 2;
const LIST = /\.(?:json|jsonl|ndjson|csv|tsv|tab|xml|plist|bson)$/i;

interface List {
	harvest: ExportHarvest;
	table: number;
	title: string;
	/** The values of its columns, as texts. */
	columns: { name: string; values: Set<string>; isKey: boolean }[];
}

/**
 * Gives every export of records the lists beside it that its messages name. `almost`: files that have texts and times but
 * name nobody by themselves; those that do with their lists are found as well. `open`: opens a file that is a list. What
 * is found then, and which files were read as lists.
 */
export function takeListsBeside(
	found: readonly Found[],
	almost: readonly Found[],
	files: readonly GivenFile[],
	isTaken: (file: number) => boolean,
	open: (file: number) => ExportHarvest | null
): { lists: Set<number>; found: Found[] } {
	const taken = new Set<number>();
	const more: Found[] = [];
	const records = found.filter(({ harvest }) => harvest.form === 'records');
	const own = new Set(found.map((f) => f.file));
	const tried = almost.filter(({ file }) => !isTaken(file) && !own.has(file));
	if (records.length + tried.length === 0) return { lists: taken, found: [...found] };
	const inFolder = new Map<string, number[]>();
	for (const [file, { path, name, source, opened }] of files.entries())
		if (LIST.test(name) && !opened && source.size <= LARGEST_LIST && !own.has(file) && !isTaken(file))
			inFolder.set(folderIn(path), [...(inFolder.get(folderIn(path)) ?? []), file]);
	const read = new Map<number, List[]>();
	const listsOf = (file: number): List[] => {
		if (!read.has(file)) read.set(file, listsIn(open(file), titleOfFile(files[file]!.path)));
		return read.get(file)!;
	};
	// Where several have messages, the most of them are what the others are of: reactions, receipts.
	const all = [...records, ...tried].sort((a, b) => b.harvest.book.size - a.harvest.book.size);
	const without = new Set<number>();
	for (const one of all) {
		const { file, harvest } = one;
		if (without.has(file)) continue;
		const lists: { file: number; list: List }[] = [];
		const fields = fieldsOf(harvest);
		let folder = folderIn(files[file]!.path);
		for (let up = 0; up <= ABOVE; up++) {
			const beside = inFolder.get(folder) ?? [];
			if (beside.length <= MOST_LISTS)
				for (const other of beside)
					if (other !== file) lists.push(...listsOf(other).flatMap((list) => (isOfSameKind(list, fields) ? [] : [{ file: other, list }])));
			if (folder === '') break;
			folder = folderIn(folder.slice(0, -1));
		}
		const named = namedBy(harvest, lists);
		// Where one list of a folder is named, all of them are tables of one database.
		const folders = new Set(named.map(({ file: from }) => folderIn(files[from]!.path)));
		const tables = lists.filter(({ file: from }) => folders.has(folderIn(files[from]!.path)));
		const here = folderIn(files[file]!.path);
		const ofThese = all.filter(
			(other) =>
				other !== one &&
				!without.has(other.file) &&
				folderIn(files[other.file]!.path) === here &&
				namesRowsOf(other, one, titleOfFile(files[file]!.path))
		);
		for (const other of ofThese)
			if (!tables.some((t) => t.file === other.file)) tables.push(...listsOf(other.file).map((list) => ({ file: other.file, list })));
		for (const one of lists) if (!tables.some((t) => t.file === one.file) && saysWhose(one.list, harvest)) tables.push(one);
		const own = harvest.tables.length;
		for (const from of new Set(tables.map((t) => t.file))) {
			const of = tables.flatMap((t) => (t.file === from ? [t.list] : []));
			harvest.takeTables(
				of[0]!.harvest,
				of.map((list) => list.table),
				of[0]!.title,
				titleOfFile(files[file]!.path)
			);
		}
		if (!one.reading && tables.length > 0) {
			const reading = readRecords(harvest, { asked: [], title: '' });
			if (!reading?.messages.some((m) => m.sheet.tables.every((table) => table < own))) continue;
			more.push({ file, harvest, reading });
		}
		for (const { file: from } of tables) taken.add(from);
		for (const { file: from } of ofThese) without.add(from);
	}
	return { lists: taken, found: [...found.filter((f) => !without.has(f.file)), ...more.filter((f) => !without.has(f.file))] };
}

/** Whether a file's rows name those of another by its key: what belongs to messages, no messages of its own. */
function namesRowsOf({ harvest: other }: Found, { harvest }: Found, title: string): boolean {
	if (other.form !== 'records' || other.tables.length !== 2 || other.book.size > harvest.book.size) return false;
	const keys = columnsOf(harvest, 1).filter((c) => c.isKey);
	return columnsOf(other, 1).some((c) => keys.some((key) => c.name !== key.name && isWithin(c.values, key.values) && names(c, key, title)));
}

/** Fields that two files of one kind have in common, fewest of them and their share; not every entry has every field. */
const FIELDS_IN_COMMON = 3;
const MOST_FIELDS = 0.6;

/** Whether a list has the fields of an export's own entries: another conversation of the same export, no list of it. */
function isOfSameKind({ columns }: List, own: readonly ReadonlySet<string>[]): boolean {
	return own.some((fields) => {
		const common = columns.filter(({ name }) => fields.has(name)).length;
		return common >= FIELDS_IN_COMMON && common >= Math.min(columns.length, fields.size) * MOST_FIELDS;
	});
}
const fieldsOf = (harvest: ExportHarvest): Set<string>[] =>
	harvest.tables.flatMap((_, table) => (table === 0 ? [] : [new Set(columnsOf(harvest, table).map(({ name }) => name))]));

const LONGEST_KEY = 120;
function listsIn(harvest: ExportHarvest | null, title: string): List[] {
	if (!harvest) return [];
	return harvest.tables.flatMap((t, table): List[] => {
		const rows = harvest.book.rowsOf(table);
		// What says but one thing, of all there is, can be whose it is.
		if (table === 0 || rows.length === 0 || t.columns.length < (rows.length === 1 ? 2 : 3)) return [];
		const columns = columnsOf(harvest, table);
		return [{ harvest, table, title, columns }];
	});
}

function columnsOf(harvest: ExportHarvest, table: number): List['columns'] {
	const rows = harvest.book.rowsOf(table);
	return harvest.tables[table]!.columns.flatMap(({ name }, c) => {
		const values = rows.flatMap((row) => keyOf(row.values[c]) ?? []);
		if (name === FILE_COLUMN || values.length === 0) return [];
		const distinct = new Set(values);
		return [{ name, values: distinct, isKey: distinct.size === rows.length }];
	});
}

const keyOf = (value: Value | undefined): string | null =>
	(typeof value === 'string' && value !== '' && value.length <= LONGEST_KEY) || typeof value === 'number' ? String(value) : null;

/** The lists whose entries an export's rows name, and those that join such lists with each other. */
function namedBy(harvest: ExportHarvest, lists: readonly { file: number; list: List }[]): { file: number; list: List }[] {
	const rows = harvest.tables.flatMap((_, table) => (table === 0 ? [] : columnsOf(harvest, table)));
	const title = keyOf(harvest.book.rowsOf(1)[0]?.values.at(-1));
	const out = lists.filter(({ list }) =>
		list.columns.some(
			(key) =>
				key.isKey && (rows.some((c) => names(c, key, list.title)) || (title !== null && /\p{L}/u.test(title) && key.values.has(title)))
		)
	);
	const keys = out.flatMap(({ list }) => list.columns.filter((c) => c.isKey));
	if (out.length === 0) return [];
	const joins = lists.filter(
		(one) =>
			!out.includes(one) &&
			one.list.columns.filter((c) => keys.some((key) => key.values.size > 1 && isWithin(c.values, key.values))).length > 1
	);
	return [...out, ...joins];
}

/** Whether a list is the program's settings, which name one of those that the messages name as its owner. */
function saysWhose({ harvest: from, table, columns }: List, harvest: ExportHarvest): boolean {
	if (from.book.rowsOf(table).length !== 1) return false;
	const said = columns.flatMap(({ name, values }) => (isOwn(name) ? [...values] : []));
	return (
		said.length > 0 &&
		harvest.tables.some(
			(_, t) => t > 0 && columnsOf(harvest, t).some((c) => c.values.size > 1 && said.some((owner) => c.values.has(owner)))
		)
	);
}

const isWithin = (values: ReadonlySet<string>, of: ReadonlySet<string>): boolean => [...values].every((v) => of.has(v));

/** Share of the values that must be keys: persons leave. */
const MOSTLY = 0.9;

/** Whether a column's values are keys of a list. Small numbers are keys of anything: its name must say of what. */
function names(c: List['columns'][number], key: List['columns'][number], list: string): boolean {
	if (c.values.size < 2) return false;
	const held = [...c.values].filter((v) => key.values.has(v)).length;
	if (held < c.values.size * MOSTLY) return false;
	if (![...c.values].every((v) => /^\d{1,6}$/.test(v))) return true;
	const called = c.name.toLowerCase().replace(/[ _.-]?(?:id|key|no|nr)$/i, '');
	if (called === '') return false;
	return c.name === key.name || list.toLowerCase().startsWith(called.slice(0, 4)) || FAMILIES.some((f) => f.test(c.name) && f.test(list));
}
const FAMILIES = [
	/user|author|send|from|person|people|contact|member|profile|account|writer/i,
	/chat|room|thread|conv|group|channel|dialog|space/i
];

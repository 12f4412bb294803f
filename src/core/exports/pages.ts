/** Exports in several files: the pages of one conversation, and the days of one, are read as one. */
import { dayInName, FILE_COLUMN, openFurtherPage, titleOfFile, type ExportHarvest } from '../harvest';
import type { StoreReading } from '../interpret';
import type { GivenFile } from '../unwrap';
import { folderIn } from '../paths';

/** An export, and how its records were read by themselves. */
export interface Found {
	file: number;
	harvest: ExportHarvest;
	reading?: StoreReading;
}

/** Pages numbered after one that has no number, or the number 1, in the same folder and with the same heading, are read with it. */
export function withFurtherPages(found: readonly Found[], files: readonly GivenFile[]): Found[] {
	const nameOf = (file: number): { stem: string; page: number } => {
		const [, stem, page, ending] = /^(.*?)[ _-]?(\d{0,4})(\.html?)$/i.exec(files[file]!.path) ?? [];
		return { stem: stem === undefined ? '' : `${stem}${ending}`, page: Number(page || 1) };
	};
	const first = new Map<string, Found>();
	const pages = found.map((f) => ({ ...f, ...nameOf(f.file) })).sort((a, b) => a.page - b.page);
	const taken = new Set<ExportHarvest>();
	for (const { file, harvest, stem, page } of pages) {
		if (harvest.form !== 'records' || stem === '' || harvest.heading === '') continue;
		const known = first.get(stem);
		if (page === 1 && !known) first.set(stem, { file, harvest });
		else if (known?.harvest.heading === harvest.heading && known.harvest.takeIn(harvest)) taken.add(harvest);
	}
	// A last page with a message or two is no export by itself.
	const read = new Set(found.map((f) => f.file));
	for (const file of files.keys()) {
		const { stem, page } = nameOf(file);
		const known = first.get(stem);
		if (!known || page < 2 || read.has(file) || files[file]!.opened) continue;
		const harvest = openFurtherPage(files[known.file]!, files[file]!, file);
		if (!harvest || harvest.heading !== known.harvest.heading) continue;
		for (const step of harvest.run('used')) void step;
		known.harvest.takeIn(harvest);
	}
	return found.filter((f) => !taken.has(f.harvest));
}

/** What the name of a file says of which part of an export it is. */
interface PartName {
	/** What it has in common with the others. */
	key: string;
	/** What a conversation is called whose parts are days: the rest of the name, or the folder. */
	title: string | null;
	number: number;
}

const NUMBER = /[ _.-]?\(?(\d{1,4})\)?$/;

/** `folder/messages 2.json`, `folder/2025-01-14.json`; a name without a number is that of the first part. */
function partNameOf(path: string, isDay: boolean): PartName | null {
	const folder = folderIn(path);
	const title = titleOfFile(path);
	const ending = path.slice(folder.length + title.length);
	const named = isDay ? dayInName(title) : null;
	if (isDay !== (dayInName(title) !== null)) return null;
	if (named)
		return { key: JSON.stringify([folder, named.rest, ending]), title: named.rest || (folder.split('/').at(-2) ?? title), number: 0 };
	// Pages of markup say by their headings whose they are (above).
	if (/^\.html?$/i.test(ending)) return null;
	const number = NUMBER.exec(title);
	const stem = number ? title.slice(0, number.index) : title;
	return { key: JSON.stringify([folder, stem, ending]), title: null, number: number ? Number(number[1]) : 1 };
}

/**
 * Joins files of records that are parts of one conversation each: days of it, or numbered pages that name the same
 * persons. `open`: opens a file of which an entry may be enough: on some days, and last pages, no more was said.
 */
export function joinParts(
	found: readonly Found[],
	files: readonly GivenFile[],
	open: (file: number, like: ExportHarvest) => ExportHarvest | null
): { found: Found[]; joined: Set<number> } {
	const joined = new Set<number>();
	for (const isDay of [true, false]) {
		const groups = new Map<string, Found[]>();
		for (const one of found) {
			const name = isOneConversation(one) && !joined.has(one.file) ? partNameOf(files[one.file]!.path, isDay) : null;
			if (name) groups.set(name.key, [...(groups.get(name.key) ?? []), one]);
		}
		if (groups.size === 0) continue;
		const known = new Set(found.map((f) => f.file));
		const small = new Map<string, number[]>();
		for (const [file, { path, opened }] of files.entries()) {
			const key = known.has(file) || opened ? null : partNameOf(path, isDay)?.key;
			if (key && groups.has(key)) small.set(key, [...(small.get(key) ?? []), file]);
		}
		for (const [key, parts] of groups) {
			const numberOf = ({ file }: Found): number => partNameOf(files[file]!.path, isDay)!.number;
			parts.sort((a, b) => numberOf(a) - numberOf(b) || (files[a.file]!.path < files[b.file]!.path ? -1 : 1));
			const [first, ...others] = parts;
			const { title } = partNameOf(files[first!.file]!.path, isDay)!;
			if (title !== null) first!.harvest.callBy(title);
			for (const part of others) if (isPartOf(first!, part.harvest, isDay) && first!.harvest.takeIn(part.harvest)) joined.add(part.file);
			for (const file of small.get(key) ?? []) {
				const harvest = open(file, first!.harvest);
				if (harvest && isPartOf(first!, harvest, isDay) && first!.harvest.takeIn(harvest)) joined.add(file);
			}
		}
	}
	return { found: found.filter((f) => !joined.has(f.file)), joined };
}

/** Whether nothing in a file of records parts it in conversations. */
export function isOneConversation({ harvest, reading }: Found): boolean {
	const [m, ...more] = reading?.messages ?? [];
	return harvest.form === 'records' && m !== undefined && more.length === 0 && m.thread?.value.name === FILE_COLUMN;
}

/** Whether a file is a further part of a conversation. Numbers can be those of conversations: then others write. */
function isPartOf(first: Found, part: ExportHarvest, isDay: boolean): boolean {
	const said = beside(first);
	const alike = isSaidAlike(first, part, isDay);
	if (isDay) return alike;
	const [known, writers] = [writersOf(first, first.harvest), writersOf(first, part)];
	const both = [...writers].filter((writer) => known.has(writer)).length;
	if (alike) return both > 1 || [...writers].every((writer) => known.has(writer) || said.has(writer));
	// Pages of a conversation that says nothing of itself: the same persons write, though not all of them on each.
	return said.size === 0 && both > 1 && both === Math.min(known.size, writers.size);
}

/** Who writes in an export that is made as the first one is. */
function writersOf({ reading }: Found, { tables, book }: ExportHarvest): Set<string> {
	const [m] = reading!.messages;
	const name = m!.sender?.value.name;
	return new Set(
		tables.flatMap((t, table) => {
			const column = t.columns.findIndex((c) => c.name === name);
			return column < 0
				? []
				: book
						.rowsOf(table)
						.flatMap((row) => (row.values[column] === null || row.values[column] === undefined ? [] : [String(row.values[column])]));
		})
	);
}

/** What an export says beside its messages: of the conversation, and of who takes part in it. */
const beside = ({ harvest, reading }: Found): Set<string> => saidBut(harvest, harvest.tables[reading!.messages[0]!.sheet.tables[0]!]!.name);

function saidBut({ tables, book }: ExportHarvest, messages: string): Set<string> {
	const said = new Set<string>();
	for (const [i, { name, columns }] of tables.entries())
		if (name !== messages && !name.startsWith(`${messages}.`) && book.rowsOf(i).length <= MOST_SAID)
			for (const row of book.rowsOf(i))
				for (const [c, value] of row.values.entries())
					if (typeof value === 'string' && value !== '' && columns[c]!.name !== FILE_COLUMN) said.add(value);
	return said;
}
/** Rows of a list beside the messages, at most. */
const MOST_SAID = 2000;
/** Share of what is said beside the messages that must be the same. */
const ALIKE = 0.7;

/** Whether a part says of its conversation what the first one says; days of a folder need not say anything. */
function isSaidAlike(first: Found, part: ExportHarvest, isDay: boolean): boolean {
	const said = beside(first);
	const other = saidBut(part, first.harvest.tables[first.reading!.messages[0]!.sheet.tables[0]!]!.name);
	if (said.size === 0 && other.size === 0) return isDay;
	const shared = [...other].filter((value) => said.has(value)).length;
	return shared > 0 && shared >= Math.max(said.size, other.size) * ALIKE;
}

/**
 * A program's store may be spread over several database files: what messages state, their persons and conversations
 * then stand beside the file with the messages. Sheets of such files are read together with those of the messages.
 */
import type { Harvested } from '../harvest';
import type { Row, Table } from '../model';
import type { Context } from './context';
import type { SheetRole, StoreReading } from './reading';
import { isNamedAlike, type Reference } from './refs';
import { sheetsOf, type Sheet } from './sheet';

/** Rows and sheets of files beside that are read with a store, at most: a folder can hold many that are strangers. */
const ROWS_AT_MOST = 200_000;
const SHEETS_AT_MOST = 60;
/** What a reference within the store itself is surer by. */
const ELSEWHERE = 0.1;
const LIKELY = 0.45;
const KEYS_LEAST = 5;
const KEYS_USED = 0.5;
const FEW = 3;
const LARGE = 100;

export interface NamedHarvest {
	/** The file's. */
	name: string;
	harvest: Harvested;
}

export interface Beside {
	sheets: Sheet[];
	/** Those of the store, and behind them those of the files beside it. */
	tables: readonly Table[];
}

/** The sheets of `others`, numbered on from the store's own `sheets` and `tables`. */
export function sheetsBeside(sheets: readonly Sheet[], tables: readonly Table[], others: readonly NamedHarvest[]): Beside {
	const all = [...tables];
	const found: Sheet[] = [];
	let left = ROWS_AT_MOST;
	for (const { name, harvest } of others) {
		if (harvest.book.size > left || found.length + harvest.tables.length > SHEETS_AT_MOST) continue;
		left -= harvest.book.size;
		const base = all.length;
		all.push(...harvest.tables.map((t) => ({ ...t, index: t.index + base })));
		const moved = new Map<Row, Row>();
		// Values stay unread until they are asked for: the row is looked through, not copied.
		const move = (row: Row): Row => {
			let one = moved.get(row);
			if (!one) moved.set(row, (one = Object.create(row, { table: { value: row.table + base, enumerable: true } }) as Row));
			return one;
		};
		for (const sheet of sheetsOf(harvest))
			found.push({
				...sheet,
				file: name,
				index: sheets.length + found.length,
				tables: sheet.tables.map((t) => t + base),
				rows: sheet.rows.map(move),
				sure: sheet.sure.map(move)
			});
	}
	return { sheets: found, tables: all };
}

/** Between files only keys that tell are taken: texts, numbers whose column is called for what they name, or that name nothing else. */
export function dropChanceKeys(context: Context, beside: ReadonlySet<Sheet>): void {
	if (beside.size === 0) return;
	for (const [sheet, references] of context.references) {
		const isOwn = (r: Reference): boolean => beside.has(r.key.sheet) === beside.has(sheet);
		const own = references.filter(isOwn);
		const across = references.filter((r) => !isOwn(r) && isTelling(r, own));
		for (const r of across) r.confidence -= ELSEWHERE;
		context.references.set(
			sheet,
			[...own, ...across].sort((a, b) => b.confidence - a.confidence)
		);
	}
}

function isTelling(r: Reference, own: readonly Reference[]): boolean {
	const p = r.from.profile;
	if (p.texts >= p.filled && p.averageLength > 4) return true;
	if (isNamedAlike(r.from, r.key.sheet)) return true;
	const free = !own.some((o) => o.from === r.from && o.confidence >= LIKELY);
	// A few numbers that do not begin with one are hardly a few of another count.
	const areMany = p.distinct.size >= KEYS_LEAST || (p.distinct.size >= FEW && p.ints === p.filled && p.low >= LARGE);
	return free && r.inclusion === 1 && r.coverage >= KEYS_USED && areMany;
}

/** Roles that say that a sheet has to do with the messages; persons have only where something names them by key. */
const OF_MESSAGES: readonly SheetRole[] = [
	'attachments',
	'attached',
	'copies',
	'histories',
	'bin',
	'members',
	'message-thread',
	'threads',
	'properties'
];

/** The reading without the sheets beside that have nothing to do with the messages; null where none has. */
export function withoutStrangers(reading: StoreReading, beside: ReadonlySet<Sheet>): StoreReading | null {
	const named = new Set(
		[
			...reading.messages.flatMap((m) => [m.peer, m.sender, m.recipient, m.participant].map((p) => p?.key?.sheet)),
			...reading.threads.flatMap((t) => [t.peer?.key?.sheet, t.list?.key?.sheet]),
			...reading.members.map((m) => m.personKey?.sheet)
		].filter((s) => s !== undefined)
	);
	// What persons are called and what their numbers are can stand in two lists: whom the one names, the other belongs to.
	for (const { sheet, via } of reading.persons) {
		if (via && named.has(via.key.sheet)) named.add(sheet);
		else if (via && named.has(sheet)) named.add(via.key.sheet);
	}
	const belongs = (sheet: Sheet, role: SheetRole): boolean => !beside.has(sheet) || OF_MESSAGES.includes(role) || named.has(sheet);
	const sheets = reading.sheets.filter((s) => belongs(s.sheet, s.role.value));
	if (!sheets.some((s) => beside.has(s.sheet))) return null;
	const kept = new Set(sheets.map((s) => s.sheet));
	return {
		...reading,
		sheets,
		persons: reading.persons.filter((p) => kept.has(p.sheet)),
		personEntries: reading.personEntries.filter((p) => kept.has(p.sheet)),
		deletedPersons: reading.deletedPersons.filter((p) => kept.has(p.sheet))
	};
}

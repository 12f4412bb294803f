/**
 * Names of those who write, where no list of persons gives them: a sheet of anything (what happened in rooms, settings of
 * rooms, who takes part) in which the same handle always stands beside the same name.
 */
import type { Row, Table, Value } from '../model';
import { addressShare, isHandleLike } from './columns';
import { isPath } from './files';
import type { MessageReading, PersonReading } from './reading';
import { keyOf } from './refs';
import { profileOf } from './profile';
import { areOneTable, cell, sampleOf, type Made, type Sheet, type SheetColumn } from './sheet';

const ROWS = 4000;
/** Share of the writers that a column must have, and writers, at least. */
const WRITERS = 0.5;
const FEWEST = 2;
const NAMED = 0.6;
/** Of handles so many have one and the same name in all their rows, and of names so many are one handle's. */
const ALWAYS = 0.9;
const OWN = 0.6;

/** Readings of such sheets as persons. `persons`: those known already. */
export function namesBesideHandles(
	messages: readonly MessageReading[],
	persons: readonly PersonReading[],
	sheets: readonly Sheet[],
	tables: readonly Table[]
): PersonReading[] {
	const known = new Set(persons.flatMap((p) => valuesOf(p.sheet, p.addresses, tables)));
	const writers = messages.flatMap((m) =>
		[m.sender, m.peer, m.participant].flatMap((party) => (party && !party.key && isOfHandles(party.value) ? [party.value] : []))
	);
	const handles = new Set(writers.flatMap((c) => [...c.profile.distinct.keys()]).map(String));
	const nameless = new Set([...handles].filter((handle) => !known.has(handle)));
	if (nameless.size < Math.max(FEWEST, handles.size * WRITERS)) return [];
	const own = new Set<Sheet>([...messages.map((m) => m.sheet), ...persons.map((p) => p.sheet)]);
	return sheets.filter((sheet) => !own.has(sheet)).flatMap((sheet) => readingOf(sheet, textsIn(sheet, messages), nameless, tables) ?? []);
}

/** Columns of a sheet in which stands what was said, in other rows of the same table. */
const textsIn = (sheet: Sheet, messages: readonly MessageReading[]): SheetColumn[] =>
	messages
		.filter((m) => areOneTable(sheet, m.sheet))
		.flatMap(({ text: { value: text } }) => sheet.columns.filter((c) => c.name === text.name && c.path.join() === text.path.join()));

const isOfHandles = (c: SheetColumn): boolean => isHandleLike(c) && c.profile.phone < 0.5 && c.column >= 0;

/** Single words without a capital are handles themselves. */
const isWrittenAsName = (c: SheetColumn): boolean =>
	c.profile.token < 1 || [...c.profile.distinct.keys()].slice(0, 200).some((v) => /[\p{Lu}\p{Lo}]/u.test(String(v)));

const valuesOf = (sheet: Sheet, columns: readonly SheetColumn[], tables: readonly Table[]): string[] =>
	sheet.rows.slice(0, ROWS).flatMap((row) => columns.map((c) => String(keyOf(cell(row, c, tables)))));

function readingOf(
	sheet: Sheet,
	texts: readonly SheetColumn[],
	handles: ReadonlySet<string>,
	tables: readonly Table[]
): PersonReading | null {
	const rows = sheet.sure.slice(0, ROWS);
	const read =
		(column: SheetColumn) =>
		(row: Row): Value | undefined =>
			cell(row, column, tables);
	const names = sheet.columns.filter(
		(c) =>
			c.profile.texts > 0 &&
			!texts.includes(c) &&
			!isPath(c) &&
			isWrittenAsName(c) &&
			c.profile.name > NAMED &&
			c.profile.json < 0.5 &&
			c.profile.distinct.size > 1
	);
	for (const column of sheet.columns.filter((c) => c.profile.texts > 0 && !c.made && c.profile.json < 0.5)) {
		const handle = holds(rows.map(read(column)), handles) ? column : endsIn(column, sheet, handles, tables);
		if (!handle) continue;
		const beside = names.find((c) => c !== column && goTogether(rows, read(handle), read(c)));
		if (!beside) continue;
		const numbers = sheet.columns.filter((c) => c !== column && addressShare(c) > NAMED && goTogether(rows, read(handle), read(c)));
		if (handle !== column) sheet.columns.push(handle);
		return { sheet, names: [beside], addresses: [handle, ...numbers], via: null };
	}
	return null;
}

function holds(values: readonly (Value | undefined)[], handles: ReadonlySet<string>): boolean {
	const met = new Set(values.filter((v): v is string => typeof v === 'string' && handles.has(v)));
	return met.size >= Math.max(FEWEST, handles.size * WRITERS);
}

/** Keys that say what a row is of before whose it is: "member/@odile:marrow.example". */
const LED = /^[\w.-]{1,40}[/|](.+)$/;

function endsIn(column: SheetColumn, sheet: Sheet, handles: ReadonlySet<string>, tables: readonly Table[]): SheetColumn | null {
	const made: Made = {
		read: (row) => {
			const value = cell(row, column, tables);
			return typeof value === 'string' ? LED.exec(value)?.[1] : undefined;
		}
	};
	if (!holds(sheet.sure.slice(0, ROWS).map(made.read), handles)) return null;
	const profile = profileOf(sheet.sure, (row) => made.read(row), sampleOf(sheet.sure));
	return { name: `${column.name} (whose)`, column: column.column, path: [], made, profile };
}

/** Whether each handle has one value beside it, mostly its own. */
function goTogether(rows: readonly Row[], handle: (row: Row) => Value | undefined, value: (row: Row) => Value | undefined): boolean {
	const beside = new Map<string, Set<string>>();
	for (const row of rows) {
		const [whose, what] = [handle(row), value(row)];
		if (typeof whose !== 'string' || typeof what !== 'string' || what === '' || what === whose) continue;
		if (beside.has(whose)) beside.get(whose)!.add(what);
		else beside.set(whose, new Set([what]));
	}
	const all = [...beside.values()];
	const different = new Set(all.flatMap((set) => [...set])).size;
	return all.length >= FEWEST && all.filter((set) => set.size === 1).length >= all.length * ALWAYS && different >= all.length * OWN;
}

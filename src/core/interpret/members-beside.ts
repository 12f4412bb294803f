/** Who takes part in conversations that no list names by a key: a sheet in which their names stand beside those of the writers, each pair once. */
import type { Table } from '../model';
import type { MembersReading, MessageReading, PersonReading } from './reading';
import { keyOf } from './refs';
import { cell, type Sheet, type SheetColumn } from './sheet';

const ROWS = 4000;
/** Share of the conversations that must stand there, and of its pairs that must be there once. */
const THERE = 0.8;
const ONCE = 0.9;

/** `named`: sheets that give writers their names, read as persons. */
export function membersBeside(m: MessageReading, named: readonly PersonReading[], tables: readonly Table[]): MembersReading | null {
	const { thread } = m;
	if (!thread || thread.key || thread.value.column < 0 || thread.value.profile.texts === 0 || thread.value.profile.many) return null;
	const talks = new Set([...thread.value.profile.distinct.keys()].map(String));
	for (const { sheet, addresses } of named) {
		const [person] = addresses;
		const column = person && sheet.columns.find((c) => c !== person && c.column >= 0 && c.profile.texts > 0 && holds(c, talks));
		if (!column || !joinsOnce(sheet, column, person, tables)) continue;
		const threadKey = { sheet, column, values: new Set<string | number>(talks) };
		return { sheet, of: m, thread: column, threadKey, person, personKey: null };
	}
	return null;
}

const holds = ({ profile }: SheetColumn, talks: ReadonlySet<string>): boolean => {
	const there = [...profile.distinct.keys()].filter((v) => talks.has(String(v))).length;
	return there > 1 && there >= talks.size * THERE;
};

function joinsOnce(sheet: Sheet, thread: SheetColumn, person: SheetColumn, tables: readonly Table[]): boolean {
	const rows = sheet.rows.filter((row) => row.standing === 'kept').slice(0, ROWS);
	const pairs = new Set(rows.map((row) => `${keyOf(cell(row, thread, tables))}|${keyOf(cell(row, person, tables))}`));
	return rows.length > 0 && pairs.size >= rows.length * ONCE;
}

/** Who takes part in conversations that no list names by a key: a sheet in which their names stand beside those of the writers, each pair once. */
import type { Table } from '../model';
import { joinsOnce } from './joins-once';
import type { MembersReading, MessageReading, PersonReading } from './reading';
import type { SheetColumn } from './sheet';

/** Share of the conversations that must stand there. */
const THERE = 0.8;

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

/**
 * What the tables of a store are called in all its captures: a newer version of a program can move its messages into another
 * table, which goes on with their numbers. A table is called there as in the newest capture that has it.
 */
import type { Family } from './families';
import { hasNumbers } from './shared-numbers';
import type { WovenStore } from './weave';

/** Rows of one number in both, at least, and share of them whose text must be the same. */
const LEAST = 5;
const SAME = 0.6;

export class TableNames {
	private readonly later = new Map<string, string>();

	constructor(
		family: Family,
		private readonly stores: readonly WovenStore[]
	) {
		const captures = family.captures.map(({ store }) => stores[store]!).reverse();
		for (const store of captures)
			for (const { sheet, movedTo } of store.reading.messages)
				if (movedTo) this.rename(nameIn(store, sheet.tables[0]!), nameIn(store, movedTo.tables[0]!));
		for (const [i, newer] of captures.entries()) {
			const older = captures[i + 1];
			if (older) this.compare(older, newer);
		}
	}

	of(store: number, table: number): string {
		return this.called(nameIn(this.stores[store]!, table));
	}

	private called(name: string): string {
		return this.later.get(name) ?? name;
	}

	private rename(name: string, later: string): void {
		if (name !== later && !this.later.has(name)) this.later.set(name, this.called(later));
	}

	/** Tables of messages that only the older has, with those that only the newer has. */
	private compare(older: WovenStore, newer: WovenStore): void {
		const [gone, come] = [namesOnlyIn(older, newer), namesOnlyIn(newer, older)];
		if (gone.size === 0 || come.size === 0) return;
		const [before, since] = [textsByNumber(older, gone), textsByNumber(newer, come)];
		for (const [name, texts] of before) {
			for (const [other, those] of since) {
				const both = [...texts].filter(([number]) => those.has(number));
				const same = both.filter(([number, text]) => those.get(number) === text).length;
				if (both.length >= LEAST && same >= both.length * SAME) this.rename(name, other);
			}
		}
	}
}

const nameIn = ({ harvest }: WovenStore, table: number): string => harvest.tables[table]!.name;
const isIn = ({ harvest }: WovenStore, name: string): boolean => harvest.tables.some((t) => t.name === name && !t.dropped);

/** The tables of messages in use in one that the other has not. */
const namesOnlyIn = (one: WovenStore, other: WovenStore): Set<string> =>
	new Set(
		one.reading.messages
			.flatMap(({ sheet }) => sheet.tables.map((t) => nameIn(one, t)))
			.filter((name) => isIn(one, name) && !isIn(other, name))
	);

/** Of some tables of messages the texts in use, by the number of their row. */
function textsByNumber(store: WovenStore, names: ReadonlySet<string>): Map<string, Map<number | bigint, string>> {
	const tables = new Map<string, Map<number | bigint, string>>();
	for (const { row, text, reading } of store.understood.messages) {
		const table = store.harvest.tables[row.table]!;
		if (
			!names.has(table.name) ||
			row.standing !== 'kept' ||
			row.rowid === null ||
			text === null ||
			reading.sheet.family ||
			!hasNumbers(table)
		)
			continue;
		const texts = tables.get(table.name) ?? new Map<number | bigint, string>();
		tables.set(table.name, texts);
		texts.set(row.rowid, text);
	}
	return tables;
}

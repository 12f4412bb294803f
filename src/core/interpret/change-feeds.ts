/**
 * Feeds of changes: a table in which each row says what became of a row of some table (made, changed, removed), under which
 * key, with what it holds as a document. Where the tables themselves are not in the store they are put together again: each
 * row as the last change left it, what it was before as earlier states of it, and what was removed marked so.
 */
import { plainColumn, plainRow, plainTable, withoutRows, withTables, type Harvested } from '../harvest';
import type { Row, Table, Value } from '../model';
import { keyOf } from './refs';
import { isFields, jsonOf, plain } from './stored';

const ROWS = 5000;
const LEAST = 12;
const NEARLY_ALL = 0.95;
const TABLES_AT_MOST = 40;
/** Fields of one table, at most: what has more are no rows of a table. */
const FIELDS_AT_MOST = 256;
const LONGEST_WORD = 64;

type Change = 'made' | 'changed' | 'removed';
const MADE = /^(?:i|ins|insert(?:ed)?|c|create[d]?|add(?:ed)?|new|put|upsert)$/i;
const CHANGED = /^(?:u|upd|update[d]?|modif(?:y|ied)|patch(?:ed)?|change[d]?|edit(?:ed)?|set|replace[d]?)$/i;
const REMOVED = /^(?:d|del|delete[d]?|remove[d]?|destroy(?:ed)?|drop(?:ped)?|tombstone)$/i;
const changeOf = (value: Value | undefined): Change | null => {
	if (typeof value !== 'string') return null;
	return MADE.test(value) ? 'made' : CHANGED.test(value) ? 'changed' : REMOVED.test(value) ? 'removed' : null;
};

interface Feed {
	table: Table;
	change: number;
	/** Which table a row was of; null where all are of one. */
	of: number | null;
	key: number;
	document: number;
}

/** The store with the tables that a feed of changes tells of; the store itself where it has none, or has the tables too. */
export function openChangeFeeds(harvest: Harvested): Harvested {
	for (const table of harvest.tables) {
		const feed = feedIn(table, harvest);
		if (feed) return opened(harvest, feed);
	}
	return harvest;
}

function feedIn(table: Table, { book, tables }: Harvested): Feed | null {
	if (table.index === 0 || /^sqlite_/i.test(table.name)) return null;
	const rows = book
		.rowsOf(table.index)
		.filter((row) => row.standing === 'kept')
		.slice(0, ROWS);
	if (rows.length < LEAST) return null;
	const columns = [...table.columns.keys()].filter((c) => c !== table.rowidColumn);
	const change = columns.find((c) => rows.every((row) => changeOf(row.values[c]) !== null));
	if (change === undefined) return null;
	const made = rows.filter((row) => changeOf(row.values[change]) === 'made');
	const isDocument = (c: number): boolean => made.filter((row) => documentOf(row.values[c]) !== null).length >= made.length * NEARLY_ALL;
	const document = columns.find((c) => c !== change && isDocument(c));
	if (document === undefined || made.length < LEAST) return null;
	const others = columns.filter((c) => c !== change && c !== document);
	const isWord = (c: number): boolean => {
		const words = new Set(rows.map((row) => wordOf(row.values[c])));
		return !words.has(null) && words.size <= TABLES_AT_MOST;
	};
	for (const of of [...others.filter(isWord), null]) {
		const key = others.find((c) => c !== of && isKey(made, c, of));
		if (key === undefined) continue;
		const named = new Set(of === null ? [] : rows.map((row) => wordOf(row.values[of])));
		// Where the tables are there themselves the feed only repeats them.
		const areThere = tables.some((t) => named.has(t.name) && book.rowsOf(t.index).some((row) => row.standing === 'kept'));
		return areThere ? null : { table, change, of, key, document };
	}
	return null;
}

const wordOf = (value: Value | undefined): string | null =>
	typeof value === 'string' && value !== '' && value.length <= LONGEST_WORD && !/\s/.test(value) ? value : null;

/** Whether what was made has a key of its own there, in each table. */
function isKey(made: readonly Row[], c: number, of: number | null): boolean {
	const keys = made.map((row) => [of === null ? '' : row.values[of], keyOf(row.values[c])] as const);
	return keys.every(([, key]) => key !== null) && new Set(keys.map((key) => key.join('\u0000'))).size >= made.length * NEARLY_ALL;
}

const ENVELOPE = /^(?:before|after|old|new|old_row|new_row|data|op|ts(?:_\w+)?|source|key|table|schema)$/i;

/** What a change says of its row: the row as it is since, where it has both that and what it was. */
function documentOf(value: Value | undefined): Record<string, unknown> | null {
	const all = jsonOf(value);
	if (!isFields(all)) return null;
	// A table can have columns called so too.
	const isEnvelope = Object.keys(all).every((field) => ENVELOPE.test(field));
	const since = isEnvelope ? ['after', 'new', 'new_row', 'data'].find((field) => isFields(all[field])) : undefined;
	return since === undefined ? all : (all[since] as Record<string, unknown>);
}

/** A row as one change left it. */
interface State {
	row: Row;
	fields: Map<string, Value>;
	isRemoved: boolean;
}

function opened(harvest: Harvested, feed: Feed): Harvested {
	const rows = harvest.book.rowsOf(feed.table.index);
	const first = harvest.tables.length;
	const byTable = new Map<string, Map<string, Row[]>>();
	const moved = new Set<Row>();
	for (const row of rows) {
		const [name, key] = [feed.of === null ? feed.table.name : wordOf(row.values[feed.of]), keyOf(row.values[feed.key])];
		if (name === null || key === null || changeOf(row.values[feed.change]) === null) continue;
		const keys = byTable.get(name) ?? new Map<string, Row[]>();
		byTable.set(name, keys);
		const changes = keys.get(String(key));
		if (changes) changes.push(row);
		else keys.set(String(key), [row]);
		moved.add(row);
	}
	const tables: Table[] = [];
	const made: Row[][] = [];
	for (const [name, keys] of byTable) {
		const states = [...keys].map(([key, changes]) => ({ key, states: statesOf(changes, feed) }));
		const names = [...new Set(states.flatMap((one) => one.states.flatMap(({ fields }) => [...fields.keys()])))];
		if (names.length > FIELDS_AT_MOST) return harvest;
		const areNumbers = states.every(({ key }) => /^\d{1,15}$/.test(key));
		const hasRemoved = states.some((one) => one.states.some(({ isRemoved }) => isRemoved));
		// The key stands within what the row holds as well, or beside it alone.
		const within = names.findIndex((field) =>
			states.every((one) => one.states.every(({ fields }) => String(fields.get(field) ?? one.key) === one.key))
		);
		const columns = [...names, ...(within < 0 ? ['key'] : []), ...(hasRemoved ? ['deleted'] : [])];
		const own = within < 0 ? names.length : within;
		const index = first + tables.length;
		const table = plainTable(index, name, columns);
		tables.push({
			...table,
			columns: columns.map(plainColumn),
			...(areNumbers ? { rowidColumn: own } : { primaryKey: [own], withoutRowid: true })
		});
		made.push(
			states.flatMap((one) =>
				one.states.map(({ row, fields, isRemoved }): Row => {
					const values = names.map((field): Value => fields.get(field) ?? null);
					values[own] = areNumbers ? Number(one.key) : one.key;
					if (hasRemoved) values.push(isRemoved ? 1 : 0);
					return { ...row, table: index, rowid: areNumbers ? Number(one.key) : null, cut: -1, values };
				})
			)
		);
	}
	return withTables(withoutRows(harvest, moved), tables, made);
}

/** What a row was, one state after the other: the last is in use, those before were; what is left of the feed's own lost rows comes after. */
function statesOf(changes: readonly Row[], { change, document }: Feed): State[] {
	const kept = changes.filter((row) => row.standing === 'kept').sort((a, b) => Number(a.rowid) - Number(b.rowid));
	const states: State[] = [];
	for (const row of kept) {
		const [last, what] = [states.at(-1), changeOf(row.values[change])];
		const fields = new Map([...(last?.fields ?? []), ...fieldsOf(row.values[document])]);
		if (what === 'removed' && last) states.splice(-1, 1, { ...last, isRemoved: true });
		else states.push({ row: plainRow(row), fields, isRemoved: what === 'removed' });
	}
	const before = states.slice(0, -1).map((state): State => ({ ...state, row: asEarlier(state.row) }));
	const lost = changes.filter((row) => row.standing !== 'kept' && changeOf(row.values[change]) !== 'removed');
	const base = states[0]?.fields ?? [];
	return [
		...before,
		...states.slice(-1),
		...lost.flatMap((row): State[] => {
			const fields = fieldsOf(row.values[document]);
			// What was changed says that alone.
			const all = changeOf(row.values[change]) === 'made' ? fields : new Map([...base, ...fields]);
			return fields.size > 0 ? [{ row: plainRow(row), fields: all, isRemoved: false }] : [];
		})
	];
}

function fieldsOf(value: Value | undefined): Map<string, Value> {
	return new Map(
		Object.entries(documentOf(value) ?? {}).flatMap(([field, inner]) => {
			const held = plain(inner);
			return held === undefined ? [] : [[field, held] as const];
		})
	);
}

/** The row as a state that the store has since changed. */
const asEarlier = (row: Row): Row => ({
	...row,
	standing: 'dropped',
	sightings: row.sightings.map((s) => ({ ...s, method: 'history', standing: 'dropped' }))
});

/**
 * The schema table (SQLite file format, section 2.6): rows of type, name, tbl_name, rootpage, sql. What a table's
 * rows look like is read from the text of its CREATE TABLE, leniently: a word that is not understood is passed over.
 */
import type { Column, Table, Value } from '../../model';

type Token = { text: string; quoted: boolean };

/** Words, quoted names and punctuation of an SQL text; comments dropped. Bounded by the text's length. */
function tokenize(sql: string): Token[] {
	const tokens: Token[] = [];
	const pattern =
		/--[^\n]*|\/\*[\s\S]*?(?:\*\/|$)|"((?:[^"]|"")*)"|`((?:[^`]|``)*)`|\[([^\]]*)\]|'((?:[^']|'')*)'|[A-Za-z_\u0080-\uffff][\w$\u0080-\uffff]*|[-+]?(?:0x[\da-f]+|\d+(?:\.\d+)?(?:e[-+]?\d+)?)|[^\s]/giu;
	for (const match of sql.matchAll(pattern)) {
		const text = match[0];
		if (text.startsWith('--') || text.startsWith('/*')) continue;
		const inner = match[1]?.replaceAll('""', '"') ?? match[2]?.replaceAll('``', '`') ?? match[3] ?? match[4]?.replaceAll("''", "'");
		tokens.push(inner === undefined ? { text, quoted: false } : { text: inner, quoted: true });
	}
	return tokens;
}

const is = (token: Token | undefined, word: string): boolean => !!token && !token.quoted && token.text.toUpperCase() === word;

/** The tokens between the parenthesis at `open` and its partner, cut at top-level commas. */
function splitBody(tokens: Token[], open: number): { parts: Token[][]; close: number } {
	const parts: Token[][] = [[]];
	let depth = 0;
	let i = open;
	for (; i < tokens.length; i++) {
		const token = tokens[i]!;
		if (is(token, '(') && ++depth === 1) continue;
		if (is(token, ')') && --depth === 0) break;
		if (is(token, ',') && depth === 1) parts.push([]);
		else parts.at(-1)!.push(token);
	}
	return { parts, close: i };
}

const CONSTRAINT_WORDS = new Set([
	'CONSTRAINT',
	'PRIMARY',
	'NOT',
	'NULL',
	'UNIQUE',
	'CHECK',
	'DEFAULT',
	'COLLATE',
	'REFERENCES',
	'GENERATED',
	'AS'
]);
const TABLE_CONSTRAINTS = new Set(['CONSTRAINT', 'PRIMARY', 'UNIQUE', 'CHECK', 'FOREIGN']);

function literal(token: Token | undefined): Value {
	if (!token) return null;
	if (token.quoted) return token.text;
	if (/^[-+]?\d/.test(token.text)) return Number(token.text);
	if (/^true$/i.test(token.text)) return 1;
	if (/^false$/i.test(token.text)) return 0;
	return null;
}

function parseColumn(part: Token[]): { column: Column; primary: boolean; autoIncrement: boolean; descending: boolean } {
	const typeWords: string[] = [];
	let i = 1;
	for (; i < part.length; i++) {
		const token = part[i]!;
		if (!token.quoted && CONSTRAINT_WORDS.has(token.text.toUpperCase())) break;
		typeWords.push(token.text);
	}
	const column: Column = {
		name: part[0]!.text,
		type: typeWords.join(' ').toUpperCase(),
		notNull: false,
		virtual: false,
		defaultValue: null
	};
	let primary = false;
	let autoIncrement = false;
	let descending = false;
	for (; i < part.length; i++) {
		if (is(part[i], 'PRIMARY')) {
			primary = true;
			descending = is(part[i + 2], 'DESC');
		} else if (is(part[i], 'AUTOINCREMENT')) autoIncrement = true;
		else if (is(part[i], 'NOT') && is(part[i + 1], 'NULL')) column.notNull = true;
		else if (is(part[i], 'DEFAULT')) column.defaultValue = literal(part[i + 1]);
		else if (is(part[i], 'REFERENCES')) column.references = part[i + 1]?.text;
		else if (is(part[i], 'AS')) column.virtual = !part.slice(i).some((t) => is(t, 'STORED'));
	}
	return { column, primary, autoIncrement, descending };
}

/** Reads the text of a CREATE TABLE. Null where it is none (a view, an index, a virtual table). */
export function parseCreateTable(sql: string, fallbackName: string): Omit<Table, 'index' | 'rootPage' | 'dropped'> | null {
	const tokens = tokenize(sql.length > 200_000 ? sql.slice(0, 200_000) : sql);
	const tableWord = tokens.findIndex((t, i) => i < 4 && is(t, 'TABLE'));
	if (!is(tokens[0], 'CREATE') || tableWord < 0 || is(tokens[1], 'VIRTUAL')) return null;
	const open = tokens.findIndex((t) => is(t, '('));
	if (open < 0) return null;
	const named = tokens[open - 1];
	const { parts, close } = splitBody(tokens, open);
	const columns: Column[] = [];
	let primaryNames: string[] = [];
	let rowidColumn = -1;
	let autoIncrement = false;
	for (const part of parts) {
		const first = part[0];
		if (!first) continue;
		const word = first.text.toUpperCase();
		if (!first.quoted && TABLE_CONSTRAINTS.has(word) && columns.length > 0) {
			const key = part.findIndex((t, i) => is(t, 'PRIMARY') && is(part[i + 1], 'KEY'));
			if (key >= 0) {
				const inside = part.slice(part.findIndex((t, i) => i > key && is(t, '(')) + 1);
				primaryNames = inside.filter((_, i) => i === 0 || is(inside[i - 1], ',')).map((t) => t.text);
				autoIncrement ||= part.some((t) => is(t, 'AUTOINCREMENT'));
			}
			const foreign = part.findIndex((t) => is(t, 'FOREIGN'));
			if (foreign >= 0) {
				const refers = part.findIndex((t) => is(t, 'REFERENCES'));
				const own = part[part.findIndex((t, i) => i > foreign && is(t, '(')) + 1]?.text;
				const column = columns.find((c) => c.name.toLowerCase() === own?.toLowerCase());
				if (column && refers >= 0) column.references = part[refers + 1]?.text;
			}
			continue;
		}
		const parsed = parseColumn(part);
		columns.push(parsed.column);
		if (parsed.primary) {
			primaryNames = [parsed.column.name];
			if (parsed.column.type === 'INTEGER' && !parsed.descending) rowidColumn = columns.length - 1;
			autoIncrement ||= parsed.autoIncrement;
		}
	}
	if (columns.length === 0) return null;
	const withoutRowid = tokens.slice(close).some((t, i, rest) => is(t, 'WITHOUT') && is(rest[i + 1], 'ROWID'));
	const primaryKey = primaryNames
		.map((name) => columns.findIndex((c) => c.name.toLowerCase() === name.toLowerCase()))
		.filter((i) => i >= 0);
	if (rowidColumn < 0 && primaryKey.length === 1 && columns[primaryKey[0]!]!.type === 'INTEGER' && primaryNames.length === 1) {
		const inline = parts.some((p) => p[0]?.text === primaryNames[0] && p.some((t) => is(t, 'PRIMARY')));
		if (!inline) rowidColumn = primaryKey[0]!;
	}
	if (withoutRowid) rowidColumn = -1;
	return {
		name: named && !is(named, 'EXISTS') ? fallbackName || named.text : fallbackName,
		columns,
		rowidColumn,
		primaryKey,
		withoutRowid,
		autoIncrement
	};
}

/** The stored columns of a table in the order of its records, as indexes into `columns`. */
export function storedOrder(table: Pick<Table, 'columns' | 'withoutRowid' | 'primaryKey'>): number[] {
	const stored = table.columns.map((_, i) => i).filter((i) => !table.columns[i]!.virtual);
	if (!table.withoutRowid) return stored;
	const key = [...new Set(table.primaryKey)];
	return [...key, ...stored.filter((i) => !key.includes(i))];
}

export const SCHEMA_TABLE: Table = {
	index: 0,
	name: 'sqlite_schema',
	rootPage: 1,
	columns: ['type', 'name', 'tbl_name', 'rootpage', 'sql'].map((name) => ({
		name,
		type: name === 'rootpage' ? 'INT' : 'TEXT',
		notNull: name !== 'sql' && name !== 'rootpage',
		virtual: false,
		defaultValue: null
	})),
	rowidColumn: -1,
	primaryKey: [],
	withoutRowid: false,
	autoIncrement: false,
	dropped: false
};

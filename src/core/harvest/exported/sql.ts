/**
 * Statements of SQL (ISO 9075-2, 11.3 and 14.11) that a database was written out as: what is inserted are the rows of its
 * tables. Nothing is run; what engines write around texts that a line cannot hold is undone.
 */
import type { Table, Value } from '../../model';
import { parseCreateTable } from '../sqlite/schema';
import { plainColumn, plainTable } from '../plain-table';
import { MOST_ITEMS } from './items';

/** A table as it was made, and what was inserted; places in UTF-16 units of the text. */
export interface WrittenTable {
	table: Table;
	rows: { values: (Value | undefined)[]; rowid: number; from: number; to: number; isPart: boolean }[];
}

const STARTS =
	/^(?:\s|--[^\n]*\n|#[^\n]*\n|\/\*[\s\S]*?\*\/;?)*(?:PRAGMA\s+\w+|BEGIN\b|START\s+TRANSACTION|CREATE\s+(?:TEMP\w*\s+)?TABLE|INSERT\s+INTO|SET\s+[@\w]+|DROP\s+TABLE|LOCK\s+TABLES)\b/i;
/** Whether a text begins as statements do, and goes on to make or fill tables. */
export const isSql = (start: string): boolean =>
	STARTS.test(start) && /\b(?:CREATE\s+(?:TEMP\w*\s+)?TABLE|INSERT\s+(?:OR\s+\w+\s+)?INTO|COPY)\s/i.test(start);

/** Whether the last statement has no end. */
export const breaksOff = (text: string): boolean => !ENDS.test(text.slice(-LAST_LINE).trimEnd().split('\n').at(-1)!);
/** The end of a statement, of lines of values, or a remark. */
const ENDS = /;$|^\\\.\s*$|^(?:--|#)|\*\/$|^(?:\/|go)$/i;
const LAST_LINE = 4096;

/** A clause that engines write for which a stroke in a text stands for what follows it. */
const STROKES = /\)\s*ENGINE\s*=|\bLOCK\s+TABLES\b|\bSET\s+NAMES\b/i;

const STATEMENT =
	/--[^\n]*|\/\*[\s\S]*?\*\/|\b(?:(CREATE)\s+(?:TEMP\w*\s+)?TABLE|(INSERT|REPLACE)\s+(?:OR\s+\w+\s+|IGNORE\s+)?INTO|(COPY))\s+(?:IF\s+NOT\s+EXISTS\s+)?((?:(?:"(?:[^"]|"")*"|`[^`]*`|\[[^\]]*\]|[\w$]+)\.?)+)/giu;

export function readSql(text: string): WrittenTable[] {
	const reader = new Statements(text);
	const statement = new RegExp(STATEMENT);
	for (let m = statement.exec(text); m; m = statement.exec(text)) {
		const [, create, insert, copy, name] = m;
		if (!name) continue;
		const table = plainName(name);
		if (create) reader.create(table, m.index, statement.lastIndex);
		else if (insert) statement.lastIndex = reader.insert(table, statement.lastIndex);
		else if (copy) statement.lastIndex = reader.copy(table, statement.lastIndex);
	}
	return reader.written();
}

/** A table's name without its schema and its quotes. */
const plainName = (name: string): string =>
	(/(?:"(?:[^"]|"")*"|`[^`]*`|\[[^\]]*\]|[\w$]+)$/u.exec(name)?.[0] ?? name).replace(/^["`[]|["`\]]$/g, '');

/** A table's body is read so far for its columns. */
const LONGEST_TABLE = 1 << 16;
/** Functions within functions, at most. */
const DEEPEST = 20;

class Statements {
	private readonly made = new Map<string, Omit<Table, 'index' | 'rootPage' | 'dropped'>>();
	private readonly filled = new Map<string, { named: Map<string, Value>[]; places: { from: number; to: number; isPart: boolean }[] }>();
	private readonly strokes: boolean;
	private count = 0;
	/** A text that the end of the file cuts. */
	private brokeOff: Value = null;
	private at = 0;

	constructor(private readonly text: string) {
		this.strokes = STROKES.test(text.slice(0, LONGEST_TABLE));
	}

	create(table: string, from: number, to: number): void {
		if (!/^\s*\(/.test(this.text.slice(to, to + 200))) return;
		const made = parseCreateTable(this.text.slice(from, from + LONGEST_TABLE), table);
		if (made) this.made.set(table, made);
	}

	/** Rows of values behind the table's name; where what follows them begins. */
	insert(table: string, from: number): number {
		this.at = from;
		const columns = this.namesInBrackets() ?? this.columnsOf(table);
		const values = /\s*VALUES\s*/iy;
		values.lastIndex = this.at;
		if (!values.test(this.text)) return this.at;
		this.at = values.lastIndex;
		while (this.text[this.at] === '(' && this.count++ < MOST_ITEMS) {
			const start = this.at++;
			const row: Value[] = [];
			const isWhole = this.valuesUntil(row);
			if (row.length > 0) this.add(table, columns, row, start, this.at, !isWhole);
			if (!isWhole) break;
			this.skip(/[\s,]*/y);
		}
		return this.at;
	}

	/** Lines of values parted by tabs, up to one with a stroke and a full stop. */
	copy(table: string, from: number): number {
		this.at = from;
		const columns = this.namesInBrackets() ?? this.columnsOf(table);
		const begins = /[^;\n]*\bFROM\s+STDIN\b[^;\n]*;[^\n]*\n/iy;
		begins.lastIndex = this.at;
		if (!begins.test(this.text)) return this.at;
		let at = begins.lastIndex;
		while (at < this.text.length && this.count++ < MOST_ITEMS) {
			const next = this.text.indexOf('\n', at);
			const end = next < 0 ? this.text.length : next;
			const line = this.text.slice(at, end).replace(/\r$/, '');
			if (line === '\\.') return end;
			const cells = line.split('\t').map((cell) => (cell === '\\N' ? null : numberOr(withoutStrokes(cell), INTEGER)));
			this.add(table, columns, cells, at, end, next < 0 || cells.length < columns.length);
			at = end + 1;
		}
		return at;
	}

	written(): WrittenTable[] {
		return [...this.filled].map(([name, { named, places }], i) => {
			const made = this.made.get(name);
			const known = new Set(made?.columns.map((c) => c.name));
			const more = new Set(named.flatMap((row) => [...row.keys()]).filter((column) => !known.has(column)));
			const columns = [...(made?.columns ?? []), ...[...more].map(plainColumn)];
			const table: Table = {
				...plainTable(i + 1, name, []),
				...made,
				name,
				columns
			};
			const rows = named.map((row, k) => {
				const values = columns.map((c) => row.get(c.name));
				const rowid = values[table.rowidColumn];
				return { values, rowid: typeof rowid === 'number' ? rowid : k + 1, ...places[k]! };
			});
			return { table, rows };
		});
	}

	private columnsOf(table: string): string[] {
		return this.made.get(table)?.columns.map((c) => c.name) ?? [];
	}

	private add(table: string, columns: readonly string[], values: readonly Value[], from: number, to: number, isPart: boolean): void {
		let filled = this.filled.get(table);
		if (!filled) this.filled.set(table, (filled = { named: [], places: [] }));
		filled.named.push(new Map(values.map((value, i) => [columns[i] ?? `column ${i + 1}`, value])));
		filled.places.push({ from, to: Math.min(to, this.text.length), isPart });
	}

	private skip(what: RegExp): void {
		what.lastIndex = this.at;
		if (what.test(this.text)) this.at = what.lastIndex;
	}

	private namesInBrackets(): string[] | null {
		const names = /\s*\(([^()]*)\)/y;
		names.lastIndex = this.at;
		const m = names.exec(this.text);
		if (!m) return null;
		this.at = names.lastIndex;
		return m[1]!.split(',').map((name) => plainName(name.trim()));
	}

	/** Adds the values up to the closing bracket, which is passed; whether it was there. A text that breaks off is taken as far as it goes. */
	private valuesUntil(out: Value[], depth = 0): boolean {
		for (;;) {
			this.skip(/\s*/y);
			const value = this.value(depth);
			if (value === undefined) {
				if (this.brokeOff !== null) out.push(this.brokeOff);
				this.brokeOff = null;
				return false;
			}
			out.push(value);
			this.skip(/\s*(?:AS\s+\w+\s*)?/iy);
			const next = this.text[this.at++];
			if (next === ')') return true;
			if (next !== ',') return false;
		}
	}

	private value(depth: number): Value | undefined {
		const start = this.text[this.at];
		if (start === "'") return this.quoted();
		if (/^[xX]'/.test(this.text.slice(this.at, this.at + 2))) {
			this.at++;
			return fromHex(this.quoted() ?? '');
		}
		const word = /[NnEe]?(?=')|[-+]?(?:0x[\da-f]+|\d+(?:\.\d*)?(?:e[-+]?\d+)?|\.\d+)|[A-Za-z_]\w*/iy;
		word.lastIndex = this.at;
		const found = word.exec(this.text)?.[0];
		if (found === undefined) return undefined;
		this.at += found.length;
		if (this.text[this.at] === "'") return this.quoted(/e/i.test(found));
		if (this.text[this.at] === '(') {
			if (depth >= DEEPEST) return undefined;
			this.at++;
			const inner: Value[] = [];
			const isWhole = this.valuesUntil(inner, depth + 1);
			if (isWhole) return called(found.toLowerCase(), inner);
			this.brokeOff = inner.length > 0 ? called(found.toLowerCase(), inner) : null;
			return undefined;
		}
		if (/^null$/i.test(found)) return null;
		if (/^(?:true|false)$/i.test(found)) return /t/i.test(found[0]!) ? 1 : 0;
		return numberOr(found);
	}

	/** A text between quotes, of which two stand for one. */
	private quoted(strokes = this.strokes): string | undefined {
		const parts: string[] = [];
		let from = ++this.at;
		for (; this.at < this.text.length; this.at++) {
			const c = this.text[this.at];
			if (c === '\\' && strokes) this.at++;
			else if (c === "'") {
				parts.push(this.text.slice(from, this.at));
				if (this.text[this.at + 1] !== "'") {
					this.at++;
					return strokes ? withoutStrokes(parts.join("'")) : parts.join("'");
				}
				from = ++this.at + 1;
			}
		}
		const cut = [...parts, this.text.slice(from)].join("'");
		this.brokeOff = cut === '' ? null : strokes ? withoutStrokes(cut.replace(/\\$/, '')) : cut;
		return undefined;
	}
}

/** What functions give that are written around texts a line, or plain letters, cannot hold. */
function called(name: string, [first, second, third]: Value[]): Value {
	const text = typeof first === 'string' ? first : String(first ?? '');
	if (name === 'replace' && typeof second === 'string' && second !== '') return text.replaceAll(second, String(third ?? ''));
	if (name === 'char' || name === 'chr') return codePoint(Number(first));
	if (name === 'unistr') return text.replace(/\\(?:u([\da-f]{4})|U([\da-f]{8})|\+([\da-f]{6})|([\da-f]{4})|(\\))/gi, unescaped);
	// What is cast to a text was written as bytes for the sake of a zero in it.
	return name === 'cast' && first instanceof Uint8Array ? new TextDecoder().decode(first) : (first ?? null);
}

const unescaped = (_: string, ...codes: (string | undefined)[]): string => {
	const hex = codes.slice(0, 4).find((code) => code !== undefined);
	return hex === undefined ? '\\' : codePoint(parseInt(hex, 16));
};
const codePoint = (code: number): string => (code >= 0 && code <= 0x10ffff ? String.fromCodePoint(Math.trunc(code)) : '');

const LETTERS: Record<string, string> = { n: '\n', r: '\r', t: '\t', '0': '\0', b: '\b', Z: '\x1a' };
const withoutStrokes = (text: string): string => text.replace(/\\([\s\S])/g, (_, c: string) => LETTERS[c] ?? c);

const NUMBER = /^[-+]?(?:0|[1-9]\d{0,15})(?:\.\d+)?(?:e[-+]?\d+)?$/i;
/** Where texts stand without quotes: as texts are not written. */
const INTEGER = /^-?(?:0|[1-9]\d{0,15})$/;
const numberOr = (text: string, form = NUMBER): Value => (form.test(text) && Number.isFinite(Number(text)) ? Number(text) : text);

/** Bytes in hexadecimal digits. */
const fromHex = (digits: string): Value =>
	digits.length % 2 !== 0 || /[^\da-f]/i.test(digits)
		? digits
		: Uint8Array.from({ length: digits.length / 2 }, (_, i) => parseInt(digits.slice(i * 2, i * 2 + 2), 16));

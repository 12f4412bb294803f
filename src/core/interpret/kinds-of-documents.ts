/**
 * Documents of several kinds in one table: what keeps keys and values has persons and conversations beside messages. The
 * fields of a document say of which kind it is.
 */
import type { Row, Table, Value } from '../model';
import { sampleOf } from './sheet';
import { jsonOf, openStored, readStored, type Stored } from './stored';

interface Kind {
	fields: Set<string>;
	rows: Row[];
}

/** Rows from which it is told whether a table holds documents, and share of them that must be some. */
const LOOKED_AT = 400;
const MOSTLY = 0.8;

/** So many rows make a kind of their own; fewer go with the largest. */
const KIND_ROWS = 2;
const KINDS_AT_MOST = 12;
/** Share of fields that two rows of one kind have in common. */
const FIELDS_ALIKE = 0.5;

/** Rows of one table by the fields of the documents that they hold. */
export function kindsOfDocuments(rows: Row[], table: Table): { rows: Row[]; label: string }[] {
	const one = [{ rows, label: '' }];
	const found = documentsIn(sampleOf(rows).slice(0, LOOKED_AT), table);
	if (!found || rows.length < 2 * KIND_ROWS) return one;
	const { column, stored } = found;
	const kinds: Kind[] = [];
	const loose: Row[] = [];
	const others: Row[] = [];
	for (const row of rows) {
		const value = documentOf(row, column, stored);
		if (value === null || typeof value !== 'object') {
			(stored.kind === 'json' && isOther(row.values[column]) ? others : loose).push(row);
			continue;
		}
		const fields = Object.keys(value);
		const kind = kinds.find((k) => haveAlike(fields, k.fields));
		if (kind) kind.rows.push(row);
		else if (kinds.length < KINDS_AT_MOST) kinds.push({ fields: new Set(fields), rows: [row] });
		else loose.push(row);
	}
	joinByWord(kinds, table, column);
	joinByFields(kinds, table, column, (row) => documentOf(row, column, stored));
	const large = kinds.filter((k) => k.rows.length >= KIND_ROWS).sort((a, b) => b.rows.length - a.rows.length);
	if (large.length < 2) return one;
	const [largest] = large;
	largest!.rows.push(...loose);
	for (const kind of kinds.filter((k) => !large.includes(k))) {
		// One of its own kind may lack what others have; one that has nothing in common with them is something else.
		if ([...kind.fields].some((field) => largest!.fields.has(field))) largest!.rows.push(...kind.rows);
		else large.push(kind);
	}
	const parted = large.map((k) => ({ rows: k.rows, label: [...k.fields].slice(0, 4).join(', ') }));
	return others.length > 0 ? [...parted, { rows: others, label: 'other values' }] : parted;
}

/** A number or a word where others are documents: a setting, and no message. */
const isOther = (value: Value | undefined): boolean =>
	typeof value === 'number' || typeof value === 'bigint' || (typeof value === 'string' && value !== '' && !/^\s*[[{]/.test(value));

const documentOf = (row: Row, column: number, stored: Stored): unknown =>
	stored.kind === 'json' ? jsonOf(row.values[column]) : openStored(row, column, stored);

/** Whether two documents have so many fields in common that they are of one kind. */
export const haveAlike = (fields: Iterable<string>, others: ReadonlySet<string>): boolean => {
	const all = [...fields];
	return all.filter((f) => others.has(f)).length >= Math.max(others.size, all.length) * FIELDS_ALIKE;
};

/** The fields of the documents that a table's rows hold; null where they hold none. */
export function fieldsOfDocuments(rows: readonly Row[], table: Table): Set<string> | null {
	const found = documentsIn(rows, table);
	if (!found) return null;
	return new Set(rows.flatMap((row) => Object.keys(documentOf(row, found.column, found.stored) ?? {})));
}

/** The column whose values are documents, and how they are opened. Of what is left of lost rows the value may be gone. */
function documentsIn(sample: readonly Row[], table: Table): { column: number; stored: Stored } | null {
	for (const column of table.columns.keys()) {
		const values = sample.map((row) => row.values[column]).filter((v) => v !== undefined);
		if (values.length === 0) continue;
		if (values.filter(looksLikeJson).length > values.length * MOSTLY) return { column, stored: { kind: 'json' } };
		if (values.filter((v) => v instanceof Uint8Array).length <= values.length * MOSTLY) continue;
		const stored = readStored(values, 0);
		// Of fields that have but numbers the reading of the column itself says what they are.
		if (stored && stored.kind !== 'wire') return { column, stored };
	}
	return null;
}

function looksLikeJson(value: Value): boolean {
	if (value && typeof value === 'object') return value[0] === 0x7b && value.at(-1) === 0x7d;
	return typeof value === 'string' && /^\s*\{.*\}\s*$/s.test(value);
}

/** Rows of one kind that a word beside the documents must be the same in, and the longest such word. */
const SAME_WORD = 0.98;
const LONGEST_WORD = 24;

/** Kinds whose rows a column calls by one word (`message`), where it calls others otherwise, are one: a message can be a file alone. */
function joinByWord(kinds: Kind[], table: Table, documents: number): void {
	const wordOf = (rows: readonly Row[], c: number): string | null => {
		const word = rows[0]!.values[c];
		if (typeof word !== 'string' || word === '' || word.length > LONGEST_WORD) return null;
		return rows.filter((row) => row.values[c] === word).length >= rows.length * SAME_WORD ? word : null;
	};
	for (const c of table.columns.keys()) {
		if (c === documents) continue;
		const words = kinds.map((k) => wordOf(k.rows, c));
		// A word that stands in a kind of several words as well says nothing of those that it is alone in.
		const mixed = kinds.filter((_, i) => words[i] === null).flatMap((k) => k.rows);
		const told = new Set(words.filter((word) => word !== null && !mixed.some((row) => row.values[c] === word)));
		if (new Set(words).size < 2 || words.filter((word) => told.has(word)).length === told.size) continue;
		const first = new Map<string, (typeof kinds)[number]>();
		for (const [i, kind] of [...kinds].entries()) {
			if (!told.has(words[i]!)) continue;
			const known = first.get(words[i]!);
			if (!known) {
				first.set(words[i]!, kind);
				continue;
			}
			known.rows.push(...kind.rows);
			for (const field of kind.fields) known.fields.add(field);
			kinds.splice(kinds.indexOf(kind), 1);
		}
		return;
	}
}

/** Numbers from here on, of which a row has one beside its document, are times, or keys that nothing else is numbered by. */
const TELLING = 1_000_000;
const HALF = 0.5;

/**
 * A kind all of whose fields are met in a larger one, where the rows of both have the same large number beside (when it
 * was), is no other: a message can be a file alone.
 */
function joinByFields(kinds: Kind[], table: Table, documents: number, open: (row: Row) => unknown): void {
	const isTelling = ({ rows }: Kind): boolean[] =>
		[...table.columns.keys()].map((c) => {
			// Of what is left of a lost row it may be gone.
			const values = rows.map((row) => row.values[c]).filter((value) => value !== undefined);
			const large = values.filter((value) => Math.abs(Number(value ?? 0)) >= TELLING).length;
			return c !== documents && values.length >= rows.length * HALF && large >= values.length * MOSTLY;
		});
	const bySize = [...kinds].sort((a, b) => b.rows.length - a.rows.length);
	for (const small of [...bySize].reverse()) {
		const beside = isTelling(small);
		const all = fieldsOf(small, open);
		const larger = bySize.find((kind) => {
			if (kind.rows.length <= small.rows.length || !isTelling(kind).some((telling, c) => telling && beside[c])) return false;
			const fields = fieldsOf(kind, open);
			return [...all].every((field) => fields.has(field));
		});
		if (!larger) continue;
		larger.rows.push(...small.rows);
		kinds.splice(kinds.indexOf(small), 1);
		bySize.splice(bySize.indexOf(small), 1);
	}
}

const fieldsOf = ({ rows }: Kind, open: (row: Row) => unknown): Set<string> =>
	new Set(rows.slice(0, LOOKED_AT).flatMap((row) => Object.keys(open(row) ?? {})));

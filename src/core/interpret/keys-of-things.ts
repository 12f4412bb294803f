/**
 * Stores of keys and values in which several entries tell of one message, its name a part of each of their keys:
 * `message:17` has when and from whom, `body:17` the text; or `message/17/text`, `message/17/time` have one thing each.
 */
import type { Row, Table, Value } from '../model';
import { areOfMessages } from './composed';
import type { Pivot } from './pivoted';
import { jsonOf } from './stored';

const ROWS = 2000;
const SEPARATORS = [':', '/', '|', '#', '~', '!', ';', '\u0000', '_'] as const;
const MOST_PARTS = 6;
const MOST_WORDS = 40;
const LONGEST_WORD = 60;
/** Things of which several entries tell, at least; share of such things' entries that are the only ones of their word. */
const THINGS = 8;
const ONCE = 0.95;
const MOSTLY = 0.8;

/** How the keys of a table are put together so; null where they are not, or where entries of one kind are messages already. */
export function pivotOfKeys(table: Table, rows: readonly Row[]): Pivot | null {
	const [key, ...more] = table.primaryKey;
	if (key === undefined || more.length > 0 || key === table.rowidColumn || table.columns.length !== 2) return null;
	const value = key === 0 ? 1 : 0;
	const sample = rows.filter((row) => row.standing === 'kept' && typeof row.values[key] === 'string').slice(0, ROWS);
	if (sample.length < 2 * THINGS) return null;
	for (const separator of SEPARATORS) {
		const partsOf = (row: Row): string[] => (typeof row.values[key] === 'string' ? row.values[key].split(separator) : []);
		const split = sample.map(partsOf);
		for (let place = 0; place < MOST_PARTS; place++) {
			const pivot: Pivot = {
				table,
				name: `${table.columns[key]!.name} (part ${place + 1})`,
				thing: (row) => partsOf(row)[place] ?? null,
				word: (row) => wordOf(partsOf(row), place),
				value,
				moves: true
			};
			if (split.some((parts) => parts.length > place + 1 || (place > 0 && parts.length > place)) && tellsOfThings(sample, pivot))
				return pivot;
		}
	}
	return null;
}

/** What is said: the other parts of a key; null where there are none, or they are no words. */
function wordOf(parts: readonly string[], place: number): string | null {
	if (parts.length < 2 || parts.length > MOST_PARTS || parts[place] === undefined) return null;
	const word = parts.filter((part, i) => i !== place && part !== '').join('.');
	return word.length <= LONGEST_WORD && /^[\p{L}_][\p{L}\p{M}\d_.-]*$/u.test(word) ? word : null;
}

function tellsOfThings(sample: readonly Row[], { thing, word, value }: Pivot): boolean {
	const things = new Map<string | number, Map<string, Row[]>>();
	const words = new Set<string>();
	for (const row of sample) {
		const [key, said] = [thing(row), word(row)];
		if (key === null || key === '' || said === null) continue;
		words.add(said);
		const of = things.get(key) ?? new Map<string, Row[]>();
		things.set(key, of);
		of.set(said, [...(of.get(said) ?? []), row]);
		if (words.size > MOST_WORDS) return false;
	}
	const told = [...things.values()].filter((said) => said.size > 1);
	const entries = told.reduce((sum, said) => sum + [...said.values()].flat().length, 0);
	const once = told.reduce((sum, said) => sum + said.size, 0);
	if (told.length < THINGS || once < entries * ONCE) return false;
	const valuesOf = (said: string): (Value | undefined)[] => told.map((of) => of.get(said)?.[0]!.values[value]);
	const fields = [...words].map((said) => fieldsOf(valuesOf(said)));
	return areOfMessages(fields.flat()) && !fields.some((own) => areOfMessages(own.map((column) => column.filter((v) => v !== undefined))));
}

/** Values, and where they are documents (JSON) those of their fields. */
export function fieldsOf(values: readonly (Value | undefined)[]): (Value | undefined)[][] {
	const present = values.filter((v) => v !== undefined && v !== null);
	const documents = values.map((v) => {
		const document = v === undefined || v === null ? undefined : jsonOf(v);
		return document !== null && typeof document === 'object' && !Array.isArray(document)
			? (document as Record<string, unknown>)
			: undefined;
	});
	if (present.length === 0 || documents.filter((d) => d !== undefined).length < present.length * MOSTLY) return [[...values]];
	const names = [...new Set(documents.flatMap((d) => Object.keys(d ?? {})))].slice(0, MOST_WORDS);
	const plain = (v: unknown): Value | undefined => (typeof v === 'string' || typeof v === 'number' ? v : undefined);
	return names.map((name) => documents.map((d) => plain(d?.[name])));
}

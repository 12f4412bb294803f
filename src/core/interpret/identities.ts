/** Persons under one name, whether the key of a row, a key that leads there, or a number or address of theirs names them. */
import { addressShare } from './columns';
import type { Context } from './context';
import { isPath } from './files';
import { normalAddress } from './people';
import { keyOf, type Key, type Reference } from './refs';
import { cell, isOwnNumber, type Sheet, type SheetColumn } from './sheet';
import { isNamed } from './threads';

/** What a value that names somebody is known by. */
export type Naming = (value: string | number) => string;

const PERSONS_AT_MOST = 20_000;
/** Share of a list's addresses that must be there once. */
const ONE_EACH = 0.9;

/** Share of a column's values that must be those of a key. */
const MOSTLY = 0.9;
/** How surely a key is that of persons: names and addresses of their own speak for them. */
const asPersons = ({ key: { sheet }, confidence }: Reference): number =>
	confidence + (isNamed(sheet) ? PERSONS : 0) + (sheet.columns.some((c) => addressShare(c) > 0.6) ? PERSONS : 0);
const PERSONS = 0.15;
/** Numbers one after the other. */
export const NUMBERS = /^\d{1,15}(?:[ ,;|]\d{1,15})*$/;

/** The numbers in a column's values, where some list several: of what they name the values themselves say less. */
function numbersListed({ profile }: SheetColumn): Set<number> | null {
	const values = [...profile.distinct.keys()].map(String);
	if (profile.many || !values.every((v) => NUMBERS.test(v)) || values.every((v) => /^\d+$/.test(v))) return null;
	return new Set(values.flatMap((v) => v.split(/\D/).map(Number)));
}

const areAmong = (numbers: ReadonlySet<number>, { values }: Key): boolean => [...numbers].every((n) => values.has(n));

export class Identities {
	private readonly names = new Map<string, string>();
	private readonly keys = new Map<Key, number>();
	private readonly byKeys = new Map<Key, Naming>();
	private readonly ofColumns = new Map<SheetColumn, Key[]>();
	private readonly references: Context['references'];
	readonly byAddress: Naming = (value) => this.find(`a:${normalAddress(String(value))}`);

	constructor({ sheets, keys, references, tables }: Context) {
		this.references = references;
		// Files have names as well.
		const areFiles = (s: Sheet): boolean => s.columns.some((c) => isPath(c) || c.profile.mime > 0.5);
		// An address that comes again is that of somebody who is met there, and not listed.
		const isOwn = (c: SheetColumn): boolean =>
			c.column >= 0 && addressShare(c) > 0.6 && c.profile.distinct.size >= c.profile.filled * ONE_EACH;
		const listed = sheets.filter((s) => s.rows.length <= PERSONS_AT_MOST && (isNamed(s) || s.columns.some(isOwn)) && !areFiles(s));
		for (const key of keys) if (listed.includes(key.sheet)) this.keys.set(key, this.keys.size);
		for (const sheet of listed) {
			const own = keys.filter((k) => k.sheet === sheet);
			const addresses = sheet.columns.filter(isOwn);
			// Whose each is; the kinds of numbers are few.
			const isWhose = ({ from, key }: Reference): boolean =>
				this.keys.has(key) &&
				isNamed(key.sheet) &&
				!isOwnNumber(from, sheet, tables) &&
				from.profile.distinct.size * 2 > from.profile.filled;
			const onward = addresses.length > 0 ? (references.get(sheet) ?? []).filter(isWhose).slice(0, 1) : [];
			for (const row of sheet.rows) {
				if (row.standing !== 'kept') continue;
				const called = [
					...own.map((k) => this.called(k, k.column ? keyOf(cell(row, k.column, tables)) : keyOf(row.rowid))),
					...onward.map((r) => this.called(r.key, keyOf(cell(row, r.from, tables)))),
					...addresses.map((c) => cell(row, c, tables)).map((v) => (typeof v === 'string' && v !== '' ? `a:${normalAddress(v)}` : null))
				].filter((one) => one !== null);
				for (const one of called.slice(1)) this.join(called[0]!, one);
			}
		}
	}

	/** The keys of persons that a column names, the surest first. */
	keysBy(sheet: Sheet, column: SheetColumn): Key[] {
		const known = this.ofColumns.get(column);
		if (known) return known;
		const listed = numbersListed(column);
		const found = (this.references.get(sheet) ?? [])
			.filter((r) => r.from === column && (r.inclusion >= MOSTLY || (listed && areAmong(listed, r.key))) && this.keys.has(r.key))
			.sort((a, b) => asPersons(b) - asPersons(a))
			.map((r) => r.key);
		this.ofColumns.set(column, found);
		return found;
	}

	by(key: Key): Naming {
		const known = this.byKeys.get(key) ?? ((value): string => this.find(this.called(key, value)!));
		this.byKeys.set(key, known);
		return known;
	}

	private called(key: Key, value: string | number | null): string | null {
		return value === null ? null : `${this.keys.get(key)}:${value}`;
	}

	private find(name: string): string {
		let at = name;
		for (let next = this.names.get(at); next !== undefined && next !== at; next = this.names.get(at)) at = next;
		return at;
	}

	private join(a: string, b: string): void {
		const [one, other] = [this.find(a), this.find(b)];
		if (one !== other) this.names.set(other, one);
	}
}

const KNOWN = new WeakMap<Context['keys'], Identities>();

export function identitiesOf(context: Context): Identities {
	const known = KNOWN.get(context.keys) ?? new Identities(context);
	KNOWN.set(context.keys, known);
	return known;
}

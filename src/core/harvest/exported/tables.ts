/** Items as tables, so that interpretation reads them like any store's: a table for each sort of list, joined by number. */
import type { Table, Value } from '../../model';
import { plainTable } from '../plain-table';
import type { Item } from './items';
import { withoutWrappers } from './wrappers';
import { withoutNameEnd } from './heads';
import { addListedEnds } from './listed-ends';
import { isAddressAlone, nameAndAddress } from './name-and-address';
import { partKinds } from './kinds-apart';
import { namePersons } from './named-persons';
import { namePersonsByPlace } from './persons-by-place';
import {
	dateHeading,
	findStamp,
	findTime,
	plainLine,
	readDates,
	stampTime,
	wordBefore,
	type DateOrder,
	type DateReading,
	type Stamp
} from './stamps';

export interface ItemTable {
	table: Table;
	rows: { values: (Value | undefined)[]; from: number; to: number }[];
	/** Columns of dates whose order had to be decided, with what decided it. */
	dates: { column: string; reading: DateReading }[];
}

interface Loose {
	name: string;
	/** The list in whose items these stand. */
	inside: string | null;
	items: { item: Item; parent: number }[];
}

const MOST_COLUMNS = 300;

/** `usual`: see `readDates`. */
export function tablesOf(root: Item, usual?: DateOrder): ItemTable[] {
	withoutWrappers(root);
	partKinds(root);
	const found = new Map<string, Loose>();
	const collect = (item: Item, path: string | null, number: number): void => {
		for (const [name, items] of item.lists) {
			const own = path === null ? name : `${path}.${name}`;
			let loose = found.get(own);
			if (!loose) found.set(own, (loose = { name: own, inside: path, items: [] }));
			for (const one of items) {
				loose.items.push({ item: one, parent: number });
				collect(one, own, loose.items.length);
			}
		}
	};
	collect(root, null, 0);
	if (root.fields.size > 0) found.set('(file)', { name: '(file)', inside: null, items: [{ item: root, parent: 0 }] });
	namePersons([...found.values()]);
	namePersonsByPlace([...found.values()]);
	return [...found.values()].map((loose) => tableOf(loose, usual));
}

function tableOf(loose: Loose, usual: DateOrder | undefined): ItemTable {
	const names = new Set<string>();
	for (const { item } of loose.items) for (const name of item.fields.keys()) if (names.size < MOST_COLUMNS) names.add(name);
	const columns = [...names];
	const values = loose.items.map(({ item }) => columns.map((c) => item.fields.get(c)));
	columns.forEach((name, i) => {
		// What somebody wrote in digits is no number.
		if (SAID.test(name)) return;
		if (isSmallWhole(values.map((v) => v[i])) || isReal(values.map((v) => v[i])))
			for (const v of values) v[i] = v[i] === undefined || v[i] === '' ? v[i] : Number(v[i]);
	});
	const dates = addTimes(columns, values, usual);
	splitAddresses(columns, values);
	addListedEnds(columns, values);
	if (loose.inside !== null) {
		columns.push(`in ${loose.inside}`);
		loose.items.forEach(({ parent }, i) => values[i]!.push(parent));
	}
	const table = plainTable(0, loose.name, columns);
	if (loose.inside !== null) table.columns.at(-1)!.references = loose.inside;
	return { table, rows: loose.items.map(({ item }, i) => ({ values: values[i]!, from: item.from, to: item.to })), dates };
}

const SAID = /(?:^|\.)(?:text|body|message|msg|content|caption)$/i;

/** Whole numbers written as texts, too short to be telephone numbers. */
function isSmallWhole(values: readonly (Value | undefined)[]): boolean {
	const filled = values.filter((v) => v !== undefined && v !== null && v !== '');
	return filled.length > 0 && filled.every((v) => typeof v === 'string' && /^(0|-?[1-9]\d{0,8})$/.test(v));
}

/** Fractions written as texts, too large to be a date or a time of day with a full stop in it. */
function isReal(values: readonly (Value | undefined)[]): boolean {
	const filled = values.filter((v) => v !== undefined && v !== null && v !== '');
	return filled.some((v) => String(v).includes('.')) && filled.every((v) => typeof v === 'string' && /^-?[1-9]\d{4,12}(?:\.\d+)?$/.test(v));
}

const MOSTLY = 0.9;
/** Written so already that nothing has to be decided. */
const ISO = /^\s*\d{4}-\d{2}-\d{2}[T ]\d{1,2}:[\d:.,]*\s?(?:Z|UTC|[+-]\d\d(?::?\d\d)?)?\s*$/;
/** What stands between a date and a name in one value. */
const AROUND = /^[\s:,;|·–—()[\]-]+|[\s:,;|·–—()[\]-]+$/gu;
/** Distinct values among so many, up to which they come back. */
const COMES_BACK = 0.6;

/** Columns of national dates get one beside them in ISO 8601, the order of day and month decided over the whole column. */
function addTimes(columns: string[], values: (Value | undefined)[][], usual: DateOrder | undefined): ItemTable['dates'] {
	const out: ItemTable['dates'] = [];
	const count = columns.length;
	const texts = (i: number): string[] => values.map((v) => (typeof v[i] === 'string' ? plainLine(v[i]) : ''));
	const whole = (text: string, s: { from: number; to: number } | null): boolean =>
		s !== null && text.slice(0, s.from).trim() === '' && text.slice(s.to).trim() === '';
	const timesAlone: number[] = [];
	const datesAlone: number[] = [];
	for (let i = 0; i < count; i++) {
		const all = texts(i);
		const filled = all.filter((t) => t.trim() !== '');
		if (filled.length === 0 || filled.every((t) => ISO.test(t)) || filled.some((t) => t.length > 80)) continue;
		const stamps = all.map((t) => {
			const s = findStamp(t);
			return whole(t, s) ? s : null;
		});
		if (stamps.filter((s) => s !== null).length >= filled.length * MOSTLY) {
			add(columns, values, columns[i]!, stamps, out, usual);
			continue;
		}
		if (takeApart(columns, values, i, all, out, usual)) continue;
		const days = filled.flatMap((t) => dateHeading(t) ?? []);
		// Times of day with points between look like dates that cannot be.
		if (days.length >= filled.length * MOSTLY && readDates(days)) datesAlone.push(i);
		if (filled.filter((t) => whole(t, findTime(t))).length >= filled.length * MOSTLY) timesAlone.push(i);
	}
	// Of what can be either the one that cannot be the other decides.
	const day = datesAlone.find((i) => !timesAlone.includes(i)) ?? datesAlone[0];
	const clock = timesAlone.find((i) => !datesAlone.includes(i)) ?? timesAlone.find((i) => i !== day);
	if (out.length === 0 && day !== undefined && clock !== undefined) {
		const d = texts(day);
		const t = texts(clock);
		const stamps = d.map((date, k): Stamp | null => {
			const heading = dateHeading(date);
			const time = findTime(t[k]!);
			return heading && time ? { ...heading, written: `${date} ${t[k]}`, time: time.time } : null;
		});
		add(columns, values, `${columns[day]} and ${columns[clock]}`, stamps, out, usual);
	}
	return out;
}

/** A column of dates with a name before or behind each becomes two, where the names come back. */
function takeApart(
	columns: string[],
	values: (Value | undefined)[][],
	i: number,
	all: readonly string[],
	out: ItemTable['dates'],
	usual: DateOrder | undefined
): boolean {
	const stamps = withoutNames(all.map((t) => findStamp(t)));
	const rests = all.map((t, k) => (stamps[k] ? (t.slice(0, stamps[k].from) + t.slice(stamps[k].to)).replace(AROUND, '') : ''));
	const filled = rests.filter((r) => /\p{L}{2}|\d{6}/u.test(r));
	if (filled.length < all.filter((t) => t.trim() !== '').length * MOSTLY || filled.length < 2) return false;
	if (new Set(filled).size > Math.max(2, filled.length * COMES_BACK)) return false;
	const name = columns[i]!;
	columns.push(`${name} (name)`);
	values.forEach((v, k) => {
		v.push(rests[k] || undefined);
		if (stamps[k]) v[i] = stamps[k].written;
	});
	add(columns, values, name, stamps, out, usual);
	return true;
}

/** Stamps without the short names, or the ends of names, that begin them: one word for all of them leads to the dates, and is none. */
function withoutNames(stamps: readonly (Stamp | null)[]): (Stamp | null)[] {
	const letters = stamps.map((s) => (s?.from === 0 ? wordBefore(s.written) : 0));
	const words = new Set(stamps.map((s, i) => s?.written.slice(0, letters[i])));
	const forms = new Set(stamps.map((s) => s?.form ?? ''));
	return stamps.map((s, i) => {
		if (s === null) return null;
		return words.size < 2 || letters[i] === 0
			? withoutNameEnd(s, forms)
			: { ...s, from: s.from + letters[i]!, written: s.written.slice(letters[i]) };
	});
}

/** Share of the values that must be written so. */
const WRITTEN_SO = 0.4;

/** Where persons are written with name and address, the address stays and the name stands beside it. */
function splitAddresses(columns: string[], values: (Value | undefined)[][]): void {
	const count = columns.length;
	for (let i = 0; i < count; i++) {
		const filled = values.filter((v) => typeof v[i] === 'string' && v[i] !== '');
		const split = filled.map((v) => nameAndAddress(v[i] as string));
		const both = split.filter((m) => m !== null).length;
		// Of whom no name is known the address stands alone.
		const isMeant = both >= filled.length * WRITTEN_SO || filled.every((v, k) => split[k] !== null || isAddressAlone(v[i] as string));
		if (both < 2 || !isMeant) continue;
		columns.push(`${columns[i]} (name)`);
		const parts = new Map(filled.map((v, k) => [v, split[k]]));
		for (const v of values) {
			const both = parts.get(v);
			v.push(both?.name);
			if (both) v[i] = both.address;
		}
	}
}

function add(
	columns: string[],
	values: (Value | undefined)[][],
	name: string,
	stamps: (Stamp | null)[],
	out: ItemTable['dates'],
	usual: DateOrder | undefined
): void {
	const reading = readDates(
		stamps.filter((s) => s !== null),
		usual
	);
	if (!reading) return;
	columns.push(`${name} (date)`);
	values.forEach((v, k) => {
		const stamp = stamps[k];
		const at = stamp ? stampTime(stamp, reading) : null;
		v.push(at === null ? null : new Date(at).toISOString().slice(0, stamp!.zone === null ? 23 : 24));
	});
	out.push({ column: name, reading });
}
